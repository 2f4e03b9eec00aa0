package table

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/figure"
	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// worked is what is worked out of an item, once a cell asks for it.
type worked struct {
	*figure.Item
	data   *nav.Dataset
	line   *figure.Line
	states map[string]bool // speed and course that the points of the item state
}

// blankPrefix stands before the title of an empty column.
const blankPrefix = "blank:"

// figures gives the item that a row is, or is of.
func (r *row) figures() *figure.Item {
	if r.of.Item == nil {
		r.of.Item = figure.At(r.of.data, r.kind, max(r.ordinal, 1)-1)
		if r.kind == nav.Waypoints {
			r.of.Item = figure.At(r.of.data, r.kind, r.number-1)
		}
	}
	return r.of.Item
}

// isWorked says whether a column is worked out: of whole items, or of points.
func (t *sheet) isWorked(holds string) bool {
	return slices.Contains(format.ItemWords, holds) || slices.Contains(figure.PointWords, holds)
}

// states says whether any point of the row's line states its speed or course.
func (r *row) states(word string) bool {
	if known, ok := r.of.states[word]; ok {
		return known
	}
	it, found := r.figures(), false
	has := func(fields []nav.Field) {
		_, ok := nav.Get(fields, word)
		found = found || ok
	}
	switch it.Kind {
	case nav.Routes:
		for i := range it.Route.Points {
			has(it.Route.Points[i].Fields)
		}
	case nav.Tracks:
		for i := range it.Track.Segments {
			s := &it.Track.Segments[i]
			for d := range s.Samples(s.Points) {
				has(d.Values)
			}
		}
	}
	if r.of.states == nil {
		r.of.states = map[string]bool{}
	}
	r.of.states[word] = found
	return found
}

// worksOut says whether a column differs from point to point of the row's line, as it is worked out.
func (r *row) worksOut(holds string) bool {
	return slices.Contains(figure.PointWords, holds) && !(slices.Contains(stated, holds) && r.states(holds))
}

// stated are the words for what points may state.
var stated = []string{"speed", "course"}

// decimalsOf are those of what is worked out, in metres, seconds, degrees and per cent; others have one.
var decimalsOf = map[string]int{"speed": 2, "climb-rate": 2, "mean-speed": 2, "points": 0}

// workedOut gives what is worked out of the row's item, or at its point.
func (r *row) workedOut(holds string, items bool) any {
	switch {
	case slices.Contains(format.ItemWords, holds):
		if items {
			return r.figures().Value(holds)
		}
	case !items && r.point != nil:
		if r.of.line == nil {
			r.of.line = figure.LineOf(r.figures().Thing)
		}
		return r.of.line.Value(holds, r.number-1)
	}
	return nil
}

// worked is what a cell has of that.
func (r *row) worked(holds string, t *sheet) any {
	switch v := r.workedOut(holds, t.Items).(type) {
	case float64:
		decimals, ok := decimalsOf[holds]
		if !ok {
			decimals = 1
		}
		if holds == "points" {
			return v
		}
		return quantity{text: strconv.FormatFloat(v, 'f', decimals, 64), value: v}
	case time.Duration:
		return rounded(v.Seconds(), 3)
	case nav.Point:
		return stamp{v.UnixNano(), v.TimeMark(), t.clock()}
	}
	return nil
}

// tellWorked notes which columns are worked out, and which are empty for want of times, neighbours or the field that
// was asked for.
func (t *sheet) tellWorked(d *nav.Dataset) {
	var columns []int
	for i, c := range t.Columns {
		if t.isWorked(c.Holds) || t.asked && strings.HasPrefix(c.Holds, "field:") {
			columns = append(columns, i)
		}
	}
	if len(columns) == 0 {
		return
	}
	type count struct{ said, out, empty int }
	counts := make([]count, len(columns))
	rows(d, t.Items, func(r *row) error {
		for k, i := range columns {
			holds := t.Columns[i].Holds
			switch says := slices.Contains(stated, holds) && r.states(holds); {
			case !t.isWorked(holds) && (counts[k].said > 0 || r.value(holds, t) != nil):
				counts[k].said++
			case says && r.field(holds, t.keys) != nil:
				counts[k].said++
			case !says && r.workedOut(holds, t.Items) != nil:
				counts[k].out++
			default:
				counts[k].empty++
			}
		}
		return nil
	}, nil)
	for k, i := range columns {
		n, c := counts[k], &t.Columns[i]
		note := func(is, why string, count int) {
			t.changes = append(t.changes, nav.Entry{KindWord: "column", What: nav.Property(c.Title), New: is, Why: why,
				Count: count, Asked: true})
		}
		switch states := slices.Contains(stated, c.Holds); {
		case n.said+n.out == 0:
			note("empty", emptyWhy(c.Holds, t.Items), n.empty)
		case states && n.said > 0 && n.out > 0:
			note("stated", "where the lines state it; computed from positions and times of the others", n.said)
		case states && n.said > 0:
			note("stated", "as the data have it", n.said)
		case states:
			note("computed", "from positions and times", n.out)
		}
	}
}

// emptyWhy says what a column is empty for.
func emptyWhy(holds string, items bool) string {
	switch {
	case strings.HasPrefix(holds, "field:"):
		return "nothing has this field"
	case slices.Contains(format.ItemWords, holds) && !items:
		return "only rows of items have it"
	case slices.Contains(figure.PointWords, holds) && items:
		return "only rows of points have it"
	case holds == "size" || holds == "perimeter":
		return "only areas have it"
	case holds == "ascent" || holds == "descent" || holds == "slope":
		return "it needs heights along a line"
	case holds == "climb-rate":
		return "it needs heights and times along a line"
	case strings.Contains("length points along leg-distance course", holds):
		return "only lines have it"
	}
	return "it needs times along a line"
}
