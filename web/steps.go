package web

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/web/draw"
)

// taught is a lesson as it is given: its steps as the teacher has changed them, those
// that are left out, and the changes that could not be kept.
type taught struct {
	*lesson.Lesson
	Out  []lesson.Step
	Lost []lesson.Lost
}

// Step finds a step by its key, also one that is left out; nil where there is none.
func (t *taught) Step(key string) *lesson.Step {
	for _, list := range [][]lesson.Step{t.Steps, t.Out} {
		for i := range list {
			if list[i].Key == key {
				return &list[i]
			}
		}
	}
	return nil
}

// readPlan reads what a teacher has changed; what is not understood changes nothing.
func readPlan(text string) (p lesson.Plan) {
	if text != "" {
		_ = json.Unmarshal([]byte(text), &p)
	}
	return p
}

// writePlan writes a plan as it is kept; one that changes nothing is empty.
func writePlan(p lesson.Plan) (string, error) {
	text, err := json.Marshal(p)
	if string(text) == "{}" {
		return "", err
	}
	return string(text), err
}

// teach makes the steps of a lesson: of the versions of some parts of a song, which is
// typed so, for a student at its target tempo.
func (s *Server) teach(c *echo.Context, text string, parts []store.Part, plan string, who store.Student, target float64) (*taught, error) {
	learner := who.Learner()
	if who.ID == 0 {
		learner.Known = lesson.Known{} // all of it is there to be chosen from
	}
	o := s.options(c, learner.Player, target)
	sh := s.music.read(text)
	bars := 0
	for i := range sh.Song.Parts {
		bars += sh.Song.Parts[i].Written()
	}
	return worked(s.music, workOf("steps", text, waysOf(parts), o, parts, plan, who.ID == 0, who.Known, learner.Minutes), bars, func() (*taught, error) {
		return teachIn(sh.Song, parts, plan, learner, o), nil
	})
}

// asked is a lesson that an address names, with its steps for the student it is asked for.
type asked struct {
	*taught
	Lesson store.Lesson
	Song   store.Song
	Who    store.Student
}

func (s *Server) askedLesson(c *echo.Context) (a asked, err error) {
	if a.Lesson, a.Song, err = s.lessonFrom(c); err != nil {
		return a, err
	}
	if a.Who, err = s.madeFor(c, a.Lesson); err != nil {
		return a, err
	}
	a.taught, err = s.teach(c, a.Song.Sheet, a.Lesson.Parts, a.Lesson.Plan, a.Who, a.Lesson.TargetTempo)
	return a, err
}

func teachIn(in *song.Song, parts []store.Part, plan string, learner lesson.Student, o arrange.Options) *taught {
	a := arrange.New(in, o)
	w := waysOf(parts)
	chosen := make([]lesson.Chosen, len(in.Parts))
	for _, p := range parts {
		i, ok := in.PartNamed(p.Part)
		rung, err := arrange.ParseRung(p.Rung)
		if !ok || err != nil {
			continue
		}
		ladder := a.Ladder(i, w.of(p.Part))
		at := slices.IndexFunc(ladder, func(v arrange.Version) bool { return v.Rung == rung })
		if at < 0 {
			ladder = append(ladder, a.Version(i, rung, w.of(p.Part)[rung]))
			at = len(ladder) - 1
		}
		chosen[i] = lesson.Chosen{Version: &ladder[at], Next: lesson.Above(ladder, rung)}
	}
	t := &taught{Lesson: lesson.Build(in, chosen, learner, o.Tempo)}
	p := readPlan(plan)
	t.Out, t.Lost = p.Apply(t.Lesson, learner.Minutes)
	return t
}

// stepView is a step as it is listed.
type stepView struct {
	*lesson.Step
	Number int
	Title  string
	Tempos string
	Says   []string
	Way    string
	Week   int // where it is the first of its week; 0 elsewhere
	Chosen bool
}

// listed makes steps ready to be listed.
func listed(c *echo.Context, l *lesson.Lesson, steps []lesson.Step) []stepView {
	const week = 7
	sp := speaker(c)
	list := make([]stepView, len(steps))
	last := 0
	for i := range steps {
		step := &steps[i]
		list[i] = stepView{Step: step, Number: i + 1, Title: sp.StepTitle(l.Song, step), Tempos: sp.Tempos(step), Says: sp.Step(step), Way: sp.Way(step.Kind)}
		if w := (step.Day-1)/week + 1; w != last && step.Day > 0 {
			list[i].Week, last = w, w
		}
	}
	return list
}

