//go:build unix

package safefile

import (
	"io/fs"
	"sync"
	"syscall"
)

// umask reads what the user's settings take away from new files. It can only be read by setting it.
var umask = sync.OnceValue(func() fs.FileMode {
	m := syscall.Umask(0o022)
	syscall.Umask(m)
	return fs.FileMode(m)
})
