package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/lesson"
	"valleyside/core/progress"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
)

// practiceView is the student's own page.
type practiceView struct {
	Page
	Student store.Student
	Token   string
	Today   []practiceStep
	More    []practiceStep // of tomorrow, for who has practised today and likes more
	Minutes int            // of today's steps
	Spent   int            // minutes that were practised today
	Songs   []practiceSong
	Words   []store.Word // to the teacher, with the answers
	Recent  []studentEntry
	Logged  bool
	Keep    []string // what the device keeps for when there is no connection
}

// practiceSong is a song that the student has, with all its parts.
type practiceSong struct {
	ID      int64 // of the assignment
	Name    string
	Facts   studio.Facts
	Road    string
	Parts   []practicePart
	At, Of  int // the step that is next, and how many there are
	Next    []string
	Learnt  []string // parts that are
	Trouble string   // why its steps could not be made; empty where they could
}

// practicePart is a part to practise, with its tab and its log.
type practicePart struct {
	handoutPart
	logForm
	Look   progress.Look
	Shapes []shapeView
}

// practiceStep is one step of today.
type practiceStep struct {
	stepPane
	logForm
	Lesson string
	Order  int  // of the day
	Again  bool // it was begun on another day
	Review bool // it is learnt, and looked at again
	Wanted bool // by the teacher, before the rest
}

// Keys are those that work its player: it has them all where it is open.
func (s *practiceStep) Keys() string {
	if s.Open {
		return "all"
	}
	return ""
}

// logForm is what is logged of something, and where its music comes from.
type logForm struct {
	ID         int // on the page
	Token      string
	Student    int64
	Assignment int64
	PartID     song.PartID
	Part       string // as it is called
	LogRung    arrange.Rung
	Step       string
	Start      float64 // tempo that the log begins with
	Goal       float64
	Music      string
	Base       string // of Music, less what is asked for
	Open       bool
	Minutes    int // that the log begins with
}

// Chips are the minutes that are offered: those that it begins with among usual ones.
func (l *logForm) Chips() []int {
	list := []int{5, 10, 15, 20, 30}
	if slices.Contains(list, l.Minutes) {
		return list
	}
	nearest := 0
	for i, n := range list {
		if abs(n-l.Minutes) < abs(list[nearest]-l.Minutes) {
			nearest = i
		}
	}
	list[nearest] = l.Minutes
	return list
}

func abs(n int) int { return max(n, -n) }

// usualLog is how many minutes the log of a part begins with.
const usualLog = 10

// practiceWidth is the width of a line of tab on a phone, px.
const practiceWidth = 352

// smallShape is the width of a shape among others, px.
const smallShape = 160

// todaysSteps is how many steps are shown for one day at most, of all songs.
const todaysSteps = 6

func (s *ownPage) practicePage(c *echo.Context) error {
	st := c.Get(studentKey).(store.Student)
	ctx := c.Request().Context()
	assignments, err := s.Store.AssignmentsOf(ctx, st.StudioID, st.ID)
	if err != nil {
		return err
	}
	const recent = 5
	entries, err := s.Store.EntriesOf(ctx, st.StudioID, st.ID, recent, 0)
	if err != nil {
		return err
	}
	all, err := s.studyOf(c, st, assignments, 0, nil)
	if err != nil {
		return err
	}
	v := practiceView{Page: s.page(c, "Practice", ""), Student: st, Token: c.Param("token"), Logged: c.QueryParam("logged") != "", Spent: all.Spent}
	sums, err := s.Store.Sums(ctx, st.StudioID, st.ID)
	if err != nil {
		return err
	}
	names := map[int64]string{}
	for k, a := range assignments {
		names[a.ID] = a.Name
		p := practised{base: s.base, c: c, view: &v, a: a, sum: sums[a.ID], all: &all, at: k}
		if err := p.show(); err != nil {
			return err
		}
	}
	v.inOrder()
	const words = 3
	if v.Words, err = s.Store.WordsOf(ctx, st.StudioID, st.ID, words); err != nil {
		return err
	}
	for _, e := range entries {
		v.Recent = append(v.Recent, studentEntry{e, names[e.AssignmentID], entryWords(e), speaker(c).StepNamed(e.Step)})
	}
	return c.Render(http.StatusOK, "practice", v)
}

