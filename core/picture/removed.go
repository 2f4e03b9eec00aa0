package picture

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"gyrolith/core/nav"
)

// faultOf is why a point was taken out, as clean writes it.
func faultOf(w *nav.Waypoint) string {
	fault, _ := nav.Get(w.Fields, "fault")
	return cmp.Or(fault, w.Type, w.Group, "removed")
}

// faultsOf lists the faults of what was taken out, the commonest first.
func faultsOf(removed *nav.Dataset) (faults []string, counts map[string]int) {
	counts = map[string]int{}
	for i := range removed.Waypoints {
		counts[faultOf(&removed.Waypoints[i])]++
	}
	return commonest(counts), counts
}

// commonest sorts words by how often they come, and then by the alphabet.
func commonest(counts map[string]int) []string {
	return slices.SortedFunc(maps.Keys(counts), func(a, b string) int {
		return cmp.Or(counts[b]-counts[a], strings.Compare(a, b))
	})
}

// faultMark is the mark of a fault, by its place in the list: they differ in their shape, for print as well.
func faultMark(n int, p XY, r float64) []Op {
	switch n % 6 {
	case 1:
		return []Op{circle(p.X, p.Y, r)}
	case 2:
		return box(Rect{p.X - r*0.9, p.Y - r*0.9, 1.8 * r, 1.8 * r})
	case 3:
		return append(polyline(XY{p.X, p.Y - r*1.2}, XY{p.X + r*1.1, p.Y + r*0.8}, XY{p.X - r*1.1, p.Y + r*0.8}), closed)
	case 4:
		return []Op{moveTo(p.X-r, p.Y), lineTo(p.X+r, p.Y), moveTo(p.X, p.Y-r), lineTo(p.X, p.Y+r)}
	case 5:
		return append(polyline(XY{p.X, p.Y - r*1.2}, XY{p.X + r*1.2, p.Y}, XY{p.X, p.Y + r*1.2}, XY{p.X - r*1.2, p.Y}),
			closed)
	}
	return []Op{moveTo(p.X-r, p.Y-r), lineTo(p.X+r, p.Y+r), moveTo(p.X-r, p.Y+r), lineTo(p.X+r, p.Y-r)}
}

// removed marks what was taken out, by fault.
func (d *drawing) removed() {
	if d.Removed == nil {
		return
	}
	faults, _ := faultsOf(d.Removed)
	for i := range d.Removed.Waypoints {
		w := &d.Removed.Waypoints[i]
		p := d.view.place(w.Lat, w.Lon)
		d.scene.add(Shape{Layer: "removed", Pin: &XY{p.X, p.Y}, Title: w.Name,
			Path: faultMark(slices.Index(faults, faultOf(w)), p, 3.6), Stroke: d.Theme.Removed, Width: 1.5})
	}
}
