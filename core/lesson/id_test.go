package lesson

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/neck"
	"valleyside/core/song"
)

// What a step is known by is written so that it can be read again, stands in an address
// as it is, and is another for every step.
func TestStepIDs(t *testing.T) {
	s := read(t, "tempo: 60\norder: A x2, B, A\nA:\nmute: palm\n| (5D h7D) 5D' . 3A! | 5D p3D s5D 3A~ | C F C F |\nB:\ncue: now\n| 3A . 5A 3A | Bm F#m G D | x3")
	l := build(s, arrange.AsWritten, Student{})
	require.Greater(t, len(l.Steps), 12)
	seen := map[StepID]bool{}
	for i := range l.Steps {
		id := l.Steps[i].ID
		require.False(t, seen[id], id)
		seen[id] = true
		again, err := ParseStepID(id.String())
		require.NoError(t, err)
		assert.Equal(t, id, again)
		assert.Empty(t, strings.Trim(id.String(), "abcdefghijklmnopqrstuvwxyz0123456789.-"), id)
	}
	assert.Equal(t, "change.fx32010.f133211", StepID{Kind: Change, Shapes: [2]neck.Frets{frets(t, "x32010"), frets(t, "133211")}}.String())
	for _, text := range []string{"piece", "piece.p1.b3-4", "part.p2.n1.c3-4", "finish.p1.tpalm-muting", "finish.p3", "seam.p1.i2", "form", "form.cues", "form.p1.i2", "own.o3", "shape.fx-10-12-12-x-x", ""} {
		id, err := ParseStepID(text)
		require.NoError(t, err, text)
		assert.Equal(t, text, id.String())
	}
	for _, text := range []string{"walk", "piece.p0", "piece.b3", "piece.b4-", "change.fx32010", "shape.fx32010.fx32010", "piece.p01", "piece.p1.p1", "finish.tshout", "piece..p1", "piece.", ".p1", "part.p99999999999999999999", "own.o-1", "piece «Verse» 3 to 4"} {
		_, err := ParseStepID(text)
		assert.Error(t, err, text)
	}
	assert.Equal(t, StepID{Kind: Whole, Part: 2, Nth: 1}, StepID{Kind: Whole, Part: 2, Nth: 1, Cut: [2]int{3, 4}}.Whole())
}

func frets(t *testing.T, text string) neck.Frets {
	f, err := neck.ParseFrets(text)
	require.NoError(t, err)
	return f
}

func FuzzStepID(f *testing.F) {
	for _, text := range []string{"piece.p1.b3-4.n2.c1-2", "change.fx32010.f133211", "finish.p1.tvibrato", "form.cues", "own.o7"} {
		f.Add(text)
	}
	f.Fuzz(func(t *testing.T, text string) {
		if id, err := ParseStepID(text); err == nil && id.String() != text {
			t.Fatalf("%q is read as %q", text, id)
		}
	})
}

