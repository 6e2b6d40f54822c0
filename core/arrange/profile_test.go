package arrange

import (
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

// Whatever the hand, no easier version asks it for what it does not do.
func TestVersionsKeepToTheProfile(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawPart(t)
		p := hand.Player{Reach: rapid.Float64Range(40, 140).Draw(t, "reach"), NoBarre: rapid.Bool().Draw(t, "no barre"),
			NoLittle: rapid.Bool().Draw(t, "no little"), Thumb: rapid.Bool().Draw(t, "thumb")}
		a := New(s, Options{Player: p})
		for _, rung := range []Rung{OneFinger, TwoNote, Octave, ThreeNote} {
			for _, b := range a.Version(0, rung, Way{}).Bars {
				for _, e := range b.Events {
					require.True(t, e.Fingering.Playable(a.set.at), "%v on %s", e.Fingering, rung)
					silent := map[neck.String]bool{}
					for _, m := range e.Mutes {
						silent[m.String] = true
					}
					for i, fret := range e.Fingering.Frets {
						if e.Fingering.Sounding() > 1 {
							require.Equal(t, fret < 0, silent[neck.StringAt(i)], "every string of a chord sounds or is muted")
						}
						require.False(t, fret >= 0 && silent[neck.StringAt(i)])
					}
				}
			}
		}
	})
}

func TestThinning(t *testing.T) {
	fast := func(body string, nps float64, way Way) Version {
		return New(read(t, "tempo: 120\n"+body), Options{Player: hand.Player{NotesPerSecond: nps}}).Version(0, OneFinger, way)
	}
	const body = "A:\n| (0E 0E) 0E (3E 5E) 7E! |\n"
	assert.Equal(t, "0E 0E 0E 3E 5E 7E", played(fast(body, 10, Way{})), "what is comfortable stays")
	thin := fast(body, 3, Way{})
	assert.Equal(t, "0E 0E 3E 7E", played(thin))
	assert.Equal(t, []Dropped{{pitch.F(1, 8), "&", RepeatedNote}, {pitch.F(5, 8), "&", PassingNote}}, thin.Bars[0].Dropped)
	assert.True(t, saysOf[LeftOut](thin.Bars[0]))
	first := fast("A:\n| (3E 4E) 5E 7E 8E |\n", 3, Way{})
	assert.Equal(t, []Dropped{{pitch.F(1, 8), "&", PassingNote}}, first.Bars[0].Dropped, "between the first note and the next")
	assert.Equal(t, pitch.F(1, 4), thin.Bars[0].Events[0].Length, "what stays sounds on")
	assert.Equal(t, "0E 0E 0E 3E 5E 7E", played(fast(body, 3, Way{FullRhythm: true})), "unless the teacher wants it all")
	// Four strokes a beat are 5.13 a second at 77 and 5.2 at 78; who is comfortable with 5
	// plays 3 % more, and no more.
	at := func(tempo int) string {
		v := New(read(t, fmt.Sprintf("tempo: %d\nA:\n| (0E 0E 0E 0E) 3E 5E 7E |\n", tempo)), Options{Player: hand.Player{NotesPerSecond: 5}}).Version(0, OneFinger, Way{})
		return played(v)
	}
	assert.Equal(t, "0E 0E 0E 0E 3E 5E 7E", at(77))
	assert.Equal(t, "0E 0E 3E 5E 7E", at(78))
	beats := fast("A:\n| 0E 3E 5E 7E |\n", 0.5, Way{})
	assert.Len(t, beats.Bars[0].Events, 4, "beats stay, however fast")
	chords := fast("A:\n| (E5 G5) A5 E5 - |\n", 0.5, Way{})
	assert.Len(t, chords.Bars[0].Events, 4, "so does a change of chord")
	again := fast("A:\n| (x 3E 5E) 5E 3E 3E |\n| (x 3E 5E) 5E 3E 3E |\n", 3, Way{})
	assert.Equal(t, "x 3E 5E 5E 3E 3E | x 3E 5E 5E 3E 3E", played(fast("A:\n| (x 3E 5E) 5E 3E 3E |\n| (x 3E 5E) 5E 3E 3E |\n", 10, Way{})))
	assert.Equal(t, "x 3E 5E 3E 3E | x 3E 5E 3E 3E", played(again), "what begins the line stays wherever the bar comes again")
	asWritten := New(read(t, "tempo: 300\n"+body), Options{Player: hand.Player{NotesPerSecond: 1}}).Version(0, AsWritten, Way{})
	assert.Len(t, asWritten.Bars[0].Events, 6, "as written is as written")
}

