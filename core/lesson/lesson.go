// Package lesson works out what a lesson holds: the way through the song with
// its bars and minutes, and the rung to begin with for each part.
package lesson

import (
	"slices"

	"valleyside/core/arrange"
	"valleyside/core/song"
)

// Roadmap is the order in which the parts are played, with what it adds up to.
type Roadmap struct {
	Steps   []Step
	Bars    int     // played in all
	Seconds float64 // at the target tempo
}

// Step is one entry of the roadmap.
type Step struct {
	Part    string
	Times   int
	Bars    int // played, repeats counted
	From    int // the first of them, counted from 1 over the whole song
	Seconds float64
}

// Plan works out the roadmap of a song at a target tempo in beats per minute.
// Parts with a tempo of their own keep their relation to the song's.
func Plan(s *song.Song, target float64) Roadmap {
	var r Roadmap
	for _, o := range s.Order {
		p := &s.Parts[o.Part]
		step := Step{Part: p.Name, Times: o.Times, Bars: p.Played() * o.Times, From: r.Bars + 1,
			Seconds: p.Seconds(Tempo(s, p, target)) * float64(o.Times)}
		r.Steps = append(r.Steps, step)
		r.Bars += step.Bars
		r.Seconds += step.Seconds
	}
	return r
}

// Tempo is the tempo of a part when the song is played at target.
func Tempo(s *song.Song, p *song.Part, target float64) float64 {
	return p.Tempo * target / s.Tempo
}

// Comfortable is the grade up to which a rung can be given without a word.
const Comfortable = 4.0

// Suggest picks the rung to begin with from the versions of a part: the
// hardest that is still comfortable, or else the easiest of all. Of two that
// are equally hard it takes the one nearer to the part as written. The reason
// comes with it. It panics where there are no versions.
func Suggest(ladder []arrange.Version) (rung arrange.Rung, why string) {
	near := func(v *arrange.Version) int { return slices.Index(arrange.Rungs, v.Rung) }
	var easiest, best *arrange.Version
	for i := range ladder {
		v := &ladder[i]
		if easiest == nil || v.Grade < easiest.Grade {
			easiest = v
		}
		if v.Grade <= Comfortable && (best == nil || v.Grade > best.Grade || v.Grade == best.Grade && near(v) > near(best)) {
			best = v
		}
	}
	if best == nil {
		return easiest.Rung, "the easiest version; all are above what is comfortable"
	}
	return best.Rung, "the fullest version that is still comfortable"
}
