package nav

import "testing"

// An area chooses what lies in it and not in its holes, across the antimeridian as well; routes and areas that it
// touches stay whole.
func TestChoosingWithinAreas(t *testing.T) {
	ring := func(lat, lon, half float64) []Point {
		return []Point{At(lat-half, WrapLon(lon-half)), At(lat-half, WrapLon(lon+half)), At(lat+half, WrapLon(lon+half)),
			At(lat+half, WrapLon(lon-half))}
	}
	z := &Zone{Pattern: "Nest*"}
	if n := z.Take([]Area{{Item: Item{Name: "Nesting"}, Outline: ring(-17, 180, 1), Holes: [][]Point{ring(-17, 180, 0.2)}},
		{Item: Item{Name: "Other"}, Outline: ring(0, 0, 50)}}); n != 1 {
		t.Fatalf("%d areas", n)
	}
	point := func(lat, lon float64) Waypoint { return Waypoint{Point: At(lat, lon)} }
	d := &Dataset{
		Waypoints: []Waypoint{point(-17.5, 179.5), point(-17.5, -179.5), point(-17, 180), point(-17, 178.5), point(0, 0)},
		Routes: []Route{
			{Points: []Waypoint{point(-17, 178), point(-17, -178)}},
			{Points: []Waypoint{point(-19, 178), point(-19, -178)}},
		},
		Areas: []Area{
			{Outline: ring(-17, 180, 5)},
			{Outline: ring(-17, 180, 0.1)},
			{Outline: ring(-18, 179, 0.1)},
			{Outline: ring(10, 10, 1)},
		},
		Tracks: []Track{
			{Segments: []Segment{{Points: []Point{At(-17.5, 178.5), At(-17.5, 179.5), At(-17.5, -179.5), At(-17.5, -178.5)}}}},
		},
	}
	s := &Selection{Within: z}
	if err := s.Apply(d); err != nil {
		t.Fatal(err)
	}
	if len(d.Waypoints) != 2 || len(d.Routes) != 1 || len(d.Areas) != 2 || len(d.Tracks) != 1 || d.Tracks[0].Len() != 4 {
		t.Errorf("%d waypoints, %d routes, %d areas, tracks %v", len(d.Waypoints), len(d.Routes), len(d.Areas), d.Tracks)
	}
	for text, want := range map[string]Zone{"zones.kml": {Path: "zones.kml"},
		"zones.kml:Nest*": {Path: "zones.kml", Pattern: "Nest*"},
		`C:\zones.kml`:    {Path: `C:\zones.kml`}, "a/b:c/zones.kml": {Path: "a/b:c/zones.kml"}} {
		if got := ParseZoneOf(text); got.Path != want.Path || got.Pattern != want.Pattern {
			t.Errorf("%s: %+v", text, got)
		}
	}
}
