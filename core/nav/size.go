package nav

import (
	"math"

	"gyrolith/core/geodesy"
)

// Size is the area in square metres on the ellipsoid within the edges, which are straight in longitude and latitude,
// without the holes; not a number of an area that is flawed. An outline around a pole holds all of it up to the pole.
func (a *Area) Size() float64 {
	if a.Flawed {
		return math.NaN()
	}
	size := ringSize(a.Outline)
	for _, hole := range a.Holes {
		size -= ringSize(hole)
	}
	return max(size, 0)
}

// ringSize is the area within a ring.
func ringSize(ring []Point) float64 {
	if len(ring) < 3 {
		return 0
	}
	sum, east := 0.0, 0.0
	for i := range ring {
		p, q := &ring[i], &ring[(i+1)%len(ring)]
		d := WrapLon(q.Lon - p.Lon)
		sum += geodesy.AreaUnder(p.Lat, q.Lat, d)
		east += d
	}
	// Around a pole the sum is that between the equator and the ring.
	around := math.Round(east / 360)
	return math.Abs(sum - math.Abs(around)*geodesy.AreaUnder(90*around, 90*around, 360*around))
}

// Perimeter is the length in metres of the edges of all rings.
func (a *Area) Perimeter() (length float64) {
	for _, ring := range a.Rings() {
		for i := range ring {
			p, q := &ring[i], &ring[(i+1)%len(ring)]
			length += geodesy.EdgeLength(p.Lat, q.Lat, WrapLon(q.Lon-p.Lon))
		}
	}
	return
}
