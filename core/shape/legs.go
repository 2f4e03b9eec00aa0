package shape

import (
	"math"
	"slices"

	"github.com/tidwall/rtree"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Legs are lines of which the nearest place is found without a look at all of them. The legs are numbered on from one
// line to the next, from 0; a line of one point has none. The points must stay as they are.
type Legs struct {
	Low, High [2]float64 // longitude and latitude of the box around them; across the antimeridian it goes on east of it
	spans     []span
	tree      *rtree.RTreeG[int32] // of the spans; nil where they are few
}

// span is some legs of a line, or one point.
type span struct {
	first     int // leg
	points    []nav.Point
	low, high [2]float64
}

// Place is where a line is nearest to a position.
type Place struct {
	Leg      int     // -1 of a line of one point
	Along    float64 // on that leg, from 0 to 1
	At       nav.Point
	Distance float64 // metres
}

// spanLegs are as many legs as are looked at together, and fewSpans as many of these as need no tree.
const (
	spanLegs = 16
	fewSpans = 8
)

// NewLegs indexes lines.
func NewLegs(lines ...[]nav.Point) *Legs {
	l := &Legs{}
	before := 0
	for _, points := range lines {
		for from := 0; from == 0 && len(points) > 0 || from < len(points)-1; from += spanLegs {
			l.spans = append(l.spans, newSpan(before+from, points[from:min(from+spanLegs+1, len(points))]))
		}
		before += max(len(points)-1, 0)
	}
	if len(l.spans) > fewSpans {
		l.tree = &rtree.RTreeG[int32]{}
	}
	for n := range l.spans {
		s := &l.spans[n]
		if n == 0 {
			l.Low, l.High = s.low, s.high
		}
		// Spans are a turn of the earth apart where the longitudes of their points are.
		turn := math.Round((l.Low[0]-s.low[0])/360) * 360
		l.Low[0], l.High[0] = min(l.Low[0], s.low[0]+turn), max(l.High[0], s.high[0]+turn)
		l.Low[1], l.High[1] = min(l.Low[1], s.low[1]), max(l.High[1], s.high[1])
		if l.tree != nil {
			l.tree.Insert(s.low, s.high, int32(n))
		}
	}
	return l
}

// newSpan finds the box around points. One across the antimeridian goes on east of it.
func newSpan(first int, points []nav.Point) span {
	lon := points[0].Lon
	s := span{first: first, points: points, low: [2]float64{lon, 90}, high: [2]float64{lon, -90}}
	for i := range points {
		p := &points[i]
		lon += nav.WrapLon(p.Lon - lon)
		s.low[0], s.high[0] = min(s.low[0], lon), max(s.high[0], lon)
		s.low[1], s.high[1] = min(s.low[1], p.Lat), max(s.high[1], p.Lat)
	}
	return s
}

// Empty says whether there is no point.
func (l *Legs) Empty() bool { return len(l.spans) == 0 }

// each visits the spans within a distance of a position, the nearest box first, until that is enough.
func (l *Legs) each(plane geodesy.Plane, lat, lon float64, visit func(s *span, least float64) bool) {
	far := func(low, high [2]float64, _ int32, _ bool) float64 {
		return PlaneBoxDistance(plane, lat, lon, low, high)
	}
	if l.tree != nil {
		l.tree.Nearby(far, func(_, _ [2]float64, n int32, least float64) bool { return visit(&l.spans[n], least) })
		return
	}
	for n := range l.spans { // in no order, so that one that is too far is not the last
		s := &l.spans[n]
		visit(s, far(s.low, s.high, 0, true))
	}
}

// Nearest finds the place that is nearest to a position, on the first of legs that share it; the plane is that around
// the position. There must be a point.
func (l *Legs) Nearest(plane geodesy.Plane, lat, lon float64) Place {
	const same = 1e-6 // metres
	best := Place{Distance: math.Inf(1)}
	l.each(plane, lat, lon, func(s *span, least float64) bool {
		if least > best.Distance+same {
			return false
		}
		p := s.nearest(plane)
		p.Distance, _, _ = plane.Toward(p.At.Lat, p.At.Lon)
		if p.Distance < best.Distance-same || p.Distance <= best.Distance+same && p.Leg < best.Leg {
			best = p
		}
		return true
	})
	return best
}

// nearest finds the place of a span that is nearest to the origin of a plane.
func (s *span) nearest(plane geodesy.Plane) Place {
	if len(s.points) == 1 {
		return Place{Leg: -1, At: s.points[0]}
	}
	best, part, leg := math.Inf(1), 0.0, 0
	for i := 0; i+1 < len(s.points); i++ {
		if off, along := Foot(plane, &s.points[i], &s.points[i+1]); off < best {
			best, part, leg = off, along, i
		}
	}
	return Place{Leg: s.first + leg, Along: part, At: Between(&s.points[leg], &s.points[leg+1], part)}
}

// Within gives the legs that may be within a distance of a position, in metres, and some that are a little farther, in
// their order.
func (l *Legs) Within(lat, lon, distance float64) (legs []int) {
	l.each(geodesy.NewPlane(lat, lon), lat, lon, func(s *span, least float64) bool {
		if least > distance {
			return false
		}
		for i := range len(s.points) - 1 {
			legs = append(legs, s.first+i)
		}
		return true
	})
	slices.Sort(legs)
	return
}
