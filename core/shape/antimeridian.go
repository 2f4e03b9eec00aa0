package shape

import (
	"math"
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// Lines and areas that cross the antimeridian are cut there for formats whose longitudes end at ±180° (RFC 7946,
// section 3.1.9), and put together again on reading. Positions of cut parts may have the longitude 180.

// unwrap gives longitudes that go on beyond ±180° instead of jumping.
func unwrap(points []nav.Point) []float64 {
	out := make([]float64, len(points))
	for i := range points {
		if i == 0 {
			out[i] = points[i].Lon
			continue
		}
		out[i] = out[i-1] + nav.WrapLon(points[i].Lon-points[i-1].Lon)
	}
	return out
}

// Crosses says whether a line goes from one side of the antimeridian to the other, or a ring with its closing edge.
func Crosses(points []nav.Point, closed bool) bool {
	n := len(points)
	if n == 0 {
		return false
	}
	last := points[0].Lon
	if scratch.Any(points, func(p *nav.Point) bool {
		over := math.Abs(p.Lon-last) > 180
		last = p.Lon
		return over
	}) {
		return true
	}
	return closed && n > 1 && math.Abs(points[0].Lon-points[n-1].Lon) > 180
}

// band is the number of the turn around the earth that an unwrapped longitude is in; edge says that it is the limit of
// two.
func band(u float64) (n float64, edge bool) {
	t := (u + 180) / 360
	n = math.Floor(t)
	return n, t == n
}

// between gives the position at an unwrapped longitude between two others, without a time.
func between(p, q *nav.Point, u, v, at float64) nav.Point {
	t := (at - u) / (v - u)
	out := nav.Point{Lat: p.Lat + t*(q.Lat-p.Lat), Lon: at}
	if p.HasHeight() && q.HasHeight() {
		out.SetHeight(p.Height()+t*(q.Height()-p.Height()), 0, p.VerticalDatum())
	}
	return out
}

// CutLine cuts a line where it crosses the antimeridian; one that doesn't is one part.
func CutLine(points []nav.Point) [][]nav.Point {
	if !Crosses(points, false) {
		return [][]nav.Point{points}
	}
	u := unwrap(points)
	first := slices.IndexFunc(u, func(x float64) bool { _, edge := band(x); return !edge })
	if first < 0 {
		return [][]nav.Point{points}
	}
	turn, _ := band(u[first])
	var parts [][]nav.Point
	var part []nav.Point
	put := func(p nav.Point, u float64) {
		p.Lon = u - 360*turn
		part = append(part, p)
	}
	for i := range points {
		n, edge := band(u[i])
		if !edge && n != turn {
			limit := 360*max(n, turn) - 180
			last := points[i-1]
			if _, onEdge := band(u[i-1]); !onEdge {
				last = between(&points[i-1], &points[i], u[i-1], u[i], limit)
				put(last, limit)
			}
			parts = append(parts, part)
			part, turn = nil, n
			put(last, limit)
		}
		put(points[i], u[i])
	}
	return append(parts, part)
}

// JoinLines joins parts that a cut at the antimeridian left: of which one ends and the next begins there, at one
// latitude. The position there goes where it lies on the straight line between its neighbours and has no time.
func JoinLines(parts []nav.Segment) []nav.Segment {
	var out []nav.Segment
	for i := range parts {
		if n := len(out); n > 0 && meet(out[n-1].Points, parts[i].Points) {
			out[n-1] = join(&out[n-1], &parts[i])
			continue
		}
		out = append(out, parts[i])
	}
	return out
}

func meet(a, b []nav.Point) bool {
	if len(a) < 2 || len(b) < 2 {
		return false
	}
	p, q := &a[len(a)-1], &b[0]
	return p.Lon == -180 && q.Lon == -180 && p.Lat == q.Lat && a[len(a)-2].Lon*b[1].Lon < 0 &&
		math.Abs(a[len(a)-2].Lon-b[1].Lon) > 180
}

func join(a, b *nav.Segment) nav.Segment {
	n := len(a.Points)
	keep := n
	if p := &a.Points[n-1]; !p.HasTime() && !a.HasDetail(p) && straight(&a.Points[n-2], p, &b.Points[1]) {
		keep--
	}
	out := a.Piece(0, keep)
	out.Points = slices.Clone(out.Points)
	carry := nav.Carry{From: b, To: &out}
	for _, p := range b.Points[1:] {
		out.Points = append(out.Points, carry.Point(p))
	}
	return out
}

// straight says whether a position on the antimeridian lies between two others in longitude and latitude.
func straight(p, m, q *nav.Point) bool {
	const nearly = 1e-8 // degrees, a millimetre
	u, v := nav.WrapLon(m.Lon-p.Lon), nav.WrapLon(q.Lon-p.Lon)
	return v != 0 && u/v > 0 && u/v < 1 && math.Abs(p.Lat+u/v*(q.Lat-p.Lat)-m.Lat) < nearly
}

// ring is one in unwrapped longitudes.
type ring struct {
	points []nav.Point
	u      []float64
}

// CutArea cuts an area where it crosses the antimeridian, into areas of outline and holes each. One that doesn't, or
// that goes around a pole, stays as it is.
func CutArea(rings [][]nav.Point) [][][]nav.Point {
	if len(rings) == 0 || !slices.ContainsFunc(rings, func(r []nav.Point) bool { return Crosses(r, true) }) {
		return [][][]nav.Point{rings}
	}
	whole := make([]ring, 0, len(rings))
	for i, points := range rings {
		if len(points) < 3 {
			continue
		}
		if clockwise := SignedArea(points) < 0; clockwise == (i == 0) { // outlines go against the clock, holes with it
			points = slices.Clone(points)
			slices.Reverse(points)
		}
		r := ring{points, unwrap(points)}
		if math.Abs(r.u[len(r.u)-1]-r.u[0]+nav.WrapLon(points[0].Lon-points[len(points)-1].Lon)) > 180 {
			return [][][]nav.Point{rings} // around a pole
		}
		if i > 0 && len(whole) > 0 { // to the turn in which the outline is
			low, high := slices.Min(whole[0].u), slices.Max(whole[0].u)
			for r.u[0] < low {
				r.shift(360)
			}
			for r.u[0] > high {
				r.shift(-360)
			}
		}
		whole = append(whole, r)
	}
	if len(whole) == 0 {
		return [][][]nav.Point{rings}
	}
	var out [][][]nav.Point
	for pending := [][]ring{whole}; len(pending) > 0; {
		area := pending[0]
		pending = pending[1:]
		low, high := slices.Min(area[0].u), slices.Max(area[0].u)
		turn := math.Floor((low + 180) / 360)
		if limit := 360*turn + 180; high > limit {
			left, right := split(area, limit)
			pending = append(append(pending, left...), right...)
			continue
		}
		var part [][]nav.Point
		for _, r := range area {
			points := slices.Clone(r.points)
			for i := range points {
				points[i].Lon = r.u[i] - 360*turn
			}
			part = append(part, points)
		}
		out = append(out, part)
	}
	return out
}

func (r *ring) shift(by float64) {
	for i := range r.u {
		r.u[i] += by
	}
}

// chain is a piece of a ring on one side of a meridian, from one crossing to the next.
type chain struct {
	ring
	from, to int // the crossings
	done     bool
}

// split cuts an area along a meridian. The pieces of its rings on either side are joined along it: from south to north,
// every second stretch between crossings is inside.
func split(area []ring, limit float64) (left, right [][]ring) {
	var chains [2][]chain
	var whole [2][]ring // holes without a crossing, or the outline
	var lats []float64  // of the crossings
	for _, r := range area {
		cutRing(r, limit, &chains, &whole, &lats)
	}
	order := make([]int, len(lats)) // crossings from south to north
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case lats[a] < lats[b]:
			return -1
		case lats[a] > lats[b]:
			return 1
		}
		return 0
	})
	partner := make([]int, len(lats))
	for i := 0; i+1 < len(order); i += 2 {
		partner[order[i]], partner[order[i+1]] = order[i+1], order[i]
	}
	return gather(chains[0], whole[0], partner, limit), gather(chains[1], whole[1], partner, limit)
}

