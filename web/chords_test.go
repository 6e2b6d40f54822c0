package web_test

import (
	"net/http"
	"net/url"
	"path"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Whatever is asked of the chords of a song and of the desk, there is an
// answer.
func TestChordsAndDesk(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	for _, query := range []string{"", "school=letter", "school=third&student=1", "school=drone&capo=12", "school=nonsense&capo=x&tuning=nonsense",
		"tuning=open+G&part=Chorus&bar=3&at=3/4", "part=Chorus&bar=99&at=1/3", "sung=E&school=letter"} {
		a := v.get("/songs/6/chords?" + query)
		assert.Equal(t, http.StatusOK, a.StatusCode, query)
		assert.True(t, strings.Contains(a.body, "Another key"), query)
	}
	drone := v.get("/songs/6/chords?school=drone").body
	assert.True(t, strings.Contains(drone, "adds"), "what a drone adds is said")
	letter := v.get("/songs/8/chords?school=letter&part=Rain&bar=4&at=0").body
	assert.True(t, strings.Contains(letter, "E ⑤") || strings.Contains(letter, "E ⑥"), "the circled string")
	open := v.get("/songs/6/chords?tuning=open+G").body
	assert.True(t, strings.Contains(open, "Retuning to open G"))
	riffs := v.get("/songs/7/chords")
	assert.Equal(t, http.StatusOK, riffs.StatusCode)

	for _, query := range []string{"", "symbol=", "symbol=Hx", "symbol=C13&school=few&student=2", "frets=x32010", "frets=nonsense", "frets=xxxxxx",
		"chords=Am+F+E7+Bdim", "chords=Zz", "chords=" + strings.Repeat("C+", 65), "to=open+A&tuning=drop+D", "heard=435&as=A4", "heard=x&as=y", "sung=B"} {
		assert.Equal(t, http.StatusOK, v.get("/desk?"+query).StatusCode, query)
	}
	assert.True(t, strings.Contains(v.get("/desk?frets=x02210").body, "<b>Am</b>"))
	assert.True(t, strings.Contains(v.get("/desk?chords="+strings.Repeat("C+", 65)).body, "write 64 at most"))
	assert.True(t, strings.Contains(v.get("/desk?heard=432&as=A4").body, "-31.8 cents"))
}

func TestChoosingVoicings(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	form := func(more url.Values) url.Values {
		for name, value := range map[string]string{"part": "Verse", "bar": "1", "at": "0", "symbol": "C", "query": "part=Verse&bar=1&at=0"} {
			more.Set(name, value)
		}
		return more
	}
	a := v.post("/songs/6/chords", form(url.Values{"here": {"x35553"}}))
	assert.Equal(t, http.StatusSeeOther, a.StatusCode)
	body := v.get(a.Header.Get("Location")).body
	assert.Equal(t, 1, strings.Count(body, "· chosen"), "only here")
	assert.True(t, strings.Contains(body, "x35553"), "a shape of another school can be chosen")
	v.post("/songs/6/chords", form(url.Values{"everywhere": {"x35553"}}))
	assert.Equal(t, 4, strings.Count(v.get("/songs/6/chords").body, "· chosen"), "every C of the song")
	v.post("/songs/6/chords", form(url.Values{"here": {""}}))
	assert.Equal(t, 3, strings.Count(v.get("/songs/6/chords").body, "· chosen"), "let go here, and kept elsewhere")
	v.post("/songs/6/chords", form(url.Values{"everywhere": {"x35553"}}))
	assert.Equal(t, 4, strings.Count(v.get("/songs/6/chords").body, "· chosen"))
	v.post("/songs/6/chords", form(url.Values{"everywhere": {""}}))
	assert.Zero(t, strings.Count(v.get("/songs/6/chords").body, "· chosen"))
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/songs/6/chords", form(url.Values{"here": {"x3"}})).StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/songs/6/chords", form(url.Values{})).StatusCode)

	moved := v.post("/songs/6/transpose", url.Values{"to": {"E major"}, "how": {"move"}})
	assert.Equal(t, "/songs/6", moved.Header.Get("Location"))
	assert.True(t, strings.Contains(v.get("/songs/6").body, "key: E major"), "as a draft")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/songs/6/transpose", url.Values{"to": {"E minor"}}).StatusCode)
	assert.Equal(t, http.StatusUnprocessableEntity, v.post("/songs/6/transpose", url.Values{"to": {"H"}}).StatusCode)
	lower := v.post("/songs/6/transpose", url.Values{"to": {"a minor third lower"}, "how": {"move"}})
	assert.Equal(t, http.StatusSeeOther, lower.StatusCode)
	assert.Contains(t, v.get("/songs/6").body, "key: A major", "from C, as it is saved")
	desk := v.get("/desk?chords=C+G+Am+F&singer=a+third+lower").body
	assert.Contains(t, desk, "For the singer, a third lower")
	assert.Contains(t, desk, "<b>A major</b>: A E F#m D, capo 2")
	assert.Contains(t, v.get("/desk?chords=C+G&singer=louder").body, "is nothing that a singer asks for")
	capo := v.post("/songs/6/transpose", url.Values{"to": {"D major"}, "how": {"capo"}})
	assert.Equal(t, http.StatusSeeOther, capo.StatusCode)
	assert.True(t, strings.Contains(v.get("/songs/6").body, "capo: 2"))
}

