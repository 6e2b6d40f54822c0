package store

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"io"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/arrange"
	"valleyside/core/timetable"
)

const day Instant = 24 * 60 * 60

// open makes a database with two studios.
func open(t *testing.T) (s *Store, one, two int64) {
	t.Helper()
	s, err := Open(t.Context(), filepath.Join(t.TempDir(), "studio.db"))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	for i, id := range []*int64{&one, &two} {
		*id, err = s.AddStudio(t.Context(), fmt.Sprint("Studio ", i+1), Teacher{Name: "T", Email: fmt.Sprintf("t%d@studio.example", i+1), Password: "hash"}, day)
		require.NoError(t, err)
	}
	return s, one, two
}

// added is a song whose sheet is anything; its parts are Verse and Bridge.
func added(t *testing.T, s *Store, studio int64, title, sheet string) int64 {
	id, err := s.AddSong(t.Context(), studio, NewSave{Title: title, Sheet: sheet, NextPart: 3, Parts: []SongPart{{PartID: 1, Name: "Verse", Bars: Numbers{1, 2}, NextBar: 3}, {PartID: 2, Name: "Bridge"}}}, day)
	require.NoError(t, err)
	return id
}

// first is what was read, where it could be.
func first[T any](v T, _ error) T { return v }

// third is the error of what gives two values.
func third[A, B any](_ A, _ B, err error) error { return err }

// count is how many rows there are, −1 where they cannot be read.
func count[T any](rows []T, err error) int {
	if err != nil {
		return -1
	}
	return len(rows)
}

// save saves a sheet whose parts are those of before.
func (s *Store) save(ctx context.Context, studio, id int64, base int, title, sheet string, now Instant) (Song, error) {
	return s.SaveSong(ctx, studio, id, base, title, sheet, now, func(b Before) Followed {
		return Followed{NewSave: NewSave{Sheet: sheet, Parts: b.Parts, NextPart: b.Song.NextPart}, Ways: b.Ways}
	})
}

// assign gives a lesson to a student as it is.
func (s *Store) assign(ctx context.Context, studio, lesson, student int64, now Instant) (int64, error) {
	l, err := s.Lesson(ctx, studio, lesson)
	if err != nil {
		return 0, err
	}
	g, err := s.Song(ctx, studio, l.SongID)
	if err != nil {
		return 0, err
	}
	a := Assignment{StudioID: studio, StudentID: student, LessonID: lesson, SongID: g.ID, SongSave: g.Save, Name: l.Name, TargetTempo: l.TargetTempo, Plan: l.Plan, AssignedAt: now}
	for _, p := range l.Parts {
		if p.Rung != "" {
			p.Target = l.TargetTempo
			a.Parts = append(a.Parts, p)
		}
	}
	return s.Give(ctx, a)
}

// given is a studio with a student who has a lesson of a song.
type given struct{ song, lesson, student, assignment int64 }

func give(t *testing.T, s *Store, studio int64) (g given) {
	t.Helper()
	ctx := t.Context()
	g.song = added(t, s, studio, "Song", "title: Song\n")
	var err error
	g.lesson, err = s.AddLesson(ctx, Lesson{StudioID: studio, SongID: g.song, Name: "Lesson", TargetTempo: 90,
		Parts: []Part{{PartID: 1, Part: "Verse", Rung: "two-note"}, {PartID: 2, Part: "Bridge"}}, CreatedAt: day})
	require.NoError(t, err)
	g.student, err = s.AddStudent(ctx, Student{StudioID: studio, Name: "Pia", Reach: 90, Scale: 620, NotesPerSecond: 4, LessonDay: 2})
	require.NoError(t, err)
	g.assignment, err = s.assign(ctx, studio, g.lesson, g.student, 2*day)
	require.NoError(t, err)
	require.NoError(t, s.AddEntry(ctx, Entry{StudioID: studio, StudentID: g.student, AssignmentID: g.assignment, PartID: 1, Part: "Verse", Rung: "two-note",
		Tempo: 60, Clean: 2, Minutes: 10, PractisedAt: 3 * day, SentID: "first"}))
	return g
}

