package shape

import (
	"math"
	"slices"

	"gyrolith/core/nav"
)

// ThinTo finds the tolerance at which lines keep at most a number of points in all, and gives the indices that
// each of them keeps. Ends stay, so that it is never fewer than two points a line: where these are too many, nothing
// else is kept.
func ThinTo(lines [][]nav.Point, most int) [][]int {
	s := search{lines: make([]thinning, len(lines)), most: most, low: 0.01, slope: 0.7}
	for i, l := range lines {
		s.lines[i].points = l
	}
	for s.high = 2 * s.low; !s.try(s.high, 1); s.high = s.low * 4 {
		if s.high > 1e8 {
			return ends(lines)
		}
	}
	// What a small part of a tolerance leaves out that is known to be too small need not be looked at again.
	const part = 128
	for i := range s.lines {
		s.lines[i].keep(thin(s.lines[i].points, s.low/part, 1, math.MaxInt))
	}
	// The quick way comes near the tolerance; the thorough one, which keeps a tenth fewer, ends the search.
	s.rounds(6, 1)
	quick := s.best
	s.best, s.kept, s.low = nil, s.kept*0.9, s.low*0.7
	if s.rounds(4, choices); s.best != nil {
		return s.best
	}
	return quick
}

// ends gives the first and the last point of each line.
func ends(lines [][]nav.Point) [][]int {
	out := make([][]int, len(lines))
	for i, l := range lines {
		if len(l) > 0 {
			out[i] = slices.Compact([]int{0, len(l) - 1})
		}
	}
	return out
}

// thinning is a line on its way to few points: those that are left of it, and where they stood.
type thinning struct {
	points []nav.Point
	at     []int // nil while all are left
}

// keep leaves some of the points that are left.
func (t *thinning) keep(kept []int) {
	points := make([]nav.Point, len(kept))
	for i, k := range kept {
		points[i] = t.points[k]
	}
	t.points, t.at = points, t.original(kept)
}

// original says where points stood in the whole line.
func (t *thinning) original(kept []int) []int {
	if t.at == nil {
		return kept
	}
	out := make([]int, len(kept))
	for i, k := range kept {
		out[i] = t.at[k]
	}
	return out
}

// search looks for the tolerance at which lines keep a number of points. What a line keeps falls with about a power
// of the tolerance, so that two attempts tell where the next one belongs.
type search struct {
	lines     []thinning
	most      int
	low, high float64 // too little, and enough
	at, kept  float64 // the last attempt, and how many points it kept, or about
	slope     float64 // of the logarithm of that number, downwards
	best      [][]int // of the smallest tolerance that was enough
}

// rounds goes on until nearly as many points are kept as may be.
func (s *search) rounds(n, weighed int) {
	for range n {
		if s.best != nil && s.at == s.high && s.kept > 0.98*float64(s.most) || s.high < 1.005*s.low {
			return
		}
		margin := math.Pow(s.high/s.low, 0.05)
		next := s.at * math.Pow(s.kept/(0.99*float64(s.most)), 1/s.slope)
		s.try(min(max(next, s.low*margin), s.high/margin), weighed)
	}
}

// try thins by a tolerance, and says whether that was enough. Where it ends early, what would have been kept is
// estimated by how far it came.
func (s *search) try(within float64, weighed int) bool {
	all, done, count := 0, 0, 0
	var kept [][]int
	for i := range s.lines {
		l := &s.lines[i]
		if all += len(l.points); count > s.most {
			continue
		}
		k := thin(l.points, within, weighed, s.most-count)
		kept, count, done = append(kept, l.original(k)), count+len(k), done+1
		if len(k) > 0 {
			done += k[len(k)-1]
		}
	}
	at, was := s.at, s.kept
	s.at, s.kept = within, float64(count)
	if count > s.most {
		s.kept *= float64(all) / float64(max(done, 1))
	}
	if slope := math.Log(s.kept/was) / math.Log(at/within); slope > 0.1 && slope < 30 {
		s.slope = slope
	}
	if count > s.most {
		s.low = within
		return false
	}
	s.high, s.best = within, kept
	return true
}
