package web

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"

	"github.com/labstack/echo/v5"

	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/play"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// handoutView is what is printed: one paper after the other.
type handoutView struct {
	Page
	Papers []paper
	Back   string // where it was asked for
	Paper  string // its size
	Add    string // where a code is asked for; empty where there is one, or nobody to have it
	What   string // for whom that is
}

// paper is a lesson on paper, for one student or for nobody in particular.
type paper struct {
	Name    string
	Student string
	Song    studio.Facts
	Target  float64
	Roadmap play.Roadmap
	Steps   []stepView
	Days    []string // a box for each
	Shapes  []paperShape
	Parts   []handoutPart
	Drills  []paperDrill
	QR      SafeHTML
	Caution string
	Trouble string // why it could not be made; empty where it could
}

type paperShape struct {
	Name, Silent string
	Drawing      SafeHTML
}

// paperDrill is what a hard place of a step is practised with.
type paperDrill struct {
	Step, For, How string
	Lines          []SafeHTML
}

// The measures of a paper: a line of tab, px, and how much of a lesson stands on it.
const (
	handoutWidth = 680
	weekOfSteps  = 8
	shapesOnIt   = 8
	drillsOnIt   = 3
	paperWidth   = 210 // of a shape
)

// week are the days for which there is a box.
var week = []string{"Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"}

// handout is the lesson on paper, for the student who gets it.
func (s *lessonbook) handout(c *echo.Context) error {
	a, err := s.askedLesson(c)
	if err != nil {
		return err
	}
	l, who := a.Lesson, a.Who
	done, err := s.doneOf(c, a)
	if err != nil {
		return err
	}
	p := s.paper(c, a.Taught, a.Look, l.Name, done)
	v := handoutView{Page: s.page(c, "Handout: "+l.Name, "songs"), Paper: home(c).Paper, Back: fmt.Sprintf("/lessons/%d?student=%d", l.ID, who.ID)}
	if who.ID > 0 {
		if p.QR, err = s.takeCode(c, who.ID); err != nil {
			return err
		}
		if p.QR == "" {
			v.Add, v.What = fmt.Sprintf("/lessons/%d/handout?student=%d", l.ID, who.ID), who.Name
		}
	}
	v.Papers = []paper{p}
	return c.Render(http.StatusOK, "handout", v)
}

// doneOf tells which steps of a lesson the student has for whom it is printed; nil where it
// was not given to them.
func (s *lessonbook) doneOf(c *echo.Context, a asked) ([]bool, error) {
	ctx, home := c.Request().Context(), home(c).ID
	given, err := s.Store.AssignmentsOf(ctx, home, a.Who.ID)
	if err != nil {
		return nil, err
	}
	for i := range given {
		if given[i].LessonID == a.Lesson.ID {
			rows, err := s.Store.StandingsOf(ctx, home, a.Who.ID)
			return studio.StandingsOf(rows).Done(a.Steps, &given[i]), err
		}
	}
	return nil, nil
}

