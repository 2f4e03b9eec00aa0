// Package safefile writes files so that none is ever lost or left half written: beside the final name,
// flushed, then renamed; an existing file is refused, or kept under another name.
package safefile

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"syscall"

	"gyrolith/core/advice"
)

// ErrExists is given for an output that is there already.
var ErrExists = advice.Errorf(advice.Replace, "already exists and was not overwritten")

// live are the unfinished files and the temporary folders of this process, which Abandon removes.
var live = struct {
	sync.Mutex
	files   map[*Pending]bool
	folders map[string]bool
}{files: map[*Pending]bool{}, folders: map[string]bool{}}

// Abandon removes every unfinished file and temporary folder, for a process that ends at once.
func Abandon() {
	live.Lock()
	defer live.Unlock()
	for p := range live.files {
		p.tree.Remove(p.part)
	}
	for dir := range live.folders {
		os.RemoveAll(dir)
	}
}

// Scratch makes a temporary folder, which is gone once remove is called.
func Scratch() (dir string, remove func(), err error) {
	if dir, err = os.MkdirTemp("", "gyrolith-"); err != nil {
		return "", nil, noScratch(os.TempDir(), err)
	}
	live.Lock()
	live.folders[dir] = true
	live.Unlock()
	return dir, func() {
		os.RemoveAll(dir)
		live.Lock()
		delete(live.folders, dir)
		live.Unlock()
	}, nil
}

// noScratch words an error of the folder of temporary files.
func noScratch(dir string, err error) error {
	reason := "no temporary file can be made in it: set TMPDIR to a folder that permits it"
	switch {
	case errors.Is(err, fs.ErrNotExist):
		reason = "there is no such folder for temporary files: set TMPDIR to one that exists"
	case errors.Is(err, fs.ErrPermission):
		reason = "permission denied to make temporary files: set TMPDIR to a folder that permits it"
	}
	return &Error{dir, reason, err}
}

// Pending is a file that is being written beside its final name.
type Pending struct {
	tree    Tree
	file    *os.File // nil once it is flushed
	part    string   // its name until it is placed; "" once it is
	path    string
	replace bool
	over    bool // the old file is not kept
	stream  bool // it is a device or a pipe, written to at once
	quick   bool // it is left to the system when it reaches the medium
	out     *bufio.Writer
}

// IsStream says whether a name is that of a device, a pipe or the like, which takes what is written to it and is never
// replaced.
func IsStream(path string) bool {
	info, err := os.Stat(path)
	return err == nil && !info.Mode().IsRegular() && !info.IsDir()
}

// Create begins a file. Without replace, a file of that name is refused before anything is written. A link is followed
// to its file; a device or a pipe is written to as it is.
func Create(path string, replace bool) (*Pending, error) {
	if IsStream(path) {
		file, err := os.OpenFile(path, os.O_WRONLY, 0)
		if err != nil {
			return nil, cannotWrite(path, err)
		}
		return &Pending{tree: Anywhere, path: path, file: file, stream: true, out: bufio.NewWriterSize(file, bufferSize)}, nil
	}
	if info, err := os.Lstat(path); err == nil && info.Mode()&fs.ModeSymlink != 0 {
		real, err := filepath.EvalSymlinks(path)
		if err != nil {
			to, _ := os.Readlink(path)
			return nil, fmt.Errorf("%s: is a link to %s, which does not exist; name the file itself", path, to)
		}
		path = real
	}
	if info, err := os.Lstat(path); err == nil {
		switch {
		case info.IsDir():
			return nil, fmt.Errorf("%s: is a folder; name a file in it", path)
		case !replace:
			return nil, fmt.Errorf("%s: %w", path, ErrExists)
		}
	}
	p := &Pending{tree: Anywhere, path: path, replace: replace}
	if err := p.begin(); err != nil {
		return nil, cannotWrite(path, err)
	}
	return p, nil
}

// CreateOver begins a file that takes the place of one that need not be kept, since it can be made again.
func CreateOver(path string) (*Pending, error) {
	p, err := Create(path, true)
	if err == nil {
		p.over = true
	}
	return p, err
}

// CreateIn begins a file in a tree, by its path with the tree's separators. An older file of that name is not kept:
// that is left to the caller, and so are the words for an error.
func CreateIn(tree Tree, path string) (*Pending, error) {
	p := &Pending{tree: tree, path: path, replace: true, over: true}
	return p, p.begin()
}

// begin makes the unfinished file, of a name that nobody has.
func (p *Pending) begin() error {
	for range 10000 {
		part := filepath.Join(filepath.Dir(p.path), fmt.Sprintf(".gyrolith-%08x.part", rand.Uint32()))
		file, err := p.tree.OpenFile(part, os.O_RDWR|os.O_CREATE|os.O_EXCL, 0o600)
		if errors.Is(err, fs.ErrExist) {
			continue
		}
		if err != nil {
			return err
		}
		claim(file)
		p.file, p.part, p.out = file, part, bufio.NewWriterSize(file, bufferSize)
		live.Lock()
		live.files[p] = true
		live.Unlock()
		return nil
	}
	return errors.New("there is no free name for a temporary file")
}

const bufferSize = 64 << 10

// IsPart says whether a name is that of an unfinished file.
func IsPart(name string) bool {
	ok, _ := filepath.Match(".gyrolith-*.part", name)
	return ok
}

