package studio_test

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"hash/fnv"
	"log/slog"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/lesson"
	"valleyside/core/neck"
	"valleyside/core/progress"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
	"valleyside/store"
	"valleyside/studio"
)

const riffs = "title: T\ntempo: 90\n\nRiff:\n| 0A 3A | 5A 7A | C - - G | Am - F - |\n\nEnd:\n| C | G |\n"

// taught is a studio with a student who has a lesson of a song.
type taught struct {
	*studio.House
	t                            testing.TB
	home                         int64
	song, lesson, student, given int64
	now                          store.Instant
}

func newTaught(t testing.TB, text string) *taught {
	h, home := empty(t)
	k := &taught{House: h, t: t, home: home, now: store.At(noon)}
	ctx := t.Context()
	var err error
	k.song, err = h.AddSong(ctx, home, "", text, k.now)
	require.NoError(t, err)
	in := sheet.Parse(text).Song
	l := store.Lesson{StudioID: home, SongID: k.song, Name: "L", TargetTempo: 90, CreatedAt: k.now}
	for i := range in.Parts {
		l.Parts = append(l.Parts, store.Part{PartID: in.PartID(i), Part: in.Parts[i].Name, Rung: "as-written"})
	}
	k.lesson, err = h.Store.AddLesson(ctx, l)
	require.NoError(t, err)
	k.student, err = h.Store.AddStudent(ctx, store.Student{StudioID: home, Name: "S", Reach: 100, Scale: 648, NotesPerSecond: 5, Picking: "alternate", CreatedAt: k.now})
	require.NoError(t, err)
	k.give()
	return k
}

func (k *taught) give() {
	var err error
	k.given, err = k.Give(k.t.Context(), k.home, k.lesson, k.student, k.now)
	require.NoError(k.t, err)
}

func (k *taught) save(text string) {
	_, err := k.SaveSong(k.t.Context(), k.home, k.song, 0, "T", text, sheet.Parse(text), k.now)
	require.NoError(k.t, err)
}

func (k *taught) assignment() store.Assignment {
	a, err := k.Store.Assignment(k.t.Context(), k.home, k.student, k.given)
	require.NoError(k.t, err)
	return a
}

// steps are those that the student has, as they are built now.
func (k *taught) steps() *studio.Taught {
	ctx := k.t.Context()
	home, err := k.Store.Studio(ctx, k.home)
	require.NoError(k.t, err)
	st, err := k.Store.Student(ctx, k.home, k.student)
	require.NoError(k.t, err)
	a := k.assignment()
	ids, err := k.Store.SongParts(ctx, k.home, a.SongID, a.SongSave)
	require.NoError(k.t, err)
	t, err := k.Teach(ctx, studio.Lookup{Home: &home, Sheet: a.Sheet, IDs: ids, Parts: a.Parts, Plan: a.Plan, Who: st, Target: a.TargetTempo})
	require.NoError(k.t, err)
	return t
}

func (k *taught) log(part song.PartID, id lesson.StepID, tempo float64, clean int) {
	k.now += 60
	e := store.Entry{StudioID: k.home, StudentID: k.student, AssignmentID: k.given, PartID: part, Rung: "as-written", Tempo: tempo, Clean: clean, Minutes: 5,
		Step: id.String(), Some: !id.OfWhole(), PractisedAt: k.now, SentID: fmt.Sprint(k.now)}
	require.NoError(k.t, k.Store.AddEntry(k.t.Context(), e))
}

func (k *taught) standings() studio.Standings {
	rows, err := k.Store.StandingsOf(k.t.Context(), k.home, k.student)
	require.NoError(k.t, err)
	return studio.StandingsOf(rows)
}

