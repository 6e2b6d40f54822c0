package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/lesson"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// addLesson makes a lesson of a song. The part that was looked at keeps its
// rung; the others get the one that is suggested.
func (s *lessonbook) addLesson(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	who := studio.Nobody
	if n, err := strconv.ParseInt(c.FormValue("student"), 10, 64); err == nil && n > 0 {
		if who, err = s.Store.Student(c.Request().Context(), home(c).ID, n); err != nil {
			return err
		}
	}
	in, err := s.read(c, g)
	if err != nil {
		return err
	}
	w, err := s.house.WaysOf(c.Request().Context(), home(c).ID, g.ID)
	if err != nil {
		return err
	}
	var line []store.Part // whose line was looked at
	for i := range in.Parts {
		if in.Parts[i].Name == c.FormValue("part") {
			line = append(line, store.Part{PartID: in.PartID(i), Player: lineIn(url.Values{"line": {c.FormValue("line")}}, &in.Parts[i])})
		}
	}
	parts, err := s.ladders(c, in, g.Sheet, w, s.options(c, studio.Player(&who), 0), line, &who)
	if err != nil {
		return err
	}
	l := store.Lesson{StudioID: home(c).ID, SongID: g.ID, Name: g.Title, TargetTempo: in.Tempo, CreatedAt: store.At(s.Now())}
	for _, p := range parts {
		rung := p.Suggest
		if chosen, err := arrange.ParseRung(c.FormValue("rung")); err == nil && p.Name == c.FormValue("part") {
			rung = chosen
		}
		l.Parts = append(l.Parts, store.Part{PartID: p.ID, Part: p.Name, Rung: rung, Player: p.Player})
	}
	if len(l.Parts) == 0 {
		return wrong("The song has no parts yet. Type a part and its bars first.")
	}
	id, err := s.Store.AddLesson(c.Request().Context(), l)
	if err != nil {
		return err
	}
	return see(c, "/lessons/%d", id)
}

type lessonView struct {
	Page
	Tags      string
	OtherTags []store.CountedTag
	Groups    []store.CountedTag // of students
	Lesson    store.Lesson
	Song      studio.Facts
	SongID    int64
	Trouble   string   // why the steps could not be made; empty where they could
	Versions  SafeHTML // of each part, to choose from
	Roadmap   play.Roadmap
	Students  []lessonStudent
	People    []store.Student

	Who       store.Student // for whom the steps are shown
	Steps     []stepView
	Out       []stepView // left out
	Lost      []lostChange
	Pane      *stepPane
	First     stepPane // what a step of one's own begins with where there is none yet
	Minutes   int
	Days      int
	PerDay    int
	Templates []store.Template
	Changed   bool   // the teacher has changed something
	Template  string // the order that is used; empty for the usual one
	Music     string // where the music of a step comes from, less its key
}

type lessonPart struct {
	partSummary
	Chosen  arrange.Rung // empty: left out
	Hill    template.HTML
	Grade   float64
	Options []rungSummary
	Gone    bool // not in the song any more
}

type lessonStudent struct {
	store.Student
	Assigned bool
	Outdated bool
}

func (s *base) lessonFrom(c *echo.Context) (store.Lesson, store.Song, error) {
	n, err := id(c, "lesson")
	if err != nil {
		return store.Lesson{}, store.Song{}, err
	}
	ctx := c.Request().Context()
	l, err := s.Store.Lesson(ctx, home(c).ID, n)
	if err != nil {
		return l, store.Song{}, err
	}
	g, err := s.Store.Song(ctx, home(c).ID, l.SongID)
	return l, g, err
}

