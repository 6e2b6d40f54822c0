package web_test

import (
	"io"
	"net/http"
	"net/http/httptest"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/store"
)

// takeIn sends a file that is to be taken in, and gives the page that shows it.
func (v *visitor) takeIn(name, data string) (page answer, thing string) {
	v.get("/settings")
	at := v.drop("/settings/return", name, []byte(data)).Header.Get("Location")
	require.True(v.h.t, strings.HasPrefix(at, "/settings/return/"), at)
	return v.get(at), number(at)
}

// cellar is another studio, with nobody in it.
func (h *house) cellar() *visitor {
	_, err := h.store.AddStudio(h.t.Context(), "Cellar", store.Teacher{Name: "Bo", Email: "bo@cellar.example", Password: account.Hash("long enough too")}, store.At(noon))
	require.NoError(h.t, err)
	return h.signIn("bo@cellar.example", "long enough too")
}

// A studio's tables go out, and students and practice come in by them; the same table twice
// adds nothing twice.
func TestTables(t *testing.T) {
	_, v, _ := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", url.Values{"part": {"A"}, "rung": {"one-finger"}}).Header.Get("Location")
	pia := v.added("Pia", "2", "14:00")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	students := v.get("/settings/students.csv")
	assert.Equal(t, "text/csv; charset=utf-8", students.Header.Get("Content-Type"))
	assert.Contains(t, students.body, "Pia,Tuesday,14:00")
	assert.Contains(t, v.get("/settings/lessons.csv").body, "A: one-finger")
	assert.Contains(t, v.get("/settings/timetable.ics").body, "SUMMARY:Pia")

	page, thing := v.takeIn("students.csv", "Name;Lesson day;Minutes a day;shoes\nBo;fri;20;38\nÅse;;;\n")
	assert.Contains(t, page.body, "<li>Bo</li>")
	assert.Contains(t, page.body, "left out: shoes")
	assert.Equal(t, "/students", v.post("/settings/take-in", url.Values{"thing": {thing}}).Header.Get("Location"))
	assert.Contains(t, v.get("/settings/students.csv").body, "Bo,Friday")
	page, thing = v.takeIn("students.csv", "name\nBo\n")
	assert.Contains(t, page.body, "Bo is there already")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/settings/take-in", url.Values{"thing": {thing}}).StatusCode)

	name := strings.Split(strings.Split(v.get("/settings/lessons.csv").body, "\n")[1], ",")[0]
	table := "student,lesson,part,rung,tempo,clean passes,minutes,practised\nPia," + name + ",A,one-finger,80,3,10,2026-03-18 17:00\n"
	for range 2 {
		page, thing = v.takeIn("practice.csv", table)
		assert.Contains(t, page.body, "<li>Pia: 1</li>")
		v.post("/settings/take-in", url.Values{"thing": {thing}})
	}
	assert.Equal(t, 1, strings.Count(v.get("/settings/practice.csv").body, "Pia,"))
	page, _ = v.takeIn("practice.csv", strings.Replace(table, "Pia", "Zoe", 1))
	assert.Contains(t, page.body, "there is no student")
}

