package main

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// fretsOf lists the frets of the first bar of the first rung of a part.
func fretsOf(t *testing.T, v any) (frets []float64) {
	t.Helper()
	for _, e := range at(t, v, "parts", 0, "rungs", 0, "bars", 0, "events").([]any) {
		for _, n := range at(t, e, "notes").([]any) {
			frets = append(frets, at(t, n, "fret").(float64))
		}
	}
	return frets
}

// Every option of arrange changes what comes out, as it says.
func TestArrangeOptions(t *testing.T) {
	const line = "title: L\ntempo: 120\nA:\n| 7A 5A 3A 0A |\n"
	one := func(args ...string) []float64 {
		return fretsOf(t, answer(t, line, append([]string{"arrange", "-", "--rung", "one-finger"}, args...)...))
	}
	assert.Equal(t, []float64{7, 5, 3, 0}, one(), "nearest is nearest to where it is typed")
	assert.Equal(t, []float64{7, 5, 3, 0}, one("--prefer", "one-string"))
	assert.Equal(t, []float64{7, 5, 3, 0}, one("--pin", "all: string A"))
	assert.Equal(t, []float64{12, 5, 3, 0}, one("--pin", "bar 1 at 0: string E"), "the rest lies where it is written, no open string up the neck")
	assert.Equal(t, []float64{5, 3, 1, 0}, one("--tuning", "B2 A2 D3 G3 B3 E4", "--pin", "all: string E"), "B2, so that the thick string is higher")

	low := answer(t, line, "arrange", "-", "--rung", "one-finger", "--pin", "bar 1: frets 20-22")
	assert.Contains(t, at(t, low, "parts", 0, "rungs", 0, "unmet", 0), "does not have")

	const fast = "title: F\ntempo: 240\nA:\n| 0E 0E 0E 0E 3E 3E 5E 5E |\n"
	thin := answer(t, fast, "arrange", "-", "--rung", "one-finger", "--nps", "4")
	assert.NotEmpty(t, at(t, thin, "parts", 0, "rungs", 0, "bars", 0, "dropped"))
	assert.Len(t, fretsOf(t, thin), 4)
	assert.Len(t, fretsOf(t, answer(t, fast, "arrange", "-", "--rung", "one-finger", "--nps", "4", "--full-rhythm")), 8)
	assert.Len(t, fretsOf(t, answer(t, fast, "arrange", "-", "--rung", "one-finger", "--nps", "9")), 8)

	grade := func(args ...string) float64 {
		return at(t, answer(t, fast, append([]string{"arrange", "-", "--rung", "two-note", "--full-rhythm"}, args...)...), "parts", 0, "rungs", 0, "grade").(float64)
	}
	plain := grade()
	assert.Greater(t, grade("--tempo", "300"), plain)
	assert.Less(t, grade("--tempo", "60"), plain)
	assert.Greater(t, grade("--picking", "all-down"), plain)
	assert.Greater(t, grade("--unlearnt", "two fingers"), plain)
	assert.GreaterOrEqual(t, grade("--reach", "70"), plain)
	assert.LessOrEqual(t, grade("--scale", "578"), plain)
	drop := "title: D\ntuning: drop D\nA:\n| G5 - F5 - |\n"
	barre := answer(t, drop, "arrange", "-", "--rung", "two-note")
	none := answer(t, drop, "arrange", "-", "--rung", "two-note", "--no-barre", "--no-little", "--thumb", "--acoustic")
	fingers := func(v any) string {
		var b strings.Builder
		for _, n := range at(t, v, "parts", 0, "rungs", 0, "bars", 0, "events", 0, "notes").([]any) {
			b.WriteByte('0' + byte(at(t, n, "finger").(float64)))
		}
		return b.String()
	}
	assert.Contains(t, []string{"11", "33"}, fingers(barre), "one finger across")
	assert.Contains(t, []string{"11", "33"}, fingers(none), "two strings under one finger are no barre")
	three := "title: D\ntuning: drop D\nA:\n| G5=555xxx - - - |\n"
	barre = answer(t, three, "arrange", "-", "--rung", "as-written")
	none = answer(t, three, "arrange", "-", "--rung", "as-written", "--no-barre")
	assert.Equal(t, "111", fingers(barre))
	assert.Equal(t, "111", fingers(none), "nor are three by themselves")
	free := fretsOf(t, answer(t, "title: R\nA:\n| 12E 14E |\n", "arrange", "-", "--rung", "as-written", "--free"))
	assert.NotEqual(t, []float64{12, 14}, free)

	for _, c := range [][2]string{{"--nps 0", "--nps"}, {"--picking sideways", "--picking"}, {"--unlearnt juggling", "--unlearnt"}, {"--pin nonsense", "--pin"}, {"--school loud", "--school"}} {
		code, _, errs := ask(t, line, append([]string{"arrange", "-"}, strings.Fields(c[0])...)...)
		assert.Equal(t, exitUsage, code, c[0])
		assert.Contains(t, errs, c[1])
	}
}

// The rungs come in the order of their grades, and say which are even.
func TestArrangeLadder(t *testing.T) {
	v := answer(t, "title: E\nA:\n| 0E - - - |\n", "arrange", "-")
	last := 0.0
	even := false
	for _, r := range at(t, v, "parts", 0, "rungs").([]any) {
		g := at(t, r, "grade").(float64)
		require.GreaterOrEqual(t, g, last)
		last = g
		if m, ok := r.(map[string]any)["even_with"]; ok {
			even = even || len(m.([]any)) > 0
		}
	}
	assert.True(t, even, "an open string is as easy by one finger as it is written")
	_, text, _ := ask(t, "title: E\nA:\n| 0E - - - |\n", "arrange", "-", "--pin", "all: frets 9-12")
	assert.Contains(t, text, "does not have")
}