func TestSavedSheetsKeepTheirVersions(t *testing.T) {
	s, studio, _ := open(t)
	ctx := t.Context()
	id := added(t, s, studio, "Song", "one")
	draft := "half"
	require.NoError(t, s.SaveDraft(ctx, studio, id, 0, draft, 2*day))
	song, err := s.Song(ctx, studio, id)
	require.NoError(t, err)
	assert.Equal(t, "one", song.Sheet, "a draft does not touch what is saved")
	assert.Equal(t, &draft, song.Draft)
	for _, sheet := range []string{"two", "two", "three"} {
		require.NoError(t, second(s.save(ctx, studio, id, 0, "New title", sheet, 2*day)))
	}
	song, err = s.Song(ctx, studio, id)
	require.NoError(t, err)
	assert.Nil(t, song.Draft, "saving ends the draft")
	assert.Equal(t, "New title", song.Title)
	versions, err := s.Saves(ctx, studio, id)
	require.NoError(t, err)
	var sheets []string
	for _, v := range versions {
		sheets = append(sheets, v.Sheet)
	}
	assert.Equal(t, []string{"three", "two", "one"}, sheets, "saving the same text again makes no version")
	one, err := s.SavedSheet(ctx, studio, id, 1)
	require.NoError(t, err)
	assert.Equal(t, day, one.SavedAt)
}

func TestDeletingCanBeUndone(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	require.NoError(t, s.DeleteSong(ctx, studio, g.song, 4*day))
	_, err := s.Song(ctx, studio, g.song)
	assert.ErrorIs(t, err, ErrNotFound)
	lessons, err := s.Lessons(ctx, studio)
	require.NoError(t, err)
	assert.Empty(t, lessons, "the lessons of a deleted song go with it")
	a, err := s.Assignment(ctx, studio, g.student, g.assignment)
	require.NoError(t, err, "what was assigned stays")
	assert.Equal(t, "title: Song\n", a.Sheet)
	require.NoError(t, s.Restore(ctx, studio, OnSong, g.song))
	lessons, err = s.Lessons(ctx, studio)
	require.NoError(t, err)
	assert.Len(t, lessons, 1)

	token, err := s.AddLink(ctx, studio, g.student, "", 4*day)
	require.NoError(t, err)
	require.NoError(t, s.DeleteStudent(ctx, studio, g.student, 5*day))
	_, err = s.StudentByLink(ctx, token)
	assert.ErrorIs(t, err, ErrNotFound, "a deleted student's link is closed")
	require.NoError(t, s.Restore(ctx, studio, OnStudent, g.student))
	_, err = s.StudentByLink(ctx, token)
	assert.ErrorIs(t, err, ErrNotFound, "and stays closed should they come back")
	require.NoError(t, s.DeleteLesson(ctx, studio, g.lesson, 5*day))
	require.NoError(t, s.Restore(ctx, studio, OnLesson, g.lesson))
	_, err = s.Lesson(ctx, studio, g.lesson)
	assert.NoError(t, err)
}

func TestAssignmentsKeepWhatWasAssigned(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	require.NoError(t, second(s.save(ctx, studio, g.song, 1, "Song", "title: Song, changed\n", 4*day)))
	require.NoError(t, s.SetLesson(ctx, Lesson{ID: g.lesson, StudioID: studio, Name: "Lesson", TargetTempo: 120, Parts: []Part{{PartID: 1, Part: "Verse", Rung: "octave"}}}))
	a, err := s.Assignment(ctx, studio, g.student, g.assignment)
	require.NoError(t, err)
	assert.Equal(t, "title: Song\n", a.Sheet)
	assert.Equal(t, 90.0, a.TargetTempo)
	assert.Equal(t, []Part{{PartID: 1, Part: "Verse", Rung: "two-note", Target: 90}}, a.Parts, "parts that are left out are not assigned")
	assert.Equal(t, [2]int{1, 2}, [2]int{a.SongSave, a.Latest}, "and the update is offered")

	again, err := s.assign(ctx, studio, g.lesson, g.student, 5*day)
	require.NoError(t, err)
	assert.Equal(t, g.assignment, again, "assigning again brings it up to date")
	a, err = s.Assignment(ctx, studio, g.student, g.assignment)
	require.NoError(t, err)
	assert.Equal(t, "title: Song, changed\n", a.Sheet)
	assert.Equal(t, []Part{{PartID: 1, Part: "Verse", Rung: "octave", Target: 120}}, a.Parts)
	entries, err := s.EntriesOf(ctx, studio, g.student, 0, 0)
	require.NoError(t, err)
	assert.Equal(t, arrange.TwoNote, entries[0].Rung, "an entry says what was practised on its day")

	require.NoError(t, s.EndAssignment(ctx, studio, g.student, g.assignment, 6*day))
	list, err := s.AssignmentsOf(ctx, studio, g.student)
	require.NoError(t, err)
	assert.Empty(t, list)
	fresh, err := s.assign(ctx, studio, g.lesson, g.student, 7*day)
	require.NoError(t, err)
	assert.NotEqual(t, g.assignment, fresh, "what was finished stays finished")
}

