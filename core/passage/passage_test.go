package passage

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/pace"
)

var (
	home  = geodesy.NewPlane(-47.6, 11.3)
	today = time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)
)

func at(x, y float64) nav.Point {
	lat, lon := home.LatLon(x, y)
	return nav.At(lat, lon)
}

func wpt(name string, p nav.Point) nav.Waypoint {
	return nav.Waypoint{Item: nav.Item{Name: name}, Point: p}
}

func route(points ...nav.Point) *nav.Route {
	r := &nav.Route{Item: nav.Item{Name: "R"}}
	for i, p := range points {
		r.Points = append(r.Points, wpt(string(rune('A'+i)), p))
	}
	return r
}

func square(name string, x, y, half float64, fields ...nav.Field) nav.Area {
	return nav.Area{Item: nav.Item{Name: name, Fields: fields}, Outline: []nav.Point{at(x-half, y-half),
		at(x+half, y-half), at(x+half, y+half), at(x-half, y+half)}}
}

func keepOut(t *testing.T, text string) []choose.Choice {
	t.Helper()
	c, err := choose.Parse(text)
	if err != nil {
		t.Fatal(err)
	}
	return []choose.Choice{c}
}

// Distances and courses are those of GeographicLib 2.1 (its commands for geodesics and rhumb lines), the declination
// that of its command for magnetic fields with the coefficients of the model.
func TestTable(t *testing.T) {
	r := route(nav.At(-47.6, 11.3), nav.At(-47.5, 11.5))
	l := (&Step{On: today}).Plan(r).Legs[0]
	if math.Abs(l.Distance-18714.9138575) > 1e-4 || math.Abs(l.Course-53.626765339031) > 1e-6 {
		t.Errorf("the shortest line: %.5f m on %.7f", l.Distance, l.Course)
	}
	if math.Abs(l.Declination+27.9167) > 0.005 || math.Abs(turn(l.Magnetic+l.Declination)-l.Course) > 1e-9 {
		t.Errorf("declination %.3f, magnetic %.3f", l.Declination, l.Magnetic)
	}
	l = (&Step{On: today, Rhumb: true}).Plan(r).Legs[0]
	if math.Abs(l.Distance-18714.919031) > 1e-4 || math.Abs(l.Course-53.55293558851) > 1e-6 {
		t.Errorf("the rhumb line: %.5f m on %.7f", l.Distance, l.Course)
	}
	by := 10.0
	if l = (&Step{On: today, Declination: &by}).Plan(r).Legs[0]; math.Abs(turn(l.Course-10)-l.Magnetic) > 1e-9 {
		t.Errorf("with 10° E it is %v", l.Magnetic)
	}
	late := (&Step{Depart: time.Date(2031, 1, 1, 0, 0, 0, 0, time.UTC)}).Plan(r)
	if len(late.Findings) != 1 || late.Findings[0].Code != "declination" || !math.IsNaN(late.Legs[0].Magnetic) {
		t.Errorf("a date outside of the model: %+v", late.Findings)
	}
	if got := (&Step{On: today}).Plan(&nav.Route{}); len(got.Legs) != 0 {
		t.Error("an empty route has legs")
	}
}

func TestTimes(t *testing.T) {
	r := route(at(0, 0), at(0, 3600), at(0, 7200))
	r.Points[0].SetHeight(10, 0, nav.MeanSeaLevel)
	r.Points[1].SetHeight(250, 0, nav.MeanSeaLevel)
	table := (&Step{On: today, Speed: 1, Depart: today, Pace: pace.Rule{Level: true}}).Plan(r)
	l := table.Legs[1]
	if d := time.Unix(0, l.Arrive).Sub(today); (d - 2*time.Hour).Abs() > 2*time.Second {
		t.Errorf("it arrives after %v", d)
	}
	if table.Legs[0].Climb != 240 || !math.IsNaN(l.Climb) {
		t.Errorf("climbs %v and %v", table.Legs[0].Climb, l.Climb)
	}
}

