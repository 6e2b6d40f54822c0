package schedule

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// item is one that takes so many minutes and brings a new thing.
func item(minutes, thing int, after ...int) Item {
	return Item{Minutes: minutes, Thing: thing, After: after}
}

func TestDays(t *testing.T) {
	for _, c := range []struct {
		name   string
		items  []Item
		perDay int
		want   []int
	}{
		{"what fits into a day is on it", []Item{item(4, 0), item(6, 0), item(5, 0)}, 10, []int{1, 1, 2}},
		{"what would be too long for the rest of a day waits for the next", []Item{item(4, 0), item(8, 0), item(2, 0, 1)}, 10, []int{1, 2, 2}},
		{"two new things a day", []Item{item(2, 1), item(2, 2), item(2, 3)}, 10, []int{1, 1, 2}},
		{"two shapes and their change are one", []Item{item(2, 1), item(2, 1), item(5, 1), item(1, 2)}, 10, []int{1, 1, 1, 1}},
		{"four a week", []Item{item(2, 1), item(2, 2), item(2, 3), item(2, 4), item(2, 5)}, 10, []int{1, 1, 2, 2, 8}},
		{"what is not new goes on meanwhile", []Item{item(2, 1), item(2, 2), item(2, 3), item(2, 4), item(2, 5), item(9, 0), item(9, 0, 4)}, 10, []int{1, 1, 2, 2, 8, 3, 9}},
		{"a part is faster on another day", []Item{item(3, 0), {Minutes: 3, Apart: []int{0}}, {Minutes: 3, Apart: []int{1}}}, 10, []int{1, 2, 3}},
		{"longer than a day goes on over days", []Item{item(25, 0), item(5, 0, 0)}, 10, []int{1, 3}},
		{"what is done is not begun", []Item{{Minutes: 5, Done: true}, item(5, 0, 0)}, 10, []int{Before, 1}},
		{"songs in turn", []Item{{Minutes: 5}, {Minutes: 5}, {Minutes: 5, Song: 1}, {Minutes: 5, Song: 1}}, 10, []int{1, 2, 1, 2}},
	} {
		assert.Equal(t, c.want, Make(c.items, c.perDay, true).First, c.name)
	}
	assert.Equal(t, []int{1, 1, 2, 2, 8, 8}, Make([]Item{item(2, 1), item(2, 2), item(2, 3), item(2, 4), item(2, 5), item(6, 0)}, 10, false).First, "a teacher's own order stays")
}

// Days are filled with what was begun before, until it is taken up by something else.
func TestAgain(t *testing.T) {
	p := Make([]Item{{Minutes: 2, Thing: 1, Within: []int{1}}, {Minutes: 6, After: []int{0}}, {Minutes: 5, Apart: []int{1}}}, 10, true)
	require.Len(t, p.Days, 2)
	assert.Equal(t, []Slot{{0, 4, false}, {1, 6, false}}, p.Days[0], "nothing is there to be repeated: what is begun takes longer")
	assert.Equal(t, []Slot{{2, 5, false}, {1, 5, true}}, p.Days[1], "the shape is in the part by now")
	p = Make([]Item{{Minutes: 4, Done: true, Rested: 2}, {Minutes: 4, Done: true, Rested: 9}, {Minutes: 4}}, 10, true)
	assert.Equal(t, []Slot{{2, 4, false}, {1, 4, true}, {0, 2, true}}, p.Days[0], "what has rested longest comes first")
	p = Make([]Item{{Minutes: 4, Done: true}, {Minutes: 4, Done: true, Rested: 1}, {Minutes: 4}}, 10, true)
	assert.Equal(t, []Slot{{2, 6, false}, {1, 4, true}}, p.Days[0], "what was practised today does not come again today")
}

// No day is empty or too long, everything is begun once, in time and after what it needs, and
// no week has more new things than it holds.
func TestPlans(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		items := make([]Item, rapid.IntRange(1, 30).Draw(t, "items"))
		for i := range items {
			items[i] = Item{Song: rapid.IntRange(0, 2).Draw(t, "song"), Minutes: rapid.IntRange(0, 25).Draw(t, "minutes"), Thing: max(rapid.IntRange(-8, 8).Draw(t, "thing"), 0),
				Done: rapid.IntRange(0, 5).Draw(t, "done") == 0, Rested: rapid.IntRange(0, 90).Draw(t, "rested")}
			for range rapid.IntRange(0, 3).Draw(t, "needs") {
				items[i].After = append(items[i].After, rapid.IntRange(0, len(items)-1).Draw(t, "after"))
			}
			if rapid.Bool().Draw(t, "apart") {
				items[i].Apart = []int{rapid.IntRange(0, len(items)-1).Draw(t, "apart from")}
			}
			if rapid.Bool().Draw(t, "within") {
				items[i].Within = []int{rapid.IntRange(0, len(items)-1).Draw(t, "in")}
			}
		}
		perDay := rapid.IntRange(1, 40).Draw(t, "a day")
		p := Make(items, perDay, rapid.Bool().Draw(t, "ahead"))
		spent, last := make([]int, len(items)), make([]int, len(items))
		things := map[int]int{}
		for d, slots := range p.Days {
			sum := 0
			assert.NotEmpty(t, slots, "day %d", d+1)
			for _, s := range slots {
				require.Positive(t, s.Minutes)
				sum += s.Minutes
				if p.First[s.Item] <= d+1 && !items[s.Item].Done && spent[s.Item] < items[s.Item].Minutes {
					spent[s.Item] += s.Minutes
					last[s.Item] = d + 1
				}
				require.Equal(t, p.First[s.Item] < d+1, s.Again)
			}
			require.LessOrEqual(t, sum, perDay)
		}
		for i := range items {
			if items[i].Done {
				require.Equal(t, Before, p.First[i])
				things[items[i].Thing] = Before
				continue
			}
			require.Positive(t, p.First[i])
			require.GreaterOrEqual(t, spent[i], items[i].Minutes)
			for _, j := range items[i].After {
				require.True(t, j >= i || last[j] <= p.First[i], "%d after %d", i, j)
			}
			for _, j := range items[i].Apart {
				require.True(t, j >= i || p.First[j] < p.First[i], "%d apart from %d", i, j)
			}
		}
		weeks, days := map[int]int{}, map[int]int{}
		begun := map[int]int{}
		for i := range items {
			thing := items[i].Thing
			if d, ok := begun[thing]; thing > 0 && things[thing] != Before && (!ok || p.First[i] < d) {
				begun[thing] = p.First[i]
			}
		}
		for _, d := range begun {
			weeks[(d-1)/week]++
			days[d]++
		}
		for _, n := range weeks {
			require.LessOrEqual(t, n, PerWeek)
		}
		for _, n := range days {
			require.LessOrEqual(t, n, PerDay)
		}
	})
}