// What steps were known by before finds the same steps.
func TestOldStepIDs(t *testing.T) {
	s := read(t, "tempo: 60\norder: Verse / A x2, B drill 2, Verse / A\nVerse / A:\nmute: palm\n| 5D 5D' . 3A! | 5D 3D 5D 3A~ | C F C F |\nB drill 2:\n| 3A . 5A 3A | Bm F#m G D | x3")
	ids, _, _ := song.Identify(nil, s, 7)
	s = s.WithIDs(ids)
	for words, want := range map[string]string{
		"piece «Verse / A» 2 to 3":            "piece.p7.b2-3",
		"piece «Verse / A» 2 to 3, 2":         "piece.p7.b2-3.n1",
		"part «B drill 2» 1 to 2":             "part.p8",
		"part «B drill 2» 1 to 2, 3":          "part.p8.n2",
		"part «B drill 2» 1 to 2, 2 / 1 to 1": "part.p8.n1.c1-1",
		"rhythm «Verse / A» 1 to 3":           "rhythm.p7",
		"seam «Verse / A» «B drill 2»":        "seam.p7.i8",
		"form «Verse / A» «B drill 2»":        "form.p7.i8",
		"form":                                "form",
		"form by cues":                        "form.cues",
		"finish «Verse / A» 1":                "finish.p7.tpalm-muting",
		"next rung «Verse / A»":               "finish.p7",
		"shape x32010":                        "shape.fx32010",
		"change x32010 133211":                "change.fx32010.f133211",
		"own 4":                               "own.o4",
	} {
		id, ok := OldStepID(words, s)
		assert.True(t, ok, words)
		assert.Equal(t, want, id.String(), words)
	}
	for _, words := range []string{"", "piece «Nobody» 1 to 2", "piece «Verse / A» 1 to 9", "piece «Verse / A", "shape", "change x32010", "walk", "finish «Verse / A» 99", "part «Verse / A» 1 to 2 / x"} {
		_, ok := OldStepID(words, s)
		assert.False(t, ok, words)
	}
	p, lost, err := OldPlan(`{"order":["own 1","piece «Verse / A» 2 to 3"],"out":{"form":{"title":"f"},"piece «Gone» 1 to 2":{"title":"g"}},
		"split":{"part «Verse / A» 1 to 3":{"title":"V","after":[2]}},"set":{"rhythm «Verse / A» 1 to 3":{"title":"r","goal":50}},
		"own":[{"key":"own 1","after":"form","title":"Say it","start":60,"goal":60,"passes":1,"minutes":4}]}`, s)
	require.NoError(t, err)
	assert.Equal(t, 1, lost)
	assert.Equal(t, `{"order":["own.o1","piece.p7.b2-3"],"out":{"form":{"title":"f"}},"split":{"part.p7":{"title":"V","after":[2]}},"set":{"rhythm.p7":{"title":"r","goal":50}},`+
		`"own":[{"id":1,"after":"form","title":"Say it","start":60,"goal":60,"passes":1,"minutes":4}]}`, p.String())
	again, err := ParsePlan(p.String())
	require.NoError(t, err)
	assert.Equal(t, p, again)
}

// A fifth bar in a four-bar part, a bar before it, another name: what the teacher changed
// is there, and what was practised is found.
func TestPlanHoldsWhenBarsComeAndGo(t *testing.T) {
	const head = "tempo: 100\norder: A x2, B\n"
	const b = "\nB:\n| Am - - - Dm - - - | E7 - - - Am - - - |\n"
	first := read(t, head+"A:\n| C - - F - - - C | G - - - C - F - | Dm - F - G - C - | C - G7 - C - - - |\n"+b)
	ids, _, next := song.Identify(nil, first, 0)
	first = first.WithIDs(ids)
	was := build(first, arrange.AsWritten, Student{})
	p := Plan{Out: map[StepID]Out{}, Set: map[StepID]Wish{}}
	for i := range was.Steps { // something is said of every step
		if s := &was.Steps[i]; i%4 == 0 {
			p.Out[s.ID] = Out{s.ID.String()}
		} else {
			p.Set[s.ID] = Wish{Title: s.ID.String(), Words: fmt.Sprintf("words %d", i)}
		}
	}
	for what, text := range map[string]string{
		"a fifth bar":     "A:\n| C - - F - - - C | G - - - C - F - | Dm - F - G - C - | C - G7 - C - - - | Am - F - G - - - |\n" + b,
		"a bar before":    "A:\n| Am - F - G - - - | C - - F - - - C | G - - - C - F - | Dm - F - G - C - | C - G7 - C - - - |\n" + b,
		"a bar is other":  "A:\n| C - - F - - - C | G - - - C - F - | Dm - F - G - C - | C - G7 - C - F - |\n" + b,
		"another name":    "Stroll:\n| C - - F - - - C | G - - - C - F - | Dm - F - G - C - | C - G7 - C - - - |\n" + b,
		"parts go places": b + "A:\n| C - - F - - - C | G - - - C - F - | Dm - F - G - C - | C - G7 - C - - - |\n",
	} {
		is := read(t, strings.ReplaceAll(head, "A x2", map[bool]string{true: "Stroll x2", false: "A x2"}[strings.HasPrefix(text, "Stroll")])+text)
		ids, _, _ := song.Identify(first, is, next)
		now := build(is.WithIDs(ids), arrange.AsWritten, Student{})
		before := len(now.Steps)
		out, lost := p.Apply(now, 10)
		assert.LessOrEqual(t, len(lost), 3, "%s: %v", what, lost)
		assert.GreaterOrEqual(t, len(out), len(p.Out)-1, what)
		assert.Len(t, now.Steps, before-len(out), what)
		said := 0
		for i := range now.Steps {
			if now.Steps[i].Words != "" {
				said++
			}
		}
		assert.Equal(t, len(p.Set)+len(p.Out), said+len(out)+len(lost), "%s: each is kept once, or said to be lost", what)
		for _, kind := range []Kind{Rhythm, Whole, Seam, Form} { // these do not hang on bars
			for i := range was.Steps {
				if id := was.Steps[i].ID; id.Kind == kind {
					assert.True(t, find(now.Steps, id) >= 0 || find(out, id) >= 0, "%s: %s", what, id)
				}
			}
		}
	}
}

