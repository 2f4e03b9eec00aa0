package shape

import (
	"cmp"
	"math"
	"slices"

	"gyrolith/core/nav"
)

// ring is one in unwrapped longitudes.
type ring struct {
	points []nav.Point
	u      []float64
}

// put adds a position at an unwrapped longitude, unless it is the last one again.
func (r *ring) put(p nav.Point, u float64) {
	if n := len(r.points); n > 0 && r.u[n-1] == u && r.points[n-1].Lat == p.Lat {
		return
	}
	p.Lon = u
	r.points, r.u = append(r.points, p), append(r.u, u)
}

// sheet is the map of the world from -180° to 180° of longitude, with the pieces of the rings of an area on it. They
// begin and end at crossings of its two borders, which are one meridian.
type sheet struct {
	chains    []chain
	whole     []ring // rings without a crossing; an outline is the first
	crossings []crossing
}

// crossing is a place on the border, and whether the ring goes east there, with the area to its north.
type crossing struct {
	lat  float64
	east bool
}

// chain is a piece of a ring from one crossing to the next, with the area to its left.
type chain struct {
	ring
	from, to int // the crossings
	done     bool
}

// sheetOf is the number of the sheet that an unwrapped longitude is on; the border of two is on the one to the west.
func sheetOf(u float64) float64 { return math.Ceil((u+180)/360) - 1 }

// CutArea cuts an area where it crosses the antimeridian, into areas of outline and holes each, with longitudes from
// -180 to 180, for formats whose longitudes end there (RFC 7946, section 3.1.9). One around a pole gets the edge along
// the pole that it has on such a map. What doesn't cross the antimeridian stays as it is.
func CutArea(rings [][]nav.Point) [][][]nav.Point {
	if len(rings) == 0 || !slices.ContainsFunc(rings, func(r []nav.Point) bool { return Crosses(r, true) }) {
		return [][][]nav.Point{rings}
	}
	var s sheet
	pole := 0 // that the area holds: 1 is the north one, -1 the south one
	for i, points := range rings {
		if len(points) < 3 {
			continue
		}
		points, around := leftward(points, i == 0)
		if i == 0 {
			pole = around
		} else if around != 0 {
			pole = 0
		}
		s.add(ring{points, unwrap(points)}, 360*float64(around))
	}
	if pole != 0 {
		s.along(float64(pole))
	}
	out := s.gather()
	if len(out) == 0 {
		return [][][]nav.Point{rings}
	}
	return out
}

// leftward gives a ring with the area to its left, as a copy if it has to be turned round: outlines go against the
// clock, holes with it. It says how often the ring goes around the earth to the east (see nav.Around).
func leftward(points []nav.Point, outline bool) (out []nav.Point, around int) {
	around = nav.Around(points)
	if around != 0 && outline || around == 0 && (SignedArea(points) > 0) == outline {
		return points, around
	}
	points = slices.Clone(points)
	slices.Reverse(points)
	return points, -around
}

// along adds the edge along a pole.
func (s *sheet) along(pole float64) {
	c := chain{from: len(s.crossings), to: len(s.crossings)}
	c.put(nav.Point{Lat: 90 * pole}, 180*pole)
	c.put(nav.Point{Lat: 90 * pole}, -180*pole)
	s.chains, s.crossings = append(s.chains, c), append(s.crossings, crossing{90 * pole, pole < 0})
}

// add cuts a ring into chains. On is by how much its longitude has grown where it begins again.
func (s *sheet) add(r ring, on float64) {
	n := len(r.points)
	at := func(i int) float64 { return r.u[i%n] + float64(i/n)*on }
	start := 1
	for start <= n && sheetOf(at(start-1)) == sheetOf(at(start)) {
		start++
	}
	if start > n {
		var whole ring
		for i := range n {
			whole.put(r.points[i], r.u[i]-360*sheetOf(r.u[i]))
		}
		s.whole = append(s.whole, whole)
		return
	}
	cross := func(i int) (p nav.Point, limit float64) { // on the edge to a corner
		limit = 360*max(sheetOf(at(i-1)), sheetOf(at(i))) - 180
		p, q := r.points[(i-1)%n], r.points[i%n]
		switch {
		case at(i-1) == limit:
			return p, limit
		case at(i) == limit:
			return q, limit
		}
		return between(&p, &q, at(i-1), at(i), limit), limit
	}
	first := len(s.crossings)
	var c chain
	begin := func(p nav.Point, limit, sheet float64) {
		c = chain{from: len(s.crossings)}
		c.put(p, limit-360*sheet)
		s.crossings = append(s.crossings, crossing{p.Lat, limit < 360*sheet})
	}
	p, limit := cross(start)
	begin(p, limit, sheetOf(at(start)))
	for i := start; i < start+n; i++ {
		here, next := sheetOf(at(i)), sheetOf(at(i+1))
		c.put(r.points[i%n], at(i)-360*here)
		if here == next {
			continue
		}
		p, limit := cross(i + 1)
		c.put(p, limit-360*here)
		if i == start+n-1 { // where it began
			c.to = first
			s.chains = append(s.chains, c)
			return
		}
		c.to = len(s.crossings)
		s.chains = append(s.chains, c)
		begin(p, limit, next)
	}
}

