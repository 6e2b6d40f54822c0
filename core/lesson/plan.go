package lesson

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"valleyside/core/drill"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// Plan is what a teacher has changed in the steps of a lesson. It speaks of steps by
// their keys, so that it holds when they are built anew, for another tempo, another
// version or another student. The zero Plan changes nothing.
type Plan struct {
	Template Template         `json:"template,omitzero"`
	Order    []string         `json:"order,omitempty"` // keys, where steps were moved
	Out      map[string]Out   `json:"out,omitempty"`
	Split    map[string]Split `json:"split,omitempty"`
	Set      map[string]Wish  `json:"set,omitempty"`
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

// Split cuts a step after some of its bars.
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
}

// Own is a step of the teacher's: words, or a sheet, or both.
type Own struct {
	Key     string  `json:"key"`
	After   string  `json:"after,omitempty"` // the key of the step that it follows; the first where empty
	Title   string  `json:"title"`
	Words   string  `json:"words,omitempty"`
	Sheet   string  `json:"sheet,omitempty"`
	Start   float64 `json:"start"`
	Goal    float64 `json:"goal"`
	Passes  int     `json:"passes"`
	Minutes int     `json:"minutes"`
}

// ByTeacher is the kind of a step of the teacher's own.
const ByTeacher Kind = "own"

// ownKey begins the keys of the teacher's own steps.
const ownKey = "own "

// Lost is a change that could not be kept: the step that it was of is not there any
// more.
type Lost struct{ Title string }

