package table

import (
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// geometry is what a cell holds: well-known text or hexadecimal well-known binary (OGC 06-103r4, clauses 7 and 8),
// either with the number of a system as a widespread extension has it, or a geometry of GeoJSON (RFC 7946).
type geometry struct {
	*layer.Shape
	digits  [2]decimal.Precision // of x and y of a point in well-known text
	system  int                  // an EPSG number; 0 is not said
	geojson bool
}

var (
	wellKnownText = pattern.New(
		`(?i)^(?:SRID=(\d+);)?\s*(POINT|LINESTRING|POLYGON|MULTI\w+|GEOMETRYCOLLECTION)\s*(?:Z|M|ZM)?\s*(?:\(|EMPTY)`)
	pointNumbers = pattern.New(`(?i)POINT[^(]*\(\s*(\S+)\s+([^\s)]+)`)
	wellKnownHex = pattern.New(`^(?:0[01])[0-9A-Fa-f]{40,}$`)
)

// looksGeometric says whether a cell holds a geometry in one of the forms.
func looksGeometric(cell string) bool {
	cell = strings.TrimSpace(cell)
	return wellKnownText.MatchString(cell) || wellKnownHex.MatchString(cell) ||
		strings.HasPrefix(cell, "{") && strings.Contains(cell, `"coordinates"`)
}

// parseGeometry reads the geometry of a cell.
func parseGeometry(cell string) (g *geometry, err error) {
	cell = strings.TrimSpace(cell)
	g = &geometry{}
	switch {
	case strings.HasPrefix(cell, "{"):
		g.geojson = true
		g.Shape, err = jsonShape(cell)
		return g, err
	case wellKnownHex.MatchString(cell):
		b, err := hex.DecodeString(cell)
		if err != nil {
			return nil, fmt.Errorf("is not well-known binary: %w", err)
		}
		shape, head, err := wkb.Parse(b)
		g.Shape, g.system = shape, head.System
		return g, err
	}
	if g.Shape, g.system, err = wkb.ParseText(cell); err != nil {
		return nil, err
	}
	if m := pointNumbers.FindStringSubmatch(cell); m != nil && len(g.Points) == 1 {
		for i := range g.digits {
			_, g.digits[i], _ = decimal.Parse([]byte(m[1+i]))
		}
	}
	return g, nil
}

// jsonShape reads a geometry of GeoJSON.
func jsonShape(cell string) (*layer.Shape, error) {
	var in struct {
		Type        string          `json:"type"`
		Coordinates json.RawMessage `json:"coordinates"`
	}
	if err := json.Unmarshal([]byte(cell), &in); err != nil {
		return nil, fmt.Errorf("is not a GeoJSON geometry: %w", err)
	}
	s := &layer.Shape{}
	position := func(v []float64) layer.Position {
		p := layer.Position{X: math.NaN(), Y: math.NaN(), Z: math.NaN(), M: math.NaN()}
		if len(v) > 1 {
			p.X, p.Y = v[0], v[1]
		}
		if len(v) > 2 {
			p.Z, s.HasZ = v[2], true
		}
		return p
	}
	line := func(vs [][]float64) (out []layer.Position) {
		for _, v := range vs {
			out = append(out, position(v))
		}
		return out
	}
	var point []float64
	var one [][]float64
	var two [][][]float64
	var three [][][][]float64
	to := map[string]any{"Point": &point, "MultiPoint": &one, "LineString": &one, "MultiLineString": &two,
		"Polygon": &two, "MultiPolygon": &three}[in.Type]
	if to == nil {
		return nil, fmt.Errorf("is a %s, which a cell can't store", in.Type)
	}
	if err := json.Unmarshal(in.Coordinates, to); err != nil {
		return nil, fmt.Errorf("is a GeoJSON geometry whose coordinates can't be read: %w", err)
	}
	switch in.Type {
	case "Point":
		s.Points = line([][]float64{point})
	case "MultiPoint":
		s.Points = line(one)
	case "LineString":
		s.Lines = append(s.Lines, line(one))
	case "Polygon":
		three = append(three, two)
	case "MultiLineString":
		for _, part := range two {
			s.Lines = append(s.Lines, line(part))
		}
	}
	for _, rings := range three {
		var polygon [][]layer.Position
		for _, ring := range rings {
			polygon = append(polygon, line(ring))
		}
		s.Polygons = append(s.Polygons, polygon)
	}
	return s, nil
}

// placeGeometry gives a row the place of the geometry in a cell, and says why it can't be used. One that is more than a
// point waits until the rest of the row is read.
func (r *reader) placeGeometry(w *nav.Waypoint, cell string) string {
	g, err := parseGeometry(cell)
	if err != nil {
		return err.Error()
	}
	system := r.opt.System
	if g.system != 0 && g.system != 4326 {
		if system, err = crs.Find(strconv.Itoa(g.system)); err != nil {
			return "its coordinate system is not known: " + err.Error()
		}
	}
	if g.Empty() {
		return "has no geometry"
	}
	if len(g.Points) != 1 || len(g.Lines)+len(g.Polygons) > 0 || g.HasM {
		r.shape, r.shapeSystem = g, system
		return ""
	}
	p := g.Points[0]
	if math.IsNaN(p.X+p.Y) || math.IsInf(p.X+p.Y, 0) {
		return "has no geometry"
	}
	lat, lon, ok := p.Y, p.X, true
	if !system.WGS84() {
		if lat, lon, ok = system.Inverse(p.X, p.Y); !ok {
			return fmt.Sprintf("is out of range for %v", system)
		}
		g.digits = [2]decimal.Precision{}
	}
	if !nav.Usable(lat, lon) {
		return fmt.Sprintf("latitude %v and longitude %v are not a position in degrees", lat, lon)
	}
	w.Point = nav.At(lat, lon)
	w.LonPrecision, w.LatPrecision = g.digits[0], g.digits[1]
	if g.HasZ && !math.IsNaN(p.Z) && math.Abs(p.Z) < 1e7 {
		w.SetHeight(p.Z, 0, g.above())
	}
	return ""
}

// above is what heights of a geometry are above (RFC 7946, 3.1.1).
func (g *geometry) above() nav.VerticalDatum {
	if g.geojson {
		return nav.AboveEllipsoid
	}
	return nav.DatumUnstated
}

// shaped makes items of the row that was read last, the last waypoint of the dataset, whose geometry is more than a
// point.
func (r *reader) shaped(w *nav.Waypoint, cells [][]byte, line int) {
	made := &nav.Dataset{}
	var titles, kind []string
	if r.kind >= 0 { // whether a line is a route
		titles, kind = []string{"kind"}, []string{text(at(cells, r.kind))}
	}
	b := layer.NewBuilder(made, r.opt, r.shapeSystem, titles, make([]bool, len(titles)))
	b.Winding = layer.AnyWay
	b.Feature(r.shape.Shape, kind, line)
	over := r.shape.above()
	for p := range made.AllPoints() {
		if p.HasHeight() {
			p.SetHeight(p.Height(), p.HeightPrecision(), over)
		}
	}
	item := w.Item
	made.Each(func(_ nav.Kind, it *nav.Item) {
		whole, own := it.Whole, it.Fields
		*it = item
		it.Fields, it.Whole = slices.Concat(item.Fields, own), whole
	})
	r.shape = nil
	r.d.Waypoints = r.d.Waypoints[:len(r.d.Waypoints)-1]
	points := made.Waypoints
	made.Waypoints = nil
	r.d.Merge(made)
	for i := range points {
		r.d.Waypoints = append(r.d.Waypoints, points[i])
		r.take(&r.d.Waypoints[len(r.d.Waypoints)-1], cells, line)
	}
}
