package web

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/lesson"
	"valleyside/core/progress"
	"valleyside/core/schedule"
	"valleyside/store"
	"valleyside/studio"
)

// hourView is a lesson hour of one student.
type hourView struct {
	Page
	Student   store.Student
	When      string
	Minutes   int
	Lengths   []int
	Last      *pastHour // the notes of last time
	Words     []store.Word
	Today     []hourStep // as the student sees it
	Spent     int        // minutes that they have practised today
	SinceDay  time.Time
	Days      int // since, on which they practised
	Since     []sinceLine
	Items     []hourItem
	Out       []string
	Home      []homeStep
	Chosen    bool // what is taken home is
	Note      string
	Coming    *nextComing // today
	Told      string
	Something bool // the student has something to practise
}

// pastHour is what was done in an hour before.
type pastHour struct {
	Day  time.Time
	Note string
	Left []string // what there was no time for
}

// hourStep is a step as the student sees it today.
type hourStep struct {
	Title, Lesson string
	Minutes       int
	Review        bool
}

// sinceLine is what was practised of a part since the last hour.
type sinceLine struct {
	Lesson, Part string
	Minutes      int
	partProgress
}

// hourItem is something that is done in an hour.
type hourItem struct {
	store.HourItem
	Number int
	Label  string
	At     string // when it begins, by the clock or in minutes
	Lesson string
	Link   string
	Logs   bool // an entry can be logged of it
	Tempo  float64
	Logged string // what was logged of it today
}

// homeStep is a step that can be taken home.
type homeStep struct {
	Value, Title, Tempos, Lesson string
	Chosen                       bool
}

// How much an hour shows and offers.
const (
	mostSince  = 300 // entries since the last hour
	offersHome = 6
	takesHome  = 3
)

// hourly is all that an hour of a student is made of.
type hourly struct {
	*roster
	c       *echo.Context
	student store.Student
	now     time.Time
	today   int
	all     study
	hour    store.Hour    // of today; without items where it is not begun
	before  []store.Hour  // the newest first
	since   []store.Entry // practised since the last hour, the newest first
	logged  []store.Entry // in this hour
	parts   []studio.HourPart
	comings []studio.Coming // of today
}

func (s *roster) hourOf(c *echo.Context) (*hourly, error) {
	st, err := s.studentFrom(c)
	if err != nil {
		return nil, err
	}
	ctx, at := c.Request().Context(), home(c)
	h := &hourly{roster: s, c: c, student: st, now: s.Now().In(at.Zone())}
	h.today = progress.DayOf(h.now)
	given, err := s.Store.AssignmentsOf(ctx, at.ID, st.ID)
	if err != nil {
		return nil, err
	}
	if h.all, err = s.studyOf(c, st, given, 0, nil); err != nil {
		return nil, err
	}
	if h.comings, err = s.house.ComingOn(ctx, at.ID, h.today); err != nil {
		return nil, err
	}
	const before = 4
	if h.before, err = s.Store.HoursOf(ctx, at.ID, st.ID, before); err != nil {
		return nil, err
	}
	if len(h.before) > 0 && h.before[0].Day == h.today {
		h.hour, h.before = h.before[0], h.before[1:]
	}
	if h.since, err = s.Store.EntriesSince(ctx, at.ID, st.ID, store.At(h.sinceDay()), mostSince); err != nil {
		return nil, err
	}
	for _, e := range h.since {
		if h.isLesson(&e) {
			h.logged = append(h.logged, e)
		}
	}
	h.since = slices.DeleteFunc(h.since, func(e store.Entry) bool { return h.isLesson(&e) })
	h.parts = studio.HourParts(h.all.Given, h.all.Taught, h.all.Been, h.all.Stands, studio.SinceOf(h.since), h.now)
	return h, nil
}

// isLesson tells whether an entry was logged in this hour.
func (h *hourly) isLesson(e *store.Entry) bool {
	return e.Word == inLesson && h.day(e) == h.today
}

