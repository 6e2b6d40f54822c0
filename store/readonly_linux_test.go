package store

import (
	"os"
	"path/filepath"
	"syscall"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A studio on a disk that cannot be written is copied all the same.
func TestBackupFromAReadOnlyDisk(t *testing.T) {
	ctx, dir, disk := t.Context(), t.TempDir(), t.TempDir()
	if err := syscall.Mount("none", disk, "tmpfs", 0, "size=4m"); err != nil {
		t.Skip("only who may mount can make such a disk: ", err)
	}
	t.Cleanup(func() { syscall.Unmount(disk, syscall.MNT_DETACH) }) //nolint:errcheck // it goes with the test
	path := filepath.Join(disk, "a.db")
	studioIn(t, path, "Attic")
	require.NoError(t, syscall.Mount("none", disk, "tmpfs", syscall.MS_REMOUNT|syscall.MS_RDONLY, ""))
	require.Error(t, os.WriteFile(filepath.Join(disk, "b"), nil, 0o600))
	require.NoError(t, Backup(ctx, path, filepath.Join(dir, "copy.db")))
	assert.Equal(t, "Attic", nameIn(t, filepath.Join(dir, "copy.db")))
	_, err := Restore(ctx, path, filepath.Join(dir, "new.db"), day.Time())
	require.NoError(t, err)
	assert.Equal(t, "Attic", nameIn(t, filepath.Join(dir, "new.db")))
}
