package table

import (
	"bytes"
	"io"

	"golang.org/x/text/transform"

	"gyrolith/core/advice"
	"gyrolith/core/format"
)

// blockBytes is about how much of a text is read and worked on at a time.
const blockBytes = 1 << 20

// block is whole rows of a text.
type block struct {
	text  []byte
	sep   byte
	line  int   // of the text in which the first row stands
	lines int   // so many are in it, and no more rows
	end   int64 // how much of the text there is up to here
	last  bool
}

// blocks cuts a text into blocks of whole rows while it is read.
type blocks struct {
	in    io.Reader // what follows the rest; nil is nothing
	rest  []byte    // what is not cut yet
	sep   byte
	bytes int   // of a block, about
	size  int64 // of the whole text, about
	line  int   // of the rest
	end   int64
	ahead *block // the next one, since the last is to be more than a remnant of a row
	err   error  // why the text can't be read any further
}

// again gives the text of a source as blocks, as often as it is asked for: its encoding may turn out to be another than
// it seemed. What is no file is read into memory, up to a limit.
func again(s *format.Source, limit int64, bytesOfBlock int) (func(as *format.Charset) *blocks, error) {
	tooLarge := s.FaultOf(advice.Errorf(advice.AllowUnpacked, "is larger than the limit"))
	if s.Size > limit {
		return nil, tooLarge
	}
	size, open := s.Size, func() io.Reader { return io.LimitReader(s.Reader(), limit) }
	var whole []byte
	if s.File() == "" || s.Size == 0 {
		var err error
		if whole, err = io.ReadAll(io.LimitReader(s.Reader(), limit+1)); err != nil {
			return nil, err
		}
		if size = int64(len(whole)); size > limit {
			return nil, tooLarge
		}
		open = func() io.Reader { return bytes.NewReader(whole) }
	}
	return func(as *format.Charset) *blocks {
		b := &blocks{bytes: bytesOfBlock, size: size, line: 1}
		enc, mark := format.Encoding(s.Head)
		switch {
		case as != nil:
			enc = as.Encoding
		case enc == nil && whole != nil:
			b.rest = whole[mark:]
			return b
		}
		b.in = open()
		if _, b.err = io.CopyN(io.Discard, b.in, int64(mark)); enc != nil {
			b.in = transform.NewReader(b.in, enc.NewDecoder())
		}
		return b
	}, nil
}

// first gives the first block, in which are as many rows as are looked at to find out what the table holds, and finds
// what separates cells; 0 is nothing. A line in front that says that is left out.
func (b *blocks) first() (one *block, sep byte) {
	n := b.bytes
	text, ends := b.window(n)
	for !ends && countLines(text) <= firstRows {
		n *= 2
		text, ends = b.window(n)
	}
	sep, body := separator(text)
	if b.sep = sep; sep == 0 {
		b.sep = '\t' // a table of one column
	}
	if skip := len(text) - len(body); skip > 0 {
		b.rest, b.line, n = b.rest[skip:], 2, n-skip
	}
	b.ahead = b.cut(n)
	return b.next(), sep
}

// next gives one block after the other; nil is none.
func (b *blocks) next() *block {
	one := b.ahead
	if one == nil || one.last {
		b.ahead = nil
		return one
	}
	more := b.bytes
	if b.in != nil {
		more += len(b.rest)
	}
	next := b.cut(more)
	if next.last && (len(next.text) < b.bytes/2 || !bytes.ContainsAny(next.text, lineEnds)) {
		one.text = append(one.text[:len(one.text):len(one.text)], next.text...)
		one.lines, one.end, one.last = one.lines+next.lines, next.end, true
		next = nil
	}
	b.ahead = next
	return one
}

// cut cuts a block of n bytes or less off the rest, or of more where a row is longer.
func (b *blocks) cut(n int) *block {
	for ; ; n *= 2 {
		text, ends := b.window(n)
		end, next := len(text), 0
		if ends {
			next = b.line + countLines(text) + 1
		} else {
			end, next = rowsEnd(text, b.sep, b.line)
		}
		if end == 0 && !ends {
			continue
		}
		b.end += int64(end)
		one := &block{text: text[:end:end], sep: b.sep, line: b.line, lines: next - b.line, end: b.end, last: ends}
		b.rest, b.line = b.rest[end:], next
		return one
	}
}

// window gives the next n bytes of the text, and says whether it ends with them.
func (b *blocks) window(n int) (text []byte, ends bool) {
	if b.in != nil && len(b.rest) < n {
		room := make([]byte, n)
		have := copy(room, b.rest)
		more, err := io.ReadFull(b.in, room[have:])
		if err != nil {
			b.in = nil
			if err != io.EOF && err != io.ErrUnexpectedEOF {
				b.err = err
			}
		}
		b.rest = room[:have+more]
	}
	return b.rest[:min(n, len(b.rest))], b.in == nil && n >= len(b.rest)
}

// rowsEnd finds where the last whole row of a text ends, and the number of the line behind it.
func rowsEnd(text []byte, sep byte, line int) (end, next int) {
	if bytes.IndexByte(text, '"') < 0 && !loneReturns(text) {
		end = bytes.LastIndexByte(text, '\n') + 1
		return end, line + bytes.Count(text[:end], []byte("\n"))
	}
	s := newScanner(text, sep)
	s.next = line
	for s.scan() {
		n := len(text) - len(s.rest)
		if s.rest == nil || n == len(text) && text[n-1] == '\r' { // whose other half may follow
			break
		}
		end, next = n, s.next
	}
	return end, next
}

// loneReturns says whether a line of a text may end in a carriage return alone.
func loneReturns(text []byte) bool {
	n := bytes.Count(text, []byte("\r"))
	return n > 0 && n != bytes.Count(text, []byte("\r\n"))
}
