package table

import (
	"bytes"
	"fmt"
	"math"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/headings"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// numbers is a column of a quantity: its measure by the heading, and how its numbers are written.
type numbers struct {
	column   int // -1 is none
	quantity headings.Quantity
	measure  headings.Measure
	points   points
}

// points says what a full stop with three digits behind it is in a column.
type points uint8

const (
	decimalPoint points = iota
	thousands           // as in all of the column, beside decimal commas
	neither             // beside decimal commas, and other full stops
)

var (
	decimalComma = pattern.New(`^[-+−]?\d+,\d+$`)
	grouped      = pattern.New(`^[-+−]?\d{1,3}(?:\.\d{3})+(?:,\d+)?$`)
)

// quantity settles the column of a quantity. One whose heading names an unknown measure becomes a field.
func (r *reader) quantity(word string, rows [][]string) numbers {
	n := numbers{column: -1, measure: headings.Measure{Factor: 1}}
	at := r.at[word]
	if len(at) == 0 {
		return n
	}
	n.column, n.quantity = at[0], headings.Length
	if q, ok := headings.QuantityOf(word); ok {
		n.quantity = q
	}
	if n.column < len(r.titles) {
		m, unknown := headings.MeasureOf(r.titles[n.column], n.quantity)
		if unknown != "" {
			r.doubt(r.header+1, "the column %s is in %q, which is not a known measure, and was kept as a field",
				r.title(n.column), unknown)
			r.fields[n.column] = r.bare(n.column)
			delete(r.at, word)
			return numbers{column: -1, measure: n.measure}
		}
		n.measure = m
	}
	commas, dotted, odd := false, false, false
	for _, cells := range rows[r.header+1:] {
		if n.column >= len(cells) {
			continue
		}
		cell := strings.TrimSpace(cells[n.column])
		commas = commas || decimalComma.MatchString(cell)
		if strings.Contains(cell, ".") {
			dotted = dotted || grouped.MatchString(cell)
			odd = odd || !grouped.MatchString(cell)
		}
	}
	switch {
	case commas && dotted && odd:
		n.points = neither
	case commas && dotted:
		n.points = thousands
	}
	return n
}

// read gives the value of a cell in our measure, and whether the digits of the text are those of the value. A cell may
// name a measure itself, which goes before that of the heading.
func (n *numbers) read(cell []byte, lat []byte) (v float64, digits decimal.Precision, ok bool) {
	v, digits, length := decimal.Prefix(cell)
	factor := n.measure.Factor
	if length != len(cell) || length == 0 || n.points != decimalPoint {
		t := text(cell)
		if number, m, is := headings.CellMeasure(t, n.quantity); is {
			t, factor = number, m.Factor
		}
		switch {
		case n.points == neither && grouped.MatchString(t):
			return 0, 0, false
		case n.points == thousands && grouped.MatchString(t):
			t = strings.ReplaceAll(t, ".", "")
		case commaThousands.MatchString(t) && bytes.IndexByte(lat, '.') >= 0: // beside degrees with a point
			t = strings.Replace(t, ",", "", 1)
		}
		if v, digits, ok = number(t); !ok {
			return 0, 0, false
		}
	}
	if factor != 1 {
		return v * factor, 0, true
	}
	return v, digits, true
}

// value gives a number of a field: the text of the cell where its number is ours, else the converted one.
func (n *numbers) value(cell []byte, lat []byte) (string, bool) {
	v, digits, ok := n.read(cell, lat)
	if !ok || math.IsNaN(v) {
		return "", false
	}
	if _, _, length := decimal.Prefix(cell); length == len(cell) && digits != 0 {
		return string(cell), true // with the zeros in front that it may have
	}
	if digits != 0 {
		return string(decimal.Append(nil, v, digits)), true
	}
	const exact = 4 // decimals of what was converted
	return string(decimal.AppendShort(nil, v, exact)), true
}

// sayMeasures lists the measures that headings name.
func (r *reader) sayMeasures() string {
	var parts []string
	for _, w := range []struct {
		word string
		of   *numbers
	}{{"height", &r.height}, {"depth", &r.depth}, {"speed", &r.speed}, {"course", &r.course}} {
		if w.of.column >= 0 && w.of.measure.Factor != 1 {
			parts = append(parts, w.word+" in "+w.of.measure.Name)
		}
	}
	if len(parts) == 0 {
		return ""
	}
	return "; " + strings.Join(parts, ", ")
}

// badNumber keeps a cell of a quantity as a field, and says so.
func (r *reader) badNumber(w *nav.Waypoint, word string, column int, cell string, line int) {
	w.Fields = append(w.Fields, nav.Field{Key: r.bare(column), Value: cell})
	why := "is not a number"
	if grouped.MatchString(cell) {
		why = "could be thousands or decimals, as the column has decimal commas"
	}
	r.d.Note(nav.ProblemHeights, fmt.Sprintf("a %s that %s was kept as a field", word, why), line, 0)
}
