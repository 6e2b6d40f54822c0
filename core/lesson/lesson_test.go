package lesson

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/sheet"
)

func TestPlan(t *testing.T) {
	s := sheet.Parse(`title: T
tempo: 100
order: A, B x3, A
A:
| 0A | 3A | x2
B:
tempo: 50
time: 6/8
| 0A |
`)
	require.True(t, s.OK(), "%v", s.Problems)
	r := Plan(s.Song, 100)
	require.Len(t, r.Steps, 3)
	assert.Equal(t, Step{Part: "A", Times: 1, Bars: 4, From: 1, Seconds: 9.6}, r.Steps[0], "16 beats at 100")
	assert.Equal(t, "B", r.Steps[1].Part)
	assert.Equal(t, 5, r.Steps[1].From)
	assert.Equal(t, 3, r.Steps[1].Bars)
	assert.InDelta(t, 7.2, r.Steps[1].Seconds, 1e-9, "6 dotted quarters at 50")
	assert.Equal(t, 8, r.Steps[2].From)
	assert.Equal(t, 11, r.Bars)
	assert.InDelta(t, 26.4, r.Seconds, 1e-9)
	assert.InDelta(t, 52.8, Plan(s.Song, 50).Seconds, 1e-9, "at half the tempo twice as long")
}

func TestSuggest(t *testing.T) {
	ladder := func(grades ...float64) []arrange.Version {
		var list []arrange.Version
		for i, g := range grades {
			list = append(list, arrange.Version{Rung: arrange.Rungs[i], Grade: g})
		}
		return list
	}
	for _, c := range []struct {
		grades []float64
		want   arrange.Rung
	}{
		{[]float64{2, 3, 3.5, 5, 5.5, 6}, arrange.Octave},
		{[]float64{2, 3, 3, 5, 3, 3}, arrange.AsWritten},
		{[]float64{6, 5, 7, 8, 9, 9}, arrange.TwoNote},
		{[]float64{1, 1, 1, 1, 1, 1}, arrange.AsWritten},
		{[]float64{2, 3, 3, 3, 3.9, 5}, arrange.EasyChords},
	} {
		got, why := Suggest(ladder(c.grades...))
		assert.Equal(t, c.want, got, "%v", c.grades)
		assert.NotEmpty(t, why)
	}
}
