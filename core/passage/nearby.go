package passage

import (
	"math"
	"slices"
)

// nearby is the edges of dangers by where they are: a tree in which every node parts the rest along one axis (J. L.
// Bentley, Multidimensional binary search trees, CACM 18, 1975). The node of a range is the one in its middle.
type nearby struct {
	edges   []edge
	order   []int32 // of the edges, as the tree has them
	longest float64 // half of the longest edge, metres
}

func newNearby(edges []edge) *nearby {
	n := &nearby{edges: edges, order: make([]int32, len(edges))}
	for i := range edges {
		n.order[i] = int32(i)
		n.longest = max(n.longest, edges[i].half)
	}
	n.part(n.order, 0)
	return n
}

func (n *nearby) part(some []int32, axis int) {
	if len(some) < 2 {
		return
	}
	slices.SortFunc(some, func(a, b int32) int {
		switch x, y := n.edges[a].middle[axis], n.edges[b].middle[axis]; {
		case x < y:
			return -1
		case x > y:
			return 1
		}
		return int(a) - int(b)
	})
	m := len(some) / 2
	n.part(some[:m], (axis+1)%3)
	n.part(some[m+1:], (axis+1)%3)
}

// around visits the edges whose middles are within a radius of a place, the nearer ones rather first; the radius is
// that of the moment. Some that are farther are visited too.
func (n *nearby) around(at vec3, radius func() float64, visit func(*edge)) {
	n.visit(n.order, 0, at, radius, visit)
}

func (n *nearby) visit(some []int32, axis int, at vec3, radius func() float64, visit func(*edge)) {
	if len(some) == 0 {
		return
	}
	m := len(some) / 2
	e := &n.edges[some[m]]
	off := at[axis] - e.middle[axis]
	first, second := some[:m], some[m+1:]
	if off > 0 {
		first, second = second, first
	}
	next := (axis + 1) % 3
	n.visit(first, next, at, radius, visit)
	if math.Abs(off) > radius() { // neither the node itself nor what is behind it
		return
	}
	visit(e)
	n.visit(second, next, at, radius, visit)
}
