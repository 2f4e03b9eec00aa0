package clean

import (
	"math"

	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// Gaps is the word of this fault.
const Gaps Fault = "gaps"

var gaps = fault{
	word:  Gaps,
	help:  "long pauses or jumps, at which the segment is split",
	found: "long pauses or jumps inside a segment",
	done:  "segments split",
	count: "gaps",
	track: (*work).gaps,
}

// gaps splits segments at long pauses and wide jumps, but never between an arrival and a departure, which are at one
// place.
func (w *work) gaps() {
	w.measure()
	s, l := w.step, w.limits
	longer := motion.GapOf(w.track.Segments, s.Motion).Seconds()
	wider := s.GapWider
	if wider == 0 {
		wider = DefaultGapWider
		if c, ok := carriers[s.Carrier]; ok {
			wider = c.gapWider
		}
		wider = math.Max(wider, 20*l.legs)
	}
	var segments []nav.Segment
	var numbers [][]int32
	for si := range w.track.Segments {
		seg := w.track.Segments[si]
		from := 0
		cut := func(to int) {
			piece := seg.Piece(from, to)
			piece.Kept = nil
			segments = append(segments, piece)
			numbers = append(numbers, w.numbers[si][from:to:to])
			from = to
		}
		for i := 1; i < len(seg.Points); i++ {
			p, q := &seg.Points[i-1], &seg.Points[i]
			dt, d := seconds(p, q), apart(p, q)
			// In a line without times a long leg is drawn, not a jump.
			jump := d > wider && p.HasTime() && q.HasTime() && d > 2*l.speed*math.Max(l.interval, 1) && d > l.speed*dt
			if p.SamePlace(q) || dt <= longer && !jump {
				continue
			}
			w.count(Gaps, w.numbers[si][i], d) // split, not removed
			cut(i)
		}
		if from == 0 {
			segments, numbers = append(segments, seg), append(numbers, w.numbers[si])
		} else {
			cut(len(seg.Points))
			segments[len(segments)-1].Kept = seg.Kept
		}
	}
	w.track.Segments, w.numbers = segments, numbers
}
