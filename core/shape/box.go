package shape

import (
	"math"

	"gyrolith/core/geodesy"
)

// leastRadius is less than any radius of the earth's curvature, so that a distance on this sphere is never more than
// that on the ellipsoid.
const leastRadius = 6_335_000.0

// BoxDistance is a distance, in metres, that nothing in a box of longitudes and latitudes is nearer than. Beside the
// box the nearest place lies on its nearer meridian, where the great circle meets that at a right angle, or else at its
// end.
func BoxDistance(lat, lon float64, low, high [2]float64) float64 {
	const radian = math.Pi / 180
	x := low[0] + eastOf(low[0], lon) // east of the west side
	if x <= high[0] {
		switch {
		case lat < low[1]:
			return (low[1] - lat) * radian * leastRadius
		case lat > high[1]:
			return (lat - high[1]) * radian * leastRadius
		}
		return 0
	}
	off := min(x-high[0], low[0]+360-x) * radian
	foot := 90.0
	if cos := math.Cos(off); cos > 0 {
		foot = math.Atan(math.Tan(lat*radian)/cos) / radian
	} else {
		foot = math.Copysign(90, lat)
	}
	arc := func(to float64) float64 {
		a, b := math.Sin((to-lat)/2*radian), math.Sin(off/2)
		return 2 * math.Asin(math.Sqrt(min(a*a+math.Cos(lat*radian)*math.Cos(to*radian)*b*b, 1)))
	}
	least := min(arc(low[1]), arc(high[1]))
	if foot > low[1] && foot < high[1] {
		least = min(least, arc(foot))
	}
	return least * leastRadius
}

// PlaneBoxDistance is BoxDistance by the plane around the position, where that reaches: closer to the true distance,
// and quicker.
func PlaneBoxDistance(plane geodesy.Plane, lat, lon float64, low, high [2]float64) float64 {
	x := low[0] + eastOf(low[0], lon) // east of the west side
	at := lon
	switch {
	case x <= high[0]:
	case x-high[0] < low[0]+360-x:
		at = high[0]
	default:
		at = low[0]
	}
	if d, known := plane.Rough(min(max(lat, low[1]), high[1]), at); known {
		return d * (1 - 1.0/2000)
	}
	return BoxDistance(lat, lon, low, high)
}

// eastOf is by how many degrees, from 0 up to but not including 360, a longitude lies east of another.
func eastOf(west, lon float64) float64 {
	east := lon - west
	for east < 0 {
		east += 360
	}
	for east >= 360 {
		east -= 360
	}
	return east
}
