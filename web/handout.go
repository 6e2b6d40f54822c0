package web

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

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
	Alone   []paperDrill // what is played in steps and stands in no part: a rhythm, the teacher's own bars
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
	shapesOnIt   = 6
	drillsOnIt   = 2
	aloneOnIt    = 2
	rowsOnIt     = 6 // of shapes, tab and drills
	shapesInRow  = 4
	stepsOnIt    = 14 // rows of the table, beyond which so many take the room of a line of tab
	stepsInRow   = 3
	paperWidth   = 180 // of a shape
)

// weekFrom are the names of the days of a week that begins today.
func (s *base) weekFrom(c *echo.Context) (days []string) {
	now := s.Now().In(zone(c))
	for i := range 7 {
		days = append(days, now.AddDate(0, 0, i).Format("Mon"))
	}
	return days
}

// handout is the lesson on paper, for the student who gets it.
func (s *lessonbook) handout(c *echo.Context) error {
	a, err := s.askedLesson(c)
	if err != nil {
		return err
	}
	l, who := a.Lesson, a.Who
	given, err := s.Store.AssignmentsOf(c.Request().Context(), home(c).ID, who.ID)
	if err != nil {
		return err
	}
	all, err := s.studyOf(c, who, given, l.ID, &a)
	if err != nil {
		return err
	}
	p := s.paper(c, &all, all.lessonAt(l.ID), l.Name)
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
	if c.QueryParam("student") != "" && len(students) == 1 {
		v.Title, v.Back = "Handouts of "+students[0].Name, fmt.Sprintf("/students/%d/hour", students[0].ID)
	}
	if len(just) > 0 {
		v.Title = "Handouts"
		if i := slices.IndexFunc(given, func(a store.Assignment) bool { return slices.Contains(just, a.ID) }); i >= 0 {
			v.Back = fmt.Sprintf("/songs/%d/fit", given[i].SongID)
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
		all, err := s.studyOf(c, st, of[st.ID], 0, nil)
		if err != nil {
			return err
		}
		for k, a := range all.Given {
			if len(just) > 0 && !slices.Contains(just, a.ID) {
				continue
			}
			if all.Taught[k] == nil { // the other papers are printed all the same
				v.Papers = append(v.Papers, paper{Name: a.Name, Student: st.Name, Trouble: sentence(badPlan(all.Errs[k]).Error())})
				continue
			}
			p := s.paper(c, &all, k, a.Name)
			p.QR = code
			v.Papers = append(v.Papers, p)
		}
	}
	if len(v.Papers) > 0 && !coded {
		v.Add, v.What = papersOf(c), "all of them"
	}
	return c.Render(http.StatusOK, "handout", v)
}

// papersOf is where the papers are that an address asks for: those of one student, of some
// assignments, or of the day.
func papersOf(c *echo.Context) string {
	q := url.Values{}
	for _, id := range numbersIn(c.QueryParams()["given"]) {
		q.Add("given", fmt.Sprint(id))
	}
	if id := c.QueryParam("student"); id != "" && len(q) == 0 {
		q.Set("student", id)
	}
	if len(q) == 0 {
		return "/handouts"
	}
	return "/handouts?" + q.Encode()
}

// paperStudents are those whose papers are asked for: who has some assignments, or all who
// come today.
func (s *lessonbook) paperStudents(c *echo.Context, just []int64) ([]store.Student, error) {
	ctx, home := c.Request().Context(), home(c)
	if n, err := strconv.ParseInt(c.QueryParam("student"), 10, 64); err == nil && len(just) == 0 {
		st, err := s.Store.Student(ctx, home.ID, n)
		return []store.Student{st}, err
	}
	if len(just) == 0 {
		return s.studentsToday(c)
	}
	all, err := s.Store.Students(ctx, home.ID)
	if err != nil {
		return nil, err
	}
	owners, err := s.Store.OwnersOf(ctx, home.ID, just...)
	return slices.DeleteFunc(all, func(st store.Student) bool { return !slices.Contains(owners, st.ID) }), err
}

// paper makes one paper of all that a student has: the steps of this week on their days, their
// shapes, the tab of the parts.
func (s *lessonbook) paper(c *echo.Context, all *study, at int, name string) paper {
	t, look := all.Taught[at], all.Looks[at]
	who, parts := look.Who, look.Parts
	p := paper{Name: name, Student: who.Name, Song: studio.FactsOf(t.Song), Target: t.Tempo, Roadmap: play.Plan(t.Song, t.Tempo), Days: s.weekFrom(c)}
	var shapes []lesson.Held
	var steps []int
	list := listed(c, t.Lesson, t.Steps)
	for _, w := range all.Week.Of(at, len(p.Days)) {
		steps = append(steps, w.Step)
		one := list[w.Step]
		if one.On = w.On; w.Review { // as it is learnt, and no more of it than a look
			is := *one.Step
			is.Start, is.Minutes = is.Goal, w.Minutes
			one.Step, one.Tempos, one.Review = &is, speaker(c).Tempos(&is), true
		}
		p.Steps = append(p.Steps, one)
		shapes = append(shapes, one.Shapes...)
		p.Drills = append(p.Drills, s.drillsOnPaper(c, t, one, studio.Player(&who), drillsOnIt-len(p.Drills))...)
		if drawn, ok := s.alone(c, t, one, studio.Player(&who)); ok && len(p.Alone) < aloneOnIt {
			p.Alone = append(p.Alone, drawn)
		}
	}
	played := partsOf(t, steps)
	for i := range t.Song.Parts {
		if played(i) {
			shapes = append(shapes, t.Shapes(i)...)
		}
	}
	if known := studio.Learner(&who).Known; who.ID > 0 { // what the student has needs no drawing
		shapes = slices.DeleteFunc(shapes, func(h lesson.Held) bool { return known.Has(h.Frets) })
	}
	p.Shapes = shapesOnPaper(c, t, shapes, studio.Player(&who))
	for _, part := range parts {
		if i, ok := t.Song.PartWith(part.PartID); ok && !played(i) {
			continue // its week comes
		}
		if drawn, ok := s.drawPart(c, look, t.Song, part, handoutWidth); ok {
			p.Parts = append(p.Parts, drawn)
		}
	}
	p.Caution = caution(t)
	p.keepRoom()
	return p
}

// keepRoom leaves of what stands in no part, and of the drills, what two pages have room for
// beside the rest; one of them has always.
func (p *paper) keepRoom() {
	rows := len(p.Steps)
	for i := range p.Steps {
		if p.Steps[i].Words != "" {
			rows++
		}
	}
	room := rowsOnIt - (len(p.Shapes)+shapesInRow-1)/shapesInRow - max(rows-stepsOnIt, 0)/stepsInRow
	for i := range p.Parts {
		room -= len(p.Parts[i].Lines)
	}
	room = max(room, 1)
	p.Alone = p.Alone[:min(len(p.Alone), room)]
	p.Drills = p.Drills[:min(len(p.Drills), room-len(p.Alone))]
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

// alone draws what is played in a step where the tab of no part has it: a rhythm, and bars of the
// teacher's own.
func (s *lessonbook) alone(c *echo.Context, t *studio.Taught, step stepView, p hand.Player) (one paperDrill, ok bool) {
	if step.Kind != lesson.Rhythm && step.Kind != lesson.ByTeacher {
		return one, false
	}
	music := t.Music(step.Step)
	if music == nil {
		return one, false
	}
	one = paperDrill{Step: step.Title, How: strings.TrimSuffix(step.Way, ".")}
	for _, part := range s.stepTab(c, t, step.Step, music, p, handoutWidth, false) {
		one.Lines = append(one.Lines, part.Lines...)
	}
	return one, true
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

// partsOf tells which parts are played in some of the steps of a lesson: all in a form, and where
// no part is played in any.
func partsOf(t *studio.Taught, steps []int) func(part int) bool {
	in := map[int]bool{}
	all := true
	for _, i := range steps {
		s := &t.Steps[i]
		if s.Kind == lesson.Form && s.Part < 0 {
			all = true
			break
		}
		for _, part := range []int{s.Part, s.Into} {
			if part >= 0 {
				in[part], all = true, false
			}
		}
	}
	return func(part int) bool { return all || in[part] }
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
	var students []store.Student
	to := papersOf(c)
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
		if one.ID > 0 { // nobody in particular has no page
			students = append(students, one)
		}
	} else {
		var err error
		if students, err = s.paperStudents(c, numbersIn(c.QueryParams()["given"])); err != nil {
			return err
		}
	}
	for _, st := range students {
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
