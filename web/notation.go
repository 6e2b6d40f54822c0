package web

import (
	"html/template"
	"net/http"
	"strings"
	"sync"

	"github.com/labstack/echo/v5"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"

	"valleyside/core/sheet"
	"valleyside/docs"
)

// Notation is all that can be typed.
func (songView) Notation() []sheet.Topic { return sheet.Notation() }

type notationView struct {
	Page
	Notation []sheet.Topic
	Doc      template.HTML
}

// described is docs/sheet.md as a page, without its heading, which the page has itself.
var described = sync.OnceValues(func() (template.HTML, error) {
	_, body, _ := strings.Cut(docs.Sheet, "\n")
	var out strings.Builder
	err := goldmark.New(goldmark.WithExtensions(extension.Table)).Convert([]byte(body), &out)
	return template.HTML(out.String()), err
})

// notation shows how a song is typed, on a page of its own.
func (s *songbook) notation(c *echo.Context) error {
	doc, err := described()
	if err != nil {
		return err
	}
	return c.Render(http.StatusOK, "notation", notationView{s.page(c, "The notation", "songs"), sheet.Notation(), doc})
}