// practised puts one assignment on the student's page.
type practised struct {
	*base
	c    *echo.Context
	view *practiceView
	a    store.Assignment
	sum  store.AssignmentSum
	all  *study
	at   int // among all that the student has
}

// show shows today's steps of an assignment, and its parts.
func (p *practised) show() error {
	v, a, c := p.view, p.a, p.c
	st := v.Student
	look, t, done, stands := p.all.Looks[p.at], p.all.Taught[p.at], p.all.Been[p.at].Done, p.all.Stands
	own := practiceSong{ID: a.ID, Name: a.Name}
	failed := func(err error) error {
		var bad *studio.BadPlan
		if _, trouble := studio.IsTrouble(err); !trouble && !errors.As(err, &bad) {
			return err
		}
		v.Songs = append(v.Songs, practiceSong{ID: a.ID, Name: a.Name, Trouble: "This song cannot be shown just now. Your teacher can see why; the others are here."})
		return nil
	}
	if t == nil {
		return failed(p.all.Errs[p.at])
	}
	own.Facts, own.Road, own.Of = studio.FactsOf(t.Song), roadmapWords(t.Song), len(t.Steps)
	music := fmt.Sprintf("/s/%s/music/%d?v=%s&what=", v.Token, a.ID, soundMark(look))
	own.At = slices.Index(done, false) + 1
	listed := listed(c, t.Lesson, t.Steps)
	width := drawnTo(c, practiceWidth, 38)
	shown := []int{}
	rested := p.all.Been[p.at].Rested
	day := func(slots []studio.Planned, list *[]practiceStep) error {
		for order, slot := range slots {
			if slot.Lesson != p.at || order >= todaysSteps || slices.Contains(shown, slot.Step) {
				continue
			}
			if slot.Again && done[slot.Step] && rested[slot.Step] == 0 {
				continue // it was done today
			}
			one, err := p.step(t, listed[slot.Step], slot, music, width)
			if err != nil {
				return err
			}
			one.Order = order
			shown, *list = append(shown, slot.Step), append(*list, one)
		}
		return nil
	}
	if err := day(p.all.Week.Day(0), &v.Today); err != nil {
		return failed(err)
	}
	if v.Spent > 0 {
		if err := day(p.all.Week.Day(1), &v.More); err != nil {
			return failed(err)
		}
	}
	const ahead = 2
	for i := range t.Steps {
		if !done[i] && !slices.Contains(shown, i) && len(own.Next) < ahead {
			own.Next = append(own.Next, listed[i].Title)
		}
	}
	l := p.lessonProgress(c, a, p.sum, stands)
	for i, part := range a.Parts {
		drawn, ok := p.drawPart(c, look, t.Song, part, width)
		if !ok {
			continue
		}
		one := practicePart{handoutPart: drawn, Look: l.Parts[i].Look, logForm: p.form(heard{Part: part.PartID}, music)}
		one.PartID, one.Part, one.LogRung, one.Start, one.Goal = part.PartID, part.Part, part.Rung, math.Round(l.Parts[i].Tempo), drawn.Tempo
		if at, ok := t.Song.PartWith(part.PartID); ok {
			one.Shapes = shapesOf(c, t, t.Shapes(at), studio.Player(&st), smallShape)
		}
		one.Open = len(p.all.Week.Day(0)) == 0 && len(v.Songs) == 0 && len(own.Parts) == 0
		if state := l.Parts[i].State; state == progress.Learnt || state == progress.Due {
			own.Learnt = append(own.Learnt, part.Part)
		}
		own.Parts = append(own.Parts, one)
	}
	v.Songs = append(v.Songs, own)
	return nil
}

