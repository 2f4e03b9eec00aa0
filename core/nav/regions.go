package nav

import (
	"slices"

	"github.com/tidwall/rtree"
)

// Regions are areas, made ready to be asked which of them hold a position. Their rings must stay as they are.
type Regions struct {
	areas     []Area
	Which     []int32 // of the areas
	boxes     []Box
	interiors []*Interior
	tree      *rtree.RTreeG[int32] // of the boxes; nil where they are few
}

// fewRegions are looked at one by one.
const fewRegions = 8

// NewRegions makes those areas ready that are wanted and have an outline of three corners or more.
func NewRegions(areas []Area, wanted func(a *Area) bool) *Regions {
	r := &Regions{areas: areas}
	for i := range areas {
		a := &areas[i]
		if len(a.Outline) < 3 || !wanted(a) {
			continue
		}
		r.Which, r.boxes = append(r.Which, int32(i)), append(r.boxes, boxAround(a.Outline))
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
func (r *Regions) near(b Box, visit func(k int32) bool) {
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

// nearLeg visits those that a leg may come to.
func (r *Regions) nearLeg(a, b *Point, visit func(k int32)) {
	box := Box{West: a.Lon, South: min(a.Lat, b.Lat), East: b.Lon, North: max(a.Lat, b.Lat)}
	if WrapLon(b.Lon-a.Lon) < 0 {
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
func boxAround(ring []Point) Box {
	const slack = 1e-9 // degrees, for what is rounded
	south, north := latitudes(ring)
	if Around(ring) != 0 {
		return Box{West: -180, South: south, East: 180, North: north}
	}
	lon := ring[0].Lon
	west, east := lon, lon
	for i := range ring {
		lon += WrapLon(ring[i].Lon - lon)
		west, east = min(west, lon), max(east, lon)
	}
	lon += WrapLon(ring[0].Lon - lon)
	west, east = min(west, lon)-slack, max(east, lon)+slack
	if east-west >= 360 {
		return Box{West: -180, South: south, East: 180, North: north}
	}
	return Box{West: WrapLon(west), South: south, East: WrapLon(east), North: north}
}

// Holding visits the numbers of the areas that a position is in, in none of their holes, until one is enough.
func (r *Regions) Holding(lat, lon float64, visit func(i int) bool) {
	r.near(Box{lon, lat, lon, lat}, func(k int32) bool {
		return !r.boxes[k].Contains(lat, lon) || !r.interiors[k].Contains(lat, lon) || visit(int(r.Which[k]))
	})
}

// Holds says whether a position is in an area, by its number.
func (r *Regions) Holds(i int, lat, lon float64) bool {
	k, ok := slices.BinarySearch(r.Which, int32(i))
	return ok && r.boxes[k].Contains(lat, lon) && r.interiors[k].Contains(lat, lon)
}

// Beside visits the numbers of the areas that a leg may come to.
func (r *Regions) Beside(a, b *Point, visit func(i int)) {
	var seen []int32
	AlongLeg(a, b, func(p, q *Point, _, _ float64) {
		r.nearLeg(p, q, func(k int32) {
			if !slices.Contains(seen, k) {
				seen = append(seen, k)
				visit(int(r.Which[k]))
			}
		})
	})
}

// Crossings gives the parts of a leg, from 0 to 1 and in their order, at which it crosses the outline or a hole of an
// area, by its number.
func (r *Regions) Crossings(i int, a, b *Point) []float64 {
	k, ok := slices.BinarySearch(r.Which, int32(i))
	if !ok {
		return nil
	}
	var out []float64
	AlongLeg(a, b, func(p, q *Point, from, to float64) {
		if r.boxes[k].CrossedBy(p, q) {
			out = Scaled(r.interiors[k].crossings(p, q, out), len(out), from, to)
		}
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// scaled makes the parts behind so many ones, which are of a piece of a leg, those of the leg.
func Scaled(parts []float64, behind int, from, to float64) []float64 {
	for i := behind; i < len(parts); i++ {
		parts[i] = from + parts[i]*(to-from)
	}
	return parts
}

// crossings adds the parts of a leg, from 0 to 1, at which it crosses the outlines and the holes.
func (r *Regions) AllCrossings(a, b *Point, out []float64) []float64 {
	AlongLeg(a, b, func(p, q *Point, from, to float64) {
		out = Scaled(r.Straight(p, q, out), len(out), from, to)
	})
	return out
}

// straight is crossings of a line that is straight in degrees, as an edge of an area is.
func (r *Regions) Straight(a, b *Point, out []float64) []float64 {
	r.nearLeg(a, b, func(k int32) { out = r.interiors[k].crossings(a, b, out) })
	return out
}

// anyBegins says whether the first corner of any of the areas lies in an outline.
func (r *Regions) AnyBegins(outline []Point) (found bool) {
	box := boxAround(outline)
	var in *ringEdges // once there is something to ask
	r.near(box, func(k int32) bool {
		p := &r.areas[r.Which[k]].Outline[0]
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
func crossing(a, b, c, d *Point) (part float64, ok bool) {
	dx, dy := WrapLon(b.Lon-a.Lon), b.Lat-a.Lat
	cx, cy := WrapLon(c.Lon-a.Lon), c.Lat-a.Lat
	ex, ey := WrapLon(d.Lon-c.Lon), d.Lat-c.Lat
	den := dx*ey - dy*ex
	if den == 0 {
		return 0, false
	}
	t, u := (cx*ey-cy*ex)/den, (cx*dy-cy*dx)/den
	return t, t >= 0 && t <= 1 && u >= 0 && u <= 1
}
