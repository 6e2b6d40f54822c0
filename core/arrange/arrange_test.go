package arrange

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

func read(t require.TestingT, body string) *song.Song {
	s := sheet.Parse("title: T\n" + body)
	require.True(t, s.OK(), "%v", s.Problems)
	return s.Song
}

// played writes the events of a version as slots.
func played(v Version) string {
	var bars []string
	for _, b := range v.Bars {
		var events []string
		for _, e := range b.Events {
			var notes []string
			for _, n := range e.Notes {
				notes = append(notes, fmt.Sprintf("%d%s", n.Fret, n.String))
			}
			if notes == nil {
				notes = []string{"x"}
			}
			events = append(events, strings.Join(notes, "+"))
		}
		bars = append(bars, strings.Join(events, " "))
	}
	return strings.Join(bars, " | ")
}

func TestVersions(t *testing.T) {
	const riff = "A:\n| 0A 3A 5A 2D |\n"
	cases := []struct {
		name, body string
		rung       Rung
		options    Options
		way        Way
		want       string
	}{
		{"the line itself, where it is typed", riff, OneFinger, Options{}, Way{}, "0A 3A 5A 2D"},
		{"one string", riff, OneFinger, Options{}, Way{Prefer: OneString}, "0A 3A 5A 7A"},
		{"root of a power chord", "A:\n| 3A+5D 5A+7D |", OneFinger, Options{}, Way{Prefer: OneString}, "3A 5A"},
		{"root of an upside-down one", "A:\n| 5E+5A |", OneFinger, Options{}, Way{}, "5A"},
		{"the bass that is named", "A:\n| C/G D/F# |", OneFinger, Options{}, Way{}, "3E 2E"},
		{"open power chords", "A:\n| E5 A5 D5 |", TwoNote, Options{}, Way{}, "0E+2A 0A+2D 0D+2G"},
		{"a slash bass that is the fifth", "A:\n| C/G |", TwoNote, Options{}, Way{}, "3E+3A"},
		{"a slash bass that is not", "A:\n| D/F# |", TwoNote, Options{}, Way{}, "0D+2G"},
		{"a diminished fifth stays one", "A:\n| Bdim |", TwoNote, Options{}, Way{}, "2A+3D"},
		{"an augmented one too", "A:\n| G+ |", TwoNote, Options{}, Way{}, "3E+6A"},
		{"drop D under one finger", "tuning: drop D\nA:\n| D5 G5 |", TwoNote, Options{}, Way{}, "0E+0A 5E+5A"},
		{"drop D, three notes", "tuning: drop D\nA:\n| D5 F5 |", ThreeNote, Options{}, Way{}, "0E+0A+0D 3E+3A+3D"},
		{"octaves", "A:\n| F5 |", Octave, Options{}, Way{}, "1E+3D"},
		{"an octave in a drop tuning", "tuning: drop D\nA:\n| F5 |", Octave, Options{}, Way{}, "3E+3D"},
		{"across G and B a fret more", "A:\n| 5G |", TwoNote, Options{}, Way{Pins: []Pin{{On: 3, What: PinString}}}, "5G+8B"},
		{"a dead strum stays", "A:\n| E5 x |", TwoNote, Options{}, Way{}, "0E+2A x"},
		{"a reach too wide", "A:\n| F5 |", TwoNote, Options{Player: hand.Player{Reach: 50}}, Way{}, "1E"},
		{"one finger must do", "A:\n| C5 |", TwoNote, Options{Player: hand.Player{New: hand.TwoFingers}}, Way{}, "3E+3A"},
		{"no barre", "tuning: drop D\nA:\n| G5 |", TwoNote, Options{Player: hand.Player{NoBarre: true}}, Way{}, "5E+5A"},
		{"a bend becomes its target", "A:\n| 9G 7Gb2 |", OneFinger, Options{}, Way{Prefer: OneString}, "0e 0e"},
		{"typed places stay", "A:\n| 5A 5D 7A |", AsWritten, Options{}, Way{}, "5A 5D 7A"},
		{"unless they may move", "A:\n| 12A 5E |", AsWritten, Options{}, Way{Replace: true}, "2G 0A"},
	}
	for _, c := range cases {
		t.Run(c.name, func(t *testing.T) {
			v := New(read(t, c.body), c.options).Version(0, c.rung, c.way)
			assert.Equal(t, c.want, played(v))
		})
	}
}

