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
	edges     bool       // straight in longitude and latitude, as those of areas are; else the shortest lines
	spans     []span
	tree      *rtree.RTreeG[int32] // of the spans; nil where they are few
}

// span is some legs of a line, one long leg in pieces, or one point.
type span struct {
	first     int // leg
	points    []nav.Point
	pieces    bool // of the one leg
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

// NewLegs indexes lines, of which the legs are the shortest ones between their points.
func NewLegs(lines ...[]nav.Point) *Legs { return newLegs(false, lines) }

// NewEdges indexes outlines, of which the edges are straight in longitude and latitude (RFC 7946, section 3.1.1).
func NewEdges(lines ...[]nav.Point) *Legs { return newLegs(true, lines) }

func newLegs(edges bool, lines [][]nav.Point) *Legs {
	l := &Legs{edges: edges}
	before := 0
	for _, points := range lines {
		from := 0
		for to := 1; to <= len(points); to++ {
			switch {
			case to < len(points) && long(&points[to-1], &points[to]):
				if to-1 > from {
					l.spans = append(l.spans, newSpan(before+from, points[from:to]))
				}
				s := newSpan(before+to-1, l.pieces(&points[to-1], &points[to]))
				s.pieces = true
				l.spans, from = append(l.spans, s), to
			case to == len(points) && (to-1 > from || len(points) == 1), to-1-from == spanLegs:
				l.spans = append(l.spans, newSpan(before+from, points[from:to]))
				from = to - 1
			}
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
	best, guess := Place{Distance: math.Inf(1)}, guess{}
	l.each(plane, lat, lon, func(s *span, least float64) bool {
		if least > best.Distance+same {
			return false
		}
		p, g := l.nearest(s, plane)
		p.Distance, _, _ = plane.Toward(p.At.Lat, p.At.Lon)
		if p.Distance < best.Distance-same || p.Distance <= best.Distance+same && p.Leg < best.Leg {
			best, guess = p, g
		}
		return true
	})
	if guess.around > 0 {
		best.Along = l.closest(plane, guess)
		best.At = l.at(guess.a, guess.b, best.Along)
		best.Distance, _, _ = plane.Toward(best.At.Lat, best.At.Lon)
	}
	return best
}

// guess is about where a leg is closest to a position, and how far from there it may be; the zero guess is exact.
type guess struct {
	a, b         *nav.Point
	part, around float64
}

// A leg that is longer is looked at in pieces, since it is not straight on a plane, in metres; and beyond such a
// distance from it a place on a plane is a first guess.
const (
	longLeg  = 2e3
	nearLegs = 5e3
)

// long says whether a leg is looked at in pieces.
func long(a, b *nav.Point) bool {
	const short = longLeg / 2 / geodesy.EquatorDegree
	if math.Abs(a.Lat-b.Lat) < short && math.Abs(nav.WrapLon(b.Lon-a.Lon)) < short {
		return false
	}
	return geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon) > longLeg
}

// at is a place on a leg.
func (l *Legs) at(a, b *nav.Point, part float64) nav.Point {
	if l.edges {
		return a.Toward(b, part)
	}
	return nav.Between(a, b, part)
}

// pieces gives the points of a leg with those between its ends.
func (l *Legs) pieces(a, b *nav.Point) []nav.Point {
	const most = 4096
	n := int(min(math.Ceil(geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)/longLeg), most))
	out := make([]nav.Point, 0, n+1)
	out = append(out, *a)
	for i := 1; i < n; i++ {
		out = append(out, l.at(a, b, float64(i)/float64(n)))
	}
	return append(out, *b)
}

// nearest finds the place of a span that is nearest to the origin of a plane.
func (l *Legs) nearest(s *span, plane geodesy.Plane) (Place, guess) {
	if len(s.points) == 1 {
		return Place{Leg: -1, At: s.points[0]}, guess{}
	}
	best, part, leg := math.Inf(1), 0.0, 0
	_, ax, ay := plane.Toward(s.points[0].Lat, s.points[0].Lon)
	for i := 0; i+1 < len(s.points); i++ {
		_, bx, by := plane.Toward(s.points[i+1].Lat, s.points[i+1].Lon)
		if off, along := foot(ax, ay, bx, by); off < best {
			best, part, leg = off, along, i
		}
		ax, ay = bx, by
	}
	a, b := &s.points[leg], &s.points[leg+1]
	p := Place{Leg: s.first + leg, Along: part, At: l.at(a, b, part)}
	switch {
	case s.pieces:
		n := float64(len(s.points) - 1)
		p.Leg, p.Along = s.first, (float64(leg)+part)/n
		return p, guess{&s.points[0], &s.points[len(s.points)-1], p.Along, 1 / n}
	case best > nearLegs:
		return p, guess{a, b, part, 1}
	}
	return p, guess{}
}

// closest finds the part of a leg that is closest to the origin of a plane, near a guess, by the golden section (J.
// Kiefer, Sequential minimax search for a maximum, Proceedings of the American Mathematical Society 4(3), 1953).
func (l *Legs) closest(plane geodesy.Plane, g guess) float64 {
	a, b := g.a, g.b
	ratio := (math.Sqrt(5) - 1) / 2
	off := func(part float64) float64 {
		p := l.at(a, b, part)
		d, _, _ := plane.Toward(p.Lat, p.Lon)
		return d
	}
	low, high := max(g.part-g.around, 0), min(g.part+g.around, 1)
	length := geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)
	x, y := high-ratio*(high-low), low+ratio*(high-low)
	dx, dy := off(x), off(y)
	for (high-low)*length > 1e-3 { // metres along the leg
		if dx <= dy {
			high, y, dy = y, x, dx
			x = high - ratio*(high-low)
			dx = off(x)
		} else {
			low, x, dx = x, y, dy
			y = low + ratio*(high-low)
			dy = off(y)
		}
	}
	part := (low + high) / 2
	for _, end := range [2]float64{low, high} { // an end is one exactly
		if (end == 0 || end == 1) && off(end) <= off(part) {
			part = end
		}
	}
	return part
}

// Within gives the legs that may be within a distance of a position, in metres, and some that are a little farther, in
// their order.
func (l *Legs) Within(lat, lon, distance float64) (legs []int) {
	l.each(geodesy.NewPlane(lat, lon), lat, lon, func(s *span, least float64) bool {
		if least > distance {
			return false
		}
		if s.pieces {
			legs = append(legs, s.first)
			return true
		}
		for i := range len(s.points) - 1 {
			legs = append(legs, s.first+i)
		}
		return true
	})
	slices.Sort(legs)
	return
}
