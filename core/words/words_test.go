package words

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/harmony"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// german calls the strings as they are called where B is H.
var german = Speaker{Strings: [neck.Strings]string{"E", "A", "D", "G", "H", "e"}}

// everything is all that is said of a version.
func everything(sp Speaker, v *arrange.Version, m song.Meter) []string {
	lines := sp.Version(v)
	for i := range v.Bars {
		b := &v.Bars[i]
		lines = append(lines, sp.Bar(b)...)
		for _, d := range b.Dropped {
			lines = append(lines, sp.Dropped(d, m))
		}
		for j := range b.Events {
			e := &b.Events[j]
			lines = append(lines, sp.Event(e), sp.Hard(e, m), sp.Mutes(e.Mutes))
		}
	}
	return lines
}

var slots = []string{"0E", "3A", "5A", "7D", "2G", "5B", "12B", "0e", "3B+3e", "5G+6B", "x", "xB", "3A+5D", "E5", "G", "Bdim", "Am7", "D/F#", "Asus4", "h7B", "14Bb2", "12B~", "."}

func drawn(t *rapid.T) *song.Song {
	var bars strings.Builder
	for range rapid.IntRange(1, 4).Draw(t, "bars") {
		bars.WriteString("|")
		for range 8 {
			bars.WriteString(" " + rapid.SampledFrom(slots).Draw(t, "slot"))
		}
		bars.WriteString(" ")
	}
	s := sheet.Parse("title: T\ntempo: 150\nA:\n" + bars.String() + "|\n")
	require.True(t, s.OK(), "%v", s.Problems)
	return s.Song
}

// Whatever is typed, a string has the name that its teacher gives it, a sentence
// begins with a capital and says no word twice in a row, and nothing is left of
// how it was put together.
func TestSentences(t *testing.T) {
	usual := regexp.MustCompile(`\bB string\b|\d B\b[^b#]|\bB by\b`)
	broken := regexp.MustCompile(`%!|\(MISSING\)|  | ,| \.|:$|: *:|^[a-z]|\b1 (frets|fingers|strings|notes)\b|\bone (frets|fingers|strings|notes)\b`)
	rapid.Check(t, func(t *rapid.T) {
		s := drawn(t)
		a := arrange.New(s, arrange.Options{Player: hand.Player{NotesPerSecond: 4}})
		v := a.Version(0, rapid.SampledFrom(arrange.Rungs).Draw(t, "rung"), arrange.Way{})
		for i := range v.Bars {
			for _, said := range german.Bar(&v.Bars[i]) {
				require.NotRegexp(t, broken, said)
			}
		}
		for _, said := range everything(german, &v, song.FourFour) {
			require.NotRegexp(t, usual, said)
			fields := strings.Fields(said)
			for i := 1; i < len(fields); i++ {
				require.False(t, fields[i] == fields[i-1] && len(fields[i]) > 1, "twice in a row: %s", said)
			}
		}
	})
}

// Each fact has its sentence.
func TestFacts(t *testing.T) {
	var sp Speaker
	for want, f := range map[string]arrange.Fact{
		"the root alone of Am":                                             arrange.StandsFor{Share: arrange.RootAlone, Of: "A", For: "Am"},
		"D5 for Dsus4: root and fifth alone":                               arrange.StandsFor{Share: arrange.PowerInstead, Of: "D5", For: "Dsus4"},
		"A5 for Am: root and fifth, the third is left to the others":       arrange.StandsFor{Share: arrange.PowerWithout, Of: "A5", For: "Am"},
		"B with its flat fifth, since a plain fifth would contradict Bdim": arrange.AlteredFor{Of: "B", For: "Bdim", Fifth: chord.Degree{Number: 5, Alter: -1}},
		"the bass F# of D/F# is lost":                                      arrange.BassIsLost{Bass: "F#", Chord: "D/F#"},
		"the bend becomes its target":                                      arrange.Reduced{Trim: grade.Trimming{Bend: 200}},
		"all on the A string, frets 3 to 7":                                arrange.OneStringOf{String: 5, Low: 3, High: 7},
		"the same as bar 3":                                                arrange.SameAs{Bar: 3},
		"the shape of bar 1, one string thinner":                           arrange.ShapeOf{Bar: 1, Strings: 1},
		"the line of bar 1, a fifth higher":                                arrange.LineMoved{Bar: 1, Semitones: 7},
		"the same notes an octave up, two strings over":                    arrange.OctaveElsewhere{Octaves: 1, Strings: 2},
		"its reach of 137 mm is more than the hand's 120: G+F":             arrange.BeyondReach{MM: 137, Most: 120, Of: "G+F"},
		"C in its usual shape":                                             arrange.Reason{Why: arrange.UsualShape, Of: "C"},
		"the third of the key below the line: C+E":                         arrange.Below{Interval: 3, Of: "C+E"},
	} {
		assert.Equal(t, want, sp.fact(f))
	}
	_, bend := arrange.Apart(arrange.Reduced{Trim: grade.Trimming{Bend: 200}})
	assert.Equal(t, "the bend becomes its target: B and C", sp.factOf(bend, "B and C", 2), "of what it names where it names something")
	for why := arrange.Why(0); int(why) < len(reasons); why++ {
		for n, of := range []string{"", "C", "C and G"} {
			assert.NotEmpty(t, sp.factOf(arrange.Reason{Why: why}, of, n), "%d", why)
		}
	}
	for f := arrange.Plain(0); int(f) < len(plain); f++ {
		assert.Equal(t, f == arrange.Hardest, plain[f] == "", "the hardest place has a sentence of its own")
	}
}

