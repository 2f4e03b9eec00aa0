// Package lay makes what somebody follows: survey lines over areas, search patterns, rings and sectors, points along a
// line and sampling grids, all on the ellipsoid.
package lay

import (
	"math"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// frame is a system of coordinates about a geodesic: x metres along it from the origin, then y metres to the right of
// it, along the geodesic at a right angle (the coordinates of Soldner and Cassini, turned). Distances across it are
// exact wherever they are, and so is the spacing of lines of one y.
type frame struct{ lat, lon, heading float64 }

// from gives the position of a place.
func (f frame) from(x, y float64) nav.Point {
	lat, lon, course := geodesy.Direct(f.lat, f.lon, f.heading, x)
	if y != 0 {
		lat, lon, _ = geodesy.Direct(lat, lon, course+90, y)
	}
	return exact(lat, lon)
}

// exact is a position that is written to the centimetre.
func exact(lat, lon float64) nav.Point {
	p := nav.At(lat, lon)
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(7), decimal.PrecisionOf(7)
	return p
}

// to gives the place of a position: the foot of its perpendicular is found by going along the line for as far as it is
// ahead, until nothing is left.
func (f frame) to(lat, lon float64) (x, y float64) {
	for range 20 {
		footLat, footLon, course := geodesy.Direct(f.lat, f.lon, f.heading, x)
		distance, azimuth, _ := geodesy.Inverse(footLat, footLon, lat, lon)
		sin, cos := math.Sincos((azimuth - course) * math.Pi / 180)
		sinArc, cosArc := math.Sincos(distance / earth)
		ahead := earth * math.Atan2(sinArc*cos, cosArc) // of the foot, on a sphere
		x, y = x+ahead, distance*sin
		if math.Abs(ahead) < 1e-4 {
			break
		}
	}
	return x, y
}

const earth = geodesy.MeanRadius

// place is a point of a frame.
type place struct{ x, y float64 }

// straight gives the places between two of one y that a route needs to stay within the tolerance of the line of that y,
// the last one among them: a leg is a geodesic, and lines off the axis are none.
func (f frame) straight(a, b place) []place {
	const tolerance = 0.3 // metres
	p, q := f.from(a.x, a.y), f.from(b.x, b.y)
	distance, course, _ := geodesy.Inverse(p.Lat, p.Lon, q.Lat, q.Lon)
	midLat, midLon, _ := geodesy.Direct(p.Lat, p.Lon, course, distance/2)
	mid := place{(a.x + b.x) / 2, (a.y + b.y) / 2}
	want := f.from(mid.x, mid.y)
	if distance < 1000 || geodesy.Distance(midLat, midLon, want.Lat, want.Lon) <= tolerance {
		return []place{b}
	}
	return append(f.straight(a, mid), f.straight(mid, b)...)
}
