//go:build linux

package main

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/demo"
	"valleyside/store"
)

// peak is the most memory that a process has had, MB.
func peak(t *testing.T, pid int) int {
	t.Helper()
	b, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", pid))
	require.NoError(t, err)
	kB, err := strconv.Atoi(string(regexp.MustCompile(`VmHWM:\s+(\d+)`).FindSubmatch(b)[1]))
	require.NoError(t, err)
	return kB >> 10
}

// manyEntries is how many entries are asked for, or the usual number.
func manyEntries(usual int) int {
	if n, err := strconv.Atoi(os.Getenv("VALLEYSIDE_ENTRIES")); err == nil {
		return n
	}
	return usual
}

// practised puts entries into the demo's studio, from one to the next assignment in turn.
func practised(t *testing.T, db string, entries int) {
	t.Helper()
	st, err := store.Open(t.Context(), db)
	require.NoError(t, err)
	defer st.Close()
	_, err = st.DB().ExecContext(t.Context(), `WITH RECURSIVE n(i) AS (SELECT 0 UNION ALL SELECT i + 1 FROM n WHERE i < ? - 1),
		of AS (SELECT row_number() OVER (ORDER BY a.id) - 1 AS k, count(*) OVER () AS all_of, a.student_id, a.id, p.part_id, p.part, p.rung
			FROM assignments a JOIN assignment_parts p ON p.assignment_id = a.id AND p.position = 0)
		INSERT INTO entries (studio_id, student_id, assignment_id, part_id, part, rung, tempo, clean, minutes, word, step, some, practised_at, sent_id)
		SELECT 1, student_id, id, part_id, part, rung, 60 + n.i % 30, n.i % 5, 10, 'better than the last time, ' || hex(randomblob(8)), '', 0, ? - n.i, 'many-' || n.i FROM n JOIN of ON of.k = n.i % of.all_of`,
		entries, store.At(time.Now().AddDate(0, 0, -1)))
	require.NoError(t, err)
}

// A studio of any size travels: what was exported comes back whole, in memory that does not
// grow with it. VALLEYSIDE_ENTRIES is how many entries it has.
func TestAStudioTravels(t *testing.T) {
	const most = 120 // MB
	usual := 80_000
	if raced {
		usual = 8_000
	}
	entries := manyEntries(usual)
	here, there := filepath.Join(t.TempDir(), "here.db"), filepath.Join(t.TempDir(), "there.db")
	practising(t, here)
	practised(t, here, entries)
	want := counted(t, here)

	server, address := start(t, "serve", here)
	v := newVisitor(address)
	v.signIn(t)
	begun := time.Now()
	res, err := v.Get(address + "/settings/export")
	require.NoError(t, err)
	export, err := os.Create(filepath.Join(t.TempDir(), "export.zip"))
	require.NoError(t, err)
	size, err := io.Copy(export, res.Body)
	require.NoError(t, err)
	res.Body.Close()
	out, took := peak(t, server.Process.Pid), time.Since(begun)

	st, err := store.Open(t.Context(), there)
	require.NoError(t, err)
	_, err = st.AddStudio(t.Context(), "There", store.Teacher{Name: "Marit", Email: demo.Email, Password: account.Hash(demo.Password)}, store.At(time.Now()))
	require.NoError(t, err)
	require.NoError(t, st.Close())
	server, address = start(t, "serve", there)
	v = newVisitor(address)
	v.signIn(t)
	begun = time.Now()
	v.takeIn(t, export)
	in := peak(t, server.Process.Pid)
	t.Logf("%d entries, %d MB on the way: out in %s with %d MB of memory, in in %s with %d MB", entries, size>>20, took.Round(time.Millisecond), out, time.Since(begun).Round(time.Millisecond), in)
	assert.Equal(t, want, counted(t, there))
	if !raced {
		assert.LessOrEqual(t, out, most)
		assert.LessOrEqual(t, in, most)
	}
}

