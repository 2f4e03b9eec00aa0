// Package shape holds what several steps need done to lines: outliers found, lines thinned.
package shape

import "slices"

// Outliers finds the points of a sequence that stand off from their neighbours and back: the fewest points that
// must go so that every pair of neighbours left is consistent. Up to window points in a row are taken for one
// excursion. Where the sequence itself changes and does not come back, nothing is taken. The first and the last
// point always stay, since nothing tells where they should be. The cost is linear.
//
// It is a shortest path over the points: leaving one out costs 2, going on between two inconsistent neighbours
// costs a little more than half of the longest excursion, so that two of them cost more than leaving it out. The window
// is below 250.
func Outliers(n, window int, consistent func(i, j int) bool) []int {
	if n < 3 {
		return nil
	}
	breach := window + 2
	cost := make([]int, window+2) // of the last points, in a ring
	step := make([]uint8, n)      // from the point before on the path
	even := 0                     // how many points in a row cost as much as the last
	at := func(i int) *int { return &cost[i%len(cost)] }
	for j := 1; j < n; j++ {
		before := *at(j - 1)
		best, by := before, 1
		if !consistent(j-1, j) {
			best += breach
		} else if even > window { // no way round is cheaper
			*at(j), step[j] = best, 1
			continue
		}
		for i := j - 2; i >= max(0, j-1-window); i-- {
			if c := *at(i) + 2*(j-1-i); c < best && consistent(i, j) {
				best, by = c, j-i
			}
		}
		if even++; best != before {
			even = 0
		}
		*at(j), step[j] = best, uint8(by)
	}
	var out []int
	for j := n - 1; j > 0; j -= int(step[j]) {
		for i := j - 1; i > j-int(step[j]); i-- {
			out = append(out, i)
		}
	}
	slices.Reverse(out) // they were found from the end
	return out
}
