package region

import (
	"math"

	"gyrolith/core/nav"
)

// Contains says whether a position is inside a ring, whose edges are straight between latitude and longitude, the
// short way around the earth. It may cross the antimeridian and go around a pole (see Around).
func Contains(ring []nav.Point, lat, lon float64) bool {
	r := newRingEdges(ring)
	return r.has(lat, lon)
}

// ringEdges are the edges of a ring by their latitudes; by their longitudes where it goes around a pole.
type ringEdges struct {
	ring   []nav.Point
	east   []float64 // the longitude of each corner, less that of the first, along the ring without a jump
	around int
	edges  *bands
}

func newRingEdges(ring []nav.Point) ringEdges {
	r := ringEdges{ring: ring, east: make([]float64, len(ring)+1), around: nav.Around(ring)}
	for i := range ring {
		r.east[i+1] = r.east[i] + nav.WrapLon(r.after(i).Lon-ring[i].Lon)
	}
	r.edges = bandsOf(len(ring), func(i int) (low, high float64) {
		a, b := ring[i].Lat, r.after(i).Lat
		if r.around != 0 {
			a, b = r.east[i], r.east[i+1]
		}
		return min(a, b), max(a, b)
	})
	return r
}

// after is the corner at the end of an edge.
func (r *ringEdges) after(i int) *nav.Point {
	if i++; i < len(r.ring) {
		return &r.ring[i]
	}
	return &r.ring[0]
}

// has says whether a position is inside the ring.
func (r *ringEdges) has(lat, lon float64) bool {
	switch {
	case len(r.ring) == 0:
		return false
	case r.around != 0:
		return r.toPole(lat, nav.WrapLon(lon-r.ring[0].Lon))
	}
	// A line from the position to the east crosses an odd number of edges. Longitudes go on along the ring without a
	// jump, so that the position may be a turn of the earth away.
	var inside [3]bool
	x := nav.WrapLon(r.ring[0].Lon - lon)
	for _, i := range r.edges.at(lat) {
		crossEdge(&inside, &r.ring[i], r.after(int(i)), lat, x+r.east[i], x+r.east[i+1])
	}
	return inside[0] || inside[1] || inside[2]
}

// crossEdge counts the edge from p to q, which are at x and next degrees east of a position, where the line to the east
// along a latitude crosses it: a turn of the earth to the west of the position, from where it stands, and to the east.
func crossEdge(inside *[3]bool, p, q *nav.Point, lat, x, next float64) {
	if (p.Lat > lat) == (q.Lat > lat) {
		return
	}
	at := x + (lat-p.Lat)/(q.Lat-p.Lat)*(next-x)
	for turn := range inside {
		if at > float64(turn-1)*360 {
			inside[turn] = !inside[turn]
		}
	}
}

// toPole says whether the meridian from a position to the pole in the ring crosses an even number of edges. East is how
// far the position is from the first corner.
func (r *ringEdges) toPole(lat, east float64) bool {
	in := true
	low, high := r.edges.limits()
	for x := east + 360*math.Ceil((low-east)/360); x <= high; x += 360 {
		for _, i := range r.edges.at(x) {
			a, b := r.east[i], r.east[i+1]
			if (a > x) == (b > x) {
				continue
			}
			p, q := &r.ring[i], r.after(int(i))
			if at := p.Lat + (x-a)/(b-a)*(q.Lat-p.Lat); (at-lat)*float64(r.around) > 0 {
				in = !in
			}
		}
	}
	return in
}
