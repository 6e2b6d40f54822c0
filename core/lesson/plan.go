package lesson

import (
	"cmp"
	"iter"
	"maps"
	"math"
	"slices"
	"strings"

	"valleyside/core/drill"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// Plan is what a teacher has changed in the steps of a lesson. It speaks of steps by
// their ids, so that it holds when they are built anew, for another tempo, another
// version or another student. The zero Plan changes nothing.
type Plan struct {
	Template Template         `json:"template,omitzero"`
	Order    []StepID         `json:"order,omitempty"` // where steps were moved
	Out      map[StepID]Out   `json:"out,omitempty"`
	Split    map[StepID]Split `json:"split,omitempty"`
	Set      map[StepID]Wish  `json:"set,omitempty"`
	Own      []Own            `json:"own,omitempty"`
}

// Template is a teacher's own order of the kinds of steps: those that are not in it are
// left out. The zero Template is the usual order.
type Template struct {
	Kinds []Kind `json:"kinds,omitempty"`
	// Across has a kind for all parts before the next kind, rather than a part with all
	// its kinds before the next part.
	Across bool `json:"across,omitempty"`
}

// Out is a step that is left out; Title is what it was called.
type Out struct {
	Title string `json:"title"`
}

// Split cuts a step after some of its bars, which it names by what they are known by.
type Split struct {
	Title string `json:"title"`
	After []int  `json:"after"`
}

// Wish is what a teacher has decided of a step; what is zero is left to the program.
type Wish struct {
	Title   string  `json:"title"`
	Start   float64 `json:"start,omitempty"`
	Goal    float64 `json:"goal,omitempty"`
	Passes  int     `json:"passes,omitempty"`
	Minutes int     `json:"minutes,omitempty"`
	Words   string  `json:"words,omitempty"`
	Played  string  `json:"played,omitempty"` // the mark of what was played in the step then
}

// Own is a step of the teacher's: words, or a sheet, or both.
type Own struct {
	ID      int     `json:"id"`             // within the plan, from 1
	After   StepID  `json:"after,omitzero"` // the step that it follows; the first where it is none
	Title   string  `json:"title"`
	Words   string  `json:"words,omitempty"`
	Sheet   string  `json:"sheet,omitempty"`
	Start   float64 `json:"start"`
	Goal    float64 `json:"goal"`
	Passes  int     `json:"passes"`
	Minutes int     `json:"minutes"`
}

// Step is what the step is known by.
func (o *Own) Step() StepID { return StepID{Kind: ByTeacher, Own: o.ID} }

// ByTeacher is the kind of a step of the teacher's own.
const ByTeacher Kind = "own"

// Lost is a change that could not be kept: the step that it was of is not there any
// more. Was is what had been decided of it.
type Lost struct {
	Title string
	Was   Wish
}

// Apply changes the steps of a lesson as the plan says and spreads them over days again.
// What was said of a step that is not there any more is taken for the one that is most like
// it. It gives the steps that are left out, and the changes that could not be kept.
func (p *Plan) Apply(l *Lesson, perDay int) (out []Step, lost []Lost) {
	p.order(l)
	for id, s := range said(l, p.Split) {
		if i := find(l.Steps, id); i < 0 || !l.split(i, s.After) {
			lost = append(lost, Lost{Title: s.Title})
		}
	}
	for i := range p.Own {
		l.insert(&p.Own[i])
	}
	l.reorder(p.Order)
	for id, w := range said(l, p.Set) {
		if i := find(l.Steps, id); i >= 0 {
			s := &l.Steps[i]
			if w.Played != "" && w.Played != l.Mark(s) {
				s.Since = &w
			}
			s.wish(w)
		} else {
			lost = append(lost, Lost{w.Title, w})
		}
	}
	left := map[StepID]bool{}
	for id, o := range said(l, p.Out) {
		if left[id] = true; find(l.Steps, id) < 0 {
			lost = append(lost, Lost{Title: o.Title})
		}
	}
	kept := l.Steps[:0:0]
	for _, s := range l.Steps {
		if left[s.ID] {
			out = append(out, s)
		} else {
			kept = append(kept, s)
		}
	}
	l.Steps = kept
	l.schedule(Student{Minutes: perDay}.minutes(), p.Strict())
	return out, lost
}

// said goes through what is said of steps, in the order of their ids, under those of the
// steps that are meant: first what is said of those that are there. A step that is not
// there, and none like it, keeps its own.
func said[V any](l *Lesson, of map[StepID]V) iter.Seq2[StepID, V] {
	return func(yield func(StepID, V) bool) {
		ids := slices.SortedFunc(maps.Keys(of), func(a, b StepID) int { return cmp.Compare(a.String(), b.String()) })
		taken := map[StepID]bool{}
		for _, id := range ids {
			taken[id] = true
		}
		type pair struct {
			id    StepID
			value V
		}
		var list []pair
		for _, id := range ids {
			to := id
			if i := l.meant(id, taken); i >= 0 {
				to = l.Steps[i].ID
				taken[to] = true
			}
			list = append(list, pair{to, of[id]})
		}
		for _, p := range list {
			if !yield(p.id, p.value) {
				return
			}
		}
	}
}

// order sorts the steps as the template has them.
func (p *Plan) order(l *Lesson) {
	t := p.Template
	if len(t.Kinds) == 0 {
		return
	}
	l.Steps = slices.DeleteFunc(l.Steps, func(s Step) bool { return !slices.Contains(t.Kinds, s.Kind) })
	first := map[int]int{} // by part: where its steps begin
	for i := range l.Steps {
		if _, ok := first[l.Steps[i].Part]; !ok {
			first[l.Steps[i].Part] = i
		}
	}
	group := func(s *Step) int {
		if t.Across {
			return 0
		}
		if s.Kind == Form || s.Kind == Finish { // they come when all parts are there
			return len(l.Steps) + slices.Index(t.Kinds, s.Kind)
		}
		return first[s.Part]
	}
	slices.SortStableFunc(l.Steps, func(x, y Step) int {
		return cmp.Or(cmp.Compare(group(&x), group(&y)), cmp.Compare(slices.Index(t.Kinds, x.Kind), slices.Index(t.Kinds, y.Kind)))
	})
}

// Splits tells whether a step can be cut in two.
func (s *Step) Splits() bool {
	return s.To > s.From && (s.Kind == Piece || s.Kind == Rhythm || s.Kind == Whole)
}

// split cuts a step after some bars, by what they are known by, and tells whether it could.
// A part that is cut becomes pieces.
func (l *Lesson) split(i int, after []int) bool {
	whole := l.Steps[i]
	if !whole.Splits() {
		return false
	}
	part := &l.Song.Parts[whole.Part]
	var ends []int
	for _, id := range after {
		if bar := part.BarWith(id); bar >= whole.From && bar < whole.To {
			ends = append(ends, bar)
		}
	}
	if len(ends) == 0 {
		return false
	}
	slices.Sort(ends)
	var pieces []Step
	from := whole.From
	for _, bar := range slices.Compact(append(ends, whole.To)) {
		s := whole
		s.From, s.To = from, bar
		s.ID.Cut = [2]int{part.BarID(from), part.BarID(bar)}
		if s.Kind == Whole {
			s.Kind = Piece
		}
		s.Minutes = max(whole.Minutes*(bar-from+1)/(whole.To-whole.From+1), leastMinutes)
		s.Drills = slices.DeleteFunc(slices.Clone(s.Drills), func(d drill.Drill) bool { return d.Place.Bar+1 < s.From || d.Place.Bar+1 > s.To })
		pieces = append(pieces, s)
		from = bar + 1
	}
	l.Steps = slices.Replace(l.Steps, i, i+1, pieces...)
	return true
}

// insert puts a step of the teacher's own after the one that it is to follow.
func (l *Lesson) insert(o *Own) {
	at := 0
	if !o.After.IsZero() {
		if at = l.meant(o.After, nil) + 1; at == 0 {
			at = len(l.Steps)
		}
	}
	l.Steps = slices.Insert(l.Steps, at, Step{Kind: ByTeacher, Part: -1, Into: -1, ID: o.Step(), Own: o, Words: o.Words,
		Start: o.Start, Goal: o.Goal, Passes: o.Passes, Minutes: o.Minutes})
}

// reorder puts steps in the order of some ids. A step that is not among them stays
// after the one that it comes after.
func (l *Lesson) reorder(order []StepID) {
	if len(order) == 0 {
		return
	}
	place := make(map[StepID]int, len(order))
	for at, id := range order {
		place[id] = at
	}
	rank := make([]float64, len(l.Steps))
	last := -1.0
	for i := range l.Steps {
		at := last + 1e-4 // after what it came after, wherever that is now
		if n, ok := place[l.Steps[i].ID]; ok {
			at = float64(n)
		}
		rank[i], last = at, at
	}
	index := make([]int, len(l.Steps))
	for i := range index {
		index[i] = i
	}
	slices.SortStableFunc(index, func(a, b int) int { return cmp.Compare(rank[a], rank[b]) })
	sorted := make([]Step, len(l.Steps))
	for i, from := range index {
		sorted[i] = l.Steps[from]
	}
	l.Steps = sorted
}

// Changed is what a teacher has decided of a step after a form that shows all of it: what
// was decided before, and what differs now from what is shown. The rest stays as it is
// built, and goes along when that changes.
func (w Wish) Changed(shown *Step, form Wish) Wish {
	differs := func(a, b float64) bool { return math.Abs(a-b) > 0.01 }
	if w.Start == 0 && !differs(form.Start, shown.Start) {
		form.Start = 0
	}
	if w.Goal == 0 && !differs(form.Goal, shown.Goal) {
		form.Goal = 0
	}
	if w.Passes == 0 && form.Passes == shown.Passes {
		form.Passes = 0
	}
	if w.Minutes == 0 && form.Minutes == shown.Minutes {
		form.Minutes = 0
	}
	return form
}

// wish sets what a teacher has decided.
func (s *Step) wish(w Wish) {
	s.Changed = true
	s.Start, s.Goal = cmp.Or(w.Start, s.Start), cmp.Or(w.Goal, s.Goal)
	s.Start = min(s.Start, s.Goal)
	s.Passes, s.Minutes, s.Words = cmp.Or(w.Passes, s.Passes), cmp.Or(w.Minutes, s.Minutes), cmp.Or(w.Words, s.Words)
}

// Move gives the plan with a step moved by so many places among those that are shown.
func (p Plan) Move(shown []Step, id StepID, by int) Plan {
	order := make([]StepID, len(shown))
	for i := range shown {
		order[i] = shown[i].ID
	}
	i := slices.Index(order, id)
	if i < 0 {
		return p
	}
	to := min(max(i+by, 0), len(order)-1)
	order = slices.Insert(slices.Delete(order, i, i+1), to, id)
	p.Order = order
	return p
}

// NewOwn gives a step of the teacher's a number that none of the plan has.
func (p *Plan) NewOwn() int {
	for n := 1; ; n++ {
		if !slices.ContainsFunc(p.Own, func(o Own) bool { return o.ID == n }) {
			return n
		}
	}
}

// Music is what is played in a step of the teacher's; nil where it has words alone.
func (o *Own) Music() *song.Song {
	if strings.TrimSpace(o.Sheet) == "" {
		return nil
	}
	sh := sheet.Parse(o.Sheet)
	if !sh.OK() || len(sh.Song.Parts) == 0 {
		return nil
	}
	return sh.Song
}

// at is what is played in a step of the teacher's at a goal; nil where it has words alone.
func (o *Own) at(goal float64) *song.Song {
	out := o.Music()
	if out == nil {
		return nil
	}
	share := goal / out.Tempo
	out.Tempo = goal
	for i := range out.Parts {
		out.Parts[i].Tempo = playable(out.Parts[i].Tempo * share)
	}
	return out
}

// TemplateOf is the order of kinds that some steps stand in, for other lessons.
func TemplateOf(steps []Step) (t Template) {
	parts := map[int]bool{}
	t.Across = true // where a kind is over before the next begins
	at := -1
	for i := range steps {
		s := &steps[i]
		if s.Kind == ByTeacher {
			continue
		}
		if !slices.Contains(t.Kinds, s.Kind) {
			t.Kinds = append(t.Kinds, s.Kind)
		}
		if s.Part >= 0 {
			parts[s.Part] = true
		}
		k := slices.Index(t.Kinds, s.Kind)
		t.Across = t.Across && k >= at
		at = max(at, k)
	}
	t.Across = t.Across && len(parts) > 1
	return t
}

// Strict tells whether the teacher has put the steps in an order of their own, which no
// schedule changes.
func (p *Plan) Strict() bool { return len(p.Order) > 0 || len(p.Template.Kinds) > 0 }
