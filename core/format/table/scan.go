package table

import "bytes"

// scanner parts a text into rows and cells (RFC 4180), with any separator and line end. Cells are slices of the text,
// but for those in whose quotes a quote stands. Blanks around a cell belong to it only in quotes.
type scanner struct {
	rest  []byte
	sep   byte
	line  int // of the row that was read last
	next  int // of the row after it
	cells [][]byte
	open  int       // the line of a quoted cell that does not end
	marks [256]bool // the bytes that may end or begin a cell
}

// lineEnds are the bytes that end a line; the two together end one.
const lineEnds = "\r\n"

// countLines counts the ends of lines in a text.
func countLines(text []byte) int {
	return bytes.Count(text, []byte("\n")) + bytes.Count(text, []byte("\r")) - bytes.Count(text, []byte("\r\n"))
}

func newScanner(text []byte, sep byte) *scanner {
	s := &scanner{rest: text, sep: sep, next: 1}
	for _, c := range []byte{sep, '\n', '\r', '"'} {
		s.marks[c] = true
	}
	return s
}

// scan reads a row. The cells hold until the next is read.
func (s *scanner) scan() bool {
	if len(s.rest) == 0 {
		return false
	}
	s.line = s.next
	s.cells = s.cells[:0]
	text, start := s.rest, 0
	for i := 0; ; i++ {
		for i < len(text) && !s.marks[text[i]] {
			i++
		}
		if i >= len(text) {
			s.cells = append(s.cells, bytes.TrimSpace(text[start:]))
			s.rest, s.next = nil, s.next+1
			return true
		}
		switch c := text[i]; {
		case c == s.sep:
			s.cells = append(s.cells, bytes.TrimSpace(text[start:i]))
			start = i + 1
		case c == '\n' || c == '\r':
			s.cells = append(s.cells, bytes.TrimSpace(text[start:i]))
			if c == '\r' && i+1 < len(text) && text[i+1] == '\n' {
				i++
			}
			s.rest, s.next = text[i+1:], s.next+1
			return true
		case c == '"' && len(bytes.TrimLeft(text[start:i], " ")) == 0:
			cell, end := s.quoted(text, i)
			s.cells = append(s.cells, cell)
			// What stands behind the quote up to the separator is dropped if it is blank, and is part of the cell if not.
			from := end
			for end < len(text) && text[end] != s.sep && text[end] != '\n' && text[end] != '\r' {
				end++
			}
			if more := bytes.TrimSpace(text[from:end]); len(more) > 0 {
				s.cells[len(s.cells)-1] = append(append([]byte{}, cell...), more...)
			}
			if end == len(text) {
				s.rest, s.next = nil, s.next+1
				return true
			}
			start = end
			if text[end] == s.sep {
				if start = end + 1; start == len(text) { // an empty last cell
					s.cells = append(s.cells, nil)
					s.rest, s.next = nil, s.next+1
					return true
				}
				i = end
				continue
			}
			i = end
			if text[i] == '\r' && i+1 < len(text) && text[i+1] == '\n' {
				i++
			}
			s.rest, s.next = text[i+1:], s.next+1
			return true
		}
	}
}

// quoted reads a cell from its quote on and gives where it ends.
func (s *scanner) quoted(text []byte, at int) (cell []byte, end int) {
	begun := s.next
	start := at + 1
	var own []byte
	for i := start; i < len(text); i++ {
		switch text[i] {
		case '\n':
			s.next++
		case '\r':
			if i+1 < len(text) && text[i+1] != '\n' {
				s.next++
			}
		case '"':
			if i+1 < len(text) && text[i+1] == '"' {
				own = append(own, text[start:i+1]...)
				i++
				start = i + 1
				continue
			}
			if cell = text[start:i]; own != nil {
				cell = append(own, cell...)
			}
			if bytes.IndexByte(cell, '\r') >= 0 { // lines inside of a cell end as they do everywhere else
				cell = bytes.ReplaceAll(cell, []byte("\r\n"), []byte("\n"))
			}
			return cell, i + 1
		}
	}
	s.open = begun
	return append(own, text[start:]...), len(text)
}

// separators are tried in this order: where two part a text as well, it is the first, since a comma may be a decimal
// sign.
var separators = []byte{'\t', ';', '|', ','}

// separator finds what parts the cells: the sign by which most of the first rows have as many cells as one another. A
// first line sep=; says it.
func separator(text []byte) (sep byte, body []byte) {
	line, rest, _ := bytes.Cut(text, []byte("\n"))
	if line = bytes.TrimSpace(line); len(line) == 5 && bytes.EqualFold(line[:4], []byte("sep=")) {
		return line[4], rest
	}
	best := 0
	for _, c := range separators {
		counts := map[int]int{}
		s := newScanner(text, c)
		for n := 0; n < 60 && s.scan(); n++ {
			if len(s.cells) > 1 {
				counts[len(s.cells)]++
			}
		}
		for cells, rows := range counts {
			if score := rows*10 + min(cells, 9); rows > 0 && score > best+5 {
				best, sep = score, c
			}
		}
	}
	return sep, text
}
