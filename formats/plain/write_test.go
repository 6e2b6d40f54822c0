package plain

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/song"
	"valleyside/formats/take"
)

// What is written at the head of a song and of its parts is read as what it was.
func TestHeadsComeBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		s.By = rapid.SampledFrom([]string{"", "Nell Arbour"}).Draw(t, "by")
		s.Capo = rapid.IntRange(0, 12).Draw(t, "capo")
		s.Tuning, _ = neck.Parse(rapid.SampledFrom([]string{"standard", "drop D", "D A D G B E", "F A# D# G# C F", "standard -35 cents", "C G C G C E"}).Draw(t, "tuning"))
		var text Text
		text.Song(s, true)
		for i := range s.Parts {
			text.Part(s, &s.Parts[i])
		}

		var problems take.Problems
		a := New(&problems)
		a.Score.Own = true
		var bars []take.Bar
		headed := false
		for _, line := range strings.Split(text.String(), "\n") {
			switch {
			case line == "":
			case a.Line(line):
				if strings.HasPrefix(line, "[") {
					headed = true
				}
			case !headed:
				require.True(t, a.Head(line), line)
			}
			if headed && line == "" {
				bars = append(bars, a.Bar())
				headed = false
			}
		}
		require.Empty(t, problems, text.String())
		assert.Equal(t, s.Title, a.Score.Title)
		assert.Equal(t, s.By, a.Score.By)
		assert.Equal(t, s.Capo, a.Capo)
		assert.Equal(t, s.Tuning, a.Tuning, text.String())
		require.Len(t, bars, len(s.Parts), text.String())
		for i := range s.Parts {
			p := &s.Parts[i]
			assert.Equal(t, p.Name, bars[i].Section)
			assert.Equal(t, p.Meter, bars[i].Meter, text.String())
			assert.Equal(t, p.Key, bars[i].Key)
			assert.Equal(t, p.Feel, bars[i].Feel)
		}
	})
}

func TestText(t *testing.T) {
	var text Text
	text.Line("trailing   ")
	text.Set("Nothing", "")
	text.Set("Tempo", Number(92.5))
	text.Part(&song.Song{Meter: song.FourFour, Tempo: 100}, &song.Part{Name: "Verse", Meter: song.Meter{Count: 3, Unit: 4}, Tempo: 90, Feel: song.Swing, Advice: song.Advice{Note: "softly", Cue: "the bell", Sound: "clean, neck pickup"},
		Lines: []song.Line{{Bars: []song.Bar{{Lead: pitch.F(1, 2)}}, Times: 1}}})
	assert.Equal(t, "trailing\nTempo: 92.5\n\n[Verse]\nTime: 3/4\nTempo: 90\nFeel: swing\nPickup: 1\nNote: softly\nCue: the bell\nSound: clean, neck pickup\n", text.String())
}

func TestTuningWords(t *testing.T) {
	for name, want := range map[string]string{
		"standard": "E A D G B E", "drop D": "D A D G B E", "standard -35 cents": "E A D G B E -35 cents", "standard +12.5 cents": "E A D G B E 12.5 cents",
	} {
		tuned, err := neck.Parse(name)
		require.NoError(t, err)
		assert.Equal(t, want, tuning(tuned), name)
	}
	for _, name := range []string{"E A D G B E", "D A D F# A D", "C G C G C E", "B E A D F# B", "Eb Ab Db Gb Bb Eb", "D A D G B E 20 cents"} {
		tuned, err := neck.Parse(name)
		require.NoError(t, err, name)
		again, err := neck.Parse(tuning(tuned))
		require.NoError(t, err, name)
		assert.Equal(t, tuned, again, name)
	}
}
