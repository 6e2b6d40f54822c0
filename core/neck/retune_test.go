package neck

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The figures that every luthier knows: a semitone up is 12 % more tension, two
// are 26 %; a semitone down is 11 % less, two are 21 %.
func TestTension(t *testing.T) {
	for steps, percent := range map[int]float64{1: 12, 2: 26, -1: -11, -2: -21, 0: 0} {
		strings, _ := Retune(Standard, Standard.Up(steps), A4)
		for _, s := range strings {
			assert.InDelta(t, percent, s.Tension, 0.5)
			assert.Equal(t, float64(steps), math.Round(s.Semitones*1e9)/1e9)
		}
	}
}

func TestRetune(t *testing.T) {
	drop, err := Parse("drop D")
	require.NoError(t, err)
	strings, warnings := Retune(Standard, drop, A4)
	assert.Equal(t, String(6), strings[0].String)
	assert.Equal(t, "E2", strings[0].From.String())
	assert.Equal(t, "D2", strings[0].To.String())
	assert.InDelta(t, -2, strings[0].Semitones, 1e-9)
	assert.InDelta(t, 73.42, strings[0].Hz, 0.01)
	for _, s := range strings[1:] {
		assert.Zero(t, s.Semitones)
		assert.Zero(t, s.Tension)
	}
	assert.Len(t, warnings, 1, "only the floating bridge")
	_, warnings = Retune(Standard, Standard.Up(1), A4)
	assert.Contains(t, warnings[0], "all strings go up")
	_, warnings = Retune(drop, Standard, A4)
	assert.Contains(t, warnings[0], "the E string goes up 2 semitones, 26 % more tension")
	_, warnings = Retune(Standard, Standard, A4)
	assert.Empty(t, warnings)
}

// A record at 432 Hz for A4 is 31.8 cents flat; played a little faster it is at
// pitch.
func TestOffset(t *testing.T) {
	cents := Cents(432, 69, A4)
	assert.InDelta(t, -31.77, cents, 0.01)
	assert.InDelta(t, 440.0/432, Rate(cents), 1e-9)
	flat := Standard
	flat.Cents = cents
	assert.InDelta(t, 108, flat.Hz(5, A4), 1e-6, "the A string of that record")
	rapid.Check(t, func(t *rapid.T) {
		c := rapid.Float64Range(-600, 600).Draw(t, "cents")
		hz := Standard.Open(6).Hz(A4) * math.Exp2(c/1200)
		require.InDelta(t, c, Cents(hz, Standard.Open(6), A4), 1e-9)
		require.InDelta(t, Standard.Open(6).Hz(A4), hz*Rate(c), 1e-9)
	})
}
