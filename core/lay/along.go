package lay

import (
	"fmt"
	"math"
	"slices"
	"strconv"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// walker goes along a line on the ground.
type walker struct {
	points []nav.Point
	at     []float64 // metres from the start to each point
}

func newWalker(points []nav.Point) *walker {
	w := &walker{points: points, at: make([]float64, len(points))}
	for i := 1; i < len(points); i++ {
		p, q := &points[i-1], &points[i]
		w.at[i] = w.at[i-1] + geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon)
	}
	return w
}

func (w *walker) length() float64 { return w.at[len(w.at)-1] }

// position gives where one is after a distance, and the course there.
func (w *walker) position(distance float64) (p nav.Point, course float64) {
	i, _ := slices.BinarySearch(w.at[1:len(w.at)-1], distance)
	i++ // the first point that is not before it
	a, b := &w.points[i-1], &w.points[i]
	_, first, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
	lat, lon, course := geodesy.Direct(a.Lat, a.Lon, first, distance-w.at[i-1])
	return exact(lat, lon), course
}

// along lays points, lines across or a track line search along a line.
func (s *Step) along(out *nav.Dataset, name string, points []nav.Point) error {
	if len(points) < 2 {
		return nil
	}
	w := newWalker(points)
	if w.length() == 0 {
		return nil
	}
	if s.What == TrackReturn || s.What == TrackNonReturn {
		s.trackLine(out, name, points)
		return nil
	}
	if w.length()/s.Spacing > mostLaid {
		return fmt.Errorf("along %q there would be more than %d; use a wider spacing", name, mostLaid)
	}
	n := int(w.length()/s.Spacing+1e-9) + 1
	digits := len(strconv.Itoa(n))
	for i := range n {
		p, course := w.position(float64(i) * s.Spacing)
		label := fmt.Sprintf("%0*d", digits, i+1)
		if s.What == Points {
			q := nav.Waypoint{Point: p}
			q.Name = s.named("Point", name, false) + " " + label
			out.Waypoints = append(out.Waypoints, q)
			continue
		}
		f := frame{p.Lat, p.Lon, course}
		r := nav.Route{Item: nav.Item{Name: s.named("Section", name, false) + " " + label}}
		r.Points = []nav.Waypoint{laid(f, place{0, -s.Width / 2}, label+"L"), laid(f, place{0, s.Width / 2}, label+"R")}
		out.Routes = append(out.Routes, r)
	}
	return nil
}

// trackLine lays a track line search: passes beside the line, out and back, so far apart.
func (s *Step) trackLine(out *nav.Dataset, name string, points []nav.Point) {
	offsets, usual := []float64{-s.Spacing / 2, s.Spacing / 2}, "Track line search, return"
	if s.What == TrackNonReturn {
		offsets, usual = []float64{-s.Spacing, 0, s.Spacing}, "Track line search, non-return"
	}
	if s.Left {
		for i := range offsets {
			offsets[i] = -offsets[i]
		}
	}
	r := nav.Route{Item: nav.Item{Name: s.named(usual, name, false)}}
	for pass, off := range offsets {
		line := beside(points, off)
		if pass%2 == 1 {
			slices.Reverse(line)
		}
		for i := range line {
			w := nav.Waypoint{Point: line[i]}
			w.Name = fmt.Sprintf("%d-%d", pass+1, i+1)
			r.Points = append(r.Points, w)
		}
	}
	out.Routes = append(out.Routes, r)
}

// beside gives a line so many metres to the right of another: at its corners where the two sides meet, but no farther
// than twice the distance.
func beside(points []nav.Point, off float64) (out []nav.Point) {
	for i := range points {
		p := &points[i]
		var before, after float64
		switch {
		case i == 0:
			_, after, _ = geodesy.Inverse(p.Lat, p.Lon, points[1].Lat, points[1].Lon)
			before = after
		case i == len(points)-1:
			_, _, before = geodesy.Inverse(points[i-1].Lat, points[i-1].Lon, p.Lat, p.Lon)
			after = before
		default:
			_, _, before = geodesy.Inverse(points[i-1].Lat, points[i-1].Lon, p.Lat, p.Lon)
			_, after, _ = geodesy.Inverse(p.Lat, p.Lon, points[i+1].Lat, points[i+1].Lon)
		}
		half := math.Remainder(after-before, 360) / 2
		far := off / max(math.Cos(half*math.Pi/180), 0.5)
		lat, lon, _ := geodesy.Direct(p.Lat, p.Lon, before+half+90, far)
		out = append(out, exact(lat, lon))
	}
	return
}
