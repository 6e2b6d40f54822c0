package drill

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

func place(t require.TestingT, body string, rung arrange.Rung, bar, event int) Place {
	s := sheet.Parse("title: T\n" + body)
	require.True(t, s.OK(), "%v", s.Problems)
	v := arrange.New(s.Song, arrange.Options{}).Version(0, rung, arrange.Way{})
	return Place{Song: s.Song, Version: &v, Bar: bar - 1, Event: event}
}

// typed are the bars of an exercise as a teacher would type them.
func typed(t require.TestingT, d *Drill, e *Exercise) string {
	s := d.Song(e, "T", 60)
	text := sheet.Write(sheet.Shorten(s))
	again := sheet.Parse(text)
	require.True(t, again.OK(), "%v\n%s", again.Problems, text)
	assert.Equal(t, text, sheet.Write(again.Song))
	_, body, _ := strings.Cut(text, "Drill:\n")
	lines := strings.Split(strings.TrimSpace(body), "\n")
	for i := range lines {
		lines[i] = strings.Join(strings.Fields(lines[i]), " ")
	}
	return strings.Join(lines, " ")
}

// What a teacher gives for each kind of hard place, decided beforehand.
func TestExercises(t *testing.T) {
	for _, c := range []struct {
		name, body string
		rung       arrange.Rung
		bar, event int
		demand     grade.Demand
		want       map[How]string
	}{
		{"a shift is slid on its string and back", "A:\n| 3A+5D - - - 8A+10D - - - |", arrange.AsWritten, 1, 1, grade.Shift, map[How]string{
			SlideBack: "| 3A s8A | 3A s8A s3A s8A | 3A+5D 8A+10D | 3A+5D 8A+10D . - |",
			SlideHalf: "| 3A s5A | 3A s5A s3A s5A |"}},
		{"a change is taken and let go", "A:\n| C=x32010 - - - Am=x02210 - - - |", arrange.AsWritten, 1, 1, grade.Change, map[How]string{
			TakeAndLetGo: "| C=x32010 . Am=x02210 . | % | C=x32010 Am=x02210 | C=x32010 Am=x02210 C=x32010 Am=x02210 |",
			TakeSlowly:   "| C=x32010 - - . | Am=x02210 - - . |"}},
		{"a stretch is brought down from seven frets higher", "A:\n| 1A+5D |", arrange.AsWritten, 1, 0, grade.Reach, map[How]string{
			BringDown: "| 8A+12D - - . | 6A+10D - - . | 4A+8D - - . | 2A+6D - - . | | 1A+5D - - . |",
			StayUp:    "| 8A+12D - - . | 6A+10D - - . | 4A+8D - - . |"}},
		{"no higher than the neck is easy", "A:\n| 9A+12D |", arrange.AsWritten, 1, 0, grade.Reach, map[How]string{BringDown: "| 10A+13D - - . | 9A+12D - - . |"}},
		{"the string inside an octave is plucked and silent", "A:\n| 3A+5G |", arrange.AsWritten, 1, 0, grade.Muting, map[How]string{
			StringByString: "| xE 3A xD | 5G xB xe | 3A+5G - . |", SilentStrings: "| xE xD xB xe | 3A+5G - - . |"}},
		{"a crossing on open strings", "A:\n| 7E 5A* 7D 4B |", arrange.AsWritten, 1, 3, grade.Crossing, map[How]string{OnOpenStrings: "| 0E 0A 0D 0B |", TwoStrings: "| 0D 0B 0D 0B |"}},
		{"a pace in bursts of two, four and eight", "A:\n| 0A 2A 3A 5A 0A 2A 3A 5A |", arrange.AsWritten, 1, 1, grade.Speed, map[How]string{
			Bursts:     "| 0A 2A . - - - - - | % | 0A 2A 3A 5A . - - - | % | | 0A 2A 3A 5A 0A 2A 3A 5A | % |",
			SlowBursts: "| 0A 2A . - | % | 0A 2A 3A 5A | % |"}},
		{"an off-beat is struck dead, then with ghost strokes on the beats", "A:\n| 3A - . 5A - 5A . - |", arrange.AsWritten, 1, 1, grade.Rhythm, map[How]string{
			MutedFirst: "| xA - . xA - xA . - | xA - x xA x xA x - | 3A - x 5A x 5A x - |",
			Subdivided: "| x! x x x! x x! x x |"}},
		{"the fingers of a shape one by one", "A:\n| C=x32010 |", arrange.AsWritten, 1, 0, grade.Fingers, map[How]string{
			OneByOne:     "| 3A 2D 0G 1B 0e - - - | C=x32010 - - . | . - C=x32010 . | C=x32010 . C=x32010 . |",
			FewerStrings: "| 3A 2D 0G - | 3A+2D+0G - - . | . - 3A+2D+0G . | 3A+2D+0G . 3A+2D+0G . |"}},
		{"a bend after the note that it is to reach", "A:\n| 7Gb2 - - - |", arrange.AsWritten, 1, 0, grade.Ornament, map[How]string{Alone: "| 9G 7Gb2 9G 7Gb2 | 9G 7Gb2 . - |"}},
		{"a hammer-on from where it comes", "A:\n| 5G h7G - - |", arrange.AsWritten, 1, 1, grade.Ornament, map[How]string{Alone: "| 5G h7G 5G h7G | 5G h7G . - |", Target: "| 5G 7G 5G 7G |"}},
	} {
		p := place(t, c.body, c.rung, c.bar, c.event)
		p.For = c.demand
		d, ok := Of(p)
		require.True(t, ok, c.name)
		got := map[How]string{}
		for i := range d.Exercises {
			got[d.Exercises[i].How] = typed(t, &d, &d.Exercises[i])
		}
		for how, want := range c.want {
			assert.Equal(t, want, got[how], "%s: %d", c.name, how)
		}
	}
}

