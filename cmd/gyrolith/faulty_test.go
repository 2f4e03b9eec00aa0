package main

import (
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"slices"
	"strings"
	"testing"
)

// faulty are files with something wrong with each, by their names; whole are the same without.
func faulty(f *folder) map[string]string {
	walk := f.get("walk.gpx")
	gpx := func(inside string) string {
		return `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">` + inside + `</gpx>`
	}
	route := `<rte><name>R</name><rtept lat="-47.5" lon="11.3"><name>A</name></rtept>` +
		`<rtept lat="-47.6" lon="11.4"><name>B</name></rtept></rte>`
	kml := func(inside string) string {
		return `<kml xmlns="http://www.opengis.net/kml/2.2"><Document><Placemark><name>L</name><LineString><coordinates>` +
			`11.3,-47.5 11.4,-47.6</coordinates></LineString></Placemark>` + inside + `</Document></kml>`
	}
	return map[string]string{
		"plain.gpx":      gpx(`<wpt lat="-47.5" lon="11.3"><name>W</name></wpt>` + route),
		"cut.gpx":        walk[:len(walk)/2],
		"cut-name.gpx":   gpx(route)[:120],
		"empty.gpx":      gpx(""),
		"void.gpx":       "",
		"blanks.csv":     " \n\n",
		"title.csv":      "name,lat,lon\n",
		"text.gpx":       "Dear crew, the tide is at six.",
		"bytes.gpx":      "\x00\x01\x02\xff\xfe\x00gyrolith",
		"unclosed.gpx":   gpx(route + "<wpt"),
		"ends.gpx":       gpx(route + `<wpt lat="-47.5" lon="11.3"></rte>`),
		"high.gpx":       gpx(route + `<wpt lat="95" lon="11.3"><name>Up</name></wpt>`),
		"all-high.gpx":   gpx(`<wpt lat="95" lon="11.3"/>`),
		"words.gpx":      gpx(route + `<wpt lat="north" lon="11.3"/>`),
		"far.csv":        "name,lat,lon\nA,-47.5,11.3\nB,-47.5,1100\n",
		"half.csv":       "name,lat,lon\nA,-47.5,11.3\nB,-47.5\n",
		"place.kml":      kml(`<Placemark><name>Nowhere</name></Placemark>`),
		"link.kml":       kml(`<NetworkLink><Link><href>more.kml</href></Link></NetworkLink>`),
		"overlay.kml":    kml(`<GroundOverlay><name>Chart</name></GroundOverlay>`),
		"coordinate.kml": strings.Replace(kml(""), "11.4,-47.6", "11.4,-4x7", 1),
		"list.json":      `{"type":"FeatureCollection","features":[{"type":"Feature","geometry":null,"properties":{}}]}`,
		"cutlist.json":   `{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point","coord`,
		"other.json":     `{"hello":"world"}`,
		"nested.gpx": gpx(
			"<extensions>" + strings.Repeat("<a>", 1500) + strings.Repeat("</a>", 1500) + "</extensions>" + route,
		),
		"lossy.gpx":   gpx(`<wpt lat="-47.5" lon="11.3"><name>W</name><sat>7</sat></wpt>` + route),
		"archive.zip": "PK\x03\x04 no archive at all",
	}
}

// outcome is how an input came out: the status that it has by itself, what was noticed, and what was written.
type outcome struct {
	status  int
	notes   []string
	outputs int
}

// outcomes reads the answer of a folder or a recipe as JSON, by input.
func outcomes(t *testing.T, text string) map[string]outcome {
	t.Helper()
	var answer struct {
		Results []struct {
			Input, Status   string
			Strict, Nothing bool
			Remarks         []struct{ Text string }
			Outputs         map[string]string
		}
	}
	if err := json.Unmarshal([]byte(text), &answer); err != nil {
		t.Fatalf("%v: %s", err, text)
	}
	out := map[string]outcome{}
	for _, r := range answer.Results {
		o := outcome{outputs: len(r.Outputs)}
		switch {
		case r.Status == "done":
		case r.Strict:
			o.status = 3
		case r.Nothing:
			o.status = 5
		default:
			o.status = 1
		}
		for _, m := range r.Remarks {
			o.notes = append(o.notes, m.Text)
		}
		out[r.Input] = o
	}
	return out
}

