package harmony

import (
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
)

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
	var classes pitch.Set
	count := 0
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
				classes = classes.With(class)
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
		best := pitch.Class(0)
		for c := range pitch.Class(12) {
			if weight[c] > weight[best] {
				best = c
			}
		}
		tonic = p.Key.SpellClass(best)
	}
	for _, k := range scales {
		var mask pitch.Set
		for _, step := range k.steps {
			mask = mask.With(tonic.Class().Up(step))
		}
		if !classes.In(mask) {
			continue
		}
		scale.Name, scale.Tonic, scale.Steps = tonic.String()+" "+k.name, tonic, k.steps
		scale.Missing = mask.Minus(classes).Len()
		return scale, true
	}
	return Scale{}, false
}

// Outside is a note that a key does not have.
type Outside struct {
	Note pitch.Note
	// FlatFifth tells that it is that of the blues.
	FlatFifth bool
}

// OutsideKey lists the notes of a part that its key does not have, each once.
func OutsideKey(s *song.Song, part int) []Outside {
	p := &s.Parts[part]
	if !p.Key.Valid() {
		return nil
	}
	var list []Outside
	var seen pitch.Set
	bars := p.Bars()
	for b := range bars {
		for i := range bars[b].Events {
			for _, n := range bars[b].Events[i].Notes {
				class := n.Pitch(s.Open()).Class()
				if n.Dead || p.Key.Contains(class) || seen.Has(class) {
					continue
				}
				seen = seen.With(class)
				list = append(list, Outside{p.Key.SpellClass(class), class.Above(p.Key.Tonic.Class()) == 6})
			}
		}
	}
	return list
}
