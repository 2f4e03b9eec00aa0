// Package safefile writes files so that none is ever lost or left half written: beside the final name,
// flushed, then renamed; an existing file is refused, or kept under another name.
package safefile

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"sync"
)

// ErrExists is given for an output that is there already.
var ErrExists = errors.New("exists already and is not written over; --replace writes it and keeps the old one beside")

// live are the unfinished files of this process, which Abandon removes.
var live = struct {
	sync.Mutex
	names map[string]bool
}{names: map[string]bool{}}

// Abandon removes every unfinished file, for a process that is told to stop.
func Abandon() {
	live.Lock()
	defer live.Unlock()
	for name := range live.names {
		os.Remove(name)
	}
}

// Pending is a file that is being written beside its final name.
type Pending struct {
	file    *os.File
	path    string
	replace bool
	over    bool // the old file is not kept
	quick   bool // it is left to the system when it reaches the medium
	out     *bufio.Writer
}

// Create begins a file. Without replace, a file of that name is refused before anything is written.
func Create(path string, replace bool) (*Pending, error) {
	if info, err := os.Lstat(path); err == nil {
		switch {
		case info.IsDir():
			return nil, fmt.Errorf("%s: is a folder; name a file in it", path)
		case !replace:
			return nil, fmt.Errorf("%s: %w", path, ErrExists)
		}
	}
	dir := filepath.Dir(path)
	f, err := os.CreateTemp(dir, ".gyrolith-*.part")
	if err != nil {
		return nil, cannotWrite(path, err)
	}
	live.Lock()
	live.names[f.Name()] = true
	live.Unlock()
	return &Pending{file: f, path: path, replace: replace, out: bufio.NewWriterSize(f, 64<<10)}, nil
}

// CreateOver begins a file that takes the place of one that need not be kept, since it can be made again.
func CreateOver(path string) (*Pending, error) {
	p, err := Create(path, true)
	if err == nil {
		p.over = true
	}
	return p, err
}

// Quick leaves it to the system when the file reaches the medium, for many small ones whose sums are written down elsewhere.
func (p *Pending) Quick() { p.quick = true }

// Write adds to the file.
func (p *Pending) Write(b []byte) (int, error) {
	n, err := p.out.Write(b)
	if err != nil {
		err = cannotWrite(p.path, err)
	}
	return n, err
}

// Discard removes what was written. After Commit it does nothing.
func (p *Pending) Discard() {
	if p.file == nil {
		return
	}
	p.file.Close()
	p.forget()
	os.Remove(p.file.Name())
	p.file = nil
}

func (p *Pending) forget() {
	live.Lock()
	delete(live.names, p.file.Name())
	live.Unlock()
}

// Commit flushes the file to the medium and gives it its name. It says under which name an older file was kept.
func (p *Pending) Commit() (kept string, err error) {
	defer p.Discard()
	if err := p.out.Flush(); err != nil {
		return "", cannotWrite(p.path, err)
	}
	if p.quick {
	} else if err := p.file.Sync(); err != nil && !errors.Is(err, errors.ErrUnsupported) {
		return "", cannotWrite(p.path, err)
	}
	// CreateTemp makes files for the user alone; the finished file gets the usual permissions.
	if err := p.file.Chmod(0o666 &^ umask()); err != nil && !errors.Is(err, errors.ErrUnsupported) && !errors.Is(err, os.ErrPermission) {
		return "", cannotWrite(p.path, err)
	}
	if err := p.file.Close(); err != nil {
		return "", cannotWrite(p.path, err)
	}
	if p.replace {
		if !p.over {
			if kept, err = keepOld(p.path); err != nil {
				return "", err
			}
		}
		if err := os.Rename(p.file.Name(), p.path); err != nil {
			return "", cannotWrite(p.path, err)
		}
	} else if err := place(p.file.Name(), p.path); err != nil {
		return "", err
	}
	p.forget()
	p.file = nil
	if !p.quick {
		SyncDir(filepath.Dir(p.path))
	}
	return kept, nil
}

// CommitAll gives several files their names, all or none: where one can't have its name, those before it lose theirs again.
// It says under which names older files were kept.
func CommitAll(files []*Pending) (kept []string, err error) {
	var done []*Pending
	old := map[*Pending]string{}
	for _, p := range files {
		name, err := p.Commit()
		if err != nil {
			for _, q := range done {
				os.Remove(q.path)
				if old[q] != "" {
					os.Rename(old[q], q.path)
				}
			}
			return nil, err
		}
		done = append(done, p)
		if name != "" {
			old[p], kept = name, append(kept, name)
		}
	}
	return kept, nil
}

// place gives a file its name only if there is none of that name: a link fails where a rename would write over.
func place(from, to string) error {
	err := os.Link(from, to)
	switch {
	case err == nil:
		return os.Remove(from)
	case errors.Is(err, fs.ErrExist):
		return fmt.Errorf("%s: %w", to, ErrExists)
	}
	// A file system without links.
	if _, err := os.Lstat(to); err == nil {
		return fmt.Errorf("%s: %w", to, ErrExists)
	}
	if err := os.Rename(from, to); err != nil {
		return cannotWrite(to, err)
	}
	return nil
}

// keepOld links an existing file to a free name beside it, so that at every moment the name stands for a
// whole file.
func keepOld(path string) (string, error) {
	if _, err := os.Lstat(path); errors.Is(err, fs.ErrNotExist) {
		return "", nil
	}
	ext := filepath.Ext(path)
	stem := strings.TrimSuffix(path, ext)
	for i := 1; i < 10000; i++ {
		kept := fmt.Sprintf("%s.before-%d%s", stem, i, ext)
		err := os.Link(path, kept)
		if err == nil {
			return kept, nil
		}
		if errors.Is(err, fs.ErrExist) {
			continue
		}
		if _, serr := os.Lstat(kept); serr == nil {
			continue
		}
		if err := os.Rename(path, kept); err != nil {
			return "", fmt.Errorf("%s: the old file can't be kept: %w", path, err)
		}
		return kept, nil
	}
	return "", fmt.Errorf("%s: ten thousand older ones are kept beside it already", path)
}

// SyncDir flushes a folder, so that a name in it outlives a power cut; where that can't be done it is not.
func SyncDir(dir string) {
	if d, err := os.Open(dir); err == nil {
		d.Sync()
		d.Close()
	}
}

func cannotWrite(path string, err error) error {
	var pe *fs.PathError
	var le *os.LinkError
	var se *os.SyscallError
	reason := err.Error()
	switch {
	case errors.Is(err, fs.ErrNotExist):
		reason = fmt.Sprintf("can't be written: there is no folder %q", filepath.Dir(path))
	case errors.Is(err, fs.ErrPermission):
		reason = "can't be written: the permissions of its folder forbid it"
	case errors.As(err, &pe):
		reason = "can't be written: " + pe.Err.Error()
	case errors.As(err, &le):
		reason = "can't be written: " + le.Err.Error()
	case errors.As(err, &se):
		reason = "can't be written: " + se.Err.Error()
	}
	return fmt.Errorf("%s: %s", path, reason)
}

// WriteAll writes a whole file at once.
func WriteAll(path string, replace bool, write func(io.Writer) error) (kept string, err error) {
	p, err := Create(path, replace)
	if err != nil {
		return "", err
	}
	defer p.Discard()
	if err := write(p); err != nil {
		return "", err
	}
	return p.Commit()
}
