package fit_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

var book = new(voicing.Book)

func read(t require.TestingT, body string) *song.Song {
	s := sheet.Parse("title: T\n" + body)
	require.True(t, s.OK(), "%v\n%s", s.Problems, body)
	return s.Song
}

func ladders(s *song.Song, p hand.Player) [][]arrange.Version {
	a := arrange.New(s, arrange.Options{Player: p, Book: book})
	list := make([][]arrange.Version, len(s.Parts))
	for i := range list {
		list[i] = a.Some(i, fit.Rungs(&s.Parts[i]), nil)
	}
	return list
}

func known(t require.TestingT, text string) lesson.Known {
	k, err := lesson.ParseKnown(text)
	require.NoError(t, err)
	return k
}

// rungs are those of a set, "A as-written, B two-note".
func rungs(s *song.Song, set *fit.Set) string {
	var list []string
	for _, p := range set.Parts {
		list = append(list, s.Parts[p.Part].Name+" "+string(p.Version.Rung))
	}
	return strings.Join(list, ", ")
}

func TestFitted(t *testing.T) {
	beginner := hand.Player{Reach: 85, Scale: 578, NotesPerSecond: 2.5, NoBarre: true, New: hand.AllSkills &^ hand.TwoFingers}
	around := hand.Player{Reach: 110, NotesPerSecond: 4, NoBarre: true}
	for _, c := range []struct {
		name, sheet string
		player      hand.Player
		known       string
		minutes     int
		want        string
		new, weeks  int
		bolder      string
	}{
		{"all of it is there", "A:\n| G - - - D - - - |\n", around, "G,D", 15, "A as-written", 0, 1, ""},
		{"two shapes in two weeks of ten minutes", "A:\n| G - - - D - - - | C - - - Am - - - |\n", around, "G,D", 10, "A as-written", 2, 1, ""},
		{"more than two weeks hold", "tempo: 60\nA:\n| Dm7 - - - G7 - - - | Cmaj7 - - - Em7 - - - | A7 - - - D7 - - - |\n", around, "", 10, "A two-note", 1, 1, "A easy-chords"},
		{"a barre in one part alone: easier chords there", "A:\n| G - - - D - - - |\nB:\n| F - - - C - - - |\n", around, "open chords", 15, "A as-written, B easy-chords", 1, 1, "A as-written, B as-written"},
		{"a line is played as a line", "tempo: 70\nA:\n| 0E - 3E - 5E - 3E - |\nB:\n| G - - - C - - - |\n", beginner, "", 10, "A as-written, B easy-chords", 2, 1, "A as-written, B as-written"},
		{"too fast: what is left of the rhythm", "tempo: 160\nA:\n| (0E 0E) (0E 0E) (3E 3E) (5E 5E) (0E 0E) (0E 0E) (3E 3E) (5E 5E) |\n", around, "", 15, "A one-finger", 0, 1, "A as-written"},
		{"one texture for what is written in one", "tempo: 150\nA:\n| E5 E5 E5 E5 G5 G5 A5 A5 |\nB:\n| E5 - - - C5 - - - |\n", hand.Player{NotesPerSecond: 4}, "power chords", 15, "A two-note, B as-written", 0, 1, "A as-written, B as-written"},
		{"a part that is like another goes with it", "A:\n| F - - - | C - - - | G - - - | C - - - |\nB:\nlike: A\n4 | G - - - |\n", around, "open chords", 15, "A easy-chords, B easy-chords", 1, 1, "A as-written, B as-written"},
		{"what is added later keeps nobody from chords", "A:\n| G - - - | D - - - |\nB:\n| Am - - h2D | Am - - - |\n", hand.Player{New: hand.HammerOns}, "open chords", 15, "A as-written, B as-written", 0, 1, ""},
		{"and is left out of a line", "A:\n| 0E h2E 3E - 0E h2E 3E - |\n", hand.Player{New: hand.HammerOns}, "", 15, "A one-finger", 0, 1, "A as-written"},
	} {
		s := read(t, c.sheet)
		got := fit.Song(s, ladders(s, c.player), lesson.Student{Player: c.player, Known: known(t, c.known), Minutes: c.minutes})
		assert.Equal(t, c.want, rungs(s, &got.Set), c.name)
		assert.Len(t, got.New, c.new, c.name)
		assert.Equal(t, c.weeks, got.Weeks, c.name)
		bolder := ""
		if got.Bolder != nil {
			bolder = rungs(s, got.Bolder)
		}
		assert.Equal(t, c.bolder, bolder, c.name)
	}
}

func TestWeekly(t *testing.T) {
	for minutes, want := range map[int]float64{0: 2, 5: 1.5, 10: 2, 20: 3, 30: 4, 90: 4} {
		assert.Equal(t, want, fit.Weekly(minutes), "%d minutes", minutes)
	}
}

