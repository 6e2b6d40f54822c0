package schedule

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/progress"
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
		assert.Equal(t, c.want, Make(c.items, c.perDay, c.perDay, true).First, c.name)
	}
	assert.Equal(t, []int{1, 1, 2, 2, 8, 8}, Make([]Item{item(2, 1), item(2, 2), item(2, 3), item(2, 4), item(2, 5), item(6, 0)}, 10, 10, false).First, "a teacher's own order stays")
}

// Days are filled with what was begun before, until it is taken up by something else.
func TestAgain(t *testing.T) {
	p := Make([]Item{{Minutes: 2, Thing: 1, Within: []int{1}}, {Minutes: 6, After: []int{0}}, {Minutes: 5, Apart: []int{1}}}, 10, 10, true)
	require.Len(t, p.Days, 2)
	assert.Equal(t, []Slot{{Item: 0, Minutes: 4}, {Item: 1, Minutes: 6}}, p.Days[0], "nothing is there to be repeated: what is begun takes longer")
	assert.Equal(t, []Slot{{Item: 2, Minutes: 5}, {Item: 1, Minutes: 5, Again: true}}, p.Days[1], "the shape is in the part by now")
	p = Make([]Item{{Minutes: 4, Done: true, Rested: 2}, {Minutes: 4, Done: true, Rested: 9}, {Minutes: 4}}, 10, 10, true)
	assert.Equal(t, []Slot{{Item: 2, Minutes: 4}, {Item: 1, Minutes: 4, Again: true}, {Item: 0, Minutes: 2, Again: true}}, p.Days[0], "what has rested longest comes first")
	p = Make([]Item{{Minutes: 4, Done: true}, {Minutes: 4, Done: true, Rested: 1}, {Minutes: 4}}, 10, 10, true)
	assert.Equal(t, []Slot{{Item: 2, Minutes: 6}, {Item: 1, Minutes: 4, Again: true}}, p.Days[0], "what was practised today does not come again today")
}

// What is due is looked at first, one in a short day, and again after the next gap; what is learnt
// and not due comes after all else. What was practised today is taken off today's minutes.
func TestReviewsAndToday(t *testing.T) {
	learnt := func(due, gap int) Item { return Item{Minutes: 6, Done: true, Rested: 9, Due: due, Gap: gap} }
	p := Make([]Item{learnt(1, 2), learnt(3, 2), {Minutes: 6}, {Minutes: 10}, {Minutes: 10}}, 10, 10, true)
	assert.Equal(t, []Slot{{Item: 0, Minutes: 4, Again: true, Review: true}, {Item: 2, Minutes: 6}}, p.Days[0])
	assert.Equal(t, []Slot{{Item: 3, Minutes: 10}}, p.Days[1])
	assert.Equal(t, Slot{Item: 1, Minutes: 4, Again: true, Review: true}, p.Days[2][0])
	p = Make([]Item{learnt(1, 2), learnt(1, 30)}, 10, 10, true)
	require.Len(t, p.Days, 7, "a week of what is due, where all is done")
	var on [2][]int
	for d, slots := range p.Days {
		for _, s := range slots {
			if s.Review {
				on[s.Item] = append(on[s.Item], d+1)
			}
		}
	}
	assert.Equal(t, [2][]int{{1, 6}, {2}}, on, "after five days, and after seventy-five")
	assert.Empty(t, Make([]Item{learnt(20, 30)}, 10, 10, true).Days, "nothing is to be done")
	p = Make([]Item{{Minutes: 6}, {Minutes: 4, After: []int{0}, Wanted: true}, {Minutes: 6}, {Minutes: 6}}, 10, 10, true)
	assert.Equal(t, []Slot{{Item: 1, Minutes: 4}, {Item: 0, Minutes: 6}}, p.Days[0], "what the teacher wants, before what it needs")
	assert.Equal(t, []Slot{{Item: 2, Minutes: 6}, {Item: 1, Minutes: 4, Again: true}}, p.Days[1], "and again before the rest")
	p = Make([]Item{{Minutes: 6}, {Minutes: 6}}, 10, 4, true)
	assert.Equal(t, []int{2, 3}, p.First, "the six minutes of today are not enough: tomorrow")
	p = Make([]Item{{Minutes: 6}}, 10, 0, true)
	assert.Empty(t, p.Days[0])
}

