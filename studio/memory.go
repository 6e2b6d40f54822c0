package studio

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"log/slog"
	"sync"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/sheet"
	"valleyside/core/song"
	"valleyside/core/voicing"
	"valleyside/store"
)

// memory remembers what was worked out lately, for whoever looks through a song asks for the
// same at every click. Each studio has room of its own. What is asked for while it is being
// worked out is waited for. Everything in it is shared and must not be changed.
type memory struct {
	mu      *sync.Mutex
	studios *lru.Cache[int64, *shelf]
	flights *singleflight.Group
}

// shelf is what is remembered of one studio.
type shelf struct {
	work  *lru.Cache[Key, any]
	songs *lru.Cache[Key, *song.Song]
}

// Key is what something was worked out of.
type Key [sha256.Size]byte

// Limits of what is remembered: studios, pieces of work of one, each of so many bars at
// most, and songs that were read.
const (
	studiosKept = 6
	workKept    = 48
	workBars    = 120
	songsKept   = 12
	songBytes   = 8 << 10
)

func newMemory() memory {
	studios, err := lru.New[int64, *shelf](studiosKept)
	if err != nil { // of a size that is no size
		panic(err)
	}
	return memory{new(sync.Mutex), studios, new(singleflight.Group)}
}

func (m *memory) shelf(studio int64) *shelf {
	m.mu.Lock()
	defer m.mu.Unlock()
	if s, ok := m.studios.Get(studio); ok {
		return s
	}
	s := new(shelf)
	s.work, _ = lru.New[Key, any](workKept)
	s.songs, _ = lru.New[Key, *song.Song](songsKept)
	m.studios.Add(studio, s)
	return s
}

// KeyOf is the key of a piece of work: what it is, and the values that it depends on, which
// are numbers, words, slices, arrays and structs of them. The options have one of their own
// (OfOptions).
func KeyOf(what string, of ...any) Key { return Key(song.Fingerprint(append([]any{what}, of...)...)) }

// OfOptions is all of some options that a version depends on.
func OfOptions(o arrange.Options) any {
	of := struct {
		Player   hand.Player
		Tempo    float64
		Tuning   string
		Unplaced bool
		School   voicing.School
	}{Player: o.Player.Usual(), Tempo: o.Tempo, Unplaced: o.Unplaced, School: o.School}
	if o.Tuning != nil {
		of.Tuning = o.Tuning.String()
	}
	return of
}

// Work is a piece of work: what it is and what it is made of, by which it is remembered and
// which stands in the log where it fails.
type Work struct {
	what string
	of   []any
}

// WorkOf is a piece of work, of values as KeyOf has them.
func WorkOf(what string, of ...any) Work { return Work{what, of} }

// Worked gives a piece of work for a studio, done now or lately; bars is how much it is of.
// Only one does it at a time. Whoever gives up is not waited for.
func Worked[V any](ctx context.Context, h *House, studio int64, work Work, bars int, do func() (V, error)) (V, error) {
	var none V
	if err := ctx.Err(); err != nil {
		return none, err
	}
	s, key := h.shelf(studio), KeyOf(work.what, work.of...)
	if found, ok := s.work.Get(key); ok {
		return found.(V), nil
	}
	for {
		var mine bool
		result := h.flights.DoChan(string(key[:]), func() (v any, err error) {
			mine = true
			err = h.guard(ctx, "This", []slog.Attr{slog.String("work", work.what), slog.String("of", fmt.Sprintf("%+v", work.of))}, func() error {
				made, err := do()
				v = made
				return err
			})
			if err == nil && bars <= workBars {
				s.work.Add(key, v)
			}
			return v, err
		})
		select {
		case r := <-result:
			if r.Err != nil {
				if errors.Is(r.Err, context.Canceled) && !mine && ctx.Err() == nil {
					continue // who did it has gone
				}
				return none, r.Err
			}
			return r.Val.(V), nil
		case <-ctx.Done():
			return none, ctx.Err()
		}
	}
}

// Read reads a sheet of a studio whose parts are known by some numbers, now or lately.
func (h *House) Read(studio int64, text string, parts []store.SongPart) *song.Song {
	ids := identities(parts)
	if len(text) > songBytes {
		return sheet.Parse(text).Song.WithIDs(ids)
	}
	s := h.shelf(studio)
	key := KeyOf("song", text, ids)
	if g, ok := s.songs.Get(key); ok {
		return g
	}
	g := sheet.Parse(text).Song.WithIDs(ids)
	s.songs.Add(key, g)
	return g
}

func identities(parts []store.SongPart) []song.Identity {
	ids := make([]song.Identity, len(parts))
	for i := range parts {
		ids[i] = parts[i].Identity()
	}
	return ids
}

// Problems is how many mistakes a sheet of a studio has, now or as counted lately.
func (h *House) Problems(ctx context.Context, studio int64, text string) (int, error) {
	return Worked(ctx, h, studio, WorkOf("problems", text), 0, func() (n int, err error) {
		for _, p := range sheet.Parse(text).Problems {
			if p.Severity == sheet.Error {
				n++
			}
		}
		return n, nil
	})
}
