package chord

import (
	"cmp"
	"maps"
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

// plain are the qualities that are named in any inversion: triads, sevenths,
// sixths and added ninths.
var plain = strings.Fields("maj m dim aug 5 sus4 sus2 6 m6 7 maj7 m7 m(maj7) dim7 m7b5 add9 madd9")

// rare lists qualities that have a name and are seldom meant.
var rare = strings.Fields(`
	add11 madd11 add#11 addb9 maddb9 addb13 maddb13 sus4add9 6sus4 6sus2 m7add11 7add13 m7add13 maj7add13 7add11
	mb6 dimadd9 dim(maj7) dim9 augadd9 sus2add#11 5add9 5addb9 13b9#11 m7b9
`)

// Quality is a kind of chord without its root.
type Quality struct {
	Suffix string    // after the root; empty for a major triad
	tones  []Tone    // on C
	mask   pitch.Set // from the root
	rare   bool
	plain  bool
	cost   float64 // of the name by itself
	worth  [12]float64
}

var qualities = func() []Quality {
	var list []Quality
	for i, suffix := range slices.Concat(common, rare) {
		q := Quality{Suffix: suffix, rare: i >= len(common), plain: slices.Contains(plain, suffix)}
		if suffix == "maj" {
			q.Suffix = ""
		}
		c, err := Parse("C" + q.Suffix)
		if err != nil {
			panic(err)
		}
		q.tones, q.mask = c.Tones, c.Classes()
		q.weigh()
		list = append(list, q)
	}
	return list
}()

// sevenths are the plain seventh and sixth chords, from their root. They are not
// taken for a triad over a foreign bass.
var sevenths = func() map[pitch.Set]bool {
	m := map[pitch.Set]bool{}
	for _, q := range qualities {
		if q.plain && len(q.tones) == 4 && q.tones[3].Degree.IsSeventh() {
			m[q.mask] = true
		}
	}
	return m
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

func degreesOf(tones []Tone) string {
	list := make([]Degree, len(tones))
	for i, t := range tones {
		list[i] = t.Degree
	}
	return Degrees(list)
}

// Canonical writes the chord in its plainest usual spelling: another way to
// type what Parse has read gives the same tones and bass. What no usual name
// covers is written as the nearest one with what is altered and added.
func (c Chord) Canonical() string {
	s := c.Root.String() + c.Suffix()
	if c.Bass.Valid() {
		s += "/" + c.Bass.String()
	}
	return s
}

// Suffix is what Canonical writes after the root.
func (c Chord) Suffix() string {
	if suffix, ok := byDegrees[degreesOf(c.Tones)]; ok {
		return suffix
	}
	return spellOut(c.Tones)
}

// speller writes tones as a stem and what is altered in it and added to it.
type speller struct {
	has  map[Degree]bool
	text strings.Builder
}

// take writes a suffix for tones that are there, and ticks them off.
func (s *speller) take(suffix string, degrees ...Degree) bool {
	for _, d := range degrees {
		if !s.has[d] {
			return false
		}
	}
	for _, d := range degrees {
		delete(s.has, d)
	}
	s.text.WriteString(suffix)
	return true
}

func spellOut(tones []Tone) string {
	s := speller{has: map[Degree]bool{}}
	for _, t := range tones {
		s.has[t.Degree] = true
	}
	delete(s.has, Degree{1, 0})
	third, fifth := true, true
	if s.take("dim7", Degree{3, -1}, Degree{5, -1}, Degree{7, -2}) {
		s.tensions(true)
		s.rest(third, fifth)
		return s.text.String()
	}
	third = s.take("", Degree{3, 0}) || s.take("m", Degree{3, -1})
	seventh := s.stack()
	fifth = s.take("", Degree{5, 0})
	fifth = s.take("b5", Degree{5, -1}) || fifth
	fifth = s.take("#5", Degree{5, 1}) || fifth
	s.tensions(seventh)
	if !third {
		third = s.take("sus4", Degree{4, 0})
		third = s.take("sus2", Degree{2, 0}) || third
	}
	s.rest(third, fifth)
	return s.text.String()
}

// stack writes a sixth, or a seventh and the plain tensions that stand on it.
func (s *speller) stack() (seventh bool) {
	for _, st := range []struct {
		sign    string
		seventh Degree
	}{{"", Degree{7, -1}}, {"maj", Degree{7, 0}}} {
		if !s.has[st.seventh] {
			continue
		}
		open, shut := "", ""
		if st.sign != "" && s.text.Len() > 0 { // m(maj7)
			open, shut = "(", ")"
		}
		return s.take(open+st.sign+"13"+shut, st.seventh, Degree{9, 0}, Degree{13, 0}) ||
			s.take(open+st.sign+"11"+shut, st.seventh, Degree{9, 0}, Degree{11, 0}) ||
			s.take(open+st.sign+"9"+shut, st.seventh, Degree{9, 0}) || s.take(open+st.sign+"7"+shut, st.seventh)
	}
	if !s.take("6/9", Degree{6, 0}, Degree{9, 0}) {
		s.take("6", Degree{6, 0})
	}
	return false
}

// tensions writes altered tensions, which need no word above a seventh.
func (s *speller) tensions(seventh bool) {
	add := "add"
	if seventh {
		add = ""
	}
	for _, d := range []Degree{{9, -1}, {9, 1}, {11, 1}, {13, -1}} {
		s.take(add+d.String(), d)
	}
}

// rest adds what is left and says what is missing.
func (s *speller) rest(third, fifth bool) {
	left := slices.SortedFunc(maps.Keys(s.has), func(a, b Degree) int {
		return cmp.Or(cmp.Compare(a.Number, b.Number), cmp.Compare(a.Alter, b.Alter))
	})
	for _, d := range left {
		s.take("add"+d.String(), d)
	}
	if !third {
		s.text.WriteString("no3")
	}
	if !fifth {
		s.text.WriteString("no5")
	}
}

// Transposed is the chord a number of semitones higher, its root spelled by a
// key.
func (c Chord) Transposed(semitones int, key pitch.Key) Chord {
	return c.moved(func(n pitch.Note) pitch.Note { return key.SpellClass(n.Class().Up(semitones)) })
}

// Between is the chord as it stands in one key moved into another: its root
// and bass keep their degrees, so that a G# in C becomes an A# in D.
func (c Chord) Between(from, to pitch.Key) Chord {
	return c.moved(func(n pitch.Note) pitch.Note {
		moved := DegreeOf(n, from.Tonic).Above(to.Tonic)
		if moved.Awkward() && !to.Contains(moved.Class()) {
			return to.SpellClass(moved.Class())
		}
		return moved
	})
}

// moved is the chord with its root and bass moved. What was typed after the
// root stays as it was typed.
func (c Chord) moved(move func(pitch.Note) pitch.Note) Chord {
	t := Chord{Root: move(c.Root), Tones: make([]Tone, len(c.Tones))}
	for i, tone := range c.Tones {
		t.Tones[i] = Tone{Degree: tone.Degree, Note: tone.Degree.Above(t.Root)}
	}
	_, rest := pitch.CutNote(c.Symbol)
	if c.Bass.Valid() {
		t.Bass = move(c.Bass)
		if i := strings.LastIndex(rest, "/"); i >= 0 {
			rest = rest[:i] + "/" + t.Bass.String()
		}
	}
	t.Symbol = t.Root.String() + rest
	return t
}
