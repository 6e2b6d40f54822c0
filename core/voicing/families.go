package voicing

import (
	"slices"

	"valleyside/core/chord"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

// shell gives the root on string 6 or 5 with the third and the seventh above it on
// strings 4 and 3, the string between muted or none: what a rhythm guitar plays below a
// band. A chord without a seventh has its sixth there, or its fifth.
func (f *finder) shell() []Voicing {
	third, ok := f.chord.Third()
	if !ok {
		third, ok = f.toneOf(4, 2)
	}
	colour, found := f.toneOf(7, 6, 5)
	if !ok || !found {
		return nil
	}
	var list []Voicing
	for _, s := range []neck.String{6, 5} {
		for _, fret := range f.roots(s) {
			for _, order := range [][2]pitch.Class{{third.Class(), colour.Class()}, {colour.Class(), third.Class()}} {
				frets := neck.NoFrets
				frets[s.Index()] = int8(fret)
				if f.near(&frets, 4, fret, order[0]) && f.near(&frets, 3, fret, order[1]) {
					list = f.rising(list, frets, Shell)
				}
			}
		}
	}
	return list
}

// rootless gives chords of four notes or more without their root, which the bass plays:
// third and seventh with two others or one, on neighbours of the four thinnest strings. A
// triad has its third and fifth left.
func (f *finder) rootless() []Voicing {
	var tones []pitch.Class
	for _, t := range f.chord.Tones {
		if t.Class() != f.chord.Root.Class() {
			tones = append(tones, t.Class())
		}
	}
	needed := pitch.SetOf()
	if third, ok := f.chord.Third(); ok {
		needed = needed.With(third.Class())
	}
	if seventh, ok := f.toneOf(7, 6); ok {
		needed = needed.With(seventh.Class())
	}
	var list []Voicing
	for _, strings := range [][]neck.String{{4, 3, 2, 1}, {4, 3, 2}, {3, 2, 1}, {4, 3}, {3, 2}} {
		if len(strings) > len(tones) || len(strings) < min(len(tones), 3) {
			continue
		}
		eachOrder(tones, len(strings), func(order []pitch.Class) {
			if !needed.In(pitch.SetOf(order...)) {
				return
			}
			for fret := 1; fret <= highest; fret++ {
				frets := neck.NoFrets
				fits := true
				for i, s := range strings {
					fits = fits && f.near(&frets, s, fret, order[i])
				}
				if fits {
					list = f.rising(list, frets, NoRoot)
				}
			}
		})
	}
	return list
}

// dropTwo gives the four notes of a chord in close order with the second from the top an
// octave lower, on four neighbouring strings: each inversion. Of more than four notes the
// root goes first, then the fifth; of three there is none.
func (f *finder) dropTwo() []Voicing {
	tones := slices.Clone(f.chord.Tones)
	for _, number := range []int8{1, 5, 11} {
		if i := slices.IndexFunc(tones, func(t chord.Tone) bool { return t.Degree.Number == number && t.Degree.Alter == 0 }); i >= 0 && len(tones) > 4 {
			tones = slices.Delete(tones, i, i+1)
		}
	}
	if len(tones) != 4 {
		return nil
	}
	var close []pitch.Class // in the order in which they follow one another
	for _, t := range tones {
		close = append(close, t.Class())
	}
	root := close[0]
	slices.SortFunc(close, func(a, b pitch.Class) int { return a.Above(root) - b.Above(root) })
	var list []Voicing
	for inversion := range 4 {
		at := func(i int) pitch.Class { return close[(inversion+i)%4] }
		order := []pitch.Class{at(2), at(0), at(1), at(3)}
		for _, low := range []neck.String{6, 5, 4} {
			for fret := 0; fret <= min(highest, f.cfg.In.LastFret()); fret++ {
				if f.cfg.In.Pitch(low, fret).Class() != order[0] {
					continue
				}
				frets := neck.NoFrets
				frets[low.Index()] = int8(fret)
				p := f.cfg.In.Pitch(low, fret)
				fits := true
				for i := 1; i < 4; i++ {
					p += pitch.Pitch(order[i].Above(p.Class()))
					n := f.cfg.In.Fret(low-neck.String(i), p)
					fits = fits && n >= 0 && n <= min(highest+2, f.cfg.In.LastFret())
					frets[(low - neck.String(i)).Index()] = int8(n)
				}
				if fits {
					list = f.rising(list, frets, DropTwo)
				}
			}
		}
	}
	return list
}

// toneOf is the chord's tone of the first of some degrees that it has.
func (f *finder) toneOf(numbers ...int8) (chord.Tone, bool) {
	for _, n := range numbers {
		for _, t := range f.chord.Tones {
			if t.Degree.Number == n {
				return t, true
			}
		}
	}
	return chord.Tone{}, false
}

// Frets that a family reaches from the one that it is built on.
const (
	reachesBack = 3
	reachesUp   = 3
)

// near stops a string at the fret of a class that is nearest to another fret. It tells
// whether one is near enough.
func (f *finder) near(frets *neck.Frets, s neck.String, fret int, c pitch.Class) bool {
	for d := 0; d <= reachesUp; d++ {
		for _, n := range []int{fret + d, fret - d} {
			if n < max(fret-reachesBack, 0) || n > min(highest+2, f.cfg.In.LastFret()) || n == 0 && fret > 4 {
				continue
			}
			if f.cfg.In.Pitch(s, n).Class() == c {
				frets[s.Index()] = int8(n)
				return true
			}
		}
	}
	return false
}

// rising adds a shape whose notes rise from string to string.
func (f *finder) rising(list []Voicing, frets neck.Frets, s School) []Voicing {
	pitches := f.cfg.In.Sounds(frets)
	for i := 1; i < len(pitches); i++ {
		if pitches[i] <= pitches[i-1] {
			return list
		}
	}
	if slices.ContainsFunc(list, func(v Voicing) bool { return v.Frets == frets }) {
		return list
	}
	if v, ok := f.measure(frets, s); ok {
		list = append(list, v)
	}
	return list
}

// eachOrder calls do with every order of n of some classes.
func eachOrder(of []pitch.Class, n int, do func([]pitch.Class)) {
	order := make([]pitch.Class, 0, n)
	var from func()
	from = func() {
		if len(order) == n {
			do(order)
			return
		}
		for _, c := range of {
			if !slices.Contains(order, c) {
				order = append(order, c)
				from()
				order = order[:len(order)-1]
			}
		}
	}
	from()
}
