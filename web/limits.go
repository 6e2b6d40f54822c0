package web

import (
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
)

// limits bound how often things may be tried.
type limits struct {
	links    limit // links that are not valid, from a network
	networks limit // passwords, from a network
	accounts limit // passwords of an account, from a network
	everyone limit // passwords of an account, from anywhere
	known    limit // passwords of an account, in a browser that it was used in
	codes    limit // recovery codes, from a network
	logs     limit // practice of a student: a day's worth at once, then as fast as one plays
}

func newLimits() limits {
	return limits{
		links:    newLimit(30, 2*time.Second),
		networks: newLimit(40, 10*time.Second),
		accounts: newLimit(8, 30*time.Second),
		everyone: newLimit(100, 5*time.Minute),
		known:    newLimit(12, 20*time.Second),
		codes:    newLimit(10, time.Minute),
		logs:     newLimit(120, 10*time.Second),
	}
}

// limit allows some tries at once, of which one comes back every period.
type limit struct {
	store *middleware.RateLimiterMemoryStore
}

// newLimit lets keys go that have all their tries back.
func newLimit(tries int, period time.Duration) limit {
	return limit{middleware.NewRateLimiterMemoryStoreWithConfig(middleware.RateLimiterMemoryStoreConfig{
		Rate: 1 / period.Seconds(), Burst: tries, ExpiresIn: time.Duration(tries) * period})}
}

// try takes a try from a key and tells how many seconds it has to wait, 0 where it
// had one left. What the store says of it in the answer's head is for us alone.
func (l limit) try(c *echo.Context, key string) (seconds int, err error) {
	head := c.Response().Header()
	defer func() {
		for _, name := range []string{echo.HeaderRetryAfter, middleware.HeaderXRateLimitLimit, middleware.HeaderXRateLimitRemaining} {
			head.Del(name)
		}
	}()
	ok, err := l.store.AllowContext(c, key)
	if ok || err != nil {
		return 0, err
	}
	seconds, _ = strconv.Atoi(head.Get(echo.HeaderRetryAfter))
	return max(seconds, 1), nil
}

// check is try, with an error for a try too many.
func (l limit) check(c *echo.Context, key, what string) error {
	seconds, err := l.try(c, key)
	if err == nil && seconds > 0 {
		err = tooMany(c, seconds, what)
	}
	return err
}

// tooMany is a try too many, with the time to wait.
func tooMany(c *echo.Context, seconds int, what string) error {
	c.Response().Header().Set(echo.HeaderRetryAfter, strconv.Itoa(seconds))
	return &problem{status: http.StatusTooManyRequests, message: fmt.Sprintf("%s Try again in %s.", what, inWords(seconds))}
}

func inWords(seconds int) string {
	switch {
	case seconds == 1:
		return "a second"
	case seconds < 90:
		return fmt.Sprintf("%d seconds", seconds)
	}
	return fmt.Sprintf("%d minutes", (seconds+59)/60)
}
