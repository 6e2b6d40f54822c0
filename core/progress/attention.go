package progress

import "cmp"

// urgency orders the states by how soon a teacher should look.
var urgency = map[State]int{Stuck: 0, Due: 1, Growing: 2, New: 3, Learnt: 4}

// ForTeacher orders parts by how soon a teacher should look at them: who is stuck first, then
// what is due again, what is learnt last; of two alike the one that was practised last.
func ForTeacher(a, b Look) int {
	return cmp.Or(cmp.Compare(urgency[a.State], urgency[b.State]), b.Last.Compare(a.Last))
}

// Together is the state of something that has parts, like a lesson or a song: as little is learnt
// of it as of its parts, and where one of them is stuck, so is the whole.
func Together(parts []State) State {
	has := map[State]int{}
	for _, s := range parts {
		has[s]++
	}
	switch all := len(parts); {
	case has[New] == all:
		return New
	case has[Stuck] > 0:
		return Stuck
	case has[Learnt] == all:
		return Learnt
	case has[Learnt]+has[Due] == all:
		return Due
	}
	return Growing
}
