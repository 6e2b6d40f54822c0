package studio

import (
	"context"
	"fmt"
	"slices"
	"time"

	"valleyside/core/arrange"
	"valleyside/core/fit"
	"valleyside/core/lesson"
	"valleyside/core/play"
	"valleyside/core/progress"
	"valleyside/core/song"
	"valleyside/store"
)

// Choice is the version that is chosen for a part of a song.
type Choice struct {
	Part song.PartID
	Rung arrange.Rung // empty leaves the part out
	Way  arrange.Way
	// Player is whose line is played, by the name in the sheet; empty is the first one's.
	Player string
}

// Choices are those of the parts of a lesson or of what is assigned; what is no rung is left
// out.
func Choices(parts []store.Part) []Choice {
	var list []Choice
	for _, p := range parts {
		if !p.Rung.Valid() {
			continue
		}
		way, _ := arrange.ParseWay(p.Way)
		list = append(list, Choice{p.PartID, p.Rung, way, p.Player})
	}
	return list
}

// Played is a song with the lines of the players that are chosen for its parts in front.
func Played(g *song.Song, choices []Choice) *song.Song {
	return g.As(func(i int) string {
		for _, c := range choices {
			if c.Part == g.PartID(i) {
				return c.Player
			}
		}
		return ""
	})
}

// Taught is a lesson as it is given: its steps as the teacher has changed them, those
// that are left out, and the changes that could not be kept.
type Taught struct {
	*lesson.Lesson
	Plan lesson.Plan
	Out  []lesson.Step
	Lost []lesson.Lost
	Key  Key // of all that it was made of, where a House made it
}

// Teach makes the steps of a lesson: of the chosen versions of the parts of a song, for a
// student at its target tempo, which is that of the options. A rung that a part does not
// have is taught as the part is written.
func Teach(g *song.Song, choices []Choice, plan lesson.Plan, learner lesson.Student, o arrange.Options) *Taught {
	g = Played(g, choices)
	a := arrange.New(g, o)
	chosen := make([]lesson.Chosen, len(g.Parts))
	tempo := o.Tempo
	if tempo == 0 {
		tempo = g.Tempo
	}
	for _, c := range choices {
		i, ok := g.PartWith(c.Part)
		if !ok || c.Rung == "" {
			continue
		}
		if a.Refused(i, c.Rung) == arrange.NoChordsHere {
			c.Rung, c.Way = arrange.AsWritten, arrange.Way{}
		}
		ladder := a.Ladder(i, map[arrange.Rung]arrange.Way{c.Rung: c.Way})
		at := slices.IndexFunc(ladder, func(v arrange.Version) bool { return v.Rung == c.Rung })
		if at < 0 {
			ladder = append(ladder, a.Version(i, c.Rung, c.Way))
			at = len(ladder) - 1
		}
		chosen[i] = lesson.Chosen{Version: &ladder[at], Next: fit.Next(g, i, ladder, c.Rung)}
	}
	t := &Taught{Lesson: lesson.Build(g, chosen, learner, tempo), Plan: plan}
	t.Out, t.Lost = plan.Apply(t.Lesson, learner.Minutes)
	return t
}

// Step finds a step by its id, also one that is left out; nil where there is none.
func (t *Taught) Step(id lesson.StepID) *lesson.Step {
	for _, list := range [][]lesson.Step{t.Steps, t.Out} {
		for i := range list {
			if list[i].ID == id {
				return &list[i]
			}
		}
	}
	return nil
}

// Lookup is a lesson or something that is assigned, as it is to be taught.
type Lookup struct {
	Home   *store.Studio
	Sheet  string
	IDs    []store.SongPart // of that sheet
	Parts  []store.Part
	Plan   string
	Who    store.Student
	Target float64
}

