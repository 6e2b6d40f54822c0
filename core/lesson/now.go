package lesson

import "valleyside/core/progress"

// How far a student is: which steps are done, and what is to be done next.

// Progress tells how far a student is with a step.
type Progress struct {
	Once  float64 // fastest tempo of one clean pass; 0 where there is none
	Clean float64 // of as many in a row as count as clean
}

// manyPasses is how many clean passes in a row count as clean.
const manyPasses = usualPasses

// best is the fastest tempo of as many passes in a row as a step asks.
func (s *Step) best(p Progress) float64 {
	if s.Passes < manyPasses {
		return p.Once
	}
	return p.Clean
}

// done tells whether a step has reached its goal, to half a beat.
func (s *Step) done(p Progress) bool { return s.best(p) >= s.Goal-0.5 }

// Next is the tempo at which a student goes on with a step: its start, or what comes after
// what they have, as with a part (progress.NextTempo).
func (s *Step) Next(p Progress) float64 { return progress.NextTempo(s.best(p), s.Start, s.Goal) }

// Done tells which of some steps, in their order, are done, given how far the student is
// with each.
// Who plays a part at one of its tempos has what comes before it in that part, and whoever
// plays the whole way has all but the finish.
func Done(steps []Step, of func(*Step) Progress) []bool {
	list := make([]bool, len(steps))
	parts := map[int]bool{} // parts that are played, further on
	way := false
	for i := len(steps) - 1; i >= 0; i-- {
		s := &steps[i]
		list[i] = s.done(of(s))
		switch s.Kind {
		case Rhythm, Shape, Change, Piece, Whole:
			list[i] = list[i] || parts[s.Part] || way
		case Seam:
			list[i] = list[i] || way
		case Form:
			list[i] = list[i] || way && s.Part >= 0
		}
		if list[i] && s.Kind == Whole {
			parts[s.Part] = true
		}
		way = way || list[i] && s.Kind == Form && s.Part < 0
	}
	return list
}