// What a plan cannot be is refused, with its reason, wherever it comes from; what it can
// be is kept as it is.
func TestPlanLimits(t *testing.T) {
	for text, says := range map[string]string{
		`{"own":[{"id":1,"title":"x","start":60,"goal":60,"passes":1,"minutes":9000000000000000000}]}`:     "minutes must be a number from 1 to 300",
		`{"own":[{"id":1,"title":"x","start":60,"goal":6e9,"passes":1,"minutes":5}]}`:                      "tempo to reach",
		`{"set":{"form":{"title":"x","minutes":-5}}}`:                                                      "minutes",
		`{"set":{"form":{"title":"x","passes":5000}}}`:                                                     "clean passes",
		`{"set":{"form":{"title":"x","start":90,"goal":60}}}`:                                              "above",
		`{"own":[{"id":0,"title":"x","start":60,"goal":60,"passes":1,"minutes":5}]}`:                       "number",
		`{"own":[{"id":1,"title":"x","sheet":"A:\n| 99Q |","start":60,"goal":60,"passes":1,"minutes":5}]}`: "line",
		`{"order":["walk"]}`:              "names no step",
		`{"template":{"kinds":["walk"]}}`: "kind of step",
		`[]`:                              "cannot be read",
		`{"out":{"form":{"title":"` + strings.Repeat("x", 500) + `"}}}`: "characters",
	} {
		_, err := ParsePlan(text)
		require.Error(t, err, text)
		assert.Contains(t, err.Error(), says, text)
	}
	l := build(read(t, roundAbout), arrange.AsWritten, Student{})
	l.Steps[0].Minutes = 9e18
	l.schedule(1, false)
	assert.LessOrEqual(t, l.Days, MostMinutes+l.Minutes, "no step is longer than the longest")
	rapid.Check(t, func(t *rapid.T) {
		id := rapid.SampledFrom(keys(l.Steps)).Draw(t, "step")
		p := Plan{Set: map[StepID]Wish{id: {Title: "t", Start: rapid.Float64Range(20, 100).Draw(t, "start"), Goal: rapid.Float64Range(100, 400).Draw(t, "goal"),
			Passes: rapid.IntRange(1, MostPasses).Draw(t, "passes"), Minutes: rapid.IntRange(0, MostMinutes).Draw(t, "minutes")}}}
		again, err := ParsePlan(p.String())
		require.NoError(t, err)
		require.Equal(t, p, again)
	})
}

// A step that was cut is cut where it was, also after a bar was put in before.
func TestCutsStay(t *testing.T) {
	first := read(t, "tempo: 100\nA:\n| C F C F | G C G C | Dm F G C | C G7 C C |\n")
	ids, _, next := song.Identify(nil, first, 0)
	first = first.WithIDs(ids)
	l := build(first, arrange.AsWritten, Student{})
	whole := l.Steps[slices.IndexFunc(l.Steps, func(s Step) bool { return s.Kind == Whole })].ID
	p := Plan{Split: map[StepID]Split{whole: {"A", []int{2}}}}
	is := read(t, "tempo: 100\nA:\n| E7 E7 E7 E7 | C F C F | G C G C | Dm F G C | C G7 C C |\n")
	ids, _, _ = song.Identify(first, is, next)
	now := build(is.WithIDs(ids), arrange.AsWritten, Student{})
	_, lost := p.Apply(now, 10)
	assert.Empty(t, lost)
	at := slices.IndexFunc(now.Steps, func(s Step) bool { return s.ID.Cut != [2]int{} })
	require.GreaterOrEqual(t, at, 0)
	assert.Equal(t, [2]int{1, 3}, [2]int{now.Steps[at].From, now.Steps[at].To})
	assert.Equal(t, [2]int{4, 5}, [2]int{now.Steps[at+1].From, now.Steps[at+1].To})
	assert.Equal(t, [2]int{5, 2}, now.Steps[at].ID.Cut, "by what the bars are known by")
	assert.Equal(t, whole, now.Steps[at].ID.Whole())
}
