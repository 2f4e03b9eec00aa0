// Package column makes tables of lists of columns: one list says what there is to choose from, how a person reads it,
// and what data have. What is printed, a CSV file, a workbook and a sheet of paper are made of the same list.
package column

import (
	"encoding/csv"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/param"
)

// Layout says in which measures, notation and zone a table is written.
type Layout struct {
	Measure  measure.System
	Notation geodesy.Notation
	Zone     *time.Location
}

// Quantity is what the numbers of a column are in.
type Quantity struct {
	Measure  string // behind the column's title; "" for none
	One      float64
	Decimals int
}

// Long, High, Fast and Seconds are the quantities of distances, heights, speeds and spans of time.
func Long(o *Layout) Quantity {
	name, metres := o.Measure.LongMeasure()
	return Quantity{name, metres, 3}
}

// High is that of heights.
func High(o *Layout) Quantity {
	name, metres := o.Measure.HeightMeasure()
	return Quantity{name, metres, 1}
}

// Wide is that of the sizes of areas.
func Wide(o *Layout) Quantity {
	name, m2 := o.Measure.AreaMeasure()
	return Quantity{name, m2, 4}
}

// Fast is that of speeds.
func Fast(o *Layout) Quantity {
	name, one := o.Measure.SpeedMeasure()
	return Quantity{name, one, 1}
}

// Seconds is that of spans of time.
func Seconds(*Layout) Quantity { return Quantity{"s", 1, 0} }

// Metres is that of short distances.
func Metres(*Layout) Quantity { return Quantity{"m", 1, 1} }

// Column is one column of a table of rows R.
type Column[R any] struct {
	Name  string // by which it is chosen
	Title string // over a table to be read
	Right bool   // numbers stand at the right
	Usual bool   // it is in the table to be read where nobody chooses
	Data  bool   // it is in the table of data where nobody chooses
	Short bool   // its texts may be cut where a window has no room for them

	Of func(*Layout) Quantity // nil for plain numbers of one decimal
	// to be read; nil for the value itself
	Show func(*R, *Layout) string
	// a string, an int, a float64 in the basic measure, a time.Duration or a time.Time; not a number and zero are unknown
	Value func(*R, *Layout) any
}

// Text is the cell of a row as it is read; "" where it is not known.
func (c *Column[R]) Text(r *R, o *Layout) string {
	if c.Show != nil {
		return c.Show(r, o)
	}
	switch v := c.Value(r, o).(type) {
	case string:
		return v
	case int:
		return strconv.Itoa(v)
	case float64:
		if !math.IsNaN(v) {
			return strconv.FormatFloat(v, 'f', c.quantity(o).Decimals, 64)
		}
	case time.Duration:
		if v > 0 {
			return Clock(v)
		}
	}
	return ""
}

// Heading is the column's title over data, with its measure.
func (c *Column[R]) Heading(o *Layout) string {
	return strings.TrimSpace(strings.ReplaceAll(c.Name, "-", " ") + " " + c.quantity(o).Measure)
}

// Cell is the cell of a row as data have it: a string, an int, a float64, a time.Time or nil.
func (c *Column[R]) Cell(r *R, o *Layout) any {
	q := c.quantity(o)
	switch v := c.Value(r, o).(type) {
	case float64:
		if math.IsNaN(v) {
			return nil
		}
		scale := math.Pow(10, float64(q.Decimals))
		return math.Round(v/q.One*scale) / scale
	case time.Duration:
		if v == 0 {
			return nil
		}
		return v.Round(time.Second).Seconds()
	case time.Time:
		if v.IsZero() {
			return nil
		}
		return v
	case string:
		if v == "" {
			return nil
		}
		return v
	case int:
		return v
	}
	return nil
}

func (c *Column[R]) quantity(o *Layout) Quantity {
	if c.Of == nil {
		return Quantity{"", 1, 1}
	}
	return c.Of(o)
}

