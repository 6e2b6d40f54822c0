// Package timetable says when lessons are: those that come every week or every second one, single
// ones, what was moved or cancelled, and holidays. Days are those of a calendar, counted as
// progress.DayOf counts them; times are minutes from midnight by the clock on the wall.
package timetable

import (
	"cmp"
	"slices"
	"time"
)

// Series is a lesson that comes again, or a single one.
type Series struct {
	ID      int64
	First   int // the first day
	Last    int // the last day on which it may be; 0 is none
	Every   int // weeks from one to the next; 0 is a single lesson
	At      int // minutes from midnight; NoTime where it has none
	Minutes int
}

// NoTime is the time of what is on a day and has none.
const NoTime = -1

// Kind is what was done to one lesson of a series.
type Kind string

// The kinds of changes.
const (
	Moved  Kind = "moved"   // to another day or time
	InTime Kind = "in time" // cancelled, and to be made up
	Late   Kind = "late"    // cancelled too late to be made up
)

// Change is what was done to the lesson of a series on a day.
type Change struct {
	Series int64
	Day    int
	Kind   Kind
	ToDay  int // of what was moved
	ToAt   int
}

// Holiday is when there are no lessons but single ones.
type Holiday struct {
	First, Last int
	Name        string
}

// State is what is of a lesson on its day.
type State string

// The states.
const (
	On        State = "on"        // as always
	MovedHere State = "moved"     // from Lesson.Day
	MovedAway State = "away"      // to another day or time
	Cancelled State = "cancelled" // in time
	TooLate   State = "late"      // cancelled late
	Free      State = "holiday"
)

// Lesson is one lesson of a series.
type Lesson struct {
	Series  int64
	Day     int // on which it would be by the series: what it is known by
	On      int // on which it is
	At      int // minutes from midnight; NoTime where it has none
	Minutes int
	State   State
	ToDay   int // of what was moved away
	ToAt    int
	Holiday string // its name, where that is why it is not
}

// Takes tells whether the lesson takes place.
func (l *Lesson) Takes() bool { return l.State == On || l.State == MovedHere }

// Days lists the days of a series from a day to another: those of the rule that calendars are told
// (RFC 5545, FREQ=WEEKLY), to which a test holds them.
func (s *Series) Days(from, to int) (days []int) {
	if s.Every == 0 {
		if s.First >= from && s.First <= to {
			return []int{s.First}
		}
		return nil
	}
	first, step := s.First, 7*s.Every
	if first < from { // the first one from then on, however long ago it began
		first += (from - first + step - 1) / step * step
	}
	if s.Last != 0 {
		to = min(to, s.Last)
	}
	for day := first; day <= to; day += step {
		days = append(days, day)
	}
	return days
}

const secondsOfDay = 24 * 60 * 60

func dateOf(day int) time.Time { return time.Unix(int64(day)*secondsOfDay, 0).UTC() }

// Weekday is the weekday of a day.
func Weekday(day int) time.Weekday { return dateOf(day).Weekday() }

// Monday is the first day of the week of a day.
func Monday(day int) int { return day - (int(Weekday(day))+6)%7 }

