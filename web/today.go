package web

import (
	"cmp"
	"net/http"
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/progress"
	"valleyside/store"
	"valleyside/studio"
)

type todayView struct {
	Page
	Lessons  []appointment // who comes today
	Next     []appointment // or who comes next, where nobody does
	NextDay  time.Time
	Stuck    []newsOfStudent
	Ready    []newsOfStudent
	Due      []newsOfStudent
	Recent   []store.RecentEntry
	Students int
	First    store.First
}

// appointment is a student who comes for a lesson.
type appointment struct {
	store.Student
	Lessons []lessonProgress
}

// newsOfStudent is a part that wants the teacher's attention.
type newsOfStudent struct {
	Student store.Student
	Lesson  string
	partProgress
}

// recentDays is how far back the practice on the page goes.
const recentDays = 7

func (s *roster) today(c *echo.Context) error {
	ctx, id := c.Request().Context(), home(c).ID
	students, err := s.Store.Students(ctx, id)
	if err != nil {
		return err
	}
	assignments, err := s.Store.Assignments(ctx, id)
	if err != nil {
		return err
	}
	standings, err := s.Store.Standings(ctx, id)
	if err != nil {
		return err
	}
	sums, err := s.Store.Sums(ctx, id, 0)
	if err != nil {
		return err
	}
	first, err := s.Store.FirstSteps(ctx, id)
	if err != nil {
		return err
	}
	st := home(c)
	now := s.Now().In(st.Zone())
	v := todayView{Page: s.page(c, "Today", "today"), Students: len(students), First: first}
	at, of := studio.StandingsOf(standings), byStudent(assignments)
	byDay := map[int][]appointment{}
	for _, st := range students {
		a := appointment{Student: st}
		for _, as := range of[st.ID] {
			l := s.lessonProgress(c, as, sums[as.ID], at)
			a.Lessons = append(a.Lessons, l)
			for _, p := range l.Parts {
				news := newsOfStudent{st, l.Name, p}
				switch p.State {
				case progress.Stuck:
					v.Stuck = append(v.Stuck, news)
				case progress.Ready:
					v.Ready = append(v.Ready, news)
				case progress.Due:
					v.Due = append(v.Due, news)
				}
			}
		}
		if st.LessonDay >= 0 {
			byDay[st.LessonDay] = append(byDay[st.LessonDay], a)
		}
	}
	for _, list := range byDay {
		slices.SortFunc(list, func(a, b appointment) int { return cmp.Compare(a.LessonTime, b.LessonTime) })
	}
	v.Lessons = byDay[int(now.Weekday())]
	if day, ok := progress.NextDay(now, func(d time.Weekday) bool { return len(byDay[int(d)]) > 0 }); ok && len(v.Lessons) == 0 {
		v.NextDay, v.Next = day, byDay[int(day.Weekday())]
	}
	const recent = 8
	if v.Recent, err = s.Store.Recent(ctx, id, store.At(now.AddDate(0, 0, -recentDays)), recent); err != nil {
		return err
	}
	return c.Render(http.StatusOK, "today", v)
}
