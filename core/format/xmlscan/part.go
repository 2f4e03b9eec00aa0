package xmlscan

import (
	"bytes"
	"fmt"
	"strings"
)

// Part is something of a document that its reader did not take.
type Part struct {
	Kind   PartKind
	Name   string // of an element or an attribute, as it is written
	Inside string // the element that it stands in or belongs to; "" is none
}

// PartKind is a kind of parts.
type PartKind uint8

// The kinds of parts.
const (
	PartElement PartKind = iota
	PartAttribute
	PartText
	PartValue // the text of an element
)

// String says what was left out.
func (p Part) String() string {
	switch p.Kind {
	case PartElement:
		return fmt.Sprintf("<%s> in <%s> is not supported and was left out", p.Name, p.Inside)
	case PartAttribute:
		return fmt.Sprintf("the attribute %s of <%s> is not supported and was left out", p.Name, p.Inside)
	case PartValue:
		return fmt.Sprintf("<%s> in <%s> can't be read, or was given before, and was left out", p.Name, p.Inside)
	}
	return fmt.Sprintf("text directly in <%s> is not supported and was left out", p.Inside)
}

// structural are the prefixes of attributes that say something of the document itself (Namespaces in XML 1.0, 3; XML
// Schema Part 1, 2.6; XML 1.0, 2.12).
var structural = [][]byte{[]byte("xmlns"), []byte("xsi:"), []byte("xml:")}

// tellUntaken tells of the attributes of the start tag that nobody took.
func (s *Scanner) tellUntaken() {
	s.untaken = false
next:
	for _, a := range s.attrs {
		if a.taken || len(a.Raw) == 0 {
			continue
		}
		for _, prefix := range structural {
			if bytes.HasPrefix(a.Name, prefix) {
				continue next
			}
		}
		s.Unread(Part{PartAttribute, string(a.Name), s.name.raw})
	}
}

// PassAttr takes attributes that say nothing which is not known otherwise.
func (s *Scanner) PassAttr(names ...string) {
	for i := range s.attrs {
		for _, name := range names {
			if a := &s.attrs[i]; string(a.Name) == name {
				a.taken = true
			}
		}
	}
}

// LeaveAttr says that the value of an attribute could not be taken.
func (s *Scanner) LeaveAttr(name string) {
	for i := range s.attrs {
		if a := &s.attrs[i]; string(a.Name) == name {
			a.taken = false
		}
	}
}

// LeafUntaken tells that the text of the element that was read to its end, by Leaf, could not be taken.
func (s *Scanner) LeafUntaken(text string) {
	if s.Unread != nil && strings.TrimSpace(text) != "" {
		s.Unread(Part{PartValue, s.name.raw, s.inside(0)})
	}
}

// inside is the element so many steps outside of the innermost one; "" is none.
func (s *Scanner) inside(steps int) string {
	if n := len(s.open) - 1 - steps; n >= 0 {
		return s.open[n].name.raw
	}
	return ""
}

// TextUntaken tells that the text which was read is not taken. Blanks alone are none.
func (s *Scanner) TextUntaken() {
	if s.Unread != nil && len(bytes.TrimSpace(s.text)) > 0 && len(s.open) > 0 {
		s.Unread(Part{PartText, "", s.inside(0)})
	}
}
