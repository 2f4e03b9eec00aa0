package clean

import (
	"math"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// smooth takes the jitter out of timed segments with the fixed-interval smoother of H. Rauch, F. Tung and C. Striebel
// (AIAA Journal 3(8), 1965) over a model of constant velocity that is shaken by white accelerations (Y. Bar-Shalom,
// X. Li, T. Kirubarajan, Estimation with Applications to Tracking and Navigation, 2001, section 6.2). East and
// north are smoothed alike. The error of a position is the jitter of the recording, at least a metre. Stops, two
// points on one place, stay where they are.
func (w *work) smooth() {
	sigma := math.Max(w.limits.jitter, 1)
	for si := range w.track.Segments {
		points := w.track.Segments[si].Points
		for from := 0; from < len(points); {
			to := from + 1
			for to < len(points) && seconds(&points[to-1], &points[to]) > 0 && !points[to].SamePlace(&points[to-1]) &&
				seconds(&points[to-1], &points[to]) < 60 {
				to++
			}
			if to-from >= 3 {
				moved := rauch(points[from:to], sigma, w.limits.accel)
				if moved > 0 {
					w.row(Smoothed, to-from, moved)
				}
			}
			from = to
		}
	}
}

func (w *work) row(f Fault, count int, off float64) {
	r := w.rows[f]
	if r == nil {
		r = &Row{Fault: f, Kind: nav.Tracks, Item: w.track.Name}
		w.rows[f] = r
	}
	r.Count += count
	r.Off = math.Max(r.Off, off)
}

// state is position and velocity of one coordinate, with their covariance.
type state struct{ x, v, pxx, pxv, pvv float64 }

// rauch smooths one run of points and says how far it moved one at the most.
func rauch(points []nav.Point, sigma, accel float64) (far float64) {
	plane := geodesy.NewPlane(points[0].Lat, points[0].Lon)
	n := len(points)
	xs, ys := make([]float64, n), make([]float64, n)
	dts := make([]float64, n)
	for i := range points {
		xs[i], ys[i] = plane.XY(points[i].Lat, points[i].Lon)
		if i > 0 {
			dts[i] = seconds(&points[i-1], &points[i])
		}
	}
	smoothLine(xs, dts, sigma, accel)
	smoothLine(ys, dts, sigma, accel)
	for i := range points {
		p := &points[i]
		lat, lon := plane.LatLon(xs[i], ys[i])
		old := *p
		p.Lat, p.Lon = lat, nav.WrapLon(lon)
		far = math.Max(far, apart(&old, p))
	}
	return
}

func smoothLine(z, dt []float64, sigma, accel float64) {
	n := len(z)
	r, q := sigma*sigma, accel*accel
	after, before := make([]state, n), make([]state, n) // the filter's estimates with and without each measurement
	after[0] = state{z[0], 0, r, 0, 1e4}
	before[0] = after[0]
	for i := 1; i < n; i++ {
		t, a := dt[i], after[i-1]
		p := state{a.x + t*a.v, a.v, a.pxx + 2*t*a.pxv + t*t*a.pvv + q*t*t*t*t/4, a.pxv + t*a.pvv + q*t*t*t/2, a.pvv + q*t*t}
		before[i] = p
		k1, k2 := p.pxx/(p.pxx+r), p.pxv/(p.pxx+r)
		e := z[i] - p.x
		after[i] = state{p.x + k1*e, p.v + k2*e, (1 - k1) * p.pxx, (1 - k1) * p.pxv, p.pvv - k2*p.pxv}
	}
	s := after[n-1]
	z[n-1] = s.x
	for i := n - 2; i >= 0; i-- {
		a, p, t := after[i], before[i+1], dt[i+1]
		det := p.pxx*p.pvv - p.pxv*p.pxv
		// The gain is the covariance of this state with the next one's forecast, times the inverse of the latter's.
		c11, c12 := a.pxx+t*a.pxv, a.pxv
		c21, c22 := a.pxv+t*a.pvv, a.pvv
		g11, g12 := (c11*p.pvv-c12*p.pxv)/det, (c12*p.pxx-c11*p.pxv)/det
		g21, g22 := (c21*p.pvv-c22*p.pxv)/det, (c22*p.pxx-c21*p.pxv)/det
		ex, ev := s.x-p.x, s.v-p.v
		s = state{x: a.x + g11*ex + g12*ev, v: a.v + g21*ex + g22*ev}
		z[i] = s.x
	}
}

// thin reduces the points of the track.
func (w *work) thin() {
	s := w.step
	lines := make([][]nav.Point, len(w.track.Segments))
	for i := range lines {
		lines[i] = w.track.Segments[i].Points
	}
	var kept [][]int
	switch {
	case s.ThinTo > 0 && w.track.Len() > s.ThinTo:
		kept = shape.ThinTo(lines, s.ThinTo)
	case s.ThinWithin > 0:
		for _, l := range lines {
			kept = append(kept, shape.Thin(l, s.ThinWithin))
		}
	default:
		return
	}
	for si, keep := range kept {
		points := w.track.Segments[si].Points
		var gone []int
		for k := 1; k < len(keep); k++ {
			shape.Aside(points, keep[k-1], keep[k], func(i int, off float64) {
				w.count(Thinned, w.numbers[si][i], off)
				gone = append(gone, i)
			})
			shape.Sag(points, keep[k-1], keep[k], func(_ int, off float64) {
				w.rows[Thinned].Rise = math.Max(w.rows[Thinned].Rise, off)
			})
		}
		w.remove(si, gone)
	}
	if n := w.track.Len(); s.ThinTo > 0 && n > s.ThinTo {
		w.result.Over = append(w.result.Over, Over{w.track.Name, n, len(lines)})
	}
}
