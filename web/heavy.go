package web

import (
	"net/http"
	"time"

	"github.com/labstack/echo/v5"
)

// Working out versions and chords takes the processor. Two at once are worked on;
// the others wait their turn for a while, so that the light pages stay quick, and
// whoever has gone is not worked for.

// heavyAtOnce is how many heavy pages are worked on at once, heavyWait how long
// another waits for its turn.
const (
	heavyAtOnce = 2
	heavyWait   = 20 * time.Second
)

// heavy lets a page that takes the processor wait for its turn.
func (s *Server) heavy(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		timer := time.NewTimer(heavyWait)
		defer timer.Stop()
		select {
		case s.turns <- struct{}{}:
			defer func() { <-s.turns }()
			return next(c)
		case <-c.Request().Context().Done():
			return c.Request().Context().Err()
		case <-timer.C:
			c.Response().Header().Set(echo.HeaderRetryAfter, "10")
			return &problem{status: http.StatusServiceUnavailable, message: "Many versions are being worked out just now. Nothing is lost; try again in a moment."}
		}
	}
}
