package clean

import (
	"math"
	"slices"
	"sort"

	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// repeats takes out points on the same place and time as the one before; a height that only the later one has goes to
// the first.
func (w *work) repeats(si int) {
	points := w.track.Segments[si].Points
	var gone []int
	first := 0
	for i := 1; i < len(points); i++ {
		p, q := &points[first], &points[i]
		if !p.SamePlace(q) || p.HasTime() != q.HasTime() || p.UnixNano() != q.UnixNano() {
			first = i
			continue
		}
		if !p.HasHeight() && q.HasHeight() {
			p.SetHeight(q.Height(), q.HeightDigits(), q.HeightOver())
		}
		if seg := &w.track.Segments[si]; seg.Detail(p) == nil && seg.Detail(q) != nil {
			seg.Attach(p, *seg.Detail(q))
		}
		w.note(Repeats, q, w.numbers[si][i], 0)
		gone = append(gone, i)
	}
	w.remove(si, gone)
}

// order deals with times that run backwards. When the line is no longer with its points in the order of their times,
// the times are sound and the points are sorted; otherwise the fewest points go that leave the times in order.
func (w *work) order(si int) {
	seg := &w.track.Segments[si]
	points := seg.Points
	var timed []int
	backwards := 0
	last := int64(math.MinInt64)
	for i := range points {
		if !points[i].HasTime() {
			continue
		}
		timed = append(timed, i)
		if at := points[i].UnixNano(); at < last {
			backwards++
		} else {
			last = at
		}
	}
	if backwards == 0 {
		return
	}
	if len(timed) == len(points) {
		by := make([]int, len(points))
		for i := range by {
			by[i] = i
		}
		sort.SliceStable(by, func(a, b int) bool { return points[by[a]].UnixNano() < points[by[b]].UnixNano() })
		before, after := 0.0, 0.0
		for i := 1; i < len(points); i++ {
			before += apart(&points[i-1], &points[i])
			after += apart(&points[by[i-1]], &points[by[i]])
		}
		if after <= before*(1+1e-9) {
			moved := make([]nav.Point, len(points))
			numbers := make([]int32, len(points))
			for i, from := range by {
				moved[i], numbers[i] = points[from], w.numbers[si][from]
			}
			last := int64(math.MinInt64)
			for i := range points {
				if at := points[i].UnixNano(); at < last {
					w.note(Order, &points[i], w.numbers[si][i], 0)
				} else {
					last = at
				}
			}
			w.result.Removed = w.result.Removed[:len(w.result.Removed)-backwards] // sorted, not removed
			seg.Points, w.numbers[si] = moved, numbers
			return
		}
	}
	var gone []int
	keep := longestAscent(timed, func(i int) int64 { return points[i].UnixNano() })
	for _, i := range timed {
		if !keep[i] {
			w.note(Order, &points[i], w.numbers[si][i], 0)
			gone = append(gone, i)
		}
	}
	w.remove(si, gone)
}

// longestAscent finds the longest subsequence that does not descend (M. Fredman, Discrete Mathematics 11, 1975).
func longestAscent(items []int, value func(int) int64) map[int]bool {
	var tails []int // the item that ends the best subsequence of each length
	before := map[int]int{}
	for _, it := range items {
		v := value(it)
		at := sort.Search(len(tails), func(k int) bool { return value(tails[k]) > v })
		if at > 0 {
			before[it] = tails[at-1]
		} else {
			before[it] = -1
		}
		if at == len(tails) {
			tails = append(tails, it)
		} else {
			tails[at] = it
		}
	}
	keep := map[int]bool{}
	for it := tails[len(tails)-1]; it >= 0; it = before[it] {
		keep[it] = true
	}
	return keep
}

// longestBurst is how many points off to the side are taken for one spike.
const longestBurst = 5

// reach is how far the carrier can have come from one point to another. It may have gone at its top speed for the
// longest of the intervals between, and for the others as fast as it usually goes: otherwise leaving out sound
// points would make an excursion look like movement.
func (l *limits) reach(points []nav.Point, i, j int) float64 {
	longest := 0.0
	for k := i + 1; k <= j; k++ {
		longest = math.Max(longest, seconds(&points[k-1], &points[k]))
	}
	return l.speed*longest + l.usual*math.Max(seconds(&points[i], &points[j])-longest, 0) + l.margin
}

// rise is how much the height can have changed from one point that has one to another, told as reach tells distances.
func (l *limits) rise(points []nav.Point, with []int, a, b int) float64 {
	longest, sum := 0.0, 0.0
	steepest, usual := l.climb, l.usualClimb
	step := seconds
	if !points[with[a]].HasTime() || !points[with[b]].HasTime() {
		steepest, usual, step = 1, l.slope, apart
	}
	for k := a + 1; k <= b; k++ {
		d := math.Max(step(&points[with[k-1]], &points[with[k]]), 0)
		longest, sum = math.Max(longest, d), sum+d
	}
	return steepest*longest + usual*(sum-longest) + l.heightOver
}

// spikes takes out points that are off to the side and back, faster than the carrier can move. What can be told from
// movement is what is farther off than the top speed times the interval, and the margin beyond it.
func (w *work) spikes(si int) {
	points := w.track.Segments[si].Points
	if len(points) < 3 {
		return
	}
	timed := 0
	for i := range points {
		if points[i].HasTime() {
			timed++
		}
	}
	var gone []int
	if timed == len(points) {
		gone = shape.Outliers(len(points), longestBurst, func(i, j int) bool {
			return apart(&points[i], &points[j]) <= w.limits.reach(points, i, j)
		})
	} else {
		gone = needles(points)
	}
	if len(gone) == 0 {
		return
	}
	bad := make([]bool, len(points))
	for _, i := range gone {
		bad[i] = true
	}
	for _, i := range gone {
		a, b := i-1, i+1
		for bad[a] {
			a--
		}
		for bad[b] {
			b++
		}
		w.note(Spikes, &points[i], w.numbers[si][i], shape.DistanceToLeg(&points[i], &points[a], &points[b]))
	}
	w.remove(si, gone)
}

// How a needle stands out in a line without times: by many times the length of nine legs of ten, and by coming back
// to nearly where it began.
const (
	needleTimes  = 10
	needleReturn = 0.2
)

func needles(points []nav.Point) []int {
	legs := make([]float64, len(points)-1)
	for i := range legs {
		legs[i] = apart(&points[i], &points[i+1])
	}
	limit := needleTimes * quantile(slices.Clone(legs), typicalShare)
	if len(points) < 10 || limit == 0 {
		return nil
	}
	var gone []int
	for i := 1; i < len(points)-1; i++ {
		if out, back := legs[i-1], legs[i]; out > limit && back > limit && apart(&points[i-1], &points[i+1]) < needleReturn*math.Min(out, back) {
			gone = append(gone, i)
			i++
		}
	}
	return gone
}

// longestStep is how many heights in a row may be off together.
const longestStep = 60

// heights takes away heights that jump off and back, faster than the carrier can climb, and zeros in a line that is
// elsewhere. The points stay.
func (w *work) heights(si int) {
	points := w.track.Segments[si].Points
	var with []int
	for i := range points {
		if points[i].HasHeight() {
			with = append(with, i)
		}
	}
	if len(with) < 3 {
		return
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
func loneZeros(points []nav.Point, with []int) []bool {
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
func nearHeight(points []nav.Point, with []int, off []bool, k int) float64 {
	for j := k - 1; j >= 0; j-- {
		if !off[j] && points[with[j]].HasHeight() {
			return points[with[j]].Height()
		}
	}
	return points[with[k]].Height()
}
