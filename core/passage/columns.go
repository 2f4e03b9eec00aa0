package passage

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// Layout says in which measures, notation and zone a table is written.
type Layout = column.Layout

// Column is one column of the table of legs.
type Column = column.Column[Row]

// Row is one line of the table.
type Row struct {
	Table *Table
	Leg   *Leg
	N     int // from 1
}

// Rows gives the lines of all tables.
func Rows(tables []*Table) (out []Row) {
	for _, t := range tables {
		out = append(out, t.Rows()...)
	}
	return
}

// Rows gives the lines of a table.
func (t *Table) Rows() []Row {
	out := make([]Row, len(t.Legs))
	for i := range t.Legs {
		out[i] = Row{t, &t.Legs[i], i + 1}
	}
	return out
}

// number makes a column of a number of the leg.
func number(name, title string, of func(*Layout) column.Quantity, show func(float64, *Layout) string,
	value func(*Leg) float64) Column {
	return column.Number(name, title, of, show, func(r *Row) float64 { return value(r.Leg) })
}

func amount(v float64, _ *Layout) string { return fmt.Sprintf("%.1f", v) }
func offset(v float64, _ *Layout) string { return EastWest(v) }

// EastWest writes an angle from north.
func EastWest(v float64) string {
	if v < 0 {
		return fmt.Sprintf("%.1f° W", -v)
	}
	return fmt.Sprintf("%.1f° E", v)
}

