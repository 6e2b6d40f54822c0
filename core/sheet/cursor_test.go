package sheet_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
)

// where finds the cursor, a ‸ in a text, and takes it out.
func where(t require.TestingT, text string) (string, int, int) {
	before, _, ok := strings.Cut(text, "‸")
	require.True(t, ok)
	line := strings.Count(before, "\n") + 1
	return strings.Replace(text, "‸", "", 1), line, len([]rune(before[strings.LastIndex(before, "\n")+1:])) + 1
}

func TestSpotUnderTheCursor(t *testing.T) {
	const head = "title: T\nA:\n"
	for _, c := range []struct{ text, want string }{ // part, bar, sign, where its event begins and how long it lasts in all
		{"ti‸tle: T\nA:\n| 0A |", "-1 0"},
		{"title: T\nA‸:\n| 0A |", "0 0"},
		{head + "| ‸0A 3A |", "0 1 0A 0 1/2"},
		{head + "| 0A‸ 3A |", "0 1 0A 0 1/2"},
		{head + "| 0A  ‸ 3A |", "0 1 0A 0 1/2"},
		{head + "| 0A ‸3A |", "0 1 3A 1/2 1/2"},
		{head + "‸| 0A 3A |", "0 1 0A 0 1/2"},
		{head + "| 0A 3A ‸|", "0 1 3A 1/2 1/2"},
		{head + "| 0A 3A |‸", "0 1 3A 1/2 1/2"},
		{head + "| 0A 3A | ‸5A |", "0 2 5A 0 1"},
		{head + "| 0A - ‸- 3A |", "0 1 - 0 3/4"},
		{head + "| 0A | ‸- 3A |", "0 2 - 0 3/2"},
		{head + "| 0A |\n| ‸- 3A |", "0 2 - 0 3/2"},
		{head + "| 0A ‸- | % |", "0 1 - 0 1"},
		{head + "| 0A ‸(3A 5A) |", "0 1 (2)"},
		{head + "| 0A (‸3A 5A) |", "0 1 3A 1/2 1/4 in 2"},
		{head + "| 0A (3A (5A ‸7A) 8A) 9A |", "0 1 7A 1/2 1/18 in 2"},
		{head + "| 0A 3A | ‸% |", "0 2 %"},
		{head + "| 0A | [2/4] 3A‸ 5A |", "0 2 3A 0 1/4"},
		{head + "| 0A |\nlead | 7D ‸9D |", "0 1 9D 1/2 1/2"},
		{head + "| 0A | 3A |\n| 5A |\nlead | ‸7D |", "0 3 7D 0 1"},
		{head + "| 0A | 3A |\nwords | one | ‸two |", "0 1"},
		{head + "| 0A |\n\nB:\nlike: A\n1 | ‸3A |", "1 1 3A 0 1"},
		{head + "| 0A | 1A | 2A |\n\nB:\nlike: A\n2 | 3A | ‸5A |", "1 3 5A 0 1"},
		{head + "| 0A |\nB:\nlike: A\n| ‸3A |", "1 0 3A"},
		{head + "| 0A |\nA:\n| ‸3A |", "-1 0"}, // a second of the name is not read
		{head + "| 0A 99A ‸3A |", "0 1 3A 2/3 1/3"},
		{head + "| 0A ‸99A 3A |", "0 1 . 1/3 1/3"}, // what cannot be read is silent
		{head + "| ° ° ‸3A |", "0 1 3A 2/3 1/3"},   // columns are characters
		{head + "| ‸ |", "0 1"},
		{head + "# a ‸remark", "0 0"},
	} {
		text, line, column := where(t, c.text)
		s := sheet.Parse(text)
		spot := s.At(line, column)
		got := fmt.Sprintf("%d %d", spot.Part, spot.Bar)
		switch {
		case spot.Typed != nil && spot.Typed.Same:
			got += " %"
		case spot.Slot == nil:
		case spot.Slot.Kind == sheet.Bracket:
			got += fmt.Sprintf(" (%d)", len(spot.Slot.Group))
		default:
			sign := "-"
			if spot.Slot.Kind == sheet.Plays {
				sign = sheet.FormatEvent(&spot.Slot.Event)
			}
			got += " " + sign
			if spot.Event != nil {
				got += fmt.Sprintf(" %v %v", spot.Event.Start, spot.Event.Length)
			}
			if spot.Group != nil {
				got += fmt.Sprintf(" in %d", len(spot.Group.Group))
			}
		}
		assert.Equal(t, c.want, got, c.text)
	}
	s := sheet.Parse(head)
	for _, line := range []int{-1, 0, 3, 99} {
		assert.Nil(t, s.At(line, 1).Line)
	}
}

