package arrange

import (
	"slices"

	"valleyside/core/song"
)

// A line that is played several times is one choice for all its passes, unless
// the teacher has decided something for one of them alone: then that pass is
// written out.

// Pass is one bar of a version as it is played in one pass of its line alone.
type Pass struct {
	Pass int // from 1
	Bar
}

// stretchOf is what a bar of a score stands for: a written bar, counted from 0,
// in the passes from to to of its line, counted from 1; alone where something is
// decided for that pass.
type stretchOf struct {
	bar, from, to int
	alone         bool
}

// passes tells whether a way decides something for a pass alone.
func (w Way) passes() bool {
	return slices.ContainsFunc(w.Pins, func(p Pin) bool { return p.Pass > 0 })
}

// writtenOut is a part whose passes stand apart where a way decides something for
// one of them, and what each of its bars stands for.
func writtenOut(p *song.Part, way Way) (song.Part, []stretchOf) {
	out := *p
	out.Lines = nil
	var of []stretchOf
	bar := 0
	for _, line := range p.Lines {
		alone := map[int]bool{} // passes that are decided apart
		for _, pin := range way.Pins {
			if pin.Pass > 0 && pin.Pass <= line.Times && pin.Bar > bar && pin.Bar <= bar+len(line.Bars) {
				alone[pin.Pass] = true
			}
		}
		for from := 1; from <= line.Times; {
			to := from
			for !alone[from] && to < line.Times && !alone[to+1] {
				to++
			}
			segment := line
			segment.Times = to - from + 1
			out.Lines = append(out.Lines, segment)
			for i := range line.Bars {
				of = append(of, stretchOf{bar + i, from, to, alone[from]})
			}
			from = to + 1
		}
		bar += len(line.Bars)
	}
	return out, of
}

// apart reads the score of a part with the passes written out that a way
// decides apart.
func (a *Arranger) apart(part int, way Way) *score {
	if !way.passes() {
		return a.score(part)
	}
	whole := *a.set.song
	whole.Parts = slices.Clone(whole.Parts)
	var of []stretchOf
	whole.Parts[part], of = writtenOut(&whole.Parts[part], way)
	set := a.set
	set.song = &whole
	s := readScore(set, part)
	s.of = of
	return s
}

// barOf is the bar of the score that stands for a written bar, counted from 0,
// in a pass; pass 0 asks for the bar as it is played where nothing is decided
// apart. −1 is none.
func (s *score) barOf(bar, pass int) int {
	found := -1
	for b, of := range s.of {
		switch {
		case of.bar != bar:
		case pass > 0 && of.from <= pass && pass <= of.to:
			return b
		case pass == 0 && (found < 0 || s.of[found].alone && !of.alone):
			found = b
		}
	}
	return found
}

// fold makes the written bars of a version of those of the score: each as it is
// played where nothing is decided apart, and beside them the bars of the passes
// that differ.
func (v *Version) fold(s *score) {
	if len(s.of) == 0 || s.of[len(s.of)-1].bar == len(s.of)-1 {
		return // nothing is written out
	}
	played := v.Bars
	v.Bars, v.Travel = nil, 0
	for bar := 0; ; bar++ {
		main := s.barOf(bar, 0)
		if main < 0 {
			break
		}
		v.Bars = append(v.Bars, played[main])
		for _, e := range played[main].Events {
			v.Travel += e.Shift
		}
		for b, of := range s.of {
			if of.bar == bar && b != main && !identical(&played[b], &played[main]) {
				for pass := of.from; pass <= of.to; pass++ {
					v.Passes = append(v.Passes, Pass{pass, played[b]})
				}
			}
		}
	}
}
