package web

import (
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"valleyside/account"
	"valleyside/store"
)

// csrf demands the token of a served form on every change.
func (s *door) csrf() echo.MiddlewareFunc {
	return middleware.CSRFWithConfig(middleware.CSRFConfig{
		TokenLookup: "header:X-CSRF-Token,form:_csrf", CookieName: "valleyside_form", CookiePath: "/",
		CookieHTTPOnly: true, CookieSecure: s.Secure, CookieSameSite: http.SameSiteLaxMode,
		CookieMaxAge: int(formLife / time.Second),
	})
}

// formLife is how long a form may stay open, from the last page that was seen on;
// longer than a session lasts.
const formLife = 60 * 24 * time.Hour

// sameOrigin refuses changes that another site starts.
func sameOrigin(next echo.HandlerFunc) echo.HandlerFunc {
	guard := http.NewCrossOriginProtection()
	return func(c *echo.Context) error {
		if err := guard.Check(c.Request()); err != nil {
			return &problem{status: http.StatusForbidden, message: "This was sent from another page. Open your own link and try again there.", cause: err}
		}
		return next(c)
	}
}

// sameSite refuses changes that another site starts, and leaves the rest to
// the token: the header alone does not stand in for it.
func (s *door) sameSite(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		from := c.Request().Header.Get(echo.HeaderSecFetchSite)
		method := c.Request().Method
		if from != "" && from != "same-origin" && from != "none" && method != http.MethodGet && method != http.MethodHead {
			return echo.ErrForbidden
		}
		c.Request().Header.Del(echo.HeaderSecFetchSite)
		return next(c)
	}
}

// Keys of what a request carries.
const (
	studioKey  = "studio"
	teacherKey = "teacher"
	studentKey = "student"
)

// signedIn lets a teacher through to their own studio.
func (s *door) signedIn(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		ctx := c.Request().Context()
		studio, teacher := s.sessions.GetInt64(ctx, studioKey), s.sessions.GetInt64(ctx, teacherKey)
		if studio == 0 {
			if set, err := s.Store.HasStudio(ctx); err == nil && !set {
				return c.Redirect(http.StatusSeeOther, "/set-up")
			}
			return signInAgain(c)
		}
		who, err := s.Store.SignedIn(ctx, studio, teacher)
		if err != nil {
			return fmt.Errorf("signed in: %w", err)
		}
		if s.sessions.GetInt64(ctx, generationKey) != who.Teacher.Generation {
			if err := s.sessions.Destroy(ctx); err != nil {
				return err
			}
			return signInAgain(c)
		}
		c.Set(studioKey, who.Studio)
		c.Set(teacherKey, who.Teacher)
		return next(c)
	}
}

// signInAgain asks somebody who is not signed in, or not any more, to do so.
func signInAgain(c *echo.Context) error {
	if c.Request().Method != http.MethodGet || c.Request().Header.Get("X-Fragment") != "" {
		return &problem{status: http.StatusUnauthorized, message: "You are not signed in any more. Sign in again in another window; what you typed is still here."}
	}
	return c.Redirect(http.StatusSeeOther, "/sign-in")
}

// studio is the studio that a request is for.
func home(c *echo.Context) store.Studio {
	st, _ := c.Get(studioKey).(store.Studio)
	return st
}

// byLink lets a student through to their own page.
func (s *door) byLink(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		st, err := s.Store.StudentByLink(c.Request().Context(), c.Param("token"))
		if errors.Is(err, store.ErrNotFound) {
			// Nobody needs many tries to open a link that they were given.
			if err := s.limits.links.check(c, account.Network(c.RealIP()), "Too many links that are not valid."); err != nil {
				return err
			}
			return &problem{status: http.StatusNotFound, message: "This link is not valid any more. Ask your teacher for a new one."}
		}
		if err != nil {
			return err
		}
		home, err := s.Store.Studio(c.Request().Context(), st.StudioID)
		if err != nil {
			return err
		}
		c.Set(studentKey, st)
		c.Set(studioKey, home)
		return next(c)
	}
}

type signInView struct {
	Page
	Email string
	Error string
	Demo  *DemoAccount
}

func (s *door) signInPage(c *echo.Context) error {
	set, err := s.Store.HasStudio(c.Request().Context())
	if err != nil {
		return err
	}
	if !set {
		return c.Redirect(http.StatusSeeOther, "/set-up")
	}
	v := signInView{Page: s.page(c, "Sign in", ""), Demo: s.Demo}
	if s.Demo != nil {
		v.Email = s.Demo.Email
	}
	return c.Render(http.StatusOK, "sign-in", v)
}

// knownCookie marks a browser in which a teacher has signed in.
const knownCookie = "valleyside_known"

// knownHash is what is kept of a browser's mark; nil where it has none.
func knownHash(c *echo.Context) []byte {
	cookie, err := c.Cookie(knownCookie)
	if err != nil || cookie.Value == "" {
		return nil
	}
	return account.HashToken(cookie.Value)
}