// Thinning leaves the strokes as far apart as it may, keeps every beat, and
// loses no time.
func TestThinningProperties(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawPart(t)
		nps := rapid.Float64Range(0.5, 10).Draw(t, "nps")
		v := New(s, Options{Player: hand.Player{NotesPerSecond: nps}}).Version(0, OneFinger, Way{})
		bars := s.Parts[0].Bars()
		for b, bar := range v.Bars {
			sounding := 0
			for _, e := range bars[b].Events {
				if e.Sounds() {
					sounding++
				}
			}
			require.Equal(t, sounding, len(bar.Events)+len(bar.Dropped), "everything is played or listed")
			for a := range b {
				if reflect.DeepEqual(bars[a].Events, bars[b].Events) {
					require.Equal(t, starts(v.Bars[a].Events), starts(bar.Events), "bar %d is bar %d again", b+1, a+1)
				}
			}
			for _, e := range bars[b].Events {
				if e.Sounds() && e.Start.Div(s.Parts[0].Meter.Beat()).Den() == 1 {
					require.True(t, has(bar.Events, e.Start), "the beat at %s", e.Start)
				}
			}
		}
	})
}

func starts(events []Event) (list []pitch.Frac) {
	for _, e := range events {
		list = append(list, e.Start)
	}
	return list
}

func has(events []Event, start pitch.Frac) bool {
	for _, e := range events {
		if e.Start == start {
			return true
		}
	}
	return false
}

func TestOrnamentsStepDown(t *testing.T) {
	s := read(t, "A:\n| 5G h7G p5G s9G 7Gb2 12Bo t12G 5G~ |\n")
	a := New(s, Options{})
	version := a.Version(0, OneFinger, Way{}).Bars[0]
	for i, want := range []grade.Trimming{1: {By: song.Hammered}, 2: {By: song.PulledOff}, 3: {By: song.Slid}, 4: {Bend: 200}, 7: {Vibrato: true}} {
		if want != (grade.Trimming{}) {
			assert.Contains(t, version.Events[i].Why, Reduced{want})
		}
	}
	assert.Equal(t, []Fact{Reason{Why: TypedNotes}}, version.Events[5].Why, "a harmonic is a touch of one finger where it is")
	assert.Equal(t, LowestOfRun, version.Events[6].Why[0].(Reason).Why)
	written := a.Version(0, AsWritten, Way{})
	plain := New(read(t, "A:\n| 5G 7G 5G 9G 7G 12B 12G 5G |\n"), Options{}).Version(0, AsWritten, Way{})
	assert.Greater(t, written.Grade, plain.Grade, "ornaments ask for something")
	learner := New(s, Options{Player: hand.Player{New: hand.Bends | hand.Tapping}}).Version(0, AsWritten, Way{})
	assert.Greater(t, learner.Grade, written.Grade, "and for more where they are new")
	second := read(t, "A:\n| 0E - 0E - |\nlead | 12B - - 10B |\n")
	assert.Contains(t, New(second, Options{}).Version(0, AsWritten, Way{}).Why, SecondPlayer{"lead"})
}

