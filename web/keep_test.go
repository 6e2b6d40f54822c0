package web_test

import (
	"fmt"
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/store"
	"valleyside/studio"
)

// undo is where the notice of a page takes back what was done.
func undo(t *testing.T, page string) string {
	t.Helper()
	m := regexp.MustCompile(`action="(/bin/changes/\d+/undo)"[^>]*>`).FindStringSubmatch(page)
	require.NotNil(t, m, "an undo")
	return m[1]
}

// Every change that a teacher makes of people, songs and lessons says what it did, can be taken
// back at once, and stands in the bin.
func TestEveryChangeHasItsWayBack(t *testing.T) {
	h, v, at := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	pia := v.added("Pia", "5", "14:00")
	bo := v.added("Bo", "-1", "")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	given, err := h.store.AssignmentsOf(t.Context(), at, 1)
	require.NoError(t, err)
	part := fmt.Sprint(given[0].ID, " ", given[0].Parts[0].PartID)
	log := url.Values{"of": {part}, "on": {noon.Format("2006-01-02")}, "tempo": {"80"}, "clean": {"2"}, "minutes": {"10"}, "word": {"fine"}}
	require.Equal(t, http.StatusSeeOther, v.post(pia+"/entries", log).StatusCode)
	v.get("/")
	state := func() string {
		var all []string
		for _, page := range []string{"/songs", "/songs?archived=1", "/lessons", "/lessons?archived=1", "/students", "/students?archived=1", pia, bo, song + "/about", "/timetable?week=2026-03-02"} {
			body := v.get(page).body
			body = regexp.MustCompile(`(?s)<div class="notice".*?</div>|name="_csrf" value="[^"]*"|<meta name="csrf" content="[^"]*">`).ReplaceAllString(body, "")
			all = append(all, body)
		}
		return strings.Join(all, "\n")
	}
	for name, change := range map[string]func() answer{
		"delete the song":     func() answer { return v.post(song+"/delete", nil) },
		"delete the lesson":   func() answer { return v.post(lesson+"/delete", nil) },
		"delete a student":    func() answer { return v.post(bo+"/delete", nil) },
		"put the song away":   func() answer { return v.post("/archive/song/"+number(song), nil) },
		"put the lesson away": func() answer { return v.post("/archive/lesson/"+number(lesson), nil) },
		"put a student away":  func() answer { return v.post("/archive/student/"+number(pia), nil) },
		"tags of a song":      func() answer { return v.post("/tags/song/"+number(song), url.Values{"tags": {"campfire, waltz"}}) },
		"groups of a student": func() answer { return v.post("/tags/student/"+number(pia), url.Values{"tags": {"Tuesday band"}}) },
		"save a student": func() answer {
			return v.post(pia, url.Values{"name": {"Pia B"}, "reach": {"90"}, "scale": {"648"}, "nps": {"4"}, "picking": {"alternate"}, "day": {"2"}, "time": {"9:00"}})
		},
		"assign":    func() answer { return v.post(lesson+"/assign", url.Values{"student": {number(bo)}}) },
		"finish":    func() answer { return v.post(pia+"/assignments/1/end", nil) },
		"copy":      func() answer { return v.post(pia+"/assignments/1/copy", url.Values{"to": {number(bo)}}) },
		"duplicate": func() answer { return v.post(lesson+"/duplicate", nil) },
		"log":       func() answer { return v.post(pia+"/entries", log) },
		"mend an entry": func() answer {
			return v.post(pia+"/entries/1", url.Values{"tempo": {"84"}, "clean": {"1"}, "minutes": {"7"}, "word": {"better"}})
		},
		"delete an entry": func() answer { return v.post(pia+"/entries/1/delete", nil) },
		"remove some days": func() answer {
			return v.post(pia+"/entries/delete", url.Values{"from": {"2026-01-01"}, "to": {"2026-12-31"}})
		},
		"settings": func() answer { return v.post("/settings", url.Values{"name": {"Loft"}, "strings": {"E A D G B e"}}) },
		"hand out": func() answer {
			return v.post(song+"/fit", url.Values{"student": {number(bo)}, "target " + number(bo): {"70"}})
		},
	} {
		before := state()
		a := change()
		require.Equal(t, http.StatusSeeOther, a.StatusCode, "%s: %s", name, a.body)
		page := v.get("/settings").body
		back := undo(t, page)
		if name != "settings" {
			require.NotEqual(t, before, state(), name)
		}
		require.Equal(t, "/students", v.post(back, url.Values{"back": {"/students"}}).Header.Get("Location"), name)
		again := v.get("/settings").body
		assert.Contains(t, again, "Taken back: ", name)
		assert.Equal(t, before, state(), name)
		bin := v.get("/bin").body
		assert.Contains(t, bin, "taken back", name)
		// Links of a deleted student stay ended, and nothing is taken back twice.
		assert.Equal(t, http.StatusConflict, v.post(back, nil).StatusCode, name)
	}
	for _, back := range []string{"//evil.example", "https://evil.example", "/\\evil.example", "x", ""} {
		v.post("/tags/song/"+number(song), url.Values{"tags": {"x" + fmt.Sprint(len(back))}, "back": {"/songs"}})
		assert.Equal(t, "/bin", v.post(undo(t, v.get("/songs").body), url.Values{"back": {back}}).Header.Get("Location"), back)
	}
	other := h.cellar()
	assert.Equal(t, http.StatusNotFound, other.post("/bin/changes/1/undo", nil).StatusCode)
	assert.Equal(t, http.StatusNotFound, other.post("/bin/changes/1/forget", nil).StatusCode)
	assert.Equal(t, http.StatusNotFound, other.post("/bin/song/1/back", nil).StatusCode)
	assert.Equal(t, http.StatusNotFound, other.post("/tags/song/1", url.Values{"tags": {"theirs"}}).StatusCode)
	assert.Equal(t, http.StatusNotFound, other.post("/archive/student/1", nil).StatusCode)
	assert.NotContains(t, other.get("/bin").body, "Taken back")
	assert.Contains(t, other.get("/find?q=pia").body, "Nothing has")
}

