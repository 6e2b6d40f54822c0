package arrange

import (
	"flag"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// book is shared by the tests that make many arrangers.
var book = new(voicing.Book)

// drawSmall draws a song small enough to try every version of its part: lines
// with repeats, a roadmap in which parts loop and follow one another, any
// tuning.
func drawSmall(t *rapid.T) (*song.Song, Options, Rung, Way) {
	slot := rapid.SampledFrom([]string{"0E", "3A", "5A", "7D", "2G", "12B", "0e", "x", "3A+5D", "E5", "G", ".", "-", "h5A", "9A", "8D"})
	var b strings.Builder
	fmt.Fprintf(&b, "tuning: %s\ntempo: %d\n", rapid.SampledFrom([]string{"standard", "drop D", "open G"}).Draw(t, "tuning"), rapid.IntRange(60, 300).Draw(t, "tempo"))
	if order := rapid.SampledFrom([]string{"", "A x2", "A, B", "B, A, B", "A x3, B, A", "B"}).Draw(t, "order"); order != "" {
		fmt.Fprintf(&b, "order: %s\n", order)
	}
	b.WriteString("A:\n")
	left := rapid.IntRange(1, 4).Draw(t, "events")
	for left > 0 {
		n := rapid.IntRange(1, left).Draw(t, "line")
		left -= n
		b.WriteString("|")
		for i := range n {
			b.WriteString(" " + slot.Draw(t, "slot"))
			if i < n-1 && rapid.Bool().Draw(t, "bar") {
				b.WriteString(" |")
			}
		}
		fmt.Fprintf(&b, " | x%d\n", rapid.IntRange(1, 3).Draw(t, "times"))
	}
	fmt.Fprintf(&b, "B:\n| %s %s |\n", slot.Draw(t, "b1"), slot.Draw(t, "b2"))
	o := Options{Book: book, Player: hand.Player{
		Reach:   rapid.SampledFrom([]float64{0, 70, 95}).Draw(t, "reach"),
		Picking: rapid.SampledFrom(hand.Schools).Draw(t, "school"),
		NoBarre: rapid.Bool().Draw(t, "no barre"),
	}}
	return read(t, b.String()), o, rapid.SampledFrom(Rungs).Draw(t, "rung"), Way{FullRhythm: true}
}

// plainCost adds up what a path costs from the definitions alone: every way
// that the hands go when the part is played, measured by grade.Moment.
func plainCost(w *work, path []int) float64 {
	if len(path) == 0 {
		return 0
	}
	p := w.options.Player
	at := func(i int) (*choice, int) {
		s := w.needs[i].states[path[i]]
		return &w.needs[i].choices[s.choice], int(s.base)
	}
	cost := func(i int, from *choice, fromBase int, seconds float64) float64 {
		c, base := at(i)
		m := w.moment(i)
		m.To, m.Seconds = c.Fingering, seconds
		mm := 0.0
		if from != nil {
			m.From = from.Fingering
			mm = p.Neck().Along(fromBase, base)
			m.Shift = mm
		} else {
			m.Seconds = 0
		}
		d := m.Profile(p)
		return grade.Work(d.Total()) + c.taste + mm*tastePerMM
	}
	from := func(i, before int, seconds float64) float64 {
		c, base := at(before)
		return cost(i, c, base, seconds)
	}
	sum := w.ways.beginning * cost(0, nil, 0, 0)
	for _, in := range w.ways.in {
		best := math.Inf(1)
		k := w.kindOf(kindKey{in.content, true, 0})
		for _, s := range k.states {
			best = min(best, cost(0, &k.choices[s.choice], int(s.base), in.seconds))
		}
		sum += in.share * best
	}
	last := len(path) - 1
	for _, out := range w.ways.out {
		best := math.Inf(1)
		k := w.kindOf(kindKey{out.content, true, 0})
		c, base := at(last)
		for _, s := range k.states {
			to := &k.choices[s.choice]
			m := grade.Moment{From: c.Fingering, To: to.Fingering, Shift: p.Neck().Along(base, int(s.base)), Seconds: out.seconds, Count: pitch.Whole(0)}
			d := m.Profile(p)
			best = min(best, grade.Work(d.Total())+to.taste+m.Shift*tastePerMM)
		}
		sum += out.share * best
	}
	if w.ways.loop > 0 {
		sum += w.ways.loop * from(0, last, w.ways.back)
	}
	for _, l := range w.lines {
		for pass := range l.times {
			for i := l.start; i < l.end; i++ {
				switch {
				case i > l.start:
					sum += from(i, i-1, w.needs[i].gap)
				case pass > 0:
					sum += from(i, l.end-1, l.back)
				case i > 0:
					sum += from(i, i-1, w.needs[i].gap)
				}
			}
		}
	}
	return sum
}

// every calls f with every path through the events from first to before end.
func every(w *work, path []int, first, end int, f func()) {
	if first == end {
		f()
		return
	}
	for s := range w.needs[first].states {
		path[first] = s
		every(w, path, first+1, end, f)
	}
}

func paths(w *work) int {
	n := 1
	for i := range w.needs {
		n *= len(w.needs[i].states)
		if n > 30_000 {
			break
		}
	}
	return n
}

// thorough makes rapid draw thousands of examples.
func thorough(t *testing.T) {
	before := flag.Lookup("rapid.checks").Value.String()
	require.NoError(t, flag.Set("rapid.checks", "3000"))
	t.Cleanup(func() { flag.Set("rapid.checks", before) }) //nolint:errcheck // it was set before
}

// No version whatever is less work than the one that is found, with all its
// ways back and its neighbours; and the search's sums are those of the plain
// definitions.
func TestSearchAgainstBruteForce(t *testing.T) {
	thorough(t)
	tried := 0
	rapid.Check(t, func(t *rapid.T) {
		s, o, rung, way := drawSmall(t)
		w := New(s, o).solve(0, rung, way)
		if len(w.needs) == 0 || paths(w) > 30_000 {
			t.Skip("nothing to try, or too much")
		}
		tried++
		require.InDelta(t, w.cost, plainCost(w, w.path), 1e-9)
		require.InDelta(t, w.cost, w.total(w.path), 1e-9)
		path := make([]int, len(w.needs))
		best := math.Inf(1)
		every(w, path, 0, len(path), func() { best = min(best, w.total(path)) })
		require.InDelta(t, best, w.cost, 1e-9, "a cheaper version exists")
	})
	assert.Greater(t, tried, 2000)
}

// The alternatives of a bar are the cheapest that differ in their places.
func TestAlternativesAgainstBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, o, rung, way := drawSmall(t)
		w := New(s, o).solve(0, rung, way)
		if len(w.needs) == 0 || paths(w) > 30_000 {
			t.Skip("nothing to try, or too much")
		}
		w.write()
		for b := range w.bars {
			first, end := 0, 0
			for i := range w.needs {
				if w.needs[i].bar < b {
					first = i + 1
				}
				if w.needs[i].bar <= b {
					end = i + 1
				}
			}
			got := w.alternatives(b)
			if first == end {
				require.Empty(t, got)
				continue
			}
			best := map[string]float64{}
			path := append([]int(nil), w.path...)
			mine := fmt.Sprint(w.frets(first, w.path[first:end]))
			every(w, path, first, end, func() {
				shapes := fmt.Sprint(w.frets(first, path[first:end]))
				cost := w.total(path) - w.cost
				if old, ok := best[shapes]; !ok || cost < old {
					best[shapes] = cost
				}
			})
			delete(best, mine)
			require.Len(t, got, min(len(best), mostAlternatives))
			for i, a := range got {
				require.InDelta(t, max(best[fmt.Sprint(a.Shapes)], 0), a.Cost, 1e-9)
				require.NotEmpty(t, a.Why)
				cheaper := 0
				for _, cost := range best {
					if cost < a.Cost-1e-9 {
						cheaper++
					}
				}
				require.LessOrEqual(t, cheaper, i, "a cheaper alternative is missing")
			}
		}
	})
}

