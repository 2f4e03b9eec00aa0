package lay

import (
	"fmt"
	"math"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

const (
	arcStep      = 5.0    // degrees of the arcs of a corridor: they are off by a thousandth of its half width
	longEdge     = 20_000 // metres, over which the edge beside a geodesic is as good as one
	mostCornered = 2000   // points of a line about which a corridor is laid
	mostLegs     = 100    // areas of a corridor that has one for each leg
)

// corridor lays an area about a line, with round ends: all places up to half its width from it. A line that crosses or
// comes back beside itself, or turns too sharply for its width, has one area for each leg.
func (s *Step) corridor(out *nav.Dataset, name string, points []nav.Point) error {
	same := func(a, b nav.Point) bool { return a.Lat == b.Lat && a.Lon == b.Lon }
	points = slices.CompactFunc(slices.Clone(points), same)
	if len(points) < 2 {
		return nil
	}
	if len(points) > mostCornered {
		return fmt.Errorf("%q has %d points, but a corridor takes at most %d: thin the line first", name,
			len(points), mostCornered)
	}
	label := s.named("Corridor", name, false)
	if ring, ok := about(points, s.Width/2); ok {
		out.Areas = append(out.Areas, nav.Area{Item: nav.Item{Name: label}, Outline: ring})
		return nil
	}
	if len(points) > mostLegs {
		return fmt.Errorf("%q turns too sharply for such a wide corridor, or runs back beside itself, and its %d points are "+
			"too many for one corridor per leg: thin it first, or make the corridor narrower", name, len(points))
	}
	for i := range len(points) - 1 {
		ring, _ := about(points[i:i+2], s.Width/2)
		out.Areas = append(out.Areas, nav.Area{Item: nav.Item{Name: fmt.Sprintf("%s %d", label, i+1), Group: label},
			Outline: ring})
	}
	return nil
}

// about gives the ring so far about a line; false where it would cross itself.
func about(points []nav.Point, half float64) (ring []nav.Point, ok bool) {
	legs := make([]edge, len(points)-1)
	for i := range legs {
		a, b := &points[i], &points[i+1]
		legs[i].from = *a
		legs[i].length, legs[i].first, legs[i].last = geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
	}
	back := make([]edge, len(legs)) // the same on the way back
	for i := range legs {
		l := &legs[len(legs)-1-i]
		back[i] = edge{points[len(points)-1-i], l.length, l.last + 180, l.first + 180}
	}
	for k, side := range [][]edge{legs, back} {
		end := points[len(points)-1]
		if k == 1 {
			end = points[0]
		}
		if ring, ok = leftOf(ring, side, half); !ok {
			return nil, false
		}
		last := side[len(side)-1].last
		ring = bend(ring, end, last-90, last+90, half)
	}
	return ring, !crossed(ring)
}

// edge is a leg of the line: its length, and its courses at both ends.
type edge struct {
	from        nav.Point
	length      float64
	first, last float64
}

// leftOf adds the side to the left of the legs; false where a corner inside does not fit between them.
func leftOf(ring []nav.Point, legs []edge, half float64) ([]nav.Point, bool) {
	from := 0.0 // metres of the leg that the corner before it takes
	for i := range legs {
		l := &legs[i]
		to, turn := l.length, 0.0
		if i+1 < len(legs) {
			turn = math.Remainder(legs[i+1].first-l.last, 360)
		}
		inner := 0.0 // metres that the corner takes of both legs
		if turn < 0 {
			inner = half * math.Tan(-turn/2*math.Pi/180)
		}
		to -= inner
		if to < from || i+1 < len(legs) && inner > legs[i+1].length {
			return nil, false
		}
		steps := int(math.Ceil((to - from) / longEdge))
		for k := range steps + 1 {
			if k == 0 && from > 0 || k == steps && inner > 0 && steps > 0 {
				continue // the corner has its own point
			}
			lat, lon, course := geodesy.Direct(l.from.Lat, l.from.Lon, l.first,
				from+(to-from)*float64(k)/float64(max(steps, 1)))
			ring = append(ring, off(lat, lon, course-90, half))
		}
		if i+1 == len(legs) {
			break
		}
		corner := legs[i+1].from
		switch {
		case turn < 0:
			ring = append(ring, off(corner.Lat, corner.Lon, l.last-90+turn/2, half/math.Cos(turn/2*math.Pi/180)))
		default:
			ring = bend(ring, corner, l.last-90, l.last-90+turn, half)
		}
		from = inner
	}
	return ring, true
}

// bend adds the places on a circle between two bearings, without its ends, clockwise.
func bend(ring []nav.Point, about nav.Point, from, to, radius float64) []nav.Point {
	n := int(math.Ceil((to-from)/arcStep - 1e-9)) // half a circle is one, whatever is rounded
	for k := 1; k < n; k++ {
		ring = append(ring, off(about.Lat, about.Lon, from+(to-from)*float64(k)/float64(n), radius))
	}
	return ring
}

func off(lat, lon, course, distance float64) nav.Point {
	lat, lon, _ = geodesy.Direct(lat, lon, course, distance)
	return exact(lat, lon)
}

// crossed says whether a ring crosses itself.
func crossed(ring []nav.Point) bool {
	x := make([]float64, len(ring)+1) // longitudes that go on over the antimeridian
	for i := range ring {
		x[i] = ring[i].Lon
		if i > 0 {
			x[i] = x[i-1] + nav.WrapLon(ring[i].Lon-ring[i-1].Lon)
		}
	}
	n := len(ring)
	x[n] = x[0]
	lat := func(i int) float64 { return ring[i%n].Lat }
	turn := func(i, j int, k int) float64 {
		return (x[j]-x[i])*(lat(k)-lat(i)) - (lat(j)-lat(i))*(x[k]-x[i])
	}
	for i := range n {
		for j := i + 2; j < n; j++ {
			if i == 0 && j == n-1 {
				continue
			}
			if max(x[i], x[i+1]) < min(x[j], x[j+1]) || max(x[j], x[j+1]) < min(x[i], x[i+1]) {
				continue
			}
			if turn(i, i+1, j)*turn(i, i+1, j+1) < 0 && turn(j, j+1, i)*turn(j, j+1, i+1) < 0 {
				return true
			}
		}
	}
	return false
}
