package passage

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Near is how a leg passes a hazard.
type Near struct {
	Kind     string  `json:"kind"`
	Name     string  `json:"name"`
	Distance float64 `json:"distance_m"` // 0 where the leg crosses it or is inside
	Side     string  `json:"side,omitempty"`
	Along    float64 `json:"along_m"` // metres along the leg to where it is nearest
	Lat      float64 `json:"lat"`     // of that place on the leg
	Lon      float64 `json:"lon"`

	Hazard *nav.Point `json:"-"` // where it stands itself, of a waypoint; nil for others
}

// encounter is how near a leg comes to one danger.
type encounter struct {
	distance, along float64
	side            float64 // below zero is left
	crossings       []float64
}

// mostParts bounds the work for one leg.
const mostParts = 50_000

// parts cuts a leg into pieces that are straight enough.
func (l *line) parts() (at [][2]float64, step float64) {
	most := piece
	if l.rhumb {
		most = pieceAt(max(math.Abs(l.a.Lat), math.Abs(l.b.Lat)))
	}
	n := min(max(int(math.Ceil(l.distance/most)), 1), mostParts)
	step = l.distance / float64(n)
	for i := range n + 1 {
		lat, lon := l.at(float64(i) * step)
		at = append(at, [2]float64{lat, lon})
	}
	return
}

// meet measures a leg against every danger, the nearest one beyond the limit too if farther ones are wanted. The
// farther ones of two are measured only as far as it is needed to know that they are not the nearest and are beyond it.
// What a leg may pass above, below or at another time hides nothing behind it.
func (d *Dangers) meet(l *line, limit float64, farther bool) map[int]*encounter {
	out := map[int]*encounter{}
	parts, step := l.parts()
	nearest, within := math.Inf(1), math.Inf(1) // and through the earth, as far as is measured
	if limit = chord(limit); !farther {
		nearest, within = 0, limit
	}
	// An area far larger than the leg may hold it without any edge near by, and nothing is nearer than that.
	d.regions.Holding(l.a.Lat, l.a.Lon, func(i int) bool {
		out[d.danger[i]] = &encounter{}
		if d.List[d.danger[i]].Limits == (nav.Limits{}) {
			nearest, within = 0, limit
		}
		return true
	})
	for i := 0; i+1 < len(parts); i++ {
		ground := newGround(parts[i], parts[i+1])
		mid := ground.middle
		measure := func(e *edge, reach float64) {
			bound := ground.off(e.middle) - e.half - 1
			if bound > reach {
				return
			}
			danger := &d.List[e.of]
			if danger.own {
				return
			}
			have := out[e.of]
			if have != nil && bound > have.distance && bound > 0 {
				return
			}
			distance, t, u, side, cross := ground.apart(e)
			if distance > 5000 { // far off, the plane is no measure
				lat, lon := l.at((float64(i) + t) * step)
				distance = geodesy.Distance(lat, lon, e.a[0]+u*(e.b[0]-e.a[0]), nav.WrapLon(e.a[1]+u*nav.WrapLon(e.b[1]-e.a[1])))
			}
			if have == nil {
				have = &encounter{distance: math.Inf(1)}
				out[e.of] = have
			}
			if cross {
				have.crossings = append(have.crossings, (float64(i)+t)*step)
			}
			if distance < have.distance {
				have.distance, have.along, have.side = distance, (float64(i)+t)*step, side
			}
			if danger.Limits == (nav.Limits{}) && have.distance < nearest {
				nearest = have.distance
				within = max(limit, chord(nearest))
			}
		}
		d.nearby.around(mid, func() float64 { return within + d.nearby.longest + step/2 + 1 },
			func(e *edge) { measure(e, within) })
	}
	return out
}

// chord is how far through the earth two places are at most that are so far from one another over the ground, in
// metres: that of the flattest arc there is on the ellipsoid, at a pole.
func chord(ground float64) float64 {
	const flattest = geodesy.SemiMajor / (1 - geodesy.Flattening)
	if ground >= math.Pi*flattest {
		return math.Inf(1)
	}
	return 2 * flattest * math.Sin(ground/2/flattest)
}

// ground is the plane that touches the earth in the middle of a piece of a leg. What is near by is seen on it from
// above, to less than a millimetre within 5 km, anywhere on earth.
type ground struct {
	middle, east, north vec3
	ax, ay, bx, by      float64 // the piece
	from, along         vec3    // and its chord through the earth
}

// off is how far a place is from the chord of the piece.
func (g *ground) off(at vec3) float64 {
	d := at.minus(g.from)
	part := min(max(d.dot(g.along)/max(g.along.dot(g.along), 1e-9), 0), 1)
	for k := range d {
		d[k] -= part * g.along[k]
	}
	return math.Sqrt(d.dot(d))
}