// day is the day of an entry.
func (h *hourly) day(e *store.Entry) int {
	return progress.DayOf(e.PractisedAt.Time().In(h.now.Location()))
}

// sinceDay is the day after the last hour, or a week ago.
func (h *hourly) sinceDay() time.Time {
	day := h.today - 7
	if len(h.before) > 0 {
		day = h.before[0].Day + 1
	}
	return progress.BeginOf(day, h.now.Location())
}

// planned are the items of an hour of so many minutes, and what is left out of it, with the
// reason.
func (h *hourly) planned(minutes int) (items []store.HourItem, out []string) {
	sp := speaker(h.c)
	list, left := studio.PlanHour(h.parts, minutes)
	for _, s := range list {
		it := store.HourItem{Kind: s.Kind, Minutes: s.Minutes, Title: map[schedule.Kind]string{schedule.Arrive: "Tune and talk", schedule.Work: "A first song", schedule.Home: "What is practised next"}[s.Kind]}
		var heard schedule.Heard
		var says []string
		if s.Part != schedule.None {
			p := &h.parts[s.Part]
			heard, it.AssignmentID, it.PartID, it.Title = p.Heard, h.all.Given[p.Lesson].ID, p.Part.PartID, p.Part.Part
			if t := h.all.Taught[p.Lesson]; t != nil && p.Step >= 0 && s.Kind == schedule.Work {
				step := &t.Steps[p.Step]
				it.Step, it.Title, says = step.ID.String(), sp.StepTitle(t.Song, step), sp.Step(step)
			}
		}
		if it.Why = sp.Hour(s.Kind, heard); len(says) > 0 {
			it.Why = says[0]
		}
		items = append(items, it)
	}
	for _, o := range left {
		p := &h.parts[o.Part]
		out = append(out, fmt.Sprintf("%s, %s: %s", h.all.Given[p.Lesson].Name, p.Part.Part, sp.LeftOut(o.Why, p.Look)))
	}
	return items, out
}

func (s *roster) hourPage(c *echo.Context) error {
	h, err := s.hourOf(c)
	if err != nil {
		return err
	}
	v, err := h.view("")
	if err != nil {
		return err
	}
	return c.Render(http.StatusOK, "hour", v)
}

// minutes are those of an hour that is begun, else of the student's lesson of today.
func (h *hourly) minutes() int {
	sum := 0
	for _, it := range h.hour.Items {
		sum += it.Minutes
	}
	if mine := h.mine(); mine != nil {
		return cmp.Or(sum, mine.Minutes)
	}
	return cmp.Or(sum, studio.UsualHour)
}

// view is the page of an hour.
func (h *hourly) view(told string) (v hourView, err error) {
	ctx, at, st := h.c.Request().Context(), home(h.c), h.student
	v = hourView{Page: h.page(h.c, "Lesson with "+st.Name, "students"), Student: st, When: when(st), Minutes: h.minutes(), Lengths: studio.HourLengths,
		Spent: h.all.Spent, SinceDay: h.sinceDay(), Note: h.hour.Note, Told: told, Something: len(h.all.Given) > 0}
	if len(h.before) > 0 {
		last := &h.before[0]
		v.Last = &pastHour{Day: studio.Day(last, h.now.Location()), Note: last.Note}
		for _, it := range last.Items {
			if !it.Done && it.Kind != schedule.Arrive && it.Kind != schedule.Home {
				v.Last.Left = append(v.Last.Left, it.Title)
			}
		}
	}
	const words = 5
	said, err := h.Store.WordsOf(ctx, at.ID, st.ID, words)
	if err != nil {
		return v, err
	}
	v.Words = slices.DeleteFunc(said, func(w store.Word) bool { return w.AnsweredAt != 0 || w.Wish })
	items := h.hour.Items
	planned, out := h.planned(v.Minutes)
	if v.Out = out; len(items) == 0 {
		items = planned
	}
	v.Items = h.shown(items)
	h.showPractice(&v)
	if err := h.showHome(ctx, &v); err != nil {
		return v, err
	}
	v.Coming = h.coming()
	return v, nil
}

