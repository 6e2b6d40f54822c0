package web_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/demo"
	"valleyside/store"
	"valleyside/studio"
	"valleyside/web"
)

var noon = time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)

// house is a server on a database of its own.
type house struct {
	t      testing.TB
	store  *store.Store
	server *web.Server
	http   *httptest.Server
}

func open(t testing.TB) *house {
	st, err := store.Open(context.Background(), filepath.Join(t.TempDir(), "test.db"))
	require.NoError(t, err)
	s, err := web.New(web.Config{Store: st, Now: func() time.Time { return noon }})
	require.NoError(t, err)
	h := &house{t: t, store: st, server: s, http: httptest.NewServer(s)}
	t.Cleanup(func() { h.http.Close(); s.Close(); st.Close() })
	return h
}

func openDemo(t testing.TB) *house {
	h := open(t)
	require.NoError(t, demo.Fill(context.Background(), h.store, noon))
	return h
}

// visitor is a browser without a screen: it keeps cookies and does not follow
// redirects.
type visitor struct {
	h      *house
	client *http.Client
	csrf   string
}

func (h *house) visitor() *visitor {
	jar, _ := cookiejar.New(nil)
	return &visitor{h: h, client: &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

type answer struct {
	*http.Response
	body string
}

func (v *visitor) do(method, path string, form url.Values) answer {
	var body *strings.Reader
	if form == nil {
		body = strings.NewReader("")
	} else {
		body = strings.NewReader(form.Encode())
	}
	r, err := http.NewRequest(method, v.h.http.URL+path, body)
	require.NoError(v.h.t, err)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	}
	res, err := v.client.Do(r)
	require.NoError(v.h.t, err)
	defer res.Body.Close()
	var b bytes.Buffer
	_, err = b.ReadFrom(res.Body)
	require.NoError(v.h.t, err)
	a := answer{res, b.String()}
	if found := regexp.MustCompile(`name="csrf" content="([^"]+)"`).FindStringSubmatch(a.body); found != nil {
		v.csrf = found[1]
	}
	return a
}

func (v *visitor) get(path string) answer { return v.do("GET", path, nil) }

// post sends a form with the token of the last page.
func (v *visitor) post(path string, form url.Values) answer {
	if form == nil {
		form = url.Values{}
	}
	if v.csrf != "" {
		form.Set("_csrf", v.csrf)
	}
	return v.do("POST", path, form)
}

// signIn signs in and loads a page, so that the visitor has a token.
func (h *house) signIn(email, password string) *visitor {
	v := h.visitor()
	v.get("/sign-in")
	a := v.post("/sign-in", url.Values{"email": {email}, "password": {password}})
	require.Equal(h.t, http.StatusSeeOther, a.StatusCode, a.body)
	require.Equal(h.t, http.StatusOK, v.get("/").StatusCode)
	return v
}

func (h *house) marit() *visitor { return h.signIn(demo.Email, demo.Password) }

// studioOfDemo is the id of the demo's studio.
const studioOfDemo = 1

// link gives a student of the demo a link.
func (h *house) link(name string) (token string, student store.Student) {
	students, err := h.store.Students(context.Background(), studioOfDemo)
	require.NoError(h.t, err)
	for _, st := range students {
		if st.Name == name {
			token, err := h.store.AddLink(context.Background(), studioOfDemo, st.ID, "", store.At(noon))
			require.NoError(h.t, err)
			return token, st
		}
	}
	require.Fail(h.t, "no student "+name)
	return "", store.Student{}
}

// addresses fills the routes with rows of the demo: the first song, lesson
// and so on.
func (h *house) addresses(token string) map[string]string {
	filled := map[string]string{}
	for _, r := range h.server.Router().Routes() {
		path := r.Path
		for name, value := range map[string]string{":token": token, ":song": "1", ":save": "1", ":lesson": "1", ":student": "1", ":assignment": "1", ":entry": "1"} {
			path = strings.ReplaceAll(path, name, value)
		}
		if r.Method == echo.RouteNotFound {
			continue // answers what no route answers
		}
		filled[r.Method+" "+r.Path] = path
	}
	return filled
}

func (h *house) everything(studio int64) string {
	var b bytes.Buffer
	require.NoError(h.t, h.store.Export(context.Background(), studio, &b))
	return b.String()
}

// What is said to everybody. Everything else is behind a session or a link.
var public = map[string]bool{"GET /static/*": true, "GET /worker.js": true, "GET /sign-in": true, "POST /sign-in": true, "GET /set-up": true, "GET /recover": true, "POST /recover": true, "POST /set-up": true}

// Every registered route, asked without a session, with another studio's
// session and with a student's link: nothing of the studio is in the answer,
// and nothing in it changes.
func TestNothingLeaks(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	ctx := context.Background()
	_, err := h.store.AddStudio(ctx, "Elsewhere", store.Teacher{Name: "Other", Email: "other@elsewhere.example", Password: account.Hash("another-password")}, store.At(noon))
	require.NoError(t, err)
	saskia, _ := h.link("Saskia")
	names := []string{"Odalys", "Bram", "Yuna", "Teodor", "Kofi", "Rosalind", "Weir Gate", "Slate Roof", "Copper Kettle", "marit@millrace"}
	visitors := map[string]*visitor{
		"nobody":         h.visitor(),
		"another studio": h.signIn("other@elsewhere.example", "another-password"),
		"a student":      h.visitor(),
	}
	visitors["nobody"].get("/sign-in")
	require.Equal(t, http.StatusOK, visitors["a student"].get("/s/"+saskia).StatusCode)
	before := h.everything(studioOfDemo)
	routes := h.addresses("0123456789abcdefABCDEF")
	require.Greater(t, len(routes), 35)
	for route, path := range routes {
		if public[route] {
			continue
		}
		method, _, _ := strings.Cut(route, " ")
		for who, v := range visitors {
			if route == "POST /sign-out" && who == "another studio" {
				continue // it would only end their own session
			}
			var a answer
			if method == "POST" {
				a = v.post(path, url.Values{"name": {"Changed"}, "title": {"Changed"}, "sheet": {"title: Changed\n"}, "tempo": {"100"}, "reach": {"100"},
					"scale": {"648"}, "nps": {"5"}, "strings": {"E A D G B e"}, "student": {"1"}, "assignment": {"1"}, "part": {"Tune"},
					"clean": {"1"}, "minutes": {"5"}, "old": {"x"}, "new": {"x"}})
			} else {
				a = v.do(method, path, nil)
			}
			for _, name := range names {
				assert.NotRegexp(t, `(^|[^A-Za-z0-9])`+name, a.body, "%s as %s", route, who) // a key may have those letters in it by chance
			}
			own := who == "another studio" && !strings.Contains(route, ":")
			if !own {
				assert.Contains(t, []int{http.StatusSeeOther, http.StatusBadRequest, http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound}, a.StatusCode, "%s as %s", route, who)
				if a.StatusCode == http.StatusSeeOther {
					assert.Equal(t, "/sign-in", a.Header.Get("Location"), "%s as %s", route, who)
				}
			}
		}
	}
	assert.Equal(t, before, h.everything(studioOfDemo), "nothing has changed")
}

// A student's link gives that student's page and nothing of anybody else.
func TestStudentsSeeOnlyTheirOwn(t *testing.T) {
	h := openDemo(t)
	token, saskia := h.link("Saskia")
	v := h.visitor()
	page := v.get("/s/" + token)
	require.Equal(t, http.StatusOK, page.StatusCode)
	assert.Contains(t, page.body, "Saskia")
	for _, other := range []string{"Bram", "Odalys", "Slate Roof", "marit@millrace", "/songs", "/students"} {
		assert.NotContains(t, page.body, other)
	}
	before := h.everything(studioOfDemo)
	// Assignment 1 is another student's.
	a := v.post("/s/"+token+"/entries", url.Values{"assignment": {"1"}, "part": {"Tune"}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"5"}})
	assert.Equal(t, http.StatusNotFound, a.StatusCode)
	assert.Equal(t, before, h.everything(studioOfDemo))
	fresh, err := h.store.AddLink(context.Background(), studioOfDemo, saskia.ID, "", store.At(noon))
	require.NoError(t, err)
	assert.Equal(t, http.StatusOK, v.get("/s/"+token).StatusCode, "one more link")
	assert.Equal(t, http.StatusOK, v.get("/s/"+fresh).StatusCode)
	links, err := h.store.LinksOf(context.Background(), studioOfDemo, saskia.ID)
	require.NoError(t, err)
	require.NoError(t, h.store.EndLink(context.Background(), studioOfDemo, saskia.ID, links[1].ID))
	assert.Equal(t, http.StatusNotFound, v.get("/s/"+token).StatusCode, "is ended alone")
	require.NoError(t, h.store.DeleteStudent(context.Background(), studioOfDemo, saskia.ID, store.At(noon)))
	assert.Equal(t, http.StatusNotFound, v.get("/s/"+fresh).StatusCode, "and so does deleting the student")
}

