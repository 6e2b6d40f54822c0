package sheet

import (
	"fmt"
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
