package main

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"valleyside/core/sheet"
)

const two = "title: Two\nkey: C\ntempo: 90\norder: Verse x2, Answer, Verse\n\nVerse:\nmute: palm\n| 0A - 3A 5A - 3A . 0A | 0A - 3A 7A - 5A . 3A |\n\nAnswer:\n| C - F - | G - C - |\n"

// A lesson has the steps of the contract, each with a sheet that can be read.
func TestLessonCommand(t *testing.T) {
	v := answer(t, two, "lesson", "-", "--rung", "Answer=as-written", "--rung", "Verse=as-written", "--minutes", "15", "--known", "C, G")
	assert.Positive(t, at(t, v, "minutes"))
	assert.Positive(t, at(t, v, "days"))
	kinds := map[string]int{}
	for _, s := range at(t, v, "steps").([]any) {
		kind := at(t, s, "kind").(string)
		kinds[kind]++
		sh := sheet.Parse(at(t, s, "sheet").(string))
		assert.True(t, sh.OK(), "%v", sh.Problems)
		assert.LessOrEqual(t, at(t, s, "start_tempo"), at(t, s, "goal_tempo"))
		assert.Positive(t, at(t, s, "goal_passes"))
		assert.NotEmpty(t, at(t, s, "why"))
		assert.Len(t, at(t, s, "bars"), 2)
		if kind == "shape" {
			assert.Equal(t, "F", at(t, s, "shapes", 0, "name"), "C and G are known")
		}
	}
	for _, kind := range []string{"rhythm", "shape", "piece", "seam", "part", "form", "finish"} {
		assert.Positive(t, kinds[kind], kind)
	}
	all := answer(t, two, "lesson", "-", "--rung", "one-finger")
	for _, s := range at(t, all, "steps").([]any) {
		if kind := at(t, s, "kind"); kind == "part" || kind == "piece" {
			assert.Equal(t, "one-finger", at(t, s, "rung"))
		}
	}
	for _, c := range []struct {
		args []string
		code int
		says string
	}{
		{[]string{"lesson", "-", "--rung", "Chorus=octave"}, 1, `there is no part "Chorus"`},
		{[]string{"lesson", "-", "--rung", "ladder"}, 2, "is not a rung"},
		{[]string{"lesson", "-", "--known", "wobble"}, 2, "neither a chord"},
		{[]string{"lesson", "-", "--minutes", "0"}, 2, "minutes a day"},
		{[]string{"lesson", "-", "--reach", "-3"}, 2, "--reach"},
	} {
		code, _, errs := ask(t, two, c.args...)
		assert.Equal(t, c.code, code, "%v: %s", c.args, errs)
		assert.Contains(t, errs, c.says)
	}
	code, out, _ := ask(t, two, "lesson", "-")
	assert.Zero(t, code)
	assert.Contains(t, out, "Two: ")
}
