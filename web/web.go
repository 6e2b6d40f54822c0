// Package web serves the pages: handlers, templates and the files that the
// browser gets.
package web

import (
	"context"
	"embed"
	"errors"
	"html/template"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/scs/sqlite3store"
	"github.com/alexedwards/scs/v2"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"valleyside/formats"
	"valleyside/store"
	"valleyside/studio"
)

//go:embed templates/*.html
var templateFiles embed.FS

// Config says what a server is made of. Store is required; the zero value of
// everything else works.
type Config struct {
	Store *store.Store
	// Log receives a line for each request; nil discards them.
	Log *slog.Logger
	// Now is the time of day; nil is the clock.
	Now func() time.Time
	// Secure marks cookies for https only. Set it where the server is reached
	// over https.
	Secure bool
	// PublicURL is the address under which the server is reached, as in
	// https://lessons.example; empty takes what the browser says, which somebody
	// in between could have changed.
	PublicURL string
	// TrustedProxies are those in front of the server whose word counts for where a
	// request comes from.
	TrustedProxies []*net.IPNet
	// Demo tells the visitor how to sign in to the demo studio.
	Demo *DemoAccount
}

// DemoAccount is shown on the sign-in page of a demo.
type DemoAccount struct{ Email, Password string }

// Server answers requests: each part of it those of one concern.
type Server struct {
	*echo.Echo
	*base
	songbook   *songbook
	lessonbook *lessonbook
	roster     *roster
	ownPage    *ownPage
	door       *door
	office     *office
}

// base is what every part of the server has.
type base struct {
	Config
	sessions *scs.SessionManager
	house    *studio.House
	limits   limits
	turns    *turns
	pages    *pages
}

// songbook has the pages of songs: the sheet, its versions, rungs and chords, what is brought
// in and taken along, the chord desk.
type songbook struct {
	*base
	brought *doorstep[brought]
}

// lessonbook has the pages of lessons: their steps, handouts and music.
type lessonbook struct{ *base }

// roster has the pages of who comes: today, the students and what they have.
type roster struct{ *base }

// ownPage is a student's own page, behind their link.
type ownPage struct{ *base }

// door lets in: signing in and out, setting up, the way back.
type door struct{ *base }

// office has the settings, and what comes in and goes out of a studio.
type office struct {
	*base
	returned *doorstep[*returned]
}

// maxBody is the largest request that is read. A sheet of 200 KB may arrive
// with every character escaped.
const maxBody = 1 << 20

// limitBodies limits what is sent: files are brought to addresses of their own.
func limitBodies(next echo.HandlerFunc) echo.HandlerFunc {
	form, file, export := middleware.BodyLimit(maxBody)(next), middleware.BodyLimit(formats.MaxBytes+formAround)(next), middleware.BodyLimit(maxReturn+formAround)(next)
	return func(c *echo.Context) error {
		switch c.Request().URL.Path {
		case bringsTo:
			return file(c)
		case returnsTo:
			return slowly(export)(c)
		}
		return form(c)
	}
}

// filesToDisk reads what is sent with files: they lie on the disk and not in memory.
func filesToDisk(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if strings.HasPrefix(c.Request().Header.Get(echo.HeaderContentType), echo.MIMEMultipartForm) {
			if err := c.Request().ParseMultipartForm(maxBody); err != nil {
				if _, status := echo.ResolveResponseStatus(c.Response(), err); status != http.StatusInternalServerError || errors.Is(err, context.Canceled) {
					return err // it is too large
				}
				return &problem{status: http.StatusBadRequest, message: "What was sent did not arrive whole. Nothing was changed; send it again.", cause: err}
			}
		}
		return next(c)
	}
}

// New makes a server. Close it after use.
func New(c Config) (*Server, error) {
	if c.Log == nil {
		c.Log = slog.New(slog.DiscardHandler)
	}
	if c.Now == nil {
		c.Now = time.Now
	}
	pages := new(pages)
	if _, err := pages.in(new(store.Studio).Zone()); err != nil {
		return nil, err
	}
	b := &base{Config: c, limits: newLimits(), house: studio.New(c.Store, c.Log), turns: newTurns(), pages: pages}
	s := &Server{Echo: echo.New(), base: b, songbook: &songbook{b, newDoorstep[brought](mostBrought, nil)}, lessonbook: &lessonbook{b}, roster: &roster{b},
		ownPage: &ownPage{b}, door: &door{b}, office: &office{b, newDoorstep(mostReturned, (*returned).close)}}
	s.sessions = scs.New()
	s.sessions.Store = newSessionStore(c.Store)
	s.sessions.Lifetime = 14 * 24 * time.Hour
	s.sessions.HashTokenInStore = true
	s.sessions.Cookie.Name = "valleyside"
	s.sessions.Cookie.HttpOnly = true
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode
	s.sessions.Cookie.Secure = c.Secure
	s.sessions.ErrorFunc = s.sessionTrouble
	s.IPExtractor = echo.ExtractIPDirect()
	if len(c.TrustedProxies) > 0 {
		trust := []echo.TrustOption{echo.TrustLoopback(false), echo.TrustLinkLocal(false), echo.TrustPrivateNet(false)}
		for _, n := range c.TrustedProxies {
			trust = append(trust, echo.TrustIPRange(n))
		}
		s.IPExtractor = echo.ExtractIPFromXFFHeader(trust...)
	}
	s.Renderer = pages
	s.HTTPErrorHandler = s.fail
	s.Logger = c.Log
	s.Pre(headAsGet, middleware.RequestID())
	s.Use(s.logRequests, middleware.Recover(), s.securityHeaders, limitBodies)
	s.routes()
	return s, nil
}

