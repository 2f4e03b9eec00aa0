package layer

import (
	"math"
	"strconv"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Run is track points that follow one another and have no item of their own: most of all points that there are, which
// need not be made features of texts one by one. It holds until the next is visited.
type Run struct {
	Values []string // what all of its points have, as the columns; of those that differ, the first point's

	of      *nav.Segment
	points  []nav.Point
	first   int // of them in the segment
	layer   *Layer
	columns [computed]int // the columns of what is worked out for each point; -1 is none
}

// What is worked out for each point.
const (
	Moment = iota
	Height
	Speed
	Course
	computed
)

var computedNames = [computed]string{"time", "height", "speed", "course"}

// runFrom gives the run that begins at a point.
func runFrom(seg *nav.Segment, first int) *Run {
	end := first + 1
	for end < len(seg.Points) && seg.Item(&seg.Points[end]) == nil {
		end++
	}
	return &Run{of: seg, points: seg.Points[first:end], first: first}
}

// leg is that with which a point was reached.
func (r *Run) leg(k int) (from, to *nav.Point) { return leg(r.of.Points, r.first+k) }

// each gives the attributes that differ of all points behind the first.
func (r *Run) each(l *Layer, give func(attribute)) {
	var fields []nav.Field
	for k := 1; k < len(r.points); k++ {
		from, to := r.leg(k)
		fields = r.of.Values(fields[:0], &r.points[k])
		l.ofPoint(&r.points[k], from, to, fields, give)
		l.ofFields(fields, give)
	}
}

// brief gives attributes that make the same columns as those of all points, but for their widths and decimals.
func (r *Run) brief(l *Layer, give func(attribute)) {
	has := func(name string) *Column {
		i, ok := l.index[name]
		if !ok {
			i = l.add(Column{Name: name})
		}
		return &l.Columns[i]
	}
	mark := instant.NoTime
	var moves, timed bool
	given, shared := map[int]bool{}, r.of.Shares() // details
	var fields []nav.Field
	for k := range r.points {
		p := &r.points[k]
		if p.HasTime() && p.TimeMark() != mark { // of each precision one, since that is what decides
			mark = p.TimeMark()
			give(attribute{"time", string(p.AppendTime(nil)), moment})
		}
		if p.HasHeight() && !l.HasZ {
			has("height").widen(Decimal)
		}
		if from, to := r.leg(k); from != nil && (!moves || !timed) && !from.SamePlace(to) {
			if !timed && from.HasTime() && to.HasTime() && to.Since(from) > 0 {
				timed = true
				has("speed").widen(Decimal)
			}
			if !moves {
				moves = true
				has("course").widen(Decimal)
			}
		}
		if at := p.DetailIndex(); at >= 0 && !given[at] {
			if shared {
				given[at] = true
			}
			fields = r.of.Values(fields[:0], p)
			l.ofFields(fields, give)
		}
	}
}

// prepare makes the run ready for being read with the columns of a layer.
func (r *Run) prepare(l *Layer, first *raw) {
	r.layer, r.Values = l, make([]string, len(l.Columns))
	l.attributes(first, func(a attribute) { r.Values[l.index[a.key]] = a.value })
	for i, name := range computedNames {
		at, ok := l.index[name]
		if !ok {
			at = -1
		}
		r.columns[i] = at
	}
}

// Len is the number of points.
func (r *Run) Len() int { return len(r.points) }

// Column is the column of Moment, Height, Speed or Course; -1 where there is none.
func (r *Run) Column(which int) int { return r.columns[which] }

// Position gives the coordinates of a point in the system of the layer, the height NaN where the layer has none; false
// where it is out of the system's reach.
func (r *Run) Position(k int) (Position, bool) {
	p := &r.points[k]
	x, y, ok := r.layer.from.project(p)
	z := math.NaN()
	if r.layer.HasZ {
		z = p.Height()
	}
	return Position{X: x, Y: y, Z: z}, ok
}

// Point is a point as the data have it.
func (r *Run) Point(k int) *nav.Point { return &r.points[k] }

// Height is the height of a point with the digits of its source, for layers that have not all of them; NaN is none.
func (r *Run) Height(k int) float64 {
	p := &r.points[k]
	if !p.HasHeight() || r.layer.HasZ {
		return math.NaN()
	}
	v, err := strconv.ParseFloat(string(p.AppendHeight(nil)), 64)
	if err != nil {
		return math.NaN()
	}
	return v
}

// Motion gives the speed (m/s) and course (degrees true) with which a point was reached; NaN where there is none. A
// field of the point goes before it.
func (r *Run) Motion(k int) (speed, course float64) { return motion(r.leg(k)) }

// FieldReader gives the fields of points by their columns. It is for one goroutine.
type FieldReader struct {
	run    *Run
	keys   []string // of the last point's fields
	at     []int    // their columns
	fields []nav.Field
}

// Fields gives a reader of the fields of the run's points.
func (r *Run) Fields() *FieldReader { return &FieldReader{run: r} }

// Of gives the fields of a point and the columns that they stand in, until it is asked again.
func (f *FieldReader) Of(k int) (columns []int, fields []nav.Field) {
	f.fields = f.run.of.Values(f.fields[:0], &f.run.points[k])
	fields = f.fields
	same := len(fields) == len(f.keys)
	for i := 0; same && i < len(fields); i++ {
		same = fields[i].Key == f.keys[i]
	}
	if !same {
		f.keys, f.at = f.keys[:0], f.at[:0]
		l := f.run.layer
		for i, name := range l.from.pointKeys.Names(fields) {
			f.keys, f.at = append(f.keys, fields[i].Key), append(f.at, l.index[name])
		}
	}
	return f.at, fields
}

// InColumn is the text of a field in its column; "" is absent.
func InColumn(f *nav.Field) string {
	if f.Literal && f.Value == "null" {
		return ""
	}
	return f.Value
}

// row gives the values of a point as texts, as the columns.
func (r *Run) row(k int, reader *FieldReader, values []string) {
	copy(values, r.Values)
	for i := range r.layer.Columns {
		if r.layer.Columns[i].Field {
			values[i] = ""
		}
	}
	set := func(which int, text []byte) {
		if at := r.columns[which]; at >= 0 {
			values[at] = string(text)
		}
	}
	var room [64]byte
	p := &r.points[k]
	set(Moment, p.AppendTime(room[:0]))
	if text := room[:0]; p.HasHeight() && !r.layer.HasZ {
		set(Height, p.AppendHeight(text))
	} else {
		set(Height, text)
	}
	speed, course := r.Motion(k)
	set(Speed, appendKnown(room[:0], speed, speedDecimals))
	set(Course, appendKnown(room[:0], course, courseDecimals))
	columns, fields := reader.Of(k)
	for i, at := range columns {
		values[at] = InColumn(&fields[i])
	}
}

// Features visits the points from (included) to (excluded) as features, each of which holds until the next. Those out
// of the system's reach are left out.
func (r *Run) Features(from, to int, visit func(k int, f *Feature) error) error {
	reader := r.Fields()
	at := make([]Position, 1)
	f := &Feature{Values: make([]string, len(r.layer.Columns)), Parts: [][]Position{at}, Outer: []bool{false}}
	for k := from; k < to; k++ {
		var ok bool
		if at[0], ok = r.Position(k); !ok {
			continue
		}
		r.row(k, reader, f.Values)
		if err := visit(k, f); err != nil {
			return err
		}
	}
	return nil
}

func appendKnown(dst []byte, v float64, decimals int) []byte {
	if math.IsNaN(v) {
		return dst
	}
	return decimal.AppendShort(dst, v, decimals)
}
