package calendar

import (
	"bytes"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A lesson is every week on its day, from the first after today on, at the clock's time.
func TestWrite(t *testing.T) {
	friday := time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)
	var b bytes.Buffer
	require.NoError(t, Write(&b, "Millrace", []Lesson{
		{ID: "1@x", Who: "Pia; and Bo", Weekday: time.Tuesday, Time: "16:30"},
		{ID: "2@x", Who: "Ada", Weekday: time.Friday, Time: "08:00", Minutes: 30},
		{ID: "3@x", Who: "Cleo", Weekday: time.Sunday},
	}, friday))
	for _, want := range []string{
		"DTSTART:20260324T163000\r\n", "DTEND:20260324T171500\r\n", `SUMMARY:Pia\; and Bo`,
		"DTSTART:20260320T080000\r\n", "DTEND:20260320T083000\r\n", "DTSTART;VALUE=DATE:20260322", "RRULE:FREQ=WEEKLY", "X-WR-CALNAME:Millrace",
	} {
		assert.Contains(t, b.String(), want)
	}
	assert.ErrorContains(t, Write(&b, "M", []Lesson{{Who: "Pia", Time: "tea"}}, friday), "Pia")
}
