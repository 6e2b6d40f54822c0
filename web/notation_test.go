package web_test

import (
	"html"
	"regexp"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/sheet"
	"valleyside/demo"
	"valleyside/docs"
)

// The page of the notation has every sign, and a sheet at its top that is right.
func TestNotationPage(t *testing.T) {
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	page := v.get("/notation")
	beside := v.get("/songs/1")
	_, sample, _ := strings.Cut(page.body, "<pre><code>")
	sample, _, _ = strings.Cut(sample, "</code></pre>")
	assert.Contains(t, sample, "title:")
	assert.Empty(t, sheet.Parse(html.UnescapeString(sample)).Problems, sample)
	assert.Equal(t, 1, strings.Count(page.body, "<h1>"))
	assert.Contains(t, page.body, "<table>")
	// All that docs/sheet.md says is there, word for word but for its markup.
	plain := func(text string) string {
		text = regexp.MustCompile("<[^>]*>").ReplaceAllString(text, " ")
		return strings.Join(strings.FieldsFunc(html.UnescapeString(text), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsDigit(r) }), " ")
	}
	_, body, _ := strings.Cut(docs.Sheet, "\n")
	for _, line := range strings.Split(body, "\n") {
		if words := plain(strings.NewReplacer("`", " ", "*", " ").Replace(line)); words != "" && !strings.HasPrefix(line, "|---") {
			assert.Contains(t, plain(page.body), words)
		}
	}
	signs := 0
	for _, topic := range sheet.Notation() {
		for _, s := range topic.Signs {
			signs++
			assert.Contains(t, html.UnescapeString(page.body), "<code>"+s.Example+"</code>", s.Asks)
			assert.Contains(t, html.UnescapeString(beside.body), `data-example="`+s.Example+`"`, s.Asks)
		}
	}
	require.Greater(t, signs, 40)
	assert.NotContains(t, page.body, "data-example", "there is no sheet to put it in")
}