// What is deleted lies in the bin for thirty days: brought back or erased from there. What students
// have had is not erased.
func TestTheBin(t *testing.T) {
	h, v, at := room(t)
	had, alone := v.typed(riff), v.typed("title: Alone\n\nA:\n| 0A 3A |\n")
	lesson := v.post(had+"/lessons", nil).Header.Get("Location")
	pia := v.added("Pia", "5", "14:00")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	for _, path := range []string{had, alone, pia} {
		v.post(path+"/delete", nil)
	}
	page := v.get("/bin").body
	for _, what := range []string{"Alone", "Pia", "student has it or has had it", "Bring back"} {
		assert.Contains(t, page, what)
	}
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/bin/song/"+number(had)+"/erase", nil).StatusCode)
	assert.Equal(t, "/bin", v.post("/bin/song/"+number(alone)+"/erase", nil).Header.Get("Location"))
	assert.Equal(t, http.StatusNotFound, v.post("/bin/song/"+number(alone)+"/erase", nil).StatusCode)
	v.post("/bin/song/"+number(had)+"/back", nil)
	v.post(lesson+"/delete", nil)
	v.post(had+"/delete", nil)
	assert.Equal(t, lesson, v.post("/bin/lesson/"+number(lesson)+"/back", nil).Header.Get("Location"))
	assert.Equal(t, http.StatusOK, v.get(lesson).StatusCode, "its song is there with it")
	assert.Equal(t, pia, v.post("/bin/student/"+number(pia)+"/back", nil).Header.Get("Location"))
	assert.Equal(t, http.StatusOK, v.get(pia).StatusCode)
	assert.Equal(t, http.StatusNotFound, v.post("/bin/student/"+number(pia)+"/erase", nil).StatusCode, "who is there is not erased from the bin")
	assert.Equal(t, http.StatusNotFound, v.post("/bin/teacher/1/erase", nil).StatusCode)
	changes, err := h.store.Changes(t.Context(), at, 0, 0)
	require.NoError(t, err)
	require.Equal(t, "/bin", v.post(fmt.Sprintf("/bin/changes/%d/forget", changes[0].ID), nil).Header.Get("Location"))
	left, err := h.store.Changes(t.Context(), at, 0, 0)
	require.NoError(t, err)
	assert.Len(t, left, len(changes)-1)
}

