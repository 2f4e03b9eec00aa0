package near

import (
	"math"
	"time"

	"gyrolith/core/column"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Row is a hit with what it is near to.
type Row struct {
	Of string // the waypoint that was asked for; "" for a position
	Hit
	Declination float64 // at the position; not a number where it is not known
}

// Columns lists the columns of the table of what is near.
var Columns = column.List[Row]{
	column.Words("of", "of", func(r *Row, _ *column.Layout) string { return r.Of }).Shortened(),
	column.Words("kind", "kind", func(r *Row, _ *column.Layout) string { return r.Kind.One() }),
	column.Words("name", "name", func(r *Row, _ *column.Layout) string { return r.Name }).Shortened(),
	column.Words("group", "group", func(r *Row, _ *column.Layout) string { return r.Group }).Shortened().Only(false, true),
	{Name: "distance", Title: "distance", Right: true, Usual: true, Data: true, Of: column.Metres,
		Value: func(r *Row, _ *column.Layout) any { return r.Distance },
		Show: func(r *Row, o *column.Layout) string {
			if r.Inside {
				return "inside"
			}
			if r.Outside != "" {
				return r.Outside
			}
			return o.Measure.Length(r.Distance)
		}},
	column.Number("course-true", "true", column.Angle, column.Bearing, func(r *Row) float64 { return r.Course }),
	column.Number("course-magnetic", "magnetic", column.Angle, column.Bearing, func(r *Row) float64 {
		return math.Mod(r.Course-r.Declination+720, 360)
	}),
	column.Words("position", "at", func(r *Row, o *column.Layout) string { return o.Notation.Format(r.Lat, r.Lon) }),
	{
		Name:  "lat",
		Title: "lat",
		Right: true,
		Data:  true,
		Of:    column.Degrees,
		Value: func(r *Row, _ *column.Layout) any { return r.Lat },
	},
	{
		Name:  "lon",
		Title: "lon",
		Right: true,
		Data:  true,
		Of:    column.Degrees,
		Value: func(r *Row, _ *column.Layout) any { return r.Lon },
	},
	{Name: "leg", Title: "leg", Right: true, Usual: true, Data: true,
		Value: func(r *Row, _ *column.Layout) any {
			if r.Leg == 0 {
				return ""
			}
			return r.Leg
		}},
	column.Number("along", "along", column.Long, column.Length, func(r *Row) float64 {
		if r.On == nil {
			return math.NaN()
		}
		return r.On.Along
	}),
	column.Words("side", "side", func(r *Row, _ *column.Layout) string { return r.Side() }),
	{Name: "time", Title: "passed", Usual: true, Data: true, Value: func(r *Row, o *column.Layout) any {
		if r.On == nil || !r.On.At.HasTime() {
			return time.Time{}
		}
		return r.On.At.Time().In(o.Zone)
	}},
	{Name: "height", Title: "height", Right: true, Data: true, Of: column.High, Value: func(r *Row, _ *column.Layout) any {
		if r.On == nil || !r.On.At.HasHeight() {
			return math.NaN()
		}
		return r.On.At.Height()
	}},
	column.Words("outside", "outside", func(r *Row, _ *column.Layout) string { return r.Outside }).Only(false, true),
	column.Words("file", "file", func(r *Row, _ *column.Layout) string { return r.File }).Shortened(),
	{Name: "field:", Field: func(r *Row, key string) string { v, _ := nav.Get(r.Fields, key); return v }},
}

// Side says on which side of its line the position lies; "" where that is not known.
func (r *Row) Side() string {
	switch {
	case r.On == nil || !r.On.Aside:
		return ""
	case r.On.Right:
		return "right"
	}
	return "left"
}

// JSON is a hit as JSON has it.
type JSON struct {
	Of       string   `json:"of,omitempty"`
	Kind     string   `json:"kind"`
	Name     string   `json:"name,omitempty"`
	Group    string   `json:"group,omitempty"`
	File     string   `json:"file,omitempty"`
	Distance float64  `json:"distance_m"`
	Course   *float64 `json:"course_true,omitempty"`
	Magnetic *float64 `json:"course_magnetic,omitempty"`
	Lat      float64  `json:"lat"`
	Lon      float64  `json:"lon"`
	Leg      int      `json:"leg,omitempty"`
	Inside   bool     `json:"inside,omitempty"`
	Outside  string   `json:"outside,omitempty"`

	Along  *float64 `json:"along_m,omitempty"` // where on its line the nearest place is
	Off    *float64 `json:"off_m,omitempty"`
	Side   string   `json:"side,omitempty"`
	Time   string   `json:"time,omitempty"`
	Height *float64 `json:"height_m,omitempty"`
}

// Answer is what near answers as JSON.
type Answer struct {
	Near    []JSON   `json:"near"`
	Written []string `json:"written,omitempty"`
}

// NewJSON makes the answer of rows.
func NewJSON(rows []Row) *Answer {
	out := []JSON{}
	for i := range rows {
		r := &rows[i]
		j := JSON{Of: r.Of, Kind: r.Kind.One(), Name: r.Name, Group: r.Group, File: r.File,
			Distance: math.Round(r.Distance*1000) / 1000, Lat: r.Lat, Lon: r.Lon, Leg: r.Leg, Inside: r.Inside,
			Outside: r.Outside}
		if on := r.On; on != nil {
			along, off := math.Round(on.Along*1000)/1000, j.Distance
			j.Along, j.Off, j.Side = &along, &off, r.Side()
			if on.At.HasTime() {
				j.Time = string(on.At.AppendTime(nil))
			}
			if on.At.HasHeight() {
				h := math.Round(on.At.Height()*1000) / 1000
				j.Height = &h
			}
		}
		if !math.IsNaN(r.Course) {
			course := math.Round(r.Course*1000) / 1000
			j.Course = &course
			if !math.IsNaN(r.Declination) {
				magnetic := math.Round(math.Mod(r.Course-r.Declination+720, 360)*1000) / 1000
				j.Magnetic = &magnetic
			}
		}
		out = append(out, j)
	}
	return &Answer{Near: out}
}

// Position is what is asked for: a position, with the name of the waypoint that it is of, its height and its time.
type Position struct {
	Name string
	nav.Point
}

// Same says whether a hit is the waypoint itself that is asked for.
func (p *Position) Same(h *Hit) bool {
	return p.Name != "" && h.Name == p.Name && geodesy.Distance(p.Lat, p.Lon, h.Lat, h.Lon) < 0.5
}
