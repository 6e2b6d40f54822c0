package words

import (
	"fmt"
	"math"

	"valleyside/core/rhythm"
	"valleyside/core/song"
)

// unsteady is how far taps are off in the middle, in seconds, when it is as well to look
// at what they were taken for.
const unsteady = 0.03

// Tapped says what was heard of a rhythm that was tapped.
func (sp Speaker) Tapped(t rhythm.Tapped) string {
	taps := 0
	for i := range t.Bars {
		for _, e := range t.Bars[i].Events {
			if e.Kind == song.Strum {
				taps++
			}
		}
	}
	what := fmt.Sprintf("%s in %s at %.0f a minute", count(taps, "tap"), count(len(t.Bars), "bar"), math.Round(t.Tempo))
	if t.Off > unsteady {
		what += fmt.Sprintf(", %.0f milliseconds off in the middle: see whether it is what you meant", 1000*t.Off)
	}
	return sentence(what) + "."
}