// cutRing gives the chains of a ring. A position on the meridian counts as west of it.
func cutRing(r ring, limit float64, chains *[2][]chain, whole *[2][]ring, lats *[]float64) {
	n := len(r.points)
	side := func(i int) int {
		if r.u[i%n] > limit {
			return 1
		}
		return 0
	}
	start := -1
	for i := range n {
		if side(i) != side(i+1) {
			start = i + 1
			break
		}
	}
	if start < 0 {
		whole[side(0)] = append(whole[side(0)], r)
		return
	}
	first := len(*lats)
	var c chain
	cross := func(i int) nav.Point { // on the edge from i to the next
		p, q := r.points[i%n], r.points[(i+1)%n]
		if r.u[i%n] == limit {
			return p
		}
		if r.u[(i+1)%n] == limit {
			return q
		}
		return between(&p, &q, r.u[i%n], r.u[(i+1)%n], limit)
	}
	begin := func(at nav.Point) {
		*lats = append(*lats, at.Lat)
		c = chain{from: len(*lats) - 1}
		c.put(at, limit)
	}
	begin(cross(start - 1 + n))
	for k := range n {
		i := start + k
		c.put(r.points[i%n], r.u[i%n])
		if side(i) == side(i+1) {
			continue
		}
		at := cross(i)
		c.put(at, limit)
		s := side(i)
		if k == n-1 {
			c.to = first
			chains[s] = append(chains[s], c)
			return
		}
		c.to = len(*lats)
		chains[s] = append(chains[s], c)
		begin(at)
	}
}