// step is a step of a day.
func (p *practised) step(t *studio.Taught, view stepView, slot studio.Planned, music string, width float64) (practiceStep, error) {
	v, step := p.view, &t.Steps[slot.Step]
	pane, err := p.pane(p.c, t, view, studio.Player(&v.Student), width)
	if err != nil {
		return practiceStep{}, err
	}
	one := practiceStep{stepPane: pane, Lesson: p.a.Name, Again: slot.Again, Review: slot.Review, Wanted: p.all.Been[p.at].Wanted[step.ID], logForm: p.form(heard{Step: step.ID}, music)}
	part := p.partOf(t, step)
	one.PartID, one.logForm.Part, one.LogRung, one.Step = part.PartID, part.Part, part.Rung, step.ID.String()
	one.logForm.Start, one.logForm.Goal = math.Round(step.Next(p.all.Stands.StepProgress(&p.a, step.ID))), step.Goal
	if slot.Review {
		one.logForm.Start = step.Goal
	}
	one.logForm.Minutes = slot.Minutes
	for _, d := range one.Drills {
		for _, e := range d.Exercises {
			v.Keep = append(v.Keep, music+url.QueryEscape(e.What))
		}
	}
	return one, nil
}

// inOrder puts today's steps of all songs in the order in which they are practised.
func (v *practiceView) inOrder() {
	for _, list := range [][]practiceStep{v.Today, v.More} {
		slices.SortStableFunc(list, func(a, b practiceStep) int { return a.Order - b.Order })
	}
	for i := range v.Today {
		v.Minutes += v.Today[i].logForm.Minutes
	}
	for i := range v.Today {
		v.Today[i].Open = i == 0
	}
}

// form is the log of something that is played, by what its music is asked for.
func (p *practised) form(what heard, music string) logForm {
	v := p.view
	address := music + url.QueryEscape(what.String())
	v.Keep = append(v.Keep, address)
	return logForm{Minutes: usualLog, ID: len(v.Keep), Token: v.Token, Student: v.Student.ID, Assignment: p.a.ID, Music: address, Base: music}
}

// partOf is the part to which practice of a step is logged.
func (p *practised) partOf(t *studio.Taught, step *lesson.Step) store.Part {
	id := step.ID.Part
	if step.Part >= 0 {
		id = t.Song.PartID(step.Part)
	}
	return studio.LoggedTo(id, p.a.Parts)
}

// logPractice logs one stretch of practice. A script that keeps entries until they
// are logged is answered with the id that it gave, whether the entry is logged
// or refused for good; anything else means that it has to be sent again.
func (s *ownPage) logPractice(c *echo.Context) error {
	st := c.Get(studentKey).(store.Student)
	if err := s.limits.logs.check(c, fmt.Sprint(st.ID), "That is more than one can practise."); err != nil {
		return err
	}
	e, err := s.entryFrom(c)
	if err == nil {
		err = s.Store.AddEntry(c.Request().Context(), e)
	}
	sent := field(c, "sent", 64)
	var p *problem
	final := errors.As(err, &p) && p.status == http.StatusUnprocessableEntity || errors.Is(err, store.ErrNotFound)
	switch asked := c.Request().Header.Get("Accept") == "application/json"; {
	case err == nil && asked:
		return c.JSON(http.StatusOK, map[string]string{"id": sent, "logged": entryWords(e)})
	case final && asked:
		message := "This lesson is not there any more."
		if p != nil {
			message = p.message
		}
		return c.JSON(http.StatusUnprocessableEntity, map[string]string{"refused": sent, "error": message})
	case err != nil:
		return err
	}
	return see(c, "/s/%s?logged=1", c.Param("token"))
}