// The way of a version belongs to its song; an assignment keeps that of its
// day.
func TestWays(t *testing.T) {
	s, studio, _ := open(t)
	ctx := t.Context()
	g := give(t, s, studio)
	set := func(way string) {
		require.NoError(t, s.ChangeWay(ctx, studio, g.song, 1, "", "two-note", func(string) (string, error) { return way, nil }))
	}
	set("bar 1: string A")
	require.NoError(t, s.ChangeWay(ctx, studio, g.song, 1, "", "two-note", func(way string) (string, error) { return way + "\nthicken accents", nil }))
	ways, err := s.WaysOf(ctx, studio, g.song)
	require.NoError(t, err)
	require.Len(t, ways, 1)
	assert.Equal(t, "bar 1: string A\nthicken accents", ways[0].Way)
	lesson, err := s.Lesson(ctx, studio, g.lesson)
	require.NoError(t, err)
	assert.Equal(t, ways[0].Way, lesson.Parts[0].Way, "the lesson has it at once")
	a, err := s.Assignment(ctx, studio, g.student, g.assignment)
	require.NoError(t, err)
	assert.Empty(t, a.Parts[0].Way, "the student only when it is assigned")
	_, err = s.assign(ctx, studio, g.lesson, g.student, 5*day)
	require.NoError(t, err)
	set("")
	a, err = s.Assignment(ctx, studio, g.student, g.assignment)
	require.NoError(t, err)
	assert.Equal(t, "bar 1: string A\nthicken accents", a.Parts[0].Way)
	ways, err = s.WaysOf(ctx, studio, g.song)
	require.NoError(t, err)
	assert.Empty(t, ways)
	assert.Error(t, s.ChangeWay(ctx, studio, g.song, 1, "", "octave", func(string) (string, error) { return "x", assert.AnError }))
}

func TestEntriesAreLoggedOnce(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	e := Entry{StudioID: studio, StudentID: g.student, AssignmentID: g.assignment, PartID: 1, Part: "Verse", Rung: "two-note", Tempo: 70, PractisedAt: 4 * day, SentID: "second"}
	var wait sync.WaitGroup
	for range 8 {
		wait.Go(func() { assert.NoError(t, s.AddEntry(ctx, e)) })
	}
	wait.Wait()
	entries, err := s.EntriesOf(ctx, studio, g.student, 0, 0)
	require.NoError(t, err)
	require.Len(t, entries, 2)
	assert.Equal(t, "second", entries[0].SentID, "the newest first")
	recent, err := s.Recent(ctx, studio, 4*day, 8)
	require.NoError(t, err)
	assert.Len(t, recent, 1)
	broken := []Entry{e, {StudioID: studio, StudentID: 999, AssignmentID: g.assignment, SentID: "third"}}
	broken[0].SentID = "fourth"
	assert.Error(t, s.AddEntries(ctx, broken))
	entries, err = s.EntriesOf(ctx, studio, g.student, 0, 0)
	require.NoError(t, err)
	assert.Len(t, entries, 2, "all or none")
}

