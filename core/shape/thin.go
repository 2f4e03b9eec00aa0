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
// their indices; the first and the last are always among them. On timed lines points also keep near their place
// along the line at their time. From each point it goes to the farthest next one that keeps to that, by
// narrowing the cone of directions that pass all points between (H. Imai and M. Iri, J. Information Processing
// 9(3), 1986), which are those of geodesics; of the last few points that it could go to it takes the one from which the
// next leg leads farthest. The cost is linear.
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

// patience bounds how far beyond the last good next point the search goes on, so that no line has a bad case.
const patience = 64

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
	slow, fast := 0.0, math.Inf(1)
	along := math.Max(alongTimes*within, alongLeast)
	opening := math.Sin(within / earth)
	for k := at + 1; k < len(points) && k-best <= patience+2*(best-at); k++ {
		p := &points[k]
		r, east, north := plane.Toward(p.Lat, p.Lon)
		timed := a.HasTime() && p.HasTime()
		dt := p.Since(a).Seconds()
		if (r >= reach-1e-9 || reach <= within) &&
			(r == 0 || passing.has(east, north)) &&
			(!timed || dt <= 0 || r/dt >= slow && r/dt <= fast) {
			// Of the nearer ones those are kept that are spread over the last part of the way.
			if k-out[1] > (k-at)/16 {
				copy(out[2:], out[1:])
				out[1] = best
			}
			best = k
			out[0] = k
		}
		reach = math.Max(reach, r)
		if r > within {
			if !passing.narrow(east, north, min(opening/sine(r/earth), 1)) {
				break
			}
		}
		if timed && dt > 0 {
			slow, fast = math.Max(slow, (r-along)/dt), math.Min(fast, (r+along)/dt)
			if slow > fast {
				break
			}
		}
	}
	return out
}

// sine is that of an angle between 0 and a right one, at which it stops; it is quick for short legs.
func sine(angle float64) float64 {
	if angle < 0.01 {
		a2 := angle * angle
		return angle * (1 - a2/6*(1-a2/20)) // the next term is a 10⁻¹⁷th
	}
	return math.Sin(math.Min(angle, math.Pi/2))
}

// cone is a range of directions, at most half a turn wide, between two vectors of length 1: the zero value is all of
// them.
type cone struct {
	narrowed       bool
	leftX, leftY   float64
	rightX, rightY float64
}

// has says whether a direction is in the cone, to about 10⁻¹² radians.
func (c *cone) has(x, y float64) bool {
	const near = 1e-12
	return !c.narrowed || c.rightX*y-c.rightY*x >= -near && x*c.leftY-y*c.leftX >= -near &&
		x*(c.leftX+c.rightX)+y*(c.leftY+c.rightY) >= -near
}

// narrow leaves those directions that are off from another one by an angle of that sine at most, and says whether there
// are any.
func (c *cone) narrow(x, y, sin float64) bool {
	cos := math.Sqrt(1 - sin*sin)
	by := cone{true, x*cos - y*sin, x*sin + y*cos, x*cos + y*sin, y*cos - x*sin}
	if !c.narrowed {
		*c = by
		return true
	}
	left, right := c.has(by.leftX, by.leftY), c.has(by.rightX, by.rightY)
	if !left && !right && !by.has(c.leftX, c.leftY) {
		return false
	}
	if left {
		c.leftX, c.leftY = by.leftX, by.leftY
	}
	if right {
		c.rightX, c.rightY = by.rightX, by.rightY
	}
	return true
}

// thinning is a line on its way to few points: those that are left of it, and where they stood.
type thinning struct {
	points []nav.Point
	at     []int // nil while all are left
}

// keep leaves some of the points that are left.
func (t *thinning) keep(kept []int) {
	points := make([]nav.Point, len(kept))
	for i, k := range kept {
		points[i] = t.points[k]
	}
	t.points, t.at = points, t.original(kept)
}

// original says where points stood in the whole line.
func (t *thinning) original(kept []int) []int {
	if t.at == nil {
		return kept
	}
	out := make([]int, len(kept))
	for i, k := range kept {
		out[i] = t.at[k]
	}
	return out
}

// ThinTo finds the tolerance at which lines keep at most a number of points in all, and gives the indices that
// each of them keeps. Ends stay, so that it is never fewer than two points a line.
func ThinTo(lines [][]nav.Point, most int) [][]int {
	left := make([]thinning, len(lines))
	for i, l := range lines {
		left[i].points = l
	}
	try := func(within float64, weighed int) (kept [][]int, total int) {
		for i := range left {
			k := thin(left[i].points, within, weighed, most-total)
			if kept, total = append(kept, left[i].original(k)), total+len(k); total > most {
				break
			}
		}
		return
	}
	low, high := 0.01, 0.02
	for high < 1e8 {
		if _, total := try(high, 1); total <= most {
			break
		}
		low, high = high, high*4
	}
	// What a small part of a tolerance leaves out that is known to be too small need not be looked at again.
	const part = 128
	for i := range left {
		left[i].keep(thin(left[i].points, low/part, 1, math.MaxInt))
	}
	// The quick way brackets the tolerance; the thorough one, which keeps fewer, ends the search.
	var best [][]int
	thorough := false
	for round := range 9 {
		middle, weighed := math.Sqrt(low*high), 1
		if round > 5 {
			low, weighed = low*0.9, choices
		}
		if kept, total := try(middle, weighed); total <= most {
			best, high, thorough = kept, middle, weighed > 1
		} else {
			low = middle
		}
	}
	if !thorough {
		if kept, total := try(high, choices); total <= most || best == nil {
			best = kept
		}
	}
	return best
}

// Foot gives the place on the straight leg between two points that is nearest to the origin of a plane: how far off it
// is, in metres, and at which part of the leg, from 0 to 1.
func Foot(plane geodesy.Plane, a, b *nav.Point) (distance, along float64) {
	ax, ay := plane.XY(a.Lat, a.Lon)
	bx, by := plane.XY(b.Lat, b.Lon)
	dx, dy := bx-ax, by-ay
	if l := dx*dx + dy*dy; l > 0 {
		along = math.Min(math.Max(-(ax*dx+ay*dy)/l, 0), 1)
	}
	return math.Hypot(ax+along*dx, ay+along*dy), along
}

// earth is a radius of the earth, metres, as it is needed to open an angle with the distance.
const earth = 6_371_000.0

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

// DistanceToLeg is how far a point is from the shortest line between two others, in metres.
func DistanceToLeg(p, a, b *nav.Point) float64 { return newLeg(a, b).off(p) }

// Farthest is how far any point of a line is from the legs between those that are kept, in metres.
func Farthest(points []nav.Point, kept []int) (far float64) {
	for k := 1; k < len(kept); k++ {
		Aside(points, kept[k-1], kept[k], func(_ int, off float64) { far = max(far, off) })
	}
	return
}
