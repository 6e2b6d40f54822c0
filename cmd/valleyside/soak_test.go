//go:build unix

package main

import (
	"bytes"
	"context"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/demo"
	"valleyside/store"
)

// The power goes off at a random moment of whatever is being done. VALLEYSIDE_SOAK
// is how many times each, 2 where it says nothing; `make soak` has more.
func TestSoak(t *testing.T) {
	rounds := 2
	if n, err := strconv.Atoi(os.Getenv("VALLEYSIDE_SOAK")); err == nil {
		rounds = n
	}
	template := filepath.Join(t.TempDir(), "template.db")
	st, err := store.Open(t.Context(), template)
	require.NoError(t, err)
	require.NoError(t, demo.Fill(t.Context(), st, time.Now()))
	require.NoError(t, st.Close())
	for name, round := range map[string]func(*testing.T, string, time.Duration){
		"logging, saving and assigning": killedAtWork,
		"the first start":               killedAtFirstStart,
		"a first start of the demo":     killedMakingTheDemo,
		"a migration":                   killedMigrating,
		"a backup":                      killedBackingUp,
		"restoring":                     killedRestoring,
	} {
		t.Run(name, func(t *testing.T) {
			for i := range rounds {
				db := filepath.Join(t.TempDir(), "studio.db")
				copyFile(t, template, db)
				round(t, db, time.Duration(rand.Int64N(int64(time.Second)))) // up to a second, by chance
				if t.Failed() {
					t.Fatalf("in round %d", i+1)
				}
			}
		})
	}
}

// A student logs, a teacher saves sheets and assigns lessons. Afterwards all that
// was acknowledged is there.
func killedAtWork(t *testing.T, db string, after time.Duration) {
	ctx := context.Background()
	p := practising(t, db)
	st, err := store.Open(ctx, db)
	require.NoError(t, err)
	students, err := st.Students(ctx, 1)
	require.NoError(t, err)
	songs, err := st.Songs(ctx, 1)
	require.NoError(t, err)
	song, err := st.Song(ctx, 1, songs[0].ID)
	require.NoError(t, err)
	require.NoError(t, st.Close())

	server, address := start(t, "serve", db)
	v := newVisitor(address)
	v.signIn(t)
	form := v.csrf(t, "/songs")
	kill := time.AfterFunc(after, func() { server.Process.Kill() }) //nolint:errcheck // it may be gone
	defer kill.Stop()
	var logged, saved []string
	given := 0
	var wait sync.WaitGroup
	wait.Go(func() {
		for i := 0; ; i++ {
			id := fmt.Sprint("soak ", i)
			if !v.done(p.page()+"/entries", p.entry(id)) {
				return // killed, or as fast as a link may log
			}
			logged = append(logged, id)
		}
	})
	wait.Go(func() {
		for i := 0; ; i++ {
			text := fmt.Sprintf("%s\n// soak %d\n", song.Sheet, i)
			if !v.done(fmt.Sprintf("/songs/%d", song.ID), url.Values{"sheet": {text}, "base": {fmt.Sprint(song.Save + i)}, "_csrf": {form}}) {
				return
			}
			saved = append(saved, text)
		}
	})
	wait.Go(func() {
		for i := range students {
			if !v.done(fmt.Sprintf("/lessons/%d/assign", p.lesson.LessonID), url.Values{"student": {fmt.Sprint(students[i].ID)}, "_csrf": {form}}) {
				return
			}
			given = i + 1
		}
	})
	wait.Wait()
	server.Wait() //nolint:errcheck // it was killed

	t.Logf("killed after %v: %d entries, %d saves and %d assignments were acknowledged", after.Round(time.Millisecond), len(logged), len(saved), given)

	_, again := start(t, "serve", db)
	status, _ := newVisitor(again).read(t, p.page())
	assert.Equal(t, http.StatusOK, status, "it serves again")
	p.has(t, logged)
	require.NoError(t, store.Check(ctx, db))
	st, err = store.Open(ctx, db)
	require.NoError(t, err)
	defer st.Close()
	for i, text := range saved {
		v, err := st.SavedSheet(ctx, 1, song.ID, song.Save+i+1)
		if assert.NoError(t, err, "save %d", i) {
			assert.Equal(t, text, v.Sheet, "save %d", i)
		}
	}
	for i := range given {
		has, err := st.AssignmentsOf(ctx, 1, students[i].ID)
		require.NoError(t, err)
		found := false
		for _, a := range has {
			found = found || a.LessonID == p.lesson.LessonID
		}
		assert.True(t, found, "the lesson of %s was acknowledged and is lost", students[i].Name)
	}
}

