package clean

import (
	"math"
	"slices"

	"gyrolith/core/nav"
)

// Strays is the word of this fault.
const Strays Fault = "strays"

var strays = fault{
	word:  Strays,
	help:  "positions that are out of range or not numbers, and 0/0 far from the rest",
	found: "positions that can't be used",
	done:  "left out",
	count: "strays",
	usual: true,
	data: func(s *Step, d *nav.Dataset) *Result {
		out := s.rejected(d)
		out.join(s.zeros(d))
		d.Rejects = nil
		return out
	},
}

// rejected tells of the positions that the reader could not use and left out.
func (s *Step) rejected(d *nav.Dataset) *Result {
	out := &Result{}
	var rows []Row
	type item struct {
		kind nav.Kind
		name string
	}
	known := map[item]int{}
	for i := range d.Rejects {
		x := &d.Rejects[i]
		at, ok := known[item{x.Kind, x.Name}]
		if !ok {
			at = len(rows)
			known[item{x.Kind, x.Name}] = at
			rows = append(rows, Row{Fault: Strays, Kind: x.Kind, Item: x.Name, Number: x.Number, Text: x.Why})
		}
		rows[at].Count++
		if x.HasNear {
			s.list(out, Removed{Fault: Strays, Kind: x.Kind, Item: x.Name, Number: x.Number,
				Point: x.Near, Raw: x.Raw})
		} else if p, ok := anyPoint(d); ok {
			s.list(out, Removed{Fault: Strays, Kind: x.Kind, Item: x.Name, Number: x.Number, Point: p,
				Raw: x.Raw})
		}
	}
	for _, r := range rows {
		out.add(r)
	}
	return out
}

func anyPoint(d *nav.Dataset) (at nav.Point, ok bool) {
	for p := range d.AllPoints() {
		if !ok {
			at, ok = *p, true
		}
	}
	return
}

// farFromRest is how far 0/0 must be from the rest of the data to be no place that anybody was at.
const farFromRest = 100e3

// zeros takes out positions at exactly 0/0 when the rest is far from there.
func (s *Step) zeros(d *nav.Dataset) *Result {
	out := &Result{}
	isZero := func(p *nav.Point) bool { return p.Lat == 0 && p.Lon == 0 }
	count, near := 0, false
	null := nav.At(0, 0)
	var neighbour nav.Point
	for p := range d.AllPoints() {
		if isZero(p) {
			count++
		} else {
			neighbour = *p
			near = near || math.Abs(p.Lat) < 2 && math.Abs(p.Lon) < 2 && apart(p, &null) < farFromRest
		}
	}
	if count == 0 || near || neighbour == (nav.Point{}) {
		return out
	}
	note := func(kind nav.Kind, name string, number int, at *nav.Point) Removed {
		return Removed{Fault: Strays, Kind: kind, Item: name, Number: number, Point: *at, Off: apart(&null, at), Raw: "0 0"}
	}
	row := func(kind nav.Kind, name string, number, n int) {
		out.add(Row{Fault: Strays, Kind: kind, Item: name, Number: number, Count: n, Off: apart(&null, &neighbour),
			Text: "at 0/0"})
	}
	d.Waypoints = slices.DeleteFunc(d.Waypoints, func(w nav.Waypoint) bool {
		if !isZero(&w.Point) {
			return false
		}
		s.list(out, note(nav.Waypoints, w.Name, 0, &neighbour))
		row(nav.Waypoints, w.Name, 0, 1)
		return true
	})
	for i := range d.Routes {
		r := &d.Routes[i]
		first, n := 0, 0
		r.Points = slices.DeleteFunc(slices.Clone(r.Points), func(w nav.Waypoint) bool { return isZero(&w.Point) })
		if n = len(d.Routes[i].Points) - len(r.Points); n > 0 {
			row(nav.Routes, r.Name, first, n)
		}
	}
	for i := range d.Tracks {
		t := &d.Tracks[i]
		number, first, n := 0, 0, 0
		for j := range t.Segments {
			seg := &t.Segments[j]
			last := neighbour
			seg.Points = slices.DeleteFunc(seg.Points, func(p nav.Point) bool {
				number++
				if !isZero(&p) {
					last = p
					return false
				}
				if n == 0 {
					first = number
				}
				n++
				s.list(out, note(nav.Tracks, t.Name, number, &last))
				return true
			})
		}
		row(nav.Tracks, t.Name, first, n)
	}
	return out
}
