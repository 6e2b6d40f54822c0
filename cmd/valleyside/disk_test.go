//go:build unix

package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The disk is full: pages are read as before, every form has a word for it, and
// what was acknowledged is there afterwards.
func TestAFullDisk(t *testing.T) {
	db := filepath.Join(t.TempDir(), "studio.db")
	p := practising(t, db)
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
	v := newVisitor(address)
	v.signIn(t)

	var acknowledged []string
	full := false
	for i := 0; i < 4000 && !full; i++ {
		sent := fmt.Sprint("full ", i)
		form := p.entry(sent)
		form.Set("word", strings.Repeat("a long word ", 16))
		r, _ := http.NewRequest("POST", address+p.page()+"/entries", strings.NewReader(form.Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("Accept", "application/json")
		res, err := v.Do(r)
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
	for _, page := range []string{"/", "/songs", "/songs/1", "/students", "/settings", p.page()} {
		status, body := v.read(t, page)
		assert.Equal(t, http.StatusOK, status, page)
		assert.True(t, strings.HasPrefix(body, "<!doctype html>"), "nothing stands in front of %s", page)
	}
	res, err := v.PostForm(address+"/students", url.Values{"name": {strings.Repeat("Pia ", 20)}, "_csrf": {v.csrf(t, "/students")}})
	require.NoError(t, err)
	b, _ := io.ReadAll(res.Body)
	res.Body.Close()
	if res.StatusCode != http.StatusSeeOther { // a little may still fit
		assert.Contains(t, string(b), "disk of this machine is full")
	}
	server.Process.Kill() //nolint:errcheck // seen below
	server.Wait()         //nolint:errcheck // it was killed

	p.has(t, acknowledged)
}
