package web

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"
	"testing/synctest"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Two heavy pages are worked on at once; a third waits, is told when it waited too
// long, and is not worked on where nobody waits for it any more.
func TestHeavyPagesWaitTheirTurn(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		s := &Server{turns: make(chan struct{}, heavyAtOnce)}
		e := echo.New()
		ask := func(ctx context.Context, work echo.HandlerFunc) (*echo.Context, error) {
			c := e.NewContext(httptest.NewRequestWithContext(ctx, "GET", "/", nil), httptest.NewRecorder())
			return c, s.heavy(work)(c)
		}
		release := make(chan struct{})
		for range heavyAtOnce {
			go ask(t.Context(), func(*echo.Context) error { <-release; return nil }) //nolint:errcheck // they succeed
		}
		synctest.Wait()
		work := func(*echo.Context) error { t.Error("worked on"); return nil }

		begun := time.Now()
		c, err := ask(t.Context(), work)
		var told *problem
		require.ErrorAs(t, err, &told)
		assert.Equal(t, http.StatusServiceUnavailable, told.status)
		assert.NotEmpty(t, c.Response().Header().Get(echo.HeaderRetryAfter))
		assert.Equal(t, heavyWait, time.Since(begun))

		gone, leave := context.WithTimeout(t.Context(), time.Second)
		defer leave()
		begun = time.Now()
		_, err = ask(gone, work)
		require.ErrorIs(t, err, context.DeadlineExceeded)
		assert.Equal(t, time.Second, time.Since(begun))

		time.AfterFunc(5*time.Second, func() { close(release) })
		done := false
		_, err = ask(t.Context(), func(*echo.Context) error { done = true; return nil })
		require.NoError(t, err)
		assert.True(t, done, "its turn comes")
	})
}