// A part that gets another name, a bar more, or is cut in two takes its lesson, what was
// decided for it and what was practised along.
func TestPartsKeepWhatIsTheirs(t *testing.T) {
	k := newTaught(t, riffs)
	ctx := t.Context()
	require.NoError(t, k.Store.ChangeWay(ctx, k.home, k.song, 1, "", "as-written", func(string) (string, error) {
		return "bar 2: string A\nbar 4 at 0: shape x02210", nil
	}))
	piece := lesson.StepID{Kind: lesson.Piece, Part: 1, From: 4, To: 4}
	plan := lesson.Plan{Out: map[lesson.StepID]lesson.Out{{Kind: lesson.Whole, Part: 1}: {Title: "Riff"}}, Set: map[lesson.StepID]lesson.Wish{piece: {Title: "bar 4", Words: "gently"}}}
	require.NoError(t, k.Store.SetPlan(ctx, k.home, k.lesson, plan.String()))
	k.give()
	k.log(1, lesson.StepID{}, 80, 3)
	k.log(1, piece, 70, 3)
	before := k.standings()
	a := k.assignment()
	require.Equal(t, 70.0, before.StepProgress(&a, piece).Clean)

	k.save(strings.Replace(riffs, "Riff:\n| 0A 3A", "Walk:\n| 9A 9A | 0A 3A", 1))
	l, err := k.Store.Lesson(ctx, k.home, k.lesson)
	require.NoError(t, err)
	assert.Equal(t, "Walk", l.Parts[0].Part)
	assert.Equal(t, "bar 3: string A\nbar 5 at 0: shape x02210", l.Parts[0].Way, "what was decided goes with its bar")
	old := k.assignment()
	assert.Equal(t, "Riff", old.Parts[0].Part, "what the student has is as it was until it is brought up to date")
	k.give()
	a = k.assignment()
	assert.Equal(t, "Walk", a.Parts[0].Part)
	taught := k.steps()
	assert.Empty(t, taught.Lost)
	assert.NotNil(t, taught.Step(piece), "the same bar, the fifth now")
	assert.Equal(t, [2]int{5, 5}, [2]int{taught.Step(piece).From, taught.Step(piece).To})
	assert.Equal(t, "gently", taught.Step(piece).Words)
	assert.Equal(t, 70.0, k.standings().StepProgress(&a, piece).Clean, "and its practice")
	assert.Equal(t, 80.0, k.standings().Look(&a, &a.Parts[0], k.now.Time()).Clean)

	// Cut in two: the first piece is what it was, the other is there with it.
	k.save("title: T\ntempo: 90\n\nUp:\n| 9A 9A | 0A 3A | 5A 7A |\n\nDown:\n| C - - G | Am - F - |\n\nEnd:\n| C | G |\n")
	l, err = k.Store.Lesson(ctx, k.home, k.lesson)
	require.NoError(t, err)
	var names []string
	for _, p := range l.Parts {
		names = append(names, fmt.Sprintf("%s %d %s", p.Part, p.PartID, p.Rung))
	}
	assert.Equal(t, []string{"Up 1 as-written", "Down 3 as-written", "End 2 as-written"}, names)
	assert.Equal(t, "bar 3: string A", l.Parts[0].Way, "what was decided for a bar that has left it is let go")
}

// Whatever is logged, saved, or changed in hands and lessons: what is kept of it is what
// the plain way works out.
func TestSumsAreWhatIsWorkedOut(t *testing.T) {
	k := newTaught(t, riffs)
	ctx := t.Context()
	r := rand.New(rand.NewPCG(5, 6))
	sheets := []string{riffs, strings.Replace(riffs, "Riff:", "Walk:", 1), strings.Replace(riffs, "| C - - G |", "| B5 - F#m - | Bb - - - |", 1), riffs + "\nMore:\n| E5 G5 A5 - |\n"}
	check := func(what string) {
		require.NoError(t, k.Catch(ctx, k.home, nil))
		sums, err := k.Store.Sums(ctx, k.home, k.student)
		require.NoError(t, err)
		kept, err := k.Store.StepsOf(ctx, k.home, k.student)
		require.NoError(t, err)
		a, taught := k.assignment(), k.steps()
		home, err := k.Store.Studio(ctx, k.home)
		require.NoError(t, err)
		st, err := k.Store.Student(ctx, k.home, k.student)
		require.NoError(t, err)
		want := studio.SumOfGiven(taught.Song, &a, taught, k.Options(&home, studio.Player(&st), a.TargetTempo))
		got := sums[k.given]
		assert.False(t, got.Stale, what)
		assert.Equal(t, []any{want.Facts, want.Grades, want.Hill, ""}, []any{got.Facts, got.Grades, got.Hill, got.Trouble}, what)
		require.Len(t, kept[k.given], len(taught.Steps), what)
		for i := range taught.Steps {
			one := kept[k.given][i]
			one.StudioID, one.AssignmentID, one.Position = 0, 0, 0
			assert.Equal(t, want.Steps[i], one, what)
		}
		done := k.standings().Done(taught.Steps, &a)
		next := -1
		for i := range done {
			if !done[i] {
				next = i
				break
			}
		}
		assert.Equal(t, next, k.standings().Next(&a, kept[k.given]), what)
		songs, err := k.Store.ListedSongs(ctx, k.home, store.SongFilter{}, 0, 0)
		require.NoError(t, err)
		g, err := k.Store.Song(ctx, k.home, k.song)
		require.NoError(t, err)
		sum := studio.SumOfSong(sheet.Parse(g.Sheet), k.Options(&home, hand.Player{}, 0))
		assert.Equal(t, []any{sum.Grade, sum.Problems, sum.Facts, sum.Hill, false}, []any{songs[0].Grade, songs[0].Problems, songs[0].Facts, songs[0].Hill, songs[0].Stale}, what)
	}
	check("as it was given")
	for range 25 {
		what := "logged"
		switch r.IntN(6) {
		case 0:
			what = "saved"
			k.save(sheets[r.IntN(len(sheets))])
		case 1:
			what = "given again"
			k.give()
		case 2:
			what = "another hand"
			st, err := k.Store.Student(ctx, k.home, k.student)
			require.NoError(t, err)
			st.Reach, st.NoBarre, st.Minutes = float64(60+r.IntN(80)), r.IntN(2) == 0, 5+r.IntN(40)
			require.NoError(t, k.Store.SetStudent(ctx, st))
		case 3:
			what = "another school"
			home, err := k.Store.Studio(ctx, k.home)
			require.NoError(t, err)
			home.ChordSchool = string(voicing.Schools[r.IntN(len(voicing.Schools))])
			require.NoError(t, k.Store.SetStudio(ctx, home))
		case 4:
			what = "another plan"
			steps := k.steps().Steps
			one := steps[r.IntN(len(steps))]
			require.NoError(t, k.Store.SetPlan(ctx, k.home, k.lesson, lesson.Plan{Out: map[lesson.StepID]lesson.Out{one.ID: {Title: "x"}}}.String()))
			k.give()
		default:
			steps := k.steps().Steps
			one := steps[r.IntN(len(steps))]
			part := song.PartID(1)
			if one.Part >= 0 {
				part = k.steps().Song.PartID(one.Part)
			}
			k.log(part, one.ID, one.Goal, 1+r.IntN(5))
		}
		check(what)
	}
}

