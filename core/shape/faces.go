package shape

import (
	"cmp"
	"math"
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// face is a part of the plane that no line crosses, with how often rings go around it against the clock.
type face struct {
	polygon Polygon
	around  int
}

// nodes are the places at which lines meet; places a hundredth of a millimetre apart are one.
type nodes struct {
	at    []nav.Point
	cells map[[2]int64]int
}

const nodeCells = 1e10 // a degree

// of gives the number of a place.
func (n *nodes) of(p nav.Point) int {
	x, y := int64(math.Round(p.Lon*nodeCells)), int64(math.Round(p.Lat*nodeCells))
	for dx := int64(-1); dx <= 1; dx++ {
		for dy := int64(-1); dy <= 1; dy++ {
			if i, ok := n.cells[[2]int64{x + dx, y + dy}]; ok {
				return i
			}
		}
	}
	n.cells[[2]int64{x, y}] = len(n.at)
	n.at = append(n.at, p)
	return len(n.at) - 1
}

// strand is a straight piece of a line; of a ring where it counts as one.
type strand struct {
	from, to nav.Point
	ring     bool
	cuts     []float64 // from 0 to 1
}

// mostMeetings bounds how often boxes of edges meet, for each edge: more is no outline.
const mostMeetings = 400

// boxesOf are those around edges.
func boxesOf(n int, edge func(i int) (p, q *nav.Point)) []region.Span {
	out := make([]region.Span, n)
	for i := range out {
		p, q := edge(i)
		out[i] = region.Span{West: min(p.Lon, q.Lon), South: min(p.Lat, q.Lat), East: max(p.Lon, q.Lon),
			North: max(p.Lat, q.Lat)}
	}
	return out
}

// meetings cuts strands where they meet; false where there is too much to look at.
func meetings(list []strand) bool {
	boxes := boxesOf(len(list), func(i int) (p, q *nav.Point) { return &list[i].from, &list[i].to })
	left := mostMeetings * (len(list) + 1000)
	region.Pairs(boxes, func(i, j int) bool {
		left--
		a, b := &list[i], &list[j]
		t, u, n := meetingsOf(&a.from, &a.to, &b.from, &b.to)
		a.cuts, b.cuts = append(a.cuts, t[:n]...), append(b.cuts, u[:n]...)
		return left > 0
	})
	return left > 0
}

// meetingsOf gives the parts of two strands at which they meet: at a place, or along the same line where the one
// begins and ends to lie on the other.
func meetingsOf(a, b, c, d *nav.Point) (t, u [2]float64, n int) {
	dx, dy, ex, ey := b.Lon-a.Lon, b.Lat-a.Lat, d.Lon-c.Lon, d.Lat-c.Lat
	cx, cy := c.Lon-a.Lon, c.Lat-a.Lat
	const nearly = 1e-10 // degrees
	den, long := dx*ey-dy*ex, math.Hypot(dx, dy)
	if long == 0 || math.Hypot(ex, ey) == 0 {
		return
	}
	if math.Abs(den) > 1e-14*long*math.Hypot(ex, ey) {
		t[0], u[0] = (cx*ey-cy*ex)/den, (cx*dy-cy*dx)/den
		slack, slackOther := nearly/long, nearly/math.Hypot(ex, ey)
		if t[0] >= -slack && t[0] <= 1+slack && u[0] >= -slackOther && u[0] <= 1+slackOther {
			n = 1
		}
		return
	}
	if math.Abs(cx*dy-cy*dx) > nearly*long {
		return
	}
	along := func(p, from *nav.Point, dx, dy float64) float64 {
		return ((p.Lon-from.Lon)*dx + (p.Lat-from.Lat)*dy) / (dx*dx + dy*dy)
	}
	add := func(of, other float64) {
		if n < 2 && of >= 0 && of <= 1 && other >= 0 && other <= 1 {
			t[n], u[n] = of, other
			n++
		}
	}
	add(along(c, a, dx, dy), 0)
	add(along(d, a, dx, dy), 1)
	add(0, along(a, c, ex, ey))
	add(1, along(b, c, ex, ey))
	return
}

// part is a piece of the net that strands make, in one direction.
type part struct {
	from, to int
	ring     int // how often rings go along it in this direction, less how often against it
	next     int // around the face to its left
	face     int
}

// facesOf gives the bounded faces of the net of rings and lines on a plane; false where there is too much to look at.
// Ends of lines that lead nowhere part nothing.
func facesOf(rings, lines [][]nav.Point) ([]face, bool) {
	var list []strand
	add := func(points []nav.Point, n int, ring bool) {
		for i := range n {
			list = append(list, strand{from: points[i], to: points[(i+1)%len(points)], ring: ring})
		}
	}
	for _, r := range rings {
		add(r, len(r), true)
	}
	for _, l := range lines {
		add(l, len(l)-1, false)
	}
	if !meetings(list) {
		return nil, false
	}
	n := &nodes{cells: map[[2]int64]int{}}
	for i := range list { // corners first, so that they stay where they are
		n.of(list[i].from)
		n.of(list[i].to)
	}
	net := newNet(n, list)
	return net.faces(), true
}

// net is the parts that strands make, each in both directions: 2i and 2i+1 are one.
type net struct {
	nodes *nodes
	parts []part
}

func newNet(n *nodes, list []strand) *net {
	type use struct {
		ring int // how often rings go from the smaller node to the other, less how often back
		line bool
	}
	uses := map[[2]int]*use{}
	var order [][2]int
	for i := range list {
		s := &list[i]
		slices.Sort(s.cuts)
		last := n.of(s.from)
		for _, t := range append(s.cuts, 1) {
			at := n.of(s.to)
			if t < 1 {
				at = n.of(nav.Point{Lat: s.from.Lat + t*(s.to.Lat-s.from.Lat), Lon: s.from.Lon + t*(s.to.Lon-s.from.Lon)})
			}
			if at == last {
				continue
			}
			key, sign := [2]int{last, at}, 1
			if last > at {
				key, sign = [2]int{at, last}, -1
			}
			u := uses[key]
			if u == nil {
				u = &use{}
				uses[key], order = u, append(order, key)
			}
			if s.ring {
				u.ring += sign
			} else {
				u.line = true
			}
			last = at
		}
	}
	out := &net{nodes: n}
	for _, key := range order {
		if u := uses[key]; u.ring != 0 || u.line {
			out.parts = append(out.parts, part{from: key[0], to: key[1], ring: u.ring},
				part{from: key[1], to: key[0], ring: -u.ring})
		}
	}
	out.prune()
	return out
}

// prune takes out what ends nowhere.
func (n *net) prune() {
	degree := make([]int, len(n.nodes.at))
	at := make([][]int, len(n.nodes.at)) // the parts that begin at a node
	for i := range n.parts {
		degree[n.parts[i].from]++
		at[n.parts[i].from] = append(at[n.parts[i].from], i)
	}
	gone := make([]bool, len(n.parts))
	for node := range degree {
		for k := node; degree[k] == 1; {
			i := at[k][slices.IndexFunc(at[k], func(i int) bool { return !gone[i] })]
			gone[i], gone[i^1] = true, true
			degree[k]--
			k = n.parts[i].to
			degree[k]--
		}
	}
	kept := n.parts[:0]
	for i := range n.parts {
		if !gone[i] {
			kept = append(kept, n.parts[i])
		}
	}
	n.parts = kept
}

// link finds what follows each part around the face to its left: the first one with the clock at its end.
func (n *net) link() {
	at := make([][]int, len(n.nodes.at))
	for i := range n.parts {
		at[n.parts[i].from] = append(at[n.parts[i].from], i)
	}
	direction := func(i int) float64 {
		p, q := &n.nodes.at[n.parts[i].from], &n.nodes.at[n.parts[i].to]
		return math.Atan2(q.Lat-p.Lat, q.Lon-p.Lon)
	}
	for _, list := range at {
		slices.SortFunc(list, func(i, j int) int { return cmp.Compare(direction(i), direction(j)) })
		for k, i := range list {
			n.parts[i^1].next = list[(k+len(list)-1)%len(list)]
		}
	}
}

// loop is a closed way along parts, with a face to its left.
type loop struct {
	points []nav.Point
	size   float64
	box    region.Span
	face   int // that it bounds, or that it is a hole of; -1 is what is outside of all
}

// faces follows the parts around each face, and finds out how often rings go around it.
func (n *net) faces() (out []face) {
	n.link()
	var loops []loop
	for i := range n.parts {
		n.parts[i].face = -1
	}
	for i := range n.parts {
		if n.parts[i].face >= 0 {
			continue
		}
		l := loop{}
		for k := i; n.parts[k].face < 0; k = n.parts[k].next {
			n.parts[k].face = len(loops)
			l.points = append(l.points, n.nodes.at[n.parts[k].from])
		}
		l.size, l.box = PlainArea(l.points), boxOf([]Polygon{{l.points}})
		loops = append(loops, l)
	}
	for i := range loops {
		if l := &loops[i]; l.size > 0 {
			l.face = len(out)
			out = append(out, face{polygon: Polygon{l.points}})
		}
	}
	within := make([]float64, len(out))
	for i := range loops {
		if l := &loops[i]; l.size > 0 {
			within[l.face] = l.size
		}
	}
	const rounded = 1e-9 // by which the size of what a loop goes around may seem to be more than its own
	for i := range loops {
		l := &loops[i]
		if l.size > 0 {
			continue
		}
		l.face = -1
		for k := range loops { // the smallest that it lies in
			o := &loops[k]
			if o.size > -l.size*(1+rounded) && o.size > 0 && (l.face < 0 || o.size < within[l.face]) && holdsLoop(o, l) {
				l.face = o.face
			}
		}
		if l.face >= 0 && l.size < 0 {
			out[l.face].polygon = append(out[l.face].polygon, l.points)
		}
	}
	n.wind(loops, out)
	return out
}

// holdsLoop says whether a loop holds another, which it does not cross.
func holdsLoop(o, l *loop) bool {
	if l.box.West < o.box.West || l.box.East > o.box.East || l.box.South < o.box.South || l.box.North > o.box.North {
		return false
	}
	at := offCorners(l.points, o.points)
	return inside(o.points, &at)
}

// offCorners gives a position on a ring that is no corner of another: a corner of its own, or the middle of its first
// edge.
func offCorners(ring, other []nav.Point) nav.Point {
	on := map[place]bool{}
	for i := range other {
		on[placeOf(&other[i])] = true
	}
	for i := range ring {
		if !on[placeOf(&ring[i])] {
			return ring[i]
		}
	}
	return ring[0].Toward(&ring[1], 0.5)
}

// wind says how often rings go around each face: none outside, and from one side of a part to the other as often more
// as rings go along it.
func (n *net) wind(loops []loop, out []face) {
	known := make([]bool, len(out))
	around := func(face int) int {
		if face < 0 {
			return 0
		}
		return out[face].around
	}
	of := map[int][]int{} // the parts around each face
	for i := range n.parts {
		f := loops[n.parts[i].face].face
		of[f] = append(of[f], i)
	}
	for queue := []int{-1}; len(queue) > 0; queue = queue[1:] {
		f := queue[0]
		for _, i := range of[f] {
			if g := loops[n.parts[i^1].face].face; g >= 0 && !known[g] {
				known[g], out[g].around = true, around(f)-n.parts[i].ring
				queue = append(queue, g)
			}
		}
	}
}