// What is changed in views that say nothing of it stands in the bin all the same, each by itself:
// notes of an hour, what was logged in it, rungs and steps of a lesson, how a version is made.
func TestQuietChangesAreInTheBin(t *testing.T) {
	h, v, at := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	pia := v.added("Pia", "5", "14:00")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	take := func(what string) {
		changes, err := h.store.Changes(t.Context(), at, 0, 0)
		require.NoError(t, err)
		for _, c := range changes {
			if strings.Contains(c.What, what) && c.UndoneAt == 0 {
				require.Equal(t, http.StatusSeeOther, v.post(fmt.Sprintf("/bin/changes/%d/undo", c.ID), nil).StatusCode, what)
				return
			}
		}
		require.Fail(t, "not in the bin", "%s: %v", what, changes)
	}
	hour := func(action string, pairs ...string) {
		form := url.Values{"action": {action}}
		for i := 0; i < len(pairs); i += 2 {
			form.Set(pairs[i], pairs[i+1])
		}
		require.Equal(t, http.StatusSeeOther, v.post(pia+"/hour", form).StatusCode, action)
	}
	entries := func() int {
		list, err := h.store.EntriesOf(t.Context(), at, 1, 0, 0)
		require.NoError(t, err)
		return len(list)
	}
	before, err := h.store.Changes(t.Context(), at, 0, 0)
	require.NoError(t, err)
	hour("note", "note", "the first")
	hour("tick", "item", "1", "done", "1")
	hour("log", "item", "2", "tempo", "60", "clean", "3", "minutes", "5")
	require.Equal(t, 1, entries())
	hour("note", "note", "the second")
	hour("tick", "item", "1")
	after, err := h.store.Changes(t.Context(), at, 0, 0)
	require.NoError(t, err)
	assert.Len(t, after, len(before)+3, "what is ticked off is no change to take back")
	take("Noted: the lesson with Pia")
	assert.Contains(t, v.get(pia+"/hour").body, "the first", "ticks since are no matter")
	take("Logged: 3 clean passes")
	assert.Zero(t, entries())

	field := regexp.MustCompile(`name="(rung \d+)"`).FindStringSubmatch(v.get(lesson).body)[1]
	v.post(lesson, url.Values{"name": {"Other"}, "tempo": {"66"}, field: {"two-note"}})
	assert.Contains(t, v.get(lesson).body, "<h1>Other</h1>")
	take("Changed the lesson Other")
	assert.NotContains(t, v.get(lesson).body, "<h1>Other</h1>")
}

// A student's page has what is finished, with its name, its history and a way back; a copy goes to
// another one once.
func TestFinishedAndCopied(t *testing.T) {
	h, v, at := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	field := regexp.MustCompile(`name="(rung \d+)"`).FindStringSubmatch(v.get(lesson).body)[1]
	v.post(lesson, url.Values{"name": {"Slowly, by the window"}, "tempo": {"66"}, field: {"one-finger"}})
	pia, bo := v.added("Pia", "5", "14:00"), v.added("Bo", "-1", "")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	given, err := h.store.AssignmentsOf(t.Context(), at, 1)
	require.NoError(t, err)
	v.post(pia+"/entries", url.Values{"of": {fmt.Sprint(given[0].ID, " ", given[0].Parts[0].PartID)}, "on": {noon.Format("2006-01-02")}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"9"}})
	v.post(pia+"/assignments/1/end", nil)
	page := v.get(pia).body
	assert.Contains(t, page, "Finished")
	assert.Contains(t, page, "0 of 1 part learnt · 9 min")
	assert.Contains(t, page, "Slowly, by the window, A", "the entry keeps the name of its lesson")
	assert.NotContains(t, page, "an earlier lesson")
	v.post(pia+"/assignments/1/resume", nil)
	assert.NotContains(t, v.get(pia).body, `id="finished-h"`)

	assert.Equal(t, bo, v.post(pia+"/assignments/1/copy", url.Values{"to": {number(bo)}}).Header.Get("Location"))
	theirs, err := h.store.AssignmentsOf(t.Context(), at, 2)
	require.NoError(t, err)
	require.Len(t, theirs, 1)
	assert.Equal(t, given[0].Parts, theirs[0].Parts)
	assert.Equal(t, 66.0, theirs[0].TargetTempo)
	assert.NotEqual(t, given[0].LessonID, theirs[0].LessonID)
	again := v.post(pia+"/assignments/1/copy", url.Values{"to": {number(bo)}})
	assert.Equal(t, http.StatusUnprocessableEntity, again.StatusCode)
	assert.Contains(t, again.body, "Bo has this song already")
	about := v.get(song + "/about").body
	assert.Contains(t, about, "2 students, 9 minutes of practice")
	for name, form := range map[string]url.Values{
		"no part":       {"of": {"1 99"}, "on": {"2026-03-06"}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"9"}},
		"no lesson":     {"of": {"99 1"}, "on": {"2026-03-06"}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"9"}},
		"nothing":       {"of": {"x"}, "on": {"2026-03-06"}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"9"}},
		"tomorrow":      {"of": {"1 1"}, "on": {noon.AddDate(0, 0, 1).Format("2006-01-02")}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"9"}},
		"no day":        {"of": {"1 1"}, "on": {"soon"}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"9"}},
		"no tempo":      {"of": {"1 1"}, "on": {noon.Format("2006-01-02")}, "clean": {"1"}, "minutes": {"9"}},
		"another's":     {"of": {fmt.Sprint(theirs[0].ID, " 1")}, "on": {noon.Format("2006-01-02")}, "tempo": {"60"}, "clean": {"1"}, "minutes": {"9"}},
		"too many tags": {"tags": {strings.Repeat("a,b,c,d,e,f,g,h,i,j,k,l,m,n", 1)}},
	} {
		path := pia + "/entries"
		if form.Has("tags") {
			path = "/tags/song/" + number(song)
		}
		a := v.post(path, form)
		assert.True(t, a.StatusCode == http.StatusUnprocessableEntity || a.StatusCode == http.StatusNotFound, "%s: %d", name, a.StatusCode)
	}
	long := v.post("/tags/song/"+number(song), url.Values{"tags": {strings.Repeat("long ", 20)}})
	assert.Contains(t, long.body, "at most 40 letters")
}

