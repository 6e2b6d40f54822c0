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

	"valleyside/core/progress"
	"valleyside/store"
)

// A lesson hour of the demo's Bram, from its plan to the next one.
func TestLessonHour(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	ctx := t.Context()
	const bram = 2
	path := fmt.Sprintf("/students/%d/hour", bram)
	page := v.get(path).body
	labels := func(page string) string {
		var list []string
		for _, m := range regexp.MustCompile(`<span class="label">([^<]*)</span>`).FindAllStringSubmatch(page, -1) {
			list = append(list, m[1])
		}
		return strings.Join(list, ", ")
	}
	assert.Equal(t, "arrive, hear first, fix, next, take home", labels(page))
	for _, text := range []string{"Rain is there, with the palm on", "There was no time for Hail", "the last three tries were not clean", "Practised on"} {
		assert.Contains(t, page, text)
	}
	hours, err := h.store.HoursOf(ctx, studioOfDemo, bram, 9)
	require.NoError(t, err)
	require.Len(t, hours, 1, "looking at it begins no hour")

	// Ticking off and logging begin it, and its plan stays as it was shown.
	post := func(form url.Values) answer { return v.post(path, form) }
	assert.Equal(t, http.StatusSeeOther, post(url.Values{"action": {"tick"}, "item": {"1"}, "done": {"1"}}).StatusCode)
	fix := regexp.MustCompile(`(?s)<span class="label">fix</span>.*?name="item" value="(\d)".*?name="tempo"[^>]*value="(\d+)"`).FindStringSubmatch(v.get(path).body)
	require.NotNil(t, fix)
	assert.Equal(t, http.StatusSeeOther, post(url.Values{"action": {"log"}, "item": {fix[1]}, "tempo": {fix[2]}, "clean": {"3"}, "minutes": {"9"}}).StatusCode)
	page = v.get(path).body
	assert.Equal(t, "arrive, hear first, fix, next, take home", labels(page), "it is not stuck any more, and the plan stays")
	assert.Contains(t, page, "3 clean passes at "+fix[2]+", 9 min")
	assert.Equal(t, 2, strings.Count(page, `class="tick" aria-pressed="true"`))
	entries, err := h.store.EntriesOf(ctx, studioOfDemo, bram, 1, 0)
	require.NoError(t, err)
	assert.Equal(t, "in the lesson", entries[0].Word)
	for name, form := range map[string]url.Values{
		"no such part":    {"action": {"tick"}, "item": {"99"}, "done": {"1"}},
		"no number":       {"action": {"log"}, "item": {"x"}, "tempo": {"70"}, "clean": {"1"}, "minutes": {"1"}},
		"nothing to log":  {"action": {"log"}, "item": {"1"}, "tempo": {"70"}, "clean": {"1"}, "minutes": {"1"}},
		"no tempo":        {"action": {"log"}, "item": {fix[1]}, "tempo": {"9999"}, "clean": {"1"}, "minutes": {"1"}},
		"nothing asked":   {"action": {""}},
		"another's steps": {"action": {"home"}, "take": {"1 part.p1"}},
		"no step":         {"action": {"home"}, "take": {"2 part.p99"}},
		"too long":        {"action": {"minutes"}, "minutes": {"1000"}},
	} {
		assert.GreaterOrEqual(t, post(form).StatusCode, 400, name)
	}
	entries, err = h.store.EntriesOf(ctx, studioOfDemo, bram, 2, 0)
	require.NoError(t, err)
	assert.NotEqual(t, "in the lesson", entries[1].Word, "logged once")

	// Another length makes another plan, with what is ticked off.
	post(url.Values{"action": {"minutes"}, "minutes": {"30"}})
	hours, err = h.store.HoursOf(ctx, studioOfDemo, bram, 1)
	require.NoError(t, err)
	sum := 0
	for _, it := range hours[0].Items {
		sum += it.Minutes
	}
	assert.Equal(t, 30, sum)
	assert.True(t, hours[0].Items[0].Done)

	// What is taken home comes first on the phone and on paper.
	value := regexp.MustCompile(`name="take" value="([^"]*)"`).FindAllStringSubmatch(v.get(path).body, -1)
	require.Greater(t, len(value), 4)
	last := value[len(value)-1][1]
	assert.Equal(t, http.StatusSeeOther, post(url.Values{"action": {"home"}, "take": {last}}).StatusCode)
	_, step, _ := strings.Cut(last, " ")
	token, err := h.store.AddLink(ctx, studioOfDemo, bram, "phone", store.At(noon))
	require.NoError(t, err)
	phone := v.get("/s/" + token).body
	_, phone, _ = strings.Cut(phone, "data-today")
	first := regexp.MustCompile(`data-of="\d+ ([^"]*)"`).FindStringSubmatch(phone)
	require.NotNil(t, first)
	assert.Equal(t, step, first[1])
	assert.Contains(t, phone, "chosen by your teacher")
	assert.Contains(t, v.get(path).body, "Chosen: they come first on Bram")

	// The code on one student's papers is theirs alone, whoever comes today.
	paper := fmt.Sprintf("/handouts?student=%d", bram)
	links := func(student int64) int {
		list, err := h.store.LinksOf(ctx, studioOfDemo, student)
		require.NoError(t, err)
		return len(list)
	}
	was := []int{links(1), links(bram), links(5)}
	assert.Contains(t, v.get(paper).body, `action="`+paper+`"`)
	assert.Equal(t, paper, v.post(paper, url.Values{}).Header.Get("Location"))
	assert.Equal(t, []int{was[0], was[1] + 1, was[2]}, []int{links(1), links(bram), links(5)})
	assert.Contains(t, v.get(paper).body, "your page")

	// The note is what the next lesson begins with.
	post(url.Values{"action": {"note"}, "note": {"One line.\nAnd <b>another</b>."}})
	require.NoError(t, h.store.SetHour(ctx, studioOfDemo, bram, progress.DayOf(noon)-7, func(hour store.Hour) (store.Hour, error) { return hour, nil }))
	assert.Contains(t, v.get(path).body, "One line.\nAnd &lt;b&gt;another&lt;/b&gt;.")
	assert.Contains(t, v.get(fmt.Sprintf("/students/%d", bram)).body, "And &lt;b&gt;another&lt;/b&gt;.")
}

