package arrange

import (
	"flag"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// book is shared by the tests that make many arrangers.
var book = new(voicing.Book)

// drawSmall draws a song small enough to try every version of its part: lines
// with repeats, a roadmap in which parts loop and follow one another, any
// tuning.
func drawSmall(t *rapid.T) (*song.Song, Options, Rung, Way) {
	slot := rapid.SampledFrom([]string{"0E", "3A", "5A", "7D", "2G", "12B", "0e", "x", "3A+5D", "E5", "G", ".", "-", "h5A", "9A", "8D", "7Db2 r7D", "/5A", "5A\\_"})
	var b strings.Builder
	fmt.Fprintf(&b, "tuning: %s\ntempo: %d\n", rapid.SampledFrom([]string{"standard", "drop D", "open G"}).Draw(t, "tuning"), rapid.IntRange(60, 300).Draw(t, "tempo"))
	if order := rapid.SampledFrom([]string{"", "A x2", "A, B", "B, A, B", "A x3, B, A", "B"}).Draw(t, "order"); order != "" {
		fmt.Fprintf(&b, "order: %s\n", order)
	}
	b.WriteString("A:\n" + rapid.SampledFrom([]string{"", "pickup: 1\n", "pickup: 1/2\nring: yes\n"}).Draw(t, "pickup"))
	left := rapid.IntRange(1, 4).Draw(t, "events")
	for left > 0 {
		n := rapid.IntRange(1, left).Draw(t, "line")
		left -= n
		b.WriteString("|" + rapid.SampledFrom([]string{"", " [2/4]"}).Draw(t, "bar's own time"))
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
		Picking: rapid.SampledFrom(hand.Pickings).Draw(t, "picking"),
		NoBarre: rapid.Bool().Draw(t, "no barre"),
	}}
	return read(t, b.String()), o, rapid.SampledFrom(Rungs).Draw(t, "rung"), Way{FullRhythm: true}
}

// plainCost adds up what states cost by walking through the part as it is
// played, pass by pass.
func plainCost(p *search, states []state) float64 {
	c := newChanges(p)
	offerFor := func(i int) *offer { return &p.offers[p.need[i].offer] }
	from := func(before, i int, seconds float64) float64 {
		s := c.step(offerFor(before), offerFor(i), p.need[i].fixed, seconds)
		return s.cost(states[before], states[i]) + offerFor(i).choices[states[i].choice].taste
	}
	first, last := p.score.ends()
	if first < 0 {
		return 0 // dead strokes alone
	}
	open := offerFor(first).choices[states[first].choice]
	ways := p.score.ways
	sum := ways.beginning * (grade.Work(p.need[first].fixed+open.hold) + open.taste)
	for _, in := range ways.in {
		k := &p.offers[p.offerOf(offerKey{content: in.content, main: true, held: -1})]
		s := c.step(k, offerFor(first), p.need[first].fixed, in.seconds)
		best := math.Inf(1)
		for _, other := range p.statesOf(k) {
			best = min(best, s.cost(other, states[first]))
		}
		sum += in.share * (best + open.taste)
	}
	for _, out := range ways.out {
		k := &p.offers[p.offerOf(offerKey{content: out.content, main: true, held: -1})]
		s := c.step(offerFor(last), k, 0, out.seconds)
		best := math.Inf(1)
		for _, other := range p.statesOf(k) {
			best = min(best, s.cost(states[last], other)+k.choices[other.choice].taste)
		}
		sum += out.share * best
	}
	if ways.loop > 0 {
		sum += ways.loop * from(last, first, ways.back)
	}
	for _, l := range p.score.lines {
		for pass := range l.times {
			before := -1 // the last that sounded in this pass
			for i := l.start; i < l.end; i++ {
				e := p.score.events[i]
				if e.from.Dead() {
					continue
				}
				switch {
				case before >= 0:
					sum += from(before, i, nano(e.at-p.score.events[before].at))
				case pass > 0:
					sum += from(l.last, i, l.back)
				case e.before >= 0:
					sum += from(e.before, i, e.gap)
				}
				before = i
			}
		}
	}
	return sum
}