// Teach makes the steps of what is looked up, now or lately. A plan that cannot be read is
// an error that says so: nothing is changed by it, and nothing may be saved over it.
func (h *House) Teach(ctx context.Context, l Lookup) (*Taught, error) {
	plan, err := lesson.ParsePlan(l.Plan)
	if err != nil {
		return nil, &BadPlan{err}
	}
	o := h.Options(l.Home, Player(&l.Who), l.Target)
	g := h.Read(l.Home.ID, l.Sheet, l.IDs)
	work := WorkOf("steps", l.Sheet, identities(l.IDs), l.Parts, l.Plan, OfOptions(o), l.Who.ID == 0, l.Who.Known, l.Who.Minutes)
	return Worked(ctx, h, l.Home.ID, work, written(g), func() (*Taught, error) {
		t := Teach(g, Choices(l.Parts), plan, Learner(&l.Who), o)
		t.Key = KeyOf(work.what, work.of...)
		return t, nil
	})
}

// BadPlan is that the changes of a lesson cannot be read.
type BadPlan struct{ cause error }

func (b *BadPlan) Error() string { return b.cause.Error() }

// Unwrap is what is wrong with them.
func (b *BadPlan) Unwrap() error { return b.cause }

func written(g *song.Song) (bars int) {
	for i := range g.Parts {
		bars += g.Parts[i].Written()
	}
	return bars
}

// Give puts a lesson into a student's hands as it is now. A student who has it already gets
// it brought up to date, and keeps what was practised.
func (h *House) Give(ctx context.Context, studio, lessonID, student int64, now store.Instant) (int64, error) {
	l, err := h.Store.Lesson(ctx, studio, lessonID)
	if err != nil {
		return 0, err
	}
	g, err := h.Store.Song(ctx, studio, l.SongID)
	if err != nil {
		return 0, err
	}
	ids, err := h.Store.SongParts(ctx, studio, g.ID, g.Save)
	if err != nil {
		return 0, err
	}
	a := store.Assignment{StudioID: studio, StudentID: student, LessonID: l.ID, SongID: g.ID, SongSave: g.Save, Name: l.Name,
		TargetTempo: l.TargetTempo, Plan: l.Plan, AssignedAt: now, Parts: Given(h.Read(studio, g.Sheet, ids), l.Parts, l.TargetTempo)}
	id, err := h.Store.Give(ctx, a)
	if err == nil {
		h.Wake()
	}
	return id, err
}

// HasIt tells that a student has a lesson of a song already.
type HasIt struct{ Name, Lesson string }

func (h *HasIt) Error() string {
	return fmt.Sprintf("%s has this song already, as “%s”. Finish that first, or bring it up to date.", h.Name, h.Lesson)
}

// CopyFor gives what somebody has to another student, in a lesson of their own: the same versions
// as they are made there, the same steps and tempo, of the song as it is saved now.
func (h *House) CopyFor(ctx context.Context, a *store.Assignment, to *store.Student, now store.Instant) (l store.Lesson, err error) {
	has, err := h.Store.ListedAssignments(ctx, a.StudioID, to.ID)
	if err != nil {
		return l, err
	}
	for _, other := range has {
		if other.SongID == a.SongID {
			return l, &HasIt{to.Name, other.Name}
		}
	}
	g, err := h.Store.Song(ctx, a.StudioID, a.SongID)
	if err != nil {
		return l, err
	}
	l = store.Lesson{StudioID: a.StudioID, SongID: a.SongID, Name: lessonName(g.Title, to.Name), TargetTempo: a.TargetTempo, Plan: a.Plan, CreatedAt: now}
	ways, err := h.Store.WaysOf(ctx, a.StudioID, a.SongID)
	if err != nil {
		return l, err
	}
	for _, p := range a.Parts {
		made := store.Part{PartID: p.PartID, Part: p.Part, Rung: p.Rung, Player: p.Player}
		if p.Way != wayFor(ways, &p) { // not as it is made for everybody
			made.Own = p.Way
		}
		l.Parts = append(l.Parts, made)
	}
	if l.ID, err = h.Store.AddLesson(ctx, l); err != nil {
		return l, err
	}
	_, err = h.Give(ctx, a.StudioID, l.ID, to.ID, now)
	return l, err
}

// wayFor is how a part is made for everybody.
func wayFor(ways []store.Way, p *store.Part) string {
	for _, w := range ways {
		if w.PartID == p.PartID && w.Player == p.Player && w.Rung == p.Rung {
			return w.Way
		}
	}
	return ""
}

