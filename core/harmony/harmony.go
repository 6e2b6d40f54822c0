// Package harmony reads songs in their key: which key they are in, which
// numbers their chords have, what is borrowed and from where, and which scale a
// riff uses in which position.
package harmony

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

// School is the way of numbering minor songs.
type School string

// The schools of numbering. They agree on major keys.
const (
	Relative School = "relative" // from the relative major: the minor chord is 6
	Tonic    School = "tonic"    // from the tonic: it is 1, the major a third above b3
)

// ParseSchool reads the name of a school; nothing is Relative.
func ParseSchool(s string) (School, error) {
	switch School(s) {
	case "", Relative:
		return Relative, nil
	case Tonic:
		return Tonic, nil
	}
	return "", fmt.Errorf("%q is not a way of numbering; use relative or tonic", s)
}

// Number is a chord in its key.
type Number struct {
	Chord    chord.Chord
	Number   string // the degree and the quality, such as "6m", "b7" or "5(7)"
	Borrowed bool
	Why      string // what is borrowed, and from where
}

// names of the steps above a tonic, as numbers.
var steps = [12]string{"1", "b2", "2", "b3", "3", "4", "b5", "5", "b6", "6", "b7", "7"}

// Numbers numbers chords in a key.
func Numbers(chords []chord.Chord, key pitch.Key, school School) []Number {
	from := key.Tonic
	if school == Relative {
		from = key.Relative().Tonic
	}
	list := make([]Number, len(chords))
	for i, c := range chords {
		n := Number{Chord: c, Number: degree(c.Root, from) + suffix(c)}
		if c.Bass.Valid() {
			n.Number += "/" + degree(c.Bass, from)
		}
		n.Why = borrowed(c, key)
		n.Borrowed = n.Why != ""
		list[i] = n
	}
	return list
}

func degree(n, from pitch.Note) string { return steps[(n.Class()-from.Class()+12)%12] }

// suffix is the quality of a chord as it is written after its number.
func suffix(c chord.Chord) string {
	s := strings.TrimPrefix(chord.Chord{Root: c.Root, Tones: c.Tones}.Canonical(), c.Root.String())
	if s != "" && s[0] >= '0' && s[0] <= '9' {
		s = "(" + s + ")" // so that the 5 of a seventh chord does not read as 57
	}
	return s
}

// borrowed says what a chord has that the key has not, and where it may come
// from; it is empty for a chord of the key.
func borrowed(c chord.Chord, key pitch.Key) string {
	var foreign []string
	for _, t := range c.Tones {
		if !key.Contains(t.Note.Class()) {
			own := key.Tonic.String()
			// The note of the key on the same letter, which it stands for.
			for _, n := range key.Scale() {
				if n.Letter == t.Note.Letter {
					own = n.String()
				}
			}
			foreign = append(foreign, fmt.Sprintf("%s where the key has %s", t.Note, own))
		}
	}
	if len(foreign) == 0 {
		return ""
	}
	why := strings.Join(foreign, ", ")
	if from := source(c, key); from != "" {
		why += ": " + from
	}
	return why
}

// source guesses where a borrowed chord comes from.
func source(c chord.Chord, key pitch.Key) string {
	within := func(k pitch.Key) bool {
		for _, t := range c.Tones {
			if !k.Contains(t.Note.Class()) {
				return false
			}
		}
		return true
	}
	above := (c.Root.Class() - key.Tonic.Class() + 12) % 12
	minorish := !key.Contains((key.Tonic.Class() + 4) % 12)
	if minorish && (above == 7 || above == 11) && c.Has(chordThird(above)) {
		return "the leading note, from the harmonic minor"
	}
	parallel := pitch.Key{Tonic: key.Tonic, Mode: pitch.Minor}
	name := "the parallel minor"
	if minorish {
		parallel, name = pitch.Key{Tonic: key.Tonic, Mode: pitch.Major}, "the parallel major"
	}
	// The dominant of another chord of the key is heard as that first.
	target := (c.Root.Class() + 5) % 12
	if c.Has(4) && !c.Has(11) && key.Contains(target) && target != key.Tonic.Class() && (c.Has(10) || !within(parallel)) {
		return "the dominant of " + key.SpellClass(target).String()
	}
	if within(parallel) {
		return name
	}
	for _, mode := range []pitch.Mode{pitch.Mixolydian, pitch.Dorian, pitch.Lydian, pitch.Phrygian} {
		if k := (pitch.Key{Tonic: key.Tonic, Mode: mode}); within(k) {
			return "from " + k.String()
		}
	}
	if above == 1 {
		return "a half step above the tonic"
	}
	return ""
}

