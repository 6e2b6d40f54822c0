package plain

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"valleyside/core/neck"
	"valleyside/core/song"
	"valleyside/formats/take"
)

// Lines as people write them around tab and words.
func TestSettings(t *testing.T) {
	drop, _ := neck.Parse("drop D")
	for line, holds := range map[string]func(a *Around) bool{
		"Capo 2nd fret": func(a *Around) bool { return a.Capo == 2 }, "capo: 3": func(a *Around) bool { return a.Capo == 3 }, "Capo on the 4th": func(a *Around) bool { return a.Capo == 4 },
		"Tuning: drop D": func(a *Around) bool { return a.Tuned && a.Tuning == drop }, "tuning = D A D G B E": func(a *Around) bool { return a.Tuning == drop },
		"Tempo: 96 bpm": func(a *Around) bool { return a.Tempo == 96 && a.Quarters() == 96 }, "BPM = 96": func(a *Around) bool { return a.Tempo == 96 },
		"Key: Am": func(a *Around) bool { return a.Key.String() == "A minor" }, "Time: 6/8": func(a *Around) bool { return a.Meter == song.Meter{Count: 6, Unit: 8} },
		"Feel: swing": func(a *Around) bool { return a.Feel == song.Swing }, "Title: Weir": func(a *Around) bool { return a.Score.Title == "Weir" }, "Artist: Nobody": func(a *Around) bool { return a.Score.By == "Nobody" },
		"Order: A, B x2": func(a *Around) bool { return a.Score.Settings["order"] == "A, B x2" },
		"Tempo: 9999":    func(a *Around) bool { return a.Tempo == 0 }, "Capo: 99": func(a *Around) bool { return a.Capo == 0 }, "Time: 4/5": func(a *Around) bool { return a.Meter == song.FourFour },
	} {
		a := New(new(take.Problems))
		assert.True(t, a.Line(line), line)
		assert.True(t, holds(a), line)
		assert.True(t, IsSetting(line), line)
	}
	var problems take.Problems
	a := New(&problems)
	a.Line("Tuning: upside down")
	assert.Contains(t, problems.String(), "not understood")
}

func TestHeadings(t *testing.T) {
	for line, want := range map[string]string{
		"[Verse]": "Verse", "[Verse 1] x2": "Verse 1", "Chorus:": "Chorus", "CHORUS": "CHORUS", "Pre-Chorus": "Pre-Chorus", "(Intro)": "Intro", "Solo (x4)": "Solo", "Riff 2": "Riff 2", "[Anything at all]": "Anything at all", "Verse x3": "Verse",
	} {
		a := New(new(take.Problems))
		assert.True(t, IsHeading(line), line)
		assert.True(t, a.Line(line), line)
		assert.Equal(t, want, a.Section, line)
		b := a.Bar()
		assert.Equal(t, want, b.Section, line)
		assert.Empty(t, a.Bar().Section, "only its first bar")
	}
	for _, line := range []string{"Verses are long and this line is sung", "Amazing", "| C | G |", "e|---|", ""} {
		assert.False(t, IsHeading(line), line)
	}
	a := New(new(take.Problems))
	a.Line("Solo (x4)")
	assert.Equal(t, 4, a.Bar().Legs)
}

// What stands above all music is the title, and who wrote it.
func TestHead(t *testing.T) {
	a := New(new(take.Problems))
	assert.True(t, a.Head("Weir Gate"))
	assert.True(t, a.Head("by Somebody"))
	assert.False(t, a.Head("and something else"))
	assert.Equal(t, "Weir Gate", a.Score.Title)
	assert.Equal(t, "Somebody", a.Score.By)
}
