package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/store"
	"valleyside/web/draw"
)

type songRow struct {
	store.Song
	*summary
}

type songsView struct {
	Page
	Songs []songRow
}

func (s *Server) songs(c *echo.Context) error {
	list, err := s.Store.Songs(c.Request().Context(), studio(c).ID)
	if err != nil {
		return err
	}
	v := songsView{Page: s.page(c, "Songs", "songs")}
	for _, g := range list {
		v.Songs = append(v.Songs, songRow{g, s.music.summarize(g.Sheet, nil, s.options(c, hand.Player{}, 0))})
	}
	return c.Render(http.StatusOK, "songs", v)
}

// starter is the sheet of a new song: what to type next, as comments.
const starter = `title: %s
key: A minor
time: 4/4
tempo: 100
tuning: standard

# A part is a name and a colon; below it bars between | lines.
# 7A is fret 7 on the A string, - holds, . is silence, Em7 is a chord.
Verse:
| 0A - 3A -  5A - 3A - | Am - - - |
`

func (s *Server) addSong(c *echo.Context) error {
	title := field(c, "title", 120)
	if title == "" {
		return wrong("Write the title of the new song.")
	}
	id, err := s.Store.AddSong(c.Request().Context(), studio(c).ID, title, fmt.Sprintf(starter, title), store.At(s.Now()))
	if err != nil {
		return err
	}
	return see(c, "/songs/%d", id)
}

type songView struct {
	Page
	Song    store.Song
	Text    string // the draft where there is one
	Preview preview
	Lessons []store.Lesson
	Sample  string // a line to show what a slot is
}

// preview is what is drawn while a sheet is typed.
type preview struct {
	Facts    songFacts
	Problems []sheet.Problem
	Errors   int
	Parts    []previewPart
	Roadmap  string
	// ProblemsJSON are the problems for the editor's margin.
	ProblemsJSON string
}

type previewPart struct {
	Name, Note, Cue string
	Settings        string // where they differ from the song's
	Grade           float64
	Lines           []SafeHTML
	Beside          []besidePart
}

type besidePart struct {
	Player string
	Lines  []SafeHTML
}

// previewWidth is the width of a line of tab beside the sheet, px.
const previewWidth = 660

func (s *Server) preview(c *echo.Context, text string) preview {
	sh := sheet.Parse(text)
	v := preview{Facts: facts(sh.Song), Problems: sh.Problems, Roadmap: roadmapWords(sh.Song)}
	st := style(c, previewWidth)
	a := arrange.New(sh.Song, s.options(c, hand.Player{}, 0))
	for i := range sh.Song.Parts {
		p := &sh.Song.Parts[i]
		part := previewPart{Name: p.Name, Note: p.Note, Cue: p.Cue, Settings: partSettings(sh.Song, p)}
		if p.Written() > 0 {
			version := a.Version(i, arrange.AsWritten, arrange.Way{})
			bars := draw.WithPath(draw.Written(p), &version, p.Meter)
			part.Grade = version.Grade
			part.Lines = draw.Tab(bars, st, true)
			for _, player := range p.Players() {
				part.Beside = append(part.Beside, besidePart{player, draw.Tab(draw.Beside(p, player), st, false)})
			}
		}
		v.Parts = append(v.Parts, part)
	}
	for _, p := range sh.Problems {
		if p.Severity == sheet.Error {
			v.Errors++
		}
	}
	const shown = 200
	v.Problems = v.Problems[:min(shown, len(v.Problems))]
	b, _ := json.Marshal(v.Problems)
	if v.Problems == nil {
		b = []byte("[]")
	}
	v.ProblemsJSON = string(b)
	return v
}

// partSettings says in what a part differs from its song.
func partSettings(s *song.Song, p *song.Part) string {
	var list []string
	if p.Key != s.Key {
		list = append(list, p.Key.String())
	}
	if p.Meter != s.Meter {
		list = append(list, p.Meter.String())
	}
	if p.Tempo != s.Tempo {
		list = append(list, fmt.Sprintf("tempo %g", p.Tempo))
	}
	if p.Feel != s.Feel {
		list = append(list, p.Feel.String())
	}
	if p.PalmMute {
		list = append(list, "palm muted")
	}
	return strings.Join(list, ", ")
}

// roadmapWords writes the order of the parts.
func roadmapWords(s *song.Song) string {
	var steps []string
	for _, o := range s.Order {
		step := s.Parts[o.Part].Name
		if o.Times > 1 {
			step += " ×" + strconv.Itoa(o.Times)
		}
		steps = append(steps, step)
	}
	return strings.Join(steps, " → ")
}

