package web

import (
	"fmt"
	"html"
	"io"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/formats"
	"valleyside/web/draw"
)

// A picture is what the pages draw of a piece, line under line, as one SVG file that stands alone:
// its look is in plain attributes, which every program reads, and in no style sheet.

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
	return s.send(c, fileName(name)+".svg", "image/svg+xml", func(w io.Writer) error {
		_, err := fmt.Fprintf(w, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%g" viewBox="0 0 %d %g">`+
			`<title>%s</title><rect fill="#f6f2e9" width="100%%" height="100%%"/>%s</svg>`+"\n",
			pictureWidth+2*pictureMargin, y+pictureMargin, pictureWidth+2*pictureMargin, y+pictureMargin, html.EscapeString(p.Song.Title), inked(body.String()))
		return err
	})
}

// ink is how what is drawn looks, by its class, as the style sheet of the pages has it on paper; in
// this order, so that of two classes the later one counts.
var ink = []struct {
	class string
	look  [][2]string
}{
	{"tab", [][2]string{{"font-family", "monospace"}}},
	{"ridge", [][2]string{{"fill", "#ddd5c3"}}},
	{"path", [][2]string{{"fill", "#9dbab0"}, {"fill-opacity", ".75"}, {"stroke", "#1d4f4a"}, {"stroke-width", "1.8"}}},
	{"walked", [][2]string{{"fill", "none"}, {"stroke", "#4b3f9e"}, {"stroke-width", "3"}}},
	{"peak", [][2]string{{"fill", "#a2430f"}}},
	{"point", [][2]string{{"fill", "none"}}},
	{"hit", [][2]string{{"fill", "none"}}},
	{"place", [][2]string{{"fill", "none"}}},
	{"event", nil},
	{"string", [][2]string{{"stroke", "#857e6b"}, {"fill", "none"}}},
	{"barline", [][2]string{{"stroke", "#645f53"}, {"fill", "none"}}},
	{"stroke", [][2]string{{"stroke", "#645f53"}, {"stroke-width", "1.4"}, {"fill", "none"}}},
	{"rest", [][2]string{{"stroke", "#645f53"}, {"stroke-width", "3"}, {"fill", "none"}}},
	{"palm", [][2]string{{"stroke", "#645f53"}, {"stroke-dasharray", "3 2"}, {"fill", "none"}}},
	{"pin", [][2]string{{"stroke", "#a2430f"}, {"stroke-width", "2.5"}, {"fill", "none"}}},
	{"name", [][2]string{{"font-size", "11"}, {"fill", "#645f53"}}},
	{"number", [][2]string{{"font-size", "11"}, {"fill", "#645f53"}}},
	{"sung", [][2]string{{"font-size", "13"}, {"fill", "#26241f"}}},
	{"time", [][2]string{{"font-size", "17"}, {"font-weight", "700"}, {"text-anchor", "middle"}, {"fill", "#26241f"}}},
	{"times", [][2]string{{"font-size", "12"}, {"text-anchor", "end"}, {"fill", "#1d4f4a"}}},
	{"chord", [][2]string{{"font-family", "sans-serif"}, {"font-weight", "700"}, {"font-size", "13"}, {"fill", "#26241f"}}},
	{"also", [][2]string{{"font-family", "sans-serif"}, {"font-weight", "400"}, {"font-size", "11"}, {"fill", "#645f53"}}},
	{"fret", [][2]string{{"font-size", "13"}, {"text-anchor", "middle"}, {"fill", "#26241f"}}},
	{"accent", [][2]string{{"text-decoration", "underline"}}},
	{"ground", [][2]string{{"stroke", "#f6f2e9"}, {"stroke-width", "4"}, {"fill", "#f6f2e9"}, {"text-decoration", ""}}},
	{"finger", [][2]string{{"font-size", "10.5"}, {"fill", "#1d4f4a"}}},
	{"pluck", [][2]string{{"font-size", "11"}, {"font-style", "italic"}, {"text-anchor", "middle"}, {"fill", "#26241f"}}},
	{"spoken", [][2]string{{"font-size", "1"}, {"fill", "none"}}},
	{"count", [][2]string{{"font-size", "12"}, {"text-anchor", "middle"}, {"fill", "#645f53"}}},
	{"on", [][2]string{{"fill", "#26241f"}}},
	{"picture-part", [][2]string{{"font-family", "sans-serif"}, {"font-weight", "700"}, {"font-size", "16"}, {"fill", "#26241f"}}},
	{"picture-title", [][2]string{{"font-family", "sans-serif"}, {"font-weight", "700"}, {"font-size", "22"}, {"fill", "#26241f"}}},
}

var classes = regexp.MustCompile(` class="([^"]*)"`)

// inked is a drawing with the look of its classes in plain attributes. Programs that do not paint
// the ground of a number under it first (paint-order) would paint it over the number: those that
// have one are drawn twice, the ground alone and then the number.
func inked(drawing string) string {
	drawing = grounded.ReplaceAllString(drawing, `<text class="${1} ground"$2</text><text class="$1"$2</text>`)
	return classes.ReplaceAllStringFunc(drawing, func(attribute string) string {
		names := strings.Fields(classes.FindStringSubmatch(attribute)[1])
		var order []string
		look := map[string]string{}
		for _, row := range ink {
			if !slices.Contains(names, row.class) {
				continue
			}
			for _, l := range row.look {
				if _, had := look[l[0]]; !had {
					order = append(order, l[0])
				}
				look[l[0]] = l[1]
			}
			names = slices.DeleteFunc(names, func(n string) bool { return n == row.class })
		}
		if len(names) > 0 {
			return attribute // it is not known how that looks
		}
		var b strings.Builder
		for _, name := range order {
			if look[name] != "" {
				fmt.Fprintf(&b, ` %s="%s"`, name, look[name])
			}
		}
		return b.String()
	})
}

// grounded is a number that stands on a ground of its own.
var grounded = regexp.MustCompile(`<text class="(fret[^"]*)"([^>]*>[^<]*)</text>`)
