package recast

import (
	"fmt"
	"iter"
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Cut says where lines are split: after every so many metres, span of time or number of points, at one time or the same
// time of every day, or at the waypoints that a name or pattern chooses. One of them is set.
type Cut struct {
	Every     float64
	Span      time.Duration
	At        time.Time
	Daily     bool          // at OfDay of every day
	OfDay     time.Duration // since midnight in Zone
	Zone      *time.Location
	Waypoints []string // names or patterns
	Points    [4]int   // the most points of each kind; 0 is any number
	Unit      string   // that takes so many points; "" where it is not for one
}

// spot is a place on a line: a point, or a part of the leg behind it.
type spot struct {
	index int
	along float64 // 0 is at the point itself
}

func (w *work) split() error {
	c := w.SplitAt
	var marks []nav.Waypoint
	for _, name := range c.Waypoints {
		found := w.marks(name)
		if len(found) == 0 {
			return fmt.Errorf("there is no waypoint or route point %q to split at", name)
		}
		marks = append(marks, found...)
	}
	cuts := 0
	var routes []nav.Route
	for i := range w.data.Routes {
		r := &w.data.Routes[i]
		s := plain(r.Points)
		parts := w.parts(nav.Routes, &s, marks)
		cuts += len(parts) - 1
		for k, part := range parts {
			out := nav.Route{Item: r.Item}
			if len(parts) > 1 {
				out.Name = numbered(r.Name, k, len(parts))
			}
			for j := range part.Points {
				p := part.Waypoint(&part.Points[j])
				if p.Name == "" {
					p.Name = w.pointName(out.Name, j, len(part.Points))
				}
				out.Points = append(out.Points, p)
			}
			routes = append(routes, out)
		}
	}
	var tracks []nav.Track
	for i := range w.data.Tracks {
		t := &w.data.Tracks[i]
		pieces := [][]nav.Segment{nil}
		for j := range t.Segments {
			if j > 0 && c.between(&t.Segments[j-1], &t.Segments[j]) {
				pieces = append(pieces, nil)
			}
			for k, part := range w.parts(nav.Tracks, &t.Segments[j], marks) {
				if k > 0 {
					pieces = append(pieces, nil)
				}
				pieces[len(pieces)-1] = append(pieces[len(pieces)-1], part)
			}
		}
		cuts += len(pieces) - 1
		for k, segments := range pieces {
			out := nav.Track{Item: t.Item, Segments: segments}
			if len(pieces) > 1 {
				out.Name = numbered(t.Name, k, len(pieces))
			}
			tracks = append(tracks, out)
		}
	}
	w.data.Routes, w.data.Tracks = routes, tracks
	if cuts == 0 {
		w.ledger = append(w.ledger, nav.Entry{KindWord: "line", What: "nothing split",
			Why: "no line reaches the place to split at", Count: 1, Loss: true})
	} else {
		w.ledger = append(w.ledger, nav.Entry{KindWord: "line", What: "lines",
			Old: fmt.Sprint(len(routes) + len(tracks) - cuts), New: fmt.Sprint(len(routes) + len(tracks)),
			Why: "split as requested; each part begins where the previous one ends", Count: cuts, Asked: true})
	}
	return nil
}

// marks finds the points of routes that a name or pattern chooses, and the waypoints; of one that a point of a route is
// named after, near by, the point of the route counts.
func (w *work) marks(name string) (marks []nav.Waypoint) {
	pattern := strings.ToLower(name)
	for i := range w.data.Routes {
		for j := range w.data.Routes[i].Points {
			if p := &w.data.Routes[i].Points[j]; choose.Glob(pattern, p.Name) {
				marks = append(marks, *p)
			}
		}
	}
	points := marks
	for i := range w.data.Waypoints {
		p := &w.data.Waypoints[i]
		if choose.Glob(pattern, p.Name) && !slices.ContainsFunc(points, func(q nav.Waypoint) bool {
			return q.Name == p.Name && geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) <= DefaultLendWithin
		}) {
			marks = append(marks, *p)
		}
	}
	return
}

// parts cuts a segment. The point of a cut belongs to both parts.
func (w *work) parts(kind nav.Kind, s *nav.Segment, marks []nav.Waypoint) []nav.Segment {
	places := w.SplitAt.places(kind, s, marks)
	var out []nav.Segment
	part := nav.Segment{Kept: s.Kept}
	carry := nav.Carry{From: s, To: &part}
	add := func(p nav.Point) { part.Points = append(part.Points, carry.Point(p)) }
	next := 0
	for i := range s.Points {
		add(s.Points[i])
		for next < len(places) && places[next].index == i {
			at := s.Points[i]
			if t := places[next].along; t > 0 {
				at = nav.Between(&s.Points[i], &s.Points[i+1], t)
				add(at)
			}
			out = append(out, part)
			part, carry = nav.Segment{}, nav.Carry{From: s, To: &part}
			add(at)
			next++
		}
	}
	return append(out, part)
}

