package card

import "golang.org/x/sys/windows"

// The errors of the file system by what they mean for a card.
var (
	cardFull     = []error{windows.ERROR_DISK_FULL, windows.ERROR_HANDLE_DISK_FULL}
	cardReadOnly = []error{windows.ERROR_WRITE_PROTECT}
	cardGone     = []error{windows.ERROR_NOT_READY, windows.ERROR_DEVICE_NOT_CONNECTED, windows.ERROR_DEV_NOT_EXIST,
		windows.ERROR_IO_DEVICE, windows.ERROR_NO_MEDIA_IN_DRIVE}
	badName = []error{windows.ERROR_INVALID_NAME, windows.ERROR_FILENAME_EXCED_RANGE, windows.ERROR_BAD_PATHNAME}
)