func TestPins(t *testing.T) {
	s := read(t, "A:\n| 7A 5A 0D 2D | 3A - 5A - |\n")
	a := New(s, Options{})
	pin := func(texts ...string) Version {
		var way Way
		for _, text := range texts {
			p, err := ParsePin(text)
			require.NoError(t, err, text)
			assert.Equal(t, text, p.String())
			way = way.Pin(p)
		}
		again, err := ParseWay(way.String())
		require.NoError(t, err)
		assert.Equal(t, way, again)
		return a.Version(0, AsWritten, Way{Replace: true, Pins: way.Pins})
	}
	assert.Equal(t, "7A 5A 5A 7A | 3A 5A", played(pin("all: string A")))
	assert.Equal(t, "12E 10E 0D 7A | 8E 10E", played(pin("bar 1 at 0: string E", "bar 1 at 1/4: frets 10-10")))
	region := pin("all: frets 5-9")
	assert.Equal(t, "7A 5A 5A 7A | 8E 5A", played(region))
	assert.Empty(t, region.Unmet)
	assert.True(t, region.Bars[0].Events[0].Pinned)
	finger := pin("bar 2 at 0: shape x3xxxx", "bar 2 at 0: finger 3")
	assert.Equal(t, hand.Ring, finger.Bars[1].Events[0].Fingering.Fingers[1])

	impossible := pin("all: string e", "bar 2: frets 20-24")
	require.NotEmpty(t, impossible.Unmet)
	assert.Equal(t, NotThere, impossible.Unmet[0].Why)
	assert.NotEmpty(t, impossible.Unmet[0].Could)
	assert.NotEmpty(t, played(impossible), "and the nearest is played")

	for _, bad := range []string{"", "bar 1", "bar x: string A", "bar 0: string A", "bar 1 near 2: string A", "bar 1 at x: string A", "all: string H",
		"all: frets 9-5", "all: frets x", "all: finger 7", "all: shape 12", "all: key of C", ": string A"} {
		_, err := ParsePin(bad)
		assert.ErrorContains(t, err, "write it like", bad)
	}
	way := Way{}.Pin(Pin{Bar: 1, What: PinString, On: 5}).Pin(Pin{Bar: 1, What: PinString, On: 6}).Pin(Pin{What: PinRegion, To: 5})
	assert.Equal(t, "bar 1: string E\nall: frets 0-5", way.String(), "a pin takes the place of its like")
	assert.Equal(t, "all: frets 0-5", way.Without("bar 1: string E").String())
	assert.Empty(t, way.Without("all pins").String())
}

func TestBarsThatAreAlike(t *testing.T) {
	v := New(read(t, "A:\n| 5E 7E 8E 5E | 5A 7A 8A 5A | 7E 9E 10E 7E | 5E 7E 8E 5E | 0E 0E 0E 0E | 5D 7D 8D 5D | 5D 7D 5G 7G | 5G 7G 6B 8B |\n"), Options{}).Version(0, AsWritten, Way{})
	last := func(b int) Fact { return v.Bars[b-1].Why[len(v.Bars[b-1].Why)-1].Fact }
	assert.Equal(t, ShapeOf{1, 1}, last(2))
	assert.Equal(t, ShapeAlong{1, 2}, last(3))
	assert.Equal(t, SameAs{1}, last(4))
	assert.Equal(t, OnlyOpen{6}, last(5), "one note over and over is nothing to recognise")
	assert.Equal(t, ShapeOf{1, 2}, last(6))
	assert.IsType(t, LineMoved{}, last(8))
	line := New(read(t, "A:\n| 0E 2E 3E 5E | 5E 2A 3A 0D |\n"), Options{}).Version(0, AsWritten, Way{})
	assert.Equal(t, LineMoved{1, 5}, line.Bars[1].Why[len(line.Bars[1].Why)-1].Fact)
	other := New(read(t, "A:\n| 5A 7A 5A 7A | 5A h7A 5A 7A |\n"), Options{}).Version(0, AsWritten, Way{})
	assert.Equal(t, SameNotesAs{1}, other.Bars[1].Why[len(other.Bars[1].Why)-1].Fact, "the same only where ornaments are")
	parts := New(read(t, "A:\n| 0E 2E 3E 5E 7E 5E 3E |\nB:\n| 0A 2A 3A 5A 7A 5A 3A |\n"), Options{}).Version(1, AsWritten, Way{})
	assert.Contains(t, parts.Why, LineOfPart{"A", 5})
}

