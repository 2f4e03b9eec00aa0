package card

import "golang.org/x/sys/windows"

// freeBytes is how much room a file system has.
func freeBytes(dir string) (int64, bool) {
	path, err := windows.UTF16PtrFromString(dir)
	if err != nil {
		return 0, false
	}
	var free uint64
	if err := windows.GetDiskFreeSpaceEx(path, &free, nil, nil); err != nil {
		return 0, false
	}
	return int64(min(free, 1<<62)), true
}
