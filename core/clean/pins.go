package clean

import (
	"slices"
	"strings"

	"gyrolith/core/nav"
	"gyrolith/core/pattern"
)

// Pins is the word of this fault.
const Pins Fault = "pins"

var pins = fault{
	word:  Pins,
	help:  "waypoints that only mark the corners of a line in the same data",
	found: "waypoints that only mark corners of a line",
	done:  "waypoints removed, the line kept",
	count: "pins",
	data:  (*Step).findPins,
}

// pinNumber is what a planner calls a corner of its own making: a number, perhaps behind a word.
var pinNumber = pattern.New(`^(.*?)[\s._#-]*\(?\d+\)?$`)

// leastPins is how many corners of a line must be marked for the marks to be a planner's.
const leastPins = 3

// findPins takes out waypoints that only mark the corners of a route or track in the same data. A waypoint is one when
// it stands on a corner, says nothing but a name, and that name is empty, a number, the line's or that of the corner,
// or a word with a number that most corners of the line have. The line stays as it is.
func (s *Step) findPins(d *nav.Dataset) *Result {
	out := &Result{}
	type key struct{ lat, lon float64 }
	at := map[key][]int{}
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		if w.Desc == "" && w.Comment == "" && len(w.Links) == 0 && len(w.Fields) == 0 {
			at[key{w.Lat, w.Lon}] = append(at[key{w.Lat, w.Lon}], i)
		}
	}
	if len(at) == 0 {
		return out
	}
	gone := map[int]bool{}
	line := func(name string, corners []nav.Point, cornerName func(int) string) {
		stems := map[string][]int{}
		plain := map[int]bool{}
		marked := 0
		for c := range corners {
			found := false
			for _, i := range at[key{corners[c].Lat, corners[c].Lon}] {
				wn := strings.TrimSpace(d.Waypoints[i].Name)
				found = true
				switch m := pinNumber.FindStringSubmatch(wn); {
				case wn == "" || strings.EqualFold(wn, name) || cornerName(c) != "" && wn == cornerName(c) && m != nil:
					plain[i] = true
				case m != nil && (m[1] == "" || strings.EqualFold(strings.TrimSpace(m[1]), name)):
					plain[i] = true
				case m != nil:
					if stem := strings.ToLower(m[1]); !slices.Contains(stems[stem], i) {
						stems[stem] = append(stems[stem], i)
					}
				}
			}
			if found {
				marked++
			}
		}
		if marked < leastPins || 2*marked < len(corners) {
			return
		}
		for i := range plain {
			gone[i] = true
		}
		for _, list := range stems {
			if len(list) >= leastPins && 2*len(list) >= marked {
				for _, i := range list {
					gone[i] = true
				}
			}
		}
	}
	for i := range d.Routes {
		r := &d.Routes[i]
		line(r.Name, r.Line(), func(c int) string { return r.Points[c].Name })
	}
	for i := range d.Tracks {
		for _, seg := range d.Tracks[i].Segments {
			if len(seg.Points) <= 10*len(d.Waypoints) { // a recording has far more points than anybody pins
				line(d.Tracks[i].Name, seg.Points, func(int) string { return "" })
			}
		}
	}
	i := -1
	d.Waypoints = slices.DeleteFunc(d.Waypoints, func(w nav.Waypoint) bool {
		i++
		if gone[i] {
			out.add(Row{Fault: Pins, Kind: nav.Waypoints, Item: w.Name, Count: 1})
			s.list(out, Removed{Fault: Pins, Kind: nav.Waypoints, Item: w.Name, Point: w.Point})
		}
		return gone[i]
	})
	return out
}
