package web_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/store"
)

// titles lists the steps that a lesson shows, and those that are left out.
func titles(page string) (steps, out []string) {
	for _, piece := range strings.Split(page, `class="step `)[1:] {
		_, name, _ := strings.Cut(piece, `<span class="name">`)
		name, _, _ = strings.Cut(name, "<")
		if strings.Contains(piece[:strings.Index(piece, `class="name"`)], `class="number"`) {
			steps = append(steps, strings.TrimSpace(name))
		} else {
			out = append(out, strings.TrimSpace(name))
		}
	}
	return steps, out
}

// A teacher moves, leaves out, cuts, sets and adds steps; another tempo keeps it, another
// version keeps what it can and says what it cannot.
func TestStepsAreChanged(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	const page = "/lessons/2"
	change := func(fields ...string) string {
		form := url.Values{"student": {"2"}}
		for i := 0; i < len(fields); i += 2 {
			form.Set(fields[i], fields[i+1])
		}
		a := v.post(page+"/steps", form)
		require.Equal(t, http.StatusSeeOther, a.StatusCode, a.body)
		return v.get(a.Header.Get("Location")).body
	}
	before, out := titles(v.get(page).body)
	require.Equal(t, []string{"Hail into Riff"}, out, "as the demo has it")
	require.Contains(t, before, "Rain on the palm")

	after, _ := titles(change("action", "down", "step", "piece.p1.b4-4"))
	assert.NotEqual(t, before, after)
	assert.ElementsMatch(t, before, after)
	at := 0
	for before[at] == after[at] {
		at++
	}
	far, _ := titles(change("action", "place", "step", "piece.p1.b4-4", "place", fmt.Sprint(len(before))))
	assert.Equal(t, before[at], far[len(far)-1], "to any place in one move")
	again, _ := titles(change("action", "place", "step", "piece.p1.b4-4", "place", fmt.Sprint(at+2)))
	assert.Equal(t, after, again)
	back, _ := titles(change("action", "up", "step", "piece.p1.b4-4"))
	assert.Equal(t, before, back)

	_, out = titles(change("action", "out", "step", "form"))
	assert.Contains(t, out, "The whole way")
	_, out = titles(change("action", "in", "step", "form"))
	assert.NotContains(t, out, "The whole way")

	cut, _ := titles(change("action", "cut", "step", "part.p2", "bar", "2"))
	assert.Contains(t, cut, "Rain, bars 1 to 2")
	joined, _ := titles(change("action", "join", "step", "part.p2.c1-2"))
	assert.NotContains(t, joined, "Rain, bars 1 to 2")

	set := change("action", "set", "step", "piece.p2.b4-4", "start", "50", "goal", "61", "passes", "4", "minutes", "9", "words", "slowly, <please>")
	assert.Contains(t, set, "50 to 61")
	own := change("action", "own", "step", "form", "title", "Play it to somebody", "start", "108", "goal", "108", "passes", "1", "minutes", "5", "sheet", "| 0E - 3E - |")
	list, _ := titles(own)
	assert.Contains(t, list, "Play it to somebody")

	// Another tempo keeps all of it.
	v.post(page, url.Values{"tempo": {"116"}, "name": {"Slate Roof"}, "rung 1": {"one-finger"}, "rung 2": {"two-note"}, "rung 3": {"one-finger"}})
	kept := v.get(page + "?step=" + url.QueryEscape("piece.p2.b4-4")).body
	assert.Contains(t, kept, "50 to 61")
	assert.Contains(t, kept, "slowly, &lt;please&gt;")
	assert.NotContains(t, kept, "could not be kept")
	// Without the part it is said what is lost.
	v.post(page, url.Values{"tempo": {"116"}, "name": {"Slate Roof"}, "rung 1": {"one-finger"}, "rung 3": {"one-finger"}})
	assert.Contains(t, v.get(page).body, "What you had changed at “Rain, bar 4” (50 to 61, four clean in a row, nine minutes, “slowly, &lt;please&gt;”) could not be kept")

	for _, bad := range []url.Values{
		{"action": {"set"}, "step": {"form"}, "start": {"90"}, "goal": {"60"}, "passes": {"1"}, "minutes": {"5"}},
		{"action": {"set"}, "step": {"form"}, "start": {"60"}, "goal": {"90"}, "passes": {"0"}, "minutes": {"5"}},
		{"action": {"up"}, "step": {"piece.p9.b1-2"}},
		{"action": {"explode"}, "step": {"form"}},
		{"action": {"cut"}, "step": {"form"}, "bar": {"1"}},
		{"action": {"own"}, "step": {"form"}, "title": {""}, "start": {"60"}, "goal": {"60"}, "passes": {"1"}, "minutes": {"5"}},
		{"action": {"own"}, "step": {"form"}, "title": {"X"}, "start": {"60"}, "goal": {"60"}, "passes": {"1"}, "minutes": {"5"}, "sheet": {"| 99Q |"}},
		{"action": {"own"}, "step": {"form"}, "title": {"X"}, "start": {"60"}, "goal": {"60"}, "passes": {"1"}, "minutes": {"5"}, "sheet": {strings.Repeat("| 0E |\n", 5000)}},
	} {
		assert.Equal(t, http.StatusUnprocessableEntity, v.post(page+"/steps", bad).StatusCode, "%v", bad)
	}
	for range 60 {
		v.post(page+"/steps", url.Values{"action": {"own"}, "step": {"form"}, "title": {"again"}, "start": {"60"}, "goal": {"60"}, "passes": {"1"}, "minutes": {"5"}})
	}
	list, _ = titles(v.get(page).body)
	assert.LessOrEqual(t, strings.Count(strings.Join(list, "\n"), "again"), 40, "there is an end to it")
	plain, _ := titles(change("action", "clear"))
	assert.NotContains(t, plain, "again")
}