// A chord that is struck again at once is one chord to choose for, whichever of its strokes
// is looked at, and a shape for it is one for all of them.
func TestStrokesOfAChordAreOne(t *testing.T) {
	h, v, studio := room(t)
	song := v.typed("title: Hatch\nkey: C major\nA:\nstrum: d - d u - u d u\n| C - - - G - - - | C |\n")
	page := v.get(song + "/chords").body
	slots := regexp.MustCompile(`<a href="[^"]*\bat=[^"]*\bbar=`)
	assert.Len(t, slots.FindAllString(page, -1), 3)
	assert.Contains(t, v.get(song+"/chords?part=A&bar=1&at=7/8").body, "G in A, bar 1")

	again := regexp.MustCompile(`name="again" value="([^"]*)"`)
	form := url.Values{"part": {"A"}, "bar": {"1"}, "at": {"0"}, "symbol": {"C"}, "here": {"x35553"}}
	for _, found := range again.FindAllStringSubmatch(page, -1) {
		form.Add("again", found[1])
	}
	assert.Equal(t, []string{"1/4", "3/8"}, form["again"])
	v.post(song+"/chords", form)
	id, err := strconv.ParseInt(path.Base(song), 10, 64)
	require.NoError(t, err)
	ways, err := h.store.WaysOf(t.Context(), studio, id)
	require.NoError(t, err)
	require.Len(t, ways, 1)
	assert.Equal(t, 3, strings.Count(ways[0].Way, "x35553"), "its three strokes in the first bar, and no other: %s", ways[0].Way)
	assert.Len(t, slots.FindAllString(v.get(song+"/chords").body, -1), 3)

	apart := v.typed("title: Latch\nkey: C major\nA:\n| C C C G |\n")
	v.post(apart+"/chords", url.Values{"part": {"A"}, "bar": {"1"}, "at": {"1/2"}, "symbol": {"C"}, "here": {"x35553"}})
	page = v.get(apart + "/chords").body
	assert.Len(t, slots.FindAllString(page, -1), 3, "two shapes are two to choose for")
	assert.Len(t, again.FindAllString(page, -1), 1, "and what is chosen for one leaves the other")
}

