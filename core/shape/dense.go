package shape

import (
	"math"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// mostParts bounds into how many parts an edge or a leg is cut.
const mostParts = 10_000

// parts is how many parts of a step in metres, or less, there are between two points.
func parts(p, q *nav.Point, east, step float64) int {
	wide := max(math.Abs(q.Lat-p.Lat), math.Abs(east)) * geodesy.EquatorDegree
	if !(wide > step) {
		return 1
	}
	return int(min(math.Ceil(wide/step), mostParts))
}

// DenseEdges gives a ring with points on its edges, straight in longitude and latitude, no more than a step in metres
// apart. It may be one that was cut (see CutArea).
func DenseEdges(ring []nav.Point, step float64) []nav.Point {
	out := make([]nav.Point, 0, len(ring))
	for i := range ring {
		p, q := &ring[i], &ring[(i+1)%len(ring)]
		out = append(out, *p)
		east := q.Lon - p.Lon
		if math.Abs(east) != 360 { // as along a pole
			east = nav.WrapLon(east)
		}
		n := parts(p, q, east, step)
		for k := 1; k < n; k++ {
			t := float64(k) / float64(n)
			lon := p.Lon + t*east
			if lon < -180 || lon > 180 {
				lon = nav.WrapLon(lon)
			}
			out = append(out, nav.Point{Lat: p.Lat + t*(q.Lat-p.Lat), Lon: lon})
		}
	}
	return out
}

// DenseLegs visits the points of a line and such between them, on the shortest lines, that none is more than about a
// step in metres from the next.
func DenseLegs(line []nav.Point, step float64, visit func(lat, lon float64)) {
	for i := range line {
		p := &line[i]
		if i > 0 {
			before := &line[i-1]
			n := parts(before, p, nav.WrapLon(p.Lon-before.Lon), step)
			for k := 1; k < n; k++ {
				m := nav.Between(before, p, float64(k)/float64(n))
				visit(m.Lat, m.Lon)
			}
		}
		visit(p.Lat, p.Lon)
	}
}
