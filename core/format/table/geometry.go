package table

import (
	"encoding/hex"
	"encoding/json"
	"fmt"
	"math"
	"strconv"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/format/wkb"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// geometry is a point as a cell holds it: well-known text or hexadecimal well-known binary (OGC 06-103r4, clauses 7 and
// 8), either with the number of a system as a widespread extension has it, or a geometry of GeoJSON (RFC 7946).
type geometry struct {
	x, y, z float64
	digits  [2]decimal.Precision // of x and y
	hasZ    bool
	system  int // an EPSG number; 0 is not said
	geojson bool
}

var (
	wellKnownText = pattern.New(
		`(?i)^(?:SRID=(\d+);)?\s*(POINT|LINESTRING|POLYGON|MULTI\w+|GEOMETRYCOLLECTION)\s*` +
			`(?:Z|M|ZM)?\s*(?:\(|EMPTY)`,
	)
	pointText    = pattern.New(`(?i)^(?:SRID=\d+;)?\s*POINT\s*(Z|M|ZM)?\s*\(\s*([^()]*?)\s*\)$`)
	wellKnownHex = pattern.New(`^(?:0[01])[0-9A-Fa-f]{40,}$`)
)

// looksGeometric says whether a cell holds a geometry in one of the forms.
func looksGeometric(cell string) bool {
	cell = strings.TrimSpace(cell)
	return wellKnownText.MatchString(cell) || wellKnownHex.MatchString(cell) ||
		strings.HasPrefix(cell, "{") && strings.Contains(cell, `"coordinates"`)
}

// parseGeometry reads the point of a cell.
func parseGeometry(cell string) (*geometry, error) {
	cell = strings.TrimSpace(cell)
	switch {
	case strings.HasPrefix(cell, "{"):
		return parseJSONPoint(cell)
	case wellKnownHex.MatchString(cell):
		return parseBinaryPoint(cell)
	}
	return parseTextPoint(cell)
}

func notAPoint(what string) error {
	return fmt.Errorf("is a %s; a cell can store only a point: write other geometries as a layer", strings.ToLower(what))
}

func parseTextPoint(cell string) (*geometry, error) {
	head := wellKnownText.FindStringSubmatch(cell)
	g := &geometry{}
	g.system, _ = strconv.Atoi(head[1])
	if !strings.EqualFold(head[2], "POINT") {
		return nil, notAPoint(head[2])
	}
	m := pointText.FindStringSubmatch(cell)
	if m == nil {
		return nil, fmt.Errorf("is not a readable point")
	}
	numbers := strings.Fields(m[2])
	if len(numbers) < 2 || len(numbers) > 4 {
		return nil, fmt.Errorf("has %d numbers, but a point has two to four", len(numbers))
	}
	var v [4]float64
	for i, n := range numbers {
		d, digits, ok := decimal.Parse([]byte(n))
		if !ok {
			return nil, fmt.Errorf("%q is not a number", clip(n))
		}
		if v[i] = d; i < 2 {
			g.digits[i] = digits
		}
	}
	g.x, g.y, g.z = v[0], v[1], v[2]
	g.hasZ = len(numbers) > 2 && !strings.EqualFold(m[1], "M")
	return g, nil
}

var geometryTypes = []string{"", "point", "linestring", "polygon", "multipoint", "multilinestring", "multipolygon",
	"collection"}

func parseBinaryPoint(cell string) (*geometry, error) {
	b, err := hex.DecodeString(cell)
	if err != nil {
		return nil, fmt.Errorf("is not well-known binary: %v", err)
	}
	shape, head, err := wkb.Parse(b)
	switch {
	case err != nil:
		return nil, err
	case head.Type >= uint32(len(geometryTypes)):
		return nil, notAPoint(fmt.Sprintf("geometry of the type %d", head.Type))
	case head.Type != wkb.Point:
		return nil, notAPoint(geometryTypes[head.Type])
	case shape.Empty():
		return &geometry{x: math.NaN()}, nil
	}
	p := shape.Points[0]
	return &geometry{x: p.X, y: p.Y, z: p.Z, hasZ: shape.HasZ, system: head.System}, nil
}

func parseJSONPoint(cell string) (*geometry, error) {
	var in struct {
		Type        string          `json:"type"`
		Coordinates json.RawMessage `json:"coordinates"`
	}
	if err := json.Unmarshal([]byte(cell), &in); err != nil {
		return nil, fmt.Errorf("is not a GeoJSON geometry: %v", err)
	}
	if in.Type != "Point" {
		return nil, notAPoint(in.Type)
	}
	var v []float64
	if err := json.Unmarshal(in.Coordinates, &v); err != nil || len(v) < 2 {
		return nil, fmt.Errorf("is a GeoJSON point without two numbers")
	}
	g := &geometry{x: v[0], y: v[1], geojson: true}
	if len(v) > 2 {
		g.z, g.hasZ = v[2], true
	}
	return g, nil
}

// placeGeometry gives a row the place of the geometry in a cell, and says why it can't be used.
func (r *reader) placeGeometry(w *nav.Waypoint, cell string) string {
	g, err := parseGeometry(cell)
	if err != nil {
		return err.Error()
	}
	if math.IsNaN(g.x+g.y) || math.IsInf(g.x+g.y, 0) {
		return "is an empty point"
	}
	system := r.opt.System
	if g.system != 0 && g.system != 4326 {
		if system, err = crs.Find(strconv.Itoa(g.system)); err != nil {
			return "its coordinate system is not known: " + err.Error()
		}
	}
	lat, lon, ok := g.y, g.x, true
	if !system.WGS84() {
		if lat, lon, ok = system.Inverse(g.x, g.y); !ok {
			return fmt.Sprintf("is out of range for %v", system)
		}
		g.digits = [2]decimal.Precision{}
	}
	if !nav.Usable(lat, lon) {
		return fmt.Sprintf("latitude %v and longitude %v are not a position in degrees", lat, lon)
	}
	w.Point = nav.At(lat, lon)
	w.LonPrecision, w.LatPrecision = g.digits[0], g.digits[1]
	if g.hasZ && !math.IsNaN(g.z) && math.Abs(g.z) < 1e7 {
		over := nav.DatumUnstated
		if g.geojson {
			over = nav.AboveEllipsoid // RFC 7946, 3.1.1
		}
		w.SetHeight(g.z, 0, over)
	}
	return ""
}
