package passage

import (
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/nav"
	"gyrolith/core/sun"
)

// The declination of the sun by the example 25.a of Meeus, Astronomical Algorithms: from the pole its altitude is that.
func TestSun(t *testing.T) {
	at := time.Date(1992, 10, 12, 23, 59, 1, 0, time.UTC) // 1992 October 13, 0 h dynamical time
	if got := sun.Altitude(90, 0, at); math.Abs(got+7.785) > 0.01 {
		t.Errorf("the declination is %.4f°, want -7.785°", got)
	}
	// On the equator at an equinox the sun sets a little after six, local time, and the day is over half an hour later.
	noon := time.Date(2026, 3, 20, 22, 0, 0, 0, time.UTC)
	light := darkness(0, 0, noon)
	if light == nil || light.Sunset.Hour() != 18 || light.Sunset.Minute() < 8 || light.Sunset.Minute() > 13 ||
		light.Dark.Sub(light.Sunset) < 19*time.Minute || light.Dark.Sub(light.Sunset) > 23*time.Minute {
		t.Errorf("%+v", light)
	}
	if darkness(0, 0, time.Date(2026, 3, 20, 12, 0, 0, 0, time.UTC)) != nil {
		t.Error("noon is dark")
	}
	// In the polar night there was no sunset in the day before.
	if light := darkness(80, 0, time.Date(2026, 12, 20, 12, 0, 0, 0, time.UTC)); light == nil || !light.Sunset.IsZero() {
		t.Errorf("the polar night: %+v", light)
	}
}

func TestDeviation(t *testing.T) {
	path := filepath.Join(t.TempDir(), "card.csv")
	read := func(text string) (Deviation, error) {
		if err := os.WriteFile(path, []byte(text), 0o666); err != nil {
			t.Fatal(err)
		}
		return ReadDeviation(path)
	}
	d, err := read("heading,deviation\n0,4E\n90,-2\n180,2W\n270,0\n")
	if err != nil {
		t.Fatal(err)
	}
	for magnetic, want := range map[float64]float64{0: 356, 90: 92, 45: 44, 225: 226, 315: 313, 270: 270} {
		if got := d.Compass(magnetic); math.Abs(got-want) > 1e-9 {
			t.Errorf("magnetic %g is %g by the compass, want %g", magnetic, got, want)
		}
	}
	for _, bad := range []string{"", "0,1\n", "0,1\n90\n", "0,1\nx,2\n", "0,1\n400,2\n", "0,1\n90,200\n"} {
		if _, err := read(bad); err == nil {
			t.Errorf("%q was read", bad)
		}
	}
}

// The heading by the magnetic compass allows for drift and declination, and the fuel for its reserve.
func TestLogOfALeg(t *testing.T) {
	declination := -20.0
	r := &nav.Route{
		Points: []nav.Waypoint{{Point: nav.At(-47, 11)}, {Point: nav.At(-46.9, 11)}, {Point: nav.At(-46.8, 11)}},
	}
	s := &Step{Speed: 10, Drifts: []Drift{{To: 90, Speed: 5}}, Declination: &declination, Burn: Fuel{36, "l"},
		Aboard: Fuel{60, "l"}, Reserve: Fuel{10, "l"}}
	table := s.Plan(r)
	l := &table.Legs[0]
	// A drift of half the speed from abeam asks for 30° against it: 330° true, 350° magnetic.
	if math.Abs(l.Heading-330) > 0.01 || math.Abs(l.Steer-350) > 0.01 || math.Abs(l.Magnetic-20) > 0.01 {
		t.Errorf("heading %.2f true, %.2f magnetic; course %.2f magnetic", l.Heading, l.Steer, l.Magnetic)
	}
	// 11,117 m a leg at 8.66 m/s: 1,284 s, 12.84 l.
	if math.Abs(l.FuelUsed-12.84) > 0.05 || math.Abs(l.FuelLeft-47.16) > 0.05 || len(table.Findings) != 0 {
		t.Errorf("used %.2f, left %.2f: %+v", l.FuelUsed, l.FuelLeft, table.Findings)
	}
	s.Aboard.Amount = 30
	if f := s.Plan(r).Findings; len(f) != 1 || f[0].Code != OutOfFuel || f[0].Leg != 2 {
		t.Errorf("%+v", f)
	}
	s.Aboard.Amount = 20
	if f := s.Plan(r).Findings; len(f) != 1 || f[0].Leg != 1 {
		t.Errorf("%+v", f)
	}
}