// A hillside comes back from its row as it is drawn, its highest peak as well.
func TestHillsides(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for _, n := range []int{0, 1, 7, 90, 2000} {
		var h studio.Hillside
		var feet []arrange.Foot
		top := 0.0
		for i := range n {
			feet = append(feet, arrange.Foot{At: float64(i) / 8, Demand: float64(r.IntN(300)) / 100})
			top = max(top, feet[i].Demand)
		}
		h.Append(n/8+1, feet, feet)
		text := h.String()
		assert.Less(t, len(text), 2500, "small, however long the song")
		again := studio.ParseHillside(text)
		assert.Equal(t, h.Bars, again.Bars)
		assert.Equal(t, text, again.String(), "once written it stays")
		highest := 0.0
		for i, f := range again.Ridge {
			highest = max(highest, f.Demand)
			assert.True(t, i == 0 || f.At > again.Ridge[i-1].At)
		}
		assert.InDelta(t, top, highest, 1e-9, "no peak is lost")
	}
	assert.Zero(t, studio.ParseHillside("nonsense").Bars)
}

// All that a version depends on is in the key by which it is remembered.
func TestKeysHaveAllOptions(t *testing.T) {
	tuning, err := neck.Parse("drop D")
	require.NoError(t, err)
	other := arrange.Options{Player: hand.Player{Reach: 77}, Tempo: 61, Tuning: &tuning, Unplaced: true, School: voicing.Drone}
	seen := map[studio.Key]string{studio.KeyOf("x", studio.OfOptions(arrange.Options{})): "nothing"}
	of := reflect.TypeFor[arrange.Options]()
	for i := range of.NumField() {
		name := of.Field(i).Name
		if name == "Book" { // a memory of its own: what it gives is the same
			continue
		}
		var o arrange.Options
		value := reflect.ValueOf(other).Field(i)
		require.False(t, value.IsZero(), "say what another %s is", name)
		reflect.ValueOf(&o).Elem().Field(i).Set(value)
		key := studio.KeyOf("x", studio.OfOptions(o))
		assert.Empty(t, seen[key], "%s is in no key", name)
		seen[key] = name
	}
	player := reflect.TypeFor[hand.Player]()
	full := hand.Player{Reach: 78, Scale: 601, NotesPerSecond: 3, LeftHanded: true, Acoustic: true, NoBarre: true, NoLittle: true, Thumb: true, Picking: hand.AllDown, New: hand.Barres}
	for i := range player.NumField() {
		var p hand.Player
		value := reflect.ValueOf(full).Field(i)
		require.False(t, value.IsZero(), "say what another %s is", player.Field(i).Name)
		reflect.ValueOf(&p).Elem().Field(i).Set(value)
		key := studio.KeyOf("x", studio.OfOptions(arrange.Options{Player: p}))
		assert.Empty(t, seen[key], "%s is in no key", player.Field(i).Name)
		seen[key] = player.Field(i).Name
	}
	assert.NotEqual(t, studio.KeyOf("x", "ab", "c"), studio.KeyOf("x", "a", "bc"), "where one word ends and the next begins")
}

