package voicing

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/chord"
	"valleyside/core/grade"
	"valleyside/core/hand"
	"valleyside/core/neck"
	"valleyside/core/pitch"
)

func parse(t testing.TB, symbol string) chord.Chord {
	c, err := chord.Parse(symbol)
	require.NoError(t, err)
	return c
}

func tuning(t testing.TB, name string) neck.Tuning {
	u, err := neck.Parse(name)
	require.NoError(t, err)
	return u
}

func shapesOf(list []Voicing) []string {
	var out []string
	for _, v := range list {
		out = append(out, v.Frets.String())
	}
	return out
}

func in(t neck.Tuning) neck.Instrument { return neck.Instrument{Tuning: t} }

var standard = in(neck.Standard)

// The shapes that everybody is shown come first, and where none is open the
// form of E or A at the lower place.
func TestUsualShapes(t *testing.T) {
	for symbol, want := range map[string]string{
		"Em": "022000", "Am": "x02210", "D": "xx0232", "E": "022100", "A": "x02220", "C": "x32010", "G": "320003",
		"Am7": "x02010", "E7": "020100", "D5": "xx023x", "A5": "x022xx", "Dm": "xx0231", "B7": "x21202", "Fmaj7": "xx3210",
		"F": "133211", "Bm": "x24432", "F#m": "244222", "Bb": "x13331", "C#m": "x46654", "G#m": "466444", "Eb": "x68886", "G5": "355xxx",
		"Cm7": "x35343", "Ab": "466544", "Gm": "355333", "Bdim": "x2343x", "C9": "x3233x", "E7#9": "x7678x", "Bb5": "x133xx", "C5": "x355xx",
		"D/F#": "200232", "G/B": "x20003", "Am/G": "302210", "Bm/A": "x04432",
	} {
		found := new(Book).Usual(parse(t, symbol), standard, hand.Player{}, 6)
		require.NotEmpty(t, found, symbol)
		assert.Equal(t, want, found[0].Frets.String(), symbol)
	}
	down := new(Book).Usual(parse(t, "Eb5"), in(tuning(t, "half step down")), hand.Player{}, 1)
	assert.Equal(t, "022xxx", down[0].Frets.String(), "all strings a half step down: the shapes stay")
	capo := in(neck.Standard)
	capo.Capo = 3
	assert.Equal(t, "320003", new(Book).Usual(parse(t, "Bb"), capo, hand.Player{}, 1)[0].Frets.String())
	for _, v := range new(Book).Usual(parse(t, "F"), standard, hand.Player{NoBarre: true}, 3) {
		assert.LessOrEqual(t, v.Build().BarreStrings, 2, "the hand that has no barre gets none")
	}
	other := new(Book).Usual(parse(t, "D5"), in(tuning(t, "drop D")), hand.Player{}, 1)
	assert.Equal(t, 0, int(other[0].Frets[0]), "in another tuning the shapes are worked out")
	assert.Empty(t, new(Book).Usual(parse(t, "F#maj7"), standard, hand.Player{Reach: 5}, 6))
}

