package web

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"slices"
	"sync"
	"time"

	"github.com/labstack/echo/v5"

	"valleyside/store"
)

// Working out versions and chords takes the processor. Two pages at once are worked on;
// the others wait their turn for a while, so that the light pages stay quick. Turns go round
// among visitors: whoever asks for sixty pages at once waits for themselves. A turn is over
// when a page is worked out, however long it takes to send it, and whoever has gone is not
// worked for.

// heavyAtOnce is how many heavy pages are worked on at once, heavyWait how long
// another waits for its turn, heavyEach how many of one visitor may wait.
const (
	heavyAtOnce = 2
	heavyWait   = 20 * time.Second
	heavyEach   = 64
)

// turns are who is worked for and who waits.
type turns struct {
	mu      sync.Mutex
	free    int
	waiting map[string][]chan struct{} // by visitor
	round   []string                   // visitors who wait, whoever comes next first
	running map[string]int
}

func newTurns() *turns {
	return &turns{free: heavyAtOnce, waiting: map[string][]chan struct{}{}, running: map[string]int{}}
}

var (
	errBusy     = errors.New("too much is being worked out")
	errTooMuch  = errors.New("one visitor asks for too much at once")
	errNotServe = &problem{status: http.StatusServiceUnavailable, message: "Many versions are being worked out just now. Nothing is lost; try again in a moment."}
)

// take waits for a turn of a visitor, which is given back with release.
func (t *turns) take(ctx context.Context, who string) (release func(), err error) {
	t.mu.Lock()
	if len(t.waiting[who]) >= heavyEach {
		t.mu.Unlock()
		return nil, errTooMuch
	}
	turn := make(chan struct{})
	if len(t.waiting[who]) == 0 {
		t.round = append(t.round, who)
	}
	t.waiting[who] = append(t.waiting[who], turn)
	t.give()
	t.mu.Unlock()
	timer := time.NewTimer(heavyWait)
	defer timer.Stop()
	select {
	case <-turn:
		return func() { t.done(who) }, nil
	case <-ctx.Done():
		err = ctx.Err()
	case <-timer.C:
		err = errBusy
	}
	t.mu.Lock()
	defer t.mu.Unlock()
	if i := slices.Index(t.waiting[who], turn); i >= 0 {
		t.waiting[who] = slices.Delete(t.waiting[who], i, i+1)
		t.tidy(who)
		return nil, err
	}
	return func() { t.done(who) }, nil // it came at that very moment
}

// give gives the turns that are free, first to those whom least is worked for, then in the
// round.
func (t *turns) give() {
	for t.free > 0 && len(t.round) > 0 {
		next := 0
		for i, who := range t.round {
			if t.running[who] < t.running[t.round[next]] {
				next = i
			}
		}
		who := t.round[next]
		turn := t.waiting[who][0]
		t.waiting[who] = t.waiting[who][1:]
		t.round = append(slices.Delete(t.round, next, next+1), who)
		t.tidy(who)
		t.free--
		t.running[who]++
		close(turn)
	}
}

// tidy forgets a visitor for whom nothing waits.
func (t *turns) tidy(who string) {
	if len(t.waiting[who]) == 0 {
		delete(t.waiting, who)
		t.round = slices.DeleteFunc(t.round, func(other string) bool { return other == who })
	}
}

func (t *turns) done(who string) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.running[who]--; t.running[who] == 0 {
		delete(t.running, who)
	}
	t.free++
	t.give()
}

// visitor is who asks: a teacher, a student, or else whoever is at an address.
func visitor(c *echo.Context) string {
	if st, ok := c.Get(studentKey).(store.Student); ok {
		return fmt.Sprintf("student %d", st.ID)
	}
	if t, ok := c.Get(teacherKey).(store.Teacher); ok {
		return fmt.Sprintf("teacher %d", t.ID)
	}
	return c.RealIP()
}

// heavy lets a page that takes the processor wait for its turn.
func (s *base) heavy(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		release, err := s.turns.take(c.Request().Context(), visitor(c))
		if errors.Is(err, errBusy) || errors.Is(err, errTooMuch) {
			c.Response().Header().Set(echo.HeaderRetryAfter, "10")
			return errNotServe
		}
		if err != nil {
			return err
		}
		to := c.Response()
		page := &held{to: to}
		defer page.close()
		c.SetResponse(page)
		func() {
			defer release() // also where it panics
			defer c.SetResponse(to)
			err = next(c)
		}()
		if err != nil && page.status == 0 {
			return err
		}
		return errors.Join(err, page.send())
	}
}

// mostHeld is how much of a page is held in memory while it is worked out; what is longer
// lies in a file meanwhile.
const mostHeld = 4 << 20

// held is a response that is kept until all of it is there.
type held struct {
	to     http.ResponseWriter
	status int
	body   bytes.Buffer
	file   *os.File
}

func (h *held) Header() http.Header { return h.to.Header() }

// Unwrap is where the response goes.
func (h *held) Unwrap() http.ResponseWriter { return h.to }

func (h *held) WriteHeader(status int) {
	if h.status == 0 {
		h.status = status
	}
}

func (h *held) Write(b []byte) (int, error) {
	h.WriteHeader(http.StatusOK)
	if h.file == nil && h.body.Len()+len(b) > mostHeld {
		f, err := os.CreateTemp("", "valleyside-page-")
		if err != nil {
			return 0, err
		}
		h.file = f
		os.Remove(f.Name()) //nolint:errcheck // where it cannot be yet, close does it
		if _, err := h.body.WriteTo(f); err != nil {
			return 0, err
		}
	}
	if h.file != nil {
		return h.file.Write(b)
	}
	return h.body.Write(b)
}

// send sends what was kept.
func (h *held) send() error {
	if h.status == 0 {
		return nil
	}
	h.to.WriteHeader(h.status)
	if h.file == nil {
		_, err := h.body.WriteTo(h.to)
		return err
	}
	if _, err := h.file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	_, err := io.Copy(h.to, h.file)
	return err
}

func (h *held) close() {
	if h.file != nil {
		h.file.Close()
		os.Remove(h.file.Name()) //nolint:errcheck // it is gone already where that is possible
	}
}
