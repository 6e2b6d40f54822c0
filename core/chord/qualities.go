package chord

import (
	"slices"
	"strings"

	"valleyside/core/pitch"
)

// common lists the qualities that have a usual name, as it is written after
// the root, the plainest spelling of each, plain chords before rich ones. It
// is what shapes are named with and how symbols are written back.
var common = strings.Fields(`
	maj m dim aug 5 sus4 sus2
	6 m6 7 maj7 m7 m(maj7) dim7 m7b5 aug7 maj7#5 maj7b5 7b5
	add9 madd9 6/9 m6/9 9 maj9 m9 m(maj9) 7sus4 9sus4 7sus2
	7b9 7#9 7#11 7b13 maj7#11 9#11 9b5 9#5 maj9#11 m9b5 maj9#5
	11 m11 maj11 13 maj13 m13 13sus4 7b9sus4 13b9 13#9 13#11 maj13#11
	7b5b9 7b5#9 7#5b9 7#5#9 7b9#11 7b9b13 7#9#11 7#9b13 7#9b9 7alt
`)

// rare lists qualities that have a name and are seldom meant.
var rare = strings.Fields(`
	add11 madd11 add#11 addb9 maddb9 addb13 maddb13 sus4add9 6sus4 6sus2 m7add11 7add13 m7add13 maj7add13 7add11
	mb6 dimadd9 dim(maj7) dim9 augadd9 sus2add#11 5add9 5addb9 13b9#11 m7b9
`)

// Quality is a kind of chord without its root.
type Quality struct {
	Suffix string // after the root; empty for a major triad
	tones  []Tone // on C
	mask   uint16 // bit n: a tone n semitones above the root
	rare   bool
	cost   float64 // of the name by itself
	worth  [12]float64
}

var qualities = func() []Quality {
	var list []Quality
	for i, suffix := range slices.Concat(common, rare) {
		if suffix == "maj" {
			suffix = ""
		}
		c, err := Parse("C" + suffix)
		if err != nil {
			panic(err)
		}
		q := Quality{Suffix: suffix, tones: c.Tones, mask: c.mask(), rare: i >= len(common)}
		q.weigh()
		list = append(list, q)
	}
	return list
}()

// byDegrees finds the suffix of tones by their degrees.
var byDegrees = func() map[string]string {
	m := map[string]string{}
	for _, q := range qualities {
		key := degreesOf(q.tones)
		if _, known := m[key]; !known {
			m[key] = q.Suffix
		}
	}
	return m
}()

// Qualities lists the suffixes of all qualities that have a usual name, the
// plainest first.
func Qualities() []string {
	list := make([]string, len(qualities))
	for i, q := range qualities {
		list[i] = q.Suffix
	}
	return list
}

func degreesOf(tones []Tone) string {
	var parts []string
	for _, t := range tones {
		parts = append(parts, t.Degree)
	}
	return strings.Join(parts, " ")
}

func (c Chord) mask() (mask uint16) {
	for _, t := range c.Tones {
		mask |= 1 << t.Semitones
	}
	return mask
}

// Canonical writes the chord in its plainest usual spelling: another way to
// type what Parse has read gives the same tones and bass. Tones that no usual
// name covers are written out one by one.
func (c Chord) Canonical() string {
	suffix, ok := byDegrees[degreesOf(c.Tones)]
	if !ok {
		suffix = spellOut(c.Tones)
	}
	s := c.Root.String() + suffix
	if c.Bass.Valid() {
		s += "/" + c.Bass.String()
	}
	return s
}

// spellOut writes tones as what has to be taken from, and added to, a major
// triad, a minor triad or a power chord.
func spellOut(tones []Tone) string {
	has := map[string]bool{}
	for _, t := range tones {
		has[t.Degree] = true
	}
	var b strings.Builder
	covered := map[string]bool{"1": true}
	take := func(degree, suffix string) bool {
		if has[degree] && !covered[degree] {
			b.WriteString(suffix)
			covered[degree] = true
			return true
		}
		return false
	}
	third := true
	switch {
	case has["b3"] && !has["3"]:
		take("b3", "m")
	case has["3"]:
		covered["3"] = true
	default:
		third = false
	}
	switch {
	case has["7"]:
		take("7", "(maj7)")
	case has["b7"]:
		take("b7", "7")
	case has["bb7"]:
		take("bb7", "addbb7")
	case has["6"]:
		take("6", "6")
	}
	if has["5"] {
		covered["5"] = true
	}
	sus := false
	if !third {
		sus = take("4", "sus4") || sus
		sus = take("2", "sus2") || sus
	}
	altered := take("b5", "b5")
	altered = take("#5", "#5") || altered
	for _, t := range tones {
		if !covered[t.Degree] {
			take(t.Degree, "add"+t.Degree)
		}
	}
	if !third && !sus {
		b.WriteString("no3")
	}
	if !has["5"] && !altered {
		b.WriteString("no5")
	}
	return b.String()
}

// Transposed is the chord a number of semitones higher, its root spelled by a
// key.
func (c Chord) Transposed(semitones int, key pitch.Key) Chord {
	move := func(n pitch.Note) pitch.Note { return key.SpellClass(n.Class() + semitones) }
	t := Chord{Root: move(c.Root), Tones: make([]Tone, len(c.Tones))}
	for i, tone := range c.Tones {
		t.Tones[i] = Tone{Degree: tone.Degree, Semitones: tone.Semitones, Note: t.Root.Up(degreeNumber(tone.Degree), tone.Semitones)}
	}
	if c.Bass.Valid() {
		t.Bass = move(c.Bass)
	}
	// What was typed after the root stays as it was typed.
	_, rest := pitch.CutNote(c.Symbol)
	if c.Bass.Valid() {
		if i := strings.LastIndex(rest, "/"); i >= 0 {
			rest = rest[:i] + "/" + t.Bass.String()
		}
	}
	t.Symbol = t.Root.String() + rest
	return t
}

// degreeNumber is the number in a degree such as "b9".
func degreeNumber(degree string) int {
	d, _ := cutDegree(strings.TrimLeft(degree, "b#"))
	return d
}