// The figures are worked out by the sine rule of the triangle of velocities.
func TestSteer(t *testing.T) {
	for _, c := range []struct {
		course, speed   float64
		to, drift       float64
		heading, ground float64
	}{
		{0, 100, 180, 20, 0, 80}, {0, 100, 0, 20, 0, 120},
		{0, 100, 90, 60, 360 - 36.8698976, 80},  // 3, 4, 5
		{90, 100, 180, 60, 90 - 36.8698976, 80}, // the wind from the north pushes south: steer north of east
		{45, 100, 225, 30, 45, 70},
	} {
		h, g, ok := steer(c.course, c.speed, []Drift{{To: c.to, Speed: c.drift}})
		if !ok || math.Abs(math.Remainder(h-c.heading, 360)) > 1e-6 || math.Abs(g-c.ground) > 1e-9 {
			t.Errorf("%+v: heading %v at %v", c, h, g)
		}
	}
	if _, _, ok := steer(0, 10, []Drift{{To: 90, Speed: 11}}); ok {
		t.Error("a course is held against a stronger drift")
	}
	r := route(at(0, 0), at(0, 1000))
	table := (&Step{On: today, Speed: 1, Drifts: []Drift{{To: 180, Speed: 2}}}).Plan(r)
	if len(table.Findings) != 1 || table.Findings[0].Code != "drift" || table.Legs[0].Time != 0 {
		t.Errorf("%+v", table.Findings)
	}
}

// Hazards are put beside a leg by the direct problem, so that it is known how far off they are and where.
func TestHazardsAbeam(t *testing.T) {
	for _, length := range []float64{2000, 80000, 2e6} {
		for _, off := range []float64{37, 900, 12000} {
			for side, turned := range map[string]float64{"right": 90, "left": -90} {
				r := route(nav.At(-47.6, 11.3), nav.Point{})
				lat, lon, _ := geodesy.Direct(-47.6, 11.3, 70, length)
				r.Points[1].Point = nav.At(lat, lon)
				la, lo, course := geodesy.Direct(-47.6, 11.3, 70, length*0.6)
				la, lo, _ = geodesy.Direct(la, lo, course+turned, off)
				d := NewDangers(&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock", nav.At(la, lo)), wpt("Far", nav.At(-30, 20))}},
					nil, nil)
				near := (&Step{On: today, Dangers: d}).Plan(r).Legs[0].Nearest
				if near == nil || near.Name != "Rock" || math.Abs(near.Distance-off) > 0.02+off*2e-5 || near.Side != side ||
					math.Abs(near.Along-length*0.6) > 1+off/200 {
					t.Errorf("%v m long, %v m %s: %+v", length, off, side, near)
				}
			}
		}
	}
}

func TestClearance(t *testing.T) {
	r := route(at(0, 0), at(5000, 0))
	hazards := &nav.Dataset{
		Waypoints: []nav.Waypoint{wpt("Near", at(1000, 58)), wpt("Clear", at(2000, -62)), wpt("A", at(0, 0.2))},
		Tracks: []nav.Track{{Item: nav.Item{Name: "Cable"},
			Segments: []nav.Segment{{Points: []nav.Point{at(3000, -500), at(3000, 500)}}}}},
		Areas: []nav.Area{square("Shoal", 4000, 0, 100)},
	}
	d := NewDangers(hazards, nil, nil)
	if n := d.LeaveOut([]nav.Route{*r}); n != 1 {
		t.Errorf("%d waypoints are the route's own", n)
	}
	table := (&Step{On: today, Dangers: d, Clear: 60}).Plan(r)
	var names []string
	for _, f := range table.Findings {
		names = append(names, string(f.Code)+" "+f.Name)
	}
	if got := strings.Join(names, ", "); got != "clearance Near, clearance Cable, crossing Shoal" {
		t.Errorf("findings: %s", got)
	}
	if f := table.Findings[len(table.Findings)-1]; math.Abs(*f.Enter-3900) > 1 || math.Abs(*f.Leave-4100) > 1 {
		t.Errorf("crossed from %v to %v", *f.Enter, *f.Leave)
	}
	if n := table.Legs[0].Nearest; n.Name != "Cable" || n.Distance != 0 {
		t.Errorf("the nearest is %+v", n)
	}
}