// Every verb that makes files takes every faulty input in the same way by itself, with an output per input, and as a
// step of a recipe: with the same status, the same notes, and written or not.
func TestFaultyInputsThreeWays(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	f.putTerrain()
	inputs := faulty(f)
	names := slices.Sorted(maps.Keys(inputs))
	var paths []string
	for _, name := range names {
		f.put("in/"+name, inputs[name])
		paths = append(paths, "in/"+name)
	}
	n := 0
	for _, v := range []struct{ line, output string }{
		{"convert", "geojson"},
		{"convert --take waypoints", "csv"},
		{"clean --also heights", "gpx"},
		{"elevate --terrain terrain", "gpx"},
		{"recast --routes-to tracks", "gpx"},
		{"dress --match waypoints:* --symbol rock", "gpx"},
		{"legs --speed 4kn", "csv"},
		{"draw --size 200x150", "svg"},
	} {
		words := strings.Fields(v.line)
		modes := [][]string{nil, {"--strict"}}
		if v.line == "convert" { // reading is the same for all
			modes = append(modes, []string{"--salvage"}, []string{"--salvage", "--strict"})
		}
		for _, more := range modes {
			n++
			chosen := append(slices.Clone(words), slices.DeleteFunc(slices.Clone(more), func(w string) bool {
				return w == "--strict"
			})...)
			recipe, strict := fmt.Sprintf("r-%d.toml", n), slices.Contains(more, "--strict")
			f.put(recipe, f.must(append(slices.Clone(chosen), "in/plain.gpx", "-o", "x."+v.output, "--as-recipe")...).out)
			run := append([]string{"run", recipe, "--into", fmt.Sprintf("recipe-%d", n), "--json"}, paths...)
			if strict {
				run = append(run, "--strict")
			}
			ways := map[string]map[string]outcome{"recipe": outcomes(t, f.run(run...).out)}
			if words[0] != "legs" { // which has one table
				each := append(append(slices.Clone(words), more...), "--json", "-o",
					fmt.Sprintf("folder-%d/{number}.%s", n, v.output))
				ways["folder"] = outcomes(t, f.run(append(each, paths...)...).out)
			}
			for _, name := range names {
				out := fmt.Sprintf("verb-%d-%s.%s", n, name, v.output)
				line := append(append(slices.Clone(words), more...), "in/"+name, "-o", out)
				verb := f.run(line...)
				_, err := os.Stat(f.path(out))
				if (err == nil) != (verb.status == 0) {
					t.Errorf("%v: status %d, written: %v", line, verb.status, err == nil)
				}
				for way, all := range ways {
					sameOutcome(t, strings.Join(line, " "), way, &verb, all[name])
				}
			}
		}
	}
}

// sameOutcome compares how a line ended with how its input came out in another way.
func sameOutcome(t *testing.T, line, way string, verb *result, o outcome) {
	t.Helper()
	if o.status != verb.status {
		t.Errorf("%s: status %d, but %d by a %s:\n%s", line, verb.status, o.status, way, verb.err)
	}
	if (o.outputs > 0) != (verb.status == 0) {
		t.Errorf("%s: status %d, but %d outputs by a %s", line, verb.status, o.outputs, way)
	}
	for _, note := range o.notes {
		note, _, _ = strings.Cut(note, ";") // what stands behind is advice
		if !strings.Contains(verb.err+verb.out, strings.TrimPrefix(note, "finding: ")) {
			t.Errorf("%s: the verb does not say what the %s does: %q\n%s", line, way, note, verb.err)
		}
	}
}
