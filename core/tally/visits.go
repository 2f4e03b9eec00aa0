package tally

import (
	"math"
	"slices"
	"time"

	"github.com/tidwall/rtree"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// outline is an area with an index of its edges, in longitudes that go on from its first corner without a jump.
type outline struct {
	area                     *nav.Area
	edges                    rtree.RTreeG[[4]float64]
	west, east, south, north float64
}

func newOutline(a *nav.Area) *outline {
	o := &outline{area: a, west: math.Inf(1), east: math.Inf(-1), south: math.Inf(1), north: math.Inf(-1)}
	for _, ring := range a.Rings() {
		if len(ring) == 0 {
			continue
		}
		x := a.Outline[0].Lon + nav.WrapLon(ring[0].Lon-a.Outline[0].Lon)
		for i := range ring {
			p, q := &ring[i], &ring[(i+1)%len(ring)]
			next := x + nav.WrapLon(q.Lon-p.Lon)
			o.edges.Insert([2]float64{min(x, next), min(p.Lat, q.Lat)}, [2]float64{max(x, next), max(p.Lat, q.Lat)},
				[4]float64{x, p.Lat, next, q.Lat})
			o.west, o.east = min(o.west, x), max(o.east, x)
			o.south, o.north = min(o.south, p.Lat), max(o.north, p.Lat)
			x = next
		}
	}
	return o
}

// near says whether a leg may come to the area.
func (o *outline) near(a, b *nav.Point) bool {
	if max(a.Lat, b.Lat) < o.south || min(a.Lat, b.Lat) > o.north {
		return false
	}
	x := o.middle(a.Lon)
	next := x + nav.WrapLon(b.Lon-a.Lon)
	return max(x, next) >= o.west && min(x, next) <= o.east
}

// middle is a longitude as it is nearest to the middle of the area.
func (o *outline) middle(lon float64) float64 {
	mid := (o.west + o.east) / 2
	return mid + nav.WrapLon(lon-mid)
}

// crossings are the parts of a leg at which it crosses the outline, in their order.
func (o *outline) crossings(a, b *nav.Point) (out []float64) {
	x := o.middle(a.Lon)
	dx, dy := nav.WrapLon(b.Lon-a.Lon), b.Lat-a.Lat
	low := [2]float64{min(x, x+dx), min(a.Lat, b.Lat)}
	high := [2]float64{max(x, x+dx), max(a.Lat, b.Lat)}
	o.edges.Search(low, high, func(_, _ [2]float64, e [4]float64) bool {
		ex, ey := e[2]-e[0], e[3]-e[1]
		if den := dx*ey - dy*ex; den != 0 {
			t := ((e[0]-x)*ey - (e[1]-a.Lat)*ex) / den
			u := ((e[0]-x)*dy - (e[1]-a.Lat)*dx) / den
			if t >= 0 && t <= 1 && u >= 0 && u <= 1 {
				out = append(out, t)
			}
		}
		return true
	})
	slices.Sort(out)
	return slices.Compact(out)
}

// has says whether a position is in the area.
func (o *outline) has(p *nav.Point) bool { return o.area.Contains(p.Lat, p.Lon) }

// visits lists when a track was inside of each area. Where a leg crosses an outline is worked out on the leg itself.
func (s *Step) visits(t *nav.Track, file string) (out []Visit) {
	for i := range s.Areas {
		o := newOutline(&s.Areas[i])
		number := 0
		for j := range t.Segments {
			v := &visitor{outline: o, visit: Visit{File: file, Name: t.Name, Area: s.Areas[i].Name}, out: &out}
			v.segment(t.Segments[j].Points, number)
			number += len(t.Segments[j].Points)
		}
	}
	slices.SortStableFunc(out, func(a, b Visit) int { return a.In.Compare(b.In) })
	return out
}

// visitor follows a segment in and out of an area.
type visitor struct {
	outline *outline
	visit   Visit
	open    bool
	at      Visit // that has begun
	out     *[]Visit
}

func (v *visitor) enter(p nav.Point, n int, begun bool) {
	v.open, v.at = true, v.visit
	v.at.From, v.at.To, v.at.Begun, v.at.First = p, p, begun, n
	if p.HasTime() {
		v.at.In = p.Time()
	}
}

func (v *visitor) on(p *nav.Point) {
	v.at.Length += geodesy.Distance(v.at.To.Lat, v.at.To.Lon, p.Lat, p.Lon)
	v.at.To = *p
}

func (v *visitor) leave(p nav.Point, n int, ended bool) {
	v.on(&p)
	v.at.Ended, v.at.Last = ended, n
	if p.HasTime() {
		v.at.Out = p.Time()
	}
	if !v.at.In.IsZero() && !v.at.Out.IsZero() {
		v.at.Inside = max(v.at.Out.Sub(v.at.In), time.Duration(0))
	}
	v.open = false
	*v.out = append(*v.out, v.at)
}

// segment follows points, of which the first has a number behind those before.
func (v *visitor) segment(points []nav.Point, before int) {
	for i := range points {
		p := &points[i]
		if i == 0 {
			if v.outline.has(p) {
				v.enter(*p, before+1, true)
			}
			continue
		}
		q := &points[i-1]
		if !v.outline.near(q, p) {
			continue // outside, as a leg that is inside comes near
		}
		cuts := append(v.outline.crossings(q, p), 1)
		from := 0.0
		for _, t := range cuts {
			if t <= from && t < 1 {
				continue
			}
			middle := shape.Between(q, p, (from+t)/2)
			inside := v.outline.has(&middle)
			at := shape.Between(q, p, from)
			switch {
			case inside && !v.open:
				v.enter(at, before+i+1, false)
			case !inside && v.open:
				v.leave(at, before+i, false)
			}
			from = t
		}
		if v.open {
			v.on(p)
		}
	}
	if v.open {
		last := points[len(points)-1]
		v.leave(last, before+len(points), true)
	}
}
