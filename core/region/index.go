// Package region asks which areas hold a position, and where lines cross their edges. Edges are straight in longitude
// and latitude (RFC 7946, section 3.1.1); what is near is asked of indexes.
package region

import (
	"slices"

	"github.com/tidwall/rtree"

	"gyrolith/core/nav"
)

// Index is areas, made ready to be asked which of them hold a position. Their rings must stay as they are.
type Index struct {
	areas     []nav.Area
	which     []int32 // of the areas
	boxes     []nav.Box
	interiors []*Interior
	tree      *rtree.RTreeG[int32] // of the boxes; nil where they are few
}

// fewRegions are looked at one by one.
const fewRegions = 8

// New makes those areas ready that are wanted and have an outline of three corners or more.
func New(areas []nav.Area, wanted func(a *nav.Area) bool) *Index {
	r := &Index{areas: areas}
	for i := range areas {
		a := &areas[i]
		if len(a.Outline) < 3 || !wanted(a) {
			continue
		}
		r.which, r.boxes = append(r.which, int32(i)), append(r.boxes, boxAround(a.Outline))
		r.interiors = append(r.interiors, NewInterior(a))
	}
	if len(r.boxes) <= fewRegions {
		return r
	}
	r.tree = &rtree.RTreeG[int32]{}
	for k, b := range r.boxes {
		for _, span := range spans(b.West, b.East) {
			r.tree.Insert([2]float64{span[0], b.South}, [2]float64{span[1], b.North}, int32(k))
		}
	}
	return r
}

// spans are the one or two ranges of longitudes from -180 to 180 that go from one meridian east to another. What
// touches the antimeridian is on both sides of it.
func spans(west, east float64) [][2]float64 {
	switch {
	case west > east:
		return [][2]float64{{west, 180}, {-180, east}}
	case west == -180 && east < 180:
		return [][2]float64{{west, east}, {180, 180}}
	}
	return [][2]float64{{west, east}}
}

// near visits the places of the boxes that may share positions with another, in their order, until one is enough.
func (r *Index) near(b nav.Box, visit func(k int32) bool) {
	if r.tree == nil {
		for k := range r.boxes {
			if o := &r.boxes[k]; o.South <= b.North && o.North >= b.South && !visit(int32(k)) {
				return
			}
		}
		return
	}
	var found []int32
	for _, span := range spans(b.West, b.East) {
		r.tree.Search([2]float64{span[0], b.South}, [2]float64{span[1], b.North}, func(_, _ [2]float64, k int32) bool {
			found = append(found, k)
			return true
		})
	}
	slices.Sort(found)
	for _, k := range slices.Compact(found) {
		if !visit(k) {
			return
		}
	}
}

// share says whether two boxes share a meridian.
func share(a, b *nav.Box) bool {
	return slices.ContainsFunc(spans(a.West, a.East), func(x [2]float64) bool {
		return slices.ContainsFunc(spans(b.West, b.East), func(y [2]float64) bool { return x[0] <= y[1] && y[0] <= x[1] })
	})
}

// nearLeg visits those that a leg may come to.
func (r *Index) nearLeg(a, b *nav.Point, visit func(k int32)) {
	box := nav.Box{West: a.Lon, South: min(a.Lat, b.Lat), East: b.Lon, North: max(a.Lat, b.Lat)}
	if nav.WrapLon(b.Lon-a.Lon) < 0 {
		box.West, box.East = box.East, box.West
	}
	r.near(box, func(k int32) bool {
		if r.boxes[k].CrossedBy(a, b) {
			visit(k)
		}
		return true
	})
}

// boxAround is the box around a ring, by its edges: one of few corners may be wider than half of the earth.
func boxAround(ring []nav.Point) nav.Box {
	const slack = 1e-9 // degrees, for what is rounded
	south, north := nav.Latitudes(ring)
	if nav.Around(ring) != 0 {
		return nav.Box{West: -180, South: south, East: 180, North: north}
	}
	lon := ring[0].Lon
	west, east := lon, lon
	for i := range ring {
		lon += nav.WrapLon(ring[i].Lon - lon)
		west, east = min(west, lon), max(east, lon)
	}
	lon += nav.WrapLon(ring[0].Lon - lon)
	west, east = min(west, lon)-slack, max(east, lon)+slack
	if east-west >= 360 {
		return nav.Box{West: -180, South: south, East: 180, North: north}
	}
	return nav.Box{West: nav.WrapLon(west), South: south, East: nav.WrapLon(east), North: north}
}

