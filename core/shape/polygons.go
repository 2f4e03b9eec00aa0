package shape

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"github.com/peterstace/simplefeatures/geom"
	"golang.org/x/sync/errgroup"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// Union gives what any of the polygons covers. Polygons are sound (see Mended); edges are straight in longitude and
// latitude, and the result has their corners as they were.
func Union(set []Polygon) ([]Polygon, error) {
	return overlaid(func(g []geom.Geometry) (geom.Geometry, error) { return g[0], nil }, set)
}

// Intersection gives what both sets of polygons cover.
func Intersection(a, b []Polygon) ([]Polygon, error) {
	return overlaid(func(g []geom.Geometry) (geom.Geometry, error) { return geom.Intersection(g[0], g[1]) }, a, b)
}

// Difference gives what polygons cover and others don't. Of many others those that lie wholly inside of a single
// polygon become its holes as they are.
func Difference(a, b []Polygon) ([]Polygon, error) {
	var holes [][]nav.Point
	if len(a) == 1 && len(b) > manyHoles {
		united, err := Union(b)
		if err != nil {
			return nil, err
		}
		holes, b = inner(a[0], united)
	}
	out, err := overlaid(func(g []geom.Geometry) (geom.Geometry, error) { return geom.Difference(g[0], g[1]) }, a, b)
	if err != nil || len(holes) == 0 {
		return out, err
	}
	index := region.New(areasOf(out), func(*nav.Area) bool { return true })
	for _, hole := range holes {
		index.Holding(hole[0].Lat, hole[0].Lon, func(i int) bool { out[i] = append(out[i], hole); return false })
	}
	return out, nil
}

// manyHoles is of how many others it is worth to look for holes.
const manyHoles = 50

// inner parts the outlines of what lies inside of a polygon, and meets none of its edges, from all others that may.
func inner(polygon Polygon, set []Polygon) (holes [][]nav.Point, rest []Polygon) {
	index := region.New(areasOf([]Polygon{polygon}), func(*nav.Area) bool { return true })
	var each []Polygon
	for _, ring := range polygon {
		each = append(each, Polygon{ring})
	}
	own := region.New(areasOf(each), func(*nav.Area) bool { return true })
	var parts []float64
	for _, rings := range set {
		ring := rings[0]
		parts = parts[:0]
		for i := range ring {
			parts = index.Straight(&ring[i], &ring[(i+1)%len(ring)], parts)
		}
		if len(rings) == 1 && len(parts) == 0 && nav.Around(ring) == 0 && index.Holds(0, ring[0].Lat, ring[0].Lon) &&
			!own.AnyBegins(ring) {
			holes = append(holes, ring)
			continue
		}
		rest = append(rest, rings)
	}
	return
}

func areasOf(set []Polygon) (out []nav.Area) {
	for _, rings := range set {
		out = append(out, nav.Area{Outline: rings[0], Holes: rings[1:]})
	}
	return
}

// overlaid computes with the unions of sets of polygons.
func overlaid(compute func([]geom.Geometry) (geom.Geometry, error), sets ...[]Polygon) ([]Polygon, error) {
	c := chartOf(sets...)
	flat := make([][]Polygon, len(sets))
	for i, set := range sets {
		flat[i] = c.to(set)
	}
	return c.overlaid(compute, flat)
}

func (c *chart) overlaid(compute func([]geom.Geometry) (geom.Geometry, error), sets [][]Polygon) (
	[]Polygon, error) {
	var far farRuns
	if len(sets) == 2 && len(sets[0]) > 0 && len(sets[1]) > 0 {
		boxes := [2]region.Span{boxOf(sets[1]), boxOf(sets[0])}
		sets = slices.Clone(sets)
		for i, box := range boxes {
			if len(sets[i]) == 1 {
				short, runs := withoutFar(sets[i][0], box)
				sets[i], far = []Polygon{short}, far.with(runs)
			}
		}
	}
	var g []geom.Geometry
	for _, set := range sets {
		one, err := united(geometries(set))
		if err != nil {
			return nil, fmt.Errorf("the areas can't be computed with: %w", err)
		}
		g = append(g, one)
	}
	result, err := compute(g)
	if err != nil {
		return nil, fmt.Errorf("the areas can't be computed with: %w", err)
	}
	return c.from(far.restore(c.plain(polygonsOf(result)))), nil
}

