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
	var c canvas
	c.f(`<svg class="qr" role="img" aria-label="The link as a code for a camera" viewBox="0 0 %d %d" shape-rendering="crispEdges"><path class="ground" d="M0 0h%dv%dH0z"/><path class="dark" d="`,
		len(rows), len(rows), len(rows), len(rows))
	for y, row := range rows {
		for x := 0; x < len(row); x++ {
			from := x
			for x < len(row) && row[x] {
				x++
			}
			if x > from {
				c.f("M%d %dh%dv1h-%dz", from, y, x-from, x-from)
			}
		}
	}
	c.f(`"/></svg>`)
	return template.HTML(c.String()), nil
}
