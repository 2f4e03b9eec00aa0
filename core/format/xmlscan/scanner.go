// Package xmlscan reads XML (XML 1.0 and Namespaces in XML 1.0, W3C) as a stream of start tags, end tags
// and text, over the bytes and almost without allocation. It is the scanner that GPX and KML share.
//
// It does not validate: comments, processing instructions and a document type are passed over. It refuses
// a document type that declares entities, nesting and tags beyond the limits, tags that don't match, a
// reference to an entity that nobody knows, markup that is none, and a document that ends too early. It
// takes some things that XML forbids and people's files have: control characters, a bare ampersand, "--"
// in a comment, HTML's entity names.
package xmlscan

import (
	"bytes"
	"fmt"
	"io"
	"unicode/utf8"

	"gyrolith/core/advice"
)

// Kind says what the scanner stands on.
type Kind uint8

// The kinds of token.
const (
	EOF Kind = iota
	Start
	End
	Text
)

// Name is the expanded name of an element: the address of its namespace, and its local name. A prefix that
// nobody declared stands for its own address.
type Name struct{ Space, Local string }

// Attr is an attribute of a start tag, as it is written; AttrValue resolves its value.
type Attr struct {
	Name, Raw []byte
	taken     bool
}

// Limits bounds what a document can make the scanner do. Zero values are the defaults.
type Limits struct {
	Depth int   // how deep elements may nest: 1,000
	Token int   // bytes of one tag, or of text without a blank: 16 MiB
	Size  int64 // bytes of the document where they are known: a small one is read in no more room than it takes
}

// Error is a fault at a place of the document.
type Error struct {
	Line, Col int
	Msg       string
	Cut       bool // the document ends too early
	Advice    advice.Advice
}

// Advised gives the advice.
func (e *Error) Advised() advice.Advice { return e.Advice }

func (e *Error) Error() string { return fmt.Sprintf("%d:%d: %s", e.Line, e.Col, e.Msg) }

const bufferSize = 256 << 10

// Scanner reads one document. Slices that it gives out are valid until its next call.
type Scanner struct {
	src    io.Reader
	srcErr error
	buf    []byte // buf[pos:] is not yet read
	pos    int
	token  int   // start of the current token, for Pos
	passed int64 // bytes before buf[0]
	lines  int   // newlines before buf[0]
	column int   // characters between the last of them and buf[0]
	limits Limits

	// What buf[:counted] holds, so that Pos need not count again: newlines, and characters behind the last of them.
	counted, newlines, characters int

	open      []element // the elements that the scanner is in
	bindings  []binding
	names     nameCache
	attrs     []Attr
	text      []byte
	scratch   []byte
	selfClose bool
	untaken   bool // the start tag has attributes of which nobody knows yet whether they are taken
	inCDATA   bool
	crSeen    bool // the last piece of text ended in a carriage return

	name *nameEntry
	// Unread, unless nil, is called for every part of the document that its reader leaves; Pos gives the place.
	Unread func(Part)
	// BadBytes counts bytes that are not in the encoding of the document and were read as Windows-1252.
	BadBytes int
	// Encoding is the name of the encoding that the document is in.
	Encoding string
	sound    *sound // nil of UTF-8
}

type element struct {
	name     *nameEntry
	bindings int // how many bindings there were outside of it
}

type binding struct{ prefix, uri string }

// New starts on a document in any encoding that it declares or that its byte order mark shows.
func New(r io.Reader, limits Limits) (*Scanner, error) {
	if limits.Depth == 0 {
		limits.Depth = 1000
	}
	if limits.Token == 0 {
		limits.Token = 16 << 20
	}
	size := int64(bufferSize)
	if limits.Size > 0 {
		size = min(size, limits.Size+1) // and one for its end to be seen
	}
	s := &Scanner{limits: limits, buf: make([]byte, 0, size)}
	s.bindings = append(s.bindings, binding{"xml", "http://www.w3.org/XML/1998/namespace"})
	var err error
	s.src, s.Encoding, s.sound, err = decoded(r)
	return s, err
}

