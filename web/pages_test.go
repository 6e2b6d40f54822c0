package web_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/account"
	"valleyside/core/sheet"
	"valleyside/store"
)

// room is a studio without demo data and its teacher, signed in.
func room(t *testing.T) (h *house, v *visitor, studio int64) {
	h = open(t)
	studio, err := h.store.AddStudio(t.Context(), "Attic", store.Teacher{Name: "Ada", Email: "ada@attic.example", Password: account.Hash("long enough now")}, store.At(noon))
	require.NoError(t, err)
	return h, h.signIn("ada@attic.example", "long enough now"), studio
}

// typed adds a song with a sheet.
func (v *visitor) typed(sheet string) (song string) {
	song = v.post("/songs", url.Values{"title": {"New"}}).Header.Get("Location")
	require.Equal(v.h.t, http.StatusSeeOther, v.post(song, url.Values{"sheet": {sheet}}).StatusCode)
	return song
}

// added adds a student with a weekly lesson.
func (v *visitor) added(name, day, at string) (student string) {
	student = v.post("/students", url.Values{"name": {name}}).Header.Get("Location")
	a := v.post(student, url.Values{"name": {name}, "reach": {"100"}, "scale": {"648"}, "nps": {"5"}, "day": {day}, "time": {at}})
	require.Equal(v.h.t, http.StatusSeeOther, a.StatusCode, a.body)
	return student
}

func number(path string) string { return path[strings.LastIndex(path, "/")+1:] }

// An empty studio says on every page what to do next.
func TestEmptyStudio(t *testing.T) {
	_, v, _ := room(t)
	assert.Contains(t, v.get("/").body, "Three steps to the first lesson")
	assert.Contains(t, v.get("/songs").body, "Write a title above")
	assert.Contains(t, v.get("/students").body, "Keep to first names")
	assert.Contains(t, v.get("/settings").body, "No student has a link yet")
	song := v.typed(riff)
	assert.Regexp(t, `Done:</span> *<span><a href="/songs">Type a song`, v.get("/").body)
	v.post("/students", url.Values{"name": {"Pia"}})
	assert.Contains(t, v.get("/").body, "No lesson has a day yet")
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	v.post(lesson+"/assign", url.Values{"student": {"1"}})
	assert.Contains(t, v.get("/").body, "To your first lesson")
	v.post("/students/1/links", nil)
	assert.NotContains(t, v.get("/").body, "To your first lesson", "all three are done")
	// An example is put in and taken out with one press, and ticks nothing off.
	v.post("/example", nil)
	assert.Contains(t, v.get("/").body, "Wren, an example")
	assert.Contains(t, v.get("/").body, "The example is still in the studio")
	assert.Contains(t, v.get("/songs").body, "Tin Lantern")
	assert.Equal(t, "/", v.post("/example", nil).Header.Get("Location"), "once")
	v.post("/example/remove", nil)
	for _, page := range []string{"/", "/songs", "/students"} {
		assert.NotContains(t, v.get(page).body, "Tin Lantern")
		assert.NotContains(t, v.get(page).body, "Wren")
	}
	for path, field := range map[string]string{"/songs": "title", "/students": "name"} {
		assert.Equal(t, http.StatusUnprocessableEntity, v.post(path, url.Values{field: {" "}}).StatusCode, path)
	}
}

