package web_test

import (
	"encoding/json"
	"fmt"
	"html"
	"net/http"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"valleyside/demo"
)

// previewOf asks for the preview of a sheet as the editor does, and reads the prints in
// it and the part names that are sent whole.
func (v *visitor) previewOf(sheet string, has []string, more url.Values) (body string, prints, whole []string) {
	form := url.Values{"sheet": {sheet}, "has": {strings.Join(has, " ")}}
	for k, list := range more {
		form[k] = list
	}
	body = v.post("/songs/preview", form).body
	for _, m := range regexp.MustCompile(`data-drawn="([^"]+)"`).FindAllStringSubmatch(body, -1) {
		prints = append(prints, m[1])
	}
	for _, m := range regexp.MustCompile(`(?s)<article class="part" data-part="([^"]+)"[^>]*>\s*<h2>`).FindAllStringSubmatch(body, -1) {
		whole = append(whole, m[1])
	}
	return body, prints, whole
}

const three = "title: Three\nkey: E minor\nA:\n| 0E 3E 5E 3E | 0E 3E 5E 7E |\nB:\n| 0A 3A 5A 3A |\nlead | 7D - 9D - |\nC:\n| 0D 2D 4D 2D |\n"

// Only what changed travels: the parts that a key does not touch come empty, and in the
// one that it does the lines that are drawn as before.
func TestThePreviewSendsWhatChanged(t *testing.T) {
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	full, has, whole := v.previewOf(three, nil, nil)
	assert.Equal(t, []string{"A", "B", "C"}, whole)
	assert.Equal(t, 4, strings.Count(full, "<svg"))

	again, prints, whole := v.previewOf(three, has, nil)
	assert.Empty(t, whole)
	assert.Zero(t, strings.Count(again, "<svg"))
	assert.Len(t, prints, 3, "the parts alone")
	assert.Less(t, len(again), 2000)

	typed, _, whole := v.previewOf(strings.Replace(three, "0A 3A 5A 3A", "0A 3A 7A 3A", 1), has, nil)
	assert.Equal(t, []string{"B"}, whole)
	assert.Equal(t, 1, strings.Count(typed, "<svg"), "the other player's line is as it was")

	_, _, whole = v.previewOf("# a remark\n\n"+three, has, nil)
	assert.Empty(t, whole, "parts only stand elsewhere")
	_, _, whole = v.previewOf(strings.Replace(three, "| 0D", "|   0D", 1), has, nil)
	assert.Empty(t, whole, "the layout of a bar is nothing that is drawn")
	moved, _, whole := v.previewOf(strings.Replace(three, " | 0E 3E 5E 7E |", " |\n| 0E 3E 5E 7E |", 1), has, nil)
	assert.Equal(t, []string{"A"}, whole, "its bars begin elsewhere")
	assert.Zero(t, strings.Count(moved, "<svg"), "and look the same")

	for what, sheet := range map[string]string{
		"a tuning": strings.Replace(three, "key:", "tuning: drop D\nkey:", 1),
		"a tempo":  strings.Replace(three, "key:", "tempo: 160\nkey:", 1),
		"a key":    strings.Replace(three, "E minor", "G major", 1),
	} {
		_, _, whole = v.previewOf(sheet, has, nil)
		assert.Equal(t, []string{"A", "B", "C"}, whole, what)
	}
	// A print of somebody else's is no way to what is theirs: it only leaves out.
	_, _, whole = v.previewOf(three, []string{"", "nonsense", strings.Repeat("x", 5000)}, nil)
	assert.Equal(t, []string{"A", "B", "C"}, whole)
}

// The other names of a studio's strings are drawn in its preview, so they are in the
// prints.
func TestPrintsTellStudiosApart(t *testing.T) {
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	_, has, _ := v.previewOf(three, nil, nil)
	require.Less(t, v.post("/settings", url.Values{"strings": {"E A D G H e"}}).StatusCode, 400)
	body, _, whole := v.previewOf(three, has, nil)
	assert.Equal(t, []string{"A", "B", "C"}, whole)
	assert.Contains(t, body, ">H</text>")
}

