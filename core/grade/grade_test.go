package grade

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/hand"
	"valleyside/core/neck"
)

var adult = hand.Player{}.Usual()

func fingering(t require.TestingT, frets string, fingers ...hand.Finger) hand.Fingering {
	f, err := neck.ParseFrets(frets)
	require.NoError(t, err)
	g := hand.Fingering{Frets: f}
	k := 0
	for i := range f {
		if f[i] > 0 {
			g.Fingers[i] = fingers[k]
			k++
		}
	}
	return g
}

func TestOrdersThatMustHold(t *testing.T) {
	one := Hold(fingering(t, "1xxxxx", 1), adult).Total()
	two := Hold(fingering(t, "13xxxx", 1, 4), adult).Total()
	three := Hold(fingering(t, "133xxx", 1, 3, 4), adult).Total()
	barre := Hold(fingering(t, "133211", 1, 3, 4, 2, 1, 1), adult).Total()
	assert.Less(t, one, two)
	assert.Less(t, two, three)
	assert.Less(t, three, barre, "a full first-fret barre is harder than the power chord on its root")
	drop := Hold(fingering(t, "33xxxx", 1, 1), adult).Total()
	assert.Less(t, drop, Hold(fingering(t, "35xxxx", 1, 3), adult).Total(), "one finger in a drop tuning")
	open := Hold(fingering(t, "02xxxx", 1), adult).Total()
	assert.Less(t, open, two, "an open root needs one finger")
	child := hand.Player{Reach: 60, Scale: 578}.Usual()
	assert.Greater(t, Hold(fingering(t, "13xxxx", 1, 3), child).Total(), Hold(fingering(t, "13xxxx", 1, 3), adult).Total())
}

func TestSameShapeIsNeverHarderHigherUp(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		frets := neck.NoFrets
		for i := range frets {
			if rapid.Bool().Draw(t, "sounds") {
				frets[i] = int8(rapid.IntRange(1, 5).Draw(t, "fret"))
			}
		}
		up := frets
		by := int8(rapid.IntRange(1, 12).Draw(t, "up"))
		for i := range up {
			if up[i] > 0 {
				up[i] += by
			}
		}
		for _, f := range hand.Fingerings(frets) {
			g := hand.Fingering{Frets: up, Fingers: f.Fingers}
			require.LessOrEqual(t, Hold(g, adult).Total(), Hold(f, adult).Total()+1e-9)
		}
	})
}

func TestNeverHarderWhenSlower(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		from := hand.Single(neck.String(rapid.IntRange(1, 6).Draw(t, "s1")), rapid.IntRange(0, 15).Draw(t, "f1"), hand.Index)
		to := hand.Single(neck.String(rapid.IntRange(1, 6).Draw(t, "s2")), rapid.IntRange(0, 15).Draw(t, "f2"), hand.Ring)
		mm := rapid.Float64Range(0, 400).Draw(t, "mm")
		fast := rapid.Float64Range(0.03, 2).Draw(t, "fast")
		slow := fast + rapid.Float64Range(0, 2).Draw(t, "more")
		require.LessOrEqual(t, Move(from, to, mm, slow).Total(), Move(from, to, mm, fast).Total())
		require.LessOrEqual(t, Strokes(slow, adult).Total(), Strokes(fast, adult).Total())
	})
}

func TestAnAnchorNeverMakesAChangeHarder(t *testing.T) {
	from := fingering(t, "x32010", 3, 2, 1)
	anchored := fingering(t, "x02210", 2, 3, 1) // index and middle stay
	lifted := fingering(t, "x02220", 1, 2, 3)
	assert.True(t, Anchored(from, anchored))
	assert.False(t, Anchored(from, lifted))
	assert.Less(t, Move(from, anchored, 0, 0.5).Total(), Move(from, lifted, 0, 0.5).Total())
	assert.Equal(t, 1, Placed(from, anchored))
}

func TestHardestPlacesCountMost(t *testing.T) {
	assert.Zero(t, Of(nil))
	even := Of([]float64{1, 1, 1, 1})
	peak := Of([]float64{0.2, 0.2, 0.2, 3.4})
	assert.InDelta(t, 1, even, 1e-9)
	assert.Greater(t, peak, even, "the same sum with a peak is harder")
	assert.Equal(t, 1.0, Scale(0))
	assert.LessOrEqual(t, Scale(100), 10.0)
	assert.Less(t, Scale(0.5), Scale(1))
}

func TestWordsCarryTheNumbers(t *testing.T) {
	from, to := fingering(t, "1xxxxx", 1), fingering(t, "5xxxxx", 1)
	assert.Equal(t, "shift of 96 mm in 0.29 s, no finger stays", Words(Shift, from, to, 96, 0.288, adult))
	assert.Equal(t, "reach of 67 mm, the hand has 120", Words(Reach, from, fingering(t, "13xxxx", 1, 3), 0, 1, adult))
	assert.Equal(t, "8.0 strokes a second, 6.0 are comfortable", Words(Speed, from, to, 0, 0.125, adult))
	for d := range demands {
		assert.NotEmpty(t, Words(d, from, to, 10, 0.5, adult), d.String())
	}
}
