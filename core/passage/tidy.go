package passage

import (
	"math"
	"slices"
)

// shortLeg is the length below which nobody follows a leg, in metres, or a tenth of the clearance where that is more.
const shortLeg = 10.0

// tidied takes the short legs out of a way around corners: the two points of each become one, where the legs before and
// behind would meet, as long as these keep clear of everything and it is not far off.
func (f *field) tidied(way []vec) []vec {
	short := max(shortLeg, f.clear/10)
	most := max(4*short, 2*f.clear)
	for i := 1; i+1 < len(way); {
		a, b := way[i], way[i+1]
		if math.Hypot(b.x-a.x, b.y-a.y) >= short {
			i++
			continue
		}
		switch {
		case f.freeOfAll(way[i-1], b): // the point is not needed
			way = slices.Delete(way, i, i+1)
		case i+2 == len(way): // the end stays where it is
			i++
			continue
		default:
			at, ok := meeting(way[i-1], a, way[i+2], b)
			if !ok || math.Hypot(at.x-a.x, at.y-a.y) > most || !f.freeOfAll(way[i-1], at) || !f.freeOfAll(at, way[i+2]) {
				i++
				continue
			}
			way = slices.Replace(way, i, i+2, at)
		}
		i = max(i-1, 1)
	}
	return way
}

// meeting is where a line through two places, extended beyond the second one, meets another such line.
func meeting(a, b, c, d vec) (vec, bool) {
	ux, uy, vx, vy := b.x-a.x, b.y-a.y, d.x-c.x, d.y-c.y
	cross := ux*vy - uy*vx
	if math.Abs(cross) < 1e-9*math.Hypot(ux, uy)*math.Hypot(vx, vy) {
		return vec{}, false
	}
	t := ((c.x-a.x)*vy - (c.y-a.y)*vx) / cross
	s := ((c.x-a.x)*uy - (c.y-a.y)*ux) / cross
	return vec{a.x + t*ux, a.y + t*uy}, t >= 1 && s >= 1
}

// freeOfAll says whether a line keeps clear of everything.
func (f *field) freeOfAll(a, b vec) bool {
	return !slices.ContainsFunc(f.walls, func(w wall) bool {
		return !w.far(a, b, f.clear) && w.from(a, b) < f.clear-slack
	})
}
