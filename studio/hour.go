package studio

import (
	"time"

	"valleyside/core/lesson"
	"valleyside/core/progress"
	"valleyside/core/schedule"
	"valleyside/core/song"
	"valleyside/store"
)

// Limits of a lesson hour.
const (
	MostNote  = 400 // characters
	MostItems = 40
	MostHour  = 240 // minutes
)

// HourLengths are the minutes that an hour usually has.
var HourLengths = []int{30, 45, 60}

// UsualHour is how many minutes an hour has where nothing is said.
const UsualHour = 45

// HourPart is a part of what a student has, as an hour looks at it.
type HourPart struct {
	schedule.Heard
	Lesson int // among those that the student has
	Part   store.Part
	Step   int // of the lesson: the first of the part that is not done; −1 where there is none
}

// Since is what was practised of the parts that a student has since a moment: minutes by
// assignment and part.
type Since map[int64]map[song.PartID]int

// SinceOf sums up entries.
func SinceOf(entries []store.Entry) Since {
	s := Since{}
	for _, e := range entries {
		if s[e.AssignmentID] == nil {
			s[e.AssignmentID] = map[song.PartID]int{}
		}
		s[e.AssignmentID][e.PartID] += e.Minutes
	}
	return s
}

// HourParts are the parts of all that a student has. A lesson that could not be made is nil.
func HourParts(given []store.Assignment, taught []*Taught, been []Been, stands Standings, since Since, now time.Time) (parts []HourPart) {
	for k := range given {
		a := &given[k]
		for _, p := range a.Parts {
			if p.Rung == "" {
				continue
			}
			one := HourPart{Lesson: k, Part: p, Step: -1, Heard: schedule.Heard{Look: stands.Look(a, &p, now), Minutes: since[a.ID][p.PartID]}}
			if taught[k] != nil {
				one.Step = nextOf(taught[k], been[k].Done, p.PartID)
			}
			parts = append(parts, one)
		}
	}
	return parts
}

// nextOf is the first step of a part that is not done; −1 where there is none.
func nextOf(t *Taught, done []bool, part song.PartID) int {
	for i := range t.Steps {
		if s := &t.Steps[i]; s.Part >= 0 && t.Song.PartID(s.Part) == part && s.Kind != lesson.ByTeacher && (i >= len(done) || !done[i]) {
			return i
		}
	}
	return -1
}

// PlanHour shares out an hour of so many minutes among parts.
func PlanHour(parts []HourPart, minutes int) ([]schedule.Stretch, []schedule.Out) {
	heard := make([]schedule.Heard, len(parts))
	for i := range parts {
		heard[i] = parts[i].Heard
	}
	return schedule.Hour(heard, minutes)
}

// ForHome are the steps of a week that are offered to be taken home, as many as are asked for: those
// of its days in their order, each once, what is only looked at again left out.
func (w *Week) ForHome(most int) (list []Planned) {
	seen := map[Planned]bool{}
	for _, day := range w.Days[:min(len(w.Days), 7)] {
		for _, p := range day {
			key := Planned{Lesson: p.Lesson, Step: p.Step}
			if !p.Review && !seen[key] && len(list) < most {
				seen[key], list = true, append(list, p)
			}
		}
	}
	return list
}

// Day is the day on which an hour was, at its beginning in a zone.
func Day(h *store.Hour, zone *time.Location) time.Time { return progress.BeginOf(h.Day, zone) }
