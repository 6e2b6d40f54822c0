package store

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// studioIn makes a studio in a file and closes it.
func studioIn(t *testing.T, path, name string) {
	s, err := Open(t.Context(), path)
	require.NoError(t, err)
	_, err = s.AddStudio(t.Context(), name, Teacher{Name: "T", Email: "t@studio.example", Password: "hash"}, day)
	require.NoError(t, err)
	require.NoError(t, s.Close())
}

func nameIn(t *testing.T, path string) string {
	s, err := Open(t.Context(), path)
	require.NoError(t, err)
	defer s.Close()
	st, err := s.Studio(t.Context(), 1)
	require.NoError(t, err)
	return st.Name
}

// A name that is none is refused; nothing is ever served from memory.
func TestNamesThatAreNone(t *testing.T) {
	ctx := t.Context()
	for _, name := range []string{"", "  ", ":memory:"} {
		for what, err := range map[string]error{
			"open": second(Open(ctx, name)), "existing": second(OpenExisting(ctx, name)), "lock": second(LockFile(name)),
			"backup from": Backup(ctx, name, filepath.Join(t.TempDir(), "b.db")), "backup to": Backup(ctx, filepath.Join(t.TempDir(), "a.db"), name),
			"demo": second(OpenDemo(ctx, name, true, func(*Store) error { return nil })), "restore": second(Restore(ctx, "x", name, time.Now())),
		} {
			assert.Error(t, err, "%s %q", what, name)
		}
	}
	_, err := OpenExisting(ctx, filepath.Join(t.TempDir(), "none.db"))
	assert.ErrorContains(t, err, "there is no database")
}

func TestFilesAreTheStudiosAlone(t *testing.T) {
	path := filepath.Join(t.TempDir(), "a.db")
	require.NoError(t, os.WriteFile(path, nil, 0o644))
	s, err := Open(t.Context(), path)
	require.NoError(t, err)
	defer s.Close()
	_, err = s.AddStudio(t.Context(), "A", Teacher{Email: "a@b"}, day)
	require.NoError(t, err)
	to := filepath.Join(filepath.Dir(path), "b.db")
	require.NoError(t, Backup(t.Context(), path, to))
	lock, err := LockFile(path)
	require.NoError(t, err)
	defer lock.Release()
	for _, file := range []string{path, path + "-wal", path + "-shm", path + ".lock", to} {
		info, err := os.Stat(file)
		require.NoError(t, err)
		assert.EqualValues(t, 0o600, info.Mode().Perm(), file)
	}
}

func TestOneServerForOneFile(t *testing.T) {
	path := filepath.Join(t.TempDir(), "a.db")
	studioIn(t, path, "A")
	copied := filepath.Join(t.TempDir(), "b.db")
	require.NoError(t, Backup(t.Context(), path, copied))
	lock, err := LockFile(path)
	require.NoError(t, err)
	_, err = LockFile(path)
	assert.ErrorIs(t, err, ErrServed)
	_, err = Restore(t.Context(), copied, path, time.Now())
	assert.ErrorIs(t, err, ErrServed, "not under a running server")
	lock.Release()
	again, err := LockFile(path)
	require.NoError(t, err)
	again.Release()
}

