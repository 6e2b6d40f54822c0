package play

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/sheet"
	"valleyside/core/sheet/sheettest"
	"valleyside/core/song"
)

func read(t require.TestingT, body string) *song.Song {
	s := sheet.Parse("title: T\n" + body)
	require.True(t, s.OK(), "%v", s.Problems)
	return s.Song
}

// written plays a song as it is written.
func written(s *song.Song, o Options) *Timeline {
	return Of(s, Arrange(s, arrange.Options{Tempo: o.Tempo}, func(int) Choice { return Choice{Rung: arrange.AsWritten} }), o)
}

// said is what a strike is, in short: when, for how long, what and how.
func said(k Strike) string {
	what := "x"
	if k.How != Dead {
		what = fmt.Sprint(k.Fret)
	}
	text := fmt.Sprintf("%.3f+%.3f %s%s", k.At, k.Length, what, k.String)
	if k.How != Picked && k.How != Dead {
		text += " " + k.How.String()
	}
	if k.Player != "" {
		text += " " + k.Player
	}
	return text
}

func strikes(tl *Timeline) (list []string) {
	for _, k := range tl.Strikes {
		list = append(list, said(k))
	}
	return list
}

// What sounds when, for cases whose times were worked out by hand.
func TestTimes(t *testing.T) {
	for _, c := range []struct {
		name, body string
		options    Options
		want       []string
		seconds    float64
	}{
		{"eighths at 120, one held, one stopped by a rest", "tempo: 120\nA:\n| 0A 3A - 5A . 2D - - |\n", Options{},
			[]string{"0.000+0.250 0A", "0.250+0.500 3A", "0.750+0.250 5A", "1.250+0.750 2D"}, 2},
		{"the first beat comes after what is counted in", "tempo: 60\nA:\n| 0A - |\n", Options{CountIn: 1}, []string{"4.000+4.000 0A"}, 8},
		{"swung eighths take two thirds and one", "tempo: 60\nfeel: swing\nA:\n| 0A 3A 0A 3A 0A 3A 0A 3A |\n", Options{},
			[]string{"0.000+0.667 0A", "0.667+0.333 3A", "1.000+0.667 0A", "1.667+0.333 3A", "2.000+0.667 0A", "2.667+0.333 3A", "3.000+0.667 0A", "3.667+0.333 3A"}, 4},
		{"a sound goes on into the repeat that begins with it", "tempo: 60\nA:\n| 0A - 3A - |\n| - - 5A - | x2\n", Options{},
			[]string{"0.000+2.000 0A", "2.000+4.000 3A", "6.000+4.000 5A", "10.000+2.000 5A"}, 12},
		{"a changed last pass is the next line", "tempo: 120\nA:\n| 0A - - - | x2\n| 3A - - - |\n", Options{},
			[]string{"0.000+2.000 0A", "2.000+2.000 0A", "4.000+2.000 3A"}, 6},
		{"a part at another tempo in another time", "tempo: 120\norder: A, B, A\nA:\n| 0A |\nB:\ntime: 6/8\ntempo: 60\n| 3A - - 5A - - |\n", Options{},
			[]string{"0.000+2.000 0A", "2.000+1.000 3A", "3.000+1.000 5A", "4.000+2.000 0A"}, 6},
		{"at half the tempo twice as long, each part in its relation", "tempo: 120\norder: A, B\nA:\n| 0A |\nB:\ntempo: 60\n| 3A |\n", Options{Tempo: 60},
			[]string{"0.000+4.000 0A", "4.000+8.000 3A"}, 12},
		{"written bars of a part, looped", "tempo: 120\nA:\n| 0A | 1A | x3\n| 2A | 3A |\n", Options{Only: true, From: 2, To: 3, Loop: 2},
			[]string{"0.000+2.000 1A", "2.000+2.000 2A", "4.000+2.000 1A", "6.000+2.000 2A"}, 8},
		{"a part alone with its repeats", "tempo: 120\norder: A\nA:\n| 0A |\nB:\n| 1A | x2\n", Options{Only: true, Part: 1}, []string{"0.000+2.000 1A", "2.000+2.000 1A"}, 4},
		{"ornaments, and none where nothing sounds before", "tempo: 60\nA:\n| 5D h7D p5D s9D . h7D t12D 5G' |\n", Options{},
			[]string{"0.000+0.500 5D", "0.500+0.500 7D hammered", "1.000+0.500 5D pulled", "1.500+0.500 9D slid", "2.500+0.500 7D", "3.000+0.500 12D tapped", "3.500+0.250 5G"}, 4},
		{"a pickup, counted in with what it leaves out", "tempo: 60\nA:\npickup: 1\n| 0A 3A | 5A - - - |\n", Options{CountIn: 1},
			[]string{"7.000+0.500 0A", "7.500+0.500 3A", "8.000+4.000 5A"}, 12},
		{"a swung pickup of half a beat is its short half", "tempo: 60\nfeel: swing\nA:\npickup: 0.5\n| 0A | 3A 5A 3A 5A 3A 5A 3A 5A |\n", Options{Only: true, From: 1, To: 1}, []string{"0.000+0.333 0A"}, 1.0 / 3},
		{"a bar in another time", "tempo: 60\nA:\n| 0A - - - | [2/4] 3A 5A | 0A |\n", Options{}, []string{"0.000+4.000 0A", "4.000+1.000 3A", "5.000+1.000 5A", "6.000+4.000 0A"}, 10},
		{"a bend that is let down, and slides from and to nowhere", "tempo: 60\nA:\n| 7Gb2 r7G /9B 7B\\ |\n", Options{}, []string{"0.000+1.000 7G", "1.000+1.000 7G slid", "2.000+1.000 9B", "3.000+1.000 7B"}, 4},
		{"strings ring until they are struck again, stopped, or their finger leaves", "tempo: 60\nA:\nring: yes\n| 3A 2D 0G 1B 0G 2D xA . |\n| 0e 3B 5B 0e - - - - |\n", Options{}, []string{
			"0.000+3.000 3A", "0.500+2.000 2D", "1.000+1.000 0G", "1.500+1.500 1B", "2.000+1.000 0G", "2.500+0.500 2D", "3.000+0.080 xA", "4.000+1.500 0e", "4.500+0.500 3B", "5.000+3.000 5B", "5.500+2.500 0e"}, 8},
		{"one note rings, and no further than its part's bars", "tempo: 60\nA:\n| 0E_ 2D 3D 2D |\n", Options{}, []string{"0.000+4.000 0E", "1.000+1.000 2D", "2.000+1.000 3D", "3.000+1.000 2D"}, 4},
		{"dead notes", "tempo: 60\nA:\n| 0A xA - - |\n", Options{}, []string{"0.000+1.000 0A", "1.000+0.080 xA"}, 4},
		{"two players", "tempo: 60\nA:\n| 0E - - - |\nlead | . 7G - 5G |\n", Options{}, []string{"0.000+4.000 0E", "1.000+2.000 7G lead", "3.000+1.000 5G lead"}, 4},
	} {
		tl := written(read(t, c.body), c.options)
		assert.Equal(t, c.want, strikes(tl), c.name)
		assert.InDelta(t, c.seconds, tl.Seconds, 1e-9, c.name)
	}
}

