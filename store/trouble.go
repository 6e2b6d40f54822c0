package store

import (
	"errors"
	"syscall"

	"modernc.org/sqlite"
)

// Trouble is what keeps a database from being written, or read.
type Trouble uint8

// The kinds of trouble. The zero Trouble is none of them.
const (
	NoTrouble Trouble = iota
	DiskFull          // there is no room on the disk
	ReadOnly          // the file or its folder cannot be written
	Waiting           // something else has been writing for too long
	Damaged           // the file is not what it was
)

// TroubleOf tells what kind of trouble an error is. The codes are SQLite's:
// https://sqlite.org/rescode.html
func TroubleOf(err error) Trouble {
	const busy, locked, readOnly, ioError, corrupt, full, cannotOpen, notADatabase = 5, 6, 8, 10, 11, 13, 14, 26
	var e *sqlite.Error
	switch {
	case errors.As(err, &e):
		switch e.Code() & 0xff {
		case full, ioError:
			return DiskFull // a write that does not go through is a disk that is full, or gone
		case readOnly, cannotOpen:
			return ReadOnly
		case busy, locked:
			return Waiting
		case corrupt, notADatabase:
			return Damaged
		}
	case errors.Is(err, syscall.ENOSPC), errors.Is(err, syscall.EDQUOT):
		return DiskFull
	}
	return NoTrouble
}
