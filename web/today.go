package web

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/progress"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/studio"
)

type todayView struct {
	Page
	Lessons []appointment // who comes today
	Next    []appointment // or who comes next, where nobody does
	NextDay time.Time
	Off     []block // lessons of today that do not take place
	Stuck   []newsOfStudent
	Due     []newsOfStudent
	Learnt  []newsOfStudent  // lately
	Quiet   []newsOfStudent  // not practised for long
	Words   []store.OpenWord // that wait for an answer
	Recent  []store.RecentEntry
	More    bool // wants a look beside those
	Others  int  // come on the day beside those that are shown, unless it is whole
	Whole   bool
	First   store.First
}

// appointment is a student who comes for a lesson.
type appointment struct {
	store.Student
	Note    store.Hour // of the last lesson; without words where there is none
	Coming  *block     // to which lesson; nil where none is meant
	Lessons []lessonProgress
	More    int // that they have beside those
}

// newsOfStudent is a part that wants the teacher's attention.
type newsOfStudent struct {
	Student store.Student
	Lesson  string
	partProgress
}

// What the page shows of much: practice as far back as so many days and as many entries, as
// many parts of each kind that want a look, and as many who come.
const (
	recentDays  = 7
	mostRecent  = 8
	mostNews    = 8
	mostComings = 12
	mostLessons = 3 // of one student in a list
)

func (s *roster) today(c *echo.Context) error {
	ctx, st := c.Request().Context(), home(c)
	now := s.Now().In(st.Zone())
	v := todayView{Page: s.page(c, "Today", "today"), Whole: c.QueryParam("day") == "whole"}
	var err error
	if v.First, err = s.Store.FirstSteps(ctx, st.ID); err != nil {
		return err
	}
	today := progress.DayOf(now)
	comings, off, err := s.comingSoon(ctx, st.ID, today)
	if err != nil {
		return err
	}
	if v.Off = off; len(comings) > 0 && comings[0].On == today {
		v.Lessons, err = s.comings(c, &v, comings, anHourAgo(now))
	} else if len(comings) > 0 {
		v.NextDay = dayOf(comings[0].On)
		v.Next, err = s.comings(c, &v, comings, "")
	}
	if err != nil {
		return err
	}
	if err := s.news(c, &v); err != nil {
		return err
	}
	if v.Words, err = s.Store.OpenWords(ctx, st.ID, mostNews); err != nil {
		return err
	}
	if v.Recent, err = s.Store.Recent(ctx, st.ID, store.At(now.AddDate(0, 0, -recentDays)), mostRecent); err != nil {
		return err
	}
	return c.Render(http.StatusOK, "today", v)
}

// soon is how many days ahead who comes next is looked for.
const soon = 14

// comingSoon lists who comes today, or on the next day on which anybody does, and the lessons of
// today that do not take place.
func (s *roster) comingSoon(ctx context.Context, home int64, today int) (list []studio.Coming, off []block, err error) {
	all, _, err := s.house.Comings(ctx, home, today, today)
	for _, c := range all {
		if c.Takes() {
			list = append(list, c)
		} else {
			off = append(off, block{Coming: c})
		}
	}
	if err != nil || len(list) > 0 {
		return list, off, err
	}
	all, _, err = s.house.Comings(ctx, home, today+1, today+soon)
	all = slices.DeleteFunc(all, func(c studio.Coming) bool { return !c.Takes() })
	return slices.DeleteFunc(all, func(c studio.Coming) bool { return c.On != all[0].On }), off, err
}

// studentsToday are those who come today, in the order in which they do.
func (s *base) studentsToday(c *echo.Context) ([]store.Student, error) {
	return s.house.StudentsOn(c.Request().Context(), home(c).ID, progress.DayOf(s.Now().In(zone(c))))
}

// comings are those who come to some lessons of a day, with what they have; of many those from a
// time on, unless the whole day is asked for.
func (s *roster) comings(c *echo.Context, v *todayView, lessons []studio.Coming, from string) ([]appointment, error) {
	ctx, at := c.Request().Context(), home(c).ID
	var students []store.Student
	var of []studio.Coming
	for _, l := range lessons {
		for _, st := range l.Students {
			st.LessonTime = studio.Clock(l.At)
			students, of = append(students, st), append(of, l)
		}
	}
	if v.Others = max(len(students)-mostComings, 0); v.Others > 0 && !v.Whole {
		first := around(students, from)
		students, of = students[first:first+mostComings], of[first:first+mostComings]
	}
	ids := make([]int64, len(students))
	for i := range students {
		ids[i] = students[i].ID
	}
	rows, err := s.Store.StudentsWith(ctx, at, ids...)
	if err != nil {
		return nil, err
	}
	for i := range students {
		time := students[i].LessonTime
		if k := slices.IndexFunc(rows, func(st store.Student) bool { return st.ID == students[i].ID }); k >= 0 {
			students[i] = rows[k]
		}
		students[i].LessonTime = time
	}
	list, err := s.appointments(c, students)
	if err != nil {
		return nil, err
	}
	notes, err := s.Store.LastNotes(ctx, at, ids...)
	for i := range list {
		list[i].Note, list[i].Coming = notes[list[i].ID], &block{Coming: of[i]}
	}
	return list, err
}

