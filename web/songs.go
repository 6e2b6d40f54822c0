package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/core/sheet"
	"valleyside/store"
)

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

func (s *songbook) addSong(c *echo.Context) error {
	title := field(c, "title", 120)
	if title == "" {
		return wrong("Write the title of the new song.")
	}
	id, err := s.house.AddSong(c.Request().Context(), home(c).ID, title, fmt.Sprintf(starter, title), store.At(s.Now()))
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
	Theirs  string // what was saved elsewhere, where that is in the way
}

func (s *base) songFrom(c *echo.Context) (store.Song, error) {
	n, err := id(c, "song")
	if err != nil {
		return store.Song{}, err
	}
	return s.Store.Song(c.Request().Context(), home(c).ID, n)
}

func (s *songbook) songPage(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	lessons, err := s.Store.LessonsOfSong(c.Request().Context(), home(c).ID, g.ID)
	if err != nil {
		return err
	}
	v := songView{Page: s.page(c, g.Title, "songs"), Song: g, Text: g.Sheet, Lessons: lessons}
	if g.Draft != nil {
		v.Text = *g.Draft
	}
	v.Preview = s.preview(c, v.Text, typing{live: true})
	return c.Render(http.StatusOK, "song", v)
}

// lineEndings undoes what forms do to line ends.
func lineEndings(s string) string {
	return strings.ToValidUTF8(strings.ReplaceAll(s, "\r\n", "\n"), "\ufffd")
}

func (s *songbook) saveSong(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	text, err := typedSheet(c)
	if err != nil {
		return err
	}
	sh := sheet.Parse(text)
	if c.FormValue("format") != "" {
		// Tidying may need more room than typing: then it stays as it is. It is the same song.
		if tidy := sh.Format(); len(tidy) <= sheet.MaxBytes {
			text = tidy
		}
	}
	title := sh.Song.Title
	if title == "" {
		title = g.Title
	}
	base, _ := strconv.Atoi(c.FormValue("base"))
	now := store.At(s.Now())
	saved, err := s.house.SaveSong(c.Request().Context(), home(c).ID, g.ID, base, title, text, sh, now)
	if errors.Is(err, store.ErrConflict) {
		return s.conflict(c, saved, text)
	}
	if err != nil {
		return err
	}
	says, err := s.givenSince(c, g, saved)
	if err != nil { // it is saved all the same
		s.Log.Warn("what fits after a change of a song", "song", g.ID, "error", err)
	}
	if c.Request().Header.Get("Accept") == "application/json" {
		return c.JSON(http.StatusOK, savedSheet{Sheet: text, Title: title, Save: saved.Save, Draft: saved.DraftNo, Says: says})
	}
	n := Notice{Text: fmt.Sprintf("Saved %s. %s", title, says)}
	if says != "" {
		n.Looks = []look{{fmt.Sprintf("/songs/%d/fit", g.ID), "For whom"}}
	}
	s.tell(c, n)
	return see(c, "/songs/%d", g.ID)
}

// givenSince says who has a song as it was before it was saved anew, and for whom something else
// fits now.
func (s *songbook) givenSince(c *echo.Context, was, is store.Song) (string, error) {
	ctx, at := c.Request().Context(), home(c)
	if was.Sheet == is.Sheet {
		return "", nil
	}
	given, err := s.house.GivenOf(ctx, at.ID, is.ID)
	if err != nil || len(given) == 0 {
		return "", err
	}
	says := fmt.Sprintf("%s what was handed out; For whom brings it up to date.", ofPeople(len(given)))
	others, err := s.house.RefitSong(ctx, &at, was, is)
	if err != nil || len(others) == 0 {
		return says, err
	}
	all, err := s.Store.StudentNames(ctx, at.ID)
	var names []string
	for _, st := range all {
		if slices.Contains(others, st.ID) {
			names = append(names, st.Name)
		}
	}
	return fmt.Sprintf("%s Another version fits %s now.", says, strings.Join(names, ", ")), err
}

// ofPeople says that so many people keep something.
func ofPeople(n int) string {
	if n == 1 {
		return "One student keeps"
	}
	return fmt.Sprintf("%d students keep", n)
}

// savedSheet is a sheet as it was saved, for the script of the page.
type savedSheet struct {
	Sheet string `json:"sheet"`
	Title string `json:"title"`
	Save  int    `json:"version"`
	Draft int64  `json:"draft"`
	When  string `json:"when,omitempty"`
	Says  string `json:"says,omitempty"` // of those who have the song
}

// conflict shows both: what was to be saved, and what has been saved meanwhile.
// What was typed is kept, whatever is decided.
func (s *songbook) conflict(c *echo.Context, there store.Song, text string) error {
	if err := s.Store.KeepTyped(c.Request().Context(), home(c).ID, there.ID, text, store.At(s.Now())); err != nil {
		return err
	}
	if c.Request().Header.Get("Accept") == "application/json" {
		return c.JSON(http.StatusConflict, map[string]any{"error": "This song was saved somewhere else meanwhile.",
			"conflict": savedSheet{Sheet: there.Sheet, Title: there.Title, Save: there.Save, Draft: there.DraftNo, When: moment(there.UpdatedAt, zone(c))}})
	}
	v := songView{Page: s.page(c, there.Title, "songs"), Song: there, Text: text, Theirs: there.Sheet}
	v.Preview = s.preview(c, text, typing{live: true})
	return c.Render(http.StatusConflict, "song", v)
}

// typedSheet reads a sheet from a form.
func typedSheet(c *echo.Context) (string, error) {
	text := lineEndings(c.FormValue("sheet"))
	if len(text) > sheet.MaxBytes {
		return "", wrong("The sheet is longer than 200 KB. Split the song into several sheets.")
	}
	return text, nil
}

