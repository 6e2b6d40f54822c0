package studio

import (
	"valleyside/core/lesson"
	"valleyside/core/schedule"
)

// Week is what a student practises on the days that come, of all that they have: the list of a
// lesson, the paper and the student's page are this one.
type Week struct {
	Days [][]Planned // the first is today; with what comes after a week as well
	days [][]int
}

// Planned is a step on a day.
type Planned struct {
	Lesson  int // of those that the week was made of
	Step    int // of the steps of the lesson
	Minutes int
	Again   bool // it was begun before
}

// WeekOf plans the steps of lessons from today on, so many minutes a day. done tells by lesson
// which steps are done, and rested for how many days; a nil one is none. A lesson that could not be
// made is nil.
func WeekOf(lessons []*Taught, done [][]bool, rested [][]int, perDay int) Week {
	var items []schedule.Item
	var planned []Planned
	songs := 0
	w := Week{days: make([][]int, len(lessons))}
	ahead := true
	for k, t := range lessons {
		if t == nil {
			continue
		}
		ahead = ahead && !t.Plan.Strict()
		first, things := len(items), 0
		for _, it := range items {
			things = max(things, it.Thing)
		}
		for i, it := range t.Items(done[k]) {
			if it.Song = songs; it.Done {
				it.Rested = rested[k][i]
			}
			for _, list := range [][]int{it.After, it.Apart, it.Within} {
				for n := range list {
					list[n] += first
				}
			}
			if it.Thing > 0 {
				it.Thing += things
			}
			items, planned = append(items, it), append(planned, Planned{Lesson: k, Step: i})
		}
		songs++
		w.days[k] = make([]int, len(t.Steps))
	}
	if perDay <= 0 {
		perDay = lesson.UsualMinutes
	}
	plan := schedule.Make(items, perDay, ahead)
	for i, p := range planned {
		w.days[p.Lesson][p.Step] = max(plan.First[i], 0)
	}
	for _, slots := range plan.Days {
		var day []Planned
		for _, s := range slots {
			p := planned[s.Item]
			p.Minutes, p.Again = s.Minutes, s.Again
			day = append(day, p)
		}
		w.Days = append(w.Days, day)
	}
	return w
}

// Day is the day on which a step of a lesson is begun, from 1; 0 where it is done.
func (w *Week) Day(lesson, step int) int { return w.days[lesson][step] }

// Today is what is practised on the first day.
func (w *Week) Today() []Planned {
	if len(w.Days) == 0 {
		return nil
	}
	return w.Days[0]
}

// Of lists the steps of a lesson on the first days, each once, and on which of those days it is
// practised.
func (w *Week) Of(lesson, days int) (steps []int, on map[int][]bool) {
	on = map[int][]bool{}
	for d, day := range w.Days[:min(days, len(w.Days))] {
		for _, p := range day {
			if p.Lesson != lesson {
				continue
			}
			if on[p.Step] == nil {
				on[p.Step] = make([]bool, days)
				steps = append(steps, p.Step)
			}
			on[p.Step][d] = true
		}
	}
	return steps, on
}