func TestTheSignUnderTheCursor(t *testing.T) {
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	at := func(sheet string, line, column int) string {
		body, _, _ := v.previewOf(sheet, nil, url.Values{"line": {strconv.Itoa(line)}, "column": {strconv.Itoa(column)}})
		from := strings.Index(body, `<div class="sign"`)
		require.GreaterOrEqual(t, from, 0)
		return html.UnescapeString(body[from:strings.Index(body, `<div class="problems"`)])
	}
	sign := at(three, 4, 7)
	assert.Contains(t, sign, "Fret 3 on the E string, a G, on 2, for a beat.")
	assert.Contains(t, sign, `data-part="A" data-bar="1" data-tempo="100" data-beats="4"`)
	assert.Contains(t, sign, `<svg class="neck"`)
	assert.Contains(t, sign, "index", "with the finger of the part as it is written")
	assert.NotContains(t, at(three, 1, 3), "<svg", "a title is nowhere on the neck")
	lead := at(three, 7, 9)
	assert.Contains(t, lead, "Fret 7 on the D string, an A")
	assert.Contains(t, lead, "<svg")
	chord := at("title: T\ncapo: 2\ntime: 6/8\ntempo: 80\nA:\n| Am7 - - - - - |\n", 6, 4)
	assert.Contains(t, chord, "The shape of Am7, which sounds Bm7 (B, D, F# and A) in a shape that is left open")
	assert.Contains(t, chord, `data-tempo="80" data-beats="2"`)
	assert.Contains(t, chord, "<svg")
	// Whatever place is asked for, there is an answer.
	for _, place := range [][2]string{{"-1", "3"}, {"99999", "1"}, {"4", "-5"}, {"4", "99999"}, {"x", "y"}, {"99999999999999999999", "1"}} {
		res := v.post("/songs/preview", url.Values{"sheet": {three}, "line": {place[0]}, "column": {place[1]}})
		assert.Equal(t, http.StatusOK, res.StatusCode)
	}
	// A part that is too long to be kept is told without its fingers.
	long := "title: T\nA:\n" + strings.Repeat("| 0A 3A 5A 7A |\n", 150)
	assert.Contains(t, at(long, 100, 6), "<svg")
}

func TestOffersInThePreview(t *testing.T) {
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	body, _, _ := v.previewOf("title: T\ntuning: dr", nil, url.Values{"line": {"2"}, "column": {"11"}})
	assert.Contains(t, body, `<ul class="offers" data-from="9">`)
	assert.Contains(t, body, `data-text="drop D"`)
	body, _, _ = v.previewOf("title: T\ntuning: dr", nil, url.Values{"line": {"2"}, "column": {"10"}})
	assert.NotContains(t, body, "offers", "within a word there is nothing to complete")
}