// handoutsOfDay are the papers of all who come today, of each what they have.
// Where some assignments are asked for, they are the papers of those alone.
func (s *lessonbook) handoutsOfDay(c *echo.Context) error {
	ctx, home := c.Request().Context(), home(c)
	just := numbersIn(c.QueryParams()["given"])
	students, err := s.paperStudents(c, just)
	if err != nil {
		return err
	}
	ids := make([]int64, len(students))
	for i := range students {
		ids[i] = students[i].ID
	}
	given, err := s.Store.AssignmentsOf(ctx, home.ID, ids...)
	if err != nil {
		return err
	}
	v := handoutView{Page: s.page(c, "Handouts of today", "today"), Paper: home.Paper, Back: "/"}
	if len(just) > 0 {
		given = slices.DeleteFunc(given, func(a store.Assignment) bool { return !slices.Contains(just, a.ID) })
		v.Title = "Handouts"
		if len(given) > 0 {
			v.Back = fmt.Sprintf("/songs/%d/fit", given[0].SongID)
		}
	}
	of := byStudent(given)
	coded := false
	for _, st := range students {
		code, err := s.takeCode(c, st.ID)
		if err != nil {
			return err
		}
		coded = coded || code != ""
		standings, err := s.Store.StandingsOf(ctx, home.ID, st.ID)
		if err != nil {
			return err
		}
		for _, a := range of[st.ID] {
			look, err := s.lookUpGiven(c, a, st)
			if err != nil {
				return err
			}
			t, err := s.house.Teach(ctx, look)
			if err != nil { // the other papers are printed all the same
				v.Papers = append(v.Papers, paper{Name: a.Name, Student: st.Name, Trouble: sentence(badPlan(err).Error())})
				continue
			}
			p := s.paper(c, t, look, a.Name, studio.StandingsOf(standings).Done(t.Steps, &a))
			p.QR = code
			v.Papers = append(v.Papers, p)
		}
	}
	if len(v.Papers) > 0 && !coded {
		v.Add, v.What = papersOf(just), "all of them"
	}
	return c.Render(http.StatusOK, "handout", v)
}

// papersOf is where the papers of some assignments are, or those of the day.
func papersOf(just []int64) string {
	if len(just) == 0 {
		return "/handouts"
	}
	q := url.Values{}
	for _, id := range just {
		q.Add("given", fmt.Sprint(id))
	}
	return "/handouts?" + q.Encode()
}

// paperStudents are those whose papers are asked for: who has some assignments, or all who
// come today.
func (s *lessonbook) paperStudents(c *echo.Context, just []int64) ([]store.Student, error) {
	ctx, home := c.Request().Context(), home(c)
	if len(just) == 0 {
		return s.Store.StudentsOn(ctx, home.ID, s.Now().In(home.Zone()).Weekday())
	}
	all, err := s.Store.Students(ctx, home.ID)
	if err != nil {
		return nil, err
	}
	owners, err := s.Store.OwnersOf(ctx, home.ID, just...)
	return slices.DeleteFunc(all, func(st store.Student) bool { return !slices.Contains(owners, st.ID) }), err
}

// paper makes one paper: the steps that are next, their shapes, the tab of the parts. done
// tells which steps the student has; nil is none.
func (s *lessonbook) paper(c *echo.Context, t *studio.Taught, look studio.Lookup, name string, done []bool) paper {
	who, parts := look.Who, look.Parts
	p := paper{Name: name, Student: who.Name, Song: studio.FactsOf(t.Song), Target: t.Tempo, Roadmap: play.Plan(t.Song, t.Tempo), Days: week}
	var shapes []lesson.Held
	for i, one := range listed(c, t.Lesson, t.Steps) {
		if (done == nil || !done[i]) && len(p.Steps) < weekOfSteps {
			p.Steps = append(p.Steps, one)
			shapes = append(shapes, one.Shapes...)
			p.Drills = append(p.Drills, s.drillsOnPaper(c, t, one, studio.Player(&who), drillsOnIt-len(p.Drills))...)
		}
	}
	for i := range t.Song.Parts {
		shapes = append(shapes, t.Shapes(i)...)
	}
	p.Shapes = shapesOnPaper(c, t, shapes, studio.Player(&who))
	for _, part := range parts {
		if drawn, ok := s.drawPart(c, look, t.Song, part, handoutWidth); ok {
			p.Parts = append(p.Parts, drawn)
		}
	}
	p.Caution = caution(t)
	return p
}

// drillsOnPaper draws the drills of a step, as many as there is room for.
func (s *lessonbook) drillsOnPaper(c *echo.Context, t *studio.Taught, step stepView, p hand.Player, room int) (list []paperDrill) {
	drills := step.Drills
	for i := range drills[:min(len(drills), max(room, 0))] {
		d := &drills[i]
		e := &d.Exercises[0]
		one := paperDrill{Step: step.Title, For: speaker(c).Drill(d.Place.For), How: speaker(c).Exercise(e.How)}
		for _, part := range s.tabOf(c, d.Song(e, step.Title, step.Start), p, t.Fingers(step.Step), handoutWidth, 1) {
			one.Lines = append(one.Lines, part.Lines...)
		}
		list = append(list, one)
	}
	return list
}

