package shape

import (
	"math"
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// Lines and areas that cross the antimeridian are cut there for formats whose longitudes end at ±180° (RFC 7946,
// section 3.1.9), and put together again on reading. Positions of cut parts may have the longitude 180.

// unwrap gives longitudes that go on beyond ±180° instead of jumping: those of the points and full turns.
func unwrap(points []nav.Point) []float64 {
	out := make([]float64, len(points))
	turns := 0.0
	for i := range points {
		if i > 0 {
			last, lon := points[i-1].Lon, points[i].Lon
			turns += math.Round((nav.WrapLon(lon-last) - (lon - last)) / 360)
		}
		out[i] = points[i].Lon + 360*turns
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
		is := over(last, p.Lon)
		last = p.Lon
		return is
	}) {
		return true
	}
	return closed && n > 1 && over(points[n-1].Lon, points[0].Lon)
}

// over says whether the short way between two longitudes leads over the antimeridian; of the two ways half around the
// earth it is the one to the west.
func over(from, to float64) bool {
	east := to - from
	return east >= 180 || east < -180
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
