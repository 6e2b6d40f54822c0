// Package lesson makes of the versions of a song what can be learnt: the rung to
// begin with for each part, and the steps.
package lesson

import (
	"slices"

	"valleyside/core/arrange"
)

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