func TestEveryChangeNeedsItsToken(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	token, _ := h.link("Saskia")
	before := h.everything(studioOfDemo)
	for route, path := range h.addresses(token) {
		if method, _, _ := strings.Cut(route, " "); method != "POST" {
			continue
		}
		if strings.Contains(route, "/s/:token") { // no token, but nothing from elsewhere either
			for header, value := range map[string]string{"Sec-Fetch-Site": "cross-site", "Origin": "https://elsewhere.example"} {
				r, _ := http.NewRequest("POST", h.http.URL+path, strings.NewReader("assignment=1"))
				r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
				r.Header.Set(header, value)
				res, err := v.client.Do(r)
				require.NoError(t, err)
				res.Body.Close()
				assert.Equal(t, http.StatusForbidden, res.StatusCode, "%s: %s", header, value)
			}
			continue
		}
		for _, csrf := range []string{"", "wrong"} {
			a := v.do("POST", path, url.Values{"_csrf": {csrf}, "name": {"Changed"}, "sheet": {"title: Changed"}, "tempo": {"90"}})
			assert.Contains(t, []int{http.StatusForbidden, http.StatusBadRequest}, a.StatusCode, "%s with %q", route, csrf)
		}
	}
	r, _ := http.NewRequest("POST", h.http.URL+"/songs", strings.NewReader(url.Values{"title": {"X"}, "_csrf": {v.csrf}}.Encode()))
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	res, err := v.client.Do(r)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, http.StatusForbidden, res.StatusCode, "from another site not even with it")
	assert.Equal(t, before, h.everything(studioOfDemo))
}