// No day is empty or too long, everything is begun once, in time and after what it needs, and
// no week has more new things than it holds.
func TestPlans(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		items := make([]Item, rapid.IntRange(1, 30).Draw(t, "items"))
		for i := range items {
			items[i] = Item{Song: rapid.IntRange(0, 2).Draw(t, "song"), Minutes: rapid.IntRange(0, 25).Draw(t, "minutes"), Thing: max(rapid.IntRange(-8, 8).Draw(t, "thing"), 0),
				Done: rapid.IntRange(0, 5).Draw(t, "done") == 0, Rested: rapid.IntRange(0, 90).Draw(t, "rested"), Wanted: rapid.IntRange(0, 9).Draw(t, "wanted") == 0}
			for range rapid.IntRange(0, 3).Draw(t, "needs") {
				items[i].After = append(items[i].After, rapid.IntRange(0, len(items)-1).Draw(t, "after"))
			}
			if rapid.Bool().Draw(t, "apart") {
				items[i].Apart = []int{rapid.IntRange(0, len(items)-1).Draw(t, "apart from")}
			}
			if items[i].Done && rapid.Bool().Draw(t, "learnt") {
				items[i].Due, items[i].Gap = rapid.IntRange(1, 20).Draw(t, "due"), rapid.SampledFrom(progress.Gaps[:]).Draw(t, "gap")
			}
			if rapid.Bool().Draw(t, "within") {
				items[i].Within = []int{rapid.IntRange(0, len(items)-1).Draw(t, "in")}
			}
		}
		perDay := rapid.IntRange(1, 40).Draw(t, "a day")
		today := rapid.IntRange(0, perDay).Draw(t, "today")
		p := Make(items, perDay, today, rapid.Bool().Draw(t, "ahead"))
		spent, last := make([]int, len(items)), make([]int, len(items))
		things, looked := map[int]int{}, map[int]bool{}
		for d, slots := range p.Days {
			sum := 0
			if d > 0 && d < slices.Max(p.First) { // after that a week is filled up with what is due
				require.NotEmpty(t, slots, "day %d", d+1)
			}
			for _, s := range slots {
				require.Positive(t, s.Minutes)
				sum += s.Minutes
				if p.First[s.Item] <= d+1 && !items[s.Item].Done && spent[s.Item] < items[s.Item].Minutes {
					spent[s.Item] += s.Minutes
					last[s.Item] = d + 1
				}
				require.Equal(t, p.First[s.Item] < d+1, s.Again)
				if s.Review {
					require.LessOrEqual(t, items[s.Item].Due, d+1, "not before it is due")
					looked[s.Item] = true
				}
			}
			if d == 0 {
				require.LessOrEqual(t, sum, today)
			}
			require.LessOrEqual(t, sum, perDay)
		}
		for i := range items {
			if items[i].Done {
				require.Equal(t, Before, p.First[i])
				if due := items[i].Due; due > 0 && due+len(items) < len(p.Days) {
					require.True(t, looked[i], "one a day, all are looked at")
				}
				things[items[i].Thing] = Before
				continue
			}
			require.Positive(t, p.First[i])
			require.GreaterOrEqual(t, spent[i], items[i].Minutes)
			if items[i].Wanted {
				continue // the teacher's word is the last
			}
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
			if items[i].Wanted {
				things[thing] = Before
			}
			if d, ok := begun[thing]; thing > 0 && things[thing] != Before && (!ok || p.First[i] < d) {
				begun[thing] = p.First[i]
			}
		}
		for thing, d := range begun {
			if things[thing] == Before {
				continue
			}
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
