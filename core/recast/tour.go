package recast

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"

	"github.com/tidwall/rtree"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// shortWay gives the order of a short way through all points, from first to last; -1 leaves an end free, and the same
// for both comes back to it at the end. It is local search by 2-opt and by moving up to three points elsewhere, with
// don't-look bits (J. L. Bentley, ORSA Journal on Computing 4(4), 1992), begun again from small random changes of the
// best way (O. Martin, S. Otto and E. Felten, Complex Systems 5(3), 1991). The same points always give the same way;
// whole says that the search was not ended early for the time that very many points take.
func shortWay(points []nav.Waypoint, first, last int) (order []int, whole bool) {
	n := len(points)
	if n < 3 || n == 3 && first == last && first >= 0 {
		out := indices(n)
		if first > 0 {
			slices.Reverse(out[:first+1])
		}
		if last >= 0 && first != last {
			i := slices.Index(out, last)
			out = append(slices.Delete(out, i, i+1), last)
		}
		if first == last && first >= 0 {
			out = append(out, first)
		}
		return out, true
	}
	t := newTour(points, first, last)
	t.search()
	t.improve()
	return t.way(first, last), !t.bounded()
}

// forced is the price of not beginning or ending where it was asked for, more than any way around the earth.
const forced = 1e9

// tour is a closed way through points. An open one is closed over one more point, the gate, that is as near to all.
type tour struct {
	at          [][3]float64 // on the ellipsoid, metres from its centre
	table       []float64    // of the prices, in rows of side; nil for many points
	side        int
	gate        int // -1 for a round trip
	first, last int
	order, pos  []int
	near        [][]int
	quiet       []bool // nothing to gain around this point
	queue       []int
	random      *rand.Rand

	points []nav.Waypoint // that are indexed; nil for few
	left   rtree.RTreeG[int]
	moved  int // how many places of the way were written, which is what takes the time
}

// mostMoved bounds the search of very many points: some ten seconds of it.
const mostMoved = 4_000_000_000

// bounded says whether the search was ended before it had nothing to gain.
func (t *tour) bounded() bool { return t.moved > mostMoved }

func newTour(points []nav.Waypoint, first, last int) *tour {
	n := len(points)
	t := &tour{gate: -1, first: first, last: last, random: rand.New(rand.NewPCG(uint64(n), 41))}
	for i := range points {
		t.at = append(t.at, geodesy.Cartesian(points[i].Lat, points[i].Lon))
	}
	total := n
	if first != last || first < 0 {
		t.gate = n
		total++
	}
	t.fill(total)
	t.index(points)
	t.neighbours(n)
	t.order, t.pos, t.quiet = t.greedy(total), make([]int, total), make([]bool, total)
	for i, p := range t.order {
		t.pos[p] = i
	}
	return t
}

// neighbours lists for each point the nearest others, and the gate.
func (t *tour) neighbours(n int) {
	const most = 10
	t.near = make([][]int, n, n+1)
	if n > tabled {
		for i := range n {
			t.near[i] = t.nearest(i, most)
			if t.gate >= 0 {
				t.near[i] = append(t.near[i], t.gate)
			}
		}
		if t.gate >= 0 {
			t.near = append(t.near, nil)
		}
		return
	}
	others := make([]int, 0, n)
	distance := make([]float64, n)
	for i := range n {
		others = others[:0]
		for j := range n {
			if j != i {
				distance[j] = t.apart(i, j)
				others = append(others, j)
			}
		}
		k := min(most, len(others))
		slices.SortFunc(others, func(a, b int) int { return cmp.Or(cmp.Compare(distance[a], distance[b]), a-b) })
		t.near[i] = slices.Clone(others[:k])
		if t.gate >= 0 {
			t.near[i] = append(t.near[i], t.gate)
		}
	}
	if t.gate >= 0 {
		t.near = append(t.near, nil) // the others know it
	}
}

// index holds the points that are left, by their place in a list; nil for few points.
func (t *tour) index(points []nav.Waypoint) {
	if len(points) <= tabled {
		return
	}
	t.points = points
	for i := range points {
		t.left.Insert(t.place(i), t.place(i), i)
	}
}

func (t *tour) place(i int) [2]float64 { return [2]float64{t.points[i].Lon, t.points[i].Lat} }

// nearest lists the points of the index that are nearest to one, the nearest first.
func (t *tour) nearest(i, most int) []int {
	type near struct {
		j     int
		apart float64
	}
	var found []near
	p := &t.points[i]
	t.left.Nearby(func(low, high [2]float64, _ int, _ bool) float64 {
		return shape.BoxDistance(p.Lat, p.Lon, low, high)
	}, func(_, _ [2]float64, j int, least float64) bool {
		if len(found) == most && least > found[most-1].apart {
			return false
		}
		if j == i {
			return true
		}
		x := near{j, t.apart(i, j)}
		at, _ := slices.BinarySearchFunc(found, x, func(a, b near) int {
			return cmp.Or(cmp.Compare(a.apart, b.apart), a.j-b.j)
		})
		if found = slices.Insert(found, at, x); len(found) > most {
			found = found[:most]
		}
		return true
	})
	out := make([]int, len(found), most+1)
	for k, x := range found {
		out[k] = x.j
	}
	return out
}

