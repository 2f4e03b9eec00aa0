package xmlscan

import (
	"bytes"
	"html"
	"strconv"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
)

// chars reads text up to the next tag, or as much of it as the buffer holds.
func (s *Scanner) chars() (Kind, error) {
	off, seen := 0, 0 // no tag before off, no blank before seen
	for {
		b := s.buf[s.token:]
		if i := bytes.IndexByte(b[off:], '<'); i >= 0 {
			return s.giveText(b[:off+i])
		}
		off = len(b)
		if off >= bufferSize/2 {
			if n := lastBlank(b[seen:]); n > 0 {
				return s.giveText(b[:seen+n])
			}
			seen = off
		}
		if !s.fill() {
			break
		}
	}
	return s.giveText(s.buf[s.token:])
}

// lastBlank gives the length of b up to and with its last blank that may end a piece.
func lastBlank(b []byte) int {
	for i := len(b) - 1; i >= 0; i-- {
		if b[i] == ' ' || b[i] == '\n' || b[i] == '\t' {
			return i + 1
		}
	}
	return 0
}

func (s *Scanner) giveText(b []byte) (Kind, error) {
	s.pos = s.token + len(b)
	if bytes.IndexByte(b, '&') < 0 && bytes.IndexByte(b, '\r') < 0 && !s.crSeen {
		s.text = b
		return Text, nil
	}
	var err error
	s.scratch, err = s.resolve(s.scratch[:0], b, s.token, true)
	s.text = s.scratch
	return Text, err
}

// cdata reads a piece of a character data section. It gives EOF without an error at the end of an empty one.
func (s *Scanner) cdata() (Kind, error) {
	off, seen := 0, 0
	for {
		b := s.buf[s.token:]
		if i := bytes.Index(b[off:], []byte("]]>")); i >= 0 {
			s.inCDATA = false
			kind, err := s.giveCDATA(b[:off+i])
			s.pos += 3
			s.crSeen = false
			return kind, err
		}
		off = max(0, len(b)-2)
		if off >= bufferSize/2 {
			if n := lastBlank(b[seen:off]); n > 0 {
				return s.giveCDATA(b[:seen+n])
			}
			seen = off
		}
		if !s.fill() {
			return EOF, s.cutOff("a CDATA section")
		}
	}
}

func (s *Scanner) giveCDATA(b []byte) (Kind, error) {
	s.pos = s.token + len(b)
	if len(b) == 0 {
		return EOF, nil
	}
	s.text = b
	if bytes.IndexByte(b, '\r') >= 0 || s.crSeen {
		s.scratch, _ = s.resolve(s.scratch[:0], b, s.token, false)
		s.text = s.scratch
	}
	return Text, nil
}

// AttrValue gives the value of an attribute with its references resolved.
func (s *Scanner) AttrValue(a Attr) ([]byte, error) {
	for i := range s.attrs {
		if b := &s.attrs[i]; &b.Name[0] == &a.Name[0] {
			b.taken = true
		}
	}
	return s.attrValue(a.Raw)
}

func (s *Scanner) attrValue(raw []byte) ([]byte, error) {
	if bytes.IndexByte(raw, '&') < 0 && bytes.IndexByte(raw, '\r') < 0 {
		return raw, nil
	}
	return s.resolve(nil, raw, s.token, true)
}

// AttrString finds an attribute without a namespace and gives its value, "" if there is none.
func (s *Scanner) AttrString(name string) string {
	for i := range s.attrs {
		if a := &s.attrs[i]; string(a.Name) == name {
			a.taken = true
			v, err := s.attrValue(a.Raw)
			if err != nil {
				return ""
			}
			return s.String(v)
		}
	}
	return ""
}

// AttrRaw finds an attribute without a namespace and gives its value as it is written; nil if there is none.
func (s *Scanner) AttrRaw(name string) []byte {
	for i := range s.attrs {
		if a := &s.attrs[i]; string(a.Name) == name {
			a.taken = true
			return a.Raw
		}
	}
	return nil
}

// resolve appends b to dst with references resolved, and with line ends as newlines (XML 1.0, 2.11).
func (s *Scanner) resolve(dst, b []byte, at int, references bool) ([]byte, error) {
	for i := 0; i < len(b); i++ {
		c := b[i]
		switch {
		case c == '\n' && s.crSeen:
			s.crSeen = false
			continue
		case c == '\r':
			s.crSeen = true
			dst = append(dst, '\n')
			continue
		case c == '&' && references:
			r, n, err := s.reference(b[i:], at+i)
			if err != nil {
				return dst, err
			}
			dst = append(dst, r...)
			i += n - 1
		default:
			dst = append(dst, c)
		}
		s.crSeen = false
	}
	return dst, nil
}

// reference resolves the reference at the start of b and says how long it is. An ampersand that begins no
// reference stands for itself.
func (s *Scanner) reference(b []byte, at int) (string, int, error) {
	end := 1
	for end < len(b) && end < 64 && (b[end] == '#' && end == 1 || nameByte[b[end]] && b[end] != ':') {
		end++
	}
	if end == 1 || end == len(b) || b[end] != ';' {
		return "&", 1, nil
	}
	name := string(b[1:end])
	switch name {
	case "lt":
		return "<", end + 1, nil
	case "gt":
		return ">", end + 1, nil
	case "amp":
		return "&", end + 1, nil
	case "quot":
		return "\"", end + 1, nil
	case "apos":
		return "'", end + 1, nil
	}
	if name[0] == '#' {
		digits, base := name[1:], 10
		if len(digits) > 0 && digits[0] == 'x' {
			digits, base = digits[1:], 16
		}
		if n, err := strconv.ParseUint(digits, base, 32); err == nil && n <= utf8.MaxRune && n != 0 {
			return string(rune(n)), end + 1, nil
		}
		return "", 0, s.errorAt(at, "\"&%s;\" is not a character", name)
	}
	if text := html.UnescapeString("&" + name + ";"); text != "&"+name+";" && text[len(text)-1] != ';' {
		return text, end + 1, nil
	}
	return "", 0, s.errorAt(at, "the entity \"&%s;\" is not defined; an ampersand in a text is written &amp;", name)
}

// String gives b as text in UTF-8. Bytes that are none are read as Windows-1252, and counted.
func (s *Scanner) String(b []byte) string {
	if utf8.Valid(b) {
		return string(b)
	}
	out := make([]byte, 0, len(b)+8)
	for len(b) > 0 {
		r, n := utf8.DecodeRune(b)
		if r == utf8.RuneError && n == 1 {
			r = charmap.Windows1252.DecodeByte(b[0])
			s.BadBytes++
		}
		out = utf8.AppendRune(out, r)
		b = b[n:]
	}
	return string(out)
}
