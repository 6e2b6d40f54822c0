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

// How a sitting is shared out: what each kind counts for, and the most minutes of some.
var (
	share     = map[Kind]int{WarmUp: 1, Review: 2, Drill: 3, Work: 4, Good: 1}
	atMost    = map[Kind]int{WarmUp: 5, Review: 6, Drill: 10, Good: 5}
	fewest    = map[Kind]int{WarmUp: 2, Review: 3, Drill: 4, Work: 5, Good: 2}
	wanted    = []Kind{Work, Review, Drill, WarmUp, Good} // the first to stay where minutes are few
	perReview = 15                                        // minutes of a sitting for one more review, and for one more step
)

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
	left := minutes
	for _, kind := range wanted { // as many as there is time for
		kept := of[kind][:0:0]
		for _, part := range of[kind] {
			if left >= fewest[kind] || len(list) == 0 && left > 0 {
				kept = append(kept, part)
				spent := min(fewest[kind], left)
				list = append(list, Stretch{part, kind, spent})
				left -= spent
			}
		}
		of[kind] = kept
	}
	fill(list, left)
	place := map[Kind]int{WarmUp: 0, Review: 1, Drill: 2, Work: 3, Good: 4}
	slices.SortStableFunc(list, func(a, b Stretch) int { return place[a.Kind] - place[b.Kind] })
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
	return list, out
}

// order is which of what grows comes first: what is on its way, the further the sooner, then
// what has not been begun.
func order(l progress.Look) float64 {
	if l.State == progress.New {
		return 1
	}
	return -l.Clean / max(l.Clean, l.Tempo, 1)
}

// fill gives the minutes that are left to the stretches by what their kinds count for, as far as
// each goes; what no other takes goes to the main one.
func fill(list []Stretch, left int) {
	for left > 0 {
		best := -1
		for i, s := range list {
			if most, limited := atMost[s.Kind]; limited && s.Minutes >= most {
				continue
			}
			if best < 0 || s.Minutes*share[list[best].Kind] < list[best].Minutes*share[s.Kind] {
				best = i
			}
		}
		if best < 0 {
			break
		}
		list[best].Minutes++
		left--
	}
	if left > 0 && len(list) > 0 {
		longest := 0
		for i := range list {
			if share[list[i].Kind] > share[list[longest].Kind] {
				longest = i
			}
		}
		list[longest].Minutes += left
	}
}
