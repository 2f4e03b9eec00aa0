package motion

import (
	"cmp"
	"slices"

	"gyrolith/core/nav"
)

// Way is how far a recording had gone, by time, without the scatter of halts.
type Way struct {
	times []int64   // in their order
	along []float64 // metres up to each
}

// WayOf adds the way of a track up.
func WayOf(segments []nav.Segment, l Limits) *Way {
	w := &Way{}
	sum := 0.0
	Of(segments, l).Legs(func(l *Leg) {
		if l.State == Untimed {
			sum += l.Way
			return
		}
		if len(w.times) == 0 {
			w.times, w.along = append(w.times, l.From.UnixNano()), append(w.along, sum)
		}
		sum += l.Way
		w.times, w.along = append(w.times, l.To.UnixNano()), append(w.along, sum)
	})
	return w
}

// At gives how far it had gone at a time, in nanoseconds since 1970: in proportion between two places.
func (w *Way) At(at int64) float64 {
	n, _ := slices.BinarySearchFunc(w.times, at, func(t, at int64) int { return cmp.Compare(t, at) })
	switch {
	case len(w.times) == 0:
		return 0
	case n == 0:
		return w.along[0]
	case n == len(w.times):
		return w.along[n-1]
	}
	span := w.times[n] - w.times[n-1]
	if span <= 0 {
		return w.along[n]
	}
	return w.along[n-1] + (w.along[n]-w.along[n-1])*float64(at-w.times[n-1])/float64(span)
}
