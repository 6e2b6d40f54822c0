package lesson

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/sheet"
	"valleyside/core/song"
)

const roundAbout = "tempo: 100\norder: A x2, B, A\nA:\n| C - - F - - - C | G - - - C - F - |\nB:\n| Am - - - Dm - - - | E7 - - - Am - - - |\n"

func keys(steps []Step) (list []StepID) {
	for i := range steps {
		list = append(list, steps[i].ID)
	}
	return list
}

func TestPlan(t *testing.T) {
	s := read(t, roundAbout)
	made := func(p Plan) (*Lesson, []Step, []Lost) {
		l := build(s, arrange.AsWritten, Student{})
		out, lost := p.Apply(l, 10)
		return l, out, lost
	}
	plain, _, _ := made(Plan{})
	assert.Equal(t, keys(build(s, arrange.AsWritten, Student{}).Steps), keys(plain.Steps), "no plan changes nothing")

	first, second := plain.Steps[0].ID, plain.Steps[1].ID
	moved, _, lost := made(Plan{}.Move(plain.Steps, first, 1))
	assert.Empty(t, lost)
	assert.Equal(t, []StepID{second, first}, keys(moved.Steps)[:2])
	again, _, _ := made(Plan{}.Move(plain.Steps, first, 1).Move(moved.Steps, first, -1))
	assert.Equal(t, keys(plain.Steps), keys(again.Steps))
	end, _, _ := made(Plan{}.Move(plain.Steps, first, 1000))
	assert.Equal(t, first, end.Steps[len(end.Steps)-1].ID)

	left, out, lost := made(Plan{Out: map[StepID]Out{first: {"that"}, {Kind: Shape}: {"a shape of before"}}})
	assert.Len(t, left.Steps, len(plain.Steps)-1)
	assert.Equal(t, []StepID{first}, keys(out))
	assert.Equal(t, []Lost{{Title: "a shape of before"}}, lost)
	assert.Equal(t, plain.Minutes-plain.Steps[0].Minutes, left.Minutes)

	set, _, _ := made(Plan{Set: map[StepID]Wish{first: {Title: "x", Goal: 50, Passes: 7, Words: "gently"}}})
	assert.Equal(t, 50.0, set.Steps[0].Goal)
	assert.Equal(t, 50.0, set.Steps[0].Start, "never above the goal")
	assert.Equal(t, 7, set.Steps[0].Passes)
	assert.Equal(t, plain.Steps[0].Minutes, set.Steps[0].Minutes, "what is not said is left")
	assert.True(t, set.Steps[0].Changed)

	own := Own{ID: (&Plan{}).NewOwn(), After: second, Title: "Say the names", Words: "aloud", Start: 60, Goal: 60, Passes: 1, Minutes: 4, Sheet: "title: x\nA:\n| 0E |"}
	with, _, _ := made(Plan{Own: []Own{own}})
	require.Equal(t, own.Step(), with.Steps[2].ID)
	assert.Equal(t, plain.Minutes+4, with.Minutes)
	heard := with.Music(&with.Steps[2])
	require.NotNil(t, heard)
	assert.Equal(t, 60.0, heard.Tempo, "a sheet that says no tempo is played at the step's")
	assert.Equal(t, 60.0, heard.Parts[0].Tempo)
	assert.Equal(t, 2, (&Plan{Own: []Own{own}}).NewOwn())

	at := slices.IndexFunc(plain.Steps, func(s Step) bool { return s.Kind == Whole })
	key := plain.Steps[at].ID
	assert.True(t, key.OfWhole())
	cut, _, lost := made(Plan{Split: map[StepID]Split{key: {"A", []int{1}}, {Kind: Whole, Part: 9}: {"Z", []int{2}}}})
	assert.Equal(t, []Lost{{Title: "Z"}}, lost)
	assert.Equal(t, [2]int{1, 1}, [2]int{cut.Steps[at].From, cut.Steps[at].To})
	assert.Equal(t, [2]int{2, 2}, [2]int{cut.Steps[at+1].From, cut.Steps[at+1].To})
	for _, s := range cut.Steps[at : at+2] {
		assert.True(t, sheet.Parse(sheet.Write(cut.Music(&s))).OK())
		assert.False(t, s.ID.OfWhole())
	}
}

