package layer

import (
	"math"
	"strconv"

	"gyrolith/core/nav"
)

// Run is track points that follow one another and have nothing of their own but position, height and time: most of all
// points that there are, which need not be made features of texts one by one. It holds until the next is visited.
type Run struct {
	Values []string // what all of its points have, as the columns; the computed ones are the first point's

	points  []nav.Point
	segment []nav.Point // all points of the segment, the run's among them
	first   int
	layer   *Layer
	columns [computed]int // the columns of what differs from point to point; -1 is none
}

// The columns that differ from point to point.
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
	return &Run{points: seg.Points[first:seg.PlainTo(first)], segment: seg.Points, first: first}
}

// share makes the columns for points behind the first, of which the attributes were taken.
func (r *Run) share(l *Layer) {
	has := func(name string) *Column {
		i, ok := l.index[name]
		if !ok {
			i = l.add(Column{Name: name})
		}
		return &l.Columns[i]
	}
	mark := nav.NoTime
	var moves, timed bool
	for k := range r.points {
		p := &r.points[k]
		if p.HasTime() && p.TimeMark() != mark { // of each precision one, since that is what decides
			mark = p.TimeMark()
			has("time").take(attribute{"time", string(p.AppendTime(nil)), moment})
		}
		if p.HasHeight() && !l.HasZ {
			has("height").widen(Decimal)
		}
		if from, to := leg(r.segment, r.first+k); from != nil && (!moves || !timed) && !from.SamePlace(to) {
			moves = true
			timed = timed || from.HasTime() && to.HasTime() && to.Since(from) > 0
		}
	}
	if timed {
		has("speed").widen(Decimal)
	}
	if moves {
		has("course").widen(Decimal)
	}
}

// of prepares the run for being read with the columns of a layer.
func (r *Run) of(l *Layer) {
	r.layer = l
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
	return Position{x, y, z}, ok
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

// Motion gives the speed (m/s) and course (degrees true) with which a point was reached; NaN where there is none.
func (r *Run) Motion(k int) (speed, course float64) { return motion(leg(r.segment, r.first+k)) }
