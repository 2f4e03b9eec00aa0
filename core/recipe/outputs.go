package recipe

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"hash"
	"io"
	"path/filepath"

	"gyrolith/core/safefile"
)

// outputs is the sink of one input: files stand beside their names while they are written, and get these together.
type outputs struct {
	runner *Runner
	input  string
	ours   map[string]string // what runs before wrote for the input
	made   []*output
}

// output is a file that is written, with its sum so far.
type output struct {
	name string
	*safefile.Pending
	hash.Hash
}

// Write adds to the file and to its sum.
func (o *output) Write(b []byte) (int, error) {
	if o.Hash != nil {
		o.Hash.Write(b)
	}
	if o.Pending == nil {
		return len(b), nil
	}
	return o.Pending.Write(b)
}

// Create begins a file by its name below the folder, unless another input has written it or it is not ours.
func (s *outputs) Create(name string) (io.Writer, error) {
	r := s.runner
	if err := r.claim(s.input, name); err != nil {
		return nil, err
	}
	o := &output{name: name}
	if !r.Plain {
		o.Hash = sha256.New()
	}
	if s.made = append(s.made, o); r.DryRun {
		return o, nil
	}
	path := filepath.Join(r.Into, filepath.FromSlash(name))
	over, err := r.mayWrite(path, name, s.ours)
	if err != nil {
		return nil, err
	}
	if err := r.folderOf(name); err != nil {
		return nil, err
	}
	if over {
		o.Pending, err = safefile.CreateOver(path)
	} else {
		o.Pending, err = safefile.Create(path, r.Replace)
	}
	if err == nil && !r.Plain {
		o.Quick() // the journal has its sum
	}
	return o, err
}

// Part is the path of a file until it gets its name; "" where nothing is written.
func (s *outputs) Part(name string) (string, error) {
	for _, o := range s.made {
		if o.name == name && o.Pending != nil {
			return o.Pending.Part(), o.Flush()
		}
	}
	return "", nil
}

// sums are those of the files, by their names.
func (s *outputs) sums() map[string]string {
	out := map[string]string{}
	for _, o := range s.made {
		if out[o.name] = ""; o.Hash != nil {
			out[o.name] = hex.EncodeToString(o.Hash.Sum(nil))
		}
	}
	return out
}

// discard removes what has no name yet.
func (s *outputs) discard() {
	for _, o := range s.made {
		if o.Pending != nil {
			o.Discard()
		}
	}
}

// commit gives the files their names, all or none. Before that a line of the journal says which they will be, so that a
// run after a crash knows them for its own.
func (s *outputs) commit(journal *Journal, e *Entry) error {
	r := s.runner
	if r.DryRun {
		return nil
	}
	begun := *e
	begun.Status, begun.Before = writing, s.ours
	if err := journal.Add(&begun); err != nil {
		return &stopped{err}
	}
	if r.Step != nil {
		r.Step()
	}
	var pending []*safefile.Pending
	for _, o := range s.made {
		if o.Pending == nil {
			return errors.New(o.name + " was not begun")
		}
		pending = append(pending, o.Pending)
	}
	_, err := safefile.CommitAll(pending)
	return err
}