func TestLadderIsOrdered(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		a := New(drawPart(t), Options{})
		ladder := a.Ladder(0, nil)
		rungs, not := a.Offered(0, nil)
		require.Len(t, Rungs, len(rungs)+len(not))
		for _, r := range not {
			require.NotNil(t, r.Why, "a rung that is not offered says why")
		}
		want := len(rungs)
		require.Len(t, ladder, want)
		seen := map[Rung]bool{}
		for i, v := range ladder {
			seen[v.Rung] = true
			if i > 0 {
				require.GreaterOrEqual(t, v.Grade, ladder[i-1].Grade)
				if v.Grade == ladder[i-1].Grade {
					require.Contains(t, v.Even, ladder[i-1].Rung, "equals are said to be")
				}
			}
		}
		require.Len(t, seen, want)
	})
}

// Demands that nothing can meet get a version and an explanation.
func TestImpossibleDemands(t *testing.T) {
	s := read(t, "capo: 9\nA:\n| C#m7b5/G 12B 15e | F=133211 |\n")
	low, err := neck.Parse("E1 A1 D2 G2 B2 E3")
	require.NoError(t, err)
	for _, o := range []Options{{Player: hand.Player{Reach: 20}}, {Tempo: 400}, {Tuning: &low}, {Player: hand.Player{NoBarre: true, NoLittle: true, NotesPerSecond: 0.1}}} {
		for _, rung := range Rungs {
			v := New(s, o).Version(0, rung, Way{Pins: []Pin{{What: PinRegion, Low: 23, To: 24}, {What: PinFinger, Finger: 4}}})
			require.NotEmpty(t, v.Unmet, "%v", rung)
		}
	}
	tight := New(read(t, "A:\n| F=133211 |\n"), Options{Player: hand.Player{Reach: 20}}).Version(0, AsWritten, Way{})
	assert.True(t, saysOf[BeyondReach](tight.Bars[0]))
	assert.Empty(t, New(read(t, "A:\n"), Options{}).Ladder(0, nil)[0].Bars, "a part without bars is no trouble")
}

// A song that parses can be arranged for any profile.
func FuzzArrange(f *testing.F) {
	f.Add("title: T\nA:\n| 0A 3A+5D Em7 x | . h7G (2D 4D) 12Bo | x3\n", uint16(90), uint16(0), "", byte(2))
	f.Add("title: T\ntuning: drop C\ncapo: 12\norder: A x2, B\nA:\n| C/G NC |\nB:\n| % |\n", uint16(20), uint16(0xffff), "all: frets 3-8\nthicken accents", byte(0))
	f.Fuzz(func(t *testing.T, text string, reach, skills uint16, way string, flags byte) {
		s := sheet.Parse(text).Song
		bars := 0
		for i := range s.Parts {
			bars += s.Parts[i].Written()
		}
		if bars > 60 {
			t.Skip("long")
		}
		p := hand.Player{Reach: float64(reach), New: hand.Skills(skills), NoBarre: flags&1 > 0, NoLittle: flags&2 > 0, Thumb: flags&4 > 0,
			Acoustic: flags&8 > 0, Picking: hand.Pickings[int(flags>>4)%3], NotesPerSecond: float64(flags)}
		wish, _ := ParseWay(way)
		a := New(s, Options{Player: p})
		for i := range s.Parts {
			for _, r := range Rungs {
				v := a.Version(i, r, wish)
				a.Alternatives(i, r, wish, 1, 0)
				if len(v.Bars) != s.Parts[i].Written() {
					t.Fatalf("%s has %d bars", r, len(v.Bars))
				}
			}
		}
	})
}