func TestAccentsOnly(t *testing.T) {
	s := read(t, "A:\n| 0E 0E 3E! 0E 5E - - 0E |\n")
	v := New(s, Options{}).Version(0, TwoNote, Way{Thicken: Accents})
	var sizes []int
	for _, e := range v.Bars[0].Events {
		sizes = append(sizes, len(e.Notes))
	}
	assert.Equal(t, []int{2, 1, 2, 1, 2, 1}, sizes, "the first, the accented and the longest")
}

func TestSpelling(t *testing.T) {
	names := func(body string, r Rung) string {
		v := New(read(t, body), Options{}).Version(0, r, Way{})
		var out []string
		for _, n := range v.Bars[0].Events[0].Notes {
			out = append(out, n.Pitch.String())
		}
		return strings.Join(out, " ")
	}
	assert.Equal(t, "F#2 C#3", names("key: C\nA:\n| F#5 |", TwoNote))
	assert.Equal(t, "Gb2 Db3", names("key: C\nA:\n| Gb5 |", TwoNote))
	assert.Equal(t, "Bb2 F3", names("key: C\nA:\n| 1A |", TwoNote))
	assert.Equal(t, "G#2 D#3", names("key: E major\nA:\n| 4E |", TwoNote))
	assert.Equal(t, "B2 F3", names("key: A minor\nA:\n| Bdim |", TwoNote))
	assert.Equal(t, "Eb3", names("key: A minor\nA:\n| 6A |", OneFinger))
}

func TestOtherTuning(t *testing.T) {
	s := read(t, "tuning: drop D\nA:\n| 0E 5E 0E+0A |")
	standard := neck.Standard
	v := New(s, Options{Tuning: &standard}).Version(0, OneFinger, Way{})
	assert.Equal(t, "D3", v.Bars[0].Events[0].Notes[0].Pitch.String(), "D2 is below the neck")
	assert.Contains(t, v.Bars[0].Events[0].Why, Moved{1, true})
	assert.Equal(t, "G3", v.Bars[0].Events[1].Notes[0].Pitch.String(), "the whole phrase moves, not one note")
	assert.Contains(t, v.Why, OctavesMoved(3))
	rest := read(t, "tuning: drop D\nA:\n| 0E 5E . . |\n| 5E 7E 5E - |\n")
	w := New(rest, Options{Tuning: &standard}).Version(0, OneFinger, Way{})
	assert.Equal(t, "G2", w.Bars[1].Events[0].Notes[0].Pitch.String(), "the next phrase stays")
}

// drawPart draws a part of single notes, shapes and chords in any tuning.
func drawPart(t *rapid.T) *song.Song {
	tuning := rapid.SampledFrom(append(neck.Known(), "C G D G B D", "E A D G C F", "B E A D F# B")).Draw(t, "tuning")
	capo := rapid.IntRange(0, 5).Draw(t, "capo")
	var b strings.Builder
	fmt.Fprintf(&b, "tuning: %s\ncapo: %d\nkey: %s\nA:\n", tuning, capo,
		rapid.SampledFrom([]string{"Am", "Eb major", "F# minor", "D dorian"}).Draw(t, "key"))
	for range rapid.IntRange(1, 3).Draw(t, "bars") {
		b.WriteString("|")
		for range rapid.IntRange(1, 8).Draw(t, "slots") {
			s := rapid.SampledFrom([]string{"E", "A", "D", "G", "B", "e"}).Draw(t, "string")
			f := rapid.IntRange(0, 17).Draw(t, "fret")
			fmt.Fprintf(&b, " %s", rapid.SampledFrom([]string{
				fmt.Sprintf("%d%s", f, s), fmt.Sprintf("%d%s", f, s), fmt.Sprintf("h%d%s", f, s), ".", "-", "x", "x" + s,
				fmt.Sprintf("%dA+%dD", f, f+2), "Em7", "C/G", "F#m", "Bdim", "G+", "Bb7", "D/F#", "G#m7b5", "Ebmaj7",
			}).Draw(t, "slot"))
		}
		b.WriteString(" |\n")
	}
	return read(t, b.String())
}

