package web

import (
	"encoding/json"
	"slices"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/progress"
	"valleyside/core/song"
	"valleyside/core/words"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web/draw"
)

// lessonProgress is an assigned lesson and how far its student is.
type lessonProgress struct {
	store.Assignment
	Parts   []partProgress
	hill    string // as it was kept
	State   progress.State
	Walked  float64       // mean over the parts, 0 to 1
	Telling *partProgress // that says most about the lesson now; nil where it has no parts
	Trouble string        // why it could not be worked out; empty where it could
	Making  bool          // it is being worked out
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
	progress.Look
	ID      song.PartID
	Part    string
	Rung    arrange.Rung
	Grade   float64
	Target  float64
	Missing bool // the sheet that was assigned has no such part
	Entries []store.Entry
}

// lessonProgress reads how far a student is with an assigned lesson: from the standings of
// its parts, and from what was worked out of it when it was last changed.
func (s *base) lessonProgress(c *echo.Context, a store.Assignment, sum store.AssignmentSum, standings studio.Standings) lessonProgress {
	now := s.Now().In(zone(c))
	l := lessonProgress{Assignment: a, Outdated: a.SongSave < a.Latest, Trouble: sum.Trouble, Making: sum.AssignmentID == 0, hill: sum.Hill}
	var states []progress.State
	for i, part := range a.Parts {
		pp := partProgress{ID: part.PartID, Part: part.Part, Rung: part.Rung, Target: part.Target}
		if i < len(sum.Grades) {
			pp.Grade = sum.Grades[i]
		}
		pp.Missing = !l.Making && sum.Trouble == "" && pp.Grade == 0
		pp.Look = standings.Look(&a, &part, now)
		states = append(states, pp.State)
		if pp.Last.After(l.Last) {
			l.Last = pp.Last
		}
		l.Walked += pp.Walked / float64(len(a.Parts))
		l.Parts = append(l.Parts, pp)
	}
	l.State = progress.Together(states)
	for i := range l.Parts {
		if p := &l.Parts[i]; l.Telling == nil || progress.ForTeacher(p.Look, l.Telling.Look) < 0 {
			l.Telling = p
		}
	}
	return l
}

// Mood is the state of a lesson as it is shown.
func (l *lessonProgress) Mood() string { return string(l.State) }

// Mood is the state of a part as it is shown: what grows and was not practised for long is quiet.
func (p *partProgress) Mood() string {
	if p.State == progress.Growing && p.Why == progress.Resting {
		return "quiet"
	}
	return string(p.State)
}

// Hill draws the hillside, as far as it has been walked.
func (l *lessonProgress) Hill() SafeHTML {
	h := hillOf(l.hill, 300, 36, "Hillside of "+l.Name)
	h.Walked = l.Walked
	return h.SVG()
}

// factsOf are the settings of a song as they were kept.
func factsOf(kept string) (f studio.Facts) {
	_ = json.Unmarshal([]byte(kept), &f) // what is none is empty
	return f
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
		Label: "Tempo of " + p.Part + " over time. " + words.Speaker{}.Look(p.Look)}
	for _, e := range slices.Backward(p.Entries) {
		at := e.PractisedAt.Time().In(now.Location())
		ch.Points = append(ch.Points, draw.Point{At: at, Tempo: e.Tempo, Clean: e.Clean >= progress.CleanPasses,
			Label: at.Format("2 Jan 2006") + ": " + entryWords(e)})
	}
	return ch.SVG()
}
