// Package clean finds and removes the faults that receivers and planners leave in recordings. Each fault has
// one word, wherever it is spoken of.
package clean

import (
	"math"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// The words for the faults.
const (
	Strays    = "strays"
	Repeats   = "repeats"
	Order     = "order"
	Spikes    = "spikes"
	Heights   = "heights"
	Crumbs    = "crumbs"
	NoHeights = "no heights"
)

// Finding is a fault in an item: how many points it touches, and the first of them.
type Finding struct {
	Fault  string
	Kind   nav.Kind
	Item   string
	Count  int
	Number int       // of the first such point in its item, from 1; 0 for a waypoint
	First  nav.Point // that point
	Far    float64   // metres, how far the farthest one is off, for jumps
}

// Find looks for faults in all of the data and changes nothing.
func Find(d *nav.Dataset) []Finding {
	var out []Finding
	out = append(out, rejected(d)...)
	out = append(out, repeatedWaypoints(d)...)
	for i := range d.Tracks {
		out = append(out, findInTrack(&d.Tracks[i])...)
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		if len(r.Points) < 2 {
			out = append(out, Finding{Fault: Crumbs, Kind: nav.Routes, Item: r.Name, Count: 1})
		}
	}
	return out
}

// rejected lists the positions that the reader could not use.
func rejected(d *nav.Dataset) []Finding {
	var out []Finding
	for i := range d.Rejects {
		x := &d.Rejects[i]
		at := slices.IndexFunc(out, func(f Finding) bool { return f.Kind == x.Kind && f.Item == x.Name })
		if at < 0 {
			out = append(out, Finding{Fault: Strays, Kind: x.Kind, Item: x.Name, Number: x.Number})
			at = len(out) - 1
		}
		out[at].Count++
	}
	return out
}

type place struct {
	name     string
	lat, lon float64
}

func repeatedWaypoints(d *nav.Dataset) []Finding {
	seen := make(map[place]bool, len(d.Waypoints))
	var out []Finding
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		key := place{w.Name, w.Lat, w.Lon}
		if !seen[key] {
			seen[key] = true
			continue
		}
		at := slices.IndexFunc(out, func(f Finding) bool { return f.Item == w.Name })
		if at < 0 {
			out = append(out, Finding{Fault: Repeats, Kind: nav.Waypoints, Item: w.Name, First: w.Point})
			at = len(out) - 1
		}
		out[at].Count++
	}
	return out
}

// How a jump stands out: by many times the typical leg.
const (
	jumpTimes  = 25
	jumpMetres = 250
)

func findInTrack(t *nav.Track) []Finding {
	base := Finding{Kind: nav.Tracks, Item: t.Name}
	repeats, order, spikes, none, crumbs := base, base, base, base, base
	repeats.Fault, order.Fault, spikes.Fault, none.Fault, crumbs.Fault = Repeats, Order, Spikes, NoHeights, Crumbs
	note := func(f *Finding, number int, p *nav.Point) {
		if f.Count == 0 {
			f.Number, f.First = number, *p
		}
		f.Count++
	}
	number := 0
	heights := 0
	for si := range t.Segments {
		points := t.Segments[si].Points
		if len(points) < 2 {
			crumbs.Count++
		}
		legs := make([]float64, 0, len(points))
		for i := range points {
			p := &points[i]
			number++
			if p.HasHeight() {
				heights++
			} else {
				note(&none, number, p)
			}
			if i == 0 {
				continue
			}
			q := &points[i-1]
			legs = append(legs, geodesy.Distance(q.Lat, q.Lon, p.Lat, p.Lon))
			if p.SamePlace(q) && p.HasTime() == q.HasTime() && p.UnixNano() == q.UnixNano() {
				note(&repeats, number, p)
			}
			if p.HasTime() && q.HasTime() && p.UnixNano() < q.UnixNano() {
				note(&order, number, p)
			}
		}
		findJumps(&spikes, points, legs, number-len(points), note)
	}
	if heights == 0 {
		none.Count = 0 // a line without any heights has not lost them
	}
	return slices.DeleteFunc([]Finding{repeats, order, spikes, none, crumbs}, func(f Finding) bool { return f.Count == 0 })
}

// findJumps looks for single points that are far off to the side and back.
func findJumps(f *Finding, points []nav.Point, legs []float64, before int, note func(*Finding, int, *nav.Point)) {
	if len(legs) < 4 {
		return
	}
	sorted := slices.Clone(legs)
	slices.Sort(sorted)
	limit := math.Max(jumpMetres, jumpTimes*sorted[len(sorted)/2])
	for i := 1; i < len(points)-1; i++ {
		out, back := legs[i-1], legs[i]
		if out < limit || back < limit {
			continue
		}
		q, r := &points[i-1], &points[i+1]
		if geodesy.Distance(q.Lat, q.Lon, r.Lat, r.Lon) < math.Min(out, back)/2 {
			note(f, before+i+1, &points[i])
			f.Far = math.Max(f.Far, math.Min(out, back))
		}
	}
}
