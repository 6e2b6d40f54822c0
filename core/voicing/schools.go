package voicing

import (
	"fmt"

	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// letter gives the power chord of the chord's letter, its root on string 6 or
// 5, with and without the octave. Where the fifth is altered, a plain one would
// contradict the chord: then it offers the altered fifth, the octave and the
// root alone.
func (f *finder) letter() []Voicing {
	var list []Voicing
	fifth, altered := f.chord.Fifth()
	for _, s := range []neck.String{6, 5} {
		for _, fret := range f.roots(s) {
			shapes := []neck.Frets{f.lay(s, fret, 1, 0, fifth), f.lay(s, fret, 1, 0, fifth, 12)}
			if altered {
				shapes = append(shapes, f.lay(s, fret, 2, 0, 12), f.lay(s, fret, 1, 0))
			}
			for _, frets := range shapes {
				if v, ok := f.measure(frets, Letter); ok {
					v.Circle = int(s)
					list = append(list, v)
				}
			}
		}
	}
	return list
}

// roots lists where a string has the chord's root.
func (f *finder) roots(s neck.String) []int {
	var frets []int
	for fret := 0; fret <= min(highest, f.cfg.In.LastFret()); fret++ {
		if f.cfg.In.Pitch(s, fret).Class() == f.chord.Root.Class() {
			frets = append(frets, fret)
		}
	}
	return frets
}

// lay puts intervals above a note on strings gap apart, beginning with its
// own; NoFrets where one does not lie on the neck.
func (f *finder) lay(s neck.String, fret, gap int, intervals ...int) neck.Frets {
	frets := neck.NoFrets
	root := f.cfg.In.Pitch(s, fret)
	last := min(highest+2, f.cfg.In.LastFret())
	for i, above := range intervals {
		at := s - neck.String(i*gap)
		if at < 1 {
			return neck.NoFrets
		}
		n := f.cfg.In.Fret(at, root+pitch.Pitch(above))
		if n < 0 || n > last {
			return neck.NoFrets
		}
		frets[at.Index()] = int8(n)
	}
	return frets
}

// third gives root and third on two neighbouring strings, without a fifth. A
// chord that has no third gives what stands in its place.
func (f *finder) third() []Voicing {
	var list []Voicing
	for s := neck.String(neck.Strings); s >= 2; s-- {
		for _, fret := range f.roots(s) {
			for _, t := range f.chord.Tones {
				if !t.Degree.IsThird() {
					continue
				}
				if v, ok := f.measure(f.lay(s, fret, 1, 0, t.Degree.Semitones()), Third); ok {
					list = append(list, v)
				}
			}
		}
	}
	return list
}

// drone gives a moved power shape, root on string 6 or 5, under the two
// thinnest strings left open.
func (f *finder) drone() []Voicing {
	var list []Voicing
	fifth, _ := f.chord.Fifth()
	for _, s := range []neck.String{6, 5} {
		for _, fret := range f.roots(s) {
			for _, shape := range []neck.Frets{f.lay(s, fret, 1, 0, fifth, 12), f.lay(s, fret, 1, 0, fifth)} {
				if shape == neck.NoFrets {
					continue
				}
				shape[neck.String(2).Index()], shape[neck.String(1).Index()] = 0, 0
				v, ok := f.measure(shape, Drone)
				if ok && v.Inside() <= mostInside {
					list = append(list, v)
				}
			}
		}
	}
	return list
}

// Mark is how a letter-only shape is written on a chart: its letter and, in a
// circle, the string of its root.
func (v *Voicing) Mark(letter pitch.Note) string {
	circles := map[int]string{5: "⑤", 6: "⑥"}
	return fmt.Sprintf("%s %s", letter, circles[v.Circle])
}
