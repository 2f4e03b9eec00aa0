package clean

import (
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Repeats is the word of this fault.
const Repeats Fault = "repeats"

var repeats = fault{
	word:  Repeats,
	help:  "points with the same place and time; waypoints with the same name and place",
	found: "points at the same place as the one before",
	done:  "removed, the first kept",
	count: "repeats",
	usual: true,
	data:  (*Step).repeatedWaypoints,
	round: (*work).repeats,
}

// repeatedWaypoints takes out waypoints of the name and the place of one before; what only the later one says goes to
// the first.
func (s *Step) repeatedWaypoints(d *nav.Dataset) *Result {
	out := &Result{}
	places := shape.NewGrid(s.RepeatsWithin) // of the first ones, by their names
	gone := make([]bool, len(d.Waypoints))
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		first, off := -1, 0.0
		places.Near(w.Name, w.Lat, w.Lon, func(j int) bool {
			if first >= 0 && j > first {
				return true
			}
			if at := &d.Waypoints[j]; at.SamePlace(&w.Point) {
				first, off = j, 0
			} else if s.RepeatsWithin > 0 {
				if far := apart(&at.Point, &w.Point); far <= s.RepeatsWithin {
					first, off = j, far
				}
			}
			return true
		})
		if first < 0 {
			places.Add(i, w.Name, w.Lat, w.Lon)
			continue
		}
		mergeWaypoint(&d.Waypoints[first], w)
		gone[i] = true
		out.add(Row{Fault: Repeats, Kind: nav.Waypoints, Item: w.Name, Count: 1, Off: off})
		s.list(out, Removed{Fault: Repeats, Kind: nav.Waypoints, Item: w.Name, Point: w.Point,
			Off: off})
	}
	i := -1
	d.Waypoints = slices.DeleteFunc(d.Waypoints, func(nav.Waypoint) bool { i++; return gone[i] })
	return out
}

func mergeWaypoint(to, from *nav.Waypoint) {
	for _, f := range [...]struct{ to, from *string }{{&to.Desc, &from.Desc}, {&to.Comment, &from.Comment},
		{&to.Source, &from.Source},
		{&to.Type, &from.Type}, {&to.Group, &from.Group}, {&to.Style.Symbol, &from.Style.Symbol},
		{&to.Style.Icon, &from.Style.Icon}} {
		if *f.to == "" {
			*f.to = *f.from
		}
	}
	if !to.HasHeight() && from.HasHeight() {
		to.SetHeight(from.Height(), from.HeightPrecision(), from.VerticalDatum())
	}
	if !to.HasTime() && from.HasTime() {
		to.SetTime(from.UnixNano(), from.TimeMark())
	}
	for _, f := range from.Fields {
		if _, has := nav.Get(to.Fields, f.Key); !has {
			to.Fields = append(to.Fields[:len(to.Fields):len(to.Fields)], f)
		}
	}
	for _, l := range from.Links {
		if !slices.Contains(to.Links, l) {
			to.Links = append(to.Links[:len(to.Links):len(to.Links)], l)
		}
	}
}

// repeats takes out points on the same place and time as the one before; a height that only the later one has goes to
// the first.
func (w *work) repeats(si int) {
	points := w.track.Segments[si].Points
	var gone []int
	first := 0
	for i := 1; i < len(points); i++ {
		p, q := &points[first], &points[i]
		if !p.SamePlace(q) || p.HasTime() != q.HasTime() || p.UnixNano() != q.UnixNano() {
			first = i
			continue
		}
		if !p.HasHeight() && q.HasHeight() {
			p.SetHeight(q.Height(), q.HeightPrecision(), q.VerticalDatum())
		}
		if seg := &w.track.Segments[si]; !seg.HasDetail(p) && seg.HasDetail(q) {
			seg.Share(p, q.DetailIndex())
		}
		w.note(Repeats, q, w.numbers[si][i], 0)
		gone = append(gone, i)
	}
	w.remove(si, gone)
}
