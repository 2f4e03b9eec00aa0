package main

import (
	"fmt"
	"strings"
	"testing"
)

// Through every format and back nothing of the plan is lost that the formats can carry.
func TestConvertThroughFormats(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.must("convert", "planning.kmz", "-o", "0.kmz")
	f.must("convert", "0.kmz", "-o", "1.gpx")
	f.must("convert", "1.gpx", "-o", "2.geojson")
	f.must("convert", "2.geojson", "-o", "3.geojsons")
	f.must("convert", "3.geojsons", "--write-as", "kml:2.3", "-o", "4")
	f.must("convert", "4.kml", "-o", "5.gpx")
	if f.get("1.gpx") == f.get("5.gpx") {
		return
	}
	a, b := f.look("1.gpx").Files[0], f.look("5.gpx").Files[0]
	if fmt.Sprint(a.Items) != fmt.Sprint(b.Items) || a.Length != b.Length || fmt.Sprint(a.Bounds) != fmt.Sprint(b.Bounds) {
		t.Errorf("before %+v\nafter %+v", a, b)
	}
}

// The same input gives the same bytes.
func TestSameBytes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	for _, ext := range []string{"kml", "kmz", "gpx", "geojson", "geojsons"} {
		f.must("convert", "planning.kmz", "walk.gpx", "-o", "a."+ext)
		f.must("convert", "planning.kmz", "walk.gpx", "-o", "b."+ext)
		if f.get("a."+ext) != f.get("b."+ext) {
			t.Errorf("%s differs from one run to the next", ext)
		}
	}
}

func TestSelectionOptions(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	for _, c := range []struct {
		args []string
		want string
	}{
		{[]string{"--take", "waypoints:Landings", "planning.kmz"}, "6 0 0 0"},
		{[]string{"--take", "waypoints:Rock ?", "--take", "areas", "planning.kmz"}, "9 0 0 3"},
		{[]string{"planning.kmz", "--leave", "all:Nesting*", "--leave", "waypoints"}, "0 0 8 0"},
		{[]string{"--inside", "-180,-90,0,0", "planning.kmz"}, "0 0 0 0"},
		{[]string{"--inside", "11.30,-47.60,11.35,-47.58", "--take", "tracks", "planning.kmz"}, "0 0 6 0"},
		{[]string{"--since", "2026-03-14T07:00Z", "walk.gpx"}, "0 0 1 0"},
		{[]string{"--until", "2026-03-13", "walk.gpx"}, "0 0 0 0"},
		{[]string{"--clock", "+02:00", "--since", "2026-03-14T09:00", "walk.gpx"}, "0 0 1 0"},
	} {
		x := f.look(c.args...).Files[0]
		if got := fmt.Sprint(x.Waypoints, x.Routes, x.Tracks, x.Areas); got != c.want {
			t.Errorf("%v: got %s, want %s", c.args, got, c.want)
		}
	}
	f.refuses(5, "nothing in these files matches", "convert", "walk.gpx", "--take", "routes", "-o", "x.gpx")
	f.put("two.csv", "name,lat,lon\nRock 1,-47.5,11.3\nRock 2,-47.6,11.3\n")
	f.refuses(3, "the choice \"all:Rok 2\" matches nothing; the nearest: waypoint \"Rock 2\"; refused by --strict",
		"convert", "two.csv", "--take", "waypoints:Rock*", "--leave", "all:Rok 2", "--strict", "-o", "x.gpx")
	f.refuses(2, "since is later than until", "look", "walk.gpx", "--since", "2026-05-01", "--until", "2026-04-01")
	if r := f.must("look", "walk.gpx", "walk.gpx"); !strings.Contains(r.err, "is named twice") {
		t.Error(r.err)
	}
}

func TestStrict(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	f.refuses(3, "refused by --strict", "convert", "walk.gpx", "--strict", "-o", "x.kml")
	f.refuses(3, "refused by --strict", "convert", "planning.kmz", "--strict", "-o", "x.gpx")
	f.refuses(3, "refused by --strict", "look", "walk.gpx", "--strict")
	f.put("one.gpx", `<gpx><wpt lat="-47.6" lon="11.3"><name>P</name></wpt></gpx>`)
	f.must("convert", "one.gpx", "--strict", "-o", "x.kml")
}

func TestFormatsAndUnits(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	if out := f.must("formats").out; !strings.Contains(out, "geojsonseq") || !strings.Contains(out, "RFC 7946") {
		t.Errorf("formats: %s", out)
	}
	if out := f.must("units", "ridge").out; !strings.Contains(out, "16 characters") ||
		!strings.Contains(out, "[waypoints]") {
		t.Errorf("units: %s", out)
	}
	if out := f.must("--version").out; !strings.Contains(out, "gyrolith") {
		t.Errorf("version: %s", out)
	}
	for _, shell := range []string{"bash", "zsh", "fish", "pwsh"} {
		if out := f.must("completion", shell).out; len(out) < 100 {
			t.Errorf("completion for %s: %.80s", shell, out)
		}
	}
}
