package geojson

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"github.com/go-json-experiment/json/jsontext"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// geometry is a geometry's coordinates, whatever its type: points in a row, and where lines and polygons end.
type geometry struct {
	typ    string
	depth  int // 1 for a position, 2 for a list of them, 3 for a list of lines, 4 for one of polygons
	points []nav.Point
	lines  []int // ends
	polys  []int // ends, counted in lines
	east   []int // the points that are at 180 degrees
	exact  map[int]string

	missing format.Missing
}

// geometry reads a geometry object of a feature or a collection.
func (r *reader) geometry(f *feature) error {
	var g geometry
	err := r.members(func(name string) error {
		switch name {
		case "type":
			var err error
			g.typ, err = r.text()
			return err
		case "coordinates":
			return r.coordinates(&g)
		case "geometries":
			return r.elements(func() error { return r.geometry(f) })
		case "bbox":
			return r.SkipValue() // worked out from the data
		}
		return r.skip(name, "a geometry")
	})
	if g.depth > 0 {
		f.geometries = append(f.geometries, g)
	}
	return err
}

func (r *reader) coordinates(g *geometry) error {
	if g.exact != nil {
		return r.fault(r.InputOffset(), "a geometry has coordinates twice")
	}
	r.line.Begin(r.InputOffset())
	g.exact = map[int]string{}
	err := r.nested(g, 0)
	if r.line.Len() > 0 && (len(g.lines) == 0 || g.lines[len(g.lines)-1] < r.line.Len()) {
		g.lines = append(g.lines, r.line.Len())
	}
	if len(g.polys) == 0 || g.polys[len(g.polys)-1] < len(g.lines) {
		g.polys = append(g.polys, len(g.lines))
	}
	g.points = r.line.Take()
	return err
}

// nested reads the array that comes next: a position when it holds numbers, a list otherwise.
func (r *reader) nested(g *geometry, level int) error {
	if level > 4 {
		return r.fault(r.InputOffset(), "coordinates are nested too deeply for a geometry")
	}
	numbers := 0
	var store [96]byte
	var parts [3][]byte
	at := r.InputOffset()
	inner := false
	err := r.elements(func() error {
		if numbers == 0 && !inner {
			at = r.InputOffset() - 1 // where the array begins
		}
		if r.PeekKind() == '[' {
			inner = true
			if g.depth == level+2 {
				return r.further(g, level+1)
			}
			return r.nested(g, level+1)
		}
		v, err := r.ReadValue()
		if err != nil {
			return err
		}
		if numbers < 3 {
			from := 0
			if numbers > 0 {
				from = len(parts[0]) + len(parts[1])
			}
			n := copy(store[from:], v)
			parts[numbers] = store[from : from+n : from+n]
		}
		numbers++
		return nil
	})
	if err != nil {
		return err
	}
	switch {
	case inner && numbers > 0:
		return r.fault(at, "numbers and lists are mixed in coordinates")
	case numbers > 0:
		g.depth = max(g.depth, level+1)
		r.position(g, parts, numbers, at)
	case inner:
		r.endList(g, level)
	}
	return nil
}

// further reads an array where positions stand, as one value: a position of numbers alone, or else any.
func (r *reader) further(g *geometry, level int) error {
	v, err := r.ReadValue()
	if err != nil {
		return err
	}
	var p nav.Point
	if n := format.PlainPosition(v[1:], ',', nav.AboveEllipsoid, &p); r.system == nil && n > 0 && v[1+n] == ']' {
		*r.line.Add(r.InputOffset(), r.size) = p
		return nil
	}
	at := r.InputOffset() - int64(len(v))
	if parts, numbers := split(v); numbers > 0 {
		r.position(g, parts, numbers, at)
		return nil
	}
	whole, base := r.Decoder, r.base
	r.Decoder, r.base = jsontext.NewDecoder(bytes.NewReader(v)), at
	err = r.nested(g, level)
	r.Decoder, r.base = whole, base
	return err
}

