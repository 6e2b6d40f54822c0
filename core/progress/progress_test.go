package progress

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

var noon = time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)

func ago(days int, tempo float64, clean int) Entry {
	return Entry{Tempo: tempo, Clean: clean, At: noon.AddDate(0, 0, -days)}
}

func TestRead(t *testing.T) {
	cases := []struct {
		name    string
		entries []Entry
		state   State
		clean   float64
		next    float64
		why     AdviceKind
	}{
		{"nothing yet", nil, New, 0, 60, Begin},
		{"first tries", []Entry{ago(1, 80, 1)}, Growing, 0, 72, NotClean},
		{"on the way", []Entry{ago(3, 70, 3), ago(1, 84, 4)}, Growing, 84, 88, OnTheWay},
		{"a slower clean day does not take away", []Entry{ago(3, 84, 3), ago(1, 70, 3)}, Growing, 84, 88, OnTheWay},
		{"never beyond the target", []Entry{ago(1, 98, 3)}, Growing, 98, 100, OnTheWay},
		{"clean at the target once", []Entry{ago(1, 100, 3)}, Growing, 100, 100, CleanOnce},
		{"twice on one day is one day", []Entry{ago(1, 100, 3), ago(1, 100, 5)}, Growing, 100, 100, CleanOnce},
		{"on different days", []Entry{ago(2, 100, 3), ago(1, 104, 3)}, Ready, 104, 100, CleanDays},
		{"ready stays ready after a slip", []Entry{ago(3, 100, 3), ago(2, 100, 3), ago(1, 110, 0)}, Ready, 100, 100, CleanDays},
		{"three tries", []Entry{ago(6, 80, 3), ago(4, 96, 1), ago(3, 96, 0), ago(1, 96, 2)}, Stuck, 80, 80, Failing},
		{"three tries and never clean", []Entry{ago(4, 96, 1), ago(3, 96, 0), ago(1, 96, 2)}, Stuck, 0, 88, Failing},
		{"a clean day ends it", []Entry{ago(4, 96, 1), ago(3, 96, 0), ago(2, 96, 2), ago(1, 90, 3)}, Growing, 90, 94, OnTheWay},
		{"a week and more", []Entry{ago(9, 80, 3)}, Due, 80, 84, Quiet},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			s := Read(c.entries, 100, noon)
			assert.Equal(t, c.state, s.State)
			assert.Equal(t, c.clean, s.Clean)
			assert.Equal(t, c.next, s.Next)
			assert.Equal(t, c.why, s.Why.Kind)
			assert.InDelta(t, min(c.clean/100, 1), s.Walked, 1e-9)
		})
	}
}