// chordThird is the interval by which the chord on a step has the leading note.
func chordThird(above int) int {
	if above == 7 {
		return 4
	}
	return 0
}

// Guess is a key and how well it fits; the best has 1.
type Guess struct {
	Key   pitch.Key
	Score float64
}

// Keys lists the likely keys of chords, best first: those that have their
// notes, that begin and end on the tonic, and in which the dominant leads back
// to it.
func Keys(chords []chord.Chord) []Guess {
	var weight [12]float64
	for i, c := range chords {
		w := 1.0
		if i == 0 || i == len(chords)-1 {
			w = 1.5
		}
		for _, t := range c.Tones {
			switch t.Degree {
			case "1":
				weight[t.Note.Class()] += 1.3 * w
			default:
				weight[t.Note.Class()] += w
			}
		}
	}
	return guess(weight, func(k pitch.Key) float64 {
		bonus := 0.0
		for i, c := range chords {
			minor := c.Has(3) && !c.Has(4)
			if c.Root.Class() != k.Tonic.Class() || minor != (k.Mode == pitch.Minor) {
				continue
			}
			bonus += 0.25
			if i == 0 {
				bonus += 1
			}
			if i == len(chords)-1 {
				bonus += 1.5
			}
			if i > 0 && chords[i-1].Root.Class() == (k.Tonic.Class()+7)%12 && chords[i-1].Has(4) {
				bonus++ // the dominant leads home
			}
		}
		return bonus
	})
}

// KeysOfSong lists the likely keys of a song, by its chords and notes.
func KeysOfSong(s *song.Song) []Guess {
	var chords []chord.Chord
	var weight [12]float64
	first, last := -1, -1
	for i := range s.Parts {
		bars := s.Parts[i].Bars()
		for b := range bars {
			for j := range bars[b].Events {
				e := &bars[b].Events[j]
				if e.Kind == song.Chord {
					chords = append(chords, e.Chord)
				}
				for _, n := range e.Notes {
					if n.Dead {
						continue
					}
					class := n.Pitch(s.Open()).Class()
					weight[class] += 4 * e.Length.Float()
					if first < 0 {
						first = class
					}
					last = class
				}
			}
		}
	}
	if len(chords) > 0 && first < 0 {
		return Keys(chords)
	}
	for _, c := range chords {
		for _, t := range c.Tones {
			weight[t.Note.Class()]++
		}
	}
	return guess(weight, func(k pitch.Key) float64 {
		bonus := weight[k.Tonic.Class()] * 0.3
		for _, class := range []int{first, last} {
			if class == k.Tonic.Class() {
				bonus++
			}
		}
		return bonus
	})
}

// guess scores all major and minor keys by how much of the weight lies in
// their scales.
func guess(weight [12]float64, bonus func(pitch.Key) float64) []Guess {
	total := 0.0
	for _, w := range weight {
		total += w
	}
	if total == 0 {
		return nil
	}
	var list []Guess
	for class := range 12 {
		for _, mode := range []pitch.Mode{pitch.Major, pitch.Minor} {
			k := pitch.Key{Tonic: pitch.Note{Letter: 'C'}, Mode: mode}.Transposed(class)
			in := 0.0
			for c, w := range weight {
				if k.Contains(c) {
					in += w
				}
			}
			list = append(list, Guess{k, in - 2*(total-in) + bonus(k)*total/12})
		}
	}
	slices.SortStableFunc(list, func(a, b Guess) int { return cmp.Compare(b.Score, a.Score) })
	best := list[0].Score
	for i := range list {
		list[i].Score = math.Round(100*max(list[i].Score/max(best, 1e-9), 0)) / 100
	}
	return list
}

