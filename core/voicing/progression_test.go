package voicing

import (
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

func slots(t testing.TB, symbols string, seconds float64) []Slot {
	var list []Slot
	for _, s := range strings.Fields(symbols) {
		list = append(list, Slot{Chord: parse(t, s), Seconds: seconds, Pin: neck.NoFrets})
	}
	return list
}

// No sequence of the choices is less work than the one that is found.
func TestProgressionAgainstBruteForce(t *testing.T) {
	b := new(Book)
	rapid.Check(t, func(rt *rapid.T) {
		symbols := rapid.SliceOfN(rapid.SampledFrom([]string{"C", "G", "Am", "F", "E7", "Dm7", "Bdim"}), 1, 4).Draw(rt, "chords")
		seconds := rapid.Float64Range(0.2, 3).Draw(rt, "seconds")
		cfg := Config{School: rapid.SampledFrom(Schools).Draw(rt, "school"), Player: hand.Player{Reach: 100}}.usual()
		s := slots(t, strings.Join(symbols, " "), seconds)
		lists := make([][]Voicing, len(s))
		for i := range s {
			lists[i] = b.choices(s[i], cfg)
			lists[i] = lists[i][:min(7, len(lists[i]))]
		}
		n := cfg.Player.Neck()
		cost := func(path []int) float64 {
			sum := lists[0][path[0]].cost()
			for k := 1; k < len(path); k++ {
				from, to := stopOf(&lists[k-1][path[k-1]]), stopOf(&lists[k][path[k]])
				sum += step(&from, &to, grade.Over(s[k-1].Seconds), n, cfg.Player.Picking)
			}
			return sum
		}
		best := math.Inf(1)
		path := make([]int, len(s))
		var try func(k int)
		try = func(k int) {
			if k == len(s) {
				best = min(best, cost(path))
				return
			}
			for path[k] = range lists[k] {
				try(k + 1)
			}
		}
		try(0)
		require.InDelta(rt, best, cost(cheapest(s, lists, cfg.Player)), 1e-9)
	})
}

func TestProgression(t *testing.T) {
	b := new(Book)
	open := b.Progression(slots(t, "Em C G D", 1), Config{School: Open})
	require.Len(t, open, 4)
	for _, c := range open {
		assert.Equal(t, 1.0, c.Fidelity, "%s as %s", c.Chord, c.Frets)
	}
	for _, c := range b.Progression(slots(t, "Em C G D", 1), Config{Max: 2}) {
		assert.Len(t, c.Others, 2)
		assert.NotEqual(t, c.Frets, c.Others[0].Frets)
	}
	anchored := b.Progression(slots(t, "Am C Am C", 0.5), Config{School: Open})
	for _, c := range anchored[1:] {
		assert.NotEmpty(t, c.Change.Anchors, "%s: index and middle can stay", c.Frets)
		assert.Less(t, c.Change.Ease, 1.0)
	}
	stay := b.Progression(slots(t, "G C D G", 1), Config{Low: 5, High: 9})
	for _, c := range stay {
		for _, fret := range c.Frets {
			assert.True(t, fret <= 0 || fret >= 5 && fret <= 9, c.Frets.String())
		}
	}
	pinned := slots(t, "G C", 1)
	pinned[1].Pin, _ = neck.ParseFrets("x35553")
	assert.Equal(t, "x35553", b.Progression(pinned, Config{})[1].Frets.String())
	none := b.Progression(slots(t, "F#maj7", 1), Config{Player: hand.Player{Reach: 1, NoBarre: true}})
	assert.Len(t, none, 1)
	assert.Empty(t, b.Progression(nil, Config{}))
	letters := b.Progression(slots(t, "Bdim E7 Am", 1), Config{School: Letter})
	assert.NotContains(t, letters[0].Kept, "5")
}

// The capo that leaves no barre wins: Bb Gm Eb F are G Em C D with a capo at
// fret 3.
func TestCapos(t *testing.T) {
	var chords []chord.Chord
	for _, s := range slots(t, "Bb Gm Eb F", 1) {
		chords = append(chords, s.Chord)
	}
	bb, _ := pitch.ParseKey("Bb major")
	list := new(Book).Capos(chords, Config{Key: bb})
	require.Len(t, list, usualCapo+1)
	assert.Zero(t, list[0].Barres)
	at := map[int]Capo{}
	for _, c := range list {
		at[c.Fret] = c
	}
	var shapes []string
	for _, c := range at[3].Shapes {
		shapes = append(shapes, c.Symbol)
	}
	assert.Equal(t, "G Em C D", strings.Join(shapes, " "))
	assert.Equal(t, "G major", at[3].Key)
	assert.Zero(t, at[3].Barres)
	assert.Contains(t, []int{1, 3, 8}, list[0].Fret, "A, G and D shapes are the open ones")
	assert.Positive(t, at[0].Barres)
	for i := 1; i < len(list); i++ {
		assert.LessOrEqual(t, list[i-1].Barres, list[i].Barres)
	}
}

func BenchmarkProgression64(b *testing.B) {
	s := slots(b, strings.Repeat("Em C G D Am F Dm7 E7 ", 8), 1)
	book := new(Book)
	b.ReportAllocs()
	for b.Loop() {
		book.Progression(s, Config{})
	}
}