func newGround(a, b [2]float64) *ground {
	from, to := cartesian(a), cartesian(b)
	g := &ground{from: from, along: to.minus(from)}
	for i := range from {
		g.middle[i] = (from[i] + to[i]) / 2
	}
	// The way up there: of a sphere that is stretched along the axis.
	up := vec3{g.middle[0], g.middle[1], g.middle[2] / (1 - geodesy.EccentricitySquared)}
	up = up.unit()
	g.east = vec3{-up[1], up[0], 0}
	if g.east.dot(g.east) < 1e-30 { // at a pole any direction will do
		g.east = vec3{0, 1, 0}
	}
	g.east = g.east.unit()
	g.north = vec3{up[1]*g.east[2] - up[2]*g.east[1], up[2]*g.east[0] - up[0]*g.east[2], up[0]*g.east[1] - up[1]*g.east[0]}
	g.ax, g.ay = g.xy(from)
	g.bx, g.by = g.xy(to)
	return g
}

func (v vec3) unit() vec3 {
	n := math.Sqrt(v.dot(v))
	return vec3{v[0] / n, v[1] / n, v[2] / n}
}

func (g *ground) xy(p vec3) (x, y float64) {
	d := p.minus(g.middle)
	return d.dot(g.east), d.dot(g.north)
}

// apart measures the piece of a leg against an edge: how far they are apart at least, at which part of either, on which
// side of the leg the edge is there, and whether they cross.
func (g *ground) apart(e *edge) (distance, t, u, side float64, cross bool) {
	cx, cy := g.xy(e.from)
	dx, dy := g.xy(e.to)
	distance, t, u, cross = segments(g.ax, g.ay, g.bx, g.by, cx, cy, dx, dy)
	px, py := cx+u*(dx-cx), cy+u*(dy-cy)
	side = (py-g.ay)*(g.bx-g.ax) - (px-g.ax)*(g.by-g.ay) // above zero is left
	return distance, t, u, -side, cross
}

// segments gives the least distance between two straight lines, and where on each it is, from 0 to 1.
func segments(ax, ay, bx, by, cx, cy, dx, dy float64) (distance, t, u float64, cross bool) {
	rx, ry, sx, sy := bx-ax, by-ay, dx-cx, dy-cy
	if den := rx*sy - ry*sx; den != 0 {
		t = ((cx-ax)*sy - (cy-ay)*sx) / den
		u = ((cx-ax)*ry - (cy-ay)*rx) / den
		if t >= 0 && t <= 1 && u >= 0 && u <= 1 {
			return 0, t, u, true
		}
	}
	distance = math.Inf(1)
	try := func(px, py, qx, qy, wx, wy float64) (float64, float64) { // from p to the line at q along w
		k := 0.0
		if l := wx*wx + wy*wy; l > 0 {
			k = min(max(((px-qx)*wx+(py-qy)*wy)/l, 0), 1)
		}
		return math.Hypot(px-qx-k*wx, py-qy-k*wy), k
	}
	for i, p := range [2][2]float64{{cx, cy}, {dx, dy}} {
		if d, k := try(p[0], p[1], ax, ay, rx, ry); d < distance {
			distance, t, u = d, k, float64(i)
		}
	}
	for i, p := range [2][2]float64{{ax, ay}, {bx, by}} {
		if d, k := try(p[0], p[1], cx, cy, sx, sy); d < distance-1e-9 {
			distance, t, u = d, float64(i), k
		}
	}
	return
}

// near puts an encounter into words' parts.
func (d *Dangers) near(k int, e *encounter, l *line) *Near {
	danger := &d.List[k]
	n := &Near{Kind: danger.Kind.One(), Name: danger.Name, Distance: e.distance, Along: e.along, Hazard: danger.At}
	if n.Distance > 0 {
		n.Side = "right"
		if e.side < 0 {
			n.Side = "left"
		}
	}
	n.Lat, n.Lon = l.at(e.along)
	return n
}

// watch finds what the legs of a table come near to and cross.
func (s *Step) watch(t *Table) {
	for i := range t.Legs {
		leg := &t.Legs[i]
		met := s.Dangers.meet(&leg.line, s.Clear, true)
		order := make([]int, 0, len(met))
		for k := range met {
			order = append(order, k)
		}
		slices.SortFunc(order, func(a, b int) int { // of several at one place the order of the file decides nothing
			return cmp.Or(cmp.Compare(met[a].along, met[b].along),
				cmp.Compare(s.Dangers.List[a].Name, s.Dangers.List[b].Name), a-b)
		})
		for _, k := range order {
			danger, e := &s.Dangers.List[k], met[k]
			said := false
			if danger.area != nil {
				var excused bool
				if said, excused = s.area(t, i, k, e); excused {
					continue
				}
			}
			near := s.Dangers.near(k, e, &leg.line)
			if leg.Nearest == nil || near.Distance < leg.Nearest.Distance {
				leg.Nearest = near
			}
			if s.Clear > 0 && e.distance < s.Clear && !said {
				t.Findings = append(t.Findings, Finding{Code: Clearance, Route: t.Route.Name, Leg: i + 1, Near: near,
					Name: danger.Name, Why: s.unknown(leg, danger)})
			}
		}
	}
}

