package draw

import (
	"html/template"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// Elements lie within one another and are all closed, lengths have one decimal at
// most, and nothing that is said can become an element.
func TestCanvas(t *testing.T) {
	c := frame("small", "img", `a "picture"`, 20, 10.25).sized(32, 8)
	c.begin("a", "").set("href", "?a=1&b=<2>")
	c.circle(marked("dot", "on", true), 1, -0.04, 2.96).title("1 < 2").end()
	c.path("way").M(0, 0).L(1.5, 2).h(-3).v(0.26).l(1, 1).H(4).V(5).C(1, 2, 3, 4, 5, 6).z().end()
	c.text(marked("word", "on", false), 3, 4, "<b>")
	svg := c.svg()
	assert.Equal(t, template.HTML(`<svg class="small" role="img" aria-label="a &#34;picture&#34;" viewBox="0 0 20 10.2" width="2.000rem" height="0.500rem">`+
		`<a href="?a=1&amp;b=&lt;2&gt;"><circle class="dot on" cx="1" cy="0" r="3"><title>1 &lt; 2</title></circle>`+
		`<path class="way" d="M0 0L1.5 2h-3v0.3l1 1H4V5C1 2 3 4 5 6z"/><text class="word" x="3" y="4">&lt;b&gt;</text></a></svg>`), svg)
	rapid.Check(t, func(t *rapid.T) {
		said := rapid.StringMatching(`[ -~]{0,12}`).Draw(t, "said")
		c := frame("c", "img", said, 10, 10)
		c.begin("a", said).set("href", said)
		c.text(said, 1, 1, said)
		c.rect("r", 1, 1, 1, 1).title(said).end()
		assert.Equal(t, said, strings.Join(picture(t, c.svg()), ""))
	})
}
