package calendar

import (
	"bytes"
	"slices"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/teambition/rrule-go"

	"valleyside/core/progress"
	"valleyside/core/timetable"
)

func day(date string) int {
	t, err := time.Parse(time.DateOnly, date)
	if err != nil {
		panic(err)
	}
	return progress.DayOf(t)
}

func zone(t *testing.T, name string) *time.Location {
	z, err := time.LoadLocation(name)
	require.NoError(t, err)
	return z
}

var now = time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)

// written are the lines of a calendar, unfolded.
func written(t *testing.T, name string, events []Event, changes []timetable.Change, holidays []timetable.Holiday, z *time.Location) string {
	from := day("2026-03-20")
	var series []timetable.Series
	for _, e := range events {
		series = append(series, e.Series)
	}
	var b bytes.Buffer
	require.NoError(t, Write(&b, name, events, timetable.Between(series, changes, holidays, from, from+365), z, from, now))
	return strings.ReplaceAll(b.String(), "\r\n ", "")
}

func TestWrite(t *testing.T) {
	text := written(t, "Millrace", []Event{
		{ID: "1@x", Summary: "Pia; and Bo", Series: timetable.Series{ID: 1, First: day("2026-01-06"), Every: 1, At: 16*60 + 30, Minutes: 45}},
		{ID: "2@x", Summary: "Ada", Series: timetable.Series{ID: 2, First: day("2026-03-26"), Last: day("2026-05-30"), Every: 2, At: 8 * 60, Minutes: 30}},
		{ID: "3@x", Summary: "Cleo", Series: timetable.Series{ID: 3, First: day("2026-03-22"), Every: 1, At: timetable.NoTime, Minutes: 45}},
		{ID: "4@x", Summary: "Once", Series: timetable.Series{ID: 4, First: day("2026-04-02"), At: 9 * 60, Minutes: 60}},
		{ID: "5@x", Summary: "Gone", Series: timetable.Series{ID: 5, First: day("2026-04-03"), At: 9 * 60, Minutes: 60}},
		{ID: "6@x", Summary: "Over", Series: timetable.Series{ID: 6, First: day("2025-04-03"), Last: day("2026-01-01"), Every: 1, At: 9 * 60, Minutes: 60}},
		{ID: "8@x", Summary: "In autumn", Series: timetable.Series{ID: 8, First: day("2026-09-03"), Every: 1, At: 9 * 60, Minutes: 60}},
		{ID: "7@x", Summary: "Later", Series: timetable.Series{ID: 7, First: day("2026-04-03"), At: 9 * 60, Minutes: 60}},
	}, []timetable.Change{
		{Series: 7, Day: day("2026-04-03"), Kind: timetable.Moved, ToDay: day("2026-04-05"), ToAt: 11 * 60},
		{Series: 1, Day: day("2026-03-31"), Kind: timetable.Moved, ToDay: day("2026-04-01"), ToAt: 17 * 60},
		{Series: 1, Day: day("2026-04-07"), Kind: timetable.InTime},
		{Series: 5, Day: day("2026-04-03"), Kind: timetable.Late},
	}, []timetable.Holiday{{First: day("2026-04-13"), Last: day("2026-04-19"), Name: "Spring"}}, zone(t, "Europe/Berlin"))
	for _, want := range []string{
		"DTSTART;TZID=Europe/Berlin:20260324T163000\r\n", "DTEND;TZID=Europe/Berlin:20260324T171500\r\n", `SUMMARY:Pia\; and Bo`, "RRULE:FREQ=WEEKLY;INTERVAL=1\r\n",
		"RECURRENCE-ID;TZID=Europe/Berlin:20260331T163000\r\n", "DTSTART;TZID=Europe/Berlin:20260401T170000\r\n",
		"EXDATE;TZID=Europe/Berlin:20260407T163000\r\n", "EXDATE;TZID=Europe/Berlin:20260414T163000\r\n",
		"RRULE:FREQ=WEEKLY;INTERVAL=2;UNTIL=20260530T215900Z\r\n", "DTSTART;VALUE=DATE:20260322\r\n", "EXDATE;VALUE=DATE:20260419\r\n",
		"DTSTART;TZID=Europe/Berlin:20260903T090000\r\n",
		"DTSTART;TZID=Europe/Berlin:20260402T090000\r\n", "X-WR-CALNAME:Millrace",
		"BEGIN:DAYLIGHT\r\nDTSTART:20260329T020000\r\nTZOFFSETFROM:+0100\r\nTZOFFSETTO:+0200\r\nTZNAME:CEST\r\nEND:DAYLIGHT\r\n",
		"BEGIN:STANDARD\r\nDTSTART:20261025T030000\r\nTZOFFSETFROM:+0200\r\nTZOFFSETTO:+0100\r\nTZNAME:CET\r\nEND:STANDARD\r\n",
	} {
		assert.Contains(t, text, want)
	}
	_, later, _ := strings.Cut(text, "UID:7@x")
	assert.Contains(t, later, "DTSTART;TZID=Europe/Berlin:20260405T110000\r\n")
	assert.NotContains(t, later, "RECURRENCE-ID")
	assert.NotContains(t, text, "Gone")
	assert.NotContains(t, text, "Over")
	assert.NotContains(t, written(t, "M", []Event{{ID: "1", Series: timetable.Series{ID: 1, First: day("2026-04-02"), Every: 1, At: 60, Minutes: 30}}}, nil, nil, time.Local), "TZID")
}