// area finds that a leg crosses an area. It says whether there was a finding, and whether the leg passes above or below
// the area, or at another time, so that it does not count.
func (s *Step) area(t *Table, i, k int, e *encounter) (found, excused bool) {
	danger, leg := &s.Dangers.List[k], &t.Legs[i]
	crossed := s.Dangers.spans(k, &leg.line, e.crossings)
	for _, span := range crossed {
		f := Finding{Code: Crossing, Route: t.Route.Name, Leg: i + 1, Name: danger.Name, Enter: &span[0], Leave: &span[1],
			Near: s.Dangers.near(k, e, &leg.line)}
		if f.Why = s.passes(leg, danger, span); f.Why != "" {
			t.Notes = append(t.Notes, f)
			continue
		}
		if danger.KeepOut {
			f.Code = Closure
		}
		found, f.Why = true, s.unknown(leg, danger)
		t.Findings = append(t.Findings, f)
	}
	if len(crossed) == 0 {
		return false, s.passesBeside(leg, danger, s.Clear) != ""
	}
	return found, !found
}

// passesBeside is passes for the part of a leg on which it could come within a distance of an area.
func (s *Step) passesBeside(leg *Leg, d *Danger, clear float64) string {
	if d.Limits == (nav.Limits{}) {
		return ""
	}
	return s.passes(leg, d, leg.beside(d, clear))
}

// beside is the part of a leg, in metres along it, on which it could come within a distance of an area.
func (l *Leg) beside(d *Danger, clear float64) [2]float64 {
	whole := [2]float64{0, l.Distance}
	if l.Distance > 200e3 {
		return whole // too long for the plane
	}
	a, b := &l.From.Point, &l.To.Point
	plane := geodesy.NewPlane((a.Lat+b.Lat)/2, a.Lon)
	ax, ay := plane.XY(a.Lat, a.Lon)
	bx, by := plane.XY(b.Lat, b.Lon)
	length := math.Hypot(bx-ax, by-ay)
	if length == 0 {
		return whole
	}
	from, to := math.Inf(1), math.Inf(-1)
	for i := range d.area.Outline {
		p := &d.area.Outline[i]
		x, y := plane.XY(p.Lat, p.Lon)
		along := ((x-ax)*(bx-ax) + (y-ay)*(by-ay)) / length
		from, to = min(from, along), max(to, along)
	}
	slack := clear + length/1000
	return [2]float64{min(max(from-slack, 0), l.Distance), min(max(to+slack, 0), l.Distance)}
}

// spans gives the parts of a leg that are inside an area, in metres along it.
func (d *Dangers) spans(k int, l *line, crossings []float64) (out [][2]float64) {
	cuts := append([]float64{0}, crossings...)
	cuts = append(cuts, l.distance)
	slices.Sort(cuts)
	for i := 1; i < len(cuts); i++ {
		from, to := cuts[i-1], cuts[i]
		if to-from < 1e-3 {
			continue
		}
		if lat, lon := l.at((from + to) / 2); !d.inside(k, lat, lon) {
			continue
		}
		if n := len(out); n > 0 && out[n-1][1] == from {
			out[n-1][1] = to
			continue
		}
		out = append(out, [2]float64{from, to})
	}
	return
}

// passes says why a leg may be in an area on a part of its way: above or below it, or at a time when it does not hold.
func (s *Step) passes(leg *Leg, d *Danger, span [2]float64) string {
	if leg.Time > 0 && !s.Depart.IsZero() {
		start := leg.Arrive - int64(leg.Time)
		part := func(along float64) int64 { return start + int64(along/max(leg.Distance, 1e-9)*float64(leg.Time)) }
		if !d.Limits.At(part(span[0]), part(span[1])) {
			return "at a time when it does not hold"
		}
	}
	a, b := &leg.From.Point, &leg.To.Point
	if !a.HasHeight() || !b.HasHeight() || !a.VerticalDatum().Comparable(b.VerticalDatum()) {
		return ""
	}
	height := func(along float64) float64 {
		return a.Height() + along/max(leg.Distance, 1e-9)*(b.Height()-a.Height())
	}
	low, high := height(span[0]), height(span[1])
	low, high = min(low, high), max(low, high)
	return d.Limits.Misses(low, high, a.VerticalDatum())
}

// unknown says what of an area's limits could not be held against a leg, so that it counts as inside; "" for nothing.
func (s *Step) unknown(leg *Leg, d *Danger) string {
	var parts []string
	for _, l := range []struct {
		what string
		of   *nav.Level
	}{{"floor", d.Limits.Floor}, {"ceiling", d.Limits.Ceiling}} {
		switch {
		case l.of == nil || l.what == "floor" && l.of.Ground:
		case !leg.From.HasHeight() || !leg.To.HasHeight():
			parts = append(parts, fmt.Sprintf("its %s of %s not considered, as the leg has no heights", l.what, l.of.Text))
		case !l.of.Comparable(leg.From.VerticalDatum()) && !l.of.Unlimited:
			parts = append(parts, fmt.Sprintf("its %s of %s not considered, as the leg's heights are above %s", l.what,
				l.of.Text, leg.From.VerticalDatum()))
		}
	}
	if (d.Limits.From != nil || d.Limits.Until != nil) && (leg.Time == 0 || s.Depart.IsZero()) {
		parts = append(parts, "its validity not considered, as the leg has no times")
	}
	return strings.Join(parts, "; ")
}