// sessionTrouble is called where a session cannot be read, which ends the request,
// and where it cannot be written. Then the page that is about to be sent is whole
// all the same: nothing is put in front of it.
func (s *base) sessionTrouble(w http.ResponseWriter, r *http.Request, err error) {
	s.Log.ErrorContext(r.Context(), "session", "error", err)
	if !hasSession(s.sessions, r.Context()) {
		http.Error(w, "The session could not be read. Nothing is lost; try again in a moment.", http.StatusServiceUnavailable)
	}
}

// hasSession tells whether a session has been read for a request.
func hasSession(m *scs.SessionManager, ctx context.Context) (ok bool) {
	defer func() { ok = recover() == nil }()
	m.Status(ctx) // it panics where there is none
	return true
}

// troubles says what keeps something from being saved.
var troubles = map[store.Trouble]string{
	store.DiskFull: "The disk of this machine is full, or does not answer: nothing could be saved. What you typed is still on your page; make room on the disk, then go back and send it again.",
	store.ReadOnly: "The studio's file cannot be written: nothing could be saved. What you typed is still on your page; whoever looks after this machine has to give the right to write.",
	store.Waiting:  "Something else has been writing for too long. Nothing is lost; go back and send it again in a moment.",
	store.Damaged:  "The studio's file is damaged. Stop the server and restore the last copy (docs/moving.md).",
}

// sessionStore keeps sessions in the database, and reads them with the connections
// that only read: a page that is looked at waits for no writer.
type sessionStore struct {
	*sqlite3store.SQLite3Store
	store *store.Store
}

func newSessionStore(st *store.Store) *sessionStore {
	return &sessionStore{sqlite3store.New(st.DB()), st}
}

// FindCtx reads a session.
func (s *sessionStore) FindCtx(ctx context.Context, token string) ([]byte, bool, error) {
	data, err := s.store.Session(ctx, token)
	if errors.Is(err, store.ErrNotFound) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// CommitCtx writes a session.
func (s *sessionStore) CommitCtx(_ context.Context, token string, b []byte, expiry time.Time) error {
	return s.Commit(token, b, expiry)
}

// DeleteCtx ends a session.
func (s *sessionStore) DeleteCtx(_ context.Context, token string) error { return s.Delete(token) }

// Tend does what has to be done from time to time, until the context ends: students
// who were deleted long ago are erased.
func (s *Server) Tend(ctx context.Context) {
	const every = 6 * time.Hour
	for tick := time.NewTicker(every); ; {
		n, err := s.Store.EraseDeleted(ctx, store.At(s.Now()))
		switch {
		case err != nil && ctx.Err() == nil:
			s.Log.ErrorContext(ctx, "erase what was deleted", "error", err)
		case n > 0:
			s.Log.InfoContext(ctx, "erased what was deleted", "students", n)
		}
		select {
		case <-ctx.Done():
			tick.Stop()
			return
		case <-tick.C:
		}
	}
}

// Work brings up to date what was worked out of songs, hands and lessons that have changed
// since, until the context ends.
func (s *Server) Work(ctx context.Context) { s.house.Work(ctx) }

// Close stops what runs beside the requests.
func (s *Server) Close() {
	if st, ok := s.sessions.Store.(*sessionStore); ok {
		st.StopCleanup()
	}
}

// headAsGet answers HEAD as GET is answered; the body is left out on the way.
func headAsGet(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		if c.Request().Method == http.MethodHead {
			r := c.Request().WithContext(c.Request().Context())
			r.Method = http.MethodGet
			c.SetRequest(r)
			c.Set(askedBy, http.MethodHead)
		}
		return next(c)
	}
}

// askedBy is the method that a request came with, where it is answered as another.
const askedBy = "asked by"