// Every form and every open shape is the chord that it is the shape of: its
// tones and no other, on its bass, within a hand.
func TestFormsAreTheirChords(t *testing.T) {
	at := hand.Player{}.At(neck.Neck{})
	for suffix, list := range forms {
		for _, fm := range list {
			root := standard.Pitch(fm.root, int(fm.frets.On(fm.root)))
			c := parse(t, pitch.Key{}.SpellClass(root.Class()).String()+suffix)
			set, low := standard.Classes(fm.frets)
			assert.True(t, set.In(c.Classes()), "%s of %s", fm.frets, c)
			assert.Equal(t, root.Class(), low, "%s of %s", fm.frets, c)
			missing := c.Classes().Minus(set)
			spared := pitch.SetOf(root.Class().Up(7), root.Class().Up(2), root.Class().Up(5))
			for _, tone := range c.Tones {
				if other := (chord.Degree{Number: tone.Degree.Number, Alter: -tone.Degree.Alter}); tone.Degree.Alter != 0 && otherWay(c, tone.Degree) && set.Has(root.Class().Up(other.Semitones())) {
					spared = spared.With(tone.Class()) // altered the other way
				}
			}
			if suffix == "7alt" && set.Has(root.Class().Up(8)) {
				spared = spared.With(root.Class().Up(1)).With(root.Class().Up(3)) // root 3 b7 #5 is enough on string 6
			}
			assert.True(t, missing.Minus(spared) == 0, "%s lacks what says %s", fm.frets, c)
			assert.True(t, len(c.Tones) > 4 || missing.Without(root.Class().Up(7)) == 0, "%s of %s", fm.frets, c)
			_, ok := at.Taught(fm.frets)
			assert.True(t, ok, "%s of %s", fm.frets, c)
		}
	}
	fields := strings.Fields(openText)
	for i := 0; i < len(fields); i += 2 {
		c, frets := parse(t, fields[i]), shapeOf(t, fields[i+1])
		_, ok := at.Taught(frets)
		assert.True(t, ok, "%s", frets)
		set, low := standard.Classes(frets)
		assert.Equal(t, c.Lowest().Class(), low, "%s of %s", frets, c)
		assert.True(t, set.Without(low).In(c.Classes()), "%s of %s", frets, c)
		missing := c.Classes().Minus(set)
		assert.True(t, missing == 0 || c.Bass.Valid() && missing.Len() == 1 || missing == pitch.SetOf(c.Root.Class().Up(7)), "%s of %s", frets, c)
	}
}

// Every full voicing that there is, tried fret by fret on every string, is
// found, and no other.
func TestVoicingsAreComplete(t *testing.T) {
	if testing.Short() {
		t.Skip("tries millions of shapes")
	}
	for _, c := range []struct{ symbol, tuning string }{{"Am7", "standard"}, {"D/F#", "drop D"}, {"Gsus4", "open G"}} {
		ch, tun := parse(t, c.symbol), tuning(t, c.tuning)
		p := hand.Player{Reach: 100, Thumb: c.tuning == "standard"}.At(neck.Neck{})
		got := map[neck.Frets]bool{}
		onRoot, onBass := 0, 0
		for _, s := range enumerate(ch, in(tun), p, whole) {
			require.False(t, got[s.Frets], "%s twice", s.Frets)
			got[s.Frets] = true
			if !s.classes.Has(ch.Root.Class()) {
				continue
			}
			onRoot++
			complete := true
			for _, tone := range ch.Tones {
				plain := tone.Degree == (chord.Degree{Number: 5}) && len(ch.Tones) > 3
				complete = complete && (plain || s.classes.Has(tone.Class()))
			}
			if complete && s.bass == ch.Lowest().Class() {
				onBass++
			}
		}
		for k, n := range map[kind]int{rooted: onRoot, usual: onBass} {
			some := enumerate(ch, in(tun), p, k)
			assert.Len(t, some, n, c.symbol)
			for _, s := range some {
				require.True(t, got[s.Frets], s.Frets.String())
			}
		}
		want := 0
		frets := neck.NoFrets
		var try func(i int)
		try = func(i int) {
			if i == neck.Strings {
				if isFull(ch, tun, p, frets) {
					want++
					require.True(t, got[frets], "%s of %s is missing", frets, c.symbol)
				}
				return
			}
			for fret := int8(-1); fret <= highest; fret++ {
				// A note that the chord does not have cannot be part of it.
				if class := tun.Pitch(neck.StringAt(i), int(fret)).Class(); fret < 0 || ch.Has(class.Above(ch.Root.Class())) || class == ch.Lowest().Class() {
					frets[i] = fret
					try(i + 1)
				}
			}
			frets[i] = neck.Silent
		}
		try(0)
		require.Len(t, got, want, c.symbol)
		assert.Greater(t, want, 30, c.symbol)
	}
}

// isFull says again what a full voicing is.
func isFull(c chord.Chord, tun neck.Tuning, p hand.At, frets neck.Frets) bool {
	f := hand.Fingering{Frets: frets}
	if f.Sounding() < min(3, len(c.Tones)) || f.Inside() > mostInside {
		return false
	}
	for i := f.Lowest() - 1; i > f.Highest(); i-- {
		if frets.On(i) < 0 && frets.On(i+1) < 1 && frets.On(i-1) < 1 {
			return false // nothing to mute it with
		}
	}
	if f.Frets.Open() != 0 && slices.Max(frets[:]) > openUpTo {
		return false
	}
	classes, _ := in(tun).Classes(frets)
	lost := 0
	for _, tone := range c.Tones {
		if !classes.Has(tone.Class()) {
			lost++
			if !spare(c, tone) {
				return false
			}
		}
	}
	return lost <= max(len(c.Tones)-3, 1) && taughtBy(p, frets)
}

