// Package seasontest has the data that the tests of units and cards share.
package seasontest

import (
	"fmt"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

// Season is a small season: hazards, a run, a walk and an area.
func Season() *nav.Dataset {
	d := &nav.Dataset{}
	for i, name := range []string{"Lantern Head north", "Lantern Head south", "Østre Båe", "Grey Mare's Foal", "Rock 10",
		"Rock 11"} {
		w := nav.Waypoint{Item: nav.Item{Name: name, Group: "Hazards", Desc: "Breaks in any swell.",
			Style:  nav.Style{Symbol: "rock-awash", Colour: nav.RGB(208, 16, 46)},
			Fields: []nav.Field{{Key: "depth", Value: "1.5"}}}, Point: nav.At(-47.5+float64(i)/1000, 11.3)}
		d.Waypoints = append(d.Waypoints, w)
	}
	r := nav.Route{Item: nav.Item{Name: "Run to the jetty", Group: "Runs"}}
	for i := range 4 {
		w := nav.Waypoint{Item: nav.Item{Name: fmt.Sprintf("Mark %d", i)}, Point: nav.At(-47.4-float64(i)/1000, 11.4)}
		w.SetHeight(100+float64(i), decimal.PrecisionOf(0), nav.MeanSeaLevel)
		r.Points = append(r.Points, w)
	}
	d.Routes = []nav.Route{r}
	d.Tracks = []nav.Track{Line("Walk", 20)}
	d.Areas = []nav.Area{{Item: nav.Item{Name: "Nesting, Cairn Hill west", Style: nav.Style{Colour: nav.RGB(200, 0, 0)},
		Fields: []nav.Field{{Key: nav.FieldCeiling, Value: "1500ft"}}},
		Outline: []nav.Point{nav.At(-47.1, 11.1), nav.At(-47.2, 11.1), nav.At(-47.2, 11.2)},
		Holes:   [][]nav.Point{{nav.At(-47.15, 11.12), nav.At(-47.16, 11.12), nav.At(-47.16, 11.13)}}}}
	return d
}

// Line is a track of n points.
func Line(name string, n int) nav.Track {
	t := nav.Track{Item: nav.Item{Name: name}}
	var s nav.Segment
	for i := range n {
		s.Points = append(s.Points, nav.At(-47, 11+float64(i)/1e5))
	}
	t.Segments = append(t.Segments, s)
	return t
}
