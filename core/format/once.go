package format

import (
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/nav"
)

// Once reads a text that stands once in what it belongs to: of two that differ the first is kept, and the other noted.
func Once(s *xmlscan.Scanner, d *nav.Dataset, dst *string) error {
	local := s.Local()
	line, col := s.Pos()
	text, err := s.LeafString()
	switch {
	case *dst == "":
		*dst = text
	case text != "" && text != *dst:
		d.Note(nav.ProblemLeftOut, "a second <"+local+"> was left out", line, col)
	}
	return err
}
