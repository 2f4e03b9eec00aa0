package shape

import (
	"math"
	"slices"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Circles are approached by corners on them, so that what is around lies up to a thousandth of the distance too near;
// sides of legs may be as far off.
const (
	arcStep    = 5.0 // degrees
	bufferPart = 1e-3
)

// Buffer gives all places within a distance in metres of polygons, lines and positions, on the ellipsoid: a line of one
// point is a position. A negative one gives what of the polygons is at least that far from their edges.
func Buffer(set []Polygon, lines [][]nav.Point, distance float64) ([]Polygon, error) {
	far := math.Abs(distance)
	var near []Polygon
	for _, line := range lines {
		near = append(near, alongside(line, far)...)
	}
	for _, rings := range set {
		for _, ring := range rings {
			near = append(near, alongside(closedDense(ring, far*bufferPart), far)...)
		}
	}
	if distance < 0 {
		return Difference(set, near)
	}
	return Union(append(near, set...))
}

// closedDense closes a ring and puts points on its edges so that geodesics between them are within a tolerance of the
// edges.
func closedDense(ring []nav.Point, tolerance float64) []nav.Point {
	south, north := 0.0, 0.0
	for i := range ring {
		south, north = min(south, ring[i].Lat), max(north, ring[i].Lat)
	}
	out := DenseEdges(ring, sagging(max(-south, north), tolerance))
	return append(out, out[0])
}

// sagging is how long a geodesic may be to stay within a tolerance of an edge, or half a centimetre.
func sagging(lat, tolerance float64) float64 { return nav.StraightFor(lat, max(tolerance, 0.005)) }

// alongside gives what lies beside the legs of a line, a polygon each: what is nearest to the leg itself, and to the
// corner at its end; the ends of the line have half circles. Points that matter less than what circles are off are
// left out.
func alongside(line []nav.Point, far float64) (out []Polygon) {
	plain := make([]nav.Point, 0, len(line))
	for i := range line {
		if p := nav.At(line[i].Lat, line[i].Lon); len(plain) == 0 || !p.SamePlace(&plain[len(plain)-1]) {
			plain = append(plain, p)
		}
	}
	switch len(plain) {
	case 0:
		return nil
	case 1:
		circle := bend(nil, plain[0], 0, 360, far)
		slices.Reverse(circle) // against the clock
		return []Polygon{{circle}}
	}
	kept := Thin(plain, far*bufferPart)
	legs := make([]sideLeg, len(kept)-1)
	for i := range legs {
		legs[i] = newSideLeg(&plain[kept[i]], &plain[kept[i+1]])
	}
	closed := plain[0].SamePlace(&plain[len(plain)-1])
	for i := range legs {
		l := &legs[i]
		left, right := l.sides(far)
		ring := left
		switch {
		case i+1 < len(legs):
			ring = l.corner(ring, &legs[i+1], far)
		case closed:
			ring = l.corner(ring, &legs[0], far)
		default:
			ring = bend(ring, *l.to, l.last-90, l.last+90, far)
		}
		slices.Reverse(right)
		ring = append(ring, right...)
		if i == 0 && !closed {
			ring = bend(ring, *l.from, l.first+90, l.first+270, far)
		}
		slices.Reverse(ring)
		out = append(out, Polygon{ring})
	}
	return
}

// sideLeg is a leg with its length and its courses at both ends.
type sideLeg struct {
	from, to            *nav.Point
	length, first, last float64
}

func newSideLeg(from, to *nav.Point) sideLeg {
	l := sideLeg{from: from, to: to}
	l.length, l.first, l.last = geodesy.Inverse(from.Lat, from.Lon, to.Lat, to.Lon)
	return l
}

// sides gives the lines at a distance to the left and to the right. They begin a little before the leg, so that no gap
// is left between it and the one before, whatever is rounded; that is a twenty-thousandth of the distance too far.
func (l *sideLeg) sides(far float64) (left, right []nav.Point) {
	lat, lon, course := geodesy.Direct(l.from.Lat, l.from.Lon, l.first+180, far/100)
	left, right = append(left, off(lat, lon, course+90, far)), append(right, off(lat, lon, course-90, far))
	steps := math.Ceil(l.length / sagging(max(math.Abs(l.from.Lat), math.Abs(l.to.Lat)), far*bufferPart))
	for k := 0.0; k <= steps; k++ {
		lat, lon, course := geodesy.Direct(l.from.Lat, l.from.Lon, l.first, l.length*k/steps)
		left, right = append(left, off(lat, lon, course-90, far)), append(right, off(lat, lon, course+90, far))
	}
	return
}

// corner adds the sector outside of the corner to the next leg.
func (l *sideLeg) corner(ring []nav.Point, next *sideLeg, far float64) []nav.Point {
	const straight = 1e-6 // degrees
	turn := math.Remainder(next.first-l.last, 360)
	at := func(course float64) nav.Point { return off(l.to.Lat, l.to.Lon, course, far) }
	switch {
	case turn > straight:
		ring = append(bend(ring, *l.to, l.last-90, l.last-90+turn, far), at(next.first-90), *l.to)
	case turn < -straight:
		ring = bend(append(ring, *l.to, at(next.first+90)), *l.to, l.last+90+turn, l.last+90, far)
	}
	return ring
}

// bend adds the places on a circle between two bearings, without its ends but for that of a whole one, clockwise.
func bend(ring []nav.Point, about nav.Point, from, to, radius float64) []nav.Point {
	n := int(math.Ceil((to-from)/arcStep - 1e-9)) // half a circle is one, whatever is rounded
	begin := 1
	if to-from == 360 {
		begin = 0
	}
	for k := begin; k < n; k++ {
		ring = append(ring, off(about.Lat, about.Lon, from+(to-from)*float64(k)/float64(n), radius))
	}
	return ring
}

// off is the position at a distance, to the centimetre.
func off(lat, lon, course, distance float64) nav.Point {
	lat, lon, _ = geodesy.Direct(lat, lon, course, distance)
	const scale = 1e7
	p := nav.At(math.Round(lat*scale)/scale, math.Round(lon*scale)/scale)
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(7), decimal.PrecisionOf(7)
	return p
}
