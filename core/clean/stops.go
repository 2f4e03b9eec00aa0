package clean

import (
	"math"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Stops is the word of this fault.
const Stops Fault = "stops"

var stops = fault{
	word:     Stops,
	help:     "the scatter of a halt, reduced to two points: arrival and departure",
	found:    "scatter recorded while standing still",
	done:     "each halt reduced to two points",
	count:    "stops",
	measured: true,
	round:    (*work).stops,
}

// stops turns the knot that a receiver draws while it stands still into two points at one place: arrival and
// departure. The place is the median of the knot's positions. When the carrier arrived is told by going on at the
// speed at which it came, since the first positions near the place are of its coming.
func (w *work) stops(si int) {
	seg := &w.track.Segments[si]
	within := orFloat(w.step.StopWithin, math.Max(DefaultStopWithin, 4*w.limits.jitter))
	longer := orDuration(w.step.StopLonger, DefaultStopLonger)
	points := seg.Points
	var gone []int
	inOrder := timesAscend(points)
	after := ahead{points: points}
	for i := 0; i < len(points); {
		if inOrder {
			if !after.move(i, longer) {
				break
			}
			if !after.mayStand(within) {
				i++
				continue
			}
		}
		if !points[i].HasTime() || isStop(points, i, longer) || i > 0 && again(&points[i-1], &points[i]) {
			i++ // where no knot begins at a point, none does at its repetition
			continue
		}
		end := knot(points, i, within, longer)
		if end-i < 3 || seconds(&points[i], &points[end-1]) < longer {
			i++
			continue
		}
		place := median(points[i:end])
		from, to := arrival(points, i, end, within, &place), departure(points, i, end, within, &place)
		if to-from < 2 || seconds(&points[from], &points[to]) < longer {
			i = max(i+1, end-1)
			continue
		}
		far := 0.0
		for k := from + 1; k < to; k++ {
			off := apart(&points[k], &place)
			far = math.Max(far, off)
			w.step.list(&w.result, Removed{Stops, nav.Tracks, w.track.Name, int(w.numbers[si][k]), points[k], off, ""})
			gone = append(gone, k)
		}
		w.changes++
		w.row(Stops, 1, far)
		if r := w.rows[Stops]; r.Number == 0 {
			r.Number = int(w.numbers[si][from])
		}
		height, has := medianHeight(points[from : to+1])
		for _, k := range [2]int{from, to} {
			p := &points[k]
			p.Lat, p.Lon, p.LatPrecision, p.LonPrecision = place.Lat, place.Lon, place.LatPrecision, place.LonPrecision
			if has {
				p.SetHeight(height, p.HeightPrecision(), p.VerticalDatum())
			}
		}
		i = to + 1
		after = ahead{points: points, from: i, to: i} // some of those behind were moved
	}
	w.remove(si, gone)
}

// timesAscend says whether all points have times, none of them before the last.
func timesAscend(points []nav.Point) bool {
	for i := range points {
		if !points[i].HasTime() || i > 0 && points[i].UnixNano() < points[i-1].UnixNano() {
			return false
		}
	}
	return true
}

// ahead looks from a point, in the order of times, to the first one that is so long after it.
type ahead struct {
	points   []nav.Point
	from, to int
	lat, lon float64 // sums from the one up to the other; longitudes go on beyond 180 degrees
	begin    float64 // the longitude at from
	end      float64 // the longitude at to
}

// move goes on to a point. There is none so long after it where it says false.
func (a *ahead) move(i int, longer float64) bool {
	for ; a.from < i; a.from++ {
		if a.to == a.from {
			a.take()
		}
		a.lat, a.lon = a.lat-a.points[a.from].Lat, a.lon-a.begin
		a.begin += a.step(a.from)
	}
	for a.to < len(a.points) && (a.to == i || seconds(&a.points[i], &a.points[a.to]) < longer) {
		a.take()
	}
	return a.to < len(a.points)
}

func (a *ahead) take() {
	a.lat, a.lon = a.lat+a.points[a.to].Lat, a.lon+a.end
	a.end += a.step(a.to)
	a.to++
}

// step is by how much the longitude differs from one point to the next.
func (a *ahead) step(i int) float64 {
	if i+1 >= len(a.points) {
		return 0
	}
	return nav.WrapLon(a.points[i+1].Lon - a.points[i].Lon)
}

// mayStand says whether a knot that begins here can last so long: the point that long after must be near the middle of
// those before it.
func (a *ahead) mayStand(within float64) bool {
	const rounding = 1.001 // of the sums, and more
	n := float64(a.to - a.from)
	x, y := geodesy.NewPlane(a.points[a.from].Lat, 0).XY(a.points[a.from].Lat+a.points[a.to].Lat-a.lat/n, a.end-a.lon/n)
	return x*x+y*y <= within*within*rounding*rounding
}

// again says whether a point is at the place and time of the one before.
func again(p, q *nav.Point) bool {
	return p.SamePlace(q) && p.HasTime() && q.HasTime() && q.Since(p) == 0
}

// isStop says whether two points are the arrival and departure of a stop already.
func isStop(points []nav.Point, i int, longer float64) bool {
	return i+1 < len(points) && points[i].SamePlace(&points[i+1]) && seconds(&points[i], &points[i+1]) >= longer
}

// knot gives the end of the run of points from i on that stay within a distance of their own middle.
func knot(points []nav.Point, i int, within, longer float64) int {
	plane := geodesy.NewPlane(points[i].Lat, points[i].Lon)
	sx, sy, n := 0.0, 0.0, 0.0
	end := i
	for end < len(points) && points[end].HasTime() && !isStop(points, end, longer) {
		x, y := plane.XY(points[end].Lat, points[end].Lon)
		if dx, dy := x*n-sx, y*n-sy; n > 0 && dx*dx+dy*dy > within*within*n*n {
			break
		}
		sx, sy, n = sx+x, sy+y, n+1
		end++
	}
	return end
}

// median gives the median position of points.
func median(points []nav.Point) nav.Point {
	lats, lons := make([]float64, len(points)), make([]float64, len(points))
	for i := range points {
		lats[i] = points[i].Lat
		lons[i] = nav.WrapLon(points[i].Lon - points[0].Lon)
	}
	slices.Sort(lats)
	slices.Sort(lons)
	out := nav.At(lats[len(lats)/2], points[0].Lon+lons[len(lons)/2])
	// A position of this knot's own precision, so that the file does not grow digits that mean nothing.
	out.LatPrecision, out.LonPrecision = points[0].LatPrecision, points[0].LonPrecision
	for _, d := range [2]struct {
		v *float64
		n nav.Precision
	}{{&out.Lat, out.LatPrecision}, {&out.Lon, out.LonPrecision}} {
		if n, given := d.n.Decimals(); given && n < 12 {
			scale := math.Pow10(n)
			*d.v = math.Round(*d.v*scale) / scale
		}
	}
	return out
}

func medianHeight(points []nav.Point) (float64, bool) {
	var h []float64
	for i := range points {
		if points[i].HasHeight() {
			h = append(h, points[i].Height())
		}
	}
	if len(h) == 0 {
		return 0, false
	}
	slices.Sort(h)
	return h[len(h)/2], true
}

// arrival finds the point of a knot from which on the carrier stood.
func arrival(points []nav.Point, i, end int, within float64, place *nav.Point) int {
	return standsAt(points, place, i, end-1, 1, within)
}

// departure is arrival, told backwards.
func departure(points []nav.Point, i, end int, within float64, place *nav.Point) int {
	return standsAt(points, place, end-1, i, -1, within)
}

// longestApproach is how many points before a knot are looked at.
const longestApproach = 30

// standsAt goes into a knot from one side and finds where movement ends. It takes the steps from one position to the
// next to be those of a steady movement up to a break and of none after it, with errors that are alike: the error of a
// receiver wanders, and steps tell more than places. The break that fits best (least squares for a single change of a
// mean, E. Page, Biometrika 44, 1957) is where the squared way from the start, divided by the time that it took, is
// greatest.
func standsAt(points []nav.Point, place *nav.Point, first, last, step int, within float64) int {
	outer := first
	for n := 0; n < longestApproach; n++ {
		k := outer - step
		if k < 0 || k >= len(points) || !points[k].HasTime() {
			break
		}
		outer = k
		if apart(&points[k], place) > 2*within {
			break
		}
	}
	if outer == first {
		return first
	}
	inner := first
	for inner != last && apart(&points[inner], place) > within/4 {
		inner += step
	}
	before := (inner - outer) * step
	count := min(2*before+6, (last-outer)*step+1)
	start := &points[outer]
	best, bestFit := before, 0.0
	for n := 1; n < count; n++ {
		p := &points[outer+n*step]
		d, t := apart(start, p), math.Abs(seconds(start, p))
		if t > 0 && d*d/t > bestFit {
			best, bestFit = n, d*d/t
		}
	}
	k := outer + best*step
	if (k-first)*step < 0 { // a stop begins in its knot
		return first
	}
	return k
}