// What a version gives is right in every tuning: the rhythm and the roots
// stay, the intervals are what the rung promises, and the hand can do it.
func TestEveryVersionIsRight(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawPart(t)
		o := Options{Player: hand.Player{Reach: rapid.Float64Range(20, 160).Draw(t, "reach")}}
		way := Way{Prefer: rapid.SampledFrom([]Prefer{Nearest, OneString}).Draw(t, "prefer"),
			Thicken:    rapid.SampledFrom([]Thicken{All, Accents}).Draw(t, "thicken"),
			FullRhythm: true}
		open := s.Open()
		a := New(s, o)
		n := a.set.in.Neck
		for _, rung := range Rungs {
			v := a.Version(0, rung, way)
			require.GreaterOrEqual(t, v.Grade, 1.0)
			require.LessOrEqual(t, v.Grade, 10.0)
			written := s.Parts[0].Bars()
			require.Len(t, v.Bars, len(written))
			for b, bar := range v.Bars {
				var sounding []song.Event
				for _, e := range written[b].Events {
					if e.Sounds() {
						sounding = append(sounding, e)
					}
				}
				if rung == EasyChords && a.score(0).arpeggio() {
					continue // strummed once a harmony
				}
				require.Len(t, bar.Events, len(sounding))
				for i, e := range bar.Events {
					from := sounding[i]
					require.Equal(t, from.Start, e.Start)
					require.Equal(t, from.Length, e.Length)
					require.NotEmpty(t, e.Why)
					if from.Dead() {
						require.Empty(t, e.Notes)
						continue
					}
					require.NotEmpty(t, e.Notes)
					checkEvent(t, rung, e, from, s.Above(), open, o.Player.Reach, n, rung == OneFinger && way.Prefer == OneString)
				}
			}
		}
	})
}

func checkEvent(t *rapid.T, rung Rung, e Event, from song.Event, above int, open neck.Tuning, reach float64, n neck.Neck, octaves bool) {
	var pitches []pitch.Pitch
	for _, note := range e.Notes {
		p := open.Pitch(note.String, note.Fret)
		pitches = append(pitches, p)
		require.GreaterOrEqual(t, note.Fret, 0)
		require.LessOrEqual(t, note.Fret, n.LastFret())
		require.Equal(t, p, note.Pitch.Pitch(), "the name is that of the sound")
		require.Equal(t, note.Fret > 0, note.Finger != hand.None)
	}
	if rung == EasyChords && from.Kind == song.Chord {
		require.LessOrEqual(t, e.Fingering.Reach(n), reach)
		return
	}
	if rung == AsWritten || rung == EasyChords {
		if from.Kind == song.Notes {
			require.Len(t, e.Notes, len(from.Notes))
		}
		return
	}
	require.LessOrEqual(t, e.Fingering.Reach(n), reach)
	var root, bass pitch.Class
	var fifth int
	if from.Kind == song.Chord {
		root, bass, fifth = from.Chord.Root.Class().Up(above), from.Chord.Lowest().Class().Up(above), 7
		switch from.Chord.Symbol {
		case "Bdim", "G#m7b5":
			fifth = 6
		case "G+":
			fifth = 8
		}
	} else {
		lowest := open.Pitch(from.Notes[0].String, from.Notes[0].Fret)
		root, bass, fifth = lowest.Class(), lowest.Class(), 7
		if len(from.Notes) == 2 {
			// The typed shape is a fifth, a fourth (root above) or, by its
			// tuning, something else, in which the lower note is taken on trust.
			switch d := open.Pitch(from.Notes[1].String, from.Notes[1].Fret) - lowest; d.Class() {
			case 7:
			case 5:
				root, bass = (lowest + d).Class(), (lowest + d).Class()
			default:
				return
			}
		}
	}
	switch len(e.Notes) {
	case 1:
		require.Contains(t, []pitch.Class{root, bass}, pitches[0].Class())
		if rung == OneFinger {
			require.Equal(t, bass, pitches[0].Class())
		}
		if from.Kind == song.Notes && len(from.Notes) == 1 {
			written := open.Pitch(from.Notes[0].String, from.Notes[0].Fret)
			if n := from.Notes[0]; n.By == song.Tapped || n.Harmonic {
				return
			}
			if octaves { // one string may move the whole part
				require.Equal(t, written.Class(), pitches[0].Class())
			} else {
				require.Equal(t, written, pitches[0], "a line keeps its octave")
			}
		}
	case 2:
		require.NotEqual(t, OneFinger, rung)
		low, high := min(pitches[0], pitches[1]), max(pitches[0], pitches[1])
		if rung == Octave {
			require.EqualValues(t, 12, high-low)
			require.Equal(t, bass, low.Class())
			return
		}
		if low.Class() == root {
			require.EqualValues(t, fifth, high-low)
		} else {
			require.Equal(t, root, high.Class(), "upside down, the root is the upper note")
			require.EqualValues(t, 12-fifth, high-low)
		}
	case 3:
		require.Equal(t, ThreeNote, rung)
		require.Equal(t, root, pitches[0].Class())
		require.EqualValues(t, fifth, pitches[1]-pitches[0])
		require.EqualValues(t, 12, pitches[2]-pitches[0])
	default:
		require.Fail(t, "too many notes")
	}
	if rung == OneFinger {
		require.LessOrEqual(t, e.Fingering.Count(), 1)
		require.Len(t, e.Notes, 1)
	}
}

