package format

import (
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/nav"
)

// mostUnread is how many different parts of a document are told about one by one.
const mostUnread = 40

// Unread notes what the reader of a document does not take, by parts of a kind that say in words what was left out.
type Unread[Part interface {
	comparable
	String() string
}] struct {
	texts map[Part]string
}

// Note notes a part that stands at a place.
func (u *Unread[Part]) Note(d *nav.Dataset, p Part, line, col int) {
	text, ok := u.texts[p]
	if !ok && len(u.texts) < mostUnread {
		if u.texts == nil {
			u.texts = map[Part]string{}
		}
		text = p.String()
		u.texts[p] = text
	}
	if text == "" {
		text = "more parts of the document that are not supported were left out"
	}
	d.Note(nav.ProblemLeftOut, text, line, col)
}

// TellUnread notes all that the reader of an XML document does not take.
func TellUnread(s *xmlscan.Scanner, d *nav.Dataset) {
	var unread Unread[xmlscan.Part]
	s.Unread = func(p xmlscan.Part) {
		line, col := s.Pos()
		unread.Note(d, p, line, col)
	}
}

// CornerLeft says that an area's corner has only what every point has.
const CornerLeft = "what is said of an area's corner besides its position, height and time was left out"

// NoSuchPosition says that our own extension tells of a position which a line does not have, or tells of one twice.
const NoSuchPosition = "what is said of a position that the item does not have, or was said before, was left out"

// TellEncoding notes bytes of an XML document that are not in its encoding.
func TellEncoding(s *xmlscan.Scanner, d *nav.Dataset) {
	if s != nil && s.BadBytes > 0 {
		d.Note(nav.ProblemEncoding, "text that doesn't match the declared encoding was read as Windows-1252", 0, 0)
	}
	if s != nil && s.Mistaken() {
		d.Contradict("declares the encoding %s, and its bytes are UTF-8: letters beyond ASCII were read wrongly; change the "+
			"declaration", s.Encoding)
	}
}
