package safefile

import (
	"io/fs"
	"os"
)

// Tree is where files are written: the whole file system, or what lies below a rooted handle, which no path leads out
// of. An *os.Root is one.
type Tree interface {
	OpenFile(name string, flag int, perm fs.FileMode) (*os.File, error)
	Lstat(name string) (fs.FileInfo, error)
	Link(from, to string) error
	Rename(from, to string) error
	Remove(name string) error
}

// Anywhere is the whole file system.
var Anywhere Tree = anywhere{}

type anywhere struct{}

func (anywhere) OpenFile(name string, flag int, perm fs.FileMode) (*os.File, error) {
	return os.OpenFile(name, flag, perm)
}
func (anywhere) Lstat(name string) (fs.FileInfo, error) { return os.Lstat(name) }
func (anywhere) Link(from, to string) error             { return os.Link(from, to) }
func (anywhere) Rename(from, to string) error           { return os.Rename(from, to) }
func (anywhere) Remove(name string) error               { return os.Remove(name) }

// syncDir flushes a folder of a tree, so that a name in it outlives a power cut; where that can't be done it is not.
func syncDir(tree Tree, dir string) {
	if d, err := tree.OpenFile(dir, os.O_RDONLY, 0); err == nil {
		d.Sync()
		d.Close()
	}
}
