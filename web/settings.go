package web

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/core/harmony"
	"valleyside/core/neck"
	"valleyside/core/song"
	"valleyside/core/voicing"
	"valleyside/store"
)

type settingsView struct {
	Page
	Settings store.Studio
	Links    []store.ListedLink
	Paged    paged
	Without  int // students who have no link
	Names    []string
	Email    string
	Codes    int // recovery codes that are left
	Schools  []voicing.School
}

// linksOnPage is how many links are listed at once.
const linksOnPage = 20

// stringNames are the ways of naming the strings, low to high.
var stringNames = []string{"E A D G B e", "E A D G H e", "6 5 4 3 2 1"}

func (s *office) settings(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c).ID
	paged := pageOf(c, "/settings", linksOnPage)
	most, offset := paged.span()
	links, err := s.Store.Links(ctx, at, most, offset)
	if err != nil {
		return err
	}
	links = cut(&paged, links)
	without, err := s.Store.WithoutLink(ctx, at)
	if err != nil {
		return err
	}
	t := c.Get(teacherKey).(store.Teacher)
	left, err := s.Store.CodesLeft(ctx, at, t.ID)
	if err != nil {
		return err
	}
	return c.Render(http.StatusOK, "settings", settingsView{Page: s.page(c, "Settings", "settings"), Settings: home(c), Links: links, Paged: paged, Without: without, Names: stringNames, Email: t.Email, Codes: left, Schools: voicing.Schools})
}

func (s *office) saveSettings(c *echo.Context) error {
	st := home(c)
	if name := field(c, "name", 80); name != "" {
		st.Name = name
	}
	if names := strings.Fields(field(c, "strings", 40)); len(names) == neck.Strings {
		st.StringNames = strings.Join(names, " ")
	} else {
		return wrong("Write six names for the strings, low to high, like E A D G B e.")
	}
	switch counting := song.Counting(c.FormValue("counting")); counting {
	case song.ByBeat, song.ByEighth:
		st.Counting = string(counting)
	}
	if school, err := voicing.ParseSchool(c.FormValue("school")); err == nil {
		st.ChordSchool = string(school)
	}
	if numbering, err := harmony.ParseNumbering(c.FormValue("numbering")); err == nil && c.FormValue("numbering") != "" {
		st.Numbering = string(numbering)
	}
	for field, to := range map[string]*string{"shapes": &st.Shapes, "paper": &st.Paper} {
		if v := c.FormValue(field); slices.Contains([]string{"lying", "upright", "a4", "letter"}, v) {
			*to = v
		}
	}
	zone := field(c, "zone", 60)
	if _, err := time.LoadLocation(zone); err != nil || zone == "Local" {
		return wrong("There is no such time zone; write one like Europe/Oslo, or leave it empty for that of the machine.")
	}
	notice := "Saved the settings."
	if st.TimeZone != zone {
		st.TimeZone, notice = zone, "Saved the settings. What was practised is counted by the new days; with much of it that takes a moment."
	}
	err := s.undoable(c, func(ctx context.Context) (string, error) { return notice, s.Store.SetStudio(ctx, st) })
	if err != nil {
		return err
	}
	return see(c, "/settings")
}

// export is everything that the studio holds.
func (s *office) export(c *echo.Context) error {
	return s.send(c, fmt.Sprintf("valleyside-%s.zip", s.Now().Format("2006-01-02")), "application/zip", func(w io.Writer) error {
		return s.Store.Export(c.Request().Context(), home(c).ID, w)
	})
}
