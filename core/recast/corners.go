package recast

import (
	"cmp"
	"fmt"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// lent is a waypoint of the data that lies on a line.
type lent struct {
	from     *nav.Waypoint
	leg      int     // of the line, from 0
	along    float64 // 0 to 1 on that leg
	distance float64
}

// routePoints makes the points of a route of a segment: few enough, as near to its shape as they can be. Waypoints that
// lie on it become points of their own, with their names and symbols.
func (w *work) routePoints(s *nav.Segment, name string, waypoints []nav.Waypoint) []nav.Waypoint {
	line, names := place(s.Points, w.lending(s.Points, waypoints))
	kept := w.corners(line, names)
	if len(kept) < len(line) {
		aside, height := shape.Farthest(line, kept)
		why := fmt.Sprintf("the route stays within %s of the track", metres(aside))
		if height > 0 {
			why += fmt.Sprintf(", and its heights within %s", metres(height))
		}
		w.changed(nav.Tracks, name, "points", fmt.Sprint(len(s.Points)), fmt.Sprint(len(kept)), why)
	}
	var out []nav.Waypoint
	for _, i := range kept {
		p := s.Waypoint(&line[i])
		if from := names[i]; from != nil {
			p.Name, p.Desc, p.Comment, p.Style, p.Links = from.Name, from.Desc, from.Comment, from.Style, from.Links
		}
		out = append(out, p)
	}
	for i := range out {
		if out[i].Name == "" {
			out[i].Name = w.pointName(name, i, len(out))
		}
	}
	return out
}

func metres(v float64) string {
	if v < 10 {
		return fmt.Sprintf("%.1f m", v)
	}
	return fmt.Sprintf("%.0f m", v)
}

// lending finds the waypoints on a line, from its end to its start.
func (w *work) lending(line []nav.Point, waypoints []nav.Waypoint) []lent {
	if len(line) < 2 || len(waypoints) == 0 {
		return nil
	}
	limit := w.LendWithin
	if limit == 0 {
		limit = DefaultLendWithin
	}
	legs := shape.NewLegs(line)
	var out []lent
	for i := range waypoints {
		p := &waypoints[i]
		plane := geodesy.NewPlane(p.Lat, p.Lon)
		if p.Name == "" || shape.PlaneBoxDistance(plane, p.Lat, p.Lon, legs.Low, legs.High) > limit {
			continue
		}
		if at := legs.Nearest(plane, p.Lat, p.Lon); at.Distance <= limit {
			out = append(out, lent{p, at.Leg, at.Along, at.Distance})
		}
	}
	slices.SortStableFunc(out, func(a, b lent) int {
		if c := cmp.Compare(b.leg, a.leg); c != 0 {
			return c
		}
		return cmp.Compare(b.along, a.along)
	})
	return out
}

// place gives a waypoint's name to the nearest corner of its leg, if that is not farther along than a waypoint would be
// off the line, and puts a point on the leg otherwise. Of two waypoints at a corner the one that is farther along the
// line has it.
func place(points []nav.Point, lending []lent) (line []nav.Point, names []*nav.Waypoint) {
	corners := make([]*nav.Waypoint, len(points))
	between := lending[:0] // what gets a point of its own
	for _, l := range lending {
		a, b := &points[l.leg], &points[l.leg+1]
		length := geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)
		switch near := max(l.distance, 5); {
		case l.along*length <= near && corners[l.leg] == nil:
			corners[l.leg] = l.from
		case (1-l.along)*length <= near && corners[l.leg+1] == nil:
			corners[l.leg+1] = l.from
		default:
			between = append(between, l)
		}
	}
	if len(between) == 0 {
		return points, corners
	}
	for i := range points {
		line, names = append(line, points[i]), append(names, corners[i])
		for len(between) > 0 && between[len(between)-1].leg == i {
			l := between[len(between)-1]
			between = between[:len(between)-1]
			line = append(line, nav.Between(&points[i], &points[i+1], l.along))
			names = append(names, l.from)
		}
	}
	return
}

// corners chooses the points of a line that a route needs. Named ones stay, as far as there is room for them.
func (w *work) corners(line []nav.Point, names []*nav.Waypoint) []int {
	if len(line) < 3 || w.Within == 0 && (w.MaxPoints == 0 || len(line) <= w.MaxPoints) {
		return indices(len(line))
	}
	most := w.MaxPoints
	if most == 0 {
		most = len(line)
	}
	return shape.ThinKeeping(line, func(i int) bool { return names[i] != nil }, w.Within, most)
}

func indices(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}