// What several ask for at once is worked out once; who gives up is not waited for, and takes
// nobody with them; each studio has room of its own.
func TestMemory(t *testing.T) {
	h, _ := empty(t)
	var worked atomic.Int32
	begin := make(chan struct{})
	var readers sync.WaitGroup
	for range 8 {
		readers.Go(func() {
			n, err := studio.Worked(t.Context(), h, 1, studio.WorkOf("a"), 1, func() (int, error) {
				<-begin
				return int(worked.Add(1)), nil
			})
			assert.NoError(t, err)
			assert.Equal(t, 1, n)
		})
	}
	time.Sleep(20 * time.Millisecond)
	close(begin)
	readers.Wait()
	assert.EqualValues(t, 1, worked.Load())

	gone, leave := context.WithCancel(t.Context())
	started, release := make(chan struct{}), make(chan struct{})
	first := make(chan error, 1)
	go func() {
		_, err := studio.Worked(gone, h, 1, studio.WorkOf("b"), 1, func() (int, error) {
			close(started)
			<-release
			return 0, gone.Err()
		})
		first <- err
	}()
	<-started
	second := make(chan error, 1)
	go func() {
		n, err := studio.Worked(t.Context(), h, 1, studio.WorkOf("b"), 1, func() (int, error) { return 7, nil })
		if n != 7 && err == nil {
			err = errors.New("another answer")
		}
		second <- err
	}()
	time.Sleep(20 * time.Millisecond)
	leave()
	assert.ErrorIs(t, <-first, context.Canceled, "at once")
	close(release)
	assert.NoError(t, <-second, "it is worked out for who is still there")

	for i := range 200 { // another studio's work pushes nothing of this one out
		_, err := studio.Worked(t.Context(), h, 2, studio.WorkOf("n", i), 1, func() (int, error) { return i, nil })
		require.NoError(t, err)
	}
	_, err := studio.Worked(t.Context(), h, 1, studio.WorkOf("a"), 1, func() (int, error) { return 0, errors.New("forgotten") })
	assert.NoError(t, err)
	_, err = studio.Worked(t.Context(), h, 1, studio.WorkOf("c"), 10_000, func() (int, error) { return 1, nil })
	require.NoError(t, err)
	_, err = studio.Worked(t.Context(), h, 1, studio.WorkOf("c"), 10_000, func() (int, error) { return 0, errors.New("again") })
	assert.ErrorContains(t, err, "again", "what is too long is not kept")
}

// A fault stays where it is: one thing is not there, with its reason; the log has it once,
// with what it was made of; the others are there.
func TestFaultsStaySmall(t *testing.T) {
	k := newTaught(t, riffs)
	var log bytes.Buffer
	house := studio.New(k.Store, slog.New(slog.NewTextHandler(&log, nil)))
	_, err := studio.Worked(t.Context(), house, k.home, studio.WorkOf("x", "| 7A |", studio.OfOptions(arrange.Options{Player: hand.Player{Reach: 77}})), 1, func() (int, error) { panic("ouch") })
	text, ok := studio.IsTrouble(err)
	require.True(t, ok)
	assert.Contains(t, text, "could not be worked out")
	assert.Equal(t, 1, strings.Count(log.String(), "ouch"))
	assert.Contains(t, log.String(), "| 7A |", "what it was made of")
	assert.Contains(t, log.String(), "Reach:77")

	second, err := k.Store.AddStudent(t.Context(), store.Student{StudioID: k.home, Name: "Two", Reach: 100, Scale: 648, NotesPerSecond: 5, CreatedAt: k.now})
	require.NoError(t, err)
	other, err := k.Give(t.Context(), k.home, k.lesson, second, k.now)
	require.NoError(t, err)
	_, err = k.Store.DB().Exec("UPDATE assignments SET plan = ? WHERE id = ?", `{"own":[{"id":1,"title":"x","start":60,"goal":60,"passes":1,"minutes":9000000000000000000}]}`, other)
	require.NoError(t, err)
	require.NoError(t, house.Catch(t.Context(), k.home, nil))
	sums, err := k.Store.Sums(t.Context(), k.home, k.student, second)
	require.NoError(t, err)
	assert.Empty(t, sums[k.given].Trouble)
	assert.NotEmpty(t, sums[k.given].Hill)
	assert.Contains(t, sums[other].Trouble, "minutes must be a number from 1 to 300")
}

// A lesson of a part that has no chords is that of the part as written, whoever asks.
func TestOneRule(t *testing.T) {
	g := sheet.Parse("title: T\nA:\n| 0E 3E 5E - |\n").Song
	taught := studio.Teach(g, []studio.Choice{{Part: 1, Rung: arrange.EasyChords}}, lesson.Plan{}, lesson.Student{}, arrange.Options{})
	assert.Equal(t, arrange.AsWritten, taught.Chosen[0].Version.Rung)
	assert.Equal(t, 100.0, taught.Tempo, "the sheet's, where none is asked for")
	none := studio.Teach(g, []studio.Choice{{Part: 7, Rung: arrange.OneFinger}, {Part: 1}}, lesson.Plan{}, lesson.Student{}, arrange.Options{})
	assert.Empty(t, none.Steps)
	for i, c := range studio.Fit(g, nil, studio.LearnerOrAnybody(&studio.Nobody), arrange.Options{}).Choices() {
		assert.Equal(t, g.PartID(i), c.Part)
		assert.NotEmpty(t, c.Rung)
	}
}