func (s *Server) songFrom(c *echo.Context) (store.Song, error) {
	n, err := id(c, "song")
	if err != nil {
		return store.Song{}, err
	}
	return s.Store.Song(c.Request().Context(), studio(c).ID, n)
}

func (s *Server) songPage(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	lessons, err := s.Store.LessonsOfSong(c.Request().Context(), studio(c).ID, g.ID)
	if err != nil {
		return err
	}
	v := songView{Page: s.page(c, g.Title, "songs"), Song: g, Text: g.Sheet, Lessons: lessons}
	if g.Draft != nil {
		v.Text = *g.Draft
	}
	v.Preview = s.preview(c, v.Text)
	return c.Render(http.StatusOK, "song", v)
}

// previewSheet draws what is being typed.
func (s *Server) previewSheet(c *echo.Context) error {
	return c.Render(http.StatusOK, "song#preview", s.preview(c, c.FormValue("sheet")))
}

// lineEndings undoes what forms do to line ends.
func lineEndings(s string) string {
	return strings.ToValidUTF8(strings.ReplaceAll(s, "\r\n", "\n"), "\ufffd")
}

func (s *Server) saveSong(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	text := lineEndings(c.FormValue("sheet"))
	if len(text) > sheet.MaxBytes {
		return wrong("The sheet is longer than 200 KB. Split the song into several sheets.")
	}
	sh := sheet.Parse(text)
	if c.FormValue("format") != "" {
		text = sh.Format()
	}
	title := sh.Song.Title
	if title == "" {
		title = g.Title
	}
	if err := s.Store.SaveSong(c.Request().Context(), studio(c).ID, g.ID, title, text, store.At(s.Now())); err != nil {
		return err
	}
	if c.Request().Header.Get("Accept") == "application/json" {
		return c.JSON(http.StatusOK, map[string]string{"sheet": text, "title": title})
	}
	s.notice(c, "", "Saved %s.", title)
	return see(c, "/songs/%d", g.ID)
}

func (s *Server) saveDraft(c *echo.Context) error {
	n, err := id(c, "song")
	if err != nil {
		return err
	}
	text := lineEndings(c.FormValue("sheet"))
	if len(text) > sheet.MaxBytes {
		return wrong("The sheet is longer than 200 KB. Split the song into several sheets.")
	}
	if err := s.Store.SaveDraft(c.Request().Context(), studio(c).ID, n, &text); err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *Server) discardDraft(c *echo.Context) error {
	n, err := id(c, "song")
	if err != nil {
		return err
	}
	if err := s.Store.SaveDraft(c.Request().Context(), studio(c).ID, n, nil); err != nil {
		return err
	}
	return see(c, "/songs/%d", n)
}

func (s *Server) deleteSong(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	if err := s.Store.DeleteSong(c.Request().Context(), studio(c).ID, g.ID, store.At(s.Now())); err != nil {
		return err
	}
	s.notice(c, fmt.Sprintf("/songs/%d/restore", g.ID), "Deleted %s. Lessons that were assigned of it stay with their students.", g.Title)
	return see(c, "/songs")
}

func (s *Server) restoreSong(c *echo.Context) error {
	n, err := id(c, "song")
	if err != nil {
		return err
	}
	if err := s.Store.RestoreSong(c.Request().Context(), studio(c).ID, n); err != nil {
		return err
	}
	return see(c, "/songs/%d", n)
}

type versionsView struct {
	Page
	Song     store.Song
	Versions []store.SongVersion
	Shown    store.SongVersion
	Preview  preview
}

func (s *Server) songVersions(c *echo.Context) error { return s.showVersion(c, 0) }

func (s *Server) songVersion(c *echo.Context) error {
	n, err := id(c, "version")
	if err != nil {
		return err
	}
	return s.showVersion(c, int(n))
}

// showVersion shows the earlier versions of a song and one of them; 0 is the
// latest.
func (s *Server) showVersion(c *echo.Context, version int) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	v := versionsView{Page: s.page(c, "Versions of "+g.Title, "songs"), Song: g}
	if v.Versions, err = s.Store.SongVersions(c.Request().Context(), studio(c).ID, g.ID); err != nil {
		return err
	}
	for _, one := range v.Versions {
		if one.Version == version || (version == 0 && one.Version == g.Version) {
			v.Shown = one
		}
	}
	if v.Shown.Version == 0 {
		return store.ErrNotFound
	}
	v.Preview = s.preview(c, v.Shown.Sheet)
	return c.Render(http.StatusOK, "versions", v)
}