func hundredBars(n int) *song.Song {
	var b strings.Builder
	b.WriteString("title: Long\nkey: A minor\nA:\n")
	for range n / 4 {
		b.WriteString("| 0A - 3A 5A 2D - (5A 3A) . | 3D+5G - - - . . x x | Am7 - - - F - C/G - | 7A 5A 3A 0A 2D 0D 5A 3A |\n")
	}
	return sheet.Parse(b.String()).Song
}

// The server keeps one book, so that a chord's voicings are found once; new
// are those that nobody has asked for yet.
func BenchmarkAllRungs(b *testing.B) {
	for _, bars := range []int{12, 100, 400, 2000} {
		s := hundredBars(bars)
		for name, shared := range map[string]*voicing.Book{"new": nil, "kept": new(voicing.Book)} {
			b.Run(fmt.Sprintf("bars=%d/book=%s", bars, name), func(b *testing.B) {
				b.ReportAllocs()
				for b.Loop() {
					New(s, Options{Book: shared}).Ladder(0, nil)
				}
			})
		}
	}
}

// Notes that are written to ring are held as the chord that they spell, and nothing
// that rings is muted; the same notes without it are played one after the other.
func TestWhatRingsIsHeld(t *testing.T) {
	s := read(t, "key: A minor\nA:\nring: yes\n| 0A 2D 2D 2G  2G 1B - - |\nB:\n| 0A 2D 2D 2G  2G 1B - - |\nC:\n| 0A_ 2D 3D 2D |\n| 0A 2D 3D 2D |\n")
	a := New(s, Options{})
	fingers := func(part int) (list []hand.Finger) {
		for _, e := range a.Version(part, AsWritten, Way{}).Bars[0].Events {
			list = append(list, e.Notes[0].Finger)
		}
		return list
	}
	assert.Equal(t, []hand.Finger{0, 2, 2, 3, 3, 1}, fingers(0), "as Am")
	assert.Equal(t, []hand.Finger{0, 2, 2, 2, 2, 1}, fingers(1), "one after the other")
	c := a.Version(2, AsWritten, Way{})
	assert.Empty(t, c.Bars[0].Events[1].Mutes, "the open A rings on")
	assert.NotEmpty(t, c.Bars[1].Events[1].Mutes)
}

// What was struck muted does not ring on: nothing has to stop it.
func TestWhatWasMutedNeedsNoMute(t *testing.T) {
	mutes := func(before string) []hand.Mute {
		v := New(read(t, "A:\n| "+before+" 2D 3D 2D |\n"), Options{}).Version(0, AsWritten, Way{})
		return v.Bars[0].Events[1].Mutes
	}
	assert.NotEmpty(t, mutes("0A"))
	assert.Empty(t, mutes("0A*"), "muted with the palm")
	assert.Empty(t, mutes("0A'"), "let go at once")
}

// Of a tapped run the lowest note counts; it ends where the next is tapped or picked.
func TestTappedRuns(t *testing.T) {
	runs := func(body string) (lowest []int) {
		s := read(t, "A:\n| "+body+" |\n")
		for _, p := range tappedRuns(s.Parts[0].Lines[0].Bars[0].Events, neck.Instrument{Tuning: neck.Standard}) {
			lowest = append(lowest, int(p))
		}
		return lowest
	}
	low := func(fret int) int { return int(neck.Instrument{Tuning: neck.Standard}.Pitch(4, fret)) }
	assert.Equal(t, []int{low(5), 0, 0, 0}, runs("t12D p5D h8D h9D"))
	assert.Equal(t, []int{low(5), 0, 0, 0}, runs("t12D p5D 2D h3D"), "what is picked is no more of it")
	assert.Equal(t, []int{low(7), 0, low(5), 0}, runs("t12D p7D t12D p5D"))
}

