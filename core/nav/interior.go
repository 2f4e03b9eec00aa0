package nav

import (
	"math"
	"slices"
)

// Interior is an area, made ready to be asked about many positions.
type Interior struct {
	outline ringEdges
	holes   []ringEdges
	across  *bands // the holes by their latitudes
}

// ringEdges are the edges of a ring by their latitudes.
type ringEdges struct {
	ring  []Point
	east  []float64 // the longitude of each corner, less that of the first, along the ring without a jump
	edges *bands
}

// NewInterior makes an area ready. The area must stay as it is.
func NewInterior(a *Area) *Interior {
	x := &Interior{outline: newRingEdges(a.Outline)}
	for _, hole := range a.Holes {
		x.holes = append(x.holes, newRingEdges(hole))
	}
	x.across = bandsOf(len(a.Holes), func(i int) (south, north float64) { return latitudes(a.Holes[i]) })
	return x
}

// latitudes gives the southernmost and the northernmost of a ring.
func latitudes(ring []Point) (south, north float64) {
	if len(ring) == 0 {
		return 0, 0
	}
	south, north = math.Inf(1), math.Inf(-1)
	for i := range ring {
		south, north = min(south, ring[i].Lat), max(north, ring[i].Lat)
	}
	return
}

func newRingEdges(ring []Point) ringEdges {
	r := ringEdges{ring: ring, east: make([]float64, len(ring)+1)}
	for i := range ring {
		r.east[i+1] = r.east[i] + WrapLon(r.after(i).Lon-ring[i].Lon)
	}
	r.edges = bandsOf(len(ring), func(i int) (south, north float64) {
		a, b := ring[i].Lat, r.after(i).Lat
		return min(a, b), max(a, b)
	})
	return r
}

// after is the corner at the end of an edge.
func (r *ringEdges) after(i int) *Point {
	if i++; i < len(r.ring) {
		return &r.ring[i]
	}
	return &r.ring[0]
}

// has is RingContains.
func (r *ringEdges) has(lat, lon float64) bool {
	if len(r.ring) == 0 {
		return false
	}
	var inside [3]bool
	x := WrapLon(r.ring[0].Lon - lon)
	for _, i := range r.edges.at(lat) {
		crossEdge(&inside, &r.ring[i], r.after(int(i)), lat, x+r.east[i], x+r.east[i+1])
	}
	return inside[0] || inside[1] || inside[2]
}

// Contains says whether a position is inside the area and in none of its holes.
func (x *Interior) Contains(lat, lon float64) bool {
	return x.outline.has(lat, lon) &&
		!slices.ContainsFunc(x.across.at(lat), func(i int32) bool { return x.holes[i].has(lat, lon) })
}

// crossings adds the parts of a leg, from 0 to 1, at which it crosses the outline and the holes.
func (x *Interior) crossings(a, b *Point, out []float64) []float64 {
	south, north := min(a.Lat, b.Lat), max(a.Lat, b.Lat)
	cross := func(r *ringEdges) {
		r.edges.between(south, north, func(i int32) bool {
			if t, ok := crossing(a, b, &r.ring[i], r.after(int(i))); ok {
				out = append(out, t)
			}
			return true
		})
	}
	cross(&x.outline)
	x.across.between(south, north, func(i int32) bool { cross(&x.holes[i]); return true })
	return out
}
