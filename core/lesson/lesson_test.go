package lesson

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/play"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

func read(t require.TestingT, body string) *song.Song {
	s := sheet.Parse("title: T\n" + body)
	require.True(t, s.OK(), "%v", s.Problems)
	return s.Song
}

// build makes the lesson of a song on one rung for all its parts.
func build(s *song.Song, rung arrange.Rung, st Student) *Lesson {
	return Build(s, chosen(s, rung, st), st, s.Tempo)
}

func chosen(s *song.Song, rung arrange.Rung, st Student) []Chosen {
	music := play.Arrange(s, arrange.Options{Player: st.Player}, func(int) play.Choice { return play.Choice{Rung: rung} })
	list := make([]Chosen, len(music))
	for i := range music {
		list[i].Version = music[i].Version
	}
	return list
}

// kinds are the steps in short: what, of which part, which bars.
func kinds(l *Lesson) (list []string) {
	for i := range l.Steps {
		s := &l.Steps[i]
		text := string(s.Kind)
		if s.Part >= 0 {
			text += " " + l.Song.Parts[s.Part].Name
		}
		if s.Into >= 0 {
			text += ">" + l.Song.Parts[s.Into].Name
		}
		switch s.Kind {
		case Shape:
			text += " " + s.Shapes[0].Name
		case Change:
			text += " " + s.Shapes[0].Name + " " + s.Shapes[1].Name
		case Finish, Form, Seam:
		default:
			text += fmt.Sprintf(" %d-%d", s.From, s.To)
		}
		list = append(list, text)
	}
	return list
}

