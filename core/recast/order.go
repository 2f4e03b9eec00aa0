package recast

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/figure"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// string makes routes, tracks or areas of waypoints, one for each group, or all of them in one where a name is given.
// It says whether the waypoints were used.
func (w *work) string(waypoints []nav.Waypoint, to nav.Kind) (bool, error) {
	var groups []string
	of := map[string][]nav.Waypoint{}
	for _, p := range waypoints {
		g := p.Group
		if w.Name != "" {
			g = ""
		}
		if of[g] == nil {
			groups = append(groups, g)
		}
		of[g] = append(of[g], p)
	}
	if (w.First != "" || w.Last != "") && len(groups) > 1 {
		return false, advice.Errorf(advice.ChooseGroup,
			"the waypoints are in %d groups, each of which would become its own", len(groups))
	}
	for _, g := range groups {
		points, err := w.order(of[g])
		if err != nil {
			return false, err
		}
		parent, name := "", g
		if i := strings.LastIndexByte(g, '/'); i >= 0 {
			parent, name = g[:i], g[i+1:]
		}
		if w.Name != "" {
			name = w.Name
		} else if name == "" {
			name = w.data.Meta.Name
		}
		if name == "" {
			name = "Waypoints"
		}
		item := nav.Item{Name: name, Group: parent}
		if c := points[0].Style.Colour; c.Set &&
			!slices.ContainsFunc(points, func(p nav.Waypoint) bool { return p.Style.Colour != c }) {
			item.Style.Colour = c
		}
		w.changed(nav.Waypoints, fmt.Sprintf("%d of %s", len(points), name), "kind", "waypoints", to.One(), w.inOrder(points))
		for i := range points {
			points[i].Group = ""
		}
		switch to {
		case nav.Routes:
			w.made.Routes = append(w.made.Routes, nav.Route{Item: item, Points: points})
		case nav.Tracks:
			w.made.Tracks = append(w.made.Tracks, nav.Track{Item: item, Segments: []nav.Segment{w.segment(points)}})
		case nav.Areas:
			ring := w.segment(points)
			if !w.close(nav.Waypoints, &item, &ring, false) {
				w.made.Waypoints = append(w.made.Waypoints, of[g]...)
				continue
			}
			w.made.Areas = append(w.made.Areas, nav.Area{Item: item, Outline: w.outline(name, ring.Points)})
		}
	}
	return true, nil
}

func (w *work) inOrder(points []nav.Waypoint) string {
	switch w.Order {
	case ByName:
		return "in the order of their names"
	case ByTime:
		return "in the order of their times"
	case Near:
		why := "close to the shortest, but not proved optimal"
		if w.bounded {
			why = "the search was stopped because of the many points; a shorter one may exist"
		}
		return fmt.Sprintf("a short way through all, %.2f km: %s", length(points)/1000, why)
	}
	return "in the order of the file"
}

func length(points []nav.Waypoint) (sum float64) {
	for i := 1; i < len(points); i++ {
		sum += geodesy.Distance(points[i-1].Lat, points[i-1].Lon, points[i].Lat, points[i].Lon)
	}
	return
}

// order puts waypoints in the order that is asked for.
func (w *work) order(points []nav.Waypoint) ([]nav.Waypoint, error) {
	points = slices.Clone(points)
	switch w.Order {
	case ByName:
		slices.SortStableFunc(points, func(a, b nav.Waypoint) int { return figure.Natural(a.Name, b.Name) })
	case ByTime:
		missing := 0
		for i := range points {
			if !points[i].HasTime() {
				missing++
			}
		}
		if missing == len(points) {
			return nil, advice.Errorf(advice.OtherOrder, "no waypoint has a time to order by")
		}
		slices.SortStableFunc(points, func(a, b nav.Waypoint) int {
			if a.HasTime() != b.HasTime() { // what has no time comes last
				if a.HasTime() {
					return -1
				}
				return 1
			}
			return cmp.Compare(a.UnixNano(), b.UnixNano())
		})
		if missing > 0 {
			w.changed(nav.Waypoints, "", "order", fmt.Sprintf("%d without a time", missing), "at the end",
				"nothing tells when they were reached")
		}
	case Near:
		first, err := named(points, w.First, "first")
		if err != nil {
			return nil, err
		}
		last, err := named(points, w.Last, "last")
		if err != nil {
			return nil, err
		}
		var out []nav.Waypoint
		way, whole := shortWay(points, first, last)
		w.bounded = w.bounded || !whole
		for _, i := range way {
			out = append(out, points[i])
		}
		return out, nil
	}
	return points, nil
}

// named finds a waypoint by its name; -1 where none is asked for.
func named(points []nav.Waypoint, name, which string) (int, error) {
	if name == "" {
		return -1, nil
	}
	var like []string
	for i := range points {
		if strings.EqualFold(points[i].Name, name) {
			return i, nil
		}
		if strings.Contains(strings.ToLower(points[i].Name), strings.ToLower(name)) {
			like = append(like, points[i].Name)
		}
	}
	if len(like) > 0 {
		return 0, fmt.Errorf("there is no waypoint %q for the %s; did you mean %q?", name, which, like[0])
	}
	return 0, fmt.Errorf("there is no waypoint %q for the %s", name, which)
}