// Clock writes a span of time as hours, minutes and seconds.
func Clock(d time.Duration) string {
	s := int(d.Round(time.Second).Seconds())
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// List is all columns that a table may have.
type List[R any] []Column[R]

// Parse reads the names of columns, comma-separated.
func (l List[R]) Parse(names string) (out []*Column[R], err error) {
	for _, name := range strings.Split(names, ",") {
		name = strings.TrimSpace(name)
		i := slices.IndexFunc(l, func(c Column[R]) bool { return c.Name == name })
		if i < 0 {
			return nil, fmt.Errorf("there is no column %q; there are %s", name, strings.Join(l.Names(), ", "))
		}
		out = append(out, &l[i])
	}
	return out, nil
}

// Names lists the names of all columns.
func (l List[R]) Names() (out []string) {
	for i := range l {
		out = append(out, l[i].Name)
	}
	return
}

// Chosen gives the columns that were chosen, or those of a table to be read or of data.
func (l List[R]) Chosen(columns []*Column[R], data bool) (out []*Column[R]) {
	if len(columns) > 0 {
		return columns
	}
	for i := range l {
		if c := &l[i]; data && c.Data || !data && c.Usual {
			out = append(out, c)
		}
	}
	return
}

// Param is the parameter of the columns of a table.
func (l List[R]) Param(to *[]*Column[R]) param.Param {
	return param.Func("columns", "LIST", "the columns of the table, a comma-separated `LIST` of "+
		strings.Join(l.Names(), ", "), func(text string) (err error) { *to, err = l.Parse(text); return })
}

// Data gives rows as data: a line of titles, and a row of cells each.
func Data[R any](columns []*Column[R], rows []R, o *Layout) (titles []string, cells [][]any) {
	for _, c := range columns {
		titles = append(titles, c.Heading(o))
	}
	for i := range rows {
		row := make([]any, len(columns))
		for k, c := range columns {
			row[k] = c.Cell(&rows[i], o)
		}
		cells = append(cells, row)
	}
	return titles, cells
}

// WriteCSV writes data comma-separated (RFC 4180).
func WriteCSV(w io.Writer, titles []string, rows [][]any) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if err := out.Write(titles); err != nil {
		return err
	}
	record := make([]string, len(titles))
	for _, row := range rows {
		for i, v := range row {
			switch v := v.(type) {
			case nil:
				record[i] = ""
			case string:
				record[i] = format.FormulaSafe(v)
			case float64:
				record[i] = strconv.FormatFloat(v, 'f', -1, 64)
			case time.Time:
				record[i] = v.Format(time.RFC3339)
			default:
				record[i] = fmt.Sprint(v)
			}
		}
		if err := out.Write(record); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// Forms are the forms in which tables are written, by extension; JSON is that of each table.
var Forms = []string{".csv", ".xlsx", ".json"}

// Number makes a column of numbers that a table to be read shows in a way of its own.
func Number[R any](name, title string, of func(*Layout) Quantity, show func(float64, *Layout) string,
	value func(*R) float64) Column[R] {
	return Column[R]{Name: name, Title: title, Right: true, Usual: true, Data: true, Of: of,
		Value: func(r *R, _ *Layout) any { return value(r) },
		Show: func(r *R, o *Layout) string {
			if v := value(r); !math.IsNaN(v) {
				return show(v, o)
			}
			return ""
		}}
}

// Words makes a column of texts.
func Words[R any](name, title string, value func(r *R, o *Layout) string) Column[R] {
	return Column[R]{Name: name, Title: title, Usual: true, Data: true,
		Value: func(r *R, o *Layout) any { return value(r, o) }}
}

// Span makes a column of spans of time.
func Span[R any](name, title string, value func(r *R) time.Duration) Column[R] {
	return Column[R]{Name: name, Title: title, Right: true, Usual: true, Data: true, Of: Seconds,
		Value: func(r *R, _ *Layout) any { return value(r) }}
}

// Shortened says that the texts of the column may be cut where there is no room for them.
func (c Column[R]) Shortened() Column[R] {
	c.Short = true
	return c
}

// Only says in which tables the column is where nobody chooses: those to be read, those of data.
func (c Column[R]) Only(usual, data bool) Column[R] {
	c.Usual, c.Data = usual, data
	return c
}

// Length, Height and Speed show a value in the measures of a layout.
func Length(v float64, o *Layout) string { return o.Measure.Length(v) }

// Area shows the size of an area.
func Area(v float64, o *Layout) string { return o.Measure.Area(v) }

// Height shows a height.
func Height(v float64, o *Layout) string { return o.Measure.Height(v) }

// Speed shows a speed.
func Speed(v float64, o *Layout) string { return o.Measure.Speed(v) }

// Bearing shows an angle from north, to the degree.
func Bearing(v float64, _ *Layout) string {
	return fmt.Sprintf("%03.0f°", math.Mod(math.Round(v), 360))
}
