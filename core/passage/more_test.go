package passage

import (
	"math"
	"strings"
	"testing"

	"gyrolith/core/decimal"
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
	way, err := s.Detour(t.Context(), r)
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
	way, err := s.Detour(t.Context(), r)
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
	if way, err = s.Detour(t.Context(), r); err != nil || way.After < 18000 {
		t.Errorf("%+v %v", way, err)
	}
}

// The points of a detour have heights between those of its ends; a closure that the leg is above is no obstacle.
func TestDetourInTheAir(t *testing.T) {
	choice := keepOut(t, "areas")
	plan := func(height float64, ceiling string) (*Way, error) {
		r := route(at(0, 0), at(5000, 0))
		for i := range r.Points {
			r.Points[i].SetHeight(height+float64(100*i), decimal.PrecisionOf(0), nav.MeanSeaLevel)
		}
		a := square("Nesting", 2500, 0, 300, nav.Field{Key: nav.FieldCeiling, Value: ceiling})
		s := &Step{On: today, Clear: 50, KeepOut: choice, Dangers: NewDangers(&nav.Dataset{Areas: []nav.Area{a}}, nil,
			choice)}
		return s.Detour(t.Context(), r)
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
	way, err := s.Detour(t.Context(), route(at(0, 0), at(5000, 0)))
	if err != nil || way.Added != 0 || len(way.Moved) != 0 || len(way.Route.Points) != 2 || way.Route.Name != "R" {
		t.Errorf("%+v %v", way, err)
	}
	if _, err := s.Detour(t.Context(), route(at(0, 0))); err == nil || !strings.Contains(err.Error(), "no legs") {
		t.Errorf("%v", err)
	}
	inside := keepOut(t, "areas")
	s = &Step{On: today, KeepOut: inside,
		Dangers: NewDangers(&nav.Dataset{Areas: []nav.Area{square("Nesting", 0, 0, 500)}}, nil, inside)}
	if _, err := s.Detour(t.Context(), route(at(0, 0), at(5000, 0))); err == nil ||
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

// A plan says of each leg along which line it goes, or of all.
func TestLinesOfThePlan(t *testing.T) {
	a, b, c := nav.At(-47.6, 11.3), nav.At(-47.6, 15.3), nav.At(-47.6, 19.3)
	r := &nav.Route{Points: []nav.Waypoint{{Point: a}, {Point: b, Item: nav.Item{Fields: []nav.Field{{
		Key: nav.FieldLegGeometry, Value: "Loxodrome"}}}}, {Point: c}}}
	table := (&Step{On: today}).Plan(r)
	rhumb, course := geodesy.Rhumb(a.Lat, a.Lon, b.Lat, b.Lon)
	short, _, _ := geodesy.Inverse(b.Lat, b.Lon, c.Lat, c.Lon)
	if l := table.Legs; l[0].Distance != rhumb || l[0].Course != course || !l[0].Rhumb || l[1].Distance != short ||
		l[1].Rhumb {
		t.Errorf("%+v", l)
	}
	if len(table.Notes) != 1 || table.Notes[0].Code != ConstantCourse {
		t.Errorf("%+v", table.Notes)
	}
	r.Fields = []nav.Field{{Key: nav.FieldDefaultLegGeometry, Value: "Loxodrome"}}
	if l := (&Step{On: today}).Plan(r).Legs; !l[1].Rhumb {
		t.Error("the default of the route is not obeyed")
	}
}

// least is the least value of a function that has one valley, by golden sections.
func least(a, b float64, f func(float64) float64) float64 {
	const golden = 0.6180339887498949
	for b-a > 1e-11 {
		if c, d := b-golden*(b-a), a+golden*(b-a); f(c) < f(d) {
			b = d
		} else {
			a = c
		}
	}
	return min(f(a), f(b), f((a+b)/2))
}

// How near a leg comes to a hazard agrees with the ellipsoid to a centimetre, near a pole and along legs of thousands
// of kilometres too. The exact figure is the least of geodesic distances, found by trying closer and closer.
func TestClearanceIsExact(t *testing.T) {
	for _, c := range []struct {
		name     string
		a, b     [2]float64
		rhumb    bool
		from, to [2]float64 // of the hazard, straight in latitude and longitude
	}{
		{"a rock at 85° N", [2]float64{85, 10}, [2]float64{85.2, 14}, false,
			[2]float64{85.13, 12.2}, [2]float64{85.13, 12.2}},
		{"a long edge at 85° N", [2]float64{85, 10}, [2]float64{85, 14}, false,
			[2]float64{85.03, 11}, [2]float64{85.035, 13}},
		{"a rhumb line at 85° N", [2]float64{85, 10}, [2]float64{85.01, 14}, true,
			[2]float64{85.03, 12}, [2]float64{85.03, 12}},
		{"by the pole", [2]float64{89.9, 0}, [2]float64{89.95, 120}, false, [2]float64{89.95, 40}, [2]float64{89.951, 41}},
		{"across an ocean", [2]float64{-47.6, 11.3}, [2]float64{20, 120}, false,
			[2]float64{-40.02, 50}, [2]float64{-40, 50.2}},
		{"home waters", [2]float64{-47.6, 11.3}, [2]float64{-47.5, 11.5}, true,
			[2]float64{-47.55, 11.41}, [2]float64{-47.56, 11.45}},
	} {
		r := &nav.Route{Points: []nav.Waypoint{{Point: nav.At(c.a[0], c.a[1])}, {Point: nav.At(c.b[0], c.b[1])}}}
		hazard := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "H"}, Segments: []nav.Segment{{Points: []nav.Point{
			nav.At(c.from[0], c.from[1]), nav.At(c.to[0], c.to[1])}}}}}}
		table := (&Step{On: today, Rhumb: c.rhumb, Dangers: NewDangers(hazard, nil, nil)}).Plan(r)
		leg := &table.Legs[0]
		at := func(s, u float64) float64 {
			lat, lon := leg.line.at(s * leg.Distance)
			return geodesy.Distance(lat, lon, c.from[0]+u*(c.to[0]-c.from[0]), c.from[1]+u*(c.to[1]-c.from[1]))
		}
		near := 0.0 // where it is least, roughly
		for i := range 3001 {
			if s := float64(i) / 3000; at(s, 0.5) < at(near, 0.5) {
				near = s
			}
		}
		best := least(max(near-0.3, 0), min(near+0.3, 1), func(s float64) float64 {
			return least(0, 1, func(u float64) float64 { return at(s, u) })
		})
		if got := leg.Nearest.Distance; math.Abs(got-best) > 0.01 {
			t.Errorf("%s: %.4f m, exactly %.4f", c.name, got, best)
		}
	}
}

// A way around the corners of a closure has no legs of centimetres, and keeps out of it.
func TestDetourWithoutShortLegs(t *testing.T) {
	choice := keepOut(t, "areas")
	a := square("Nesting", 2500, 0, 300)
	s := &Step{On: today, KeepOut: choice, Dangers: NewDangers(&nav.Dataset{Areas: []nav.Area{a}}, nil, choice)}
	for _, clear := range []float64{0, 20, 400} {
		s.Clear = clear
		way, err := s.Detour(t.Context(), route(at(0, 10), at(5000, -10)))
		if err != nil || way.Added == 0 {
			t.Fatalf("%+v %v", way, err)
		}
		table := s.Plan(&way.Route)
		if len(table.Findings) > 0 {
			t.Errorf("clearance of %v m: %+v", clear, table.Findings)
		}
		for i, l := range table.Legs {
			if l.Distance < shortLeg {
				t.Errorf("clearance of %v m: leg %d of %.2f m", clear, i+1, l.Distance)
			}
		}
	}
}
