package compare

import (
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func waypoint(name string, lat, lon float64) nav.Waypoint {
	w := nav.Waypoint{Point: nav.At(lat, lon)}
	w.Name = name
	return w
}

func track(name string, n int) nav.Track {
	t := nav.Track{Item: nav.Item{Name: name}, Segments: make([]nav.Segment, 1)}
	for i := range n {
		p := nav.At(-47, 11+float64(i)/1000)
		p.SetTime(int64(i)*1e9, instant.Seconds)
		t.Segments[0].Points = append(t.Segments[0].Points, p)
	}
	return t
}

func base() *nav.Dataset {
	return &nav.Dataset{
		Waypoints: []nav.Waypoint{waypoint("A", -47, 11), waypoint("Rock", -47.1, 11), waypoint("Rock", -47.2, 11),
			waypoint("B", -47.3, 11)},
		Tracks: []nav.Track{track("Walk", 5), track("Other", 3)},
	}
}

func words(r *Result) string {
	var out []string
	for _, d := range r.Differences {
		out = append(out, strings.TrimSpace(fmt.Sprintf("%s %s %s", d.Word, d.Name, d.What)))
	}
	return strings.Join(out, "; ")
}

func TestCompare(t *testing.T) {
	for _, c := range []struct {
		name   string
		change func(*nav.Dataset)
		want   string
	}{
		{"nothing", func(d *nav.Dataset) {}, ""},
		{"order", func(d *nav.Dataset) {
			d.Waypoints[0], d.Waypoints[2] = d.Waypoints[2], d.Waypoints[0]
			d.Tracks[0], d.Tracks[1] = d.Tracks[1], d.Tracks[0]
		}, ""},
		{"lost", func(d *nav.Dataset) { d.Waypoints = d.Waypoints[1:] }, "waypoint A lost"},
		{"one of two alike lost", func(d *nav.Dataset) { d.Waypoints = append(d.Waypoints[:1:1], d.Waypoints[2:]...) },
			"waypoint Rock lost"},
		{"added", func(d *nav.Dataset) { d.Waypoints = append(d.Waypoints, waypoint("C", -48, 11)) }, "waypoint C added"},
		{"renamed", func(d *nav.Dataset) { d.Waypoints[0].Name = "Aa" }, "waypoint A renamed"},
		{"renamed track", func(d *nav.Dataset) { d.Tracks[1].Name = "x" }, "track Other renamed"},
		{"moved", func(d *nav.Dataset) { d.Waypoints[3].Lat += 0.001 }, "waypoint B moved"},
		{"rounded", func(d *nav.Dataset) { d.Waypoints[3].Lat += 1e-7 }, ""},
		{"a point moved", func(d *nav.Dataset) { d.Tracks[0].Segments[0].Points[2].Lat += 0.01 }, "track Walk moved"},
		{"points lost", func(d *nav.Dataset) { d.Tracks[0].Segments[0].Points = d.Tracks[0].Segments[0].Points[1:] },
			"track Walk points lost"},
		{"height given", func(d *nav.Dataset) {
			d.Waypoints[0].SetHeight(3, 0, nav.MeanSeaLevel)
		}, "waypoint A heights given"},
		{"time lost", func(d *nav.Dataset) { d.Tracks[1].Segments[0].Points[0].ClearTime() }, "track Other times lost"},
		{"symbol", func(d *nav.Dataset) { d.Waypoints[0].Style.Symbol = "flag" }, "waypoint A symbol"},
	} {
		b := base()
		c.change(b)
		if got := words(compared(t, base(), b, Options{Within: 0.1})); got != c.want {
			t.Errorf("%s: got %q, want %q", c.name, got, c.want)
		}
	}
	b := base()
	b.Waypoints[3].Lat += 0.001
	r := compared(t, base(), b, Options{})
	if d := r.Differences[0]; d.Metres < 111 || d.Metres > 111.4 || r.Largest != d.Metres {
		t.Errorf("moved by %v, largest %v", d.Metres, r.Largest)
	}
}

// compared compares without an end.
func compared(t *testing.T, a, b *nav.Dataset, opt Options) *Result {
	t.Helper()
	r, err := Compare(t.Context(), a, b, opt)
	if err != nil {
		t.Fatal(err)
	}
	return r
}
