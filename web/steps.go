package web

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/chord"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/progress"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// asked is a lesson that an address names, with its steps for the student it is asked for.
type asked struct {
	*studio.Taught
	Lesson store.Lesson
	Song   store.Song
	Look   studio.Lookup
	Who    store.Student
}

func (s *base) askedLesson(c *echo.Context) (a asked, err error) {
	if a.Lesson, a.Song, err = s.lessonFrom(c); err != nil {
		return a, err
	}
	if a.Who, err = s.madeFor(c, a.Lesson); err != nil {
		return a, err
	}
	if a.Look, err = s.lookUp(c, a.Lesson, a.Song, a.Who); err != nil {
		return a, err
	}
	a.Taught, err = s.house.Teach(c.Request().Context(), a.Look)
	return a, badPlan(err)
}

// lookUp is a lesson as it is taught to somebody.
func (s *base) lookUp(c *echo.Context, l store.Lesson, g store.Song, who store.Student) (studio.Lookup, error) {
	at := home(c)
	ids, err := s.Store.SongParts(c.Request().Context(), at.ID, g.ID, g.Save)
	return studio.Lookup{Home: &at, Sheet: g.Sheet, IDs: ids, Parts: l.Parts, Plan: l.Plan, Who: who, Target: l.TargetTempo}, err
}

// lookUpGiven is something that was assigned to a student.
func (s *base) lookUpGiven(c *echo.Context, a store.Assignment, who store.Student) (studio.Lookup, error) {
	at := home(c)
	ids, err := s.Store.SongParts(c.Request().Context(), at.ID, a.SongID, a.SongSave)
	return studio.Lookup{Home: &at, Sheet: a.Sheet, IDs: ids, Parts: a.Parts, Plan: a.Plan, Who: who, Target: a.TargetTempo}, err
}

// badPlan says what can be done where what was changed in a lesson cannot be read: it is
// never taken for nothing, so that no save can write over it.
func badPlan(err error) error {
	var bad *studio.BadPlan
	if !errors.As(err, &bad) {
		return err
	}
	return &problem{status: http.StatusUnprocessableEntity, message: sentence(bad.Error()) + " Nothing of it is lost: take the changes back on the page of the lesson, or take in a copy of before.", cause: err}
}

// stepView is a step as it is listed.
type stepView struct {
	*lesson.Step
	Number int
	Title  string
	Tempos string
	Says   []string
	Way    string
	Since  string // what the teacher decided while the step was another one; empty where it is that one
	Week   int    // where it is the first of its week; 0 elsewhere
	Day    int    // on which it is begun, from 1; 0 where it is done
	Done   bool
	State  progress.State // of the student; empty for nobody
	On     []bool         // on paper: the days of the week on which it is practised
	Review bool           // on paper: it is learnt, and looked at again
	Link   string
	Chosen bool
}

// listed makes steps ready to be listed.
func listed(c *echo.Context, l *lesson.Lesson, steps []lesson.Step) []stepView {
	sp := speaker(c)
	list := make([]stepView, len(steps))
	for i := range steps {
		step := &steps[i]
		list[i] = stepView{Step: step, Number: i + 1, Title: sp.StepTitle(l.Song, step), Tempos: sp.Tempos(step), Says: sp.Step(step), Way: sp.Way(step.Kind), Day: step.Day}
		if was := step.Since; was != nil {
			list[i].Since = sp.Since(was, list[i].Title)
		}
	}
	return list
}

// inWeeks marks the first step of each week in a list.
func inWeeks(list []stepView) []stepView {
	const week = 7
	last := 0
	for i := range list {
		if w := (list[i].Day-1)/week + 1; w > last && list[i].Day > 0 {
			list[i].Week, last = w, w
		}
	}
	return list
}

// stepPane is one step with all that is in it.
type stepPane struct {
	stepView
	stepDrawn
	Cuts []int // bars after which it can be cut
	Last bool
	Left bool // it is left out
	Cut  bool // it is a piece of one that was cut
}

// stepDrawn is what is drawn of a step.
type stepDrawn struct {
	Lines  []tabPart
	Plays  bool // there is music in it
	Shapes []shapeView
	Drills []drillView
}

// tabPart is the tab of a part, with its name where there are several.
type tabPart struct {
	Name  string
	Lines []SafeHTML
}

type shapeView struct {
	Name   string
	Neck   SafeHTML
	Silent string
	shape  draw.Shape
}