// What was practised of another rung is no practice of this one, but a shape is a shape.
func TestStepProgress(t *testing.T) {
	a := store.Assignment{ID: 1, Parts: []store.Part{{PartID: 4, Rung: "two-note"}, {PartID: 5, Rung: "octave"}}}
	piece := lesson.StepID{Kind: lesson.Piece, Part: 4, From: 1, To: 2}
	shape := lesson.StepID{Kind: lesson.Shape, Shapes: [2]neck.Frets{{0, 2, 2, -1, -1, -1}}}
	s := studio.StandingsOf([]store.Standing{
		{AssignmentID: 1, PartID: 4, Rung: "one-finger", Step: piece.String(), Once: 99, Clean: 98},
		{AssignmentID: 1, PartID: 4, Rung: "two-note", Step: piece.String(), Once: 60, Clean: 50},
		{AssignmentID: 2, PartID: 4, Rung: "two-note", Step: piece.String(), Clean: 97},
		{AssignmentID: 1, PartID: 4, Rung: "one-finger", Step: shape.String(), Clean: 70},
		{AssignmentID: 1, PartID: 5, Rung: "octave", Clean: 80, Once: 85},
	})
	assert.Equal(t, lesson.Progress{Once: 60, Clean: 50}, s.StepProgress(&a, piece))
	assert.Equal(t, 70.0, s.StepProgress(&a, shape).Clean)
	assert.Equal(t, lesson.Progress{Once: 85, Clean: 80}, s.StepProgress(&a, lesson.StepID{Kind: lesson.Whole, Part: 5}))
	assert.Zero(t, s.StepProgress(&a, lesson.StepID{Kind: lesson.Piece, Part: 5, From: 1, To: 1}), "some bars are not the whole")
	assert.Equal(t, store.Part{PartID: 4, Rung: "two-note"}, studio.LoggedTo(0, a.Parts), "what has no part is logged to the first")
	assert.Equal(t, song.PartID(-1), studio.LoggedTo(0, nil).PartID)
}

// A song is handed out to several at once: to each a lesson of their own, which is the same
// one when they get it again; a lesson that others have too stays theirs; and a correction
// goes to all who have an older save.
func TestHandOut(t *testing.T) {
	k := newTaught(t, riffs)
	ctx := t.Context()
	add := func(name string) store.Student {
		id, err := k.Store.AddStudent(ctx, store.Student{StudioID: k.home, Name: name, Reach: 100, Scale: 648, NotesPerSecond: 5, CreatedAt: k.now})
		require.NoError(t, err)
		st, err := k.Store.Student(ctx, k.home, id)
		require.NoError(t, err)
		return st
	}
	one, two := add("One"), add(strings.Repeat("Two", 26))
	g, err := k.Store.Song(ctx, k.home, k.song)
	require.NoError(t, err)
	ids, err := k.Store.SongParts(ctx, k.home, g.ID, g.Save)
	require.NoError(t, err)
	in := k.Read(k.home, g.Sheet, ids)
	hand := func(rung arrange.Rung, target float64, to ...store.Student) []int64 {
		var list []studio.Handed
		for _, st := range to {
			list = append(list, studio.Handed{Student: st, Target: target, Parts: []store.Part{{PartID: in.PartID(0), Part: in.Parts[0].Name, Rung: rung}}})
		}
		given, err := k.HandOut(ctx, k.home, g, list, k.now)
		require.NoError(t, err)
		require.Len(t, given, len(to))
		return given
	}
	given := hand(arrange.OneFinger, 70, one, two)
	again := hand(arrange.TwoNote, 80, one)
	assert.Equal(t, given[0], again[0], "the same one, as it is now")
	a, err := k.Store.Assignment(ctx, k.home, one.ID, given[0])
	require.NoError(t, err)
	assert.Equal(t, g.Title+", One", a.Name)
	assert.Equal(t, 80.0, a.TargetTempo)
	assert.Equal(t, arrange.TwoNote, a.Parts[0].Rung)
	b, err := k.Store.Assignment(ctx, k.home, two.ID, given[1])
	require.NoError(t, err)
	assert.Equal(t, arrange.OneFinger, b.Parts[0].Rung, "of one alone")
	assert.LessOrEqual(t, len([]rune(b.Name)), studio.MostLessonName)

	_, err = k.Give(ctx, k.home, a.LessonID, two.ID, k.now) // now it is not one's own any more
	require.NoError(t, err)
	other := hand(arrange.Octave, 60, one)
	assert.NotEqual(t, given[0], other[0])
	b, err = k.Store.Assignment(ctx, k.home, one.ID, given[0])
	require.NoError(t, err)
	assert.Equal(t, arrange.TwoNote, b.Parts[0].Rung, "what others have too stays as it is")

	k.save(strings.Replace(g.Sheet, "tempo:", "# mended\ntempo:", 1))
	n, err := k.BringUpToDate(ctx, k.home, k.song, k.now)
	require.NoError(t, err)
	all, err := k.GivenOf(ctx, k.home, k.song)
	require.NoError(t, err)
	assert.Equal(t, len(all), n)
	for _, a := range all {
		assert.Equal(t, a.Latest, a.SongSave)
	}
	n, err = k.BringUpToDate(ctx, k.home, k.song, k.now)
	require.NoError(t, err)
	assert.Zero(t, n, "nobody has an older save")
}

