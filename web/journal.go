package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"valleyside/store"
)

// undoable does a change of a studio as one, and tells on the next page what f says it was, with a
// way to take it back.
func (s *base) undoable(c *echo.Context, f func(ctx context.Context) (says string, err error)) error {
	return s.making(c, "", f)
}

// making is undoable, of what makes something: when it is taken back, a page is gone on with that
// is still there.
func (s *base) making(c *echo.Context, back string, f func(ctx context.Context) (says string, err error)) error {
	says := ""
	id, err := s.Store.Undoable(c.Request().Context(), home(c).ID, store.At(s.Now()), func(ctx context.Context) (_ string, err error) {
		says, err = f(ctx)
		return says, err
	})
	if err != nil {
		return err
	}
	s.house.Wake()
	s.tell(c, Notice{Text: says, Undo: undoOf(id), Back: back})
	return nil
}

// journaled does a change as one that is taken back from the bin, and says nothing on the page: of
// views in which one change follows the other.
func (s *base) journaled(c *echo.Context, says string, f func(ctx context.Context) error) error {
	_, err := s.Store.Undoable(c.Request().Context(), home(c).ID, store.At(s.Now()), func(ctx context.Context) (string, error) { return says, f(ctx) })
	return err
}

// undoOf is where a change is taken back; empty where it cannot be.
func undoOf(change int64) string {
	if change == 0 {
		return ""
	}
	return fmt.Sprintf("/bin/changes/%d/undo", change)
}

// backTo is the page that a form was on, or another where it does not say.
func backTo(c *echo.Context, otherwise string) string {
	if back := c.FormValue("back"); strings.HasPrefix(back, "/") && !strings.HasPrefix(back, "//") && !strings.ContainsAny(back, "\\\r\n") && len(back) < 300 {
		return back
	}
	return otherwise
}

// undoChange takes a change back.
func (s *office) undoChange(c *echo.Context) error {
	n, err := id(c, "change")
	if err != nil {
		return err
	}
	back := func(of store.Journaled) string {
		if rest, ok := strings.CutPrefix(of.What, tookBack); ok { // taking back what was taken back
			return rest
		}
		return tookBack + of.What
	}
	of, again, err := s.Store.Undo(c.Request().Context(), home(c).ID, n, back, store.At(s.Now()))
	if errors.Is(err, store.ErrChanged) {
		return &problem{status: http.StatusConflict, message: "This cannot be taken back by itself: what it made has been changed again since, or is used by now. Under Bin stands what was changed later; take that back first.", cause: err}
	}
	if err != nil {
		return err
	}
	s.house.Wake()
	s.tell(c, Notice{Text: back(of), Undo: undoOf(again)})
	return see(c, "%s", backTo(c, "/bin"))
}

// tookBack stands before what was taken back.
const tookBack = "Taken back: "

// changesOnPage is how many changes are on a page of the bin.
const changesOnPage = 40

// binView is what was deleted and changed in the last thirty days.
type binView struct {
	Page
	Deleted []store.Binned
	Changes []store.Journaled
	Paged   paged
}

func (s *office) bin(c *echo.Context) error {
	ctx, at := c.Request().Context(), home(c).ID
	v := binView{Page: s.page(c, "Bin", "settings"), Paged: pageOf(c, "/bin", changesOnPage)}
	var err error
	if v.Deleted, err = s.Store.Bin(ctx, at, store.At(s.Now())); err != nil {
		return err
	}
	most, offset := v.Paged.span()
	changes, err := s.Store.Changes(ctx, at, most, offset)
	if err != nil {
		return err
	}
	v.Changes = cut(&v.Paged, changes)
	return c.Render(http.StatusOK, "bin", v)
}

// tagged reads on what a form of the bin, of tags or of the archive works.
func tagged(c *echo.Context) (store.Tagged, int64, error) {
	kind := store.Tagged(c.Param("kind"))
	switch kind {
	case store.OnSong, store.OnLesson, store.OnStudent:
	default:
		return "", 0, store.ErrNotFound
	}
	n, err := id(c, "id")
	return kind, n, err
}

// pageFor is where something is that can be deleted, tagged and put away.
func pageFor(kind store.Tagged, id int64) string { return fmt.Sprintf("/%ss/%d", kind, id) }

// bringBack brings back what was deleted.
func (s *office) bringBack(c *echo.Context) error {
	kind, n, err := tagged(c)
	if err != nil {
		return err
	}
	if err := s.Store.Restore(c.Request().Context(), home(c).ID, kind, n); err != nil {
		return err
	}
	s.house.Wake()
	return see(c, "%s", pageFor(kind, n))
}

// erase removes for good what was deleted.
func (s *office) erase(c *echo.Context) error {
	kind, n, err := tagged(c)
	if err != nil {
		return err
	}
	err = s.Store.Erase(c.Request().Context(), home(c).ID, kind, n, store.At(s.Now()))
	if errors.Is(err, store.ErrChanged) {
		return wrong("Students have it, or have had it: it stays for what they have, and is seen nowhere else.")
	}
	if err != nil {
		return err
	}
	s.notice(c, "", "Erased. Nothing of this %s is left here; copies that you made still have it.", kind)
	return see(c, "/bin")
}

// forget takes a change out of the journal.
func (s *office) forget(c *echo.Context) error {
	n, err := id(c, "change")
	if err != nil {
		return err
	}
	if err := s.Store.Forget(c.Request().Context(), home(c).ID, n); err != nil {
		return err
	}
	return see(c, "/bin")
}
