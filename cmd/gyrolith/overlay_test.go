package main

import (
	"encoding/json"
	"math"
	"slices"
	"strings"
	"testing"
)

// What lies inside of areas is the same by --inside and by overlay, to the byte of the points; outside is the rest.
func TestInsideIsOneThing(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	f.must("convert", "walk.gpx", "--inside", "planning.kmz:Nesting*", "-o", "chosen.gpx", "--quiet")
	f.must("overlay", "intersection", "walk.gpx", "--with", "planning.kmz:Nesting*", "-o", "computed.gpx", "--quiet")
	if f.get("chosen.gpx") != f.get("computed.gpx") {
		t.Error("a walk inside of closures is another by --inside than by overlay")
	}
	f.must("lay", "rings", "--datum", "47.58 S 11.30 E", "--radius", "2km", "-o", "ring.kml", "--quiet")
	f.must("convert", "planning.kmz", "--take", "waypoints", "--inside", "ring.kml", "-o", "marks.gpx", "--quiet")
	f.must("overlay", "intersection", "planning.kmz", "--take", "waypoints", "--with", "ring.kml", "-o", "marks2.gpx",
		"--quiet")
	if f.get("marks.gpx") != f.get("marks2.gpx") {
		t.Error("waypoints inside of closures are others by --inside than by overlay")
	}
	f.must("overlay", "difference", "walk.gpx", "--with", "planning.kmz:Nesting*", "-o", "rest.gpx", "--quiet")
	length := func(name string) (sum float64) {
		var got struct {
			Files []struct {
				Length float64 `json:"length_m"`
			}
		}
		if err := json.Unmarshal([]byte(f.must("look", name, "--json").out), &got); err != nil {
			t.Fatal(err)
		}
		return got.Files[0].Length
	}
	if in, out := length("computed.gpx"), length("rest.gpx"); in < 1000 || out < 1000 {
		t.Errorf("%f m inside and %f m outside", in, out)
	}
}

// made says whether there is a file of a name.
func (f *folder) made(name string) bool { return slices.Contains(f.list(), name) }

// sizes are those of a file's areas by look, and all of them together.
func (f *folder) sizes(t *testing.T, name string) (names []string, sizes []float64, sum float64) {
	t.Helper()
	var got struct {
		Files []struct {
			Items []struct {
				Kind, Name string
				Size       float64 `json:"area_m2"`
				Around     float64 `json:"perimeter_m"`
			}
		}
	}
	if err := json.Unmarshal([]byte(f.must("look", name, "--json").out), &got); err != nil {
		t.Fatal(err)
	}
	for _, it := range got.Files[0].Items {
		if it.Kind == "area" {
			names, sizes, sum = append(names, it.Name), append(sizes, it.Size), sum+it.Size
			if it.Size > 0 && it.Around*it.Around < 4*math.Pi*it.Size*0.99 {
				t.Errorf("%s: %f m² within %f m", it.Name, it.Size, it.Around)
			}
		}
	}
	return
}

// Parts add up to the whole, in every format that holds areas; a table and a layer have the size as a number.
func TestSizesEverywhere(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	_, _, whole := f.sizes(t, "planning.kmz")
	for _, ext := range []string{"geojson", "gpkg", "shp", "fgb", "kml", "gpx", "gml", "parquet"} {
		f.must("overlay", "divide", "planning.kmz", "--take", "areas", "--parts", "3", "-o", "parts."+ext, "--quiet")
		names, sizes, sum := f.sizes(t, "parts."+ext)
		if math.Abs(sum-whole) > 1e-5*whole || len(names) != 9 || names[1] != "Nesting, Cairn Hill west (b)" {
			t.Errorf("%s: %v add up to %f, of %f", ext, names, sum, whole)
		}
		if math.Abs(sizes[0]-sizes[1]) > 1e-4*sizes[0] {
			t.Errorf("%s: parts of %f and %f m²", ext, sizes[0], sizes[1])
		}
	}
	f.must("convert", "planning.kmz", "--take", "areas:*Wether*", "--columns", "name,size[m2],size[ac],perimeter", "-o",
		"sizes.csv", "--quiet")
	lines := strings.Split(f.get("sizes.csv"), "\r\n")
	if len(lines) < 2 || lines[0] != "name,size m2,size ac,perimeter m" ||
		!strings.HasPrefix(lines[1], `"Nesting, Wether Holm",25`) {
		t.Errorf("%q", lines)
	}
	f.must("dress", "planning.kmz", "--take", "areas", "--match", "areas", "--rename", "{name}, {size}", "-o", "named.kml",
		"--quiet")
	if names, _, _ := f.sizes(t, "named.kml"); !strings.HasSuffix(names[0], "55.7 ha") {
		t.Errorf("%v", names)
	}
}