// shown makes the items of an hour ready to be shown.
func (h *hourly) shown(items []store.HourItem) (list []hourItem) {
	at := 0
	mine := h.mine()
	logged := map[[2]int64]string{}
	for _, e := range slices.Backward(h.logged) {
		logged[[2]int64{e.AssignmentID, int64(e.PartID)}] = entryWords(e)
	}
	for i, it := range items {
		one := hourItem{HourItem: it, Number: i + 1, Label: speaker(h.c).HourKind(it.Kind), At: fmt.Sprintf("%d′", at)}
		if mine != nil && mine.At >= 0 {
			one.At = studio.Clock(mine.At + at)
		}
		at += it.Minutes
		if k := h.given(it.AssignmentID); k >= 0 {
			a := &h.all.Given[k]
			one.Lesson, one.Link = a.Name, fmt.Sprintf("/lessons/%d?student=%d", a.LessonID, h.student.ID)
			step := it.Step
			for _, p := range h.parts {
				if p.Lesson == k && p.Part.PartID == it.PartID {
					one.Logs, one.Tempo = true, math.Round(p.Tempo)
					if step == "" && p.Step >= 0 {
						step = h.all.Taught[k].Steps[p.Step].ID.String()
					}
				}
			}
			if step != "" {
				one.Link += "&step=" + step
			}
			if t := h.all.Taught[k]; t != nil && it.Step != "" {
				if i := slices.IndexFunc(t.Steps, func(s lesson.Step) bool { return s.ID.String() == it.Step }); i >= 0 {
					one.Tempo = math.Round(t.Steps[i].Next(h.all.Stands.StepProgress(a, t.Steps[i].ID)))
				}
			}
			one.Logged = logged[[2]int64{a.ID, int64(it.PartID)}]
		}
		list = append(list, one)
	}
	return list
}

// given is where an assignment is among what the student has; −1 where it is not.
func (h *hourly) given(id int64) int {
	return slices.IndexFunc(h.all.Given, func(a store.Assignment) bool { return a.ID == id && id != 0 })
}

// showPractice shows what the student practises today, and what they have since the last hour.
func (h *hourly) showPractice(v *hourView) {
	for _, p := range h.all.Week.Day(0) {
		t := h.all.Taught[p.Lesson]
		v.Today = append(v.Today, hourStep{speaker(h.c).StepTitle(t.Song, &t.Steps[p.Step]), h.all.Given[p.Lesson].Name, p.Minutes, p.Review})
	}
	days := map[int]bool{}
	for _, e := range h.since {
		days[h.day(&e)] = true
	}
	v.Days = len(days)
	for _, p := range h.parts {
		if p.Minutes > 0 {
			v.Since = append(v.Since, sinceLine{h.all.Given[p.Lesson].Name, p.Part.Part, p.Minutes, partProgress{Look: p.Look, Target: p.Part.Target}})
		}
	}
	slices.SortStableFunc(v.Since, func(a, b sinceLine) int { return b.Minutes - a.Minutes })
}

// showHome shows what can be taken home: what is chosen, else the first of the week.
func (h *hourly) showHome(ctx context.Context, v *hourView) error {
	tasks, err := h.Store.TasksOf(ctx, home(h.c).ID, h.student.ID)
	if err != nil {
		return err
	}
	chosen := map[string]bool{}
	for _, t := range tasks {
		chosen[homeValue(t.AssignmentID, t.Step)] = true
	}
	offered := h.all.Week.ForHome(offersHome)
	for _, p := range offered { // what was chosen is first in the week, until it is done
		id := h.all.Taught[p.Lesson].Steps[p.Step].ID.String()
		v.Chosen = v.Chosen || chosen[homeValue(h.all.Given[p.Lesson].ID, id)]
	}
	for i, p := range offered {
		t, a := h.all.Taught[p.Lesson], &h.all.Given[p.Lesson]
		value := homeValue(a.ID, t.Steps[p.Step].ID.String())
		v.Home = append(v.Home, homeStep{value, speaker(h.c).StepTitle(t.Song, &t.Steps[p.Step]), speaker(h.c).Tempos(&t.Steps[p.Step]), a.Name, v.Chosen && chosen[value] || !v.Chosen && i < takesHome})
	}
	return nil
}

