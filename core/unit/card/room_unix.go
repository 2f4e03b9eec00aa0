//go:build unix

package card

import "golang.org/x/sys/unix"

// freeBytes is how much room a file system has.
func freeBytes(dir string) (int64, bool) {
	var s unix.Statfs_t
	if err := unix.Statfs(dir, &s); err != nil {
		return 0, false
	}
	return int64(s.Bavail) * int64(s.Bsize), true
}
