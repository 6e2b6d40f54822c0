package play

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
	require.Len(t, r.Legs, 3)
	assert.Equal(t, Leg{Part: "A", Times: 1, Bars: 4, From: 1, Seconds: 9.6}, r.Legs[0], "16 beats at 100")
	assert.Equal(t, "B", r.Legs[1].Part)
	assert.Equal(t, 5, r.Legs[1].From)
	assert.Equal(t, 3, r.Legs[1].Bars)
	assert.InDelta(t, 7.2, r.Legs[1].Seconds, 1e-9, "6 dotted quarters at 50")
	assert.Equal(t, 8, r.Legs[2].From)
	assert.Equal(t, 11, r.Bars)
	assert.InDelta(t, 26.4, r.Seconds, 1e-9)
	assert.InDelta(t, 52.8, Plan(s.Song, 50).Seconds, 1e-9, "at half the tempo twice as long")
}