func TestLinks(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	first, err := s.AddLink(ctx, studio, g.student, "", day)
	require.NoError(t, err)
	second, err := s.AddLink(ctx, studio, g.student, "", 2*day)
	require.NoError(t, err)
	assert.Len(t, first, 22, "128 bits")
	assert.NotEqual(t, first, second)
	for _, token := range []string{first, second} {
		st, err := s.StudentByLink(ctx, token)
		require.NoError(t, err, "each opens the page")
		assert.Equal(t, g.student, st.ID)
	}
	links, err := s.LinksOf(ctx, studio, g.student)
	require.NoError(t, err)
	require.Len(t, links, 2)
	assert.Equal(t, []Instant{2 * day, day}, []Instant{links[0].MadeAt, links[1].MadeAt})
	var hashes []string
	require.NoError(t, s.db.SelectContext(ctx, &hashes, "SELECT hash FROM links"))
	assert.NotContains(t, hashes, first, "only the hash is kept")
	require.NoError(t, s.EndLink(ctx, studio, g.student, links[1].ID))
	_, err = s.StudentByLink(ctx, first)
	assert.ErrorIs(t, err, ErrNotFound)
	_, err = s.StudentByLink(ctx, second)
	assert.NoError(t, err, "one is ended alone")
	_, err = s.StudentByLink(ctx, "")
	assert.ErrorIs(t, err, ErrNotFound)
}

