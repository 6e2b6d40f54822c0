package skill_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/sheet"
	"valleyside/core/skill"
	"valleyside/core/song"
)

// needsOf are the needs of a sheet on a rung, for a usual hand.
func needsOf(t testing.TB, text string, rung arrange.Rung) (*song.Song, []skill.Need) {
	sh := sheet.Parse("title: T\n" + text)
	for _, p := range sh.Problems {
		require.NotEqual(t, "error", string(p.Severity), "%s: %v", text, p)
	}
	p := hand.Player{}.Usual()
	a := arrange.New(sh.Song, arrange.Options{Player: p})
	var list []*arrange.Version
	for i := range sh.Song.Parts {
		v := a.Version(i, rung, arrange.Way{})
		list = append(list, &v)
	}
	return sh.Song, skill.Of(sh.Song, list, p)
}

func names(needs []skill.Need, kinds ...skill.Kind) (list []string) {
	for _, n := range needs {
		if len(kinds) == 0 || slices.Contains(kinds, n.Kind) {
			list = append(list, n.Name)
		}
	}
	return list
}

// What songs need, decided beforehand.
func TestNeeds(t *testing.T) {
	for _, c := range []struct {
		text string
		rung arrange.Rung
		kind skill.Kind
		want string
	}{
		{"A:\n| Em - - - G - - - |\n", arrange.AsWritten, skill.Family, "open chords"},
		{"A:\n| Em - - - G - - - |\n", arrange.AsWritten, skill.Shape, "Em 022000, G 320003"},
		{"A:\n| Em - - - G - - - |\n", arrange.OneFinger, skill.Shape, ""},
		{"A:\n| F - - - G - - - |\n", arrange.AsWritten, skill.Family, "barre chords, open chords"},
		{"A:\n| A5 - - - C5 - - - |\n", arrange.AsWritten, skill.Family, "power chords"},
		{"key: E minor\nA:\n| 0E 3E 0A 2A 0D 2D 0G 2G |\n", arrange.AsWritten, skill.Scale, "E minor pentatonic, frets 2 to 3"},
		{"A:\n| Em - - - G - - - |\n", arrange.AsWritten, skill.Scale, ""},
		{"feel: swing\nA:\n| 0E 2E 3E 2E 0E 2E 3E 2E |\n", arrange.AsWritten, skill.Rhythm, "swing"},
		{"time: 7/8\nA:\n| 0E 2E 3E 2E 0E 2E 3E |\n", arrange.AsWritten, skill.Rhythm, "odd metre, 7/8 time"},
		{"A:\n| 0E . (. 2E) 3E - . 3E - |\n", arrange.AsWritten, skill.Rhythm, "off-beats"},
		{"A:\n| 0E 2E 3E 5E |\n", arrange.AsWritten, skill.Rhythm, ""},
		{"A:\n| 5D h7D p5D 5Db1 |\n", arrange.AsWritten, skill.Technique, "hammer-ons, pull-offs, bends"},
		{"A:\n| 5D h7D p5D 5Db1 |\n", arrange.OneFinger, skill.Technique, ""},
		{"tuning: drop D\ncapo: 2\nA:\n| 0E 2E 3E 5E |\n", arrange.AsWritten, skill.Tuning, "drop D, a capo"},
		{"tempo: 120\nA:\n| 0E 2E 3E 5E 0E 2E 3E 5E |\n", arrange.AsWritten, skill.Pace, "4.0 strokes a second"},
	} {
		_, needs := needsOf(t, c.text, c.rung)
		assert.Equal(t, c.want, strings.Join(names(needs, c.kind), ", "), "%s on %s", c.text, c.rung)
	}
	s, needs := needsOf(t, "A:\n| Em - - - G - - - |\nB:\n| Em - - - C - - - |\n", arrange.AsWritten)
	require.Len(t, s.Parts, 2)
	for _, n := range needs {
		switch n.Name {
		case "Em 022000":
			assert.Equal(t, []int{0, 1}, n.Parts)
		case "C x32010":
			assert.Equal(t, []int{1}, n.Parts)
		}
	}
}

// somebody knows what a line of words says, has so fast a hand, and has not learnt some techniques.
func somebody(t require.TestingT, known string, pace float64, unlearnt hand.Skills) skill.Has {
	k, err := lesson.ParseKnown(known)
	require.NoError(t, err)
	p := hand.Player{New: unlearnt, NotesPerSecond: pace}.Usual()
	k.Skills |= hand.AllSkills &^ unlearnt
	return skill.Has{Student: lesson.Student{Player: p, Known: k}}
}

