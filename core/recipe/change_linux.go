package recipe

import (
	"io/fs"
	"syscall"
)

// changeOf gives when the entry of a file last changed, in nanoseconds since 1970, and its number.
func changeOf(info fs.FileInfo) (at int64, inode uint64) {
	if s, ok := info.Sys().(*syscall.Stat_t); ok {
		return s.Ctim.Nano(), s.Ino
	}
	return 0, 0
}
