package studio

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"valleyside/core/timetable"
	"valleyside/formats/calendar"
	"valleyside/store"
)

// Limits of a timetable.
const (
	MostEvery    = 4  // weeks from one lesson to the next
	MostTogether = 12 // students in a lesson
	MostHoliday  = 60 // characters
	mostDay      = 200000
)

// Coming is a lesson of a timetable, and who comes: their numbers and names.
type Coming struct {
	timetable.Lesson
	Students []store.Student
	Every    int
	MakesUp  bool
	Clash    bool
}

// timetable reads the timetable of a studio, or of one student, with the names of who comes.
func (h *House) timetable(ctx context.Context, studio, student int64, from, to int) (t store.Timetable, of map[int64]store.Student, err error) {
	if t, err = h.Store.Timetable(ctx, studio, student, from, to); err != nil {
		return t, nil, err
	}
	var ids []int64
	for _, s := range t.Series {
		ids = append(ids, s.Students...)
	}
	students, err := h.Store.NamesOf(ctx, studio, ids...)
	of = map[int64]store.Student{}
	for _, st := range students {
		of[st.ID] = st
	}
	return t, of, err
}

// Comings lists the lessons of a studio from a day to another, as timetable.Between does, with who
// comes.
func (h *House) Comings(ctx context.Context, studio int64, from, to int) ([]Coming, store.Timetable, error) {
	t, of, err := h.timetable(ctx, studio, 0, from, to)
	if err != nil {
		return nil, t, err
	}
	lessons := t.Lessons(from, to)
	clash := timetable.Clashes(lessons)
	list := make([]Coming, len(lessons))
	for i, l := range lessons {
		s := t.With(l.Series)
		list[i] = Coming{Lesson: l, Every: s.Every, MakesUp: s.MakesUp > 0, Clash: clash[i]}
		for _, id := range s.Students {
			list[i].Students = append(list[i].Students, of[id])
		}
	}
	return list, t, nil
}

// Names are those of who comes, together.
func (c *Coming) Names() string {
	var names []string
	for _, st := range c.Students {
		names = append(names, st.Name)
	}
	return strings.Join(names, ", ")
}

// ComingOn lists who comes on a day, in the order of their times: the lessons that take place.
func (h *House) ComingOn(ctx context.Context, studio int64, day int) (list []Coming, err error) {
	all, _, err := h.Comings(ctx, studio, day, day)
	for _, c := range all {
		if c.On == day && c.Takes() {
			list = append(list, c)
		}
	}
	return list, err
}

// StudentsOn are those who come on a day, each once, in the order in which they do.
func (h *House) StudentsOn(ctx context.Context, studio int64, day int) (students []store.Student, err error) {
	list, err := h.ComingOn(ctx, studio, day)
	if err != nil {
		return nil, err
	}
	var ids []int64
	for _, c := range list {
		for _, st := range c.Students {
			if !slices.Contains(ids, st.ID) {
				ids = append(ids, st.ID)
			}
		}
	}
	students, err = h.Store.StudentsWith(ctx, studio, ids...)
	slices.SortFunc(students, func(a, b store.Student) int { return slices.Index(ids, a.ID) - slices.Index(ids, b.ID) })
	return students, err
}

// Clock writes a time of the day; empty where there is none.
func Clock(at int) string {
	if at < 0 {
		return ""
	}
	return fmt.Sprintf("%02d:%02d", at/60%24, at%60)
}

// ParseClock reads a time like 16:30 or 9; empty is none.
func ParseClock(text string) (at int, err error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return timetable.NoTime, nil
	}
	hours, minutes, ok := strings.Cut(strings.Replace(text, ".", ":", 1), ":")
	h, err := strconv.Atoi(hours)
	m := 0
	if err == nil && ok {
		m, err = strconv.Atoi(minutes)
	}
	if err != nil || h < 0 || h > 24 || m < 0 || m > 59 || h*60+m > 24*60 {
		return 0, fmt.Errorf("%q is no time; write it like 16:30", text)
	}
	return h*60 + m, nil
}