// around is the first of as many of those who come as are shown: from a time on, or the last of
// them.
func around(students []store.Student, from string) int {
	first := len(students) - mostComings
	if i := slices.IndexFunc(students, func(st store.Student) bool { return st.LessonTime >= from }); i >= 0 {
		first = min(i, first)
	}
	return first
}

// anHourAgo is the time of the day an hour ago; its beginning where that was yesterday.
func anHourAgo(now time.Time) string {
	before := now.Add(-time.Hour)
	if before.Day() != now.Day() {
		return ""
	}
	return before.Format("15:04")
}

// appointments are students with what they have.
func (s *roster) appointments(c *echo.Context, students []store.Student) ([]appointment, error) {
	ctx, at := c.Request().Context(), home(c).ID
	ids := make([]int64, len(students))
	for i := range students {
		ids[i] = students[i].ID
	}
	assignments, err := s.Store.ListedAssignments(ctx, at, ids...)
	if err != nil {
		return nil, err
	}
	standings, err := s.Store.ListedStandings(ctx, at, ids...)
	if err != nil {
		return nil, err
	}
	sums, err := s.Store.Sums(ctx, at, ids...)
	if err != nil {
		return nil, err
	}
	stands, of := studio.StandingsOf(standings), byStudent(assignments)
	list := make([]appointment, len(students))
	for i, st := range students {
		list[i].Student = st
		for _, as := range of[st.ID] {
			list[i].Lessons = append(list[i].Lessons, s.lessonProgress(c, as, sums[as.ID], stands))
		}
		list[i].Lessons, list[i].More = telling(list[i].Lessons)
	}
	return list, nil
}

// telling are as many of a student's lessons as a list shows, those of which most is to be
// said, in their order, and how many there are beside them.
func telling(lessons []lessonProgress) ([]lessonProgress, int) {
	more := len(lessons) - mostLessons
	if more <= 0 {
		return lessons, 0
	}
	first := slices.Clone(lessons)
	slices.SortStableFunc(first, func(a, b lessonProgress) int {
		if a.Telling == nil || b.Telling == nil {
			return cmp.Compare(len(b.Parts), len(a.Parts)) // one without parts last
		}
		return progress.ForTeacher(a.Telling.Look, b.Telling.Look)
	})
	shown := map[int64]bool{}
	for _, l := range first[:mostLessons] {
		shown[l.ID] = true
	}
	return slices.DeleteFunc(lessons, func(l lessonProgress) bool { return !shown[l.ID] }), more
}

// news is what wants a look, by the names of the students.
func (s *roster) news(c *echo.Context, v *todayView) error {
	at := home(c)
	zone := at.Zone()
	now := s.Now().In(zone)
	rows, err := s.Store.Wanting(c.Request().Context(), at.ID, progress.DayOf(now), store.At(now.AddDate(0, 0, -progress.QuietDays-1)), mostNews+1)
	if err != nil {
		return err
	}
	type of struct {
		assignment int64
		part       song.PartID
		rung       arrange.Rung
	}
	seen := map[of]bool{} // who is stuck may not have been heard from either
	for i := range rows {
		w := &rows[i]
		stands := w.Progress(zone)
		look, k := stands.Look(w.Target, now), of{w.AssignmentID, w.PartID, w.Rung}
		list := map[progress.State]*[]newsOfStudent{progress.Stuck: &v.Stuck, progress.Due: &v.Due, progress.Learnt: &v.Learnt, progress.Growing: &v.Quiet}[look.State]
		if seen[k] || look.State == progress.Growing && look.Why != progress.Resting {
			continue
		}
		seen[k] = true
		if len(*list) == mostNews {
			v.More = true
			continue
		}
		*list = append(*list, newsOfStudent{store.Student{ID: w.StudentID, Name: w.Student}, w.Lesson,
			partProgress{ID: w.PartID, Part: w.Part, Rung: w.Rung, Target: w.Target, Look: look}})
	}
	for _, list := range [][]newsOfStudent{v.Stuck, v.Due, v.Learnt, v.Quiet} {
		slices.SortStableFunc(list, func(a, b newsOfStudent) int {
			return cmp.Compare(strings.ToLower(a.Student.Name), strings.ToLower(b.Student.Name))
		})
	}
	return nil
}
