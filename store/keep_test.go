package store

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Everything that is written down is found by beginnings of its words, as it is now; what is
// deleted is not.
func TestFinding(t *testing.T) {
	s, studio, other := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	kinds := func(words string) (found []string) {
		hits, err := s.Find(ctx, studio, words, 20)
		require.NoError(t, err, words)
		for _, f := range hits {
			found = append(found, string("sltnw"[[5]int{0, 2, 1, 3, 4}[f.Kind]])+" "+f.Title)
		}
		return found
	}
	assert.Equal(t, []string{"s Song"}, kinds("song"))
	require.NoError(t, second(s.save(ctx, studio, g.song, 0, "Harbour Lights", "title: Harbour Lights\n\n# the ferry hums\nVerse:\n> Lanterns över the water\n| Em - - - |\n", 2*day)))
	for _, words := range []string{"harb", "ferry", "lanterns over", "WATER", "hums lant", "em"} {
		assert.Equal(t, []string{"s Harbour Lights"}, kinds(words), words)
	}
	assert.Empty(t, kinds("song"), "it is not called so any more")
	st, err := s.Student(ctx, studio, g.student)
	require.NoError(t, err)
	st.About = "likes trains"
	require.NoError(t, s.SetStudent(ctx, st))
	assert.Equal(t, []string{"t Pia"}, kinds("trai"))
	require.NoError(t, s.SetHour(ctx, studio, g.student, 100, func(h Hour) (Hour, error) { h.Note = "worked on the turnaround"; return h, nil }))
	require.NoError(t, s.SetHour(ctx, studio, g.student, 100, func(h Hour) (Hour, error) { h.Note += ", twice"; return h, nil }))
	assert.Equal(t, []string{"n Pia"}, kinds("turnaround twice"))
	require.NoError(t, s.AddWord(ctx, Word{StudioID: studio, StudentID: g.student, Word: "what is a capo?", SentID: "w"}))
	require.NoError(t, s.AnswerWord(ctx, studio, g.student, 1, "a clamp", day))
	assert.Equal(t, []string{"w Pia"}, kinds("capo clamp"))
	require.NoError(t, s.SetPlan(ctx, studio, g.lesson, `{"own":[{"id":1,"title":"Breathe","words":"hum it first"}]}`))
	assert.Equal(t, []string{"l Lesson"}, kinds("breathe hum"))
	assert.Empty(t, kinds("own"), "how a plan is kept is no word of it")
	for _, words := range []string{"", "  ", `"`, `* OR NEAR(`, "of:s1", "title:", "-", "ö", strings.Repeat("x ", 500), "\x00", "s1"} {
		_, err := s.Find(ctx, studio, words, 20)
		assert.NoError(t, err, "%q", words)
	}
	assert.Empty(t, kinds("s1"), "the mark of a studio is no word")
	hits, err := s.Find(ctx, studio, "ferry", 20)
	require.NoError(t, err)
	assert.Contains(t, hits[0].Excerpt, "\x02ferry\x03")
	for _, c := range [][3]string{
		{"one two three four five six seven eight", "FIVE", "one two three four \x02five\x03 six seven eight"},
		{"one two three four, Évora six seven eight nine ten eleven twelve thirteen fourteen", "evo six", "one two three four, \x02Évora\x03 \x02six\x03 seven eight nine ten eleven twelve…"},
		{"a b c d e f g", "f", "…b c d e \x02f\x03 g"},
		{"nothing of it here", "zz", "nothing of it here"},
		{" - ", "zz", ""},
		{"", "", ""},
	} {
		assert.Equal(t, c[2], excerpt(c[0], c[1]), c[1])
	}
	hits, err = s.Find(ctx, other, "ferry", 20)
	require.NoError(t, err)
	assert.Empty(t, hits)

	require.NoError(t, s.DeleteSong(ctx, studio, g.song, 3*day))
	assert.Empty(t, kinds("harbour"))
	assert.Empty(t, kinds("breathe"), "its lessons go with it")
	require.NoError(t, s.Restore(ctx, studio, OnSong, g.song))
	assert.Equal(t, []string{"s Harbour Lights"}, kinds("harbour"))
	require.NoError(t, s.DeleteStudent(ctx, studio, g.student, 3*day))
	for _, words := range []string{"trains", "turnaround", "clamp"} {
		assert.Empty(t, kinds(words), words)
	}
	require.NoError(t, s.Erase(ctx, studio, OnStudent, g.student, 4*day))
	n := count(list[int](ctx, s.db, "SELECT rowid FROM found WHERE rowid % 8 IN (1, 3, 4)", args{}))
	assert.Zero(t, n, "nothing of them is left in the index")
}