type drillView struct {
	For       string
	Exercises []exerciseView
}

type exerciseView struct {
	How   string
	Lines []SafeHTML
	What  string // by which its music is asked for
	Tempo float64
}

// paneWidth is the width of a line of tab beside the list of steps, px.
const paneWidth = 620

// pane shows a step.
func (s *base) pane(c *echo.Context, t *studio.Taught, view stepView, p hand.Player, width float64) (stepPane, error) {
	step := view.Step
	v := stepPane{stepView: view, Cut: step.ID.Cut != [2]int{}}
	if step.Splits() {
		for bar := step.From; bar < step.To; bar++ {
			v.Cuts = append(v.Cuts, bar)
		}
	}
	music := t.Music(step)
	bars := 0
	if music != nil {
		bars = written(music)
	}
	var err error
	work := studio.WorkOf("pane", t.Key, step.ID.String(), width, speaker(c))
	v.stepDrawn, err = studio.Worked(c.Request().Context(), s.house, home(c).ID, work, bars, func() (stepDrawn, error) {
		return s.drawStep(c, t, &view, music, p, width), nil
	})
	return v, err
}

// drawStep draws a step.
func (s *base) drawStep(c *echo.Context, t *studio.Taught, view *stepView, music *song.Song, p hand.Player, width float64) (v stepDrawn) {
	step := view.Step
	sp := speaker(c)
	v.Shapes = shapesOf(c, t, step.Shapes, p, min(width, 420))
	if music != nil {
		v.Plays = true
		if written(music) <= mostDrawn {
			hills := step.Kind != lesson.Shape && step.Kind != lesson.Change && step.Kind != lesson.Rhythm
			v.Lines = s.stepTab(c, t, step, music, p, width, hills)
		}
	}
	for i, d := range step.Drills {
		dv := drillView{For: sp.Drill(d.Place.For)}
		for j := range d.Exercises {
			e := &d.Exercises[j]
			one := exerciseView{How: sp.Exercise(e.How), What: heard{Step: step.ID, Drill: i + 1, Exercise: j + 1}.String(), Tempo: step.Start}
			for _, part := range s.tabOf(c, d.Song(e, view.Title, step.Start), p, t.Fingers(step), width, 1) {
				one.Lines = append(one.Lines, part.Lines...)
			}
			dv.Exercises = append(dv.Exercises, one)
		}
		v.Drills = append(v.Drills, dv)
	}
	return v
}

// shapesOf draws shapes for a player.
func shapesOf(c *echo.Context, t *studio.Taught, shapes []lesson.Held, p hand.Player, width float64) (list []shapeView) {
	sp := speaker(c)
	in := p.On(t.Song.Tuning, t.Song.Capo)
	for _, h := range shapes {
		shape := draw.Shape{Fingering: h.Fingering, Player: p, Neck: in.Neck, Mutes: h.Mutes, Speaker: sp, Width: width}
		name := h.Name
		if of, err := chord.Parse(name); err == nil && t.Song.Lifted() != 0 {
			name += " (" + alsoNamed(t.Song.Lift(), of, t.Song.Key) + ")"
		}
		list = append(list, shapeView{name, shape.SVG(), sp.Mutes(h.Mutes), shape})
	}
	return list
}

// mostDrawn is how many bars are drawn in one step; longer music is heard alone.
const mostDrawn = 200

func written(s *song.Song) (bars int) {
	for i := range s.Parts {
		bars += s.Parts[i].Written()
	}
	return bars
}

// barNumber is the number in its part of a bar of the music of a step, counted from 1 in
// a part of the music.
func barNumber(step *lesson.Step, part, bar int) int {
	switch {
	case step.Kind == lesson.Piece || step.Kind == lesson.Rhythm:
		return bar + step.From - 1
	case step.Kind == lesson.Seam && part == 0 && bar == 1:
		return step.From
	case step.Kind == lesson.Seam:
		return 1
	}
	return bar
}