// Scale is a scale that a riff uses.
type Scale struct {
	Name     string // such as "A minor pentatonic"
	Tonic    pitch.Note
	Steps    []int
	Missing  int // notes of it that do not occur
	Low, Top int // frets between which the riff lies, open strings left out
}

// scales from the smallest: the first that has all the notes names the riff.
var scales = []struct {
	name  string
	steps []int
}{
	{"minor pentatonic", []int{0, 3, 5, 7, 10}},
	{"major pentatonic", []int{0, 2, 4, 7, 9}},
	{"blues scale", []int{0, 3, 5, 6, 7, 10}},
	{"major blues scale", []int{0, 2, 3, 4, 7, 9}},
	{"minor", []int{0, 2, 3, 5, 7, 8, 10}},
	{"major", []int{0, 2, 4, 5, 7, 9, 11}},
	{"dorian", []int{0, 2, 3, 5, 7, 9, 10}},
	{"mixolydian", []int{0, 2, 4, 5, 7, 9, 10}},
	{"phrygian", []int{0, 1, 3, 5, 7, 8, 10}},
	{"lydian", []int{0, 2, 4, 6, 7, 9, 11}},
	{"harmonic minor", []int{0, 2, 3, 5, 7, 8, 11}},
	{"locrian", []int{0, 1, 3, 5, 6, 8, 10}},
	{"melodic minor", []int{0, 2, 3, 5, 7, 9, 11}},
}

// ScaleOf names the scale of the notes of a part, above the tonic of its key,
// or, where the song has none, above the note that it dwells on most. ok is
// false where the part has too few notes, or no scale has them all.
func ScaleOf(s *song.Song, part int) (scale Scale, ok bool) {
	p := &s.Parts[part]
	var weight [12]float64
	classes, count := uint16(0), 0
	scale.Low, scale.Top = neck.MaxFret, 0
	bars := p.Bars()
	for b := range bars {
		for i := range bars[b].Events {
			e := &bars[b].Events[i]
			for _, n := range e.Notes {
				if n.Dead {
					continue
				}
				class := n.Pitch(s.Open()).Class()
				weight[class] += e.Length.Float()
				classes |= 1 << class
				count++
				if n.Fret > 0 {
					scale.Low, scale.Top = min(scale.Low, n.Fret), max(scale.Top, n.Fret)
				}
			}
		}
	}
	if count < 4 {
		return Scale{}, false
	}
	if scale.Top == 0 {
		scale.Low = 0
	}
	tonic := p.Key.Tonic
	if !p.Key.Valid() {
		best := 0
		for c := range weight {
			if weight[c] > weight[best] {
				best = c
			}
		}
		tonic = p.Key.SpellClass(best)
	}
	for _, k := range scales {
		mask := uint16(0)
		for _, step := range k.steps {
			mask |= 1 << ((tonic.Class() + step) % 12)
		}
		if classes&^mask != 0 {
			continue
		}
		scale.Name, scale.Tonic, scale.Steps = tonic.String()+" "+k.name, tonic, k.steps
		for c := range 12 {
			if mask&^classes&(1<<c) != 0 {
				scale.Missing++
			}
		}
		return scale, true
	}
	return Scale{}, false
}

// Foreign lists the notes of a part that its key does not have, with what the
// key has instead.
func Foreign(s *song.Song, part int) []string {
	p := &s.Parts[part]
	if !p.Key.Valid() {
		return nil
	}
	var list []string
	bars := p.Bars()
	for b := range bars {
		for i := range bars[b].Events {
			for _, n := range bars[b].Events[i].Notes {
				class := n.Pitch(s.Open()).Class()
				if n.Dead || p.Key.Contains(class) {
					continue
				}
				text := p.Key.SpellClass(class).String()
				if (class-p.Key.Tonic.Class()+12)%12 == 6 {
					text += ", the flat fifth"
				}
				if !slices.Contains(list, text) {
					list = append(list, text)
				}
			}
		}
	}
	return list
}