// What a teacher would have, decided before it was built.
func TestSteps(t *testing.T) {
	known := func(text string) Student {
		k, err := ParseKnown(text)
		require.NoError(t, err)
		return Student{Known: k}
	}
	for _, c := range []struct {
		name, body string
		rung       arrange.Rung
		student    Student
		want       []string
	}{
		{"one easy bar", "tempo: 60\nA:\n| 0E - - - |", arrange.AsWritten, Student{}, []string{"part A 1-1", "part A 1-1"}},
		{"shapes that are new, once each", "tempo: 60\nA:\n| C - - - | G - - - | C - - - |", arrange.AsWritten, Student{},
			[]string{"shape A C", "shape A G", "change A C G", "part A 1-3", "part A 1-3"}},
		{"shapes that are known are not taught", "tempo: 60\nA:\n| C - - - | G - - - | C - - - |", arrange.AsWritten, known("open chords"),
			[]string{"part A 1-3", "part A 1-3"}},
		{"a moved shape is the same shape", "tempo: 60\nA:\n| F - - - | G=355433 - - - | Bb=x13331 - - - |", arrange.AsWritten, known("barre chords"),
			[]string{"part A 1-3", "part A 1-3", "part A 1-3", "part A 1-3"}},
		{"a riff of four bars from its end, to all of it", "tempo: 220\nA:\n| 0E - 3E - 0E - 5E - | 5A - 7A - 5A - 3A - | 0E - 3E - 7E - 5E - | 5D - 3D - 5D - - - |", arrange.AsWritten, Student{},
			[]string{"piece A 4-4", "piece A 3-4", "part A 1-4", "part A 1-4"}},
		{"an off-beat rhythm comes before its notes", "tempo: 100\nA:\n| 0E - - 3E - 0E - - | % |", arrange.AsWritten, Student{}, []string{"rhythm A 1-1", "part A 1-2", "part A 1-2"}},
		{"a changed last pass is struck with the bar before it", "tempo: 60\nA:\n| 0E 3E 0E 3E | 5E 3E 0E 3E | 0E 3E 0E 3E | 5E 3E 0E 3E | x2\n| 0E 3E 0E 3E | 5E 3E 0E 3E | 0E 3E 0E 3E | 5E - 0E - |", arrange.AsWritten, Student{},
			[]string{"rhythm A 7-8", "part A 1-8", "part A 1-8", "part A 1-8", "part A 1-8"}},
		{"a gallop that has to be thinned, as it is first", "tempo: 120\nA:\n| 0A (0A 0A) 0A (0A 0A) 3A 3A 2A 2A |", arrange.OneFinger, Student{Player: hand.Player{NotesPerSecond: 4}},
			[]string{"rhythm A 1-1", "part A 1-1", "part A 1-1"}},
		{"plain eighths do not", "tempo: 60\nA:\n| 0E 0E 3E 0E 0E 0E 3E 0E |", arrange.AsWritten, Student{}, []string{"part A 1-1", "part A 1-1"}},
		{"a quick change between two shapes, and no easy one", "tempo: 140\nA:\n| C C Bm Bm | C C Am7=x02010 - |", arrange.AsWritten, known("C, Bm, Am7"),
			[]string{"change A C Bm", "part A 1-2", "part A 1-2"}},
		{"seams where parts meet, joined at the end", "tempo: 60\norder: A, B, A\nA:\n| 0E 3E |\nB:\n| 5A 7A |", arrange.AsWritten, Student{},
			[]string{"part A 1-1", "part B 1-1", "part A 1-1", "part B 1-1", "seam A>B", "seam B>A", "form A>B", "form"}},
		{"what is known from a part before is left out", "tempo: 60\norder: A, B\nA:\n| C - - - | G - - - |\nB:\n| C - - - | G - - - |", arrange.AsWritten, known("C, G"),
			[]string{"part A 1-2", "part B 1-2", "part A 1-2", "seam A>B", "form A>B", "form"}},
		{"muting and accents after the notes", "tempo: 60\nA:\nmute: palm\n| 0E 0E 3E! 0E |", arrange.AsWritten, Student{}, []string{"part A 1-1", "part A 1-1", "finish A", "finish A"}},
		{"muting that is known from the first", "tempo: 60\nA:\nmute: palm\n| 0E 0E 3E 0E |", arrange.AsWritten, known("palm muting"), []string{"part A 1-1", "part A 1-1"}},
		{"words to find the way by", "tempo: 60\norder: A, B\nA:\ncue: \"now\"\n| 0E |\nB:\n| 0A |", arrange.AsWritten, Student{},
			[]string{"part A 1-1", "part B 1-1", "part A 1-1", "part B 1-1", "seam A>B", "form A>B", "form", "form"}},
		{"an arpeggio has the shapes that it is picked from", "tempo: 60\nkey: C\nA:\nring: yes\n| 3A 2D 0G 1B 0e 1B 0G 2D | 0A 2D 2G 1B 0e 1B 2G 2D |", arrange.AsWritten, Student{},
			[]string{"shape A C", "shape A Am", "change A C Am", "piece A 2-2", "part A 1-2", "part A 1-2"}},
		{"and none that are known", "tempo: 60\nkey: C\nA:\nring: yes\n| 3A 2D 0G 1B 1B 1B 0G 2D | 0A 2D 2G 1B 1B 1B 2G 2D |", arrange.AsWritten, known("open chords"),
			[]string{"piece A 2-2", "part A 1-2", "part A 1-2"}},
	} {
		assert.Equal(t, c.want, kinds(build(read(t, c.body), c.rung, c.student)), c.name)
	}
}

// A rhythm that the version thins is struck as it is written, up to where the hand has it.
func TestRhythmsAsTheyAreWritten(t *testing.T) {
	s := read(t, "tempo: 120\nA:\n| 0A (0A 0A) 0A (0A 0A) 3A 3A 2A 2A |")
	l := build(s, arrange.OneFinger, Student{Player: hand.Player{NotesPerSecond: 4}})
	first := &l.Steps[0]
	assert.Equal(t, GoesUpTo, first.Why[len(first.Why)-1].Kind)
	assert.Equal(t, 80.0, first.Goal, "three strokes to a beat, four a second")
	strokes := func(s *song.Song) (n int) {
		for _, b := range s.Parts[0].Bars() {
			n += len(b.Events)
		}
		return n
	}
	assert.Equal(t, 10, strokes(l.Music(first)))
	assert.Equal(t, 8, strokes(l.Music(&l.Steps[1])))
	l = build(s, arrange.AsWritten, Student{})
	assert.False(t, l.Steps[0].Full, "nothing is left out")
}