// What was changed holds when the lesson is built anew: for another tempo, another
// student, a part that is called something else.
func TestPlanHolds(t *testing.T) {
	s := read(t, roundAbout)
	l := build(s, arrange.AsWritten, Student{})
	piece := l.Steps[slices.IndexFunc(l.Steps, func(s Step) bool { return s.Kind == Piece })]
	p := Plan{Set: map[StepID]Wish{piece.ID: {Title: "p", Minutes: 9}}, Out: map[StepID]Out{{Kind: Form}: {"f"}}}.Move(l.Steps, piece.ID, -1)
	text, err := json.Marshal(p)
	require.NoError(t, err)
	var read Plan
	require.NoError(t, json.Unmarshal(text, &read))
	assert.Equal(t, p, read, "as it is stored")

	s.Tempo, s.Parts[0].Tempo = 140, 140
	quick := build(s, arrange.AsWritten, Student{Player: hand.Player{NotesPerSecond: 3}})
	_, lost := p.Apply(quick, 10)
	assert.Empty(t, lost)
	i := slices.IndexFunc(quick.Steps, func(s Step) bool { return s.ID == piece.ID })
	assert.Equal(t, 9, quick.Steps[i].Minutes)

	s.Parts[0].Name = "Chorus"
	named := build(s, arrange.AsWritten, Student{})
	_, lost = p.Apply(named, 10)
	assert.Empty(t, lost, "a name is no identity")
}

// A teacher's own order: shapes first for all parts, no seams.
func TestTemplate(t *testing.T) {
	s := read(t, roundAbout)
	l := build(s, arrange.AsWritten, Student{})
	p := Plan{Template: Template{Kinds: []Kind{Shape, Change, Whole, Rhythm, Form}, Across: true}}
	p.Apply(l, 10)
	last := 0
	for _, step := range l.Steps {
		at := slices.Index(p.Template.Kinds, step.Kind)
		require.GreaterOrEqual(t, at, last, "%v", kinds(l))
		last = at
	}
	parts := build(s, arrange.AsWritten, Student{})
	p.Template.Across = false
	p.Apply(parts, 10)
	b := slices.IndexFunc(parts.Steps, func(s Step) bool { return s.Part == 1 })
	for _, step := range parts.Steps[b:] {
		require.True(t, step.Kind == Form || step.Part == 1, "A is over when B begins")
	}
}

// Whatever is moved, left out and put in again: nothing is lost but what is left out.
func TestMovesLoseNothing(t *testing.T) {
	s := read(t, roundAbout)
	rapid.Check(t, func(t *rapid.T) {
		p := Plan{Out: map[StepID]Out{}}
		shown := build(s, arrange.AsWritten, Student{})
		all := len(shown.Steps)
		for range rapid.IntRange(1, 8).Draw(t, "changes") {
			key := rapid.SampledFrom(keys(shown.Steps)).Draw(t, "step")
			if rapid.Bool().Draw(t, "out") && len(shown.Steps) > 2 {
				p.Out[key] = Out{key.String()}
			} else {
				p = p.Move(shown.Steps, key, rapid.IntRange(-5, 5).Draw(t, "by"))
			}
			shown = build(s, arrange.AsWritten, Student{})
			_, lost := p.Apply(shown, 10)
			require.Empty(t, lost)
			require.Len(t, shown.Steps, all-len(p.Out))
		}
	})
}

// What is left for later is not in the bars that a step shows, and every finger is that of
// the version.
func TestVersionOfAStep(t *testing.T) {
	s := read(t, "tempo: 60\nA:\nmute: palm\n| 5D h7D 5D' 3A! | 5D p3D s5D 3A~ |")
	l := build(s, arrange.AsWritten, Student{})
	step := Step{Kind: Whole, Part: 0, Into: -1, From: 1, To: 2, Rung: arrange.AsWritten, Without: l.Steps[0].Without}
	require.True(t, step.Without.Any())
	v, p := l.Version(&step, 0)
	own := l.Chosen[0].Version
	assert.False(t, p.PalmMute)
	for i := range v.Bars {
		for j := range v.Bars[i].Events {
			e, was := &v.Bars[i].Events[j], &own.Bars[i].Events[j]
			assert.Equal(t, was.Fingering, e.Fingering)
			assert.False(t, e.Muted)
			assert.NotZero(t, e.Stroke, "what was hammered is picked")
			assert.False(t, e.From.Short || e.From.Accent || e.From.Vibrato)
			assert.True(t, was.Muted || was.From.Accent, "the version itself is as it was")
		}
	}
	step.Without = 0
	same, _ := l.Version(&step, 0)
	assert.Same(t, own, same)
	for frets, f := range l.Fingers(&step) {
		assert.Equal(t, frets, f.Frets)
	}
}

