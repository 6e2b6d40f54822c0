package arrange

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
	"valleyside/core/song"
	"valleyside/core/voicing"
)

// drawSheet draws a sheet of everything that a part may have.
func drawSheet(t *rapid.T) *song.Song {
	slots := []string{"0E", "3E", "5E", "7A", "5A", "3A 5A", "2D", "0D", "5D h7D", "7D p5D", "5G s7G", "7Gb2", "5B", "8e", "12B", "0G", "2G",
		"3A+5D", "5E+7A+7D", "0A+2D", "5D+5G", "5A+7G", "x", "xA", ".", "-", "E5", "A5", "C", "Am", "F", "G7", "D/F#", "Bm7b5", "E7", "C5=x355xx", "5A*", "7D!", "12Do", "7Gb2 r7G", "/5D", "7D\\", "0E_", "3A_"}
	var b strings.Builder
	fmt.Fprintf(&b, "key: %s\ntempo: %d\n", rapid.SampledFrom([]string{"A minor", "G major", "E minor", "F major"}).Draw(t, "key"), rapid.IntRange(50, 200).Draw(t, "tempo"))
	if rapid.Bool().Draw(t, "tuned") {
		fmt.Fprintf(&b, "tuning: %s\n", rapid.SampledFrom([]string{"drop D", "open G", "DADGAD"}).Draw(t, "tuning"))
	}
	b.WriteString("A:\n" + rapid.SampledFrom([]string{"", "", "pickup: 1\n", "ring: yes\n"}).Draw(t, "of the part"))
	pool := make([]string, rapid.IntRange(1, 3).Draw(t, "different bars"))
	for i := range pool {
		n := rapid.IntRange(1, 8).Draw(t, "slots")
		bar := make([]string, n)
		for j := range bar {
			bar[j] = "(" + rapid.SampledFrom(slots).Draw(t, "slot") + ")"
		}
		pool[i] = "| " + rapid.SampledFrom([]string{"", "", "[3/4] ", "[6/8] "}).Draw(t, "its own time") + strings.Join(bar, " ") + " "
	}
	for range rapid.IntRange(1, 3).Draw(t, "lines") {
		for range rapid.IntRange(1, 3).Draw(t, "bars") {
			b.WriteString(rapid.SampledFrom(pool).Draw(t, "bar"))
		}
		fmt.Fprintf(&b, "| x%d\n", rapid.IntRange(1, 3).Draw(t, "times"))
	}
	return read(t, b.String())
}

// drawPlayer draws the player for whom it is made.
func drawPlayer(t *rapid.T) hand.Player {
	return hand.Player{Reach: rapid.SampledFrom([]float64{0, 70, 95}).Draw(t, "reach"), Picking: rapid.SampledFrom(hand.Pickings).Draw(t, "picking"),
		NoBarre: rapid.Bool().Draw(t, "no barre"), Thumb: rapid.Bool().Draw(t, "thumb"), NotesPerSecond: rapid.SampledFrom([]float64{2, 5, 9}).Draw(t, "pace")}
}

// What a version says of itself is so: every reason is held against what is
// played.
func TestEveryReasonIsTrue(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawSheet(t)
		o := Options{Book: book, Player: drawPlayer(t)}
		way := Way{Thicken: rapid.SampledFrom([]Thicken{All, Accents, Thirds, Sixths}).Draw(t, "thicken"), FullRhythm: rapid.Bool().Draw(t, "full"),
			Replace: rapid.Bool().Draw(t, "free"), Prefer: rapid.SampledFrom([]Prefer{Nearest, OneString}).Draw(t, "prefer")}
		a := New(s, o)
		for _, rung := range Rungs {
			v := a.Version(0, rung, way)
			truth := witness{t: t, a: a, v: &v}
			for i := range v.Bars {
				truth.bar(i)
			}
			truth.whole()
		}
	})
}

// witness holds what is said against what is played.
type witness struct {
	t *rapid.T
	a *Arranger
	v *Version
}

// notes are all notes of a bar.
func (b *Bar) notes() (list []Note) {
	for i := range b.Events {
		list = append(list, b.Events[i].Notes...)
	}
	return list
}