// Nothing of one studio can be read, changed or pointed at from another.
func TestStudiosAreApart(t *testing.T) {
	s, one, two := open(t)
	g := give(t, s, one)
	ctx := t.Context()
	require.NoError(t, s.SetTemplate(ctx, Template{StudioID: one, Name: "mine", Steps: "{}"}))
	require.NoError(t, s.SetHour(ctx, one, g.student, 100, func(h Hour) (Hour, error) {
		h.Note, h.Items = "mine", []HourItem{{Kind: "hear", Title: "Verse"}}
		return h, nil
	}))
	require.NoError(t, s.SetTasks(ctx, one, g.student, []Task{{AssignmentID: g.assignment, Step: "part.p1"}}))
	require.NoError(t, s.AddWord(ctx, Word{StudioID: one, StudentID: g.student, Word: "mine", SaidAt: day, SentID: "w"}))
	another, err := s.AddStudent(ctx, Student{StudioID: two, Name: "Theirs", LessonDay: -1})
	require.NoError(t, err)
	place, err := s.AddSeries(ctx, Series{StudioID: one, FirstDay: 100, Every: 1, At: 900, Minutes: 45, Students: []int64{g.student}})
	require.NoError(t, err)
	require.NoError(t, s.SetChange(ctx, Change{StudioID: one, SeriesID: place, Day: 107, Kind: timetable.InTime}))
	require.NoError(t, second(s.AddHoliday(ctx, Holiday{StudioID: one, FirstDay: 120, LastDay: 121})))
	_, err = s.SetCalendar(ctx, Calendar{StudioID: one, StudentID: g.student})
	require.NoError(t, err)
	require.NoError(t, s.AddWord(ctx, Word{StudioID: one, StudentID: g.student, Word: "Song", Wish: true, SentID: "wish"}))
	require.NoError(t, s.SetSongSum(ctx, SongSum{StudioID: one, SongID: g.song, Facts: "{}", Needs: "[]", Skills: []SongSkill{{Kind: "shape", Key: "x", Name: "Em 022000"}}}, 1))
	done, err := s.Undoable(ctx, one, day, said("tagged", func(ctx context.Context) error { return s.SetTags(ctx, one, OnSong, g.song, []string{"mine"}) }))
	require.NoError(t, err)
	before := exported(t, s, one)
	draft := "theirs"
	for name, err := range map[string]error{
		"song":             second(s.Song(ctx, two, g.song)),
		"sum of a song":    nothing(s.SetSongSum(ctx, SongSum{StudioID: two, SongID: g.song, Facts: "theirs"}, 1)),
		"sum of a lesson":  nothing(s.SetAssignmentSum(ctx, AssignmentSum{StudioID: two, AssignmentID: g.assignment, Facts: "theirs"}, MadeOf{})),
		"bring up to date": nothing(s.UpgradeSong(ctx, two, g.song, func(*OldSong) Upgraded { return Upgraded{NextPart: 99} })),
		"song version":     second(s.SavedSheet(ctx, two, g.song, 1)),
		"save song":        second(s.save(ctx, two, g.song, 0, "x", "x", day)),
		"draft":            s.SaveDraft(ctx, two, g.song, 0, draft, day),
		"replace draft":    second(s.ReplaceDraft(ctx, two, g.song, &draft, day)),
		"keep typed":       s.KeepTyped(ctx, two, g.song, draft, day),
		"typed":            second(s.Typed(ctx, two, g.song, 1)),
		"delete song":      s.DeleteSong(ctx, two, g.song, day),
		"lesson":           second(s.Lesson(ctx, two, g.lesson)),
		"set lesson":       s.SetLesson(ctx, Lesson{ID: g.lesson, StudioID: two}),
		"delete lesson":    s.DeleteLesson(ctx, two, g.lesson, day),
		"student":          second(s.Student(ctx, two, g.student)),
		"set student":      s.SetStudent(ctx, Student{ID: g.student, StudioID: two}),
		"delete student":   s.DeleteStudent(ctx, two, g.student, day),
		"link":             second(s.AddLink(ctx, two, g.student, "", day)),
		"end link":         s.EndLink(ctx, two, g.student, 1),
		"assign":           second(s.assign(ctx, two, g.lesson, g.student, day)),
		"assignment":       second(s.Assignment(ctx, two, g.student, g.assignment)),
		"end assignment":   s.EndAssignment(ctx, two, g.student, g.assignment, day),
		"delete entry":     s.DeleteEntry(ctx, two, g.student, 1),
		"entry":            second(s.EntryOf(ctx, two, g.student, 1)),
		"set entry":        s.SetEntry(ctx, Entry{ID: 1, StudioID: two, StudentID: g.student}),
		"set plan":         s.SetPlan(ctx, two, g.lesson, "{}"),
		"delete template":  s.DeleteTemplate(ctx, two, "mine"),
		"way":              s.ChangeWay(ctx, two, g.song, 1, "", "octave", func(string) (string, error) { return "x", nil }),
		"hour":             s.SetHour(ctx, two, g.student, 100, func(h Hour) (Hour, error) { return h, nil }),
		"tasks":            s.SetTasks(ctx, two, g.student, nil),
		"their lesson":     s.SetTasks(ctx, two, another, []Task{{AssignmentID: g.assignment, Step: "part.p1"}}),
		"set tags":         s.SetTags(ctx, two, OnStudent, g.student, []string{"theirs"}),
		"put away":         s.Archive(ctx, two, OnSong, g.song, day),
		"bring back":       s.Restore(ctx, two, OnLesson, g.lesson),
		"erase":            s.Erase(ctx, two, OnSong, g.song, day),
		"take back":        third(s.Undo(ctx, two, done, func(Journaled) string { return "" }, day)),
		"forget":           s.Forget(ctx, two, done),
		"wish":             second(s.WishOf(ctx, two, g.student, 2)),
		"set wish":         s.SetWish(ctx, two, g.student, 2, 0),
		"answer a wish":    s.AnswerWish(ctx, two, g.student, 2, "x", nil, day),
		"answer":           s.AnswerWord(ctx, two, g.student, 1, "x", day),
		"no word":          s.DeleteWord(ctx, two, g.student, 1),
		"new place":        second(s.AddSeries(ctx, Series{StudioID: two, FirstDay: 100, Every: 1, Minutes: 45, Students: []int64{g.student}})),
		"holiday":          second(s.Holiday(ctx, two, 1)),
		"end place":        s.EndSeries(ctx, two, place, 0),
		"their place":      s.SetPlace(ctx, two, g.student, 1, 900, 45, 100),
		"move":             s.SetChange(ctx, Change{StudioID: two, SeriesID: place, Day: 107, Kind: timetable.Late}),
		"as it was":        s.DeleteChange(ctx, two, place, 107),
		"no holiday":       s.DeleteHoliday(ctx, two, 1),
		"calendar":         second(s.CalendarOf(ctx, two, g.student)),
		"new calendar":     second(s.SetCalendar(ctx, Calendar{StudioID: two, StudentID: g.student})),
		"end calendar":     s.EndCalendar(ctx, two, g.student),
		"teacher":          second(s.Teacher(ctx, two, 1)),
		"signed in":        second(s.SignedIn(ctx, two, 1)),
		"password":         s.SetPassword(ctx, two, 1, "x"),
		"another's lesson": second(s.Lesson(ctx, two, g.lesson)),
	} {
		assert.ErrorIs(t, err, ErrNotFound, name)
	}
	require.NoError(t, s.EraseStudent(ctx, two, another))
	for _, student := range []int64{0, g.student} {
		table, err := s.Timetable(ctx, two, student, 0, 1<<20)
		require.NoError(t, err)
		assert.Empty(t, table)
	}
	notes, err := s.LastNotes(ctx, two, g.student)
	require.NoError(t, err)
	assert.Empty(t, notes)
	steps, err := s.StepsOf(ctx, two, g.student)
	require.NoError(t, err)
	assert.Empty(t, steps)
	sums, err := s.Sums(ctx, two, g.student)
	require.NoError(t, err)
	assert.Empty(t, sums)
	practised, err := s.EntriesOfParts(ctx, two, g.student, 10)
	require.NoError(t, err)
	assert.Empty(t, practised)
	require.NoError(t, s.Restand(ctx, two, g.assignment))
	listed, err := s.ListedSongs(ctx, two, SongFilter{}, 0, 0)
	require.NoError(t, err)
	assert.Empty(t, listed)
	for what, n := range map[string]int{
		"assignments":           count(s.AssignmentsOf(ctx, two, g.student)),
		"listed assignments":    count(s.ListedAssignments(ctx, two, g.student)),
		"listed standings":      count(s.ListedStandings(ctx, two, g.student)),
		"links":                 count(s.Links(ctx, two, 0, 0)),
		"to stand again":        count(s.Restandings(ctx, two)),
		"assignments of lesson": count(s.AssignmentsOfLesson(ctx, two, g.lesson)),
		"standings":             count(s.StandingsOf(ctx, two, g.student)),
		"wanting":               count(s.Wanting(ctx, two, 100, 1<<40, 10)),
		"hours":                 count(s.HoursOf(ctx, two, g.student, 0)),
		"tasks":                 count(s.TasksOf(ctx, two, g.student)),
		"words":                 count(s.WordsOf(ctx, two, g.student, 9)),
		"open words":            count(s.OpenWords(ctx, two, 9)),
		"since":                 count(s.EntriesSince(ctx, two, g.student, 0, 9)),
		"students":              count(s.ListedStudents(ctx, two, StudentFilter{}, 0, 0)),
		"names":                 count(s.StudentNames(ctx, two)),
		"lessons":               count(s.LessonNames(ctx, two)),
		"series":                count(s.SeriesWith(ctx, two, place)),
		"owed":                  count(s.Owed(ctx, two, 0)),
		"students with":         count(s.StudentsWith(ctx, two, g.student)),
		"names of":              count(s.NamesOf(ctx, two, g.student)),
		"stale fits":            count(s.StaleFits(ctx, two)),
		"songs to fit":          count(s.UnfitSongs(ctx, two, g.student)),
		"learnt":                count(s.LearntParts(ctx, two, g.student)),
		"fits":                  count(s.FitsOf(ctx, two, g.student, "", 9, 0)),
		"a fit":                 len(first(s.FitOf(ctx, two, g.student, g.song)).Ready),
		"fits of a song":        count(s.FitsOfSong(ctx, two, g.song)),
		"fits counted":          count(s.CountFits(ctx, two, g.student)),
		"found":                 count(s.Find(ctx, two, "song pia lesson", 9)) + count(s.Find(ctx, two, "Song", 9)) + count(s.Find(ctx, two, "Pia", 9)),
		"tags":                  count(s.TagsOn(ctx, two, OnSong, "")),
		"tags of":               len(first(s.TagsOf(ctx, two, OnSong, g.song))),
		"changes":               count(s.Changes(ctx, two, 9, 0)),
		"bin":                   count(s.Bin(ctx, two, 9)),
		"skills":                count(s.Skills(ctx, two, "", 1)),
		"skills of":             count(s.SkillsOf(ctx, two, g.song)),
		"songs with":            count(s.SongsWithSkill(ctx, two, g.student, "shape", "x", 9)),
		"songs like":            count(s.SongsLike(ctx, two, g.student, g.song, 9)),
		"shelf":                 count(s.Shelf(ctx, two, g.student)) + count(s.ShelfNeeds(ctx, two)),
		"song names":            count(s.SongNames(ctx, two)),
		"listed lessons":        count(s.ListedLessons(ctx, two, LessonFilter{Song: g.song}, 0, 0)),
		"history":               count(s.History(ctx, two, g.song, 0, 9)) + count(s.History(ctx, two, 0, g.student, 9)),
		"sat":                   count(s.SatBetween(ctx, two, g.student, 0, 99*day)),
		"learnt between":        count(s.LearntBetween(ctx, two, g.student, 0, 1<<40)),
		"hours between":         count(s.HoursBetween(ctx, two, g.student, 0, 1<<40)),
		"wishes":                count(s.WishesOf(ctx, two, g.student, 9)),
		"open wishes":           first(s.OpenWishes(ctx, two, g.student)),
		"titled":                int(first(s.SongTitled(ctx, two, "Song"))),
		"called":                len(first(s.SkillCalled(ctx, two, "shape", "x"))),
		"first practice":        int(first(s.FirstPractice(ctx, two, g.student))),
		"keys":                  len(first(s.SongFacets(ctx, two)).Keys),
		"put away songs":        first(s.SongFacets(ctx, two)).Archived + first(s.CountArchived(ctx, two)) + first(s.CountArchivedLessons(ctx, two)),
		"its sum":               len(first(s.SongSum(ctx, two, g.song)).Facts),
	} {
		assert.Zero(t, n, what)
	}
	names, err := s.PartNames(ctx, two, g.song)
	require.NoError(t, err)
	assert.Empty(t, names)
	called, err := s.PartCalled(ctx, two, g.song, "Verse")
	require.NoError(t, err)
	assert.Zero(t, called)
	known, err := s.SongParts(ctx, two, g.song, 1)
	require.NoError(t, err)
	assert.Empty(t, known)
	ever, err := s.EverAssigned(ctx, two, g.student)
	require.NoError(t, err)
	assert.Empty(t, ever)
	for _, student := range []int64{0, g.student} {
		named, err := s.NamedEntries(ctx, two, student)
		require.NoError(t, err)
		assert.Empty(t, named)
	}
	orders, err := s.Templates(ctx, two)
	require.NoError(t, err)
	assert.Empty(t, orders)
	// Foreign keys carry the studio along.
	_, err = s.AddLesson(ctx, Lesson{StudioID: two, SongID: g.song, Name: "x", TargetTempo: 90})
	assert.Error(t, err)
	assert.Error(t, s.AddEntry(ctx, Entry{StudioID: two, StudentID: g.student, AssignmentID: g.assignment, SentID: "x"}))
	versions, err := s.Saves(ctx, two, g.song)
	require.NoError(t, err)
	assert.Empty(t, versions)
	assert.Equal(t, map[string]int{"studio": 1}, rowsOf(t, s, two))
	after := exported(t, s, one)
	assert.Equal(t, before, after)
	require.Equal(t, 1, rowsOf(t, s, one)["entries"])
}

