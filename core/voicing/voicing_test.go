package voicing

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/neck"
)

func find(t testing.TB, symbol string, tuning neck.Tuning, p hand.Player) []Voicing {
	c, err := chord.Parse(symbol)
	require.NoError(t, err)
	return Find(c, tuning, p)
}

// The shapes that every beginner's book begins with come first.
func TestOpenChords(t *testing.T) {
	for symbol, want := range map[string]string{
		"Em": "022000", "Am": "x02210", "D": "xx0232", "E": "022100", "A": "x02220", "C": "x32010",
		"Am7": "x02010", "E7": "020100", "Em7": "020000", "D5": "xx02xx", "A5": "x02xxx",
	} {
		found := find(t, symbol, neck.Standard, hand.Player{})
		require.NotEmpty(t, found, symbol)
		var shapes []string
		for _, v := range found {
			shapes = append(shapes, v.Frets.String())
		}
		assert.Contains(t, shapes, want, symbol)
	}
}

// What is found is the chord and nothing else, in reach and with the right
// bass, in every tuning.
func TestVoicingsAreTheChord(t *testing.T) {
	drop, _ := neck.Parse("drop D")
	openG, _ := neck.Parse("open G")
	for _, tuning := range []neck.Tuning{neck.Standard, drop, openG, neck.Standard.Up(3)} {
		for _, symbol := range []string{"C", "F#m", "Bb7", "Ebmaj7", "C/G", "D/F#", "G7sus4", "Am9", "Bdim", "C+", "E5"} {
			c, err := chord.Parse(symbol)
			require.NoError(t, err)
			p := hand.Player{Reach: 90}
			found := Find(c, tuning, p)
			if tuning == neck.Standard {
				assert.NotEmpty(t, found, symbol)
			}
			for _, v := range found {
				has := map[int]bool{}
				lowest := tuning.Pitch(v.Lowest(), v.Frets.On(v.Lowest()))
				for i, fret := range v.Frets {
					if fret < 0 {
						continue
					}
					pitch := tuning.Pitch(neck.StringAt(i), int(fret))
					require.GreaterOrEqual(t, pitch, lowest)
					above := ((pitch.Class()-c.Root.Class())%12 + 12) % 12
					has[above] = true
					require.True(t, c.Has(above) || pitch.Class() == c.Lowest().Class(), "%s in %s", v.Frets, symbol)
				}
				assert.Equal(t, c.Lowest().Class(), lowest.Class(), symbol)
				for _, tone := range c.Tones {
					if tone.Degree != "5" || len(c.Tones) < 4 {
						assert.True(t, has[tone.Semitones], "%s of %s in %s", tone.Degree, symbol, v.Frets)
					}
				}
				assert.LessOrEqual(t, v.Reach(p.Usual().Neck()), p.Reach)
				assert.LessOrEqual(t, v.Count(), 4)
			}
		}
	}
}

func TestNoVoicingForASmallReach(t *testing.T) {
	assert.Empty(t, find(t, "F#maj7", neck.Standard, hand.Player{Reach: 5}))
}

func BenchmarkFind(b *testing.B) {
	b.ReportAllocs()
	for b.Loop() {
		find(b, "Am7", neck.Standard, hand.Player{})
	}
}
