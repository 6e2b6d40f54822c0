package web_test

import (
	"html"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/core/sheet"
	"valleyside/demo"
)

// The page of the notation has every sign, and a sheet at its top that is right.
func TestNotationPage(t *testing.T) {
	h := openDemo(t)
	v := h.signIn(demo.Email, demo.Password)
	page := v.get("/notation")
	beside := v.get("/songs/1")
	_, sample, _ := strings.Cut(page.body, `<pre class="sheet-text">`)
	sample, _, _ = strings.Cut(sample, "</pre>")
	assert.Empty(t, sheet.Parse(html.UnescapeString(sample)).Problems, sample)
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