// An order of steps is kept by its name and used for another lesson.
func TestOrdersOfSteps(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	v.post("/lessons/2/steps", url.Values{"action": {"clear"}, "student": {"0"}})
	v.post("/lessons/2/steps", url.Values{"action": {"out"}, "step": {"form"}, "student": {"0"}})
	require.Equal(t, http.StatusSeeOther, v.post("/lessons/2/steps", url.Values{"action": {"save-template"}, "template": {"as I do it"}, "student": {"0"}}).StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/lessons/2/steps", url.Values{"action": {"save-template"}, "template": {" "}, "student": {"0"}}).StatusCode)
	assert.Contains(t, v.get("/lessons/5").body, "as I do it", "it is offered for every lesson")
	require.Equal(t, http.StatusSeeOther, v.post("/lessons/5/steps", url.Values{"action": {"template"}, "template": {"as I do it"}, "student": {"0"}}).StatusCode)
	assert.Contains(t, v.get("/lessons/5").body, "<option selected>as I do it")
	require.Equal(t, http.StatusSeeOther, v.post("/lessons/5/steps", url.Values{"action": {"delete-template"}, "template": {"as I do it"}, "student": {"0"}}).StatusCode)
	assert.NotContains(t, v.get("/lessons/2").body, "as I do it")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/lessons/5/steps", url.Values{"action": {"template"}, "template": {"as I do it"}, "student": {"0"}}).StatusCode)
}

// The lesson on paper is made for the hand of the student who gets it, as on the phone.
func TestPaperIsForTheStudent(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	token, _ := h.link("Odalys")
	phone := h.visitor().get("/s/" + token).body
	paper := v.get("/lessons/1/handout").body
	assert.Contains(t, paper, "for Odalys")
	bars := func(page string) (list []string) {
		for _, piece := range strings.Split(page, `<svg class="tab"`)[1:] {
			_, label, _ := strings.Cut(piece, `aria-label="`)
			label, _, _ = strings.Cut(label, `"`)
			for _, bar := range strings.SplitAfter(label, ". ") {
				if strings.HasPrefix(bar, "Bar ") {
					list = append(list, strings.TrimSpace(bar))
				}
			}
		}
		return list
	}
	seen := map[string]bool{}
	for _, bar := range bars(phone) {
		seen[strings.TrimSuffix(bar, ".")] = true
	}
	require.NotEmpty(t, bars(paper))
	paper, _, _ = strings.Cut(paper, "<h3>") // drills are on the phone in their steps
	for _, bar := range bars(paper) {
		assert.True(t, seen[strings.TrimSuffix(bar, ".")], bar)
	}
}

// What is heard has its bars, beats and strikes at the tempo of the step; a part of
// another's lesson is not there.
func TestMusicOfAStep(t *testing.T) {
	h := openDemo(t)
	token, saskia := h.link("Saskia")
	given, err := h.store.AssignmentsOf(t.Context(), studioOfDemo, saskia.ID)
	require.NoError(t, err)
	var a store.Assignment
	for _, one := range given {
		if one.Name == "Two Lamps" {
			a = one
		}
	}
	v := h.visitor()
	get := func(what string) (m struct {
		Tempo, Start, Seconds float64
		Bars                  []struct{ At, Beat float64 }
		Voices                []struct {
			Role, Name string
			Strikes    [][]float64
		}
	}) {
		answer := v.get("/s/" + token + "/music/" + jsonNumber(a.ID) + "?what=" + url.QueryEscape(what))
		require.Equal(t, http.StatusOK, answer.StatusCode, what)
		assert.Contains(t, answer.Header.Get("Cache-Control"), "private")
		require.NoError(t, json.Unmarshal([]byte(answer.body), &m))
		return m
	}
	m := get("part:2")
	assert.Equal(t, 88.0, m.Tempo)
	assert.InDelta(t, 2*4*60/88.0, m.Seconds, 1e-3, "two bars of four")
	assert.InDelta(t, 60/88.0, m.Bars[0].Beat, 1e-3)
	roles := map[string]string{}
	for _, voice := range m.Voices {
		roles[voice.Role] = voice.Name
		assert.NotEmpty(t, voice.Strikes, voice.Role)
	}
	assert.Equal(t, "lead", roles["other"])
	assert.Contains(t, roles, "bass")
	whole := get("step:form")
	assert.Len(t, whole.Bars, 10)
	assert.NotEmpty(t, get("step:seam.p1.i2").Bars)
	assert.NotEmpty(t, get("step:shape.fx02413").Voices[0].Strikes)
	for _, what := range []string{"part:9", "part:0", "part:x", "step:piece.p9.b1-2", "step:", "step:walk", "drill:0:1:form", "drill:9:9:form", "drill:a:b:form", "walk:form"} {
		assert.Equal(t, http.StatusNotFound, v.get("/s/"+token+"/music/"+jsonNumber(a.ID)+"?what="+url.QueryEscape(what)).StatusCode, what)
	}
}

func jsonNumber(n int64) string {
	b, _ := json.Marshal(n)
	return string(b)
}

// A student mends and takes back what is their own, and nothing else.
func TestStudentsMendTheirOwn(t *testing.T) {
	h := openDemo(t)
	ctx := t.Context()
	token, saskia := h.link("Saskia")
	_, bram := h.link("Bram")
	v := h.visitor()
	own, err := h.store.EntriesOf(ctx, studioOfDemo, saskia.ID, 1, 0)
	require.NoError(t, err)
	other, err := h.store.EntriesOf(ctx, studioOfDemo, bram.ID, 1, 0)
	require.NoError(t, err)
	entry := func(id int64) string { return "/s/" + token + "/entries/" + jsonNumber(id) }
	form := url.Values{"tempo": {"70"}, "clean": {"2"}, "minutes": {"6"}, "word": {"mended"}}
	assert.Equal(t, http.StatusSeeOther, v.post(entry(own[0].ID), form).StatusCode)
	now, err := h.store.EntryOf(ctx, studioOfDemo, saskia.ID, own[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "mended", now.Word)
	assert.Equal(t, own[0].PractisedAt, now.PractisedAt, "when it was stays")
	assert.Contains(t, v.get("/s/"+token+"/log").body, "mended")
	assert.Equal(t, http.StatusNotFound, v.post(entry(other[0].ID), form).StatusCode)
	assert.Equal(t, http.StatusNotFound, v.post(entry(other[0].ID), url.Values{"action": {"back"}}).StatusCode)
	form.Set("tempo", "9000")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post(entry(own[0].ID), form).StatusCode)
	assert.Equal(t, http.StatusSeeOther, v.post(entry(own[0].ID), url.Values{"action": {"back"}}).StatusCode)
	_, err = h.store.EntryOf(ctx, studioOfDemo, saskia.ID, own[0].ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	still, err := h.store.EntriesOf(ctx, studioOfDemo, bram.ID, 1, 0)
	require.NoError(t, err)
	assert.Equal(t, other, still)
}

// A lesson of nothing but the teacher's own step can be given, played and logged as far as
// there is anything to log it to.
func TestALessonOfOwnStepsAlone(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	v.post("/lessons/1", url.Values{"tempo": {"72"}, "name": {"Only mine"}})
	empty := v.get("/lessons/1").body
	assert.Contains(t, empty, "No part has a version yet")
	assert.Contains(t, empty, "Add a step of your own<")
	v.post("/lessons/1/steps", url.Values{"action": {"own"}, "step": {""}, "title": {"Tap your foot"}, "start": {"60"}, "goal": {"60"}, "passes": {"1"}, "minutes": {"5"}, "student": {"0"}})
	page := v.get("/lessons/1?student=0").body
	list, _ := titles(page)
	assert.Equal(t, []string{"Tap your foot"}, list)
	v.post("/lessons/1/assign", url.Values{"student": {"1"}})
	token, _ := h.link("Odalys")
	own := h.visitor().get("/s/" + token)
	assert.Equal(t, http.StatusOK, own.StatusCode)
	assert.Contains(t, own.body, "Tap your foot")
	assert.Equal(t, http.StatusOK, v.get("/lessons/1/handout").StatusCode)
	assert.Equal(t, http.StatusOK, v.get("/students/1").StatusCode)
}