// An export comes back whole into an empty studio of the same house, or is refused with a
// list; what one studio is about to take in no other sees.
func TestReturn(t *testing.T) {
	h, v, _ := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", url.Values{"part": {"A"}, "rung": {"one-finger"}}).Header.Get("Location")
	pia := v.added("Pia", "2", "14:00")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	export := v.get("/settings/export").body
	one := v.get(pia + "/export").body

	page, _ := v.takeIn("studio.json", export)
	assert.Contains(t, page.body, "only taken into one that is empty")
	bo := h.cellar()
	page, thing := bo.takeIn("studio.json", export)
	assert.Contains(t, page.body, "the studio Attic")
	assert.Equal(t, http.StatusNotFound, v.get("/settings/return/"+thing).StatusCode)
	assert.Equal(t, http.StatusNotFound, v.post("/settings/take-in", url.Values{"thing": {thing}}).StatusCode)
	bo.post("/settings/take-in", url.Values{"thing": {thing}})
	assert.Contains(t, bo.get("/students").body, "Pia")
	assert.Contains(t, bo.get("/songs").body, "Riff")

	page, thing = bo.takeIn("pia.json", one)
	assert.Contains(t, page.body, "the student Pia")
	bo.post("/settings/take-in", url.Values{"thing": {thing}})
	assert.Equal(t, 2, strings.Count(bo.get("/settings/students.csv").body, "Pia,"))
	assert.Equal(t, 1, strings.Count(bo.get("/songs").body, `class="name"`), "her song is there already")

	files := unpacked(t, export)
	changed := func(from, to string) string {
		other := slices.Clone(files)
		for i := range other {
			other[i] = strings.Replace(other[i], from, to, 1)
		}
		require.NotEqual(t, files, other, from)
		return packed(t, other)
	}
	for data, want := range map[string]string{
		`{"songs":[]}`: "neither an export of a studio nor of a student", "{": "neither an export", "PK\x03\x04 and then nothing": "neither an export",
		changed(`"reach_mm":100`, `"reach_mm":9000`):        "the reach in mm must be a number from 30 to 250",
		changed(`"name":"Pia"`, `"name":["Pia"]`):           "students, row 1",
		changed(`"rung":"one-finger"`, `"rung":"two-nose"`): "is no rung",
		changed(`"target_tempo":100`, `"target_tempo":1e9`): "its tempo",
	} {
		page, _ = bo.takeIn("odd.json", data)
		assert.Contains(t, strings.ToLower(page.body), strings.ToLower(want))
		assert.NotContains(t, page.body, `action="/settings/take-in"`)
	}
}

// counter counts what is read of a body.
type counter struct {
	io.Reader
	read int
}

func (c *counter) Read(b []byte) (int, error) {
	n, err := c.Reader.Read(b)
	c.read += n
	return n, err
}

// Of what somebody sends who is not signed in, nothing is read.
func TestOfStrangersNothingIsRead(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	for _, to := range []string{"/settings/return", "/songs/bring", "/songs"} {
		body := &counter{Reader: strings.NewReader("--x\r\nContent-Disposition: form-data; name=\"file\"; filename=\"a\"\r\n\r\n" + strings.Repeat("a", 1<<19) + "\r\n--x--\r\n")}
		r := httptest.NewRequest(http.MethodPost, to, body)
		r.Header.Set("Content-Type", "multipart/form-data; boundary=x")
		w := httptest.NewRecorder()
		h.server.ServeHTTP(w, r)
		assert.Equal(t, http.StatusUnauthorized, w.Code, to)
		assert.Zero(t, body.read, to)
	}
}

// What arrives broken is answered, and is not taken for a fault of this program.
func TestWhatArrivesBroken(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	whole := "--x\r\nContent-Disposition: form-data; name=\"_csrf\"\r\n\r\n" + v.csrf + "\r\n--x\r\n"
	for _, to := range []string{"/songs", "/settings/return", "/songs/bring", "/students/2", "/settings/take-in"} {
		for _, kind := range []string{"multipart/form-data", "multipart/form-data; boundary=x", "multipart/form-data; boundary=" + strings.Repeat("a", 200), "application/x-www-form-urlencoded", "application/json", "", "?"} {
			for _, body := range []string{"", "--x", whole + "garbage", whole + "Content-Disposition: form-data; name=\"file\"; filename=\"a\"\r\n\r\nPK", "%zz=%&;", "\x00\xff"} {
				r, err := http.NewRequest(http.MethodPost, h.http.URL+to, strings.NewReader(body))
				require.NoError(t, err)
				r.Header.Set("Content-Type", kind)
				r.Header.Set("X-CSRF-Token", v.csrf)
				res, err := v.client.Do(r)
				require.NoError(t, err)
				res.Body.Close()
				assert.Less(t, res.StatusCode, 500, "%s as %q: %q", to, kind, body)
				assert.GreaterOrEqual(t, res.StatusCode, 400, "%s as %q: %q", to, kind, body)
			}
		}
	}
}