// killed starts a command in a process of its own, and kills it after a while
// unless it has ended by itself; it tells whether it did.
func killed(t *testing.T, after time.Duration, args ...string) (ended bool) {
	t.Helper()
	c := exec.Command(os.Args[0], args...)
	c.Env = append(os.Environ(), asCommand+"=1")
	var errs bytes.Buffer
	c.Stderr = &errs
	require.NoError(t, c.Start())
	kill := time.AfterFunc(after, func() { c.Process.Kill() }) //nolint:errcheck // it may be gone
	err := c.Wait()
	return kill.Stop() && assert.NoError(t, err, errs.String())
}

func killedAtFirstStart(t *testing.T, db string, after time.Duration) {
	fresh := db + ".new"
	killed(t, after/20, "serve", "--addr", "127.0.0.1:0", "--db", fresh, "--log", "error")
	_, address := start(t, "serve", fresh)
	status, _ := newVisitor(address).read(t, "/set-up")
	assert.Equal(t, http.StatusOK, status, "a studio can be set up")
}

func killedMakingTheDemo(t *testing.T, db string, after time.Duration) {
	fresh := db + ".demo"
	killed(t, after, "demo", "--addr", "127.0.0.1:0", "--db", fresh, "--log", "error")
	start(t, "demo", fresh)
	assert.Equal(t, countOf(t, db), countOf(t, fresh), "the demo is whole")
}

// ofOldProgram puts a database into the form of the third schema.
func ofOldProgram(t *testing.T, db string) {
	t.Helper()
	old, err := sqlx.Open("sqlite", "file:"+db+"?_pragma=journal_mode(WAL)")
	require.NoError(t, err)
	p, err := goose.NewProvider(goose.DialectSQLite3, old.DB, os.DirFS("../../store/migrations"))
	require.NoError(t, err)
	_, err = p.DownTo(t.Context(), 3)
	require.NoError(t, err)
	require.NoError(t, old.Close())
}

func killedMigrating(t *testing.T, db string, after time.Duration) {
	before := countOf(t, db)
	ofOldProgram(t, db)
	killed(t, after/10, "serve", "--addr", "127.0.0.1:0", "--db", db, "--log", "error")
	start(t, "serve", db)
	assert.Equal(t, before, countOf(t, db), "all of it is in the new tables")
	require.NoError(t, store.Check(t.Context(), db))
}

func killedBackingUp(t *testing.T, db string, after time.Duration) {
	start(t, "serve", db)
	to := db + ".copy"
	killed(t, after/10, "backup", "--db", db, to)
	if _, err := os.Stat(to); err == nil {
		require.NoError(t, store.Check(t.Context(), to), "what has the name is whole")
		assert.Equal(t, countOf(t, db), countOf(t, to))
		return
	}
	assert.True(t, killed(t, time.Minute, "backup", "--db", db, to), "it can be done again")
	assert.Equal(t, countOf(t, db), countOf(t, to))
}

func killedRestoring(t *testing.T, db string, after time.Duration) {
	whole := countOf(t, db)
	copied := db + ".copy"
	require.NoError(t, store.Backup(t.Context(), db, copied))
	// What is there now has a song less, in a log that is not in the file yet.
	dir := filepath.Dir(db)
	st, err := store.Open(t.Context(), db)
	require.NoError(t, err)
	require.NoError(t, st.DeleteSong(t.Context(), 1, 1, store.At(time.Now())))
	less := filepath.Join(dir, "less.db")
	for _, end := range []string{"", "-wal"} {
		copyFile(t, db+end, less+end)
	}
	require.NoError(t, st.Close())
	killed(t, after/10, "restore", "--db", less, copied)
	_, err = os.Stat(less)
	require.False(t, os.IsNotExist(err), "there is a database at every moment")
	start(t, "serve", less)
	songs := countOf(t, less)
	assert.Contains(t, []string{whole, less1(t, whole)}, songs, "the old one or the copy, whole")
	require.NoError(t, store.Check(t.Context(), copied), "the copy stays")
	kept, err := fs.Glob(os.DirFS(dir), "less.db.before-*")
	require.NoError(t, err)
	if songs == whole {
		assert.NotEmpty(t, kept, "what was there is kept")
	}
}

// countOf says how much there is in a database.
func countOf(t *testing.T, db string) string {
	t.Helper()
	st, err := sqlx.Open("sqlite", "file:"+db)
	require.NoError(t, err)
	defer st.Close()
	var counts []string
	for _, query := range []string{"songs WHERE deleted_at = 0", "song_versions", "students", "lessons", "assignments", "entries"} {
		var n int
		require.NoError(t, st.Get(&n, "SELECT count(*) FROM "+query), db)
		counts = append(counts, fmt.Sprint(n, " ", strings.Fields(query)[0]))
	}
	return strings.Join(counts, ", ")
}

// less1 is a count with a song less.
func less1(t *testing.T, count string) string {
	t.Helper()
	var songs int
	_, err := fmt.Sscan(count, &songs)
	require.NoError(t, err)
	return strings.Replace(count, fmt.Sprint(songs), fmt.Sprint(songs-1), 1)
}
