package studio

import (
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
	Review  bool // it is learnt, and looked at again
}

// WeekOf plans the steps of lessons from today on, so many minutes a day, of which today has some
// left. been is by lesson what the student has, with what the teacher wants first. A lesson that
// could not be made is nil.
func WeekOf(lessons []*Taught, been []Been, perDay, today int) Week {
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
		for i, it := range t.Items(been[k].Done) {
			it.Wanted = been[k].Wanted[t.Steps[i].ID] && !it.Done
			if it.Song = songs; it.Done {
				it.Rested, it.Due, it.Gap = been[k].Rested[i], been[k].Due[i], been[k].Gap[i]
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
	plan := schedule.Make(items, perDay, today, ahead)
	for i, p := range planned {
		w.days[p.Lesson][p.Step] = max(plan.First[i], 0)
	}
	for _, slots := range plan.Days {
		var day []Planned
		for _, s := range slots {
			p := planned[s.Item]
			p.Minutes, p.Again, p.Review = s.Minutes, s.Again, s.Review
			day = append(day, p)
		}
		w.Days = append(w.Days, day)
	}
	return w
}

// Begins is the day on which a step of a lesson is begun, from 1; 0 where it is done.
func (w *Week) Begins(lesson, step int) int { return w.days[lesson][step] }

// Day is what is practised on a day, 0 today.
func (w *Week) Day(n int) []Planned {
	if n >= len(w.Days) {
		return nil
	}
	return w.Days[n]
}

// Weekly is a step of a lesson in a week.
type Weekly struct {
	Step    int
	On      []bool // the days on which it is practised
	Review  bool   // it is learnt, and looked at again
	Minutes int    // on the first of them
}

// Of lists the steps of a lesson on the first days, each once, in the order in which they come.
func (w *Week) Of(lesson, days int) (list []Weekly) {
	at := map[int]int{}
	for d, day := range w.Days[:min(days, len(w.Days))] {
		for _, p := range day {
			if p.Lesson != lesson {
				continue
			}
			i, there := at[p.Step]
			if !there {
				i = len(list)
				at[p.Step], list = i, append(list, Weekly{Step: p.Step, On: make([]bool, days), Review: p.Review, Minutes: p.Minutes})
			}
			list[i].On[d] = true
		}
	}
	return list
}
