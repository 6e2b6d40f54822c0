package web

import (
	"cmp"
	"errors"
	"fmt"
	"math"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/progress"
	"valleyside/core/sheet"
	"valleyside/store"
)

// practiceView is the student's own page.
type practiceView struct {
	Page
	Student store.Student
	Token   string
	Parts   []practicePart
	Recent  []studentEntry
	Logged  bool
}

// practicePart is a part to practise, with its tab and its log.
type practicePart struct {
	handoutPart
	Assignment int64
	Lesson     string
	Status     partProgress
	Today      bool
	SentID     string
	Start      float64 // tempo that the log begins with
}

// practiceWidth is the width of a line of tab on a phone, px.
const practiceWidth = 352

func (s *Server) practicePage(c *echo.Context) error {
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
	standings, err := s.Store.StandingsOf(ctx, st.StudioID, st.ID)
	if err != nil {
		return err
	}
	v := practiceView{Page: s.page(c, "Practice", ""), Student: st, Token: c.Param("token"), Logged: c.QueryParam("logged") != ""}
	at := byPart(standings)
	names := map[int64]string{}
	for _, a := range assignments {
		names[a.ID] = a.Name
		sh := s.music.read(a.Sheet)
		l := s.lessonProgress(c, a, st.Player(), at)
		for i, p := range a.Parts {
			part, ok := s.drawPart(c, a.Sheet, sh.Song, p, st.Player(), a.TargetTempo, drawnTo(c, practiceWidth, 38))
			if !ok {
				continue
			}
			v.Parts = append(v.Parts, practicePart{handoutPart: part, Assignment: a.ID, Lesson: a.Name, Status: l.Parts[i],
				Start: math.Round(l.Parts[i].Next)})
		}
	}
	slices.SortStableFunc(v.Parts, func(a, b practicePart) int { return progress.ForStudent(a.Status.Status, b.Status.Status) })
	for i := range v.Parts {
		v.Parts[i].Today = i < progress.TodaysParts
	}
	for _, e := range entries {
		v.Recent = append(v.Recent, studentEntry{e, names[e.AssignmentID], entryWords(e)})
	}
	return c.Render(http.StatusOK, "practice", v)
}

// Limits of what a student can log.
const (
	maxClean   = 50
	maxMinutes = 600
	maxWord    = 200
)

// logPractice logs one stretch of practice. A script that keeps entries until they
// are logged is answered with the id that it gave, whether the entry is logged
// or refused for good; anything else means that it has to be sent again.
func (s *Server) logPractice(c *echo.Context) error {
	st := c.Get(studentKey).(store.Student)
	if err := s.limits.logs.check(c, fmt.Sprint(st.ID), "That is more than one can practise."); err != nil {
		return err
	}
	e, err := s.practised(c)
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

// longestAge is how long practice may have waited to be sent.
const longestAge = 90 * 24 * time.Hour

// practisedAt is when something was practised that was written down so many
// seconds before it was sent, by the sender's clock, whatever that clock shows.
func practisedAt(age string, now time.Time) store.Moment {
	seconds, err := strconv.ParseFloat(age, 64)
	if err != nil || math.IsNaN(seconds) {
		seconds = 0
	}
	return store.At(now.Add(-time.Duration(min(max(seconds, 0), longestAge.Seconds()) * float64(time.Second))))
}

// practised reads the entry of a form.
func (s *Server) practised(c *echo.Context) (store.Entry, error) {
	st := c.Get(studentKey).(store.Student)
	n, err := strconv.ParseInt(c.FormValue("assignment"), 10, 64)
	if err != nil {
		return store.Entry{}, store.ErrNotFound
	}
	a, err := s.Store.Assignment(c.Request().Context(), st.StudioID, st.ID, n)
	if err != nil {
		return store.Entry{}, err
	}
	e := store.Entry{StudioID: st.StudioID, StudentID: st.ID, AssignmentID: a.ID, Part: c.FormValue("part"),
		Word: field(c, "word", maxWord), PractisedAt: practisedAt(c.FormValue("age"), s.Now()), SentID: field(c, "sent", 64)}
	i := slices.IndexFunc(a.Parts, func(p store.Part) bool { return p.Part == e.Part })
	if i < 0 {
		return e, wrong("This part is not in the lesson any more. Load the page again.")
	}
	e.Rung = a.Parts[i].Rung
	var errs [3]error
	var clean, minutes float64
	e.Tempo, errs[0] = number(c, "tempo", "The tempo", sheet.MinTempo, sheet.MaxTempo)
	clean, errs[1] = number(c, "clean", "Clean passes", 0, maxClean)
	minutes, errs[2] = number(c, "minutes", "The minutes", 0, maxMinutes)
	if err := errors.Join(errs[:]...); err != nil {
		return e, cmp.Or(errs[0], errs[1], errs[2])
	}
	e.Clean, e.Minutes = int(clean), int(minutes)
	if e.SentID == "" {
		e.SentID = requestID(c)
	}
	return e, nil
}
