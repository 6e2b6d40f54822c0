package account

import (
	"net/netip"
	"sync"
	"time"

	"golang.org/x/time/rate"
)

// Limit bounds how often something may be tried: Burst tries, of which one comes
// back every Period.
type Limit struct {
	Burst  int
	Period time.Duration
}

// Limits remembers who has tried what. The zero Limits is ready, and safe for use
// by several goroutines.
type Limits struct {
	mu     sync.Mutex
	tries  map[string]*tries
	tidied time.Time
}

// tries is what one key has left.
type tries struct {
	*rate.Limiter
	limit Limit
	last  time.Time
}

// tidyEvery is how often keys are let go that have all their tries back.
const tidyEvery = time.Minute

// Allow tells whether one more try by a key is within a limit at a time, and where
// it is not, how long to wait.
func (l *Limits) Allow(key string, limit Limit, now time.Time) (ok bool, wait time.Duration) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.tries == nil {
		l.tries = map[string]*tries{}
	}
	if now.Sub(l.tidied) >= tidyEvery {
		for k, t := range l.tries {
			if now.Sub(t.last) > time.Duration(t.limit.Burst)*t.limit.Period {
				delete(l.tries, k)
			}
		}
		l.tidied = now
	}
	t := l.tries[key]
	if t == nil {
		t = &tries{Limiter: rate.NewLimiter(rate.Every(limit.Period), limit.Burst), limit: limit}
		l.tries[key] = t
	}
	t.last = now
	r := t.ReserveN(now, 1)
	if wait = r.DelayFrom(now); wait > 0 {
		r.CancelAt(now)
		return false, wait
	}
	return true, 0
}

// Forgive gives a key all its tries back.
func (l *Limits) Forgive(key string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	delete(l.tries, key)
}

// Keys is how many keys are remembered.
func (l *Limits) Keys() int {
	l.mu.Lock()
	defer l.mu.Unlock()
	return len(l.tries)
}

// Network is the network that an address belongs to: one household or office, by
// the first three bytes of an IPv4 and the first half of an IPv6 address.
func Network(address string) string {
	a, err := netip.ParseAddr(address)
	if err != nil {
		return address
	}
	bits := 64
	if a = a.Unmap(); a.Is4() {
		bits = 24
	}
	p, err := a.Prefix(bits)
	if err != nil {
		return address
	}
	return p.String()
}
