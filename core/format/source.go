package format

import (
	"bytes"
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"

	"gyrolith/core/advice"
	"gyrolith/core/safefile"
)

// headBytes is how much of a file its sniffers see.
const headBytes = 64 << 10

// Source is an input that is read once, with its first bytes already looked at.
type Source struct {
	Path string // as the user wrote it
	Head []byte
	Size int64 // -1 where it is not known
	rest io.Reader
	file *os.File // that can be read at any place; nil where it can't
	ends []io.Closer
	zip  *unpacking // of a compressed file; nil of others
	read atomic.Int64
	ctx  context.Context // whose end ends the reading

	parts map[string][]byte // what is beside a source that is no file
}

// Context is that whose end ends the reading.
func (s *Source) Context() context.Context { return s.ctx }

// Done counts the bytes that were read so far; it may be asked while another goroutine reads.
func (s *Source) Done() int64 { return s.read.Load() }

// counted counts what is read through it.
type counted struct {
	io.Reader
	s *Source
}

func (c counted) Read(b []byte) (int, error) {
	if c.s.ctx.Err() != nil {
		return 0, c.s.ctx.Err()
	}
	n, err := c.Reader.Read(b)
	c.s.read.Add(int64(n))
	return n, err
}

// Open opens a file, or standard input for "-". Reading it ends with the context.
func Open(ctx context.Context, path string, stdin io.Reader) (*Source, error) {
	s := &Source{Path: path, Size: -1, ctx: ctx}
	if path == "-" {
		s.Path, s.rest = "standard input", &interruptible{ctx: ctx, in: stdin, done: make(chan received, 1)}
	} else {
		f, err := os.Open(path)
		if err != nil {
			return nil, &Error{Path: path, Msg: safefile.Unreadable("file", err), Err: err}
		}
		info, err := f.Stat()
		if err == nil && info.IsDir() {
			err = errors.New("is a folder, not a file; name the files in it")
		}
		if err != nil {
			f.Close()
			return nil, &Error{Path: path, Msg: safefile.Unreadable("file", err), Err: err}
		}
		s.file, s.rest, s.ends = f, f, []io.Closer{f}
		if info.Mode().IsRegular() {
			s.Size = info.Size()
		}
	}
	room := int64(headBytes)
	if s.Size > 0 { // some have no size before they are read
		room = min(room, s.Size)
	}
	head := make([]byte, room)
	n, err := io.ReadFull(s.rest, head)
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		s.Close()
		return nil, &Error{Path: s.Path, Msg: safefile.Unreadable("file", err), Err: err}
	}
	s.Head = head[:n]
	if bytes.HasPrefix(s.Head, gzipMagic) {
		if err := s.unpack(); err != nil {
			s.Close()
			return nil, err
		}
	}
	return s, nil
}

// interruptible is a reader whose waiting ends with the context, as that of a file need not.
type interruptible struct {
	ctx  context.Context
	in   io.Reader
	buf  []byte
	left []byte
	err  error
	done chan received
}

type received struct {
	n   int
	err error
}

func (r *interruptible) Read(b []byte) (int, error) {
	if len(r.left) == 0 && r.err == nil {
		if r.buf == nil {
			r.buf = make([]byte, 256<<10)
		}
		go func() {
			n, err := r.in.Read(r.buf)
			r.done <- received{n, err}
		}()
		select {
		case got := <-r.done:
			r.left, r.err = r.buf[:got.n], got.err
		case <-r.ctx.Done():
			r.err = r.ctx.Err()
		}
	}
	n := copy(b, r.left)
	r.left = r.left[n:]
	if len(r.left) == 0 && n == 0 {
		return 0, r.err
	}
	return n, nil
}

// FromReader makes a source of what is read, with a name for messages. Reading it ends with the context.
func FromReader(ctx context.Context, path string, r io.Reader) (*Source, error) {
	s, err := Open(ctx, "-", r)
	if err != nil {
		return nil, err
	}
	s.Path = path
	return s, nil
}

// FromBytes makes a source of data in memory. Reading it ends with the context.
func FromBytes(ctx context.Context, path string, data []byte) *Source {
	return &Source{ctx: ctx, Path: path, Head: data[:min(len(data), headBytes)], Size: int64(len(data)),
		rest: bytes.NewReader(data[min(len(data), headBytes):])}
}

// Reader reads the whole source from its start.
func (s *Source) Reader() io.Reader {
	if s.file != nil && s.Size >= 0 {
		if _, err := s.file.Seek(0, io.SeekStart); err == nil {
			return counted{s.file, s}
		}
	}
	return counted{io.MultiReader(bytes.NewReader(s.Head), s.rest), s}
}

// ReaderAt gives random access to the whole source. What is no regular file is read into memory, up to limit.
func (s *Source) ReaderAt(limit int64) (io.ReaderAt, int64, error) {
	if s.file != nil && s.Size >= 0 {
		return s.file, s.Size, nil
	}
	data, err := io.ReadAll(io.LimitReader(s.Reader(), limit+1))
	if err != nil {
		return nil, 0, err
	}
	if int64(len(data)) > limit {
		return nil, 0, advice.Errorf(advice.AllowUnpacked, "is larger than the limit")
	}
	return bytes.NewReader(data), int64(len(data)), nil
}

// File is the path of a source that is a file by itself; "" for all others.
func (s *Source) File() string {
	if s.file == nil || s.Size < 0 {
		return ""
	}
	return s.Path
}

// Beside reads a file of the same name with another extension, in small or capital letters; nil if there is none. It is
// at most limit bytes long.
func (s *Source) Beside(ext string, limit int64) ([]byte, error) {
	if s.file == nil {
		return s.parts[ext], nil
	}
	stem := strings.TrimSuffix(s.Path, filepath.Ext(s.Path))
	for _, e := range []string{ext, strings.ToUpper(ext)} {
		f, err := os.Open(stem + e)
		if err != nil {
			continue
		}
		defer f.Close()
		b, err := io.ReadAll(io.LimitReader(f, limit+1))
		if err == nil && int64(len(b)) > limit {
			err = advice.Errorf(advice.AllowUnpacked, "is larger than the limit")
		}
		if err != nil {
			return nil, &Error{Path: stem + e, Msg: safefile.Unreadable("file", err), Advice: advice.Of(err)}
		}
		return b, nil
	}
	return nil, nil
}

// WithParts makes a source of data in memory that has others beside it, by their extensions.
func WithParts(ctx context.Context, path string, data []byte, parts map[string][]byte) *Source {
	s := FromBytes(ctx, path, data)
	s.parts = parts
	return s
}

// Close closes the file.
func (s *Source) Close() {
	for _, c := range s.ends {
		c.Close()
	}
	s.ends = nil
}

// Fault is an error of this source without a line.
func (s *Source) Fault(msg string) error { return &Error{Path: s.Path, Msg: msg} }

// FaultOf makes an error of this source of what went wrong with it, and keeps the advice.
func (s *Source) FaultOf(err error) error {
	return &Error{Path: s.Path, Msg: err.Error(), Advice: advice.Of(err), Err: err}
}
