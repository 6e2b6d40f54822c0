package schedule

import (
	"cmp"
	"slices"

	"valleyside/core/progress"
)

// Kind is what a stretch of a sitting is for.
type Kind string

// The kinds, in the order in which they are played.
const (
	WarmUp Kind = "warm-up" // in what comes easiest
	Review Kind = "review"  // what is learnt and due
	Drill  Kind = "drill"   // the hard place of what is stuck
	Work   Kind = "step"    // on what grows, or is new
	Good   Kind = "good"    // something that is good already, at the end
)

// Stretch is a part of a sitting.
type Stretch struct {
	Part    int // index of the part
	Kind    Kind
	Minutes int
}

// Why a part is left out of a sitting.
type LeftOut uint8

// The reasons.
const (
	NotDueYet LeftOut = iota // it is learnt, and looked at later
	NoTime                   // the minutes are full
	OneAtOnce                // another one of its kind comes first
)

// Out is a part that is left out.
type Out struct {
	Part int
	Why  LeftOut
}

// room is what a kind of stretch counts for, and its fewest and most minutes; 0 is any number.
type room struct{ share, fewest, most int }

// plan is how minutes are shared out among kinds.
type plan map[Kind]room

var sitting = plan{
	WarmUp: {share: 1, fewest: 2, most: 5},
	Review: {share: 2, fewest: 3, most: 6},
	Drill:  {share: 3, fewest: 4, most: 10},
	Work:   {share: 4, fewest: 5},
	Good:   {share: 1, fewest: 2, most: 5},
}

// perReview is the minutes of a sitting for one more review, and for one more step.
const perReview = 15

// Sitting plans so many minutes with some parts: a warm-up in the easiest, what is due, the one
// thing that is stuck, the next step, and something good at the end. The minutes are filled and
// not exceeded; every part is either played or left out with the reason.
func Sitting(parts []progress.Look, minutes int) (list []Stretch, out []Out) {
	pick := func(state func(l progress.Look) bool, first func(a, b progress.Look) int) (of []int) {
		for i := range parts {
			if state(parts[i]) {
				of = append(of, i)
			}
		}
		slices.SortStableFunc(of, func(a, b int) int { return first(parts[a], parts[b]) })
		return of
	}
	due := pick(func(l progress.Look) bool { return l.State == progress.Due }, func(a, b progress.Look) int { return a.Due.Compare(b.Due) })
	stuck := pick(func(l progress.Look) bool { return l.State == progress.Stuck }, func(a, b progress.Look) int { return b.Tries - a.Tries })
	work := pick(func(l progress.Look) bool { return l.State == progress.Growing || l.State == progress.New }, func(a, b progress.Look) int {
		return cmp.Compare(order(a), order(b))
	})
	easy := pick(func(l progress.Look) bool { return l.State == progress.Learnt }, func(a, b progress.Look) int { return b.Due.Compare(a.Due) })

	more := 1 + minutes/(2*perReview)
	of := map[Kind][]int{Review: due[:min(len(due), more)], Drill: stuck[:min(len(stuck), 1)], Work: work[:min(len(work), more)]}
	if len(of[Work]) == 0 && len(stuck) > 1 { // nothing else grows
		of[Work] = stuck[1:2]
	}
	if len(easy) > 0 {
		of[WarmUp], of[Good] = easy[:1], easy[len(easy)-1:]
	}
	list = sitting.share([]Kind{Work, Review, Drill, WarmUp, Good}, of, minutes)
	place := map[Kind]int{WarmUp: 0, Review: 1, Drill: 2, Work: 3, Good: 4}
	slices.SortStableFunc(list, func(a, b Stretch) int { return place[a.Kind] - place[b.Kind] })
	return list, leftOut(parts, list)
}

// leftOut says of each part that is in no stretch why it is not.
func leftOut(parts []progress.Look, list []Stretch) (out []Out) {
	for i := range parts {
		if slices.ContainsFunc(list, func(s Stretch) bool { return s.Part == i }) {
			continue
		}
		why := NoTime
		switch parts[i].State {
		case progress.Learnt:
			why = NotDueYet
		case progress.Stuck, progress.Growing, progress.New:
			if slices.ContainsFunc(list, func(s Stretch) bool { return s.Kind == Drill || s.Kind == Work }) {
				why = OneAtOnce
			}
		}
		out = append(out, Out{i, why})
	}
	return out
}

// order is which of what grows comes first: what is on its way, the further the sooner, then
// what has not been begun.
func order(l progress.Look) float64 {
	if l.State == progress.New {
		return 1
	}
	return -l.Clean / max(l.Clean, l.Tempo, 1)
}

// share has a stretch of each part that is there of each kind, as many as there is time for, those
// of the first kinds before the others; then the minutes that are left by what the kinds count for,
// as far as each goes. What no other takes goes to the main one.
func (p plan) share(kinds []Kind, of map[Kind][]int, minutes int) (list []Stretch) {
	left := minutes
	for _, kind := range kinds {
		for _, part := range of[kind] {
			if left >= p[kind].fewest || len(list) == 0 && left > 0 {
				spent := min(p[kind].fewest, left)
				list = append(list, Stretch{part, kind, spent})
				left -= spent
			}
		}
	}
	for left > 0 && len(list) > 0 {
		best, main := -1, 0
		for i, s := range list {
			if p[s.Kind].share > p[list[main].Kind].share {
				main = i
			}
			if most := p[s.Kind].most; most > 0 && s.Minutes >= most {
				continue
			}
			if best < 0 || s.Minutes*p[list[best].Kind].share < list[best].Minutes*p[s.Kind].share {
				best = i
			}
		}
		if best < 0 {
			list[main].Minutes += left
			break
		}
		list[best].Minutes++
		left--
	}
	return list
}