func TestClosures(t *testing.T) {
	limits := func(pairs ...string) (f []nav.Field) {
		for i := 0; i < len(pairs); i += 2 {
			f = append(f, nav.Field{Key: pairs[i], Value: pairs[i+1]})
		}
		return
	}
	plan := func(a nav.Area, height float64, clear float64) *Table {
		r := route(at(0, 0), at(5000, 0))
		for i := range r.Points {
			if height > 0 {
				r.Points[i].SetHeight(height, 0, nav.MeanSeaLevel)
			}
		}
		s := &Step{On: today, Speed: 1, Depart: today, Clear: clear, KeepOut: keepOut(t, "areas:Nest*")}
		s.Dangers = NewDangers(&nav.Dataset{Areas: []nav.Area{a}}, nil, s.KeepOut)
		return s.Plan(r)
	}
	hole := square("Nesting", 2500, 0, 1000)
	hole.Holes = [][]nav.Point{square("", 2500, 0, 300).Outline}
	if f := plan(hole, 0, 0).Findings; len(f) != 2 || math.Abs(*f[0].Leave-2200) > 1 || math.Abs(*f[1].Enter-2800) > 1 {
		t.Errorf("through a hole: %+v", f)
	}
	for name, c := range map[string]struct {
		fields         []nav.Field
		height         float64
		findings, told int
	}{
		"plain":               {nil, 400, 1, 0},
		"above the ceiling":   {limits("floor", "GND", "ceiling", "1000ft"), 400, 0, 1},
		"below the ceiling":   {limits("ceiling", "1500ft"), 400, 1, 0},
		"below the floor":     {limits("floor", "450m AMSL"), 400, 0, 1},
		"a level of pressure": {limits("ceiling", "FL010"), 400, 1, 0},
		"height unknown":      {limits("ceiling", "10m"), 0, 1, 0},
		"over by then":        {limits("valid until", "2026-03-14T06:01:00Z"), 400, 0, 1},
		"not yet":             {limits("valid from", "2026-03-15"), 400, 0, 1},
		"at that time":        {limits("valid from", "2026-03-14", "valid until", "2026-03-14"), 400, 1, 0},
	} {
		table := plan(square("Nesting", 2500, 0, 300, c.fields...), c.height, 0)
		if len(table.Findings) != c.findings || len(table.Notes) != c.told {
			t.Errorf("%s: %d findings and %d told: %+v", name, len(table.Findings), len(table.Notes), table.Findings)
		}
	}
	if f := plan(square("Nesting", 2500, 500, 450), 0, 60).Findings; len(f) != 1 || f[0].Code != "clearance" ||
		math.Abs(f[0].Near.Distance-50) > 1 {
		t.Errorf("beside a closure: %+v", f)
	}
	// An area far larger than the leg, which has no edge near by.
	if f := plan(square("Nesting", 2500, 0, 90000), 0, 0).Findings; len(f) != 1 {
		t.Errorf("inside: %+v", f)
	}
	d := NewDangers(&nav.Dataset{Areas: []nav.Area{square("Nesting", 0, 0, 10, limits("ceiling", "high")...)}}, nil, nil)
	if len(d.Faults) != 1 || !strings.Contains(d.Faults[0], "high") {
		t.Errorf("a ceiling that can't be read: %v", d.Faults)
	}
}

func length(points []nav.Waypoint) (sum float64) {
	for i := 1; i < len(points); i++ {
		sum += geodesy.Distance(points[i-1].Lat, points[i-1].Lon, points[i].Lat, points[i].Lon)
	}
	return
}

