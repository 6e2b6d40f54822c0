package draw

import (
	"fmt"
	"html/template"

	"github.com/skip2/go-qrcode"
)

// QR draws a text as a code that a phone's camera reads: dark squares on a light
// ground in every theme, with the quiet edge that readers need.
func QR(text string) (template.HTML, error) {
	code, err := qrcode.New(text, qrcode.Medium)
	if err != nil {
		return "", fmt.Errorf("draw a code: %w", err)
	}
	rows := code.Bitmap() // with its quiet edge
	size := float64(len(rows))
	c := frame("qr", "img", "The link as a code for a camera", size, size).set("shape-rendering", "crispEdges")
	c.path("ground").M(0, 0).h(size).v(size).H(0).z().end()
	dark := c.path("dark")
	for y, row := range rows {
		for x := 0; x < len(row); x++ {
			from := x
			for x < len(row) && row[x] {
				x++
			}
			if x > from {
				dark.M(float64(from), float64(y)).h(float64(x - from)).v(1).h(float64(from - x)).z()
			}
		}
	}
	dark.end()
	return c.svg(), nil
}
