package web

import (
	"cmp"
	"slices"

	"github.com/labstack/echo/v5"

	"valleyside/core/lesson"
	"valleyside/core/progress"
	"valleyside/store"
	"valleyside/studio"
)

// study is all that a student has, as it is practised from today on.
type study struct {
	Given  []store.Assignment
	Looks  []studio.Lookup
	Taught []*studio.Taught // nil where it could not be made
	Errs   []error          // why it could not
	Been   []studio.Been
	Spent  int // minutes that were practised today
	Week   studio.Week
	Stands studio.Standings
}

// studyOf makes ready what a student has. A lesson that is looked at as it is now stands in the
// place of what was given of it: as is, whose id is looked.
func (s *base) studyOf(c *echo.Context, st store.Student, given []store.Assignment, looked int64, as *asked) (one study, err error) {
	ctx := c.Request().Context()
	rows, err := s.Store.StandingsOf(ctx, home(c).ID, st.ID)
	if err != nil {
		return one, err
	}
	one.Stands = studio.StandingsOf(rows)
	if as != nil && !slices.ContainsFunc(given, func(a store.Assignment) bool { return a.LessonID == looked }) {
		given = append([]store.Assignment{{LessonID: looked}}, given...)
	}
	tasks, err := s.Store.TasksOf(ctx, home(c).ID, st.ID)
	if err != nil {
		return one, err
	}
	wanted := map[int64]map[lesson.StepID]bool{}
	for _, t := range tasks {
		if wanted[t.AssignmentID] == nil {
			wanted[t.AssignmentID] = map[lesson.StepID]bool{}
		}
		if id, err := lesson.ParseStepID(t.Step); err == nil {
			wanted[t.AssignmentID][id] = true
		}
	}
	now := s.Now().In(zone(c))
	if one.Spent, err = s.Store.MinutesSince(ctx, home(c).ID, st.ID, store.At(progress.BeginOf(progress.DayOf(now), now.Location()))-1); err != nil {
		return one, err
	}
	for _, a := range given {
		var look studio.Lookup
		var t *studio.Taught
		var failed error
		if as != nil && a.LessonID == looked {
			look, t = as.Look, as.Taught
		} else if look, err = s.lookUpGiven(c, a, st); err != nil {
			return one, err
		} else {
			t, failed = s.house.Teach(ctx, look)
		}
		var been studio.Been
		if failed == nil && a.ID > 0 {
			been = one.Stands.Been(t.Steps, &a, now)
			been.Wanted = wanted[a.ID]
		}
		if failed != nil {
			t = nil
		}
		one.Given, one.Looks, one.Taught, one.Errs, one.Been = append(one.Given, a), append(one.Looks, look), append(one.Taught, t), append(one.Errs, failed), append(one.Been, been)
	}
	perDay := cmp.Or(st.Minutes, lesson.UsualMinutes)
	one.Week = studio.WeekOf(one.Taught, one.Been, perDay, max(perDay-one.Spent, 0))
	return one, nil
}

// lessonAt is where a lesson is among all that a student has.
func (one *study) lessonAt(lesson int64) int {
	return slices.IndexFunc(one.Given, func(a store.Assignment) bool { return a.LessonID == lesson })
}
