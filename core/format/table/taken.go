package table

import (
	"gyrolith/core/nav"
)

// taken is a row with a position that can be used. Of the points of lines that is all there is to most of them.
type taken struct {
	nav.Point
	text   int32 // the line of the text that it stands in
	line   int32 // which of the reader's lines it belongs to, from 1; 0 is none
	values int32 // which of the reader's stores has its values, from 1; 0: it has none, or they are the waypoint's
	whole  int32 // its waypoint among those of this table, from 1; 0: it has nothing else
}

// rowsOf is a line, a part of one, or a ring that rows belong to.
type rowsOf struct {
	key
	group string // of the first of them
	rows  int
}

// key tells to which line and part of it a row belongs.
type key struct {
	kind                nav.Kind
	line, item, segment string
}

// take remembers a row, whose waypoint is the last of the dataset; that goes again where it says nothing besides.
func (r *reader) take(w *nav.Waypoint, cells [][]byte, text int) {
	t := taken{Point: w.Point, text: int32(text)}
	r.bounds.add(&w.Point)
	if r.lined {
		t.line = r.lineOf(r.key(cells), w.Group, 1)
	}
	if t.line > 0 && isBare(w) {
		if len(w.Fields) > 0 {
			if len(r.values) == 0 {
				r.values = []*nav.Segment{{}}
			}
			r.values[0].Attach(&t.Point, nav.Detail{Values: w.Fields})
			t.values = 1
			r.fieldPool = r.fieldPool[:len(r.fieldPool)-len(w.Fields)]
		}
		*w = nav.Waypoint{}
		r.d.Waypoints = r.d.Waypoints[:len(r.d.Waypoints)-1]
	} else {
		t.whole = int32(len(r.d.Waypoints) - r.first)
	}
	r.taken = append(r.taken, t)
}

// isBare says whether a row of a line has nothing but a position and values: its group is the line's.
func isBare(w *nav.Waypoint) bool {
	return w.ID == "" && w.Name == "" && w.Comment == "" && w.Desc == "" && w.Type == "" && w.Style == nav.Style{}
}

// key gives the line that a row belongs to; the kind is that of waypoints for a row that belongs to none.
func (r *reader) key(cells [][]byte) key {
	k := key{kind: nav.Waypoints, line: text(at(cells, r.line)), item: text(at(cells, r.item)),
		segment: text(at(cells, r.seg))}
	if r.kind >= 0 {
		k.kind, _ = nav.ParseKind(text(at(cells, r.kind)))
	} else if k.line != "" {
		k.kind = nav.Routes // or tracks, which the whole decides
	}
	return k
}

// lineOf gives the number of a line, from 1, and counts rows of it; 0 for what is none.
func (r *reader) lineOf(k key, group string, rows int) int32 {
	if k.kind == nav.Waypoints {
		return 0
	}
	at := r.last
	if at == 0 || r.lines[at-1].key != k {
		var ok bool
		if at, ok = r.lineAt[k]; !ok {
			if r.lineAt == nil {
				r.lineAt = map[key]int32{}
			}
			r.lines = append(r.lines, rowsOf{key: k, group: group})
			at = int32(len(r.lines))
			r.lineAt[k] = at
		}
		r.last = at
	}
	r.lines[at-1].rows += rows
	return at
}

// waypoint is that of a row; nil where it has none.
func (r *reader) waypoint(t *taken) *nav.Waypoint {
	if t.whole == 0 {
		return nil
	}
	return &r.d.Waypoints[r.first+int(t.whole)-1]
}

// nameOf is the name of a row.
func (r *reader) nameOf(t *taken) string {
	if w := r.waypoint(t); w != nil {
		return w.Name
	}
	return ""
}
