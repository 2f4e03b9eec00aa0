package clean

import (
	"math"

	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Heights is the word of this fault.
const Heights Fault = "heights"

var heights = fault{
	word:     Heights,
	help:     "heights that jump and return, and single zeros; the point stays",
	found:    "heights that jump and return",
	done:     "heights removed, the points kept",
	count:    "wrong heights",
	measured: true,
	round:    (*work).heights,
}

// rise is how much the height can have changed from one point that has one to another, told as reach tells distances.
func (l *limits) rise(points []nav.Point, with []int32, a, b int) float64 {
	longest, sum := 0.0, 0.0
	steepest, usual := l.climb, l.usualClimb
	step := seconds
	if !points[with[a]].HasTime() || !points[with[b]].HasTime() {
		steepest, usual, step = 1, l.slope, apart
	}
	for k := a + 1; k <= b; k++ {
		d := max(step(&points[with[k-1]], &points[with[k]]), 0)
		longest, sum = max(longest, d), sum+d
	}
	return steepest*longest + usual*(sum-longest) + l.heightOver
}

// heights takes away heights that jump and return, faster than the carrier can climb, and zeros in a line that is
// elsewhere. The points stay.
func (w *work) heights(si int) {
	points := w.track.Segments[si].Points
	count := 0
	for i := range points {
		if points[i].HasHeight() {
			count++
		}
	}
	if count < 3 {
		return
	}
	with := make([]int32, 0, count)
	for i := range points {
		if points[i].HasHeight() {
			with = append(with, int32(i))
		}
	}
	off := make([]bool, len(with))
	for _, k := range shape.Outliers(len(with), longestStep, func(a, b int) bool {
		return math.Abs(points[with[a]].Height()-points[with[b]].Height()) <= w.limits.rise(points, with, a, b)
	}) {
		off[k] = true
	}
	lone := loneZeros(points, with)
	for k := range with {
		off[k] = off[k] || lone[k]
	}
	for k, i := range with {
		if off[k] {
			w.note(Heights, &points[i], w.numbers[si][i], math.Abs(points[i].Height()-nearHeight(points, with, off, k)))
			points[i].ClearHeight()
		}
	}
}

// notNearZero is how high the ground must be on both sides of a zero for it to be no height.
const notNearZero = 10

// loneZeros finds heights of exactly zero whose neighbours are not near zero.
func loneZeros(points []nav.Point, with []int32) []bool {
	out := make([]bool, len(with))
	mark := func(from, to int) { // with[from:to] are zeros
		high := true
		if from > 0 {
			high = math.Abs(points[with[from-1]].Height()) > notNearZero
		}
		if to < len(with) {
			high = high && math.Abs(points[with[to]].Height()) > notNearZero
		}
		for k := from; k < to && high && to-from < len(with); k++ {
			out[k] = true
		}
	}
	for k := 0; k < len(with); k++ {
		if points[with[k]].Height() != 0 {
			continue
		}
		from := k
		for k < len(with) && points[with[k]].Height() == 0 {
			k++
		}
		mark(from, k)
	}
	return out
}

// nearHeight is the last sound height before one that is not.
func nearHeight(points []nav.Point, with []int32, off []bool, k int) float64 {
	for j := k - 1; j >= 0; j-- {
		if !off[j] && points[with[j]].HasHeight() {
			return points[with[j]].Height()
		}
	}
	return points[with[k]].Height()
}