func taughtBy(p hand.At, frets neck.Frets) bool {
	_, ok := p.Taught(frets)
	return ok
}

// What a voicing says of itself is true.
func TestVoicingsAreHonest(t *testing.T) {
	for _, tun := range []neck.Tuning{neck.Standard, tuning(t, "drop D"), tuning(t, "open G"), neck.Standard.Up(3)} {
		for _, symbol := range []string{"C", "F#m", "Bb7", "Ebmaj7", "C/G", "D/F#", "G7sus4", "Am9", "Bdim", "C+", "E5", "C13", "G7#5b9"} {
			c := parse(t, symbol)
			for _, school := range Schools {
				cfg := Config{In: in(tun), Player: hand.Player{Reach: 95}, School: school, Dominated: true, Max: 40}
				for _, v := range Find(c, cfg) {
					has := map[pitch.Class]bool{}
					low := pitch.Pitch(1000)
					for i, fret := range v.Frets {
						if fret >= 0 {
							p := tun.Pitch(neck.StringAt(i), int(fret))
							has[p.Class()], low = true, min(low, p)
						}
					}
					for _, tone := range c.Tones {
						require.Equal(t, has[tone.Note.Class()], contains(v.Kept, tone.Degree), "%s in %s of %s", tone.Degree, v.Frets, symbol)
						require.Equal(t, !has[tone.Note.Class()], contains(v.Lost, tone.Degree))
						delete(has, tone.Note.Class())
					}
					if c.Bass.Valid() {
						delete(has, c.Bass.Class())
					}
					require.Len(t, v.Added, len(has), "%s of %s", v.Frets, symbol)
					for _, n := range v.Added {
						require.True(t, has[n.Class()])
					}
					require.Equal(t, low.Class(), v.Bass.Class())
					require.NotEmpty(t, v.Is.Name)
					require.True(t, v.Playable(cfg.Player.At(neck.Neck{})))
					require.LessOrEqual(t, v.Fidelity, 1.0)
					require.GreaterOrEqual(t, v.Fidelity, 0.0)
					if school == Letter || school == Third {
						require.LessOrEqual(t, v.Sounding(), 3)
					}
					if len(v.Lost) == 0 && len(v.Added) == 0 && v.Bass.Class() == c.Lowest().Class() {
						require.Equal(t, 1.0, v.Fidelity, "nothing is lost in %s of %s", v.Frets, symbol)
						require.Equal(t, symbol, v.Is.Name)
					}
				}
			}
		}
	}
}

func contains(list []chord.Degree, d chord.Degree) bool { return slices.Contains(list, d) }

// Names of voicings that the program itself gives: the chord that they were
// made for is the first in nearly all, and among the first three in all, where
// all its tones sound.
func TestNamesOfVoicings(t *testing.T) {
	rootLow, first := 0, 0
	for _, root := range []string{"C", "F#", "Bb", "E"} {
		for _, q := range []string{"", "m", "7", "maj7", "m7", "6", "m6", "sus4", "sus2", "dim7", "m7b5", "aug", "add9", "9", "m9", "maj9", "7sus4", "7b9", "7#9", "6/9"} {
			c := parse(t, root+q)
			for _, v := range Find(c, Config{Dominated: true, Max: 60}) {
				if len(v.Lost) > 0 || len(v.Added) > 0 {
					continue
				}
				names := chord.Names(v.classes, v.Bass.Class(), pitch.Key{})
				at := -1
				for i, n := range names {
					sounds := pitch.SetOf(n.Bass.Class())
					for _, tone := range n.Tones {
						sounds = sounds.With(tone.Class())
					}
					if n.Root.Class() == c.Root.Class() && n.Exact() && sounds == c.Classes() && at < 0 {
						at = i
					}
				}
				// A diminished seventh chord has four names that are equally good.
				assert.True(t, at >= 0 && (at < 3 || q == "dim7"), "%s of %s is called %v", v.Frets, c, names)
				if v.Bass.Class() == c.Root.Class() {
					rootLow++
					if at == 0 {
						first++
					}
				}
			}
		}
	}
	assert.Greater(t, rootLow, 200)
	assert.Greater(t, float64(first)/float64(rootLow), 0.95)
}

