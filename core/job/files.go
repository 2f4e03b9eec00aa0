package job

import (
	"bytes"
	"fmt"
	"io"
	"slices"

	"gyrolith/core/safefile"
)

// Files is a sink that keeps files beside their names until all of a job are written and nothing speaks against them.
type Files struct {
	Stdout io.Writer // where the name - leads
	Over   bool      // files that are there are replaced, and kept under other names
	Held   bool      // standard output, too, waits until all is written
	Dry    bool      // nothing is written

	pending []*safefile.Pending
	names   []string // of the pending, as they were asked for
	held    bytes.Buffer
}

// Create begins a file, or standard output for "-".
func (f *Files) Create(name string) (io.Writer, error) {
	switch {
	case f.Dry:
		return io.Discard, nil
	case name == "-" && f.Held:
		return &f.held, nil
	case name == "-":
		return f.Stdout, nil
	}
	p, err := safefile.Create(name, f.Over)
	if err != nil {
		return nil, err
	}
	f.pending, f.names = append(f.pending, p), append(f.names, name)
	return p, nil
}

// Part is the path of a file until it gets its name; "" where nothing is written.
func (f *Files) Part(name string) (string, error) {
	if f.Dry {
		return "", nil
	}
	i := slices.Index(f.names, name)
	if i < 0 {
		return "", fmt.Errorf("%s: is no file that can be read back", name)
	}
	return f.pending[i].Part(), f.pending[i].Flush()
}

// Commit gives all files their names, or none. Kept are the names under which the files before them stand now.
func (f *Files) Commit() (kept []string, err error) {
	if _, err := f.held.WriteTo(f.Stdout); err != nil {
		return nil, err
	}
	if kept, err = safefile.CommitAll(f.pending); err == nil {
		f.pending, f.names = nil, nil
	}
	return kept, err
}

// Discard removes what was written and has not got its name.
func (f *Files) Discard() {
	for _, p := range f.pending {
		p.Discard()
	}
	f.pending, f.names = nil, nil
}