// The hard change is said as it is said aloud.
func TestHardChanges(t *testing.T) {
	s := sheet.Parse("title: T\ntempo: 180\nA:\n| F5 - C5 - F5 - C5 - |\n")
	require.True(t, s.OK())
	v := arrange.New(s.Song, arrange.Options{}).Version(0, arrange.TwoNote, arrange.Way{})
	said := Speaker{}.Hard(v.Bars[0].Hardest(), song.FourFour)
	assert.Regexp(t, `^(F5 to C5|C5 to F5) is the hard change, on \d: `, said)
	assert.Contains(t, said, "third of a second")
}

// Where in a bar: by the beat, by the eighth in compound time, and between.
func TestPlaces(t *testing.T) {
	six := song.Meter{Count: 6, Unit: 8}
	for _, c := range []struct {
		at   pitch.Frac
		m    song.Meter
		by   song.Counting
		want string
	}{
		{pitch.F(0, 1), song.FourFour, song.ByBeat, "1"},
		{pitch.F(3, 8), song.FourFour, song.ByBeat, "the & of 2"},
		{pitch.F(1, 16), song.FourFour, song.ByBeat, "the e of 1"},
		{pitch.F(11, 16), song.FourFour, song.ByBeat, "the a of 3"},
		{pitch.F(3, 8), six, song.ByBeat, "2"},
		{pitch.F(1, 8), six, song.ByBeat, "the trip of 1"},
		{pitch.F(1, 8), six, song.ByEighth, "2"},
	} {
		assert.Equal(t, c.want, Speaker{Counting: c.by}.Place(c.at, c.m))
	}
}

// What stops a string is said with the strings that it stops.
func TestMutes(t *testing.T) {
	frets, err := neck.ParseFrets("x3x5xx")
	require.NoError(t, err)
	f, _, ok := grade.Taught(frets, hand.Player{}.At(neck.Neck{}))
	require.True(t, ok)
	assert.Equal(t, "E by the tip of the index; D by the index leaning on it; H e by the underside of the index", german.Mutes(f.Mutes(0, false)))
	assert.Empty(t, german.Mutes(nil))
}

func TestVoicings(t *testing.T) {
	c, err := chord.Parse("C/E")
	require.NoError(t, err)
	frets, _ := neck.ParseFrets("x35xxx")
	v, ok := voicing.Describe(c, voicing.Config{School: voicing.Letter}, frets)
	require.True(t, ok)
	said := german.Voicing(&v)
	assert.Contains(t, said, "loses 3")
	assert.Contains(t, said, "the bass E of C/E is lost, C sounds lowest")
	assert.Equal(t, "the usual shape", german.Role(voicing.Shown))
}

func TestNamesKeysAndRecords(t *testing.T) {
	var sp Speaker
	name := func(symbol string, classes ...string) string {
		c, err := chord.Parse(symbol)
		require.NoError(t, err)
		set := c.Classes()
		for _, text := range classes {
			n, err := pitch.ParseNote(strings.TrimLeft(text, "-+"))
			require.NoError(t, err)
			if strings.HasPrefix(text, "-") {
				set = set.Without(n.Class())
			} else {
				set = set.With(n.Class())
			}
		}
		n, ok := chord.NameOn(c.Root, set, c.Root.Class())
		require.True(t, ok)
		return n.Name + ": " + sp.Name(n)
	}
	assert.Equal(t, "Cmaj7: ", name("Cmaj7"))
	assert.Equal(t, "Cmaj7: without 5", name("Cmaj7", "-G"))
	assert.Equal(t, "Bdim7: leads to C", name("Bdim7"))
	assert.Empty(t, sp.Keys(nil))
	keys := harmony.Keys([]chord.Chord{{Root: pitch.Note{Letter: 'C'}, Tones: []chord.Tone{{Note: pitch.Note{Letter: 'C'}}}}})
	assert.Contains(t, sp.Keys(keys), "likely C major, or ")
	assert.Equal(t, "likely C major", sp.Keys(keys[:1]))
	assert.Equal(t, "-31.8 cents: play the record at 101.85 % of its speed (its tempo changes by the same), or tune to it", sp.Record(-31.8))
	gone := arrange.Unmet{Pin: arrange.Pin{Bar: 4, Pass: 2, What: arrange.PinString, On: 5}, Bar: 4, Why: arrange.NoSuchBar}
	assert.Equal(t, "bar 4 in pass 2 is not in this part: the A string waits for it", sp.Unmet(gone, song.FourFour))
}

