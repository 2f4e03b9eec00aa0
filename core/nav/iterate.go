package nav

import (
	"iter"

	"gyrolith/core/scratch"
)

// AllPoints visits every position of the data, kind by kind in their order. A position may be changed in place.
func (d *Dataset) AllPoints() iter.Seq[*Point] {
	return func(yield func(*Point) bool) {
		for i := range d.Waypoints {
			if !yield(&d.Waypoints[i].Point) {
				return
			}
		}
		for i := range d.Routes {
			for j := range d.Routes[i].Points {
				if !yield(&d.Routes[i].Points[j].Point) {
					return
				}
			}
		}
		for line := range d.AllLines() {
			for block := range scratch.Blocks(line) {
				for i := range block {
					if !yield(&block[i]) {
						return
					}
				}
			}
		}
	}
}

// AllLines visits the segments of tracks and the rings of areas.
func (d *Dataset) AllLines() iter.Seq[[]Point] {
	return func(yield func([]Point) bool) {
		for i := range d.Tracks {
			for j := range d.Tracks[i].Segments {
				if !yield(d.Tracks[i].Segments[j].Points) {
					return
				}
			}
		}
		for i := range d.Areas {
			for _, ring := range d.Areas[i].Rings() {
				if !yield(ring) {
					return
				}
			}
		}
	}
}

// AllWaypoints visits every waypoint and every point of a route.
func (d *Dataset) AllWaypoints() iter.Seq2[Kind, *Waypoint] {
	return func(yield func(Kind, *Waypoint) bool) {
		for i := range d.Waypoints {
			if !yield(Waypoints, &d.Waypoints[i]) {
				return
			}
		}
		for i := range d.Routes {
			for j := range d.Routes[i].Points {
				if !yield(Routes, &d.Routes[i].Points[j]) {
					return
				}
			}
		}
	}
}

// AllFields visits the fields of every item, and of points of lines: all keys that they have.
func (d *Dataset) AllFields() iter.Seq[[]Field] {
	return func(yield func([]Field) bool) {
		going := true
		visit := func(f []Field) {
			if going && len(f) > 0 {
				going = yield(f)
			}
		}
		d.Each(func(_ Kind, it *Item) { visit(it.Fields) })
		for i := range d.Routes {
			for j := range d.Routes[i].Points {
				visit(d.Routes[i].Points[j].Fields)
			}
		}
		for i := range d.Tracks {
			for j := range d.Tracks[i].Segments {
				s := &d.Tracks[i].Segments[j]
				for x := range s.Samples(s.Points) {
					visit(x.Values)
					if x.Item != nil {
						visit(x.Item.Fields)
					}
				}
			}
		}
	}
}
