package identity

import (
	"math"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// PointsSay is what the points of lines say beside their places, as a set.
type PointsSay uint8

// What points say.
const (
	Heights PointsSay = 1 << iota
	Times
	Values // of a track
	Items  // names and the like, of a route
)

// Says gathers what the points of some lines say, and whether all of them have heights.
func Says(list ...Thing) (s PointsSay, high bool) {
	high = true
	for k := range list {
		t := &list[k]
		for _, line := range t.Lines() {
			for i := range line {
				if high = high && line[i].HasHeight(); line[i].HasHeight() {
					s |= Heights
				}
				if line[i].HasTime() {
					s |= Times
				}
			}
		}
		switch t.Kind {
		case nav.Routes:
			for i := range t.Route.Points {
				if pointProperties(&t.Route.Points[i]) != "" {
					s |= Items
				}
			}
		case nav.Tracks:
			for i := range t.Track.Segments {
				if t.Track.Segments[i].Details() > 0 {
					s |= Values
				}
			}
		}
	}
	return s, high
}

// SameLine says whether two lines have the same points, each within a distance in metres, and say the same of them, as
// far as both can say it.
func SameLine(a, b *Thing, within float64, both PointsSay) bool {
	x, y := a.Lines(), b.Lines()
	if len(x) != len(y) {
		return false
	}
	for i := range x {
		if len(x[i]) != len(y[i]) {
			return false
		}
		for j := range x[i] {
			p, q := &x[i][j], &y[i][j]
			if !p.SamePlace(q) && geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) > within ||
				both&Heights != 0 && (p.HasHeight() != q.HasHeight() ||
					p.HasHeight() && math.Abs(p.Height()-q.Height()) > max(within, 0.01)) ||
				both&Times != 0 && (p.HasTime() != q.HasTime() || p.HasTime() && p.UnixNano() != q.UnixNano()) {
				return false
			}
			if a.Kind == nav.Tracks && both&Values != 0 {
				s, t := &a.Track.Segments[i], &b.Track.Segments[i]
				if !slices.Equal(s.Values(nil, p), t.Values(nil, q)) {
					return false
				}
			}
		}
	}
	if a.Kind == nav.Routes && both&Items != 0 {
		for i := range a.Route.Points {
			if pointProperties(&a.Route.Points[i]) != pointProperties(&b.Route.Points[i]) {
				return false
			}
		}
	}
	return true
}

// pointProperties are those of a route's point as a text, but for its place, height and time.
func pointProperties(w *nav.Waypoint) (text string) {
	t := &Thing{Kind: nav.Waypoints, Item: &w.Item, Waypoint: w}
	for _, p := range Properties(t) {
		if !slices.Contains([]string{"id", Position, Height, Time}, p.Word) {
			text += "|" + p.Word + "=" + p.get(t)
		}
	}
	return text
}