// Every page of the demo is served, with a policy that it keeps: no style or
// script stands in the page itself.
func TestEveryPage(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	token, saskia := h.link("Saskia")
	given, err := h.store.AssignmentsOf(t.Context(), studioOfDemo, saskia.ID)
	require.NoError(t, err)
	inline := regexp.MustCompile(`(?i)\sstyle=|<style|<script(?:>|[^>]*[^r]>\S)|\son[a-z]+="|javascript:`)
	for route, path := range h.addresses(token) {
		if method, _, _ := strings.Cut(route, " "); method != "GET" || route == "GET /static/*" {
			continue
		}
		if strings.Contains(route, ":thing") {
			path = v.post(strings.TrimSuffix(strings.TrimPrefix(route, "GET "), "/:thing"), url.Values{"text": {"title: Brought\n\nA:\n| 0A 3A |\n"}}).Header.Get("Location")
			if path == "" { // only a file is taken in there
				path = v.drop("/settings/return", "students.csv", []byte("name\nZoe\n")).Header.Get("Location")
			}
		}
		if strings.Contains(route, "/calendar/:token") {
			secret, err := h.store.SetCalendar(t.Context(), store.Calendar{StudioID: studioOfDemo})
			require.NoError(t, err)
			path = "/calendar/" + secret + ".ics"
		}
		if strings.Contains(route, "/s/:token/music") {
			require.Equal(t, http.StatusNotFound, v.get(path).StatusCode, "somebody else's")
			path = fmt.Sprintf("/s/%s/music/%d", token, given[0].ID)
		}
		a := v.get(path)
		if a.StatusCode == http.StatusSeeOther {
			continue
		}
		assert.Equal(t, http.StatusOK, a.StatusCode, route)
		policy := a.Header.Get("Content-Security-Policy")
		assert.NotContains(t, policy, "unsafe")
		assert.Contains(t, policy, "default-src 'none'")
		assert.NotRegexp(t, inline, a.body, route)
		assert.NotContains(t, a.body, "ZgotmplZ", route)
	}
	assert.Equal(t, http.StatusNotFound, v.get("/nowhere").StatusCode)
	assert.Equal(t, http.StatusNotFound, v.get("/songs/999").StatusCode)
	assert.Equal(t, http.StatusNotFound, v.get("/songs/x").StatusCode)
	assert.Equal(t, http.StatusNotFound, v.get("/static/../web.go").StatusCode)
}