// apart is the price of going from one point to another, in metres.
func (t *tour) apart(a, b int) float64 {
	if t.table != nil {
		return t.table[a*t.side+b]
	}
	return t.price(a, b)
}

// tabled is the greatest number of points whose prices are kept in a table.
const tabled = 1000

func (t *tour) fill(total int) {
	if total > tabled {
		return
	}
	table := make([]float64, total*total)
	for a := range total {
		for b := range a {
			table[a*total+b] = t.price(a, b)
			table[b*total+a] = table[a*total+b]
		}
	}
	t.table, t.side = table, total
}

func (t *tour) price(a, b int) float64 {
	if a == t.gate || b == t.gate {
		if p := a + b - t.gate; p == t.first || p == t.last {
			return -forced
		}
		return 0
	}
	p, q := &t.at[a], &t.at[b]
	x, y, z := p[0]-q[0], p[1]-q[1], p[2]-q[2]
	chord := math.Sqrt(x*x + y*y + z*z)
	return 2 * geodesy.SemiMajor * math.Asin(min(chord/(2*geodesy.SemiMajor), 1))
}

// greedy goes from each point to the nearest one that is left.
func (t *tour) greedy(total int) []int {
	at := max(t.first, 0)
	if t.first < 0 && t.last == 0 {
		at = 1
	}
	out := []int{at}
	done := make([]bool, total)
	take := func(i int) {
		done[i] = true
		if t.points != nil {
			t.left.Delete(t.place(i), t.place(i), i)
		}
	}
	take(at)
	n := len(t.at)
	ends := t.last >= 0 && t.last != t.first
	if ends {
		take(t.last)
		n--
	}
	for len(out) < n {
		next := -1
		for _, j := range t.near[at] {
			if j != t.gate && !done[j] {
				next = j
				break
			}
		}
		if next < 0 && t.points != nil {
			next = t.nearest(at, 1)[0]
		}
		if next < 0 {
			for j := range t.at {
				if !done[j] && (next < 0 || t.apart(at, j) < t.apart(at, next)) {
					next = j
				}
			}
		}
		take(next)
		out = append(out, next)
		at = next
	}
	if ends {
		out = append(out, t.last)
	}
	if t.gate >= 0 {
		out = append(out, t.gate)
	}
	return out
}

func (t *tour) next(p int) int { return t.order[(t.pos[p]+1)%len(t.order)] }
func (t *tour) prev(p int) int { return t.order[(t.pos[p]+len(t.order)-1)%len(t.order)] }

// search improves the way until no move gains anything.
func (t *tour) search() {
	t.queue = append(t.queue[:0], t.order...)
	t.settle()
}

func (t *tour) settle() {
	for len(t.queue) > 0 && !t.bounded() {
		p := t.queue[len(t.queue)-1]
		t.queue = t.queue[:len(t.queue)-1]
		t.quiet[p] = true
		for !t.bounded() && (t.twoOpt(p) || t.move(p)) {
		}
	}
}

func (t *tour) wake(points ...int) {
	for _, p := range points {
		if t.quiet[p] {
			t.quiet[p] = false
			t.queue = append(t.queue, p)
		}
	}
}

const gain = 1e-6

// twoOpt exchanges the leg on one side of a point for one to a neighbour.
func (t *tour) twoOpt(a int) bool {
	for _, forward := range [...]bool{true, false} {
		b := t.next(a)
		if !forward {
			b = t.prev(a)
		}
		ab := t.apart(a, b)
		for _, c := range t.near[a] {
			ac := t.apart(a, c)
			if ac >= ab && c != t.gate && a != t.gate {
				break
			}
			d := t.next(c)
			if !forward {
				d = t.prev(c)
			}
			if c == b || d == a {
				continue
			}
			if ab+t.apart(c, d)-ac-t.apart(b, d) > gain {
				if forward {
					t.reverse(t.pos[b], t.pos[c])
				} else {
					t.reverse(t.pos[a], t.pos[d])
				}
				t.wake(a, b, c, d)
				return true
			}
		}
	}
	return false
}

// reverse turns the part of the way from one place to another around, or the rest of it, whichever is shorter.
func (t *tour) reverse(i, j int) {
	n := len(t.order)
	inner := (j-i+n)%n + 1
	if 2*inner > n {
		i, j = (j+1)%n, (i+n-1)%n
		inner = n - inner
	}
	t.moved += inner
	for range inner / 2 {
		t.order[i], t.order[j] = t.order[j], t.order[i]
		t.pos[t.order[i]], t.pos[t.order[j]] = i, j
		i, j = (i+1)%n, (j+n-1)%n
	}
}

