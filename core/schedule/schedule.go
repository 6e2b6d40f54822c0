// Package schedule spreads what is to be practised over days of so many minutes.
//
// A day is filled with a mixture: what comes next in each song in turn, and then what was begun
// on the days before and is not over yet, since a shape or a change settles by coming again.
// What is learnt and due is looked at first. Not more new things are begun than a day and a week
// hold; where the next step brings one too many, what is not new goes on meanwhile, so that no day
// is empty.
package schedule

import (
	"cmp"
	"slices"

	"valleyside/core/progress"
)

// Item is something to be practised.
type Item struct {
	Song    int   // to which it belongs, from 0; those of a song stand in their order
	Minutes int   // that it takes
	Thing   int   // what is new in it, from 1: the same for what is learnt as one; 0 where nothing is
	After   []int // what has to be over before it, by index; only what stands before it counts
	Apart   []int // what has to be begun on a day before its own, in the same way
	Within  []int // what takes it up: from the day after one of them was begun it is not repeated
	Done    bool  // it was learnt before the first day: it is repeated, no more
	Rested  int   // of what is done: the days since it was practised; 0 is the first day of the plan
	// Due is the day on which what is learnt is looked at again, from 1, and Gap the days before
	// it since it was looked at last; 0 where nothing is due.
	Due, Gap int
	// Wanted is what the teacher wants to be practised first: it is begun before the rest, whatever
	// it needs, and is repeated first.
	Wanted bool
}

// Slot is what is done of an item on a day.
type Slot struct {
	Item    int
	Minutes int
	Again   bool // it was begun before
	Review  bool // it is learnt, and looked at again
}

// Plan says on which days items are practised.
type Plan struct {
	First []int    // the day on which each is begun, from 1; Before for what is done
	Days  [][]Slot // by day, the first at index 0
}

// Before is the day on which something was begun that was there before the plan.
const Before = -1

// How many new things are begun.
const (
	PerDay  = 2
	PerWeek = 4

	week    = 7
	shorter = 2 // minutes, under which nothing is repeated
	lookAt  = 4 // minutes that a review takes
)

// Make plans items over days of so many minutes, of which the first has today left. No day takes
// longer; an item that would goes on over days. ahead lets what is not new pass what has to wait,
// where nothing hangs on it.
func Make(items []Item, perDay, today int, ahead bool) Plan {
	p := planner{items: slices.Clone(items), perDay: max(perDay, 1), today: today, ahead: ahead, last: make([]int, len(items)), left: make([]int, len(items)), things: map[int]bool{}}
	p.First = make([]int, len(items))
	for i := range items {
		if p.left[i] = max(items[i].Minutes, 1); items[i].Done {
			p.First[i], p.last[i], p.left[i] = Before, 1-items[i].Rested, 0
			p.things[items[i].Thing] = true
		}
		if s := items[i].Song; s >= p.songs {
			p.songs = s + 1
		}
	}
	fewest := 0
	if p.reviews(week) {
		fewest = week
	}
	for p.open() || len(p.Days) < fewest {
		p.day()
	}
	return p.Plan
}

type planner struct {
	Plan
	items  []Item
	perDay int
	today  int // minutes of the first day
	ahead  bool
	songs  int
	turn   int          // the song that is next
	last   []int        // the day on which each was practised last
	left   []int        // minutes of each that are not planned yet
	things map[int]bool // that have been begun
	weekly int          // things begun this week
}

func (p *planner) open() bool {
	return slices.ContainsFunc(p.left, func(n int) bool { return n > 0 })
}

// day plans one more day.
func (p *planner) day() {
	day := len(p.Days) + 1
	if (day-1)%week == 0 {
		p.weekly = 0
	}
	p.Days = append(p.Days, nil)
	minutes, begun := p.perDay, 0
	if day == 1 {
		minutes = min(minutes, p.today)
	}
	begin := func(i int) {
		if t := p.items[i].Thing; t > 0 && !p.things[t] {
			p.things[t] = true
			begun++
			p.weekly++
		}
		p.First[i] = day
		p.turn = p.items[i].Song + 1
		minutes -= p.put(i, min(p.left[i], minutes))
	}
	fits := func(i int) bool { return p.left[i] <= minutes || minutes == p.perDay }
	for i := range p.items {
		if p.items[i].Wanted && p.First[i] == 0 && minutes > 0 && fits(i) {
			begin(i)
		}
	}
	minutes -= p.review(day, minutes)
	for i := range p.items { // what did not fit into the day before goes on
		if p.First[i] > 0 && p.First[i] < day && p.left[i] > 0 && minutes > 0 {
			minutes -= p.put(i, min(p.left[i], minutes))
		}
	}
	for i := p.next(day, begun, fits); i >= 0 && minutes > 0; i = p.next(day, begun, fits) {
		begin(i)
	}
	p.repeat(day, minutes)
}