// Between lists the lessons from a day to another, in the order in which they are: those that do
// not take place as well.
func Between(series []Series, changes []Change, holidays []Holiday, from, to int) (list []Lesson) {
	type key struct {
		series int64
		day    int
	}
	changed := map[key]Change{}
	for _, c := range changes {
		changed[key{c.Series, c.Day}] = c
	}
	of := map[int64]*Series{}
	for i := range series {
		s := &series[i]
		of[s.ID] = s
		for _, day := range s.Days(from, to) {
			l := Lesson{Series: s.ID, Day: day, On: day, At: s.At, Minutes: s.Minutes, State: On}
			if c, ok := changed[key{s.ID, day}]; ok {
				switch c.Kind {
				case Moved:
					l.State, l.ToDay, l.ToAt = MovedAway, c.ToDay, c.ToAt
				case InTime:
					l.State = Cancelled
				case Late:
					l.State = TooLate
				}
			} else if s.Every > 0 {
				if i := slices.IndexFunc(holidays, func(h Holiday) bool { return day >= h.First && day <= h.Last }); i >= 0 {
					l.State, l.Holiday = Free, holidays[i].Name
				}
			}
			list = append(list, l)
		}
	}
	for _, c := range changes {
		s := of[c.Series]
		if c.Kind != Moved || s == nil || c.ToDay < from || c.ToDay > to || len(s.Days(c.Day, c.Day)) == 0 {
			continue
		}
		list = append(list, Lesson{Series: s.ID, Day: c.Day, On: c.ToDay, At: c.ToAt, Minutes: s.Minutes, State: MovedHere})
	}
	slices.SortStableFunc(list, func(a, b Lesson) int {
		return cmp.Or(cmp.Compare(a.On, b.On), cmp.Compare(a.At, b.At), cmp.Compare(a.Series, b.Series), cmp.Compare(a.Day, b.Day))
	})
	return list
}

// Clashes tells which lessons of a list overlap with another one, by their places in it. Those in
// order are compared with what is still on when they begin.
func Clashes(list []Lesson) map[int]bool {
	clash := map[int]bool{}
	var open []int // that have not ended when the next one begins
	for i := range list {
		l := &list[i]
		if !l.Takes() || l.At == NoTime {
			continue
		}
		open = slices.DeleteFunc(open, func(j int) bool { return list[j].On != l.On || list[j].At+list[j].Minutes <= l.At })
		for _, j := range open {
			clash[i], clash[j] = true, true
		}
		open = append(open, i)
	}
	return clash
}

// Open is when lessons are given on a weekday, in minutes from midnight.
type Open struct {
	Weekday  time.Weekday
	From, To int
}

// Slot is a free place.
type Slot struct{ Day, At int }

// grid is where free places begin, minutes.
const grid = 15

// FreePlaces lists the next places of so many minutes, from a day on and within so many days, at
// most so many. Between two lessons the first free moment is one as well.
func FreePlaces(list []Lesson, open []Open, holidays []Holiday, from, days, minutes, most int) (free []Slot) {
	for day := from; day < from+days && len(free) < most; day++ {
		if slices.ContainsFunc(holidays, func(h Holiday) bool { return day >= h.First && day <= h.Last }) {
			continue
		}
		var taken []Lesson
		for _, l := range list {
			if l.On == day && l.Takes() && l.At != NoTime {
				taken = append(taken, l)
			}
		}
		for _, o := range open {
			if o.Weekday != Weekday(day) {
				continue
			}
			for at := o.From; at+minutes <= o.To && len(free) < most; {
				over := slices.IndexFunc(taken, func(l Lesson) bool { return at < l.At+l.Minutes && l.At < at+minutes })
				if over < 0 {
					free = append(free, Slot{day, at})
					at += grid
					at -= at % grid
					continue
				}
				at = taken[over].At + taken[over].Minutes
			}
		}
	}
	return free
}

// OpenOf is when lessons are given where nothing is said: on each weekday from the first to the end
// of the last of those that come again.
func OpenOf(series []Series, today int) (open []Open) {
	at := map[time.Weekday]*Open{}
	for i := range series {
		s := &series[i]
		if s.Every == 0 || s.At == NoTime || s.Last != 0 && s.Last < today {
			continue
		}
		day := Weekday(s.First)
		if at[day] == nil {
			at[day] = &Open{day, s.At, s.At + s.Minutes}
		}
		at[day].From, at[day].To = min(at[day].From, s.At), max(at[day].To, s.At+s.Minutes)
	}
	for day := range time.Weekday(7) {
		if o := at[day]; o != nil {
			open = append(open, *o)
		}
	}
	return open
}
