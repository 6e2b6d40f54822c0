package main

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"regexp"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/demo"
	"valleyside/store"
)

// student is one of the demo who practises while something goes wrong.
type student struct {
	store.Student
	db     string
	lesson store.Assignment
	token  string // of their link
}

// practising fills a database with the demo, where it is empty, and gives a student
// of it a link.
func practising(t *testing.T, db string) student {
	t.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, db)
	require.NoError(t, err)
	defer st.Close()
	require.NoError(t, demo.Fill(ctx, st, time.Now()))
	students, err := st.Students(ctx, 1)
	require.NoError(t, err)
	s := student{db: db}
	for _, has := range students {
		if has.Name == "Saskia" {
			s.Student = has
		}
	}
	given, err := st.AssignmentsOf(ctx, 1, s.ID)
	require.NoError(t, err)
	s.lesson = given[0]
	s.token, err = st.AddLink(ctx, 1, s.ID, "", store.At(time.Now()))
	require.NoError(t, err)
	return s
}

// page is the address of the student's page.
func (s student) page() string { return "/s/" + s.token }

// entry is a form that logs practice under an id.
func (s student) entry(id string) url.Values {
	return url.Values{"assignment": {fmt.Sprint(s.lesson.ID)}, "part": {s.lesson.Parts[0].Part}, "tempo": {"60"}, "clean": {"2"}, "minutes": {"5"}, "sent": {id}}
}

// has asks that every entry that was acknowledged is in the database.
func (s student) has(t *testing.T, acknowledged []string) {
	t.Helper()
	st, err := store.Open(context.Background(), s.db)
	require.NoError(t, err)
	defer st.Close()
	entries, err := st.EntriesOf(context.Background(), 1, s.ID, 0, 0)
	require.NoError(t, err)
	kept := map[string]bool{}
	for _, e := range entries {
		kept[e.SentID] = true
	}
	for _, id := range acknowledged {
		assert.True(t, kept[id], "entry %s was acknowledged and is lost", id)
	}
}

// visitor is a browser at a server, which follows no redirects.
type visitor struct {
	*http.Client
	address string
}

func newVisitor(address string) visitor {
	jar, _ := cookiejar.New(nil) // it never fails
	return visitor{&http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}, address}
}

// read is a page and its status.
func (v visitor) read(t *testing.T, path string) (int, string) {
	t.Helper()
	res, err := v.Get(v.address + path)
	require.NoError(t, err)
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	return res.StatusCode, string(b)
}

// csrf is the token of a page's forms.
func (v visitor) csrf(t *testing.T, path string) string {
	t.Helper()
	_, page := v.read(t, path)
	found := regexp.MustCompile(`name="csrf" content="([^"]+)"`).FindStringSubmatch(page)
	require.NotNil(t, found, path)
	return found[1]
}

// done sends a form and tells whether the server said yes to it.
func (v visitor) done(path string, form url.Values) bool {
	res, err := v.PostForm(v.address+path, form)
	if err != nil {
		return false // it is gone
	}
	res.Body.Close()
	return res.StatusCode == http.StatusSeeOther
}

// signIn signs the demo's teacher in.
func (v visitor) signIn(t *testing.T) {
	t.Helper()
	require.True(t, v.done("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}, "_csrf": {v.csrf(t, "/sign-in")}}))
}

func copyFile(t *testing.T, from, to string) {
	t.Helper()
	b, err := os.ReadFile(from)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(to, b, 0o600))
}