func (w witness) bar(i int) {
	t, b := w.t, &w.v.Bars[i]
	for _, s := range b.Why {
		said := fmt.Sprintf("%s, bar %d: %+v", w.v.Rung, b.Number, s)
		within := func(low, high int, on ...neck.String) {
			for _, n := range b.notes() {
				require.True(t, len(on) == 0 || n.String == on[0], said)
				require.True(t, n.Fret == 0 || n.Fret >= low && n.Fret <= high, said)
			}
		}
		switch f := s.Fact.(type) {
		case OnlyOpen:
			within(0, 0, f.String)
		case StaysAt:
			within(f.Fret, f.Fret, f.String)
		case OneStringOf:
			within(f.Low, f.High, f.String)
		case Between:
			within(f.Low, f.High)
		case SameAs:
			other := &w.v.Bars[f.Bar-1]
			require.Equal(t, len(other.Events), len(b.Events), said)
			for j := range b.Events {
				x, y := &other.Events[j], &b.Events[j]
				require.True(t, x.Start == y.Start && x.Length == y.Length && x.Fingering == y.Fingering && x.Muted == y.Muted && x.Stroke == y.Stroke && slices.Equal(x.Dead, y.Dead) &&
					x.From.Marks == y.From.Marks, said)
			}
		case SameNotesAs:
			w.again(b, f.Bar, said, func(over, along, _ int) bool { return over == 0 && along == 0 })
		case ShapeOf:
			w.again(b, f.Bar, said, func(over, along, _ int) bool { return over == f.Strings && along == 0 })
		case ShapeAlong:
			w.again(b, f.Bar, said, func(over, along, _ int) bool { return over == 0 && along == f.Frets })
		case LineOf:
			w.again(b, f.Bar, said, func(_, _, up int) bool { return up == 0 })
		case LineMoved:
			w.again(b, f.Bar, said, func(_, _, up int) bool { return up == f.Semitones })
		case AnchorStays:
			require.True(t, w.linked(i, f.String, true), said)
		case GuideSlides:
			require.True(t, w.linked(i, f.String, false), said)
		case Plain:
			require.True(t, f == Hardest || (f == Silence || f == GoesOn) && len(b.Events) == 0, said)
		case LeftOut:
			require.NotEmpty(t, b.Dropped, said)
			require.False(t, w.v.Rung == AsWritten || w.v.Rung == EasyChords, said)
		}
	}
	for j := range b.Events {
		w.event(b, j)
	}
}

// again holds a bar against the one that it is said to be like.
func (w witness) again(b *Bar, number int, said string, ok func(over, along, up int) bool) {
	x, y := w.v.Bars[number-1].notes(), b.notes()
	require.Equal(w.t, len(x), len(y), said)
	for k := range x {
		over := int(x[k].String - y[k].String)
		along := y[k].Fret - x[k].Fret
		up := int(y[k].Pitch.Pitch() - x[k].Pitch.Pitch())
		require.True(w.t, ok(over, along, up), said)
	}
}

// linked tells whether a change of a bar has a finger that stays, or slides, on
// the string that is named.
func (w witness) linked(i int, on neck.String, stays bool) bool {
	b := &w.v.Bars[i]
	var before *Event
	for k := i - 1; k >= 0 && before == nil; k-- {
		for j := range w.v.Bars[k].Events {
			if e := &w.v.Bars[k].Events[j]; !e.From.Dead() {
				before = e
			}
		}
	}
	for j := range b.Events {
		e := &b.Events[j]
		if e.From.Dead() {
			continue // the hand stays where it is
		}
		if before != nil {
			at := on.Index()
			same := before.Fingering.Fingers[at] != hand.None && before.Fingering.Fingers[at] == e.Fingering.Fingers[at]
			if same && stays == (before.Fingering.Frets[at] == e.Fingering.Frets[at]) {
				return true
			}
		}
		before = e
	}
	return false
}

func (w witness) event(b *Bar, j int) {
	t, e := w.t, &b.Events[j]
	typed := e.From
	here := fmt.Sprintf("%s, bar %d on %s: %v", w.v.Rung, b.Number, e.Beat, e.Fingering)
	classes, low := w.a.set.in.Classes(e.Fingering.Frets)
	for _, f := range e.Why {
		said := fmt.Sprintf("%s: %+v", here, f)
		power := func(of string, fifth int) {
			if len(e.Notes) > 1 {
				root, err := pitch.ParseNote(strings.TrimSuffix(of, "5"))
				require.NoError(t, err, said)
				require.True(t, classes.In(pitch.SetOf(root.Class(), root.Class().Up(fifth))), said)
			}
		}
		switch f := f.(type) {
		case Reason:
			w.reason(e, f, said)
		case StandsFor:
			switch f.Share {
			case RootAlone:
				require.Equal(t, f.Of, e.Notes[0].Pitch.Note.String(), said)
			case BassAlone:
				require.Equal(t, typed.Chord.Bass.Class(), low, said)
			default:
				power(f.Of, 7)
			}
		case BassIsLost:
			require.NotEqual(t, typed.Chord.Bass.Class(), low, said)
		case Below:
			require.Len(t, e.Notes, 2, said)
			d := int(e.Notes[1].Pitch.Pitch() - e.Notes[0].Pitch.Pitch())
			require.Contains(t, map[int][]int{3: {3, 4}, 6: {8, 9}}[f.Interval], d, said)
			require.Equal(t, f.Of, e.Notes[0].Pitch.Note.String()+"+"+e.Notes[1].Pitch.Note.String(), said)
		case NoneBelow:
			require.Len(t, e.Notes, 1, said)
		case AlteredFor:
			power(f.Of, f.Fifth.Semitones())
		case Moved:
			require.NotZero(t, f.Octaves, said)
		}
	}
	w.hard(b, e, here)
	w.mutes(e, here)
}

