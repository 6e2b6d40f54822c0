package web

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/rhythm"
	"valleyside/core/sheet"
)

// tappedLines are what was tapped, as it goes into the sheet, and in words.
type tappedLines struct {
	Lines string `json:"lines"`
	Words string `json:"words"`
}

// tapRhythm writes a rhythm that was tapped, in the time of the part that the cursor is
// in.
func (s *songbook) tapRhythm(c *echo.Context) error {
	text, err := typedSheet(c)
	if err != nil {
		return err
	}
	sh := sheet.Parse(text)
	line, _ := strconv.Atoi(c.FormValue("line"))
	taps := rhythm.Taps{Click: c.FormValue("click") != ""}
	at := sh.At(line, 1)
	taps.Meter, taps.Feel, _ = timeAt(sh, at)
	if pickup := taps.Meter.Beat().Mul(sh.Pickup(at.Part)); pickup.Num() > 0 && pickup.Less(taps.Meter.Bar()) {
		taps.Lead = taps.Meter.Bar().Sub(pickup)
	}
	if taps.Tempo, err = strconv.ParseFloat(c.FormValue("tempo"), 64); err != nil || !(taps.Tempo >= sheet.MinTempo && taps.Tempo <= sheet.MaxTempo) {
		return wrong(fmt.Sprintf("Choose a tempo from %d to %d.", sheet.MinTempo, sheet.MaxTempo))
	}
	for _, f := range strings.Fields(c.FormValue("taps")) {
		at, err := strconv.ParseFloat(f, 64)
		if err != nil {
			return wrong("The taps did not arrive whole. Tap once more.")
		}
		taps.At = append(taps.At, at)
	}
	tapped, err := taps.Write()
	if err != nil {
		return wrong(strings.ToUpper(err.Error()[:1]) + err.Error()[1:] + ".")
	}
	return c.JSON(http.StatusOK, tappedLines{Lines: tapped.Sheet(taps.Meter), Words: speaker(c).Tapped(tapped)})
}