// Apply changes the steps of a lesson as the plan says and spreads them over days again.
// It gives the steps that are left out, and the changes that could not be kept.
func (p *Plan) Apply(l *Lesson, perDay int) (out []Step, lost []Lost) {
	p.order(l)
	there := map[string]bool{}
	for i := range l.Steps {
		there[l.Steps[i].Key] = true
	}
	for _, key := range slices.Sorted(maps.Keys(p.Split)) {
		if s := p.Split[key]; there[key] {
			l.split(key, s.After)
		} else {
			lost = append(lost, Lost{s.Title})
		}
	}
	for i := range l.Steps {
		there[l.Steps[i].Key] = true // the pieces of what was split
	}
	for i := range p.Own {
		l.insert(&p.Own[i])
	}
	l.reorder(p.Order)
	for _, key := range slices.Sorted(maps.Keys(p.Set)) {
		w := p.Set[key]
		if i := slices.IndexFunc(l.Steps, func(s Step) bool { return s.Key == key }); i >= 0 {
			l.Steps[i].wish(w)
		} else {
			lost = append(lost, Lost{w.Title})
		}
	}
	for _, key := range slices.Sorted(maps.Keys(p.Out)) {
		if !there[key] {
			lost = append(lost, Lost{p.Out[key].Title})
		}
	}
	kept := l.Steps[:0:0]
	for _, s := range l.Steps {
		if _, left := p.Out[s.Key]; left {
			out = append(out, s)
		} else {
			kept = append(kept, s)
		}
	}
	l.Steps = kept
	l.schedule(Student{Minutes: perDay}.minutes())
	return out, lost
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

// split cuts a step after some bars. A part that is cut becomes pieces.
func (l *Lesson) split(key string, after []int) {
	i := slices.IndexFunc(l.Steps, func(s Step) bool { return s.Key == key })
	whole := l.Steps[i]
	if !whole.Splits() {
		return
	}
	after = slices.Clone(after)
	slices.Sort(after)
	var pieces []Step
	from := whole.From
	for _, bar := range append(after, whole.To) {
		if bar < from || bar > whole.To {
			continue
		}
		s := whole
		s.From, s.To, s.Key = from, bar, fmt.Sprintf("%s%s%d to %d", key, cutMark, from, bar)
		if s.Kind == Whole {
			s.Kind = Piece
		}
		s.Minutes = max(whole.Minutes*(bar-from+1)/(whole.To-whole.From+1), leastMinutes)
		s.Places = slices.DeleteFunc(slices.Clone(s.Places), func(p drill.Place) bool { return p.Bar+1 < s.From || p.Bar+1 > s.To })
		pieces = append(pieces, s)
		from = bar + 1
	}
	l.Steps = slices.Replace(l.Steps, i, i+1, pieces...)
}

// insert puts a step of the teacher's own after the one that it is to follow.
func (l *Lesson) insert(o *Own) {
	at := 0
	if o.After != "" {
		at = slices.IndexFunc(l.Steps, func(s Step) bool { return s.Key == o.After }) + 1
		if at == 0 {
			at = len(l.Steps)
		}
	}
	l.Steps = slices.Insert(l.Steps, at, Step{Kind: ByTeacher, Part: -1, Into: -1, Key: o.Key, Own: o, Words: o.Words,
		Start: o.Start, Goal: o.Goal, Passes: o.Passes, Minutes: o.Minutes})
}

// reorder puts steps in the order of some keys. A step that is not among them stays
// after the one that it comes after.
func (l *Lesson) reorder(order []string) {
	if len(order) == 0 {
		return
	}
	rank := make([]float64, len(l.Steps))
	last := -1.0
	for i := range l.Steps {
		at := float64(slices.Index(order, l.Steps[i].Key))
		if at < 0 {
			at = last + 1e-4 // after what it came after, wherever that is now
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

// wish sets what a teacher has decided.
func (s *Step) wish(w Wish) {
	s.Changed = true
	s.Start, s.Goal = cmp.Or(w.Start, s.Start), cmp.Or(w.Goal, s.Goal)
	s.Start = min(s.Start, s.Goal)
	s.Passes, s.Minutes, s.Words = cmp.Or(w.Passes, s.Passes), cmp.Or(w.Minutes, s.Minutes), cmp.Or(w.Words, s.Words)
}

// Move gives the plan with a step moved by so many places among those that are shown.
func (p Plan) Move(shown []Step, key string, by int) Plan {
	order := make([]string, len(shown))
	for i := range shown {
		order[i] = shown[i].Key
	}
	i := slices.Index(order, key)
	if i < 0 {
		return p
	}
	to := min(max(i+by, 0), len(order)-1)
	order = slices.Insert(slices.Delete(order, i, i+1), to, key)
	p.Order = order
	return p
}

// Renamed gives the plan with the names of parts changed, by the old one.
func (p Plan) Renamed(names map[string]string) Plan {
	if len(names) == 0 {
		return p
	}
	rename := func(key string) string { return RenamedKey(key, names) }
	for i := range p.Order {
		p.Order[i] = rename(p.Order[i])
	}
	p.Out, p.Split, p.Set = keyed(p.Out, rename), keyed(p.Split, rename), keyed(p.Set, rename)
	p.Own = slices.Clone(p.Own)
	for i := range p.Own {
		p.Own[i].After = rename(p.Own[i].After)
	}
	return p
}

func keyed[V any](m map[string]V, rename func(string) string) map[string]V {
	if m == nil {
		return nil
	}
	out := make(map[string]V, len(m))
	for key, v := range m {
		out[rename(key)] = v
	}
	return out
}

// A key is its kind, and in « » the names of its parts, which may be anything.
const opened, closed = "«", "»"

// RenamedKey is the key of a step whose parts have got other names, by the old ones.
func RenamedKey(key string, names map[string]string) string {
	var b strings.Builder
	for {
		before, rest, ok := strings.Cut(key, opened)
		b.WriteString(before)
		if !ok {
			return b.String()
		}
		name, after, _ := strings.Cut(rest, closed)
		b.WriteString(opened + cmp.Or(names[name], name) + closed)
		key = after
	}
}

// key names a step so that it is found again when the lesson is built anew.
func (l *Lesson) key(s *Step) string {
	quoted := func(i int) string { return opened + l.Song.Parts[i].Name + closed }
	switch {
	case s.Kind == Shape:
		return "shape " + s.Shapes[0].Frets.String()
	case s.Kind == Change:
		return "change " + s.Shapes[0].Frets.String() + " " + s.Shapes[1].Frets.String()
	case s.Kind == Form && s.Part < 0:
		if s.Why[0].Kind == ByCues {
			return "form by cues"
		}
		return "form"
	case s.Into >= 0:
		return string(s.Kind) + " " + quoted(s.Part) + " " + quoted(s.Into)
	case s.Kind == Finish && s.Touch == NoTouch:
		return "next rung " + quoted(s.Part)
	case s.Kind == Finish:
		return fmt.Sprintf("finish %s %d", quoted(s.Part), s.Touch)
	}
	return fmt.Sprintf("%s %s %d to %d", s.Kind, quoted(s.Part), s.From, s.To)
}

// name gives every step its key; those that have the same are numbered.
func (l *Lesson) name() {
	had := map[string]int{}
	for i := range l.Steps {
		s := &l.Steps[i]
		key := l.key(s)
		if had[key]++; had[key] > 1 {
			key = fmt.Sprintf("%s, %d", key, had[key])
		}
		s.Key = key
	}
}

// cutMark stands in the key of a piece of a step that was cut.
const cutMark = " / "

// OfWhole tells whether practice of a step, by its key, is practice of its part as a
// whole; so is practice of no step.
func OfWhole(key string) bool {
	_, bars, _ := strings.Cut(key, closed)
	return key == "" || strings.HasPrefix(key, string(Whole)+" ") && !strings.Contains(bars, cutMark)
}

// NewOwn gives a step of the teacher's a key that none of the plan has.
func (p *Plan) NewOwn() string {
	for n := 1; ; n++ {
		key := fmt.Sprintf("%s%d", ownKey, n)
		if !slices.ContainsFunc(p.Own, func(o Own) bool { return o.Key == key }) {
			return key
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
