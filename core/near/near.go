// Package near finds what is near a position: waypoints, and the nearest places of routes, tracks and areas, on the
// ellipsoid and over an index in space.
package near

import (
	"cmp"
	"math"
	"slices"
	"sync"

	"github.com/tidwall/rtree"

	"gyrolith/core/figure"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/region"
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
	Outside     string  // why a place within the outline is not in the area, by its height or time
	On          *On     // of routes and tracks, where that is asked for
	Number      int     // of the item in its kind, from 0
	Fields      []nav.Field
}

// On is where on its line a nearest place is.
type On struct {
	Along float64   // metres from the start
	Right bool      // the position lies to the right of the line
	Aside bool      // it lies beside the line at all
	At    nav.Point // the place, with its height and its time where they are known
}

// Index holds data so that what is near a position is found without a look at all of it: a tree of the items by the
// boxes around them, and for each the legs of its lines.
type Index struct {
	d     *nav.Dataset
	file  string
	areas *region.Index
	holds []nav.Limits        // of the areas
	tree  rtree.RTreeG[int32] // of the items
	items []*entry

	Along bool // of hits on lines it is said where on the line they are
}

// entry is an item with its lines.
type entry struct {
	kind nav.Kind
	item int32
	legs *shape.Legs
	once sync.Once
	line *figure.Line // once it is asked for
}

// NewIndex indexes the data of a file.
func NewIndex(d *nav.Dataset, file string) *Index {
	x := &Index{d: d, file: file, areas: region.New(d.Areas, func(*nav.Area) bool { return true })}
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
		limits, _ := d.Areas[i].Limits()
		x.holds = append(x.holds, limits)
		var lines [][]nav.Point
		for _, ring := range d.Areas[i].Rings() {
			if len(ring) > 0 {
				lines = append(lines, append(slices.Clone(ring), ring[0]))
			}
		}
		x.put(nav.Areas, i, shape.NewEdges(lines...))
	}
	return x
}

// add puts an item into the index.
func (x *Index) add(kind nav.Kind, item int, lines ...[]nav.Point) {
	x.put(kind, item, shape.NewLegs(lines...))
}

func (x *Index) put(kind nav.Kind, item int, legs *shape.Legs) {
	if legs.Empty() {
		return
	}
	x.tree.Insert(legs.Low, legs.High, int32(len(x.items)))
	x.items = append(x.items, &entry{kind: kind, item: int32(item), legs: legs})
}

// Near finds what lies within a distance of a position, in metres, the nearest first: one hit for each item, and at
// most so many; 0 is any number. Its height and time, where it has them, say with the position whether it is in an
// area.
func (x *Index) Near(p *nav.Point, within float64, most int) (out []Hit) {
	lat, lon := p.Lat, p.Lon
	inside := map[int32]bool{}
	x.areas.Holding(lat, lon, func(i int) bool {
		inside[int32(i)] = true
		h := x.hit(nav.Areas, int32(i))
		h.Lat, h.Lon, h.Course = lat, lon, math.NaN()
		h.Outside = x.holds[i].Outside(p)
		h.Inside = h.Outside == ""
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
			e := x.items[n]
			if e.kind == nav.Areas && inside[e.item] {
				return true
			}
			h := x.hit(e.kind, e.item)
			at := e.legs.Nearest(plane, lat, lon)
			h.Lat, h.Lon, h.Leg = at.At.Lat, at.At.Lon, at.Leg+1
			h.Distance, h.Course, _ = geodesy.Inverse(lat, lon, h.Lat, h.Lon)
			if h.Distance == 0 {
				h.Course = math.NaN()
			}
			if h.Distance <= within {
				if x.Along && (e.kind == nav.Routes || e.kind == nav.Tracks) {
					h.On = x.on(e, at, h.Course)
				}
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

// on says where on its line a place is. The course is that from the position to the place.
func (x *Index) on(e *entry, at shape.Place, course float64) *On {
	e.once.Do(func() { e.line = figure.LineOf(figure.At(x.d, e.kind, int(e.item)).Thing) })
	along, place, ahead := e.line.On(at.Leg, at.Along)
	side := math.Remainder(course+180-ahead, 360)
	return &On{along, side > 0, !math.IsNaN(side), place}
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
	it := figure.At(x.d, kind, int(i)).Item
	return Hit{File: x.file, Kind: kind, Name: it.Name, Group: it.Group, Fields: it.Fields, Number: int(i)}
}

// Sort puts the nearest hits first.
func Sort(hits []Hit) {
	slices.SortStableFunc(hits, func(a, b Hit) int {
		return cmp.Or(cmp.Compare(a.Distance, b.Distance), cmp.Compare(a.Name, b.Name))
	})
}
