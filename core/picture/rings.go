package picture

import (
	"math"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/region"
	"gyrolith/core/shape"
)

// reach visits all points of the data, and those between that long edges of areas need, with the poles in them.
func reach(d *nav.Dataset, visit func(lat, lon float64)) {
	const step = 200e3 // metres
	for p := range d.AllPoints() {
		visit(p.Lat, p.Lon)
	}
	for i := range d.Areas {
		a := &d.Areas[i]
		for _, ring := range a.Rings() {
			for _, p := range shape.DenseEdges(ring, step) {
				visit(p.Lat, p.Lon)
			}
		}
		if pole := 90 * float64(nav.Around(a.Outline)); pole != 0 && region.NewInterior(a).Contains(pole, 0) {
			visit(pole, 0)
		}
	}
}

// bend is how many metres of a line, or of an edge, are straight in the view to a fraction of a pixel: a chord of
// length L is L²/8R off a circle of the earth.
func (v *view) bend() float64 { return math.Sqrt(v.perPx * geodesy.MeanRadius) }

// rings gives what is drawn of an area. Its edges are straight in longitude and latitude, and on a map of the world it
// is cut where that ends.
func (v *view) rings(a *nav.Area) (out [][]nav.Point) {
	if !v.world {
		for _, ring := range a.Rings() {
			out = append(out, shape.DenseEdges(ring, v.bend()))
		}
		return
	}
	var shifted [][]nav.Point
	for _, ring := range a.Rings() {
		moved := make([]nav.Point, len(ring))
		for i := range ring {
			moved[i] = nav.At(ring[i].Lat, ring[i].Lon-v.lon0)
		}
		shifted = append(shifted, moved)
	}
	const edge = 180 - 1e-9 // so that what is drawn at the edge stays on its side
	for _, part := range shape.CutArea(shifted) {
		for _, ring := range part {
			ring = shape.DenseEdges(ring, v.bend())
			for i := range ring {
				ring[i].Lon = v.lon0 + max(min(ring[i].Lon, edge), -edge)
			}
			out = append(out, ring)
		}
	}
	return
}