// stepTab draws what is played in a step: the bars of the versions that are learnt, or
// where it is an exercise its own.
func (s *base) stepTab(c *echo.Context, t *studio.Taught, step *lesson.Step, music *song.Song, p hand.Player, width float64, hills bool) []tabPart {
	st := style(c, width)
	st.Fingers, st.Strokes, st.Places = true, true, true
	bars := func(part, from, to int) []draw.Bar {
		v, as := t.Version(step, part)
		all := draw.Version(as, v, nil)
		if from > 0 {
			return all[from-1 : to]
		}
		return draw.WithPasses(all, as, v)
	}
	var list []tabPart
	add := func(name string, bars []draw.Bar) {
		list = append(list, tabPart{Name: name, Lines: draw.Tab(bars, st, hills)})
	}
	switch step.Kind {
	case lesson.Piece:
		add("", bars(step.Part, step.From, step.To))
	case lesson.Whole, lesson.Finish:
		add("", bars(step.Part, 0, 0))
	case lesson.Seam:
		end, begin := bars(step.Part, step.From, step.To), bars(step.Into, 1, lesson.Opening(&t.Song.Parts[step.Into]))
		if len(music.Parts) == 1 {
			add("", slices.Concat(end, begin))
			break
		}
		add(music.Parts[0].Name, end)
		add(music.Parts[1].Name, begin)
	case lesson.Form:
		for i := range music.Parts {
			if at, ok := t.Song.PartNamed(music.Parts[i].Name); ok {
				add(music.Parts[i].Name, bars(at, 0, 0))
			}
		}
	default:
		list = s.tabOf(c, music, p, t.Fingers(step), width, barNumber(step, 0, 1))
	}
	return list
}

// tabOf draws a song of its own as it is written, for a player, with the fingers that are
// known of it. Its first bar has a number.
func (s *base) tabOf(c *echo.Context, music *song.Song, p hand.Player, known map[neck.Frets]hand.Fingering, width float64, first int) []tabPart {
	a := arrange.New(music, s.options(c, p, 0))
	st := style(c, width)
	st.Fingers, st.Strokes, st.Places = true, true, true
	var list []tabPart
	for i := range music.Parts {
		part := &music.Parts[i]
		v := a.Version(i, arrange.AsWritten, arrange.Way{})
		for j := range v.Bars {
			for k := range v.Bars[j].Events {
				if e := &v.Bars[j].Events[k]; e.Fingering.Fretted() {
					if f, ok := known[e.Fingering.Frets]; ok {
						grip := *e.Grip
						grip.Fingering, e.Grip = f, &grip
					}
				}
			}
		}
		bars := draw.Version(part, &v, nil)
		for j := range bars {
			bars[j].Number += first - 1
		}
		one := tabPart{Lines: draw.Tab(bars, st, false)}
		if len(music.Parts) > 1 {
			one.Name = part.Name
		}
		list = append(list, one)
	}
	return list
}

// changeSteps changes the steps of a lesson as a form says.
func (s *lessonbook) changeSteps(c *echo.Context) error {
	if c.FormValue("action") == "clear" { // also where the changes cannot be read
		l, _, err := s.lessonFrom(c)
		if err != nil {
			return err
		}
		err = s.journaled(c, fmt.Sprintf("The steps of %s are as they were built.", l.Name), func(ctx context.Context) error { return s.Store.SetPlan(ctx, home(c).ID, l.ID, "") })
		if err != nil {
			return err
		}
		if c.Request().Header.Get("X-Fragment") != "" {
			return s.lessonPage(c)
		}
		return see(c, "/lessons/%d?student=%s", l.ID, c.FormValue("student"))
	}
	a, err := s.askedLesson(c)
	if err != nil {
		return err
	}
	l := a.Lesson
	plan, err := s.changed(c, a.Taught, a.Taught.Plan)
	if err != nil {
		return err
	}
	if faults := plan.Faults(); len(faults) > 0 {
		return wrong(sentence(faults[0]))
	}
	err = s.journaled(c, fmt.Sprintf("Changed the steps of %s.", l.Name), func(ctx context.Context) error { return s.Store.SetPlan(ctx, home(c).ID, l.ID, plan.String()) })
	if err != nil {
		return err
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return s.lessonPage(c)
	}
	return see(c, "/lessons/%d?student=%s", l.ID, c.FormValue("student"))
}

// errNoStep is what is answered where a step is not there any more.
var errNoStep = wrong("This step is not there any more. Load the page again.")

