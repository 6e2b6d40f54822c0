package lesson

import (
	"cmp"
	"slices"

	"valleyside/core/neck"
	"valleyside/core/schedule"
)

// Items are the steps of a lesson as a schedule has them; done tells which of them are done,
// nil none. Two shapes that are new and their change are one new thing. A step of a part comes
// after those before it, and after the shapes and changes of the parts before; a part is faster
// on another day; the form comes after all of it.
func (l *Lesson) Items(done []bool) []schedule.Item {
	things := l.things()
	items := make([]schedule.Item, len(l.Steps))
	for i := range l.Steps {
		s, item := &l.Steps[i], &items[i]
		*item = schedule.Item{Minutes: min(s.Minutes, MostMinutes), Thing: things[i], Done: i < len(done) && done[i]}
		for j := range l.Steps {
			other := &l.Steps[j]
			if j < i && l.needs(s, other) {
				item.After = append(item.After, j)
			}
			if j < i && s.Kind == Whole && other.Kind == Whole && s.Part == other.Part {
				item.Apart = append(item.Apart, j)
			}
			if j > i && s.within(other) {
				item.Within = append(item.Within, j)
			}
		}
	}
	return items
}

// needs tells whether a step comes after one that stands before it, whatever has to wait.
func (l *Lesson) needs(s, before *Step) bool {
	switch {
	case s.Kind == ByTeacher || before.Kind == ByTeacher:
		return true // the teacher has put it there
	case s.Kind == Finish || s.Kind == Form && s.Part < 0:
		return before.Kind != Finish
	case s.Kind == Form || s.Kind == Seam:
		return before.Part == s.Part || before.Part == s.Into
	case before.Kind == Shape || before.Kind == Change:
		return before.Part == s.Part || s.Kind != Shape && s.Kind != Change && before.Into < 0 && before.Part < s.Part
	}
	return before.Part == s.Part && before.Kind != Seam
}

// within tells whether a later step has all of a step in it.
func (s *Step) within(later *Step) bool {
	switch s.Kind {
	case Rhythm, Piece:
		return later.Kind == Whole && later.Part == s.Part
	case Shape:
		return later.Kind == Change && slices.ContainsFunc(later.Shapes, func(h Held) bool { return h.Frets == s.Shapes[0].Frets }) || later.Kind == Whole && later.Part == s.Part
	case Change, Whole:
		return later.Kind == Whole && later.Part == s.Part || later.Kind == Form && later.Part < 0
	case Seam:
		return later.Kind == Form && (later.Part < 0 || later.Part == s.Part && later.Into == s.Into)
	case Form:
		return later.Kind == Form
	}
	return false
}

// things numbers what is new in the steps, from 1: a rhythm, a shape, a change of shapes that
// are known, what is added at the end. Two shapes with a change between them are one, and so
// is a shape with its change to one that is known.
func (l *Lesson) things() []int {
	list := make([]int, len(l.Steps))
	shapes := map[neck.Frets]int{} // the step of a shape
	n := 0
	for i := range l.Steps {
		switch s := &l.Steps[i]; s.Kind {
		case Shape:
			shapes[s.Shapes[0].Frets] = i
			fallthrough
		case Rhythm, Finish:
			n++
			list[i] = n
		}
	}
	paired := map[int]bool{}
	for i := range l.Steps {
		s := &l.Steps[i]
		if s.Kind != Change || len(s.Shapes) < 2 {
			continue
		}
		a, newA := shapes[s.Shapes[0].Frets]
		b, newB := shapes[s.Shapes[1].Frets]
		switch {
		case newA && newB:
			if !paired[a] && !paired[b] {
				paired[a], paired[b] = true, true
				list[max(a, b)] = list[min(a, b)]
			}
			list[i] = list[max(a, b)]
		case newA:
			list[i] = list[a]
		case newB:
			list[i] = list[b]
		default:
			n++
			list[i] = n
		}
	}
	return list
}

// schedule spreads the steps over days of so many minutes, and puts them in the order in which
// they come up. The order of a teacher's own stays as it is.
func (l *Lesson) schedule(perDay int, own bool) {
	plan := schedule.Make(l.Items(nil), perDay, perDay, !own)
	l.Minutes, l.Days = 0, 0
	for i := range l.Steps {
		s := &l.Steps[i]
		s.Day = plan.First[i]
		l.Minutes += s.Minutes
	}
	l.Days = len(plan.Days)
	slices.SortStableFunc(l.Steps, func(a, b Step) int { return cmp.Compare(a.Day, b.Day) })
}
