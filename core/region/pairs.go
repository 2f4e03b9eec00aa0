package region

import (
	"cmp"
	"slices"
)

// Span is a box of plane coordinates: of an edge, say.
type Span struct{ West, South, East, North float64 }

// Pairs visits each pair of boxes that meet once, the smaller number first, until one is enough. They stand in bands
// of latitude, and are followed from west to east in each.
func Pairs(boxes []Span, visit func(i, j int) bool) {
	b := bandsOf(len(boxes), func(i int) (south, north float64) { return boxes[i].South, boxes[i].North })
	for k := range len(b.first) - 1 {
		list := b.list[b.first[k]:b.first[k+1]]
		slices.SortFunc(list, func(i, j int32) int { return cmp.Compare(boxes[i].West, boxes[j].West) })
		for n, i := range list {
			for _, j := range list[n+1:] {
				p, q := &boxes[i], &boxes[j]
				if q.West > p.East {
					break
				}
				if q.South > p.North || p.South > q.North || int(max(b.from[i], b.from[j])) != k {
					continue
				}
				if !visit(int(min(i, j)), int(max(i, j))) {
					return
				}
			}
		}
	}
}
