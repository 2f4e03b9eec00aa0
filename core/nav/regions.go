package nav

import "slices"

// Regions are areas, made ready to be asked which of them hold a position. Their rings must stay as they are.
type Regions struct {
	areas     []Area
	which     []int32 // of the areas
	boxes     []Box
	interiors []*Interior
	across    *bands // by their latitudes
}

// NewRegions makes those areas ready that are wanted and have an outline of three corners or more.
func NewRegions(areas []Area, wanted func(a *Area) bool) *Regions {
	r := &Regions{areas: areas}
	for i := range areas {
		a := &areas[i]
		if len(a.Outline) < 3 || !wanted(a) {
			continue
		}
		r.which, r.boxes = append(r.which, int32(i)), append(r.boxes, boxAround(a.Outline))
		r.interiors = append(r.interiors, NewInterior(a))
	}
	r.across = bandsOf(len(r.boxes), func(i int) (south, north float64) { return r.boxes[i].South, r.boxes[i].North })
	return r
}

// boxAround is the box around a ring, by its edges: one of few corners may be wider than half of the earth.
func boxAround(ring []Point) Box {
	const slack = 1e-9 // degrees, for what is rounded
	south, north := latitudes(ring)
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
	for _, k := range r.across.at(lat) {
		if r.boxes[k].Contains(lat, lon) && r.interiors[k].Contains(lat, lon) && !visit(int(r.which[k])) {
			return
		}
	}
}

// Holds says whether a position is in an area, by its number.
func (r *Regions) Holds(i int, lat, lon float64) bool {
	k, ok := slices.BinarySearch(r.which, int32(i))
	return ok && r.boxes[k].Contains(lat, lon) && r.interiors[k].Contains(lat, lon)
}

// Beside visits the numbers of the areas that a leg may come to.
func (r *Regions) Beside(a, b *Point, visit func(i int)) {
	r.across.between(min(a.Lat, b.Lat), max(a.Lat, b.Lat), func(k int32) bool {
		if r.boxes[k].crossedBy(a, b) {
			visit(int(r.which[k]))
		}
		return true
	})
}

// Crossings gives the parts of a leg, from 0 to 1 and in their order, at which it crosses the outline or a hole of an
// area, by its number.
func (r *Regions) Crossings(i int, a, b *Point) []float64 {
	k, ok := slices.BinarySearch(r.which, int32(i))
	if !ok {
		return nil
	}
	out := r.interiors[k].crossings(a, b, nil)
	slices.Sort(out)
	return slices.Compact(out)
}

// crossings adds the parts of a leg, from 0 to 1, at which it crosses the outlines and the holes.
func (r *Regions) crossings(a, b *Point, out []float64) []float64 {
	r.across.between(min(a.Lat, b.Lat), max(a.Lat, b.Lat), func(k int32) bool {
		if r.boxes[k].crossedBy(a, b) {
			out = r.interiors[k].crossings(a, b, out)
		}
		return true
	})
	return out
}

// anyBegins says whether the first corner of any of the areas lies in an outline.
func (r *Regions) anyBegins(outline []Point) (found bool) {
	south, north := latitudes(outline)
	var in *ringEdges // once there is something to ask
	r.across.between(south, north, func(k int32) bool {
		p := &r.areas[r.which[k]].Outline[0]
		if p.Lat < south || p.Lat > north {
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