// A wish goes from the student's page to the teacher, who sees the way; the answer goes back.
func TestWishes(t *testing.T) {
	h, v, at := room(t)
	v.typed("title: Easy\n\nA:\n| Em - - - G - - - |\n")
	v.typed("title: Far\n\nA:\n| Em G C D |\n")
	v.typed("title: Line\n\nA:\n| 0E 3E 5E 3E | 0A 3A 5A 3A |\n")
	pia := v.added("Pia", "5", "14:00")
	v.post(pia, url.Values{"name": {"Pia"}, "reach": {"100"}, "scale": {"648"}, "nps": {"5"}, "picking": {"alternate"}, "known": {"Em"}, "day": {"5"}, "time": {"14:00"}})
	require.NoError(t, studio.New(h.store, nil).Catch(t.Context(), at, nil))
	token, err := h.store.AddLink(t.Context(), at, 1, "", store.At(noon))
	require.NoError(t, err)
	p := h.visitor()
	for _, wish := range []string{"FAR", "Nobody knows it"} {
		require.Equal(t, http.StatusSeeOther, p.post("/s/"+token+"/words", url.Values{"word": {wish}, "wish": {"1"}, "sent": {wish}}).StatusCode)
	}
	assert.Contains(t, p.get("/s/"+token).body, "You wish for the song “FAR”")
	assert.Contains(t, v.get("/").body, "wishes for a song")
	assert.Contains(t, v.get(pia).body, "Songs that fit, 2 wishes")
	page := v.get(pia + "/songs").body
	assert.Contains(t, page, "The way to <b>Far</b>")
	assert.Regexp(t, `(?s)fit\?student=1">Easy</a>.*fit\?student=1">Far</a>`, page)
	assert.Contains(t, page, "one new thing: G 320003")
	assert.Contains(t, page, "No song of the studio is called so.")

	require.Equal(t, http.StatusSeeOther, v.post(pia+"/wishes/1", url.Values{"action": {"answer"}, "answer": {"soon!"}, "way": {"1"}}).StatusCode)
	own := p.get("/s/" + token).body
	assert.Contains(t, own, "The way there: <b>Easy (G 320003)</b>, then <b>FAR</b>")
	assert.Contains(t, own, "soon!")
	v.post(undo(t, v.get("/").body), nil)
	assert.NotContains(t, p.get("/s/"+token).body, "soon!", "taken back")
	require.Equal(t, http.StatusSeeOther, v.post(pia+"/wishes/2", url.Values{"action": {"song"}, "song": {"3"}}).StatusCode)
	assert.Contains(t, v.get(pia+"/songs").body, "<b>Line</b> can begin now")
	assert.Equal(t, http.StatusNotFound, v.post(pia+"/wishes/2", url.Values{"action": {"song"}, "song": {"99"}}).StatusCode)
	assert.Equal(t, http.StatusNotFound, v.post(pia+"/wishes/99", url.Values{"action": {"answer"}}).StatusCode)

	// A word is no wish, and series and likeness are there of what was measured.
	p.post("/s/"+token+"/words", url.Values{"word": {"hello"}, "sent": {"w"}})
	assert.Equal(t, http.StatusNotFound, v.post(pia+"/wishes/3", url.Values{"action": {"answer"}}).StatusCode)
	assert.Contains(t, v.get("/songs/1/about").body, ">Far</a>")
	skills := v.get("/skills?student=1").body
	link := regexp.MustCompile(`href="(/skills\?skill=shape[^"]*)">G 320003`).FindStringSubmatch(skills)
	require.NotNil(t, link, skills)
	series := v.get(html.UnescapeString(link[1])).body
	assert.Regexp(t, `(?s)>Easy</a>.*one thing to learn first.*taught by the step of the shape.*>Far</a>.*later`, series)
	assert.Equal(t, http.StatusNotFound, v.get("/skills?skill=shape+none").StatusCode)
}