// reason holds one of the plain reasons against an event.
func (w witness) reason(e *Event, f Reason, said string) {
	t, typed := w.t, e.From
	_, low := w.a.set.in.Classes(e.Fingering.Frets)
	switch f.Why {
	case TypedNotes, TypedVoicing:
		if typed.Kind == song.Notes {
			for _, n := range typed.Notes {
				require.True(t, n.Dead || e.Fingering.Frets.On(n.String) == n.Fret, said)
			}
		}
	case UsualShape:
		usual := w.a.set.options.Book.Usual(typed.Chord, w.a.set.in, w.a.set.at.Player, 9)
		require.True(t, slices.ContainsFunc(usual, func(v voicing.Voicing) bool { return v.Frets == e.Fingering.Frets }), said)
	case Melody, LowerOfTwo, TheLine, LowestOfRun:
		require.Equal(t, f.Of, e.Notes[0].Pitch.Note.String(), said)
	case KeepsBass:
		require.Equal(t, typed.Chord.Bass.Class(), low, said)
	case WithOctave, WithRootBelow:
		require.True(t, len(e.Notes) < 2 || slices.ContainsFunc(e.Notes[1:], func(n Note) bool { return n.Pitch.Class() == e.Notes[0].Pitch.Class() }), said)
	case OpenRoot:
		require.Zero(t, e.Notes[0].Fret, said)
	case FlatFinger:
		_, strings := e.Fingering.Barre()
		require.True(t, strings > 1 || e.Fingering.Count() == 0 || e.Notes[0].Fret != e.Notes[1].Fret, said)
	case UpsideDown:
		require.EqualValues(t, 5, e.Notes[1].Pitch.Pitch()-e.Notes[0].Pitch.Pitch(), said)
	case Single:
		require.Len(t, e.Notes, 1, said)
	case HeldShape:
		_, err := chord.Parse(f.Of)
		require.NoError(t, err, said)
	}
}

// hard holds the hardest place against the fingering.
func (w witness) hard(b *Bar, e *Event, here string) {
	if e.Hard == nil {
		return
	}
	h := e.Hard
	held := slices.ContainsFunc(e.Why, func(f Fact) bool { r, ok := f.(Reason); return ok && r.Why == HeldShape })
	switch h.Spot.Demand {
	case grade.Fingers:
		if !held {
			require.Equal(w.t, e.Fingering.Count(), h.Spot.Count, here)
		}
	case grade.Reach:
		if !held {
			require.InDelta(w.t, e.Fingering.Reach(w.a.set.in.Neck), h.Spot.MM, 1e-6, here)
		}
		require.GreaterOrEqual(w.t, 3*h.Spot.MM, 2*h.Spot.Most, "%s: no stretch for a hand that has a third of it left", here)
	case grade.Shift:
		require.Positive(w.t, h.Spot.Frets, here)
		require.True(w.t, held || e.Fingering.Fretted(), "%s: no change to an open string is hard", here)
	case grade.Change:
		require.True(w.t, held || e.Fingering.Fretted(), "%s: no change to an open string is hard", here)
	}
}

