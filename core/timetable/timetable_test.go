package timetable

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/teambition/rrule-go"
	"pgregory.net/rapid"
)

// day is the day of a date.
func day(date string) int {
	t, err := time.Parse(time.DateOnly, date)
	if err != nil {
		panic(err)
	}
	return int(t.Unix() / secondsOfDay)
}

func date(day int) string { return dateOf(day).Format("Mon 2 Jan") }

// A studio's fortnight, decided beforehand.
func TestBetween(t *testing.T) {
	series := []Series{
		{ID: 1, First: day("2026-09-01"), Every: 1, At: 16 * 60, Minutes: 45},                          // Tuesdays
		{ID: 2, First: day("2026-09-03"), Every: 2, At: 17 * 60, Minutes: 30},                          // every second Thursday
		{ID: 3, First: day("2026-12-05"), At: 10 * 60, Minutes: 60},                                    // a single Saturday
		{ID: 4, First: day("2026-01-05"), Last: day("2026-12-07"), Every: 1, At: 15 * 60, Minutes: 45}, // Mondays, until the 7th
		{ID: 5, First: day("2027-01-05"), Every: 1, At: 15 * 60, Minutes: 45},                          // begins later
		{ID: 6, First: day("2026-12-02"), Every: 1, At: NoTime, Minutes: 45},                           // Wednesdays, some time
	}
	changes := []Change{
		{Series: 1, Day: day("2026-12-01"), Kind: Moved, ToDay: day("2026-12-04"), ToAt: 18 * 60},
		{Series: 1, Day: day("2026-12-08"), Kind: Late},
		{Series: 4, Day: day("2026-11-30"), Kind: InTime},
		{Series: 4, Day: day("2026-12-14"), Kind: Moved, ToDay: day("2026-12-10"), ToAt: 9 * 60}, // it had ended by then
		{Series: 2, Day: day("2026-11-19"), Kind: Moved, ToDay: day("2026-12-03"), ToAt: 9 * 60}, // no Thursday of its own
	}
	holidays := []Holiday{{day("2026-12-09"), day("2026-12-10"), "Fair"}}
	var said []string
	for _, l := range Between(series, changes, holidays, day("2026-11-30"), day("2026-12-13")) {
		said = append(said, fmt.Sprintf("%s %d %s", date(l.On), l.Series, l.State))
	}
	assert.Equal(t, []string{"Mon 30 Nov 4 cancelled", "Tue 1 Dec 1 away", "Wed 2 Dec 6 on", "Fri 4 Dec 1 moved", "Sat 5 Dec 3 on",
		"Mon 7 Dec 4 on", "Tue 8 Dec 1 late", "Wed 9 Dec 6 holiday", "Thu 10 Dec 2 holiday"}, said)
}

// The days of a series are those that counting day by day finds.
func TestDays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := Series{First: rapid.IntRange(18000, 21000).Draw(t, "first"), Every: rapid.IntRange(0, 3).Draw(t, "every")}
		if rapid.Bool().Draw(t, "ends") {
			s.Last = s.First + rapid.IntRange(0, 400).Draw(t, "last")
		}
		from := rapid.IntRange(18000, 21000).Draw(t, "from")
		to := from + rapid.IntRange(-3, 60).Draw(t, "days")
		var want []int
		for d := from; d <= to; d++ {
			since := d - s.First
			if since == 0 || s.Every > 0 && since > 0 && since%(7*s.Every) == 0 && (s.Last == 0 || d <= s.Last) {
				want = append(want, d)
			}
		}
		require.Equal(t, want, s.Days(from, to))
	})
}

