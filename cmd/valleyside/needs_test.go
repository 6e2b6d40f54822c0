package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What a song asks for is said by kind, name and the parts that ask for it; on an easier rung it is
// less. What is missing goes by what somebody has.
func TestNeedsCommand(t *testing.T) {
	const sheet = "title: T\n\nA:\n| Em - - - G - - - |\n\nB:\n| F - - - G - - - |\n"
	parts := func(v any, name string) any {
		for _, n := range at(t, v, "skills").([]any) {
			if at(t, n, "name") == name {
				assert.NotEmpty(t, at(t, n, "kind"))
				return at(t, n, "parts")
			}
		}
		return nil
	}
	v := answer(t, sheet, "needs", "-", "--known", "open chords", "--unlearnt", "barres")
	assert.Equal(t, []any{"A", "B"}, parts(v, "G 320003"))
	assert.Equal(t, []any{"B"}, parts(v, "F 133211"))
	assert.Equal(t, []any{"B"}, parts(v, "barres"))
	assert.Equal(t, "one thing to learn first", at(t, v, "ready"))
	assert.Equal(t, "barres", at(t, v, "missing", 0, "name"))
	assert.Equal(t, "ready now", at(t, answer(t, sheet, "needs", "-", "--known", "open chords, barre chords"), "ready"))
	v = answer(t, sheet, "needs", "-", "--rung", "one-finger")
	assert.Nil(t, parts(v, "F 133211"))
	assert.Equal(t, "ready now", at(t, v, "ready"))
	v = answer(t, sheet, "needs", "-", "--rung", "B=two-note")
	assert.Nil(t, parts(v, "F 133211"))
	assert.Equal(t, []any{"A"}, parts(v, "G 320003"))
	code, out, _ := ask(t, sheet, "needs", "-")
	assert.Zero(t, code)
	assert.Contains(t, out, "barre chords (B)")
	code, _, errs := ask(t, sheet, "needs", "-", "--rung", "escalator")
	assert.NotZero(t, code)
	assert.Contains(t, errs, "escalator")
}
