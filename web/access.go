package web

import (
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	"golang.org/x/crypto/argon2"
	"golang.org/x/time/rate"

	"valleyside/store"
)

// csrf demands the token of a served form on every change.
func (s *Server) csrf() echo.MiddlewareFunc {
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
func (s *Server) sameSite(next echo.HandlerFunc) echo.HandlerFunc {
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
func (s *Server) signedIn(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		ctx := c.Request().Context()
		studio, teacher := s.sessions.GetInt64(ctx, studioKey), s.sessions.GetInt64(ctx, teacherKey)
		if studio == 0 {
			if set, err := s.Store.HasStudio(ctx); err == nil && !set {
				return c.Redirect(http.StatusSeeOther, "/set-up")
			}
			if c.Request().Method != http.MethodGet || c.Request().Header.Get("X-Fragment") != "" {
				return &problem{status: http.StatusUnauthorized, message: "You are not signed in any more. Sign in again in another window; what you typed is still here."}
			}
			return c.Redirect(http.StatusSeeOther, "/sign-in")
		}
		st, err := s.Store.Studio(ctx, studio)
		if err != nil {
			return fmt.Errorf("signed in: %w", err)
		}
		t, err := s.Store.Teacher(ctx, studio, teacher)
		if err != nil {
			return fmt.Errorf("signed in: %w", err)
		}
		c.Set(studioKey, st)
		c.Set(teacherKey, t)
		return next(c)
	}
}

// studio is the studio that a request is for.
func studio(c *echo.Context) store.Studio {
	st, _ := c.Get(studioKey).(store.Studio)
	return st
}

// byLink lets a student through to their own page.
func (s *Server) byLink(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		st, err := s.Store.StudentByLink(c.Request().Context(), c.Param("token"))
		if errors.Is(err, store.ErrNotFound) {
			// Nobody needs many tries to open a link that they were given.
			if !s.limits.allow("link "+c.RealIP(), 30, 2*time.Second) {
				return &problem{status: http.StatusTooManyRequests, message: "Too many links that are not valid. Wait a minute and try again."}
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

// limiter bounds how often something may be tried, by a key.
type limiter struct {
	mu    sync.Mutex
	tries map[string]*rate.Limiter
}

func newLimiter() *limiter { return &limiter{tries: map[string]*rate.Limiter{}} }

// allow tells whether one more try is within burst tries, of which one comes
// back every period.
func (l *limiter) allow(key string, burst int, period time.Duration) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	if len(l.tries) > 10_000 {
		clear(l.tries)
	}
	t := l.tries[key]
	if t == nil {
		t = rate.NewLimiter(rate.Every(period), burst)
		l.tries[key] = t
	}
	return t.Allow()
}

// Cost of a password hash: 19 MiB and two passes. Two at a time keep the
// memory bounded.
const (
	hashMemory = 19 * 1024
	hashTime   = 2
)

var hashing = make(chan struct{}, 2)

// HashPassword hashes a password with argon2id and a random salt.
func HashPassword(password string) string {
	salt := make([]byte, 16)
	rand.Read(salt)
	return fmt.Sprintf("argon2id$%d$%d$%s$%s", hashMemory, hashTime,
		base64.RawStdEncoding.EncodeToString(salt), base64.RawStdEncoding.EncodeToString(hash(password, salt, hashMemory, hashTime)))
}

func hash(password string, salt []byte, memory, passes uint32) []byte {
	hashing <- struct{}{}
	defer func() { <-hashing }()
	return argon2.IDKey([]byte(password), salt, passes, memory, 1, 32)
}

// passwordMatches tells whether a password is the one that was hashed.
func passwordMatches(hashed, password string) bool {
	fields := strings.Split(hashed, "$")
	if len(fields) != 5 {
		return false
	}
	var memory, passes uint32
	fmt.Sscan(fields[1], &memory)
	fmt.Sscan(fields[2], &passes)
	salt, err1 := base64.RawStdEncoding.DecodeString(fields[3])
	want, err2 := base64.RawStdEncoding.DecodeString(fields[4])
	if err1 != nil || err2 != nil || passes == 0 || memory == 0 {
		return false
	}
	return subtle.ConstantTimeCompare(hash(password, salt, memory, passes), want) == 1
}

// nobody is hashed against where an address is not known, so that the answer
// takes as long.
var nobody = sync.OnceValue(func() string { return HashPassword("nobody") })

type signInView struct {
	Page
	Email string
	Error string
	Demo  *DemoAccount
}

func (s *Server) signInPage(c *echo.Context) error {
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

func (s *Server) signIn(c *echo.Context) error {
	ctx := c.Request().Context()
	email, password := strings.TrimSpace(c.FormValue("email")), c.FormValue("password")
	again := func(status int, message string) error {
		return c.Render(status, "sign-in", signInView{Page: s.page(c, "Sign in", ""), Email: email, Error: message, Demo: s.Demo})
	}
	if !s.limits.allow("from "+c.RealIP(), 20, 10*time.Second) || !s.limits.allow("as "+strings.ToLower(email), 6, 30*time.Second) {
		return again(http.StatusTooManyRequests, "Too many attempts. Wait half a minute and try again.")
	}
	t, err := s.Store.TeacherByEmail(ctx, email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	hashed := t.Password
	if hashed == "" {
		hashed = nobody()
	}
	if !passwordMatches(hashed, password) || err != nil {
		return again(http.StatusUnprocessableEntity, "This address and password do not belong together. Check both and try again.")
	}
	return s.enter(c, t)
}

// enter starts a teacher's session.
func (s *Server) enter(c *echo.Context, t store.Teacher) error {
	ctx := c.Request().Context()
	if err := s.sessions.RenewToken(ctx); err != nil {
		return err
	}
	s.sessions.Put(ctx, studioKey, t.StudioID)
	s.sessions.Put(ctx, teacherKey, t.ID)
	return c.Redirect(http.StatusSeeOther, "/")
}

func (s *Server) signOut(c *echo.Context) error {
	if err := s.sessions.Destroy(c.Request().Context()); err != nil {
		return err
	}
	return c.Redirect(http.StatusSeeOther, "/sign-in")
}

type setUpView struct {
	Page
	Name, StudioName, Email, Error string
}

func (s *Server) setUpPage(c *echo.Context) error {
	set, err := s.Store.HasStudio(c.Request().Context())
	if err != nil {
		return err
	}
	if set {
		return c.Redirect(http.StatusSeeOther, "/sign-in")
	}
	return c.Render(http.StatusOK, "set-up", setUpView{Page: s.page(c, "Set up your studio", "")})
}

// minPassword is the shortest password, in characters.
const minPassword = 10

func (s *Server) setUp(c *echo.Context) error {
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
	case utf8.RuneCountInString(password) < minPassword:
		v.Error = fmt.Sprintf("Choose a password of at least %d characters.", minPassword)
	}
	if v.Error != "" {
		return c.Render(http.StatusUnprocessableEntity, "set-up", v)
	}
	t := store.Teacher{Name: v.Name, Email: v.Email, Password: HashPassword(password)}
	if _, err := s.Store.AddStudio(ctx, v.StudioName, t, store.At(s.Now())); err != nil {
		return err
	}
	t, err := s.Store.TeacherByEmail(ctx, t.Email)
	if err != nil {
		return err
	}
	return s.enter(c, t)
}