// What a calendar makes of the file are the lessons of the timetable, at the clock's time, also over
// the days on which the clock changes.
func TestReadBack(t *testing.T) {
	for _, name := range []string{"Europe/Berlin", "America/New_York", "Australia/Lord_Howe", "Asia/Kolkata", "UTC"} {
		z := zone(t, name)
		series := []Event{
			{ID: "1@x", Summary: "a", Series: timetable.Series{ID: 1, First: day("2025-11-04"), Every: 1, At: 16*60 + 30, Minutes: 45}},
			{ID: "2@x", Summary: "b", Series: timetable.Series{ID: 2, First: day("2026-01-01"), Last: day("2026-11-30"), Every: 2, At: 30, Minutes: 30}},
		}
		changes := []timetable.Change{{Series: 1, Day: day("2026-10-27"), Kind: timetable.Moved, ToDay: day("2026-10-25"), ToAt: 23 * 60}, {Series: 2, Day: day("2026-04-09"), Kind: timetable.Late}}
		holidays := []timetable.Holiday{{First: day("2026-08-01"), Last: day("2026-08-31")}}
		text := written(t, "M", series, changes, holidays, z)
		from, to := day("2026-03-20"), day("2026-12-31")
		var want []time.Time
		for _, l := range timetable.Between([]timetable.Series{series[0].Series, series[1].Series}, changes, holidays, from, to) {
			if l.Takes() {
				want = append(want, zoned{z}.moment(l.On, l.At))
			}
		}
		c, err := ics.ParseCalendar(strings.NewReader(text))
		require.NoError(t, err)
		out := map[string]bool{} // starts that an exception takes the place of
		var got []time.Time
		prop := func(e *ics.VEvent, p ics.ComponentProperty) time.Time {
			at, err := time.ParseInLocation(stamp, e.GetProperty(p).Value, z)
			require.NoError(t, err)
			return at
		}
		for _, e := range c.Events() {
			if e.GetProperty(ics.ComponentPropertyRecurrenceId) != nil {
				out[e.Id()+prop(e, ics.ComponentPropertyRecurrenceId).String()] = true
				got = append(got, prop(e, ics.ComponentPropertyDtStart))
			}
			for _, x := range e.GetProperties(ics.ComponentPropertyExdate) {
				at, err := time.ParseInLocation(stamp, x.Value, z)
				require.NoError(t, err)
				out[e.Id()+at.String()] = true
			}
		}
		for _, e := range c.Events() {
			rule := e.GetProperty(ics.ComponentPropertyRrule)
			if rule == nil {
				continue
			}
			o, err := rrule.StrToROption(rule.Value)
			require.NoError(t, err)
			o.Dtstart = prop(e, ics.ComponentPropertyDtStart)
			r, err := rrule.NewRRule(*o)
			require.NoError(t, err)
			for _, at := range r.Between(zoned{z}.moment(from, 0), zoned{z}.moment(to, 24*60), true) {
				if !out[e.Id()+at.String()] {
					got = append(got, at)
				}
			}
		}
		slices.SortFunc(got, time.Time.Compare)
		slices.SortFunc(want, time.Time.Compare)
		require.Len(t, got, len(want), name)
		for i := range want {
			assert.True(t, want[i].Equal(got[i]), "%s: %s is %s", name, want[i], got[i])
		}
	}
}