func homeValue(assignment int64, step string) string { return fmt.Sprintf("%d %s", assignment, step) }

// mine is the student's lesson of today; nil where they have none.
func (h *hourly) mine() *studio.Coming {
	for i := range h.comings {
		if slices.ContainsFunc(h.comings[i].Students, func(st store.Student) bool { return st.ID == h.student.ID }) {
			return &h.comings[i]
		}
	}
	return nil
}

// coming is who comes next today; nil where nobody does.
func (h *hourly) coming() *nextComing {
	var list []nextComing
	for _, c := range h.comings {
		for _, st := range c.Students {
			list = append(list, nextComing{st.ID, st.Name, studio.Clock(c.At)})
		}
	}
	at := slices.IndexFunc(list, func(n nextComing) bool { return n.ID == h.student.ID })
	if at < 0 || at+1 == len(list) {
		return nil
	}
	return &list[at+1]
}

// nextComing is who comes next.
type nextComing struct {
	ID         int64
	Name, Time string
}

// inLesson is the word of what a teacher logs in an hour.
const inLesson = "in the lesson"

// changeHour ticks something off, logs it, notes what was done, chooses what is taken home or
// answers a word.
func (s *roster) changeHour(c *echo.Context) error {
	h, err := s.hourOf(c)
	if err != nil {
		return err
	}
	told := ""
	_, err = s.Store.Undoable(c.Request().Context(), home(c).ID, store.At(h.now), func(ctx context.Context) (says string, err error) {
		if told, err = h.change(ctx); told != "" {
			says = fmt.Sprintf("%s: the lesson with %s.", told, h.student.Name)
		}
		return says, err
	})
	if err != nil {
		return err
	}
	if c.Request().Header.Get("X-Fragment") == "" {
		return see(c, "/students/%d/hour", h.student.ID)
	}
	if h, err = s.hourOf(c); err != nil {
		return err
	}
	v, err := h.view(told)
	if err != nil {
		return err
	}
	return c.Render(http.StatusOK, "hour#hour", v)
}

// change does what a form of an hour asks for, and says what it did; of what is ticked off nothing
// is said.
func (h *hourly) change(ctx context.Context) (told string, err error) {
	at, c := home(h.c).ID, h.c
	switch c.FormValue("action") {
	case "minutes":
		minutes, err := number(c, "minutes", "The minutes of a lesson", 5, studio.MostHour)
		if err != nil {
			return "", err
		}
		items, _ := h.planned(int(minutes))
		for i := range items { // what is ticked off stays so
			items[i].Done = slices.ContainsFunc(h.hour.Items, func(was store.HourItem) bool {
				return was.Done && was.Kind == items[i].Kind && was.AssignmentID == items[i].AssignmentID && was.PartID == items[i].PartID
			})
		}
		return fmt.Sprintf("%.0f minutes", minutes), h.set(ctx, func(hour *store.Hour) error { hour.Items = items; return nil })
	case "tick":
		return "", h.item(ctx, func(it *store.HourItem) error { it.Done = c.FormValue("done") != ""; return nil })
	case "log":
		return h.log(ctx)
	case "note":
		note := field(c, "note", studio.MostNote)
		return "Noted", h.set(ctx, func(hour *store.Hour) error { hour.Note = note; return nil })
	case "home":
		return h.takeHome(ctx)
	case "answer":
		word, err := strconv.ParseInt(c.FormValue("word"), 10, 64)
		if err != nil {
			return "", store.ErrNotFound
		}
		answer := field(c, "answer", studio.MostWord)
		return "Answered", h.Store.AnswerWord(ctx, at, h.student.ID, word, answer, store.At(h.now))
	}
	return "", wrong("Nothing was asked for.")
}