func TestSchools(t *testing.T) {
	find := func(symbol string, s School) []Voicing {
		return Find(parse(t, symbol), Config{School: s, Dominated: true})
	}
	letter := shapesOf(find("Cm7", Letter))
	assert.Contains(t, letter, "x35xxx")
	assert.Contains(t, letter, "x355xx")
	assert.Contains(t, letter, "8-10-x-x-x-x")
	for _, v := range find("Cm7", Letter) {
		assert.Contains(t, []int{5, 6}, v.Circle)
		assert.Contains(t, v.Is.Name, "C5")
	}
	var said []string
	for _, v := range find("Bdim", Letter) {
		said = append(said, v.Frets.String())
		assert.NotContains(t, v.Kept, chord.Degree{Number: 5})
		assert.Empty(t, v.Added, "%s: no plain fifth under a flat one", v.Frets)
	}
	assert.Contains(t, said, "x23xxx", "the altered fifth")
	assert.Contains(t, said, "x2x4xx", "the octave")
	assert.Contains(t, said, "x2xxxx", "or the root")

	third := shapesOf(find("G", Third))
	assert.Contains(t, third, "32xxxx", "a major third on the next string, a fret lower")
	assert.Contains(t, shapesOf(find("Gm", Third)), "31xxxx")
	for _, v := range find("Am", Third) {
		assert.Equal(t, "1 b3", chord.Degrees(v.Kept))
		assert.Equal(t, "5", chord.Degrees(v.Lost))
	}
	for _, v := range find("F#m", Drone) {
		assert.Equal(t, [2]int8{0, 0}, [2]int8{v.Frets[4], v.Frets[5]})
		assert.Contains(t, v.Is.Name, "F#", "a drone is named from the root that the sheet has")
	}
	assert.Contains(t, shapesOf(find("A", Drone)), "x02200")
	for _, v := range find("C", Few) {
		assert.True(t, v.Role == Shown || v.Sounding() == 3 || v.Sounding() == 4, "few strings, but no scrap: %s", v.Frets)
	}
	assert.Contains(t, shapesOf(find("C", Open)), "x32010")

	// A note that is sung completes the chord.
	sung := Find(parse(t, "C"), Config{School: Letter, Sung: pitch.Note{Letter: 'E'}})[0]
	assert.Empty(t, sung.Lost)
	assert.Equal(t, 1.0, sung.Fidelity)
	assert.Equal(t, SungTone, sung.Remarks[0].Kind)
}

// Nothing on the front is dominated, and what is off it is.
func TestFront(t *testing.T) {
	all := Find(parse(t, "Am7"), Config{Dominated: true})
	for _, v := range all {
		beaten := false
		for _, o := range all {
			a, b := fullness[o.Sounding()], fullness[v.Sounding()]
			beaten = beaten || o.Ease >= v.Ease && o.Fidelity >= v.Fidelity && a >= b && (o.Ease > v.Ease || o.Fidelity > v.Fidelity || a > b)
		}
		require.Equal(t, beaten, v.Dominated, v.Frets.String())
	}
}

