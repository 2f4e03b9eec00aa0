package xmlscan

import (
	"bytes"
	"slices"

	"gyrolith/core/format/xmlwrite"
)

// Root reads on to the start tag of the document element. The word names it in the error of a text that has none.
func (s *Scanner) Root(word string) error {
	for {
		kind, err := s.Next()
		switch {
		case err != nil:
			return err
		case kind == EOF:
			return s.Errorf("there is no <%s> element", word)
		case kind == Start:
			return nil
		}
	}
}

// Leaf reads the text of the element whose start tag was read, to its end tag. Of elements inside it, such
// as the markup of a description, the text counts and the tags don't.
func (s *Scanner) Leaf() ([]byte, error) {
	if !s.selfClose {
		// Nearly always the text and the end tag are whole in the buffer.
		b := s.buf[s.pos:]
		raw := s.open[len(s.open)-1].name.raw
		if i := bytes.IndexByte(b, '<'); i >= 0 && len(b) >= i+len(raw)+3 && b[i+1] == '/' &&
			b[i+2+len(raw)] == '>' && string(b[i+2:i+2+len(raw)]) == raw &&
			bytes.IndexByte(b[:i], '&') < 0 && bytes.IndexByte(b[:i], '\r') < 0 {
			if s.untaken {
				s.tellUntaken()
			}
			s.token = s.pos
			s.pos += i + len(raw) + 3
			s.text = b[:i]
			return s.text, s.pop()
		}
	}
	var whole []byte
	depth := len(s.open)
	for {
		kind, err := s.Next()
		if err != nil {
			return nil, err
		}
		switch {
		case kind == Text:
			whole = append(whole, s.text...)
			if len(whole) > s.limits.Token {
				return nil, s.Errorf("a text is longer than %d bytes", s.limits.Token)
			}
		case kind == End && len(s.open) < depth:
			return whole, nil
		}
	}
}

// LeafString is Leaf as a string, without blanks at its ends.
func (s *Scanner) LeafString() (string, error) {
	b, err := s.Leaf()
	return s.String(bytes.TrimSpace(b)), err
}

// Alike takes the elements that follow the one that was read to its end, as long as they are written plainly by the
// same tag, <tag>text</tag>, and take accepts their text. What is left is read as always.
func (s *Scanner) Alike(tag string, take func(text []byte) bool) {
	const whole = 1024 // so much is ahead of an element that is surely whole
	open, end := "<"+tag+">", "</"+tag+">"
	for {
		for b := s.Ahead(); len(b) >= whole; b = s.Ahead() {
			i := 0
			for i < len(b) && (b[i] == ' ' || b[i] == '\n' || b[i] == '\r' || b[i] == '\t') {
				i++
			}
			if len(b)-i < len(open) || string(b[i:i+len(open)]) != open {
				return
			}
			i += len(open)
			n := bytes.IndexByte(b[i:min(i+whole, len(b))], '<')
			if n < 0 || len(b)-i-n < len(end) || string(b[i+n:i+n+len(end)]) != end || !take(b[i:i+n]) {
				return
			}
			s.Advance(i + n + len(end))
		}
		if !s.More() {
			return
		}
	}
}

// Children calls visit at each start tag inside the current element; visit reads that element to its end. Text between
// them is not taken.
func (s *Scanner) Children(visit func(local string) error) error {
	for {
		kind, err := s.Next()
		if err != nil {
			return err
		}
		switch kind {
		case Start:
			if err := visit(s.Local()); err != nil {
				return err
			}
		case Text:
			s.TextUntaken()
		case End:
			return nil
		}
	}
}

// Skip passes over the element whose start tag was read, which is not taken.
func (s *Scanner) Skip() error {
	if s.Unread != nil {
		s.Unread(Part{PartElement, s.name.raw, s.inside(1)})
	}
	return s.Pass()
}

// Empty reads the element whose attributes are all that there is to it. What stands in it is not taken.
func (s *Scanner) Empty() error { return s.Children(func(string) error { return s.Skip() }) }