// plain leaves out corners that the computing put on edges and that turn nothing.
func (c *chart) plain(set []Polygon) []Polygon {
	const straight = 1e-11 // degrees, a micrometre
	for _, rings := range set {
		for k, ring := range rings {
			out := ring[:0:0]
			for i := range ring {
				p, m, q := &ring[(i+len(ring)-1)%len(ring)], &ring[i], &ring[(i+1)%len(ring)]
				if n := len(out); n > 0 {
					p = &out[n-1]
				}
				dx, dy := q.Lon-p.Lon, q.Lat-p.Lat
				off := math.Abs(dx*(m.Lat-p.Lat)-dy*(m.Lon-p.Lon)) / math.Hypot(dx, dy)
				if _, known := c.corners[placeOf(m)]; known || !(off < straight) || math.Abs(m.Lon) == 180 {
					out = append(out, *m)
				}
			}
			if len(out) > 2 {
				rings[k] = out
			}
		}
	}
	return set
}

// united gives the union of geometries: of those together that may meet.
func united(g []geom.Geometry) (geom.Geometry, error) {
	if len(g) < 2 {
		return slices.Concat(g, []geom.Geometry{{}})[0], nil
	}
	boxes := make([]region.Span, len(g))
	for i := range g {
		low, high, _ := g[i].Envelope().MinMaxXYs()
		boxes[i] = region.Span{West: low.X, South: low.Y, East: high.X, North: high.Y}
	}
	of := make([]int, len(g)) // the first of those that it is together with
	for i := range of {
		of[i] = i
	}
	first := func(i int) int {
		for of[i] != i {
			of[i] = of[of[i]]
			i = of[i]
		}
		return i
	}
	region.Pairs(boxes, func(i, j int) bool {
		a, b := first(i), first(j)
		of[max(a, b)] = min(a, b)
		return true
	})
	together := make([][]geom.Geometry, len(g))
	for i := range g {
		together[first(i)] = append(together[first(i)], g[i])
	}
	var parts []geom.Polygon
	for _, list := range together {
		if len(list) == 0 {
			continue
		}
		one, err := halved(list, 0)
		if err != nil {
			return geom.Geometry{}, err
		}
		for _, part := range one.Dump() {
			if part.IsPolygon() {
				parts = append(parts, part.MustAsPolygon())
			}
		}
	}
	return geom.NewMultiPolygon(parts).AsGeometry(), nil
}

// halved gives the union of geometries, neighbours first, and halves of them side by side. It goes two by two, since
// the union of a whole collection is not right where one covers a hole of another.
func halved(g []geom.Geometry, depth int) (geom.Geometry, error) {
	switch {
	case len(g) == 1:
		return g[0], nil
	case len(g) == 2:
		return geom.Union(g[0], g[1])
	}
	slices.SortFunc(g, func(a, b geom.Geometry) int {
		p, _, _ := a.Envelope().MinMaxXYs()
		q, _, _ := b.Envelope().MinMaxXYs()
		if depth%2 == 0 {
			return cmp.Or(cmp.Compare(p.X, q.X), cmp.Compare(p.Y, q.Y))
		}
		return cmp.Or(cmp.Compare(p.Y, q.Y), cmp.Compare(p.X, q.X))
	})
	var halves [2]geom.Geometry
	var group errgroup.Group
	for i, part := range [2][]geom.Geometry{g[:len(g)/2], g[len(g)/2:]} {
		group.Go(func() (err error) { halves[i], err = halved(part, depth+1); return })
	}
	if err := group.Wait(); err != nil {
		return geom.Geometry{}, err
	}
	return geom.Union(halves[0], halves[1])
}

func geometries(set []Polygon) (out []geom.Geometry) {
	for _, rings := range set {
		var lines []geom.LineString
		for _, ring := range rings {
			xy := make([]float64, 0, 2*len(ring)+2)
			for i := range ring {
				xy = append(xy, ring[i].Lon, ring[i].Lat)
			}
			xy = append(xy, xy[:2]...)
			lines = append(lines, geom.NewLineString(geom.NewSequence(xy, geom.DimXY)))
		}
		if len(lines) > 0 {
			out = append(out, geom.NewPolygon(lines).AsGeometry())
		}
	}
	return
}

// polygonsOf gives the polygons of a result; points and lines where areas only touch are none.
func polygonsOf(g geom.Geometry) (out []Polygon) {
	for _, part := range g.Dump() {
		if !part.IsPolygon() {
			continue
		}
		var rings Polygon
		for _, line := range part.MustAsPolygon().DumpRings() {
			seq := line.Coordinates()
			ring := make([]nav.Point, 0, seq.Length())
			for i := range seq.Length() - 1 {
				xy := seq.GetXY(i)
				ring = append(ring, nav.Point{Lat: xy.Y, Lon: xy.X})
			}
			rings = append(rings, ring)
		}
		out = append(out, rings)
	}
	return
}