// Whoever else plays chords has shapes of their own.
func TestChordsOfAnotherPlayer(t *testing.T) {
	h, v, studio := room(t)
	at := v.typed("title: Hatch\nkey: C major\nA:\n| C - - - |\nrhythm | Am - C - |\nB:\n| F |\nC:\n| G |\nlead | 0A |\n")
	first := v.get(at + "/chords").body
	assert.Contains(t, first, "<option >rhythm")
	assert.NotContains(t, first, "<option >lead", "who plays no chord is not asked for")
	assert.Contains(t, first, "C in A, bar 1")
	theirs := v.get(at + "/chords?line=rhythm").body
	assert.Contains(t, theirs, "Am in A, bar 1")
	assert.NotContains(t, theirs, "F in B")
	assert.NotContains(t, theirs, `aria-label="B"`, "where they play nothing there is nothing to choose")
	assert.Contains(t, v.get(at+"/chords?line=nobody").body, "C in A, bar 1")

	v.post(at+"/chords", url.Values{"part": {"A"}, "bar": {"1"}, "at": {"1/2"}, "symbol": {"C"}, "line": {"rhythm"}, "everywhere": {"x35553"}})
	id, err := strconv.ParseInt(path.Base(at), 10, 64)
	require.NoError(t, err)
	ways, err := h.store.WaysOf(t.Context(), studio, id)
	require.NoError(t, err)
	require.Len(t, ways, 1)
	assert.Equal(t, "rhythm", ways[0].Player)
	assert.Contains(t, v.get(at+"/chords?line=rhythm").body, "x35553")
	assert.NotContains(t, v.get(at+"/chords").body, "· chosen", "the first player's is as it was")
}

// The ways to make chords easier stand on the page of the chords as on that of the rungs; the
// capo is tried out for who is looked at, and what is wrong with a choice is said.
func TestEasierChordsOnBothPages(t *testing.T) {
	h := openDemo(t)
	v := h.marit()
	sheet := "title: Harbour\nkey: Bb\ntempo: 90\n\nQuay:\n| Bb - - - | Gm - - - | Eb - - - | F - - - |\n"
	a := v.post("/songs", url.Values{"title": {"Harbour"}, "sheet": {sheet}})
	require.Equal(t, http.StatusSeeOther, a.StatusCode)
	song := regexp.MustCompile(`/songs/\d+`).FindString(a.Header.Get("Location"))
	if body := v.get(song + "/chords").body; !strings.Contains(body, "Quay") {
		v.post(song, url.Values{"sheet": {sheet}})
	}
	chords, rungs := v.get(song+"/chords?student=5").body, v.get(song+"/rungs?student=5&rung=easy-chords").body
	for _, body := range []string{chords, rungs} {
		assert.True(t, strings.Contains(body, "capo at fret 3: G Em C D"))
	}
	link := regexp.MustCompile(`href="(\?[^"]*capo=3[^"]*)"`).FindStringSubmatch(chords)
	require.NotNil(t, link)
	tried := v.get(song + "/chords" + strings.ReplaceAll(link[1], "&amp;", "&")).body
	assert.True(t, strings.Contains(tried, `name="capo" min="0" max="12" value="3"`))
	assert.True(t, strings.Contains(tried, `<option value="5" selected>`), "still for the same student")

	form := url.Values{"part": {"Quay"}, "school": {"few"}, "for": {"5"}, "query": {"student=5"}}
	refused := v.post(song+"/chords", form)
	assert.Equal(t, http.StatusUnprocessableEntity, refused.StatusCode)
	assert.True(t, strings.Contains(refused.body, "has no lesson of their own of “Harbour” yet"))
	form.Set("school", "nonsense")
	assert.Equal(t, http.StatusUnprocessableEntity, v.post(song+"/chords", form).StatusCode)
	form.Set("school", "few")
	form.Del("for")
	assert.Equal(t, http.StatusSeeOther, v.post(song+"/chords", form).StatusCode)
	assert.Regexp(t, `value="few"\s+aria-pressed="true"`, v.get(song+"/chords?student=5").body)
}