// sayWord keeps a short word to the teacher.
func (s *ownPage) sayWord(c *echo.Context) error {
	st := c.Get(studentKey).(store.Student)
	if err := s.limits.logs.check(c, fmt.Sprint(st.ID), "That is more than one can say."); err != nil {
		return err
	}
	word := field(c, "word", studio.MostWord)
	if word == "" {
		return wrong("Write a word to your teacher first.")
	}
	w := store.Word{StudioID: st.StudioID, StudentID: st.ID, Word: word, SaidAt: store.At(s.Now()), SentID: cmp.Or(field(c, "sent", 64), requestID(c)), Wish: c.FormValue("wish") != ""}
	ctx := c.Request().Context()
	if w.Wish {
		var err error
		if w.SongID, err = s.Store.SongTitled(ctx, st.StudioID, word); err != nil {
			return err
		}
	}
	if err := s.Store.AddWord(ctx, w); err != nil {
		return err
	}
	return see(c, "/s/%s#words", c.Param("token"))
}

// longestAge is how long practice may have waited to be sent.
const longestAge = 90 * 24 * time.Hour

// practisedAt is when something was practised that was written down so many
// seconds before it was sent, by the sender's clock, whatever that clock shows.
func practisedAt(age string, now time.Time) store.Instant {
	seconds, err := strconv.ParseFloat(age, 64)
	if err != nil || math.IsNaN(seconds) {
		seconds = 0
	}
	return store.At(now.Add(-time.Duration(min(max(seconds, 0), longestAge.Seconds()) * float64(time.Second))))
}

// entryFrom reads the entry of a form.
func (s *ownPage) entryFrom(c *echo.Context) (store.Entry, error) {
	st := c.Get(studentKey).(store.Student)
	n, err := strconv.ParseInt(c.FormValue("assignment"), 10, 64)
	if err != nil {
		return store.Entry{}, store.ErrNotFound
	}
	a, err := s.Store.Assignment(c.Request().Context(), st.StudioID, st.ID, n)
	if err != nil {
		return store.Entry{}, err
	}
	e := store.Entry{StudioID: st.StudioID, StudentID: st.ID, AssignmentID: a.ID, Word: field(c, "word", studio.MostWord),
		PractisedAt: practisedAt(c.FormValue("age"), s.Now()), SentID: field(c, "sent", 64)}
	if err := s.practisedOf(c, &a, &e); err != nil {
		return e, err
	}
	if err := practisedSo(c, &e); err != nil {
		return e, err
	}
	if e.SentID == "" {
		e.SentID = requestID(c)
	}
	return e, nil
}

// practisedOf reads what was practised of an assignment: the part and the step, by what they
// are known by. What a phone has kept from before the part got another name, or left the
// lesson, finds its way all the same: it was practised.
func (s *ownPage) practisedOf(c *echo.Context, a *store.Assignment, e *store.Entry) error {
	e.PartID, e.Part = partOf(c.FormValue("of")), field(c, "part", 200)
	if e.PartID == 0 { // of a page of an older program, which names it
		for _, p := range a.Parts {
			if p.Part == e.Part {
				e.PartID = p.PartID
			}
		}
	}
	names, err := s.Store.PartNames(c.Request().Context(), a.StudioID, a.SongID)
	if err != nil {
		return err
	}
	if e.PartID == 0 { // it is called something else now
		if e.PartID, err = s.Store.PartCalled(c.Request().Context(), a.StudioID, a.SongID, e.Part); err != nil {
			return err
		}
	}
	name, ok := names[e.PartID]
	if !ok {
		return wrong("This part was never in the song. Load the page again.")
	}
	e.Part = cmp.Or(e.Part, name)
	if e.Rung = arrange.Rung(c.FormValue("rung")); !e.Rung.Valid() {
		e.Rung = studio.LoggedTo(e.PartID, a.Parts).Rung
	}
	step := c.FormValue("step")
	id, err := lesson.ParseStepID(step)
	if err != nil {
		ids, err := s.Store.SongParts(c.Request().Context(), a.StudioID, a.SongID, a.SongSave)
		if err != nil {
			return err
		}
		if id, ok = lesson.OldStepID(step, s.house.Read(a.StudioID, a.Sheet, ids)); !ok {
			e.Some = true // nobody knows of what, but not of the whole
		}
	}
	if id.Kind != lesson.Form {
		studio.SetStep(e, id, nil, nil)
		return nil
	}
	ids, err := s.Store.SongParts(c.Request().Context(), a.StudioID, a.SongID, a.SongSave)
	if err == nil {
		studio.SetStep(e, id, s.house.Read(a.StudioID, a.Sheet, ids), a.Parts)
	}
	return err
}