// Pass passes over the element whose start tag was read, in which is nothing that is not known otherwise.
func (s *Scanner) Pass() error {
	unread := s.Unread
	s.Unread, s.untaken = nil, false
	defer func() { s.Unread = unread }()
	depth := len(s.open)
	for {
		kind, err := s.Next()
		if err != nil {
			return err
		}
		if kind == End && len(s.open) < depth {
			return nil
		}
	}
}

// Trailing looks, at the end of the document element, whether anything but blanks, zero bytes and comments
// follows, and where. The document can't be read on after it.
func (s *Scanner) Trailing() (line, col int, found bool) {
	for {
		kind, err := s.Next()
		if err != nil || kind == Start || kind == Text && len(bytes.Trim(s.text, " \t\r\n\x00")) > 0 {
			line, col = s.Pos()
			return line, col, true
		}
		if kind == EOF {
			return 0, 0, false
		}
	}
}

// Prefix is a namespace prefix with its address.
type Prefix struct{ Prefix, URI string }

// Capture reads the whole element whose start tag was read and gives it as sound XML, written anew from its
// tags and texts, with the prefixes that it uses and doesn't declare itself. The empty prefix is among them
// when it is used. Visit, unless nil, gets the local name and the text of every element without children.
func (s *Scanner) Capture(visit func(local string, text []byte)) (string, []Prefix, error) {
	depth, outer := len(s.open), s.open[len(s.open)-1].bindings
	var used []Prefix
	s.uses(&used, outer)
	out, err := s.appendStart(nil)
	if err != nil {
		return "", nil, err
	}
	var leaf []byte
	childless, empty := true, s.selfClose
	for {
		kind, err := s.Next()
		if err != nil {
			return "", nil, err
		}
		if len(out) > s.limits.Token {
			return "", nil, s.Errorf("an element to be kept is longer than %d bytes", s.limits.Token)
		}
		switch kind {
		case Start:
			s.uses(&used, outer)
			if out, err = s.appendStart(out); err != nil {
				return "", nil, err
			}
			leaf, childless, empty = leaf[:0], true, s.selfClose
		case Text:
			out, _ = xmlwrite.AppendText(out, s.String(s.text), false)
			if visit != nil && childless {
				leaf = append(leaf, s.text...)
			}
		case End:
			if visit != nil && childless {
				visit(s.name.name.Local, leaf)
			}
			if !empty {
				out = append(append(append(out, "</"...), s.name.raw...), '>')
			}
			childless, empty = false, false
			if len(s.open) < depth {
				return string(out), used, nil
			}
		}
	}
}

// appendStart writes the current start tag anew.
func (s *Scanner) appendStart(dst []byte) ([]byte, error) {
	dst = append(append(dst, '<'), s.name.raw...)
	for _, a := range s.attrs {
		v, err := s.AttrValue(a)
		if err != nil {
			return nil, err
		}
		dst = append(append(append(dst, ' '), a.Name...), `="`...)
		dst, _ = xmlwrite.AppendText(dst, s.String(v), true)
		dst = append(dst, '"')
	}
	if s.selfClose {
		dst = append(dst, '/')
	}
	return append(dst, '>'), nil
}

// AppendScope writes the prefixes that are declared here, with their addresses: where it is the same, elements that are
// written alike mean the same.
func (s *Scanner) AppendScope(dst []byte) []byte {
	for i := range s.bindings {
		dst = append(append(append(append(dst, s.bindings[i].prefix...), '='), s.bindings[i].uri...), '\n')
	}
	return dst
}

// uses notes the prefixes of the current start tag that were declared outside.
func (s *Scanner) uses(used *[]Prefix, outer int) {
	note := func(prefix string) {
		for i := len(s.bindings) - 1; i >= outer; i-- {
			if s.bindings[i].prefix == prefix {
				return
			}
		}
		uri, bound := s.lookup(prefix)
		if prefix == "" && !bound {
			uri = ""
		}
		p := Prefix{prefix, uri}
		if prefix != "xml" && prefix != "xmlns" && !slices.Contains(*used, p) {
			*used = append(*used, p)
		}
	}
	prefix, _ := splitName(s.name.raw)
	note(prefix)
	for _, a := range s.attrs {
		if prefix, _ := splitName(string(a.Name)); prefix != "" && string(a.Name[:min(5, len(a.Name))]) != "xmlns" {
			note(prefix)
		}
	}
}
