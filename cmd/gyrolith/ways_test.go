package main

import (
	"fmt"
	"os"
	"strings"
	"testing"
)

// A verb, a folder and a recipe refuse the same inputs for the same reasons, with the same status, and write nothing
// then: what is missing or lost under --strict, a file that is cut off and salvaged, and what nothing is taken of.
func TestThreeWaysRefuseTheSame(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	whole := f.get("walk.gpx")
	kml := func(inside string) string {
		return `<kml xmlns="http://www.opengis.net/kml/2.2"><Document><Placemark><name>A</name>` +
			`<Point><coordinates>11.3,-47.5</coordinates></Point></Placemark>` + inside + `</Document></kml>`
	}
	for name, content := range map[string]string{
		"cut.gpx":   whole[:len(whole)/2],
		"place.kml": kml(`<Placemark><name>Nowhere</name></Placemark>`),
		"link.kml":  kml(`<NetworkLink><Link><href>more.kml</href></Link></NetworkLink>`),
		"bad.gpx": `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="1" lon="2"/>` +
			`<wpt lat="95" lon="2"/></gpx>`,
		"plain.csv": "name,lat,lon\nA,-47.5,11.3\n",
		"none.csv":  "name,lat,lon\n",
		"empty.gpx": `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"/>`,
	} {
		f.put("in-"+name+"/"+name, content)
	}
	for n, c := range []struct {
		input  string
		args   string // of convert
		status int
		words  string
	}{
		{"plain.csv", "--strict", 0, ""},
		{"place.kml", "", 0, "without a position"},
		{"place.kml", "--strict", 3, "without a position"},
		{"link.kml", "--strict", 3, "network link"},
		{"bad.gpx", "", 0, "beyond 90 degrees"},
		{"bad.gpx", "--strict", 3, "beyond 90 degrees"},
		{"cut.gpx", "", 1, "cut off"},
		{"cut.gpx", "--salvage", 0, "the complete data before it was used"},
		{"cut.gpx", "--salvage --strict", 3, "the complete data before it was used"},
		{"plain.csv", "--take routes", 5, "match"},
		{"plain.csv", "--take routes --strict", 5, "match"},
		{"plain.csv", "--take waypoints --take routes --strict", 3, "no routes to choose"},
		{"plain.csv", "--inside 0,0,1,1", 5, "match"},
		{"empty.gpx", "", 5, "holds no waypoint"},
	} {
		where := fmt.Sprintf("%s %s", c.input, c.args)
		args := strings.Fields(c.args)
		in := "in-" + c.input + "/" + c.input
		var chosen []string // of the recipe
		for _, a := range args {
			if a != "--strict" {
				chosen = append(chosen, a)
			}
		}
		recipe := fmt.Sprintf("recipe-%d.toml", n)
		f.put(recipe, f.must(append([]string{"convert", in, "-o", "x.geojson", "--as-recipe"}, chosen...)...).out)
		ways := map[string][]string{
			"verb": append([]string{"convert", in, "-o", fmt.Sprintf("verb-%d.geojson", n)}, args...),
			"folder": append([]string{"convert", "in-" + c.input, "-o", fmt.Sprintf("folder-%d/", n), "--write-as", "geojson"},
				args...),
			"recipe": {"run", recipe, in, "--into", fmt.Sprintf("recipe-%d", n)},
		}
		if strings.Contains(c.args, "--strict") {
			ways["recipe"] = append(ways["recipe"], "--strict")
		}
		for way, args := range ways {
			r := f.run(args...)
			if r.status != c.status || !strings.Contains(r.err, c.words) {
				t.Errorf("%s by a %s: status %d, want %d, and %q:\n%s", where, way, r.status, c.status, c.words, r.err)
			}
			written := false
			for _, name := range f.list() {
				written = written || strings.HasSuffix(name, ".geojson") && strings.HasPrefix(name, fmt.Sprintf("%s-%d", way, n))
			}
			if written != (c.status == 0) {
				t.Errorf("%s by a %s: written: %v", where, way, written)
			}
		}
	}
}

