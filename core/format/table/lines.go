package table

import (
	"fmt"

	"gyrolith/core/nav"
)

// makeLines turns the waypoints of this table that belong to lines into routes, tracks and areas.
func (r *reader) makeLines(path string) {
	d := r.d
	all := d.Waypoints[r.first:]
	kind := r.kindOfLines(all)
	var rest []nav.Waypoint
	made := lines{d: d, index: map[key]int{}, parts: map[key]int{}}
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
		made.add(&w, k)
	}
	if r.kind < 0 {
		d.Tell(nav.ProblemLines, fmt.Sprintf("the rows of each %s become a %s", r.title(r.line), kind.One()))
	}
	d.Waypoints = append(d.Waypoints[:r.first], rest...)
	clear(d.Waypoints[len(d.Waypoints):cap(d.Waypoints)]) // the next sheet takes the room for zero
}

// kindOfLines is what lines are where no column says it: tracks where rows have times or no names, else routes.
func (r *reader) kindOfLines(all []nav.Waypoint) nav.Kind {
	if r.kind >= 0 {
		return nav.Routes
	}
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
		return nav.Tracks
	}
	return nav.Routes
}

// lines are the lines that rows make.
type lines struct {
	d     *nav.Dataset
	index map[key]int // into routes, tracks or areas
	parts map[key]int // into segments or rings
}

// line gives the place of a line among its kind, and begins it where it is new.
func (l *lines) line(k key, group string) int {
	whole := key{kind: k.kind, line: k.line, item: k.item}
	at, ok := l.index[whole]
	if ok {
		return at
	}
	item := nav.Item{Name: k.line, Group: group}
	switch k.kind {
	case nav.Routes:
		at = len(l.d.Routes)
		l.d.Routes = append(l.d.Routes, nav.Route{Item: item})
	case nav.Tracks:
		at = len(l.d.Tracks)
		l.d.Tracks = append(l.d.Tracks, nav.Track{Item: item})
	case nav.Areas:
		at = len(l.d.Areas)
		l.d.Areas = append(l.d.Areas, nav.Area{Item: item})
	}
	l.index[whole] = at
	return at
}

// add puts a row into its line, segment or ring.
func (l *lines) add(w *nav.Waypoint, k key) {
	at := l.line(k, w.Group)
	w.Group = ""
	part, ok := l.parts[k]
	switch k.kind {
	case nav.Routes:
		l.d.Routes[at].Points = append(l.d.Routes[at].Points, *w)
	case nav.Tracks:
		t := &l.d.Tracks[at]
		if !ok {
			part = len(t.Segments)
			t.Segments = append(t.Segments, nav.Segment{})
			l.parts[k] = part
		}
		addPoint(&t.Segments[part], w)
	case nav.Areas:
		a := &l.d.Areas[at]
		if !ok {
			if len(a.Outline) > 0 {
				a.Holes = append(a.Holes, nil)
				part = len(a.Holes)
			}
			l.parts[k] = part
		}
		if part == 0 {
			a.Outline = append(a.Outline, w.Point)
		} else {
			a.Holes[part-1] = append(a.Holes[part-1], w.Point)
		}
	}
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
