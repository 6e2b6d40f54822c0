package store

import (
	"context"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

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
	ask(s.EverAssigned(ctx, one, 1))
	ask(s.Assignment(ctx, one, 1, 1))
	ask(s.EntriesOf(ctx, one, 1, 40, 0))
	ask(s.EntriesOfPart(ctx, one, 1, 1, 200))
	ask(s.EntryOf(ctx, one, 1, 1))
	ask(s.MinutesSince(ctx, one, 1, 0))
	ask(s.StandingsOf(ctx, one, 1))
	ask(s.Sums(ctx, one, 1, 2))
	ask(s.AssignmentsOfLesson(ctx, one, 1))
	ask(s.StepsOf(ctx, one, 1))
	ask(s.LinksOf(ctx, one, 1))
	ask(s.PartCalled(ctx, one, 1, "Riff"))
	ask(s.SongParts(ctx, one, 1, 1))

	named := regexp.MustCompile(`:(\w+)`)
	queries := 0
	s.read.compiled.Range(func(key, _ any) bool {
		query := key.(string)
		queries++
		rows, err := s.db.QueryContext(ctx, "EXPLAIN QUERY PLAN "+named.ReplaceAllString(query, "1"))
		require.NoError(t, err, query)
		defer rows.Close()
		for rows.Next() {
			var id, parent, unused int
			var detail string
			require.NoError(t, rows.Scan(&id, &parent, &unused, &detail))
			assert.False(t, strings.HasPrefix(detail, "SCAN") && !strings.Contains(detail, "CONSTANT ROW") && !strings.Contains(detail, "json_each"), "%s\n%s", detail, query)
			assert.NotRegexp(t, `\(studio_id=\?( AND practised_at[<>]\?)?\)`, detail, "all of the studio is gone through for\n%s", query)
		}
		return true
	})
	assert.Greater(t, queries, 10)
}
