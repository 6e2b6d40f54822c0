package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"testing"
	"testing/synctest"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"valleyside/store"
)

// asking asks a server for heavy work, as a student with a number.
func asking(s *base) func(ctx context.Context, student int64, work echo.HandlerFunc) (*echo.Context, *httptest.ResponseRecorder, error) {
	e := echo.New()
	return func(ctx context.Context, student int64, work echo.HandlerFunc) (*echo.Context, *httptest.ResponseRecorder, error) {
		to := httptest.NewRecorder()
		c := e.NewContext(httptest.NewRequestWithContext(ctx, "GET", "/", nil), to)
		c.Set(studentKey, store.Student{ID: student})
		return c, to, s.heavy(work)(c)
	}
}

// Two heavy pages are worked on at once; a third waits, is told when it waited too
// long, and is not worked on where nobody waits for it any more.
func TestHeavyPagesWaitTheirTurn(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		s := &base{turns: newTurns()}
		ask := asking(s)
		release := make(chan struct{})
		for i := range heavyAtOnce {
			go ask(t.Context(), int64(i), func(*echo.Context) error { <-release; return nil }) //nolint:errcheck // they succeed
		}
		synctest.Wait()
		work := func(*echo.Context) error { t.Error("worked on"); return nil }

		begun := time.Now()
		c, _, err := ask(t.Context(), 7, work)
		var told *problem
		require.ErrorAs(t, err, &told)
		assert.Equal(t, http.StatusServiceUnavailable, told.status)
		assert.NotEmpty(t, c.Response().Header().Get(echo.HeaderRetryAfter))
		assert.Equal(t, heavyWait, time.Since(begun))

		gone, leave := context.WithTimeout(t.Context(), time.Second)
		defer leave()
		begun = time.Now()
		_, _, err = ask(gone, 7, work)
		require.ErrorIs(t, err, context.DeadlineExceeded)
		assert.Equal(t, time.Second, time.Since(begun))

		time.AfterFunc(5*time.Second, func() { close(release) })
		done := false
		_, _, err = ask(t.Context(), 7, func(*echo.Context) error { done = true; return nil })
		require.NoError(t, err)
		assert.True(t, done, "its turn comes")
		synctest.Wait()
		assert.Empty(t, s.turns.waiting)
		assert.Empty(t, s.turns.round)
		assert.Empty(t, s.turns.running)
		assert.Equal(t, heavyAtOnce, s.turns.free)
	})
}

// Whoever asks for a hundred pages at once waits for themselves: another visitor comes next.
func TestTurnsGoRound(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		s := &base{turns: newTurns()}
		ask := asking(s)
		second := func(*echo.Context) error { time.Sleep(time.Second); return nil }
		refused := make(chan error, 100)
		for range 100 {
			go func() {
				_, _, err := ask(t.Context(), 1, second)
				refused <- err
			}()
		}
		synctest.Wait()
		assert.Len(t, refused, 100-heavyAtOnce-heavyEach, "the others are told to come again, at once")
		begun := time.Now()
		for range 3 {
			_, _, err := ask(t.Context(), 2, second)
			require.NoError(t, err)
		}
		assert.LessOrEqual(t, time.Since(begun), 6*time.Second, "one page of the other at most before each")
		time.Sleep(time.Minute)
		assert.Len(t, refused, 100)
	})
}

// slowReader takes its time with every piece that is sent.
type slowReader struct {
	*httptest.ResponseRecorder
	reads func()
}

func (s slowReader) Write(b []byte) (int, error) {
	s.reads()
	return s.ResponseRecorder.Write(b)
}

// A turn is over when the page is worked out: who reads slowly keeps nobody waiting. What is
// sent is what was worked out, however long it is.
func TestSlowReadersHoldNoTurn(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		s := &base{turns: newTurns()}
		e := echo.New()
		read := make(chan struct{})
		for i := range 2 * heavyAtOnce {
			go func() {
				to := slowReader{httptest.NewRecorder(), func() { <-read }}
				c := e.NewContext(httptest.NewRequestWithContext(t.Context(), "GET", "/", nil), to)
				c.Set(studentKey, store.Student{ID: int64(i)})
				page := bytes.Repeat([]byte("la"), mostHeld)
				err := s.heavy(func(c *echo.Context) error { return c.Blob(http.StatusOK, "audio/wav", page) })(c)
				assert.NoError(t, err)
				assert.Equal(t, http.StatusOK, to.Code)
				assert.Equal(t, "audio/wav", to.Header().Get("Content-Type"))
				assert.True(t, bytes.Equal(page, to.Body.Bytes()))
			}()
		}
		synctest.Wait()
		ask := asking(s)
		begun := time.Now()
		_, to, err := ask(t.Context(), 9, func(c *echo.Context) error { return c.String(http.StatusTeapot, "quick") })
		require.NoError(t, err)
		assert.Zero(t, time.Since(begun))
		assert.Equal(t, http.StatusTeapot, to.Code)
		body, err := io.ReadAll(to.Body)
		require.NoError(t, err)
		assert.Equal(t, "quick", string(body))
		close(read)
	})
}

// A page that fails, or panics, gives its turn back, and nothing of it is sent.
func TestFaultsGiveTheirTurnBack(t *testing.T) {
	s := &base{turns: newTurns()}
	ask := asking(s)
	for range 3 * heavyAtOnce {
		_, to, err := ask(t.Context(), 1, func(*echo.Context) error { return errors.New("no") })
		assert.ErrorContains(t, err, "no")
		assert.Empty(t, to.Body.String())
		assert.PanicsWithValue(t, "ouch", func() {
			ask(t.Context(), 1, func(c *echo.Context) error { fmt.Fprint(c.Response(), "half a page"); panic("ouch") }) //nolint:errcheck // it panics
		})
	}
	assert.Equal(t, heavyAtOnce, s.turns.free)
}