// counted is how many rows of each kind a studio has.
func counted(t *testing.T, db string) string {
	t.Helper()
	st, err := store.Open(t.Context(), db)
	require.NoError(t, err)
	defer st.Close()
	text := ""
	for _, table := range []string{"songs", "song_versions", "lessons", "students", "assignments", "assignment_parts", "entries"} {
		var n int
		require.NoError(t, st.DB().QueryRowContext(t.Context(), "SELECT count(*) FROM "+table).Scan(&n))
		text += fmt.Sprintf("%s %d, ", table, n)
	}
	return text
}

// takeIn sends a file that is to be taken in, takes it in, and waits until it is there.
func (v visitor) takeIn(t *testing.T, file *os.File) {
	t.Helper()
	_, err := file.Seek(0, io.SeekStart)
	require.NoError(t, err)
	csrf := v.csrf(t, "/settings")
	read, write := io.Pipe()
	form := multipart.NewWriter(write)
	go func() {
		err := form.WriteField("_csrf", csrf)
		if err == nil {
			var part io.Writer
			if part, err = form.CreateFormFile("file", "export.zip"); err == nil {
				_, err = io.Copy(part, file)
			}
		}
		if err == nil {
			err = form.Close()
		}
		write.CloseWithError(err)
	}()
	request, err := http.NewRequestWithContext(context.Background(), http.MethodPost, v.address+"/settings/return", read)
	require.NoError(t, err)
	request.Header.Set("Content-Type", form.FormDataContentType())
	res, err := v.Do(request)
	require.NoError(t, err)
	res.Body.Close()
	require.Equal(t, http.StatusSeeOther, res.StatusCode)
	page := res.Header.Get("Location")
	_, text := v.read(t, page)
	require.NotContains(t, text, "cannot be taken in")
	sent, err := v.PostForm(v.address+"/settings/take-in", url.Values{"thing": {filepath.Base(page)}, "_csrf": {csrf}})
	require.NoError(t, err)
	sent.Body.Close()
	for to := sent.Header.Get("Location"); to != "/students"; {
		require.Equal(t, page, to)
		time.Sleep(200 * time.Millisecond)
		res, err := v.Get(v.address + page)
		require.NoError(t, err)
		res.Body.Close()
		if res.StatusCode == http.StatusSeeOther {
			to = res.Header.Get("Location")
		} else {
			require.Equal(t, http.StatusOK, res.StatusCode)
		}
	}
}

// A studio of an older program says how far it is while it is brought up to date, and all
// of it is there. VALLEYSIDE_ENTRIES is how many entries it has.
func TestAnOldStudioSaysHowFarItIs(t *testing.T) {
	db := filepath.Join(t.TempDir(), "studio.db")
	practising(t, db)
	practised(t, db, manyEntries(2000))
	want := counted(t, db)
	ofOldProgram(t, db)

	server := exec.Command(os.Args[0], "serve", "--addr", "127.0.0.1:0", "--db", db, "--log", "error")
	server.Env = append(os.Environ(), asCommand+"=1")
	said, err := server.StderrPipe()
	require.NoError(t, err)
	out, err := server.StdoutPipe()
	require.NoError(t, err)
	begun := time.Now()
	require.NoError(t, server.Start())
	t.Cleanup(func() { server.Process.Kill(); server.Wait() }) //nolint:errcheck // it may be dead already
	lines := make(chan []string)
	go func() {
		var all []string
		for s := bufio.NewScanner(said); s.Scan(); {
			all = append(all, s.Text())
		}
		lines <- all
	}()
	require.True(t, bufio.NewScanner(out).Scan(), "it says where it is")
	took := time.Since(begun)
	memory := peak(t, server.Process.Pid)
	require.NoError(t, server.Process.Signal(os.Interrupt))
	all := <-lines
	t.Logf("%s, %d MB of memory; it said %d lines, the first %q, the last %q", took.Round(time.Millisecond), memory, len(all), all[0], all[len(all)-1])
	assert.Regexp(t, `^bringing the tables up to date: step 1 of \d+$`, all[0])
	assert.Regexp(t, `^bringing the studio up to date: song (\d+) of (\d+)$`, all[len(all)-1])
	assert.Equal(t, want, counted(t, db))
}