// A dead stroke leaves the hand where it is: what is fretted before and after it is
// chosen as if it were not there, and the time for the change is all that lies between
// what sounds.
func TestADeadStrokeMovesNothing(t *testing.T) {
	events := func(body string) (list []Event) {
		v := New(read(t, "tempo: 120\nA:\n| "+body+" |\n"), Options{}).Version(0, AsWritten, Way{FullRhythm: true})
		for _, e := range v.Bars[0].Events {
			if e.From.Dead() {
				require.Zero(t, e.Shift, "a dead stroke is no way")
				continue
			}
			list = append(list, e)
		}
		return list
	}
	for _, body := range [][2]string{{"C=x32010 - - - F=133211 - - -", "C=x32010 x x x F=133211 x x x"}, {"1E - 12E - 3E - 1E -", "1E x 12E x 3E x 1E x"}} {
		held, dead := events(body[0]), events(body[1])
		require.Len(t, dead, len(held))
		for i := range held {
			assert.Equal(t, held[i].Fingering, dead[i].Fingering)
			assert.Equal(t, held[i].Base, dead[i].Base)
			assert.Equal(t, held[i].Shift, dead[i].Shift)
		}
	}
	v := New(read(t, "tempo: 120\nA:\n| 1E - 12E x x x 1E - |\n"), Options{}).Version(0, AsWritten, Way{FullRhythm: true})
	last := v.Bars[0].Events[5]
	assert.InDelta(t, 1, last.Hard.Spot.Seconds, 1e-9, "two beats, from what sounded last")
	assert.Equal(t, "E", last.Hard.From[:1])
	assert.Equal(t, v.Bars[0].Events[1].Base, v.Bars[0].Events[4].Base, "the hand waits at fret 12")
}

// A change is harder the less time there is for it, and a song that goes to a hard
// shape from another is no easier than that shape alone.
func TestAChangeIsHarderWithLessTime(t *testing.T) {
	graded := func(body string, tempo int) float64 {
		return New(read(t, fmt.Sprintf("tempo: %d\nA:\n| %s | %s |\n", tempo, body, body)), Options{}).Version(0, AsWritten, Way{FullRhythm: true}).Grade
	}
	for _, body := range []string{"C - F -", "G - C -", "Am - F -", "F - Bm -"} {
		before := graded(body, 40)
		first := before
		for tempo := 80; tempo <= 200; tempo += 40 {
			now := graded(body, tempo)
			assert.Greater(t, now, before, "%s at %d", body, tempo)
			before = now
		}
		assert.Greater(t, before, first+0.5, "%s: half a grade at least from 40 to 200", body)
	}
	for _, tempo := range []int{40, 120, 200} {
		assert.GreaterOrEqual(t, graded("C - F -", tempo), graded("F - F -", tempo), "at %d", tempo)
	}
}

// Of two open strings with one between nothing keeps that one silent: an octave across
// them is the note alone, unless it is what the sheet has.
func TestNoOctaveAcrossAnOpenGap(t *testing.T) {
	frets := func(body string) (list []string) {
		for _, e := range New(read(t, "tuning: drop D\nA:\n| "+body+" |\n"), Options{}).Version(0, Octave, Way{FullRhythm: true}).Bars[0].Events {
			list = append(list, e.Fingering.Frets.String())
		}
		return list
	}
	assert.Equal(t, []string{"0xxxxx", "3x3xxx", "5x5xxx"}, frets("0E 3E 5E"))
	assert.Equal(t, []string{"0x0xxx"}, frets("0E+0D"), "as typed")
}

