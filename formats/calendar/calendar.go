// Package calendar writes a studio's timetable as an iCalendar file (RFC 5545), each weekly
// lesson as an event that comes every week.
package calendar

import (
	"fmt"
	"io"
	"time"

	ics "github.com/arran4/golang-ical"
)

// Lesson is a weekly lesson.
type Lesson struct {
	ID      string // the same whenever it is written, so that calendars know it again
	Who     string
	Weekday time.Weekday
	Time    string // "15:04"; empty is the whole day
	Minutes int
	Note    string
}

// UsualMinutes is how long a lesson is where nothing is said.
const UsualMinutes = 45

// stamp is how local times are written: without a zone, since a lesson is at four o'clock
// wherever the calendar is looked at.
const stamp = "20060102T150405"

// Write writes the timetable of a studio as of a day, from which on the lessons are. Its
// error says which lesson has no time.
func Write(w io.Writer, studio string, lessons []Lesson, from time.Time) error {
	c := ics.NewCalendar()
	c.SetProductId("-//Valleyside//Timetable//EN")
	c.SetMethod(ics.MethodPublish)
	c.SetName(studio)
	c.SetXWRCalName(studio)
	for _, l := range lessons {
		day := from.AddDate(0, 0, (int(l.Weekday)-int(from.Weekday())+7)%7)
		e := c.AddEvent(l.ID)
		e.SetDtStampTime(from.UTC())
		e.SetSummary(l.Who)
		if l.Note != "" {
			e.SetDescription(l.Note)
		}
		e.AddRrule("FREQ=WEEKLY")
		if l.Time == "" {
			e.SetAllDayStartAt(day)
			continue
		}
		at, err := time.Parse("15:04", l.Time)
		if err != nil {
			return fmt.Errorf("the lesson of %s is at %q, which is no time", l.Who, l.Time)
		}
		start := time.Date(day.Year(), day.Month(), day.Day(), at.Hour(), at.Minute(), 0, 0, time.UTC)
		minutes := l.Minutes
		if minutes == 0 {
			minutes = UsualMinutes
		}
		e.SetProperty(ics.ComponentPropertyDtStart, start.Format(stamp))
		e.SetProperty(ics.ComponentPropertyDtEnd, start.Add(time.Duration(minutes)*time.Minute).Format(stamp))
	}
	return c.SerializeTo(w, ics.WithNewLineWindows)
}
