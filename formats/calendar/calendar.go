// Package calendar writes lessons as an iCalendar file (RFC 5545), with the zone of their times:
// each series as an event that comes again, what was moved as an exception of it, what was
// cancelled or falls into holidays left out.
package calendar

import (
	"fmt"
	"io"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/teambition/rrule-go"

	"valleyside/core/timetable"
)

// Event is a series of lessons, and what it is called.
type Event struct {
	ID      string // the same whenever it is written, so that calendars know it again
	Summary string
	Note    string
	timetable.Series
}

// How times and days are written.
const (
	stamp = "20060102T150405"
	date  = "20060102"
)

// yearsAhead is for how many years a calendar is told when the clock changes.
const yearsAhead = 5

// Write writes series with the lessons of them that were moved or are not on, as timetable.Between
// lists them. Times are those of a zone; now is when it is written, and nothing is said of
// lessons that were before from.
func Write(w io.Writer, name string, events []Event, lessons []timetable.Lesson, zone *time.Location, from int, now time.Time) error {
	c := ics.NewCalendar()
	c.SetProductId("-//Valleyside//Timetable//EN")
	c.SetMethod(ics.MethodPublish)
	c.SetName(name)
	c.SetXWRCalName(name)
	c.SetRefreshInterval("PT1H")
	z := zoned{zone}
	if !z.floats() {
		c.SetXWRTimezone(zone.String())
		c.AddVTimezone(z.timezone(from, now.AddDate(yearsAhead, 0, 0)))
	}
	out := map[int64][]timetable.Lesson{} // that are not on as always
	for _, l := range lessons {
		if l.State != timetable.On {
			out[l.Series] = append(out[l.Series], l)
		}
	}
	for _, e := range events {
		if e.Every == 0 {
			z.single(c, &e, out[e.Series.ID], from, now)
			continue
		}
		begin := max(from, e.First)
		days := e.Days(begin, begin+7*e.Every) // the first of them from then on
		if len(days) == 0 {
			continue
		}
		first := c.AddEvent(e.ID)
		z.describe(first, &e, now)
		z.when(first, days[0], e.At, e.Minutes)
		first.AddRrule(z.rule(&e))
		for _, l := range out[e.Series.ID] {
			switch l.State {
			case timetable.MovedHere:
				moved := c.AddEvent(e.ID)
				z.describe(moved, &e, now)
				z.when(moved, l.On, l.At, l.Minutes)
				z.set(moved, ics.ComponentPropertyRecurrenceId, l.Day, e.At)
			case timetable.MovedAway: // its exception says where it is
			default:
				value, params := z.at(l.Day, e.At)
				first.AddExdate(value, params...)
			}
		}
	}
	return c.SerializeTo(w, ics.WithNewLineWindows)
}

// zoned writes times in a zone.
type zoned struct{ *time.Location }

// floats tells whether times are written without a zone: the machine's own has no name that others
// know.
func (z zoned) floats() bool { return z.Location == time.Local || z.String() == "Local" }

// single writes a single lesson, where it is, unless it was cancelled.
func (z zoned) single(c *ics.Calendar, e *Event, out []timetable.Lesson, from int, now time.Time) {
	day, at := e.First, e.At
	for _, l := range out {
		switch l.State {
		case timetable.MovedHere:
			day, at = l.On, l.At
		case timetable.Cancelled, timetable.TooLate:
			return
		}
	}
	if day < from {
		return
	}
	one := c.AddEvent(e.ID)
	z.describe(one, e, now)
	z.when(one, day, at, e.Minutes)
}

func (z zoned) describe(e *ics.VEvent, of *Event, now time.Time) {
	e.SetDtStampTime(now.UTC())
	e.SetSummary(of.Summary)
	if of.Note != "" {
		e.SetDescription(of.Note)
	}
}

// moment is a time of a day by the clock on the wall.
func (z zoned) moment(day, at int) time.Time {
	y, m, d := time.Unix(int64(day)*24*60*60, 0).UTC().Date()
	return time.Date(y, m, d, 0, at, 0, 0, z.Location)
}

// at is a time as it is written, or a day where it has none.
func (z zoned) at(day, at int) (value string, params []ics.PropertyParameter) {
	switch {
	case at == timetable.NoTime:
		return z.moment(day, 0).Format(date), []ics.PropertyParameter{ics.WithValue("DATE")}
	case z.floats():
		return z.moment(day, at).Format(stamp), nil
	}
	return z.moment(day, at).Format(stamp), []ics.PropertyParameter{ics.WithTZID(z.String())}
}

func (z zoned) set(e *ics.VEvent, name ics.ComponentProperty, day, at int) {
	value, params := z.at(day, at)
	e.SetProperty(name, value, params...)
}

func (z zoned) when(e *ics.VEvent, day, at, minutes int) {
	z.set(e, ics.ComponentPropertyDtStart, day, at)
	if at != timetable.NoTime {
		z.set(e, ics.ComponentPropertyDtEnd, day, at+minutes)
	}
}

// rule says how a series comes again.
func (z zoned) rule(e *Event) string {
	o := rrule.ROption{Freq: rrule.WEEKLY, Interval: e.Every}
	if e.Last != 0 {
		o.Until = z.moment(e.Last, 24*60-1)
	}
	if e.At == timetable.NoTime && e.Last != 0 { // a day ends with a day
		return fmt.Sprintf("FREQ=WEEKLY;INTERVAL=%d;UNTIL=%s", e.Every, z.moment(e.Last, 0).Format(date))
	}
	return o.RRuleString()
}

// timezone says when the clock changes in the zone, from a day to a time.
func (z zoned) timezone(from int, to time.Time) *ics.VTimezone {
	tz := ics.NewTimezone(z.String())
	at := z.moment(from, 0)
	for {
		begin, end := at.ZoneBounds()
		name, offset := at.Zone()
		before := offset
		if !begin.IsZero() {
			_, before = begin.Add(-time.Second).Zone()
		} else {
			begin = z.moment(0, 0)
		}
		var part *ics.ComponentBase
		if at.IsDST() {
			day := &ics.Daylight{}
			part = &day.ComponentBase
			tz.Components = append(tz.Components, day)
		} else {
			usual := &ics.Standard{}
			part = &usual.ComponentBase
			tz.Components = append(tz.Components, usual)
		}
		// It begins at the time that the clock showed before.
		part.AddProperty(ics.ComponentPropertyDtStart, begin.In(time.FixedZone("", before)).Format(stamp))
		part.AddProperty(ics.ComponentProperty(ics.PropertyTzoffsetfrom), offsetOf(before))
		part.AddProperty(ics.ComponentProperty(ics.PropertyTzoffsetto), offsetOf(offset))
		part.AddProperty(ics.ComponentProperty(ics.PropertyTzname), name)
		if end.IsZero() || end.After(to) {
			return tz
		}
		at = end
	}
}

// offsetOf writes the seconds that a zone is ahead.
func offsetOf(seconds int) string {
	sign := '+'
	if seconds < 0 {
		sign, seconds = '-', -seconds
	}
	return fmt.Sprintf("%c%02d%02d", sign, seconds/3600, seconds/60%60)
}