// A shape that is pinned for a chord holds wherever the chord is written, but where one
// place has another; a finger is pinned on any string; and a pin that speaks of nothing,
// or has other notes than are written, is said.
func TestPinsOfChordsAndFingers(t *testing.T) {
	s := read(t, "A:\n| C - G - C - G - | G - - - C - - - |\n")
	version := func(pins ...string) Version {
		w, err := ParseWay(strings.Join(pins, "\n"))
		require.NoError(t, err)
		assert.Equal(t, strings.Join(pins, "\n"), w.String(), "written as it is read")
		return New(s, Options{}).Version(0, AsWritten, w)
	}
	shapes := func(v Version) (list []string) {
		for _, b := range v.Bars {
			for _, e := range b.Events {
				list = append(list, e.Fingering.Frets.String())
			}
		}
		return list
	}
	v := version("chord C: shape x35553")
	assert.Equal(t, []string{"x35553", "320003", "x35553", "320003", "320003", "x35553"}, shapes(v))
	assert.Empty(t, v.Unmet)
	v = version("bar 2 at 1/2: shape 332010", "chord C: shape x35553")
	assert.Equal(t, []string{"x35553", "320003", "x35553", "320003", "320003", "332010"}, shapes(v), "one place is meant more than all")

	w, err := ParseWay("chord C: shape x35553\nbar 2 at 1/2: shape 332010")
	require.NoError(t, err)
	apart := w.Apart("C", &s.Parts[0])
	assert.Equal(t, "bar 2 at 1/2: shape 332010\nbar 1 at 0: shape x35553\nbar 1 at 1/2: shape x35553", apart.String(), "each by itself, so that one can go")
	assert.Equal(t, w.Without("bar 2 at 1/2: shape 332010").Apart("G", &s.Parts[0]).String(), "chord C: shape x35553")

	v = version("bar 1 at 0: shape x35553", "bar 1: shape 332010")
	assert.Equal(t, "x35553", shapes(v)[0], "a moment is meant more than its bar, in whatever order")

	v = version("bar 1 at 1/4: finger 4 on E", "bar 1 at 1/4: finger 3 on e")
	require.Len(t, v.Unmet, 1, "no hand has the little finger on the low E and the ring on the high one")
	v = version("bar 1 at 1/4: finger 1 on A", "bar 1 at 1/4: finger 4 on e")
	g := v.Bars[0].Events[1].Fingering
	assert.Equal(t, []hand.Finger{3, 1, 4}, []hand.Finger{g.Fingers[0], g.Fingers[1], g.Fingers[5]})
	assert.Empty(t, v.Unmet)

	v = New(read(t, "A:\n| 5A 7A 5B 8B 5A 7A |\n"), Options{}).Version(0, AsWritten, Way{Pins: []Pin{{Bar: 1, What: PinFinger, On: 2, Finger: 2}}})
	assert.Empty(t, v.Unmet, "a finger of a bar is meant where its string is stopped")
	assert.Equal(t, []hand.Finger{2, 2}, []hand.Finger{v.Bars[0].Events[2].Notes[0].Finger, v.Bars[0].Events[3].Notes[0].Finger})

	for pin, why := range map[string]UnmetKind{
		"bar 1 at 1/8: shape x35553": NoStroke,
		"chord Dm: shape xx0231":     NoSuchChord,
		"bar 9: string A":            NoSuchBar,
		"bar 1 at 0: shape xx0232":   OtherNotes,
	} {
		v = version(pin)
		require.NotEmpty(t, v.Unmet, pin)
		assert.Equal(t, why, v.Unmet[0].Why, pin)
	}
	assert.Equal(t, "D A F#", version("bar 1 at 0: shape xx0232").Unmet[0].Of)
	assert.Equal(t, "xx0232", shapes(version("bar 1 at 0: shape xx0232"))[0], "the teacher has the last word")
}

// Fingers that are typed hold wherever their string is stopped at their fret, but in one
// finger; what no hand holds is said.
func TestTypedFingersHold(t *testing.T) {
	s := read(t, "A:\n| 5A:4 7A 5A 7A | G=320003:32xxx4 - C - | G - 3E+5A:3 - | 3E:4+5A:1 5A:1 h7A:1 - |\n")
	events := func(r Rung, bar int) []Event {
		return New(s, Options{}).Version(0, r, Way{FullRhythm: true}).Bars[bar].Events
	}
	assert.Equal(t, hand.Finger(4), events(AsWritten, 0)[0].Notes[0].Finger)
	assert.NotEqual(t, hand.Finger(4), events(OneFinger, 0)[0].Notes[0].Finger)
	assert.Equal(t, [neck.Strings]hand.Finger{3, 2, 0, 0, 0, 4}, events(AsWritten, 1)[0].Fingering.Fingers)
	assert.Equal(t, hand.Finger(3), events(AsWritten, 2)[1].Fingering.Fingers[1])
	assert.Contains(t, events(AsWritten, 3)[0].Why, Reason{Why: FingersNotKept})
}