// move takes up to three points that begin or end at one and puts them between two others, either way round.
func (t *tour) move(a int) bool {
	n := len(t.order)
	if n < 8 {
		return false
	}
	for size := 1; size <= 3; size++ {
		for _, ahead := range [...]bool{true, false} {
			// The part goes from a (its end that comes next to a neighbour) to z.
			z := a
			for range size - 1 {
				if ahead {
					z = t.next(z)
				} else {
					z = t.prev(z)
				}
			}
			before, after := t.prev(a), t.next(z)
			if !ahead {
				before, after = t.next(a), t.prev(z)
			}
			removed := t.apart(before, a) + t.apart(z, after) - t.apart(before, after)
			if removed <= gain {
				continue
			}
			for _, c := range t.near[a] {
				ca := t.apart(c, a)
				if ca >= removed && c != t.gate && a != t.gate {
					break
				}
				if t.inside(c, a, z, size, ahead) {
					continue
				}
				for _, d := range [...]int{t.next(c), t.prev(c)} {
					if t.inside(d, a, z, size, ahead) || c == before && d == after || c == after && d == before {
						continue
					}
					if removed+t.apart(c, d)-ca-t.apart(z, d) > gain {
						t.relocate(a, z, size, ahead, c, d)
						t.wake(before, after, a, z, c, d)
						return true
					}
				}
			}
		}
	}
	return false
}

func (t *tour) inside(p, a, z, size int, ahead bool) bool {
	n := len(t.order)
	if ahead {
		return (t.pos[p]-t.pos[a]+n)%n < size
	}
	return (t.pos[p]-t.pos[z]+n)%n < size
}

// relocate puts the part between c and d, a beside c.
func (t *tour) relocate(a, z, size int, ahead bool, c, d int) {
	part := make([]int, 0, 3)
	for p := a; ; {
		part = append(part, p)
		if p == z {
			break
		}
		if ahead {
			p = t.next(p)
		} else {
			p = t.prev(p)
		}
	}
	if t.next(c) != d { // d comes before c: the part is put in from its other end
		slices.Reverse(part)
		c = d
	}
	n := len(t.order)
	// The points between the part and its new place move by its length.
	start := t.pos[a]
	if !ahead {
		start = t.pos[z]
	}
	end := (start + size) % n // just behind the part
	if forwardGap, backGap := (t.pos[c]-end+n)%n+1, (start-t.pos[c]-1+n)%n; forwardGap <= backGap {
		i := start
		for range forwardGap {
			t.put(i, t.order[(i+size)%n])
			i = (i + 1) % n
		}
		for _, p := range part {
			t.put(i, p)
			i = (i + 1) % n
		}
	} else {
		i := (end + n - 1) % n
		for range backGap {
			t.put(i, t.order[(i-size+n)%n])
			i = (i + n - 1) % n
		}
		for k := len(part) - 1; k >= 0; k-- {
			t.put(i, part[k])
			i = (i + n - 1) % n
		}
	}
}

func (t *tour) put(i, p int) {
	t.order[i], t.pos[p] = p, i
	t.moved++
}

func (t *tour) length() (sum float64) {
	for i, p := range t.order {
		sum += t.apart(p, t.order[(i+1)%len(t.order)])
	}
	return
}

// improve changes small parts of the best way at random and searches again, as often as the number of points lets it be
// done while one waits.
func (t *tour) improve() {
	n := len(t.order)
	if n < 8 {
		return
	}
	rounds := min(50*n, 5_000_000/n)
	best, bestLength := slices.Clone(t.order), t.length()
	for range rounds {
		t.doubleBridge()
		t.settle()
		if l := t.length(); l < bestLength-gain {
			bestLength = l
			copy(best, t.order)
			continue
		}
		for i, p := range best {
			t.put(i, p)
		}
	}
}

// doubleBridge exchanges two neighbouring short parts of the way.
func (t *tour) doubleBridge() {
	n := len(t.order)
	span := min(n-2, 50)
	start := t.random.IntN(n)
	a := 1 + t.random.IntN(span/2)
	b := 1 + t.random.IntN(span/2)
	part := make([]int, 0, a+b)
	for i := range a + b {
		part = append(part, t.order[(start+i)%n])
	}
	first, last := t.order[(start+n-1)%n], t.order[(start+a+b)%n]
	for i, p := range append(slices.Clone(part[a:]), part[:a]...) {
		t.put((start+i)%n, p)
	}
	t.wake(first, part[0], part[a-1], part[a], part[a+b-1], last)
}

// way reads the order off the closed way.
func (t *tour) way(first, last int) []int {
	var out []int
	if t.gate < 0 {
		for i, p := 0, first; i < len(t.order); i, p = i+1, t.next(p) {
			out = append(out, p)
		}
		return append(out, first)
	}
	for p := t.next(t.gate); p != t.gate; p = t.next(p) {
		out = append(out, p)
	}
	if first >= 0 && out[0] != first || last >= 0 && out[len(out)-1] != last || first < 0 && last < 0 &&
		out[0] > out[len(out)-1] {
		slices.Reverse(out)
	}
	return out
}
