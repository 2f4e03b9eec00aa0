package lay

import (
	"context"
	"math"
	"testing"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/region"
)

func datum(t *testing.T, s *Step) *nav.Dataset {
	t.Helper()
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	d, err := s.Lay(context.Background(), &nav.Dataset{})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// The datum lies where current and leeway take it; its error and the radius of a first search are those of the manual's
// formula, worked by hand: 6 h of 1 kn east and 0.5 kn north are 6.708 nm, three tenths of which are 2.012 nm.
func TestDriftDatum(t *testing.T) {
	from := nav.At(-47.57, 11.3)
	start := time.Date(2026, 3, 14, 5, 0, 0, 0, time.UTC)
	const knot, mile = 1852.0 / 3600, 1852.0
	s := &Step{What: DriftDatum, Datum: &from, Drifting: Drifting{Since: start, Until: start.Add(6 * time.Hour),
		Current: measure.Drift{To: 90, Speed: knot}, Leeway: measure.Drift{To: 0, Speed: 0.5 * knot},
		PositionError: 1 * mile, CraftError: 0.1 * mile}}
	d := datum(t, s)
	at := d.Waypoints[1]
	drift, course, _ := geodesy.Inverse(from.Lat, from.Lon, at.Lat, at.Lon)
	if math.Abs(drift/mile-6.7082) > 0.001 || math.Abs(course-63.435) > 0.01 || !at.Time().Equal(start.Add(6*time.Hour)) {
		t.Errorf("%.4f nm towards %.3f°, %v", drift/mile, course, at.Time())
	}
	want := 1.1 * math.Sqrt(1+0.01+math.Pow(0.3*6.7082, 2))
	for _, p := range d.Areas[0].Outline {
		if r := geodesy.Distance(at.Lat, at.Lon, p.Lat, p.Lon) / mile; math.Abs(r-want) > 0.001 {
			t.Fatalf("a radius of %.4f nm, want %.4f", r, want)
		}
	}

	s.Drifting.Divergence = 30
	two := datum(t, s)
	if len(two.Waypoints) != 3 || len(two.Areas) != 3 {
		t.Fatalf("%d waypoints and %d areas", len(two.Waypoints), len(two.Areas))
	}
	box := region.New(two.Areas[2:], func(*nav.Area) bool { return true })
	outside := 0
	for _, circle := range two.Areas[:2] {
		for _, p := range circle.Outline {
			if !box.Holds(0, p.Lat, p.Lon) {
				outside++
			}
		}
	}
	if outside > 8 { // the few that touch it
		t.Errorf("%d corners of the circles lie outside of the box", outside)
	}
}

func TestDriftDatumNeeds(t *testing.T) {
	at := time.Date(2026, 3, 14, 5, 0, 0, 0, time.UTC)
	for _, d := range []Drifting{{}, {Since: at}, {Since: at, Until: at, Current: measure.Drift{Speed: 1}},
		{Since: at, Until: at.Add(time.Hour)}} {
		if err := (&Step{What: DriftDatum, Drifting: d}).Check(); err == nil {
			t.Errorf("%+v is taken", d)
		}
	}
}
