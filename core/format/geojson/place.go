package geojson

import (
	"bytes"
	"io"
	"unicode/utf8"
)

// placer is a reader that can tell line and column of an offset not far behind what it has read.
type placer struct {
	in     io.Reader
	read   int64
	recent []byte // the last bytes that were read
	line   int    // newlines before recent
	column int    // characters between the last of them and recent

	split   []byte // the first bytes of a character whose others come with the next
	invalid bool   // something was no UTF-8
}

const recentBytes = 1 << 20

func (p *placer) Read(b []byte) (int, error) {
	n, err := p.in.Read(b)
	p.check(b[:n], err != nil)
	if len(p.recent)+n > 2*recentBytes {
		gone := p.recent[:len(p.recent)-recentBytes]
		if k := bytes.Count(gone, []byte{'\n'}); k > 0 {
			p.line += k
			p.column = utf8.RuneCount(gone[bytes.LastIndexByte(gone, '\n')+1:])
		} else {
			p.column += utf8.RuneCount(gone)
		}
		p.recent = append(p.recent[:0], p.recent[len(gone):]...)
	}
	p.recent = append(p.recent, b[:n]...)
	p.read += int64(n)
	return n, err
}

// check looks whether what was read is UTF-8.
func (p *placer) check(b []byte, last bool) {
	if p.invalid || utf8.Valid(b) && len(p.split) == 0 {
		return
	}
	b = append(p.split, b...)
	whole := len(b)
	for k := 1; k < utf8.UTFMax && k <= len(b) && !last; k++ {
		if c := b[len(b)-k]; utf8.RuneStart(c) {
			if !utf8.FullRune(b[len(b)-k:]) {
				whole -= k
			}
			break
		}
	}
	p.invalid = !utf8.Valid(b[:whole])
	p.split = append([]byte(nil), b[whole:]...)
}

// at gives line and column, from 1, of an offset.
func (p *placer) at(offset int64) (line, col int) {
	n := int64(len(p.recent)) - (p.read - offset)
	before := p.recent[:max(0, min(n, int64(len(p.recent))))]
	if k := bytes.Count(before, []byte{'\n'}); k > 0 {
		return p.line + k + 1, utf8.RuneCount(before[bytes.LastIndexByte(before, '\n')+1:]) + 1
	}
	return p.line + 1, p.column + utf8.RuneCount(before) + 1
}