// A database that a newer program has made is refused, and left as it is.
func TestANewerSchemaIsRefused(t *testing.T) {
	path := filepath.Join(t.TempDir(), "a.db")
	studioIn(t, path, "A")
	s, err := connect(path)
	require.NoError(t, err)
	_, err = s.db.Exec("INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, 1)")
	require.NoError(t, err)
	require.NoError(t, s.Close())
	before, err := os.ReadFile(path)
	require.NoError(t, err)
	_, err = Open(t.Context(), path)
	assert.ErrorContains(t, err, "schema 9999")
	assert.Error(t, Backup(t.Context(), path, path+".copy"))
	after, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

// A copy is checked before it has its name, and restoring checks it again.
func TestRestoring(t *testing.T) {
	dir := t.TempDir()
	ctx := t.Context()
	path, copied := filepath.Join(dir, "a.db"), filepath.Join(dir, "copy.db")
	studioIn(t, path, "As it was")
	require.NoError(t, Backup(ctx, path, copied))
	s, err := Open(ctx, path)
	require.NoError(t, err)
	require.NoError(t, s.SetStudio(ctx, Studio{ID: 1, Name: "As it is"}))
	require.NoError(t, s.Close())
	now := time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)
	kept, err := Restore(ctx, copied, path, now)
	require.NoError(t, err)
	assert.Equal(t, "As it was", nameIn(t, path))
	assert.Equal(t, "As it is", nameIn(t, kept), "what was there is kept")
	fresh := filepath.Join(dir, "elsewhere.db")
	kept, err = Restore(ctx, copied, fresh, now)
	require.NoError(t, err)
	assert.Empty(t, kept)
	assert.Equal(t, "As it was", nameIn(t, fresh))

	damaged := filepath.Join(dir, "damaged.db")
	whole, err := os.ReadFile(copied)
	require.NoError(t, err)
	for what, b := range map[string][]byte{"half": whole[:len(whole)/2], "nothing": nil, "text": []byte("not a database, but long enough to be looked at, and then some more of it so that it is a hundred bytes")} {
		require.NoError(t, os.WriteFile(damaged, b, 0o600))
		_, err := Restore(ctx, damaged, path, now)
		assert.Error(t, err, what)
		assert.Equal(t, "As it was", nameIn(t, path), what)
	}
	require.NoError(t, os.WriteFile(path, whole[:len(whole)/2], 0o600))
	assert.Error(t, Backup(ctx, path, filepath.Join(dir, "of damaged.db")))
	assert.NoFileExists(t, filepath.Join(dir, "of damaged.db"), "a bad copy never has the name")
}

// What is only copied or checked is not written: not even the way in which it is
// kept changes.
func TestReadingChangesNothing(t *testing.T) {
	ctx, dir := t.Context(), t.TempDir()
	path, copied := filepath.Join(dir, "a.db"), filepath.Join(dir, "copy.db")
	studioIn(t, path, "Attic")
	require.NoError(t, Backup(ctx, path, copied))
	for _, file := range []string{path, copied} {
		before, err := os.ReadFile(file)
		require.NoError(t, err)
		s, err := openOnly(ctx, file)
		require.NoError(t, err)
		_, err = s.db.ExecContext(ctx, "DELETE FROM studios")
		assert.ErrorContains(t, err, "readonly")
		require.NoError(t, s.Close())
		require.NoError(t, Check(ctx, file))
		require.NoError(t, Backup(ctx, file, file+".second"))
		after, err := os.ReadFile(file)
		require.NoError(t, err)
		assert.Equal(t, before, after)
	}
}

// A demo deletes and fills only what is marked as a demo's, and one that was not
// filled to its end is made again.
func TestDemoFiles(t *testing.T) {
	ctx := t.Context()
	path := filepath.Join(t.TempDir(), "demo.db")
	filled := 0
	fill := func(s *Store) error {
		if set, err := s.HasStudio(ctx); set || err != nil {
			return err
		}
		filled++
		_, err := s.AddStudio(context.Background(), "Demo", Teacher{Email: "a@b"}, day)
		return err
	}
	open := func(fresh bool, fill func(*Store) error) error {
		s, err := OpenDemo(ctx, path, fresh, fill)
		if err == nil {
			require.NoError(t, s.Close())
		}
		return err
	}
	require.NoError(t, open(false, fill))
	require.NoError(t, open(false, fill))
	assert.Equal(t, 1, filled, "it is kept")
	require.NoError(t, open(true, fill))
	assert.Equal(t, 2, filled, "made anew")
	assert.Error(t, open(true, func(s *Store) error { return errors.Join(fill(s), errors.New("the lights went out")) }))
	require.NoError(t, open(false, fill))
	assert.Equal(t, 4, filled, "half made, made again")

	real := filepath.Join(t.TempDir(), "studio.db")
	studioIn(t, real, "A real studio")
	path = real
	for _, fresh := range []bool{false, true} {
		assert.ErrorContains(t, open(fresh, fill), "not a demo's file")
	}
	assert.Equal(t, "A real studio", nameIn(t, real))
}