// split gives the first three numbers of an array and how many it has; none where it has anything else.
func split(array []byte) (parts [3][]byte, numbers int) {
	from := 1
	for i := 1; i < len(array); i++ {
		switch c := array[i]; {
		case c == ',' || c == ']':
			part := bytes.TrimSpace(array[from:i])
			if len(part) == 0 {
				return parts, 0
			}
			if numbers < len(parts) {
				parts[numbers] = part
			}
			numbers++
			from = i + 1
		case c > '9' && c != 'e' && c != 'E' || c == '"':
			return parts, 0
		}
	}
	return parts, numbers
}

// endList marks where a line or a polygon ends; g.depth is known once the first position was read.
func (r *reader) endList(g *geometry, level int) {
	switch g.depth - level {
	case 2:
		g.lines = append(g.lines, r.line.Len())
	case 3:
		g.polys = append(g.polys, len(g.lines))
	}
}

func (r *reader) position(g *geometry, parts [3][]byte, numbers int, at int64) {
	p := r.line.Add(r.InputOffset(), r.size)
	exact, why := "", "has a longitude without a latitude"
	r.placed = true
	switch {
	case numbers >= 2 && r.system != nil:
		why = r.inSystem(p, parts[0], parts[1])
	case numbers >= 2:
		exact, why = format.SetPosition(p, parts[1], parts[0])
	}
	if why == "" && numbers >= 3 && string(parts[2]) != "null" {
		if h, digits, ok := decimal.Parse(parts[2]); ok {
			p.SetHeight(h, digits, nav.AboveEllipsoid)
		} else {
			why = fmt.Sprintf("height %q is not a number", parts[2])
		}
	}
	line, col := 0, 0
	if why != "" || numbers > 3 {
		line, col = r.place.at(at)
	}
	if why != "" {
		r.line.Drop()
		g.missing = append(g.missing, r.line.Len()+len(g.missing))
		raw := string(parts[0])
		for _, b := range parts[1:min(numbers, 3)] {
			raw += "," + string(b)
		}
		x := nav.Reject{Kind: nav.Tracks, Number: r.line.Len() + 1, Raw: raw, Why: why, Line: line, Col: col}
		if g.depth == 1 {
			x.Kind, x.Number = nav.Waypoints, 0
		}
		if last := r.line.Last(); last != nil {
			x.Near, x.HasNear = *last, true
		}
		r.data.Rejects = append(r.data.Rejects, x)
		return
	}
	if r.system == nil && format.IsEast(p, parts[0]) {
		g.east = append(g.east, r.line.Len()-1)
	}
	if numbers > 3 {
		r.data.Note(nav.ProblemLeftOut, "numbers after the height of a position have no meaning and were left out", line,
			col)
	}
	if exact != "" {
		g.exact[r.line.Len()-1] = exact
	}
}

// segment gives the points from one index to another, with what else is known of them by their numbers among all
// positions, those that can't be used included.
func (g *geometry) segment(from, to int, f *feature) nav.Segment {
	s := nav.Segment{Points: g.points[from:to:to]}
	f.points.segment(&s, func(i int) int { return g.missing.Number(from + i) })
	for i := from; i < to; i++ {
		p := &g.points[i]
		if exact := g.exact[i]; exact != "" {
			d := nav.Detail{Exact: exact}
			if said := s.Detail(p); said != nil {
				d.Values, d.Item = said.Values, said.Item
			}
			s.Attach(p, d)
		}
		number := g.missing.Number(i)
		if number < f.times.Len() {
			p.SetTime(f.times.At(number).NS, f.times.At(number).Mark)
		}
	}
	return s
}

// tellLeft notes what our own member says of positions that are not there.
func (r *reader) tellLeft(f *feature) {
	positions := 0
	for i := range f.geometries {
		if g := &f.geometries[i]; strings.HasSuffix(g.typ, "LineString") {
			positions = max(positions, len(g.points)+len(g.missing))
		}
	}
	left := max(0, f.points.list.Len()-f.points.used) + max(0, f.times.Len()-positions)
	if left > 0 {
		line, col := r.here()
		r.data.Note(nav.ProblemLeftOut, format.NoSuchPosition, line, col).Count += left - 1
	}
}