func second[T any](_ T, err error) error { return err }

// nothing is what a change of another's row comes to that is no error: none is made.
func nothing(err error) error {
	if err == nil {
		return ErrNotFound
	}
	return err
}

// exported is an export, file by file.
func exported(t *testing.T, s *Store, studio int64) map[string]string {
	var b bytes.Buffer
	require.NoError(t, s.Export(t.Context(), studio, &b))
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	all := map[string]string{}
	for _, f := range z.File {
		in, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(in)
		require.NoError(t, err)
		all[f.Name] = string(text)
	}
	return all
}

// rowsOf counts the rows of an export.
func rowsOf(t *testing.T, s *Store, studio int64) map[string]int {
	counts := map[string]int{}
	for name, text := range exported(t, s, studio) {
		if of, ok := strings.CutSuffix(name, ".jsonl"); ok && text != "" {
			counts[of] = strings.Count(text, "\n")
		}
	}
	return counts
}

func TestPragmas(t *testing.T) {
	s, _, _ := open(t)
	for pragma, want := range map[string]string{"journal_mode": "wal", "foreign_keys": "1", "synchronous": "2", "busy_timeout": "10000"} {
		got, err := get[string](t.Context(), s.db, "PRAGMA "+pragma, args{})
		require.NoError(t, err)
		assert.Equal(t, want, got, pragma)
	}
}