// Len is the number of areas that were made ready.
func (r *Index) Len() int { return len(r.which) }

// Holding visits the numbers of the areas that a position is in, in none of their holes, until one is enough.
func (r *Index) Holding(lat, lon float64, visit func(i int) bool) {
	r.near(nav.Box{West: lon, South: lat, East: lon, North: lat}, func(k int32) bool {
		return !r.boxes[k].Contains(lat, lon) || !r.interiors[k].Contains(lat, lon) || visit(int(r.which[k]))
	})
}

// Holds says whether a position is in an area, by its number.
func (r *Index) Holds(i int, lat, lon float64) bool {
	k, ok := slices.BinarySearch(r.which, int32(i))
	return ok && r.boxes[k].Contains(lat, lon) && r.interiors[k].Contains(lat, lon)
}

// Around visits the numbers of the areas whose boxes meet that of a ring.
func (r *Index) Around(ring []nav.Point, visit func(i int)) {
	box := boxAround(ring)
	r.near(box, func(k int32) bool {
		if share(&r.boxes[k], &box) {
			visit(int(r.which[k]))
		}
		return true
	})
}

// Beside visits the numbers of the areas that a leg may come to.
func (r *Index) Beside(a, b *nav.Point, visit func(i int)) {
	var seen []int32
	nav.AlongLeg(a, b, func(p, q *nav.Point, _, _ float64) {
		r.nearLeg(p, q, func(k int32) {
			if !slices.Contains(seen, k) {
				seen = append(seen, k)
				visit(int(r.which[k]))
			}
		})
	})
}

// Crossings gives the parts of a leg, from 0 to 1 and in their order, at which it crosses the outline or a hole of an
// area, by its number.
func (r *Index) Crossings(i int, a, b *nav.Point) []float64 {
	k, ok := slices.BinarySearch(r.which, int32(i))
	if !ok {
		return nil
	}
	var out []float64
	nav.AlongLeg(a, b, func(p, q *nav.Point, from, to float64) {
		if r.boxes[k].CrossedBy(p, q) {
			out = Scaled(r.interiors[k].crossings(p, q, out), len(out), from, to)
		}
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// Scaled makes the parts behind so many ones, which are of a piece of a leg, those of the leg.
func Scaled(parts []float64, behind int, from, to float64) []float64 {
	for i := behind; i < len(parts); i++ {
		parts[i] = from + parts[i]*(to-from)
	}
	return parts
}

// AllCrossings adds the parts of a leg, from 0 to 1, at which it crosses the outlines and the holes.
func (r *Index) AllCrossings(a, b *nav.Point, out []float64) []float64 {
	nav.AlongLeg(a, b, func(p, q *nav.Point, from, to float64) {
		out = Scaled(r.Straight(p, q, out), len(out), from, to)
	})
	return out
}

// Straight is AllCrossings of a line that is straight in degrees, as an edge of an area is.
func (r *Index) Straight(a, b *nav.Point, out []float64) []float64 {
	r.nearLeg(a, b, func(k int32) { out = r.interiors[k].crossings(a, b, out) })
	return out
}

// AnyBegins says whether the first corner of any of the areas lies in an outline.
func (r *Index) AnyBegins(outline []nav.Point) (found bool) {
	box := boxAround(outline)
	var in *ringEdges // once there is something to ask
	r.near(box, func(k int32) bool {
		p := &r.areas[r.which[k]].Outline[0]
		if !box.Contains(p.Lat, p.Lon) {
			return true
		}
		if in == nil {
			edges := newRingEdges(outline)
			in = &edges
		}
		found = in.has(p.Lat, p.Lon)
		return !found
	})
	return
}

// crossing gives the part of the first leg at which the second crosses it; both are straight in degrees, the short way
// around.
func crossing(a, b, c, d *nav.Point) (part float64, ok bool) {
	dx, dy := nav.WrapLon(b.Lon-a.Lon), b.Lat-a.Lat
	cx, cy := nav.WrapLon(c.Lon-a.Lon), c.Lat-a.Lat
	ex, ey := nav.WrapLon(d.Lon-c.Lon), d.Lat-c.Lat
	den := dx*ey - dy*ex
	if den == 0 {
		return 0, false
	}
	t, u := (cx*ey-cy*ex)/den, (cx*dy-cy*dx)/den
	return t, t >= 0 && t <= 1 && u >= 0 && u <= 1
}