// put adds a position, unless it is the last one again.
func (r *ring) put(p nav.Point, u float64) {
	if n := len(r.points); n > 0 && r.u[n-1] == u && r.points[n-1].Lat == p.Lat {
		return
	}
	r.points, r.u = append(r.points, p), append(r.u, u)
}

// gather joins the chains of one side to outlines, and gives each the holes that lie in it.
func gather(chains []chain, whole []ring, partner []int, limit float64) (out [][]ring) {
	byStart := map[int]int{}
	for i := range chains {
		byStart[chains[i].from] = i
	}
	for i := range chains {
		var r ring
		for at := i; !chains[at].done; {
			c := &chains[at]
			c.done = true
			for k := range c.points {
				r.put(c.points[k], c.u[k])
			}
			next, ok := byStart[partner[c.to]]
			if !ok {
				break
			}
			at = next
		}
		if n := len(r.points); n > 1 && r.u[0] == r.u[n-1] && r.points[0].Lat == r.points[n-1].Lat {
			r.points, r.u = r.points[:n-1], r.u[:n-1]
		}
		flat := !slices.ContainsFunc(r.u, func(u float64) bool { return u != limit })
		if len(r.points) > 2 && !flat {
			out = append(out, []ring{r})
		}
	}
	for _, h := range whole {
		in := slices.IndexFunc(out, func(area []ring) bool { return inside(&area[0], h.u[0], h.points[0].Lat) })
		if in < 0 {
			out = append(out, []ring{h})
			continue
		}
		out[in] = append(out[in], h)
	}
	return out
}

// inside says whether a place lies in a ring of unwrapped longitudes, by the crossings of a ray.
func inside(r *ring, u, lat float64) (in bool) {
	n := len(r.points)
	for i := range n {
		j := (i + 1) % n
		a, b := r.points[i].Lat, r.points[j].Lat
		if (a > lat) != (b > lat) && u < r.u[i]+(lat-a)/(b-a)*(r.u[j]-r.u[i]) {
			in = !in
		}
	}
	return
}

