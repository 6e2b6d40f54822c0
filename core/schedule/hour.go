package schedule

import (
	"cmp"
	"slices"

	"valleyside/core/progress"
)

// The kinds of what is in a lesson hour beside those of a sitting.
const (
	Arrive Kind = "arrive" // tune, and look at the notes of last time
	Hear   Kind = "hear"   // what was practised since, and what is due
	Home   Kind = "home"   // what is taken home is said and written down
)

// None is the part of a stretch that is of no part.
const None = -1

// Heard is where a student is with a part, and for how many minutes they practised it since the
// last lesson.
type Heard struct {
	progress.Look
	Minutes int
}

// hourly is how an hour is shared out, in the order in which it is taught; the drill is what is
// to be fixed, the step what comes next.
var hourly = plan{
	Arrive: {share: 1, fewest: 2, most: 5},
	Hear:   {share: 2, fewest: 3, most: 8},
	Drill:  {share: 3, fewest: 4, most: 10},
	Work:   {share: 5, fewest: 6},
	Home:   {share: 1, fewest: 2, most: 5},
	Good:   {share: 1, fewest: 2, most: 5},
}

// Hour plans a lesson of so many minutes with some parts: what was practised since is heard first
// (what is due before the rest), then what is stuck is fixed, then comes what is next; what is
// taken home is written down, and something good is played at the end. The minutes are filled and
// not exceeded; every part is either played or left out with the reason.
func Hour(parts []Heard, minutes int) (list []Stretch, out []Out) {
	pick := func(is func(p Heard) bool, first func(a, b Heard) int) (of []int) {
		for i := range parts {
			if is(parts[i]) {
				of = append(of, i)
			}
		}
		slices.SortStableFunc(of, func(a, b int) int { return first(parts[a], parts[b]) })
		return of
	}
	const perHeard = 20 // minutes of an hour for one more part to be heard
	due := func(p Heard) int {
		if p.State == progress.Due {
			return 0
		}
		return 1
	}
	heard := pick(func(p Heard) bool { return p.State == progress.Due || p.Minutes > 0 && p.State != progress.Stuck }, func(a, b Heard) int {
		return cmp.Or(cmp.Compare(due(a), due(b)), a.Due.Compare(b.Due), cmp.Compare(b.Minutes, a.Minutes))
	})
	heard = heard[:min(len(heard), max(minutes/perHeard, 1))]
	stuck := pick(func(p Heard) bool { return p.State == progress.Stuck }, func(a, b Heard) int { return cmp.Compare(b.Tries, a.Tries) })
	grows := func(i int) float64 { // what is not heard yet comes before what is
		return order(parts[i].Look) + map[bool]float64{true: 2}[slices.Contains(heard, i)]
	}
	next := pick(func(p Heard) bool { return p.State == progress.Growing || p.State == progress.New }, func(Heard, Heard) int { return 0 })
	slices.SortStableFunc(next, func(a, b int) int { return cmp.Compare(grows(a), grows(b)) })
	easy := pick(func(p Heard) bool { return p.State == progress.Learnt }, func(a, b Heard) int { return b.Due.Compare(a.Due) })
	easy = slices.DeleteFunc(easy, func(i int) bool { return slices.Contains(heard, i) })

	of := map[Kind][]int{Arrive: {None}, Hear: heard, Drill: stuck[:min(len(stuck), 1)], Work: next[:min(len(next), 1)], Home: {None}, Good: easy[:min(len(easy), 1)]}
	if len(parts) == 0 { // the hour is for a first song
		of[Work] = []int{None}
	}
	list = hourly.share([]Kind{Work, Arrive, Home, Hear, Drill, Good}, of, minutes)
	order := []Kind{Arrive, Hear, Drill, Work, Home, Good}
	slices.SortStableFunc(list, func(a, b Stretch) int { return slices.Index(order, a.Kind) - slices.Index(order, b.Kind) })
	looks := make([]progress.Look, len(parts))
	for i := range parts {
		looks[i] = parts[i].Look
	}
	return list, leftOut(looks, list)
}