func TestSignIn(t *testing.T) {
	h := openDemo(t)
	v := h.visitor()
	v.get("/sign-in")
	a := v.post("/sign-in", url.Values{"email": {demo.Email}, "password": {"wrong"}})
	assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode)
	unknown := v.post("/sign-in", url.Values{"email": {"nobody@millrace.example"}, "password": {"wrong"}})
	assert.Equal(t, a.StatusCode, unknown.StatusCode)
	assert.Contains(t, unknown.body, "do not belong together", "an unknown address gets the same answer")
	for range 8 {
		a = v.post("/sign-in", url.Values{"email": {demo.Email}, "password": {"wrong"}})
	}
	assert.Equal(t, http.StatusTooManyRequests, a.StatusCode)
	a = v.post("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	assert.Equal(t, http.StatusTooManyRequests, a.StatusCode, "and the right password has to wait as well")
}

func TestSessionCookie(t *testing.T) {
	h := openDemo(t)
	v := h.visitor()
	v.get("/sign-in")
	a := v.post("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	cookies := map[string]*http.Cookie{}
	for _, c := range a.Cookies() {
		cookies[c.Name] = c
	}
	require.NotNil(t, cookies["valleyside"])
	assert.True(t, cookies["valleyside"].HttpOnly)
	assert.Equal(t, http.SameSiteLaxMode, cookies["valleyside"].SameSite)
	assert.Equal(t, http.StatusOK, v.get("/").StatusCode)
	assert.Equal(t, http.StatusSeeOther, v.post("/sign-out", nil).StatusCode)
	assert.Equal(t, http.StatusSeeOther, v.get("/").StatusCode, "signed out")
}

func TestSetUp(t *testing.T) {
	h := open(t)
	v := h.visitor()
	assert.Equal(t, "/set-up", v.get("/").Header.Get("Location"))
	v.get("/set-up")
	form := url.Values{"name": {"Ada"}, "studio": {"Attic"}, "email": {"ada@attic.example"}, "password": {"short"}}
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/set-up", form).StatusCode)
	form.Set("password", "long enough now")
	assert.Equal(t, "/settings/codes", v.post("/set-up", form).Header.Get("Location"))
	assert.Contains(t, v.get("/settings/codes").body, "They are shown only now")
	assert.Contains(t, v.get("/settings/codes").body, "8 codes left")
	assert.Contains(t, v.get("/").body, "Three steps to the first lesson")
	assert.Contains(t, v.get("/songs").body, "No songs yet")
	assert.Contains(t, v.get("/students").body, "No students yet")
	again := h.visitor()
	assert.Equal(t, "/sign-in", again.get("/set-up").Header.Get("Location"), "only the first visit sets up")
	h.signIn("ada@attic.example", "long enough now")
}

const riff = "title: Riff\ntempo: 100\nA:\n| 0A - 7A - |\n"

// A second player's line has rungs, pins, a lesson and paper of its own.
func TestTheSecondPlayer(t *testing.T) {
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	song := v.post("/songs", url.Values{"title": {"Two"}}).Header.Get("Location")
	require.Equal(t, http.StatusSeeOther, v.post(song, url.Values{"sheet": {"title: Two\n\nA:\n| A5 A5 A5 A5 F5 F5 F5 F5 |\nlead | 5G - 7G - 5B - - - |\n\nB:\n| E5 - - - |\n"}}).StatusCode)
	rungs := v.get(song + "/rungs?part=A").body
	assert.Contains(t, rungs, `<option >lead</option>`)
	lead := v.get(song + "/rungs?part=A&line=lead&rung=as-written").body
	assert.Contains(t, lead, `<option selected>lead</option>`)
	assert.Contains(t, lead, "A lead line: power chords")
	assert.Contains(t, lead, "The first line is left to the first player")
	assert.NotContains(t, v.get(song+"/rungs?part=B&line=lead").body, "selected>lead", "nobody else plays there")

	pin := url.Values{"part": {"A"}, "rung": {"one-finger"}, "query": {"part=A&line=lead"}, "pin": {"bar 1: string B"}}
	require.Equal(t, http.StatusSeeOther, v.post(song+"/rungs", pin).StatusCode)
	assert.Contains(t, v.get(song+"/rungs?part=A&line=lead&rung=one-finger").body, "1 pin")
	assert.NotContains(t, v.get(song+"/rungs?part=A&rung=one-finger").body, "1 pin", "the first one's is as it was")

	lesson := v.post(song+"/lessons", url.Values{"part": {"A"}, "rung": {"as-written"}, "line": {"lead"}}).Header.Get("Location")
	page := v.get(lesson).body
	assert.Contains(t, page, `<option selected>lead</option>`)
	paper := v.get(lesson + "/handout").body
	assert.Contains(t, paper, "5 on G")
	assert.Contains(t, paper, "first")
	require.Equal(t, http.StatusSeeOther, v.post(lesson, url.Values{"name": {"Two"}, "tempo": {"100"}, "rung 1": {"two-note"}, "player 1": {"drums"}, "rung 2": {""}}).StatusCode)
	assert.NotContains(t, v.get(lesson).body, `selected>lead`, "a player whom the part does not have is the first one")
}

// The whole way of a teacher, without a browser.
func TestFromSheetToLoggedPractice(t *testing.T) {
	h := open(t)
	ctx := context.Background()
	home, err := h.store.AddStudio(ctx, "Attic", store.Teacher{Name: "Ada", Email: "ada@attic.example", Password: account.Hash("long enough now")}, store.At(noon))
	require.NoError(t, err)
	v := h.signIn("ada@attic.example", "long enough now")

	song := v.post("/songs", url.Values{"title": {"Riff"}}).Header.Get("Location")
	require.Regexp(t, `^/songs/\d+$`, song)
	bad := v.post("/songs/preview", url.Values{"sheet": {"title: Riff\nA:\n| 0A 99A |\n"}})
	assert.Contains(t, bad.body, "fret 99 is off the neck")
	assert.Contains(t, bad.body, "Line 3, 6")
	assert.Equal(t, http.StatusNoContent, v.post(song+"/draft", url.Values{"sheet": {"title: Half"}}).StatusCode)
	assert.Contains(t, v.get(song).body, "title: Half", "a draft is there again")
	assert.Equal(t, http.StatusSeeOther, v.post(song, url.Values{"sheet": {strings.ReplaceAll(riff, "\n", "\r\n")}}).StatusCode)
	page := v.get(song).body
	assert.Contains(t, page, "| 0A - 7A - |")
	assert.NotContains(t, page, "title: Half", "saving ends the draft")

	rungs := v.get(song + "/rungs?part=A&rung=two-note")
	assert.Contains(t, rungs.body, "on the notes of the line")
	lesson := v.post(song+"/lessons", url.Values{"part": {"A"}, "rung": {"two-note"}}).Header.Get("Location")
	require.Regexp(t, `^/lessons/\d+$`, lesson)
	assert.Contains(t, v.get(lesson).body, "1 bar, 0:02 minutes")
	student := v.post("/students", url.Values{"name": {"Pia"}}).Header.Get("Location")
	number := strings.TrimPrefix(student, "/students/")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post(lesson+"/assign", nil).StatusCode)
	assert.Equal(t, student, v.post(lesson+"/assign", url.Values{"student": {number}}).Header.Get("Location"))

	require.Equal(t, student, v.post(student+"/links", url.Values{"name": {"phone"}}).Header.Get("Location"), "shown after a redirect")
	linkPage := v.get(student)
	link := regexp.MustCompile(`/s/[\w-]{22}`).FindString(linkPage.body)
	require.NotEmpty(t, link)
	assert.Contains(t, linkPage.body, `class="qr"`)
	again := v.get(student)
	assert.NotContains(t, again.body, "/s/", "shown once")
	assert.Contains(t, again.body, "phone, made 20 Mar 2026")
	pia := h.visitor()
	own := pia.get(link)
	assert.Contains(t, own.body, "Try <b>60</b>")
	entry := url.Values{"assignment": {"1"}, "part": {"A"}, "tempo": {"72"}, "clean": {"3"}, "minutes": {"10"}, "word": {"fine <b>"}, "sent": {"once"}}
	for range 2 { // sent twice, logged once
		assert.Equal(t, http.StatusSeeOther, pia.post(link+"/entries", entry).StatusCode)
	}
	for field, value := range map[string]string{"tempo": "1", "clean": "-1", "minutes": "many", "part": "Z"} {
		wrong := url.Values{"assignment": {"1"}, "part": {"A"}, "tempo": {"72"}, "clean": {"3"}, "minutes": {"10"}}
		wrong.Set(field, value)
		assert.Equal(t, http.StatusUnprocessableEntity, pia.post(link+"/entries", wrong).StatusCode, field)
	}
	entries, err := h.store.EntriesOf(ctx, home, 1, 0, 0)
	require.NoError(t, err)
	require.Len(t, entries, 1)
	assert.Equal(t, arrange.TwoNote, entries[0].Rung)
	seen := v.get(student).body
	assert.Contains(t, seen, "3 clean passes at 72, 10 min")
	assert.Contains(t, seen, "fine &lt;b&gt;")
	assert.Contains(t, seen, "clean at 72: show it on another day")

	// The song changes; what was assigned stays until it is updated.
	v.post(song, url.Values{"sheet": {strings.Replace(riff, "7A", "5A", 1)}})
	assert.Contains(t, v.get(student).body, "The song has been changed since")
	assert.Contains(t, pia.get(link).body, "7 on A index and 9 on D ring", "E5, on the note that was 7A")
	assert.Equal(t, http.StatusSeeOther, v.post(student+"/assignments/1/update", nil).StatusCode)
	assert.NotContains(t, v.get(student).body, "The song has been changed since")
	assert.Contains(t, pia.get(link).body, "0 on D and 2 on G", "D5, on what is 5A now")
	assert.Contains(t, v.get(song+"/saves/2").body, "| 0A - 7A - |", "earlier saves are kept")

	// Deleting can be undone, and what was assigned outlives its song.
	v.post(song+"/delete", nil)
	assert.Contains(t, v.get("/songs").body, "Undo")
	assert.Equal(t, http.StatusOK, pia.get(link).StatusCode)
	assert.Contains(t, pia.get(link).body, "A")
	assert.Equal(t, song, v.post("/bin"+strings.Replace(song, "songs", "song", 1)+"/back", nil).Header.Get("Location"))
	assert.Equal(t, http.StatusOK, v.get(song).StatusCode)
}

