package table

import (
	"fmt"

	"gyrolith/core/nav"
)

// makeLines turns the waypoints of this table that belong to lines into routes, tracks and areas.
func (r *reader) makeLines(path string) {
	d := r.d
	all := d.Waypoints[r.first:]
	kind := nav.Routes // where no column says it
	if r.kind < 0 {
		timed, named := 0, 0
		for i := range all {
			if all[i].HasTime() {
				timed++
			}
			if all[i].Name != "" {
				named++
			}
		}
		if timed > 0 || named == 0 {
			kind = nav.Tracks
		}
	}
	var rest []nav.Waypoint
	index := map[key]int{} // into routes, tracks or areas
	segments := map[key]int{}
	for i := range all {
		w, k := all[i], key{}
		if i < len(r.keys) {
			k = r.keys[i]
		}
		if k.kind != nav.Waypoints && r.kind < 0 {
			k.kind = kind
		}
		if k.kind == nav.Waypoints || r.kind < 0 && k.line == "" {
			rest = append(rest, w)
			continue
		}
		whole := key{kind: k.kind, line: k.line}
		at, ok := index[whole]
		group := w.Group
		w.Group = ""
		if !ok {
			item := nav.Item{Name: k.line, Group: group}
			switch k.kind {
			case nav.Routes:
				at = len(d.Routes)
				d.Routes = append(d.Routes, nav.Route{Item: item})
			case nav.Tracks:
				at = len(d.Tracks)
				d.Tracks = append(d.Tracks, nav.Track{Item: item})
			case nav.Areas:
				at = len(d.Areas)
				d.Areas = append(d.Areas, nav.Area{Item: item})
			}
			index[whole] = at
		}
		part, ok := segments[k]
		switch k.kind {
		case nav.Routes:
			d.Routes[at].Points = append(d.Routes[at].Points, w)
		case nav.Tracks:
			t := &d.Tracks[at]
			if !ok {
				part = len(t.Segments)
				t.Segments = append(t.Segments, nav.Segment{})
				segments[k] = part
			}
			addPoint(&t.Segments[part], &w)
		case nav.Areas:
			a := &d.Areas[at]
			if !ok {
				if len(a.Outline) > 0 {
					a.Holes = append(a.Holes, nil)
					part = len(a.Holes)
				}
				segments[k] = part
			}
			if part == 0 {
				a.Outline = append(a.Outline, w.Point)
			} else {
				a.Holes[part-1] = append(a.Holes[part-1], w.Point)
			}
		}
	}
	if r.kind < 0 {
		d.Tell(nav.ProblemLines, fmt.Sprintf("the rows of each %s make a %s", r.title(r.line), kind.One()))
	}
	d.Waypoints = append(d.Waypoints[:r.first], rest...)
}

// addPoint adds a row to a track, with what it has besides a position.
func addPoint(s *nav.Segment, w *nav.Waypoint) {
	s.Points = append(s.Points, w.Point)
	detail := nav.Detail{Values: w.Fields}
	item := w.Item
	item.Fields = nil
	if item.Name != "" || item.Desc != "" || item.Comment != "" || item.Type != "" || item.Style != (nav.Style{}) {
		detail.Item = &item
	}
	if !detail.Empty() {
		s.Attach(&s.Points[len(s.Points)-1], detail)
	}
}
