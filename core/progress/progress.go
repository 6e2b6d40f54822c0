// Package progress reads what a student has practised and says where they
// are and what comes next, with the reason. The time of day is a parameter.
package progress

import (
	"slices"
	"time"
)

// Entry is one stretch of practice of a part.
type Entry struct {
	Tempo float64 // beats per minute
	Clean int     // passes in a row without a slip
	At    time.Time
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
	dueAfter    = 7 * 24 * time.Hour
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

// Read works out the status of a part from its entries, in any order.
func Read(entries []Entry, target float64, now time.Time) Status {
	if len(entries) == 0 {
		start := max(target*0.6, 20)
		return Status{State: New, Next: start, Why: Advice{Kind: Begin, Next: start}}
	}
	entries = slices.Clone(entries)
	slices.SortFunc(entries, func(a, b Entry) int { return a.At.Compare(b.At) })
	last := entries[len(entries)-1]
	s := Status{Last: last.At}
	days := map[string]bool{}
	for _, e := range entries {
		if e.Clean < CleanPasses {
			continue
		}
		s.Clean = max(s.Clean, e.Tempo)
		if e.Tempo >= target {
			days[e.At.Format(time.DateOnly)] = true
		}
	}
	s.Walked = min(s.Clean/target, 1)
	s.Next = min(s.Clean+StepUp, target)
	if s.Clean == 0 {
		s.Next = max(last.Tempo-2*StepUp, 20)
	}
	tries := 0
	for _, e := range slices.Backward(entries) {
		if e.Clean >= CleanPasses {
			break
		}
		tries++
	}
	quiet := now.Sub(last.At)
	switch {
	case len(days) >= ReadyDays:
		s.State = Ready
		s.Next = target
		s.Why = Advice{Kind: CleanDays, Target: target, N: len(days)}
	case quiet > dueAfter:
		s.State = Due
		s.Why = Advice{Kind: Quiet, N: int(quiet.Hours() / 24)}
	case tries >= StuckTries:
		s.State = Stuck
		s.Next = max(min(s.Clean, last.Tempo-2*StepUp), 20)
		if s.Clean == 0 {
			s.Next = max(last.Tempo-2*StepUp, 20)
		}
		s.Why = Advice{Kind: Failing, N: tries, Tempo: last.Tempo, Next: s.Next}
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