// A teacher decides, and what is decided stays: on the page, in the lesson, and
// with the student once it is assigned.
func TestWaysArePinnedAndKept(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	const page = "/songs/11/rungs"
	query := "part=Opening&rung=one-finger&bar=1&at=0"
	first := v.get(page + "?" + query).body
	assert.Contains(t, first, "Instead")
	assert.Contains(t, first, "bar 1 at 0: shape x7xxxx", "the note under the cursor can be pinned as it is")
	form := func(more url.Values) url.Values {
		more.Set("part", "Opening")
		more.Set("rung", "one-finger")
		more.Set("query", query)
		return more
	}
	onD := regexp.MustCompile(`1 down: 2 on D \w+, &amp; up: 0 on D`)
	a := v.post(page, form(url.Values{"pin": {"bar 1: string D"}}))
	assert.Equal(t, http.StatusSeeOther, a.StatusCode)
	pinned := v.get(a.Header.Get("Location")).body
	assert.Contains(t, pinned, "bar 1: string D ×")
	assert.Regexp(t, onD, pinned, "bar 1 lies on the D string now")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post(page, form(url.Values{"pin": {"bar 1: nonsense"}})).StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, v.post(page, url.Values{"part": {"Opening"}, "rung": {"ladder"}}).StatusCode)

	v.post(page, form(url.Values{"pin": {"all: string e"}}))
	assert.Contains(t, v.get(page+"?"+query).body, "the e string does not have")
	v.post(page, form(url.Values{"unpin": {"all pins"}, "prefer": {"one-string"}, "rhythm": {"full"}}))
	both := v.get(page + "?" + query).body
	assert.NotContains(t, both, "does not have")
	assert.Contains(t, both, "ll of it lies on the E string")
	v.post(page, form(url.Values{"prefer": {"nearest"}, "pin": {"bar 1: string D"}}))

	lesson := v.post("/songs/11/lessons", url.Values{"part": {"Opening"}, "rung": {"one-finger"}}).Header.Get("Location")
	handout := v.get(lesson + "/handout").body
	assert.Regexp(t, onD, handout, "the handout has it")
	v.post(lesson+"/assign", url.Values{"student": {"9"}})
	given, err := h.store.AssignmentsOf(context.Background(), studioOfDemo, 9)
	require.NoError(t, err)
	assert.Equal(t, "rhythm full\nbar 1: string D", given[0].Parts[0].Way)
	v.post(page, form(url.Values{"unpin": {"all pins"}, "prefer": {"nearest"}, "rhythm": {"thin"}}))
	assert.NotRegexp(t, onD, v.get(lesson+"/handout").body)
	assert.Contains(t, v.get(lesson).body, "has an older one", "and the update is offered")
	for field, value := range map[string]string{"thicken": "accents", "places": "free"} {
		for _, back := range []string{value, "all", "typed"} {
			v.post(page, form(url.Values{field: {back}}))
		}
	}
	ways, err := h.store.WaysOf(context.Background(), studioOfDemo, 11)
	require.NoError(t, err)
	assert.Empty(t, ways)

	// A line of another program is kept, shown, and let go by the teacher alone.
	require.NoError(t, h.store.ChangeWay(context.Background(), studioOfDemo, 11, 1, "", "one-finger", func(string) (string, error) { return "bar 1: with the teeth", nil }))
	v.post(page, form(url.Values{"pin": {"bar 1: string D"}}))
	assert.Contains(t, v.get(page+"?"+query).body, "bar 1: with the teeth ×")
	v.post(page, form(url.Values{"unpin": {"all pins"}}))
	assert.Contains(t, v.get(page+"?"+query).body, "bar 1: with the teeth ×")
	v.post(page, form(url.Values{"unpin": {"bar 1: with the teeth"}}))
	assert.NotContains(t, v.get(page+"?"+query).body, "teeth")
}

