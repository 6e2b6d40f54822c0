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
		rows = slices.DeleteFunc(rows, func(row Standing) bool { return row.AssignmentID != g.assignment })
		type key struct {
			Played
			step string
		}
		want, minutes := map[key][]progress.Entry{}, map[key]int{}
		for i := range all {
			e := &all[i]
			theirs := e.AssignmentID == g.assignment
			count := func(k key, one progress.Entry) {
				if !theirs && (k.step != "" || !slices.ContainsFunc(a.Parts, func(p Part) bool { return p.PartID == k.PartID && p.Rung == k.Rung })) {
					return // another lesson counts for the parts that this one has as well
				}
				one.Tempo, one.Clean, one.At = e.Tempo, e.Clean, e.PractisedAt.Time().In(st.Zone())
				want[k] = append(want[k], one)
				if theirs && !one.Within {
					minutes[k] += e.Minutes
				}
			}
			own := Played{e.PartID, e.Rung}
			if !slices.Contains(e.Also, own) {
				count(key{own, ""}, progress.Entry{Some: e.Some})
			}
			if e.Step != "" {
				count(key{own, e.Step}, progress.Entry{})
			}
			for _, p := range e.Also {
				count(key{p, ""}, progress.Entry{Within: true})
			}
		}
		require.Len(t, rows, len(want), what)
		now := time.Unix(int64(400*day), 0).In(st.Zone())
		for _, row := range rows {
			k := key{Played{row.PartID, row.Rung}, row.Step}
			target := a.TargetTempo
			for _, p := range a.Parts {
				if p.PartID == row.PartID {
					target = p.Target
				}
			}
			p := row.Progress(st.Zone())
			has, plain := p.Look(target, now), progress.LookAt(want[k], target, now)
			assert.Equal(t, plain, has, what)
			assert.Equal(t, minutes[k], row.Minutes, what)
			assert.Equal(t, len(want[k]), row.Entries, what)
			due := 0
			if !has.Due.IsZero() {
				due = progress.DayOf(has.Due)
			}
			assert.Equal(t, due, row.Due, what)
		}
	}
	beside, err := s.AddLesson(ctx, Lesson{StudioID: studio, SongID: g.song, Name: "Beside", TargetTempo: 80, Parts: []Part{{PartID: 1, Part: "Verse", Rung: "two-note"}}})
	require.NoError(t, err)
	other, err := s.assign(ctx, studio, beside, g.student, 2*day)
	require.NoError(t, err)
	at := map[Instant]bool{3 * day: true} // no two at once: they may be read in either order
	log := func(n int) {
		for range n {
			when := Instant(r.IntN(int(400 * day)))
			for at[when] {
				when++
			}
			at[when] = true
			var also Plays
			if r.IntN(4) == 0 {
				also = Plays{{1, "two-note"}, {9, "octave"}}
			}
			require.NoError(t, s.AddEntry(ctx, Entry{StudioID: studio, StudentID: g.student, AssignmentID: []int64{g.assignment, g.assignment, other}[r.IntN(3)], PartID: song.PartID(1 + 6*r.IntN(2)), Step: []string{"", "piece.p1.b1-2"}[r.IntN(2)], Some: r.IntN(2) == 0,
				Rung: "two-note", Tempo: float64(50 + r.IntN(60)), Clean: r.IntN(5), Minutes: r.IntN(20), Also: also, PractisedAt: when, SentID: fmt.Sprint(r.Int64())}))
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

// What was practised of a song in another lesson counts in this one too, also while this one was
// finished.
func TestPractisedElsewhere(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	lesson, err := s.AddLesson(ctx, Lesson{StudioID: studio, SongID: g.song, Name: "Again", TargetTempo: 80, Parts: []Part{{PartID: 1, Part: "Verse", Rung: "two-note"}, {PartID: 2, Part: "Bridge", Rung: "octave"}}})
	require.NoError(t, err)
	other, err := s.assign(ctx, studio, lesson, g.student, 4*day)
	require.NoError(t, err)
	clean := func(assignment int64) float64 {
		rows, err := s.StandingsOf(ctx, studio, g.student)
		require.NoError(t, err)
		for _, row := range rows {
			if row.AssignmentID == assignment && row.PartID == 1 && row.Step == "" {
				return row.Clean
			}
		}
		return -1
	}
	assert.Equal(t, 0.0, clean(other), "the entry that was there")
	log := func(assignment int64, tempo float64, at Instant, sent string) {
		require.NoError(t, s.AddEntry(ctx, Entry{StudioID: studio, StudentID: g.student, AssignmentID: assignment, PartID: 1, Rung: "two-note", Tempo: tempo, Clean: 3, PractisedAt: at, SentID: sent}))
	}
	log(g.assignment, 70, 5*day, "a")
	assert.Equal(t, 70.0, clean(other))
	require.NoError(t, s.EndAssignment(ctx, studio, g.student, other, 6*day))
	log(g.assignment, 75, 7*day, "b")
	require.NoError(t, s.EndAssignment(ctx, studio, g.student, other, 0))
	assert.Equal(t, 75.0, clean(other))
	all, err := s.EntriesOf(ctx, studio, g.student, 1, 0)
	require.NoError(t, err)
	require.NoError(t, s.DeleteEntry(ctx, studio, g.student, all[0].ID))
	assert.Equal(t, 70.0, clean(other), "what is taken back counts nowhere")
}

// What wants a look in a studio, of each kind, is what the standings say of each.
func TestWanting(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	const today = 100
	kinds := map[int]string{}
	for part, days := range map[int]string{ // day:tempo×clean, of a target of 90
		1: "99:90×0 99:90×0 100:90×0", // stuck
		2: "86:60×3 98:60×3",          // no ground
		3: "90:90×3 91:90×3",          // due for seven days
		4: "98:90×3 99:90×3",          // learnt
		5: "80:60×3",                  // not practised for long
		6: "99:60×3",                  // nothing
		7: "97:90×3 98:90×3",          // due today: the student's page says so
		8: "60:90×3 61:90×3 63:90×3 68:90×3 80:90×3",
	} {
		for i, one := range strings.Fields(days) {
			e := Entry{StudioID: studio, StudentID: g.student, AssignmentID: g.assignment, PartID: song.PartID(part + 10), Rung: "octave", SentID: fmt.Sprint(part, i)}
			var on int
			_, err := fmt.Sscanf(one, "%d:%g×%d", &on, &e.Tempo, &e.Clean)
			require.NoError(t, err)
			e.PractisedAt = Instant(on)*day + Instant(i+1)
			require.NoError(t, s.AddEntry(ctx, e))
		}
		_, err := s.db.Exec(`INSERT INTO assignment_parts (studio_id, assignment_id, position, part, part_id, rung, way, player, target) VALUES (?, ?, ?, 'P', ?, 'octave', '', '', 90)`, studio, g.assignment, part+10, part+10)
		require.NoError(t, err)
	}
	require.NoError(t, s.SetStudio(ctx, Studio{ID: studio, Name: "S", StringNames: "E A D G B e", Counting: "beat", TimeZone: "UTC"}))
	require.NoError(t, s.Restand(ctx, studio, g.assignment))
	now := (today*day + 3600).Time().UTC()
	found, err := s.Wanting(ctx, studio, progress.DayOf(now), At(now.AddDate(0, 0, -progress.QuietDays)), 10)
	require.NoError(t, err)
	for _, w := range found {
		if w.PartID > 10 {
			p := w.Progress(time.UTC)
			look := p.Look(w.Target, now)
			kinds[int(w.PartID)-10] += fmt.Sprint(look.State, look.Why, " ")
		}
	}
	word := func(state progress.State, why progress.Reason) string { return fmt.Sprint(state, why, " ") }
	assert.Equal(t, map[int]string{1: word(progress.Stuck, progress.ThreeTries), 2: word(progress.Stuck, progress.NoGround), 3: word(progress.Due, progress.LookedAt),
		4: word(progress.Learnt, progress.CleanAtLast), 5: word(progress.Growing, progress.Resting)}, kinds)
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
	require.NoError(t, s.Restore(ctx, studio, OnStudent, g.student))
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