// Given are the parts of a lesson that a student gets, with the tempo that each is to reach.
func Given(g *song.Song, parts []store.Part, target float64) (list []store.Part) {
	for _, p := range parts {
		if p.Rung == "" {
			continue
		}
		p.Target, p.Own = target, ""
		if i, ok := g.PartWith(p.PartID); ok {
			p.Target, p.Part = play.Tempo(g, &g.Parts[i], target), g.Parts[i].Name
		}
		list = append(list, p)
	}
	return list
}

// Differs tells whether a student holds something else than a lesson is now.
func Differs(a *store.Assignment, l *store.Lesson) bool {
	same := func(p store.Part) store.Part {
		return store.Part{PartID: p.PartID, Rung: p.Rung, Way: p.Way, Player: p.Player}
	}
	var given, has []store.Part
	for _, p := range l.Parts {
		if p.Rung != "" {
			given = append(given, same(p))
		}
	}
	for _, p := range a.Parts {
		has = append(has, same(p))
	}
	return a.SongSave < a.Latest || a.Plan != l.Plan || a.TargetTempo != l.TargetTempo || a.Name != l.Name || !slices.Equal(given, has)
}

// Standings are how far a student is with what is assigned to them: with its parts, and
// with its steps.
type Standings struct {
	parts map[partKey]store.Standing
	steps map[stepKey][]store.Standing
}

type partKey struct {
	assignment int64
	part       song.PartID
	rung       arrange.Rung
}

type stepKey struct {
	assignment int64
	step       string
}

// StandingsOf makes them of rows.
func StandingsOf(rows []store.Standing) Standings {
	s := Standings{map[partKey]store.Standing{}, map[stepKey][]store.Standing{}}
	for _, r := range rows {
		if r.Step == "" {
			s.parts[partKey{r.AssignmentID, r.PartID, r.Rung}] = r
		} else {
			k := stepKey{r.AssignmentID, r.Step}
			s.steps[k] = append(s.steps[k], r)
		}
	}
	return s
}

// LoggedTo is the part to which practice of a step is logged, of those that are assigned:
// its own, or the first where it has none or that is not assigned.
func LoggedTo(part song.PartID, parts []store.Part) store.Part {
	for _, p := range parts {
		if p.PartID == part {
			return p
		}
	}
	if len(parts) == 0 {
		return store.Part{PartID: -1}
	}
	return parts[0]
}

// StepProgress is how far a student is with a step of an assignment, from what was logged of
// it, and of its part as a whole where it is that. What was practised of another rung counts
// for shapes and changes alone.
func (s Standings) StepProgress(a *store.Assignment, id lesson.StepID) (got lesson.Progress) {
	add := func(row store.Standing) {
		got.Once, got.Clean = max(got.Once, row.Once), max(got.Clean, row.Clean)
	}
	for _, row := range s.steps[stepKey{a.ID, id.String()}] {
		rung := LoggedTo(row.PartID, a.Parts).Rung
		if row.Rung == rung || id.Kind == lesson.Shape || id.Kind == lesson.Change {
			add(row)
		}
	}
	if !id.IsZero() && id.OfWhole() {
		add(s.whole(a, id.Part))
	}
	return got
}

// Been is what a student has of the steps of a lesson on a day. The zero Been is nothing.
type Been struct {
	Done   []bool
	Rested []int // days of the calendar since each was practised
	Due    []int // the day on which what is learnt of it is looked at again, 1 today; 0 for nothing
	Gap    []int // days before that
	State  []progress.State
	// Wanted is what the teacher wants to be practised first.
	Wanted map[lesson.StepID]bool
}

// unheard is for how many days a step has rested that is done and was never practised by itself.
const unheard = 99

