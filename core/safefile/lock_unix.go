//go:build unix

package safefile

import (
	"os"

	"github.com/gofrs/flock"
)

// lockOf is the lock of a file or folder itself, so that none is left behind.
func lockOf(path string) (*flock.Flock, error) {
	if info, err := os.Stat(path); err == nil && info.IsDir() {
		return flock.New(path, flock.SetFlag(os.O_RDONLY)), nil
	}
	return flock.New(path, flock.SetFlag(os.O_CREATE|os.O_RDWR), flock.SetPermissions(0o666)), nil
}
