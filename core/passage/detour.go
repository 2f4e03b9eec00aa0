package passage

import (
	"container/heap"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// leastClear is how far a detour stays from closures where no clearance is asked for, in metres.
const leastClear = 1.0

// Way is what was found for one route.
type Way struct {
	Route  nav.Route
	Added  int     // points added
	Moved  []Moved // points of the route that could not stay where they were
	Before float64 // metres
	After  float64
}

// Moved is a route point that lay too near to a hazard.
type Moved struct {
	Name     string
	Hazard   string
	Distance float64 // metres from where it was
}

// Detour gives a route that keeps the clearance from all hazards and stays out of the closures, as short as it can be.
// The points of the route stay, but for those between the ends that are too near to a hazard themselves: they are moved
// as little as may be. An error says why there is none.
//
// It is the shortest path by A* over the corners of the hazards' surroundings, of which each that sees another is
// joined to it (T. Lozano-Pérez and M. A. Wesley, Communications of the ACM 22(10), 1979). Hazards are brought in only
// as the way comes too near to them: a shortest way around some of the hazards that keeps clear of all of them is the
// shortest around all.
func (s *Step) Detour(ctx context.Context, r *nav.Route) (*Way, error) {
	out := &Way{Route: nav.Route{Item: r.Item}}
	if len(r.Points) < 2 {
		return nil, errors.New("a route with fewer than two points has no legs")
	}
	plan := (&Step{Rhumb: s.Rhumb, Speed: s.Speed, Depart: s.Depart, Drifts: s.Drifts, On: s.On}).Plan(r)
	from := r.Points[0]
	out.Route.Points = []nav.Waypoint{from}
	for i := range plan.Legs {
		leg := &plan.Legs[i]
		out.Before += leg.Distance
		to := *leg.To
		via, err := s.around(ctx, leg, &from, &to, i+2 == len(r.Points), out)
		if err != nil {
			return nil, fmt.Errorf("leg %d, %s to %s: %w", i+1, label(leg.From, i+1), label(leg.To, i+2), err)
		}
		level(leg, from.Point, to.Point, via)
		last := &from.Point
		for k := range via {
			p := nav.Waypoint{Item: nav.Item{Name: fmt.Sprintf("Detour %d", out.Added+1)}, Point: via[k]}
			out.Added++
			out.After += geodesy.Distance(last.Lat, last.Lon, p.Lat, p.Lon)
			out.Route.Points = append(out.Route.Points, p)
			last = &via[k]
		}
		out.After += geodesy.Distance(last.Lat, last.Lon, to.Lat, to.Lon)
		out.Route.Points = append(out.Route.Points, to)
		from = to
	}
	return out, nil
}

// level gives the points of a way heights between those of its ends, by the distance gone.
func level(leg *Leg, a, b nav.Point, via []nav.Point) {
	if math.IsNaN(leg.Climb) {
		return
	}
	gone := make([]float64, len(via)+1)
	last, sum := a, 0.0
	for i, p := range append(slices.Clone(via), b) {
		sum += geodesy.Distance(last.Lat, last.Lon, p.Lat, p.Lon)
		gone[i], last = sum, p
	}
	for i := range via {
		via[i].SetHeight(a.Height()+gone[i]/sum*leg.Climb, decimal.PrecisionOf(1), a.VerticalDatum())
	}
}

func label(w *nav.Waypoint, n int) string {
	if w.Name != "" {
		return w.Name
	}
	return fmt.Sprintf("point %d", n)
}

// around finds the way of one leg, and moves its end where that must be.
func (s *Step) around(ctx context.Context, leg *Leg, from, to *nav.Waypoint, final bool,
	out *Way) ([]nav.Point, error) {
	clear := max(s.Clear, leastClear)
	margin := clear*1e-3 + 0.05 // for what the plane and the rounding of positions cost
	if s.shortfall(from.Point, to.Point, nil, leg, clear+margin) <= 0 {
		return nil, ctx.Err() // nothing is in the way
	}
	// Hazards farther off count once a way comes near to them.
	for reach := 2000 + 20*clear + leg.Distance/2; reach < 1e8; reach *= 4 {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		f := newField(s, leg, from, to, clear+margin, reach)
		if k := f.blocked(f.start); k >= 0 {
			return nil, fmt.Errorf("it begins %s", s.tooNear(k, f, f.start))
		}
		end := f.xy(to.Lat, to.Lon)
		if k := f.blocked(end); k >= 0 {
			if final {
				return nil, fmt.Errorf("the route ends %s", s.tooNear(k, f, end))
			}
			free, ok := f.nearestFree(end)
			if !ok {
				return nil, fmt.Errorf("%s lies %s, and there is no room around it", label(to, 0), s.tooNear(k, f, end))
			}
			was := to.Point
			p := f.point(free)
			to.Lat, to.Lon, to.LatPrecision, to.LonPrecision, to.Exact = p.Lat, p.Lon, p.LatPrecision, p.LonPrecision, ""
			out.Moved = append(out.Moved, Moved{Name: to.Name, Hazard: s.Dangers.List[k].Name,
				Distance: geodesy.Distance(was.Lat, was.Lon, to.Lat, to.Lon)})
			end = f.xy(to.Lat, to.Lon)
		}
		f.end = end
		via, err := f.search(ctx)
		if err != nil {
			return nil, err
		}
		short := s.shortfall(from.Point, to.Point, via, leg, max(s.Clear, leastClear/2))
		if short <= 0 {
			return via, nil
		}
		margin += short*1.2 + 0.01
	}
	return nil, errors.New("no way was found that keeps the clearance exactly")
}

func (s *Step) tooNear(k int, f *field, at vec) string {
	d := &s.Dangers.List[k]
	if distance := f.distanceTo(k, at); distance > 0 && !f.within(k, at) {
		return fmt.Sprintf("%.0f m from %s, nearer than the clearance", distance, d.Name)
	}
	return "inside " + d.Name
}

// shortfall is by how much the way comes nearer than a clearance, measured as legs are.
func (s *Step) shortfall(a, b nav.Point, via []nav.Point, leg *Leg, clear float64) (short float64) {
	points := append(append([]nav.Point{a}, via...), b)
	for i := 1; i < len(points); i++ {
		l, _ := newLine(points[i-1], points[i], leg.Rhumb)
		for k, e := range s.Dangers.meet(&l, clear, false) {
			if e.distance < clear && s.counts(k, leg) {
				short = max(short, clear-e.distance)
			}
		}
	}
	return
}

// counts says whether a danger is one to lead around on a leg: a closure that does not hold there and then is not.
func (s *Step) counts(k int, leg *Leg) bool {
	d := &s.Dangers.List[k]
	switch {
	case d.own:
		return false
	case d.area != nil:
		return s.passesBeside(leg, d, max(s.Clear, leastClear)) == ""
	}
	return s.Clear > 0
}

// vec is a place on the plane of a leg, in metres.
type vec struct{ x, y float64 }

// field is the plane of one leg with what stands in it. It is conformal, and straight lines on it are the shortest ones
// but for centimetres as long as the leg is not hundreds of kilometres long.
type field struct {
	step       *Step
	plane      geodesy.TransverseMercator
	clear      float64
	walls      []wall
	active     []int // indices of walls
	isActive   map[int]bool
	start, end vec
	nodes      []vec
	rounded    map[vec]bool // corners whose surroundings are among the nodes
}

// wall is an edge on the plane.
type wall struct {
	of     int
	a, b   vec
	corner [2]bool
}

// newField is the plane of a leg with what stands within a reach of it, and what its ends lie in.
func newField(s *Step, leg *Leg, from, to *nav.Waypoint, clear, reach float64) *field {
	f := &field{step: s, clear: clear, isActive: map[int]bool{}, rounded: map[vec]bool{},
		plane: geodesy.TransverseMercator{Meridian: from.Lon + nav.WrapLon(leg.To.Lon-from.Lon)/2}}
	counts := map[int]bool{}
	for _, i := range s.Dangers.around(&from.Point, &to.Point, reach) {
		e := &s.Dangers.edges[i]
		if _, known := counts[e.of]; !known {
			counts[e.of] = s.counts(e.of, leg)
		}
		if counts[e.of] && math.Abs(nav.WrapLon(e.a[1]-f.plane.Meridian)) < 60 {
			f.walls = append(f.walls, wall{e.of, f.xy(e.a[0], e.a[1]), f.xy(e.b[0], e.b[1]), [2]bool{e.first, e.lastOne &&
				e.a != e.b}})
		}
	}
	f.start = f.xy(from.Lat, from.Lon)
	return f
}

func (f *field) xy(lat, lon float64) vec {
	x, y := f.plane.Forward(lat, lon)
	return vec{x, y}
}

func (f *field) point(v vec) nav.Point {
	lat, lon := f.plane.Inverse(v.x, v.y)
	p := nav.At(lat, lon)
	p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(7), decimal.PrecisionOf(7)
	p.Lat, p.Lon = math.Round(p.Lat*1e7)/1e7, math.Round(p.Lon*1e7)/1e7
	return p
}

func (w *wall) from(a, b vec) float64 {
	d, _, _, _ := segments(a.x, a.y, b.x, b.y, w.a.x, w.a.y, w.b.x, w.b.y)
	return d
}

// slack is what a way along the very edge of the clearance may seem to be too near by, in metres.
const slack = 1e-3

// far is a quick no: whether a line is out of a wall's reach by its box alone.
func (w *wall) far(a, b vec, reach float64) bool {
	return min(a.x, b.x) > max(w.a.x, w.b.x)+reach || max(a.x, b.x) < min(w.a.x, w.b.x)-reach ||
		min(a.y, b.y) > max(w.a.y, w.b.y)+reach || max(a.y, b.y) < min(w.a.y, w.b.y)-reach
}

// distanceTo is how far a place is from a danger.
func (f *field) distanceTo(k int, at vec) float64 {
	best := math.Inf(1)
	for i := range f.walls {
		if w := &f.walls[i]; w.of == k {
			best = min(best, w.from(at, at))
		}
	}
	return best
}

func (f *field) within(k int, at vec) bool {
	lat, lon := f.plane.Inverse(at.x, at.y)
	return f.step.Dangers.inside(k, lat, nav.WrapLon(lon))
}

// blocked gives the danger that a place is too near to, or inside of; -1 if none.
func (f *field) blocked(at vec) int {
	best, distance := -1, f.clear-slack
	checked := map[int]bool{}
	for i := range f.walls {
		w := &f.walls[i]
		if !checked[w.of] {
			checked[w.of] = true
			if f.within(w.of, at) {
				return w.of
			}
		}
		if w.far(at, at, distance) {
			continue
		}
		if d := w.from(at, at); d < distance {
			best, distance = w.of, d
		}
	}
	return best
}

// corners is the number of corners of the polygon that stands for a circle around a hazard: a way along it is longer
// than along the circle by 0.6 % of the arc.
const corners = 24

// around gives the corners around a place, whose edges touch the circle of the clearance.
func (f *field) around(v vec) (out []vec) {
	r := f.clear / math.Cos(math.Pi/corners) * (1 + 1e-9)
	for i := range corners {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / corners)
		out = append(out, vec{v.x + r*cos, v.y + r*sin})
	}
	return
}