// SignedArea is twice the plane area of a ring in square degrees, positive against the clock. An edge across
// the antimeridian goes the short way.
func SignedArea(points []nav.Point) (sum float64) {
	x := 0.0
	for i := range points {
		p, q := &points[i], &points[(i+1)%len(points)]
		dx := nav.WrapLon(q.Lon - p.Lon)
		sum += x*(q.Lat-points[0].Lat) - (x+dx)*(p.Lat-points[0].Lat)
		x += dx
	}
	return
}

// JoinAreas puts areas together again that a cut at the antimeridian parted: edges along it that two of them share, in
// opposite directions, go. What was not cut stays as it is.
func JoinAreas(areas [][][]nav.Point) [][][]nav.Point {
	if len(areas) < 2 {
		return areas
	}
	type place struct{ lat, lon float64 }
	type edge struct{ from, to place }
	key := func(p *nav.Point) place { return place{p.Lat, p.Lon} }
	oriented := make([][][]nav.Point, len(areas))
	edges := map[edge]int{} // along the antimeridian
	for a, rings := range areas {
		for i, points := range rings {
			if (SignedArea(points) < 0) == (i == 0) {
				points = slices.Clone(points)
				slices.Reverse(points)
			}
			oriented[a] = append(oriented[a], points)
			for j := range points {
				p, q := &points[j], &points[(j+1)%len(points)]
				if p.Lon == -180 && q.Lon == -180 {
					edges[edge{key(p), key(q)}] = a
				}
			}
		}
	}
	gone := func(a int, p, q *nav.Point) bool {
		other, ok := edges[edge{key(q), key(p)}]
		return p.Lon == -180 && q.Lon == -180 && ok && other != a
	}
	var out, left [][][]nav.Point // those that were cut, joined; the others
	follow := map[place][]int{}   // edges by where they begin
	type step struct{ from, to nav.Point }
	var steps []step
	for a, rings := range oriented {
		cut := false
		for _, points := range rings {
			for j := range points {
				cut = cut || gone(a, &points[j], &points[(j+1)%len(points)])
			}
		}
		if !cut {
			left = append(left, areas[a])
			continue
		}
		for _, points := range rings {
			for j := range points {
				p, q := &points[j], &points[(j+1)%len(points)]
				if !gone(a, p, q) {
					follow[key(p)] = append(follow[key(p)], len(steps))
					steps = append(steps, step{*p, *q})
				}
			}
		}
	}
	if len(steps) == 0 {
		return areas
	}
	var holes [][]nav.Point
	done := make([]bool, len(steps))
	for i := range steps {
		var points []nav.Point
		for at := i; at >= 0 && !done[at]; {
			done[at] = true
			points = append(points, steps[at].from)
			next := -1
			for _, k := range follow[key(&steps[at].to)] {
				if !done[k] {
					next = k
					break
				}
			}
			at = next
		}
		if points = withoutSeams(points); len(points) < 3 {
			continue
		}
		if SignedArea(points) > 0 {
			out = append(out, [][]nav.Point{points})
		} else {
			holes = append(holes, points)
		}
	}
	for _, h := range holes {
		in := slices.IndexFunc(out, func(rings [][]nav.Point) bool { return nav.RingContains(rings[0], h[0].Lat, h[0].Lon) })
		if in < 0 {
			return areas // no cut of ours
		}
		out[in] = append(out[in], h)
	}
	return append(out, left...)
}

// withoutSeams drops the positions on the antimeridian that lie on the straight line between their neighbours.
func withoutSeams(points []nav.Point) (out []nav.Point) {
	n := len(points)
	for i := range points {
		p, q := &points[(i+n-1)%n], &points[(i+1)%n]
		if points[i].Lon == -180 && straight(p, &points[i], q) {
			continue
		}
		out = append(out, points[i])
	}
	return
}