// Been is what a student has of the steps of an assignment at a time whose zone is that of the
// days. A part that is learnt is looked at by its last step.
func (s Standings) Been(steps []lesson.Step, a *store.Assignment, now time.Time) Been {
	today, n := progress.DayOf(now), len(steps)
	b := Been{Done: s.Done(steps, a), Rested: make([]int, n), Due: make([]int, n), Gap: make([]int, n), State: make([]progress.State, n)}
	for i := range steps {
		id := steps[i].ID
		rows := s.steps[stepKey{a.ID, id.String()}]
		if id.OfWhole() {
			whole := s.whole(a, id.Part)
			rows = append(slices.Clone(rows), whole)
			if whole.Due > 0 && b.Done[i] && lastOfPart(steps, i) {
				b.Due[i], b.Gap[i] = max(whole.Due-today+1, 1), whole.Gap
			}
		}
		b.Rested[i] = unheard
		for _, row := range rows {
			if row.LastAt != 0 {
				b.Rested[i] = min(b.Rested[i], max(today-progress.DayOf(row.LastAt.Time().In(now.Location())), 0))
			}
		}
		b.State[i] = stepState(rows, b.Done[i], b.Due[i] == 1)
	}
	return b
}

// stepState is where a student is with a step, from what was logged of it: one that is done is
// learnt, and due where its part is.
func stepState(rows []store.Standing, done, due bool) progress.State {
	var last store.Standing
	for _, row := range rows {
		if row.Entries > 0 && row.LastAt >= last.LastAt {
			last = row
		}
	}
	switch {
	case done && due:
		return progress.Due
	case done:
		return progress.Learnt
	case last.Entries == 0:
		return progress.New
	case last.Tries >= progress.StuckTries:
		return progress.Stuck
	}
	return progress.Growing
}

// Lesson is where a student is with a lesson, or with a song: with all parts of some assignments.
func (s Standings) Lesson(given []store.Assignment, now time.Time) progress.State {
	var states []progress.State
	for i := range given {
		for k := range given[i].Parts {
			states = append(states, s.Look(&given[i], &given[i].Parts[k], now).State)
		}
	}
	return progress.Together(states)
}

// whole is the standing of a part of an assignment as a whole.
func (s Standings) whole(a *store.Assignment, id song.PartID) store.Standing {
	p := LoggedTo(id, a.Parts)
	return s.parts[partKey{a.ID, p.PartID, p.Rung}]
}

// lastOfPart tells whether a step is the last one of its part as a whole.
func lastOfPart(steps []lesson.Step, i int) bool {
	id := steps[i].ID
	return id.OfWhole() && !slices.ContainsFunc(steps[i+1:], func(s lesson.Step) bool { return s.ID.OfWhole() && s.ID.Part == id.Part })
}

// Look is where a student is with a part of an assignment, at a time whose zone is that of the
// days.
func (s Standings) Look(a *store.Assignment, p *store.Part, now time.Time) progress.Look {
	row := s.parts[partKey{a.ID, p.PartID, p.Rung}]
	own := row.Progress(now.Location())
	return own.Look(p.Target, now)
}

// Done tells which steps of an assignment a student has. The last step of a part is to be done
// again where the part was learnt and the last look at it was not clean.
func (s Standings) Done(steps []lesson.Step, a *store.Assignment) []bool {
	list := lesson.Done(steps, func(step *lesson.Step) lesson.Progress { return s.StepProgress(a, step.ID) })
	for i := range steps {
		if list[i] && lastOfPart(steps, i) && s.whole(a, steps[i].ID.Part).Failed {
			list[i] = false
		}
	}
	return list
}

// PlayedIn are the parts of an assignment that are played as a whole within a step: the parts of
// the roadmap within the whole way, two within their join.
func PlayedIn(id lesson.StepID, g *song.Song, parts []store.Part) (list store.Plays) {
	if id.Kind != lesson.Form || id.Cut != [2]int{} {
		return nil
	}
	in := map[song.PartID]bool{id.Part: true, id.Into: true}
	if id.Into == 0 {
		for _, leg := range g.Order {
			in[g.PartID(leg.Part)] = true
		}
	}
	for _, p := range parts {
		if p.Rung != "" && in[p.PartID] {
			list = append(list, store.Played{PartID: p.PartID, Rung: p.Rung})
		}
	}
	return list
}

// SetStep makes an entry one of a step: of its part as a whole or not, with what else is played as
// a whole within it. The song is asked for where the step is of more than a part.
func SetStep(e *store.Entry, id lesson.StepID, g *song.Song, parts []store.Part) {
	e.Step = id.String()
	e.Some = e.Some || !id.OfWhole()
	if id.Kind == lesson.Form {
		e.Also = PlayedIn(id, g, parts)
	}
}
