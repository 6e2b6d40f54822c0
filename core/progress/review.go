package progress

import (
	"cmp"
	"slices"
	"time"
)

// Gaps are the days after which what is learnt is looked at again: the next one after each clean
// look.
var Gaps = [...]int{2, 5, 12, 30, 75}

// Learnt is the state of a part that was clean at its target on different days: it is looked at
// again at growing gaps.
const Learnt State = "learnt"

// What counts for a review.
const (
	StalledDays = 10   // of practice that gain no ground
	near        = 0.9  // of the target, from which a try that is not clean is a failed look
	hair        = 0.25 // of a beat, by which a tempo may be below the target
)

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
	State State
	Move  Move
	Tempo float64   // to try next, beats a minute
	Clean float64   // fastest clean tempo; 0 where there is none
	Due   time.Time // the day on which it is looked at again, at its beginning; zero where it is not learnt
	Why   Reason
	Days  int // of the reason
	Tries int // in a row that were not clean
}

// Reason is why a part is where it is.
type Reason uint8

// The reasons. Days and Tempo are those of the look.
const (
	NotBegun    Reason = iota // begin at Tempo
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

// LookAt says where a student is with a part that is to reach a target, beats a minute, at a
// time whose zone is that of the days.
func LookAt(entries []Entry, target float64, now time.Time) Look {
	byTime := func(a, b Entry) int { return a.At.Compare(b.At) }
	if !slices.IsSortedFunc(entries, byTime) {
		entries = slices.Clone(entries)
		slices.SortStableFunc(entries, byTime)
	}
	var w walk
	for _, e := range entries {
		if !e.Some && !e.At.After(now) {
			w.entry(e, target, DayOf(e.At.In(now.Location())))
		}
	}
	if w.practised == 0 {
		return Look{State: New, Move: Stay, Tempo: max(target*0.6, 20), Why: NotBegun}
	}
	today := DayOf(now)
	l := Look{State: Growing, Move: Stay, Clean: w.clean, Tempo: NextTempo(w.clean, max(w.tempo-2*StepUp, 20), target)}
	if w.clean == 0 {
		l.Tempo = min(l.Tempo, target)
	}
	l.Tries = w.tries
	switch {
	case w.learnt && w.gap > 0 && !w.failed:
		due := w.looked + w.gap
		l.State, l.Move, l.Tempo, l.Due = Learnt, Up, target, beginOf(due, now.Location())
		if l.Why, l.Days = CleanAtLast, due-today; today >= due {
			l.State, l.Move, l.Why, l.Days = Due, Stay, LookedAt, today-due
		}
	case w.tries >= StuckTries:
		l.State, l.Move, l.Why = Stuck, Back, ThreeTries
		l.Tempo = back(w.clean, w.tempo)
	case w.failed:
		l.Why = Slipped
	case w.practised-w.gained >= StalledDays && today-w.practised < StalledDays:
		l.State, l.Move, l.Why, l.Days = Stuck, Back, NoGround, w.practised-w.gained
		l.Tempo = back(w.clean, w.clean)
	case w.clean == 0:
		l.Why = NotCleanYet
	case w.cleanDays >= ReadyDays:
		l.Move, l.Why = Up, TwoDays
	case today-w.practised > int(DueAfter.Hours()/24):
		l.Why, l.Days = Resting, today-w.practised
	default:
		l.Why = OneDay
	}
	if l.Why == OneDay || l.Why == Resting || l.Why == Slipped {
		l.Tempo = min(cmp.Or(w.clean, l.Tempo), target)
	}
	return l
}

// back is a tempo to go back to, below one that failed and not above what is clean.
func back(clean, failed float64) float64 {
	down := max(failed-2*StepUp, 20)
	if clean > 0 {
		return min(clean, down)
	}
	return down
}

// walk goes through the entries of a part in the order of their times.
type walk struct {
	clean     float64 // fastest clean tempo
	cleanDays int     // different days on which that was clean
	cleanDay  int     // the last of them
	gained    int     // the day of the first clean pass at that tempo, or of the first entry
	practised int     // the last day
	tries     int     // entries in a row that were not clean
	tempo     float64 // of the last entry

	targetDays int // different days of clean passes at the target
	targetDay  int
	learnt     bool
	failed     bool // the last look was not clean
	looked     int  // the day from which the gap runs
	gap        int  // days
}

func (w *walk) entry(e Entry, target float64, day int) {
	if w.gained == 0 {
		w.gained = day
	}
	w.practised, w.tempo = day, e.Tempo
	good := e.Clean >= CleanPasses
	if good {
		w.tries = 0
		switch {
		case e.Tempo > w.clean:
			w.clean, w.cleanDays, w.cleanDay, w.gained = e.Tempo, 1, day, day
		case e.Tempo == w.clean && day != w.cleanDay:
			w.cleanDays, w.cleanDay = w.cleanDays+1, day
		}
	} else {
		w.tries++
	}
	at := e.Tempo >= target-hair
	switch {
	case good && at && !w.learnt:
		if w.targetDays == 0 || day != w.targetDay {
			w.targetDays, w.targetDay = w.targetDays+1, day
		}
		if w.targetDays >= ReadyDays {
			w.learnt, w.looked, w.gap = true, day, Gaps[0]
		}
	case good && at && (w.failed || day >= w.looked+w.gap):
		if !w.failed { // it was due, and is: the next gap
			i := slices.IndexFunc(Gaps[:], func(g int) bool { return g > w.gap })
			if i < 0 {
				i = len(Gaps) - 1
			}
			w.gap = Gaps[i]
		}
		w.failed, w.looked = false, day
	case good && at:
		w.looked = day // looked at before it was due
	case w.learnt && !w.failed && e.Clean == 0 && e.Tempo >= near*target:
		w.failed, w.gap = true, max(w.gap/2, 1)
	}
}

// DayOf counts the days of the calendar of a time, in its zone: midnight begins the next one.
func DayOf(t time.Time) int {
	y, m, d := t.Date()
	return int(time.Date(y, m, d, 0, 0, 0, 0, time.UTC).Unix() / (24 * 60 * 60))
}

func beginOf(day int, zone *time.Location) time.Time {
	y, m, d := time.Unix(int64(day)*24*60*60, 0).UTC().Date()
	return time.Date(y, m, d, 0, 0, 0, 0, zone)
}
