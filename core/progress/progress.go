// Package progress reads what a student has practised and says where they
// are and what comes next, with the reason. The time of day is a parameter.
package progress

import (
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
}

// State is where a student is with a part.
type State string

// The states.
const (
	New     State = "new"     // not practised yet
	Growing State = "growing" // on the way
	Stuck   State = "stuck"   // the last tries were not clean
	Due     State = "due"     // not heard from for too long
	Ready   State = "ready"   // clean at the target on different days
)

// What counts.
const (
	CleanPasses = 3 // in a row, for a tempo to count as clean
	ReadyDays   = 2 // different days of clean passes at the target
	StuckTries  = 3 // entries in a row that were not clean
	StepUp      = 4 // beats per minute to go up from a clean tempo
	DueAfter    = 7 * 24 * time.Hour
)

// AdviceKind is why a part is where it is.
type AdviceKind uint8

// The kinds of advice.
const (
	Begin     AdviceKind = iota // not practised yet: begin at Next
	CleanDays                   // clean at the target on N days
	Quiet                       // not practised for N days
	Failing                     // the last N tries were not clean, the latest at Tempo: go back to Next
	NotClean                    // not clean yet: try Next
	CleanOnce                   // clean at the target once: show it on another day
	OnTheWay                    // clean at Tempo of Target: try Next
)

// Advice says why, with its numbers; tempos are beats per minute.
type Advice struct {
	Kind                AdviceKind
	N                   int
	Tempo, Target, Next float64
}

// Status is what the entries of a part say.
type Status struct {
	State  State
	Clean  float64 // fastest clean tempo; 0 where there is none
	Next   float64 // the tempo to try next
	Why    Advice
	Last   time.Time // the last entry; zero where there is none
	Walked float64   // clean tempo as a share of the target, 0 to 1
}

// Standing is what has to be known of the entries of a part to say where a student
// is: it is made entry by entry, in the order of their times.
type Standing struct {
	Entries int
	Once    float64   // fastest tempo of one clean pass; 0 where there is none
	Clean   float64   // fastest clean tempo; 0 where there is none
	Days    int       // different days of clean passes at the target
	Day     string    // the last of them
	Tries   int       // entries since the last clean one
	Tempo   float64   // of the last entry of the whole part; 0 where there is none
	Last    time.Time // when that was
}

// With is the standing after one more entry. ok is false where it is earlier than
// the last one: then the standing has to be made again of all.
func (s Standing) With(e Entry, target float64) (next Standing, ok bool) {
	if s.Entries > 0 && e.At.Before(s.Last) {
		return s, false
	}
	s.Entries++
	s.Last = e.At
	if e.Some {
		return s, true
	}
	s.Tempo = e.Tempo
	s.Tries++
	if e.Clean > 0 {
		s.Once = max(s.Once, e.Tempo)
	}
	if e.Clean >= CleanPasses {
		s.Tries = 0
		s.Clean = max(s.Clean, e.Tempo)
		if day := e.At.Format(time.DateOnly); e.Tempo >= target && day != s.Day {
			s.Days, s.Day = s.Days+1, day
		}
	}
	return s, true
}

// NextTempo is the tempo to try next on the way to a goal, for whoever has it clean at one, 0
// where it was not clean yet: then it is that of the start.
func NextTempo(clean, start, goal float64) float64 {
	if clean <= 0 {
		return start
	}
	return min(clean+StepUp, goal)
}

// Status is where a student is who stands there.
func (st Standing) Status(target float64, now time.Time) Status {
	start := max(target*0.6, 20)
	if st.Entries == 0 {
		return Status{State: New, Next: start, Why: Advice{Kind: Begin, Next: start}}
	}
	s := Status{Last: st.Last, Clean: st.Clean}
	s.Walked = min(s.Clean/target, 1)
	if st.Tempo > 0 { // a part of it was tried as a whole
		start = max(st.Tempo-2*StepUp, 20)
	}
	s.Next = NextTempo(s.Clean, start, target)
	quiet := now.Sub(st.Last)
	switch {
	case st.Days >= ReadyDays:
		s.State = Ready
		s.Next = target
		s.Why = Advice{Kind: CleanDays, Target: target, N: st.Days}
	case quiet > DueAfter:
		s.State = Due
		s.Why = Advice{Kind: Quiet, N: int(quiet.Hours() / 24)}
	case st.Tries >= StuckTries:
		s.State = Stuck
		s.Next = max(min(s.Clean, st.Tempo-2*StepUp), 20)
		if s.Clean == 0 {
			s.Next = max(st.Tempo-2*StepUp, 20)
		}
		s.Why = Advice{Kind: Failing, N: st.Tries, Tempo: st.Tempo, Next: s.Next}
	case s.Clean == 0:
		s.State = Growing
		s.Why = Advice{Kind: NotClean, Next: s.Next}
	case s.Clean >= target:
		s.State = Growing
		s.Why = Advice{Kind: CleanOnce, Target: target}
	default:
		s.State = Growing
		s.Why = Advice{Kind: OnTheWay, Tempo: s.Clean, Target: target, Next: s.Next}
	}
	return s
}
