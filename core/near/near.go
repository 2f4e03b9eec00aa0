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

// Index holds data so that what is near a position is found without a look at all of it.
type Index struct {
	d     *nav.Dataset
	file  string
	tree  rtree.RTreeG[int32]
	spans []span
}

// span is a waypoint, or some legs of a line, with the item that it is of.
type span struct {
	kind   nav.Kind
	item   int32
	number int32 // of the first leg, from 1
	points []nav.Point
}

// spanLegs are as many legs as are looked at together.
const spanLegs = 16

// NewIndex indexes the data of a file.
func NewIndex(d *nav.Dataset, file string) *Index {
	x := &Index{d: d, file: file}
	for i := range d.Waypoints {
		x.add(span{kind: nav.Waypoints, item: int32(i), points: []nav.Point{d.Waypoints[i].Point}})
	}
	line := func(kind nav.Kind, item int, points []nav.Point, before int) {
		for from := 0; from == 0 || from < len(points)-1; from += spanLegs {
			to := min(from+spanLegs+1, len(points))
			if from < to {
				x.add(span{kind, int32(item), int32(before + from + 1), points[from:to]})
			}
		}
	}
	for i := range d.Routes {
		line(nav.Routes, i, d.Routes[i].Line(), 0)
	}
	for i := range d.Tracks {
		before := 0
		for j := range d.Tracks[i].Segments {
			points := d.Tracks[i].Segments[j].Points
			line(nav.Tracks, i, points, before)
			before += max(len(points)-1, 0)
		}
	}
	for i := range d.Areas {
		before := 0
		for _, ring := range d.Areas[i].Rings() {
			if len(ring) > 0 {
				line(nav.Areas, i, append(slices.Clone(ring), ring[0]), before)
			}
			before += len(ring)
		}
	}
	return x
}

// add puts a span into the index, by the box around it. A box across the antimeridian is wider than 180 degrees east of
// its west, and is put in twice.
func (x *Index) add(s span) {
	n := int32(len(x.spans))
	x.spans = append(x.spans, s)
	low, high := [2]float64{s.points[0].Lon, 90}, [2]float64{s.points[0].Lon, -90}
	lon := s.points[0].Lon
	for i := range s.points {
		p := &s.points[i]
		lon += nav.WrapLon(p.Lon - lon)
		low[0], high[0] = min(low[0], lon), max(high[0], lon)
		low[1], high[1] = min(low[1], p.Lat), max(high[1], p.Lat)
	}
	x.tree.Insert(low, high, n)
}

// Near finds what lies within a distance of a position, in metres, the nearest first: one hit for each item, and at
// most so many; 0 is any number.
func (x *Index) Near(lat, lon, within float64, most int) (out []Hit) {
	type key struct {
		kind nav.Kind
		item int32
	}
	found := map[key]int{}
	for i := range x.d.Areas {
		if x.d.Areas[i].Contains(lat, lon) {
			found[key{nav.Areas, int32(i)}] = len(out)
			h := x.hit(nav.Areas, int32(i))
			h.Lat, h.Lon, h.Inside, h.Course = lat, lon, true, math.NaN()
			out = append(out, h)
		}
	}
	plane := geodesy.NewPlane(lat, lon)
	x.tree.Nearby(func(low, high [2]float64, _ int32, _ bool) float64 { return shape.BoxDistance(lat, lon, low, high) },
		func(_, _ [2]float64, n int32, least float64) bool {
			if least > within {
				return false
			}
			s := &x.spans[n]
			k := key{s.kind, s.item}
			h := x.hit(s.kind, s.item)
			h.nearest(s, plane, lat, lon)
			at, known := found[k]
			switch {
			case known && out[at].Distance <= h.Distance:
			case known:
				out[at] = h
			case h.Distance <= within:
				found[k] = len(out)
				out = append(out, h)
			}
			// What comes is at least so far off: enough is known once so many are nearer.
			return most == 0 || !closer(out, least, most)
		})
	Sort(out)
	if most > 0 && len(out) > most {
		out = out[:most]
	}
	return
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

// nearest finds the nearest place of a span.
func (h *Hit) nearest(s *span, plane geodesy.Plane, lat, lon float64) {
	at, best := s.points[0], math.Inf(1)
	if len(s.points) == 1 {
		best = 0
	}
	for i := 0; i+1 < len(s.points); i++ {
		off, along := shape.Foot(plane, &s.points[i], &s.points[i+1])
		if off < best {
			best, at, h.Leg = off, shape.Between(&s.points[i], &s.points[i+1], along), int(s.number)+i
		}
	}
	h.Lat, h.Lon = at.Lat, at.Lon
	h.Distance, h.Course, _ = geodesy.Inverse(lat, lon, at.Lat, at.Lon)
	if h.Distance == 0 {
		h.Course = math.NaN()
	}
}

// Sort puts the nearest hits first.
func Sort(hits []Hit) {
	slices.SortStableFunc(hits, func(a, b Hit) int {
		return cmp.Or(cmp.Compare(a.Distance, b.Distance), cmp.Compare(a.Name, b.Name))
	})
}
