package shape

import (
	"math"

	"gyrolith/core/nav"
)

// Contains says whether a position is inside a ring, by the number of edges that a line from it to the east crosses.
// The ring's edges are straight between latitude and longitude; it may cross the antimeridian, but not go around a
// pole.
func Contains(ring []nav.Point, lat, lon float64) bool {
	inside := false
	for i := range ring {
		a, b := &ring[i], &ring[(i+1)%len(ring)]
		if (a.Lat > lat) == (b.Lat > lat) {
			continue
		}
		ax, bx := nav.WrapLon(a.Lon-lon), nav.WrapLon(b.Lon-lon)
		if math.Abs(ax-bx) > 180 { // the edge is on the far side of the earth
			continue
		}
		if x := ax + (lat-a.Lat)/(b.Lat-a.Lat)*(bx-ax); x > 0 {
			inside = !inside
		}
	}
	return inside
}

// InArea says whether a position is inside an area and in none of its holes.
func InArea(a *nav.Area, lat, lon float64) bool {
	if !Contains(a.Outline, lat, lon) {
		return false
	}
	for _, h := range a.Holes {
		if Contains(h, lat, lon) {
			return false
		}
	}
	return true
}