func (s *lessonbook) lessonPage(c *echo.Context) error {
	l, g, err := s.lessonFrom(c)
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	students, err := s.Store.StudentNames(ctx, home(c).ID)
	if err != nil {
		return err
	}
	assignments, err := s.Store.AssignmentsOfLesson(ctx, home(c).ID, l.ID)
	if err != nil {
		return err
	}
	given := map[int64]*store.Assignment{}
	for i := range assignments {
		given[assignments[i].StudentID] = &assignments[i]
	}
	in, err := s.read(c, g)
	if err != nil {
		return err
	}
	w, err := s.house.WaysOf(ctx, home(c).ID, g.ID)
	if err != nil {
		return err
	}
	v := lessonView{Page: s.page(c, l.Name, "lessons"), Lesson: l, Song: studio.FactsOf(in), SongID: g.ID, Roadmap: play.Plan(in, l.TargetTempo)}
	if v.Who, err = s.madeForOf(c, assignments); err != nil {
		return err
	}
	if v.Versions, err = s.versionsOf(c, &l, in, g.Sheet, w, &v.Who); err != nil {
		text, ok := studio.IsTrouble(err)
		if !ok {
			return err
		}
		v.Trouble = text
	}
	v.People = students
	tags, err := s.Store.TagsOf(ctx, home(c).ID, store.OnLesson, l.ID)
	if err != nil {
		return err
	}
	v.Tags = strings.Join(tags[l.ID], ", ")
	if v.OtherTags, err = s.Store.TagsOn(ctx, home(c).ID, store.OnLesson, ""); err != nil {
		return err
	}
	if v.Groups, err = s.Store.TagsOn(ctx, home(c).ID, store.OnStudent, ""); err != nil {
		return err
	}
	for _, st := range students {
		row := lessonStudent{Student: st}
		if a := given[st.ID]; a != nil {
			row.Assigned, row.Outdated = true, studio.Differs(a, &l)
		}
		v.Students = append(v.Students, row)
	}
	if err := s.showSteps(c, &v, g); err != nil {
		return err
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return c.Render(http.StatusOK, "lesson#lesson", v)
	}
	return c.Render(http.StatusOK, "lesson", v)
}

// lessonVersions is what there is to choose from for the parts of a lesson.
type lessonVersions struct {
	Who   string // for whom; empty for nobody in particular
	Fits  string // what fits them, in a sentence
	Parts []lessonPart
}

// versionsOf draws what there is to choose from for each part of a lesson.
func (s *lessonbook) versionsOf(c *echo.Context, l *store.Lesson, in *song.Song, text string, w studio.Ways, who *store.Student) (SafeHTML, error) {
	o := s.options(c, studio.Player(who), l.TargetTempo)
	ctx := c.Request().Context()
	work := studio.WorkOf("versions of a lesson", text, idsOf(in), w.Key(), studio.OfOptions(o), l.Parts, who.ID == 0, who.Known, who.Minutes)
	return studio.Worked(ctx, s.house, home(c).ID, work, written(in), func() (SafeHTML, error) {
		parts, err := s.ladders(c, in, text, w, o, l.Parts, who)
		if err != nil {
			return "", err
		}
		v := lessonVersions{Who: who.Name, Parts: lessonParts(l, in, parts)}
		if len(parts) > 0 {
			v.Fits = parts[0].Fits
		}
		return s.drawn(c, "lesson#lesson-versions", v)
	})
}

// lessonParts are the parts of a lesson with what is chosen for them, and those that the song
// does not have any more.
func lessonParts(l *store.Lesson, in *song.Song, parts []partSummary) (rows []lessonPart) {
	chosen := map[song.PartID]arrange.Rung{}
	for _, p := range l.Parts {
		chosen[p.PartID] = p.Rung
		if _, there := in.PartWith(p.PartID); !there && p.Rung != "" {
			rows = append(rows, lessonPart{partSummary: partSummary{ID: p.PartID, Name: p.Part}, Gone: true})
		}
	}
	for _, p := range parts {
		row := lessonPart{partSummary: p, Chosen: chosen[p.ID], Options: p.Rungs}
		row.Player = p.Player
		h := draw.Hill{Bars: p.Bars, Ridge: p.Written().Feet, Width: 300, Height: 40, Label: "Hillside of " + p.Name}
		if row.Chosen != "" {
			r := p.Rung(row.Chosen)
			row.Grade, h.Path = r.Grade, r.Feet
			h.Top = draw.Highest(h.Ridge, h.Path)
			h.Label = fmt.Sprintf("%s, %s, grade %.1f", p.Name, row.Chosen.Title(), r.Grade)
		}
		row.Hill = h.SVG()
		rows = append(rows, row)
	}
	return rows
}