func (r *reader) items(f *feature, cut bool) {
	d := r.data
	if !cut { // what is behind the cut may have them
		defer r.tellLeft(f)
	}
	of := func(kind string) bool {
		return slices.ContainsFunc(f.geometries, func(g geometry) bool { return strings.HasSuffix(g.typ, kind) })
	}
	if len(f.geometries) > 1 {
		line, _ := r.here()
		format.Mixed(d, line, of("Point"), of("LineString"), of("Polygon"))
	}
	for gi := range f.geometries {
		g := &f.geometries[gi]
		for i := range d.Rejects { // those of this feature did not know its name yet
			if x := &d.Rejects[i]; x.Name == "" {
				x.Name = f.Name
			}
		}
		starts := append([]int{0}, g.lines...)
		whole := r.wholes.Find(f.partOf)
		switch g.typ {
		case "Point", "MultiPoint":
			if whole == nil && len(g.points) > 1 {
				whole = &nav.Whole{}
			}
			for i := range g.points {
				w := nav.Waypoint{Item: f.Item, Point: g.points[i], Exact: g.exact[i]}
				w.Whole = whole
				if f.when.HasTime() {
					w.SetTime(f.when.UnixNano(), f.when.TimeMark())
				}
				if f.when.HasHeight() && !w.HasHeight() {
					w.SetHeight(f.when.Height(), f.when.HeightPrecision(), f.when.VerticalDatum())
				}
				d.Waypoints = append(format.Room(d.Waypoints, r.InputOffset(), r.size), w)
			}
		case "LineString", "MultiLineString":
			t := nav.Track{Item: f.untimed()}
			t.Whole = whole
			for i, end := range g.lines {
				t.Segments = append(t.Segments, g.segment(starts[i], end, f))
			}
			t.Segments = shape.JoinLines(t.Segments)
			if f.kind == nav.Routes.One() && len(t.Segments) == 1 {
				d.Routes = append(d.Routes, nav.Route{Item: t.Item, Points: t.Segments[0].Waypoints()})
			} else if len(t.Segments) > 0 {
				d.Tracks = append(format.Room(d.Tracks, r.InputOffset(), r.size), t)
			}
		case "Polygon", "MultiPolygon":
			if !cut { // half an outline is none
				r.areas(f, g, starts, whole)
			}
		default:
			if !cut {
				d.Note(nav.ProblemLeftOut, fmt.Sprintf("a geometry of the unknown type %q was left out", g.typ), 0, 0)
			}
		}
	}
}

// areas makes an area of each polygon.
func (r *reader) areas(f *feature, g *geometry, starts []int, whole *nav.Whole) {
	var polygons [][][]nav.Point
	first, open := 0, false
	for _, end := range g.polys {
		var rings [][]nav.Point
		for i := first; i < end; i++ {
			from, to := starts[i], g.lines[i]
			var east []int
			for _, at := range g.east {
				if at >= from && at < to {
					east = append(east, at-from)
				}
			}
			ring, isOpen := format.Ring(g.points[from:to:to], east)
			rings, open = append(rings, ring), open || isOpen
		}
		first = end
		if len(rings) > 0 && len(rings[0]) > 0 {
			polygons = append(polygons, rings)
		}
	}
	polygons = format.Polygons(r.data, f.Name, polygons, shape.AntiClock, 0)
	if whole == nil && len(polygons) > 1 {
		whole = &nav.Whole{}
	}
	for _, rings := range polygons {
		a := nav.Area{Item: f.untimed(), Outline: rings[0], Holes: rings[1:], Open: open}
		a.Whole = whole
		r.data.Areas = append(r.data.Areas, a)
	}
}