// The short list begins as a teacher would: the usual shape, the easiest that
// keeps the whole chord, one without a barre; the letter and the two notes are
// there, and what differs only at the edge is one of a family.
func TestShortList(t *testing.T) {
	for symbol, first := range map[string]string{"C": "x32010", "F": "133211", "Bm": "x24432", "G7": "320001", "Eb": "x68886"} {
		list := Find(parse(t, symbol), Config{Max: 12})
		assert.Equal(t, first, list[0].Frets.String())
		assert.Equal(t, Shown, list[0].Role)
		seen := map[School]bool{}
		for i, v := range list {
			seen[v.School] = true
			if v.Role == Barreless {
				assert.Zero(t, v.Build().BarreStrings)
			}
			for _, w := range v.Without {
				assert.True(t, within(w, v.Frets), "%s of %s", w, v.Frets)
				for _, o := range list[:i] {
					assert.NotEqual(t, w, o.Frets)
				}
			}
		}
		for _, s := range []School{Letter, Third} {
			assert.True(t, seen[s], "%s of %s", s, symbol)
		}
	}
	assert.True(t, within(shapeOf(t, "x3201x"), shapeOf(t, "x32010")))
	assert.False(t, within(shapeOf(t, "x32x10"), shapeOf(t, "x32010")), "left out inside")
	assert.False(t, within(shapeOf(t, "x32013"), shapeOf(t, "x32010")))
}

func shapeOf(t *testing.T, s string) neck.Frets {
	f, err := neck.ParseFrets(s)
	require.NoError(t, err)
	return f
}

func TestRegionAndBooks(t *testing.T) {
	b := new(Book)
	for _, v := range b.Find(parse(t, "D7"), Config{Low: 5, High: 8, Dominated: true}) {
		for _, fret := range v.Frets {
			assert.True(t, fret <= 0 || fret >= 5 && fret <= 8, v.Frets.String())
		}
	}
	assert.Equal(t, b.Find(parse(t, "D7"), Config{Max: 5}), Find(parse(t, "D7"), Config{Max: 5}), "a book changes nothing")
	slots := []Slot{{parse(t, "D7"), 1, neck.NoFrets}, {parse(t, "G"), 1, neck.NoFrets}, {parse(t, "D7"), 1, neck.NoFrets}}
	once := new(Book)
	first, choices := once.Progression(slots, Config{Max: 3}), once.Choices(parse(t, "D7"), Config{}, 4)
	assert.Equal(t, first, once.Progression(slots, Config{Max: 3}), "what is remembered is not written to")
	assert.Equal(t, choices, once.Choices(parse(t, "D7"), Config{}, 4))
	left := b.Find(parse(t, "D7"), Config{Max: 5, Dominated: true, Player: hand.Player{LeftHanded: true, Picking: hand.Economy}})
	assert.Len(t, left, 5)
	assert.Equal(t, 2, b.known.Len(), "and remembers shapes by what they depend on: those of lists, and all")
}

func BenchmarkFind(b *testing.B) {
	for _, symbol := range []string{"C", "Am7", "F#m7b5", "C13"} {
		c := parse(b, symbol)
		b.Run(symbol, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				Find(c, Config{Max: 12})
			}
		})
	}
}

func kinds(v Voicing) (list []RemarkKind) {
	for _, r := range v.Remarks {
		list = append(list, r.Kind)
	}
	return list
}

// A shape of any origin is described for a chord, or refused where the hand
// cannot hold it.
func TestDescribe(t *testing.T) {
	shape := func(s string) neck.Frets {
		f, err := neck.ParseFrets(s)
		require.NoError(t, err)
		return f
	}
	v, ok := Describe(parse(t, "Am"), Config{}, shape("x02220"))
	require.True(t, ok)
	assert.Contains(t, kinds(v), MajorThird)
	assert.Less(t, v.Fidelity, 0.5, "a major shape on a minor chord")
	v, _ = Describe(parse(t, "A"), Config{}, shape("x02210"))
	assert.Contains(t, kinds(v), MinorThird)
	v, _ = Describe(parse(t, "Bdim"), Config{}, shape("x24xxx"))
	assert.Contains(t, v.Remarks, Remark{Kind: PlainFifth, Chord: "Bdim", Degree: chord.Degree{Number: 5, Alter: -1}})
	v, _ = Describe(parse(t, "C+"), Config{}, shape("x35xxx"))
	assert.Contains(t, v.Remarks, Remark{Kind: PlainFifth, Chord: "C+", Degree: chord.Degree{Number: 5, Alter: 1}})
	v, _ = Describe(parse(t, "C7"), Config{}, shape("xx898x"))
	assert.Contains(t, kinds(v), Rootless)
	v, _ = Describe(parse(t, "C/G"), Config{}, shape("x32010"))
	assert.Contains(t, v.Remarks, Remark{Kind: BassLost, Chord: "C/G", Note: pitch.Note{Letter: 'C'}, Named: pitch.Note{Letter: 'G'}})
	v, _ = Describe(parse(t, "C"), Config{}, shape("032010"))
	assert.Equal(t, Called{Name: "C/E"}, v.Is)
	assert.Contains(t, kinds(v), BassTurned)
	assert.Equal(t, "1 3", chord.Degrees(v.Doubled))
	_, ok = Describe(parse(t, "F"), Config{Player: hand.Player{NoBarre: true}}, shape("133211"))
	assert.False(t, ok)
	_, ok = Describe(parse(t, "F"), Config{Player: hand.Player{Reach: 30}}, shape("133211"))
	assert.False(t, ok)
}