// maySignIn takes a try of a password for a teacher. A browser that the teacher
// has used has tries of its own, so that a stranger cannot lock them out.
func (s *door) maySignIn(c *echo.Context, t store.Teacher, email string) error {
	const what = "Too many attempts."
	if hash := knownHash(c); hash != nil && t.ID != 0 {
		known, err := s.Store.KnowsBrowser(c.Request().Context(), t.StudioID, t.ID, hash)
		if err != nil {
			return err
		}
		if known {
			return s.limits.known.check(c, string(hash), what)
		}
	}
	net, key := account.Network(c.RealIP()), string(account.HashToken(strings.ToLower(email)))
	// A network that has no tries left adds nothing to what is remembered.
	if err := s.limits.networks.check(c, net, what); err != nil {
		return err
	}
	if err := s.limits.accounts.check(c, key+" from "+net, what); err != nil {
		return err
	}
	return s.limits.everyone.check(c, key, what)
}

func (s *door) signIn(c *echo.Context) error {
	ctx := c.Request().Context()
	email, password := strings.TrimSpace(c.FormValue("email")), c.FormValue("password")
	again := func(status int, message string) error {
		return c.Render(status, "sign-in", signInView{Page: s.page(c, "Sign in", ""), Email: email, Error: message, Demo: s.Demo})
	}
	t, err := s.Store.TeacherByEmail(ctx, email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	unknown := err != nil
	if err := s.maySignIn(c, t, email); err != nil {
		var p *problem
		if errors.As(err, &p) {
			return again(p.status, p.message)
		}
		return err
	}
	if unknown {
		account.MatchesNobody(password)
	}
	if unknown || !account.Matches(t.Password, password) {
		return again(http.StatusUnprocessableEntity, "This address and password do not belong together. Check both and try again, or use a recovery code.")
	}
	if strings.HasPrefix(t.Password, "argon2id$") { // as it was hashed before
		if err := s.Store.SetHash(ctx, t.StudioID, t.ID, account.Hash(password)); err != nil {
			return err
		}
	}
	return s.enter(c, t)
}

// generationKey is the generation of the teacher's sessions that a session is of.
const generationKey = "generation"

// enter starts a teacher's session.
func (s *door) enter(c *echo.Context, t store.Teacher) error {
	if err := s.begin(c, t); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/")
}

// begin makes the session of a request one of a teacher, and the browser known.
func (s *door) begin(c *echo.Context, t store.Teacher) error {
	ctx := c.Request().Context()
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.sessions.Put(ctx, studioKey, t.StudioID)
	s.sessions.Put(ctx, teacherKey, t.ID)
	s.sessions.Put(ctx, generationKey, t.Generation)
	mark := ""
	if cookie, err := c.Cookie(knownCookie); err == nil {
		mark = cookie.Value
	}
	if len(mark) < 22 {
		mark = account.Random(16)
	}
	c.SetCookie(&http.Cookie{Name: knownCookie, Value: mark, Path: "/sign-in", MaxAge: int((400 * 24 * time.Hour).Seconds()),
		HttpOnly: true, Secure: s.Secure, SameSite: http.SameSiteLaxMode})
	return s.Store.KnowBrowser(ctx, t.StudioID, t.ID, account.HashToken(mark), store.At(s.Now()))
}

// signOut ends all sessions of the teacher, this one and those elsewhere.
func (s *door) signOut(c *echo.Context) error {
	t := c.Get(teacherKey).(store.Teacher)
	if err := s.Store.EndSessions(c.Request().Context(), t.StudioID, t.ID); err != nil {
		return err
	}
	if err := s.sessions.Destroy(c.Request().Context()); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/sign-in")
}

type setUpView struct {
	Page
	Name, StudioName, Email, Error string
}

func (s *door) setUpPage(c *echo.Context) error {
	set, err := s.Store.HasStudio(c.Request().Context())
	if err != nil {
		return err
	}
	if set {
		return c.Redirect(http.StatusSeeOther, "/sign-in")
	}
	return c.Render(http.StatusOK, "set-up", setUpView{Page: s.page(c, "Set up your studio", "")})
}

func (s *door) setUp(c *echo.Context) error {
	ctx := c.Request().Context()
	if set, err := s.Store.HasStudio(ctx); err != nil || set {
		return errors.Join(err, c.Redirect(http.StatusSeeOther, "/sign-in"))
	}
	v := setUpView{Page: s.page(c, "Set up your studio", ""), Name: field(c, "name", 80),
		StudioName: field(c, "studio", 80), Email: field(c, "email", 200)}
	password := c.FormValue("password")
	switch {
	case v.Name == "" || v.StudioName == "":
		v.Error = "Fill in your name and the name of your studio."
	case !strings.Contains(v.Email, "@"):
		v.Error = "Write the e-mail address that you want to sign in with."
	case utf8.RuneCountInString(password) < account.MinPassword:
		v.Error = fmt.Sprintf("Choose a password of at least %d characters.", account.MinPassword)
	}
	if v.Error != "" {
		return c.Render(http.StatusUnprocessableEntity, "set-up", v)
	}
	t := store.Teacher{Name: v.Name, Email: v.Email, Password: account.Hash(password)}
	_, err := s.Store.SetUp(ctx, v.StudioName, t, store.At(s.Now()))
	if errors.Is(err, store.ErrConflict) { // somebody else was quicker
		return c.Redirect(http.StatusSeeOther, "/sign-in")
	}
	if err != nil {
		return err
	}
	if t, err = s.Store.TeacherByEmail(ctx, t.Email); err != nil {
		return err
	}
	if err := s.begin(c, t); err != nil {
		return err
	}
	return s.printCodes(c, t)
}