// fill reads more bytes behind those that are still needed, and says whether there were any.
func (s *Scanner) fill() bool {
	if s.srcErr != nil {
		return false
	}
	if keep := s.token; keep > 0 {
		gone := s.buf[:keep]
		if n := bytes.Count(gone, newline); n > 0 {
			s.lines += n
			s.column = utf8.RuneCount(gone[bytes.LastIndexByte(gone, '\n')+1:])
		} else {
			s.column += utf8.RuneCount(gone)
		}
		s.buf = s.buf[:copy(s.buf, s.buf[keep:])]
		s.passed += int64(keep)
		s.counted, s.newlines, s.characters = 0, 0, 0
		s.pos -= keep
		s.token = 0
	}
	if len(s.buf) == cap(s.buf) {
		if len(s.buf) > s.limits.Token {
			s.srcErr = s.errorAt(s.token, "a tag or a word is longer than %d bytes", s.limits.Token)
			return false
		}
		grown := make([]byte, len(s.buf), 2*cap(s.buf))
		copy(grown, s.buf)
		s.buf = grown
	}
	for tries := 0; tries < 100; tries++ {
		n, err := s.src.Read(s.buf[len(s.buf):cap(s.buf)])
		s.buf = s.buf[:len(s.buf)+n]
		if err != nil {
			s.srcErr = err
		}
		if n > 0 || err != nil {
			return n > 0
		}
	}
	s.srcErr = io.ErrNoProgress
	return false
}

var newline = []byte{'\n'}

// Pos gives the line and the column, in characters from 1, at which the current token begins.
func (s *Scanner) Pos() (line, col int) { return s.posAt(s.token) }

// TextPos gives the place of a byte of the text that Next last gave. Where references in the text were
// resolved, it is the place of the text's start.
func (s *Scanner) TextPos(off int) (line, col int) {
	at := s.token
	if end := s.token + off; len(s.text) > 0 && end < len(s.buf) && &s.text[0] == &s.buf[s.token] {
		at = end
	}
	return s.posAt(at)
}

func (s *Scanner) posAt(at int) (line, col int) {
	at = min(at, len(s.buf))
	if at < s.counted {
		s.counted, s.newlines, s.characters = 0, 0, 0
	}
	more := s.buf[s.counted:at]
	if n := bytes.Count(more, newline); n > 0 {
		s.newlines += n
		s.characters = utf8.RuneCount(more[bytes.LastIndexByte(more, '\n')+1:])
	} else {
		s.characters += utf8.RuneCount(more)
	}
	s.counted = at
	if s.newlines > 0 {
		return s.lines + s.newlines + 1, s.characters + 1
	}
	return s.lines + 1, s.column + s.characters + 1
}

func (s *Scanner) errorAt(at int, format string, args ...any) error {
	line, col := s.posAt(at)
	return &Error{Line: line, Col: col, Msg: fmt.Sprintf(format, args...)}
}

// Errorf makes an error at the current token.
func (s *Scanner) Errorf(format string, args ...any) error {
	return s.errorAt(s.token, format, args...)
}

// tooDeep is the error of elements that nest beyond the limit.
func (s *Scanner) tooDeep() error {
	line, col := s.posAt(s.token)
	return &Error{Line: line, Col: col, Advice: advice.Advice{Code: advice.AllowNesting},
		Msg: fmt.Sprintf("elements are nested more than %d deep", s.limits.Depth)}
}

// cutOff is the error of a document that ends inside something.
func (s *Scanner) cutOff(inside string) error {
	if s.srcErr != nil && s.srcErr != io.EOF {
		if _, ok := s.srcErr.(*Error); ok {
			return s.srcErr
		}
		return s.srcErr
	}
	line, col := s.posAt(len(s.buf))
	return &Error{Line: line, Col: col, Cut: true, Msg: "the file is cut off, inside " + inside}
}

// need makes sure that n bytes can be read from pos on.
func (s *Scanner) need(n int) bool {
	for len(s.buf)-s.pos < n {
		if !s.fill() {
			return false
		}
	}
	return true
}

// Depth is the number of elements that the scanner is in; at a start tag its element counts.
func (s *Scanner) Depth() int { return len(s.open) }

// Passed counts the bytes of the document, in UTF-8, that were read.
func (s *Scanner) Passed() int64 { return s.passed + int64(s.pos) }

// Ahead gives the bytes that are read and not yet scanned, so that a caller can take a common form of element in
// one step; Advance then passes over what it took, which must be whole elements and blanks between them. It
// is empty inside of a tag or a character data section.
func (s *Scanner) Ahead() []byte {
	if s.selfClose || s.inCDATA {
		return nil
	}
	return s.buf[s.pos:]
}

// More reads on, so that Ahead gives more; it says whether there was any.
func (s *Scanner) More() bool {
	s.token = s.pos
	return s.fill()
}

// Advance passes over n bytes of Ahead.
func (s *Scanner) Advance(n int) {
	s.pos += n
	s.token = s.pos
	s.crSeen = false
}

// Raw is the name of the current element as it is written, with its prefix.
func (s *Scanner) Raw() string { return s.name.raw }

// Name is the name of the element whose start or end tag was read.
func (s *Scanner) Name() Name { return s.name.name }

