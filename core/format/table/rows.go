package table

import (
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/figure"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/identity"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// row is one point, or one item, with what is said of it.
type row struct {
	kind    nav.Kind
	whole   *nav.Item // that the point belongs to, or that the row is
	ordinal int       // of that item in its kind, from 1
	of      *worked   // what is worked out of it
	line    string    // its name; "" for a waypoint
	group   string
	number  int
	segment int
	item    *nav.Item
	fields  []nav.Field
	point   *nav.Point    // nil for an item without any
	points  int           // of an item
	parts   [][]nav.Point // of an item that is a row: its points, segments or rings
}

// run is points of a segment that follow one another and differ in nothing but position, height, time and values: the
// first is that of the row.
type run struct {
	row
	points  []nav.Point
	segment *nav.Segment
}

// rows visits every point of the data, or every item. Long runs of points are visited as one where that is asked for.
func rows(d *nav.Dataset, items bool, visit func(*row) error, plain func(*run) error) error {
	if items {
		return itemRows(d, visit)
	}
	none := &nav.Item{}
	of := worked{data: d}
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		of = worked{data: d}
		if err := visit(&row{kind: nav.Waypoints, whole: &w.Item, of: &of, group: w.Group, number: i + 1,
			item: &w.Item, fields: w.Fields, point: &w.Point}); err != nil {
			return err
		}
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		of := &worked{data: d}
		for j := range r.Points {
			w := &r.Points[j]
			if err := visit(&row{kind: nav.Routes, whole: &r.Item, ordinal: i + 1, of: of, line: r.Name,
				group: r.Group, number: j + 1, item: &w.Item, fields: w.Fields, point: &w.Point}); err != nil {
				return err
			}
		}
	}
	for i := range d.Tracks {
		t := &d.Tracks[i]
		of := &worked{data: d}
		n := 0
		for j := range t.Segments {
			s := &t.Segments[j]
			for k := 0; k < len(s.Points); k++ {
				n++
				r := row{
					kind:    nav.Tracks,
					whole:   &t.Item,
					ordinal: i + 1,
					of:      of,
					line:    t.Name,
					group:   t.Group,
					number:  n,
					segment: j + 1,
					item:    none,
					point:   &s.Points[k],
				}
				item := s.Item(&s.Points[k])
				if plain != nil && item == nil {
					end := k + 1
					for end < len(s.Points) && s.Item(&s.Points[end]) == nil {
						end++
					}
					if err := plain(&run{r, s.Points[k:end], s}); err != nil {
						return err
					}
					n, k = n+end-k-1, end-1
					continue
				}
				r.fields = s.Values(nil, &s.Points[k])
				if item != nil {
					r.item = item
					r.fields = append(r.fields, item.Fields...)
				}
				if err := visit(&r); err != nil {
					return err
				}
			}
		}
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		of := &worked{data: d}
		n := 0
		for j, ring := range a.Rings() {
			for k := range ring {
				n++
				if err := visit(&row{kind: nav.Areas, whole: &a.Item, ordinal: i + 1, of: of, line: a.Name,
					group: a.Group, number: n, segment: j + 1, item: none,
					point: &ring[k]}); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// itemRows visits every item. The position of a line is that of its first point.
func itemRows(d *nav.Dataset, visit func(*row) error) error {
	for _, it := range figure.Items(d) {
		r := &row{kind: it.Kind, whole: it.Item, of: &worked{data: d, Item: it}, group: it.Item.Group, number: it.Number,
			item: it.Item, fields: it.Item.Fields, points: it.Points()}
		if p, ok := it.First(); ok {
			r.point = &p
		}
		if it.Kind != nav.Waypoints {
			r.parts = it.Lines()
		}
		if err := visit(r); err != nil {
			return err
		}
	}
	return nil
}

// place gives the coordinates of a row in a system: longitude and latitude without one, and for a table of UTM in the
// row's own zone.
func (r *row) place(s *crs.System, utm bool) (east, north float64, ok bool) {
	if r.point == nil {
		return
	}
	if s.WGS84() && utm {
		east, north = geodesy.ZoneOf(r.point.Lat, r.point.Lon).Forward(r.point.Lat, r.point.Lon)
		return east, north, true
	}
	if east, north, ok = s.Forward(r.point.Lat, r.point.Lon); ok && !s.WGS84() && s.Southing() {
		east, north = -east, -north
	}
	return
}

func parsed(text []byte) any {
	v, err := strconv.ParseFloat(string(text), 64)
	if err != nil || math.IsNaN(v) {
		return nil
	}
	return quantity{text: string(text), value: v}
}

// rounded is a coordinate to a tenth of a millimetre, or of a degree to 10⁻⁹.
func rounded(v float64, decimals int) any { return parsed(decimal.AppendShort(nil, v, decimals)) }

// value gives what a cell holds: a number, a time, a text, or nil.
func (r *row) value(holds string, t *sheet) any {
	switch holds {
	case "kind":
		return r.kind.One()
	case "name":
		return r.item.Name
	case "group":
		return r.group
	case "line":
		return r.line
	case "item":
		if r.ordinal > 0 {
			return float64(r.ordinal)
		}
		return nil
	case "number":
		return float64(r.number)
	case "segment":
		if r.segment > 0 {
			return float64(r.segment)
		}
		return nil
	case "symbol":
		return r.item.Style.Symbol
	case "colour":
		return r.item.Style.Colour.String()
	case "description":
		return r.item.Desc
	case "comment":
		return r.item.Comment
	case "item id":
		switch {
		case r.item == r.whole && t.asked:
			return r.figures().Value(holds)
		case identity.Local(r.item.ID):
			return nil
		}
		return r.item.ID
	case "file", "folder":
		return r.figures().Value(holds)
	case "type":
		return r.item.Type
	case "wkt", "wkb":
		return r.geometry(t, holds == "wkb")
	case "lat", "lon", "easting", "northing", "zone", "position", "height", "time":
		if r.point == nil {
			return nil
		}
		return r.ofPoint(holds, t)
	case "speed", "course", "depth":
		if v := r.field(holds, t.keys); v != nil || holds == "depth" || r.states(holds) {
			return v
		}
		return r.worked(holds, t)
	}
	if strings.HasPrefix(holds, blankPrefix) {
		return nil
	}
	if t.isWorked(holds) {
		return r.worked(holds, t)
	}
	if text, ok := strings.CutPrefix(holds, titledPrefix); ok {
		return r.titled(text, t)
	}
	return r.field(strings.TrimPrefix(holds, "field:"), t.keys)
}

// ofPoint gives what a cell has of the point of a row.
func (r *row) ofPoint(holds string, t *sheet) any {
	p := r.point
	switch holds {
	case "easting", "northing":
		e, n, ok := r.place(t.system, true)
		if !ok {
			return nil
		}
		if holds == "northing" {
			e = n
		}
		return rounded(e, 4)
	case "zone":
		u := geodesy.ZoneOf(p.Lat, p.Lon)
		return strconv.Itoa(u.Zone) + map[bool]string{true: " south", false: " north"}[u.South]
	case "position":
		return t.Notation.Format(p.Lat, p.Lon)
	case "height":
		if !p.HasHeight() {
			return nil
		}
		return parsed(p.AppendHeight(nil))
	case "time":
		if !p.HasTime() {
			return nil
		}
		return stamp{p.UnixNano(), p.TimeMark(), t.clock()}
	}
	return r.angle(holds, &t.Table, t.system)
}

// stamp is a time as precise as its source gave it.
type stamp struct {
	ns   int64
	mark instant.Mark
	zone *time.Location // nil is UTC
}

// quantity is a text that is a number as well. One that its source calls a text is no number in a workbook.
type quantity struct {
	text   string
	value  float64
	isText bool
}

// field gives the value of a field: a quantity where it is one.
func (r *row) field(key string, keys *format.FieldKeys) any {
	i := slices.IndexFunc(r.fields, func(f nav.Field) bool { return f.Key == key })
	if keys.Clash(r.fields) {
		if k := slices.Index(keys.Names(r.fields), key); k >= 0 {
			i = k
		}
	}
	if i < 0 || r.fields[i].Literal && r.fields[i].Value == "null" {
		return nil
	}
	f := &r.fields[i]
	if v, ok := decimal.Exact(f.Value); ok {
		return quantity{f.Value, v, f.Text}
	}
	return f.Value
}

// isQuantity says whether a text is a number as well. One with zeros in front is a name, and one of more digits than a
// float64 holds is a text.
func isQuantity(text string) bool {
	_, ok := decimal.Exact(text)
	return ok
}

// angle is a latitude or longitude: a number, or a text in the notation of the table.
func (r *row) angle(holds string, t *format.Table, s *crs.System) any {
	if r.point == nil {
		return nil
	}
	p := *r.point
	if !s.WGS84() && !s.Projected() {
		lon, lat, ok := s.Forward(p.Lat, p.Lon)
		if !ok {
			return nil
		}
		if holds == "lat" {
			return rounded(lat, 9)
		}
		return rounded(lon, 9)
	}
	switch {
	case (t.Notation == geodesy.Minutes || t.Notation == geodesy.SecondsOfArc || t.Notation == geodesy.FlightPlan) &&
		!slices.ContainsFunc(t.Columns, func(c format.Column) bool { return c.Holds == "position" }):
		if holds == "lat" {
			return t.Notation.FormatLat(p.Lat)
		}
		return t.Notation.FormatLon(p.Lon)
	case holds == "lat":
		return parsed(p.AppendLat(nil))
	}
	return parsed(p.AppendLon(nil))
}

// cellText writes a value for CSV. A text that a spreadsheet would take for a formula gets an apostrophe in front, and
// so does one that looks as if it had got one.
func cellText(v any) string {
	switch v := v.(type) {
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	case quantity:
		return v.text
	case stamp:
		return string(instant.AppendIn(nil, v.ns, v.mark, v.zone))
	case string:
		return format.FormulaSafe(v)
	}
	return ""
}

// fieldText is cellText of a field.
func fieldText(text string) string {
	if isQuantity(text) {
		return text
	}
	return format.FormulaSafe(text)
}
