package format

import (
	"slices"
	"strings"

	"gyrolith/core/geodesy"
)

// Columns are the words for what a column of a table can hold; field:KEY holds a field.
var Columns = []string{"kind", "name", "lat", "lon", "position", "height", "time", "symbol", "colour", "description", "comment", "group", "number", "depth"}

// IsColumn says whether a word names what a column can hold.
func IsColumn(word string) bool {
	key, ok := strings.CutPrefix(word, "field:")
	return ok && key != "" || slices.Contains(Columns, word)
}

// Column is one column of a table: its title and what it holds.
type Column struct{ Title, Holds string }

// Table says how a table is laid out. The zero value has the usual columns.
type Table struct {
	Columns   []Column
	Sheet     string // of a workbook
	Template  string // the path of a workbook that is begun with
	FirstRow  int    // of the data, from 1; 0 is below the header
	NoHeader  bool
	Separator rune
	Notation  geodesy.Notation // of the column position
}
