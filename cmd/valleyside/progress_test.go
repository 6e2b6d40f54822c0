package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

const practiced = `{"time_zone": "Europe/Berlin",
 "parts": [{"name": "Riff", "target": 100}, {"name": "Verse", "target": 90}, {"name": "Bridge", "target": 90}, {"name": "End", "target": 80}],
 "entries": [
  {"part": "Riff", "tempo": 100, "clean": 3, "minutes": 5, "at": "2026-03-01T18:00:00+01:00"},
  {"part": "Riff", "tempo": 100, "clean": 4, "minutes": 5, "at": "2026-03-02T18:00:00+01:00"},
  {"part": "Verse", "tempo": 70, "clean": 3, "minutes": 5, "at": "2026-03-02T18:00:00+01:00"},
  {"part": "Bridge", "tempo": 60, "clean": 0, "minutes": 5, "at": "2026-03-01T18:00:00+01:00"},
  {"part": "Bridge", "tempo": 60, "clean": 0, "minutes": 5, "at": "2026-03-02T18:00:00+01:00"},
  {"part": "Bridge", "tempo": 60, "clean": 1, "minutes": 5, "at": "2026-03-03T18:00:00+01:00"}]}`

func TestProgressCommand(t *testing.T) {
	v := answer(t, practiced, "progress", "-", "--now", "2026-03-03T20:00:00+01:00")
	for i, want := range [][]any{{"Riff", "learnt", 100.0, "2026-03-04", "up"}, {"Verse", "growing", 70.0, "", "stay"}, {"Bridge", "stuck", 52.0, "", "back"}, {"End", "new", 48.0, "", "stay"}} {
		assert.Equal(t, want, []any{at(t, v, "parts", i, "name"), at(t, v, "parts", i, "state"), at(t, v, "parts", i, "tempo"), at(t, v, "parts", i, "due"), at(t, v, "parts", i, "advice")})
		assert.NotEmpty(t, at(t, v, "parts", i, "why"))
	}
	v = answer(t, practiced, "progress", "-", "--now", "2026-03-04T00:10:00+01:00")
	assert.Equal(t, "due", at(t, v, "parts", 0, "state"), "by the day of the studio")
}

func TestPlanCommand(t *testing.T) {
	v := answer(t, practiced, "plan", "-", "--minutes", "20", "--now", "2026-03-05T20:00:00+01:00")
	sum, in := 0.0, map[any]bool{}
	for _, one := range at(t, v, "items").([]any) {
		sum += at(t, one, "minutes").(float64)
		in[at(t, one, "part")] = true
		assert.NotEmpty(t, at(t, one, "why"))
	}
	assert.Equal(t, 20.0, sum)
	for _, one := range at(t, v, "left_out").([]any) {
		assert.False(t, in[at(t, one, "part")])
		in[at(t, one, "part")] = true
		assert.NotEmpty(t, at(t, one, "why"))
	}
	assert.Len(t, in, 4)
}

func TestBadLogs(t *testing.T) {
	for in, want := range map[string]string{
		`{`:                        "line 1",
		`{"parts": [{"name": 3}]}`: "parts.name is no string",
		`{"time_zone": "Mars"}`:    "write one like Europe/Berlin",
		`{"parts": [{"name": "A", "target": 0}]}`:                                                                                      "parts[0]: the target of",
		`{"parts": [{"name": "A", "target": 80}, {"name": "A", "target": 80}]}`:                                                        "there twice",
		`{"parts": [{"name": "A", "target": 80}], "entries": [{"part": "B"}]}`:                                                         "entries[0]: \"B\" is none of the parts",
		`{"parts": [{"name": "A", "target": 80}], "entries": [{"part": "A", "tempo": 1e300, "at": "2026-03-01T18:00:00Z"}]}`:           "entries[0]: the tempo",
		`{"parts": [{"name": "A", "target": 80}], "entries": [{"part": "A", "tempo": 80, "clean": -1, "at": "2026-03-01T18:00:00Z"}]}`: "clean passes",
		`{"parts": [{"name": "A", "target": 80}], "entries": [{"part": "A", "tempo": 80}]}`:                                            "has no time",
	} {
		for _, command := range []string{"progress", "plan"} {
			code, _, errs := ask(t, in, command, "-")
			assert.Equal(t, exitInput, code, in)
			assert.Contains(t, errs, want, in)
		}
	}
	code, _, errs := ask(t, practiced, "plan", "-", "--minutes", "0")
	assert.Equal(t, exitUsage, code)
	assert.Contains(t, errs, "1 to 1440")
	code, _, _ = ask(t, practiced, "progress", "-", "--now", "tomorrow")
	assert.Equal(t, exitUsage, code)
}