// The shortest way around one rock is two tangents and an arc; around a square closure it goes by two corners.
func TestDetourIsNearTheShortest(t *testing.T) {
	for _, c := range []struct{ half, clear float64 }{{1000, 60}, {1000, 500}, {400, 390}, {20000, 1000}} {
		r := route(at(-c.half, 0), at(c.half, 0))
		s := &Step{On: today, Clear: c.clear,
			Dangers: NewDangers(&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock", at(0, 1))}}, nil, nil)}
		way, err := s.Detour(t.Context(), r)
		if err != nil {
			t.Fatal(err)
		}
		optimum := 2*math.Sqrt(c.half*c.half-c.clear*c.clear) + c.clear*(math.Pi-2*math.Acos(c.clear/c.half))
		if ratio := length(way.Route.Points) / optimum; ratio > 1.01 || ratio < 0.999 {
			t.Errorf("%+v: %.4f of the shortest", c, ratio)
		}
		if f := s.Plan(&way.Route).Findings; len(f) > 0 {
			t.Errorf("%+v: the detour has findings: %+v", c, f)
		}
	}
	r := route(at(-1000, 0), at(1000, 0))
	s := &Step{On: today, Clear: 10, KeepOut: keepOut(t, "areas"),
		Dangers: NewDangers(&nav.Dataset{Areas: []nav.Area{square("Nesting", 0, 100, 300)}}, nil, keepOut(t, "areas"))}
	way, err := s.Detour(t.Context(), r)
	if err != nil {
		t.Fatal(err)
	}
	leg := math.Hypot(700, 210) // to a corner, with the clearance below it; the arcs are within the 1 %
	if ratio := length(way.Route.Points) / (2*leg + 600); ratio > 1.01 || ratio < 0.99 {
		t.Errorf("around the closure: %.4f", ratio)
	}
	if f := s.Plan(&way.Route).Findings; len(f) > 0 {
		t.Errorf("the detour has findings: %+v", f)
	}
}

// Among many rocks the way keeps clear of all, and no wall of rocks is gone through.
func TestDetourAmongMany(t *testing.T) {
	random := rand.New(rand.NewPCG(7, 7))
	hazards := &nav.Dataset{}
	for i := range 500 {
		hazards.Waypoints = append(hazards.Waypoints,
			wpt(fmt.Sprint("Rock ", i), at(random.Float64()*20000, random.Float64()*6000-3000)))
	}
	r := route(at(-200, 0), at(5000, 700), at(10000, -700), at(20200, 0))
	s := &Step{On: today, Clear: 120, Dangers: NewDangers(hazards, nil, nil)}
	way, err := s.Detour(t.Context(), r)
	if err != nil {
		t.Fatal(err)
	}
	if f := s.Plan(&way.Route).Findings; len(f) > 0 {
		t.Errorf("%d findings: %+v", len(f), f[0])
	}
	if way.Added == 0 || way.After < way.Before || way.After > 1.3*way.Before {
		t.Errorf("%d points added, %.0f m become %.0f m", way.Added, way.Before, way.After)
	}
	names := []string{}
	for _, p := range way.Route.Points {
		if !strings.HasPrefix(p.Name, "Detour") {
			names = append(names, p.Name)
		}
	}
	if !slices.Equal(names, []string{"A", "B", "C", "D"}) {
		t.Errorf("the original points: %v", names)
	}
}

func TestDetourThatIsNone(t *testing.T) {
	ring := func(n int, radius float64) *nav.Dataset {
		d := &nav.Dataset{}
		for i := range n {
			sin, cos := math.Sincos(float64(i) * 2 * math.Pi / float64(n))
			d.Waypoints = append(d.Waypoints, wpt(fmt.Sprint("Rock ", i), at(radius*cos, radius*sin)))
		}
		return d
	}
	r := route(at(0, 0), at(5000, 0))
	for name, c := range map[string]struct {
		hazards *nav.Dataset
		says    string
	}{
		"ring":  {ring(40, 500), "it is blocked by"},
		"start": {&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock", at(30, 0))}}, "begins 30 m from Rock"},
		"end":   {&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock", at(5000, 40))}}, "ends 40 m from Rock"},
	} {
		s := &Step{On: today, Clear: 60, Dangers: NewDangers(c.hazards, nil, nil)}
		if _, err := s.Detour(t.Context(), r); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	// A point between the ends is moved, by no more than it must be.
	three := route(at(0, 0), at(2500, 0), at(5000, 0))
	s := &Step{On: today, Clear: 60,
		Dangers: NewDangers(&nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock", at(2500, 20))}}, nil, nil)}
	way, err := s.Detour(t.Context(), three)
	if err != nil || len(way.Moved) != 1 || way.Moved[0].Name != "B" || math.Abs(way.Moved[0].Distance-40) > 1 {
		t.Errorf("%+v %v", way, err)
	}
	if f := s.Plan(&way.Route).Findings; len(f) > 0 {
		t.Errorf("findings: %+v", f)
	}
}

func BenchmarkFindings(b *testing.B) {
	random := rand.New(rand.NewPCG(7, 7))
	hazards := &nav.Dataset{}
	for range 500 {
		hazards.Waypoints = append(hazards.Waypoints, wpt("Rock", at(random.Float64()*50000, random.Float64()*50000)))
	}
	var points []nav.Point
	for range 51 {
		points = append(points, at(random.Float64()*50000, random.Float64()*50000))
	}
	s := &Step{On: today, Clear: 60, Dangers: NewDangers(hazards, nil, nil)}
	r := route(points...)
	b.Run("500 hazards, 50 legs", func(b *testing.B) {
		for b.Loop() {
			s.Plan(r)
		}
	})
	b.Run("detour", func(b *testing.B) {
		for b.Loop() {
			if _, err := s.Detour(b.Context(), r); err != nil {
				b.Fatal(err)
			}
		}
	})
}

// The heights of the ends of a leg that are above different things are no climb.
func TestNoClimbOfDatums(t *testing.T) {
	r := route(at(0, 0), at(5000, 0), at(9000, 0))
	r.Points[0].SetHeight(100, 1, nav.MeanSeaLevel)
	r.Points[1].SetHeight(150, 1, nav.MeanSeaLevel)
	r.Points[2].SetHeight(900, 1, nav.PressureLevel)
	legs := (&Step{On: today}).Plan(r).Legs
	if legs[0].Climb != 50 || !math.IsNaN(legs[1].Climb) {
		t.Errorf("%v and %v", legs[0].Climb, legs[1].Climb)
	}
}