// Every choice of hand, tempo and comparison gives a page.
func TestRungsForAnyHand(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	for _, query := range []string{"student=1", "student=x&tempo=9999", "hand=1&nobarre=1&nolittle=1&reach=30&scale=578&nps=0.5&picking=economy",
		"hand=1&picking=sideways&reach=nonsense", "rung=octave&with=one-finger", "rung=octave&with=octave&bar=99&at=1/3", "bar=2&at=", "show=&bar=3",
		"waspart=Rain&part=Riff&tempo=300&bar=9", "wasfor=1&student=2&reach=31"} {
		a := v.get("/songs/8/rungs?" + query)
		assert.Equal(t, http.StatusOK, a.StatusCode, query)
		assert.Contains(t, a.body, "Why, bar by bar", query)
		assert.NotContains(t, a.body, "reach=31", "another student brings their own hand")
	}
	assert.Contains(t, v.get("/songs/8/rungs?part=Rain&hand=1&reach=30&rung=two-note").body, "within a reach of 30 mm", "what cannot be held is said")
	assert.Contains(t, v.get("/songs/8/rungs?part=Hail&student=2&rung=one-finger").body, "rhythm thinned to what is comfortable")
}

func TestStudentsProfile(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	form := url.Values{"name": {"Odalys"}, "reach": {"70"}, "scale": {"578"}, "nps": {"3,5"}, "day": {"2"}, "time": {"15:30"}, "left": {"1"}, "acoustic": {"1"},
		"nobarre": {"1"}, "nolittle": {"1"}, "thumb": {"1"}, "picking": {"all-down"}, "new": {"bends", "barres"}}
	assert.Equal(t, "/students/1", v.post("/students/1", form).Header.Get("Location"))
	st, err := h.store.Student(context.Background(), studioOfDemo, 1)
	require.NoError(t, err)
	p := studio.Player(&st)
	assert.Equal(t, hand.Player{Reach: 70, Scale: 578, NotesPerSecond: 3.5, LeftHanded: true, Acoustic: true, NoBarre: true, NoLittle: true, Thumb: true,
		Picking: hand.AllDown, New: hand.Barres | hand.Bends}, p)
	form.Set("picking", "sideways")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/students/1", form).StatusCode)
	form.Set("picking", "economy")
	form["new"] = []string{"juggling"}
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/students/1", form).StatusCode)
}

