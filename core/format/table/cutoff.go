package table

import (
	"bytes"
	"fmt"
	"slices"

	"gyrolith/core/nav"
)

// cutOff takes the last row off a text that ends in the middle of it: without the end of its line, and with fewer cells
// than the row before. Where its last cell is of a position, which may then lack digits, the row is rejected; otherwise
// it is noted and stays.
func (r *reader) cutOff(body []byte, sep byte) []byte {
	end := bytes.LastIndexByte(body, '\n') + 1
	last := body[end:]
	if end == 0 || len(bytes.TrimSpace(last)) == 0 || last[len(last)-1] == '\r' {
		return body
	}
	before := bytes.TrimRight(body[:end], "\r\n")
	before = before[bytes.LastIndexByte(before, '\n')+1:]
	if bytes.IndexByte(last, '"') >= 0 || bytes.IndexByte(before, '"') >= 0 { // a cell may hold line ends
		return body
	}
	cells := newScanner(last, sep)
	cells.scan()
	full := newScanner(before, sep)
	full.scan()
	n := len(cells.cells)
	if n >= len(full.cells) {
		return body
	}
	line := bytes.Count(body[:end], []byte("\n")) + 1
	why := fmt.Sprintf("the last row has %d of %d cells and no end of its line: it may be cut off", n, len(full.cells))
	if of := r.columnOf(n - 1); !slices.Contains([]string{"lat", "lon", "position", "easting", "northing"}, of) {
		r.d.Note(nav.ProblemDamaged, why, line, 1)
		return body
	}
	r.d.Rejects = append(r.d.Rejects, nav.Reject{Kind: nav.Waypoints, Name: text(at(cells.cells, r.name)),
		Raw: string(bytes.TrimSpace(last)), Why: why + " within its position", Line: line})
	return body[:end]
}

// columnOf says what a column holds; "" for a field.
func (r *reader) columnOf(i int) string {
	for word, columns := range r.at {
		if slices.Contains(columns, i) {
			return word
		}
	}
	return ""
}
