//go:build !unix

package safefile

import "io/fs"

func umask() fs.FileMode { return 0o022 }