func TestPartsThatAreLeftOut(t *testing.T) {
	s := read(t, "order: A, B, C\nA:\n| 0E |\nB:\n| 3E |\nC:\n| 5E |")
	list := chosen(s, arrange.AsWritten, Student{})
	list[1].Version = nil
	l := Build(s, list, Student{}, s.Tempo)
	assert.Equal(t, []string{"part A 1-1", "part C 1-1", "part A 1-1", "part C 1-1"}, kinds(l), "what is not learnt is joined to nothing")
	empty := Build(s, make([]Chosen, 3), Student{}, s.Tempo)
	assert.Empty(t, empty.Steps)
	assert.Zero(t, empty.Days)
}

// The shapes of a part, each once, those of an arpeggio as they are held.
func TestShapesOfAPart(t *testing.T) {
	s := read(t, "key: C\nA:\n| C - G - | C - Am - |\nB:\nring: yes\n| 3A 2D 0G 1B | 0A 2D 2G 1B |\nC:\n| 0E 3E |")
	l := Build(s, chosen(s, arrange.AsWritten, Student{}), Student{}, s.Tempo)
	named := func(part int) (list []string) {
		for _, h := range l.Shapes(part) {
			list = append(list, h.Name)
		}
		return list
	}
	assert.Equal(t, []string{"C", "G", "Am"}, named(0))
	assert.Equal(t, []string{"C", "Am"}, named(1))
	assert.Empty(t, named(2))
	l.Chosen[0].Version = nil
	assert.Empty(t, named(0))
}

// The next rung comes last.
func TestNextRung(t *testing.T) {
	s := read(t, "A:\n| C - G - |")
	ladder := arrange.New(s, arrange.Options{}).Ladder(0, nil)
	one := &ladder[len(ladder)-1]
	v := arrange.New(s, arrange.Options{}).Version(0, arrange.OneFinger, arrange.Way{})
	l := Build(s, []Chosen{{&v, one}}, Student{}, s.Tempo)
	last := l.Steps[len(l.Steps)-1]
	assert.Equal(t, Finish, last.Kind)
	assert.Equal(t, one.Rung, last.Rung)
	assert.Equal(t, NextRung, last.Why[0].Kind)
	assert.Equal(t, arrange.Hard{From: "C", To: "G"}, *last.Why[0].Hard, "and what has to go before it")
	assert.Contains(t, sheet.Write(l.Music(&last)), "|", "its own notes")
}

func TestClimb(t *testing.T) {
	assert.Equal(t, []float64{60, 65, 70, 75}, Climb(60, 75))
	assert.Equal(t, []float64{80}, Climb(80, 80))
	rapid.Check(t, func(t *rapid.T) {
		goal := rapid.Float64Range(20, 400).Draw(t, "goal")
		from, _ := stages(goal, rapid.Float64Range(0, 20).Draw(t, "asks"), rapid.Float64Range(0.5, 12).Draw(t, "pace"), rapid.SampledFrom([]float64{slowest, slowBeat}).Draw(t, "least"))
		require.Equal(t, goal, from[len(from)-1])
		require.LessOrEqual(t, from[0], max(mostOfGoal*goal, slowest))
		for k := 1; k < len(from); k++ {
			require.LessOrEqual(t, from[k], from[k-1]*4/3+0.7, "not more than a third at once, as a metronome has it")
			list := Climb(from[k-1], from[k])
			for i := 1; i < len(list); i++ {
				require.LessOrEqual(t, list[i], math.Ceil(list[i-1]*climb)+0.5)
			}
		}
	})
}

