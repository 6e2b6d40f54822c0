package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/lesson"
	"valleyside/store"
	"valleyside/studio"
)

// everyPage are the pages of a studio with one song, one lesson and one student.
var everyPage = []string{"/", "/songs", "/songs/1", "/songs/1/rungs", "/songs/1/chords", "/songs/1/saves", "/lessons/1", "/lessons/1?student=1", "/lessons/1/handout?student=1", "/handouts", "/students", "/students/1", "/students/1/songs", "/students/1/hour", "/students/1/year", "/songs/1/about", "/lessons", "/skills", "/skills?student=1", "/bin", "/find?q=pia", "/timetable", "/timetable/month", "/desk", "/settings", "/settings/export", "/students/1/export"}

// given is a studio with a student who has a lesson of a song: its pages, and the student's
// own.
func (h *house) given(v *visitor, text string) (pages []string) {
	song := v.typed(text)
	lesson := v.post(song+"/lessons", nil).Header.Get("Location")
	pia := v.added("Pia", "5", "14:00")
	v.post(lesson+"/assign", url.Values{"student": {number(pia)}})
	token, err := h.store.AddLink(h.t.Context(), 1, 1, "", store.At(noon))
	require.NoError(h.t, err)
	return append(everyPage, "/s/"+token, "/s/"+token+"/log")
}

func (v *visitor) all(pages []string, what string) {
	v.h.t.Helper()
	for _, path := range pages {
		assert.Equal(v.h.t, http.StatusOK, v.get(path).StatusCode, "%s: %s", what, path)
	}
}

// handForm is the form of a student's hand.
func handForm(reach string, more ...string) url.Values {
	form := url.Values{"name": {"Pia"}, "reach": {reach}, "scale": {"648"}, "nps": {"5"}, "picking": {"alternate"}, "day": {"5"}, "time": {"14:00"}}
	for _, name := range more {
		form.Set(name, "1")
	}
	return form
}

// One beginner's hand takes nothing down, nor does one tuning, one chord, one capo.
func TestOneHandTakesNothingDown(t *testing.T) {
	t.Parallel()
	for _, text := range []string{"title: T\nA:\n| B5 - - - |\n", "title: T\ntuning: whole step down\nA:\n| A5 - - - |\n", "title: T\ntuning: drop D\ncapo: 3\nA:\n| B5/B - F#5 - |\n"} {
		h, v, _ := room(t)
		pages := h.given(v, text)
		for _, form := range []url.Values{handForm("80", "nobarre", "nolittle"), handForm("46"), handForm("30", "nobarre", "nolittle"), handForm("250", "thumb")} {
			require.Equal(t, http.StatusSeeOther, v.post("/students/1", form).StatusCode)
			v.all(pages, text+fmt.Sprint(form))
			require.NoError(t, studio.New(h.store, nil).Catch(t.Context(), 1, nil))
			v.all(pages, text+fmt.Sprint(form))
		}
	}
}

// No list works anything out: it shows what was kept.
func TestListsShowWhatWasKept(t *testing.T) {
	h, v, _ := room(t)
	h.given(v, riff)
	require.NoError(t, studio.New(h.store, nil).Catch(t.Context(), 1, nil))
	_, err := h.store.DB().Exec(`UPDATE song_sums SET grade = 9.87; UPDATE assignment_sums SET grades = '[8.76]'; UPDATE assignment_steps SET title = 'kept as a row'`)
	require.NoError(t, err)
	assert.Contains(t, v.get("/songs").body, "9.9")
	page := v.get("/students/1").body
	assert.Contains(t, page, "grade 8.8")
	assert.Contains(t, page, "kept as a row")
	// What has changed is made anew, by whoever looks after it; until then the old is shown.
	v.post("/students/1", handForm("81"))
	assert.Contains(t, v.get("/students/1").body, "kept as a row")
	require.NoError(t, studio.New(h.store, nil).Catch(t.Context(), 1, nil))
	assert.NotContains(t, v.get("/students/1").body, "kept as a row")
}