// stepPane is one step with all that is in it.
type stepPane struct {
	stepView
	Lines  []tabPart
	Plays  bool // there is music in it
	Shapes []shapeView
	Drills []drillView
	Cuts   []int // bars after which it can be cut
	Last   bool
	Left   bool // it is left out
	Cut    bool // it is a piece of one that was cut
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

// pane draws a step.
func (s *Server) pane(c *echo.Context, t *taught, view stepView, p hand.Player, width float64) stepPane {
	step := view.Step
	v := stepPane{stepView: view}
	if step.Splits() {
		for bar := step.From; bar < step.To; bar++ {
			v.Cuts = append(v.Cuts, bar)
		}
	}
	v.Cut = strings.Contains(step.Key, " / ")
	sp := speaker(c)
	v.Shapes = shapesOf(c, t, step.Shapes, p, min(width, 420))
	if music := t.Music(step); music != nil {
		v.Plays = true
		if written(music) <= mostDrawn {
			hills := step.Kind != lesson.Shape && step.Kind != lesson.Change && step.Kind != lesson.Rhythm
			v.Lines = s.stepTab(c, t, step, music, p, width, hills)
		}
	}
	for i, d := range step.Drills() {
		dv := drillView{For: sp.Drill(d.Place.For)}
		for j := range d.Exercises {
			e := &d.Exercises[j]
			one := exerciseView{How: sp.Exercise(e.How), What: fmt.Sprintf("%s drill %d %d", step.Key, i, j), Tempo: step.Start}
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
func shapesOf(c *echo.Context, t *taught, shapes []lesson.Held, p hand.Player, width float64) (list []shapeView) {
	sp := speaker(c)
	in := p.On(t.Song.Tuning, t.Song.Capo)
	for _, h := range shapes {
		shape := draw.Shape{Fingering: h.Fingering, Player: p, Neck: in.Neck, Mutes: h.Mutes, Speaker: sp, Width: width}
		list = append(list, shapeView{h.Name, shape.SVG(), sp.Mutes(h.Mutes), shape})
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
func (s *Server) stepTab(c *echo.Context, t *taught, step *lesson.Step, music *song.Song, p hand.Player, width float64, hills bool) []tabPart {
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
		end, begin := bars(step.Part, step.From, step.To), bars(step.Into, 1, 1)
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
func (s *Server) tabOf(c *echo.Context, music *song.Song, p hand.Player, known map[neck.Frets]hand.Fingering, width float64, first int) []tabPart {
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
func (s *Server) changeSteps(c *echo.Context) error {
	a, err := s.askedLesson(c)
	if err != nil {
		return err
	}
	l, t := a.Lesson, a.taught
	plan, err := s.changed(c, t, readPlan(l.Plan))
	if err != nil {
		return err
	}
	text, err := writePlan(plan)
	if err != nil {
		return err
	}
	if err := s.Store.SetPlan(c.Request().Context(), studio(c).ID, l.ID, text); err != nil {
		return err
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return s.lessonPage(c)
	}
	return see(c, "/lessons/%d?student=%s", l.ID, c.FormValue("student"))
}

// The most that a plan can hold.
const (
	mostOwn      = 40
	mostPlanned  = 200
	mostOwnSheet = 8 << 10
)

// errNoStep is what is answered where a step is not there any more.
var errNoStep = wrong("This step is not there any more. Load the page again.")

// changed is a plan after the change that a form asks for.
func (s *Server) changed(c *echo.Context, t *taught, p lesson.Plan) (lesson.Plan, error) {
	key := c.FormValue("step")
	action := c.FormValue("action")
	switch action {
	case "template":
		return s.templated(c, p)
	case "save-template":
		return p, s.saveTemplate(c, t)
	case "delete-template":
		return p, s.Store.DeleteTemplate(c.Request().Context(), studio(c).ID, field(c, "template", 60))
	case "clear":
		return lesson.Plan{}, nil
	case "own":
		return s.withOwn(c, p, key)
	}
	step := t.Step(key)
	if step == nil {
		return p, errNoStep
	}
	title := speaker(c).StepTitle(t.Song, step)
	if len(p.Out)+len(p.Set)+len(p.Split) >= mostPlanned {
		return p, wrong("That is more changes than one lesson holds. Take some of them back first.")
	}
	switch action {
	case "up":
		return p.Move(t.Steps, key, -1), nil
	case "down":
		return p.Move(t.Steps, key, 1), nil
	case "out":
		if step.Own != nil {
			p.Own = slices.DeleteFunc(slices.Clone(p.Own), func(o lesson.Own) bool { return o.Key == key })
			return p, nil
		}
		p.Out = with(p.Out, key, lesson.Out{Title: title})
	case "in":
		delete(p.Out, key)
	case "cut":
		bar, err := strconv.Atoi(c.FormValue("bar"))
		if err != nil || !step.Splits() || bar < step.From || bar >= step.To {
			return p, wrong("Choose a bar inside the step after which it is cut.")
		}
		whole, _, _ := strings.Cut(key, " / ")
		cut := p.Split[whole]
		if cut.Title == "" {
			cut.Title = title
		}
		cut.After = append(slices.Clone(cut.After), bar)
		p.Split = with(p.Split, whole, cut)
	case "join":
		whole, _, _ := strings.Cut(key, " / ")
		delete(p.Split, whole)
	case "set":
		return wished(c, p, step, title)
	case "unset":
		delete(p.Set, key)
	default:
		return p, wrong("This cannot be done with a step.")
	}
	return p, nil
}

// with is a map with one more thing in it.
func with[V any](m map[string]V, key string, v V) map[string]V {
	if m == nil {
		m = map[string]V{}
	}
	m[key] = v
	return m
}

// numbersOf reads the tempos, passes and minutes of a step from a form.
func numbersOf(c *echo.Context) (start, goal float64, passes, minutes int, err error) {
	var errs [4]error
	var p, m float64
	start, errs[0] = number(c, "start", "The tempo to begin with", sheet.MinTempo, sheet.MaxTempo)
	goal, errs[1] = number(c, "goal", "The tempo to reach", sheet.MinTempo, sheet.MaxTempo)
	p, errs[2] = number(c, "passes", "The clean passes", 1, 50)
	m, errs[3] = number(c, "minutes", "The minutes", 1, 300)
	if err := errors.Join(errs[:]...); err != nil {
		return 0, 0, 0, 0, cmp.Or(errs[0], errs[1], errs[2], errs[3])
	}
	if start > goal {
		return 0, 0, 0, 0, wrong("The tempo to begin with must not be above the one to reach.")
	}
	return start, goal, int(p), int(m), nil
}

// wished keeps what a teacher has decided of a step.
func wished(c *echo.Context, p lesson.Plan, step *lesson.Step, title string) (lesson.Plan, error) {
	start, goal, passes, minutes, err := numbersOf(c)
	if err != nil {
		return p, err
	}
	words := field(c, "words", 400)
	if step.Own != nil {
		p.Own = slices.Clone(p.Own)
		i := slices.IndexFunc(p.Own, func(o lesson.Own) bool { return o.Key == step.Key })
		o := &p.Own[i]
		o.Start, o.Goal, o.Passes, o.Minutes, o.Words = start, goal, passes, minutes, words
		if name := field(c, "title", 80); name != "" {
			o.Title = name
		}
		o.Sheet, err = ownSheet(c)
		return p, err
	}
	p.Set = with(p.Set, step.Key, lesson.Wish{Title: title, Start: start, Goal: goal, Passes: passes, Minutes: minutes, Words: words})
	return p, nil
}

// ownSheet reads the sheet of a step of the teacher's.
func ownSheet(c *echo.Context) (string, error) {
	text := strings.TrimSpace(strings.ReplaceAll(c.FormValue("sheet"), "\r\n", "\n"))
	switch {
	case text == "":
		return "", nil
	case len(text) > mostOwnSheet:
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
func (s *Server) withOwn(c *echo.Context, p lesson.Plan, after string) (lesson.Plan, error) {
	if len(p.Own) >= mostOwn {
		return p, wrong(fmt.Sprintf("A lesson has at most %d steps of your own.", mostOwn))
	}
	o := lesson.Own{Key: p.NewOwn(), After: after, Title: field(c, "title", 80), Words: field(c, "words", 400)}
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
		p.Order = slices.Insert(slices.Clone(p.Order), at, o.Key)
	}
	return p, nil
}

// templated orders the steps as a template has them; no name is the usual order.
func (s *Server) templated(c *echo.Context, p lesson.Plan) (lesson.Plan, error) {
	name := field(c, "template", 60)
	p.Template, p.Order = lesson.Template{}, nil
	if name == "" {
		return p, nil
	}
	list, err := s.Store.Templates(c.Request().Context(), studio(c).ID)
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
func (s *Server) saveTemplate(c *echo.Context, t *taught) error {
	name := field(c, "template", 60)
	if name == "" {
		return wrong("Give the order a name.")
	}
	text, err := json.Marshal(lesson.TemplateOf(t.Steps))
	if err != nil {
		return err
	}
	return s.Store.SetTemplate(c.Request().Context(), store.Template{StudioID: studio(c).ID, Name: name, Steps: string(text)})
}

// madeFor is the student for whom a lesson is shown: the one that is asked for, or the
// only one who has it; nobody in particular has the usual hand and knows nothing yet.
func (s *Server) madeFor(c *echo.Context, l store.Lesson) (store.Student, error) {
	ctx, home := c.Request().Context(), studio(c).ID
	asked := c.FormValue("student")
	if n, err := strconv.ParseInt(asked, 10, 64); err == nil && n > 0 {
		return s.Store.Student(ctx, home, n)
	}
	if asked == "0" {
		return nobody, nil
	}
	given, err := s.Store.Assignments(ctx, home)
	if err != nil {
		return nobody, err
	}
	found := nobody
	for _, a := range given {
		if a.LessonID != l.ID {
			continue
		}
		if found.ID != 0 {
			return nobody, nil
		}
		if found, err = s.Store.Student(ctx, home, a.StudentID); err != nil {
			return nobody, err
		}
	}
	return found, nil
}

// nobody is who a lesson is made for that is made for nobody in particular.
var nobody = store.Student{Reach: hand.UsualReach, Scale: neck.UsualScale, NotesPerSecond: hand.UsualNotesPerSecond, Minutes: lesson.UsualMinutes}
