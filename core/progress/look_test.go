package progress

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Days of a part whose target is 100, as "day:tempo×clean passes", with s for some of its bars, w
// for clean within the whole song and f for that with a slip: the answers were decided beforehand.
func TestLookAt(t *testing.T) {
	zone := time.FixedZone("", 0)
	day := func(n int) time.Time { return time.Date(2026, 3, 1, 18, 0, 0, 0, zone).AddDate(0, 0, n) }
	for _, c := range []struct {
		log   string
		today int
		state State
		move  Move
		tempo float64
		due   int // 0 for none
		why   Reason
	}{
		{"", 0, New, Stay, 60, 0, NotBegun},
		{"0:60×0", 0, Growing, Stay, 52, 0, NotCleanYet},
		{"0:60×3", 0, Growing, Stay, 60, 0, OneDay},
		{"0:60×3 1:60×3", 1, Growing, Up, 64, 0, TwoDays},
		{"0:60×3 0:60×3", 0, Growing, Stay, 60, 0, OneDay},
		{"0:60×3 1:80×0 1:80×0 2:80×1", 2, Stuck, Back, 60, 0, ThreeTries},
		{"0:100×3 0:100×3", 0, Growing, Stay, 100, 0, OneDay},
		{"0:100×3 1:100×3", 1, Learnt, Up, 100, 3, CleanAtLast},
		{"0:100×3 1:100×3", 3, Due, Stay, 100, 3, LookedAt},
		{"0:100×3 1:100×3 3:100×3", 3, Learnt, Up, 100, 8, CleanAtLast},
		{"0:100×3 1:100×3 3:100×3 8:100×3 20:100×3 50:100×3", 50, Learnt, Up, 100, 125, CleanAtLast},
		{"0:100×3 1:100×3 2:100×3", 2, Learnt, Up, 100, 4, CleanAtLast}, // before it was due: the same gap from then on
		{"0:100×3 1:100×3 3:100×3 8:100×0", 8, Growing, Stay, 100, 0, Slipped},
		{"0:100×3 1:100×3 3:100×3 8:100×0 9:100×3", 9, Learnt, Up, 100, 11, CleanAtLast}, // five days, halved
		{"0:100×3 1:100×3 3:60×0", 3, Due, Stay, 100, 3, LookedAt},                       // far below the target is no look
		{"0:60×3 4:60×1 8:60×0 10:60×2", 10, Stuck, Back, 52, 0, ThreeTries},
		{"0:60×3 5:60×3 12:60×3 13:60×1", 13, Stuck, Back, 52, 0, NoGround},
		{"0:60×3", 20, Growing, Stay, 60, 0, Resting},
		{"0:60×s", 0, Growing, Stay, 60, 0, InPieces},
		{"0:60×s", 20, Growing, Stay, 60, 0, Resting},
		{"0:100×3 1:100×3 3:60×s", 3, Due, Stay, 100, 3, LookedAt}, // a piece of it is no look
		{"0:100×w 1:100×w", 1, Learnt, Up, 100, 3, CleanAtLast},    // within the whole song, clean once
		{"0:100×3 1:100×3 3:100×w", 3, Learnt, Up, 100, 8, CleanAtLast},
		{"0:60×3 1:100×f 2:100×f 3:100×f", 3, Growing, Stay, 60, 0, OneDay}, // the song went wrong elsewhere
	} {
		var entries []Entry
		for _, one := range strings.Fields(c.log) {
			var n int
			var tempo float64
			var how string
			_, err := fmt.Sscanf(one, "%d:%g×%s", &n, &tempo, &how)
			require.NoError(t, err, one)
			e := Entry{Tempo: tempo, At: day(n), Some: how == "s", Within: how == "w" || how == "f"}
			switch how {
			case "w":
				e.Clean = 1
			case "f", "s":
			default:
				e.Clean, err = strconv.Atoi(how)
				require.NoError(t, err, one)
			}
			entries = append(entries, e)
		}
		got := LookAt(entries, 100, day(c.today))
		due := 0
		if !got.Due.IsZero() {
			due = DayOf(got.Due) - DayOf(day(0))
		}
		assert.Equal(t, []any{c.state, c.move, c.tempo, c.due, c.why}, []any{got.State, got.Move, got.Tempo, due, got.Why}, "%q on day %d", c.log, c.today)
	}
}

// Days are those of the calendar of the studio, also where a day has 23 or 25 hours.
func TestDaysOfTheZone(t *testing.T) {
	zone, err := time.LoadLocation("Europe/Berlin")
	require.NoError(t, err)
	clean := func(at string) Entry {
		when, err := time.ParseInLocation("2006-01-02 15:04", at, zone)
		require.NoError(t, err)
		return Entry{Tempo: 100, Clean: 3, At: when.UTC()}
	}
	now := time.Date(2026, 3, 29, 12, 0, 0, 0, zone)
	got := LookAt([]Entry{clean("2026-03-28 23:50"), clean("2026-03-29 00:10")}, 100, now)
	assert.Equal(t, Learnt, got.State, "two days in the studio")
	assert.Equal(t, "2026-03-31 00:00", got.Due.Format("2006-01-02 15:04"), "over the change of the clock")
	assert.Equal(t, Growing, LookAt([]Entry{clean("2026-03-28 00:10"), clean("2026-03-28 23:50")}, 100, now).State)
}

// Whatever is logged: more clean looks never bring the next one nearer, a failed one never puts
// it off, and no order of the same entries matters.
func TestLooks(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		now, entries := noon, drawEntries(t)
		got := LookAt(entries, 100, now)
		require.GreaterOrEqual(t, got.Tempo, 20.0)
		require.LessOrEqual(t, got.Tempo, 100.0)
		require.Equal(t, got.State == Learnt || got.State == Due, !got.Due.IsZero())
		require.Equal(t, got.State == Stuck, got.Move == Back)
		require.Equal(t, got, LookAt(rapid.Permutation(entries).Draw(t, "order"), 100, now))
		if got.State == Due {
			next := LookAt(append(entries, Entry{Tempo: 100, Clean: 3, At: now}), 100, now)
			require.Equal(t, Learnt, next.State)
			require.True(t, next.Due.After(got.Due))
		}
		if got.State == Learnt || got.State == Due {
			failed := append(entries, Entry{Tempo: 100, At: now})
			require.NotEqual(t, Learnt, LookAt(failed, 100, now).State)
		}
	})
}
