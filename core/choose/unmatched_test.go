package choose

import (
	"fmt"
	"testing"

	"gyrolith/core/nav"
)

func islets() *nav.Dataset {
	d := &nav.Dataset{}
	for i, name := range []string{"Rock 1", "Rock 2", "Skarn Gully"} {
		d.Waypoints = append(
			d.Waypoints,
			nav.Waypoint{Item: nav.Item{Name: name, Group: "Marks"}, Point: nav.At(-47, 11+float64(i)/10)},
		)
	}
	return d
}

// What matches nothing is said with what was perhaps meant, also where another choice matched.
func TestUnmatched(t *testing.T) {
	choice := func(text string) Choice {
		c, err := Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		return c
	}
	for _, c := range []struct {
		s    Selection
		want string
	}{
		{Selection{Take: []Choice{choice("waypoints:rock*"), choice("waypoints:Skrn*")}},
			`[the choice "waypoints:Skrn*" matches nothing; the nearest: waypoint "Skarn Gully"]`},
		{Selection{Leave: []Choice{choice("all:Mraks")}},
			`[the choice "all:Mraks" matches nothing; the nearest: group "Marks"]`},
		{Selection{Take: []Choice{choice("all:Zebra 9")}}, `[the choice "all:Zebra 9" matches nothing]`},
		{Selection{Take: []Choice{choice("waypoints")}, Leave: []Choice{choice("all:Rock 1")}}, "[]"},
		{Selection{Take: []Choice{choice("routes"), choice("waypoints")}}, "[there are no routes to choose]"},
		{Selection{Inside: &nav.Box{West: -48, South: 10, East: -46, North: 12}},
			"[no point lies in the box, but some would with latitudes and longitudes swapped; the order is " +
				"west,south,east,north]"},
		{Selection{Inside: &nav.Box{West: 50, South: 0, East: 51, North: 1}}, "[]"},
	} {
		d, got := islets(), []string{}
		c.s.Apply(d)
		for _, p := range d.Problems {
			got = append(got, p.Text)
		}
		if fmt.Sprint(got) != c.want {
			t.Errorf("%s in place of %s", got, c.want)
		}
	}
	since, until := int64(2), int64(1)
	s := Selection{Since: &since, Until: &until}
	if s.Check() == nil || s.Apply(islets()) == nil {
		t.Error("nothing is said of times that go backwards")
	}
}
