package studio_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/skill"
	"valleyside/store"
	"valleyside/studio"
)

// The same riff one string over in another song is recognised, and songs that share what is rare
// stand before those that share what all have.
func TestSongsAlike(t *testing.T) {
	h, home := empty(t)
	ctx := t.Context()
	add := func(title, text string) int64 { return shelve(t, h, home, title, text) }
	riff := add("Riff", "A:\n| 3E 5E 6E 3E |\n| Em - - - |\n")
	over := add("Over", "B:\n| Am - - - |\n| 3A 5A 6A 3A |\n")
	add("Up", "tuning: drop D\nC:\n| 8D 10D 11D 8D |\n")
	chords := add("Chords", "A:\n| Em - - - Am - - - |\n")
	other := add("Other", "A:\n| F - - - Bm - - - |\n")
	require.NoError(t, h.Catch(ctx, home, nil))
	like := func(song int64, st *store.Student) (titles []string, shares map[string][]studio.Shared) {
		list, err := h.Like(ctx, home, st, song, 9)
		require.NoError(t, err)
		shares = map[string][]studio.Shared{}
		for _, l := range list {
			titles, shares[l.Title] = append(titles, l.Title), l.Shares
		}
		return titles, shares
	}
	titles, shares := like(riff, nil)
	assert.Contains(t, titles, "Over")
	assert.Contains(t, titles, "Up")
	assert.NotContains(t, titles, "Other")
	assert.Equal(t, studio.Shared{Kind: "riff", Key: shares["Over"][0].Key, Name: "bar 1 of A, on the E string from fret 3", There: "bar 2 of B, on the A string from fret 3"}, shares["Over"][0])
	assert.Equal(t, "bar 1 of C, on the D string from fret 8", shares["Up"][0].There)
	titles, _ = like(chords, nil)
	assert.ElementsMatch(t, []string{"Riff", "Over"}, titles)
	titles, _ = like(other, nil)
	assert.Empty(t, titles)

	// What is put away is like nothing, until it is there again.
	require.NoError(t, h.Store.Archive(ctx, home, store.OnSong, over, store.At(noon)))
	titles, _ = like(riff, nil)
	assert.NotContains(t, titles, "Over")
	require.NoError(t, h.Store.Archive(ctx, home, store.OnSong, over, 0))
	require.NoError(t, h.Catch(ctx, home, nil))
	titles, _ = like(riff, nil)
	assert.Contains(t, titles, "Over")
}

// A series is in the order in which somebody learns it; a way leads through songs that they can
// learn, follows what is put away, and what the teacher says is known.
func TestSeriesAndWays(t *testing.T) {
	h, home := empty(t)
	ctx := t.Context()
	ids := map[string]int64{}
	for title, text := range map[string]string{"Near": "A:\n| Em - - - G - - - |\n", "Next": "A:\n| G - - - C - - - |\n", "Far": "A:\n| Em G C D |\n| Am F Bm E |\n", "Else": "tempo: 60\nA:\n| 0E 2E 3E 5E |\n"} {
		ids[title] = shelve(t, h, home, title, text)
	}
	student, err := h.Store.AddStudent(ctx, store.Student{StudioID: home, Name: "Pia", Reach: 110, Scale: 648, NotesPerSecond: 5, Known: "Em", LessonDay: -1, CreatedAt: store.At(noon)})
	require.NoError(t, err)
	require.NoError(t, h.Catch(ctx, home, nil))
	st, err := h.Store.Student(ctx, home, student)
	require.NoError(t, err)
	series := func(st *store.Student) (titles []string, ready []skill.Ready) {
		list, err := h.Series(ctx, home, st, skill.ID{Kind: skill.Family, Key: "open chords"})
		require.NoError(t, err)
		for _, l := range list {
			titles, ready = append(titles, l.Title), append(ready, l.Ready)
		}
		return titles, ready
	}
	titles, ready := series(&st)
	assert.Equal(t, []string{"Near", "Next", "Far"}, titles)
	assert.Equal(t, []skill.Ready{skill.First, skill.First, skill.Later}, ready)
	titles, ready = series(nil)
	assert.Len(t, titles, 3)
	assert.Equal(t, []skill.Ready{"", "", ""}, ready)

	way := func() (titles []string) {
		ways, err := h.WaysTo(ctx, &st, ids["Far"])
		require.NoError(t, err)
		for _, l := range ways[ids["Far"]] {
			titles = append(titles, l.Title)
		}
		return titles
	}
	first := way()
	assert.Equal(t, "Far", first[len(first)-1])
	assert.Greater(t, len(first), 1)
	assert.NotContains(t, first, "Else", "it teaches nothing that is missing")
	for _, title := range []string{"Near", "Next"} {
		require.NoError(t, h.Store.Archive(ctx, home, store.OnSong, ids[title], store.At(noon)))
	}
	assert.Equal(t, []string{"Far"}, way(), "what is put away leads nowhere")
	st.Known = "open chords, barre chords"
	require.NoError(t, h.Store.SetStudent(ctx, st))
	ways, err := h.WaysTo(ctx, &st, ids["Far"], ids["Near"])
	require.NoError(t, err)
	require.Len(t, ways[ids["Far"]], 1)
	assert.LessOrEqual(t, ways[ids["Far"]][0].Things, 1)
	assert.Empty(t, ways[ids["Near"]], "it is not on the shelf")
}
