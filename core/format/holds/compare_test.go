package holds

import (
	"testing"

	"gyrolith/core/nav"
)

// Of more items than are named, what is lost stays a loss beside what is only said: strict refuses by it.
func TestLossesOfMany(t *testing.T) {
	d := &nav.Dataset{}
	for range namedItems + 50 {
		d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: "Rock ", Desc: "awash"}, Point: nav.At(-47, 11)})
	}
	c := &Declaration{Noun: "a list", Trims: true, Holds: Places{Waypoint: Only(Name)}}
	losses, blanks := 0, 0
	items := map[nav.Property]int{}
	for _, e := range c.Losses(d, "") {
		if items[e.What] += e.Others; e.Name != "" {
			items[e.What]++
		}
		switch e.What {
		case What(Waypoint, Description):
			if e.Loss {
				losses += e.Count
			}
		case Blanks:
			if blanks += e.Count; e.Loss {
				t.Fatalf("%+v is called a loss", e)
			}
		}
	}
	n := len(d.Waypoints)
	if losses != n || blanks != n {
		t.Errorf("of %d waypoints %d descriptions are lost, and %d blanks told", n, losses, blanks)
	}
	if items[What(Waypoint, Description)] != n || items[Blanks] != n {
		t.Errorf("of %d items: %v", n, items)
	}
}
