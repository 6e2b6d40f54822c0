package progress

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestWhatWantsALook(t *testing.T) {
	day := func(n int) time.Time { return time.Date(2026, 5, n, 17, 0, 0, 0, time.UTC) }
	parts := []Look{
		{State: New},
		{State: Growing, Last: day(3)},
		{State: Learnt, Last: day(2)},
		{State: Stuck, Last: day(1)},
		{State: Due, Last: day(1)},
		{State: Stuck, Last: day(4)},
		{State: Growing, Last: day(1)},
	}
	said := func(order func(a, b Look) int) (list []string) {
		sorted := slices.Clone(parts)
		slices.SortStableFunc(sorted, order)
		for _, s := range sorted {
			last := "never"
			if !s.Last.IsZero() {
				last = s.Last.Format("2 Jan")
			}
			list = append(list, string(s.State)+" "+last)
		}
		return list
	}
	assert.Equal(t, []string{"stuck 4 May", "stuck 1 May", "due 1 May", "growing 3 May", "growing 1 May", "new never", "learnt 2 May"}, said(ForTeacher))
}

func TestTogether(t *testing.T) {
	for want, cases := range map[State][]string{
		New:     {"", "new", "new new"},
		Growing: {"new growing", "new learnt", "growing learnt", "due growing", "new due"},
		Stuck:   {"stuck", "learnt stuck due", "new stuck"},
		Learnt:  {"learnt", "learnt learnt"},
		Due:     {"due", "learnt due"},
	} {
		for _, c := range cases {
			var parts []State
			for _, one := range strings.Fields(c) {
				parts = append(parts, State(one))
			}
			assert.Equal(t, want, Together(parts), c)
		}
	}
}