// variedBars is a part in which no two bars are alike.
func variedBars(n int) *song.Song {
	var b strings.Builder
	b.WriteString("title: Varied\nkey: A minor\nA:\n")
	next := uint32(1)
	pick := func(n int) int {
		next = next*1664525 + 1013904223
		return int(next>>8) % n
	}
	chords := []string{"Am7", "F", "C/G", "Em", "Dm7", "G"}
	for range n {
		b.WriteString("|")
		for range 8 {
			s := "EADGBe"[pick(6)]
			switch pick(10) {
			case 0:
				b.WriteString(" -")
			case 1:
				b.WriteString(" " + chords[pick(len(chords))])
			case 2:
				f := pick(8)
				fmt.Fprintf(&b, " %dA+%dD", f, f+2)
			default:
				fmt.Fprintf(&b, " %d%c", pick(13), s)
			}
		}
		b.WriteString(" |\n")
	}
	return sheet.Parse(b.String()).Song
}

func BenchmarkVariedBars(b *testing.B) {
	for _, bars := range []int{10, 100, 1000, 2000} {
		s := variedBars(bars)
		b.Run(fmt.Sprintf("bars=%d", bars), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				New(s, Options{}).Ladder(0, nil)
			}
		})
	}
}

func BenchmarkAlternatives(b *testing.B) {
	s := variedBars(100)
	b.ReportAllocs()
	for b.Loop() {
		New(s, Options{}).Alternatives(0, TwoNote, Way{}, 50, 0)
	}
}

// saysOf tells whether a fact of a type is said of a bar.
func saysOf[F Fact](b Bar) bool {
	return slices.ContainsFunc(b.Why, func(s Said) bool { _, ok := s.Fact.(F); return ok })
}

func BenchmarkWork(b *testing.B) {
	g := grade.Over(0.25)
	for b.Loop() {
		grade.Work(g.Total(30, 2, 1))
	}
}

// What only some play is left out where it is made easier, however slow it is, and kept
// where it is played as it is written or with the full rhythm.
func TestOptionalNotes(t *testing.T) {
	const riff = "tempo: 40\nA:\n| 0E 3E 5E? 7E? | 3E 5E 3E 7E? |\n"
	for _, c := range []struct {
		body string
		rung Rung
		way  Way
		want string
	}{
		{riff, OneFinger, Way{}, "0E 3E | 3E 5E 3E"},
		{riff, TwoNote, Way{}, "0E+2A 3E+5A | 3E+5A 5E+7A 3E+5A"},
		{riff, OneFinger, Way{FullRhythm: true}, "0E 3E 5E 7E | 3E 5E 3E 7E"},
		{riff, AsWritten, Way{}, "0E 3E 5E 7E | 3E 5E 3E 7E"},
		{"A:\n| 3A? 5A? |\n", OneFinger, Way{}, "3A 5A"},
		{"A:\n| C5=x355xx D5=x577xx? |\n", TwoNote, Way{}, "3A+5D"},
	} {
		v := New(read(t, c.body), Options{}).Version(0, c.rung, c.way)
		assert.Equal(t, c.want, played(v), "%s of %s", c.rung, c.body)
		for i, b := range v.Bars {
			for _, d := range b.Dropped {
				assert.Equal(t, OptionalNote, d.What, "bar %d", i)
			}
		}
	}
	v := New(read(t, riff), Options{}).Version(0, OneFinger, Way{})
	assert.Equal(t, []Dropped{{pitch.F(1, 2), "3", OptionalNote}, {pitch.F(3, 4), "4", OptionalNote}}, v.Bars[0].Dropped)
	assert.Equal(t, pitch.F(3, 4), v.Bars[0].Events[1].Length, "what is before it sounds on")

	fast := New(read(t, "tempo: 200\nA:\n| 0E 0E? 0E 0E  0E 0E 0E 3E |\n"), Options{}).Version(0, OneFinger, Way{})
	kinds := map[DroppedKind]bool{}
	for _, d := range fast.Bars[0].Dropped {
		kinds[d.What] = true
	}
	assert.True(t, kinds[OptionalNote] && kinds[RepeatedNote], "thinning forgets nothing that is left out before: %v", fast.Bars[0].Dropped)
}
