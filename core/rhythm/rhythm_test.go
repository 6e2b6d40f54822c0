package rhythm

import (
	"fmt"
	"math"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// cells are what is tapped in a beat: where in it, as shares of a beat.
var cells = []string{"0", "0", "0 1/2", "0 1/2", "1/2", "", "0 3/4", "0 1/4 1/2 3/4", "0 1/2 3/4", "0 1/4 1/2", "0 1/3 2/3"}

// moments reads cells as times in beats.
func moments(cells []string) (list []pitch.Frac) {
	for beat, c := range cells {
		for _, f := range strings.Fields(c) {
			at := pitch.Whole(0)
			if f != "0" {
				if err := at.UnmarshalText([]byte(f)); err != nil {
					panic(err)
				}
			}
			list = append(list, pitch.Whole(int64(beat)).Add(at))
		}
	}
	return list
}

// beats lists where the strums of bars begin, in beats.
func beats(bars []song.Bar, m song.Meter) (list []pitch.Frac) {
	for i := range bars {
		for _, e := range bars[i].Events {
			if e.Kind == song.Strum {
				list = append(list, m.Bar().Mul(pitch.Whole(int64(i))).Add(e.Start).Div(m.Beat()))
			}
		}
	}
	return list
}

// hand taps moments in beats: late by so much, off by so much in the mean, at a tempo that
// drifts by a share from beat to beat.
func hand(r *rand.Rand, list []pitch.Frac, tempo, late, off, drift float64) (at []float64) {
	beat, now, whole := 60/tempo, 0.0, int64(0)
	for _, m := range list {
		for ; whole < m.Floor(); whole++ {
			now += beat
			beat *= 1 + drift*(r.Float64()*2-1)
		}
		at = append(at, now+beat*m.Sub(pitch.Whole(m.Floor())).Float()+late+off*r.NormFloat64())
	}
	return at
}

func TestTapsAreHeardAsTheyWereMeant(t *testing.T) {
	const tries = 400
	for _, c := range []struct {
		name             string
		low, high        float64 // tempo
		late, off, drift float64
		click            bool
		heard            float64 // the least share that has to be heard as it was meant
	}{
		{"a machine", 50, 180, 0, 0, 0, true, 1},
		{"a late machine", 50, 150, 0.06, 0, 0, true, 0.99},
		{"a good hand", 60, 120, 0.04, 0.008, 0, true, 0.97},
		{"a usual hand", 60, 100, 0.05, 0.014, 0, true, 0.93},
		{"a usual hand, fast", 100, 140, 0.05, 0.014, 0, true, 0.75},
		{"a free machine", 70, 130, 0, 0, 0, false, 0.97},
		{"a free hand", 70, 120, 0, 0.008, 0.01, false, 0.85},
	} {
		r := rand.New(rand.NewPCG(1, 2))
		right := 0
		for range tries {
			pattern := make([]string, 8)
			for i := range pattern {
				pattern[i] = cells[r.IntN(len(cells))]
			}
			pattern[0] = []string{"0", "0 1/2", "0 3/4"}[r.IntN(3)]
			meant := moments(pattern)
			tempo := c.low + r.Float64()*(c.high-c.low)
			hint := tempo
			if !c.click {
				hint = tempo * (0.85 + 0.3*r.Float64())
			}
			got, err := Taps{At: hand(r, meant, tempo, c.late, c.off, c.drift), Meter: song.FourFour, Tempo: hint, Click: c.click}.Write()
			require.NoError(t, err)
			if fmt.Sprint(beats(got.Bars, song.FourFour)) == fmt.Sprint(meant) {
				right++
			}
		}
		t.Logf("%s: %.1f %%", c.name, 100*float64(right)/tries)
		assert.GreaterOrEqual(t, float64(right)/tries, c.heard, c.name)
	}
}

func TestTappedRhythmsAreWritten(t *testing.T) {
	for _, c := range []struct {
		name  string
		taps  string // in beats, from the first
		meter song.Meter
		feel  song.Feel
		want  string
	}{
		{"quarters", "0 1 2 3", song.FourFour, song.Feel{}, "| x x x x |"},
		{"eighths", "0 1/2 1 3/2 2 5/2 3 7/2", song.FourFour, song.Feel{}, "| x x x x x x x x |"},
		{"what is held", "0 3/2 2 7/2", song.FourFour, song.Feel{}, "| x - - x x - - x |"},
		{"a rest at the beginning", "1 2 3", song.FourFour, song.Feel{}, "| . x x x |"},
		{"an off-beat before the first beat", "1/2 1 2 3", song.FourFour, song.Feel{}, "| . x x - x - x - |"},
		{"one tap", "0", song.FourFour, song.Feel{}, "| x |"},
		{"held over the bar line", "0 1 2 7/2 5 6 7", song.FourFour, song.Feel{}, "| x - x - x - - x | - x x x |"},
		{"a triplet", "0 1 2 7/3 8/3 3", song.FourFour, song.Feel{}, "| x x (x x x) x |"},
		{"sixteenths in a beat", "0 1 2 9/4 5/2 11/4 3", song.FourFour, song.Feel{}, "| x x (x x x x) x |"},
		{"a waltz", "0 1 2 3 7/2 4 5", song.Meter{Count: 3, Unit: 4}, song.Feel{}, "| x x x | x x x - x - |"},
		{"six eighths", "0 1/3 2/3 1 4/3 5/3", song.Meter{Count: 6, Unit: 8}, song.Feel{}, "| x x x x x x |"},
		{"seven eighths", "0 1 2 3 4 5 6", song.Meter{Count: 7, Unit: 8}, song.Feel{}, "| x x x x x x x |"},
		{"swung eighths", "0 2/3 1 5/3 2 8/3 3 11/3", song.FourFour, song.Swing, "| x x x x x x x x |"},
		{"five bars", "0 4 8 12 16", song.FourFour, song.Feel{}, "| x | x | x | x |\n| x |"},
	} {
		for _, tempo := range []float64{60, 84, 120} {
			var at []float64
			for _, f := range strings.Fields(c.taps) {
				beats := pitch.Whole(0)
				if strings.Contains(f, "/") {
					require.NoError(t, beats.UnmarshalText([]byte(f)))
				} else {
					n := int64(0)
					fmt.Sscan(f, &n)
					beats = pitch.Whole(n)
				}
				at = append(at, beats.Float()*60/tempo+0.03)
			}
			got, err := Taps{At: at, Meter: c.meter, Feel: c.feel, Tempo: tempo, Click: true}.Write()
			require.NoError(t, err)
			assert.Equal(t, c.want, spaces.ReplaceAllString(got.Sheet(c.meter), " "), "%s at %g", c.name, tempo)
			assert.InDelta(t, 0.03, got.Late, 0.02, c.name)
		}
	}
}

// What is written is a sheet in which every tap is a strum at its time, and every bar is
// full.
func TestWhatIsWrittenIsRead(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	for range 200 {
		m := []song.Meter{song.FourFour, {Count: 3, Unit: 4}, {Count: 6, Unit: 8}, {Count: 5, Unit: 8}}[r.IntN(4)]
		var at []float64
		now := r.Float64()
		for range 1 + r.IntN(40) {
			at = append(at, now)
			now += 0.06 + r.Float64()
		}
		got, err := Taps{At: at, Meter: m, Tempo: 60 + 100*r.Float64(), Click: r.IntN(2) == 0}.Write()
		if err != nil {
			assert.Contains(t, err.Error(), "at most 20")
			continue
		}
		s := sheet.Parse(fmt.Sprintf("title: T\ntime: %v\nA:\n%s\n", m, got.Sheet(m)))
		require.True(t, s.OK(), "%v", s.Problems)
		require.Equal(t, fmt.Sprint(beats(got.Bars, m)), fmt.Sprint(beats(s.Song.Parts[0].Bars(), m)))
		for _, b := range got.Bars {
			for _, e := range b.Events {
				require.Positive(t, e.Length.Num())
			}
		}
	}
}

// A part that begins with a pickup is tapped as it is counted: the whole bar goes by, the
// taps begin in it.
func TestPickupsAreTapped(t *testing.T) {
	lead := pitch.F(3, 4)
	for _, c := range []struct {
		beats []float64
		click bool
		want  string
	}{
		{[]float64{3, 4, 5, 6, 7}, true, "| x | x x x x |"},
		{[]float64{3, 3.5, 4, 6}, true, "| x x | x x |"},
		{[]float64{3.5, 4, 6}, true, "| . x | x x |"},
		{[]float64{4, 5, 6, 7}, true, "| . | x x x x |"}, // nothing in it
		{[]float64{0, 1, 2, 3}, true, "| x x x x |"},     // it was not waited for
		{[]float64{9, 10, 11, 12, 13}, false, "| x | x x x x |"},
		{[]float64{9, 9.5, 10, 12}, false, "| x x | x x |"},
	} {
		at := make([]float64, len(c.beats))
		for i, b := range c.beats {
			at[i] = b * 0.6
		}
		got, err := Taps{At: at, Meter: song.FourFour, Tempo: 100, Click: c.click, Lead: lead}.Write()
		require.NoError(t, err)
		assert.Equal(t, c.want, spaces.ReplaceAllString(got.Sheet(song.FourFour), " "), "%v", c.beats)
		if got.Bars[0].Lead == lead {
			s := sheet.Parse("title: T\nA:\npickup: 1\n" + got.Sheet(song.FourFour) + "\n")
			require.True(t, s.OK(), "%v", s.Problems)
		}
	}
}

func TestTapsThatAreNone(t *testing.T) {
	for _, c := range []struct {
		taps Taps
		want string
	}{
		{Taps{Tempo: 100}, "nothing was tapped"},
		{Taps{Tempo: 100, At: []float64{1, 0.5}}, "not in the order of time"},
		{Taps{Tempo: 100, At: []float64{1, math.NaN()}}, "not in the order of time"},
		{Taps{Tempo: 100, At: []float64{math.Inf(1)}}, "not in the order of time"},
		{Taps{Tempo: 100, At: []float64{0, 1e9}}, "not in the order of time"},
		{Taps{Tempo: 100, At: []float64{-2}, Click: true}, "nothing was tapped"}, // while it counts in
		{Taps{Tempo: 100, At: make([]float64, 1)}, ""},
		{Taps{Tempo: 100, At: []float64{0, 0.6, 0.61, 0.62}, Click: true}, ""}, // a key that bounces
		{Taps{Tempo: 100, At: rising(MostTaps+1, 0.3)}, "401 taps; tap at most 400"},
		{Taps{Tempo: 60, At: rising(100, 1), Click: true}, "that is 25 bars"},
	} {
		c.taps.Meter = song.FourFour
		got, err := c.taps.Write()
		if c.want == "" {
			assert.NoError(t, err)
			assert.NotEmpty(t, got.Bars)
			continue
		}
		assert.ErrorContains(t, err, c.want)
	}
}

// A tempo that taps have pushed up until hardly a beat is left is given up, and is no
// endless walk.
func TestWalksEnd(t *testing.T) {
	w := Taps{Meter: song.FourFour}.walk([]float64{0, 3600}, 0, 1e-12, true)
	assert.Equal(t, math.Inf(1), w.cost)
	_, err := Taps{At: []float64{0, 3600}, Meter: song.FourFour, Tempo: 400}.Write()
	assert.ErrorContains(t, err, "at most 20 bars")
}

// rising is so many taps, each so much after the one before.
func rising(n int, gap float64) (at []float64) {
	for i := range n {
		at = append(at, float64(i)*gap)
	}
	return at
}

// spaces set beats apart for the eye, in a line.
var spaces = regexp.MustCompile(` +`)

// With the first eighth of a beat twice as long as the second, what is played after two
// thirds is meant in the middle.
func TestStraighten(t *testing.T) {
	for beats, want := range map[float64]float64{0: 0, 1.0 / 3: 0.25, 2.0 / 3: 0.5, 5.0 / 6: 0.75, 3 + 2.0/3: 3.5, 4: 4} {
		assert.InDelta(t, want, Straighten(beats, 2.0/3), 1e-9, "%v", beats)
	}
	assert.Equal(t, 2.3, Straighten(2.3, 0.5))
}

// How far the taps are off is that of the middle one.
func TestHowFarTapsAreOff(t *testing.T) {
	at := []float64{0, 1, 2, 3, 4, 5, 6, 7}
	for i, off := range []float64{0, 0.004, -0.004, 0.012, -0.012, 0.016, -0.016, 0} {
		at[i] += off
	}
	got, err := Taps{At: at, Meter: song.FourFour, Tempo: 60, Click: true}.Write()
	require.NoError(t, err)
	assert.InDelta(t, 0.012, got.Off, 0.003)
}
