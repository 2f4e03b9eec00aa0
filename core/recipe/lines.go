package recipe

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
)

// lines is a file of JSON objects, one a line, of which each but the first of a run is of an input. Only where the last
// line of each input stands is kept in memory; the lines are read when they are asked for.
type lines struct {
	path string
	from *os.File
	at   map[string]span // by the inputs
	size int64           // up to where the file is sound
}

// span is where a line stands.
type span struct {
	from int64
	long int32
}

// openLines goes through a file. A last line that was cut off, as by a crash, is as if it were not there. Begins is
// called for the lines that are of no input.
func openLines(path string, begins func(text []byte, at int64) error) (*lines, error) {
	l := &lines{path: path, at: map[string]span{}}
	f, err := os.Open(path)
	if errors.Is(err, os.ErrNotExist) {
		return l, nil
	}
	if err != nil {
		return nil, err
	}
	l.from = f
	in := bufio.NewReaderSize(f, 1<<16)
	for number := 1; ; number++ {
		text, err := readLine(in)
		if err == io.EOF {
			return l, nil // what has no end was being written
		}
		if err != nil {
			f.Close()
			return nil, err
		}
		key, ok := inputOf(text)
		if !ok {
			if _, more := in.Peek(1); more == io.EOF {
				return l, nil
			}
			f.Close()
			return nil, fmt.Errorf("%s:%d: is not a journal line", path, number)
		}
		if key != "" {
			l.at[key] = span{l.size, int32(len(text))}
		} else if err := begins(text, l.size); err != nil {
			f.Close()
			return nil, err
		}
		l.size += int64(len(text))
	}
}

// readLine gives a line with its end. It holds until the next is read, unless it is a long one.
func readLine(in *bufio.Reader) ([]byte, error) {
	text, err := in.ReadSlice('\n')
	if err != bufio.ErrBufferFull {
		return text, err
	}
	rest := append([]byte(nil), text...)
	more, err := in.ReadBytes('\n')
	return append(rest, more...), err
}

// inputOf gives the input that a line is of; "" where it is of none, and not ok where it is no line.
func inputOf(text []byte) (key string, ok bool) {
	if !jsontext.Value(text).IsValid() {
		return "", false
	}
	first := []byte(`{"input":"`)
	if rest, plain := bytes.CutPrefix(text, first); plain {
		if end := bytes.IndexByte(rest, '"'); end > 0 && bytes.IndexByte(rest[:end], '\\') < 0 {
			return string(rest[:end]), true
		}
	}
	var line struct {
		Input string `json:"input"`
	}
	err := json.Unmarshal(text, &line)
	return line.Input, err == nil
}

// text reads the line of an input; nil where there is none.
func (l *lines) text(key string) ([]byte, error) {
	at, ok := l.at[key]
	if !ok {
		return nil, nil
	}
	out := make([]byte, at.long)
	_, err := l.from.ReadAt(out, at.from)
	return out, err
}

// into reads the line of an input into a value; false where there is none.
func (l *lines) into(key string, v any) bool {
	text, err := l.text(key)
	return text != nil && err == nil && json.Unmarshal(text, v) == nil
}

func (l *lines) close() error {
	if l.from == nil {
		return nil
	}
	return l.from.Close()
}
