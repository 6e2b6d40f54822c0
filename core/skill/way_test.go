package skill_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/sheet"
	"valleyside/core/skill"
)

// library are songs of all kinds, from easy to hard.
func library(t testing.TB) (songs []skill.Song, titles []string) {
	for i, text := range []string{
		"A:\n| Em - - - - - - - |\n",
		"A:\n| Em - - - Am - - - |\n",
		"A:\n| Em - - - G - - - |\n",
		"A:\n| G - - - C - - - |\n",
		"A:\n| G - D - | C - G - |\n",
		"A:\n| Em G C D |\n",
		"A:\n| F - - - C - - - |\n",
		"A:\n| F - - - Bm - - - |\n",
		"A:\n| A5 - - - C5 - - - |\n",
		"tempo: 90\nA:\n| 0E 2E 3E 5E 0E 2E 3E 5E |\n",
		"tempo: 120\nA:\n| 0E 2E 3E 5E 0E 2E 3E 5E |\n",
		"tempo: 150\nA:\n| 0E 2E 3E 5E 0E 2E 3E 5E |\n",
		"A:\n| 5D h7D p5D 5D |\n",
		"A:\n| 5D h7D p5D 5Db1 |\n",
		"feel: swing\nA:\n| 0E 2E 3E 2E 5E 2E 3E 2E |\n",
		"A:\n| 5D h7D 5D 7D |\n",
	} {
		_, needs := needsOf(t, text, arrange.AsWritten)
		songs = append(songs, skill.Song{ID: int64(i + 1), Grade: float64(i) / 2, On: [][]skill.Need{needs}})
		titles = append(titles, text)
	}
	return songs, titles
}

// shortest is how many songs with at most so many new things lead to a wish at least, by trying
// all orders; −1 where no so few do.
func shortest(has skill.Has, shelf []skill.Song, wish, step, most int) int {
	if things, _ := has.Things(shelf[wish].On[0]); things <= step {
		return 0
	}
	best := -1
	for i := range shelf {
		if i == wish || most == 0 {
			continue
		}
		if things, _ := has.Things(shelf[i].On[0]); things > step {
			continue
		}
		after := has
		after.Learnt = map[skill.ID]bool{}
		for id := range has.Learnt {
			after.Learnt[id] = true
		}
		after.With(shelf[i].On[0])
		if len(after.Learnt) == len(has.Learnt) && after.Pace == has.Pace && after.Reach == has.Reach {
			continue // nothing new
		}
		if n := shortest(after, shelf, wish, step, most-1); n >= 0 && (best < 0 || n+1 < best) {
			best = n + 1
			most = n // only a shorter one is better
		}
	}
	return best
}

// No way is better than the one that is found, by trying everything, and every stop of it can be
// learnt once those before it are.
func TestWaysAreShortestAndCanBeWalked(t *testing.T) {
	shelf, _ := library(t)
	found := 0
	rapid.Check(t, func(t *rapid.T) {
		unlearnt := hand.Skills(rapid.IntRange(0, int(hand.AllSkills)).Draw(t, "unlearnt"))
		has := somebody(t, rapid.SampledFrom([]string{"", "Em", "Em, G", "open chords"}).Draw(t, "known"), rapid.Float64Range(2, 7).Draw(t, "pace"), unlearnt)
		wish := rapid.IntRange(0, len(shelf)-1).Draw(t, "wish")
		way := has.Way(shelf, wish)
		require.Equal(t, wish, way[len(way)-1].Song)
		step := 0
		is := has
		is.Learnt = map[skill.ID]bool{}
		for i, s := range way {
			things, missing := is.Things(shelf[s.Song].On[s.On])
			require.Equal(t, things, s.Things)
			require.Len(t, s.New, len(missing))
			step = max(step, things)
			is.With(shelf[s.Song].On[s.On])
			for k := range i {
				require.NotEqual(t, way[k].Song, s.Song)
			}
		}
		cost := 2*step + len(way) - 1
		const most, largest = 3, 4
		direct, _ := has.Things(shelf[wish].On[0])
		best := 2 * direct
		for smaller := 1; smaller <= min(largest, direct-1); smaller++ {
			if n := shortest(has, shelf, wish, smaller, most); n >= 0 {
				best = min(best, 2*smaller+n)
			}
		}
		require.LessOrEqual(t, cost, best)
		found += len(way) - 1
	})
	assert.Positive(t, found, "some ways have stops")
}

