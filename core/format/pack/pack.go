// Package pack compresses members of zip archives on all cores: in blocks of one size, each with the end of the one
// before as its dictionary, so that the bytes do not depend on the machine.
package pack

import (
	"archive/zip"
	"bytes"
	"io"
	"runtime"
	"sync"

	"github.com/klauspost/compress/flate"
)

const (
	block  = 256 << 10
	window = 32 << 10 // that deflate looks back (RFC 1951)
	level  = 5
)

// NewZip is a writer of zip archives that compresses on all cores.
func NewZip(out io.Writer) *zip.Writer {
	z := zip.NewWriter(out)
	z.RegisterCompressor(zip.Deflate, func(w io.Writer) (io.WriteCloser, error) { return newDeflate(w), nil })
	return z
}

// compressors are kept for the next block, since their tables are large.
var compressors = sync.Pool{New: func() any {
	w, err := flate.NewWriter(nil, level)
	if err != nil {
		panic(err) // of a level that there is not
	}
	return w
}}

// part is a block that is being compressed.
type part struct {
	before, data []byte
	packed       bytes.Buffer
	done         chan error
}

// deflate writes a stream of RFC 1951.
type deflate struct {
	out    io.Writer
	data   []byte // not yet given to be compressed
	before []byte // the end of what was
	queue  []*part
}

func newDeflate(out io.Writer) *deflate { return &deflate{out: out, data: make([]byte, 0, 4<<10)} }

// Write takes bytes, and compresses them by the block.
func (d *deflate) Write(b []byte) (int, error) {
	for rest := b; len(rest) > 0; {
		n := min(len(rest), block-len(d.data))
		d.data = append(d.data, rest[:n]...)
		rest = rest[n:]
		if len(d.data) == block {
			if err := d.begin(false); err != nil {
				return 0, err
			}
		}
	}
	return len(b), nil
}

// Close compresses the rest and ends the stream.
func (d *deflate) Close() error {
	err := d.begin(true)
	for len(d.queue) > 0 && err == nil {
		err = d.take()
	}
	return err
}

// begin compresses the block while more is written, as many at a time as there are cores.
func (d *deflate) begin(last bool) error {
	p := &part{before: d.before, data: d.data, done: make(chan error, 1)}
	d.before, d.data = d.data[max(len(d.data)-window, 0):], nil
	if !last {
		d.data = make([]byte, 0, block)
	}
	go func() {
		w := compressors.Get().(*flate.Writer)
		defer compressors.Put(w)
		w.ResetDict(&p.packed, p.before)
		_, err := w.Write(p.data)
		if err == nil && last {
			err = w.Close()
		} else if err == nil {
			err = w.Flush()
		}
		p.done <- err
	}()
	if d.queue = append(d.queue, p); len(d.queue) <= runtime.GOMAXPROCS(0) {
		return nil
	}
	return d.take()
}

// take writes the first block of those that were begun.
func (d *deflate) take() error {
	p := d.queue[0]
	d.queue = d.queue[1:]
	if err := <-p.done; err != nil {
		return err
	}
	_, err := d.out.Write(p.packed.Bytes())
	return err
}
