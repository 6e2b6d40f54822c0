package store

import (
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/progress"
	"valleyside/core/song"
)

// Standings are what the entries say, whatever is logged, late or early, removed,
// or given another target or zone.
func TestStandingsFollowTheEntries(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	r := rand.New(rand.NewPCG(1, 2))
	check := func(what string) {
		st, err := s.Studio(ctx, studio)
		require.NoError(t, err)
		a, err := s.Assignment(ctx, studio, g.student, g.assignment)
		require.NoError(t, err)
		all, err := s.EntriesOf(ctx, studio, g.student, 0, 0)
		require.NoError(t, err)
		rows, err := s.StandingsOf(ctx, studio, g.student)
		require.NoError(t, err)
		type key struct {
			part song.PartID
			rung arrange.Rung
			step string
		}
		want, minutes := map[key][]progress.Entry{}, map[key]int{}
		for i := range all {
			for _, step := range slices.Compact([]string{"", all[i].Step}) {
				k := key{all[i].PartID, all[i].Rung, step}
				want[k] = append(want[k], progressEntry(&all[i], st.Zone(), step))
				minutes[k] += all[i].Minutes
			}
		}
		require.Len(t, rows, len(want), what)
		now := time.Unix(int64(400*day), 0)
		for _, row := range rows {
			k := key{row.PartID, row.Rung, row.Step}
			target := a.TargetTempo
			for _, p := range a.Parts {
				if p.PartID == row.PartID {
					target = p.Target
				}
			}
			p := row.Progress(st.Zone())
			// Entries of one second may be read in either order.
			plain := read(want[k], target).Status(target, now)
			assert.Equal(t, plain.State, p.Status(target, now).State, what)
			assert.Equal(t, plain.Clean, p.Status(target, now).Clean, what)
			assert.Equal(t, minutes[k], row.Minutes, what)
			assert.Equal(t, len(want[k]), row.Entries, what)
		}
	}
	log := func(n int) {
		for range n {
			require.NoError(t, s.AddEntry(ctx, Entry{StudioID: studio, StudentID: g.student, AssignmentID: g.assignment, PartID: song.PartID(1 + 6*r.IntN(2)), Step: []string{"", "piece.p1.b1-2"}[r.IntN(2)], Some: r.IntN(2) == 0,
				Rung: "two-note", Tempo: float64(50 + r.IntN(60)), Clean: r.IntN(5), Minutes: r.IntN(20), PractisedAt: Instant(r.IntN(int(400 * day))), SentID: fmt.Sprint(r.Int64())}))
		}
	}
	log(60)
	check("logged in any order")
	all, err := s.EntriesOf(ctx, studio, g.student, 0, 0)
	require.NoError(t, err)
	require.NoError(t, s.DeleteEntry(ctx, studio, g.student, all[3].ID))
	check("one removed")
	require.NoError(t, s.DeleteEntries(ctx, studio, g.student, 100*day, 200*day))
	check("a range removed")
	require.NoError(t, s.SetLesson(ctx, Lesson{ID: g.lesson, StudioID: studio, Name: "L", TargetTempo: 55, Parts: []Part{{PartID: 1, Part: "Verse", Rung: "two-note"}}}))
	_, err = s.assign(ctx, studio, g.lesson, g.student, 300*day)
	require.NoError(t, err)
	check("another target")
	require.NoError(t, s.SetStudio(ctx, Studio{ID: studio, Name: "S", StringNames: "E A D G B e", Counting: "beat", TimeZone: "Pacific/Auckland"}))
	log(10) // before they are made again
	again, err := s.Restandings(ctx, 0)
	require.NoError(t, err)
	for _, a := range again {
		require.NoError(t, s.Restand(ctx, a.StudioID, a.ID))
	}
	check("another zone")
	again, err = s.Restandings(ctx, studio)
	require.NoError(t, err)
	assert.Empty(t, again)
	log(20)
	check("and more")
	const most = 7
	lists, err := s.EntriesOfParts(ctx, studio, g.student, most)
	require.NoError(t, err)
	all, err = s.EntriesOf(ctx, studio, g.student, 0, 0)
	require.NoError(t, err)
	var newest []Instant
	for _, e := range all {
		if e.AssignmentID == g.assignment && e.PartID == 1 && len(newest) < most {
			newest = append(newest, e.PractisedAt)
		}
	}
	require.Len(t, newest, most)
	var has []Instant
	for _, e := range lists[g.assignment][1] {
		has = append(has, e.PractisedAt)
	}
	assert.Equal(t, newest, has, "of each part the newest")
	assert.NotContains(t, lists[g.assignment], song.PartID(7), "which is not assigned")
}

// read is the standing of entries, all of them at once.
func read(entries []progress.Entry, target float64) (s progress.Standing) {
	slices.SortStableFunc(entries, func(a, b progress.Entry) int { return a.At.Compare(b.At) })
	for _, e := range entries {
		s, _ = s.With(e, target)
	}
	return s
}

// Nothing of a student who is erased is left: no name, word, link or entry, in no
// export, and not in the bytes of the file.
func TestErasing(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	st, err := s.Student(ctx, studio, g.student)
	require.NoError(t, err)
	st.Name, st.About = "Peregrine Vanterpool", "plays the nightingale"
	require.NoError(t, s.SetStudent(ctx, st))
	require.NoError(t, s.AddEntry(ctx, Entry{StudioID: studio, StudentID: g.student, AssignmentID: g.assignment, PartID: 1, Part: "Verse", Rung: "octave", Word: "like a waterfall of marbles", SentID: "w"}))
	own := fmt.Sprint(exported(t, s, studio))
	for _, word := range []string{"Peregrine Vanterpool", "nightingale", "waterfall of marbles"} {
		assert.Contains(t, own, word)
	}
	now := Instant(1000 * day)
	require.NoError(t, s.DeleteStudent(ctx, studio, g.student, now))
	n, err := s.EraseDeleted(ctx, now+29*day)
	require.NoError(t, err)
	assert.Zero(t, n, "thirty days to think again")
	require.NoError(t, s.RestoreStudent(ctx, studio, g.student))
	require.NoError(t, s.DeleteStudent(ctx, studio, g.student, now))
	n, err = s.EraseDeleted(ctx, now+30*day)
	require.NoError(t, err)
	assert.EqualValues(t, 1, n)
	var path string
	require.NoError(t, s.db.Get(&path, "SELECT file FROM pragma_database_list WHERE name = 'main'"))
	left := fmt.Sprint(exported(t, s, studio))
	for _, end := range []string{"", "-wal"} {
		b, err := os.ReadFile(path + end)
		require.NoError(t, err)
		left += string(b)
	}
	for _, word := range []string{"Peregrine", "nightingale", "waterfall", "marbles"} {
		assert.False(t, strings.Contains(left, word), word)
	}
	assert.ErrorIs(t, s.EraseStudent(ctx, studio, g.student), ErrNotFound)
}