const unsound = `{"type":"FeatureCollection","features":[
{"type":"Feature","properties":{"name":"Bow"},"geometry":{"type":"Polygon",
"coordinates":[[[11,-47],[11.1,-46.9],[11.1,-47],[11,-46.9],[11,-47]]]}},
{"type":"Feature","properties":{"name":"Open"},"geometry":{"type":"Polygon",
"coordinates":[[[11,-47],[11.1,-47],[11.1,-47.1],[11,-47.1],[15,-47]]]}},
{"type":"Feature","properties":{"name":"Not closed"},"geometry":{"type":"Polygon",
"coordinates":[[[12,-47],[12.1,-47],[12.1,-47.1],[12,-47.1]]]}},
{"type":"Feature","properties":{"name":"Outside"},"geometry":{"type":"Polygon",
"coordinates":[[[13,-47],[13.1,-47],[13.1,-46.9],[13,-46.9],[13,-47]],
[[14,-47],[14,-46.9],[14.1,-46.9],[14.1,-47],[14,-47]]]}},
{"type":"Feature","properties":{"name":"Sound"},"geometry":{"type":"Polygon",
"coordinates":[[[16,-47],[16.1,-47],[16.1,-46.9],[16,-47]]]}}]}`

// Outlines that are not sound are named with their place, mended where there is one answer, and left to the byte where
// there is none or nothing is wrong.
func TestUnsoundAreas(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("unsound.geojson", unsound)
	looked := f.must("look", "unsound.geojson").out
	for _, want := range []string{"crossings", `"Bow" crosses itself at 46.95000° S 11.05000° E`, "open-rings",
		`"Open" doesn't end where it begins, and was closed from 47.00000° S 15.00000° E`, "bad-holes",
		`"Outside" has a hole outside of its outline at 47.00000° S 14.00000° E`} {
		if !strings.Contains(looked, want) {
			t.Errorf("look does not say %q:\n%s", want, looked)
		}
	}
	if r := f.run("convert", "unsound.geojson", "-o", "strict.gpkg", "--strict"); r.status != 3 || f.made("strict.gpkg") {
		t.Errorf("status %d: %s", r.status, r.err)
	}
	f.must("convert", "unsound.geojson", "-o", "same.geojson", "--quiet")
	if r := f.must("clean", "unsound.geojson", "-o", "plain.geojson"); f.get("plain.geojson") != f.get("same.geojson") {
		t.Errorf("clean changes outlines without being asked: %s", r.err)
	}
	r := f.must("clean", "unsound.geojson", "--also", "crossings,open-rings,bad-holes", "-o", "mended.geojson")
	names, sizes, _ := f.sizes(t, "mended.geojson")
	if strings.Join(names, ",") != "Bow,Bow,Open,Not closed,Outside,Sound" || sizes[0] < 1e7 ||
		math.Abs(sizes[0]-sizes[1]) > 1 || sizes[2] != 0 || sizes[3] < 8e7 || sizes[4] != 0 {
		t.Errorf("%v %v", names, sizes)
	}
	for _, want := range []string{`area "Open"`, `area "Outside"`, "no one answer"} {
		if !strings.Contains(r.err, want) {
			t.Errorf("clean does not say %q: %s", want, r.err)
		}
	}
	last := func(name string) string {
		lines := strings.Split(strings.TrimSpace(f.get(name)), "\n")
		return lines[len(lines)-2]
	}
	if last("mended.geojson") != last("same.geojson") || !strings.Contains(last("same.geojson"), "Sound") {
		t.Errorf("a sound area is another one: %s", last("mended.geojson"))
	}
	if r := f.run("overlay", "union", "unsound.geojson", "-o", "union.geojson"); r.status != 1 ||
		!strings.Contains(r.err, `"Outside"`) && !strings.Contains(r.err, `"Open"`) || f.made("union.geojson") {
		t.Errorf("status %d: %s", r.status, r.err)
	}
}