func TestTappedRhythms(t *testing.T) {
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	tap := func(taps string, more url.Values) (int, map[string]string) {
		form := url.Values{"sheet": {three}, "line": {"4"}, "taps": {taps}, "tempo": {"60"}, "click": {"1"}}
		for k, list := range more {
			form[k] = list
		}
		res := v.post("/songs/tap", form)
		var answer map[string]string
		if res.StatusCode != http.StatusOK {
			return res.StatusCode, map[string]string{"error": res.body}
		}
		require.NoError(t, json.Unmarshal([]byte(res.body), &answer), res.body)
		return res.StatusCode, answer
	}
	status, answer := tap("0.05 1.05 1.55 2.05 3.05", nil)
	assert.Equal(t, http.StatusOK, status)
	assert.Equal(t, "| x -  x x  x -  x - |", answer["lines"])
	assert.Equal(t, "Five taps in one bar at 60 a minute.", answer["words"])
	_, answer = tap("10 10.5 11 11.5", url.Values{"click": {""}, "tempo": {"100"}})
	assert.Equal(t, "| x x x x |", answer["lines"])
	assert.Equal(t, "Four taps in one bar at 120 a minute.", answer["words"])
	_, answer = tap("0 0.667 1 1.667 2 2.667", url.Values{"sheet": {"title: T\ntime: 3/4\nfeel: swing\nA:\n| 0A |"}})
	assert.Equal(t, "| x x  x x  x x |", answer["lines"], "in the time and the feel of the part")
	_, answer = tap("3 4 5 6 7", url.Values{"sheet": {"title: T\nA:\npickup: 1\n"}, "line": {"3"}})
	assert.Equal(t, "| x | x x x x |", answer["lines"], "after its pickup")
	for _, c := range []struct {
		taps string
		more url.Values
		want string
	}{
		{"", nil, "Nothing was tapped"},
		{"0 one", nil, "did not arrive whole"},
		{"0 1", url.Values{"tempo": {"0"}}, "Choose a tempo from 20 to 400"},
		{"0 1", url.Values{"tempo": {"NaN"}}, "Choose a tempo"},
		{"1 0", nil, "not in the order of time"},
		{"NaN", nil, "not in the order of time"},
		{fmt.Sprint(strings.Repeat("0.1 ", 2), strings.Repeat("900 ", 1)), nil, "at most 20"},
	} {
		status, answer = tap(c.taps, c.more)
		assert.Equal(t, http.StatusUnprocessableEntity, status, c.taps)
		assert.Contains(t, answer["error"], c.want, c.taps)
	}
}

// Whatever is half typed, wherever the cursor is in it, there is a preview, and it is whole
// once what it lacks is put together with what was there.
func TestEverythingHalfTypedHasAPreview(t *testing.T) {
	t.Parallel()
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	pieces := []string{"title: T\n", "key: E minor\n", "key: ", "A:\n", "B:\n", "A:\n| 0A 3A | 5A - |\n", "B:\n| Am7 - x - | % | x2\n", "like: A\n", "2 | 3A |\n", "| 0A - (3A 5A) . |", "| % |\n", "| [2/4] ", "lead | 7D |\n",
		"words | a | b |\n", "x3\n", "(", "99Z ", "\n", "order: A x2\n", "capo: 3\n", "tuning: drop D\n", "pickup: 1\n", "time: 6/8\n", "Am7 ", "- ", "|", "\ufeff", "é ", "\r\n"}
	rapid.Check(t, func(t *rapid.T) {
		text := strings.Join(rapid.SliceOfN(rapid.SampledFrom(pieces), 1, 16).Draw(t, "pieces"), "")
		line := strconv.Itoa(rapid.IntRange(0, 1+strings.Count(text, "\n")).Draw(t, "line"))
		column := strconv.Itoa(rapid.IntRange(0, 40).Draw(t, "column"))
		at := url.Values{"line": {line}, "column": {column}}
		full, has, _ := v.previewOf(text, nil, at)
		require.Contains(t, full, `class="parts"`)
		again, _, whole := v.previewOf(text, has, at)
		require.Empty(t, whole, "of what is there nothing is sent again: %q", text)
		require.LessOrEqual(t, len(again), len(full))
		edited := text + rapid.SampledFrom(pieces).Draw(t, "then")
		_, before, _ := v.previewOf(edited, nil, nil)
		part, _, _ := v.previewOf(edited, has, nil)
		known := map[string]bool{}
		for _, one := range has {
			known[one] = true
		}
		// What is left out is what is known, and all that is not known is there.
		for _, one := range before {
			require.True(t, known[one] || strings.Contains(part, `data-drawn="`+one+`"`), "%q", edited)
		}
		for _, m := range regexp.MustCompile(`<div class="line" data-drawn="([^"]+)"></div>`).FindAllStringSubmatch(part, -1) {
			require.True(t, known[m[1]], "%q", edited)
		}
	})
}
