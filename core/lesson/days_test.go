package lesson

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
)

// New things are counted as a teacher counts them: two shapes and their change are one, a change
// of shapes that are known is one, and what is played is none.
func TestThings(t *testing.T) {
	things := func(known, body string) (n int, by map[string]int) {
		k, err := ParseKnown(known)
		require.NoError(t, err)
		l := build(read(t, body), arrange.AsWritten, Student{Known: k, Minutes: 60})
		list := l.things()
		by = map[string]int{}
		all := map[int]bool{}
		for i, name := range kinds(l) {
			by[name] = list[i]
			if list[i] > 0 {
				all[list[i]] = true
			}
		}
		return len(all), by
	}
	n, by := things("", "tempo: 60\nA:\n| C - - - | G - - - | C - - - |")
	assert.Equal(t, 1, n, "%v", by)
	assert.Equal(t, by["shape A C"], by["change A C G"])
	assert.Equal(t, by["shape A G"], by["change A C G"])
	n, _ = things("C, Bm, Am7", "tempo: 140\nA:\n| C C Bm Bm | C C Am7=x02010 - |")
	assert.Equal(t, 1, n, "a change of shapes that are known")
	n, by = things("C", "tempo: 60\nA:\n| C - - - | G - - - | Am - - - | G - - - |")
	assert.Equal(t, 1, n, "%v", by)
	n, _ = things("", "tempo: 60\nA:\n| 0E 3E 5E 3E |")
	assert.Zero(t, n)
}

// What hangs on what: a step of a part on what is before it in the part, whatever waits in
// another; a stage on another day; the form on all of it.
func TestWhatHangsOnWhat(t *testing.T) {
	l := build(read(t, "tempo: 60\norder: A, B\nA:\n| C - - - | G - - - |\nB:\n| 0E 3E 5E 3E | 0A 2A 3A 2A |"), arrange.AsWritten, Student{Minutes: 60})
	items := l.Items(nil)
	at := map[string]int{}
	for i, name := range kinds(l) {
		if _, had := at[name]; !had {
			at[name] = i
		}
	}
	needs := func(step, before string) bool {
		require.Contains(t, at, step)
		require.Contains(t, at, before)
		for _, j := range items[at[step]].After {
			if j == at[before] {
				return true
			}
		}
		return false
	}
	assert.True(t, needs("change A C G", "shape A C"))
	assert.True(t, needs("part A 1-2", "change A C G"))
	assert.False(t, needs("part B 1-2", "part A 1-2"), "parts do not wait for each other")
	assert.True(t, needs("seam A>B", "part A 1-2"))
	assert.True(t, needs("form", "seam A>B"))
	stages := 0
	for i, name := range kinds(l) {
		if name == "part A 1-2" && len(items[i].Apart) > 0 {
			stages++
			assert.Greater(t, l.Steps[i].Day, l.Steps[at[name]].Day)
		}
	}
	assert.Positive(t, stages)
}