// every calls f with every choice of states in which what is one choice is.
func every(p *search, f func([]state)) {
	nodes := map[node][]int{}
	var order []node
	for i := range p.need {
		if p.score.events[i].from.Dead() {
			continue
		}
		n := p.nodeOf(i)
		if nodes[n] == nil {
			order = append(order, n)
		}
		nodes[n] = append(nodes[n], i)
	}
	states := make([]state, len(p.need))
	var from func(int)
	from = func(k int) {
		if k == len(order) {
			f(states)
			return
		}
		for _, s := range p.offers[order[k].offer].states {
			for _, i := range nodes[order[k]] {
				states[i] = s
			}
			from(k + 1)
		}
	}
	from(0)
}

// tries is how many choices there are, counted up to a bound.
func tries(p *search, most int) int {
	n := 1
	seen := map[node]bool{}
	for i := range p.need {
		if key := p.nodeOf(i); !seen[key] {
			seen[key] = true
			n *= len(p.offers[p.need[i].offer].states)
		}
		if n > most {
			break
		}
	}
	return n
}

// No version whatever is less work than the one that is found, with all its
// ways back, its neighbours and what has to come out alike. Where rapid is told to
// look further than it does by itself, larger parts are tried too.
func TestSolveAgainstBruteForce(t *testing.T) {
	checks, most := flag.Lookup("rapid.checks").Value, 2_000
	if before := checks.String(); before == "100" {
		require.NoError(t, checks.Set("1000"))
		t.Cleanup(func() { require.NoError(t, checks.Set(before)) })
	} else {
		most = 30_000
	}
	drawn, tried := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		drawn++
		s, o, rung, way := drawSmall(t)
		sol, _ := solve(New(s, o).set, New(s, o).score(0), rung.row(), way)
		p := sol.search
		if len(p.need) == 0 || tries(p, most) > most {
			return // nothing to try, or too much
		}
		tried++
		require.InDelta(t, sol.cost, plainCost(p, sol.states), 1e-6)
		best := math.Inf(1)
		every(p, func(states []state) { best = min(best, plainCost(p, states)) })
		require.InDelta(t, best, sol.cost, 1e-6, "a cheaper version exists")
		require.True(t, sol.exact)
	})
	assert.Greater(t, tried, drawn/3)
}

// What the search adds up for a stroke is what its moment is measured to ask.
func TestDemandsAreThoseOfMoments(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, o, rung, way := drawSmall(t)
		a := New(s, o)
		sol, _ := solve(a.set, a.score(0), rung.row(), way)
		w := &writer{solution: sol, changes: newChanges(sol.search)}
		for i := range sol.need {
			by, total := w.hardestWay(i)
			m := w.momentBy(i, by)
			if tapped, ok := single(sol.score.events[i].from); ok && tapped.By == song.Tapped {
				continue // the picking hand's
			}
			if by.from < 0 {
				m.Seconds = 0
			}
			profile := m.Profile(a.set.at)
			require.InDelta(t, total, profile.Total(), 1e-9)
		}
	})
}

// An alternative that is pinned is what the version becomes, and each is a way
// that the version's own is not dearer than.
func TestPinnedAlternativesAreTaken(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, o, rung, way := drawSmall(t)
		a := New(s, o)
		for bar := range s.Parts[0].Written() {
			pass := 0
			if s.Parts[0].Lines[0].Times > 1 {
				pass = rapid.IntRange(0, s.Parts[0].Lines[0].Times).Draw(t, "pass")
			}
			for _, alternative := range a.Alternatives(0, rung, way, bar+1, pass) {
				pinned := way
				for _, p := range alternative.Pins {
					again, err := ParsePin(p.String())
					require.NoError(t, err)
					require.Equal(t, p, again)
					pinned = pinned.Pin(p)
				}
				u := a.Version(0, rung, pinned)
				require.Empty(t, u.Unmet)
				for _, p := range alternative.Pins {
					require.Equal(t, p.Shape, shapeAt(&u, p), "%v", p)
				}
			}
		}
	})
}

// shapeAt is the shape of a version where a pin speaks of an event.
func shapeAt(v *Version, pin Pin) neck.Frets {
	bar := &v.Bars[pin.Bar-1]
	for i := range v.Passes {
		if p := &v.Passes[i]; p.Number == pin.Bar && p.Pass == pin.Pass {
			bar = &p.Bar
		}
	}
	for _, e := range bar.Events {
		if e.Start == pin.Start {
			return e.Fingering.Frets
		}
	}
	return neck.NoFrets
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
	})
}

