package table

import (
	"math"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/headings"
	"gyrolith/core/instant"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// scale is the measure in which the numbers of a column are shown; the zero value is our own.
type scale struct {
	name     string
	one      float64 // of our own
	decimals int     // more than in our own
}

// scaleOf settles the measure of a column: its own, that of the system that is asked for, or our own.
func scaleOf(c *format.Column, system *measure.System) scale {
	word := strings.TrimPrefix(c.Holds, "field:")
	q, known := format.Measured(c.Holds)
	s := scale{name: c.Measure}
	switch {
	case !known || c.Measure == "" && system == nil:
		return scale{}
	case c.Measure != "":
		m, _ := headings.Named(c.Measure, q)
		s.one = m.Factor
	case q == headings.Span:
		s.name, s.one = "s", 1
	case q == headings.Area:
		s.name, s.one = system.AreaMeasure()
	case word == "leg-distance" || word == "along" || word == "length" || word == "perimeter":
		s.name, s.one = system.LongMeasure()
	case word == "climb-rate":
		s.name, s.one = system.RateMeasure()
	case q == headings.Speed:
		s.name, s.one = system.SpeedMeasure()
	default:
		s.name, s.one = system.HeightMeasure()
	}
	s.decimals = max(int(math.Ceil(math.Log10(s.one))), 0)
	return s
}

// ours are the measures that numbers have where no other is asked for.
var ours = map[headings.Quantity]string{headings.Length: "m", headings.Speed: "m/s", headings.Area: "m²",
	headings.Span: "s"}

// scaled settles the measures of the columns. A title of ours names its measure; of others a note does.
func (t *sheet) scaled() {
	t.scales = make([]scale, len(t.Columns))
	for i := range t.Columns {
		c := &t.Columns[i]
		s := scaleOf(c, t.Measure)
		own := !c.Given && (c.Title == format.TitleOf(c.Holds))
		if q, known := format.Measured(c.Holds); s.one == 0 && known && !strings.HasPrefix(c.Holds, "field:") {
			s.name = ours[q]
		}
		if t.scales[i] = s; s.name == "" {
			if degrees := map[string]string{"slope": " %", "course": " °"}; own {
				c.Title += degrees[c.Holds]
			}
			continue
		}
		if own {
			c.Title += " " + s.name
		} else if m := measureOf(c); s.one != 0 && m != s.one {
			t.changes = append(t.changes, nav.Entry{KindWord: "column", What: nav.Property(c.Title), New: "in " + s.name,
				Why: "the title that was given doesn't say so", Count: 1, Asked: true})
		}
	}
}

// measureOf is how many of our own the measure is that a title names.
func measureOf(c *format.Column) float64 {
	q, _ := format.Measured(c.Holds)
	m, _ := headings.MeasureOf(c.Title, q)
	return m.Factor
}

// cell gives what a column holds of a row, in its measure.
func (t *sheet) cell(r *row, column int) any {
	return t.scales[column].show(r.value(t.Columns[column].Holds, t))
}

// show gives a number in the measure, with digits as fine as its own.
func (s scale) show(v any) any {
	q, ok := v.(quantity)
	if !ok || s.one == 0 || s.one == 1 || q.isText {
		return v
	}
	_, fraction, _ := strings.Cut(q.text, ".")
	return parsed(strconv.AppendFloat(nil, q.value/s.one, 'f', len(fraction)+s.decimals, 64))
}

// text is show of the text of a cell.
func (s scale) text(cell string) string {
	if s.one == 0 || s.one == 1 {
		return cell
	}
	if v, ok := decimal.Exact(cell); ok {
		return cellText(s.show(quantity{cell, v, false}))
	}
	return cell
}

// clock is the zone in which times are shown; nil is UTC.
func (t *sheet) clock() *time.Location {
	if t.Zone == time.UTC {
		return nil
	}
	return t.Zone
}

// oneOffset gives the offset from UTC that all times of the data have in a zone; false if they have several, or one
// that is no whole number of minutes.
func oneOffset(d *nav.Dataset, zone *time.Location) (east int, ok bool) {
	first, several := true, false
	for p := range d.AllPoints() {
		if !p.HasTime() || p.TimeMark() < instant.Seconds {
			continue
		}
		_, at := p.Time().In(zone).Zone()
		if first {
			east, first = at, false
		}
		several = several || at != east
	}
	return east, !several && east%60 == 0
}
