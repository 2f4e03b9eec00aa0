package xmlscan

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/htmlindex"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// headSize is enough for a byte order mark and an XML declaration.
const headSize = 1024

// decoded gives a reader of UTF-8 without a mark, whatever the document is in (XML 1.0, appendix F). What shows whether
// the bytes of another encoding are UTF-8 after all is nil of UTF-8.
func decoded(r io.Reader) (text io.Reader, encodingName string, bytesOf *sound, err error) {
	head := make([]byte, headSize)
	n, err := io.ReadFull(r, head)
	head = head[:n]
	if err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
		return nil, "", nil, err
	}
	enc, name, skip := DetectEncoding(head)
	if enc == nil && name != "" {
		return nil, "", nil, &Error{Line: 1, Col: 1, Msg: fmt.Sprintf("the encoding %q is not known; save the file as UTF-8",
			name)}
	}
	whole := io.MultiReader(bytes.NewReader(head[skip:]), r)
	if n < headSize {
		whole = bytes.NewReader(head[skip:])
	}
	if enc == encoding.Nop {
		return whole, name, nil, nil
	}
	if !strings.HasPrefix(name, "utf") {
		bytesOf = &sound{Reader: whole}
		whole = bytesOf
	}
	return transform.NewReader(whole, enc.NewDecoder()), name, bytesOf, nil
}

// sound looks whether bytes beyond ASCII are UTF-8, all of them.
type sound struct {
	io.Reader
	marked, broken bool
	rest           []byte // of a character that the next bytes may complete
}

func (s *sound) Read(b []byte) (int, error) {
	n, err := s.Reader.Read(b)
	if s.broken {
		return n, err
	}
	text := append(s.rest, b[:n]...)
	for len(text) > 0 && utf8.FullRune(text) && !s.broken {
		r, size := utf8.DecodeRune(text)
		s.marked, s.broken = s.marked || size > 1, r == utf8.RuneError && size == 1
		text = text[size:]
	}
	s.rest = append([]byte{}, text...)
	return n, err
}

// Mistaken says whether the document declares an encoding, and all of it is UTF-8 instead.
func (s *Scanner) Mistaken() bool { return s.sound != nil && s.sound.marked && !s.sound.broken }

// DetectEncoding tells the encoding of a document from its first bytes, and how many of them are a mark.
// UTF-8 is encoding.Nop. A declared encoding that nobody knows gives nil and its name.
func DetectEncoding(head []byte) (enc encoding.Encoding, name string, skip int) {
	utf16 := func(e unicode.Endianness) encoding.Encoding { return unicode.UTF16(e, unicode.IgnoreBOM) }
	switch {
	case bytes.HasPrefix(head, []byte{0xEF, 0xBB, 0xBF}):
		return encoding.Nop, "utf-8", 3
	case bytes.HasPrefix(head, []byte{0xFF, 0xFE}):
		return utf16(unicode.LittleEndian), "utf-16le", 2
	case bytes.HasPrefix(head, []byte{0xFE, 0xFF}):
		return utf16(unicode.BigEndian), "utf-16be", 2
	case bytes.HasPrefix(head, []byte{'<', 0}):
		return utf16(unicode.LittleEndian), "utf-16le", 0
	case bytes.HasPrefix(head, []byte{0, '<'}):
		return utf16(unicode.BigEndian), "utf-16be", 0
	}
	declared := declaredEncoding(head)
	switch strings.ToLower(declared) {
	// Without a mark and readable as ASCII, a document that calls itself UTF-16 is not.
	case "", "utf-8", "utf8", "us-ascii", "ascii", "utf-16", "ucs-2", "utf-16le", "utf-16be":
		return encoding.Nop, "utf-8", 0
	}
	enc, err := htmlindex.Get(declared)
	if err != nil {
		return nil, declared, 0
	}
	name, _ = htmlindex.Name(enc)
	return enc, name, 0
}

func declaredEncoding(head []byte) string {
	if !bytes.HasPrefix(head, []byte("<?xml")) {
		return ""
	}
	end := bytes.Index(head, []byte("?>"))
	if end < 0 {
		return ""
	}
	decl := string(head[:end])
	i := strings.Index(decl, "encoding")
	if i < 0 {
		return ""
	}
	decl = strings.TrimLeft(decl[i+len("encoding"):], " \t\r\n=")
	if decl == "" || decl[0] != '"' && decl[0] != '\'' {
		return ""
	}
	value, _, _ := strings.Cut(decl[1:], decl[:1])
	return strings.TrimSpace(value)
}
