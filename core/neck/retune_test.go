package neck

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/pitch"
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
	strings, _ := Retune(Standard, drop, A4)
	assert.Equal(t, String(6), strings[0].String)
	assert.Equal(t, "E2", strings[0].From.String())
	assert.Equal(t, "D2", strings[0].To.String())
	assert.InDelta(t, -2, strings[0].Semitones, 1e-9)
	assert.InDelta(t, 73.42, strings[0].Hz, 0.01)
	for _, s := range strings[1:] {
		assert.Zero(t, s.Semitones)
		assert.Zero(t, s.Tension)
	}
	kinds := func(from, to Tuning) (list []CautionKind) {
		_, cautions := Retune(from, to, A4)
		for _, c := range cautions {
			list = append(list, c.Kind)
		}
		return list
	}
	parse := func(s string) Tuning {
		u, err := Parse(s)
		require.NoError(t, err)
		return u
	}
	assert.Equal(t, []CautionKind{Floating}, kinds(Standard, drop))
	assert.Equal(t, AllUp, kinds(Standard, Standard.Up(1))[0])
	assert.Equal(t, []CautionKind{GoesUp, Floating}, kinds(drop, Standard))
	assert.Empty(t, kinds(Standard, Standard))
	assert.Contains(t, kinds(parse("whole step down"), Standard), BackToUsual, "going back does not bend the neck")
	assert.NotContains(t, kinds(parse("whole step down"), Standard), AllUp)
	assert.Equal(t, []CautionKind{SlightlyUp, Floating}, kinds(Standard, parse("standard 35 cents")))
	assert.Contains(t, kinds(Standard, Standard.Up(-5)), Slack)
	assert.Contains(t, kinds(Standard, parse("drop C")), Slack)
	assert.NotContains(t, kinds(Standard, parse("whole step down")), Slack)
	_, cautions := Retune(parse("open G"), parse("open A"), A4)
	assert.Contains(t, cautions, Caution{Kind: CapoInstead, Tuning: "open G", Capo: 2})
	_, cautions = Retune(Standard, parse("open A"), A4)
	assert.Contains(t, cautions, Caution{Kind: CapoInstead, Tuning: "open G", Capo: 2})
}

// Whole half steps and a slip of the octave are noticed.
func TestOddOffsets(t *testing.T) {
	a4, err := pitch.ParseSpelled("A4")
	require.NoError(t, err)
	assert.Equal(t, OffsetNote{Kind: HalfSteps, Semitones: -1}, Odd(-100, a4))
	assert.Equal(t, OffsetNote{Kind: HalfSteps, Semitones: 2}, Odd(195, a4))
	assert.Equal(t, OffsetNote{Kind: OctaveSlip, Heard: "A3", Cents: 0}, Odd(Cents(220, 69, A4), a4))
	assert.Equal(t, Plain, Odd(-31.8, a4).Kind)
	assert.Equal(t, AtPitch, Odd(0, a4).Kind)
	assert.Equal(t, AtPitch, Odd(-2, a4).Kind)
	assert.Equal(t, OffsetNote{Kind: OtherNote, Heard: "E4", Cents: 2}, Odd(Cents(330, 69, A4), a4))
	assert.Equal(t, OffsetNote{Kind: OtherNote, Heard: "B3", Cents: -7}, Odd(Cents(246, 69, A4), a4))
	assert.Equal(t, HalfSteps, Odd(-1200, pitch.Spelled{}).Kind, "no note is given")
}

func TestTuningsWithoutSpaces(t *testing.T) {
	drop, err := Parse("DADGBE")
	require.NoError(t, err)
	assert.Equal(t, "drop D", drop.String())
	down, err := Parse("EbAbDbGbBbEb")
	require.NoError(t, err)
	assert.Equal(t, "half step down", down.String())
	_, err = Parse("D A D G B")
	assert.ErrorContains(t, err, "has 5 notes; write six")
	_, err = Parse("DADGB")
	assert.ErrorContains(t, err, "has 5 notes")
	_, err = Parse("nonsense")
	assert.ErrorContains(t, err, "not known")
	f, err := ParseFrets("x 3 2 0 1 0")
	require.NoError(t, err)
	assert.Equal(t, "x32010", f.String())
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