// Today lists who comes, by the time of day, and next to it what wants a look.
func TestToday(t *testing.T) {
	h, v, studio := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", url.Values{}).Header.Get("Location")
	late, early := v.added("Late", "5", "17:00"), v.added("Early", "5", "9:15") // noon is on a Friday
	v.added("Other", "1", "10:00")
	for _, st := range []string{late, early} {
		v.post(lesson+"/assign", url.Values{"student": {number(st)}})
	}
	assert.Contains(t, v.get("/").body, "Nothing. Everybody is on the way.")

	given, err := h.store.AssignmentsOf(t.Context(), studio, 1)
	require.NoError(t, err)
	log := func(days int, tempo float64, clean int) {
		e := store.Entry{StudioID: studio, StudentID: 1, AssignmentID: given[0].ID, PartID: given[0].Parts[0].PartID, Part: "A", Rung: given[0].Parts[0].Rung, Tempo: tempo, Clean: clean,
			Minutes: 5, Word: "hm", PractisedAt: store.At(noon.AddDate(0, 0, -days)), SentID: time.Duration(days).String() + given[0].Name}
		require.NoError(t, h.store.AddEntry(t.Context(), e))
	}
	for days := 3; days > 0; days-- {
		log(days, 90, 1)
	}
	page := v.get("/").body
	assert.Contains(t, page, "Who comes today")
	assert.NotContains(t, page, "Other")
	assert.Contains(t, page, "the last three tries were not clean: go back to 82")
	assert.Equal(t, 3, strings.Count(page, "“hm”"), "what was practised this week")
	assert.Less(t, strings.Index(page, `class="name" href="`+early), strings.Index(page, `class="name" href="`+late), "by the time of day")

	log(0, 100, 3)
	assert.NotContains(t, v.get("/").body, "tries were not clean", "a clean day ends it")
	v.post(early+"/delete", nil)
	v.post(late+"/delete", nil)
	page = v.get("/").body
	assert.Contains(t, page, "No lessons today. On Monday")
	assert.Contains(t, page, "Other")
	assert.NotContains(t, page, "“hm”", "nothing of a deleted student")
	v.post("/bin/student/"+number(late)+"/back", nil)
	assert.Contains(t, v.get("/").body, "“hm”")
}

// A lesson holds a rung for each part, follows its song, and says what it adds
// up to.
func TestLessonPage(t *testing.T) {
	h, v, studio := room(t)
	song := v.typed("title: Two\ntempo: 120\norder: A x2, B\nA:\n| 0A - 7A - | 5A - 3A - |\nB:\n| Am - - - |\n")
	lesson := v.post(song+"/lessons", url.Values{"part": {"B"}, "rung": {"two-note"}}).Header.Get("Location")
	names, err := h.store.PartNames(t.Context(), studio, 1)
	require.NoError(t, err)
	rungOf := func(part string) string {
		for id, name := range names {
			if name == part {
				return "rung " + id.String()
			}
		}
		return ""
	}
	chosen := func(part string) string {
		found := regexp.MustCompile(`name="` + rungOf(part) + `" value="([^"]*)" checked`).FindStringSubmatch(v.get(lesson).body)
		require.NotNil(t, found, part)
		return found[1]
	}
	assert.Equal(t, "two-note", chosen("B"))
	page := v.get(lesson).body
	assert.Contains(t, page, "5 bars, 0:10 minutes", "20 beats at 120")
	assert.Contains(t, page, "A ×2")

	form := url.Values{"name": {"Slow"}, "tempo": {"60"}, rungOf("A"): {"one-finger"}, rungOf("B"): {""}}
	assert.Equal(t, lesson, v.post(lesson, form).Header.Get("Location"))
	assert.Equal(t, "one-finger", chosen("A"))
	assert.Equal(t, "", chosen("B"))
	page = v.get(lesson).body
	assert.Contains(t, page, "<h1>Slow</h1>")
	assert.Contains(t, page, "5 bars, 0:20 minutes")
	handout := v.get(lesson + "/handout").body
	assert.Contains(t, handout, "target 60 a minute")
	assert.NotContains(t, handout, ">Am<", "what is left out is not printed")
	for field, value := range map[string]string{"tempo": "fast", rungOf("A"): "nonsense"} {
		wrong := url.Values{"name": {"Slow"}, "tempo": {"60"}, rungOf("A"): {"one-finger"}}
		wrong.Set(field, value)
		a := v.post(lesson, wrong)
		if field == "tempo" {
			assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode)
			assert.Contains(t, a.body, "target tempo")
		} else {
			assert.Equal(t, "", chosen("A"), "an unknown rung leaves the part out")
		}
	}
	v.post(lesson, form)
	v.post(song, url.Values{"sheet": {"title: Two\nB:\n| Am - - - |\n"}})
	assert.Contains(t, v.get(lesson).body, "The part A is not in the song any more")

	assert.Contains(t, v.get(lesson).body, "No students yet")
	v.added("Pia", "-1", "")
	v.added("Ruben", "-1", "")
	assert.Equal(t, lesson, v.post(lesson+"/assign", url.Values{"student": {"1", "2"}}).Header.Get("Location"), "several at once stay on the page")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post(lesson+"/assign", url.Values{"student": {"x"}}).StatusCode)
	assert.Equal(t, http.StatusNotFound, v.post(lesson+"/assign", url.Values{"student": {"99"}}).StatusCode)
	assert.Equal(t, song, v.post(lesson+"/delete", nil).Header.Get("Location"))
	assert.Equal(t, http.StatusNotFound, v.get(lesson).StatusCode)
	v.post("/bin/lesson/"+number(lesson)+"/back", nil)
	assert.Equal(t, http.StatusOK, v.get(lesson).StatusCode)
	empty := v.typed("title: Empty\n")
	a := v.post(empty+"/lessons", nil)
	assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode)
	assert.Contains(t, a.body, "no parts yet")
}