// gather joins the chains to outlines along the borders, where from south to north every second stretch between
// crossings is inside, and gives each the holes that lie in it.
func (s *sheet) gather() (out [][][]nav.Point) {
	at, n := s.crossings, len(s.crossings)
	order := make([]int, n) // from south to north
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(at[a].lat, at[b].lat) })
	for i := range order { // at one place, too, one that goes east begins what one to the west ends
		for k := i; k < n && at[order[k]].lat == at[order[i]].lat; k++ {
			if at[order[k]].east == (i%2 == 0) {
				order[i], order[k] = order[k], order[i]
				break
			}
		}
	}
	partner, begins := make([]int, n), make([]int, n)
	for i := 0; i+1 < n; i += 2 {
		partner[order[i]], partner[order[i+1]] = order[i+1], order[i]
	}
	for i := range s.chains {
		begins[s.chains[i].from] = i
	}
	for i := range s.chains {
		var r ring
		for k := i; !s.chains[k].done; k = begins[partner[s.chains[k].to]] {
			c := &s.chains[k]
			c.done = true
			for j := range c.points {
				r.put(c.points[j], c.u[j])
			}
		}
		if n := len(r.points); n > 1 && r.u[0] == r.u[n-1] && r.points[0].Lat == r.points[n-1].Lat {
			r.points, r.u = r.points[:n-1], r.u[:n-1]
		}
		flat := !slices.ContainsFunc(r.u, func(u float64) bool { return u != r.u[0] })
		if len(r.points) > 2 && !flat {
			out = append(out, [][]nav.Point{r.points})
		}
	}
	if len(out) == 0 && len(s.whole) > 0 { // on one side all of it
		out = append(out, [][]nav.Point{s.whole[0].points})
		s.whole = s.whole[1:]
	}
	parts := len(out)
	for _, h := range s.whole {
		in := slices.IndexFunc(out[:parts], func(area [][]nav.Point) bool { return inside(area[0], &h.points[0]) })
		if in < 0 {
			out = append(out, [][]nav.Point{h.points})
			continue
		}
		out[in] = append(out[in], h.points)
	}
	return out
}

// inside says whether a place lies in a ring, by the coordinates as they stand.
func inside(r []nav.Point, at *nav.Point) (in bool) {
	for i := range r {
		p, q := &r[i], &r[(i+1)%len(r)]
		if (p.Lat > at.Lat) != (q.Lat > at.Lat) && at.Lon < p.Lon+(at.Lat-p.Lat)/(q.Lat-p.Lat)*(q.Lon-p.Lon) {
			in = !in
		}
	}
	return
}

// SignedArea is twice the plane area of a ring in square degrees, positive against the clock. An edge across
// the antimeridian goes the short way.
func SignedArea(points []nav.Point) float64 {
	return signedArea(points, func(p, q *nav.Point) float64 { return nav.WrapLon(q.Lon - p.Lon) })
}

// PlainArea is SignedArea by the longitudes as they stand, as those of an area are that was cut.
func PlainArea(points []nav.Point) float64 {
	return signedArea(points, func(p, q *nav.Point) float64 { return q.Lon - p.Lon })
}

func signedArea(points []nav.Point, east func(p, q *nav.Point) float64) (sum float64) {
	x := 0.0
	for i := range points {
		p, q := &points[i], &points[(i+1)%len(points)]
		dx := east(p, q)
		sum += x*(q.Lat-points[0].Lat) - (x+dx)*(p.Lat-points[0].Lat)
		x += dx
	}
	return
}
