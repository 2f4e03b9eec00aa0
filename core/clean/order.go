package clean

import (
	"math"
	"sort"

	"gyrolith/core/nav"
)

// Order is the word of this fault.
const Order Fault = "order"

var order = fault{
	word:  Order,
	help:  "times running backwards: sorted where that makes the line shorter",
	found: "times running backwards",
	done:  "sorted by time, or removed",
	count: "points out of order",
	usual: true,
	round: (*work).order,
}

// order deals with times running backwards. When the line is no longer with its points in the order of their times,
// the times are sound and the points are sorted; otherwise the fewest points go that leave the times in order.
func (w *work) order(si int) {
	seg := &w.track.Segments[si]
	points := seg.Points
	count, backwards := 0, 0
	last := int64(math.MinInt64)
	for i := range points {
		if !points[i].HasTime() {
			continue
		}
		count++
		if at := points[i].UnixNano(); at < last {
			backwards++
		} else {
			last = at
		}
	}
	if backwards == 0 {
		return
	}
	timed := make([]int, 0, count)
	for i := range points {
		if points[i].HasTime() {
			timed = append(timed, i)
		}
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
					w.count(Order, w.numbers[si][i], 0) // sorted, not removed
				} else {
					last = at
				}
			}
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