// What is set in the settings is how the other pages show it.
func TestSettings(t *testing.T) {
	h, v, studio := room(t)
	song := v.typed("title: Six\nkey: A minor\ntime: 6/8\nA:\n| Am - - F - - | 0A 2A 3A 0D 2D 3D |\n")
	assert.Contains(t, v.get(song).body, ">trip<", "by the beat unless asked")
	form := url.Values{"name": {"Loft"}, "strings": {"6 5 4 3 2 1"}, "counting": {"eighth"}, "school": {"third"}, "numbering": {"tonic"}}
	assert.Equal(t, "/settings", v.post("/settings", form).Header.Get("Location"))
	page := v.get(song).body
	assert.NotContains(t, page, ">trip<")
	assert.Contains(t, v.get("/").body, "Loft")
	assert.Contains(t, v.get(song+"/chords").body, "1m", "Am in A minor from the tonic")
	form.Set("numbering", "relative")
	v.post("/settings", form)
	assert.Contains(t, v.get(song+"/chords").body, "6m", "and from the relative major")

	form.Set("numbering", "roman")
	v.post("/settings", form)
	assert.Contains(t, v.get(song+"/chords").body, "bVI", "F in A minor, as it is analysed")

	for field, value := range map[string]string{"counting": "backwards", "school": "loud", "numbering": "greek", "name": ""} {
		odd := url.Values{"name": {"Loft"}, "strings": {"6 5 4 3 2 1"}, "numbering": {"roman"}}
		odd.Set(field, value)
		assert.Equal(t, http.StatusSeeOther, v.post("/settings", odd).StatusCode)
	}
	st, err := h.store.Studio(t.Context(), studio)
	require.NoError(t, err)
	assert.Equal(t, []string{"Loft", "6 5 4 3 2 1", "eighth", "third", "roman"}, []string{st.Name, st.StringNames, st.Counting, st.ChordSchool, st.Numbering}, "what is not known changes nothing")
	a := v.post("/settings", url.Values{"strings": {"E A D"}})
	assert.Equal(t, http.StatusUnprocessableEntity, a.StatusCode)
	assert.Contains(t, a.body, "six names")

	for _, c := range [][2]string{{"not this one", "a new long one"}, {"long enough now", "short"}} {
		assert.Equal(t, http.StatusUnprocessableEntity, v.post("/settings/password", url.Values{"old": {c[0]}, "new": {c[1]}}).StatusCode)
	}
	assert.Equal(t, "/settings", v.post("/settings/password", url.Values{"old": {"long enough now"}, "new": {"a new long one"}}).Header.Get("Location"))
	assert.Equal(t, http.StatusOK, v.get("/").StatusCode, "still signed in")
	h.signIn("ada@attic.example", "a new long one")
	old := h.visitor()
	old.get("/sign-in")
	assert.NotEqual(t, http.StatusSeeOther, old.post("/sign-in", url.Values{"email": {"ada@attic.example"}, "password": {"long enough now"}}).StatusCode)
}

