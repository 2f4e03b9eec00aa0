package job

import (
	"bytes"
	"io"

	"gyrolith/core/safefile"
)

// Files is a sink that keeps files beside their names until all of a job are written and nothing speaks against them.
type Files struct {
	Stdout io.Writer // where the name - leads
	Over   bool      // files that are there are replaced, and kept under other names
	Held   bool      // standard output, too, waits until all is written
	Dry    bool      // nothing is written

	pending []*safefile.Pending
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
	f.pending = append(f.pending, p)
	return p, nil
}

// Commit gives all files their names, or none. Kept are the names under which the files before them stand now.
func (f *Files) Commit() (kept []string, err error) {
	if _, err := f.held.WriteTo(f.Stdout); err != nil {
		return nil, err
	}
	if kept, err = safefile.CommitAll(f.pending); err == nil {
		f.pending = nil
	}
	return kept, err
}

// Discard removes what was written and has not got its name.
func (f *Files) Discard() {
	for _, p := range f.pending {
		p.Discard()
	}
	f.pending = nil
}
