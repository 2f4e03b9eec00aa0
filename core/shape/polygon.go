package shape

import "gyrolith/core/nav"

// InArea says whether a position is inside an area and in none of its holes.
func InArea(a *nav.Area, lat, lon float64) bool {
	if !nav.RingContains(a.Outline, lat, lon) {
		return false
	}
	for _, h := range a.Holes {
		if nav.RingContains(h, lat, lon) {
			return false
		}
	}
	return true
}