// The rules that hold a version together, whatever the music: a bar that is
// written as another is played as it is, the same chord is the same shape, a
// slide keeps its finger, a hammered note has a higher one and a pulled-off one a
// lower, and no easier rung lies more than two frets above what was typed where
// it can lie lower.
func TestRulesOfVersions(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var b strings.Builder
		b.WriteString("key: A minor\nA:\n")
		bars := rapid.IntRange(1, 3).Draw(t, "bars")
		var written []string
		for range bars {
			bar := "|"
			for range rapid.IntRange(1, 6).Draw(t, "slots") {
				fret := rapid.IntRange(1, 9).Draw(t, "fret")
				str := rapid.SampledFrom([]string{"E", "A", "D"}).Draw(t, "string")
				bar += " " + rapid.SampledFrom([]string{fmt.Sprintf("%d%s", fret, str), fmt.Sprintf("%d%s s%d%s", fret, str, fret+2, str),
					fmt.Sprintf("%d%s h%d%s p%d%s", fret, str, fret+2, str, fret, str), "Am", "F", "G", "E5", "0E", "x"}).Draw(t, "slot")
			}
			written = append(written, bar+" |")
		}
		order := rapid.SliceOfN(rapid.IntRange(0, bars-1), 2, 6).Draw(t, "order")
		for _, i := range order {
			b.WriteString(written[i] + "\n")
		}
		s := read(t, b.String())
		a := New(s, Options{Book: book})
		for _, rung := range Rungs {
			v := a.Version(0, rung, Way{})
			first := map[int]int{}
			shape := map[string]neck.Frets{}
			for at, bar := range v.Bars {
				if seen, ok := first[order[at]]; ok {
					for i, e := range bar.Events {
						require.Equal(t, v.Bars[seen].Events[i].Fingering, e.Fingering, "%s: bar %d is bar %d again", rung, at+1, seen+1)
					}
				} else {
					first[order[at]] = at
				}
				for i, e := range bar.Events {
					if e.From.Kind == song.Chord && len(e.Notes) > 1 {
						if known, ok := shape[e.From.Chord.Symbol]; ok {
							require.Equal(t, known, e.Fingering.Frets, "%s as %s", e.From.Chord, rung)
						}
						shape[e.From.Chord.Symbol] = e.Fingering.Frets
					}
					n, ok := single(e.From)
					if !ok || i == 0 || len(e.Notes) != 1 {
						continue
					}
					if rung == AsWritten {
						before, now := bar.Events[i-1].Fingering.Fingers[n.String.Index()], e.Fingering.Fingers[n.String.Index()]
						switch n.By {
						case song.Slid:
							require.Equal(t, before, now, "a slide keeps its finger")
						case song.Hammered:
							require.Greater(t, now, before)
						case song.PulledOff:
							require.Less(t, now, before)
						}
					}
					if rung == OneFinger {
						require.LessOrEqual(t, e.Notes[0].Fret, n.Fret+2, "no note is moved up the neck to save a finger")
					}
				}
			}
		}
	})
}

// A rung lies at most two frets above what is typed where it can lie elsewhere.
func TestHowFarARungIsAboveWhatIsTyped(t *testing.T) {
	offers := func(chord, frets string) bool {
		want, err := neck.ParseFrets(frets)
		require.NoError(t, err)
		a := New(read(t, "A:\n| "+chord+" |\n"), Options{})
		p := newSearch(a.set, a.score(0), TwoNote.row(), Way{}, 0)
		return slices.ContainsFunc(p.offers[p.need[0].offer].choices, func(c choice) bool { return c.Frets == want })
	}
	assert.True(t, offers("0D+2G+3B+2e", "x57xxx"), "fret 5 over a typed 3")
	assert.True(t, offers("2D+4G+5B+4e", "x79xxx"), "fret 7 over a typed 5")
	assert.False(t, offers("0A+2D+2G+2B+0e", "57xxxx"), "fret 5 over a typed 2, and there is the open string")
	assert.False(t, offers("3A+2D+0G+1B+0e", "8-10-x-x-x-x"), "fret 8 over a typed 3")
}