// Clicks fall on the beats, also those of a swung part and of compound time.
func TestBeats(t *testing.T) {
	tl := written(read(t, "tempo: 60\nfeel: swing\ntime: 3/4\norder: A, B\nA:\n| 0A |\nB:\ntime: 6/8\n| 3A |\n"), Options{CountIn: 1})
	var got []string
	for _, b := range tl.Beats {
		accent := ""
		if b.Accent {
			accent = "!"
		}
		got = append(got, fmt.Sprintf("%g:%d.%d%s", b.At, b.Bar, b.Beat, accent))
	}
	assert.Equal(t, []string{"0:-1.1!", "1:-1.2", "2:-1.3", "3:0.1!", "4:0.2", "5:0.3", "6:1.1!", "7:1.2"}, got)
}

// What sounds is at the pitch of the capo and the tuning, and as far off as the
// record.
func TestPitches(t *testing.T) {
	s := read(t, "capo: 2\ntuning: drop D -35 cents\nA:\n| 0E 12Go 7Bb2 5B! |\n")
	tl := written(s, Options{Cents: s.Tuning.Cents})
	require.Len(t, tl.Strikes, 4)
	off := math.Exp2(-35.0 / 1200)
	for i, want := range []struct {
		pitch string
		hz    float64
	}{{"E2", 82.4069}, {"A4", 440}, {"A#4", 466.1638}, {"F#4", 369.9944}} {
		assert.InDelta(t, want.hz*off, tl.Strikes[i].Hz, 0.01, want.pitch)
		assert.InDelta(t, want.hz, tl.Strikes[i].Pitch.Pitch().Hz(440), 0.01, want.pitch)
	}
	assert.Equal(t, 200, tl.Strikes[2].Bend)
	assert.Greater(t, tl.Strikes[3].Loud, tl.Strikes[0].Loud, "an accent is louder")
}

// What is typed for a pass alone is heard in that pass alone.
func TestPassesThatDiffer(t *testing.T) {
	s := read(t, "tempo: 120\nA:\n| 3A - - - | x3\n")
	pin, err := arrange.ParsePin("bar 1 pass 3 at 0: string E")
	require.NoError(t, err)
	way := arrange.Way{}.Pin(pin)
	tl := Of(s, Arrange(s, arrange.Options{}, func(int) Choice { return Choice{arrange.OneFinger, way} }), Options{})
	assert.Equal(t, []string{"0.000+2.000 3A", "2.000+2.000 3A", "4.000+2.000 8E"}, strikes(tl))
}

