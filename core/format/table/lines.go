package table

import (
	"fmt"

	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// makeLines turns the rows of this table that belong to lines into routes, tracks and areas.
func (r *reader) makeLines() {
	d := r.d
	if r.kind < 0 {
		kind := r.kindOfLines()
		for i := range r.lines {
			r.lines[i].kind = kind
		}
		d.Tell(nav.ProblemLines, fmt.Sprintf("the rows of each %s become a %s", r.title(r.line), kind.One()))
	}
	made := lines{d: d, index: map[key]int{}, at: make([]target, len(r.lines))}
	rest, all := r.first, len(d.Waypoints)
	const often = 1 << 12
	none := &nav.Segment{}
	for i := range r.taken {
		if i%often == 0 {
			scratch.Passed[taken](often)
		}
		t := &r.taken[i]
		w := r.waypoint(t)
		if t.line == 0 {
			d.Waypoints[rest] = *w // which stands there already, or behind
			rest++
			continue
		}
		values := none
		if t.values > 0 {
			values = r.values[t.values-1]
		}
		made.add(made.target(t.line, &r.lines[t.line-1]), &t.Point, w, values)
	}
	r.values = nil
	clear(d.Waypoints[rest:all]) // the next sheet takes the room for zero
	d.Waypoints = d.Waypoints[:rest]
}

// kindOfLines is what lines are where no column says it: tracks where rows have times or no names, else routes.
func (r *reader) kindOfLines() nav.Kind {
	named := false
	for i := range r.taken {
		if r.taken[i].HasTime() {
			return nav.Tracks
		}
		named = named || r.nameOf(&r.taken[i]) != ""
	}
	if !named {
		return nav.Tracks
	}
	return nav.Routes
}

// lines are the lines that rows make.
type lines struct {
	d     *nav.Dataset
	index map[key]int // into routes, tracks or areas
	at    []target    // of the reader's lines
}

// target is where the rows of a line, or of a part of one, go.
type target struct {
	kind     nav.Kind
	at, part int // among the lines of the kind, and its segments or rings
	begun    bool
}

// target gives where rows go, and begins the line, segment or ring where it is new.
func (l *lines) target(number int32, of *rowsOf) target {
	p := &l.at[number-1]
	if p.begun {
		return *p
	}
	*p = target{kind: of.kind, at: l.line(of), begun: true}
	switch of.kind {
	case nav.Tracks:
		t := &l.d.Tracks[p.at]
		p.part = len(t.Segments)
		t.Segments = append(t.Segments, nav.Segment{Points: scratch.Make[nav.Point](of.rows)[:0]})
	case nav.Areas:
		if a := &l.d.Areas[p.at]; len(a.Outline) > 0 {
			a.Holes = append(a.Holes, nil)
			p.part = len(a.Holes)
		}
	}
	return *p
}

// line gives the place of a line among its kind, and begins it where it is new.
func (l *lines) line(of *rowsOf) int {
	whole := key{kind: of.kind, line: of.line, item: of.item}
	at, ok := l.index[whole]
	if ok {
		return at
	}
	item := nav.Item{Name: of.line, Group: of.group}
	switch of.kind {
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

// add puts a row where it goes, with its waypoint or the values that it has instead.
func (l *lines) add(to target, at *nav.Point, w *nav.Waypoint, values *nav.Segment) {
	switch to.kind {
	case nav.Routes:
		p := nav.Waypoint{Point: at.Loose(), Item: nav.Item{Fields: values.Values(nil, at)}}
		if w != nil {
			p = *w
			p.Group = ""
		}
		r := &l.d.Routes[to.at]
		r.Points = append(r.Points, p)
	case nav.Tracks:
		addPoint(&l.d.Tracks[to.at].Segments[to.part], at, w, values)
	case nav.Areas:
		ring := &l.d.Areas[to.at].Outline
		if to.part > 0 {
			ring = &l.d.Areas[to.at].Holes[to.part-1]
		}
		*ring = append(*ring, at.Loose())
	}
}

// addPoint adds a row to a track, with what it has besides a position.
func addPoint(s *nav.Segment, at *nav.Point, w *nav.Waypoint, values *nav.Segment) {
	if w == nil {
		carry := nav.Carry{From: values, To: s}
		s.Points = append(s.Points, carry.Point(*at))
		return
	}
	detail := nav.Detail{Values: w.Fields}
	item := w.Item
	item.Fields, item.Group = nil, ""
	if item.Name != "" || item.Desc != "" || item.Comment != "" || item.Type != "" || item.Style != (nav.Style{}) {
		detail.Item = &item
	}
	p := at.Loose()
	s.Attach(&p, detail)
	s.Points = append(s.Points, p)
}