func TestBodiesAreLimited(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	a := v.post("/songs/1", url.Values{"sheet": {strings.Repeat("x", 2<<20)}})
	assert.Equal(t, http.StatusRequestEntityTooLarge, a.StatusCode)
	a = v.post("/songs/1", url.Values{"sheet": {strings.Repeat("# long\n", 40_000)}})
	assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode)
	assert.Contains(t, a.body, "longer than 200 KB")
}

// The figure stands in docs/benchmarks.md.
func BenchmarkPages(b *testing.B) {
	h := openDemo(b)
	v := h.marit()
	token, _ := h.link("Saskia")
	jar := v.client.Jar.Cookies(must(url.Parse(h.http.URL)))
	for _, page := range []string{"/", "/songs", "/songs/1", "/songs/11/rungs", "/songs/6/chords", "/desk?symbol=C13", "/lessons/1", "/lessons/1/handout", "/students", "/students/2", "/settings", "/s/" + token} {
		name := strings.Replace(page, token, "link", 1)
		b.Run(name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				r := httptest.NewRequest("GET", page, nil)
				for _, c := range jar {
					r.AddCookie(c)
				}
				w := httptest.NewRecorder()
				h.server.ServeHTTP(w, r)
				if w.Code != http.StatusOK {
					b.Fatal(w.Code)
				}
			}
		})
	}
}

