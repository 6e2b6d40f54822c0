package main

import (
	"bytes"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/store"
)

// command runs the command line with something to read.
func command(t *testing.T, in string, args ...string) (code int, out, errOut string) {
	var o, e bytes.Buffer
	code = run(t.Context(), append([]string{"valleyside"}, args...), strings.NewReader(in), &o, &e)
	return code, o.String(), e.String()
}

// What looks after the file: a copy, putting it back, a password, and names that
// are none.
func TestFileCommands(t *testing.T) {
	dir := t.TempDir()
	db, copied := filepath.Join(dir, "a.db"), filepath.Join(dir, "b.db")
	st, err := store.Open(t.Context(), db)
	require.NoError(t, err)
	_, err = st.AddStudio(t.Context(), "Attic", store.Teacher{Name: "Ada", Email: "ada@attic.example", Password: account.Hash("long enough now")}, 1)
	require.NoError(t, err)
	require.NoError(t, st.Close())

	code, out, _ := command(t, "", "backup", "--db", db, copied)
	assert.Zero(t, code)
	assert.Contains(t, out, "Copied "+db)
	code, _, errOut := command(t, "", "backup", "--db", db, copied)
	assert.Equal(t, exitInput, code)
	assert.Contains(t, errOut, "the file exists")

	code, _, errOut = command(t, "short\n", "password", "--db", db, "ada@attic.example")
	assert.Equal(t, exitInput, code)
	assert.Contains(t, errOut, "it needs 10")
	code, _, errOut = command(t, "a new long one\n", "password", "--db", db, "eve@attic.example")
	assert.Equal(t, exitInput, code)
	assert.Contains(t, errOut, "nobody signs in")
	code, out, _ = command(t, "a new long one\n", "password", "--db", db, "Ada@attic.example")
	assert.Zero(t, code)
	assert.Contains(t, out, "signs in with the new password now")
	teacher := func() store.Teacher {
		st, err := store.Open(t.Context(), db)
		require.NoError(t, err)
		defer st.Close()
		found, err := st.TeacherByEmail(t.Context(), "ada@attic.example")
		require.NoError(t, err)
		return found
	}
	assert.True(t, account.Matches(teacher().Password, "a new long one"))
	assert.EqualValues(t, 1, teacher().Generation, "every session has ended")

	code, out, _ = command(t, "", "restore", "--db", db, copied)
	assert.Zero(t, code)
	assert.Contains(t, out, "is kept as")
	assert.True(t, account.Matches(teacher().Password, "long enough now"))
	lock, err := store.LockFile(db)
	require.NoError(t, err)
	code, _, errOut = command(t, "", "restore", "--db", db, copied)
	assert.Equal(t, exitInput, code)
	assert.Contains(t, errOut, "is being served")
	code, _, errOut = command(t, "", "serve", "--db", db)
	assert.Equal(t, exitInput, code)
	assert.Contains(t, errOut, "is served already")
	lock.Release()

	code, _, errOut = command(t, "", "demo", "--db", db, "--fresh")
	assert.Equal(t, exitInput, code)
	assert.Contains(t, errOut, "not a demo's file")
	assert.Equal(t, "Ada", teacher().Name)

	for _, args := range [][]string{{"serve", "--db", ""}, {"demo", "--db", "", "--fresh"}, {"backup", "--db", "", "x.db"}, {"backup", "--db", db, ""}, {"restore", "--db", "", copied}, {"password", "--db", "", "a@b"}} {
		code, _, errOut = command(t, "", args...)
		assert.Equal(t, exitInput, code, args)
		assert.Contains(t, errOut, "empty", args)
	}
	t.Setenv("VALLEYSIDE_DB", "")
	code, _, errOut = command(t, "", "serve")
	assert.Equal(t, exitInput, code)
	assert.Contains(t, errOut, "VALLEYSIDE_DB")
	_, err = os.Stat("valleyside.db")
	assert.ErrorIs(t, err, os.ErrNotExist)
	code, _, errOut = command(t, "", "serve", "--db", db, "--public-url", "lessons.example")
	assert.Equal(t, exitUsage, code)
	assert.Contains(t, errOut, "https://lessons.example")
	code, _, errOut = command(t, "", "serve", "--db", db, "--trusted-proxy", "here")
	assert.Equal(t, exitUsage, code)
	assert.Contains(t, errOut, "10.0.0.0/8")
}
