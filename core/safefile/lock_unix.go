//go:build darwin || dragonfly || freebsd || linux || netbsd || openbsd

package safefile

import (
	"os"
	"syscall"

	"github.com/gofrs/flock"
)

// lockOf is the lock of a file or folder itself, so that none is left behind.
func lockOf(path string) (*flock.Flock, error) {
	if info, err := os.Stat(path); err == nil && info.IsDir() {
		return flock.New(path, flock.SetFlag(os.O_RDONLY)), nil
	}
	return flock.New(path, flock.SetFlag(os.O_CREATE|os.O_RDWR), flock.SetPermissions(0o666)), nil
}

// claim locks an open file for as long as it is open; false where another program has.
func claim(f *os.File) bool {
	err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB)
	return err != syscall.EWOULDBLOCK
}
