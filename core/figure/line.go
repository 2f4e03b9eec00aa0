package figure

import (
	"math"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
)

// PointWords are the words for what is worked out at the points of routes and tracks, from a point and the one before
// it. Speed and course are worked out where no point of the line states them.
var PointWords = []string{"along", "leg-distance", "elapsed", "speed", "course", "climb-rate", "slope"}

// Line is a line whose points are asked by their number, from 0 on, through all of its segments.
type Line struct {
	points []*nav.Point
	along  []float64 // from the first point to each, along the segments
	begins map[int]bool
	first  *nav.Point // the earliest with a time
	ends   []int      // the points at which legs end, in their order
}

// LineOf gives the line of a route or a track; nil of anything else.
func LineOf(t identity.Thing) *Line {
	l := &Line{begins: map[int]bool{}}
	switch t.Kind {
	case nav.Routes:
		for i := range t.Route.Points {
			l.add(&t.Route.Points[i].Point, i == 0)
		}
	case nav.Tracks:
		for i := range t.Track.Segments {
			points := t.Track.Segments[i].Points
			for k := range points {
				l.add(&points[k], k == 0)
			}
		}
	default:
		return nil
	}
	return l
}

func (l *Line) add(p *nav.Point, begins bool) {
	n := len(l.points)
	if begins {
		l.begins[n] = true
	}
	along := 0.0
	if n > 0 {
		if along = l.along[n-1]; !begins {
			q := l.points[n-1]
			along += geodesy.Distance(q.Lat, q.Lon, p.Lat, p.Lon)
		}
	}
	if p.HasTime() && (l.first == nil || p.UnixNano() < l.first.UnixNano()) {
		l.first = p
	}
	if !begins {
		l.ends = append(l.ends, n)
	}
	l.points, l.along = append(l.points, p), append(l.along, along)
}

// On gives how far along the line a place is that lies so much of a leg from its start, the place with its height and
// time, and the course there. The legs are numbered from 0 through all segments; a line without legs has its point.
func (l *Line) On(leg int, part float64) (along float64, at nav.Point, course float64) {
	if leg < 0 || leg >= len(l.ends) {
		return 0, *l.points[0], math.NaN()
	}
	i := l.ends[leg]
	p, q := l.points[i-1], l.points[i]
	_, course, _ = geodesy.Inverse(p.Lat, p.Lon, q.Lat, q.Lon)
	return l.along[i-1] + part*(l.along[i]-l.along[i-1]), nav.Between(p, q, part), course
}

// Value gives what a word asks for of a point: metres, metres a second, degrees, per cent of slope, or a span; nil
// where it is not known.
func (l *Line) Value(word string, i int) any {
	if l == nil || i < 0 || i >= len(l.points) {
		return nil
	}
	p := l.points[i]
	switch word {
	case "along":
		return l.along[i]
	case "elapsed":
		if p.HasTime() {
			return p.Since(l.first)
		}
		return nil
	}
	if l.begins[i] {
		return nil
	}
	q, step := l.points[i-1], l.along[i]-l.along[i-1]
	var span time.Duration
	if p.HasTime() && q.HasTime() {
		span = p.Since(q)
	}
	rise, known := 0.0, p.HasHeight() && q.HasHeight() && p.VerticalDatum().Comparable(q.VerticalDatum())
	if known {
		rise = p.Height() - q.Height()
	}
	switch {
	case word == "leg-distance":
		return step
	case word == "speed" && span > 0:
		return step / span.Seconds()
	case word == "course" && step > 0:
		_, course, _ := geodesy.Inverse(q.Lat, q.Lon, p.Lat, p.Lon)
		return course
	case word == "climb-rate" && known && span > 0:
		return rise / span.Seconds()
	case word == "slope" && known && step > 0:
		return 100 * rise / step
	}
	return nil
}

// Unsure is how far a value may be off where heights were rounded to a tenth, and speeds to a hundredth of any measure.
func (l *Line) Unsure(word string, i int) float64 {
	const height, speed = 0.1, 0.006
	if i == 0 {
		return 0
	}
	switch p, q := l.points[i], l.points[i-1]; word {
	case "speed":
		return speed
	case "climb-rate":
		return height / max(p.Since(q).Seconds(), 0.001)
	case "slope":
		return 100 * height / max(l.along[i]-l.along[i-1], 0.01)
	}
	return 0
}