// The days of a series are those of its rule as a library of recurrences has them.
func TestDaysAreThoseOfTheRule(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := Series{First: rapid.IntRange(15_000, 25_000).Draw(t, "first"), Every: rapid.IntRange(1, 9).Draw(t, "every")}
		if rapid.Bool().Draw(t, "ends") {
			s.Last = s.First + rapid.IntRange(0, 900).Draw(t, "last")
		}
		from := s.First + rapid.IntRange(-900, 900).Draw(t, "from")
		to := from + rapid.IntRange(-10, 400).Draw(t, "to")
		rule, err := rrule.NewRRule(rrule.ROption{Freq: rrule.WEEKLY, Interval: s.Every, Dtstart: dateOf(s.First)})
		require.NoError(t, err)
		var want []int
		for _, at := range rule.Between(dateOf(from), dateOf(to), true) {
			if day := int(at.Unix() / secondsOfDay); s.Last == 0 || day <= s.Last {
				want = append(want, day)
			}
		}
		require.Equal(t, want, s.Days(from, to))
	})
}

func TestMonday(t *testing.T) {
	assert.Equal(t, day("2026-11-30"), Monday(day("2026-12-06")))
	assert.Equal(t, day("2026-11-30"), Monday(day("2026-11-30")))
	assert.Equal(t, time.Sunday, Weekday(day("2026-12-06")))
}

// Clashes are those that comparing every two finds.
func TestClashes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var series []Series
		for i := range rapid.IntRange(0, 12).Draw(t, "lessons") {
			series = append(series, Series{ID: int64(i + 1), First: 20000 + rapid.IntRange(0, 1).Draw(t, "day"), At: rapid.IntRange(-1, 200).Draw(t, "at"), Minutes: rapid.IntRange(1, 90).Draw(t, "minutes")})
		}
		list := Between(series, nil, nil, 20000, 20001)
		want := map[int]bool{}
		for i := range list {
			for j := range list {
				a, b := &list[i], &list[j]
				if i != j && a.On == b.On && a.At != NoTime && b.At != NoTime && a.At < b.At+b.Minutes && b.At < a.At+a.Minutes {
					want[i] = true
				}
			}
		}
		require.Equal(t, want, Clashes(list))
	})
}

func TestFreePlaces(t *testing.T) {
	monday := day("2026-11-30")
	series := []Series{{ID: 1, First: monday, Every: 1, At: 14 * 60, Minutes: 40}, {ID: 2, First: monday, Every: 1, At: 15*60 + 30, Minutes: 30}, {ID: 3, First: monday + 1, Every: 1, At: 14 * 60, Minutes: 45}}
	list := Between(series, nil, nil, monday, monday+20)
	holidays := []Holiday{{monday + 7, monday + 7, "Fair"}}
	said := func(free []Slot) string {
		var list []string
		for _, s := range free {
			list = append(list, fmt.Sprintf("%s %d:%02d", date(s.Day), s.At/60, s.At%60))
		}
		return strings.Join(list, ", ")
	}
	open := OpenOf(series, monday)
	assert.Equal(t, []Open{{time.Monday, 14 * 60, 16 * 60}, {time.Tuesday, 14 * 60, 14*60 + 45}}, open)
	assert.Equal(t, "Mon 30 Nov 14:40, Mon 30 Nov 14:45, Mon 14 Dec 14:40, Mon 14 Dec 14:45", said(FreePlaces(list, open, holidays, monday, 21, 45, 9)), "not in a holiday, and not on a full day")
	assert.Equal(t, "Mon 30 Nov 14:40", said(FreePlaces(list, open, nil, monday, 21, 50, 1)))
	rapid.Check(t, func(t *rapid.T) {
		minutes := rapid.IntRange(5, 60).Draw(t, "minutes")
		for _, s := range FreePlaces(list, open, holidays, monday, 21, minutes, 99) {
			with := append(slices.Clone(list), Lesson{On: s.Day, At: s.At, Minutes: minutes, State: On})
			slices.SortFunc(with, func(a, b Lesson) int { return (a.On-b.On)*2000 + a.At - b.At })
			require.Empty(t, Clashes(with))
		}
	})
}

func BenchmarkBetween(b *testing.B) {
	var series []Series
	for i := range 300 {
		series = append(series, Series{ID: int64(i + 1), First: 18000 + i%7, Every: 1 + i%2, At: 14*60 + i%6*60, Minutes: 45})
	}
	for b.Loop() {
		Between(series, nil, nil, 20000, 20006)
	}
}
