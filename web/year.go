package web

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/progress"
	"valleyside/store"
)

// yearView is a student's year on one page.
type yearView struct {
	Page
	Student      store.Student
	Year         int
	Before, Next int // years; 0 is none
	Months       []yearMonth
	Minutes      int
	Days         int // on which something was practised
	Lessons      int // that were given, with notes
	Learnt       int // parts
	Top          int // minutes of the month with most
}

// yearMonth is what a month had, the latest first.
type yearMonth struct {
	First   time.Time
	Minutes int
	Days    int
	Bars    []yearDay // of each day of the month
	Notes   []pastHour
	Learnt  []learntLine
	Begun   []store.Had
	Ended   []store.Had
}

// Empty tells whether nothing was in the month.
func (m *yearMonth) Empty() bool {
	return m.Days+len(m.Notes)+len(m.Learnt)+len(m.Begun)+len(m.Ended) == 0
}

// yearDay is a day of a month, and how long was practised.
type yearDay struct {
	Date    time.Time
	Minutes int
}

// Of is how high the day stands in a picture of so many px, at most.
func (d yearDay) Of(height int) int {
	const full = 60 // minutes
	return min(height, (d.Minutes*height+full-1)/full)
}

// Below is what is left above it.
func (d yearDay) Below(height int) int { return height - d.Of(height) }

// X is where the day stands.
func (d yearDay) X() int { return 7 * (d.Date.Day() - 1) }

type learntLine struct {
	Date time.Time
	store.LearntThen
}

// year shows a student's year, month by month: how much was practised, what was learnt, what the
// lessons were about.
func (s *roster) year(c *echo.Context) error {
	st, err := s.studentFrom(c)
	if err != nil {
		return err
	}
	ctx, at := c.Request().Context(), home(c)
	now := s.Now().In(at.Zone())
	v := yearView{Page: s.page(c, st.Name, "students"), Student: st, Year: now.Year()}
	if n, err := strconv.Atoi(c.QueryParam("y")); err == nil && n >= 1971 && n <= now.Year() {
		v.Year = n
	}
	v.Title = fmt.Sprintf("%d of %s", v.Year, st.Name)
	from, to := time.Date(v.Year, 1, 1, 0, 0, 0, 0, at.Zone()), time.Date(v.Year+1, 1, 1, 0, 0, 0, 0, at.Zone())
	months := make([]yearMonth, 12)
	for i := range months {
		m := &months[i]
		m.First = from.AddDate(0, i, 0)
		for d := m.First; d.Month() == m.First.Month(); d = d.AddDate(0, 0, 1) {
			m.Bars = append(m.Bars, yearDay{Date: d})
		}
	}
	month := func(t time.Time) *yearMonth { return &months[t.Month()-1] }
	sat, err := s.Store.SatBetween(ctx, at.ID, st.ID, store.At(from), store.At(to))
	if err != nil {
		return err
	}
	for _, one := range sat {
		t := one.At.Time().In(at.Zone())
		m := month(t)
		day := &m.Bars[t.Day()-1]
		if day.Minutes == 0 && one.Minutes > 0 {
			m.Days++
			v.Days++
		}
		day.Minutes += one.Minutes
		m.Minutes += one.Minutes
		v.Minutes += one.Minutes
	}
	first, last := progress.DayOf(from), progress.DayOf(to)-1
	learnt, err := s.Store.LearntBetween(ctx, at.ID, st.ID, first, last)
	if err != nil {
		return err
	}
	for _, l := range learnt {
		m := month(dayOf(l.Day))
		m.Learnt = append(m.Learnt, learntLine{dayOf(l.Day), l})
		v.Learnt++
	}
	hours, err := s.Store.HoursBetween(ctx, at.ID, st.ID, first, last)
	if err != nil {
		return err
	}
	for i := range hours {
		if h := &hours[i]; h.Note != "" {
			m := month(dayOf(h.Day))
			m.Notes = append(m.Notes, pastHour{Day: dayOf(h.Day), Note: h.Note})
			v.Lessons++
		}
	}
	had, err := s.Store.History(ctx, at.ID, 0, st.ID, mostHistory)
	if err != nil {
		return err
	}
	slices.Reverse(had)
	within := func(m store.Instant) (time.Time, bool) {
		t := m.Time().In(at.Zone())
		return t, m > 0 && t.Year() == v.Year
	}
	for _, h := range had {
		if t, ok := within(h.AssignedAt); ok {
			m := month(t)
			m.Begun = append(m.Begun, h)
		}
		if t, ok := within(h.EndedAt); ok {
			m := month(t)
			m.Ended = append(m.Ended, h)
		}
	}
	for i := range slices.Backward(months) {
		if m := months[i]; !m.Empty() {
			v.Months = append(v.Months, m)
			v.Top = max(v.Top, m.Minutes)
		}
	}
	begin, err := s.Store.FirstPractice(ctx, at.ID, st.ID)
	if err != nil {
		return err
	}
	began := st.CreatedAt.Time().In(at.Zone()).Year()
	if begin > 0 {
		began = min(began, begin.Time().In(at.Zone()).Year())
	}
	if v.Year > began {
		v.Before = v.Year - 1
	}
	if v.Year < now.Year() {
		v.Next = v.Year + 1
	}
	return c.Render(http.StatusOK, "year", v)
}