// An alternative that is pinned is what the version becomes.
func TestPinnedAlternativesAreTaken(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, o, rung, way := drawSmall(t)
		a := New(s, o)
		v := a.Explore(0, rung, way)
		for b := range v.Bars {
			for _, alternative := range v.Bars[b].Alternatives {
				pinned := way
				for _, p := range alternative.Pins {
					again, err := ParsePin(p.String())
					require.NoError(t, err)
					require.Equal(t, p, again)
					pinned = pinned.Pin(p)
				}
				u := a.Version(0, rung, pinned)
				require.Empty(t, u.Unmet)
				require.GreaterOrEqual(t, u.Work, v.Work-1e-9)
				require.LessOrEqual(t, u.Work, v.Work+alternative.Cost+1e-9, "the rest may only get better")
				for i, e := range u.Bars[b].Events {
					require.Equal(t, alternative.Shapes[i], e.Fingering.Frets)
				}
			}
		}
	})
}

// Slower music is never more work, and a search that may choose among more is
// never worse off.
func TestWorkIsOrdered(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, o, rung, way := drawSmall(t)
		tempo := rapid.Float64Range(40, 250).Draw(t, "tempo")
		o.Tempo = tempo
		fast := New(s, o).Version(0, rung, way)
		o.Tempo = tempo * rapid.Float64Range(0.3, 1).Draw(t, "slower")
		slow := New(s, o).Version(0, rung, way)
		require.LessOrEqual(t, slow.Work, fast.Work+1e-9)
		if rung == AsWritten {
			way.Replace = true
			require.LessOrEqual(t, New(s, o).Version(0, rung, way).Work, slow.Work+1e-9)
		}
		if rung == OneFinger {
			way.Prefer = OneString
			one := New(s, o).Version(0, rung, way)
			if !strings.Contains(strings.Join(one.Why, "; "), "moved") { // else it is another octave
				require.GreaterOrEqual(t, one.Work, slow.Work-1e-9)
			}
		}
	})
}

