package recast

import (
	"math"
	"slices"
	"strings"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/param"
)

// begin makes closed lines and areas begin at the point that is nearest to a waypoint or a position. The times of a
// closed line go, unless it begins there anyway.
func (w *work) begin() error {
	at, found := nav.Point{}, false
	for _, p := range w.data.AllWaypoints() {
		if !found && strings.EqualFold(p.Name, w.First) {
			at, found = p.Point, true
		}
	}
	if !found {
		lat, lon, err := geodesy.ParsePosition(w.First)
		if err != nil {
			return param.Errorf("first", "%q is neither the name of a waypoint nor a position", w.First)
		}
		at = nav.At(lat, lon)
	}
	closing, closed, timed := w.ClosingWithin, 0, 0
	if closing == 0 {
		closing = DefaultClosingWithin
	}
	isClosed := func(a, b *nav.Point) bool { return geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon) <= closing }
	told := func(kind nav.Kind, name string) {
		closed++
		w.changed(kind, name, "beginning", "", "at the point nearest to "+w.First, "requested")
	}
	for i := range w.data.Areas {
		a := &w.data.Areas[i]
		a.Outline = ringFrom(a.Outline, nearestOf(len(a.Outline), &at, func(k int) *nav.Point { return &a.Outline[k] }))
		told(nav.Areas, a.Name)
	}
	for i := range w.data.Routes {
		r := &w.data.Routes[i]
		if n := len(r.Points); n > 3 && isClosed(&r.Points[0].Point, &r.Points[n-1].Point) {
			k := nearestOf(n-1, &at, func(k int) *nav.Point { return &r.Points[k].Point })
			r.Points = append(ringFrom(r.Points[:n-1], k), r.Points[k])
			told(nav.Routes, r.Name)
		}
	}
	for i := range w.data.Tracks {
		t := &w.data.Tracks[i]
		if len(t.Segments) != 1 {
			continue
		}
		s := &t.Segments[0]
		if n := len(s.Points); n > 3 && isClosed(&s.Points[0], &s.Points[n-1]) {
			k := nearestOf(n-1, &at, func(k int) *nav.Point { return &s.Points[k] })
			s.Points = append(ringFrom(s.Points[:n-1], k), s.Points[k])
			for j := range s.Points {
				if k > 0 {
					timed += clearTime(&s.Points[j])
				}
			}
			told(nav.Tracks, t.Name)
		}
	}
	w.lostTimes(timed, true)
	if closed == 0 {
		return param.Errorf("first", "no line ends where it begins, within %s", metres(closing))
	}
	return nil
}

// ringFrom gives a ring that begins at one of its points.
func ringFrom[T any](ring []T, at int) []T { return slices.Concat(ring[at:], ring[:at]) }

// nearestOf gives the number of the point that is nearest to a place.
func nearestOf(n int, at *nav.Point, point func(int) *nav.Point) (best int) {
	least := math.Inf(1)
	for i := range n {
		p := point(i)
		if d := geodesy.Distance(at.Lat, at.Lon, p.Lat, p.Lon); d < least {
			best, least = i, d
		}
	}
	return best
}