// nearestFree finds the nearest place to one that is free: on the edge of the clearance of what stands around it.
func (f *field) nearestFree(at vec) (vec, bool) {
	best, distance := vec{}, math.Inf(1)
	try := func(v vec) {
		if d := math.Hypot(v.x-at.x, v.y-at.y); d < distance && f.blocked(v) < 0 {
			best, distance = v, d
		}
	}
	for i := range f.walls {
		w := &f.walls[i]
		if w.from(at, at) > 50*f.clear+5000 {
			continue
		}
		for _, v := range f.around(w.a) {
			try(v)
		}
		// Straight out from the wall, on both sides, and straight away from a point.
		dx, dy := w.b.x-w.a.x, w.b.y-w.a.y
		l := math.Hypot(dx, dy)
		if l == 0 {
			if away := math.Hypot(at.x-w.a.x, at.y-w.a.y); away > 0 {
				try(vec{w.a.x + (at.x-w.a.x)/away*f.clear, w.a.y + (at.y-w.a.y)/away*f.clear})
			}
			continue
		}
		t := min(max(((at.x-w.a.x)*dx+(at.y-w.a.y)*dy)/l/l, 0), 1)
		for _, side := range [...]float64{1, -1} {
			try(vec{w.a.x + t*dx - side*dy/l*f.clear, w.a.y + t*dy + side*dx/l*f.clear})
		}
	}
	return best, !math.IsInf(distance, 1)
}

