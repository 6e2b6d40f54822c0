package store

import (
	"context"
	"go/ast"
	"go/parser"
	"go/token"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var named = regexp.MustCompile(`:(\w+)`)

// plan is how SQLite goes about a query, one line for each table.
func plan(ctx context.Context, s *Store, query string) (lines []string, err error) {
	rows, err := s.db.QueryContext(ctx, "EXPLAIN QUERY PLAN "+named.ReplaceAllString(query, "1"))
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var id, parent, unused int
		var detail string
		if err := rows.Scan(&id, &parent, &unused, &detail); err != nil {
			return nil, err
		}
		lines = append(lines, detail)
	}
	return lines, rows.Err()
}

// wholeStudio is a line of a plan that goes through a table, or through all of a studio in it.
func wholeStudio(line string) bool {
	return strings.HasPrefix(line, "SCAN") && !strings.Contains(line, "CONSTANT ROW") && !strings.Contains(line, "json_each") ||
		regexp.MustCompile(`\(studio_id=\?( AND (practised|last)_at[<>]\?)?\)`).MatchString(line)
}

// Nothing that is read or written of entries and standings goes through all of a studio, but
// for what is of the whole studio: its practice of this week, what wants a look in it, and
// its export.
func TestNoQueryGoesThroughAllEntries(t *testing.T) {
	s, _, _ := open(t)
	files, err := filepath.Glob("*.go")
	require.NoError(t, err)
	explained := 0
	for _, name := range files {
		if strings.HasSuffix(name, "_test.go") || name == "export.go" {
			continue
		}
		file, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		require.NoError(t, err)
		ast.Inspect(file, func(n ast.Node) bool {
			text, ok := n.(*ast.BasicLit)
			if !ok || text.Kind != token.STRING {
				return true
			}
			query, err := strconv.Unquote(text.Value)
			require.NoError(t, err)
			if !regexp.MustCompile(`(?s)^(SELECT|UPDATE|DELETE)\b.*\b(entries|standings)\b`).MatchString(query) {
				return true
			}
			lines, err := plan(t.Context(), s, query)
			if err != nil {
				return true // a piece of one
			}
			explained++
			for _, line := range lines {
				if regexp.MustCompile(`^(SCAN|SEARCH) (e|entries|d|standings)\b`).MatchString(line) && !strings.Contains(query, "e.practised_at >= :since") && !strings.HasSuffix(query, "WHERE e.studio_id = :studio") {
					assert.False(t, wholeStudio(line), "%s: %s\n%s", name, line, query)
				}
			}
			return true
		})
	}
	assert.Greater(t, explained, 8)
}

// What is asked for the page of one student reads no row of another: every table of many
// rows is searched by what belongs to the student, none is gone through.
func TestAStudentsPageReadsOnlyTheirs(t *testing.T) {
	s, one, _ := open(t)
	ctx := context.Background()
	s.read.compiled.Clear() // what opening asked
	ask := func(_ any, err error) {
		if err != nil {
			require.ErrorIs(t, err, ErrNotFound)
		}
	}
	ask(s.AssignmentsOf(ctx, one, 1))
	ask(s.ListedAssignments(ctx, one, 1))
	ask(s.ListedStandings(ctx, one, 1))
	ask(s.EverAssigned(ctx, one, 1))
	ask(s.Assignment(ctx, one, 1, 1))
	ask(s.EntriesOf(ctx, one, 1, 40, 0))
	ask(s.EntriesOfParts(ctx, one, 1, 200))
	ask(s.EntryOf(ctx, one, 1, 1))
	ask(s.NamedEntries(ctx, one, 1))
	ask(s.MinutesSince(ctx, one, 1, 0))
	ask(s.StandingsOf(ctx, one, 1))
	ask(s.Sums(ctx, one, 1, 2))
	ask(s.AssignmentsOfLesson(ctx, one, 1))
	ask(s.StepsOf(ctx, one, 1))
	ask(s.LinksOf(ctx, one, 1))
	ask(s.HoursOf(ctx, one, 1, 5))
	ask(s.UnfitSongs(ctx, one, 1))
	ask(s.LearntParts(ctx, one, 1))
	ask(s.FitsOf(ctx, one, 1, "later", 9, 0))
	ask(s.CountFits(ctx, one, 1))
	ask(s.Timetable(ctx, one, 1, 10, 20))
	ask(s.SeriesWith(ctx, one, 1))
	ask(s.StudentsWith(ctx, one, 1))
	ask(s.CalendarOf(ctx, one, 1))
	ask(s.LastNotes(ctx, one, 1, 2))
	ask(s.TasksOf(ctx, one, 1))
	ask(s.WordsOf(ctx, one, 1, 5))
	ask(s.EntriesSince(ctx, one, 1, 5, 5))
	ask(s.PartCalled(ctx, one, 1, "Riff"))
	ask(s.History(ctx, one, 0, 1, 9))
	ask(s.History(ctx, one, 1, 0, 9))
	ask(s.SatBetween(ctx, one, 1, 5, 9))
	ask(s.LearntBetween(ctx, one, 1, 5, 9))
	ask(s.HoursBetween(ctx, one, 1, 5, 9))
	ask(s.FirstPractice(ctx, one, 1))
	ask(s.WishesOf(ctx, one, 1, 9))
	ask(s.OpenWishes(ctx, one, 1))
	ask(s.WishOf(ctx, one, 1, 1))
	ask(s.FitOf(ctx, one, 1, 1))
	ask(s.TagsOf(ctx, one, OnStudent, 1))
	ask(s.SkillsOf(ctx, one, 1))
	ask(s.SongSum(ctx, one, 1))
	_, _, err := s.StandingsOfSong(ctx, one, 1)
	require.NoError(t, err)
	ask(s.SongParts(ctx, one, 1, 1))

	queries := 0
	s.read.compiled.Range(func(key, _ any) bool {
		query := key.(string)
		queries++
		lines, err := plan(ctx, s, query)
		require.NoError(t, err, query)
		for _, line := range lines {
			assert.False(t, wholeStudio(line), "%s\n%s", line, query)
		}
		return true
	})
	assert.Greater(t, queries, 10)
}

