package layer

import (
	"cmp"
	"math"
	"slices"

	"gyrolith/core/nav"
)

// Hilbert is the place of a cell of a grid of 65536 by 65536 along the curve of Hilbert (H. S. Warren, Hacker's
// Delight, 2nd edition, 16-1).
func Hilbert(x, y uint32) (d uint32) {
	for s := uint32(1 << 15); s > 0; s >>= 1 {
		rx, ry := min(x&s, 1), min(y&s, 1)
		d = d<<2 | (3 * rx) ^ ry
		if ry == 0 {
			if rx == 1 {
				x, y = ^x, ^y
			}
			x, y = y, x
		}
	}
	return d
}

// Along sorts n boxes, which lie within all, by the places of their middles along the curve; those at one place stay in
// their order. It puts keys into the room that it is given, in whose lower halves the numbers of the boxes are.
func Along(keys []uint64, n int, all *Bounds, box func(i int) Bounds) []uint64 {
	cell := func(v, least, most float64) uint32 {
		if most <= least {
			return 0
		}
		return uint32(math.Floor((v - least) / (most - least) * 65535))
	}
	keys = slices.Grow(keys[:0], n)
	for i := range n {
		b := box(i)
		at := Hilbert(cell((b.MinX+b.MaxX)/2, all.MinX, all.MaxX), cell((b.MinY+b.MaxY)/2, all.MinY, all.MaxY))
		keys = append(keys, uint64(at)<<32|uint64(i))
	}
	slices.Sort(keys)
	return keys
}

// Orders are those that items had, by kind, in a file whose features stand in another one.
type Orders [4][]int64

// Add notes the order of the items that a feature has become, of which there were so many before.
func (o *Orders) Add(d *nav.Dataset, before [4]int, order int64) {
	for kind, n := range d.Counts() {
		for range n - before[kind] {
			o[kind] = append(o[kind], order)
		}
	}
}

// Arrange brings the items back into their order.
func (o *Orders) Arrange(d *nav.Dataset) {
	d.Waypoints = arranged(d.Waypoints, o[nav.Waypoints])
	d.Routes = arranged(d.Routes, o[nav.Routes])
	d.Tracks = arranged(d.Tracks, o[nav.Tracks])
	d.Areas = arranged(d.Areas, o[nav.Areas])
}

// arranged sorts items by their orders.
func arranged[T any](items []T, orders []int64) []T {
	at := make([]int, len(items))
	for i := range at {
		at[i] = i
	}
	if len(orders) != len(items) {
		return items
	}
	slices.SortStableFunc(at, func(a, b int) int { return cmp.Compare(orders[a], orders[b]) })
	out := make([]T, 0, len(items))
	for _, i := range at {
		out = append(out, items[i])
	}
	return out
}