// Of whatever place, for whatever demand: an exercise can be typed and read, fills its
// bars, and stays on the neck.
func TestEveryExerciseCanBePlayed(t *testing.T) {
	slots := []string{"0A", "3A", "5D*", "h7D", "-", ".", "x", "xA", "3D+5G'", "(5A 3A)", "C5=x355xx", "Em", "F", "/5D", "12Go", "7Gb1!", "22e", "1E+5G"}
	rapid.Check(t, func(t *rapid.T) {
		var b strings.Builder
		b.WriteString("time: " + rapid.SampledFrom([]string{"4/4", "3/4", "6/8", "7/8", "5/4"}).Draw(t, "time") + "\nA:\n")
		b.WriteString(rapid.SampledFrom([]string{"", "pickup: 1\n"}).Draw(t, "pickup"))
		for range rapid.IntRange(1, 2).Draw(t, "bars") {
			b.WriteString("|")
			for range rapid.SampledFrom([]int{1, 2, 4, 6, 8}).Draw(t, "slots") {
				b.WriteString(" " + rapid.SampledFrom(slots).Draw(t, "slot"))
			}
		}
		b.WriteString(" |\n")
		p := place(t, b.String(), rapid.SampledFrom(arrange.Rungs).Draw(t, "rung"), 1, 0)
		for bar := range p.Version.Bars {
			for event := range p.Version.Bars[bar].Events {
				p.Bar, p.Event = bar, event
				for demand := range builders {
					p.For = grade.Demand(demand)
					d, _ := Of(p)
					for i := range d.Exercises {
						e := &d.Exercises[i]
						typed(t, &d, e)
						for j := range e.Bars {
							full(t, &e.Bars[j], e.Meter)
						}
					}
				}
			}
		}
	})
}

// full checks that the events of a bar follow one another to its end.
func full(t require.TestingT, b *song.Bar, m song.Meter) {
	for i, e := range b.Events {
		end := m.Bar()
		if i+1 < len(b.Events) {
			end = b.Events[i+1].Start
		}
		require.LessOrEqual(t, e.Start.Add(e.Length).Cmp(m.Bar()), 1)
		require.True(t, e.Start.Less(end))
		for _, n := range e.Notes {
			require.True(t, n.Dead || n.Fret >= 0 && n.Fret <= 24, "%v", n)
		}
	}
}

// Nothing is made of what is not held.
func TestNothingToHold(t *testing.T) {
	assert.Empty(t, Change(Shape{Fingering: hand.Lifted}, Shape{Fingering: hand.Lifted}))
	p := place(t, "A:\n| 0E - - - |", arrange.AsWritten, 1, 0)
	p.For = grade.Shift
	_, ok := Of(p)
	assert.False(t, ok)
}
