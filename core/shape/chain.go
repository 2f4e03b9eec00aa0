// Package shape holds what several steps need done to lines: outliers found, lines thinned.
package shape

// Outliers finds the points of a sequence that stand off from their neighbours and back: the fewest points that
// must go so that every pair of neighbours left is consistent. Up to window points in a row are taken for one
// excursion. Where the sequence itself changes and does not come back, nothing is taken. The first and the last
// point always stay, since nothing tells where they should be. The cost is linear.
//
// It is a shortest path over the points: leaving one out costs 2, going on between two inconsistent neighbours
// costs a little more than half of the longest excursion, so that two of them cost more than leaving it out.
func Outliers(n, window int, consistent func(i, j int) bool) []int {
	if n < 3 {
		return nil
	}
	breach := int32(window + 2)
	cost := make([]int32, n)
	from := make([]int32, n)
	for j := 1; j < n; j++ {
		before := cost[j-1]
		if consistent(j-1, j) {
			cost[j], from[j] = before, int32(j-1)
		} else {
			cost[j], from[j] = before+breach, int32(j-1)
		}
		for i := j - 2; i >= max(0, j-1-window); i-- {
			if c := cost[i] + 2*int32(j-1-i); c < cost[j] && consistent(i, j) {
				cost[j], from[j] = c, int32(i)
			}
		}
	}
	var out []int
	for j := int32(n - 1); j > 0; j = from[j] {
		for i := j - 1; i > from[j]; i-- {
			out = append(out, int(i))
		}
	}
	// They were found from the end.
	for a, b := 0, len(out)-1; a < b; a, b = a+1, b-1 {
		out[a], out[b] = out[b], out[a]
	}
	return out
}