// Voicings are made for a hand: without barres there are none, and what is
// new to the player counts.
func TestVoicingsForAHand(t *testing.T) {
	for _, v := range Find(parse(t, "F"), Config{Player: hand.Player{NoBarre: true, NoLittle: true}, Dominated: true}) {
		b := v.Build()
		assert.False(t, b.Barred(), v.Frets.String())
		assert.False(t, v.Uses(hand.Little), v.Frets.String())
	}
	cheap := Find(parse(t, "F"), Config{School: Open, Dominated: true})
	learner := Find(parse(t, "F"), Config{School: Open, Dominated: true, Player: hand.Player{New: hand.ThreeFingers}})
	require.Equal(t, len(cheap), len(learner))
	low := func(list []Voicing) float64 {
		sum := 0.0
		for _, v := range list {
			sum += v.Ease
		}
		return sum
	}
	assert.Less(t, low(learner), low(cheap))
	child := Find(parse(t, "F"), Config{Player: hand.Player{Reach: 60, Scale: neck.ChildScale}, Dominated: true})
	grown := Find(parse(t, "F"), Config{Dominated: true})
	assert.Less(t, len(child), len(grown))
	b := new(Book)
	done := make(chan []string)
	for range 4 {
		go func() { done <- shapesOf(b.Find(parse(t, "Em7"), Config{Max: 6})) }()
	}
	first := <-done
	for range 3 {
		assert.Equal(t, first, <-done, "a book can be used by several at once")
	}
	assert.NotEmpty(t, b.Choices(parse(t, "Em7"), Config{School: Few}, 5))
	assert.Empty(t, b.Choices(parse(t, "F#maj7"), Config{Player: hand.Player{Reach: 1, NoBarre: true}, In: in(neck.Standard.Up(1))}, 5)[:0])
	s, err := ParseSchool("few")
	require.NoError(t, err)
	assert.Equal(t, "Few strings", s.Title())
	_, err = ParseSchool("many")
	assert.Error(t, err)
}

// The families that a jazz player asks for are what they are called: a shell its root with
// third and seventh, a rootless form the third and the seventh without the root, a drop two
// a close chord again once its lowest note is an octave higher.
func TestFamilies(t *testing.T) {
	find := func(name string, s School) []Voicing {
		return new(Book).Find(parse(t, name), Config{School: s, Player: hand.Player{Reach: 130}})
	}
	shapes := func(name string, s School) (list []string) {
		for _, v := range find(name, s) {
			list = append(list, v.Frets.String())
		}
		return list
	}
	for name, first := range map[string]string{"G7": "3x34xx", "C7": "x323xx", "Cmaj7": "x324xx", "Dm7": "x535xx", "Gmaj7": "3x44xx", "Am7": "5x55xx", "C": "x320xx", "E7": "0x01xx"} {
		require.NotEmpty(t, shapes(name, Shell), name)
		assert.Equal(t, first, shapes(name, Shell)[0], name)
	}
	assert.Subset(t, shapes("Cmaj7", DropTwo), []string{"xx5557", "xx9988", "x-x-10-12-12-12"})
	assert.Subset(t, shapes("C9", NoRoot), []string{"xx2333"}, "Em7b5, the C with the bass")
	assert.Empty(t, find("C", DropTwo), "three notes")
	for _, name := range []string{"G7", "Cmaj7", "Dm7", "Bm7b5", "Fdim7", "A13", "C9", "Ebm6", "F#7b9"} {
		c := parse(t, name)
		root := c.Root.Class()
		third, _ := c.Third()
		for _, v := range find(name, Shell) {
			pitches := Config{}.usual().In.Sounds(v.Frets)
			assert.Len(t, pitches, 3, v.Frets)
			assert.Equal(t, root, pitches[0].Class(), "%s %s", name, v.Frets)
			assert.True(t, pitch.SetOf(third.Class()).In(v.classes), "%s %s", name, v.Frets)
		}
		for _, v := range find(name, NoRoot) {
			assert.False(t, v.classes.Has(root), "%s %s", name, v.Frets)
			assert.True(t, v.classes.Has(third.Class()), "%s %s", name, v.Frets)
			assert.True(t, slices.ContainsFunc(v.Remarks, func(r Remark) bool { return r.Kind == Rootless }), "%s %s says who plays the root", name, v.Frets)
		}
		for _, v := range find(name, DropTwo) {
			pitches := Config{}.usual().In.Sounds(v.Frets)
			require.Len(t, pitches, 4, v.Frets)
			assert.EqualValues(t, 3, v.Lowest()-v.Highest(), "four neighbours")
			up := append([]pitch.Pitch{pitches[0] + 12}, pitches[1:]...)
			assert.Less(t, int(slices.Max(up)-slices.Min(up)), 12, "%s %s", name, v.Frets)
		}
	}
}

