package web

import (
	"fmt"
	"net/http"

	"github.com/labstack/echo/v5"

	"valleyside/core/neck"
	"valleyside/core/sheet"
)

// Notation is all that can be typed.
func (songView) Notation() []sheet.Topic { return sheet.Notation() }

type notationView struct {
	Page
	Notation []sheet.Topic
	Sample   string
	Limits   string
}

// sample is a short sheet that has something of everything.
const sample = `title: Lantern Walk
key: A minor
time: 4/4
tempo: 104
order: Opening, Verse x4, Opening

Opening:
| 0A - 3A 5A  2D - (5A 3A) . | 3D+5G - - -  . . x x | x3
| 0A - 3A 5A  7A - 5A -      | A5 - - -             |

Verse:
mute: palm
| Am7 - - - F - - - | C/G - D5=x577xx - |
`

// notation shows how a song is typed, on a page of its own.
func (s *Server) notation(c *echo.Context) error {
	limits := fmt.Sprintf("A sheet has %d KB, %d parts and %d written bars at most, a bar %d slots; brackets are %d deep at most, frets go from 0 to %d and the tempo from %d to %d.",
		sheet.MaxBytes>>10, sheet.MaxParts, sheet.MaxBars, sheet.MaxSlots, sheet.MaxNesting, neck.MaxFret, sheet.MinTempo, sheet.MaxTempo)
	return c.Render(http.StatusOK, "notation", notationView{s.page(c, "The notation", "songs"), sheet.Notation(), sample, limits})
}