// What is erased is not in the file any more, nor in the index for words.
func TestErasedIsGoneFromTheFile(t *testing.T) {
	path := filepath.Join(t.TempDir(), "studio.db")
	s, err := Open(t.Context(), path)
	require.NoError(t, err)
	ctx := t.Context()
	studio, err := s.AddStudio(ctx, "Studio", Teacher{Name: "T", Email: "t@studio.example", Password: "hash"}, day)
	require.NoError(t, err)
	student, err := s.AddStudent(ctx, Student{StudioID: studio, Name: "Quillonabel", About: "zanzithrum", LessonDay: -1})
	require.NoError(t, err)
	id, err := s.Undoable(ctx, studio, day, said("Saved Quillonabel", func(ctx context.Context) error {
		st, err := s.Student(ctx, studio, student)
		require.NoError(t, err)
		st.About = "brindlewock"
		return s.SetStudent(ctx, st)
	}))
	require.NoError(t, err)
	require.Positive(t, id)
	song := added(t, s, studio, "Song", "title: Song\n")
	lesson, err := s.AddLesson(ctx, Lesson{StudioID: studio, SongID: song, Name: "Song, Quillonabel", TargetTempo: 90, Parts: []Part{{PartID: 1, Part: "Verse", Rung: "two-note"}}, CreatedAt: day})
	require.NoError(t, err)
	require.NoError(t, second(s.assign(ctx, studio, lesson, student, day)))
	other, err := s.AddStudent(ctx, Student{StudioID: studio, Name: "Bo", LessonDay: -1})
	require.NoError(t, err)
	require.NoError(t, second(s.assign(ctx, studio, lesson, other, day)))
	require.NoError(t, s.DeleteStudent(ctx, studio, student, day))
	require.NoError(t, s.Erase(ctx, studio, OnStudent, student, 2*day))
	l, err := s.Lesson(ctx, studio, lesson)
	require.NoError(t, err)
	assert.Equal(t, "Song", l.Name, "a lesson that was made for them is called as its song")
	require.NoError(t, s.Close())
	for _, end := range []string{"", "-wal"} {
		data, err := os.ReadFile(path + end)
		if err != nil {
			continue
		}
		for _, word := range []string{"quillonabel", "zanzithrum", "brindlewock"} {
			assert.NotContains(t, strings.ToLower(string(data)), word, "in the file%s", end)
		}
	}
}

// What is put away stands in no list and is offered to nobody; its tags stay.
func TestPuttingAway(t *testing.T) {
	s, studio, _ := open(t)
	g := give(t, s, studio)
	ctx := t.Context()
	songs := func(f SongFilter) int { return count(s.ListedSongs(ctx, studio, f, 0, 0)) }
	require.NoError(t, s.SetTags(ctx, studio, OnSong, g.song, []string{"Campfire", "campfire", "old"}))
	assert.Equal(t, 1, songs(SongFilter{Tag: "CAMPFIRE"}))
	assert.Equal(t, 0, songs(SongFilter{Tag: "camp"}))
	require.NoError(t, s.Archive(ctx, studio, OnSong, g.song, 2*day))
	assert.Equal(t, 0, songs(SongFilter{}))
	assert.Equal(t, 1, songs(SongFilter{Archived: true, Tag: "old"}))
	assert.Zero(t, count(s.SongNames(ctx, studio)))
	require.NoError(t, s.Archive(ctx, studio, OnSong, g.song, 0))
	assert.Equal(t, 1, songs(SongFilter{}))
	require.NoError(t, s.Archive(ctx, studio, OnStudent, g.student, 2*day))
	assert.Zero(t, count(s.StudentNames(ctx, studio)))
	assert.Zero(t, count(s.ListedStudents(ctx, studio, StudentFilter{}, 0, 0)))
	assert.Equal(t, 1, count(s.ListedStudents(ctx, studio, StudentFilter{Archived: true}, 0, 0)))
	require.NoError(t, s.Archive(ctx, studio, OnLesson, g.lesson, 2*day))
	assert.Zero(t, count(s.ListedLessons(ctx, studio, LessonFilter{}, 0, 0)))
	assert.Zero(t, count(s.LessonNames(ctx, studio)))
	assert.ErrorIs(t, s.Archive(ctx, studio, OnLesson, 99, day), ErrNotFound)
	assert.ErrorIs(t, s.SetTags(ctx, studio, OnStudent, 99, nil), ErrNotFound)
}

// Lists are in the order that is asked for, and have what is asked for alone.
func TestListsAreToldApart(t *testing.T) {
	s, studio, _ := open(t)
	ctx := t.Context()
	for i, f := range []struct {
		title, key, tuning string
		grade              float64
	}{{"Ash", "E minor", "standard", 4}, {"Birch", "E minor", "drop D", 2}, {"Cedar", "G major", "standard", 6}} {
		id := added(t, s, studio, f.title, "title: "+f.title+"\n")
		sum := SongSum{StudioID: studio, SongID: id, Grade: f.grade, Facts: `{"key":"` + f.key + `","tuning":"` + f.tuning + `"}`, Needs: "[]"}
		if i != 1 {
			sum.Skills = []SongSkill{{Kind: "shape", Key: "1 2 3", Name: "Em"}}
		}
		require.NoError(t, s.SetSongSum(ctx, sum, 1))
	}
	titles := func(f SongFilter) string {
		list, err := s.ListedSongs(ctx, studio, f, 0, 0)
		require.NoError(t, err)
		var names []string
		for _, g := range list {
			names = append(names, g.Title)
		}
		return strings.Join(names, " ")
	}
	for want, f := range map[string]SongFilter{
		"Ash Birch Cedar": {},
		"Birch Ash Cedar": {Order: ByGrade},
		"Ash Birch":       {Key: "E minor"},
		"Birch":           {Key: "E minor", Tuning: "drop D"},
		"Ash":             {Low: 3, Top: 5},
		"Cedar":           {Low: 5, Find: "CED"},
		"Ash Cedar":       {Skill: "shape 1 2 3"},
		"":                {Key: "F major"},
	} {
		assert.Equal(t, want, titles(f), "%+v", f)
	}
	facets, err := s.SongFacets(ctx, studio)
	require.NoError(t, err)
	assert.Equal(t, Facets{Keys: []string{"E minor", "G major"}, Tunings: []string{"drop D", "standard"}}, facets)
	skills, err := s.Skills(ctx, studio, "", 2)
	require.NoError(t, err)
	assert.Equal(t, []CountedSkill{{"shape", "1 2 3", "Em", 2}}, skills)
	like, err := s.SongsLike(ctx, studio, 0, 1, 9)
	require.NoError(t, err)
	require.Len(t, like, 1)
	assert.Equal(t, "Cedar", like[0].Title)
}
