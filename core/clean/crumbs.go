package clean

import (
	"slices"

	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// Crumbs is the word of this fault.
const Crumbs Fault = "crumbs"

var crumbs = fault{
	word:  Crumbs,
	help:  "segments and tracks of one or two points",
	found: "points in segments of one or two points",
	done:  "removed",
	count: "crumbs",
	track: (*work).crumbs,
	last: func(_ *Step, d *nav.Dataset) *Result {
		d.Tracks = slices.DeleteFunc(d.Tracks, func(t nav.Track) bool { return len(t.Segments) == 0 })
		return &Result{}
	},
}

// crumbs takes out segments of a point or two. A track that has no segment left goes with them.
func (w *work) crumbs() {
	var segments []nav.Segment
	var numbers [][]int32
	for si := range w.track.Segments {
		seg := &w.track.Segments[si]
		if len(seg.Points) > 2 || len(seg.Points) == 2 && seg.Points[0].SamePlace(&seg.Points[1]) && !w.step.dry &&
			w.wasStop(seg) {
			segments, numbers = append(segments, *seg), append(numbers, w.numbers[si])
			continue
		}
		for i := range seg.Points {
			w.note(Crumbs, &seg.Points[i], w.numbers[si][i], 0)
		}
		if len(seg.Points) == 0 {
			w.count(Crumbs, 0, 0)
		}
	}
	if len(w.track.Segments) == 0 { // a track without any segment is one as well
		w.changes++
		w.row(Crumbs, 1, 0)
	}
	w.track.Segments, w.numbers = segments, numbers
}

// wasStop says whether a segment is the two points that a stop becomes: they are not crumbs.
func (w *work) wasStop(seg *nav.Segment) bool {
	return w.step.wants(Stops) && len(motion.OfPoints(seg.Points, w.step.Motion).Halts) > 0
}