// Where there is no pick, notes have the letters of the hand that plucks, and no strokes.
func TestPluckedParts(t *testing.T) {
	letters := func(body string) (text string) {
		v := New(read(t, "A:\n"+body), Options{}).Version(0, AsWritten, Way{})
		for _, e := range v.Bars[0].Events {
			for _, n := range e.Notes {
				text += n.Pluck.String()
			}
			text += [...]string{" ", "v ", "^ "}[e.Stroke]
		}
		return text
	}
	assert.Equal(t, "p i m i ", letters("pluck: yes\n| 3A 0G 1B 0G |\n"))
	assert.Equal(t, "p i pm i ", letters("pluck: yes\n| 3A 0G 2D+1B 0G |\n"))
	assert.Equal(t, "pv mv v v ", letters("| 3A:p 0G:m 1B 0G |\n"))
	assert.Equal(t, "pima ", letters("pluck: yes\n| C=x3x010 |\n"))
	assert.Equal(t, "v ^ ", letters("pluck: yes\n| Cv C^ |\n"), "brushed as it is typed")
}

// A cell of three or four notes that comes again within a bar is fingered again in the same
// way, wherever the bar goes on to.
func TestCellsAreFingeredAlike(t *testing.T) {
	for _, c := range []struct {
		bars   string
		length int
	}{
		{"| 12G 10B 13G 12G 10B 13G 12G 10B | 2D 3D 5D 3D 2D 3D 5D 7D |", 3},
		{"| 5A 7A 8A 7A 5A 7A 8A 7A | 12A 14A 15A 14A 12A - - - |", 4},
		{"| 7D 8D 5G 7D 8D 5G 7D 8D 5G 7D 8D 5G | 1D - - - |", 3},
	} {
		b := New(read(t, "tempo: 120\nA:\n"+c.bars+"\n"), Options{}).Version(0, AsWritten, Way{FullRhythm: true}).Bars[0]
		for i := c.length; i < len(b.Events); i++ {
			assert.Equal(t, b.Events[i-c.length].Fingering, b.Events[i].Fingering, "%s, note %d", c.bars, i+1)
			assert.Equal(t, b.Events[i-c.length].Base, b.Events[i].Base, "%s, note %d", c.bars, i+1)
		}
	}
}

// A song that is rewritten for another tuning sounds what it sounded, capo and all, wherever
// it lies now, and its chords are what is heard.
func TestRewrittenSoundsTheSame(t *testing.T) {
	classes := func(s *song.Song) (list []pitch.Set) {
		in := neck.Instrument{Tuning: s.Open()}
		for _, b := range s.Parts[0].Bars() {
			for i := range b.Events {
				e, set := &b.Events[i], pitch.SetOf()
				for _, n := range e.Notes {
					set = set.With(n.Pitch(s.Open()).Class())
				}
				if e.Kind == song.Chord && e.Frets != neck.NoFrets {
					set, _ = in.Classes(e.Frets)
				}
				list = append(list, set)
			}
		}
		return list
	}
	for _, from := range []string{"", "tuning: drop D\n", "capo: 2\n", "tuning: drop D\ncapo: 3\n", "tuning: half step down\n", "tuning: open G\n"} {
		for _, to := range []string{"standard", "drop D", "open D", "half step down"} {
			s := read(t, from+"A:\n| 0E 3E 5A 2D | 3A+5D 0A 7Gb2 C=x32010 |\n")
			in, err := neck.Parse(to)
			require.NoError(t, err)
			there, versions := New(s, Options{Tuning: &in}).Rewritten()
			assert.Equal(t, in, there.Tuning)
			assert.Len(t, versions, 1)
			want := classes(s)
			again := sheet.Parse(sheet.Write(there))
			require.True(t, again.OK(), "%v", again.Problems)
			for i, got := range classes(again.Song) {
				assert.Positive(t, got.Len(), "%q to %s, event %d", from, to, i)
				if i < 7 {
					assert.Equal(t, want[i], got, "%q to %s, event %d", from, to, i)
				} else { // a chord may be thinner there
					assert.True(t, got.In(want[i]), "%q to %s, event %d", from, to, i)
				}
			}
		}
	}
}
