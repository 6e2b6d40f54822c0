package progress

import (
	"slices"
	"time"
)

// StandingOf makes the standing of entries, in any order.
func StandingOf(entries []Entry, target float64) Standing {
	entries = slices.Clone(entries)
	slices.SortStableFunc(entries, func(a, b Entry) int { return a.At.Compare(b.At) })
	var s Standing
	for _, e := range entries {
		s, _ = s.With(e, target)
	}
	return s
}

// Read works out the status of a part from its entries, in any order.
func Read(entries []Entry, target float64, now time.Time) Status {
	return StandingOf(entries, target).Status(target, now)
}