// Nothing that a hand can hold is left out of all: any shape whose notes are exactly those
// of a chord is among its voicings, whatever is easier.
func TestAllIsAll(t *testing.T) {
	p := hand.Player{Reach: 170}
	at := p.At(neck.Neck{})
	b := new(Book)
	in := Config{}.usual().In
	found := 0
	rapid.Check(t, func(t *rapid.T) {
		low := rapid.IntRange(1, 9).Draw(t, "low")
		frets := neck.NoFrets
		for i := range frets {
			switch rapid.IntRange(0, 3).Draw(t, "string") {
			case 0:
			case 1:
				frets[i] = 0
			default:
				frets[i] = int8(low + rapid.IntRange(0, 3).Draw(t, "fret"))
			}
		}
		f := hand.Fingering{Frets: frets}
		_, _, ok := grade.Taught(frets, at)
		if !ok || f.Sounding() < 3 || f.Inside() > mostInside || !hand.Silenceable(frets) {
			return
		}
		classes, bass := in.Classes(frets)
		for _, n := range chord.Names(classes, bass, pitch.Key{}) {
			c, err := chord.Parse(n.Name)
			if err != nil || !n.Exact() || len(c.Tones) < 3 {
				continue
			}
			found++
			all := b.shapes(c, in, p, every)
			require.True(t, slices.ContainsFunc(all, func(v shape) bool { return v.Frets == frets }), "%s as %s", frets, n.Name)
			return
		}
	})
	assert.Positive(t, found)
	for name, shape := range map[string]string{"AmMaj9": "536400", "EmMaj9": "0-10-9-8-7-0", "F#": "244x00"} {
		all := b.Find(parse(t, name), Config{Player: p, Dominated: true})
		assert.True(t, slices.ContainsFunc(all, func(v Voicing) bool { return v.Frets.String() == shape }), "%s as %s", name, shape)
	}
}

// What a chord can do without: its fifth, its root where there are more than three, an
// inner ninth or eleventh, one of two altered ways; never what gives it its name.
func TestWhatIsSpared(t *testing.T) {
	for symbol, want := range map[string]string{
		"C": "5", "Cm": "5", "C7": "1 5", "C9": "1 5", "C11": "1 5 9", "C13": "1 5 9", "Cmaj13": "1 5 9",
		"C7b9": "1 5", "C7b5": "1", "C7#9b9": "1 5 b9 #9", "Cm11": "1 5 9", "Csus4": "5", "C6/9": "1 5", "C13#11": "1 5 9 #11",
	} {
		c, err := chord.Parse(symbol)
		require.NoError(t, err, symbol)
		var got []string
		for _, tone := range c.Tones {
			if spare(c, tone) {
				got = append(got, tone.Degree.String())
			}
		}
		assert.ElementsMatch(t, strings.Fields(want), got, symbol)
	}
}
