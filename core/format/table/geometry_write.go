package table

import (
	"encoding/hex"
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// geometry writes where a row is as well-known text or, in hexadecimal digits, binary: all of an item where rows are
// items, with the number of a system before it that is not WGS 84. It is nil where there is no position.
func (r *row) geometry(t *sheet, binary bool) any {
	parts := r.parts
	if len(parts) == 0 && r.point != nil {
		parts = [][]nav.Point{{*r.point}}
	}
	f, kind := r.feature(t, parts)
	if f == nil {
		return nil
	}
	number := 0
	if !t.system.WGS84() {
		number = t.system.Code
	}
	if binary {
		return strings.ToUpper(hex.EncodeToString(wkb.WithSystem(wkb.Append(nil, f, kind), number)))
	}
	text := string(wkb.AppendText(nil, f, kind))
	if number != 0 {
		text = fmt.Sprintf("SRID=%d;%s", number, text)
	}
	return text
}

// feature gives the parts of an item as a layer has them, cut at the antimeridian, and the type of its geometry.
func (r *row) feature(t *sheet, parts [][]nav.Point) (*layer.Feature, uint32) {
	degrees := t.system.WGS84() || !t.system.Projected()
	f := &layer.Feature{}
	kind := uint32(wkb.Point)
	switch {
	case r.kind == nav.Areas && r.parts != nil:
		polygons := [][][]nav.Point{parts}
		if degrees {
			polygons = shape.CutArea(parts)
		}
		for _, rings := range polygons {
			for i, ring := range rings {
				f.Parts, f.Outer = append(f.Parts, r.positions(t, ring)), append(f.Outer, i == 0)
				last := len(f.Parts) - 1
				f.Parts[last] = append(f.Parts[last], f.Parts[last][0])
				if (layer.SignedArea(f.Parts[last]) > 0) != (i == 0) { // OGC 06-103r4, 6.1.11
					slices.Reverse(f.Parts[last])
				}
			}
		}
		kind = wkb.Polygon
		if len(polygons) > 1 {
			kind = wkb.MultiPolygon
		}
	case r.kind != nav.Waypoints && r.parts != nil && len(parts[0]) > 1:
		for _, part := range parts {
			pieces := [][]nav.Point{part}
			if degrees {
				pieces = shape.CutLine(part)
			}
			for _, piece := range pieces {
				if len(piece) > 1 {
					f.Parts = append(f.Parts, r.positions(t, piece))
				}
			}
		}
		kind = wkb.Line
		if len(f.Parts) > 1 {
			kind = wkb.MultiLine
		}
	case len(parts) > 0 && len(parts[0]) > 0:
		f.Parts = [][]layer.Position{r.positions(t, parts[0][:1])}
	}
	if len(f.Parts) == 0 || slices.ContainsFunc(f.Parts, func(part []layer.Position) bool { return part == nil }) {
		return nil, 0
	}
	return f, kind
}

// positions gives points in the system of the table; nil where one is beyond it.
func (r *row) positions(t *sheet, points []nav.Point) []layer.Position {
	out := make([]layer.Position, 0, len(points)+1)
	for i := range points {
		one := row{point: &points[i]}
		x, y, ok := one.place(t.system, false)
		if !ok {
			return nil
		}
		p := layer.Position{X: x, Y: y, Z: math.NaN()}
		if points[i].HasHeight() {
			p.Z = points[i].Height()
		}
		out = append(out, p)
	}
	return out
}
