package shape

import (
	"math"
	"slices"

	"gyrolith/core/nav"
)

// Corners gives the corners of a ring whose longitudes are read as they stand, without the closing one. East are the
// indexes of those at 180 degrees, which the data hold as -180. An edge of half the earth, or all around it along a
// parallel, gets points between, since from corner to corner edges go the short way.
func Corners(points []nav.Point, east []int) []nav.Point {
	n := len(points)
	stated := func(i int) float64 { return points[i].Lon }
	if len(east) > 0 {
		at := map[int]bool{}
		for _, i := range east {
			at[i] = true
		}
		stated = func(i int) float64 {
			if at[i] {
				return points[i].Lon + 360
			}
			return points[i].Lon
		}
	}
	if n > 1 && points[0].SamePlace(&points[n-1]) && stated(0) == stated(n-1) {
		n--
		points = points[:n:n]
	}
	wide := func(i int) float64 { return stated((i+1)%n) - stated(i) }
	sum, hops, plain := 0.0, 0, true
	for i := range n {
		switch d := math.Abs(wide(i)); d {
		case 360:
			hops++
			plain = false
		case 180:
			plain = false
			sum += wide(i)
		default:
			sum += nav.WrapLon(wide(i))
		}
	}
	if plain {
		return points
	}
	// A ring that goes around a pole and comes back to its first corner along the parallel is closed already.
	closed := hops == 1 && math.Abs(sum) > 180
	var out []nav.Point
	for i := range n {
		d := wide(i)
		p, q := &points[i], &points[(i+1)%n]
		parts := map[float64]int{360: 3, 180: 2}[math.Abs(d)]
		if parts == 3 && closed && math.Abs(p.Lat) != 90 {
			continue // the next corner is the same place
		}
		out = append(out, *p)
		for k := 1; k < parts; k++ {
			u := p.Lon + d*float64(k)/float64(parts)
			between := between(p, q, p.Lon, p.Lon+d, u)
			between.Lon = nav.WrapLon(u)
			out = append(out, between)
		}
	}
	return out
}

// Winding is the way that the outlines of a format turn.
type Winding int8

// With the clock, against it, or as whoever wrote them liked.
const (
	AnyWay    Winding = 0
	AntiClock Winding = 1
	WithClock Winding = -1
)

// Poleward turns the rings of an area whose outline goes around a pole so that their direction says which pole it is:
// that which its winding says, or, where a format has no rule, the nearer one. It gives the pole, 1 for the north one
// and -1 for the south one; 0 for other areas.
func Poleward(rings [][]nav.Point, way Winding) int {
	if len(rings) == 0 {
		return 0
	}
	around := nav.Around(rings[0])
	if around == 0 {
		return 0
	}
	pole := around * int(way)
	if way == AnyWay {
		lat := 0.0
		for i := range rings[0] {
			lat += rings[0][i].Lat
		}
		if pole = 1; lat < 0 {
			pole = -1
		}
	}
	for _, ring := range rings {
		if nav.Around(ring) == -pole {
			slices.Reverse(ring)
		}
	}
	return pole
}