// changed is a plan after the change that a form asks for.
func (s *lessonbook) changed(c *echo.Context, t *studio.Taught, p lesson.Plan) (lesson.Plan, error) {
	id, err := lesson.ParseStepID(c.FormValue("step"))
	if err != nil {
		return p, errNoStep
	}
	action := c.FormValue("action")
	switch action {
	case "template":
		return s.templated(c, p)
	case "save-template":
		return p, s.saveTemplate(c, t)
	case "delete-template":
		name := field(c, "template", 60)
		return p, s.journaled(c, fmt.Sprintf("Deleted the order of steps %s.", name), func(ctx context.Context) error { return s.Store.DeleteTemplate(ctx, home(c).ID, name) })
	case "own":
		return s.withOwn(c, p, id)
	}
	step := t.Step(id)
	if step == nil {
		return p, errNoStep
	}
	title := speaker(c).StepTitle(t.Song, step)
	switch action {
	case "up":
		return p.Move(t.Steps, id, -1), nil
	case "down":
		return p.Move(t.Steps, id, 1), nil
	case "place":
		to, err := number(c, "place", "The place", 1, float64(len(t.Steps)))
		if err != nil {
			return p, err
		}
		at := slices.IndexFunc(t.Steps, func(s lesson.Step) bool { return s.ID == id })
		return p.Move(t.Steps, id, int(to)-1-at), nil
	case "out":
		if step.Own != nil {
			p.Own = slices.DeleteFunc(slices.Clone(p.Own), func(o lesson.Own) bool { return o.Step() == id })
			return p, nil
		}
		p.Out = with(p.Out, id, lesson.Out{Title: title})
	case "in":
		delete(p.Out, id)
	case "cut":
		bar, err := strconv.Atoi(c.FormValue("bar"))
		if err != nil || !step.Splits() || bar < step.From || bar >= step.To {
			return p, wrong("Choose a bar inside the step after which it is cut.")
		}
		whole := id.Whole()
		cut := p.Split[whole]
		if cut.Title == "" {
			cut.Title = title
		}
		cut.After = append(slices.Clone(cut.After), t.Song.Parts[step.Part].BarID(bar))
		p.Split = with(p.Split, whole, cut)
	case "join":
		delete(p.Split, id.Whole())
	case "set":
		return wished(c, p, step, title, t.Mark(step))
	case "unset":
		delete(p.Set, id)
	default:
		return p, wrong("This cannot be done with a step.")
	}
	return p, nil
}

// with is a map with one more thing in it.
func with[V any](m map[lesson.StepID]V, id lesson.StepID, v V) map[lesson.StepID]V {
	if m == nil {
		m = map[lesson.StepID]V{}
	}
	m[id] = v
	return m
}

// numbersOf reads the tempos, passes and minutes of a step from a form.
func numbersOf(c *echo.Context) (start, goal float64, passes, minutes int, err error) {
	var errs [4]error
	var p, m float64
	start, errs[0] = number(c, "start", "The tempo to begin with", sheet.MinTempo, sheet.MaxTempo)
	goal, errs[1] = number(c, "goal", "The tempo to reach", sheet.MinTempo, sheet.MaxTempo)
	p, errs[2] = number(c, "passes", "The clean passes", 1, lesson.MostPasses)
	m, errs[3] = number(c, "minutes", "The minutes", 1, lesson.MostMinutes)
	if err := errors.Join(errs[:]...); err != nil {
		return 0, 0, 0, 0, cmp.Or(errs[0], errs[1], errs[2], errs[3])
	}
	if start > goal {
		return 0, 0, 0, 0, wrong("The tempo to begin with must not be above the one to reach.")
	}
	return start, goal, int(p), int(m), nil
}

// wished keeps what a teacher has decided of a step.
func wished(c *echo.Context, p lesson.Plan, step *lesson.Step, title, played string) (lesson.Plan, error) {
	start, goal, passes, minutes, err := numbersOf(c)
	if err != nil {
		return p, err
	}
	words := field(c, "words", lesson.MostWords)
	if step.Own != nil {
		p.Own = slices.Clone(p.Own)
		i := slices.IndexFunc(p.Own, func(o lesson.Own) bool { return o.Step() == step.ID })
		o := &p.Own[i]
		o.Start, o.Goal, o.Passes, o.Minutes, o.Words = start, goal, passes, minutes, words
		if name := field(c, "title", 80); name != "" {
			o.Title = name
		}
		o.Sheet, err = ownSheet(c)
		return p, err
	}
	p.Set = with(p.Set, step.ID, p.Set[step.ID].Changed(step, lesson.Wish{Title: title, Start: start, Goal: goal, Passes: passes, Minutes: minutes, Words: words, Played: played}))
	return p, nil
}