// How far away songs are for some, decided beforehand.
func TestReadiness(t *testing.T) {
	const beginner = hand.ThreeFingers | hand.Barres | hand.OctaveShapes | hand.HammerOns | hand.Bends
	for _, c := range []struct {
		text, known string
		pace        float64
		unlearnt    hand.Skills
		ready       skill.Ready
		first       string
	}{
		{"A:\n| Em - - - G - - - |\n", "open chords", 5, 0, skill.Now, ""},
		{"A:\n| Em - - - G - - - |\n", "Em", 5, 0, skill.First, "G 320003"},
		{"A:\n| Em - - - G - - - |\n", "", 5, 0, skill.First, "Em 022000"}, // two shapes and their change
		{"A:\n| Em - G - | C - D - |\n", "", 5, 0, skill.Later, ""},
		{"A:\n| C - - - F - - - |\n", "open chords", 5, hand.Barres, skill.First, "barres"},
		{"A:\n| F - - - Bm - - - |\n", "open chords", 5, hand.Barres, skill.First, "barres"},
		{"A:\n| A5 - - - C5 - - - |\n", "power chords", 5, beginner, skill.Now, ""},
		{"tempo: 80\nA:\n| 0E 2E 3E 5E |\n", "", 3, beginner, skill.Now, ""},
		{"tempo: 120\nA:\n| 0E 2E 3E 5E 0E 2E 3E 5E |\n", "", 3, beginner, skill.First, "4.0 strokes a second"},
		{"tempo: 200\nA:\n| 0E 2E 3E 5E 0E 2E 3E 5E |\n", "", 3, beginner, skill.Later, ""},
		{"A:\n| 5D h7D p5D 5D |\n", "", 5, hand.HammerOns, skill.First, "hammer-ons"},
		{"A:\n| 5D h7D p5D 5Db1 |\n", "", 5, hand.HammerOns | hand.Bends, skill.Later, ""},
		{"feel: swing\nkey: E minor\nA:\n| 0E 3E 0A 2A 0D 2D 0G 2G |\n", "", 5, 0, skill.First, "swing"},
	} {
		_, needs := needsOf(t, c.text, arrange.AsWritten)
		has := somebody(t, c.known, c.pace, c.unlearnt)
		ready, missing := has.Compare(needs)
		what := fmt.Sprintf("%s for %q: %v", c.text, c.known, names(missing))
		assert.Equal(t, c.ready, ready, what)
		if c.ready == skill.First {
			require.NotEmpty(t, missing, what)
			assert.Equal(t, c.first, missing[0].Name, what)
		}
	}
}

// Whoever has learnt a song has all that it needs; who has more is never farther away.
func TestLearningNeverLeadsAway(t *testing.T) {
	texts := []string{"A:\n| Em - G - | C - D - |\n", "feel: swing\nA:\n| 0E 2E 3E 2E 5E 2E 3E 2E |\n", "A:\n| F - - - Bm - - - |\n", "tempo: 200\nA:\n| A5 A5 C5 C5 D5 D5 A5 A5 |\n", "time: 6/8\nA:\n| 5D h7D p5D 5Db1 - - |\n", "tuning: drop D\nA:\n| 0E 5E 3E 5E |\n"}
	var all [][]skill.Need
	for _, text := range texts {
		_, needs := needsOf(t, text, arrange.AsWritten)
		all = append(all, needs)
	}
	far := map[skill.Ready]int{skill.Now: 0, skill.First: 1, skill.Later: 2}
	rapid.Check(t, func(t *rapid.T) {
		unlearnt := hand.Skills(rapid.IntRange(0, int(hand.AllSkills)).Draw(t, "unlearnt"))
		k, err := lesson.ParseKnown(rapid.SampledFrom([]string{"", "open chords", "power chords, Em", "barre chords"}).Draw(t, "known"))
		require.NoError(t, err)
		has := skill.Has{Student: lesson.Student{Player: hand.Player{New: unlearnt, NotesPerSecond: rapid.Float64Range(1, 9).Draw(t, "pace")}.Usual(), Known: k}}
		song := rapid.SampledFrom(all).Draw(t, "song")
		before, _ := has.Compare(song)
		has.With(rapid.SampledFrom(all).Draw(t, "learnt"))
		after, missing := has.Compare(song)
		require.LessOrEqual(t, far[after], far[before])
		for _, n := range missing {
			require.False(t, has.Learnt[n.ID] && n.Level == 0, n.Name)
		}
		has.With(song)
		for _, n := range song {
			require.True(t, has.Of(&n), n.Name)
		}
	})
}
