// Package column makes tables of lists of columns: one list says what there is to choose from, how a person reads it,
// and what data have. What is printed, a CSV file, a workbook and a sheet of paper are made of the same list.
package column

import (
	"encoding/csv"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
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
	Of       headings.Quantity // of which another measure may be chosen
}

// Long, High, Fast and Seconds are the quantities of distances, heights, speeds and spans of time.
func Long(o *Layout) Quantity {
	name, metres := o.Measure.LongMeasure()
	return Quantity{name, metres, 3, headings.Length}
}

// High is that of heights.
func High(o *Layout) Quantity {
	name, metres := o.Measure.HeightMeasure()
	return Quantity{name, metres, 1, headings.Length}
}

// Wide is that of the sizes of areas.
func Wide(o *Layout) Quantity {
	name, m2 := o.Measure.AreaMeasure()
	return Quantity{name, m2, 4, headings.Area}
}

// Fast is that of speeds.
func Fast(o *Layout) Quantity {
	name, one := o.Measure.SpeedMeasure()
	return Quantity{name, one, 1, headings.Speed}
}

// Seconds is that of spans of time.
func Seconds(*Layout) Quantity { return Quantity{"s", 1, 0, headings.Span} }

// Metres is that of short distances.
func Metres(*Layout) Quantity { return Quantity{"m", 1, 1, headings.Length} }

// Degrees is that of latitudes and longitudes.
func Degrees(*Layout) Quantity { return Quantity{"°", 1, 7, headings.None} }

// Angle is that of courses.
func Angle(*Layout) Quantity { return Quantity{"°", 1, 1, headings.None} }

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
	Field func(*R, string) string // of the column of fields: the text of one by its key

	given   string // the title that was given, which stays as it is
	measure string // that was chosen
}

// Text is the cell of a row as it is read; "" where it is not known.
func (c *Column[R]) Text(r *R, o *Layout) string {
	if c.Show != nil && c.measure == "" {
		return c.Show(r, o)
	}
	switch v := c.Cell(r, o).(type) {
	case string:
		return v
	case int:
		return strconv.Itoa(v)
	case time.Time:
		return v.Format("2006-01-02 15:04:05")
	case float64:
		q := c.quantity(o)
		if span, ok := c.Value(r, o).(time.Duration); ok && c.measure == "" {
			return Clock(span)
		}
		text := strconv.FormatFloat(v, 'f', q.Decimals, 64)
		if c.measure != "" {
			text += " " + c.measure
		}
		return text
	}
	return ""
}

// Heading is the column's title over data: the one that was given, or ours with its measure.
func (c *Column[R]) Heading(o *Layout) string {
	if c.given != "" {
		return c.given
	}
	return strings.TrimSpace(format.TitleOf(c.Name) + " " + c.quantity(o).Measure)
}

// Chosen is the column's title over a table to be read whose columns were chosen: what stands beside it explains
// nothing.
func (c *Column[R]) Chosen() string {
	if c.given != "" {
		return c.given
	}
	return format.TitleOf(c.Name)
}

// Known is a figure of an answer in JSON, to a thousandth; nil where it is not known.
func Known(v float64) *float64 {
	if math.IsNaN(v) {
		return nil
	}
	v = math.Round(v*1000) / 1000
	return &v
}

// Cell is the cell of a row as data have it: a string, an int, a float64, a time.Time or nil.
func (c *Column[R]) Cell(r *R, o *Layout) any {
	q := c.quantity(o)
	scaled := func(v float64) any {
		scale := math.Pow(10, float64(q.Decimals))
		return math.Round(v/q.One*scale) / scale
	}
	switch v := c.Value(r, o).(type) {
	case float64:
		if math.IsNaN(v) {
			return nil
		}
		return scaled(v)
	case time.Duration:
		if v == 0 {
			return nil
		}
		return scaled(v.Seconds())
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
	q := Quantity{"", 1, 1, headings.None}
	if c.Of != nil {
		q = c.Of(o)
	}
	if c.measure != "" {
		m, _ := headings.Named(c.measure, q.Of)
		finer := math.Log10(max(m.Factor, 1e-3) / q.One) // so that as much is said as in the usual measure
		q.Measure, q.One, q.Decimals = c.measure, m.Factor, min(max(q.Decimals+int(finer), 0), 6)
	}
	return q
}

// Clock writes a span of time as hours, minutes and seconds.
func Clock(d time.Duration) string {
	s := int(d.Round(time.Second).Seconds())
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// Data gives rows as data: a line of titles, and a row of cells each.
func Data[R any](columns []*Column[R], rows []R, o *Layout) (titles []format.Heading, cells [][]any) {
	for _, c := range columns {
		titles = append(titles, format.Heading{Text: c.Heading(o), Given: c.given != ""})
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
func WriteCSV(w io.Writer, titles []format.Heading, rows [][]any) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	record := make([]string, len(titles))
	for i, h := range titles {
		record[i] = format.FormulaSafe(h.Text)
	}
	if err := out.Write(record); err != nil {
		return err
	}
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
				record[i] = v.Round(time.Second).Format(time.RFC3339)
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