// Quick leaves it to the system when the file reaches the medium, for many small ones whose sums are written down
// elsewhere.
func (p *Pending) Quick() { p.quick = true }

// Part is the name that the file has until it is placed.
func (p *Pending) Part() string { return p.part }

// Path is the name that it will have.
func (p *Pending) Path() string { return p.path }

// Write adds to the file.
func (p *Pending) Write(b []byte) (int, error) {
	n, err := p.out.Write(b)
	if err != nil {
		err = p.fault(err)
	}
	return n, err
}

// fault words an error of the file system where the caller leaves that to this package.
func (p *Pending) fault(err error) error {
	if p.tree != Anywhere {
		return err
	}
	return cannotWrite(p.path, err)
}

// Discard removes what was written. After Commit it does nothing.
func (p *Pending) Discard() {
	if p.stream && p.file != nil {
		p.file.Close()
		p.file = nil
	}
	if p.part == "" {
		return
	}
	if p.file != nil {
		p.file.Close()
		p.file = nil
	}
	p.tree.Remove(p.part)
	p.forget()
}

func (p *Pending) forget() {
	p.part = ""
	live.Lock()
	delete(live.files, p)
	live.Unlock()
}

// Keep leaves the unfinished file where it is, for somebody who finishes it later.
func (p *Pending) Keep() { p.forget() }

// Flush brings all that was written to the medium and closes the file, which has its unfinished name still.
func (p *Pending) Flush() error {
	if p.file == nil {
		return nil
	}
	if err := p.out.Flush(); err != nil {
		return p.fault(err)
	}
	if p.stream {
		file := p.file
		p.file = nil
		return file.Close()
	}
	if !p.quick {
		err := p.file.Sync()
		if err != nil && !errors.Is(err, errors.ErrUnsupported) && !errors.Is(err, syscall.EINVAL) {
			return p.fault(err)
		}
	}
	// The unfinished file is the user's alone; the finished one gets the usual permissions.
	err := p.file.Chmod(0o666 &^ umask())
	if err != nil && !errors.Is(err, errors.ErrUnsupported) && !errors.Is(err, os.ErrPermission) {
		return p.fault(err)
	}
	err = p.file.Close()
	p.file = nil
	if err != nil {
		return p.fault(err)
	}
	return nil
}

// Place gives the file its name. It says under which name an older file was kept.
func (p *Pending) Place() (kept string, err error) {
	if err := mayPlace(); err != nil {
		return "", err
	}
	switch {
	case p.stream:
		return "", nil
	case !p.replace:
		err = place(p.part, p.path)
	default:
		if !p.over {
			if kept, err = keepOld(p.path); err != nil {
				return "", err
			}
		}
		if err = p.tree.Rename(p.part, p.path); err != nil {
			err = p.fault(err)
		}
	}
	if err != nil {
		return "", err
	}
	p.forget()
	if !p.quick {
		syncDir(p.tree, filepath.Dir(p.path))
	}
	return kept, nil
}

// Commit flushes the file to the medium and gives it its name. It says under which name an older file was kept.
func (p *Pending) Commit() (kept string, err error) {
	defer p.Discard()
	if err := p.Flush(); err != nil {
		return "", err
	}
	return p.Place()
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
			return "", fmt.Errorf("%s: the old file can't be kept as a backup: %w", path, err)
		}
		return kept, nil
	}
	return "", fmt.Errorf("%s: there are already ten thousand backups beside it", path)
}

// Error says which file can't be read or written, and why.
type Error struct {
	Path   string
	reason string
	err    error
}

func (e *Error) Error() string { return e.Path + ": " + e.reason }

// Unwrap gives the cause.
func (e *Error) Unwrap() error { return e.err }

// Bare gives what the system says of a path, without the path and what was done with it.
func Bare(err error) error {
	if e, ok := errors.AsType[*fs.PathError](err); ok {
		return e.Err
	}
	if e, ok := errors.AsType[*os.LinkError](err); ok {
		return e.Err
	}
	if e, ok := errors.AsType[*os.SyscallError](err); ok {
		return e.Err
	}
	return err
}

// CannotRead words an error of opening what is called a file, a folder or the like, and keeps its cause.
func CannotRead(path, called string, err error) error {
	return &Error{Path: path, reason: Unreadable(called, err), err: err}
}

// Unreadable says without the path why what is called a file, a folder or the like can't be read.
func Unreadable(called string, err error) string {
	switch bare := Bare(err); {
	case errors.Is(err, fs.ErrNotExist):
		return "there is no such " + called
	case errors.Is(err, fs.ErrPermission):
		return "can't be read: permission denied"
	case bare != err:
		return "can't be read: " + bare.Error()
	}
	return err.Error()
}

func cannotWrite(path string, err error) error {
	reason := err.Error()
	switch bare := Bare(err); {
	case errors.Is(err, fs.ErrNotExist):
		reason = fmt.Sprintf("can't be written: there is no folder %q", filepath.Dir(path))
	case errors.Is(err, fs.ErrPermission):
		reason = "can't be written: permission denied in its folder"
	case bare != err:
		reason = "can't be written: " + bare.Error()
	}
	return &Error{Path: path, reason: reason, err: err}
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

// WriteBytes writes a whole file at once.
func WriteBytes(path string, replace bool, content []byte) (kept string, err error) {
	return WriteAll(path, replace, func(w io.Writer) error {
		_, err := w.Write(content)
		return err
	})
}
