package musicxml

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/pitch"
	"valleyside/core/song"
)

// written is how notes of a bar are written, in short.
func writtenAs(pieces []piece) string {
	var list []string
	for _, p := range pieces {
		text := p.kind + strings.Repeat(".", p.dots)
		if p.mod != (timeMod{1, 1}) {
			text += fmt.Sprintf("(%d:%d)", p.mod.Actual, p.mod.Normal)
		}
		list = append(list, text)
	}
	return strings.Join(list, " ")
}

func at(text string) (list []pitch.Frac) {
	for _, word := range strings.Fields(text) {
		var f pitch.Frac
		if err := f.UnmarshalText([]byte(word)); err != nil {
			panic(err)
		}
		list = append(list, f)
	}
	return list
}

// Rhythms as a copyist writes them: beside a tuplet the middle of the bar is shown.
func TestNotate(t *testing.T) {
	four, three, six := song.Meter{Count: 4, Unit: 4}, song.Meter{Count: 3, Unit: 4}, song.Meter{Count: 6, Unit: 8}
	for _, c := range []struct {
		meter  song.Meter
		onsets string
		want   string
	}{
		{four, "0", "whole"},
		{four, "0 1/4 1/2 3/4", "quarter quarter quarter quarter"},
		{three, "0", "half."},
		{three, "0 3/8", "quarter. quarter."},
		{six, "0 3/8", "quarter. quarter."},
		{six, "0 1/8 1/4 3/8 1/2 5/8", "eighth eighth eighth eighth eighth eighth"},
		{four, "0 1/12 1/6 1/4", "eighth(3:2) eighth(3:2) eighth(3:2) quarter half"},
		{four, "0 1/3 2/3", "half(3:2) half(3:2) half(3:2)"},
		{four, "0 1/20 1/10 3/20 1/5 1/4", "16th(5:4) 16th(5:4) 16th(5:4) 16th(5:4) 16th(5:4) quarter half"},
		{four, "0 1/6 1/4", "quarter(3:2) eighth(3:2) quarter half"},
		{song.Meter{Count: 5, Unit: 4}, "0", "whole quarter"},
		{song.Meter{Count: 7, Unit: 8}, "0 1/4 1/2", "quarter quarter quarter."},
	} {
		got := notate(song.Measure{Meter: c.meter}, at(c.onsets))
		assert.Equal(t, c.want, writtenAs(got), "%s in %s", c.onsets, c.meter)
	}
}

// length is how long a note of a kind lasts.
func length(t require.TestingT, p piece) pitch.Frac {
	i := slices.Index(noteTypes, p.kind)
	require.GreaterOrEqual(t, i, 0)
	l := pitch.F(2, 1<<i)
	if p.dots == 1 {
		l = l.Mul(pitch.F(3, 2))
	}
	return l.Mul(pitch.F(p.mod.Normal, p.mod.Actual))
}

// Whatever begins where in a bar: its notes fill it without a gap, one begins with every
// onset, each lasts just as long as it is written, and tuplets are whole.
func TestNotateFills(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		meter := rapid.SampledFrom([]song.Meter{{Count: 4, Unit: 4}, {Count: 3, Unit: 4}, {Count: 6, Unit: 8}, {Count: 7, Unit: 8}, {Count: 5, Unit: 4}, {Count: 12, Unit: 8}, {Count: 2, Unit: 2}}).Draw(t, "meter")
		m := song.Measure{Meter: meter}
		if rapid.Bool().Draw(t, "pickup") {
			m.Lead = meter.Bar().Sub(meter.Beat().Mul(rapid.SampledFrom([]pitch.Frac{pitch.Whole(1), pitch.F(1, 2), pitch.F(3, 2)}).Draw(t, "beats")))
		}
		onsets := []pitch.Frac{m.Lead}
		for range rapid.IntRange(0, 9).Draw(t, "onsets") {
			n := rapid.SampledFrom([]int64{2, 3, 4, 5, 6, 7, 8, 9, 12, 16, 24, 35}).Draw(t, "slots")
			onsets = append(onsets, m.Lead.Add(m.Length().Mul(pitch.F(rapid.Int64Range(0, n-1).Draw(t, "slot"), n))))
		}
		slices.SortFunc(onsets, pitch.Frac.Cmp)
		onsets = slices.Compact(onsets)
		pieces := notate(m, onsets)
		now, inside, next := m.Lead, false, 0
		for _, p := range pieces {
			require.Equal(t, now, p.from, "no gap: %s", writtenAs(pieces))
			if next < len(onsets) && !p.from.Less(onsets[next]) {
				require.Equal(t, onsets[next], p.from)
				next++
			}
			if p.kind != "" {
				require.Equal(t, p.to.Sub(p.from), length(t, p), writtenAs(pieces))
			}
			if p.begins {
				require.False(t, inside)
				inside = true
			}
			require.Equal(t, p.mod != (timeMod{1, 1}), inside, "tuplets are marked: %s", writtenAs(pieces))
			if p.ends {
				inside = false
			}
			now = p.to
		}
		require.Equal(t, m.Meter.Bar(), now)
		require.Len(t, onsets, next, "each onset begins a note")
	})
}
