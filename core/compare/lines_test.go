package compare

import (
	"testing"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func route(name string, points ...string) nav.Route {
	r := nav.Route{Item: nav.Item{Name: name}}
	for i, p := range points {
		r.Points = append(r.Points, waypoint(p, -47-float64(i)/10, 11))
	}
	return r
}

// A cleaned track: what is gone is told with how far off it was, and where; what stays counts for heights.
func TestChangedLine(t *testing.T) {
	a := track("Walk", 20)
	a.Segments[0].Points[10].Lat += 0.01
	b := track("Walk", 20)
	b.Segments[0].Points = append(b.Segments[0].Points[:10], b.Segments[0].Points[11:]...)
	b.Segments[0].Points[3].SetHeight(5, 0, nav.MeanSeaLevel)
	r := compared(t, &nav.Dataset{Tracks: []nav.Track{a}}, &nav.Dataset{Tracks: []nav.Track{b}}, Options{})
	if got := words(r); got != "track Walk points lost; track Walk heights given" {
		t.Fatalf("got %s", got)
	}
	if d := r.Differences[0]; d.Count != 1 || d.Metres < 1105 || d.Metres > 1120 || d.Lat != -46.99 || d.Old != "20" ||
		d.New != "19" {
		t.Errorf("%+v", d)
	}
}

func TestRoutesAndAreas(t *testing.T) {
	a := &nav.Dataset{Routes: []nav.Route{route("Run", "P", "Q", "R")},
		Areas: []nav.Area{{Item: nav.Item{Name: "Zone"}, Outline: []nav.Point{nav.At(0, 0), nav.At(0, 1), nav.At(1, 1)}}}}
	b := &nav.Dataset{Routes: []nav.Route{route("Run", "P", "X", "R")},
		Areas: []nav.Area{{Item: nav.Item{Name: "Zone", Group: "G"}, Outline: []nav.Point{nav.At(0, 0), nav.At(0, 1),
			nav.At(1, 1.5)}}}}
	if got := words(compared(t, a, b, Options{})); got != "route Run name of point 2; area Zone moved; area Zone group" {
		t.Errorf("got %s", got)
	}
	if got := words(compared(t, a, a, Options{})); got != "" {
		t.Errorf("with itself: %s", got)
	}
	if got := words(compared(t, a, &nav.Dataset{}, Options{})); got != "route Run lost; area Zone lost" {
		t.Errorf("with nothing: %s", got)
	}
}

// Thousands of things of one name are matched in a blink, the nearest with the nearest.
func TestManyAlike(t *testing.T) {
	var a, b nav.Dataset
	for i := range 2000 {
		a.Waypoints = append(a.Waypoints, waypoint("Rock", -47+float64(i)/1000, 11))
		b.Waypoints = append(b.Waypoints, waypoint("Rock", -47+float64(1999-i)/1000, 11))
	}
	if r := compared(t, &a, &b, Options{}); len(r.Differences) > 0 || r.Matched != 2000 {
		t.Errorf("%d differences, %d matched", len(r.Differences), r.Matched)
	}
}

func TestTimesChanged(t *testing.T) {
	a, b := track("Walk", 5), track("Walk", 5)
	for i := range b.Segments[0].Points {
		p := &b.Segments[0].Points[i]
		p.SetTime(p.UnixNano()+3600e9, instant.Seconds)
	}
	r := compared(t, &nav.Dataset{Tracks: []nav.Track{a}}, &nav.Dataset{Tracks: []nav.Track{b}}, Options{})
	if got := words(r); got != "track Walk times changed" || r.Differences[0].Count != 5 {
		t.Errorf("got %s", got)
	}
}
