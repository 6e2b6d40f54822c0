package song

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/neck"
	"valleyside/core/pitch"
)

func TestMeters(t *testing.T) {
	for text, beat := range map[string]pitch.Frac{
		"4/4": pitch.F(1, 4), "3/4": pitch.F(1, 4), "6/8": pitch.F(3, 8), "9/8": pitch.F(3, 8),
		"12/8": pitch.F(3, 8), "7/8": pitch.F(1, 8), "3/8": pitch.F(1, 8), "2/2": pitch.F(1, 2),
	} {
		m, err := ParseMeter(text)
		require.NoError(t, err)
		assert.Equal(t, beat, m.Beat(), text)
		assert.Equal(t, text, m.String())
	}
	for _, bad := range []string{"", "4", "4/3", "0/4", "33/4", "4/64", "a/b"} {
		_, err := ParseMeter(bad)
		assert.Error(t, err, bad)
	}
}

func TestCountSyllables(t *testing.T) {
	f := pitch.F
	four, six := Meter{4, 4}, Meter{6, 8}
	for at, want := range map[pitch.Frac]string{
		f(0, 1): "1", f(1, 8): "&", f(1, 16): "e", f(3, 16): "a", f(1, 4): "2", f(7, 8): "&",
		f(1, 12): "trip", f(1, 6): "let", f(5, 12): "let", f(1, 32): "·",
	} {
		assert.Equal(t, want, four.Syllable(at, ByBeat), at)
	}
	for at, want := range map[pitch.Frac][2]string{
		f(0, 1): {"1", "1"}, f(1, 8): {"trip", "2"}, f(2, 8): {"let", "3"}, f(3, 8): {"2", "4"}, f(5, 8): {"let", "6"}, f(7, 16): {"ta", "&"}, f(1, 16): {"ta", "&"},
	} {
		assert.Equal(t, want[0], six.Syllable(at, ByBeat), at)
		assert.Equal(t, want[1], six.Syllable(at, ByEighth), at)
	}
}

func TestFeel(t *testing.T) {
	for text, want := range map[string]string{"straight": "straight", "Swing": "swing", "swing 60%": "swing 60%", "swing 60": "swing 60%", "swing 50%": "straight"} {
		f, err := ParseFeel(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, f.String())
		again, err := ParseFeel(f.String())
		require.NoError(t, err)
		assert.Equal(t, f, again)
	}
	for _, bad := range []string{"", "shuffle", "swing 90%", "swing x", "straight 50%"} {
		_, err := ParseFeel(bad)
		assert.Error(t, err, bad)
	}
}

// At 120 a beat takes half a second; swung, the second eighth comes at two
// thirds of it.
func TestClock(t *testing.T) {
	p := Part{Meter: FourFour}
	m := Measure{Meter: FourFour}
	assert.InDelta(t, 0.25, p.Clock(120).In(m, pitch.F(1, 8)), 1e-9)
	assert.InDelta(t, 2, p.Clock(120).In(m, pitch.Whole(1)), 1e-9)
	p.Feel = Swing
	c := p.Clock(120)
	assert.InDelta(t, 1.0/3, c.In(m, pitch.F(1, 8)), 1e-9)
	assert.InDelta(t, 0.5, c.In(m, pitch.F(1, 4)), 1e-9)
	assert.InDelta(t, 0.5+1.0/3, c.In(m, pitch.F(3, 8)), 1e-9)
	assert.InDelta(t, 1.0/6, c.In(m, pitch.F(1, 16)), 1e-9)
	p.Meter = Meter{6, 8}
	m.Meter = p.Meter
	assert.InDelta(t, 0.5/3, p.Clock(120).In(m, pitch.F(1, 8)), 1e-9, "swing does not bend thirds")
	p.Lines = []Line{{Bars: make([]Bar, 4), Times: 2}}
	assert.InDelta(t, 8, p.Seconds(120), 1e-9, "8 bars of 2 beats at 120")
}

func TestBendsAndHarmonicsSoundHigher(t *testing.T) {
	base := neck.Standard.Pitch(3, 7)
	assert.Equal(t, base+2, Note{String: 3, Fret: 7, Bend: 200}.Pitch(neck.Standard))
	assert.Equal(t, base+1, Note{String: 3, Fret: 7, Bend: 50}.Pitch(neck.Standard))
	// The natural harmonics of a string: octave, twelfth, two octaves.
	open := neck.Standard.Open(3)
	for fret, above := range map[int]pitch.Pitch{12: 12, 7: 19, 5: 24, 6: 6} {
		assert.Equal(t, open+above, Note{String: 3, Fret: fret, Harmonic: true}.Pitch(neck.Standard), fret)
	}
}

// A part counts its written and its played bars, its players, and what is
// muted.
func TestParts(t *testing.T) {
	note := Event{Kind: Notes, Notes: []Note{{String: 5, Fret: 3}}}
	dead := Event{Kind: Notes, Notes: []Note{{String: 5, Dead: true}}}
	accent := note
	accent.Accent = true
	p := Part{PalmMute: true, Meter: FourFour, Lines: []Line{
		{Bars: []Bar{{Events: []Event{note}}, {Events: []Event{dead}}}, Times: 3, Beside: []Voice{{Player: "lead"}, {Player: "bass"}}},
		{Bars: []Bar{{Events: []Event{accent}}}, Times: 1, Beside: []Voice{{Player: "lead"}}},
	}}
	assert.Equal(t, 3, p.Written())
	assert.Equal(t, 7, p.Played())
	assert.Len(t, p.Bars(), 3)
	assert.Equal(t, []string{"lead", "bass"}, p.Players())
	assert.True(t, note.Muted(&p))
	assert.False(t, accent.Muted(&p), "an accent is not muted by the part")
	accent.PalmMute = true
	assert.True(t, accent.Muted(&p), "but by its own mark")
	for e, want := range map[*Event][2]bool{
		&note: {true, false}, &dead: {true, true}, {Kind: Strum}: {true, true}, {Kind: Rest}: {false, false},
		{Kind: NoChord}: {false, false}, {Kind: Chord}: {true, false},
	} {
		assert.Equal(t, want, [2]bool{e.Sounds(), e.Dead()}, "%v", e.Kind)
	}
	s := Song{Parts: []Part{{Name: "A"}, p}, Tuning: neck.Standard, Capo: 2}
	s.Parts[1].Name = "B"
	i, ok := s.PartNamed("B")
	assert.True(t, ok)
	assert.Equal(t, 1, i)
	_, ok = s.PartNamed("b")
	assert.False(t, ok)
	assert.Equal(t, neck.Standard.Open(6)+2, s.Open().Open(6))
	assert.Equal(t, "down", Down.String())
}
