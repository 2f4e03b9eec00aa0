package main

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
)

type looked struct {
	Files []struct {
		Path, Format                     string
		Waypoints, Routes, Tracks, Areas int
		Points                           int
		Length                           float64   `json:"length_m"`
		Bounds                           []float64 `json:"bounds"`
		Time                             []string
		Heights                          int
		Items                            []struct {
			Kind, Name, Group string
			Points            int
		}
		Problems []struct {
			Code  string
			Count int
			Text  string
		}
	}
}

func (f *folder) look(args ...string) looked {
	f.t.Helper()
	var l looked
	r := f.must(append([]string{"look", "--json"}, args...)...)
	if err := json.Unmarshal([]byte(r.out), &l); err != nil {
		f.t.Fatalf("%v\n%s", err, r.out)
	}
	return l
}

func TestLookJSON(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	l := f.look("planning.kmz", "walk.gpx")
	plan, walk := l.Files[0], l.Files[1]
	if plan.Format != "kmz" || plan.Waypoints != 26 || plan.Tracks != 8 || plan.Areas != 3 ||
		plan.Items[0].Group != "Landings" {
		t.Errorf("plan %+v", plan)
	}
	if walk.Format != "gpx" || walk.Tracks != 1 || len(walk.Time) != 2 || walk.Time[0] != "2026-03-14T05:31:20Z" ||
		walk.Heights == 0 {
		t.Errorf("walk %+v", walk)
	}
	if len(walk.Bounds) != 4 || walk.Bounds[0] < 11 || walk.Bounds[1] > -47 {
		t.Errorf("bounds %v", walk.Bounds)
	}
	found := map[string]int{}
	for _, p := range walk.Problems {
		found[p.Code] = p.Count
	}
	if found["strays"] != 2 || found["repeats"] != 4 || found["order"] == 0 || found["spikes"] == 0 {
		t.Errorf("problems %v", found)
	}
}

// A file of hundreds of items stays readable, and --all shows every one.
func TestLookManyItems(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	for i := range 300 {
		fmt.Fprintf(&b, "<wpt lat='-47.6' lon='11.%03d'><name>Rock %d</name></wpt>", i, i)
	}
	f.put("rocks.gpx", "<gpx>"+b.String()+"</gpx>")
	short := f.must("look", "rocks.gpx").out
	if n := strings.Count(short, "\n"); n > 25 || !strings.Contains(short, "Rock 299") ||
		!strings.Contains(short, "295 more") {
		t.Errorf("%d lines:\n%s", n, short)
	}
	if all := f.must("look", "--all", "rocks.gpx").out; strings.Count(all, "Rock ") != 300 {
		t.Errorf("--all shows %d", strings.Count(all, "Rock "))
	}
}

// The content decides, never the name.
func TestContentDecides(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	gpx := `<gpx><wpt lat="-47.6" lon="11.3"><name>P</name></wpt></gpx>`
	f.put("a.gpx", gpx)
	f.must("convert", "a.gpx", "-o", "b.kmz")
	f.put("gpx.kml", gpx)
	f.put("kmz.zip", f.get("b.kmz"))
	f.put("kmz.txt", f.get("b.kmz"))
	f.must("convert", "a.gpx", "-o", "c.geojson")
	f.put("noext", f.get("c.geojson"))
	l := f.look("gpx.kml", "kmz.zip", "kmz.txt", "noext")
	var got []string
	for _, x := range l.Files {
		got = append(got, fmt.Sprint(x.Format, x.Waypoints))
	}
	if fmt.Sprint(got) != "[gpx1 kmz1 kmz1 geojson1]" {
		t.Errorf("got %v", got)
	}
	if r := f.runWith(gpx, "convert", "-", "--write-as", "geojson", "-o", "-"); r.status != 0 ||
		!strings.Contains(r.out, `"Point"`) {
		t.Errorf("standard input and output: %+v", r)
	}
}
