//go:build !(darwin || dragonfly || freebsd || linux || netbsd || openbsd)

package safefile

import (
	"os"
	"path/filepath"

	"github.com/gofrs/flock"
)

// lockOf is the lock of a file beside it, or in the folder, since what is locked can't be read there.
func lockOf(path string) (*flock.Flock, error) {
	name := path + ".lock"
	if info, err := os.Stat(path); err == nil && info.IsDir() {
		name = filepath.Join(path, ".gyrolith.lock")
	}
	return flock.New(name, flock.SetFlag(os.O_CREATE|os.O_RDWR)), nil
}

// claim says that a file is free: where files that are open can't be removed, that guards them.
func claim(*os.File) bool { return true }
