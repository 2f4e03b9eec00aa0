package recipe

import (
	"bytes"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"sync"
)

// stamp is the size and the time of a file, by which one may trust that it is what it was.
type stamp struct {
	Size int64 `json:"size"`
	Time int64 `json:"time"` // of its last change, in nanoseconds since 1970
}

func stampOf(path string) (stamp, bool) {
	info, err := os.Stat(path)
	if err != nil {
		return stamp{}, false
	}
	return stamp{info.Size(), info.ModTime().UnixNano()}, true
}

// stamped is a line of the stamps of a share: those of an input and its outputs when it was done.
type stamped struct {
	Input   string           `json:"input"`
	Of      stamp            `json:"of"`
	Outputs map[string]stamp `json:"outputs,omitempty"`
}

// stamps are kept beside a journal, which has no times of its own. Losing them costs only that sums are taken again.
type stamps struct {
	*lines
	file *os.File
	mu   sync.Mutex
}

// openStamps opens those of a journal to go on with them; all others of the folder are asked as well.
func openStamps(journal string) (*stamps, error) {
	path := strings.TrimSuffix(journal, ".jsonl") + ".stamps"
	l, err := openLines(path, func([]byte, int64) error { return errors.New(path + ": is not a file of stamps") })
	if err != nil { // it holds nothing that can't be found out again
		os.Remove(path)
		if l, err = openLines(path, nil); err != nil {
			return nil, err
		}
	}
	s := &stamps{lines: l}
	if s.file, err = os.OpenFile(path, os.O_WRONLY|os.O_CREATE, 0o666); err != nil {
		return nil, err
	}
	if err = s.file.Truncate(l.size); err == nil {
		_, err = s.file.Seek(l.size, 0)
	}
	return s, err
}

// hold says whether an input and the outputs of its entry have the sizes and the times that they had.
func (s *stamps) hold(in *Input, into string, e *Entry) bool {
	s.mu.Lock()
	var old stamped
	known := s.into(e.Input, &old)
	s.mu.Unlock()
	if now, ok := stampOf(in.Path); !known || !ok || now != old.Of || len(old.Outputs) != len(e.Outputs) {
		return false
	}
	for name := range e.Outputs {
		if now, ok := stampOf(filepath.Join(into, filepath.FromSlash(name))); !ok || now != old.Outputs[name] {
			return false
		}
	}
	return true
}

// keep adds those of an input that was done.
func (s *stamps) keep(in *Input, was stamp, into string, e *Entry) error {
	line := stamped{Input: e.Input, Of: was, Outputs: map[string]stamp{}}
	for name := range e.Outputs {
		at, ok := stampOf(filepath.Join(into, filepath.FromSlash(name)))
		if !ok {
			return nil
		}
		line.Outputs[name] = at
	}
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	if err := enc.Encode(&line); err != nil {
		return err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	_, err := s.file.Write(b.Bytes())
	return err
}

func (s *stamps) close() error { return errors.Join(s.file.Close(), s.lines.close()) }