// shapesOnPaper draws shapes, each once, as many as there is room for: those of the steps
// that are next come first.
func shapesOnPaper(c *echo.Context, t *studio.Taught, shapes []lesson.Held, p hand.Player) (list []paperShape) {
	seen := map[neck.Frets]bool{}
	shapes = slices.DeleteFunc(shapes, func(h lesson.Held) bool {
		had := seen[h.Frets]
		seen[h.Frets] = true
		return had
	})
	for _, v := range shapesOf(c, t, shapes[:min(len(shapes), shapesOnIt)], p, paperWidth) {
		drawing := v.Neck
		if home(c).Shapes == "upright" {
			drawing = v.shape.Upright()
		}
		list = append(list, paperShape{v.Name, v.Silent, drawing})
	}
	return list
}

// caution is the one that fits a lesson.
func caution(t *studio.Taught) string {
	for i := range t.Steps {
		for _, h := range t.Steps[i].Shapes {
			if _, strings := h.Fingering.Barre(); strings > 2 {
				return "Barres in short bouts, with rests. Stop at pain, tingling or numbness."
			}
		}
	}
	return "Stop at pain, tingling or numbness, and tell your teacher."
}

// paperLink is what a link on paper is called.
const paperLink = "printed handout"

// addCodes makes a link of its own for the paper of each student who is asked for, in the
// place of the one that the last paper had, and shows it this once.
func (s *lessonbook) addCodes(c *echo.Context) error {
	ctx, home := c.Request().Context(), home(c)
	students, err := s.Store.Students(ctx, home.ID)
	if err != nil {
		return err
	}
	just := numbersIn(c.QueryParams()["given"])
	to := papersOf(just)
	who := func(st store.Student) bool { return st.LessonDay == int(s.Now().In(home.Zone()).Weekday()) }
	if c.Param("lesson") != "" {
		l, _, err := s.lessonFrom(c)
		if err != nil {
			return err
		}
		one, err := s.madeFor(c, l)
		if err != nil {
			return err
		}
		to = fmt.Sprintf("/lessons/%d/handout?student=%d", l.ID, one.ID)
		who = func(st store.Student) bool { return st.ID == one.ID }
	}
	if len(just) > 0 {
		owners, err := s.Store.OwnersOf(ctx, home.ID, just...)
		if err != nil {
			return err
		}
		who = func(st store.Student) bool { return slices.Contains(owners, st.ID) }
	}
	for _, st := range students {
		if !who(st) {
			continue
		}
		links, err := s.Store.LinksOf(ctx, home.ID, st.ID)
		if err != nil {
			return err
		}
		for _, l := range links {
			if l.Name == paperLink {
				if err := s.Store.EndLink(ctx, home.ID, st.ID, l.ID); err != nil {
					return err
				}
			}
		}
		token, err := s.Store.AddLink(ctx, home.ID, st.ID, paperLink, store.At(s.Now()))
		if err != nil {
			return err
		}
		s.sessions.Put(ctx, codeOf(st.ID), token)
	}
	return see(c, "%s", to)
}

// codeOf is where a link for paper waits for the page that prints it.
func codeOf(student int64) string { return fmt.Sprintf("paper link %d", student) }

// takeCode draws the link for a student's paper that has just been made, once.
func (s *lessonbook) takeCode(c *echo.Context, student int64) (SafeHTML, error) {
	token := s.sessions.PopString(c.Request().Context(), codeOf(student))
	if token == "" {
		return "", nil
	}
	return draw.QR(s.address(c) + "/s/" + token)
}

// Date is the day of the paper.
func (v handoutView) Date() string { return v.Now.Format("2 January 2006") }