func (s *songbook) saveDraft(c *echo.Context) error {
	n, err := id(c, "song")
	if err != nil {
		return err
	}
	text, err := typedSheet(c)
	if err != nil {
		return err
	}
	no, _ := strconv.ParseInt(c.FormValue("draft"), 10, 64)
	err = s.Store.SaveDraft(c.Request().Context(), home(c).ID, n, no, text, store.At(s.Now()))
	if errors.Is(err, store.ErrConflict) {
		return &problem{status: http.StatusConflict, message: "This song was saved or changed somewhere else meanwhile. What you type is kept under Saves; save to compare."}
	}
	if err != nil {
		return err
	}
	return c.NoContent(http.StatusNoContent)
}

func (s *songbook) discardDraft(c *echo.Context) error {
	n, err := id(c, "song")
	if err != nil {
		return err
	}
	kept, err := s.Store.ReplaceDraft(c.Request().Context(), home(c).ID, n, nil, store.At(s.Now()))
	if err != nil {
		return err
	}
	if kept != 0 {
		s.notice(c, fmt.Sprintf("/songs/%d/typed/%d", n, kept), "This is the save again. What was typed is kept under Saves.")
	}
	return see(c, "/songs/%d", n)
}

// useDraft saves what is typed, from a page that uses the saved text.
func (s *songbook) useDraft(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	if g.Draft != nil {
		sh := sheet.Parse(*g.Draft)
		title := cmp.Or(sh.Song.Title, g.Title)
		if _, err := s.house.SaveSong(c.Request().Context(), home(c).ID, g.ID, g.Save, title, *g.Draft, sh, store.At(s.Now())); err != nil {
			return err
		}
		s.notice(c, "", "Saved %s as it is typed.", title)
	}
	if to := c.FormValue("to"); to == "chords" || to == "fit" {
		return see(c, "/songs/%d/%s", g.ID, to)
	}
	return see(c, "/songs/%d/rungs", g.ID)
}

// takeTyped brings a text back that was typed once, as what is typed now.
func (s *songbook) takeTyped(c *echo.Context) error {
	n, err := id(c, "song")
	if err != nil {
		return err
	}
	t, err := id(c, "typed")
	if err != nil {
		return err
	}
	ctx, home := c.Request().Context(), home(c).ID
	text, err := s.Store.Typed(ctx, home, n, t)
	if err != nil {
		return err
	}
	if _, err := s.Store.ReplaceDraft(ctx, home, n, &text.Sheet, store.At(s.Now())); err != nil {
		return err
	}
	s.notice(c, "", "Brought back what was typed %s. It is not saved yet.", moment(text.TypedAt, zone(c)))
	return see(c, "/songs/%d", n)
}

// takeSave makes an earlier save what is typed now.
func (s *songbook) takeSave(c *echo.Context) error {
	n, err := id(c, "song")
	if err != nil {
		return err
	}
	number, err := id(c, "save")
	if err != nil {
		return err
	}
	ctx, home := c.Request().Context(), home(c).ID
	save, err := s.Store.SavedSheet(ctx, home, n, int(number))
	if err != nil {
		return err
	}
	kept, err := s.Store.ReplaceDraft(ctx, home, n, &save.Sheet, store.At(s.Now()))
	if err != nil {
		return err
	}
	undo := fmt.Sprintf("/songs/%d/draft/discard", n)
	if kept != 0 {
		undo = fmt.Sprintf("/songs/%d/typed/%d", n, kept)
	}
	s.notice(c, undo, "This is save %d again, not saved yet.", number)
	return see(c, "/songs/%d", n)
}

func (s *songbook) deleteSong(c *echo.Context) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	err = s.undoable(c, func(ctx context.Context) (string, error) {
		return fmt.Sprintf("Deleted %s. Lessons that were assigned of it stay with their students.", g.Title), s.Store.DeleteSong(ctx, home(c).ID, g.ID, store.At(s.Now()))
	})
	if err != nil {
		return err
	}
	return see(c, "/songs")
}

type savesView struct {
	Page
	Song    store.Song
	Saves   []store.Save
	Shown   store.Save
	Typed   []store.Typed
	Preview preview
	Differs bool     // there is another save to compare with
	With    int      // which that is
	Says    []string // what is other in the song
	Lines   []diffLine
}

func (s *songbook) saves(c *echo.Context) error { return s.showSave(c, 0) }

func (s *songbook) oneSave(c *echo.Context) error {
	n, err := id(c, "save")
	if err != nil {
		return err
	}
	return s.showSave(c, int(n))
}

// showSave shows the saves of a song and one of them; 0 is the
// latest.
func (s *songbook) showSave(c *echo.Context, number int) error {
	g, err := s.songFrom(c)
	if err != nil {
		return err
	}
	v := savesView{Page: s.page(c, "Saves of "+g.Title, "songs"), Song: g}
	if v.Saves, err = s.Store.Saves(c.Request().Context(), home(c).ID, g.ID); err != nil {
		return err
	}
	if v.Typed, err = s.Store.TypedOf(c.Request().Context(), home(c).ID, g.ID); err != nil {
		return err
	}
	for _, one := range v.Saves {
		if one.No == number || (number == 0 && one.No == g.Save) {
			v.Shown = one
		}
	}
	if v.Shown.No == 0 {
		return store.ErrNotFound
	}
	if err := s.differences(c, &v); err != nil {
		return err
	}
	v.Preview = s.preview(c, v.Shown.Sheet, typing{})
	return c.Render(http.StatusOK, "saves", v)
}
