package schedule

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/progress"
)

func look(state progress.State, days int) progress.Look {
	l := progress.Look{State: state, Tempo: 80, Clean: 60}
	if state == progress.Learnt || state == progress.Due {
		l.Due = time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC).AddDate(0, 0, days)
	}
	return l
}

func TestSitting(t *testing.T) {
	parts := []progress.Look{look(progress.Growing, 0), look(progress.Learnt, 70), look(progress.Stuck, 0), look(progress.Due, -3), look(progress.Learnt, 9), look(progress.Due, -8), look(progress.New, 0)}
	kinds := func(minutes int) (list []Kind) {
		s, _ := Sitting(parts, minutes)
		for _, one := range s {
			list = append(list, one.Kind)
		}
		return list
	}
	assert.Equal(t, []Kind{Work}, kinds(5), "the step alone")
	assert.Equal(t, []Kind{Review, Work}, kinds(8))
	assert.Equal(t, []Kind{Review, Drill, Work}, kinds(12))
	assert.Equal(t, []Kind{WarmUp, Review, Drill, Work, Good}, kinds(20))
	s, out := Sitting(parts, 20)
	assert.Equal(t, 1, s[0].Part, "what rests longest yet is easiest")
	assert.Equal(t, 5, s[1].Part, "what has been due longest")
	assert.Equal(t, 4, s[4].Part)
	assert.Equal(t, []Out{{3, NoTime}, {6, OneAtOnce}}, out)
	s, _ = Sitting(parts, 60)
	assert.LessOrEqual(t, s[3].Minutes, 10, "what is stuck, ten minutes at most")
	s, out = Sitting([]progress.Look{look(progress.Learnt, 5)}, 15)
	assert.Empty(t, out)
	assert.Equal(t, 15, s[0].Minutes+s[1].Minutes, "nothing else is there to be played")
	s, out = Sitting(nil, 15)
	assert.Empty(t, s)
	assert.Empty(t, out)
}

// The minutes are filled, not exceeded, and every part is played or left out.
func TestSittings(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var parts []progress.Look
		for range rapid.IntRange(1, 12).Draw(t, "parts") {
			parts = append(parts, look(rapid.SampledFrom([]progress.State{progress.New, progress.Growing, progress.Stuck, progress.Learnt, progress.Due}).Draw(t, "state"), rapid.IntRange(-20, 70).Draw(t, "days")))
		}
		minutes := rapid.IntRange(1, 120).Draw(t, "minutes")
		s, out := Sitting(parts, minutes)
		sum, in := 0, map[int]bool{}
		for _, one := range s {
			require.Positive(t, one.Minutes)
			sum += one.Minutes
			in[one.Part] = true
		}
		require.Equal(t, minutes, sum)
		for _, o := range out {
			require.False(t, in[o.Part])
			in[o.Part] = true
		}
		require.Len(t, in, len(parts))
	})
}
