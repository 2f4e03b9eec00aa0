package shape

import (
	"math"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Between gives the point at a part of the way between two others, from 0 to 1 along the shortest line, with its height
// and time where both have one.
func Between(a, b *nav.Point, part float64) nav.Point {
	const short = 0.01 // degrees, within which the shortest line is a straight one to a hundredth of a millimetre
	p := a.Toward(b, part)
	dlat, dlon := b.Lat-a.Lat, math.Remainder(b.Lon-a.Lon, 360)
	if (math.Abs(dlat) > short || math.Abs(dlon) > short) && part > 0 && part < 1 {
		distance, course, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
		lat, lon, _ := geodesy.Direct(a.Lat, a.Lon, course, part*distance)
		p.Lat, p.Lon = lat, nav.WrapLon(lon)
	}
	return p
}

// Stations gives the points of the shortest line between two others, the ends left out, so many metres apart from the
// first on, with their heights and times where both ends have one.
func Stations(a, b *nav.Point, every float64) []nav.Point {
	distance, course, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
	n := int(distance / every)
	if float64(n)*every > distance-every/1000 {
		n-- // the last one would be the end itself
	}
	points := make([]nav.Point, 0, max(n, 0))
	for i := 1; i <= n; i++ {
		along := float64(i) * every
		p := a.Toward(b, along/distance)
		lat, lon, _ := geodesy.Direct(a.Lat, a.Lon, course, along)
		p.Lat, p.Lon = lat, nav.WrapLon(lon)
		points = append(points, p)
	}
	return points
}
