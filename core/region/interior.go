package region

import (
	"slices"

	"gyrolith/core/nav"
)

// Interior is an area, made ready to be asked about many positions.
type Interior struct {
	outline ringEdges
	holes   []ringEdges
	across  *bands // the holes by their latitudes
}

// NewInterior makes an area ready. The area must stay as it is.
func NewInterior(a *nav.Area) *Interior {
	x := &Interior{outline: newRingEdges(a.Outline)}
	for _, hole := range a.Holes {
		x.holes = append(x.holes, newRingEdges(hole))
	}
	x.across = bandsOf(len(a.Holes), func(i int) (south, north float64) { return nav.Latitudes(a.Holes[i]) })
	return x
}

// Contains says whether a position is inside the area and in none of its holes.
func (x *Interior) Contains(lat, lon float64) bool {
	return x.outline.has(lat, lon) &&
		!slices.ContainsFunc(x.across.at(lat), func(i int32) bool { return x.holes[i].has(lat, lon) })
}

// crossings adds the parts of a leg, from 0 to 1, at which it crosses the outline and the holes.
func (x *Interior) crossings(a, b *nav.Point, out []float64) []float64 {
	south, north := min(a.Lat, b.Lat), max(a.Lat, b.Lat)
	cross := func(r *ringEdges) {
		low, high := south, north
		if r.around != 0 {
			low, high = r.edges.limits()
		}
		r.edges.between(low, high, func(i int32) bool {
			if t, ok := crossing(a, b, &r.ring[i], r.after(int(i))); ok {
				out = append(out, t)
			}
			return true
		})
	}
	cross(&x.outline)
	x.across.between(south, north, func(i int32) bool { cross(&x.holes[i]); return true })
	return out
}
