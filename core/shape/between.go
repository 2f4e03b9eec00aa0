package shape

import (
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

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