// activate brings a wall's danger into the search: the whole of it, or of a long line the part near by, so that a coast
// of thousands of corners does not come in at once.
func (f *field) activate(i int) {
	const part = 12
	of := f.walls[i].of
	from, to := i, i
	for n := 0; n < part && from > 0 && f.walls[from-1].of == of; n++ {
		from--
	}
	for n := 0; n < part && to+1 < len(f.walls) && f.walls[to+1].of == of; n++ {
		to++
	}
	for k := from; k <= to; k++ {
		if f.isActive[k] {
			continue
		}
		f.isActive[k] = true
		f.active = append(f.active, k)
		w := &f.walls[k]
		for c, v := range [2]vec{w.a, w.b} {
			if (w.corner[c] || c == 0 && w.a == w.b) && !f.rounded[v] {
				f.rounded[v] = true
				f.nodes = append(f.nodes, f.around(v)...)
			}
		}
	}
}

// mostRounds bounds how often hazards are brought in.
const mostRounds = 400

// search finds the way from start to end, without either.
func (f *field) search(ctx context.Context) ([]nav.Point, error) {
	for range mostRounds {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		way, ok := f.shortest()
		if !ok {
			if f.widen() {
				continue
			}
			return nil, f.closed()
		}
		clean := true
		for i := 1; i < len(way); i++ {
			for k := range f.walls {
				w := &f.walls[k]
				if !f.isActive[k] && !w.far(way[i-1], way[i], f.clear) && w.from(way[i-1], way[i]) < f.clear-slack {
					f.activate(k)
					clean = false
				}
			}
		}
		if clean {
			var out []nav.Point
			way = f.tidied(way)
			for _, v := range way[1 : len(way)-1] {
				out = append(out, f.point(v))
			}
			return out, nil
		}
	}
	return nil, errors.New("there are too many hazards to find a way between them")
}

