package scratch

import (
	"bytes"
	"os"
	"strconv"
	"sync"
	"time"

	"golang.org/x/sys/unix"
)

// inMemory is how many bytes of files that are mapped, the program's own among them, may be in memory before all are
// put aside, and glance how often that is looked at.
const (
	inMemory = 48 << 20
	glance   = 4 * time.Millisecond
)

var rooms struct {
	sync.Mutex
	all [][]byte
}

// folder is where the file is: a disk, if there is one for such things.
func folder() string {
	const disk = "/var/tmp"
	if info, err := os.Stat(disk); os.Getenv("TMPDIR") == "" && err == nil && info.IsDir() {
		return disk
	}
	return os.TempDir()
}

// reserve maps a file of that size. All of it is taken on the disk at once: of a full disk nothing could be told later.
func reserve(size int64) ([]byte, error) {
	file, err := os.CreateTemp(folder(), "gyrolith-*")
	if err != nil {
		return nil, err
	}
	defer file.Close()
	if err := os.Remove(file.Name()); err != nil {
		return nil, err
	}
	if err := unix.Fallocate(int(file.Fd()), 0, 0, size); err != nil {
		return nil, err
	}
	room, err := unix.Mmap(int(file.Fd()), 0, int(size), unix.PROT_READ|unix.PROT_WRITE, unix.MAP_SHARED)
	if err != nil {
		return nil, err
	}
	rooms.Lock()
	defer rooms.Unlock()
	if rooms.all = append(rooms.all, room); !used.Swap(true) {
		go watch()
	}
	return room, nil
}

// watch puts aside what was looked at when it has become much.
func watch() {
	state, err := os.Open("/proc/self/statm")
	if err != nil {
		return
	}
	defer state.Close()
	for range time.Tick(glance) {
		if mapped(state)*int64(os.Getpagesize()) > inMemory {
			putAside()
		}
	}
}

// putAside takes all that is mapped out of memory. It stays with its file, from where it comes back.
func putAside() {
	rooms.Lock()
	defer rooms.Unlock()
	for _, room := range rooms.all {
		_ = unix.Madvise(room, unix.MADV_DONTNEED) // at worst no memory is saved
	}
}

// mapped is how many pages of files are in memory (proc(5), /proc/pid/statm).
func mapped(state *os.File) int64 {
	var text [128]byte
	n, _ := state.ReadAt(text[:], 0)
	fields := bytes.Fields(text[:n])
	if len(fields) < 3 {
		return 0
	}
	pages, _ := strconv.ParseInt(string(fields[2]), 10, 64)
	return pages
}