// showSteps shows the steps of a lesson, and the one that is looked at.
func (s *lessonbook) showSteps(c *echo.Context, v *lessonView, g store.Song) (err error) {
	v.First = stepPane{stepView: stepView{Step: &lesson.Step{Start: 60, Goal: 60, Passes: 3, Minutes: 5}}}
	look, err := s.lookUp(c, v.Lesson, g, v.Who)
	if err != nil {
		return err
	}
	t, err := s.house.Teach(c.Request().Context(), look)
	if bad := new(studio.BadPlan); errors.As(err, &bad) {
		v.Trouble, v.Changed = sentence(bad.Error())+" Nothing of it is lost. You can take all of the changes back under “Order of the steps”.", true
		return nil
	}
	if text, ok := studio.IsTrouble(err); ok {
		v.Trouble = text
		return nil
	}
	if err != nil {
		return err
	}
	if v.Templates, err = s.Store.Templates(c.Request().Context(), home(c).ID); err != nil {
		return err
	}
	plan := t.Plan
	v.Changed, v.Minutes, v.Days, v.PerDay = v.Lesson.Plan != "", t.Minutes, t.Days, v.Who.Minutes
	for _, known := range v.Templates {
		if order, err := json.Marshal(plan.Template); err == nil && string(order) == known.Steps {
			v.Template = known.Name
		}
	}
	v.Music = fmt.Sprintf("/lessons/%d/music?student=%d&v=%s&what=", v.Lesson.ID, v.Who.ID, soundMark(look))
	v.Steps, v.Out = listed(c, t.Lesson, t.Steps), listed(c, t.Lesson, t.Out)
	if v.Who.ID > 0 {
		if err := s.daysOf(c, v, &asked{Lesson: v.Lesson, Who: v.Who, Look: look, Taught: t}); err != nil {
			return err
		}
	}
	v.Steps = inWeeks(v.Steps)
	for _, list := range [][]stepView{v.Steps, v.Out} {
		for i := range list {
			list[i].Link = fmt.Sprintf("/lessons/%d?student=%d&step=%s", v.Lesson.ID, v.Who.ID, list[i].ID)
		}
	}
	for _, l := range t.Lost {
		v.Lost = append(v.Lost, lostChange{l.Title, speaker(c).Wish(&l.Was)})
	}
	asked, _ := lesson.ParseStepID(c.FormValue("step"))
	if len(v.Steps) == 0 {
		return nil
	}
	if c.FormValue("action") == "own" && len(plan.Own) > 0 {
		asked = plan.Own[len(plan.Own)-1].Step()
	}
	at := lookedAt(v.Steps, asked)
	list, left := v.Steps, false
	if i := slices.IndexFunc(v.Out, func(one stepView) bool { return one.ID == asked }); i >= 0 {
		list, at, left = v.Out, i, true
	}
	list[at].Chosen = true
	pane, err := s.pane(c, t, list[at], studio.Player(&v.Who), drawnTo(c, paneWidth, 40))
	if text, ok := studio.IsTrouble(err); ok {
		v.Trouble = text
		return nil
	}
	if err != nil {
		return err
	}
	pane.Left, pane.Last = left, at == len(list)-1
	v.Pane = &pane
	return nil
}

// lookedAt finds the step with an id, or a piece of it where it was cut, or what it was
// cut from; the first where there is none.
func lookedAt(steps []stepView, id lesson.StepID) int {
	for _, is := range []func(lesson.StepID) bool{
		func(other lesson.StepID) bool { return other == id },
		func(other lesson.StepID) bool { return other.Whole() == id },
		func(other lesson.StepID) bool { return other == id.Whole() },
	} {
		if i := slices.IndexFunc(steps, func(s stepView) bool { return is(s.ID) }); i >= 0 {
			return i
		}
	}
	return 0
}

