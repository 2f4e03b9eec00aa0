package format

import (
	"fmt"
	"slices"

	"gyrolith/core/nav"
)

// Shapes says which geometries need how many points in a format to be sound.
type Shapes uint8

// The shapes that are asked for. OGC 06-103r4 (simple features), section 6.1.7 and 6.1.11, and RFC 7946, sections
// 3.1.4 and 3.1.6, ask for two points of a line and three corners of a ring.
const (
	AnyShape    Shapes = iota // lines and outlines of any number of points
	SoundRings                // rings have three corners
	SoundShapes               // and lines two points
)

const (
	leastCorners = 3
	leastPoints  = 2
)

// shaped takes out what the format has no sound geometry for, and tells what its declaration doesn't. The data stay
// as they are.
func (x *Format) shaped(d *nav.Dataset) (*nav.Dataset, nav.Ledger, error) {
	if x.Shapes == AnyShape {
		return d, nil, nil
	}
	out, l := *d, nav.Ledger(nil)
	thin := func(a nav.Area) bool { return len(a.Outline) < leastCorners }
	few := func(ring []nav.Point) bool { return len(ring) < leastCorners }
	if slices.ContainsFunc(d.Areas, func(a nav.Area) bool { return thin(a) || slices.ContainsFunc(a.Holes, few) }) {
		out.Areas = nil
		for _, a := range d.Areas {
			switch n := len(a.Holes); {
			case thin(a):
				l.Lost(nav.Areas, a.Name, "area", "an outline needs three corners", 1)
				continue
			case slices.ContainsFunc(a.Holes, few):
				a.Holes = slices.DeleteFunc(slices.Clone(a.Holes), few)
				l.Lost(nav.Areas, a.Name, "holes", "a hole needs three corners", n-len(a.Holes))
			}
			out.Areas = append(out.Areas, a)
		}
	}
	if x.Shapes == SoundShapes {
		shapedLines(d, &out)
	}
	if d.Counts() != [4]int{} && out.Counts() == [4]int{} {
		return nil, nil, fmt.Errorf("there is nothing that %s can store: no waypoint, and no line or area with enough points",
			x.Title)
	}
	return &out, l, nil
}

// shapedLines takes out routes, and segments of tracks, of less than two points, which the declaration tells.
func shapedLines(d, out *nav.Dataset) {
	short := func(r nav.Route) bool { return len(r.Points) < leastPoints }
	if slices.ContainsFunc(d.Routes, short) {
		out.Routes = slices.DeleteFunc(slices.Clone(d.Routes), short)
	}
	bit := func(s nav.Segment) bool { return len(s.Points) < leastPoints }
	if !slices.ContainsFunc(d.Tracks, func(t nav.Track) bool { return slices.ContainsFunc(t.Segments, bit) }) {
		return
	}
	out.Tracks = nil
	for _, t := range d.Tracks {
		t.Segments = slices.DeleteFunc(slices.Clone(t.Segments), bit)
		if len(t.Segments) > 0 {
			out.Tracks = append(out.Tracks, t)
		}
	}
}
