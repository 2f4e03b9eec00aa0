package passage

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// Layout says in which measures, notation and zone a table is written.
type Layout struct {
	Measure  measure.System
	Notation geodesy.Notation
	Zone     *time.Location
}

// Column is one column of the table of legs, as it is read and as data have it.
type Column struct {
	Name  string // by which it is chosen
	Title string // over a table to be read
	Right bool   // numbers stand at the right
	Usual bool   // it is in the table to be read where nobody chooses
	Data  bool   // it is in the table of data where nobody chooses

	of func(o *Layout) quantity
	// to be read; nil for the value itself
	text func(r *Row, o *Layout) string
	// a string, an int, a float64 in the basic measure, a time.Duration or a time.Time; not a number and zero are unknown
	value func(r *Row, o *Layout) any
}

// quantity is what the numbers of a column are in.
type quantity struct {
	measure  string // behind the column's title; "" for none
	one      float64
	decimals int
}

// Row is one line of the table.
type Row struct {
	Table *Table
	Leg   *Leg
	N     int // from 1
}

// Rows gives the lines of a table.
func (t *Table) Rows() []Row {
	out := make([]Row, len(t.Legs))
	for i := range t.Legs {
		out[i] = Row{t, &t.Legs[i], i + 1}
	}
	return out
}

// Text is the cell of a row as it is read; "" where it is not known.
func (c *Column) Text(r *Row, o *Layout) string {
	if c.text != nil {
		return c.text(r, o)
	}
	switch v := c.value(r, o).(type) {
	case string:
		return v
	case int:
		return strconv.Itoa(v)
	case float64:
		if !math.IsNaN(v) {
			return strconv.FormatFloat(v, 'f', c.quantity(o).decimals, 64)
		}
	case time.Duration:
		if v > 0 {
			return Clock(v)
		}
	}
	return ""
}

// Heading is the column's title over data, with its measure.
func (c *Column) Heading(o *Layout) string {
	return strings.TrimSpace(strings.ReplaceAll(c.Name, "-", " ") + " " + c.quantity(o).measure)
}

