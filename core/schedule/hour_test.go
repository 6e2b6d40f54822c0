package schedule

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/progress"
)

// Hours of a teacher, decided beforehand: a word for each part, with the minutes that it was
// practised since the last lesson and for what is learnt or due the days until it is due.
func TestHour(t *testing.T) {
	for _, c := range []struct {
		parts   string
		minutes int
		want    string // kinds with their parts
		out     string
	}{
		{"growing:20 stuck:10 new", 30, "arrive hear0 drill1 step2 home", ""},
		{"growing:20 growing:40 new", 45, "arrive hear1 hear0 step2 home", ""},
		{"growing:20 due:0,-3 learnt:0,9", 45, "arrive hear1 hear0 step0 home good2", ""},
		{"learnt:5,40 due:0,-1 due:0,-8 new", 30, "arrive hear2 step3 home good0", "1"},
		{"growing:20", 30, "arrive hear0 step0 home", ""},
		{"", 30, "arrive step home", ""},
		{"new new stuck", 30, "arrive drill2 step0 home", "1"},
		{"growing growing:9 stuck:30 stuck:5 new", 60, "arrive hear1 drill2 step0 home", "3 4"},
	} {
		var parts []Heard
		for _, one := range strings.Fields(c.parts) {
			state, rest, _ := strings.Cut(one, ":")
			var minutes, days int
			_, _ = fmt.Sscanf(rest, "%d,%d", &minutes, &days)
			parts = append(parts, Heard{look(progress.State(state), days), minutes})
		}
		list, out := Hour(parts, c.minutes)
		var kinds, left []string
		sum := 0
		for _, s := range list {
			sum += s.Minutes
			word := string(s.Kind)
			if s.Part != None {
				word += fmt.Sprint(s.Part)
			}
			kinds = append(kinds, word)
		}
		for _, o := range out {
			left = append(left, fmt.Sprint(o.Part))
		}
		assert.Equal(t, c.want, strings.Join(kinds, " "), c.parts)
		assert.Equal(t, c.out, strings.Join(left, " "), c.parts)
		assert.Equal(t, c.minutes, sum, c.parts)
	}
	list, _ := Hour([]Heard{{look(progress.Growing, 0), 20}, {look(progress.Stuck, 0), 0}, {look(progress.New, 0), 0}}, 45)
	longest := slices.MaxFunc(list, func(a, b Stretch) int { return a.Minutes - b.Minutes })
	assert.Equal(t, Work, longest.Kind, "most of the hour is for what comes next")
}

// Whatever a student has: the minutes are filled, nothing is longer than it may be, and each part
// is played or left out.
func TestHours(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var parts []Heard
		for range rapid.IntRange(0, 12).Draw(t, "parts") {
			parts = append(parts, Heard{look(rapid.SampledFrom([]progress.State{progress.New, progress.Growing, progress.Stuck, progress.Learnt, progress.Due}).Draw(t, "state"), rapid.IntRange(-20, 70).Draw(t, "days")), max(rapid.IntRange(-30, 90).Draw(t, "minutes"), 0)})
		}
		minutes := rapid.IntRange(1, 120).Draw(t, "minutes")
		list, out := Hour(parts, minutes)
		sum, is := 0, map[int]bool{}
		for _, s := range list {
			require.Positive(t, s.Minutes)
			sum += s.Minutes
			if s.Part != None {
				is[s.Part] = true
			}
			if s.Kind == Drill && len(list) > 1 && slices.ContainsFunc(list, func(s Stretch) bool { return s.Kind == Work }) {
				require.LessOrEqual(t, s.Minutes, 10)
			}
		}
		require.Equal(t, minutes, sum)
		for _, o := range out {
			require.False(t, is[o.Part])
			is[o.Part] = true
		}
		require.Len(t, is, len(parts))
	})
}