// ParseOpen reads when lessons are given, like "Mon 14-20, Tue 14:30-19".
func ParseOpen(text string) (open []timetable.Open, err error) {
	for _, one := range strings.Split(text, ",") {
		if one = strings.TrimSpace(one); one == "" {
			continue
		}
		day, hours, _ := strings.Cut(one, " ")
		from, to, ok := strings.Cut(strings.ReplaceAll(hours, "–", "-"), "-")
		weekday := slices.IndexFunc(weekdays, func(name string) bool {
			return len(day) >= 2 && strings.HasPrefix(name, strings.ToLower(day))
		})
		if weekday < 0 || !ok {
			return nil, fmt.Errorf("%q is no weekday with hours; write it like Mon 14-20, Tue 14:30-19", one)
		}
		o := timetable.Open{Weekday: time.Weekday(weekday)}
		if o.From, err = ParseClock(from); err == nil {
			o.To, err = ParseClock(to)
		}
		if err != nil {
			return nil, fmt.Errorf("%q: %w", one, err)
		}
		if o.From < 0 || o.To <= o.From {
			return nil, fmt.Errorf("%q ends before it begins", one)
		}
		open = append(open, o)
	}
	return open, nil
}

var weekdays = []string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

// FaultsOfSeries lists what a series cannot be.
func FaultsOfSeries(s *store.Series) []string {
	var f faults
	f.number("its first day", float64(s.FirstDay), 1, mostDay)
	f.number("its last day", float64(s.LastDay), 0, mostDay)
	f.number("the weeks from one lesson to the next", float64(s.Every), 0, MostEvery)
	f.number("the time of the lesson", float64(s.At), timetable.NoTime, 24*60-1)
	f.number("the minutes of the lesson", float64(s.Minutes), 5, MostHour)
	if len(s.Students) == 0 || len(s.Students) > MostTogether {
		f.say("it has no students, or more than %d", MostTogether)
	}
	return f
}

// FaultsOfChange lists what a change of a lesson cannot be.
func FaultsOfChange(c *store.Change) []string {
	var f faults
	f.number("its day", float64(c.Day), 1, mostDay)
	switch c.Kind {
	case timetable.InTime, timetable.Late:
	case timetable.Moved:
		f.number("the day to which it is moved", float64(c.ToDay), 1, mostDay)
		f.number("the time to which it is moved", float64(c.ToAt), timetable.NoTime, 24*60-1)
	default:
		f.say("%q is nothing that is done to a lesson", c.Kind)
	}
	return f
}

// FaultsOfHoliday lists what a holiday cannot be.
func FaultsOfHoliday(h *store.Holiday) []string {
	var f faults
	f.number("its first day", float64(h.FirstDay), 1, mostDay)
	f.number("its last day", float64(h.LastDay), float64(h.FirstDay), float64(h.FirstDay)+366)
	f.text("its name", h.Name, MostHoliday)
	return f
}

// OpenHours is when a studio gives lessons: as typed, or from the first to the last of each weekday.
func OpenHours(home *store.Studio, t *store.Timetable, today int) []timetable.Open {
	if open, err := ParseOpen(home.OpenHours); err == nil && len(open) > 0 {
		return open
	}
	var series []timetable.Series
	for _, s := range t.Series {
		series = append(series, s.Rule())
	}
	return timetable.OpenOf(series, today)
}

// How far a calendar says what is, in days.
const (
	calendarBack  = 60
	calendarAhead = 400
)

// Calendar is what stands in the calendar of a studio, or of one student: series with the lessons
// of them, from a day on. With names it says who comes.
func (h *House) Calendar(ctx context.Context, studio, student int64, names bool, today int) (events []calendar.Event, lessons []timetable.Lesson, from int, err error) {
	from = today - calendarBack
	t, of, err := h.timetable(ctx, studio, student, from, today+calendarAhead)
	if err != nil {
		return nil, nil, 0, err
	}
	for _, s := range t.Series {
		e := calendar.Event{ID: fmt.Sprintf("lesson-%d-studio-%d@valleyside", s.ID, studio), Summary: "Guitar lesson", Series: s.Rule()}
		if names {
			var who []string
			for _, id := range s.Students {
				who = append(who, of[id].Name)
			}
			e.Summary = strings.Join(who, ", ")
		}
		events = append(events, e)
	}
	return events, t.Lessons(from, today+calendarAhead), from, nil
}