// A form shows all of a step; what was not changed in it is not decided, and goes along
// with what the step is built as.
func TestWhatIsChangedAlonePinsNothingElse(t *testing.T) {
	shown := &Step{Start: 50, Goal: 66, Passes: 3, Minutes: 7}
	asShown := Wish{Start: 50, Goal: 66, Passes: 3, Minutes: 7}
	minutes := asShown
	minutes.Minutes = 12
	assert.Equal(t, Wish{Minutes: 12}, Wish{}.Changed(shown, minutes))
	assert.Equal(t, Wish{}, Wish{}.Changed(shown, asShown))
	assert.Equal(t, Wish{Goal: 66, Passes: 4}, Wish{Goal: 66}.Changed(shown, Wish{Start: 50, Goal: 66, Passes: 4, Minutes: 7}), "what was decided stays")
	assert.Equal(t, Wish{Start: 55, Words: "slowly"}, Wish{}.Changed(shown, Wish{Start: 55, Goal: 66.004, Passes: 3, Minutes: 7, Words: "slowly"}))
}

// What is played in a step is marked when a teacher decides something of it: they look again
// where it is something else then, and only there.
func TestChangesUnderWhatWasDecided(t *testing.T) {
	text := "tempo: 220\nA:\n| 0E - 3E - 0E - 5E - | 5A - 7A - 5A - 3A - | 0E - 3E - 7E - 5E - | 5D - 3D - 5D - - - |"
	l := build(read(t, text), arrange.AsWritten, Student{})
	plan := Plan{Set: map[StepID]Wish{}}
	for i := range l.Steps {
		plan.Set[l.Steps[i].ID] = Wish{Title: "that", Words: "mind it", Played: l.Mark(&l.Steps[i])}
	}
	since := func(text string) (bars []string) {
		again := build(read(t, text), arrange.AsWritten, Student{})
		_, lost := plan.Apply(again, 0)
		assert.Empty(t, lost)
		for i, s := range again.Steps {
			if s.Since != nil {
				bars = append(bars, kinds(again)[i])
				assert.Equal(t, "mind it", s.Since.Words)
			}
		}
		return bars
	}
	assert.Empty(t, since(text))
	assert.Empty(t, since(strings.Replace(text, "220", "200", 1)), "at another tempo the same is played")
	assert.Equal(t, []string{"piece A 3-4", "part A 1-4", "part A 1-4"}, since(strings.Replace(text, "7E - 5E", "8E - 5E", 1)))
	_, lost := plan.Apply(build(read(t, "tempo: 220\nA:\n| 0E |"), arrange.AsWritten, Student{}), 0)
	require.NotEmpty(t, lost)
	assert.Equal(t, "mind it", lost[0].Was.Words)
}

// A plan survives every edit of a sheet that keeps its bars: nothing that was decided goes away
// unsaid, what was decided of a part as a whole stays with it, and with the edit taken back all is
// as it was.
func TestPlansSurviveEdits(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := drawSong(t)
		text := sheet.Write(s)
		frets := []string{"0A", "3A", "5E", "2D"}
		changed := strings.Replace(text, rapid.SampledFrom(frets).Draw(t, "note"), rapid.SampledFrom(frets).Draw(t, "becomes"), rapid.IntRange(-1, 3).Draw(t, "times"))
		sh := sheet.Parse(changed)
		if !sh.OK() {
			t.Skip("no note stands there")
		}
		is := sh.Song
		is.Tempo = rapid.SampledFrom([]float64{40, 90, 200}).Draw(t, "tempo")
		rung := rapid.SampledFrom(arrange.Rungs).Draw(t, "rung")
		was := build(s, rung, Student{})
		plan := Plan{Set: map[StepID]Wish{}}
		for i := range was.Steps {
			if rapid.Bool().Draw(t, "decided") {
				plan.Set[was.Steps[i].ID] = Wish{Title: was.Steps[i].ID.String(), Words: was.Steps[i].ID.String(), Played: was.Mark(&was.Steps[i])}
			}
		}
		said := func(s *song.Song) (there, lost map[string]bool) {
			l := build(s, rung, Student{})
			_, gone := plan.Apply(l, 0)
			there, lost = map[string]bool{}, map[string]bool{}
			for _, step := range l.Steps {
				if step.Words != "" {
					there[step.Words] = true
				}
			}
			for _, g := range gone {
				lost[g.Title] = true
			}
			return there, lost
		}
		there, lost := said(is)
		for id := range plan.Set {
			require.True(t, there[id.String()] || lost[id.String()], "%s went away unsaid", id)
			if id.OfWhole() && id.Nth == 0 {
				require.True(t, there[id.String()], "%s has a step", id)
			}
		}
		there, lost = said(s)
		require.Empty(t, lost)
		require.Len(t, there, len(plan.Set))
	})
}
