// Package progress reads what a student has practised and says where they are and what comes
// next, with the reason. The time of day is a parameter.
package progress

import (
	"cmp"
	"slices"
	"time"
)

// Entry is one stretch of practice of a part.
type Entry struct {
	Tempo float64 // beats per minute
	Clean int     // passes in a row without a slip
	At    time.Time
	// Some tells that it was not the part as a whole, but some bars of it, its rhythm
	// or a shape: then the part has been heard from, no more.
	Some bool
	// Within tells that the part was played within something longer, like the whole song: once
	// clean is clean, and what was not says nothing of the part.
	Within bool
}

// State is where a student is with a part.
type State string

// The states.
const (
	New     State = "new"     // not practised yet
	Growing State = "growing" // on the way
	Stuck   State = "stuck"   // the last tries were not clean, or no ground was gained
	Learnt  State = "learnt"  // clean at its target on different days
	Due     State = "due"     // learnt, and to be looked at again
)

// What counts.
const (
	CleanPasses = 3  // in a row, for a tempo to count as clean
	ReadyDays   = 2  // different days of clean passes, for a tempo to be left behind
	StuckTries  = 3  // entries in a row that were not clean
	StalledDays = 10 // of practice that gain no ground
	QuietDays   = 7  // without practice, after which a teacher asks
	StepUp      = 4  // beats per minute to go up from a clean tempo

	near = 0.9  // of the target, from which a try that is not clean is a failed look
	hair = 0.25 // of a beat, by which a tempo may be below the target
)

// Gaps are the days after which what is learnt is looked at again: the next one after each clean
// look.
var Gaps = [...]int{2, 5, 12, 30, 75}

// Standing is what has to be known of the entries of a part to say where a student is: it is made
// entry by entry, in the order of their times. Days are counted as DayOf counts them; 0 is none.
type Standing struct {
	Entries int
	Last    time.Time // of the last entry, whatever it was of; its zone is that of the days
	Once    float64   // fastest tempo of one clean pass; 0 where there is none
	Clean   float64   // fastest clean tempo; 0 where there is none

	CleanDays int     // different days on which that was clean
	CleanDay  int     // the last of them
	Gained    int     // the day of the first clean pass at that tempo, or of the first entry
	Practised int     // the last day of the part as a whole
	Tries     int     // entries in a row that were not clean
	Tempo     float64 // of the last entry of the whole part; 0 where there is none

	TargetDays int  // different days of clean passes at the target, until it is learnt
	TargetDay  int  // the last of them
	Learnt     int  // the day on which it was learnt
	Failed     bool // the last look was not clean
	Looked     int  // the day from which the gap runs
	Gap        int  // days until it is looked at again
}

// LookAt says where a student is with a part that is to reach a target, beats a minute, at a
// time whose zone is that of the days, by entries in any order.
func LookAt(entries []Entry, target float64, now time.Time) Look {
	byTime := func(a, b Entry) int { return a.At.Compare(b.At) }
	if !slices.IsSortedFunc(entries, byTime) {
		entries = slices.Clone(entries)
		slices.SortStableFunc(entries, byTime)
	}
	var s Standing
	for _, e := range entries {
		if !e.At.After(now) {
			e.At = e.At.In(now.Location())
			s, _ = s.With(e, target)
		}
	}
	return s.Look(target, now)
}

// With is the standing after one more entry, whose time has the zone of the days. ok is false
// where it is earlier than the last one: then the standing has to be made again of all.
func (s Standing) With(e Entry, target float64) (next Standing, ok bool) {
	if s.Entries > 0 && e.At.Before(s.Last) {
		return s, false
	}
	s.Entries++
	s.Last = e.At
	if e.Some || e.Within && e.Clean == 0 {
		return s, true
	}
	day := DayOf(e.At)
	if s.Gained == 0 {
		s.Gained = day
	}
	s.Practised, s.Tempo = day, e.Tempo
	if e.Clean > 0 {
		s.Once = max(s.Once, e.Tempo)
	}
	if e.Clean >= CleanPasses || e.Within {
		s.clean(e.Tempo, target, day)
		return s, true
	}
	s.Tries++
	if s.Learnt > 0 && !s.Failed && e.Clean == 0 && e.Tempo >= near*target {
		s.Failed, s.Gap = true, max(s.Gap/2, 1)
	}
	return s, true
}

// clean takes in clean passes at a tempo on a day.
func (s *Standing) clean(tempo, target float64, day int) {
	s.Tries = 0
	switch {
	case tempo > s.Clean:
		s.Clean, s.CleanDays, s.CleanDay, s.Gained = tempo, 1, day, day
	case tempo == s.Clean && day != s.CleanDay:
		s.CleanDays, s.CleanDay = s.CleanDays+1, day
	}
	if tempo < target-hair {
		return
	}
	switch {
	case s.Learnt == 0:
		if day != s.TargetDay {
			s.TargetDays, s.TargetDay = s.TargetDays+1, day
		}
		if s.TargetDays >= ReadyDays {
			s.Learnt, s.Looked, s.Gap = day, day, Gaps[0]
		}
	case s.Failed:
		s.Failed, s.Looked = false, day
	case day >= s.Due(): // it was due, and is: the next gap
		s.Looked, s.Gap = day, NextGap(s.Gap)
	default:
		s.Looked = day // looked at before it was due
	}
}

