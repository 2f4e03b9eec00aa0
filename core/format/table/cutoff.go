package table

import (
	"bytes"
	"fmt"
	"slices"

	"gyrolith/core/nav"
)

// positions are the columns in which a missing digit is another place.
var positions = []string{"lat", "lon", "position", "easting", "northing"}

// decimals counts the digits behind the point of a number.
func decimals(cell []byte) int {
	_, fraction, _ := bytes.Cut(bytes.TrimSpace(cell), []byte("."))
	return len(fraction)
}

// cutOff takes the last row off a text that ends in the middle of it: without the end of its line, and with fewer cells
// than the row before. Where its last cell is of a position, which may then lack digits, the row is rejected; otherwise
// it is noted and stays. First is the line in which the text begins.
func (r *reader) cutOff(body []byte, sep byte, first int) []byte {
	end := bytes.LastIndexAny(body, lineEnds) + 1
	last := body[end:]
	if end == 0 || len(bytes.TrimSpace(last)) == 0 {
		return body
	}
	before := bytes.TrimRight(body[:end], lineEnds)
	before = before[bytes.LastIndexAny(before, lineEnds)+1:]
	if bytes.IndexByte(last, '"') >= 0 || bytes.IndexByte(before, '"') >= 0 { // a cell may hold line ends
		return body
	}
	cells := newScanner(last, sep)
	cells.scan()
	full := newScanner(before, sep)
	full.scan()
	n := len(cells.cells)
	line := first + countLines(body[:end])
	if n >= len(full.cells) {
		if n > 0 && n == len(full.cells) && slices.Contains(positions, r.columnOf(n-1)) &&
			decimals(full.cells[n-1])-decimals(cells.cells[n-1]) >= 3 {
			r.d.Note(nav.ProblemDamaged, fmt.Sprintf("the last row has no line end, and fewer digits in %q than the row "+
				"before: it may be cut off", bytes.TrimSpace(cells.cells[n-1])), line, 1)
		}
		return body
	}
	why := fmt.Sprintf("the last row has %d of %d cells and no line end: it may be cut off", n, len(full.cells))
	if !slices.Contains(positions, r.columnOf(n-1)) {
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