func TestBackupAndReopen(t *testing.T) {
	dir := t.TempDir()
	s, err := Open(t.Context(), filepath.Join(dir, "a.db"))
	require.NoError(t, err)
	studio, err := s.AddStudio(t.Context(), "Studio", Teacher{Name: "T", Email: "t@studio.example", Password: "hash"}, day)
	require.NoError(t, err)
	g := give(t, s, studio)
	// A copy that is made while rows are written holds all or nothing of each
	// transaction.
	ctx, stop := context.WithCancel(t.Context())
	var wait sync.WaitGroup
	wait.Go(func() {
		for i := 0; ctx.Err() == nil; i++ {
			e := Entry{StudioID: studio, StudentID: g.student, AssignmentID: g.assignment, PartID: 1, Part: "Verse"}
			pair := []Entry{e, e}
			pair[0].SentID, pair[1].SentID = fmt.Sprint("a", i), fmt.Sprint("b", i)
			assert.NoError(t, s.AddEntries(context.Background(), pair))
		}
	})
	require.NoError(t, Backup(t.Context(), filepath.Join(dir, "a.db"), filepath.Join(dir, "b.db")))
	stop()
	wait.Wait()
	require.NoError(t, s.Close())
	copied, err := Open(t.Context(), filepath.Join(dir, "b.db"))
	require.NoError(t, err)
	defer copied.Close()
	entries, err := copied.EntriesOf(t.Context(), studio, g.student, 0, 0)
	require.NoError(t, err)
	assert.Equal(t, 1, len(entries)%2, "the first, and pairs")
	assert.ErrorContains(t, Backup(t.Context(), filepath.Join(dir, "b.db"), filepath.Join(dir, "a.db")), "the file exists")
	_, err = Open(t.Context(), filepath.Join(dir, "no", "where.db"))
	assert.Error(t, err)
}

