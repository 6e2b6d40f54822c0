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

// A pickup begins where its bar has got to; a bar in another time is as long as that.
func TestMeasure(t *testing.T) {
	p := Part{Meter: FourFour, Feel: Swing}
	whole, odd := Bar{}, Bar{Meter: Meter{2, 4}}
	half := Bar{Lead: pitch.F(7, 8)}
	assert.Equal(t, pitch.Whole(1), p.Measure(&whole).Length())
	assert.Equal(t, pitch.F(1, 2), p.Measure(&odd).Length())
	assert.Equal(t, pitch.F(1, 8), p.Measure(&half).Length())
	p.Lines = []Line{{Bars: []Bar{half, whole, odd}, Times: 2}}
	assert.Equal(t, pitch.F(13, 4), p.Lasts(p.Lines[0].Bars, 2))
	c := p.Clock(60)
	assert.InDelta(t, 1.0/3-0.5, c.Bent(p.Measure(&half)), 1e-9, "the short half of a swung beat")
	assert.Zero(t, c.Bent(p.Measure(&whole)))
	assert.InDelta(t, 2*(4+2+1.0/3), p.Seconds(60), 1e-9)
	five := Measure{Meter: Meter{5, 8}}
	assert.InDelta(t, 2.5, c.In(five, pitch.F(5, 8)), 1e-9, "a beat that is not whole is not swung")
}

// Another player's part is silent where they have no line, and as long.
func TestOf(t *testing.T) {
	note := Event{Length: pitch.Whole(1), Notes: []Note{{String: 5, Fret: 3}}}
	bars := []Bar{{Events: []Event{note}}, {Events: []Event{note}, Meter: Meter{2, 4}}}
	p := Part{Meter: FourFour, Lines: []Line{
		{Bars: bars, Times: 2},
		{Bars: bars[:1], Times: 1, Beside: []Voice{{Player: "lead", Bars: bars[:1], Times: 1}}},
	}}
	lead := p.Of("lead")
	assert.Equal(t, p.Seconds(100), lead.Seconds(100))
	assert.Equal(t, p.Played(), lead.Played())
	assert.Equal(t, Rest, lead.Lines[0].Bars[1].Events[0].Kind)
	assert.Equal(t, pitch.F(1, 2), lead.Lines[0].Bars[1].Events[0].Length)
	assert.Equal(t, Notes, lead.Lines[1].Bars[0].Events[0].Kind)
}

// Words are sung to chords and accents, where those are too few to whatever sounds,
// and else to the beats.
func TestAnchors(t *testing.T) {
	at := func(eighth int64) pitch.Frac { return pitch.F(eighth, 8) }
	e := func(start int64, kind Kind, accent bool) Event {
		return Event{Start: at(start), Kind: kind, Notes: []Note{{String: 1}}, Marks: Marks{Accent: accent}}
	}
	p := Part{Meter: FourFour}
	b := Bar{Events: []Event{e(0, Chord, false), e(2, Notes, false), e(3, Rest, false), e(4, Notes, true)}}
	assert.Equal(t, []pitch.Frac{at(0), at(4)}, p.Anchors(&b, 2))
	assert.Equal(t, []pitch.Frac{at(0), at(2), at(4)}, p.Anchors(&b, 3))
	assert.Equal(t, []pitch.Frac{at(0), at(2), at(4), at(6)}, p.Anchors(&b, 4))
	assert.Len(t, p.Anchors(&b, 7), 7, "in equal shares")
	assert.Equal(t, []pitch.Frac{at(6)}, p.Anchors(&Bar{Lead: at(6)}, 1), "in a pickup")
}

// What is muted, stopped or dead does not ring.
func TestRings(t *testing.T) {
	ringing := Part{Ring: true}
	note := []Note{{String: 1, Fret: 3}}
	for _, c := range []struct {
		e    Event
		p    Part
		want bool
	}{
		{Event{Notes: note}, ringing, true},
		{Event{Notes: note}, Part{}, false},
		{Event{Notes: note, Marks: Marks{Ring: true}}, Part{}, true},
		{Event{Notes: note, Marks: Marks{Short: true}}, ringing, false},
		{Event{Notes: note, Marks: Marks{PalmMute: true}}, ringing, false},
		{Event{Kind: Strum}, ringing, false},
	} {
		assert.Equal(t, c.want, c.e.Rings(&c.p), "%+v", c.e)
	}
}
