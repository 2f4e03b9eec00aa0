package main

import (
	"strings"
	"testing"
)

// putTerrain puts the terrain of the example scenario.
func (f *folder) putTerrain() { f.putDemo("terrain/S48E011.zip") }

func TestClean(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	r := f.must("clean", "walk.gpx", "--also", "heights,stops,gaps", "-o", "clean.gpx", "--rejects", "removed.kml")
	for _, want := range []string{"strays       2", "repeats      4", "spikes       4", "2.02 km"} {
		if !strings.Contains(r.err, want) {
			t.Errorf("%q is not said:\n%s", want, r.err)
		}
	}
	rejects := f.look("removed.kml").Files[0]
	if rejects.Waypoints < 150 || !strings.HasPrefix(rejects.Items[0].Name, "strays") {
		t.Errorf("rejects %+v", rejects.Items[:1])
	}
	// A second run changes nothing, and compare says so.
	f.must("clean", "clean.gpx", "--also", "heights,stops,gaps", "-o", "again.gpx")
	if out := f.must("compare", "clean.gpx", "again.gpx", "--strict").out; out != "no difference\n" {
		t.Errorf("compare: %s", out)
	}
	if f.get("clean.gpx") != f.get("again.gpx") {
		t.Error("the second run writes other bytes")
	}
	// look names the same faults by the same detectors.
	found := map[string]int{}
	for _, p := range f.look("walk.gpx").Files[0].Problems {
		found[p.Code] = p.Count
	}
	if found["strays"] != 2 || found["repeats"] != 4 || found["spikes"] != 4 {
		t.Errorf("look finds %v", found)
	}
	f.must("clean", "walk.gpx", "--only", "order", "--thin-to", "100", "-o", "thin.gpx")
	if n := f.look("thin.gpx").Files[0].Points; n > 102 {
		t.Errorf("%d points are left", n)
	}
}

func TestCleanRefuses(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	for _, c := range []struct {
		words string
		args  []string
	}{
		{"\"jumps\" is not a fault", []string{"--also", "jumps"}},
		{"--top-speed: \"12\" has no unit", []string{"--top-speed", "12"}},
		{"--stop-longer: \"5m\" could be minutes or metres", []string{"--stop-longer", "5m"}},
		{"--thin-within: -3m is not greater than zero", []string{"--thin-within", "-3m"}},
		{"\"horse\" is not one of walk", []string{"--carrier", "horse"}},
		{"--thin-to: 1 is too small", []string{"--thin-to", "1"}},
		{"give only one", []string{"--thin-to", "5", "--thin-within", "3m"}},
		{"--only: lists every fault", []string{"--only", "spikes", "--also", "pins"}},
		{"--around: \"soon\" is not a time", []string{"--around", "soon"}},
		{"are the same file", []string{"--rejects", "out.gpx"}},
		{"are the same file", []string{"--rejects", "./out.gpx"}},
	} {
		f.refuses(2, c.words, append([]string{"clean", "walk.gpx", "-o", "out.gpx"}, c.args...)...)
	}
	f.refuses(3, "refused by --strict", "clean", "walk.gpx", "-o", "out.gpx", "--strict")
	// A loss that only the writer finds leaves no rejects behind either.
	f.put("sound.geojson", `{"type":"Point","coordinates":[11.3,-47.6,5]}`)
	f.refuses(3, "refused by --strict", "clean", "sound.geojson", "-o", "out.gpx", "--rejects", "r.gpx", "--strict")
}

func TestElevate(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	f.putTerrain()
	r := f.must("elevate", "walk.gpx", "--terrain", "terrain", "-o", "high.gpx")
	if !strings.Contains(r.err, "39 points given a height, 1,748 already had one") {
		t.Errorf("said: %s", r.err)
	}
	if x := f.look("high.gpx").Files[0]; x.Heights != x.Points {
		t.Errorf("%d of %d points have a height", x.Heights, x.Points)
	}
	r = f.must("elevate", "planning.kmz", "--take", "tracks", "--terrain", "terrain", "-o", "paths.gpx")
	if !strings.Contains(r.err, "in a void)") {
		t.Errorf("said: %s", r.err)
	}
	r = f.must("elevate", "planning.kmz", "--take", "tracks", "--terrain", "terrain/S48E011.zip", "--fill-voids", "-o",
		"filled.gpx")
	if !strings.Contains(r.err, "119 points given a height") {
		t.Errorf("said: %s", r.err)
	}
	f.put("far.gpx", `<gpx><wpt lat="-47.5" lon="12.5"><name>Far</name></wpt><wpt lat="-47.6" lon="11.3"><name>`+
		`Near</name></wpt></gpx>`)
	r = f.must("elevate", "far.gpx", "--terrain", "terrain", "-o", "f.gpx")
	if !strings.Contains(r.err, "1 point given a height, 1 not (1 outside the terrain: tile S48E012 is missing)") {
		t.Errorf("said: %s", r.err)
	}
	f.refuses(3, "could not be given a height", "elevate", "far.gpx", "--terrain", "terrain", "-o", "g.gpx", "--strict")
	f.put("nothing/words.txt", "no terrain")
	f.refuses(1, "contains no terrain", "elevate", "walk.gpx", "--terrain", "nothing", "-o", "x.gpx")
	f.refuses(1, "there is no such terrain", "elevate", "walk.gpx", "--terrain", "nowhere", "-o", "x.gpx")
	f.refuses(2, "no source of heights given", "elevate", "walk.gpx", "-o", "x.gpx")
	f.refuses(2, "is not an interpolation", "elevate", "walk.gpx", "--terrain", "terrain", "--between", "guess", "-o",
		"x.gpx")
	f.refuses(2, "missing or always", "elevate", "walk.gpx", "--terrain", "terrain", "--when", "sometimes", "-o", "x.gpx")
}

func TestCompare(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("a.gpx", `<gpx><wpt lat="-47.6" lon="11.3"><name>A</name></wpt><wpt lat="-47.7" lon="11.3"><name>B</name>`+
		`</wpt></gpx>`)
	f.put("b.kml", `<kml><Placemark><name>B</name><Point><coordinates>11.3,-47.701</coordinates></Point></Placemark>`+
		`<Placemark><name>Aa</name><Point><coordinates>11.3,-47.6</coordinates></Point></Placemark></kml>`)
	out := f.must("compare", "a.gpx", "b.kml").out
	for _, want := range []string{"A", "renamed", "Aa", "B", "moved", "by 111 m"} {
		if !strings.Contains(out, want) {
			t.Errorf("%q is not said:\n%s", want, out)
		}
	}
	f.refuses(3, "differ (2 differences)", "compare", "a.gpx", "b.kml", "--strict")
	if out := f.must("compare", "a.gpx", "a.gpx", "--json").out; !strings.Contains(out, `"differences": []`) {
		t.Errorf("JSON: %s", out)
	}
	f.refuses(2, "name two files", "compare", "a.gpx")
}