// Local is the local name of that element.
func (s *Scanner) Local() string { return s.name.name.Local }

// Attrs lists the attributes of the start tag. AttrValue takes one, AttrString too.
func (s *Scanner) Attrs() []Attr { return s.attrs }

// Text is the text that was read, with references resolved and line ends as newlines.
func (s *Scanner) Text() []byte { return s.text }

// Next goes to the next token. A long run of text comes in pieces, split after a blank.
func (s *Scanner) Next() (Kind, error) {
	if s.untaken {
		s.tellUntaken()
	}
	if s.selfClose {
		s.selfClose = false
		return End, s.pop()
	}
	for {
		s.token = s.pos
		if s.inCDATA {
			if kind, err := s.cdata(); kind != EOF || err != nil {
				return kind, err
			}
			continue
		}
		if s.pos >= len(s.buf) && !s.fill() {
			return s.end()
		}
		if s.buf[s.pos] != '<' {
			return s.chars()
		}
		if !s.need(2) {
			return EOF, s.cutOff("a tag")
		}
		s.crSeen = false
		switch s.buf[s.pos+1] {
		case '/':
			return s.endTag()
		case '!':
			if err := s.declaration(); err != nil {
				return EOF, err
			}
		case '?':
			if err := s.skipTo(s.pos+2, "?>", "a processing instruction"); err != nil {
				return EOF, err
			}
		default:
			return s.startTag()
		}
	}
}

func (s *Scanner) end() (Kind, error) {
	if s.srcErr != io.EOF {
		return EOF, s.cutOff("the document")
	}
	if len(s.open) > 0 {
		return EOF, s.cutOff("<" + s.open[len(s.open)-1].name.raw + ">")
	}
	return EOF, nil
}

// find looks for a mark from an offset on, reading as far as it must, and gives its offset from token.
func (s *Scanner) find(from int, mark string) (int, bool) {
	off := from - s.token
	for {
		if i := bytes.Index(s.buf[s.token+off:], []byte(mark)); i >= 0 {
			return off + i, true
		}
		off = max(off, len(s.buf)-s.token-len(mark)+1)
		if !s.fill() {
			return 0, false
		}
	}
}

func (s *Scanner) skipTo(from int, mark, what string) error {
	// What is passed over need not stay in the buffer.
	for {
		if i := bytes.Index(s.buf[from:], []byte(mark)); i >= 0 {
			s.pos = from + i + len(mark)
			return nil
		}
		s.pos = max(from, len(s.buf)-len(mark)+1)
		s.token = s.pos
		if !s.fill() {
			return s.cutOff(what)
		}
		from = s.pos
	}
}

// declaration reads what begins with "<!": a comment, a character data section or a document type.
func (s *Scanner) declaration() error {
	s.need(9)
	rest := s.buf[s.pos:]
	switch {
	case bytes.HasPrefix(rest, []byte("<!--")):
		return s.skipTo(s.pos+4, "-->", "a comment")
	case bytes.HasPrefix(rest, []byte("<![CDATA[")):
		s.pos += 9
		s.inCDATA = true
		return nil
	case bytes.HasPrefix(rest, []byte("<!DOCTYPE")) && len(s.open) == 0:
		return s.doctype()
	case len(rest) < 9 && s.srcErr == io.EOF:
		return s.cutOff("a declaration")
	}
	return s.Errorf("\"%.12s\" is not valid markup here", rest)
}

// doctype passes over a document type; one that declares entities is refused, since entities can unfold to
// any size or reach for other files.
func (s *Scanner) doctype() error {
	depth, quote := 0, byte(0)
	for i := 0; ; i++ {
		if s.token+i >= len(s.buf) && !s.fill() {
			return s.cutOff("the document type")
		}
		c := s.buf[s.token+i]
		switch {
		case quote != 0:
			if c == quote {
				quote = 0
			}
		case c == '"' || c == '\'':
			quote = c
		case c == '<':
			s.pos = s.token + i
			s.need(8)
			rest := s.buf[s.pos:]
			if bytes.HasPrefix(rest, []byte("<!ENTITY")) {
				return s.errorAt(s.pos, "the document type declares entities, which are not read for safety. Save "+
					"the file again without a document type")
			}
			if bytes.HasPrefix(rest, []byte("<!--")) {
				off, ok := s.find(s.pos+4, "-->")
				if !ok {
					return s.cutOff("a comment")
				}
				i = off + 2
				continue
			}
			depth++
		case c == '>':
			depth--
			if depth == 0 {
				s.pos = s.token + i + 1
				return nil
			}
		}
	}
}