// A student says a word, the teacher answers, and both see it; nobody else does.
func TestWords(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.marit()
	token, saskia := h.link("Saskia")
	page := "/s/" + token
	say := func(word string) int {
		return h.visitor().post(page+"/words", url.Values{"word": {word}}).StatusCode
	}
	assert.Equal(t, http.StatusSeeOther, say("is <i>this</i> a G?"))
	assert.Equal(t, http.StatusUnprocessableEntity, say("   "))
	assert.Contains(t, v.get("/").body, "is &lt;i&gt;this&lt;/i&gt; a G?")
	hour := fmt.Sprintf("/students/%d/hour", saskia.ID)
	shown := v.get(hour).body
	id := regexp.MustCompile(`name="word" value="(\d+)"`).FindStringSubmatch(shown)
	require.NotNil(t, id)
	assert.Equal(t, http.StatusNotFound, v.post("/students/1/hour", url.Values{"action": {"answer"}, "word": {id[1]}, "answer": {"x"}}).StatusCode, "it is not theirs")
	assert.Equal(t, http.StatusSeeOther, v.post(hour, url.Values{"action": {"answer"}, "word": {id[1]}, "answer": {"it is, without the fifth"}}).StatusCode)
	assert.NotContains(t, v.get("/").body, "a G?")
	assert.NotContains(t, v.get(hour).body, "a G?")
	assert.Contains(t, v.get(page).body, "it is, without the fifth")
	other, _ := h.link("Kofi")
	assert.NotContains(t, v.get("/s/"+other).body, "without the fifth")
}
