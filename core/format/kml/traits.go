package kml

import (
	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// traits are what some or all points of a part have.
type traits struct{ someTimes, allTimes, someHeights, allHeights bool }

// mixed says whether some have heights and others have none.
func (t traits) mixed() bool { return t.someHeights && !t.allHeights }

// traitsOf looks at the points of a part. It is asked again and again about those that are being written, of which
// there may be millions.
func (w *writer) traitsOf(points []nav.Point) traits {
	n := len(points)
	if n == 0 {
		return traits{}
	}
	if k := &w.known; k.first != &points[0] || k.n != n {
		times, heights := 0, 0
		for block := range scratch.Blocks(points) {
			for i := range block {
				if block[i].HasTime() {
					times++
				}
				if block[i].HasHeight() {
					heights++
				}
			}
		}
		k.first, k.n = &points[0], n
		k.traits = traits{times > 0, times == n, heights > 0, heights == n}
	}
	return w.known.traits
}

// known is what the points that were looked at last have.
type known struct {
	first *nav.Point
	n     int
	traits
}