// What comes next leads to the part as it is written, and is never twice as hard.
func TestNext(t *testing.T) {
	next := func(body string, rung arrange.Rung) string {
		s := read(t, body)
		if v := fit.Next(s, 0, ladders(s, hand.Player{})[0], rung); v != nil {
			return string(v.Rung)
		}
		return ""
	}
	const strummed = "A:\n| C - G - | Am - F - |\n"
	assert.Equal(t, "", next(strummed, arrange.AsWritten))
	assert.Equal(t, "as-written", next(strummed, arrange.EasyChords))
	assert.Equal(t, "two-note", next(strummed, arrange.OneFinger))
	assert.NotEqual(t, "two-note", next("A:\n| 5B 7B 8B 7B 5B - 5G - |\n", arrange.OneFinger), "a tune stays a tune")
	assert.Equal(t, "", next("A:\n| 0E - - - |\n", "none"))
}

// drawSong draws a song of a few parts in the textures that there are.
func drawSong(t *rapid.T) *song.Song {
	var b strings.Builder
	fmt.Fprintf(&b, "tempo: %d\n", rapid.IntRange(50, 180).Draw(t, "tempo"))
	for part := range rapid.IntRange(1, 3).Draw(t, "parts") {
		slots := rapid.SampledFrom([][]string{
			{"G", "C", "D", "Am", "F", "Bm", "E7", "Cadd9", "-", "-", "-"},
			{"E5", "G5", "A5", "C5", "-", "-"},
			{"0E", "3E", "5A", "7D", "h7D", "8B", "-"},
		}).Draw(t, "texture")
		fmt.Fprintf(&b, "Part %d:\n", part)
		for range rapid.IntRange(1, 2).Draw(t, "bars") {
			b.WriteString("| " + slots[0])
			for range 7 {
				b.WriteString(" " + rapid.SampledFrom(slots).Draw(t, "slot"))
			}
			b.WriteString(" |\n")
		}
	}
	return read(t, b.String())
}

func drawStudent(t *rapid.T) lesson.Student {
	p := hand.Player{
		Reach:          rapid.SampledFrom([]float64{60, 85, 110, 130}).Draw(t, "reach"),
		NotesPerSecond: rapid.SampledFrom([]float64{2, 4, 7, 11}).Draw(t, "pace"),
		NoBarre:        rapid.Bool().Draw(t, "no barre"),
		NoLittle:       rapid.Bool().Draw(t, "no little"),
		New:            hand.Skills(rapid.IntRange(0, int(hand.AllSkills)).Draw(t, "new")),
	}
	return lesson.Student{Player: p, Minutes: rapid.SampledFrom([]int{5, 10, 20, 40}).Draw(t, "minutes")}
}

// Who knows more shapes never gets less; nobody gets what is harder than it is written,
// parts of one texture stay in one, and the same gives the same.
func TestMoreIsNeverLess(t *testing.T) {
	all := []string{"G", "C", "D", "Am", "F", "Bm", "E7", "Cadd9", "power chords", "open chords", "barre chords"}
	rapid.Check(t, func(t *rapid.T) {
		s, st := drawSong(t), drawStudent(t)
		list := ladders(s, st.Player)
		var names []string
		var before fit.Choice
		for step := range 4 {
			st.Known = known(t, strings.Join(names, ","))
			got := fit.Song(s, list, st)
			again := fit.Song(s, list, st)
			require.Equal(t, rungs(s, &got.Set), rungs(s, &again.Set))
			if step > 0 {
				require.GreaterOrEqual(t, got.Fullness(), before.Fullness(), "with %v: %s after %s", names, rungs(s, &got.Set), rungs(s, &before.Set))
			}
			for _, p := range got.Parts {
				require.False(t, p.Version.Harder)
				require.True(t, len(p.Not) == 0 || p.Version.Rung != arrange.AsWritten)
			}
			before = got
			names = append(names, rapid.SampledFrom(all).Draw(t, "name"))
		}
	})
}

// One song for many students: the versions of each hand, and what fits.
func BenchmarkFit(b *testing.B) {
	s := read(b, "tempo: 112\nIntro:\n| G - - - Cadd9 - - - | G - - - D - - - | x2\nVerse:\n| G - - - - - - - | Cadd9 - - - - - - - | G - - - - - - - | D - - - - - - - |\n| Em - - - - - - - | Cadd9 - - - - - - - | G - - - D - - - | G - - - - - - - |\nChorus:\n| Cadd9 - - - D - - - | G - - - Em - - - | Am - - - D - - - | D - - - D7 - - - |\nRiff:\n| 0E - 3E - 5E - 3E - | 0E - 3E - 6E 5E - - |\n")
	for b.Loop() {
		for i := range 40 {
			p := hand.Player{Reach: 80 + float64(i), NotesPerSecond: 3 + float64(i%5)}
			fit.Song(s, ladders(s, p), lesson.Student{Player: p, Minutes: 15})
		}
	}
}