func change(v float64, o *Layout) string {
	if s := column.Height(v, o); strings.HasPrefix(s, "-") {
		return s
	}
	return "+" + column.Height(v, o)
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
var Columns = slices.Concat(column.List[Row]{
	{Name: "route", Title: "route", Data: true, Value: func(r *Row, _ *Layout) any { return r.Table.Route.Name }},
	{Name: "leg", Title: "leg", Right: true, Usual: true, Data: true, Value: func(r *Row, _ *Layout) any { return r.N }},
	named(0, column.Words("from", "from", func(r *Row, _ *Layout) string { return r.Leg.From.Name })),
	named(1, column.Words("to", "to", func(r *Row, _ *Layout) string { return r.Leg.To.Name })),
	column.Words("from-position", "from", func(r *Row, o *Layout) string {
		return o.Notation.Format(r.Leg.From.Lat, r.Leg.From.Lon)
	}).Only(false, true),
	column.Words("to-position", "at", func(r *Row, o *Layout) string {
		return o.Notation.Format(r.Leg.To.Lat, r.Leg.To.Lon)
	}).Only(false, true),
	number("leg-distance", "distance", column.Long, column.Length, func(l *Leg) float64 { return l.Distance }),
	number("along", "total", column.Long, column.Length, func(l *Leg) float64 { return l.Total }),
	number("course-true", "course true", column.Angle, column.Bearing, func(l *Leg) float64 { return l.Course }),
	number("course-magnetic", "mag", column.Angle, column.Bearing, func(l *Leg) float64 { return l.Magnetic }),
	number("declination", "declination", column.Angle, offset, func(l *Leg) float64 { return l.Declination }).
		Only(false, true),
	number("from-height", "from height", column.High, column.Height,
		func(l *Leg) float64 { return heightOf(&l.From.Point) }).
		Only(false, false),
	number("to-height", "to height", column.High, column.Height, func(l *Leg) float64 { return heightOf(&l.To.Point) }).
		Only(false, false),
	number("height-change", "height", column.High, change, func(l *Leg) float64 { return l.Climb }),
	number("ground-highest", "highest ground", column.High, column.Height, func(l *Leg) float64 { return l.Ground }),
	number("safe-height", "safe height", column.High, column.Height, func(l *Leg) float64 { return l.Safe }),
	column.Words("wind", "wind", func(r *Row, o *Layout) string { return driftWords(r.Leg.Wind, true, o) }),
	column.Words("current", "current", func(r *Row, o *Layout) string { return driftWords(r.Leg.Current, false, o) }),
	number("correction", "correction", column.Angle, offsetSigned, func(l *Leg) float64 {
		return math.Remainder(l.Heading-l.Course, 360)
	}).Only(false, false),
	number("heading-true", "heading true", column.Angle, column.Bearing, func(l *Leg) float64 { return l.Heading }),
	number("heading-magnetic", "mag", column.Angle, column.Bearing, func(l *Leg) float64 { return l.Steer }),
	number("heading-compass", "compass", column.Angle, column.Bearing, func(l *Leg) float64 { return l.Compass }),
	number("speed", "speed", column.Fast, column.Speed, func(l *Leg) float64 { return l.Speed }).Only(false, false),
	number("ground-speed", "ground", column.Fast, column.Speed, func(l *Leg) float64 { return l.GroundSpeed }),
	{Name: "leg-time", Title: "time", Right: true, Usual: true, Data: true, Of: column.Seconds,
		Value: func(r *Row, _ *Layout) any { return r.Leg.Time }},
	{Name: "wait", Title: "wait", Right: true, Usual: true, Data: true, Of: column.Seconds,
		Value: func(r *Row, _ *Layout) any { return r.Leg.Wait }},
	{Name: "elapsed", Title: "elapsed", Right: true, Usual: true, Data: true, Of: column.Seconds,
		Value: func(r *Row, _ *Layout) any { return r.Leg.Elapsed }},
	{Name: "arrive", Title: "arrive", Right: true, Usual: true, Data: true, Value: arrives,
		Show: func(r *Row, o *Layout) string {
			if r.Leg.Arrive == 0 {
				return ""
			}
			return arrival(r.Leg.Arrive, r.Table, o.Zone)
		}},
	number("fuel-used", "fuel used", nil, amount, func(l *Leg) float64 { return l.FuelUsed }),
	number("fuel-left", "left", nil, amount, func(l *Leg) float64 { return l.FuelLeft }),
	{Name: "nearest-hazard", Title: "nearest hazard", Data: true, Value: func(r *Row, _ *Layout) any {
		return nearest(r, func(n *Near) any { return n.Name }, "")
	}},
	number("hazard-distance", "off", column.Metres, column.Length, func(l *Leg) float64 {
		if l.Nearest == nil {
			return math.NaN()
		}
		return l.Nearest.Distance
	}).Only(false, true),
	{Name: "hazard-side", Title: "to the", Data: true, Value: func(r *Row, _ *Layout) any {
		return nearest(r, func(n *Near) any { return n.Side }, "")
	}},
	{Name: "findings", Title: "findings", Value: func(r *Row, o *Layout) any {
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
	number("hazard-at", "after", column.Long, column.Length, func(l *Leg) float64 {
		if l.Nearest == nil {
			return math.NaN()
		}
		return l.Nearest.Along
	}).Only(false, true),
	{Name: "field:", Field: func(r *Row, key string) string { v, _ := nav.Get(r.Leg.To.Fields, key); return v }},
}, column.Sun(func(r *Row) (lat, lon float64, at time.Time) { // where and when the leg ends
	if r.Leg.Arrive != 0 {
		at = time.Unix(0, r.Leg.Arrive)
	}
	return r.Leg.To.Lat, r.Leg.To.Lon, at
}))

// Were are the words of earlier releases.
var Were = map[string]string{"distance": "leg-distance", "total": "along", "time": "leg-time"}

// OfDrift says whether a column shows what a wind or a current does to the course.
func OfDrift(c *Column) bool {
	return c.Name == "heading-true" || c.Name == "heading-magnetic" || c.Name == "ground-speed"
}

// Steady says whether the heading of every leg is its course, for want of drift, and its speed is its own.
func (t *Table) Steady() bool {
	return !slices.ContainsFunc(t.Legs, func(l Leg) bool {
		return !math.IsNaN(l.Heading) && (math.Abs(math.Remainder(l.Heading-l.Course, 360)) >= 1e-9 ||
			math.Abs(l.GroundSpeed-l.Speed) > 1e-6*l.Speed)
	})
}

// named shows the number of a point without a name.
func named(end int, c Column) Column {
	name := c.Value
	c.Show = func(r *Row, o *Layout) string {
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

// NewChoice is a choice among the columns of legs.
func NewChoice() column.Choice[Row] { return column.Choice[Row]{List: Columns, Were: Were} }

// Data gives the columns of tables as data: a line of titles, and a row for each leg.
func Data(tables []*Table, choice *column.Choice[Row], o *Layout) (titles []format.Heading, rows [][]any) {
	var all []Row
	for _, t := range tables {
		all = append(all, t.Rows()...)
	}
	choice.Sort(all, o)
	return column.Data(choice.Columns(true), all, o)
}