// logRequests writes a line for each request, with the route rather than the
// address, which may carry a secret.
func (s *base) logRequests(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		start := time.Now()
		err := next(c)
		status := statusOf(c, err)
		level := slog.LevelInfo
		if status >= 500 {
			level = slog.LevelError
		}
		method := c.Request().Method
		if asked, ok := c.Get(askedBy).(string); ok {
			method = asked
		}
		attrs := []slog.Attr{
			slog.String("method", method), slog.String("route", c.Path()), slog.Int("status", status),
			slog.Duration("took", time.Since(start)), slog.String("id", requestID(c)),
		}
		switch {
		case errors.Is(err, context.Canceled): // its reader has gone: one line, and no error
			attrs = append(attrs, slog.Bool("given_up", true))
			level = slog.LevelInfo
		case err != nil:
			attrs = append(attrs, slog.String("error", err.Error()))
		}
		s.Log.LogAttrs(c.Request().Context(), level, "request", attrs...)
		return err
	}
}

// address is where the server is reached, without a slash at the end.
func (s *base) address(c *echo.Context) string {
	if s.PublicURL != "" {
		return strings.TrimSuffix(s.PublicURL, "/")
	}
	scheme := "http"
	if s.Secure {
		scheme = "https"
	}
	return scheme + "://" + c.Request().Host
}

func requestID(c *echo.Context) string { return c.Response().Header().Get(echo.HeaderXRequestID) }

const contentPolicy = "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self'; font-src 'self'; " +
	"connect-src 'self'; worker-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

func (s *base) securityHeaders(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("X-Robots-Tag", "noindex, nofollow")
		if s.Secure {
			h.Set("Strict-Transport-Security", "max-age=31536000")
		}
		h.Set("Content-Security-Policy", contentPolicy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cache-Control", "no-store")
		return next(c)
	}
}

// problem is an error that a person sees: what is wrong and how to mend it.
type problem struct {
	status  int
	message string
	cause   error
}

func (p *problem) Error() string {
	if p.cause != nil {
		return p.message + ": " + p.cause.Error()
	}
	return p.message
}

func (p *problem) Unwrap() error   { return p.cause }
func (p *problem) StatusCode() int { return p.status }

// wrong is a problem with what was sent.
func wrong(message string) error {
	return &problem{status: http.StatusUnprocessableEntity, message: message}
}

// givenUp is the status of a request whose reader has gone.
const givenUp = 499

// statusOf is the status with which a request is answered that ended so.
func statusOf(c *echo.Context, err error) int {
	_, status := echo.ResolveResponseStatus(c.Response(), err)
	var p *problem
	_, trouble := troubles[store.TroubleOf(err)]
	switch {
	case errors.As(err, &p):
		return p.status
	case errors.Is(err, store.ErrNotFound):
		return http.StatusNotFound
	case errors.Is(err, context.Canceled):
		return givenUp
	case trouble:
		return http.StatusServiceUnavailable
	}
	return status
}

// fail answers a request that ended in an error.
func (s *base) fail(c *echo.Context, err error) {
	if response, _ := echo.ResolveResponseStatus(c.Response(), err); response != nil && response.Committed {
		return
	}
	message, status := "", statusOf(c, err)
	if p := new(problem); errors.As(err, &p) {
		message = p.message
	}
	if text, ok := studio.IsTrouble(err); ok {
		message = text // it is in the log already, with what it was made of
	}
	if message == "" {
		message = map[int]string{
			http.StatusNotFound:              "There is nothing here. It may have been deleted, or the address is not complete.",
			http.StatusForbidden:             "This form was open for too long. Go back, load the page again and send it once more.",
			http.StatusBadRequest:            "This form was open for too long. Go back, load the page again and send it once more.",
			http.StatusRequestEntityTooLarge: "What was sent is too large. A sheet may have 200 KB, a file 10 MB.",
			http.StatusMethodNotAllowed:      "This address does not take that kind of request.",
		}[status]
	}
	if text, ok := troubles[store.TroubleOf(err)]; ok {
		message = text
		s.Log.ErrorContext(c.Request().Context(), "database", "error", err, "id", requestID(c))
	}
	if status == givenUp {
		c.Response().WriteHeader(status)
		return
	}
	if message == "" {
		message = "Something went wrong here. Nothing you saved is lost. Try again, and if it stays, tell us the number below."
		s.Log.ErrorContext(c.Request().Context(), "failed", "error", err, "id", requestID(c))
	}
	if c.Request().Header.Get("Accept") == "application/json" {
		c.JSON(status, map[string]string{"error": message}) //nolint:errcheck // nobody is left to tell
		return
	}
	v := struct {
		Page
		Message, Request string
		Status           int
	}{s.page(c, "Not here", ""), message, requestID(c), status}
	if err := c.Render(status, "error", v); err != nil {
		s.Log.ErrorContext(c.Request().Context(), "render error page", "error", err)
	}
}

// SafeHTML is what the drawings give.
type SafeHTML = template.HTML
