package arrange

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/song"
)

// A song whose strings are lifted is played the same whether its chords are named by
// their shapes or by what sounds: the same strings, frets, fingers and grades.
func TestNamesOfShapesAndOfSoundAreOneSong(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawPart(t)
		s.Names = rapid.SampledFrom([]song.Naming{song.Shapes, song.Sounding}).Draw(t, "names")
		other := s.Heard()
		shapes, sounds := New(s, Options{}), New(other, Options{})
		for _, rung := range Rungs {
			x, y := shapes.Version(0, rung, Way{}), sounds.Version(0, rung, Way{})
			require.InDelta(t, x.Grade, y.Grade, 1e-9, "%s", rung)
			for b := range x.Bars {
				require.Len(t, y.Bars[b].Events, len(x.Bars[b].Events))
				for i := range x.Bars[b].Events {
					e, f := &x.Bars[b].Events[i], &y.Bars[b].Events[i]
					require.Equal(t, e.Fingering, f.Fingering, "%s bar %d event %d", rung, b+1, i)
					require.Equal(t, len(e.Notes), len(f.Notes))
					for k := range e.Notes {
						require.Equal(t, e.Notes[k].Pitch.Pitch(), f.Notes[k].Pitch.Pitch())
					}
				}
			}
		}
	})
}

// What a name means is one reading for all of a sheet: for names with a voicing and
// without one, for the riffs beside them, and in every rung.
func TestNamesOverACapo(t *testing.T) {
	for _, c := range []struct {
		why, sheet string
		rung       Rung
		want       []string // pitches that sound, low to high, by event
	}{
		{"players mean the shape", "capo: 2\nA:\n| G - D - |\n", AsWritten, []string{"A2 C#3 E3 A3 C#4 A4", "E3 B3 E4 G#4"}},
		{"and the key of what sounds agrees", "key: A\ncapo: 2\nA:\n| G - D - |\n", OneFinger, []string{"A2", "E3"}},
		{"a key that fits the names alone makes them what sounds", "key: G\ncapo: 2\nA:\n| G - D - |\n", OneFinger, []string{"G2", "D3"}},
		{"the sheet says it", "key: G\ncapo: 2\nchords: shapes\nA:\n| G - D - |\n", OneFinger, []string{"A2", "E3"}},
		{"a voicing says it for the names without one", "key: G\ncapo: 2\nA:\n| G=320003 - D - |\n", OneFinger, []string{"A2", "E3"}},
		{"a riff beside them agrees", "capo: 2\nA:\n| 3E - G5 - |\n", OneFinger, []string{"A2", "A2"}},
		{"half a step down", "tuning: half step down\nA:\n| E5 - A5 - |\n", TwoNote, []string{"Eb2 Bb2", "G#2 D#3"}},
		{"half a step down, named by what sounds", "key: Eb minor\ntuning: half step down\nA:\n| Eb5 - Ab5 - |\n", TwoNote, []string{"Eb2 Bb2", "Ab2 Eb3"}},
		{"drop C is drop D lowered", "tuning: drop C\nA:\n| D5 - G5 - |\n", TwoNote, []string{"C2 G2", "F2 C3"}},
		{"an open tuning moves strings unlike each other: names sound", "tuning: open G\nA:\n| G - C - |\n", OneFinger, []string{"G2", "C3"}},
	} {
		s := read(t, c.sheet)
		v := New(s, Options{}).Version(0, c.rung, Way{})
		var got []string
		for _, e := range v.Bars[0].Events {
			text := ""
			for i, n := range e.Notes {
				if i > 0 {
					text += " "
				}
				text += n.Pitch.String()
			}
			got = append(got, text)
		}
		assert.Equal(t, c.want, got, c.why)
	}
}

// The version says by its first chord what names are, and calls its shapes as the sheet
// names chords.
func TestAVersionSaysWhatNamesAre(t *testing.T) {
	v := New(read(t, "capo: 2\nkey: A\nA:\n| G - D - |\n"), Options{}).Version(0, TwoNote, Way{})
	assert.Contains(t, v.Why, NamesAreShapes{"G", "A"})
	assert.Equal(t, "G5", v.Bars[0].Events[0].Why[0].(StandsFor).Of)
	name, ok := v.Bars[0].Events[0].Name()
	assert.True(t, ok)
	assert.Equal(t, "G5", name.Symbol)
	v = New(read(t, "capo: 2\nkey: A\nchords: sounding\nA:\n| A - E - |\n"), Options{}).Version(0, TwoNote, Way{})
	assert.Contains(t, v.Why, NamesSound{"A", "G"})
	assert.Equal(t, "A5", v.Bars[0].Events[0].Why[0].(StandsFor).Of)
	v = New(read(t, "key: A\nA:\n| A - E - |\n"), Options{}).Version(0, TwoNote, Way{})
	for _, f := range v.Why {
		switch f.(type) {
		case NamesAreShapes, NamesSound:
			assert.Fail(t, "there is one name for each chord", "%+v", f)
		}
	}
}

// A chord that is written keeps its name with a shape that leaves out what is usually left
// out, and gives it up with one that leaves out more.
func TestTypedNames(t *testing.T) {
	for _, c := range []struct{ slot, named string }{
		{"C7", "C7"}, {"C7=x32310", "C7"}, {"Am7=x02010", "Am7"}, {"G9=3x320x", "G9"}, {"G9=3x34xx", ""}, {"C9=x3233x", "C9"}, {"G13=3x345x", "G13"},
		{"C=x320xx", "C"}, {"C=x3x0xx", ""}, {"Cmaj7=x3245x", "Cmaj7"}, {"Dm7b5=x5656x", "Dm7b5"}, {"F7#9=x8x891", ""}, {"G7=3x343x", "G7"},
	} {
		p := read(t, "A:\n| "+c.slot+" |\n").Parts[0]
		v := New(read(t, "A:\n| "+c.slot+" |\n"), Options{}).Version(0, AsWritten, Way{})
		typed := v.Typed(&p)
		e := &typed.Lines[0].Bars[0].Events[0]
		got := ""
		if e.Kind == song.Chord {
			got = e.Chord.Symbol
		}
		assert.Equal(t, c.named, got, c.slot)
	}
}
