package lay

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/template"
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

// position gives where one is after a distance, with the height and the time that the line has there, and the course.
func (w *walker) position(distance float64) (p nav.Point, course float64) {
	i, _ := slices.BinarySearch(w.at[1:len(w.at)-1], distance)
	i++ // the first point that is not before it
	a, b := &w.points[i-1], &w.points[i]
	_, first, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
	lat, lon, course := geodesy.Direct(a.Lat, a.Lon, first, distance-w.at[i-1])
	part := 0.0
	if leg := w.at[i] - w.at[i-1]; leg > 0 {
		part = (distance - w.at[i-1]) / leg
	}
	p = nav.Between(a, b, part).Loose()
	q := exact(lat, lon)
	p.Lat, p.Lon, p.LatPrecision, p.LonPrecision = q.Lat, q.Lon, q.LatPrecision, q.LonPrecision
	return p, course
}

// reached gives how far along the line one is at whole spans since its first time, those in which it has times.
func (w *walker) reached(every time.Duration) (out []float64) {
	start, next := int64(0), int64(0)
	for i := range w.points {
		p := &w.points[i]
		switch {
		case !p.HasTime():
		case len(out) == 0:
			start, next = p.UnixNano(), p.UnixNano()+int64(every)
			out = append(out, w.at[i])
		case i > 0 && w.points[i-1].HasTime():
			q := &w.points[i-1]
			for ; next <= p.UnixNano() && next > start && len(out) <= mostLaid; next += int64(every) {
				part := 1.0
				if span := p.UnixNano() - q.UnixNano(); span > 0 {
					part = float64(next-q.UnixNano()) / float64(span)
				}
				out = append(out, w.at[i-1]+part*(w.at[i]-w.at[i-1]))
			}
		}
	}
	return out
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
	var places []float64
	if s.Every > 0 {
		if places = w.reached(s.Every); len(places) == 0 {
			return fmt.Errorf("%q has no times, from which its points every %s could be taken", name, measure.Exactly(s.Every))
		}
	} else if w.length()/s.Spacing <= mostLaid {
		for i := range int(w.length()/s.Spacing+1e-9) + 1 {
			places = append(places, float64(i)*s.Spacing)
		}
	}
	if len(places) == 0 || len(places) > mostLaid {
		return fmt.Errorf("along %q there would be more than %d; use a wider spacing", name, mostLaid)
	}
	digits := len(strconv.Itoa(len(places)))
	for i, along := range places {
		p, course := w.position(along)
		label := fmt.Sprintf("%0*d", digits, i+1)
		if s.What == Points {
			q := nav.Waypoint{Point: p}
			q.Name = s.pointName(name, label, along)
			q.Fields = []nav.Field{{Key: "along m", Value: string(decimal.AppendShort(nil, along, 2))}}
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

// pointName is the name of a point along a line: that of a template, or the line's with a number.
func (s *Step) pointName(line, number string, along float64) string {
	if !template.Has(s.Name, "along", "number", "name") {
		return s.named("Point", line, false) + " " + number
	}
	_, of := s.Measure.LongMeasure()
	decimals := 0
	for unit := of; decimals < 3 && s.Spacing > 0 && math.Abs(math.Remainder(s.Spacing, unit)) > 1e-6*unit; unit /= 10 {
		decimals++
	}
	if s.Every > 0 {
		decimals = 2
	}
	return template.Replace(s.Name, func(word string) (string, bool) {
		switch word {
		case "along":
			return strconv.FormatFloat(along/of, 'f', decimals, 64), true
		case "number":
			return number, true
		case "name":
			return line, true
		}
		return "", false
	})
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
