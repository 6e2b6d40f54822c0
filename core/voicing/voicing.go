// Package voicing finds ways to play a chord that is given by name, says what
// each keeps, loses and adds, and chooses voicings for a progression together.
package voicing

import (
	"cmp"
	"fmt"
	"maps"
	"math/bits"
	"slices"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// School is an idea of what may stand for a chord.
type School string

// The schools of voicing.
const (
	Letter School = "letter" // the power chord of its letter
	Third  School = "third"  // root and third, no fifth
	Drone  School = "drone"  // a moved power chord below open strings
	Few    School = "few"    // three strings, or one finger
	Open   School = "open"   // open strings and the first four frets
	All    School = "all"    // all of these, and every other voicing
)

// Schools lists the schools.
var Schools = []School{Letter, Third, Drone, Few, Open, All}

// ParseSchool reads the name of a school.
func ParseSchool(s string) (School, error) {
	for _, school := range Schools {
		if string(school) == s {
			return school, nil
		}
	}
	return "", fmt.Errorf("%q is not a school; use letter, third, drone, few, open or all", s)
}

// Title is what the school is called on a page.
func (s School) Title() string {
	return map[School]string{Letter: "Letter only", Third: "Keep the third", Drone: "Drone", Few: "Few strings", Open: "Open shapes", All: "All"}[s]
}

// Voicing is a way to play a chord, and what it does to it.
type Voicing struct {
	hand.Fingering
	School   School
	Hold     float64      // the demand of holding it
	Ease     float64      // 0 to 1: 1 is an open string
	Fidelity float64      // 0 to 1: how much of the harmony remains
	Kept     []string     // degrees that sound
	Lost     []string     // degrees that do not
	Doubled  []string     // degrees that sound more than once
	Added    []pitch.Note // notes that are not the chord's
	Is       string       // its honest name
	Bass     pitch.Note   // what sounds lowest
	Circle   int          // the root's string, for letter-only shapes
	Warnings []string
	// Dominated tells that another voicing is at least as easy and keeps at
	// least as much.
	Dominated bool
	classes   uint16 // what sounds: bit n is the pitch class n
}

// Config says for whom and how voicings are looked for. The zero Config looks
// for all schools in standard tuning for a usual player.
type Config struct {
	Tuning neck.Tuning // counted from the capo; the zero Tuning is standard
	Player hand.Player
	School School     // empty means All
	Key    pitch.Key  // spells what is added
	Sung   pitch.Note // a note that somebody else sounds; it completes the chord
	// Low and High bound the fretted notes; a High of 0 does not.
	Low, High int
	// Max is how many are described; 0 describes the whole front of ease and
	// fidelity. Dominated asks for those as well that another one beats.
	Max       int
	Dominated bool
}

func (c Config) usual() Config {
	if c.Tuning == (neck.Tuning{}) {
		c.Tuning = neck.Standard
	}
	if c.School == "" {
		c.School = All
	}
	c.Player = c.Player.Usual()
	return c
}

// Find lists the voicings of a chord, the best first: by ease and by how much
// of the harmony remains, each given its due.
func Find(c chord.Chord, cfg Config) []Voicing { return new(Book).Find(c, cfg) }

// Find is like the function Find, and remembers what it has worked out.
func (b *Book) Find(c chord.Chord, cfg Config) []Voicing {
	cfg = cfg.usual()
	f := finder{chord: c, cfg: cfg}
	list := f.candidates(b, !cfg.Dominated)
	front(list)
	if !cfg.Dominated {
		list = slices.DeleteFunc(list, func(v Voicing) bool { return v.Dominated })
	}
	slices.SortStableFunc(list, func(a, b Voicing) int { return cmp.Compare(b.score(), a.score()) })
	if cfg.Max > 0 {
		list = list[:min(cfg.Max, len(list))]
	}
	for i := range list {
		f.describe(&list[i])
	}
	return list
}

// Describe says of any shape what it is for a chord; ok is false where the
// player cannot hold it.
func Describe(c chord.Chord, cfg Config, frets neck.Frets) (v Voicing, ok bool) {
	f := finder{chord: c, cfg: cfg.usual()}
	if v, ok = f.measure(frets, All); ok {
		f.describe(&v)
	}
	return v, ok
}

// score weighs ease and fidelity against one another.
func (v *Voicing) score() float64 { return v.Ease * v.Fidelity }

// finder looks for the voicings of one chord.
type finder struct {
	chord chord.Chord
	cfg   Config
}

// candidates lists the voicings of the school that is asked for, not described
// yet, each shape once. Where only their front is wanted, most of those that
// cannot be on it are left out.
func (f *finder) candidates(b *Book, frontOnly bool) []Voicing {
	var list []Voicing
	easiest := map[float64]float64{} // by fidelity
	school := f.cfg.School
	if school == Letter || school == All {
		list = append(list, f.letter()...)
	}
	if school == Third || school == All {
		list = append(list, f.third()...)
	}
	if school == Drone || school == All {
		list = append(list, f.drone()...)
	}
	few := len(list)
	if school == Few || school == Open || school == All {
		k := rooted
		if school == Few { // without its root, somebody else has to play it
			k = whole
		}
		shapes := b.shapes(f.chord, f.cfg.Tuning, f.cfg.Player, k)
		if !frontOnly {
			list = slices.Grow(list, len(shapes))
		}
		for _, s := range shapes {
			of := f.schoolOf(s)
			if school == Open && !f.isOpen(s) || school == Few && !isFew(s.Fingering) {
				continue
			}
			if school != All {
				of = school
			}
			v := f.voicing(s.Fingering, of, s.hold)
			if frontOnly {
				if v.Ease < easiest[v.Fidelity] || !f.inRegion(v.Fingering) {
					continue
				}
				easiest[v.Fidelity] = v.Ease
			}
			list = append(list, v)
		}
	}
	seen := map[neck.Frets]bool{}
	kept := list[:0]
	for i, v := range list {
		if seen[v.Frets] || !f.inRegion(v.Fingering) {
			continue
		}
		if i < few { // the full voicings differ from one another
			seen[v.Frets] = true
		}
		kept = append(kept, v)
	}
	return kept
}

func (f *finder) inRegion(g hand.Fingering) bool {
	if f.cfg.High == 0 {
		return true
	}
	for _, fret := range g.Frets {
		if fret > 0 && (int(fret) < f.cfg.Low || int(fret) > f.cfg.High) {
			return false
		}
	}
	return true
}

// isFew tells whether a full voicing is one of few strings or one finger.
func isFew(f hand.Fingering) bool { return f.Sounding() == 3 || f.Count() <= 1 }

// isOpen tells whether a full voicing is an open shape: on its bass, with an
// open string, no fret above the fourth, none silent between, and at least four strings (all that a
// power chord has).
func (f *finder) isOpen(s shape) bool {
	open := false
	for _, fret := range s.Frets {
		open = open || fret == 0
		if fret > 4 {
			return false
		}
	}
	return open && s.Inside() == 0 && s.bass == f.chord.Lowest().Class() && s.Sounding() >= min(4, len(f.chord.Tones)+1)
}

// schoolOf is the school that a full voicing is shown under.
func (f *finder) schoolOf(s shape) School {
	switch {
	case f.isOpen(s):
		return Open
	case isFew(s.Fingering):
		return Few
	}
	return All
}

// voicing measures a shape.
func (f *finder) voicing(g hand.Fingering, s School, hold float64) Voicing {
	v := Voicing{Fingering: g, School: s, Hold: hold, Ease: ease(g, hold)}
	v.classes = classesOf(g.Frets, f.cfg.Tuning)
	v.Fidelity = f.fidelity(v.classes, f.lowest(g))
	return v
}

// ease is 1 for an open string and falls with the demand of holding a shape,
// and a little with its place: high frets on thick strings are far to find.
func ease(g hand.Fingering, hold float64) float64 {
	return 1 / (1 + hold + place(g))
}

// measure is voicing for a shape whose fingers have not been found; ok is
// false where the player cannot hold it.
func (f *finder) measure(frets neck.Frets, s School) (v Voicing, ok bool) {
	g, hold, ok := grade.Easiest(frets, f.cfg.Player)
	if !ok {
		return Voicing{}, false
	}
	return f.voicing(g, s, hold), true
}

// classesOf lists the pitch classes of a shape.
func classesOf(frets neck.Frets, t neck.Tuning) (classes uint16) {
	for i, fret := range frets {
		if fret >= 0 {
			classes |= 1 << t.Pitch(neck.StringAt(i), int(fret)).Class()
		}
	}
	return classes
}

// lowest is the pitch class that sounds lowest, whichever string has it.
func (f *finder) lowest(g hand.Fingering) int {
	low := pitch.Pitch(1000)
	for i, fret := range g.Frets {
		if fret >= 0 {
			low = min(low, f.cfg.Tuning.Pitch(neck.StringAt(i), int(fret)))
		}
	}
	return low.Class()
}

// What a lost tone takes from a chord, what another bass does, and what an
// added note does by how it clashes.
const (
	losesThird   = 0.4
	losesSeventh = 0.25
	losesAltered = 0.3
	losesFifth   = 0.06
	losesRoot    = 0.35
	losesTension = 0.12
	turnsBass    = 0.12
	turnsToFifth = 0.06
	turnsPower   = 0.25
	losesBass    = 0.15 // that a slash names
	clashes      = 0.3  // a half step from a tone of the chord
	rubs         = 0.12
	joins        = 0.07
	contradicts  = 0.6 // a third or a fifth that says another chord
)

// fidelity is how much of the harmony remains: 1 where everything does.
func (f *finder) fidelity(classes uint16, bass int) float64 {
	root := f.chord.Root.Class()
	if f.cfg.Sung.Valid() {
		classes |= 1 << f.cfg.Sung.Class()
	}
	left := 1.0
	tones := uint16(0)
	for _, t := range f.chord.Tones {
		class := (root + t.Semitones) % 12
		tones |= 1 << class
		if classes&(1<<class) == 0 {
			left -= lost(t)
		}
	}
	if named := f.chord.Bass; named.Valid() {
		tones |= 1 << named.Class()
		if bass != named.Class() {
			left -= losesBass
		}
	} else if bass != root && classes&(1<<root) != 0 {
		switch {
		case len(f.chord.Tones) == 2:
			left -= turnsPower // a fourth is heard from its upper note
		case (bass-root+12)%12 == 7:
			left -= turnsToFifth
		default:
			left -= turnsBass
		}
	}
	for added := classes &^ tones; added != 0; added &= added - 1 {
		class := bits.TrailingZeros16(added)
		switch above := (class - root + 12) % 12; {
		case (above == 3 || above == 4) && (tones&(1<<((root+3)%12))|tones&(1<<((root+4)%12))) != 0,
			above == 7 && f.hasAlteredFifth():
			left -= contradicts
		case tones&(1<<((class+1)%12)|1<<((class+11)%12)) != 0:
			left -= clashes
		case tones&(1<<((class+2)%12)|1<<((class+10)%12)) != 0:
			left -= rubs
		default:
			left -= joins
		}
	}
	return max(left, 0)
}

func (f *finder) hasAlteredFifth() bool {
	_, altered := f.chord.Fifth()
	return altered
}

// lost is what a chord loses with a tone.
func lost(t chord.Tone) float64 {
	switch t.Degree {
	case "1":
		return losesRoot
	case "3", "b3", "4", "2":
		return losesThird
	case "7", "b7", "bb7", "6":
		return losesSeventh
	case "5":
		return losesFifth
	case "b5", "#5":
		return losesAltered
	}
	return losesTension
}

// front marks what another voicing dominates: one that is as easy and keeps as
// much, and one of the two more.
func front(list []Voicing) {
	easiest := map[float64]float64{} // by fidelity, of which there are few
	for i := range list {
		v := &list[i]
		easiest[v.Fidelity] = max(easiest[v.Fidelity], v.Ease)
	}
	beaten := map[float64]float64{} // the ease of those that keep more
	best := -1.0
	for _, fidelity := range slices.Backward(slices.Sorted(maps.Keys(easiest))) {
		beaten[fidelity] = best
		best = max(best, easiest[fidelity])
	}
	for i := range list {
		v := &list[i]
		v.Dominated = v.Ease < easiest[v.Fidelity] || v.Ease <= beaten[v.Fidelity]
	}
}

// describe says what a voicing does to the chord.
func (f *finder) describe(v *Voicing) {
	root := f.chord.Root.Class()
	counts := [12]int{}
	for i, fret := range v.Frets {
		if fret >= 0 {
			counts[f.cfg.Tuning.Pitch(neck.StringAt(i), int(fret)).Class()]++
		}
	}
	v.Kept, v.Lost, v.Doubled, v.Added = []string{}, []string{}, []string{}, []pitch.Note{}
	spelled := map[int]pitch.Note{}
	for _, t := range f.chord.Tones {
		class := (root + t.Semitones) % 12
		spelled[class] = t.Note
		switch n := counts[class]; {
		case n == 0 && f.cfg.Sung.Valid() && f.cfg.Sung.Class() == class:
			v.Warnings = append(v.Warnings, fmt.Sprintf("its %s is the %s that is sung", t.Degree, t.Note))
			v.Kept = append(v.Kept, t.Degree)
		case n == 0:
			v.Lost = append(v.Lost, t.Degree)
		default:
			v.Kept = append(v.Kept, t.Degree)
			if n > 1 {
				v.Doubled = append(v.Doubled, t.Degree)
			}
		}
	}
	if b := f.chord.Bass; b.Valid() {
		spelled[b.Class()] = b
	}
	spell := func(class int) pitch.Note {
		if n, ok := spelled[class]; ok {
			return n
		}
		if f.cfg.Key.Valid() {
			return f.cfg.Key.SpellClass(class)
		}
		return pitch.Key{Tonic: f.chord.Root, Mode: pitch.Mixolydian}.SpellClass(class)
	}
	for above := range 12 {
		class := (root + above) % 12
		if _, known := spelled[class]; !known && counts[class] > 0 {
			v.Added = append(v.Added, spell(class))
		}
	}
	bass := f.lowest(v.Fingering)
	v.Bass = spell(bass)
	v.Is = f.honest(v, bass)
	f.warn(v, bass)
}

// ownName is how much further fetched than the best a name may be that keeps
// the root of the chord.
const ownName = 2

// honest is the name of what sounds: the chord's own where it has lost nothing
// that matters, or else the best there is.
func (f *finder) honest(v *Voicing, bass int) string {
	plain := len(v.Added) == 0 && bass == f.chord.Lowest().Class()
	for _, d := range v.Lost {
		plain = plain && d == "5" && len(f.chord.Tones) > 3
	}
	if plain {
		return f.chord.Symbol
	}
	if len(v.Lost) == 0 && len(v.Added) == 0 { // only the bass is another
		c := f.chord
		c.Bass = v.Bass
		return c.Canonical()
	}
	if bits.OnesCount16(v.classes) == 1 {
		return v.Bass.String() + " alone"
	}
	names := chord.Names(v.classes, bass, f.cfg.Key)
	root := f.chord.Root.Class()
	for _, n := range names[:min(3, len(names))] {
		if n.Root.Class() == root && n.Cost <= names[0].Cost+ownName {
			return f.chord.Root.String() + strings.TrimPrefix(n.Name, n.Root.String()) + without(n)
		}
	}
	return names[0].Name + without(names[0])
}

// without says which tones of a name do not sound.
func without(n chord.Name) string {
	if len(n.Missing) == 0 {
		return ""
	}
	return " without " + strings.Join(n.Missing, " ")
}

// warn says where a voicing contradicts its chord, or leans on others.
func (f *finder) warn(v *Voicing, bass int) {
	say := func(format string, a ...any) { v.Warnings = append(v.Warnings, fmt.Sprintf(format, a...)) }
	root := f.chord.Root.Class()
	sounds := func(semitones int) bool { return v.classes&(1<<((root+semitones)%12)) != 0 }
	if fifth, altered := f.chord.Fifth(); altered && sounds(7) && !f.chord.Has(7) {
		say("its plain fifth contradicts the %s of %s", map[int]string{6: "flat fifth", 8: "sharp fifth"}[fifth], f.chord)
	}
	if f.chord.Has(3) && !f.chord.Has(4) && sounds(4) {
		say("its major third contradicts %s", f.chord)
	}
	if f.chord.Has(4) && !f.chord.Has(3) && sounds(3) {
		say("its minor third contradicts %s", f.chord)
	}
	if !sounds(0) {
		say("without its root: it is %s only where the bass plays %s", f.chord, f.chord.Root)
	}
	if named := f.chord.Bass; named.Valid() && bass != named.Class() {
		say("the bass is %s, not the %s that is named", v.Bass, named)
	} else if !named.Valid() && bass != root && sounds(0) {
		say("the bass is %s instead of %s", v.Bass, f.chord.Root)
	}
}