// widen brings in the rest of the dangers of which a part is there, whose ends may be the way around; false says that
// all of them are whole.
func (f *field) widen() (more bool) {
	dangers := map[int]bool{}
	for _, k := range f.active {
		dangers[f.walls[k].of] = true
	}
	for k := range f.walls {
		if dangers[f.walls[k].of] && !f.isActive[k] {
			f.activate(k)
			more = true
		}
	}
	return
}

// closed says what closes the way.
func (f *field) closed() error {
	seen := map[string]bool{}
	for _, k := range f.active {
		seen[f.step.Dangers.List[f.walls[k].of].Name] = true
	}
	var names []string
	for n := range seen {
		names = append(names, n)
	}
	slices.Sort(names)
	more := ""
	if len(names) > 5 {
		names, more = names[:5], fmt.Sprintf(" and %d more", len(seen)-5)
	}
	return fmt.Errorf("no way keeps the clearance: it is blocked by %s%s", strings.Join(names, ", "), more)
}

// open is a place of the search that waits to be gone on from.
type open struct {
	node  int
	total float64 // what the way through it is long at least
}

type queue []open

func (q queue) Len() int           { return len(q) }
func (q queue) Less(i, j int) bool { return q[i].total < q[j].total }
func (q queue) Swap(i, j int)      { q[i], q[j] = q[j], q[i] }
func (q *queue) Push(x any)        { *q = append(*q, x.(open)) }
func (q *queue) Pop() any {
	last := (*q)[len(*q)-1]
	*q = (*q)[:len(*q)-1]
	return last
}

// shortest is A* over the corners of what is active, with what sees what found as it is needed.
func (f *field) shortest() ([]vec, bool) {
	nodes := []vec{f.start, f.end}
	for _, v := range f.nodes {
		if f.free(v, v) {
			nodes = append(nodes, v)
		}
	}
	n := len(nodes)
	cost, parent, done := make([]float64, n), make([]int, n), make([]bool, n)
	for i := range cost {
		cost[i], parent[i] = math.Inf(1), -1
	}
	cost[0] = 0
	waiting := &queue{{0, 0}}
	for waiting.Len() > 0 {
		at := heap.Pop(waiting).(open).node
		if done[at] {
			continue
		}
		done[at] = true
		if at == 1 {
			var way []vec
			for i := 1; i >= 0; i = parent[i] {
				way = append(way, nodes[i])
			}
			slices.Reverse(way)
			return way, true
		}
		for j := 1; j < n; j++ {
			if done[j] {
				continue
			}
			c := cost[at] + math.Hypot(nodes[at].x-nodes[j].x, nodes[at].y-nodes[j].y)
			if c < cost[j]-1e-9 && f.free(nodes[at], nodes[j]) {
				cost[j], parent[j] = c, at
				heap.Push(waiting, open{j, c + math.Hypot(nodes[j].x-f.end.x, nodes[j].y-f.end.y)})
			}
		}
	}
	return nil, false
}

// free says whether a line keeps clear of all that is active.
func (f *field) free(a, b vec) bool {
	for _, k := range f.active {
		w := &f.walls[k]
		if !w.far(a, b, f.clear) && w.from(a, b) < f.clear-slack {
			return false
		}
	}
	return true
}