// reviews tells whether something is due up to a day.
func (p *planner) reviews(day int) bool {
	return slices.ContainsFunc(p.items, func(it Item) bool { return it.Due > 0 && it.Due <= day })
}

// review looks at what is due on a day, what was due first before the others, as far as so many
// minutes go and one in a while; it tells how many were spent.
func (p *planner) review(day, minutes int) (spent int) {
	var due []int
	for i := range p.items {
		if it := &p.items[i]; it.Done && it.Due > 0 && it.Due <= day {
			due = append(due, i)
		}
	}
	slices.SortStableFunc(due, func(a, b int) int {
		return cmp.Or(cmp.Compare(p.items[a].Due, p.items[b].Due), cmp.Compare(p.last[a], p.last[b]))
	})
	for _, i := range due[:min(len(due), 1+p.perDay/perReview)] {
		takes := min(max(p.items[i].Minutes, 1), lookAt, minutes-spent)
		if takes <= 0 {
			break
		}
		p.Days[day-1] = append(p.Days[day-1], Slot{Item: i, Minutes: takes, Again: true, Review: true})
		spent += takes
		p.last[i] = day
		p.items[i].Gap = progress.NextGap(p.items[i].Gap)
		p.items[i].Due = day + p.items[i].Gap
	}
	return spent
}

// put has so many minutes of an item on the last day.
func (p *planner) put(i, minutes int) int {
	day := len(p.Days)
	p.Days[day-1] = append(p.Days[day-1], Slot{Item: i, Minutes: minutes, Again: p.First[i] < day})
	p.last[i] = day
	p.left[i] -= minutes
	return minutes
}

// next is what is begun next on a day and fits into it, of the songs in turn; −1 for nothing.
func (p *planner) next(day, begun int, fits func(int) bool) int {
	for k := range p.songs {
		if i := p.of((p.turn+k)%p.songs, day, begun); i >= 0 && fits(i) {
			return i
		}
	}
	return -1
}

// of is what may be begun of a song: what is next in it, or while that has to wait what can go
// before it.
func (p *planner) of(song, day, begun int) int {
	for i := range p.items {
		if p.items[i].Song != song || p.First[i] != 0 {
			continue
		}
		fresh := p.items[i].Thing > 0 && !p.things[p.items[i].Thing]
		if p.ready(i, day) && !(fresh && (begun >= PerDay || p.weekly >= PerWeek)) {
			return i
		}
		if !p.ahead {
			break
		}
	}
	return -1
}

// ready tells whether all that an item needs is there on a day.
func (p *planner) ready(i, day int) bool {
	return !slices.ContainsFunc(p.items[i].After, func(j int) bool { return j < i && (p.First[j] == 0 || p.left[j] > 0) }) &&
		!slices.ContainsFunc(p.items[i].Apart, func(j int) bool { return j < i && (p.First[j] == 0 || p.First[j] >= day) })
}

// repeat fills the minutes of a day that are left with what was begun before and is not over, what
// the teacher wants and what has rested longest first, and what is learnt last; and where there is none, what is begun
// on it takes longer.
func (p *planner) repeat(day, minutes int) {
	if minutes <= 0 {
		return
	}
	var again []int
	for i := range p.items {
		over := !p.items[i].Wanted && slices.ContainsFunc(p.items[i].Within, func(j int) bool { return p.First[j] != 0 && p.First[j] < day })
		if p.First[i] != 0 && p.First[i] < day && p.last[i] < day && p.left[i] <= 0 && !over {
			again = append(again, i)
		}
	}
	place := func(i int) int {
		switch {
		case p.items[i].Wanted:
			return 0
		case p.items[i].Due == 0:
			return 1
		}
		return 2
	}
	slices.SortStableFunc(again, func(a, b int) int {
		return cmp.Or(cmp.Compare(place(a), place(b)), cmp.Compare(p.last[a], p.last[b]))
	})
	for _, i := range again {
		if minutes < shorter {
			break
		}
		spent := min(max(p.items[i].Minutes, 1), minutes)
		p.Days[day-1] = append(p.Days[day-1], Slot{Item: i, Minutes: spent, Again: true})
		p.last[i] = day
		minutes -= spent
	}
	for k := range p.Days[day-1] { // each at most for twice as long
		slot := &p.Days[day-1][k]
		more := min(minutes, slot.Minutes)
		slot.Minutes += more
		minutes -= more
	}
}
