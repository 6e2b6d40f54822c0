package sheet

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// Any text from elsewhere makes a name that a sheet can have.
func TestForeignNames(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.OneOf(rapid.String(), rapid.SampledFrom([]string{"Verse x3", "key", "a, b | c:", "7A", "words", "×2", "#", "Em7", "lead!"})).Draw(t, "text")
		part, player := NameOfPart(text), PlayerName(text)
		if part == "" {
			part = "A"
		}
		s := Parse(fmt.Sprintf("title: T\norder: %s x2\n\n%s:\n| 0A |\n%s | 3A |\n", part, part, player))
		require.True(t, s.OK(), "%q: %v", text, s.Problems)
		assert.Equal(t, part, s.Song.Parts[0].Name)
		assert.Equal(t, []string{player}, s.Song.Parts[0].Players())
	})
}

// A bar is typable just where what is written of it reads as the same again.
func TestTypable(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var events []song.Event
		at := pitch.Whole(0)
		for at.Less(pitch.Whole(1)) {
			events = append(events, song.Event{Start: at, Kind: song.Notes, Notes: []song.Note{{String: 5, Fret: len(events) % 9}}})
			at = at.Add(pitch.F(1, rapid.SampledFrom([]int64{2, 3, 4, 5, 7, 8, 11, 16, 48, 96}).Draw(t, "length")))
		}
		m := song.Measure{Meter: song.FourFour}
		s := &song.Song{Title: "T", Meter: song.FourFour, Tempo: 100, Tuning: newSong().Tuning, Order: []song.Leg{{Part: 0, Times: 1}},
			Parts: []song.Part{{Name: "A", Meter: song.FourFour, Tempo: 100, Lines: []song.Line{{Times: 1, Bars: []song.Bar{{Events: events}}}}}}}
		again := Parse(Write(s))
		same := again.OK() && len(again.Song.Parts[0].Lines) == 1 && len(again.Song.Parts[0].Lines[0].Bars[0].Events) == len(events)
		for i := 0; same && i < len(events); i++ {
			same = again.Song.Parts[0].Lines[0].Bars[0].Events[i].Start == events[i].Start
		}
		assert.Equal(t, same, Typable(m, events), Write(s))
	})
}

// What can be typed can be written again, however crowded and nested: the limit counts
// slots, and so does the writing where it must.
func TestCrowdedBarsAreWrittenWithinTheLimit(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		left := MaxSlots
		var draw func(depth int) string
		draw = func(depth int) string {
			if depth == MaxNesting || left < 6 || rapid.IntRange(0, 3).Draw(t, "kind") > 0 {
				left--
				return "0A"
			}
			inner := make([]string, rapid.IntRange(2, 7).Draw(t, "n"))
			for i := range inner {
				inner[i] = draw(depth + 1)
			}
			return "(" + strings.Join(inner, " ") + ")"
		}
		text := "| 0A"
		for range rapid.IntRange(1, 24).Draw(t, "slots") {
			if left > 6 {
				text += " " + draw(0)
			}
		}
		s := Parse("title: Crowded\nA:\n" + text + " |\n")
		if !s.OK() {
			return // more than the limit
		}
		bar := s.Song.Parts[0].Lines[0].Bars[0]
		require.True(t, Typable(s.Song.Parts[0].Measure(&bar), bar.Events), text)
		again := Parse(Write(s.Song))
		require.True(t, again.OK(), "%s\n%s\n%v", text, Write(s.Song), again.Problems)
		require.Equal(t, len(bar.Events), len(again.Song.Parts[0].Lines[0].Bars[0].Events))
		for i, e := range again.Song.Parts[0].Lines[0].Bars[0].Events {
			require.Equal(t, bar.Events[i].Start, e.Start, text)
		}
	})
}