// Value is the cell of a row as data have it: a string, an int, a float64, a time.Time or nil.
func (c *Column) Value(r *Row, o *Layout) any {
	q := c.quantity(o)
	switch v := c.value(r, o).(type) {
	case float64:
		if math.IsNaN(v) {
			return nil
		}
		scale := math.Pow(10, float64(q.decimals))
		return math.Round(v/q.one*scale) / scale
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

func (c *Column) quantity(o *Layout) quantity {
	if c.of == nil {
		return quantity{"", 1, 1}
	}
	return c.of(o)
}

func long(o *Layout) quantity {
	name, metres := o.Measure.LongMeasure()
	return quantity{name, metres, 3}
}

func high(o *Layout) quantity {
	name, metres := o.Measure.HeightMeasure()
	return quantity{name, metres, 1}
}

func fast(o *Layout) quantity {
	name, one := o.Measure.SpeedMeasure()
	return quantity{name, one, 1}
}

func seconds(*Layout) quantity { return quantity{"s", 1, 0} }

// number makes a column of numbers that a table to be read shows in a way of its own.
func number(name, title string, of func(*Layout) quantity, show func(float64, *Layout) string,
	value func(*Leg) float64) Column {
	return Column{Name: name, Title: title, Right: true, Usual: true, Data: true, of: of,
		value: func(r *Row, _ *Layout) any { return value(r.Leg) },
		text: func(r *Row, o *Layout) string {
			if v := value(r.Leg); !math.IsNaN(v) {
				return show(v, o)
			}
			return ""
		}}
}

func text(name, title string, value func(r *Row, o *Layout) string) Column {
	return Column{Name: name, Title: title, Usual: true, Data: true,
		value: func(r *Row, o *Layout) any { return value(r, o) }}
}

func (c Column) only(usual, data bool) Column {
	c.Usual, c.Data = usual, data
	return c
}

func lengthText(v float64, o *Layout) string { return o.Measure.Length(v) }
func heightText(v float64, o *Layout) string { return o.Measure.Height(v) }
func speedText(v float64, o *Layout) string  { return o.Measure.Speed(v) }
func amount(v float64, _ *Layout) string     { return fmt.Sprintf("%.1f", v) }
func offset(v float64, _ *Layout) string     { return EastWest(v) }

func bearing(v float64, _ *Layout) string {
	return fmt.Sprintf("%03.0f°", math.Mod(math.Round(v), 360))
}

// EastWest writes an angle from north.
func EastWest(v float64) string {
	if v < 0 {
		return fmt.Sprintf("%.1f° W", -v)
	}
	return fmt.Sprintf("%.1f° E", v)
}

func change(v float64, o *Layout) string {
	if s := heightText(v, o); strings.HasPrefix(s, "-") {
		return s
	}
	return "+" + heightText(v, o)
}

// Clock writes a span of time as hours, minutes and seconds.
func Clock(d time.Duration) string {
	s := int(d.Round(time.Second).Seconds())
	return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
}

// PointName is the name of a route's point, or its number from 1.
func PointName(w *nav.Waypoint, n int) string {
	if w.Name == "" {
		return fmt.Sprintf("point %d", n)
	}
	return w.Name
}

func heightOf(p *nav.Point) float64 {
	if p.HasHeight() {
		return p.Height()
	}
	return math.NaN()
}

// nearest gives a value of the hazard that is nearest to a leg.
func nearest(r *Row, value func(*Near) any, unknown any) any {
	if r.Leg.Nearest == nil {
		return unknown
	}
	return value(r.Leg.Nearest)
}

// Columns lists all columns, in their order.
var Columns = []Column{
	{Name: "route", Title: "route", Data: true, value: func(r *Row, _ *Layout) any { return r.Table.Route.Name }},
	{Name: "leg", Title: "leg", Right: true, Usual: true, Data: true, value: func(r *Row, _ *Layout) any { return r.N }},
	text("from", "from", func(r *Row, _ *Layout) string { return r.Leg.From.Name }).named(0),
	text("to", "to", func(r *Row, _ *Layout) string { return r.Leg.To.Name }).named(1),
	text("from-position", "from", func(r *Row, o *Layout) string {
		return o.Notation.Format(r.Leg.From.Lat, r.Leg.From.Lon)
	}).only(false, true),
	text("to-position", "at", func(r *Row, o *Layout) string {
		return o.Notation.Format(r.Leg.To.Lat, r.Leg.To.Lon)
	}).only(false, true),
	number("distance", "distance", long, lengthText, func(l *Leg) float64 { return l.Distance }),
	number("total", "total", long, lengthText, func(l *Leg) float64 { return l.Total }),
	number("course-true", "course true", nil, bearing, func(l *Leg) float64 { return l.Course }),
	number("course-magnetic", "mag", nil, bearing, func(l *Leg) float64 { return l.Magnetic }),
	number("declination", "declination", nil, offset, func(l *Leg) float64 { return l.Declination }).only(false, true),
	number("from-height", "from height", high, heightText, func(l *Leg) float64 { return heightOf(&l.From.Point) }).
		only(false, false),
	number("to-height", "to height", high, heightText, func(l *Leg) float64 { return heightOf(&l.To.Point) }).
		only(false, false),
	number("height-change", "height", high, change, func(l *Leg) float64 { return l.Climb }),
	number("ground-highest", "highest ground", high, heightText, func(l *Leg) float64 { return l.Ground }),
	number("safe-height", "safe height", high, heightText, func(l *Leg) float64 { return l.Safe }),
	text("wind", "wind", func(r *Row, o *Layout) string { return driftWords(r.Leg.Wind, true, o) }),
	text("current", "current", func(r *Row, o *Layout) string { return driftWords(r.Leg.Current, false, o) }),
	number("correction", "correction", nil, offsetSigned, func(l *Leg) float64 {
		return math.Remainder(l.Heading-l.Course, 360)
	}).only(false, false),
	number("heading-true", "heading true", nil, bearing, func(l *Leg) float64 { return l.Heading }),
	number("heading-magnetic", "mag", nil, bearing, func(l *Leg) float64 { return l.Steer }),
	number("heading-compass", "compass", nil, bearing, func(l *Leg) float64 { return l.Compass }),
	number("speed", "speed", fast, speedText, func(l *Leg) float64 { return l.Speed }).only(false, false),
	number("ground-speed", "ground", fast, speedText, func(l *Leg) float64 { return l.GroundSpeed }),
	{Name: "time", Title: "time", Right: true, Usual: true, Data: true, of: seconds,
		value: func(r *Row, _ *Layout) any { return r.Leg.Time }},
	{Name: "wait", Title: "wait", Right: true, Usual: true, Data: true, of: seconds,
		value: func(r *Row, _ *Layout) any { return r.Leg.Wait }},
	{Name: "elapsed", Title: "elapsed", Right: true, Usual: true, Data: true, of: seconds,
		value: func(r *Row, _ *Layout) any { return r.Leg.Elapsed }},
	{Name: "arrive", Title: "arrive", Right: true, Usual: true, Data: true, value: arrives,
		text: func(r *Row, o *Layout) string {
			if r.Leg.Arrive == 0 {
				return ""
			}
			return arrival(r.Leg.Arrive, r.Table, o.Zone)
		}},
	number("fuel-used", "fuel used", nil, amount, func(l *Leg) float64 { return l.FuelUsed }),
	number("fuel-left", "left", nil, amount, func(l *Leg) float64 { return l.FuelLeft }),
	{Name: "nearest-hazard", Title: "nearest hazard", Data: true, value: func(r *Row, _ *Layout) any {
		return nearest(r, func(n *Near) any { return n.Name }, "")
	}},
	number("hazard-distance", "off", metres, lengthText, func(l *Leg) float64 {
		if l.Nearest == nil {
			return math.NaN()
		}
		return l.Nearest.Distance
	}).only(false, true),
	{Name: "hazard-side", Title: "to the", Data: true, value: func(r *Row, _ *Layout) any {
		return nearest(r, func(n *Near) any { return n.Side }, "")
	}},
	{Name: "findings", Title: "findings", value: func(r *Row, o *Layout) any {
		var words []string
		for i := range r.Table.Findings {
			if f := &r.Table.Findings[i]; f.Leg == r.N {
				alone := *f
				alone.Leg = 0 // it stands on the leg's own row
				words = append(words, alone.Words(r.Table, o))
			}
		}
		return strings.Join(words, "; ")
	}},
	number("hazard-at", "after", long, lengthText, func(l *Leg) float64 {
		if l.Nearest == nil {
			return math.NaN()
		}
		return l.Nearest.Along
	}).only(false, true),
}

// OfDrift says whether the column shows what a wind or a current does to the course.
func (c *Column) OfDrift() bool {
	return c.Name == "heading-true" || c.Name == "heading-magnetic" || c.Name == "ground-speed"
}

// Steady says whether the heading of every leg is its course, for want of drift, and its speed is its own.
func (t *Table) Steady() bool {
	return !slices.ContainsFunc(t.Legs, func(l Leg) bool {
		return !math.IsNaN(l.Heading) && (math.Abs(math.Remainder(l.Heading-l.Course, 360)) >= 1e-9 ||
			math.Abs(l.GroundSpeed-l.Speed) > 1e-6*l.Speed)
	})
}

func metres(*Layout) quantity { return quantity{"m", 1, 1} }

// named shows the number of a point without a name.
func (c Column) named(end int) Column {
	name := c.value
	c.text = func(r *Row, o *Layout) string {
		if n := name(r, o).(string); n != "" {
			return n
		}
		return fmt.Sprintf("point %d", r.N+end)
	}
	return c
}

func offsetSigned(v float64, _ *Layout) string { return fmt.Sprintf("%+.0f°", v) }

func arrives(r *Row, o *Layout) any {
	if r.Leg.Arrive == 0 {
		return time.Time{}
	}
	return time.Unix(0, r.Leg.Arrive).In(o.Zone)
}

// arrival writes a time, with its day where the passage goes over midnight.
func arrival(ns int64, t *Table, zone *time.Location) string {
	at := func(ns int64) time.Time { return time.Unix(0, ns).In(zone).Round(time.Second) }
	first, last := at(t.Legs[0].Arrive-int64(t.Legs[0].Time)), at(t.Legs[len(t.Legs)-1].Arrive)
	if first.YearDay() == last.YearDay() && first.Year() == last.Year() {
		return at(ns).Format("15:04:05")
	}
	return at(ns).Format("02 Jan 15:04:05")
}

// ParseColumns reads the names of columns, comma-separated.
func ParseColumns(list string) (out []*Column, err error) {
	for _, name := range strings.Split(list, ",") {
		name = strings.TrimSpace(name)
		i := slices.IndexFunc(Columns, func(c Column) bool { return c.Name == name })
		if i < 0 {
			return nil, fmt.Errorf("there is no column %q; there are %s", name, strings.Join(ColumnNames(), ", "))
		}
		out = append(out, &Columns[i])
	}
	return out, nil
}

// ColumnNames lists the names of all columns.
func ColumnNames() (out []string) {
	for i := range Columns {
		out = append(out, Columns[i].Name)
	}
	return
}

// Chosen gives the columns that were chosen, or those of a table to be read or of data.
func Chosen(columns []*Column, data bool) (out []*Column) {
	if len(columns) > 0 {
		return columns
	}
	for i := range Columns {
		if c := &Columns[i]; data && c.Data || !data && c.Usual {
			out = append(out, c)
		}
	}
	return
}

// Data gives the columns of tables as data: a line of titles, and a row for each leg.
func Data(tables []*Table, columns []*Column, o *Layout) (titles []string, rows [][]any) {
	for _, c := range columns {
		titles = append(titles, c.Heading(o))
	}
	for _, t := range tables {
		for _, r := range t.Rows() {
			row := make([]any, len(columns))
			for i, c := range columns {
				row[i] = c.Value(&r, o)
			}
			rows = append(rows, row)
		}
	}
	return titles, rows
}
