//go:build unix

package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/demo"
	"valleyside/store"
)

// The disk is full: pages are read as before, every form has a word for it, and
// what was acknowledged is there afterwards.
func TestAFullDisk(t *testing.T) {
	ctx := t.Context()
	db := filepath.Join(t.TempDir(), "studio.db")
	st, err := store.Open(ctx, db)
	require.NoError(t, err)
	require.NoError(t, demo.Fill(ctx, st, time.Now()))
	students, err := st.Students(ctx, 1)
	require.NoError(t, err)
	var saskia store.Student
	for _, s := range students {
		if s.Name == "Saskia" {
			saskia = s
		}
	}
	token, err := st.AddLink(ctx, 1, saskia.ID, "", store.At(time.Now()))
	require.NoError(t, err)
	given, err := st.AssignmentsOf(ctx, 1, saskia.ID)
	require.NoError(t, err)
	require.NoError(t, st.Close())
	info, err := os.Stat(db)
	require.NoError(t, err)

	// No file may grow beyond what the studio's has, and 64 KB.
	blocks := info.Size()/512 + 128
	server := exec.Command("sh", "-c", fmt.Sprintf(`ulimit -f %d; exec "$0" serve --addr 127.0.0.1:0 --db "$1" --log error`, blocks), os.Args[0], db)
	server.Env = append(os.Environ(), asCommand+"=1")
	out, err := server.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, server.Start())
	t.Cleanup(func() { server.Process.Kill(); server.Wait() }) //nolint:errcheck // it may be gone
	lines := bufio.NewScanner(out)
	require.True(t, lines.Scan())
	address := regexp.MustCompile(`http://\S+`).FindString(lines.Text())
	jar, _ := cookiejar.New(nil)
	client := &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	read := func(path string) (int, string) {
		res, err := client.Get(address + path)
		require.NoError(t, err)
		defer res.Body.Close()
		b, _ := io.ReadAll(res.Body)
		return res.StatusCode, string(b)
	}
	csrf := func(path string) string {
		_, page := read(path)
		return regexp.MustCompile(`name="csrf" content="([^"]+)"`).FindStringSubmatch(page)[1]
	}
	res, err := client.PostForm(address+"/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}, "_csrf": {csrf("/sign-in")}})
	require.NoError(t, err)
	res.Body.Close()
	require.Equal(t, http.StatusSeeOther, res.StatusCode)

	var acknowledged []string
	full := false
	for i := 0; i < 4000 && !full; i++ {
		sent := fmt.Sprint("full ", i)
		form := url.Values{"assignment": {fmt.Sprint(given[0].ID)}, "part": {given[0].Parts[0].Part}, "tempo": {"60"}, "clean": {"2"}, "minutes": {"5"},
			"word": {strings.Repeat("a long word ", 16)}, "sent": {sent}}
		r, _ := http.NewRequest("POST", address+"/s/"+token+"/entries", strings.NewReader(form.Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("Accept", "application/json")
		res, err := client.Do(r)
		require.NoError(t, err)
		var answer map[string]string
		require.NoError(t, json.NewDecoder(res.Body).Decode(&answer))
		res.Body.Close()
		switch {
		case answer["id"] == sent:
			acknowledged = append(acknowledged, sent)
		case res.StatusCode == http.StatusTooManyRequests:
			t.Skip("the limit of a link came before that of the disk")
		default:
			full = true
			assert.Empty(t, answer["refused"], "it is sent again")
			assert.Contains(t, answer["error"], "disk of this machine is full")
		}
	}
	require.True(t, full)
	require.NotEmpty(t, acknowledged)
	for _, page := range []string{"/", "/songs", "/songs/1", "/students", "/settings", "/s/" + token} {
		status, body := read(page)
		assert.Equal(t, http.StatusOK, status, page)
		assert.True(t, strings.HasPrefix(body, "<!doctype html>"), "nothing stands in front of %s", page)
	}
	res, err = client.PostForm(address+"/students", url.Values{"name": {strings.Repeat("Pia ", 20)}, "_csrf": {csrf("/students")}})
	require.NoError(t, err)
	b, _ := io.ReadAll(res.Body)
	res.Body.Close()
	if res.StatusCode != http.StatusSeeOther { // a little may still fit
		assert.Contains(t, string(b), "disk of this machine is full")
	}
	server.Process.Kill() //nolint:errcheck // seen below
	server.Wait()         //nolint:errcheck // it was killed

	st, err = store.Open(ctx, db)
	require.NoError(t, err)
	defer st.Close()
	entries, err := st.EntriesOf(ctx, 1, saskia.ID, 0, 0)
	require.NoError(t, err)
	kept := map[string]bool{}
	for _, e := range entries {
		kept[e.SentID] = true
	}
	for _, sent := range acknowledged {
		assert.True(t, kept[sent], "%s was acknowledged and is lost", sent)
	}
}