// What is found, shared and listed is looked up by its index, and no table of many rows is gone
// through.
func TestWhatIsFoundIsLookedUp(t *testing.T) {
	s, one, _ := open(t)
	ctx := t.Context()
	plans := func(ask func() error) string {
		s.read.compiled.Clear()
		require.NoError(t, ask())
		var all []string
		s.read.compiled.Range(func(query, _ any) bool {
			lines, err := plan(ctx, s, query.(string))
			require.NoError(t, err)
			all = append(all, lines...)
			return true
		})
		return strings.Join(all, "; ")
	}
	for name, c := range map[string]struct {
		ask func() error
		by  []string
	}{
		"words":       {func() error { _, err := s.Find(ctx, one, "am", 9); return err }, []string{"found VIRTUAL TABLE", "SEARCH s USING INTEGER PRIMARY KEY"}},
		"skills":      {func() error { _, err := s.Skills(ctx, one, "", 2); return err }, []string{"USING COVERING INDEX song_skills_by_key (studio_id=? AND kind=?)"}},
		"a series":    {func() error { _, err := s.SongsWithSkill(ctx, one, 1, "shape", "x", 9); return err }, []string{"SEARCH k USING COVERING INDEX song_skills_by_key (studio_id=? AND kind=? AND key=?)"}},
		"songs alike": {func() error { _, err := s.SongsLike(ctx, one, 1, 1, 9); return err }, []string{"SEARCH o USING PRIMARY KEY (song_id=?)", "SEARCH k USING COVERING INDEX song_skills_by_key (studio_id=? AND kind=? AND key=?)"}},
		"keys":        {func() error { _, err := s.SongFacets(ctx, one); return err }, []string{"song_sums_key (studio_id=? AND song_key>?)", "song_sums_tuning (studio_id=? AND tuning>?)"}},
		"lessons":     {func() error { _, err := s.ListedLessons(ctx, one, LessonFilter{Song: 1}, 0, 0); return err }, []string{"assignments_of_song (song_id=? AND studio_id=? AND lesson_id=? AND ended_at=?)"}},
		"tags":        {func() error { _, err := s.TagsOn(ctx, one, OnSong, ""); return err }, []string{"SEARCH g USING"}},
		"changes":     {func() error { _, err := s.Changes(ctx, one, 9, 0); return err }, []string{"journal_of_studio (studio_id=?)"}},
	} {
		is := plans(c.ask)
		for _, by := range c.by {
			assert.Contains(t, is, by, name)
		}
		for _, table := range []string{"entries", "standings", "assignments", "song_skills", "journal", "songs", "song_sums"} {
			assert.NotRegexp(t, `SCAN `+table+`\b`, is, name)
		}
	}
}

// What wants a look is found by an index of just that, as many as are asked for.
func TestWhatWantsALookIsFoundByItsIndex(t *testing.T) {
	s, one, _ := open(t)
	s.read.compiled.Clear()
	_, err := s.Wanting(t.Context(), one, 10, 10, 5)
	require.NoError(t, err)
	var found []string
	s.read.compiled.Range(func(query, _ any) bool {
		lines, err := plan(t.Context(), s, query.(string))
		require.NoError(t, err)
		all := strings.Join(lines, "; ")
		assert.NotContains(t, all, "TEMP B-TREE", "they come in their order")
		for _, m := range regexp.MustCompile(`SEARCH d USING INDEX (\w+)`).FindAllStringSubmatch(all, -1) {
			found = append(found, m[1])
		}
		return true
	})
	assert.ElementsMatch(t, []string{"standings_stuck", "standings_stalled", "standings_due", "standings_learnt", "standings_quiet"}, found)
}