// A slow student begins slower, and takes more steps to get there.
func TestPaceDecidesWhereToBegin(t *testing.T) {
	s := read(t, "tempo: 120\nA:\n| 0E 1E 3E 1E 0E 1E 3E 1E |")
	quick := build(s, arrange.AsWritten, Student{Player: hand.Player{NotesPerSecond: 8}})
	slow := build(s, arrange.AsWritten, Student{Player: hand.Player{NotesPerSecond: 3}})
	first := func(l *Lesson) Step {
		for _, s := range l.Steps {
			if s.Kind == Whole {
				return s
			}
		}
		return Step{}
	}
	assert.Equal(t, 72.0, first(quick).Start, "three fifths of 120")
	assert.Equal(t, SlowStart, first(quick).Why[0].Kind)
	assert.Equal(t, 54.0, first(slow).Start, "four strokes a second at 120; three fifths of three are 1.8")
	assert.Equal(t, PaceStart, first(slow).Why[0].Kind)
}

// drawSong draws a small song.
func drawSong(t *rapid.T) *song.Song {
	var b strings.Builder
	fmt.Fprintf(&b, "tempo: %d\nfeel: %s\n", rapid.IntRange(40, 200).Draw(t, "tempo"), rapid.SampledFrom([]string{"straight", "swing"}).Draw(t, "feel"))
	names := []string{"A", "B", "C"}[:rapid.IntRange(1, 3).Draw(t, "parts")]
	var order []string
	for range rapid.IntRange(1, 5).Draw(t, "legs") {
		order = append(order, fmt.Sprintf("%s x%d", rapid.SampledFrom(names).Draw(t, "leg"), rapid.IntRange(1, 3).Draw(t, "times")))
	}
	fmt.Fprintf(&b, "order: %s\n", strings.Join(order, ", "))
	for _, name := range names {
		fmt.Fprintf(&b, "%s:\n%s%stime: %s\ntempo: %d\n", name, rapid.SampledFrom([]string{"", "pickup: 1\n", "cue: go\n"}).Draw(t, "pickup"), rapid.SampledFrom([]string{"", "mute: palm\n", "ring: yes\n"}).Draw(t, "mute"),
			rapid.SampledFrom([]string{"4/4", "3/4", "6/8", "7/8"}).Draw(t, "time"), rapid.IntRange(40, 200).Draw(t, "own tempo"))
		for range rapid.IntRange(1, 4).Draw(t, "lines") {
			for range rapid.IntRange(1, 6).Draw(t, "bars") {
				b.WriteString(rapid.SampledFrom([]string{"| ", "| ", "| ", "| [2/4] "}).Draw(t, "bar"))
				for range rapid.SampledFrom([]int{1, 2, 4, 8}).Draw(t, "slots") {
					b.WriteString(rapid.SampledFrom([]string{"0A", "3A", "5D*", "h7D", "-", "-", ".", "x", "xA", "3D+5G'", "(5A 3A)", "C5=x355xx", "Em", "F", "G/B", "0E_", "7Gb2", "/5D", "12Go", "7G~!", "7A?", "G/B?"}).Draw(t, "slot") + " ")
				}
			}
			fmt.Fprintf(&b, "| x%d\n", rapid.IntRange(1, 3).Draw(t, "passes"))
		}
	}
	return read(t, b.String())
}

