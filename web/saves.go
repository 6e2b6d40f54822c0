package web

import (
	"strconv"
	"strings"

	"github.com/aymanbagabas/go-udiff"
	"github.com/labstack/echo/v5"

	"valleyside/store"
)

// diffLine is a line of two texts that are compared.
type diffLine struct {
	Kind string // same, new, gone or between
	Says string // for those who hear the page
	Text string
}

// linesAround is how many lines that are the same are shown around those that are not.
const linesAround = 2

// differences compares the save that is shown with another, the one before it where none is asked
// for.
func (s *songbook) differences(c *echo.Context, v *savesView) error {
	with, _ := strconv.Atoi(c.QueryParam("with"))
	var other store.Save
	for _, one := range v.Saves { // the newest first
		if one.No == with && with != v.Shown.No || with == 0 && other.No == 0 && one.No < v.Shown.No {
			other = one
		}
	}
	if other.No == 0 {
		return nil
	}
	v.With, v.Differs = other.No, true
	ctx, at := c.Request().Context(), home(c).ID
	before, err := s.Store.SongParts(ctx, at, v.Song.ID, other.No)
	if err != nil {
		return err
	}
	after, err := s.Store.SongParts(ctx, at, v.Song.ID, v.Shown.No)
	if err != nil {
		return err
	}
	v.Says = changesBetween(c, s.house.Read(at, other.Sheet, before), s.house.Read(at, v.Shown.Sheet, after))
	v.Lines, err = diffLines(other.Sheet, v.Shown.Sheet)
	return err
}

// diffLines are the lines of two texts around what differs; none where they are the same.
func diffLines(before, after string) (lines []diffLine, err error) {
	hunks, err := udiff.ToUnifiedDiff("", "", before, udiff.Lines(before, after), linesAround)
	if err != nil {
		return nil, err
	}
	for i, h := range hunks.Hunks {
		if i > 0 {
			lines = append(lines, diffLine{Kind: "between", Text: "…"})
		}
		for _, l := range h.Lines {
			line := diffLine{Kind: "same", Text: strings.TrimRight(l.Content, "\n")}
			switch l.Kind {
			case udiff.Insert:
				line.Kind, line.Says = "new", "New: "
			case udiff.Delete:
				line.Kind, line.Says = "gone", "Gone: "
			}
			lines = append(lines, line)
		}
	}
	return lines, nil
}