// An area of the hazards is a hazard as a rock is: one nearer than the clearance is a finding, one that is crossed is a
// finding without a clearance too, and a detour leads around it. What of its limits can't be compared is said.
func TestHazardAreas(t *testing.T) {
	area := nav.Area{Item: nav.Item{Name: "Shoal", Fields: []nav.Field{{Key: "Upper_Limit", Value: "300ft"}}},
		Outline: []nav.Point{nav.At(-47, 11.001), nav.At(-47, 11.01), nav.At(-47.01, 11.01), nav.At(-47.01, 11.001)}}
	hazards := &nav.Dataset{Areas: []nav.Area{area}}
	past := &nav.Route{Points: []nav.Waypoint{{Point: nav.At(-47.02, 11)}, {Point: nav.At(-46.98, 11)}}}
	across := &nav.Route{Points: []nav.Waypoint{{Point: nav.At(-47.02, 11.005)}, {Point: nav.At(-46.98, 11.005)}}}
	s := &Step{Clear: 150, Declination: new(float64), Dangers: NewDangers(hazards, nil, nil)}
	table := s.Plan(past)
	if f := table.Findings; len(f) != 1 || f[0].Code != Clearance || math.Abs(f[0].Near.Distance-76) > 1 ||
		!strings.Contains(f[0].Why, "ceiling of 300ft not considered") || table.Legs[0].Nearest == nil {
		t.Errorf("%+v %+v", f, table.Legs[0].Nearest)
	}
	s.Clear = 50
	if table := s.Plan(past); len(table.Findings) != 0 || len(table.Notes) != 0 {
		t.Errorf("76 m off, with 50 m asked: %+v", table.Findings)
	}
	for _, clear := range []float64{0, 150} {
		s.Clear = clear
		table := s.Plan(across)
		if f := table.Findings; len(f) != 1 || f[0].Code != Crossing || table.Legs[0].Nearest == nil ||
			table.Legs[0].Nearest.Distance != 0 {
			t.Errorf("across, clearance %v: %+v", clear, f)
		}
		way, err := s.Detour(t.Context(), across)
		if err != nil {
			t.Fatal(err)
		}
		if f := s.Plan(&way.Route).Findings; len(f) != 0 || len(way.Route.Points) < 4 {
			t.Errorf("the detour: %+v, %d points", f, len(way.Route.Points))
		}
	}
	inside := &nav.Route{Points: []nav.Waypoint{{Point: nav.At(-47.02, 11.005)}, {Point: nav.At(-47.005, 11.005)}}}
	if f := s.Plan(inside).Findings; len(f) != 1 || f[0].Code != Crossing {
		t.Errorf("a route that ends inside: %+v", f)
	}
	// Above the ceiling it is no hazard, and hides nothing that is behind it.
	high := *across
	high.Points = slices.Clone(high.Points)
	for i := range high.Points {
		high.Points[i].SetHeight(200, 0, nav.MeanSeaLevel)
	}
	hazards.Waypoints = []nav.Waypoint{wpt("Rock", nav.At(-47.015, 11.02))}
	s.Dangers = NewDangers(hazards, nil, nil)
	table = s.Plan(&high)
	if n := table.Legs[0].Nearest; len(table.Findings) != 0 || len(table.Notes) != 1 || n == nil || n.Name != "Rock" {
		t.Errorf("above the ceiling: %+v %+v %+v", table.Findings, table.Notes, n)
	}
}

// An arrival after sunset is a note, and one after civil dusk a finding: on the equator at the equinox the sun sets at
// about 18:10, and dusk is some twenty minutes later.
func TestArrivalAfterSunset(t *testing.T) {
	a, b := nav.Waypoint{Point: nav.At(0, 0)}, nav.Waypoint{Point: nav.At(0, 0.01)}
	r := &nav.Route{Points: []nav.Waypoint{a, b}}
	for clock, want := range map[string][2]int{"17:40": {0, 0}, "18:00": {1, 0}, "18:30": {0, 1}, "05:30": {1, 0},
		"02:00": {0, 1}} {
		at, _ := time.Parse("2006-01-02 15:04", "2026-03-20 "+clock)
		table := (&Step{Speed: 1, Depart: at}).Plan(r) // eighteen and a half minutes
		notes, findings := 0, 0
		for _, f := range table.Notes {
			if f.Code == InTwilight {
				notes++
			}
		}
		for _, f := range table.Findings {
			if f.Code == InTheDark {
				findings++
			}
		}
		if notes != want[0] || findings != want[1] {
			t.Errorf("leaving at %s: %d notes, %d findings; want %v", clock, notes, findings, want)
		}
	}
}

// Stays burn as cruising does, which is said, unless something else is.
func TestFuelOfStays(t *testing.T) {
	r := &nav.Route{Points: []nav.Waypoint{{Point: nav.At(0, 0)}, {Point: nav.At(0, 0.1)}, {Point: nav.At(0, 0.2)}}}
	s := &Step{Speed: 5, Waits: []Wait{{"2", 2 * time.Hour}}, Burn: Fuel{10, "l"}}
	cruising := s.Plan(r)
	if len(cruising.Notes) != 1 || cruising.Notes[0].Code != BurnsInStay {
		t.Errorf("not said: %+v", cruising.Notes)
	}
	s.BurnStay = Fuel{0, "l"}
	anchored := s.Plan(r)
	if len(anchored.Notes) != 0 || math.Abs(cruising.Legs[1].FuelUsed-anchored.Legs[1].FuelUsed-20) > 1e-9 {
		t.Errorf("%v l with the engine on, %v l at anchor", cruising.Legs[1].FuelUsed, anchored.Legs[1].FuelUsed)
	}
}