// A fixed version is never graded harder when it is slower.
func TestGradeOfTheSameFingeringWhenSlower(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, o, rung, way := drawSmall(t)
		w := New(s, o).solve(0, rung, way)
		measure := func(slower float64) float64 {
			var totals []float64
			for i := range w.needs {
				a, _ := w.hardestWay(i)
				m := w.momentBy(i, a)
				m.Seconds *= slower
				m.Pace *= slower
				p := m.Profile(w.options.Player)
				totals = append(totals, p.Total())
			}
			return grade.Of(totals)
		}
		require.LessOrEqual(t, measure(rapid.Float64Range(1, 4).Draw(t, "slower")), measure(1)+1e-9)
	})
}

// On the same roots in standard tuning, more notes are never less work, where
// no barre is involved.
func TestMoreNotesAreMoreWork(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var b strings.Builder
		fmt.Fprintf(&b, "tempo: %d\nA:\n|", rapid.IntRange(60, 250).Draw(t, "tempo"))
		for range rapid.IntRange(1, 8).Draw(t, "events") {
			fmt.Fprintf(&b, " %d%s", rapid.IntRange(1, 9).Draw(t, "fret"), rapid.SampledFrom([]string{"E", "A"}).Draw(t, "string"))
		}
		s := read(t, b.String()+" |\n")
		a := New(s, Options{Player: hand.Player{NoBarre: true}})
		way := Way{FullRhythm: true}
		one, two, three := a.Version(0, OneFinger, way), a.Version(0, TwoNote, way), a.Version(0, ThreeNote, way)
		require.LessOrEqual(t, one.Work, two.Work+1e-9)
		require.LessOrEqual(t, two.Work, three.Work+1e-9)
	})
}
