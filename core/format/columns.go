package format

import (
	"encoding/csv"
	"fmt"
	"slices"
	"strings"
	"time"

	"gyrolith/core/format/headings"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
)

// Columns are the words for what a column of a table can hold; field:KEY holds a field. The last ones are of rows that
// are items.
var Columns = []string{"kind", "name", "lat", "lon", "position", "easting", "northing", "zone", "height", "depth",
	"time", "symbol", "colour", "description", "comment", "type",
	"group", "item id", "line", "item", "segment", "number", "speed", "course", "wkt", "wkb", "points", "length",
	"first", "last", "size", "perimeter"}

// IsColumn says whether a word names what a column can hold.
func IsColumn(word string) bool {
	key, ok := strings.CutPrefix(word, "field:")
	return ok && key != "" || slices.Contains(Columns, word)
}

// Column is one column of a table: its title, what it holds, and the measure of its numbers, "" for the usual one.
type Column struct{ Title, Holds, Measure string }

// measured are the columns of numbers that have a measure.
var measured = map[string]headings.Quantity{"height": headings.Length, "depth": headings.Length,
	"length": headings.Length, "speed": headings.Speed, "size": headings.Area, "perimeter": headings.Length}

// Measured says what the numbers of a column measure, by what it holds.
func Measured(holds string) (headings.Quantity, bool) {
	q, ok := measured[strings.TrimPrefix(holds, "field:")]
	return q, ok
}

// measureIn takes the measure off a word, as in height[ft].
func measureIn(word string) (holds, measure string, err error) {
	holds, rest, has := strings.Cut(word, "[")
	if !has {
		return word, "", nil
	}
	measure, _, _ = strings.Cut(rest, "]")
	q, known := Measured(holds)
	if !known {
		return "", "", fmt.Errorf("%q has no measure to choose; height, depth, length, speed, size and perimeter have",
			holds)
	}
	if _, ok := headings.Named(measure, q); !ok {
		examples := "m, ft, km or nm"
		switch q {
		case headings.Speed:
			examples = "m/s, km/h or kn"
		case headings.Area:
			examples = "m2, ha, km2, nm2 or ac"
		}
		return "", "", fmt.Errorf("%q is not a measure for %s: write %s", measure, holds, examples)
	}
	return holds, measure, nil
}

// ParseColumns reads a comma-separated list of columns: a word for what a column holds, with its measure in brackets
// where that is not the usual one, and with = and its title where that is another. A title with a comma stands in
// double quotes.
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
		holds, measure, err := measureIn(holds)
		if err != nil {
			return nil, err
		}
		if q, has := Measured(holds); has && measure == "" && titled {
			if m, is := headings.Named(title, q); is && m.Factor != 1 {
				return nil, fmt.Errorf("%s=%s would put the title %q over other numbers; write %s[%s]", holds, title, title,
					holds, title)
			}
		}
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
		out = append(out, Column{title, holds, measure})
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
	Measure   *measure.System  // of lengths, heights and speeds; nil is metres, and metres a second
	Zone      *time.Location   // of times; nil is UTC
}

// Summed says whether a column holds what whole items alone have.
func (t *Table) Summed() bool {
	return slices.ContainsFunc(t.Columns, func(c Column) bool {
		return slices.Contains([]string{"points", "length", "first", "last", "size", "perimeter"}, c.Holds)
	})
}

// Geometric says whether a column holds the geometry of its row.
func (t *Table) Geometric() bool {
	return slices.ContainsFunc(t.Columns, func(c Column) bool { return c.Holds == "wkt" || c.Holds == "wkb" })
}