// After a change of a hand it is said for which songs something else fits; what is handed
// out stays.
func TestRefit(t *testing.T) {
	k := newTaught(t, "title: T\ntempo: 90\n\nA:\n| F - - - | C - - - |\n\nB:\n| G - - - | C - - - |\n")
	ctx := t.Context()
	home, err := k.Store.Studio(ctx, k.home)
	require.NoError(t, err)
	st, err := k.Store.Student(ctx, k.home, k.student)
	require.NoError(t, err)
	st.Known = "open chords, barre chords"
	same, err := k.Refit(ctx, &home, &st, &st)
	require.NoError(t, err)
	assert.Empty(t, same)
	is := st
	is.NoBarre = true
	list, err := k.Refit(ctx, &home, &st, &is)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, k.song, list[0].Song)
	assert.Equal(t, arrange.AsWritten, list[0].Was[0].Rung)
	assert.Equal(t, arrange.EasyChords, list[0].Is[0].Rung)
	assert.Equal(t, arrange.AsWritten, list[0].Is[1].Rung, "where nothing is beyond the hand")
	assert.Equal(t, arrange.AsWritten, k.assignment().Parts[0].Rung)

	require.NoError(t, k.Store.SetStudent(ctx, is))
	song := func() store.Song {
		g, err := k.Store.Song(ctx, k.home, k.song)
		require.NoError(t, err)
		return g
	}
	was := song()
	k.save(strings.Replace(was.Sheet, "| F - - - |", "| Am - - - |", 1))
	whom, err := k.RefitSong(ctx, &home, was, song())
	require.NoError(t, err)
	assert.Equal(t, []int64{k.student}, whom, "there is no barre any more")
	whom, err = k.RefitSong(ctx, &home, song(), song())
	require.NoError(t, err)
	assert.Empty(t, whom)
}

// What is chosen of a chord for one student holds in their lesson alone: through another save
// that moves its bars, when the song is handed out again, and in an export.
func TestChooseFor(t *testing.T) {
	k := newTaught(t, riffs)
	ctx := t.Context()
	st, err := k.Store.Student(ctx, k.home, k.student)
	require.NoError(t, err)
	g, err := k.Store.Song(ctx, k.home, k.song)
	require.NoError(t, err)
	pin := arrange.Pin{Bar: 3, Event: true, What: arrange.PinShape, Shape: neck.Frets{-1, -1, 2, 0, 1, 0}}
	choose := func(st *store.Student) error {
		return k.ChooseFor(ctx, k.home, g, st, k.now, func(p *store.Part, way arrange.Way) (arrange.Way, bool) { return way.Pin(pin), p.Part == "Riff" })
	}
	riff := func() store.Part { return k.assignment().Parts[0] }
	require.NoError(t, choose(&st))
	assert.Equal(t, arrange.AsWritten, riff().Rung, "its chords are played as they are written but for that one")
	way, err := arrange.ParseWay(riff().Way)
	require.NoError(t, err)
	assert.Equal(t, []arrange.Pin{pin}, way.Pins)
	ways, err := k.WaysOf(ctx, k.home, k.song)
	require.NoError(t, err)
	assert.Empty(t, ways, "it is not for everybody")

	k.save(strings.Replace(riffs, "Riff:\n| 0A 3A |", "Riff:\n| 0E 0E | 0A 3A |", 1))
	k.give()
	way, err = arrange.ParseWay(riff().Way)
	require.NoError(t, err)
	require.Len(t, way.Pins, 1)
	assert.Equal(t, 4, way.Pins[0].Bar, "it went along with its bar")

	to, id := empty(t)
	var b bytes.Buffer
	require.NoError(t, k.Store.Export(ctx, k.home, &b))
	require.NoError(t, to.TakeIn(ctx, id, archive(t, b.Bytes()), nil))
	lessons, err := to.Store.Lessons(ctx, id)
	require.NoError(t, err)
	require.Len(t, lessons, 1)
	assert.Equal(t, way.String(), lessons[0].Parts[0].Own)
	assert.Equal(t, way.String(), lessons[0].Parts[0].Way)

	given, err := k.HandOut(ctx, k.home, g, []studio.Handed{{Student: st, Target: 80, Parts: []store.Part{{PartID: riff().PartID, Part: "Riff", Rung: arrange.AsWritten}}}}, k.now)
	require.NoError(t, err)
	assert.Equal(t, []int64{k.given}, given)
	assert.Equal(t, way.String(), riff().Way, "it stays when the version does")
	_, err = k.HandOut(ctx, k.home, g, []studio.Handed{{Student: st, Target: 80, Parts: []store.Part{{PartID: riff().PartID, Part: "Riff", Rung: arrange.OneFinger}}}}, k.now)
	require.NoError(t, err)
	assert.Empty(t, riff().Way)

	other, err := k.Store.AddStudent(ctx, store.Student{StudioID: k.home, Name: "O", CreatedAt: k.now})
	require.NoError(t, err)
	var not *studio.NotTheirs
	assert.ErrorAs(t, choose(&store.Student{ID: other, Name: "O"}), &not)
}

