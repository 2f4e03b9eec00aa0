package passage

import (
	"math"
	"strings"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// A closure may stand in the data themselves, and be drawn as a closed track.
func TestClosuresOfTheData(t *testing.T) {
	ring := square("Nesting", 2500, 0, 300).Outline
	closed := nav.Track{Item: nav.Item{Name: "Nesting drawn"},
		Segments: []nav.Segment{{Points: append(append([]nav.Point{}, ring...), ring[0])}}}
	open := nav.Track{Item: nav.Item{Name: "Nesting open"}, Segments: []nav.Segment{{Points: ring}}}
	data := &nav.Dataset{Routes: []nav.Route{*route(at(0, 0), at(5000, 0))}, Tracks: []nav.Track{closed, open},
		Areas: []nav.Area{square("Elsewhere", 0, 9000, 10)}}
	choice := keepOut(t, "all:Nesting*")
	d := NewDangers(nil, data, choice)
	if _, closures := d.Counts(); closures != 1 || len(d.List) != 1 {
		t.Fatalf("%+v", d.List)
	}
	table := (&Step{On: today, KeepOut: choice, Dangers: d}).Plan(&data.Routes[0])
	if len(table.Findings) != 1 || table.Findings[0].Code != "closure" {
		t.Errorf("%+v", table.Findings)
	}
}

// Along a line of constant course the hazards are measured as well, and are elsewhere than along the shortest line.
func TestHazardsOfRhumbLines(t *testing.T) {
	r := route(nav.At(-47.6, 11.3), nav.At(-47.6, 21.3))
	lat, lon, _ := geodesy.RhumbDirect(-47.6, 11.3, 90, 300e3)
	rock := NewDangers(&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock", nav.At(lat+0.001, lon))}}, nil, nil)
	rhumb := (&Step{On: today, Rhumb: true, Dangers: rock}).Plan(r).Legs[0].Nearest
	great := (&Step{On: today, Dangers: rock}).Plan(r).Legs[0].Nearest
	if math.Abs(rhumb.Distance-111.2) > 1 || math.Abs(rhumb.Along-300e3) > 50 || rhumb.Side != "left" ||
		great.Distance < 10e3 {
		t.Errorf("%+v and %+v", rhumb, great)
	}
}

func TestAcrossTheAntimeridian(t *testing.T) {
	r := route(nav.At(-47.6, 179.95), nav.At(-47.6, -179.95))
	d := NewDangers(&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock", nav.At(-47.6005, -179.9999))}}, nil, nil)
	s := &Step{On: today, Clear: 300, Dangers: d}
	table := s.Plan(r)
	if len(table.Findings) != 1 || math.Abs(table.Findings[0].Near.Distance-54) > 2 || table.Legs[0].Distance > 8000 {
		t.Errorf("%+v", table.Findings)
	}
	way, err := s.Detour(r)
	if err != nil || len(s.Plan(&way.Route).Findings) != 0 || way.After > way.Before*1.02 {
		t.Errorf("%+v %v", way, err)
	}
}

// A wall with one gap is gone through at the gap, and not where it is closed.
func TestDetourThroughAGap(t *testing.T) {
	hazards := &nav.Dataset{Tracks: []nav.Track{
		{Item: nav.Item{Name: "Reef south"}, Segments: []nav.Segment{{Points: []nav.Point{at(2500, -9000), at(2500, 400)}}}},
		{Item: nav.Item{Name: "Reef north"}, Segments: []nav.Segment{{Points: []nav.Point{at(2500, 700), at(2500, 9000)}}}},
	}}
	r := route(at(0, 0), at(5000, 0))
	s := &Step{On: today, Clear: 100, Dangers: NewDangers(hazards, nil, nil)}
	way, err := s.Detour(r)
	if err != nil {
		t.Fatal(err)
	}
	if f := s.Plan(&way.Route).Findings; len(f) > 0 {
		t.Errorf("%+v", f)
	}
	shortest := 2 * math.Hypot(2500, 500) // through the corner of the southern reef's surroundings
	if way.After > shortest*1.01 {
		t.Errorf("%.0f m, %.0f m would do", way.After, shortest)
	}
	s.Clear = 160 // the gap is too narrow, and the way around is long
	if way, err = s.Detour(r); err != nil || way.After < 18000 {
		t.Errorf("%+v %v", way, err)
	}
}

// The points of a detour have heights between those of its ends; a closure that the leg is above is no obstacle.
func TestDetourInTheAir(t *testing.T) {
	choice := keepOut(t, "areas")
	plan := func(height float64, ceiling string) (*Way, error) {
		r := route(at(0, 0), at(5000, 0))
		for i := range r.Points {
			r.Points[i].SetHeight(height+float64(100*i), nav.PrecisionOf(0), nav.MeanSeaLevel)
		}
		a := square("Nesting", 2500, 0, 300, nav.Field{Key: nav.FieldCeiling, Value: ceiling})
		s := &Step{On: today, Clear: 50, KeepOut: choice, Dangers: NewDangers(&nav.Dataset{Areas: []nav.Area{a}}, nil,
			choice)}
		return s.Detour(r)
	}
	below, err := plan(200, "500m")
	if err != nil || below.Added == 0 {
		t.Fatalf("%+v %v", below, err)
	}
	for _, p := range below.Route.Points {
		if !p.HasHeight() || p.Height() < 200 || p.Height() > 300 {
			t.Errorf("%s is at %v m", p.Name, p.Height())
		}
	}
	if above, err := plan(600, "500m"); err != nil || above.Added != 0 {
		t.Errorf("a way around what it is above: %+v %v", above, err)
	}
	if other, err := plan(600, "FL010"); err != nil || other.Added == 0 {
		t.Errorf("a flight level was compared with a height above the sea: %+v %v", other, err)
	}
}

func TestDetourOfNothing(t *testing.T) {
	s := &Step{On: today, Clear: 50,
		Dangers: NewDangers(&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Far", at(0, 9000))}}, nil, nil)}
	way, err := s.Detour(route(at(0, 0), at(5000, 0)))
	if err != nil || way.Added != 0 || len(way.Moved) != 0 || len(way.Route.Points) != 2 || way.Route.Name != "R" {
		t.Errorf("%+v %v", way, err)
	}
	if _, err := s.Detour(route(at(0, 0))); err == nil || !strings.Contains(err.Error(), "no legs") {
		t.Errorf("%v", err)
	}
	inside := keepOut(t, "areas")
	s = &Step{On: today, KeepOut: inside,
		Dangers: NewDangers(&nav.Dataset{Areas: []nav.Area{square("Nesting", 0, 0, 500)}}, nil, inside)}
	if _, err := s.Detour(route(at(0, 0), at(5000, 0))); err == nil ||
		!strings.Contains(err.Error(), "begins inside Nesting") {
		t.Errorf("%v", err)
	}
}

// Closures a corner of which is touched by the leg, and legs that run along an edge, make no sound and no nonsense.
func TestTouching(t *testing.T) {
	choice := keepOut(t, "areas")
	for name, r := range map[string]*nav.Route{
		"corner": route(at(-1000, 300), at(1000, 300)),
		"edge":   route(at(-1000, -300.4), at(1000, -300.4)),
		"ends":   route(at(-1000, 0), at(-300.2, 0)),
	} {
		d := NewDangers(&nav.Dataset{Areas: []nav.Area{square("Nesting", 0, 0, 300)}}, nil, choice)
		for _, f := range (&Step{On: today, KeepOut: choice, Dangers: d}).Plan(r).Findings {
			if f.Enter == nil || *f.Leave < *f.Enter || math.IsNaN(*f.Enter) {
				t.Errorf("%s: %+v", name, f)
			}
		}
	}
	same := route(at(0, 0), at(0, 0), at(100, 0))
	table := (&Step{On: today, Speed: 1,
		Dangers: NewDangers(&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock", at(0, 10))}}, nil, nil)}).Plan(same)
	if l := table.Legs[0]; l.Distance != 0 || l.Nearest == nil || math.Abs(l.Nearest.Distance-10) > 0.1 {
		t.Errorf("a leg of no length: %+v", l)
	}
}