// Whatever the song and the student: the steps cover every bar; none asks more than a
// third over the one before of its part; no known shape is taught; each has music that can be typed and read; the same gives the same.
func TestLessons(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawSong(t)
		st := Student{Player: hand.Player{NotesPerSecond: rapid.SampledFrom([]float64{0, 2, 5, 9}).Draw(t, "pace"), Reach: rapid.SampledFrom([]float64{0, 70}).Draw(t, "reach")},
			Minutes: rapid.SampledFrom([]int{0, 1, 25}).Draw(t, "minutes")}
		var err error
		st.Known, err = ParseKnown(rapid.SampledFrom([]string{"", "open chords", "power chords, Em, F", "barre chords, palm muting, slides"}).Draw(t, "known"))
		require.NoError(t, err)
		rung := rapid.SampledFrom(arrange.Rungs).Draw(t, "rung")
		l := build(s, rung, st)
		assert.Equal(t, kinds(l), kinds(build(s, rung, st)))

		covered := make([]map[int]bool, len(s.Parts))
		last := make([]float64, len(s.Parts))
		taught := map[neck.Frets]bool{}
		day, minutes := 1, 0
		for i := range l.Steps {
			step := &l.Steps[i]
			require.LessOrEqual(t, step.Start, step.Goal)
			require.NotEmpty(t, step.Why)
			require.Positive(t, step.Passes)
			require.GreaterOrEqual(t, step.Day, day)
			day, minutes = step.Day, minutes+step.Minutes
			for _, h := range step.Shapes {
				if step.Kind == Shape {
					require.False(t, st.Known.Has(h.Frets), h.Name)
					require.False(t, taught[h.Frets], h.Name)
					taught[h.Frets] = true
				}
			}
			text := sheet.Write(sheet.Shorten(l.Music(step)))
			again := sheet.Parse(text)
			require.True(t, again.OK(), "%v\n%s", again.Problems, text)
			if step.Part < 0 || step.Kind == Form {
				continue
			}
			if covered[step.Part] == nil {
				covered[step.Part] = map[int]bool{}
			}
			for n := step.From; n <= step.To; n++ {
				covered[step.Part][n] = true
			}
			if step.Full {
				continue // beside the version: as far as the rhythm goes as it is written
			}
			if before := last[step.Part]; before > 0 {
				require.LessOrEqual(t, step.Goal, before*4/3+1, "%v", kinds(l)[i])
			}
			last[step.Part] = max(last[step.Part], step.Goal)
		}
		require.Equal(t, minutes, l.Minutes)
		for i := range s.Parts {
			require.Len(t, covered[i], s.Parts[i].Written(), "part %s", s.Parts[i].Name)
		}
	})
}

// What a lesson teaches, told to it as known, is not taught again: by the name that it
// has there.
func TestTaughtShapesAreKnownByTheirNames(t *testing.T) {
	s := read(t, "key: C\nA:\n| C - F - | F5 - C5 - | Bm7b5 - E7 - | Am/C - Gsus4 - |")
	for _, rung := range arrange.Rungs {
		var names []string
		for _, step := range build(s, rung, Student{}).Steps {
			if step.Kind == Shape {
				names = append(names, step.Shapes[0].Name)
			}
		}
		known, err := ParseKnown(strings.Join(names, ", "))
		require.NoError(t, err, names)
		for _, step := range build(s, rung, Student{Known: known}).Steps {
			assert.NotEqual(t, Shape, step.Kind, "%s: %v", rung, names)
		}
	}
	one, err := ParseKnown("power chord, octave, open chord")
	require.NoError(t, err)
	many, err := ParseKnown("power chords, octaves, open chords")
	require.NoError(t, err)
	assert.Equal(t, many, one)
}

func TestKnown(t *testing.T) {
	k, err := ParseKnown(" C, x02210, power chords,  palm muting ,octaves")
	require.NoError(t, err)
	for text, want := range map[string]bool{"x32010": true, "x02210": true, "320003": false, "355xxx": true, "x-8-10-x-x-x": true, "022xxx": true, "3x5xxx": true, "133211": false} {
		f, err := neck.ParseFrets(text)
		require.NoError(t, err)
		assert.Equal(t, want, k.Has(f), text)
	}
	assert.Equal(t, hand.PalmMuting|hand.OctaveShapes, k.Skills)
	f, _ := neck.ParseFrets("320003")
	assert.True(t, k.With(f).Has(f))
	assert.False(t, k.Has(f), "the one before stays as it was")
	_, err = ParseKnown("C, wobble")
	assert.ErrorContains(t, err, "wobble")
}

func BenchmarkBuild(b *testing.B) {
	for _, bars := range []int{100, 1000} {
		var body strings.Builder
		body.WriteString("A:\n")
		for i := range bars / 4 {
			fmt.Fprintf(&body, "| 0A - 3A %dA 2D - (5A 3A) x | 3D+5G - - - Am - - - | C - G - | h7D p5D %dA 0A |\n", i%9+1, i%7+3)
		}
		s := read(b, body.String())
		list := chosen(s, arrange.AsWritten, Student{})
		b.Run(fmt.Sprint("bars=", bars), func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				Build(s, list, Student{}, s.Tempo)
			}
		})
	}
}