// Several inputs into one output are one recipe that takes them together.
func TestSeveralInputsAsRecipe(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("in/a.csv", "name,lat,lon,line\n,-47.5,11.3,A\n,-47.51,11.3,A\n")
	f.put("in/b.csv", "name,lat,lon,line\n,-47.51,11.3,B\n,-47.52,11.3,B\n")
	for n, args := range [][]string{
		{"convert", "in/a.csv", "in/b.csv", "--line-by", "line", "-o", "both.gpx"},
		{"convert", "in", "--line-by", "line", "-o", "both.gpx"},
		{"recast", "in/a.csv", "in/b.csv", "--line-by", "line", "--join", "--join-within", "1m", "-o", "both.gpx"},
	} {
		os.Remove(f.path("both.gpx"))
		recipe, into := fmt.Sprintf("r%d.toml", n), fmt.Sprintf("made%d", n)
		f.put(recipe, f.must(append(args, "--as-recipe")...).out)
		f.must(args...)
		f.must("run", recipe, "in/a.csv", "in/b.csv", "--into", into)
		if f.get("both.gpx") != f.get(into+"/both.gpx") {
			t.Errorf("%v: the recipe gives something else:\n%s", args, f.get(recipe))
		}
	}
}

// A file in a folder that turns out to be no data stops neither a verb nor a recipe that takes all together, whatever
// its place; where nothing else is there, that is nothing.
func TestOthersInFoldersThreeWays(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	for n, other := range []string{"0.gpx", "z.gpx"} {
		in := fmt.Sprintf("in%d", n)
		f.put(in+"/a.csv", "name,lat,lon\nA,-47.5,11.3\n")
		f.put(in+"/b.csv", "name,lat,lon\nB,-47.6,11.3\n")
		f.put(in+"/"+other, "Dear crew, the tide is at six.")
		recipe, into := fmt.Sprintf("r%d.toml", n), fmt.Sprintf("made%d", n)
		f.put(recipe, f.must("convert", in, "-o", "both.gpx", "--as-recipe").out)
		f.must("convert", in, "-o", "both.gpx", "--replace")
		f.must("run", recipe, in, "--into", into)
		if whole := f.get("both.gpx"); whole != f.get(into+"/both.gpx") || !strings.Contains(whole, "<name>B</name>") {
			t.Errorf("%s: the recipe gives something else", other)
		}
	}
	f.put("none/0.gpx", "Dear crew, the tide is at six.")
	f.put("each.toml", "[[output]]\nfile = \"{name}.kml\"\n")
	for _, line := range []string{"convert none -o x.kml", "convert none -o out/ --write-as kml",
		"run r0.toml none --into o0", "run each.toml none --into o1"} {
		if r := f.run(strings.Fields(line)...); r.status != 5 {
			t.Errorf("%s: status %d\n%s", line, r.status, r.err)
		}
	}
}

// A dry run needs no output, and a negative number after a switch is a coordinate.
func TestSmallThingsOfLines(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	if r := f.must("clean", "walk.gpx", "--dry-run"); !strings.Contains(r.err, "spikes") {
		t.Errorf("it doesn't say what would be cleaned:\n%s", r.err)
	}
	for _, line := range []string{"where --json -40.97 15.92", "where -40.97 15.92",
		"near --json -47.6 11.3 walk.gpx --take waypoints"} {
		f.must(strings.Fields(line)...)
	}
}

// An error of writing names the output, whatever wrote it.
func TestErrorsNameTheOutput(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("a.csv", "name,lat,lon\nA,-47.5,11.3\n")
	f.refuses(1, "x.igc: ", "convert", "a.csv", "-o", "x.igc")
	f.env = []string{"TMPDIR=" + f.path("gone")}
	f.refuses(1, "set TMPDIR", "convert", "a.csv", "-o", "x.gpkg")
}

// Under --strict the verbs that answer refuse inputs of which something is missing, and times that are on no recording.
func TestStrictAnswers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	f.must("clean", "walk.gpx", "-o", "whole.gpx")
	f.put("list.gpx", `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="95" lon="1"/>`+
		`<wpt lat="-47.5" lon="11.3"><name>A</name></wpt></gpx>`)
	for _, line := range []string{"tally walk.gpx", "near -47.5 11.3 list.gpx", "when 06:20 --along walk.gpx",
		"when 2020-01-01T00:00Z 2026-03-14T06:20Z --along whole.gpx"} {
		words := strings.Fields(line)
		f.must(words...)
		if r := f.run(append(words, "--strict")...); r.status != 3 {
			t.Errorf("%s --strict: status %d\n%s", line, r.status, r.err)
		}
	}
}
