package card

import (
	"errors"
	"io/fs"
	"os"
)

// errNotRegular is the error of what a card holds where a file should be: to open a pipe would wait without end.
var errNotRegular = errors.New("it is not a regular file")

// medium is the folder that is a card. No path leads out of it, and only regular files and folders are opened.
type medium struct{ *os.Root }

func (m medium) check(op, name string) error {
	info, err := m.Stat(name)
	if err == nil && !info.Mode().IsRegular() && !info.IsDir() {
		err = &fs.PathError{Op: op, Path: name, Err: errNotRegular}
	}
	return err
}

// Open opens a file or folder.
func (m medium) Open(name string) (*os.File, error) {
	if err := m.check("open", name); err != nil {
		return nil, err
	}
	return m.Root.Open(name)
}

// ReadFile reads a file.
func (m medium) ReadFile(name string) ([]byte, error) {
	if err := m.check("read", name); err != nil {
		return nil, err
	}
	return m.Root.ReadFile(name)
}

// FS is what a unit sees of the card.
func (m medium) FS() fs.FS { return shown{m} }

type shown struct{ medium medium }

func (s shown) Open(name string) (fs.File, error) {
	if !fs.ValidPath(name) {
		return nil, &fs.PathError{Op: "open", Path: name, Err: fs.ErrInvalid}
	}
	return s.medium.Open(name)
}