// Ways that a teacher would go, decided beforehand.
func TestWays(t *testing.T) {
	shelf, titles := library(t)
	for _, c := range []struct {
		known string
		wish  int
		want  []int
	}{
		{"Em", 5, []int{2, 5}},                 // G first, then C and D, which are two shapes and their change
		{"open chords", 7, []int{7}},           // the barre is one thing
		{"Em, Am, G, C, D", 6, []int{6}},       // and so is F
		{"", 0, []int{0}},                      // one shape
		{"", 4, []int{2, 4}},                   // Em and G, then C and D
		{"open chords", 11, []int{10, 11}},     // faster step by step
		{"open chords", 14, []int{14}},         // swing alone
		{"open chords, F, Bm", 7, []int{7}},    // it is there
		{"open chords", 13, []int{15, 12, 13}}, // hammer-ons, then pull-offs, then the bend
	} {
		has := somebody(t, c.known, 3, hand.Barres|hand.HammerOns|hand.PullOffs|hand.Bends)
		var is []int
		for _, s := range has.Way(shelf, c.wish) {
			is = append(is, s.Song)
		}
		assert.Equal(t, c.want, is, "to %s for %q", titles[c.wish], c.known)
	}
}

// A series has what is ready first, and what lacks more after what lacks less.
func TestSeries(t *testing.T) {
	shelf, _ := library(t)
	has := somebody(t, "Em, Am", 4, hand.Barres)
	var order []int
	for _, p := range has.Series([]skill.Song{shelf[5], shelf[2], shelf[1], shelf[0]}) {
		order = append(order, p.Song)
	}
	assert.Equal(t, []int{3, 2, 1, 0}, order)
}

// The same movement of the hand has the same key wherever it is; another one has another.
func TestRiffs(t *testing.T) {
	riffs := func(text string) (keys []string) {
		sh := sheet.Parse("title: T\n" + text)
		for _, p := range sh.Problems {
			require.NotEqual(t, "error", string(p.Severity), "%s: %v", text, p)
		}
		a := arrange.New(sh.Song, arrange.Options{Player: hand.Player{}.Usual()})
		v := a.Version(0, arrange.AsWritten, arrange.Way{})
		for _, r := range skill.Riffs(sh.Song, &v) {
			keys = append(keys, r.Key)
		}
		return keys
	}
	one := riffs("A:\n| 3E 5E 6E 3E |\n")
	require.Len(t, one, 1)
	for text, same := range map[string]bool{
		"A:\n| 3A 5A 6A 3A |\n":                  true,  // one string over
		"A:\n| 7D 9D 10D 7D |\n":                 true,  // along the neck
		"A:\n| 3E 5E 6E 5E |\n":                  false, // another movement
		"A:\n| 3E - 5E - 6E - 3E 3E |\n":         false, // other times
		"A:\n| 0E 2E 3E 0E |\n":                  false, // an open string is no finger
		"tuning: drop D\nA:\n| 3A 5A 6A 3A |\n":  true,
		"key: C minor\nA:\n| 3E 5E 6E 3E |\n":    true,
		"time: 6/8\nA:\n| 3E 5E 6E 3E 3E 3E |\n": false,
	} {
		is := riffs(text)
		require.Len(t, is, 1, text)
		assert.Equal(t, same, is[0] == one[0], text)
	}
	assert.Equal(t, riffs("A:\n| 0E 3E 5E 3E |\n"), riffs("A:\n| 0D 3D 5D 3D |\n"), "an open one moves over the strings")
	assert.NotEqual(t, riffs("A:\n| 0E 3E 5E 3E |\n"), riffs("A:\n| 0E 4E 6E 4E |\n"), "and not along the neck")
	assert.Empty(t, riffs("A:\n| Em G C D |\n"), "chords are no riff")
	assert.Empty(t, riffs("A:\n| 3E 3E 3E 5E |\n"), "nor are two places")
	assert.Len(t, riffs("A:\n| 3E 5E 6E 3E | 3E 5E 6E 3E | 6E 5E 3E 5E |\n"), 2, "each is there once")
}
