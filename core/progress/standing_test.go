package progress

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A standing that is kept up entry by entry says what all the entries say when they
// are read at once.
func TestStandingsSayWhatTheEntriesSay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		target := rapid.SampledFrom([]float64{60, 90, 120}).Draw(t, "target")
		n := rapid.IntRange(0, 12).Draw(t, "entries")
		var entries []Entry
		var kept Standing
		inOrder := true
		for range n {
			e := Entry{Some: rapid.IntRange(0, 3).Draw(t, "some") == 0, Tempo: float64(rapid.IntRange(5, 13).Draw(t, "tempo") * 10), Clean: rapid.IntRange(0, 5).Draw(t, "clean"),
				At: noon.Add(-time.Duration(rapid.IntRange(0, 400).Draw(t, "hours ago")) * time.Hour)}
			entries = append(entries, e)
			next, ok := kept.With(e, target)
			if !ok { // as the store does: all of it again
				inOrder = false
				next = StandingOf(entries, target)
			}
			kept = next
		}
		_ = inOrder
		want := plainRead(entries, target, noon)
		require.Equal(t, want, kept.Status(target, noon))
		require.Equal(t, want, Read(entries, target, noon))
	})
}

// plainRead works out a status from all entries at once.
func plainRead(entries []Entry, target float64, now time.Time) Status {
	if len(entries) == 0 {
		start := max(target*0.6, 20)
		return Status{State: New, Next: start, Why: Advice{Kind: Begin, Next: start}}
	}
	entries = slices.Clone(entries)
	slices.SortStableFunc(entries, func(a, b Entry) int { return a.At.Compare(b.At) })
	last := entries[len(entries)-1]
	s := Status{Last: last.At}
	quiet := now.Sub(last.At)
	entries = slices.DeleteFunc(entries, func(e Entry) bool { return e.Some })
	last = Entry{}
	if len(entries) > 0 {
		last = entries[len(entries)-1]
	}
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
	switch {
	case last.Tempo == 0:
		s.Next = max(target*0.6, 20)
	case s.Clean == 0:
		s.Next = max(last.Tempo-2*StepUp, 20)
	}
	tries := 0
	for _, e := range slices.Backward(entries) {
		if e.Clean >= CleanPasses {
			break
		}
		tries++
	}
	switch {
	case len(days) >= ReadyDays:
		s.State = Ready
		s.Next = target
		s.Why = Advice{Kind: CleanDays, Target: target, N: len(days)}
	case quiet > DueAfter:
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

// The fastest of one clean pass, and of three in a row, stay what they are.
func TestFastest(t *testing.T) {
	var s Standing
	for _, e := range []Entry{ago(5, 80, 1), ago(4, 70, 2), ago(3, 60, 3), ago(2, 90, 0)} {
		s, _ = s.With(e, 100)
	}
	require.Equal(t, 80.0, s.Once)
	require.Equal(t, 60.0, s.Clean)
	require.Equal(t, 1, s.Tries)
	s, _ = s.With(Entry{Tempo: 99, Clean: 5, At: noon, Some: true}, 100)
	require.Equal(t, 80.0, s.Once, "some bars say nothing of the whole")
}