// practisedSo reads how something was practised: tempo, clean passes, minutes.
func practisedSo(c *echo.Context, e *store.Entry) error {
	var errs [3]error
	var clean, minutes float64
	e.Tempo, errs[0] = number(c, "tempo", "The tempo", sheet.MinTempo, sheet.MaxTempo)
	clean, errs[1] = number(c, "clean", "Clean passes", 0, studio.MostClean)
	minutes, errs[2] = number(c, "minutes", "The minutes", 0, studio.MostMinutes)
	e.Clean, e.Minutes = int(clean), int(minutes)
	return cmp.Or(errs[0], errs[1], errs[2])
}

// logView is all that a student has logged, by week.
type logView struct {
	Page
	Student store.Student
	Token   string
	Weeks   []logWeek
}

type logWeek struct {
	Title   string
	Minutes int
	Entries []studentEntry
}

// mostLogged is how much of the log is shown.
const mostLogged = 400

// practiceLog shows what a student has logged, and lets it be mended.
func (s *ownPage) practiceLog(c *echo.Context) error {
	st := c.Get(studentKey).(store.Student)
	ctx := c.Request().Context()
	entries, err := s.Store.EntriesOf(ctx, st.StudioID, st.ID, mostLogged, 0)
	if err != nil {
		return err
	}
	assignments, err := s.Store.ListedAssignments(ctx, st.StudioID, st.ID)
	if err != nil {
		return err
	}
	names := map[int64]string{}
	for _, a := range assignments {
		names[a.ID] = a.Name
	}
	v := logView{Page: s.page(c, "What you logged", ""), Student: st, Token: c.Param("token")}
	for _, e := range entries {
		day := e.PractisedAt.Time().In(zone(c))
		monday := day.AddDate(0, 0, -(int(day.Weekday())+6)%7)
		title := "Week of " + monday.Format("2 January 2006")
		if n := len(v.Weeks); n == 0 || v.Weeks[n-1].Title != title {
			v.Weeks = append(v.Weeks, logWeek{Title: title})
		}
		w := &v.Weeks[len(v.Weeks)-1]
		w.Minutes += e.Minutes
		w.Entries = append(w.Entries, studentEntry{e, cmp.Or(names[e.AssignmentID], "an earlier song"), entryWords(e), speaker(c).StepNamed(e.Step)})
	}
	return c.Render(http.StatusOK, "practice-log", v)
}

// mendEntry changes an entry of the student's own, or takes it back.
func (s *ownPage) mendEntry(c *echo.Context) error {
	st := c.Get(studentKey).(store.Student)
	n, err := id(c, "entry")
	if err != nil {
		return err
	}
	ctx := c.Request().Context()
	if c.FormValue("action") == "back" {
		_, err := s.Store.Undoable(ctx, st.StudioID, store.At(s.Now()), func(ctx context.Context) (string, error) {
			return fmt.Sprintf("%s took back an entry of practice.", st.Name), s.Store.DeleteEntry(ctx, st.StudioID, st.ID, n)
		})
		if err != nil {
			return err
		}
		return see(c, "/s/%s/log", c.Param("token"))
	}
	e, err := s.Store.EntryOf(ctx, st.StudioID, st.ID, n)
	if err != nil {
		return err
	}
	if err := practisedSo(c, &e); err != nil {
		return err
	}
	e.Word = field(c, "word", studio.MostWord)
	if err := s.Store.SetEntry(ctx, e); err != nil {
		return err
	}
	return see(c, "/s/%s/log", c.Param("token"))
}