// Mistakes of usage are said in a line, and what gives nothing writes nothing.
func TestOverlayMisused(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	for _, c := range []struct {
		line   string
		status int
		says   string
	}{
		{"overlay", 2, "union, intersection"},
		{"overlay merge planning.kmz -o x.kml", 2, `no "merge"`},
		{"overlay intersection walk.gpx -o x.gpx", 2, "--with"},
		{"overlay divide planning.kmz -o x.kml", 2, "--parts"},
		{"overlay divide planning.kmz --parts 1 -o x.kml", 2, "minimum is 2"},
		{"overlay buffer planning.kmz -o x.kml", 2, "--distance"},
		{"overlay buffer planning.kmz --distance 50 -o x.kml", 2, "50m"},
		{"overlay union planning.kmz --parts 3 -o x.kml", 2, "--parts"},
		{"overlay union walk.gpx -o x.kml", 5, "nothing"},
		{"overlay intersection walk.gpx --with planning.kmz:Zzz* -o x.gpx", 1, "Zzz"},
		{"overlay intersection walk.gpx --with walk.gpx -o x.gpx", 1, "has no areas"},
		{"overlay intersection walk.gpx --with none.kml -o x.gpx", 1, "none.kml"},
		{"overlay buffer planning.kmz --take areas --distance -5km -o x.kml", 5, "nothing"},
	} {
		r := f.run(strings.Fields(c.line)...)
		last := r.err[strings.LastIndex(strings.TrimSpace(r.err), "\n")+1:]
		if r.status != c.status || !strings.Contains(last, c.says) || f.made("x.kml") || f.made("x.gpx") {
			t.Errorf("%s: status %d, %s", c.line, r.status, r.err)
		}
	}
	f.must("overlay", "union", "planning.kmz", "--take", "areas", "-o", "once.kml", "--quiet")
	if r := f.run("overlay", "union", "planning.kmz", "--take", "areas", "-o", "once.kml"); r.status != 1 ||
		!strings.Contains(r.err, "--replace") {
		t.Errorf("status %d: %s", r.status, r.err)
	}
}

// Several pieces of one area are one where a format has such, and numbered areas where not, which is said.
func TestPiecesOfOneArea(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	ring := func(w, s, e, n string) string {
		return "[[[" + strings.Join([]string{w + "," + s, e + "," + s, e + "," + n, w + "," + n, w + "," + s}, "],[") + "]]]"
	}
	feature := func(name, ring string) string {
		return `{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"name":"` + name +
			`"},"geometry":{"type":"Polygon","coordinates":` + ring + `}}]}`
	}
	f.put("box.geojson", feature("Box", ring("11", "-47", "11.3", "-46.9")))
	f.put("bar.geojson", feature("Bar", ring("11.1", "-48", "11.2", "-46")))
	for _, ext := range []string{"geojson", "gpkg", "shp", "fgb", "kml", "gml", "parquet"} {
		f.must("overlay", "difference", "box.geojson", "--with", "bar.geojson", "-o", "rest."+ext, "--quiet")
		f.must("convert", "rest."+ext, "-o", "from-"+ext+".geojson", "--quiet")
		got := f.get("from-" + ext + ".geojson")
		if strings.Count(got, `"Feature"`) != 1 || !strings.Contains(got, "MultiPolygon") {
			t.Errorf("%s: %s", ext, got)
		}
	}
	r := f.must("overlay", "difference", "box.geojson", "--with", "bar.geojson", "-o", "rest.vpl")
	if !strings.Contains(r.err, "Box (1)") || !strings.Contains(r.err, "Box (2)") {
		t.Errorf("%s", r.err)
	}
}
