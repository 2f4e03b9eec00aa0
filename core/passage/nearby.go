package passage

import (
	"cmp"
	"math"
	"slices"
)

// nearby is the edges of dangers by where they are: a tree in which every node parts the rest along one axis (J. L.
// Bentley, Multidimensional binary search trees, CACM 18, 1975). The node of a range is the one in its middle.
type nearby struct {
	edges   []edge
	order   []int32 // of the edges, as the tree has them
	boxes   []box   // the middles of the edges of each node's range
	longest float64 // half of the longest edge, metres
}

// box is a part of the space between two corners.
type box struct{ low, high vec3 }

// off is how far a place is from a box.
func (b *box) off(at vec3) float64 {
	sum := 0.0
	for k, v := range at {
		d := max(b.low[k]-v, v-b.high[k], 0)
		sum += d * d
	}
	return math.Sqrt(sum)
}

func newNearby(edges []edge) *nearby {
	n := &nearby{edges: edges}
	for i := range edges {
		n.order, edges[i].number = append(n.order, int32(i)), i
		n.longest = max(n.longest, edges[i].half)
	}
	n.boxes = make([]box, len(n.order))
	n.part(0, len(n.order), 0)
	return n
}

// part makes a node of a range, and of what is before and behind it.
func (n *nearby) part(from, to, axis int) {
	if from == to {
		return
	}
	slices.SortFunc(n.order[from:to], func(a, b int32) int {
		return cmp.Or(cmp.Compare(n.edges[a].middle[axis], n.edges[b].middle[axis]), int(a)-int(b))
	})
	m := (from + to) / 2
	b := box{n.edges[n.order[m]].middle, n.edges[n.order[m]].middle}
	for _, i := range n.order[from:to] {
		for k, v := range n.edges[i].middle {
			b.low[k], b.high[k] = min(b.low[k], v), max(b.high[k], v)
		}
	}
	n.boxes[m] = b
	n.part(from, m, (axis+1)%3)
	n.part(m+1, to, (axis+1)%3)
}

// around visits the edges whose middles are within a radius of a place, the nearer ones rather first; the radius is
// that of the moment. Some that are farther are visited too.
func (n *nearby) around(at vec3, radius func() float64, visit func(*edge)) {
	n.visit(0, len(n.order), 0, at, radius, visit)
}

func (n *nearby) visit(from, to, axis int, at vec3, radius func() float64, visit func(*edge)) {
	m := (from + to) / 2
	if from == to || n.boxes[m].off(at) > radius() {
		return
	}
	e := &n.edges[n.order[m]]
	next := (axis + 1) % 3
	if at[axis] > e.middle[axis] {
		n.visit(m+1, to, next, at, radius, visit)
		visit(e)
		n.visit(from, m, next, at, radius, visit)
		return
	}
	n.visit(from, m, next, at, radius, visit)
	visit(e)
	n.visit(m+1, to, next, at, radius, visit)
}