// mutes holds each mute against what a hand can do.
func (w witness) mutes(e *Event, here string) {
	frets, fingers := e.Fingering.Frets, e.Fingering.Fingers
	seen := map[neck.String]bool{}
	for _, m := range e.Mutes {
		said := fmt.Sprintf("%s: %+v", here, m)
		i := m.String.Index()
		require.False(w.t, seen[m.String], said)
		seen[m.String] = true
		require.Negative(w.t, frets[i], "%s: it sounds", said)
		switch m.Stop {
		case hand.ByTip: // of the finger on the next thinner string
			require.True(w.t, i < 5 && frets[i+1] > 0 && fingers[i+1] == m.Finger, said)
		case hand.ByLeaning: // of the finger on the next thicker string
			require.True(w.t, i > 0 && frets[i-1] > 0 && fingers[i-1] == m.Finger, said)
		case hand.ByUnderside: // of a finger that frets a thicker string, up to the next open one
			at := -1
			for k := i; k >= 0 && at < 0 && frets[k] != 0; k-- {
				if fingers[k] == m.Finger {
					at = k
				}
			}
			require.GreaterOrEqual(w.t, at, 0, said)
		case hand.ByThumb:
			require.GreaterOrEqual(w.t, int(m.String), 5, said)
			require.False(w.t, e.Fingering.Uses(hand.Thumb), said)
			if m.String == 5 {
				require.True(w.t, w.a.set.at.Thumb, said)
			}
		case hand.ByPalm: // the thickest strings together
			for k := range i {
				require.Negative(w.t, frets[k], "%s: the palm lies on a string that sounds", said)
			}
		case hand.ByHand:
			require.False(w.t, e.Fingering.Fretted(), said)
		}
	}
}

// whole holds what is said of the version as a whole.
func (w witness) whole() {
	for _, f := range w.v.Why {
		said := fmt.Sprintf("%s: %+v", w.v.Rung, f)
		on, string := f.(AllOnString)
		for i := range w.v.Bars {
			for j := range w.v.Bars[i].Events {
				require.True(w.t, f != HandStays || w.v.Bars[i].Events[j].Shift == 0, said)
			}
			for _, n := range w.v.Bars[i].notes() {
				require.True(w.t, !string || n.String == on.String, said)
			}
		}
	}
}

// An alternative is what it says that it buys.
func TestEveryAlternativeKeepsItsPromise(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawSheet(t)
		a := New(s, Options{Book: book, Player: drawPlayer(t)})
		rung := rapid.SampledFrom(Rungs).Draw(t, "rung")
		v := a.Version(0, rung, Way{})
		bar := rapid.IntRange(1, len(v.Bars)).Draw(t, "bar")
		alternatives := a.Alternatives(0, rung, Way{}, bar, 0)
		for i, alt := range alternatives {
			for _, before := range alternatives[:i] {
				require.False(t, alt.alike(before), "two that are called the same")
			}
			var own, other []neck.Frets
			for k, pin := range alt.Pins {
				own = append(own, shapeAt(&v, pin))
				for _, e := range v.Bars[pin.Bar-1].Events {
					if e.Start == pin.Start {
						other = append(other, alt.Pins[k].Shape)
					}
				}
			}
			sum := func(list []neck.Frets, f func(neck.Frets) int) (n int) {
				for _, shape := range list {
					n += f(shape)
				}
				return n
			}
			open := func(f neck.Frets) (n int) {
				for _, fret := range f {
					if fret == 0 {
						n++
					}
				}
				return n
			}
			top := func(list []neck.Frets) int {
				high := 0
				for _, f := range list {
					high = max(high, int(slices.Max(f[:])))
				}
				return high
			}
			strings := map[int]bool{}
			for _, shape := range other {
				for i, fret := range shape {
					if fret >= 0 {
						strings[i] = true
					}
				}
			}
			for _, f := range slices.Concat(alt.Is, alt.Buys) {
				said := fmt.Sprintf("%s bar %d: %+v of %v against %v", rung, bar, f, other, own)
				switch f := f.(type) {
				case OnString:
					require.Equal(t, map[int]bool{f.String.Index(): true}, strings, said)
				case OnStrings:
					require.Len(t, strings, int(f), said)
				case InFrets:
					require.Equal(t, f.High, top(other), said)
				case InPosition: // the index reaches one fret back, the little finger one further
					require.LessOrEqual(t, top(other), int(f)+int(hand.Little), said)
				case Plain:
					before, after := sum(own, open), sum(other, open)
					require.True(t, f != AllOpen || top(other) == 0, said)
					require.True(t, f != WithOpen || after > 0 && before == 0, said)
					require.True(t, f != WithoutOpen || after == 0 && before > 0, said)
					require.True(t, f != MoreOpen || after > before, said)
					require.True(t, f != OneSound || after == 0, said)
				case OctaveElsewhere:
					for i := range other {
						require.EqualValues(t, 12*f.Octaves, lowest(a, other[i])-lowest(a, own[i]), said)
					}
				}
			}
		}
	})
}

// lowest is the lowest pitch of a shape.
func lowest(a *Arranger, f neck.Frets) pitch.Pitch {
	low := pitch.Pitch(math.MaxInt32)
	for i, fret := range f {
		if fret >= 0 {
			low = min(low, a.set.in.Pitch(neck.StringAt(i), int(fret)))
		}
	}
	return low
}
