package lesson

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/voicing"
)

// Known is what a student has learnt: shapes, and techniques.
type Known struct {
	shapes map[shapeKey]bool
	names  map[string]bool // chords by name: who has F has it in whatever shape is called so
	Skills hand.Skills
}

// shapeKey is the same for shapes that the hand takes alike: a shape with open strings
// is itself, one without moves along the neck, and one of up to three strings across it
// as well where its frets stay.
type shapeKey neck.Frets

func keyOf(f neck.Frets) shapeKey {
	lowest, first, strings := 0, -1, 0
	for i, fret := range f {
		if fret < 0 {
			continue
		}
		if first < 0 {
			first = i
		}
		strings++
		if fret == 0 {
			return shapeKey(f)
		}
		if lowest == 0 || int(fret) < lowest {
			lowest = int(fret)
		}
	}
	if strings == 0 {
		return shapeKey(f)
	}
	key := neck.NoFrets
	shift := 0
	if strings <= 3 {
		shift = first
	}
	for i, fret := range f {
		if fret >= 0 {
			key[i-shift] = fret - int8(lowest) + 1
		}
	}
	return shapeKey(key)
}

// covers tells whether all that sounds of a shape is part of one that is known: who has
// a chord has it also where not all of its strings are picked.
func (k Known) covers(f neck.Frets) bool {
	for key := range k.shapes {
		by, fits := int8(0), true
		open := slices.Contains(key[:], 0)
		for i, fret := range f {
			if fret < 0 {
				continue
			}
			d := fret - key[i]
			switch {
			case key[i] < 0 || open && d != 0 || !open && fret == 0:
				fits = false
			case by == 0:
				by = d
			}
			fits = fits && (open || d == by)
		}
		if fits {
			return true
		}
	}
	return false
}

// families are shapes that are known together.
var families = map[string][]string{
	"open chords":    {"x32010", "x02220", "320003", "022100", "xx0232", "x02210", "022000", "xx0231"},
	"seventh chords": {"x02020", "xx0212", "020100", "x21202", "320001", "x32310", "x02010", "022030", "xx0211"},
	"power chords":   {"133xxx", "13xxxx", "xx13xx", "xx134x", "xxx14x", "xxx144", "022xxx", "02xxxx", "x022xx", "x02xxx", "xx023x", "xx02xx"},
	"barre chords":   {"133211", "133111", "131211", "131111", "x13331", "x1333x", "x13321", "x13131", "x13121"},
	"octaves":        {"1x3xxx", "x1x3xx", "xx1x4x", "xxx1x4"},
}

// Families lists the names of shapes that are known together.
func Families() []string {
	var names []string
	for name := range families {
		names = append(names, name)
	}
	slices.Sort(names)
	return names
}

// ParseKnown reads what a student has, with commas between: names of chords, whose usual
// shape is meant; shapes such as x32010; families of shapes; techniques.
func ParseKnown(text string) (Known, error) {
	k := Known{shapes: map[shapeKey]bool{}, names: map[string]bool{}}
	for _, word := range strings.Split(text, ",") {
		word = strings.TrimSpace(word)
		if word == "" {
			continue
		}
		if family := familyOf(word); family != "" {
			k.add(family)
			continue
		}
		if skill, err := hand.ParseSkills(strings.ToLower(word)); err == nil {
			k.Skills |= skill
			continue
		}
		if f, err := neck.ParseFrets(word); err == nil {
			k.shapes[keyOf(f)] = true
			continue
		}
		c, err := chord.Parse(word)
		if err != nil {
			return Known{}, fmt.Errorf("%q is neither a chord, a shape such as x32010 nor a technique; shapes that go together are %s, techniques are %s",
				word, strings.Join(Families(), ", "), strings.Join(hand.SkillNames(), ", "))
		}
		k.names[word] = true
		if len(c.Tones) == 2 {
			k.add("power chords") // one of them is all of them
		}
		for _, v := range usualShapes.Usual(c, hand.Player{}.On(neck.Standard, 0), hand.Player{}, 1) {
			k.shapes[keyOf(v.Frets)] = true
		}
	}
	return k, nil
}

// familyOf is the family that a word names, of one of it as well; empty for none.
func familyOf(word string) string {
	word = strings.ToLower(word)
	if _, one, ok := strings.Cut(word, " "); ok && one == "octave" { // as in C octave
		word = one
	}
	for _, name := range []string{word, word + "s"} {
		if _, ok := families[name]; ok {
			return name
		}
	}
	return ""
}

// add adds the shapes of a family.
func (k *Known) add(family string) {
	for _, text := range families[family] {
		f, _ := neck.ParseFrets(text)
		k.shapes[keyOf(f)] = true
	}
	if family == "octaves" {
		k.Skills |= hand.OctaveShapes
	}
}

// usualShapes is shared by all who ask for the shape that a name means.
var usualShapes = new(voicing.Book)

// hasNamed tells whether the usual shape of a chord is known.
func (k Known) hasNamed(name string) bool {
	if len(k.shapes) == 0 {
		return false
	}
	c, err := chord.Parse(name)
	if err != nil || len(c.Tones) < 3 {
		return false
	}
	usual := usualShapes.Usual(c, hand.Player{}.On(neck.Standard, 0), hand.Player{}, 1)
	return len(usual) > 0 && k.Has(usual[0].Frets)
}

// AnyOf tells whether one of the shapes of a family is known.
func (k Known) AnyOf(family string) bool {
	return slices.ContainsFunc(families[family], func(text string) bool {
		f, err := neck.ParseFrets(text)
		return err == nil && k.Has(f)
	})
}

// Has tells whether a shape is known.
func (k Known) Has(f neck.Frets) bool { return k.shapes[keyOf(f)] }

// Touch is something that is added to the notes of a version when they are there.
type Touch uint8

// The touches.
const (
	NoTouch Touch = iota
	PalmMuting
	Stops
	Accents
	HammerOns
	PullOffs
	Slides
	Vibrato
	touches
)

// Touches is a set of them.
type Touches uint16

func (t Touches) has(one Touch) bool { return t&(1<<one) != 0 }

// Any tells whether there is one among them.
func (t Touches) Any() bool { return t != 0 }

// List lists them, what adds most for what it costs first.
func (t Touches) List() (list []Touch) {
	for one := NoTouch + 1; one < touches; one++ {
		if t.has(one) {
			list = append(list, one)
		}
	}
	slices.SortStableFunc(list, func(a, b Touch) int { return cmp.Compare(worth[b], worth[a]) })
	return list
}

// worth is what a touch adds to the sound of a part for what it costs to learn.
var worth = [touches]float64{PalmMuting: 5, Stops: 4, Accents: 3.5, HammerOns: 3, Slides: 2.8, PullOffs: 2.5, Vibrato: 1.5}

// skillOf is what must have been learnt for a touch; stops and accents ask for nothing
// but attention, and are added late by everybody.
var skillOf = [touches]hand.Skills{PalmMuting: hand.PalmMuting, HammerOns: hand.HammerOns, PullOffs: hand.PullOffs, Slides: hand.Slides, Vibrato: hand.Vibrato}
