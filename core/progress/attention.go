package progress

import (
	"cmp"
	"time"
)

// urgency orders the states by how soon a teacher should look.
var urgency = map[State]int{Stuck: 0, Ready: 1, Due: 2, Growing: 3, New: 4}

// ForTeacher orders parts by how soon a teacher should look at them: who is stuck
// first, then what is ready for the next step; of two alike the one that was
// practised last.
func ForTeacher(a, b Status) int {
	return cmp.Or(cmp.Compare(urgency[a.State], urgency[b.State]), b.Last.Compare(a.Last))
}

// NextDay is the next day after now on which somebody comes, within a week, given
// the days of the week on which anybody does; ok is false where there is none.
func NextDay(now time.Time, comes func(time.Weekday) bool) (day time.Time, ok bool) {
	for ahead := 1; ahead <= 7; ahead++ {
		if day = now.AddDate(0, 0, ahead); comes(day.Weekday()) {
			return day, true
		}
	}
	return time.Time{}, false
}