func (s *lessonbook) saveLesson(c *echo.Context) error {
	l, g, err := s.lessonFrom(c)
	if err != nil {
		return err
	}
	if l.TargetTempo, err = number(c, "tempo", "The target tempo", sheet.MinTempo, sheet.MaxTempo); err != nil {
		return err
	}
	if name := field(c, "name", 120); name != "" {
		l.Name = name
	}
	in, err := s.read(c, g)
	if err != nil {
		return err
	}
	had := l.Parts
	l.Parts = nil
	for i := range in.Parts {
		rung := arrange.Rung(c.FormValue(fmt.Sprintf("rung %d", in.PartID(i))))
		if !rung.Valid() {
			rung = ""
		}
		l.Parts = append(l.Parts, store.Part{PartID: in.PartID(i), Part: in.Parts[i].Name, Rung: rung, Player: playerIn(c, in, i)})
	}
	l.Parts = studio.WithOwn(l.Parts, had)
	err = s.journaled(c, fmt.Sprintf("Changed the lesson %s.", l.Name), func(ctx context.Context) error { return s.Store.SetLesson(ctx, l) })
	if err != nil {
		return err
	}
	if c.Request().Header.Get("X-Fragment") != "" {
		return s.lessonPage(c)
	}
	return see(c, "/lessons/%d", l.ID)
}

// playerIn is whose line of a part a form chooses; empty is the first player's.
func playerIn(c *echo.Context, in *song.Song, part int) string {
	if player := c.FormValue(fmt.Sprintf("player %d", in.PartID(part))); slices.Contains(in.Parts[part].Players(), player) {
		return player
	}
	return ""
}

func (s *lessonbook) assign(c *echo.Context) error {
	l, _, err := s.lessonFrom(c)
	if err != nil {
		return err
	}
	form, err := c.FormValues()
	if err != nil {
		return err
	}
	var names []string
	var last int64
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		ids := numbersIn(form["student"])
		if group := c.FormValue("group"); group != "" {
			of, err := s.Store.ListedStudents(ctx, home(c).ID, store.StudentFilter{Group: group}, 0, 0)
			if err != nil {
				return "", err
			}
			for i := range of {
				if !slices.Contains(ids, of[i].ID) {
					ids = append(ids, of[i].ID)
				}
			}
		}
		for _, n := range ids {
			st, err := s.Store.Student(ctx, home(c).ID, n)
			if err != nil {
				return "", err
			}
			if _, err := s.house.Give(ctx, home(c).ID, l.ID, n, store.At(s.Now())); err != nil {
				return "", err
			}
			names, last = append(names, st.Name), n
		}
		if len(names) == 0 {
			return "", wrong("Tick at least one student, or choose a group.")
		}
		return fmt.Sprintf("Assigned %s to %s.", l.Name, strings.Join(names, ", ")), nil
	})
	if err != nil {
		return err
	}
	if len(names) == 1 {
		return see(c, "/students/%d", last)
	}
	return see(c, "/lessons/%d", l.ID)
}

// duplicate makes another lesson that is like one.
func (s *lessonbook) duplicate(c *echo.Context) error {
	l, _, err := s.lessonFrom(c)
	if err != nil {
		return err
	}
	copied := l
	copied.Name, copied.CreatedAt = oneLine(l.Name, studio.MostLessonName-len(" (2)"))+" (2)", store.At(s.Now())
	err = s.making(c, fmt.Sprintf("/lessons/%d", l.ID), func(ctx context.Context) (says string, err error) {
		copied.ID, err = s.Store.AddLesson(ctx, copied)
		return fmt.Sprintf("Made %s. Give it a name of its own.", copied.Name), err
	})
	if err != nil {
		return err
	}
	return see(c, "/lessons/%d", copied.ID)
}

