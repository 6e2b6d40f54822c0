package web

import (
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/progress"
	"valleyside/core/words"
	"valleyside/store"
	"valleyside/web/draw"
)

// lessonProgress is an assigned lesson and how far its student is.
type lessonProgress struct {
	store.Assignment
	Song   songFacts
	Parts  []partProgress
	Hill   draw.Hill
	Walked float64 // mean over the parts, 0 to 1
	// Outdated tells that the song has been saved since it was assigned.
	Outdated bool
	Changes  []string // what was changed since
	Last     time.Time
	// The step that is next, from 1, of how many, and what it is; 0 where all are done.
	Step, Steps int
	StepTitle   string
}

// partProgress is a part of an assigned lesson.
type partProgress struct {
	progress.Status
	Part    string
	Rung    arrange.Rung
	Grade   float64
	Target  float64
	Missing bool // the sheet that was assigned has no such part
	Entries []store.Entry
}

// Telling is the part that says most about the lesson now.
func (l *lessonProgress) Telling() *partProgress {
	if len(l.Parts) == 0 {
		return nil
	}
	best := slices.MinFunc(l.Parts, func(a, b partProgress) int { return progress.ForTeacher(a.Status, b.Status) })
	return &best
}

// lessonProgress reads how far a student is with an assigned lesson, from the
// standings of its parts.
func (s *Server) lessonProgress(c *echo.Context, a store.Assignment, p hand.Player, standings map[standingKey]store.Standing) lessonProgress {
	sum := s.music.summarize(a.Sheet, waysOf(a.Parts), s.options(c, p, a.TargetTempo))
	home := studio(c)
	l := lessonProgress{Assignment: a, Song: sum.Facts, Outdated: a.SongVersion < a.Latest}
	l.Hill = draw.Hill{Width: 300, Height: 36, Label: "Hillside of " + a.Name}
	for _, part := range a.Parts {
		pp := partProgress{Part: part.Part, Rung: arrange.Rung(part.Rung), Target: part.Target}
		ps := sum.Part(part.Part)
		if ps == nil || len(ps.Rungs) == 0 {
			pp.Missing = true
		} else {
			r := ps.Rung(pp.Rung)
			pp.Grade = r.Grade
			l.Hill.Append(ps.Bars, ps.Written().Feet, r.Feet)
		}
		// A version that is harder than the assigned one counts as well; another
		// rung's tempo does not.
		own := standings[standingKey{a.ID, part.Part, part.Rung}]
		pp.Status = own.Progress(home.Zone()).Status(pp.Target, s.Now())
		if pp.Last.After(l.Last) {
			l.Last = pp.Last
		}
		l.Walked += pp.Walked / float64(len(a.Parts))
		l.Parts = append(l.Parts, pp)
	}
	l.Hill.Walked = l.Walked
	return l
}

// standingKey finds a standing: by assignment, part and rung.
type standingKey struct {
	assignment int64
	part, rung string
}

func byPart(standings []store.Standing) map[standingKey]store.Standing {
	m := make(map[standingKey]store.Standing, len(standings))
	for _, s := range standings {
		m[standingKey{s.AssignmentID, s.Part, s.Rung}] = s
	}
	return m
}

// byStudent groups assignments by whose they are.
func byStudent(assignments []store.Assignment) map[int64][]store.Assignment {
	m := map[int64][]store.Assignment{}
	for _, a := range assignments {
		m[a.StudentID] = append(m[a.StudentID], a)
	}
	return m
}

// chart draws the entries of a part over time.
func (p *partProgress) Chart(now time.Time) SafeHTML {
	ch := draw.Chart{Target: p.Target, Until: now, Width: 520, Height: 150,
		Label: "Tempo of " + p.Part + " over time. " + words.Speaker{}.Advice(p.Why)}
	for _, e := range slices.Backward(p.Entries) {
		at := e.PractisedAt.Time().In(now.Location())
		ch.Points = append(ch.Points, draw.Point{At: at, Tempo: e.Tempo, Clean: e.Clean >= progress.CleanPasses,
			Label: at.Format("2 Jan") + ": " + entryWords(e)})
	}
	return ch.SVG()
}
