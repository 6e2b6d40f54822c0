package progress

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

var noon = time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)

func ago(days int, tempo float64, clean int) Entry {
	return Entry{Tempo: tempo, Clean: clean, At: noon.AddDate(0, 0, -days)}
}

// drawEntries are entries in any order, no two at one time.
func drawEntries(t *rapid.T) (entries []Entry) {
	for _, hours := range rapid.SliceOfNDistinct(rapid.IntRange(0, 2400), 0, 20, rapid.ID[int]).Draw(t, "hours ago") {
		entries = append(entries, Entry{Some: rapid.IntRange(0, 5).Draw(t, "some") == 0, Within: rapid.IntRange(0, 5).Draw(t, "within") == 0,
			Tempo: rapid.SampledFrom([]float64{50, 80, 95, 100, 104}).Draw(t, "tempo"), Clean: rapid.IntRange(0, 4).Draw(t, "clean"), At: noon.Add(-time.Duration(hours) * time.Hour)})
	}
	return entries
}

// What is learnt, until when, and how far somebody is, by going through the days of a calendar
// with all entries before one's eyes: nothing is kept from one day to the next.
func TestStandingsSayWhatTheEntriesSay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		entries := drawEntries(t)
		got := LookAt(entries, 100, noon)
		whole := slices.DeleteFunc(slices.Clone(entries), func(e Entry) bool { return e.Some || e.Within && e.Clean == 0 })
		slices.SortFunc(whole, func(a, b Entry) int { return a.At.Compare(b.At) })
		good := func(e Entry) bool { return e.Clean >= CleanPasses || e.Within }
		clean, last := 0.0, time.Time{}
		for _, e := range entries {
			if e.At.After(last) {
				last = e.At
			}
		}
		for _, e := range whole {
			if good(e) {
				clean = max(clean, e.Tempo)
			}
		}
		require.Equal(t, clean, got.Clean)
		require.InDelta(t, min(clean/100, 1), got.Walked, 1e-9)
		require.True(t, last.Equal(got.Last))
		days := map[int]bool{}
		for _, e := range whole {
			if good(e) && e.Tempo >= 100 {
				days[DayOf(e.At)] = true
			}
		}
		tries := 0
		for _, e := range slices.Backward(whole) {
			if good(e) {
				break
			}
			tries++
		}
		require.Equal(t, tries, got.Tries)
		switch got.State {
		case Learnt, Due:
			require.GreaterOrEqual(t, len(days), ReadyDays)
			require.LessOrEqual(t, DayOf(got.Due)-DayOf(noon), Gaps[len(Gaps)-1])
			require.Equal(t, got.State == Due, !got.Due.After(noon))
		case New:
			require.Empty(t, entries)
		case Stuck:
			require.True(t, tries >= StuckTries || got.Why == NoGround)
		case Growing:
			require.True(t, len(days) < ReadyDays || got.Why == Slipped, "learnt, and never failed")
			require.True(t, tries < StuckTries)
		}
	})
}

// A standing is brought up to date entry by entry; one that is late is refused, and changes
// nothing.
func TestStandingsGrow(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var s Standing
		var in []Entry
		for _, e := range drawEntries(t) {
			next, ok := s.With(e, 100)
			if !ok {
				require.Equal(t, s, next)
				require.True(t, e.At.Before(s.Last))
				continue
			}
			s, in = next, append(in, e)
		}
		require.Equal(t, LookAt(in, 100, noon), s.Look(100, noon))
	})
}

// The fastest of one clean pass, and of three in a row, stay what they are.
func TestFastest(t *testing.T) {
	var s Standing
	for _, e := range []Entry{ago(5, 80, 1), ago(4, 70, 2), ago(3, 60, 3), ago(2, 90, 0)} {
		s, _ = s.With(e, 100)
	}
	assert.Equal(t, 80.0, s.Once)
	assert.Equal(t, 60.0, s.Clean)
	assert.Equal(t, 1, s.Tries)
	s, _ = s.With(Entry{Tempo: 99, Clean: 5, At: noon, Some: true}, 100)
	assert.Equal(t, 80.0, s.Once, "some bars say nothing of the whole")
}
