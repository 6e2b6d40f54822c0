package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"unicode/utf8"

	"github.com/labstack/echo/v5"

	"valleyside/account"
	"valleyside/store"
)

// A way back into a studio that needs no mail: codes that are printed once and
// kept on paper. `valleyside password` on the machine is the other.

// freshCodes is where new codes wait for the page that shows them.
const freshCodes = "fresh codes"

// printCodes makes new recovery codes and shows them, this once.
func (s *door) printCodes(c *echo.Context, t store.Teacher) error {
	codes := account.NewCodes()
	hashes := make([][]byte, len(codes))
	for i, code := range codes {
		hashes[i] = account.HashCode(code)
	}
	if err := s.Store.SetCodes(c.Request().Context(), t.StudioID, t.ID, hashes); err != nil {
		return err
	}
	s.sessions.Put(c.Request().Context(), freshCodes, strings.Join(codes, " "))
	return see(c, "/settings/codes")
}

type codesView struct {
	Page
	Codes []string
	Left  int
	Email string
}

func (s *door) codesPage(c *echo.Context) error {
	ctx := c.Request().Context()
	t := c.Get(teacherKey).(store.Teacher)
	v := codesView{Page: s.page(c, "Recovery codes", "settings"), Email: t.Email, Codes: strings.Fields(s.sessions.PopString(ctx, freshCodes))}
	var err error
	if v.Left, err = s.Store.CodesLeft(ctx, t.StudioID, t.ID); err != nil {
		return err
	}
	return c.Render(http.StatusOK, "codes", v)
}

// newCodes replaces the recovery codes.
func (s *door) newCodes(c *echo.Context) error {
	t := c.Get(teacherKey).(store.Teacher)
	if err := s.checkPassword(c, t); err != nil {
		return err
	}
	return s.printCodes(c, t)
}

// checkPassword asks for the present password before something that matters.
func (s *door) checkPassword(c *echo.Context, t store.Teacher) error {
	if err := s.limits.known.check(c, "password "+t.Email, "Too many attempts."); err != nil {
		return err
	}
	if !account.Matches(t.Password, c.FormValue("old")) {
		return wrong("The present password is not right.")
	}
	return nil
}

// newPassword reads a new password from a form.
func newPassword(c *echo.Context) (string, error) {
	password := c.FormValue("new")
	if utf8.RuneCountInString(password) < account.MinPassword {
		return "", wrong(fmt.Sprintf("Choose a password of at least %d characters.", account.MinPassword))
	}
	return password, nil
}

type recoverView struct {
	Page
	Email, Error string
}

func (s *door) recoverPage(c *echo.Context) error {
	return c.Render(http.StatusOK, "recover", recoverView{Page: s.page(c, "A new password", "")})
}

// recover sets a new password by a recovery code.
func (s *door) recover(c *echo.Context) error {
	ctx := c.Request().Context()
	v := recoverView{Page: s.page(c, "A new password", ""), Email: strings.TrimSpace(c.FormValue("email"))}
	again := func(err error) error {
		var p *problem
		if !errors.As(err, &p) {
			return err
		}
		v.Error = p.message
		return c.Render(p.status, "recover", v)
	}
	if err := s.limits.codes.check(c, account.Network(c.RealIP()), "Too many attempts."); err != nil {
		return again(err)
	}
	password, err := newPassword(c)
	if err != nil {
		return again(err)
	}
	t, err := s.Store.TeacherByEmail(ctx, v.Email)
	if err == nil {
		err = s.Store.Recover(ctx, t.StudioID, t.ID, account.HashCode(c.FormValue("code")), account.Hash(password))
	}
	if errors.Is(err, store.ErrNotFound) {
		return again(wrong("This address and code do not belong together, or the code has been used. Take the next one from your list."))
	}
	if err != nil {
		return err
	}
	if t, err = s.Store.Teacher(ctx, t.StudioID, t.ID); err != nil {
		return err
	}
	return s.enter(c, t)
}

// saveEmail changes the address that the teacher signs in with.
func (s *door) saveEmail(c *echo.Context) error {
	t := c.Get(teacherKey).(store.Teacher)
	email := field(c, "email", 200)
	if !strings.Contains(email, "@") {
		return wrong("Write the e-mail address that you want to sign in with.")
	}
	if err := s.checkPassword(c, t); err != nil {
		return err
	}
	err := s.Store.SetEmail(c.Request().Context(), t.StudioID, t.ID, email)
	if errors.Is(err, store.ErrConflict) {
		return wrong("Somebody else signs in with this address.")
	}
	if err != nil {
		return err
	}
	s.notice(c, "", "You sign in as %s now.", email)
	return see(c, "/settings")
}

// savePassword changes the password and ends every other session.
func (s *door) savePassword(c *echo.Context) error {
	ctx := c.Request().Context()
	t := c.Get(teacherKey).(store.Teacher)
	password, err := newPassword(c)
	if err != nil {
		return err
	}
	if err := s.checkPassword(c, t); err != nil {
		return err
	}
	if err := s.Store.SetPassword(ctx, t.StudioID, t.ID, account.Hash(password)); err != nil {
		return err
	}
	if t, err = s.Store.Teacher(ctx, t.StudioID, t.ID); err != nil {
		return err
	}
	if err := s.begin(c, t); err != nil {
		return err
	}
	s.notice(c, "", "Changed the password. Other browsers have to sign in again.")
	return see(c, "/settings")
}
