// Package xmlwrite writes XML by appending to a buffer that empties itself into an output. GPX and KML share it.
package xmlwrite

import (
	"io"
	"strings"
	"sync"
	"sync/atomic"
	"unicode/utf8"

	"gyrolith/core/format/inorder"
)

const flushAt = 128 << 10

// Writer builds a document. Its first error stays and is given by Close.
type Writer struct {
	Buf    []byte // append to it freely between calls
	out    io.Writer
	err    error
	indent int
	part   bool // of a document, which stays in the buffer
	Bad    int  // characters that XML can't hold, written as U+FFFD
}

// buffers are used again, since many small files are written one after the other.
var buffers = sync.Pool{New: func() any { b := make([]byte, 0, flushAt+flushAt/2); return &b }}

// New starts a document in UTF-8.
func New(out io.Writer) *Writer {
	w := &Writer{out: out, Buf: (*buffers.Get().(*[]byte))[:0]}
	w.Buf = append(w.Buf, "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n"...)
	return w
}

// NewPart starts a part of a document, which stays in Buf.
func NewPart() *Writer { return &Writer{part: true} }

func (w *Writer) flush() {
	if w.err == nil {
		_, w.err = w.out.Write(w.Buf)
	}
	w.Buf = w.Buf[:0]
}

// Close writes what is left. The Writer is of no use after it.
func (w *Writer) Close() error {
	w.flush()
	if b := w.Buf; cap(b) <= 2*flushAt {
		buffers.Put(&b)
	}
	w.Buf = nil
	return w.err
}

// Line begins a new line at the current depth.
func (w *Writer) Line() *Writer {
	if len(w.Buf) >= flushAt && !w.part {
		w.flush()
	}
	for range w.indent {
		w.Buf = append(w.Buf, ' ')
	}
	return w
}

// Raw appends text as it is.
func (w *Writer) Raw(s string) *Writer {
	w.Buf = append(w.Buf, s...)
	return w
}

// Attr appends an attribute, unless its value is empty.
func (w *Writer) Attr(name, value string) *Writer {
	if value != "" {
		var bad int
		w.Buf, bad = AppendText(append(append(append(w.Buf, ' '), name...), `="`...), value, true)
		w.Raw(`"`)
		w.Bad += bad
	}
	return w
}

// Open writes a start tag on a line of its own, and goes one deeper. Attributes come in pairs; empty ones
// are left out.
func (w *Writer) Open(name string, attrs ...string) {
	w.Line().Raw("<").Raw(name)
	for i := 0; i+1 < len(attrs); i += 2 {
		w.Attr(attrs[i], attrs[i+1])
	}
	w.Raw(">\n")
	w.indent++
}

// Indent goes n deeper and gives what brings it back.
func (w *Writer) Indent(n int) int {
	w.indent += n
	return -n
}

// End closes an element that Open began.
func (w *Writer) End(name string) {
	w.indent--
	w.Line().Raw("</").Raw(name).Raw(">\n")
}

// Leaf writes an element with a text, unless the text is empty.
func (w *Writer) Leaf(name, text string) {
	if text != "" {
		w.Line().Raw("<").Raw(name).Raw(">").Text(text).Raw("</").Raw(name).Raw(">\n")
	}
}

// Text appends text with what has a meaning in markup escaped.
func (w *Writer) Text(s string) *Writer {
	var bad int
	w.Buf, bad = AppendText(w.Buf, s, false)
	w.Bad += bad
	return w
}

// Plain says whether a text stands in markup as it is.
func Plain(s string) bool {
	for i := 0; i < len(s); i++ {
		if c := s[i]; c < ' ' || c == '&' || c == '<' || c == '>' || c == '"' || c >= 0x7f {
			return false
		}
	}
	return true
}

// AppendText appends a text, or the value of an attribute, so that every reader gets the same back, line ends
// included. Characters that XML can't hold become U+FFFD; it says how many.
func AppendText(dst []byte, s string, attr bool) (out []byte, bad int) {
	if Plain(s) {
		return append(dst, s...), 0
	}
	for i := 0; i < len(s); {
		r, n := utf8.DecodeRuneInString(s[i:])
		switch {
		case r == '&':
			dst = append(dst, "&amp;"...)
		case r == '<':
			dst = append(dst, "&lt;"...)
		case r == '>':
			dst = append(dst, "&gt;"...)
		case r == '"':
			dst = append(dst, "&quot;"...)
		case r == '\r':
			dst = append(dst, "&#13;"...)
		case r == '\n' && attr:
			dst = append(dst, "&#10;"...)
		case r == '\t' && attr:
			dst = append(dst, "&#9;"...)
		case r < ' ' && r != '\n' && r != '\t', r == utf8.RuneError, r == 0xFFFE, r == 0xFFFF:
			dst = append(dst, "\uFFFD"...)
			if !(r == utf8.RuneError && n > 1) {
				bad++
			}
		default:
			dst = append(dst, s[i:i+n]...)
		}
		i += n
	}
	return dst, bad
}

// Fragment appends an element that was kept as it was written, on a line of its own. The prefixes that it
// needs and that are bound to something else here are declared on it.
func (w *Writer) Fragment(text string, declare [][2]string) {
	text = strings.TrimSpace(text)
	w.Line()
	if end := strings.IndexAny(text, " \t\r\n/>"); end > 0 && len(declare) > 0 {
		w.Raw(text[:end])
		for _, d := range declare {
			name := "xmlns"
			if d[0] != "" {
				name += ":" + d[0]
			}
			if d[0] == "" && d[1] == "" {
				w.Raw(` xmlns=""`)
			}
			w.Attr(name, d[1])
		}
		text = text[end:]
	}
	w.Raw(text).Raw("\n")
}

// Points formats n points in their order, on all cores when there are many. The function appends points
// from (included) to (excluded) and must only read what it shares.
func (w *Writer) Points(n int, format func(dst []byte, from, to int) []byte) {
	if !inorder.Many(n) {
		for from := 0; from < n; from += inorder.Block {
			w.Buf = format(w.Buf, from, min(from+inorder.Block, n))
			w.relieve()
		}
		return
	}
	w.flush()
	inorder.Each(n, format, func(b []byte) {
		if w.err == nil {
			_, w.err = w.out.Write(b)
		}
	})
}

// Part writes a part of the document at this depth, which stays in a buffer of its own.
func (w *Writer) Part(buf []byte) *Writer { return &Writer{Buf: buf, indent: w.indent, part: true} }

// Items writes n items in their order, on all cores when there are many. The function writes the items from (included)
// to (excluded) with a Writer of their own, and must only read what it shares.
func (w *Writer) Items(n int, write func(part *Writer, from, to int)) {
	var bad atomic.Int64
	w.Points(n, func(dst []byte, from, to int) []byte {
		part := w.Part(dst)
		write(part, from, to)
		bad.Add(int64(part.Bad))
		return part.Buf
	})
	w.Bad += int(bad.Load())
}

// relieve empties the buffer when it is full, between blocks.
func (w *Writer) relieve() {
	if len(w.Buf) >= flushAt {
		w.flush()
	}
}
