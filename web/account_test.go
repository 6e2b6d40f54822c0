package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/demo"
)

// Signing out and changing the password end every other session, and a request
// that was under way brings none back.
func TestSessionsEndForGood(t *testing.T) {
	h := openDemo(t)
	here, there := h.marit(), h.marit()
	var wait sync.WaitGroup
	for range 8 { // requests in flight while the password changes
		wait.Go(func() {
			for range 10 {
				r, err := http.NewRequest("GET", h.http.URL+"/settings", nil)
				if err != nil {
					return
				}
				if res, err := there.client.Do(r); err == nil {
					res.Body.Close()
				}
			}
		})
	}
	a := here.post("/settings/password", url.Values{"old": {demo.Password}, "new": {"another quiet hillside"}})
	assert.Equal(t, "/settings", a.Header.Get("Location"))
	wait.Wait()
	assert.Equal(t, http.StatusOK, here.get("/").StatusCode, "this one goes on")
	assert.Equal(t, "/sign-in", there.get("/").Header.Get("Location"))
	third := h.signIn(demo.Email, "another quiet hillside")
	third.post("/sign-out", nil)
	for _, v := range []*visitor{here, there, third} {
		assert.Equal(t, "/sign-in", v.get("/").Header.Get("Location"))
	}
}

// Reading writes nothing: a session is written when it begins and when something
// is put into it.
func TestReadingWritesNoSession(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	row := func() (data []byte) {
		require.NoError(t, h.store.DB().QueryRow("SELECT data FROM sessions ORDER BY expiry DESC LIMIT 1").Scan(&data))
		return data
	}
	before := row()
	var changes int
	require.NoError(t, h.store.DB().QueryRow("PRAGMA data_version").Scan(&changes))
	for range 5 {
		assert.Equal(t, http.StatusOK, v.get("/songs").StatusCode)
	}
	var after int
	require.NoError(t, h.store.DB().QueryRow("PRAGMA data_version").Scan(&after))
	assert.Equal(t, before, row())
	var tokens []string
	rows, err := h.store.DB().Query("SELECT token FROM sessions")
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var token string
		require.NoError(t, rows.Scan(&token))
		tokens = append(tokens, token)
	}
	site, _ := url.Parse(h.http.URL)
	for _, c := range v.client.Jar.Cookies(site) {
		assert.NotContains(t, tokens, c.Value, "only a hash is kept")
	}
}

// A stranger who tries passwords locks nobody out who has signed in in their
// browser before, and the answer says when to try again.
func TestAStrangerLocksNobodyOut(t *testing.T) {
	h := openDemo(t)
	marit := h.marit()
	marit.post("/sign-out", nil)
	stranger := h.visitor()
	stranger.get("/sign-in")
	var last answer
	for range 20 {
		last = stranger.post("/sign-in", url.Values{"email": {demo.Email}, "password": {"a guess"}})
	}
	assert.Equal(t, http.StatusTooManyRequests, last.StatusCode)
	seconds, err := strconv.Atoi(last.Header.Get("Retry-After"))
	require.NoError(t, err)
	assert.InDelta(t, 25, seconds, 5)
	assert.Contains(t, last.body, fmt.Sprintf("Try again in %d seconds", seconds))
	assert.Empty(t, last.Header.Get("X-RateLimit-Remaining"), "how many are left is nobody's business")
	marit.get("/sign-in")
	a := marit.post("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	assert.Equal(t, http.StatusSeeOther, a.StatusCode, "a known browser has tries of its own")
}

// A lost password is set by a code from the list, once.
func TestRecoveryCodes(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/settings/codes", url.Values{"old": {"wrong"}}).StatusCode)
	require.Equal(t, "/settings/codes", v.post("/settings/codes", url.Values{"old": {demo.Password}}).Header.Get("Location"))
	codes := regexp.MustCompile(`<code>([2-9a-z-]{19})</code>`).FindAllStringSubmatch(v.get("/settings/codes").body, -1)
	require.Len(t, codes, 8)
	assert.NotContains(t, v.get("/settings/codes").body, codes[0][1], "shown once")

	lost := h.visitor()
	lost.get("/recover")
	form := url.Values{"email": {demo.Email}, "code": {"2222-3333-4444-5555"}, "new": {"remembered again"}}
	assert.Equal(t, http.StatusUnprocessableEntity, lost.post("/recover", form).StatusCode)
	form.Set("code", strings.ToUpper(strings.ReplaceAll(codes[3][1], "-", " ")))
	form.Set("new", "short")
	assert.Equal(t, http.StatusUnprocessableEntity, lost.post("/recover", form).StatusCode)
	form.Set("new", "remembered again")
	assert.Equal(t, "/", lost.post("/recover", form).Header.Get("Location"))
	assert.Equal(t, http.StatusOK, lost.get("/").StatusCode)
	assert.Equal(t, "/sign-in", v.get("/").Header.Get("Location"), "every other session has ended")
	assert.Contains(t, lost.get("/settings").body, "7 codes are left")
	again := h.visitor()
	again.get("/recover")
	assert.Equal(t, http.StatusUnprocessableEntity, again.post("/recover", form).StatusCode, "used up")
	h.signIn(demo.Email, "remembered again")
}

func TestChangeOfEmail(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/settings/email", url.Values{"email": {"new@millrace.example"}, "old": {"wrong"}}).StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/settings/email", url.Values{"email": {"nothing"}, "old": {demo.Password}}).StatusCode)
	assert.Equal(t, "/settings", v.post("/settings/email", url.Values{"email": {"new@millrace.example"}, "old": {demo.Password}}).Header.Get("Location"))
	h.signIn("new@millrace.example", demo.Password)
}

// However many set up at once, there is one studio.
func TestTwoSetUpsMakeOneStudio(t *testing.T) {
	h := open(t)
	var wait sync.WaitGroup
	for _, name := range []string{"one", "two", "three", "four"} {
		v := h.visitor()
		v.get("/set-up")
		wait.Go(func() {
			v.post("/set-up", url.Values{"name": {name}, "studio": {name}, "email": {name + "@attic.example"}, "password": {"long enough now"}})
		})
	}
	wait.Wait()
	var studios int
	require.NoError(t, h.store.DB().QueryRow("SELECT count(*) FROM studios").Scan(&studios))
	assert.Equal(t, 1, studios)
}

// A link logs as often as a person can.
func TestALinkLogsAtAPersonsPace(t *testing.T) {
	h := openDemo(t)
	token, _ := h.link("Saskia")
	v := h.visitor()
	refused := 0
	for range 200 {
		a := v.post("/s/"+token+"/entries", url.Values{"assignment": {"1"}})
		if a.StatusCode == http.StatusTooManyRequests {
			refused++
			assert.NotEmpty(t, a.Header.Get("Retry-After"))
		}
	}
	assert.InDelta(t, 80, refused, 2)
}
