//go:build unix

package store

import (
	"os"
	"syscall"
)

// tryLock takes the lock of a file, which ends with the process.
func tryLock(f *os.File) error { return syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB) }
