package format

import (
	"encoding/csv"
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/geodesy"
)

// Columns are the words for what a column of a table can hold; field:KEY holds a field. The last ones are of rows that
// are items.
var Columns = []string{"kind", "name", "lat", "lon", "position", "easting", "northing", "zone", "height", "depth",
	"time", "symbol", "colour", "description", "comment", "type",
	"group", "item id", "line", "item", "segment", "number", "speed", "course", "points", "length", "first", "last"}

// IsColumn says whether a word names what a column can hold.
func IsColumn(word string) bool {
	key, ok := strings.CutPrefix(word, "field:")
	return ok && key != "" || slices.Contains(Columns, word)
}

// Column is one column of a table: its title and what it holds.
type Column struct{ Title, Holds string }

// ParseColumns reads a comma-separated list of columns: a word for what a column holds, with = and its title where
// that is another. A title with a comma stands in double quotes.
func ParseColumns(text string) ([]Column, error) {
	in := csv.NewReader(strings.NewReader(text))
	in.LazyQuotes, in.TrimLeadingSpace = true, true
	words, err := in.Read()
	if err != nil {
		return nil, fmt.Errorf("%q is not a list of columns such as name,lat=Breite,lon=Länge", text)
	}
	var out []Column
	for _, w := range words {
		holds, title, titled := strings.Cut(strings.TrimSpace(w), "=")
		title = strings.Trim(title, `"`)
		if !IsColumn(holds) {
			near := ""
			for _, c := range Columns {
				if len(holds) > 2 && (strings.HasPrefix(c, holds) || strings.HasPrefix(holds, c)) {
					near = fmt.Sprintf("; did you mean %s?", c)
				}
			}
			return nil, fmt.Errorf("%q is not a column%s; there are %s, and field:KEY", holds, near,
				strings.Join(Columns, ", "))
		}
		if !titled || title == "" {
			title = strings.TrimPrefix(holds, "field:")
		}
		out = append(out, Column{title, holds})
	}
	return out, nil
}

// Table says how a table is laid out. The zero value has the usual columns.
type Table struct {
	Columns   []Column
	Sheet     string // of a workbook
	Template  string // the path of a workbook that is begun with
	FirstRow  int    // of the data, from 1; 0 is below the header
	NoHeader  bool
	Separator rune
	Notation  geodesy.Notation // of the column position
	Items     bool             // a row for each item, not for each point
}