// ownSheet reads the sheet of a step of the teacher's.
func ownSheet(c *echo.Context) (string, error) {
	text := strings.TrimSpace(strings.ReplaceAll(c.FormValue("sheet"), "\r\n", "\n"))
	switch {
	case text == "":
		return "", nil
	case len(text) > lesson.MostSheet:
		return "", wrong("The sheet of a step has at most 8 KB.")
	case !strings.Contains(text, ":"):
		text = "Step:\n" + text // bars alone will do
	}
	if !strings.HasPrefix(text, "title:") {
		text = "title: Step\n\n" + text
	}
	sh := sheet.Parse(text)
	if !sh.OK() {
		for _, p := range sh.Problems {
			if p.Severity == sheet.Error {
				return "", wrong(fmt.Sprintf("The sheet of the step, line %d: %s; %s.", p.Line, p.Message, p.Mend))
			}
		}
	}
	if len(sh.Song.Parts) == 0 {
		return "", wrong("The sheet of the step has no bars.")
	}
	return sh.Format(), nil
}

// withOwn adds a step of the teacher's after another.
func (s *lessonbook) withOwn(c *echo.Context, p lesson.Plan, after lesson.StepID) (lesson.Plan, error) {
	if len(p.Own) >= lesson.MostOwn {
		return p, wrong(fmt.Sprintf("A lesson has at most %d steps of your own.", lesson.MostOwn))
	}
	o := lesson.Own{ID: p.NewOwn(), After: after, Title: field(c, "title", 80), Words: field(c, "words", lesson.MostWords)}
	if o.Title == "" {
		return p, wrong("Give the step a name.")
	}
	var err error
	if o.Start, o.Goal, o.Passes, o.Minutes, err = numbersOf(c); err != nil {
		return p, err
	}
	if o.Sheet, err = ownSheet(c); err != nil {
		return p, err
	}
	p.Own = append(slices.Clone(p.Own), o)
	if len(p.Order) > 0 {
		at := slices.Index(p.Order, after) + 1
		p.Order = slices.Insert(slices.Clone(p.Order), at, o.Step())
	}
	return p, nil
}

// templated orders the steps as a template has them; no name is the usual order.
func (s *lessonbook) templated(c *echo.Context, p lesson.Plan) (lesson.Plan, error) {
	name := field(c, "template", 60)
	p.Template, p.Order = lesson.Template{}, nil
	if name == "" {
		return p, nil
	}
	list, err := s.Store.Templates(c.Request().Context(), home(c).ID)
	if err != nil {
		return p, err
	}
	for _, t := range list {
		if t.Name == name {
			return p, json.Unmarshal([]byte(t.Steps), &p.Template)
		}
	}
	return p, wrong("There is no such order any more.")
}

// saveTemplate keeps the order of the steps that are shown under a name.
func (s *lessonbook) saveTemplate(c *echo.Context, t *studio.Taught) error {
	name := field(c, "template", 60)
	if name == "" {
		return wrong("Give the order a name.")
	}
	text, err := json.Marshal(lesson.TemplateOf(t.Steps))
	if err != nil {
		return err
	}
	return s.Store.SetTemplate(c.Request().Context(), store.Template{StudioID: home(c).ID, Name: name, Steps: string(text)})
}

// madeFor is the student for whom a lesson is shown: the one that is asked for, or the
// only one who has it; nobody in particular has the usual hand and knows nothing yet.
func (s *base) madeFor(c *echo.Context, l store.Lesson) (store.Student, error) {
	if c.FormValue("student") != "" {
		return s.madeForOf(c, nil)
	}
	given, err := s.Store.AssignmentsOfLesson(c.Request().Context(), home(c).ID, l.ID)
	if err != nil {
		return studio.Nobody, err
	}
	return s.madeForOf(c, given)
}

// madeForOf is madeFor, of those to whom the lesson is given.
func (s *base) madeForOf(c *echo.Context, given []store.Assignment) (store.Student, error) {
	asked := c.FormValue("student")
	n, err := strconv.ParseInt(asked, 10, 64)
	if err != nil && asked == "" && len(given) == 1 {
		n = given[0].StudentID
	}
	if n <= 0 {
		return studio.Nobody, nil
	}
	return s.Store.Student(c.Request().Context(), home(c).ID, n)
}