// writtenOut is a song with every repeat, of lines and in the roadmap, written out.
func writtenOut(s *song.Song) *song.Song {
	out := *s
	out.Parts, out.Order = nil, nil
	for _, leg := range s.Order {
		for range leg.Times {
			p := s.Parts[leg.Part]
			lines := p.Lines
			p.Lines = nil
			for _, l := range lines {
				for range l.Times {
					once := song.Line{Bars: l.Bars, Times: 1}
					for _, v := range l.Beside {
						once.Beside = append(once.Beside, song.Voice{Player: v.Player, Bars: v.Bars, Times: 1})
					}
					p.Lines = append(p.Lines, once)
				}
			}
			p.Name = fmt.Sprintf("%s %d", p.Name, len(out.Parts))
			out.Order = append(out.Order, song.Leg{Part: len(out.Parts), Times: 1})
			out.Parts = append(out.Parts, p)
		}
	}
	return &out
}

// Repeats are played as if they were written out; nothing overlaps on a string;
// all of it lies within the time that the roadmap takes.
func TestRepeatsAreAsWrittenOut(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := sheettest.Song(t)
		tl := written(s, Options{})
		assert.Equal(t, strikes(written(writtenOut(s), Options{})), strikes(tl))
		road := Plan(s, s.Tempo)
		require.InDelta(t, road.Seconds, tl.Seconds, 1e-9)
		require.Len(t, tl.Bars, road.Bars)
		type string6 struct {
			player string
			string int
		}
		until := map[string6]float64{}
		for i, k := range tl.Strikes {
			on := string6{k.Player, int(k.String)}
			require.GreaterOrEqual(t, k.At, until[on]-1e-9, "%d: %s", i, said(k))
			require.Positive(t, k.Length)
			require.LessOrEqual(t, k.At+k.Length, tl.Seconds+1e-9)
			require.GreaterOrEqual(t, k.At, tl.Bars[k.Bar].At-1e-9)
			until[on] = k.At + k.Length
			if i > 0 {
				require.GreaterOrEqual(t, k.At, tl.Strikes[i-1].At)
			}
		}
		twice := written(s, Options{Tempo: s.Tempo / 2})
		require.InDelta(t, 2*tl.Seconds, twice.Seconds, 1e-9)
		require.Len(t, twice.Strikes, len(tl.Strikes))
	})
}

// A roadmap that asks for millions of bars is played as far as anybody listens.
func TestEndlessRoadmaps(t *testing.T) {
	s := read(t, "order: A x99, A x99, A x99\nA:\n| 0A | 3A | x99\n| 0A | x99\n")
	assert.Equal(t, 3*99*297, Length(s, Options{}))
	tl := written(s, Options{Loop: 50})
	assert.Len(t, tl.Bars, MostBars)
	assert.InDelta(t, MostBars*2.4, tl.Seconds, 1e-3)
	assert.Equal(t, 2*297, Length(s, Options{Only: true, Loop: 2}))
	assert.Equal(t, 3, Length(s, Options{Only: true, From: 1, To: 3}))
}

// Five minutes of triplets do not drift by a microsecond.
func TestNoDrift(t *testing.T) {
	s := read(t, "tempo: 97\nA:\n| 0A 3A 5A 0A 3A 5A 0A 3A 5A 0A 3A 5A | x99\n| 0A 3A 5A 0A 3A 5A 0A 3A 5A 0A 3A 5A | x22\n")
	tl := written(s, Options{})
	require.Greater(t, tl.Seconds, 299.0)
	for i, k := range tl.Strikes {
		require.InDelta(t, float64(i)*20/97, k.At, 1e-6)
	}
}

func BenchmarkTimeline(b *testing.B) {
	for _, bars := range []int{100, 1000} {
		var body strings.Builder
		body.WriteString("A:\n")
		for range bars / 4 {
			body.WriteString("| 0A - 3A 5A 2D - (5A 3A) x | 3D+5G - - - Am - - - | C - G - | h7D p5D 3A 0A |\n")
		}
		s := read(b, body.String())
		music := Arrange(s, arrange.Options{}, func(int) Choice { return Choice{Rung: arrange.AsWritten} })
		b.Run(fmt.Sprint("bars=", bars), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				Of(s, music, Options{})
			}
		})
	}
}

// A bass plays the chords' basses, and of notes the lowest where the bar begins and
// where it is halved.
func TestBass(t *testing.T) {
	s := read(t, "tempo: 60\nkey: C\nA:\n| C - G/B - | 0A 5D 3D 0e |\n| 7G - . - |\n")
	tl := written(s, Options{CountIn: 1})
	var got []string
	for _, k := range Bass(s, tl, Options{}) {
		got = append(got, fmt.Sprintf("%.0f+%.0f %s", k.At, k.Length, k.Pitch))
	}
	assert.Equal(t, []string{"4+2 C2", "6+2 B1", "8+2 A1", "10+2 F1", "12+2 D2"}, got)
	loop := Bass(s, written(s, Options{Loop: 2}), Options{})
	assert.Len(t, loop, 10)
	assert.InDelta(t, 12, loop[5].At, 1e-9)
}