// Every page beside one that Echo sends as it is, of the same size: over HTTP, and
// compressed, each of the two in turn. Its share is the rate of the page by that of
// the fixed one.
func BenchmarkShareOfAFixedPage(b *testing.B) {
	h := openDemo(b)
	v := h.marit()
	token, _ := h.link("Saskia")
	for _, page := range []string{"/", "/songs", "/songs/1", "/songs/11/rungs", "/songs/6/chords", "/lessons/1", "/students", "/students/2", "/s/" + token} {
		b.Run(strings.Replace(page, token, "link", 1), func(b *testing.B) {
			fixed := echo.New()
			fixed.Use(middleware.Gzip())
			text := v.get(page).body
			fixed.GET("/", func(c *echo.Context) error { return c.HTML(http.StatusOK, text) })
			plain := httptest.NewServer(fixed)
			defer plain.Close()
			took := func(url string) time.Duration {
				begun := time.Now()
				res, err := v.client.Get(url)
				if err != nil {
					b.Fatal(err)
				}
				defer res.Body.Close()
				if n, err := io.Copy(io.Discard, res.Body); err != nil || res.StatusCode != http.StatusOK || n == 0 {
					b.Fatal(res.Status, err)
				}
				return time.Since(begun)
			}
			var ours, theirs time.Duration
			for b.Loop() {
				ours += took(h.http.URL + page)
				theirs += took(plain.URL)
			}
			b.ReportMetric(float64(theirs)/float64(ours), "share")
			b.ReportMetric(float64(ours.Microseconds())/float64(b.N)/1000, "ms/page")
		})
	}
}

// What a key in the sheet takes in the server: the part that is typed in is worked out
// anew, the reader has the others.
func BenchmarkPreview(b *testing.B) {
	h := openDemo(b)
	v := h.marit()
	jar := v.client.Jar.Cookies(must(url.Parse(h.http.URL)))
	ask := func(sheet, has string) string {
		r := httptest.NewRequest("POST", "/songs/preview", strings.NewReader(url.Values{"sheet": {sheet}, "has": {has}, "_csrf": {v.csrf}}.Encode()))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		for _, c := range jar {
			r.AddCookie(c)
		}
		w := httptest.NewRecorder()
		h.server.ServeHTTP(w, r)
		if w.Code != http.StatusOK {
			b.Fatal(w.Code, w.Body.String())
		}
		return w.Body.String()
	}
	for _, size := range []struct{ bars, inPart int }{{100, 10}, {100, 100}, {400, 10}, {400, 400}} {
		var text strings.Builder
		text.WriteString("title: Long\nkey: E minor\n")
		r := rand.New(rand.NewPCG(3, 4))
		for i := range size.bars / size.inPart {
			fmt.Fprintf(&text, "Part %d:\n", i+1)
			anyBars(&text, r, size.inPart)
		}
		sheet := text.String()
		b.Run(fmt.Sprintf("bars=%d/part=%d", size.bars, size.inPart), func(b *testing.B) {
			var has []string
			for _, found := range regexp.MustCompile(`data-drawn="([^"]+)"`).FindAllStringSubmatch(ask(sheet, ""), -1) {
				has = append(has, found[1])
			}
			middle := strings.Index(sheet[len(sheet)/2:], "\n|") + len(sheet)/2 + 2
			sent, key := 0, 0
			for b.Loop() {
				key++
				sent = len(ask(fmt.Sprintf("%s (%dA %dA)%s", sheet[:middle], key%12, key/12%12, sheet[middle:]), strings.Join(has, " ")))
			}
			b.ReportMetric(float64(sent), "B-sent/op")
		})
	}
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}