// Every text that stood for ten seconds can be brought back, a save says what it
// is based on, and what a page sends that is older than the draft is kept aside.
func TestNothingTypedIsLost(t *testing.T) {
	s, studio, _ := open(t)
	ctx := t.Context()
	id := added(t, s, studio, "Song", "one")
	typed := func() (list []string) {
		all, err := s.TypedOf(ctx, studio, id)
		require.NoError(t, err)
		for _, x := range all {
			list = append(list, x.Sheet)
		}
		return list
	}
	now := 2 * day
	for _, step := range []struct {
		text  string
		after Instant
	}{{"a", 0}, {"ab", 1}, {"abc", 2}, {"abcd", 30}, {"abcde", 1}} {
		now += step.after
		require.NoError(t, s.SaveDraft(ctx, studio, id, 0, step.text, now))
	}
	assert.Equal(t, []string{"abc"}, typed(), "it stood for thirty seconds, the others a moment")

	song, err := s.save(ctx, studio, id, 1, "Song", "two", now)
	require.NoError(t, err)
	assert.Equal(t, 2, song.Save)
	assert.ElementsMatch(t, []string{"abcde", "abc"}, typed(), "the draft that was not saved")
	assert.ErrorIs(t, s.SaveDraft(ctx, studio, id, 0, "late", now), ErrConflict, "a page from before the save")
	assert.Contains(t, typed(), "late")
	there, err := s.Song(ctx, studio, id)
	require.NoError(t, err)
	assert.Nil(t, there.Draft, "and it is no draft")

	other, err := s.save(ctx, studio, id, 1, "Song", "other tab", now)
	assert.ErrorIs(t, err, ErrConflict)
	assert.Equal(t, "two", other.Sheet, "what is there is shown")
	_, err = s.save(ctx, studio, id, 2, "Song", "other tab", now)
	require.NoError(t, err)

	require.NoError(t, s.SaveDraft(ctx, studio, id, there.DraftNo+1, "mine", now))
	moved := "moved to another key"
	kept, err := s.ReplaceDraft(ctx, studio, id, &moved, now)
	require.NoError(t, err)
	text, err := s.Typed(ctx, studio, id, kept)
	require.NoError(t, err)
	assert.Equal(t, "mine", text.Sheet)
	_, err = s.ReplaceDraft(ctx, studio, id, &text.Sheet, now)
	require.NoError(t, err)
	assert.Contains(t, typed(), moved)
	for i := range 2 * mostTyped {
		require.NoError(t, s.KeepTyped(ctx, studio, id, fmt.Sprint("text ", i), now+Instant(i)))
	}
	assert.Len(t, typed(), mostTyped)
	require.NoError(t, s.KeepTyped(ctx, studio, id, "two", now))
	assert.NotContains(t, typed(), "two", "a saved version is kept already")
}