// places finds where a segment is cut, never at its ends.
func (c *Cut) places(kind nav.Kind, s *nav.Segment, marks []nav.Waypoint) (out []spot) {
	points := s.Points
	n := len(points)
	seen := map[spot]bool{}
	add := func(i int, along float64) {
		if along >= 1 {
			i, along = i+1, 0
		}
		if i < 0 || i == 0 && along <= 0 || i >= n-1 {
			return
		}
		p := spot{i, along}
		if !seen[p] {
			seen[p] = true
			out = append(out, p)
		}
	}
	switch most := c.Points[kind]; {
	case most > 1:
		for i := most - 1; i < n-1; i += most - 1 {
			add(i, 0)
		}
	case c.Every > 0:
		sum, due := 0.0, c.Every
		for i := 0; i+1 < n; i++ {
			leg := geodesy.Distance(points[i].Lat, points[i].Lon, points[i+1].Lat, points[i+1].Lon)
			for due <= sum+leg {
				t := (due - sum) / leg
				const there = 0.01 // metres: the point itself
				if (1-t)*leg < there || t*leg < there {
					t = math.Round(t)
				}
				add(i, t)
				due += c.Every
			}
			sum += leg
		}
	case c.Span > 0 || !c.At.IsZero() || c.Daily:
		due, begun := c.At.UnixNano(), !c.At.IsZero()
		for i := range points {
			if !points[i].HasTime() {
				continue
			}
			at := points[i].UnixNano()
			if c.Daily && i > 0 && points[i-1].HasTime() {
				due = c.next(points[i-1].Time())
			}
			if c.Span > 0 && !begun {
				due, begun = at+int64(c.Span), true
			}
			if at >= due && (c.Span > 0 || i > 0 && points[i-1].HasTime() && points[i-1].UnixNano() < due) {
				add(i, 0)
				for c.Span > 0 && due <= at {
					due += int64(c.Span)
				}
			}
		}
	default:
		legs := shape.NewLegs(points)
		for m := range marks {
			passages(points, legs, &marks[m], add)
		}
		slices.SortFunc(out, func(a, b spot) int {
			if a.index != b.index {
				return a.index - b.index
			}
			return int(math.Copysign(1, a.along-b.along))
		})
		// Two marks on one spot cut once.
		out = slices.CompactFunc(out, func(a, b spot) bool { return a.index == b.index && math.Abs(a.along-b.along) < 1e-9 })
	}
	return
}

// between says whether the time of day at which lines are split lies between two segments.
func (c *Cut) between(a, b *nav.Segment) bool {
	last, first := timed(slices.Backward(a.Points)), timed(slices.All(b.Points))
	return c.Daily && last != nil && first != nil && first.UnixNano() >= c.next(last.Time())
}

// timed gives the first point with a time of those that come; nil where none has one.
func timed(points iter.Seq2[int, nav.Point]) *nav.Point {
	for _, p := range points {
		if p.HasTime() {
			return &p
		}
	}
	return nil
}

// next gives the first time after another at which it is the time of day.
func (c *Cut) next(after time.Time) int64 {
	t := after.In(c.Zone)
	day := time.Date(t.Year(), t.Month(), t.Day(), 0, 0, 0, 0, c.Zone)
	at := day.Add(c.OfDay)
	if !at.After(t) {
		at = day.AddDate(0, 0, 1).Add(c.OfDay)
	}
	return at.UnixNano()
}

// passages cuts a line, each time that it comes by a waypoint, where it is nearest.
func passages(points []nav.Point, legs *shape.Legs, mark *nav.Waypoint, add func(int, float64)) {
	plane := geodesy.NewPlane(mark.Lat, mark.Lon)
	best, at, along := math.Inf(1), -1, 0.0
	flush := func() {
		if at >= 0 && best <= DefaultLendWithin {
			a, b := &points[at], &points[at+1]
			length := geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)
			if a.HasTime() && b.HasTime() || along*length < 5 || (1-along)*length < 5 {
				along = math.Round(along)
			}
			add(at, along)
		}
		best, at = math.Inf(1), -1
	}
	last := -1
	for _, i := range legs.Within(mark.Lat, mark.Lon, 2*DefaultLendWithin) {
		d, t := shape.Foot(plane, &points[i], &points[i+1])
		if d > 2*DefaultLendWithin || i != last+1 {
			flush()
		}
		if last = i; d <= 2*DefaultLendWithin && d < best-1e-6 {
			best, at, along = d, i, t
		}
	}
	flush()
}
