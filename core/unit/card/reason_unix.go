//go:build !windows

package card

import "syscall"

// The errors of the file system by what they mean for a card.
var (
	cardFull     = []error{syscall.ENOSPC, syscall.EDQUOT}
	cardReadOnly = []error{syscall.EROFS}
	cardGone     = []error{syscall.EIO, syscall.ENXIO, syscall.ENODEV}
	badName      = []error{syscall.ENAMETOOLONG, syscall.EINVAL}
)
