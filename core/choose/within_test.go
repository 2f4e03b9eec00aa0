package choose

import (
	"math"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// An area chooses what lies in it and not in its holes, across the antimeridian as well; routes and areas that it
// touches stay whole.
func TestChoosingWithinAreas(t *testing.T) {
	ring := func(lat, lon, half float64) []nav.Point {
		return []nav.Point{
			nav.At(lat-half, nav.WrapLon(lon-half)),
			nav.At(lat-half, nav.WrapLon(lon+half)),
			nav.At(lat+half, nav.WrapLon(lon+half)),
			nav.At(lat+half, nav.WrapLon(lon-half)),
		}
	}
	z := &Zone{Pattern: "Nest*"}
	if n := z.Take([]nav.Area{{Item: nav.Item{Name: "Nesting"}, Outline: ring(-17, 180, 1),
		Holes: [][]nav.Point{ring(-17, 180, 0.2)}},
		{Item: nav.Item{Name: "Other"}, Outline: ring(0, 0, 50)}}); n != 1 {
		t.Fatalf("%d areas", n)
	}
	point := func(lat, lon float64) nav.Waypoint { return nav.Waypoint{Point: nav.At(lat, lon)} }
	d := &nav.Dataset{
		Waypoints: []nav.Waypoint{
			point(-17.5, 179.5),
			point(-17.5, -179.5),
			point(-17, 180),
			point(-17, 178.5),
			point(0, 0),
		},
		Routes: []nav.Route{
			{Points: []nav.Waypoint{point(-17, 178), point(-17, -178)}},
			{Points: []nav.Waypoint{point(-19, 178), point(-19, -178)}},
		},
		Areas: []nav.Area{
			{Outline: ring(-17, 180, 5)},
			{Outline: ring(-17, 180, 0.1)},
			{Outline: ring(-18, 179, 0.1)},
			{Outline: ring(10, 10, 1)},
		},
		Tracks: []nav.Track{
			{
				Segments: []nav.Segment{
					{
						Points: []nav.Point{
							nav.At(-17.5, 178.5),
							nav.At(-17.5, 179.5),
							nav.At(-17.5, -179.5),
							nav.At(-17.5, -178.5),
						},
					},
				},
			},
		},
	}
	s := &Selection{Within: z}
	if err := s.Apply(d); err != nil {
		t.Fatal(err)
	}
	if len(d.Waypoints) != 2 || len(d.Routes) != 1 || len(d.Areas) != 2 || len(d.Tracks) != 1 ||
		d.Tracks[0].Len() != 4 {
		t.Errorf("%d waypoints, %d routes, %d areas, tracks %v", len(d.Waypoints), len(d.Routes), len(d.Areas), d.Tracks)
	}
	for text, want := range map[string]Zone{"zones.kml": {Path: "zones.kml"},
		"zones.kml:Nest*": {Path: "zones.kml", Pattern: "Nest*"},
		`C:\zones.kml`:    {Path: `C:\zones.kml`}, "a/b:c/zones.kml": {Path: "a/b:c/zones.kml"}} {
		if got := ParseZone(text); got.Path != want.Path || got.Pattern != want.Pattern {
			t.Errorf("%s: %+v", text, got)
		}
	}
}

// A leg is the shortest line, which bends poleward of the straight one in degrees: a long one that goes through a box
// or an area between its ends is cut where it crosses their edges, and none is where the straight one would be.
func TestLongLegsAreCutOnTheGround(t *testing.T) {
	a, b := nav.At(50, 0), nav.At(50, 60)
	ring := []nav.Point{
		nav.At(53, 20),
		nav.At(53, 40),
		nav.At(55, 40),
		nav.At(55, 20),
	} // the leg reaches 53.9° in its middle
	zone := &Zone{}
	zone.Take([]nav.Area{{Outline: ring}})
	for name, s := range map[string]*Selection{"a box": {Inside: &nav.Box{West: 20, South: 53, East: 40, North: 55}},
		"an area": {Within: zone}} {
		d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: []nav.Point{a, b}}}}},
			Routes: []nav.Route{{Points: []nav.Waypoint{{Point: a}, {Point: b}}}}}
		s.Apply(d)
		if len(d.Tracks) != 1 || len(d.Tracks[0].Segments) != 1 || len(d.Routes) != 1 {
			t.Fatalf("%s: %d tracks, %d routes", name, len(d.Tracks), len(d.Routes))
		}
		p := d.Tracks[0].Segments[0].Points
		whole := geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)
		for _, q := range p {
			detour := geodesy.Distance(a.Lat, a.Lon, q.Lat, q.Lon) + geodesy.Distance(q.Lat, q.Lon, b.Lat, b.Lon) - whole
			onEdge := math.Min(math.Abs(q.Lat-53), math.Min(math.Abs(q.Lon-20), math.Abs(q.Lon-40)))
			if detour > 1e-3 || onEdge > 2e-6 {
				t.Errorf("%s: cut at %v %v, %v m off the leg and %v° off the edge", name, q.Lat, q.Lon, detour, onEdge)
			}
		}
		if len(p) != 2 {
			t.Errorf("%s: %d points", name, len(p))
		}
	}
	// And one that the straight line in degrees would cross is left alone.
	s := &Selection{Inside: &nav.Box{West: 25, South: 49, East: 35, North: 51}}
	d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: []nav.Point{a, b}}}}}}
	if s.Apply(d); len(d.Tracks) != 0 {
		t.Error("a leg that passes 300 km to the north is in the box")
	}
}
