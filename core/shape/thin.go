package shape

import (
	"math"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// alongTimes is how many times the tolerance a point may lie from where the thinned line has it at its time, along
// the line. It keeps speeds believable: a halt on a straight road is a corner in time.
const alongTimes = 5

// alongLeast is the least that is allowed along the line, in metres.
const alongLeast = 10

// Thin chooses points of a line so that all others lie within a distance (metres) of the thinned line, and gives
// their indices; the first and the last are always among them. Heights count as positions do: between two points that
// stay they run evenly, and those of the others keep within the same distance of that. On timed lines points also keep
// near their place along the line at their time. From each point it goes to the farthest next one that keeps to that,
// by narrowing the cone of directions that pass all points between (H. Imai and M. Iri, J. Information Processing
// 9(3), 1986), which are those of geodesics; of the last few points that it could go to it takes the one from which
// the next leg leads farthest. The cost is linear.
func Thin(points []nav.Point, within float64) []int {
	return thin(points, within, choices, math.MaxInt)
}

// thin is Thin with the number of next points that are weighed against one another; one alone is several times
// faster and keeps a tenth more. It ends with more than most points as soon as it has them.
func thin(points []nav.Point, within float64, weighed, most int) []int {
	n := len(points)
	if n <= 2 || within < 0 {
		out := make([]int, n)
		for i := range out {
			out[i] = i
		}
		return out
	}
	out := []int{0}
	reached, known := [choices]int{}, false // known where it was looked at from before
	for at := 0; at < n-1 && len(out) <= most; {
		if !known {
			reached = reachable(points, at, within)
		}
		next, further := reached[0], [choices]int{}
		known = weighed > 1 && reached[0] < n-1
		if known {
			for _, k := range reached[:weighed] {
				if from := reachable(points, k, within); from[0] > further[0] {
					next, further = k, from
				}
			}
			reached = further
		}
		at = next
		out = append(out, at)
	}
	return out
}

// choices is how many next points are weighed against one another.
const choices = 4

// mostAhead bounds how far beyond the last good next point the search goes on, so that no line has a bad case.
const mostAhead = 64

// reachable finds where a straight leg from a point may go, the farthest first, and some that are nearer.
func reachable(points []nav.Point, at int, within float64) (out [choices]int) {
	for i := range out {
		out[i] = at + 1
	}
	a := &points[at]
	plane := geodesy.NewPlane(a.Lat, a.Lon)
	best := at + 1
	var passing cone
	reach := 0.0 // the farthest point so far
	heights := slopes{least: math.Inf(-1), most: math.Inf(1), within: within}
	slow, fast := 0.0, math.Inf(1)
	along := max(alongTimes*within, alongLeast)
	for k := at + 1; k < len(points) && k-best <= mostAhead+2*(best-at); k++ {
		p := &points[k]
		r, east, north := plane.Toward(p.Lat, p.Lon)
		dt := 0.0
		if a.HasTime() && p.HasTime() {
			dt = p.Since(a).Seconds()
		}
		seen := passing.sight(east, north, r)
		if (r >= reach-1e-9 || reach <= within) && seen.inside() && (dt <= 0 || r >= slow*dt && r <= fast*dt) &&
			heights.lead(a, p, r) {
			// Of the nearer ones those are kept that are spread over the last part of the way.
			if k-out[1] > (k-at)/16 {
				copy(out[2:], out[1:])
				out[1] = best
			}
			best = k
			out[0] = k
		}
		reach = max(reach, r)
		if !heights.pass(a, p, r) {
			break
		}
		if r > within && !passing.narrow(&seen, within*stretch(r)) {
			break
		}
		if dt > 0 {
			if r-along > slow*dt {
				slow = (r - along) / dt
			}
			if r+along < fast*dt {
				fast = (r + along) / dt
			}
			if slow > fast {
				break
			}
		}
	}
	return out
}

// slopes are those at which a leg passes the heights of all points so far.
type slopes struct{ least, most, within float64 }

// lead says whether a leg to a point passes the heights between.
func (s *slopes) lead(a, p *nav.Point, r float64) bool {
	if !a.HasHeight() || !p.HasHeight() {
		return true
	}
	rise := p.Height() - a.Height()
	if r == 0 {
		return math.Abs(rise) <= s.within
	}
	const rounding = 1e-9
	return rise >= s.least*r-rounding && rise <= s.most*r+rounding
}

// pass leaves those slopes that pass the height of a point, and says whether there are any.
func (s *slopes) pass(a, p *nav.Point, r float64) bool {
	if !a.HasHeight() || !p.HasHeight() {
		return true
	}
	rise := p.Height() - a.Height()
	if r == 0 {
		return math.Abs(rise) <= s.within
	}
	s.least, s.most = max(s.least, (rise-s.within)/r), min(s.most, (rise+s.within)/r)
	return s.least <= s.most
}

// stretch is by how much a distance to the side of a leg is seen wider from its start, on the sphere, than on a plane.
func stretch(r float64) float64 {
	angle := r / earth
	if angle < 0.01 {
		return 1 + angle*angle/6 // the next term is a 10⁻¹⁰th
	}
	return angle / math.Sin(min(angle, math.Pi/2))
}

// cone is a range of directions, at most half a turn wide, between two vectors of length 1: the zero value is all of
// them.
type cone struct {
	narrowed       bool
	leftX, leftY   float64
	rightX, rightY float64
}

// sight is a vector of some length as it is seen from a cone's edges: how far inside of either, and how far along it.
type sight struct {
	x, y, length          float64
	left, right           float64
	leftAlong, rightAlong float64
}

func (c *cone) sight(x, y, length float64) sight {
	return sight{x, y, length, x*c.leftY - y*c.leftX, c.rightX*y - c.rightY*x, x*c.leftX + y*c.leftY,
		x*c.rightX + y*c.rightY}
}

// inside says whether the vector is in the cone, to about 10⁻¹² radians.
func (s *sight) inside() bool {
	near := -1e-12 * s.length
	return s.left >= near && s.right >= near && s.leftAlong+s.rightAlong >= near
}

// narrow leaves those directions that pass the end of a vector by no more than a distance, and says whether there are
// any.
func (c *cone) narrow(s *sight, by float64) bool {
	ahead := c.narrowed && s.leftAlong > 0 && s.rightAlong > 0
	if ahead {
		if s.left < -by || s.right < -by {
			return false
		}
		if s.left <= by && s.right <= by {
			return true
		}
	}
	x, y, sin := s.x/s.length, s.y/s.length, min(by/s.length, 1)
	cos := math.Sqrt(1 - sin*sin)
	other := cone{true, x*cos - y*sin, x*sin + y*cos, x*cos + y*sin, y*cos - x*sin}
	if !c.narrowed {
		*c = other
		return true
	}
	left, right := s.left > by, s.right > by
	if !ahead {
		left, right = c.has(other.leftX, other.leftY), c.has(other.rightX, other.rightY)
		if !left && !right && !other.has(c.leftX, c.leftY) {
			return false
		}
	}
	if left {
		c.leftX, c.leftY = other.leftX, other.leftY
	}
	if right {
		c.rightX, c.rightY = other.rightX, other.rightY
	}
	return true
}

// has says whether a direction, a vector of length 1, is in the cone.
func (c *cone) has(x, y float64) bool {
	s := c.sight(x, y, 1)
	return s.inside()
}

// Foot gives the place on the straight leg between two points that is nearest to the origin of a plane: how far off it
// is, in metres, and at which part of the leg, from 0 to 1.
func Foot(plane geodesy.Plane, a, b *nav.Point) (distance, along float64) {
	ax, ay := plane.XY(a.Lat, a.Lon)
	bx, by := plane.XY(b.Lat, b.Lon)
	return foot(ax, ay, bx, by)
}

// foot is that of the origin on a straight line.
func foot(ax, ay, bx, by float64) (distance, along float64) {
	dx, dy := bx-ax, by-ay
	if l := dx*dx + dy*dy; l > 0 {
		along = min(max(-(ax*dx+ay*dy)/l, 0), 1)
	}
	x, y := ax+along*dx, ay+along*dy
	return math.Sqrt(x*x + y*y), along
}

const earth = geodesy.MeanRadius

// leg measures how far places are from the shortest line between two points.
type leg struct {
	a, b              *nav.Point
	plane             geodesy.Plane
	length, direction float64
}

func newLeg(a, b *nav.Point) *leg {
	l := &leg{a: a, b: b, plane: geodesy.NewPlane(a.Lat, a.Lon)}
	l.length, l.direction = l.plane.Polar(b.Lat, b.Lon)
	return l
}

// off is the distance of a point from the line in metres, by the right triangle on a sphere that has the point, the
// start of the line and the nearest place for its corners; distance and direction from the start are the ellipsoid's.
func (l *leg) off(p *nav.Point) float64 {
	r, direction := l.plane.Polar(p.Lat, p.Lon)
	aside := turn(direction - l.direction)
	along := earth * math.Atan2(math.Sin(r/earth)*math.Cos(aside), math.Cos(r/earth))
	switch {
	case along <= 0:
		return r
	case along >= l.length:
		return geodesy.Distance(p.Lat, p.Lon, l.b.Lat, l.b.Lon)
	}
	return earth * math.Abs(math.Asin(math.Sin(r/earth)*math.Sin(aside)))
}

// turn brings an angle in radians into half a turn to either side; the differences of directions that come up are off
// by a whole turn at most, which leaves them exact.
func turn(angle float64) float64 {
	switch {
	case math.Abs(angle) <= math.Pi:
		return angle
	case angle > 0 && angle < 3*math.Pi:
		return angle - 2*math.Pi
	case angle < 0 && angle > -3*math.Pi:
		return angle + 2*math.Pi
	}
	return math.Remainder(angle, 2*math.Pi)
}

// Aside gives for each point between two others of a line how far it is from the leg between these, in metres.
func Aside(points []nav.Point, from, to int, visit func(i int, off float64)) {
	if to-from < 2 {
		return
	}
	l := newLeg(&points[from], &points[to])
	for i := from + 1; i < to; i++ {
		visit(i, l.off(&points[i]))
	}
}

// Sag gives for each point between two others of a line how far its height is from the one that runs evenly between
// these, in metres, by its distance from the first. Points without a height, or between ones without, are left out.
func Sag(points []nav.Point, from, to int, visit func(i int, off float64)) {
	a, b := &points[from], &points[to]
	if to-from < 2 || !a.HasHeight() || !b.HasHeight() {
		return
	}
	plane := geodesy.NewPlane(a.Lat, a.Lon)
	length, _, _ := plane.Toward(b.Lat, b.Lon)
	for i := from + 1; i < to; i++ {
		if p := &points[i]; p.HasHeight() {
			part := 0.0
			if r, _, _ := plane.Toward(p.Lat, p.Lon); length > 0 {
				part = min(r/length, 1)
			}
			visit(i, math.Abs(p.Height()-a.Height()-part*(b.Height()-a.Height())))
		}
	}
}

// DistanceToLeg is how far a point is from the shortest line between two others, in metres.
func DistanceToLeg(p, a, b *nav.Point) float64 { return newLeg(a, b).off(p) }

// Farthest is how far any point of a line is from the legs between those that are kept, in metres, and its height from
// the one there.
func Farthest(points []nav.Point, kept []int) (aside, height float64) {
	for k := 1; k < len(kept); k++ {
		Aside(points, kept[k-1], kept[k], func(_ int, off float64) { aside = max(aside, off) })
		Sag(points, kept[k-1], kept[k], func(_ int, off float64) { height = max(height, off) })
	}
	return
}