func (s *lessonbook) deleteLesson(c *echo.Context) error {
	l, _, err := s.lessonFrom(c)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("Deleted the lesson %s. Students who have it keep it.", l.Name), s.Store.DeleteLesson(ctx, home(c).ID, l.ID, store.At(s.Now()))
	})
	if err != nil {
		return err
	}
	return see(c, "/songs/%d", l.SongID)
}

type handoutPart struct {
	Name string
	song.Advice
	Rung         arrange.Rung
	Tempo, Grade float64
	Signs        []string // what some signs of it mean that it has
	Lines        []SafeHTML
	Beside       []besidePart
	Why          []string
}

// signsOf explains the signs of doubt that a version has.
func signsOf(p *song.Part, v *arrange.Version) (signs []string) {
	if slices.ContainsFunc(v.Bars, func(b arrange.Bar) bool {
		return slices.ContainsFunc(b.Events, func(e arrange.Event) bool { return e.From.Optional })
	}) {
		signs = append(signs, "What is in brackets not everybody plays.")
	}
	if slices.ContainsFunc(v.Bars, func(b arrange.Bar) bool {
		return slices.ContainsFunc(b.Events, func(e arrange.Event) bool { return e.Plucked() != "" })
	}) {
		signs = append(signs, "p i m a are thumb, index, middle and ring finger of the hand that plucks.")
	}
	if slices.ContainsFunc(p.Bars(), func(b song.Bar) bool { return b.Unsure }) {
		signs = append(signs, "A ? by the number of a bar: listen to the song whether it is so.")
	}
	return signs
}

// drawPart draws a part that somebody learns, of what is looked up.
func (s *base) drawPart(c *echo.Context, look studio.Lookup, in *song.Song, p store.Part, width float64) (handoutPart, bool) {
	i, ok := in.PartWith(p.PartID)
	choices := studio.Choices([]store.Part{p})
	if !ok || len(choices) == 0 {
		return handoutPart{}, false
	}
	in = studio.Played(in, choices)
	part, choice := &in.Parts[i], choices[0]
	options := s.options(c, studio.Player(&look.Who), look.Target)
	st := style(c, width)
	st.Fingers, st.Strokes, st.Places = true, true, true
	work := studio.WorkOf("part", look.Sheet, idsOf(in), p, studio.OfOptions(options), width, st.Speaker)
	drawn, err := studio.Worked(c.Request().Context(), s.house, home(c).ID, work, part.Written(), func() (handoutPart, error) {
		v := arrange.New(in, options).Version(i, choice.Rung, choice.Way)
		return handoutPart{Name: part.Name, Advice: part.Advice, Rung: choice.Rung, Tempo: play.Tempo(in, part, look.Target), Grade: v.Grade, Signs: signsOf(part, &v),
			Lines: draw.Tab(draw.WithPasses(draw.Version(part, &v, nil), part, &v), st, false), Beside: beside(part, in.Lift(), st), Why: st.Speaker.Version(&v)}, nil
	})
	return drawn, err == nil
}

// lostChange is a change of a step that could not be kept, and what it was.
type lostChange struct{ Title, Was string }

// daysOf puts the steps of a lesson on the days on which its student practises them, from today
// on, beside all else that they have.
func (s *lessonbook) daysOf(c *echo.Context, v *lessonView, as *asked) error {
	given, err := s.Store.AssignmentsOf(c.Request().Context(), home(c).ID, as.Who.ID)
	if err != nil {
		return err
	}
	all, err := s.studyOf(c, as.Who, given, as.Lesson.ID, as)
	if err != nil {
		return err
	}
	at := all.lessonAt(as.Lesson.ID)
	for i := range v.Steps {
		v.Steps[i].Day = all.Week.Begins(at, i)
		v.Steps[i].Done = v.Steps[i].Day == 0
		if i < len(all.Been[at].State) {
			v.Steps[i].State = all.Been[at].State[i]
		}
		v.Days = max(v.Days, v.Steps[i].Day)
	}
	return nil
}