// NextGap is the gap after a clean look at the end of one, days.
func NextGap(gap int) int {
	for _, g := range Gaps {
		if g > gap {
			return g
		}
	}
	return Gaps[len(Gaps)-1]
}

// Due is the day on which a part that is learnt is looked at again; 0 where it is not, or where
// the last look was not clean.
func (s *Standing) Due() int {
	if s.Learnt == 0 || s.Failed {
		return 0
	}
	return s.Looked + s.Gap
}

// DayOf counts the days of the calendar of a time, in its zone: midnight begins the next one.
func DayOf(t time.Time) int {
	y, m, d := t.Date()
	return int(time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Unix() / (24 * 60 * 60))
}

// BeginOf is the beginning of a day in a zone.
func BeginOf(day int, zone *time.Location) time.Time {
	y, m, d := time.Unix(int64(day)*24*60*60, 0).UTC().Date()
	return time.Date(y, m, d, 0, 0, 0, 0, zone)
}

// NextTempo is the tempo to try next on the way to a goal, for whoever has it clean at one, 0
// where it was not clean yet: then it is that of the start.
func NextTempo(clean, start, goal float64) float64 {
	if clean <= 0 {
		return start
	}
	return min(clean+StepUp, goal)
}

// back is a tempo to go back to, below one that failed and not above what is clean.
func back(clean, failed float64) float64 {
	down := max(failed-2*StepUp, 20)
	if clean > 0 {
		return min(clean, down)
	}
	return down
}

// Move is what a teacher is advised to do with a part.
type Move string

// The moves.
const (
	Up   Move = "up"   // a tempo, or the next rung
	Stay Move = "stay" // the normal case
	Back Move = "back" // slower, a smaller piece, or the rung below
)

// Look is where a student is with a part by its entries alone, and when it is looked at again.
type Look struct {
	State  State
	Move   Move
	Tempo  float64   // to try next, beats a minute
	Clean  float64   // fastest clean tempo; 0 where there is none
	Walked float64   // clean tempo as a share of the target, 0 to 1
	Due    time.Time // the day on which it is looked at again, at its beginning; zero where it is not learnt
	Last   time.Time // the last entry; zero where there is none
	Why    Reason
	Days   int // of the reason
	Tries  int // in a row that were not clean
}

// Reason is why a part is where it is.
type Reason uint8

// The reasons. Days and Tempo are those of the look.
const (
	NotBegun    Reason = iota // begin at Tempo
	InPieces                  // practised in pieces, not as a whole yet: begin at Tempo
	CleanAtLast               // learnt, looked at again in Days
	LookedAt                  // learnt, and due for Days
	Slipped                   // it was learnt, and the last look was not clean
	ThreeTries                // the last Tries were not clean
	NoGround                  // practised for Days without a faster clean tempo
	TwoDays                   // clean at a tempo on two days: go up to Tempo
	OneDay                    // clean once: show it on another day
	NotCleanYet               // no try was clean
	Resting                   // not practised for Days
)

// Look is where a student is who stands there, with a part that is to reach a target, beats a
// minute, at a time whose zone is that of the days.
func (s *Standing) Look(target float64, now time.Time) Look {
	if s.Entries == 0 {
		return Look{State: New, Move: Stay, Tempo: max(target*0.6, 20), Why: NotBegun}
	}
	today, start := DayOf(now), max(target*0.6, 20)
	rested := today - DayOf(s.Last)
	if s.Practised > 0 {
		start = back(0, s.Tempo)
	}
	l := Look{State: Growing, Move: Stay, Clean: s.Clean, Last: s.Last, Tries: s.Tries, Tempo: NextTempo(s.Clean, start, target)}
	if target > 0 {
		l.Walked = min(s.Clean/target, 1)
	}
	due := s.Due()
	switch {
	case due > 0 && today >= due:
		l.State, l.Tempo, l.Why, l.Days = Due, target, LookedAt, today-due
	case due > 0:
		l.State, l.Move, l.Tempo, l.Why, l.Days = Learnt, Up, target, CleanAtLast, due-today
	case s.Tries >= StuckTries:
		l.State, l.Move, l.Why, l.Tempo = Stuck, Back, ThreeTries, back(s.Clean, s.Tempo)
	case s.Failed:
		l.Why = Slipped
	case s.Practised-s.Gained >= StalledDays && today-s.Practised < StalledDays:
		l.State, l.Move, l.Why, l.Days, l.Tempo = Stuck, Back, NoGround, s.Practised-s.Gained, back(s.Clean, s.Clean)
	case s.Practised == 0 && rested <= QuietDays:
		l.Why = InPieces
	case s.Clean == 0 && rested <= QuietDays:
		l.Why = NotCleanYet
	case s.CleanDays >= ReadyDays:
		l.Move, l.Why = Up, TwoDays
	case rested > QuietDays:
		l.Why, l.Days = Resting, rested
	default:
		l.Why = OneDay
	}
	if due > 0 {
		l.Due = BeginOf(due, now.Location())
	}
	if l.Why == OneDay || l.Why == Resting || l.Why == Slipped {
		l.Tempo = cmp.Or(s.Clean, l.Tempo)
	}
	if target > 0 {
		l.Tempo = min(l.Tempo, target)
	}
	return l
}