// The export is the whole studio and nothing secret.
func TestExport(t *testing.T) {
	_, v, _ := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	pia := v.added("Pia", "2", "14:00")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	v.post(pia+"/links", nil)
	a := v.get("/settings/export")
	assert.Equal(t, `attachment; filename="valleyside-2026-03-20.zip"`, a.Header.Get("Content-Disposition"))
	all := strings.Join(unpacked(t, a.body), "\n")
	for _, want := range []string{"Pia", "| 0A - 7A - |", "Attic"} {
		assert.Contains(t, all, want)
	}
	for _, secret := range []string{"argon2", "password", "link_hash", "token"} {
		assert.NotContains(t, strings.ToLower(all), secret)
	}
}

// unpacked are the files of an export, each after its name.
func unpacked(t *testing.T, data string) (list []string) {
	z, err := zip.NewReader(strings.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	for _, f := range z.File {
		in, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(in)
		require.NoError(t, err)
		list = append(list, f.Name, string(text))
	}
	return list
}

// packed are files as an export has them.
func packed(t *testing.T, files []string) string {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		f, err := z.Create(files[i])
		require.NoError(t, err)
		_, err = io.WriteString(f, files[i+1])
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.String()
}

// A sheet can be tidied, left as a draft, thrown away and taken back.
func TestSavesAndDrafts(t *testing.T) {
	h, v, _ := room(t)
	song := v.typed(riff)
	v.post(song, url.Values{"sheet": {"title: Riff\nkey: A minor\ntempo: 100\nA:\n|0A  -   5A -|\n"}, "format": {"1"}})
	page := v.get(song).body
	assert.Contains(t, page, "| 0A - 5A - |", "tidied")
	saves := v.get(song + "/saves").body
	assert.Contains(t, saves, "Save 3")
	assert.NotContains(t, saves, "Take save")
	assert.Contains(t, v.get(song+"/saves/2").body, "Take save 2 again")
	assert.Equal(t, http.StatusNotFound, v.get(song+"/saves/9").StatusCode)
	assert.Equal(t, http.StatusNotFound, v.get(song+"/saves/x").StatusCode)

	draftNo := func() string {
		return regexp.MustCompile(`data-draft="(\d+)"`).FindStringSubmatch(v.get(song).body)[1]
	}
	v.post(song+"/draft", url.Values{"sheet": {"title: Draft"}, "draft": {draftNo()}})
	assert.Contains(t, v.get("/songs").body, "unsaved typing")
	for _, page := range []string{"/rungs", "/chords"} {
		assert.Contains(t, v.get(song+page).body, "You have typed something since", "the saved text is not what is typed")
	}
	assert.Equal(t, song, v.post(song+"/draft/discard", nil).Header.Get("Location"))
	assert.NotContains(t, v.get("/songs").body, "unsaved typing")
	kept := v.get(song + "/saves").body
	assert.Contains(t, kept, "title: Draft", "what is thrown away can be brought back")
	back := regexp.MustCompile(`/songs/\d+/typed/\d+`).FindString(kept)
	assert.Equal(t, song, v.post(back, nil).Header.Get("Location"))
	assert.Contains(t, v.get(song).body, "title: Draft")
	v.post(song+"/saves/2", nil)
	assert.Contains(t, v.get(song).body, "| 0A - 7A - |", "an earlier version is what is typed now")
	v.post(song+"/draft", url.Values{"sheet": {"title: Typed again"}, "draft": {draftNo()}})
	v.post(song+"/saves/1", nil)
	assert.Contains(t, v.get(song+"/saves").body, "title: Typed again", "an earlier version takes nothing away")
	v.post(song+"/draft", url.Values{"sheet": {"title: Typed once more"}, "draft": {draftNo()}})
	require.Equal(t, http.StatusSeeOther, v.post(song+"/saves/1", nil).StatusCode)
	require.Equal(t, http.StatusSeeOther, v.post(song+"/transpose", url.Values{"to": {"B minor"}}).StatusCode)
	assert.Contains(t, v.get(song+"/saves").body, "title: Typed once more", "nor does another key")
	assert.Equal(t, song+"/rungs", v.post(song+"/draft/use", nil).Header.Get("Location"))
	assert.NotContains(t, v.get(song+"/rungs").body, "You have typed something since")

	// Two tabs: the second save shows both.
	v.post(song, url.Values{"sheet": {"title: First tab"}, "base": {"4"}})
	clash := v.post(song, url.Values{"sheet": {"title: Second tab"}, "base": {"4"}})
	assert.Equal(t, http.StatusConflict, clash.StatusCode)
	assert.Contains(t, clash.body, "title: First tab")
	assert.Contains(t, clash.body, "title: Second tab")
	assert.Contains(t, v.get(song).body, "title: First tab", "nothing was saved over it")
	assert.Equal(t, http.StatusConflict, v.post(song+"/draft", url.Values{"sheet": {"title: Late"}, "draft": {"0"}}).StatusCode)
	assert.Contains(t, v.get(song+"/saves").body, "title: Late")

	// The editor saves without leaving the page.
	r, err := http.NewRequest("POST", h.http.URL+song, strings.NewReader(url.Values{"sheet": {riff}, "_csrf": {v.csrf}}.Encode()))
	require.NoError(t, err)
	r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	r.Header.Set("Accept", "application/json")
	res, err := v.client.Do(r)
	require.NoError(t, err)
	defer res.Body.Close()
	var saved struct{ Sheet, Title string }
	require.NoError(t, json.NewDecoder(res.Body).Decode(&saved))
	assert.Equal(t, riff, saved.Sheet)
	assert.Equal(t, "Riff", saved.Title)
}

// An assignment is finished and taken up again, an entry deleted, a link closed.
func TestStudentPage(t *testing.T) {
	h, v, studio := room(t)
	song := v.typed(riff)
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	pia := v.added("Pia", "2", "14:00")
	assert.Contains(t, v.get(pia).body, "Or take a lesson that is there already")
	assert.Contains(t, v.get(pia).body, "Tuesday, 14:00")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	freshLink := func() string {
		v.post(pia+"/links", nil)
		return regexp.MustCompile(`/s/[\w-]{22}`).FindString(v.get(pia).body)
	}
	link := freshLink()
	child := h.visitor()
	child.get(link)
	child.post(link+"/entries", url.Values{"assignment": {"1"}, "part": {"A"}, "tempo": {"80"}, "clean": {"0"}, "minutes": {"7"}})
	assert.Contains(t, v.get(pia).body, "not clean yet at 80, 7 min")
	assert.Contains(t, v.get(pia).body, "7 minutes in four weeks")
	v.post(pia+"/entries/1/delete", nil)
	assert.NotContains(t, v.get(pia).body, "not clean yet at 80")

	v.post(pia+"/assignments/1/end", nil)
	assert.Contains(t, v.get(pia).body, "Nothing assigned yet")
	assert.NotContains(t, child.get(link).body, "Log practice")
	v.post(pia+"/assignments/1/resume", nil)
	given, err := h.store.AssignmentsOf(t.Context(), studio, 1)
	require.NoError(t, err)
	assert.Len(t, given, 1)

	again := freshLink()
	assert.NotEqual(t, link, again)
	assert.Equal(t, http.StatusOK, child.get(link).StatusCode, "one more link")
	assert.Equal(t, http.StatusOK, child.get(again).StatusCode)
	for _, end := range regexp.MustCompile(`/students/\d+/links/\d+/end`).FindAllString(v.get(pia).body, -1) {
		v.post(end, nil)
	}
	assert.Equal(t, http.StatusNotFound, child.get(again).StatusCode)
	for field, value := range map[string]string{"reach": "1000", "nps": "none", "scale": "3", "time": "soon"} {
		form := url.Values{"name": {"Pia"}, "reach": {"100"}, "scale": {"648"}, "nps": {"5"}, "day": {"2"}, "time": {"14:00"}}
		form.Set(field, value)
		assert.Equal(t, http.StatusUnprocessableEntity, v.post(pia, form).StatusCode, field)
	}
}

// What a teacher calls the strings is what every page calls them.
func TestStringsAreCalledAsTheTeacherCallsThem(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	form := url.Values{"name": {"Loft"}, "strings": {"E A D G H e"}, "counting": {""}, "school": {"few"}, "numbering": {"relative"}}
	require.Equal(t, "/settings", v.post("/settings", form).Header.Get("Location"))
	token, _ := h.link("Saskia")
	pages := []string{"/", "/desk?symbol=C13", "/desk?symbol=B7", "/desk?frets=x24432", "/desk?progression=Em+C+G+B7", "/lessons/1", "/lessons/1/handout", "/students/2", "/s/" + token}
	songs, err := h.store.Songs(t.Context(), 1)
	require.NoError(t, err)
	said := false
	for _, song := range songs {
		at := fmt.Sprintf("/songs/%d", song.ID)
		pages = append(pages, at, at+"/chords")
		for _, p := range sheet.Parse(song.Sheet).Song.Parts {
			for _, rung := range []string{"one-finger", "two-note", "octave", "three-note", "easy-chords", "as-written"} {
				pages = append(pages, at+"/rungs?"+url.Values{"part": {p.Name}, "rung": {rung}, "bar": {"1"}, "at": {"0"}}.Encode())
			}
		}
	}
	for _, page := range pages {
		a := v.get(page)
		require.Equal(t, http.StatusOK, a.StatusCode, page)
		said = said || strings.Contains(a.body, "the H string")
		assert.NotRegexp(t, `\bB string|\d+ B[ ,.&]|\bB by the|B &amp;`, a.body, page)
	}
	assert.True(t, said, "the second string comes up somewhere")
}

// What another player has in a part stands on the paper and on the student's page.
func TestWhatPlaysBeside(t *testing.T) {
	_, v, _ := room(t)
	song := v.typed("title: Two\nA:\n| 0A - 3A - |\nlead | 7G - 5G - |\nwords | down / town |\n")
	lesson := v.post(song+"/lessons", url.Values{"part": {"A"}, "rung": {"as-written"}}).Header.Get("Location")
	paper := v.get(lesson + "/handout").body
	assert.Contains(t, paper, "lead, beside it")
	assert.Contains(t, paper, "town", "with what is sung")
	v.post("/students", url.Values{"name": {"Pia"}})
	v.post(lesson+"/assign", url.Values{"student": {"1"}})
	v.post("/students/1/links", nil)
	link := regexp.MustCompile(`<code id="link">[^<]*(/s/[^<]+)</code>`).FindStringSubmatch(v.get("/students/1").body)
	require.NotNil(t, link)
	page := v.get(link[1]).body
	assert.Contains(t, page, "What lead plays beside it")
	assert.Contains(t, page, "Bar 1: 1: 7 on G, 3: 5 on G.")
}

// Signs of doubt are explained on paper where they stand, and only there.
func TestSignsOfDoubtAreExplained(t *testing.T) {
	_, v, _ := room(t)
	paper := func(sheet, rung string) string {
		song := v.typed(sheet)
		return v.get(v.post(song+"/lessons", url.Values{"part": {"A"}, "rung": {rung}}).Header.Get("Location") + "/handout").body
	}
	const optional, unsure = "title: Hatch\nA:\nsound: clean, neck pickup\n| 0A 3A? 5A 3A |\n", "title: Latch\nA:\n| 0A 3A - - ? |\n"
	written := paper(optional, "as-written")
	assert.Contains(t, written, "Sound: clean, neck pickup")
	assert.Contains(t, written, ">(3)<")
	assert.Contains(t, written, "in brackets not everybody plays")
	assert.NotContains(t, written, "by the number of a bar")
	assert.NotContains(t, paper(optional, "one-finger"), "in brackets", "it is left out there")
	easy := paper(unsure, "one-finger")
	assert.Contains(t, easy, ">1 ?<")
	assert.Contains(t, easy, "by the number of a bar")
	assert.NotContains(t, easy, "in brackets")
}