// Groups: a song is fitted to all of one, a lesson given to all of one.
func TestGroups(t *testing.T) {
	h, v, at := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	for _, name := range []string{"Pia", "Bo", "Cleo"} {
		st := v.added(name, "-1", "")
		if name != "Bo" {
			v.post("/tags/student/"+number(st), url.Values{"tags": {"Band, first year"}})
		}
	}
	page := v.get("/students?group=band").body
	assert.Contains(t, page, ">Pia</a>")
	assert.NotContains(t, page, ">Bo</a>")
	to := v.get("/students/give?group=Band&song=" + number(song)).Header.Get("Location")
	fit := v.get(to).body
	assert.Equal(t, 2, strings.Count(fit, `aria-label="Target tempo for `))
	v.post(lesson+"/assign", url.Values{"group": {"Band"}, "student": {"1"}})
	for id, n := range map[int64]int{1: 1, 2: 0, 3: 1} {
		given, err := h.store.AssignmentsOf(t.Context(), at, id)
		require.NoError(t, err)
		assert.Len(t, given, n)
	}
}

// What differs between two saves is told by the song and by the lines.
func TestSavesAreCompared(t *testing.T) {
	_, v, _ := room(t)
	song := v.typed("title: Two\ntempo: 90\n\nA:\n| 0A 3A | 5A 7A |\n")
	v.post(song, url.Values{"sheet": {"title: Two\ntempo: 80\n\nA:\n| 0A 3A | 5A 8A |\n\nB:\n| Em |\n"}})
	v.post(song, url.Values{"sheet": {"title: Two\ntempo: 80\n\nA:\n| 0A 3A | 5A 8A |\n"}})
	page := v.get(song + "/saves/3").body
	assert.Contains(t, page, "What is other than in save 2")
	assert.Contains(t, page, "tempo 80 instead of 90")
	assert.Contains(t, page, "A: bar 2 changed")
	assert.Contains(t, page, `class="gone"><span class="sr">Gone: </span>tempo: 90</div>`)
	assert.Contains(t, page, `class="new"><span class="sr">New: </span>tempo: 80</div>`)
	page = v.get(song + "/saves/4?with=2").body
	assert.Contains(t, page, "than in save 2")
	assert.NotContains(t, page, "B is new")
	assert.Contains(t, v.get(song+"/saves/2?with=4").body, "than in save 4")
	assert.NotContains(t, v.get(song+"/saves/1").body, "What is other")
}

// A student's year: what was practised by day, what was learnt, what the lessons were about.
func TestYear(t *testing.T) {
	h, v, at := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	pia := v.added("Pia", "5", "14:00")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	given, err := h.store.AssignmentsOf(t.Context(), at, 1)
	require.NoError(t, err)
	p := given[0].Parts[0]
	log := func(years, days int, minutes int) {
		require.NoError(t, h.store.AddEntry(t.Context(), store.Entry{StudioID: at, StudentID: 1, AssignmentID: given[0].ID, PartID: p.PartID, Part: p.Part, Rung: p.Rung, Tempo: p.Target, Clean: 3, Minutes: minutes,
			PractisedAt: store.At(noon.AddDate(-years, 0, -days)), SentID: fmt.Sprint(years, days)}))
	}
	log(1, 0, 7)
	log(0, 0, 10)
	log(0, 1, 20)
	require.NoError(t, h.store.SetHour(t.Context(), at, 1, dayNumber(noon.Format("2006-01-02")), func(hour store.Hour) (store.Hour, error) { hour.Note = "the bridge at last"; return hour, nil }))
	page := v.get(pia + "/year").body
	assert.Contains(t, page, "30 minutes on 2 days, 1 part learnt, 1 lesson with notes")
	assert.Contains(t, page, noon.Format("January 2006"))
	assert.Contains(t, page, "the bridge at last")
	assert.Contains(t, page, "learnt A of")
	before := fmt.Sprintf("%s/year?y=%d", pia, noon.Year()-1)
	assert.Contains(t, page, fmt.Sprintf(`href="?y=%d"`, noon.Year()-1))
	page = v.get(before).body
	assert.Contains(t, page, "7 minutes on 1 day")
	assert.NotContains(t, page, fmt.Sprintf(`href="?y=%d"`, noon.Year()-2))
	for _, year := range []string{"x", "9999", "-1", "1"} {
		assert.Contains(t, v.get(pia+"/year?y="+year).body, "the bridge at last", "this year")
	}
}
