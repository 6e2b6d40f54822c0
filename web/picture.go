package web

import (
	"fmt"
	"html"
	"io"
	"regexp"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/formats"
	"valleyside/web/draw"
)

// A picture is what the pages draw of a piece, line under line, as one SVG file with the
// look of the pages in it, so that it can be looked at anywhere.

// pictureForm is the form in which the pages alone can be taken along.
const pictureForm formats.Form = "svg"

// The measures of a picture, px.
const (
	pictureWidth  = 900
	pictureMargin = 24
	pictureTitle  = 34
	pictureGap    = 14
)

// drawingTag is the beginning of a drawing: its tag, and in that its size.
var (
	drawingTag  = regexp.MustCompile(`^<svg[^>]*>`)
	drawingBox  = regexp.MustCompile(`viewBox="0 0 ([0-9.]+) ([0-9.]+)"`)
	drawingSize = regexp.MustCompile(` (?:width|height)="[0-9.]+rem"`)
)

// placedAt is a drawing at a height inside another, and how high it is.
func placedAt(drawing SafeHTML, y float64) (inside string, height float64) {
	text := string(drawing)
	tag := drawingTag.FindString(text)
	box := drawingBox.FindStringSubmatch(tag)
	if box == nil {
		return "", 0
	}
	height, _ = strconv.ParseFloat(box[2], 64)
	tag = drawingSize.ReplaceAllString(tag, "")
	tag = strings.Replace(tag, "<svg", fmt.Sprintf(`<svg x="%d" y="%g" width="%s" height="%s"`, pictureMargin, y, box[1], box[2]), 1)
	return tag + text[len(drawingTag.FindString(text)):], height
}

// sendPicture answers with the parts of a piece as they are drawn on the pages.
func (s *base) sendPicture(c *echo.Context, p formats.Piece, name string) error {
	st := style(c, pictureWidth)
	st.Fingers, st.Strokes = true, true
	var body strings.Builder
	y := float64(pictureMargin)
	heading := func(class, text string) {
		y += pictureTitle
		fmt.Fprintf(&body, `<text class="%s" x="%d" y="%g">%s</text>`, class, pictureMargin, y-10, html.EscapeString(text))
	}
	heading("picture-title", p.Song.Title)
	for i := range p.Song.Parts {
		part := &p.Song.Parts[i]
		if part.Written() == 0 || p.Music[i].Version == nil {
			continue
		}
		v := p.Music[i].Version
		heading("picture-part", fmt.Sprintf("%s, %s", part.Name, strings.ToLower(v.Rung.Title())))
		for _, line := range draw.Tab(draw.Version(part, v, v), st, true) {
			inside, height := placedAt(line, y)
			body.WriteString(inside)
			y += height + pictureGap
		}
	}
	css, err := staticFiles.ReadFile("static/app.css")
	if err != nil {
		return err
	}
	return s.send(c, fileName(name)+".svg", "image/svg+xml", func(w io.Writer) error {
		_, err := fmt.Fprintf(w, `<svg xmlns="http://www.w3.org/2000/svg" class="picture" width="%d" height="%g" viewBox="0 0 %d %g">`+
			`<title>%s</title><style><![CDATA[%s]]></style><rect class="picture-ground" width="100%%" height="100%%"/>%s</svg>`+"\n",
			pictureWidth+2*pictureMargin, y+pictureMargin, pictureWidth+2*pictureMargin, y+pictureMargin, html.EscapeString(p.Song.Title), lookOf(string(css)), body.String())
		return err
	})
}

var (
	fontFaces  = regexp.MustCompile(`@font-face\{[^}]*\}`)
	darkColors = regexp.MustCompile(`@media \(prefers-color-scheme: ?dark\)\{:root\{[^}]*\}\}`)
)

// lookOf is the style of the pages as far as a picture has it: on paper, and with what is
// in no other file.
func lookOf(css string) string {
	return darkColors.ReplaceAllString(fontFaces.ReplaceAllString(css, ""), "")
}
