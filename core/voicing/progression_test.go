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

// No choice of shapes is less work than the one that is found, with the same
// chord as the same shape.
func TestProgressionAgainstBruteForce(t *testing.T) {
	b := new(Book)
	rapid.Check(t, func(rt *rapid.T) {
		symbols := rapid.SliceOfN(rapid.SampledFrom([]string{"C", "G", "Am", "F", "E7", "Dm7", "Bdim"}), 1, 5).Draw(rt, "chords")
		seconds := rapid.Float64Range(0.2, 3).Draw(rt, "seconds")
		cfg := Config{School: rapid.SampledFrom(Schools).Draw(rt, "school"), Player: hand.Player{Reach: 100}}.usual()
		s := slots(t, strings.Join(symbols, " "), seconds)
		p := newProgression(b, s, cfg)
		cost := func(states []int) float64 { // from the definitions, slot by slot
			sum := 0.0
			for i := range s {
				v := &p.lists[p.node[i]][states[p.node[i]]]
				to := StopOf(v)
				if i == 0 {
					sum += v.cost()
					continue
				}
				from := StopOf(&p.lists[p.node[i-1]][states[p.node[i-1]]])
				sum += from.To(&to, grade.Over(seconds), cfg.In.Neck, cfg.Player.Picking) + to.Taste
			}
			return sum
		}
		found := p.graph.Solve()
		states, total := found.States, found.Total
		require.InDelta(rt, cost(states), total, 1e-9)
		tries := 1
		for _, list := range p.lists {
			tries *= len(list)
		}
		if tries > 20_000 {
			rt.Skip("too much to try")
		}
		best := math.Inf(1)
		try := make([]int, len(p.lists))
		var from func(k int)
		from = func(k int) {
			if k == len(try) {
				best = min(best, cost(try))
				return
			}
			for try[k] = range p.lists[k] {
				from(k + 1)
			}
		}
		from(0)
		require.InDelta(rt, best, total, 1e-9)
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
		assert.NotEmpty(t, c.Link.Anchors, "%s: index and middle can stay", c.Frets)
		assert.Less(t, c.Link.Ease, 1.0)
	}
	stay := b.Progression(slots(t, "G C D G", 1), Config{Low: 5, High: 9})
	for _, c := range stay {
		for _, fret := range c.Frets {
			assert.True(t, fret < 0 || fret >= 5 && fret <= 9, c.Frets.String())
		}
	}
	pinned := slots(t, "G C", 1)
	pinned[1].Pin, _ = neck.ParseFrets("x35553")
	assert.Equal(t, "x35553", b.Progression(pinned, Config{})[1].Frets.String())
	none := b.Progression(slots(t, "F#maj7", 1), Config{Player: hand.Player{Reach: 1, NoBarre: true}})
	assert.Len(t, none, 1)
	assert.Empty(t, b.Progression(nil, Config{}))
	letters := b.Progression(slots(t, "Bdim E7 Am", 1), Config{School: Letter})
	assert.NotContains(t, letters[0].Kept, chord.Degree{Number: 5})
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
	assert.Equal(t, 3, list[0].Fret)
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
	assert.Equal(t, "320003", at[3].Usual[0].String())
	assert.Equal(t, 4, at[0].Barres)
	for i := 1; i < len(list); i++ {
		assert.LessOrEqual(t, list[i-1].Cost, list[i].Cost)
	}
	assert.Equal(t, chords, at[0].Shapes, "without a capo they are as typed")
}

// What a teacher hears in a progression: full shapes, a register that holds, a
// bass that is kept, strings that stay.
func TestProgressionsSoundWell(t *testing.T) {
	b := new(Book)
	for _, symbols := range []string{"Em C G D", "A D E", "C G Am F", "E A B7", "Am G F E", "G D/F# Em C", "Bm G D A"} {
		list := b.Progression(slots(t, symbols, 1.5), Config{})
		for i, c := range list {
			assert.GreaterOrEqual(t, c.Sounding(), 4, "%s as %s", c.Chord, c.Frets)
			if c.Thinned { // a barre's thick strings may be left out, and the bass with them
				continue
			}
			assert.Equal(t, c.Chord.Lowest().Class(), c.Voicing.low.Class(), "%s as %s", c.Chord, c.Frets)
			if i > 0 && !list[i-1].Thinned {
				assert.LessOrEqual(t, math.Abs(float64(c.Sounding()-list[i-1].Sounding())), 2.0)
				assert.LessOrEqual(t, math.Abs(float64(c.low-list[i-1].low)), 12.0, "%s after %s", c.Frets, list[i-1].Frets)
			}
		}
	}
	again := b.Progression(slots(t, "C G C F C", 1), Config{})
	assert.Equal(t, again[0].Frets, again[2].Frets)
	assert.Equal(t, again[0].Frets, again[4].Frets)
	for i, c := range b.Progression(slots(t, "C G/B Am C/G F C/E Dm", 1), Config{}) {
		assert.Equal(t, "CBAGFED"[i:i+1], c.Bass.String())
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

// All places for the capo of a song of eight chords, none of its shapes known.
func BenchmarkCapos(b *testing.B) {
	var chords []chord.Chord
	for _, symbol := range []string{"Bb", "Gm", "Eb", "F", "Dm7", "Cm", "Bb/D", "F7"} {
		c, err := chord.Parse(symbol)
		if err != nil {
			b.Fatal(err)
		}
		chords = append(chords, c)
	}
	b.ReportAllocs()
	for b.Loop() {
		new(Book).Capos(chords, Config{})
	}
}