// What is kept of songs and lessons says something else when the rules do: then they have
// another number, or the rows of a studio stay as they were made by the old ones.
func TestRulesHaveANumber(t *testing.T) {
	const kept = "5: c1d34616" // by the rules of studio.Rules
	k := newTaught(t, riffs)
	a := k.assignment()
	st, err := k.Store.Student(t.Context(), k.home, k.student)
	require.NoError(t, err)
	home, err := k.Store.Studio(t.Context(), k.home)
	require.NoError(t, err)
	sh := sheet.Parse(riffs)
	o := k.Options(&home, studio.Player(&st), 90)
	sums, err := json.Marshal([]any{studio.SumOfSong(sh, o), studio.SumOfGiven(sh.Song, &a, k.steps(), o)})
	require.NoError(t, err)
	h := fnv.New32a()
	h.Write(sums)
	assert.Equal(t, kept, fmt.Sprintf("%d: %x", studio.Rules, h.Sum32()), "what a sum says has changed: give the rules one number more, and keep this mark of what they give")
}

// A step has a state by what was logged of it, and a lesson by its parts.
func TestStatesOfSteps(t *testing.T) {
	k := newTaught(t, riffs)
	steps := k.steps()
	a := k.assignment()
	state := func(i int) progress.State { return k.standings().Been(k.steps().Steps, &a, k.now.Time()).State[i] }
	lesson := func() progress.State { return k.standings().Lesson([]store.Assignment{a}, k.now.Time()) }
	first := &steps.Steps[0]
	assert.Equal(t, progress.New, state(0))
	assert.Equal(t, progress.New, lesson())
	for i, want := range []progress.State{progress.Growing, progress.Growing, progress.Stuck} {
		k.log(first.ID.Part, first.ID, first.Goal, 0)
		assert.Equal(t, want, state(0), "%d tries", i+1)
	}
	assert.Equal(t, progress.New, state(1), "the next one has not been tried")
	k.log(first.ID.Part, first.ID, first.Goal, 5)
	assert.Equal(t, progress.Learnt, state(0))

	last := len(steps.Steps)
	for i := range steps.Steps {
		if id := steps.Steps[i].ID; id.OfWhole() && id.Part == a.Parts[0].PartID {
			last = i
		}
	}
	whole := steps.Steps[last].ID
	for range 2 {
		k.now += 24 * 60 * 60
		k.log(whole.Part, whole, a.Parts[0].Target, 5)
	}
	assert.Equal(t, progress.Learnt, state(last))
	k.now += 5 * 24 * 60 * 60
	assert.Equal(t, progress.Due, state(last), "its part is to be looked at again")
	assert.NotEqual(t, progress.New, lesson())
}

// A step has rested since it was practised, by days of the calendar; what is done without ever
// having been practised by itself, for long. What was practised today does not come again today.
func TestRested(t *testing.T) {
	k := newTaught(t, riffs)
	steps := k.steps()
	a := k.assignment()
	first := &steps.Steps[0]
	k.log(first.ID.Part, first.ID, first.Goal, 5)
	now := k.now.Time()
	been := k.standings().Been(steps.Steps, &a, now)
	require.True(t, been.Done[0])
	assert.Equal(t, 0, been.Rested[0])
	assert.Equal(t, 1, k.standings().Been(steps.Steps, &a, now.AddDate(0, 0, 1)).Rested[0])
	assert.Greater(t, been.Rested[1], 30)
	today := func() (list []int) {
		w := studio.WeekOf([]*studio.Taught{steps}, []studio.Been{been}, 60, 60)
		for _, p := range w.Day(0) {
			list = append(list, p.Step)
		}
		assert.Zero(t, w.Begins(0, 0), "it is done")
		return list
	}
	assert.NotContains(t, today(), 0)
	been.Rested[0] = 3
	assert.Contains(t, today(), 0, "after some days it does, beside what is new")
}

