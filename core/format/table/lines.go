package table

import (
	"fmt"
	"math"
	"slices"
	"sort"
	"strings"

	"gyrolith/core/format"
	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// line is a line, a part of one, or a ring, with the rows that belong to it. The first one of a reader stands for those
// that belong to none, which are waypoints of the dataset.
type line struct {
	key
	group   string      // of the first row
	segment nav.Segment // its rows, with what they have besides a position
	rows    int32
	order   []float64 // the numbers of its rows, where a column orders them
	starts  []start   // where the rows stand in the text
	begun   int64     // how much of the text there was before
}

// key tells to which line and part of it a row belongs.
type key struct {
	kind                nav.Kind
	line, item, segment string
}

// start says that a row stands in a line of the text, and those after it in the ones that follow.
type start struct{ row, text int32 }

// stands remembers where a row stands.
func (l *line) stands(row, text int32) {
	if n := len(l.starts); n > 0 && text-l.starts[n-1].text == row-l.starts[n-1].row {
		return
	}
	l.starts = append(l.starts, start{row, text})
}

// textLine is the line of the text in which a row stands.
func (l *line) textLine(row int32) int {
	i := sort.Search(len(l.starts), func(i int) bool { return l.starts[i].row > row }) - 1
	return int(l.starts[i].text + row - l.starts[i].row)
}

// grow makes room for n more points, and for those that are foreseen at an offset of a text of the given size. Spare is
// how many points may still come, or how many more may find no room that they do not need.
func (l *line) grow(n int, offset, size int64, spare int) {
	need := len(l.segment.Points) + n
	want := need + need/4
	if scratch.Many(want) { // which costs no memory
		want = 2 * need
	}
	if read := offset - l.begun; read > 0 && size > offset {
		want = max(want, min(need+int(float64(need)*float64(size-offset)/float64(read)*1.03), need+spare))
	}
	room := scratch.Make[nav.Point](want)
	l.segment.Points = room[:copy(room, l.segment.Points)]
}

// take puts the row that was read last, the last waypoint of the dataset, where it belongs.
func (r *reader) take(w *nav.Waypoint, cells [][]byte, row int) {
	r.bounds.add(&w.Point)
	r.timed, r.named = r.timed || w.HasTime(), r.named || w.Name != ""
	to := int32(0)
	if r.lined {
		k := r.key(cells)
		if to = r.lineOf(k, w.Group); to == 0 && (k.line != "" || k.item != "" || k.segment != "") && r.kind >= 0 {
			r.d.Note(nav.ProblemLeftOut, "the line of a row that is a waypoint was left out", row, 0)
		}
	}
	l := &r.lines[to]
	l.stands(l.rows, int32(row))
	l.rows++
	if to == 0 {
		return
	}
	if w.Group != l.group && r.regroups == 0 {
		r.regroups = row
	}
	l.segment.Add(w)
	if r.number >= 0 {
		v, _, ok := number(text(at(cells, r.number)))
		if !ok {
			v = math.Inf(1)
			r.d.Note(nav.ProblemLines, "a row without a number stands at the end of its line", row, 0)
		}
		l.order = append(l.order, v)
	}
	if l.kind == nav.Areas && l.segment.HasDetail(&l.segment.Points[l.rows-1]) {
		r.d.Note(nav.ProblemLeftOut, format.CornerLeft, row, 0)
	}
	r.fieldPool = r.fieldPool[:len(r.fieldPool)-len(w.Fields)] // which the segment has now
	*w = nav.Waypoint{}
	r.d.Waypoints = r.d.Waypoints[:len(r.d.Waypoints)-1]
}

// key gives the line that a row belongs to; the kind is that of waypoints for a row that belongs to none.
func (r *reader) key(cells [][]byte) key {
	if r.recording {
		return key{kind: nav.Tracks}
	}
	k := key{kind: nav.Waypoints, line: text(at(cells, r.line)), item: text(at(cells, r.item)),
		segment: text(at(cells, r.seg))}
	if r.kind >= 0 {
		k.kind, _ = nav.ParseKind(text(at(cells, r.kind)))
	} else if k.line != "" {
		k.kind = nav.Routes // or tracks, which the whole decides
	}
	return k
}

// lineOf gives the place of a line among the reader's, and begins it where it is new.
func (r *reader) lineOf(k key, group string) int32 {
	if k.kind == nav.Waypoints {
		return 0
	}
	if r.last > 0 && r.lines[r.last].key == k {
		return r.last
	}
	at, ok := r.lineAt[k]
	if !ok {
		if r.lineAt == nil {
			r.lineAt = map[key]int32{}
		}
		at = int32(len(r.lines))
		l := line{key: k.own(), group: strings.Clone(group)}
		select {
		case l.segment.Points = <-r.spare:
		default:
		}
		r.lines = append(r.lines, l)
		r.lineAt[r.lines[at].key] = at
	}
	r.last = at
	return at
}

// whole is the key of the line of which this one is a segment or a ring.
func (k key) whole() key {
	k.segment = ""
	return k
}

// own is a key that shares no memory with the text.
func (k key) own() key {
	k.line, k.item, k.segment = strings.Clone(k.line), strings.Clone(k.item), strings.Clone(k.segment)
	return k
}

// makeLines turns the rows of this table that belong to lines into routes, tracks and areas.
func (r *reader) makeLines() {
	if r.kind < 0 {
		kind := r.kindOfLines()
		for i := range r.lines {
			r.lines[i].kind = kind
		}
		if r.line >= 0 {
			r.d.Tell(nav.ProblemLines, fmt.Sprintf("the rows of each %s become a %s", r.title(r.line), kind.One()))
		}
	}
	made := lines{d: r.d, index: map[key]begun{}}
	for i := range r.lines[1:] {
		l := &r.lines[1+i]
		l.segment.Order(l.order)
		if group := made.add(l); group != l.group && r.regroups == 0 {
			r.regroups = l.textLine(0)
		}
	}
	if r.regroups > 0 {
		r.d.Note(nav.ProblemLeftOut, "another group than that of its line's first row was left out", r.regroups, 0)
	}
	r.lines = nil
}

// kindOfLines is what lines are where no column says it: tracks where rows have times or no names, else routes.
func (r *reader) kindOfLines() nav.Kind {
	if r.timed || !r.named {
		return nav.Tracks
	}
	return nav.Routes
}

// lines are the lines that rows make.
type lines struct {
	d     *nav.Dataset
	index map[key]begun
}

// begun is a line that is there already.
type begun struct {
	at    int // among the routes, tracks or areas
	group string
}

// add puts what was read of a line, a segment or a ring behind what there is of it, and gives the group of the whole.
func (m *lines) add(l *line) string {
	whole, n := m.whole(l), len(l.segment.Points)
	at := whole.at
	switch l.kind {
	case nav.Tracks:
		if s := &l.segment; cap(s.Points)-n > n/2 && !scratch.Many(cap(s.Points)) {
			s.Points = slices.Clone(s.Points)
		}
		t := &m.d.Tracks[at]
		t.Segments = append(t.Segments, l.segment)
	case nav.Routes:
		r := &m.d.Routes[at]
		r.Points = append(r.Points, l.segment.Waypoints()...)
	case nav.Areas:
		ring := make([]nav.Point, n)
		for i := range l.segment.Points {
			ring[i] = l.segment.Points[i].Loose()
		}
		if a := &m.d.Areas[at]; len(a.Outline) == 0 {
			a.Outline = ring
		} else {
			a.Holes = append(a.Holes, ring)
		}
	}
	l.segment = nav.Segment{}
	return whole.group
}

// whole finds the line that a segment or a ring is part of, and begins it where it is new.
func (m *lines) whole(l *line) begun {
	if whole, ok := m.index[l.whole()]; ok {
		return whole
	}
	at, item := 0, nav.Item{Name: l.line, Group: l.group}
	switch l.kind {
	case nav.Routes:
		at = len(m.d.Routes)
		m.d.Routes = append(m.d.Routes, nav.Route{Item: item})
	case nav.Tracks:
		at = len(m.d.Tracks)
		m.d.Tracks = append(m.d.Tracks, nav.Track{Item: item})
	case nav.Areas:
		at = len(m.d.Areas)
		m.d.Areas = append(m.d.Areas, nav.Area{Item: item})
	}
	whole := begun{at, l.group}
	m.index[l.whole()] = whole
	return whole
}
