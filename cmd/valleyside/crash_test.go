package main

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/demo"
	"valleyside/store"
)

// asCommand makes the test binary run as the command itself.
const asCommand = "VALLEYSIDE_TEST_COMMAND"

func TestMain(m *testing.M) {
	if os.Getenv(asCommand) != "" {
		os.Exit(run(context.Background(), os.Args, os.Stdin, os.Stdout, os.Stderr))
	}
	os.Exit(m.Run())
}

// start runs the server on a database in a process of its own and returns its
// address once it answers there.
func start(t *testing.T, what, db string) (*exec.Cmd, string) {
	t.Helper()
	server := exec.Command(os.Args[0], what, "--addr", "127.0.0.1:0", "--db", db, "--log", "error")
	server.Env = append(os.Environ(), asCommand+"=1")
	server.Stderr = os.Stderr
	out, err := server.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, server.Start())
	t.Cleanup(func() { server.Process.Kill(); server.Wait() }) //nolint:errcheck // it may be dead already
	lines := bufio.NewScanner(out)
	require.True(t, lines.Scan(), "the server says where it is")
	address := regexp.MustCompile(`http://\S+`).FindString(lines.Text())
	require.NotEmpty(t, address)
	return server, address
}

// The power goes off while students log their practice: whatever was
// acknowledged is there afterwards.
func TestKilledWhileLogging(t *testing.T) {
	db := filepath.Join(t.TempDir(), "studio.db")
	p := practising(t, db)
	server, address := start(t, "serve", db)
	v := newVisitor(address)
	status, _ := v.read(t, p.page())
	require.Equal(t, http.StatusOK, status)
	const clients, enough = 4, 40
	var mu sync.Mutex
	var acknowledged []string
	off := make(chan struct{})
	var wait sync.WaitGroup
	for n := range clients {
		wait.Go(func() {
			for i := 0; ; i++ {
				sent := fmt.Sprintf("crash %d %d", n, i)
				answer, err := v.PostForm(address+p.page()+"/entries", p.entry(sent))
				if err != nil {
					return // the server is gone
				}
				answer.Body.Close()
				if answer.StatusCode != http.StatusSeeOther {
					t.Errorf("entry %s: %s", sent, answer.Status)
					return
				}
				mu.Lock()
				acknowledged = append(acknowledged, sent)
				if len(acknowledged) == enough {
					server.Process.Signal(syscall.SIGKILL) //nolint:errcheck // seen below
					close(off)
				}
				mu.Unlock()
			}
		})
	}
	wait.Wait()
	<-off
	server.Wait() //nolint:errcheck // it was killed
	require.GreaterOrEqual(t, len(acknowledged), enough)

	_, address = start(t, "serve", db)
	status, _ = newVisitor(address).read(t, p.page())
	assert.Equal(t, http.StatusOK, status, "it serves again")
	p.has(t, acknowledged)
}

// A stop that is asked for ends what is being answered and exits with 0.
func TestGracefulStop(t *testing.T) {
	server, _ := start(t, "demo", filepath.Join(t.TempDir(), "studio.db"))
	require.NoError(t, server.Process.Signal(syscall.SIGTERM))
	assert.NoError(t, server.Wait())
}

func TestBackupWhileServed(t *testing.T) {
	dir := t.TempDir()
	db, copied := filepath.Join(dir, "studio.db"), filepath.Join(dir, "copy.db")
	start(t, "demo", db)
	code, out, errs := ask(t, "", "backup", "--db", db, copied)
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, copied)
	st, err := store.Open(context.Background(), copied)
	require.NoError(t, err)
	defer st.Close()
	songs, err := st.Songs(context.Background(), 1)
	require.NoError(t, err)
	assert.Len(t, songs, len(demo.Sheets()))
	code, _, errs = ask(t, "", "backup", "--db", db, copied)
	assert.Equal(t, 1, code)
	assert.True(t, strings.Contains(errs, "the file exists"), errs)
}