// set changes the hour of today, which is begun with what was planned.
func (h *hourly) set(ctx context.Context, how func(*store.Hour) error) error {
	planned, _ := h.planned(h.minutes())
	return h.Store.SetHour(ctx, home(h.c).ID, h.student.ID, h.today, func(hour store.Hour) (store.Hour, error) {
		if len(hour.Items) == 0 {
			hour.Items = planned
		}
		return hour, how(&hour)
	})
}

// item changes one item of the hour, by its number.
func (h *hourly) item(ctx context.Context, how func(*store.HourItem) error) error {
	n, err := strconv.Atoi(h.c.FormValue("item"))
	if err != nil {
		return store.ErrNotFound
	}
	return h.set(ctx, func(hour *store.Hour) error {
		if n < 1 || n > len(hour.Items) {
			return store.ErrNotFound
		}
		return how(&hour.Items[n-1])
	})
}

// log keeps practice that was heard in the hour, and ticks it off.
func (h *hourly) log(ctx context.Context) (told string, err error) {
	c := h.c
	e := store.Entry{StudioID: home(c).ID, StudentID: h.student.ID, Word: inLesson, PractisedAt: store.At(h.now), SentID: cmp.Or(field(c, "sent", 64), requestID(c))}
	if err := practisedSo(c, &e); err != nil {
		return "", err
	}
	items := h.hour.Items
	if len(items) == 0 {
		items, _ = h.planned(h.minutes())
	}
	n, err := strconv.Atoi(c.FormValue("item"))
	if err != nil || n < 1 || n > len(items) {
		return "", store.ErrNotFound
	}
	it := items[n-1]
	k := h.given(it.AssignmentID)
	if k < 0 {
		return "", wrong("This lesson is not given any more. Load the page again.")
	}
	part := studio.LoggedTo(it.PartID, h.all.Given[k].Parts)
	e.AssignmentID, e.PartID, e.Part, e.Rung = it.AssignmentID, part.PartID, part.Part, part.Rung
	if id, err := lesson.ParseStepID(it.Step); err == nil && h.all.Taught[k] != nil {
		studio.SetStep(&e, id, h.all.Taught[k].Song, h.all.Given[k].Parts)
	}
	if err := h.Store.AddEntry(ctx, e); err != nil {
		return "", err
	}
	return "Logged: " + entryWords(e), h.item(ctx, func(it *store.HourItem) error { it.Done = true; return nil })
}

// takeHome has the student practise first what is ticked.
func (h *hourly) takeHome(ctx context.Context) (told string, err error) {
	form, err := h.c.FormValues()
	if err != nil {
		return "", err
	}
	var tasks []store.Task
	for _, value := range form["take"] {
		id, step, _ := strings.Cut(value, " ")
		n, err := strconv.ParseInt(id, 10, 64)
		k := h.given(n)
		if err != nil || k < 0 || h.all.Taught[k] == nil || len(tasks) >= studio.MostItems {
			return "", store.ErrNotFound
		}
		if !slices.ContainsFunc(h.all.Taught[k].Steps, func(s lesson.Step) bool { return s.ID.String() == step }) {
			return "", store.ErrNotFound
		}
		tasks = append(tasks, store.Task{AssignmentID: n, Step: step})
	}
	if err := h.Store.SetTasks(ctx, home(h.c).ID, h.student.ID, tasks); err != nil {
		return "", err
	}
	if len(tasks) == 0 {
		return "The week is as it was planned", nil
	}
	return fmt.Sprintf("For next week: these %d", len(tasks)), nil
}