// A change between two dead strokes has no notes to be named by.
func TestTheWayBetweenDeadStrokes(t *testing.T) {
	said := Speaker{}.Hard(&arrange.Event{Start: pitch.Whole(0), Hard: &arrange.Hard{Spot: grade.Spot{Demand: grade.Shift, Frets: 5, Seconds: 0.5}}}, song.Meter{Count: 4, Unit: 4})
	assert.Contains(t, said, "the way to the dead stroke is the hard change")
}

// What has become of the parts of a song, as a teacher says it.
func TestPartChange(t *testing.T) {
	for want, c := range map[string]song.Outcome{
		"":                                 {Name: "A", Into: []string{"A"}},
		"A: bar 2 changed":                 {Name: "A", Into: []string{"A"}, Bars: []int{2}},
		"A: bars 2 and 4 changed":          {Name: "A", Into: []string{"A"}, Bars: []int{2, 4}},
		"A: five bars changed":             {Name: "A", Into: []string{"A"}, Bars: []int{1, 2, 3, 4, 5}},
		"A is called B now, bar 1 changed": {Fate: song.Renamed, Name: "A", Into: []string{"B"}, Bars: []int{1}},
		"A stands in B and C now":          {Fate: song.Parted, Name: "A", Into: []string{"B", "C"}},
		"A is not there any more":          {Fate: song.Gone, Name: "A"},
		"A is new":                         {Fate: song.Fresh, Name: "A"},
	} {
		assert.Equal(t, want, Speaker{}.PartChange(c))
	}
}

// Places are told as the pattern that they make.
func TestPatternsOfPlaces(t *testing.T) {
	eighth, sixteenth := pitch.F(1, 8), pitch.F(1, 16)
	at := func(unit pitch.Frac, list ...int64) (starts []pitch.Frac) {
		for _, n := range list {
			starts = append(starts, unit.Mul(pitch.Whole(n)))
		}
		return starts
	}
	six := song.Meter{Count: 6, Unit: 8}
	for _, c := range []struct {
		starts   []pitch.Frac
		meter    song.Meter
		counting song.Counting
		want     string
	}{
		{at(eighth, 3), song.FourFour, song.ByBeat, "the & of 2"},
		{at(eighth, 2, 6), song.FourFour, song.ByBeat, "2 and 4"},
		{at(eighth, 3, 6), song.FourFour, song.ByBeat, "4, and on the & of 2"},
		{at(eighth, 1, 3, 5, 7), song.FourFour, song.ByBeat, "every &"},
		{at(eighth, 1, 3, 5), song.FourFour, song.ByBeat, "the & of 1, 2 and 3"},
		{at(eighth, 0, 2, 4, 6), song.FourFour, song.ByBeat, "every beat"},
		{at(sixteenth, 1, 3, 5, 7, 9, 11, 13, 15), song.FourFour, song.ByBeat, "every e, and on every a"},
		{at(sixteenth, 3, 2, 11), song.FourFour, song.ByBeat, "the a of 1 and 3, and on the & of 1"},
		{at(eighth, 2, 5), six, song.ByEighth, "3 and 6"},
		{at(eighth, 1, 4), six, song.ByBeat, "every trip"},
	} {
		assert.Equal(t, c.want, Speaker{Counting: c.counting}.Places(c.starts, c.meter))
	}
}

// No step is without its reason.
func TestEveryReasonOfAStepIsSaid(t *testing.T) {
	e := &arrange.Event{Hard: &arrange.Hard{Spot: grade.Spot{Demand: grade.Change, Count: 2, Seconds: 1}, From: "G", To: "C"}}
	held := lesson.Held{Name: "F"}
	for k := lesson.OffBeat; k <= lesson.AsOne; k++ {
		step := &lesson.Step{Kind: lesson.Piece, Shapes: []lesson.Held{held, held}, Rung: arrange.AsWritten,
			Why: []lesson.Reason{{Kind: k, N: 3, Bar: 2, From: 1, To: 2, Meter: song.FourFour, Event: e, Hard: e.Hard, Most: 80, String: 5}}}
		said := Speaker{}.Step(step)
		require.Len(t, said, 1)
		assert.Greater(t, len(said[0]), 15, "reason %d: %q", k, said[0])
	}
}
