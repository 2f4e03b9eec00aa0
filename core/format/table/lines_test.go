package table

import (
	"fmt"
	"reflect"
	"strings"
	"testing"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/nav"
)

func TestLines(t *testing.T) {
	d := load(t, "transect,name,lat,lon\n1,A,-47.6,11.3\n1,B,-47.61,11.3\n2,C,-47.6,11.4\n2,D,-47.61,11.4\n,E,"+
		"-47.7,11.4\n", &format.ReadOptions{LineBy: "transect"})
	if len(d.Routes) != 2 || d.Routes[1].Name != "2" || d.Routes[1].Points[1].Name != "D" || len(d.Waypoints) != 1 {
		t.Errorf("routes %+v, waypoints %v", d.Routes, d.Waypoints)
	}
	d = load(t, "run;time;lat;lon;speed\nx;2026-03-14T05:00:00Z;-47,6;11,3;2.5\nx;2026-03-14T05:00:10Z;-47,61;11,3;\n",
		&format.ReadOptions{LineBy: "run"})
	if len(d.Tracks) != 1 || d.Tracks[0].Len() != 2 {
		t.Fatalf("tracks %+v", d.Tracks)
	}
	s := &d.Tracks[0].Segments[0]
	if x := s.Detail(&s.Points[0]); x == nil || x.Values[0].Key != "speed" || x.Values[0].Value != "2.5" {
		t.Errorf("the speed is lost: %+v", x)
	}
	hint := load(t, "name,route,lat,lon\nA,1,-47.6,11.3\nB,1,-47.61,11.3\n", &format.ReadOptions{})
	if !strings.Contains(fmt.Sprint(hint.Problems), string(advice.NameLines)+" route") {
		t.Errorf("no hint: %v", hint.Problems)
	}
}

// A text is read in blocks on all cores and gives what it gives in one, with its rows at the same places: lines, their
// segments and rings go on from one block into the next, and so does a cell of several lines.
func TestSideBySide(t *testing.T) {
	var b strings.Builder
	b.WriteString("name,lat,lon,kind,line,segment,speed,group\n")
	for i := range 22_000 {
		name, lat, rest := fmt.Sprintf("P%d", i), fmt.Sprintf("%.4f", -47.6+float64(i%1000)/1e4), "waypoint,,,,Sights"
		switch {
		case i%5 == 1:
			name, rest = "", fmt.Sprintf("track,Ferry,%d,,Ships", i/10_000)
		case i%5 == 2:
			name, rest = "", fmt.Sprintf("track,Ferry,%d,%d.5,Ships", i/10_000, i%7)
		case i%5 == 3:
			rest = fmt.Sprintf("route,%d,,,", i/1000)
		case i%5 == 4 && i%3 == 0:
			rest = fmt.Sprintf("area,Bay,%d,,", i/7000)
		}
		switch {
		case i%999 == 5:
			lat = "nonsense"
		case i%999 == 6:
			name = "\"P\r\n" + name + "\""
		}
		fmt.Fprintf(&b, "%s,%s,%.5f,%s\n", name, lat, 11+float64(i)/1e5, rest)
	}
	read := func(bytes int) *nav.Dataset {
		d, err := readBlocks(format.FromBytes(t.Context(), "x", []byte(b.String())), &format.ReadOptions{}, bytes)
		if err != nil {
			t.Fatal(err)
		}
		return d
	}
	want := read(1 << 30)
	if len(want.Rejects) != 23 || len(want.Routes) != 22 || len(want.Tracks) != 1 || len(want.Tracks[0].Segments) != 3 ||
		len(want.Areas) != 1 || len(want.Areas[0].Holes) != 3 {
		t.Fatalf("%d rejects, %d routes, %d tracks, %d areas", len(want.Rejects), len(want.Routes), len(want.Tracks),
			len(want.Areas))
	}
	for _, bytes := range []int{30, 1000, 100_000} {
		for _, what := range differences(read(bytes), want) {
			t.Errorf("%s differ from those that are read at once where blocks have %d bytes", what, bytes)
		}
	}
}

// differences lists in what two readings of a table differ.
func differences(got, want *nav.Dataset) (all []string) {
	for _, c := range []struct {
		what      string
		got, want any
	}{{"waypoints", got.Waypoints, want.Waypoints}, {"routes", got.Routes, want.Routes},
		{"points of tracks", pointsOf(got), pointsOf(want)}, {"areas", got.Areas, want.Areas},
		{"rejects", got.Rejects, want.Rejects}, {"problems", got.Problems, want.Problems}} {
		if !reflect.DeepEqual(c.got, c.want) && fmt.Sprint(c.got) != fmt.Sprint(c.want) { // NaN is not itself
			all = append(all, c.what)
		}
	}
	return all
}

// pointsOf gives the points of tracks as waypoints, with all that they have.
func pointsOf(d *nav.Dataset) (out []nav.Waypoint) {
	for i := range d.Tracks {
		for j := range d.Tracks[i].Segments {
			s := &d.Tracks[i].Segments[j]
			for k := range s.Points {
				w := nav.Waypoint{Point: s.Points[k].Loose(), Exact: s.Exact(&s.Points[k])}
				if item := s.Item(&s.Points[k]); item != nil {
					w.Item = *item
				}
				w.Fields = append(w.Fields, s.Values(nil, &s.Points[k])...)
				out = append(out, w)
			}
		}
	}
	return out
}