// A part that is learnt comes again by its last step on the day on which it is due, and not before
// unless there is nothing else; where it slips, that step is to be done again. Playing the whole
// way is a look at each of its parts.
func TestReviewsOfParts(t *testing.T) {
	k := newTaught(t, riffs)
	steps := k.steps()
	a := k.assignment()
	ids := map[song.PartID]int{} // the last step of each part
	for i := range steps.Steps {
		if id := steps.Steps[i].ID; id.OfWhole() {
			ids[id.Part] = i
		}
	}
	part := a.Parts[0]
	last := ids[part.PartID]
	on := func(day int) time.Time { return k.now.Time().AddDate(0, 0, day) }
	log := func(day int, id lesson.StepID, clean int) {
		require.NoError(t, k.Store.AddEntry(t.Context(), store.Entry{StudioID: k.home, StudentID: k.student, AssignmentID: k.given, PartID: part.PartID, Rung: part.Rung, Step: id.String(),
			Tempo: part.Target, Clean: clean, Minutes: 4, Some: !id.OfWhole(), Also: studio.PlayedIn(id, steps.Song, a.Parts), PractisedAt: store.At(on(day)), SentID: fmt.Sprint(day, id)}))
	}
	whole := steps.Steps[last].ID
	log(0, whole, 3)
	log(1, whole, 3)
	reviews := func(day int) (list []int) {
		been := k.standings().Been(steps.Steps, &a, on(day))
		w := studio.WeekOf([]*studio.Taught{steps}, []studio.Been{been}, 20, 20)
		for d := range 7 {
			for _, p := range w.Day(d) {
				if p.Review {
					require.Equal(t, last, p.Step)
					list = append(list, day+d)
				}
			}
		}
		return list
	}
	require.True(t, k.standings().Been(steps.Steps, &a, on(1)).Done[last])
	assert.Equal(t, []int{3}, reviews(1)[:1], "two days after")
	assert.Equal(t, []int{6}, reviews(6)[:1], "overdue: at once")

	log(6, lesson.StepID{Kind: lesson.Form}, 1)
	assert.Equal(t, []int{11}, reviews(6), "the whole way was a look: five days from then")
	for _, p := range a.Parts[1:] {
		look := k.standings().Look(&a, &p, on(6))
		assert.InDelta(t, min(part.Target/p.Target, 1), look.Walked, 1e-9, "and it was played with the rest")
	}
	log(11, whole, 0)
	been := k.standings().Been(steps.Steps, &a, on(11))
	assert.False(t, been.Done[last], "back on the list")
	assert.Equal(t, progress.Slipped, k.standings().Look(&a, &part, on(11)).Why)
	log(12, whole, 3)
	assert.True(t, k.standings().Been(steps.Steps, &a, on(12)).Done[last])
	assert.Equal(t, []int{14}, reviews(12)[:1], "the gap is half of five days")
}

// A week of two songs: both have their turn from the first day on, no day is longer than the
// student's, and a lesson that could not be made leaves the others as they are.
func TestWeekOfTwoSongs(t *testing.T) {
	k := newTaught(t, riffs)
	one, two := k.steps(), k.steps()
	const minutes = 15
	w := studio.WeekOf([]*studio.Taught{one, nil, two}, make([]studio.Been, 3), minutes, minutes)
	in := map[int]bool{}
	for _, p := range append(slices.Clone(w.Days[0]), w.Days[1]...) {
		in[p.Lesson] = true
	}
	assert.Equal(t, map[int]bool{0: true, 2: true}, in)
	for d, day := range w.Days {
		sum := 0
		for _, p := range day {
			sum += p.Minutes
			lesson := map[int]*studio.Taught{0: one, 2: two}[p.Lesson]
			require.Less(t, p.Step, len(lesson.Steps))
			assert.Equal(t, w.Begins(p.Lesson, p.Step) < d+1, p.Again)
		}
		assert.LessOrEqual(t, sum, minutes, "day %d", d+1)
		assert.Positive(t, sum, "day %d", d+1)
	}
	alone := studio.WeekOf([]*studio.Taught{one}, make([]studio.Been, 1), minutes, minutes)
	assert.Greater(t, len(w.Days), len(alone.Days))
	for _, one := range w.Of(0, 7) {
		first := slices.Index(one.On, true)
		assert.Equal(t, w.Begins(0, one.Step), first+1, "its first box is on its day")
	}
}
