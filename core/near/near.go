// Package near finds what is near a position: waypoints, and the nearest places of routes, tracks and areas, on the
// ellipsoid and over an index in space.
package near

import (
	"cmp"
	"math"
	"slices"

	"github.com/tidwall/rtree"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Hit is an item near a position.
type Hit struct {
	File        string
	Kind        nav.Kind
	Name, Group string
	Distance    float64 // metres; 0 inside of an area
	Course      float64 // degrees true from the position; not a number where the distance is 0
	Lat, Lon    float64 // of the nearest place
	Leg         int     // of a line or an outline, from 1; 0 of a waypoint
	Inside      bool    // of an area
}

// Index holds data so that what is near a position is found without a look at all of it: a tree of the items by the
// boxes around them, and for each that is long one of its parts.
type Index struct {
	d     *nav.Dataset
	file  string
	areas *nav.Regions
	tree  rtree.RTreeG[int32] // of the items
	items []entry
}

// entry is an item with its spans.
type entry struct {
	kind      nav.Kind
	item      int32
	low, high [2]float64
	spans     []span
	tree      *rtree.RTreeG[int32] // of the spans; nil where they are few
}

// span is a waypoint, or some legs of a line.
type span struct {
	number    int32 // of the first leg, from 1
	points    []nav.Point
	low, high [2]float64 // longitude and latitude
}

// spanLegs are as many legs as are looked at together, and fewSpans as many of these as need no tree.
const (
	spanLegs = 16
	fewSpans = 8
)

// NewIndex indexes the data of a file.
func NewIndex(d *nav.Dataset, file string) *Index {
	x := &Index{d: d, file: file, areas: nav.NewRegions(d.Areas, func(*nav.Area) bool { return true })}
	for i := range d.Waypoints {
		x.add(nav.Waypoints, i, []nav.Point{d.Waypoints[i].Point})
	}
	for i := range d.Routes {
		x.add(nav.Routes, i, d.Routes[i].Line())
	}
	for i := range d.Tracks {
		var lines [][]nav.Point
		for j := range d.Tracks[i].Segments {
			lines = append(lines, d.Tracks[i].Segments[j].Points)
		}
		x.add(nav.Tracks, i, lines...)
	}
	for i := range d.Areas {
		var lines [][]nav.Point
		for _, ring := range d.Areas[i].Rings() {
			if len(ring) > 0 {
				lines = append(lines, append(slices.Clone(ring), ring[0]))
			}
		}
		x.add(nav.Areas, i, lines...)
	}
	return x
}

// add puts an item into the index, of whose lines the legs are numbered on from one to the next.
func (x *Index) add(kind nav.Kind, item int, lines ...[]nav.Point) {
	e := entry{kind: kind, item: int32(item)}
	before := 0
	for _, points := range lines {
		for from := 0; from == 0 && len(points) > 0 || from < len(points)-1; from += spanLegs {
			e.spans = append(e.spans, newSpan(before+from+1, points[from:min(from+spanLegs+1, len(points))]))
		}
		before += max(len(points)-1, 0)
	}
	if len(e.spans) == 0 {
		return
	}
	if len(e.spans) > fewSpans {
		e.tree = &rtree.RTreeG[int32]{}
	}
	e.low, e.high = e.spans[0].low, e.spans[0].high
	for n := range e.spans {
		s := &e.spans[n]
		// The spans of an item are a turn of the earth apart where the longitudes of its points are.
		turn := math.Round((e.low[0]-s.low[0])/360) * 360
		e.low[0], e.high[0] = min(e.low[0], s.low[0]+turn), max(e.high[0], s.high[0]+turn)
		e.low[1], e.high[1] = min(e.low[1], s.low[1]), max(e.high[1], s.high[1])
		if e.tree != nil {
			e.tree.Insert(s.low, s.high, int32(n))
		}
	}
	x.tree.Insert(e.low, e.high, int32(len(x.items)))
	x.items = append(x.items, e)
}

// newSpan finds the box around points. One across the antimeridian goes on east of it.
func newSpan(number int, points []nav.Point) span {
	lon := points[0].Lon
	s := span{number: int32(number), points: points, low: [2]float64{lon, 90}, high: [2]float64{lon, -90}}
	for i := range points {
		p := &points[i]
		lon += nav.WrapLon(p.Lon - lon)
		s.low[0], s.high[0] = min(s.low[0], lon), max(s.high[0], lon)
		s.low[1], s.high[1] = min(s.low[1], p.Lat), max(s.high[1], p.Lat)
	}
	return s
}

// Near finds what lies within a distance of a position, in metres, the nearest first: one hit for each item, and at
// most so many; 0 is any number.
func (x *Index) Near(lat, lon, within float64, most int) (out []Hit) {
	inside := map[int32]bool{}
	x.areas.Holding(lat, lon, func(i int) bool {
		inside[int32(i)] = true
		h := x.hit(nav.Areas, int32(i))
		h.Lat, h.Lon, h.Inside, h.Course = lat, lon, true, math.NaN()
		out = append(out, h)
		return true
	})
	plane := geodesy.NewPlane(lat, lon)
	x.tree.Nearby(func(low, high [2]float64, _ int32, _ bool) float64 {
		return shape.PlaneBoxDistance(plane, lat, lon, low, high)
	},
		func(_, _ [2]float64, n int32, least float64) bool {
			// What comes is at least so far off: enough is known once so many are nearer.
			if least > within || most > 0 && closer(out, least, most) {
				return false
			}
			e := &x.items[n]
			if e.kind == nav.Areas && inside[e.item] {
				return true
			}
			h := x.hit(e.kind, e.item)
			if e.nearest(&h, plane, lat, lon); h.Distance <= within {
				out = append(out, h)
			}
			return true
		})
	Sort(out)
	if most > 0 && len(out) > most {
		out = out[:most]
	}
	return
}

// nearest finds the nearest place of an item.
func (e *entry) nearest(h *Hit, plane geodesy.Plane, lat, lon float64) {
	least := math.Inf(1)
	ask := func(_, _ [2]float64, n int32, box float64) bool {
		if box > least {
			return false
		}
		at, leg := e.spans[n].nearest(plane)
		if far, _, _ := plane.Toward(at.Lat, at.Lon); far < least {
			least, h.Lat, h.Lon, h.Leg = far, at.Lat, at.Lon, leg
		}
		return true
	}
	far := func(low, high [2]float64, _ int32, _ bool) float64 {
		return shape.PlaneBoxDistance(plane, lat, lon, low, high)
	}
	if e.tree != nil {
		e.tree.Nearby(far, ask)
	} else {
		for n := range e.spans {
			s := &e.spans[n]
			ask(s.low, s.high, int32(n), far(s.low, s.high, 0, true))
		}
	}
	h.Distance, h.Course, _ = geodesy.Inverse(lat, lon, h.Lat, h.Lon)
	if h.Distance == 0 {
		h.Course = math.NaN()
	}
}

// closer says whether there are enough hits nearer than a distance.
func closer(hits []Hit, least float64, most int) bool {
	if len(hits) < most {
		return false
	}
	n := 0
	for i := range hits {
		if hits[i].Distance <= least {
			n++
		}
	}
	return n >= most
}

func (x *Index) hit(kind nav.Kind, i int32) Hit {
	var it *nav.Item
	switch kind {
	case nav.Waypoints:
		it = &x.d.Waypoints[i].Item
	case nav.Routes:
		it = &x.d.Routes[i].Item
	case nav.Tracks:
		it = &x.d.Tracks[i].Item
	default:
		it = &x.d.Areas[i].Item
	}
	return Hit{File: x.file, Kind: kind, Name: it.Name, Group: it.Group}
}

// nearest finds the place of a span that is nearest to the origin of a plane, and its leg.
func (s *span) nearest(plane geodesy.Plane) (at nav.Point, leg int) {
	if len(s.points) == 1 {
		return s.points[0], 0
	}
	best, part := math.Inf(1), 0.0
	for i := 0; i+1 < len(s.points); i++ {
		if off, along := shape.Foot(plane, &s.points[i], &s.points[i+1]); off < best {
			best, part, leg = off, along, i
		}
	}
	return shape.Between(&s.points[leg], &s.points[leg+1], part), int(s.number) + leg
}

// Sort puts the nearest hits first.
func Sort(hits []Hit) {
	slices.SortStableFunc(hits, func(a, b Hit) int {
		return cmp.Or(cmp.Compare(a.Distance, b.Distance), cmp.Compare(a.Name, b.Name))
	})
}
