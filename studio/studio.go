// Package studio is what a teacher does: save a song, fit versions to a hand, build a lesson
// and change its steps, give it to a student, see how far they are and what wants a look. It
// is the one rule for the pages, the command line and whatever comes later: they ask here,
// and show what they are told.
//
// What is worked out is a function of values (Teach, SumOfSong, SumOfGiven, Done). A House
// keeps studios in a store, and remembers for a while what was worked out of them.
package studio

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"runtime/debug"

	"valleyside/core/arrange"
	"valleyside/core/hand"
	"valleyside/core/voicing"
	"valleyside/store"
)

// House keeps the studios of a store. It is safe for use by several goroutines. Make one
// with New.
type House struct {
	Store *store.Store
	Log   *slog.Logger
	book  *voicing.Book
	memory
	work chan struct{} // something may have become stale
}

// New is a House over a store; what fails in it is written to the log, nil for nobody.
func New(s *store.Store, log *slog.Logger) *House {
	if log == nil {
		log = slog.New(slog.DiscardHandler)
	}
	return &House{Store: s, Log: log, book: new(voicing.Book), memory: newMemory(), work: make(chan struct{}, 1)}
}

// Book is the memory of the voicings of chords.
func (h *House) Book() *voicing.Book { return h.book }

// Options are how versions are made in a studio, for a player at a tempo of the song; 0 is
// that of the sheet.
func (h *House) Options(home *store.Studio, p hand.Player, tempo float64) arrange.Options {
	return arrange.Options{Player: p, Tempo: tempo, Book: h.book, School: voicing.School(home.ChordSchool)}
}

// Trouble is what came instead of something that could not be worked out. A person reads
// its Error; the log has the rest.
type Trouble struct {
	What  string // was to be worked out
	cause any
	stack []byte
}

func (t *Trouble) Error() string {
	return t.What + " could not be worked out. It is a fault of the program, which has been noted; everything else is as it was."
}

// Unwrap is the cause, where it was an error.
func (t *Trouble) Unwrap() error {
	err, _ := t.cause.(error)
	return err
}

// guard works something out, and gives a Trouble where that fails, so that what is beside it
// does not fail with it. It is logged once, with what it was made of.
func (h *House) guard(ctx context.Context, what string, of []slog.Attr, do func() error) (err error) {
	defer func() {
		if r := recover(); r != nil {
			t := &Trouble{What: what, cause: r, stack: debug.Stack()}
			attrs := append([]slog.Attr{slog.String("what", what), slog.String("cause", fmt.Sprint(r)), slog.String("stack", string(t.stack))}, of...)
			h.Log.LogAttrs(ctx, slog.LevelError, "not worked out", attrs...)
			err = t
		}
	}()
	return do()
}

// IsTrouble tells whether an error is that something could not be worked out, and what a
// person is told of it.
func IsTrouble(err error) (string, bool) {
	var t *Trouble
	if errors.As(err, &t) {
		return t.Error(), true
	}
	return "", false
}