// A plan that cannot be read stays as it is: the pages say so, nothing is saved over it, and
// it goes when the teacher takes it back.
func TestAPlanThatCannotBeRead(t *testing.T) {
	h, v, _ := room(t)
	pages := h.given(v, riff)
	const bad = `{"own":[{"id":1,"title":"x","start":60,"goal":60,"passes":1,"minutes":9000000000000000000}]}`
	_, err := h.store.DB().Exec("UPDATE lessons SET plan = ?; UPDATE assignments SET plan = ?", bad, bad)
	require.NoError(t, err)
	require.NoError(t, studio.New(h.store, nil).Catch(t.Context(), 1, nil))
	for _, path := range pages {
		if !strings.HasPrefix(path, "/lessons/1/handout") {
			v.all([]string{path}, "a bad plan")
		}
	}
	assert.Contains(t, v.get("/lessons/1").body, "minutes must be a number from 1 to 300")
	assert.Contains(t, v.get("/handouts").body, "minutes must be a number from 1 to 300")
	assert.Contains(t, v.get("/students/1").body, "minutes must be a number from 1 to 300")
	assert.Equal(t, http.StatusUnprocessableEntity, v.get("/lessons/1/handout?student=1").StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/lessons/1/steps", url.Values{"action": {"out"}, "step": {"form"}}).StatusCode)
	l, err := h.store.Lesson(t.Context(), 1, 1)
	require.NoError(t, err)
	assert.Equal(t, bad, l.Plan, "nothing was saved over it")
	assert.Equal(t, http.StatusSeeOther, v.post("/lessons/1/steps", url.Values{"action": {"clear"}}).StatusCode)
	assert.NotContains(t, v.get("/lessons/1").body, "minutes must be a number")
}

// Parts may be called anything: their steps are heard, changed and cut.
func TestNamesThatLookLikeKeys(t *testing.T) {
	h, v, _ := room(t)
	h.given(v, "title: T\ntempo: 90\nVerse / drill 2:\n| 0A 3A 5A 7A | C F G C | 5A 7A 8A 7A | G F C - |\n«Q» to 3, 2:\n| Am F C G | E7 Am Dm E7 |\n")
	page := v.get("/lessons/1?student=1").body
	steps := regexp.MustCompile(`[&;]step=([^"]+)"`).FindAllStringSubmatch(page, -1)
	require.GreaterOrEqual(t, len(steps), 6)
	for _, m := range steps {
		id := m[1]
		_, err := lesson.ParseStepID(id)
		require.NoError(t, err)
		pane := v.get("/lessons/1?student=1&step=" + id).body
		assert.Contains(t, pane, `name="step" value="`+id+`"`)
		for _, sound := range regexp.MustCompile(`data-music="([^"]+)"`).FindAllStringSubmatch(pane, -1) {
			assert.Equal(t, http.StatusOK, v.get(strings.ReplaceAll(sound[1], "&amp;", "&")).StatusCode, sound[1])
		}
		if strings.Contains(pane, "Cut in two after bar") && strings.HasPrefix(id, "part.") {
			require.Equal(t, http.StatusSeeOther, v.post("/lessons/1/steps", url.Values{"action": {"cut"}, "step": {id}, "bar": {"1"}, "student": {"1"}}).StatusCode)
			assert.Contains(t, v.get("/lessons/1?student=1").body, id+".c1-1")
			require.Equal(t, http.StatusSeeOther, v.post("/lessons/1/steps", url.Values{"action": {"join"}, "step": {id + ".c1-1"}, "student": {"1"}}).StatusCode)
		}
	}
}

// What a phone has kept finds its way: after the part got another name, left the lesson, or
// left the song; in the words of a page that an older program sent as well.
func TestKeptPracticeFindsItsWay(t *testing.T) {
	h, v, _ := room(t)
	pages := h.given(v, "title: T\ntempo: 90\nRiff:\n| 0A 3A 5A 7A | 5A 7A 8A 7A |\nEnd:\n| C G |\n")
	own := pages[len(pages)-2]
	names, err := h.store.PartNames(t.Context(), 1, 1)
	require.NoError(t, err)
	of := ""
	for id, name := range names {
		if name == "Riff" {
			of = id.String()
		}
	}
	phone := h.visitor()
	log := func(sent string, more url.Values) int {
		form := url.Values{"assignment": {"1"}, "tempo": {"60"}, "clean": {"2"}, "minutes": {"5"}, "sent": {sent}}
		for k, list := range more {
			form[k] = list
		}
		return phone.post(own+"/entries", form).StatusCode
	}
	require.Equal(t, http.StatusSeeOther, log("a", url.Values{"of": {of}, "part": {"Riff"}, "step": {"part.p" + of}}))
	v.post("/songs/1", url.Values{"sheet": {"title: T\ntempo: 90\nStroll:\n| 0A 3A 5A 7A | 5A 7A 8A 7A |\nEnd:\n| C G |\n"}})
	v.post("/students/1/assignments/1/update", nil)
	assert.Equal(t, http.StatusSeeOther, log("b", url.Values{"of": {of}, "part": {"Riff"}, "rung": {"one-finger"}, "step": {"part.p" + of}}), "it is called something else now")
	assert.Equal(t, http.StatusSeeOther, log("c", url.Values{"part": {"Riff"}, "step": {"part «Riff» 1 to 2"}}), "as an older page has it")
	v.post("/songs/1", url.Values{"sheet": {"title: T\ntempo: 90\nEnd:\n| C G |\n"}})
	v.post("/lessons/1", url.Values{"tempo": {"90"}, "name": {"T"}})
	v.post("/students/1/assignments/1/update", nil)
	assert.Equal(t, http.StatusSeeOther, log("d", url.Values{"of": {of}, "part": {"Riff"}, "step": {"piece.p" + of + ".b1-1"}}), "it is not in the lesson any more")
	v.post("/songs/1/delete", nil)
	assert.Equal(t, http.StatusSeeOther, log("e", url.Values{"of": {of}}), "the song is deleted")
	entries, err := h.store.EntriesOf(t.Context(), 1, 1, 0, 0)
	require.NoError(t, err)
	assert.Len(t, entries, 5)
	for _, e := range entries {
		assert.Equal(t, of, e.PartID.String())
	}
	for _, bad := range []url.Values{{"of": {"99"}}, {"of": {"x"}, "part": {"Nobody"}}, {}} {
		assert.Equal(t, http.StatusUnprocessableEntity, log("f", bad), "%v", bad)
	}
	assert.Equal(t, http.StatusOK, phone.get(own+"/log").StatusCode)
}

// The paper of a student who is further on begins where they are.
func TestPaperBeginsWhereTheyAre(t *testing.T) {
	h, v, _ := room(t)
	h.given(v, "title: T\ntempo: 90\nRiff:\n| 0A 3A 5A 7A | C F G C | 5A 7A 8A 7A | G F C - |\n")
	first := func(page string) string {
		return regexp.MustCompile(`<th scope="row">([^<]*)`).FindStringSubmatch(page)[1]
	}
	before := first(v.get("/lessons/1/handout?student=1").body)
	steps, err := h.steps(1)
	require.NoError(t, err)
	a, err := h.store.Assignment(t.Context(), 1, 1, 1)
	require.NoError(t, err)
	for i := range 2 {
		require.NoError(t, h.store.AddEntry(t.Context(), store.Entry{StudioID: 1, StudentID: 1, AssignmentID: 1, PartID: steps[i].PartID, Rung: a.Parts[0].Rung, Step: steps[i].Step, Some: true,
			Tempo: steps[i].Goal, Clean: 9, Minutes: 5, PractisedAt: store.At(noon), SentID: fmt.Sprint(i)}))
	}
	after := first(v.get("/lessons/1/handout?student=1").body)
	assert.NotEqual(t, before, after)
	assert.Equal(t, steps[2].Title, strings.TrimSpace(after))
	assert.Contains(t, v.get("/students/1").body, "Step 3 of")
}

// steps are those of what is assigned to the first student, as they are kept.
func (h *house) steps(assignment int64) ([]store.AssignmentStep, error) {
	if err := studio.New(h.store, nil).Catch(h.t.Context(), 1, nil); err != nil {
		return nil, err
	}
	kept, err := h.store.StepsOf(h.t.Context(), 1, 1)
	return kept[assignment], err
}