// Every slot of every song is found at its place, with the event that the song has there;
// and no place of any text is too much.
func TestSpotsOfWholeSongs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := sheet.Write(sheettest.Song(t))
		s := sheet.Parse(text)
		for i := range s.Lines {
			l := &s.Lines[i]
			l.Each(func(bar int, slot *sheet.Slot) {
				spot := s.At(i+1, slot.Column)
				require.Same(t, slot, spot.Slot, "%d:%d of\n%s", i+1, slot.Column, text)
				require.Same(t, &l.Bars[bar], spot.Typed)
				require.Equal(t, l.Part, spot.Part)
				require.NotZero(t, spot.Bar)
				require.NotNil(t, spot.Event, "%d:%d of\n%s", i+1, slot.Column, text)
				if l.Player == "" {
					require.Contains(t, s.Song.Parts[spot.Part].Bars()[spot.Since-1].Events, *spot.Event)
				}
				if slot.Kind == sheet.Plays {
					want := slot.Event
					want.Start, want.Length = spot.Event.Start, spot.Event.Length
					require.Equal(t, want, *spot.Event)
				}
			})
		}
		at := rapid.IntRange(0, len(text)).Draw(t, "at")
		broken := sheet.Parse(text[:at] + rapid.SampledFrom([]string{"(", "|", "%", "\n", ":", "99Q", "- "}).Draw(t, "put in") + text[at:])
		for line := range broken.Lines {
			for column := range 60 {
				broken.At(line+1, column)
			}
		}
		broken.Begins()
	})
}

// Where a bar begins, the cursor is in that bar.
func TestBarsBeginWhereTheyAreFound(t *testing.T) {
	s := sheet.Parse("title: T\nA:\n| 0A | 1A | x2\nlead | 5D | 7D |\n  | 2A |\n\nB:\nlike: A\n2 | 9A |\nC:\n")
	assert.Equal(t, []sheet.Begins{
		{Begin: sheet.Begin{Line: 2, Column: 1}, Bars: []sheet.Begin{{Line: 3, Column: 1}, {Line: 3, Column: 6}, {Line: 5, Column: 3}}},
		{Begin: sheet.Begin{Line: 7, Column: 1}, Bars: []sheet.Begin{{}, {Line: 9, Column: 3}, {}}},
		{Begin: sheet.Begin{Line: 10, Column: 1}, Bars: []sheet.Begin{}},
	}, s.Begins())
	rapid.Check(t, func(t *rapid.T) {
		s := sheet.Parse(sheet.Write(sheettest.Song(t)))
		for part, begins := range s.Begins() {
			require.Len(t, begins.Bars, s.Song.Parts[part].Written())
			require.Equal(t, sheet.PartName, s.At(begins.Line, begins.Column).Line.Kind)
			for i, b := range begins.Bars {
				require.NotZero(t, b.Line)
				spot := s.At(b.Line, b.Column+1)
				require.Equal(t, []int{part, i + 1}, []int{spot.Part, spot.Bar})
			}
		}
	})
}

func TestPickupOfAPartWithoutBars(t *testing.T) {
	pickup := func(text string, part int) string { return sheet.Parse("title: T\n" + text).Pickup(part).String() }
	assert.Equal(t, "1", pickup("A:\npickup: 1\n", 0))
	assert.Equal(t, "3/2", pickup("A:\n| 0A |\nB:\npickup: 1.5\n", 1))
	for _, c := range []struct {
		text string
		part int
	}{{"A:\n", 0}, {"A:\npickup: 1\n| 0A |\n", 0}, {"A:\npickup: 1\n\nB:\n", 1}, {"A:\npickup: nine\n", 0}, {"A:\nnote: pickup: 1\n", 0}, {"A:\n", -1}} {
		assert.Equal(t, "0", pickup(c.text, c.part), c.text)
	}
}
