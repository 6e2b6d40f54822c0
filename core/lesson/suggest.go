// Package lesson makes of the versions of a song what can be learnt: the rung to
// begin with for each part, and the steps.
package lesson

import (
	"slices"

	"valleyside/core/arrange"
)

// Comfortable is the grade up to which a rung can be given without a word.
const Comfortable = 4.2

// Suggestion is the rung to begin with, and why it is.
type Suggestion struct {
	Rung arrange.Rung
	Why  SuggestedFor
}

// SuggestedFor is why a rung is suggested.
type SuggestedFor uint8

// The reasons.
const (
	Fullest SuggestedFor = iota // of those that are still comfortable
	Easiest                     // of all, which are above what is comfortable
)

// Suggest picks the rung to begin with from the versions of a part: the
// hardest that is still comfortable, or else the easiest of all. Of two that
// are equally hard it takes the one nearer to the part as written, and never one that
// is harder than that. Octaves are a taste, which a teacher asks for by name. The reason
// comes with it. It panics where there are no versions.
func Suggest(ladder []arrange.Version) Suggestion {
	near := func(v *arrange.Version) int { return slices.Index(arrange.Rungs, v.Rung) }
	var easiest, best *arrange.Version
	for i := range ladder {
		v := &ladder[i]
		if v.Harder {
			continue
		}
		if easiest == nil || v.Grade < easiest.Grade {
			easiest = v
		}
		if v.Grade <= Comfortable && v.Rung != arrange.Octave && (best == nil || v.Grade > best.Grade || v.Grade == best.Grade && near(v) > near(best)) {
			best = v
		}
	}
	if best == nil {
		return Suggestion{easiest.Rung, Easiest}
	}
	return Suggestion{best.Rung, Fullest}
}

// Above is the version to go on with when that of a rung is ready: the easiest of the
// fuller ones that asks more, and is not harder than the part as written; nil where there
// is none. Octaves are a taste of their own and lead on only from one finger.
func Above(ladder []arrange.Version, rung arrange.Rung) *arrange.Version {
	i := slices.IndexFunc(ladder, func(v arrange.Version) bool { return v.Rung == rung })
	if i < 0 {
		return nil
	}
	var best *arrange.Version
	for j := range ladder {
		v := &ladder[j]
		fuller := slices.Index(arrange.Rungs, v.Rung) > slices.Index(arrange.Rungs, rung) && (v.Rung != arrange.Octave || rung == arrange.OneFinger)
		if fuller && v.Grade > ladder[i].Grade && !v.Harder && (best == nil || v.Grade < best.Grade) {
			best = v
		}
	}
	return best
}
