package main

import (
	"encoding/binary"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strings"
	"testing"
)

// state gives what look --verify says of a file.
func (f *folder) verified(name string) (state, why string) {
	f.t.Helper()
	r := f.run("look", name, "--verify", "--json")
	var answer struct {
		Files []struct{ State, Why string }
	}
	text, _, _ := strings.Cut(r.out, "\n}\n")
	unmarshal(f.t, text+"}", &answer)
	if len(answer.Files) != 1 {
		f.t.Fatalf("%s: %s %s", name, r.out, r.err)
	}
	if got := answer.Files[0]; (got.State == "whole") != (r.status == 0) {
		f.t.Errorf("%s is %s, status %d", name, got.State, r.status)
	}
	return answer.Files[0].State, answer.Files[0].Why
}

// A file that contradicts itself is said to, and refused under --strict; what the program writes never does.
func TestContradictions(t *testing.T) {
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	for _, ext := range []string{"gpx", "kml", "kmz", "gpkg", "fgb", "parquet", "geojson", "csv", "xlsx", "gml"} {
		f.must("convert", "planning.kmz", "walk.gpx", "-o", "plan."+ext)
		if state, why := f.verified("plan." + ext); state != "whole" {
			t.Errorf("what was written as %s is %s: %s", ext, state, why)
		}
	}
	f.must("convert", "planning.kmz", "--take", "waypoints", "-o", "marks.shp")
	bytesOf := func(name string, change func(b []byte) []byte) string {
		return string(change([]byte(f.get(name))))
	}
	put16 := func(at int, v uint16) func([]byte) []byte {
		return func(b []byte) []byte { binary.LittleEndian.PutUint16(b[at:], v); return b }
	}
	shape := func(name string, parts map[string]func([]byte) []byte) {
		for _, ext := range []string{".shp", ".shx", ".dbf", ".prj", ".cpg"} {
			change := parts[ext]
			if change == nil {
				change = func(b []byte) []byte { return b }
			}
			f.put(name+ext, bytesOf("marks"+ext, change))
		}
	}
	shape("head", map[string]func([]byte) []byte{".dbf": put16(8, 65)})       // one column alone
	shape("records", map[string]func([]byte) []byte{".dbf": put16(4, 30)})    // more than there are
	shape("box", map[string]func([]byte) []byte{".shp": put16(52+6, 0xC000)}) // the box ends in the west
	shape("index", map[string]func([]byte) []byte{".shx": func(b []byte) []byte { return b[:len(b)-16] }})
	shape("numbers", map[string]func([]byte) []byte{".shp": func(b []byte) []byte { b[100+3] = 9; return b }})
	shape("longer", map[string]func([]byte) []byte{".shp": func(b []byte) []byte { return append(b, 0, 0, 0, 0) }})
	for name, statement := range map[string]string{
		"unlisted": "DELETE FROM gpkg_contents WHERE table_name = 'waypoints'",
		"columns":  "DELETE FROM gpkg_geometry_columns WHERE table_name = 'waypoints'",
		"gone":     "DROP TABLE routes",
		"index":    "DELETE FROM rtree_waypoints_geom WHERE id = 3",
		"count":    "CREATE TABLE gpkg_ogr_contents AS SELECT 'waypoints' table_name, 9 feature_count",
	} {
		f.put("round.csv", "kind,line,name,lat,lon\nroute,R,A,-47,11\nroute,R,B,-48,11\nwaypoint,,C,-47,12\n")
		f.must("convert", "planning.kmz", "round.csv", "--take", "waypoints", "--take", "routes", "-o", name+".gpkg")
		f.edit(name+".gpkg", "PRAGMA foreign_keys = OFF", statement)
	}
	f.put("mistaken.gpx", strings.Replace(f.get("plan.gpx"), `encoding="UTF-8"`, `encoding="ISO-8859-1"`, 1))
	f.put("task.igc", "AXXXGYR\r\nC140326053000140326000105Task\r\nC0000000N00000000ETAKEOFF\r\nC4736000S01118000EA\r\n"+
		"C4737000S01119000EB\r\nC4736000S01118000EC\r\nC0000000N00000000ELANDING\r\n")
	north := f.look("plan.fgb").Files[0].Bounds[3]
	bits := func(v float64) string { return string(binary.LittleEndian.AppendUint64(nil, math.Float64bits(v))) }
	f.put("box.fgb", strings.Replace(f.get("plan.fgb"), bits(north), bits(north-0.01), 1))
	f.edit("plan.gpkg", "UPDATE gpkg_contents SET max_y = max_y - 1")
	if out := f.must("look", "plan.gpkg").out; !strings.Contains(out, "the extent that is noted") {
		t.Errorf("a stale extent is not said: %s", out)
	}
	if state, _ := f.verified("plan.gpkg"); state != "whole" { // it is for information only
		t.Errorf("a stale extent makes a file %s", state)
	}
	for name, words := range map[string]string{"box.fgb": "outside of the box",
		"head.shp": "records have", "records.shp": "30 records", "box.shp": "box",
		"index.shp": ".shx", "numbers.shp": "numbered", "longer.shp": "bytes", "unlisted.gpkg": "not in the contents",
		"columns.gpkg": "none of its columns", "gone.gpkg": "no such table", "index.gpkg": "index", "count.gpkg": "noted",
		"mistaken.gpx": "UTF-8", "task.igc": "5 turn points"} {
		if state, why := f.verified(name); state != "contradictory" || !strings.Contains(why, words) {
			t.Errorf("%s is %s: %s", name, state, why)
		}
		f.refuses(3, "", "convert", name, "-o", "refused.gpx", "--strict")
	}
	f.must("convert", "unlisted.gpkg", "-o", "read.gpx")
	if n := f.look("read.gpx").Files[0].Waypoints; n != 27 {
		t.Errorf("of a layer that the contents don't name %d marks are read", n)
	}
}

// A folder is gone through whole: the cut and the damaged are named, and what is no data is passed over.
func TestVerifyFolder(t *testing.T) {
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.must("convert", "planning.kmz", "-o", "in/{name}.gpx")
	whole := f.get("in/planning.gpx")
	f.put("in/cut.gpx", whole[:len(whole)/2])
	f.put("in/head.gpx", "GPX"+whole[2:])
	f.put("in/notes.txt", "Dear all")
	f.must("convert", "planning.kmz", "-o", "in/layer.shp")
	r := f.run("look", "in", "--verify")
	var got []string
	for line := range strings.Lines(r.out) {
		if w := strings.Fields(line); strings.HasPrefix(w[0], "in/") {
			got = append(got, w[0][3:]+" "+w[1])
		}
	}
	slices.Sort(got)
	want := []string{"cut.gpx cut", "head.gpx damaged", "layer-areas.shp whole", "layer-lines.shp whole",
		"layer-points.shp whole", "planning.gpx whole"}
	if r.status != 1 || fmt.Sprint(got) != fmt.Sprint(want) {
		t.Errorf("status %d: %q\n%s", r.status, got, r.err)
	}
}

// What every format stores is found again when it is read back, in every notation, in folders and recipes; nothing is
// kept of a table that can't give it back.
func TestReadBack(t *testing.T) {
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	f.must("recast", "planning.kmz", "--take", "waypoints:Landings", "--waypoints-to", "routes", "-o", "round.gpx")
	for _, args := range [][]string{{"a.gpx"}, {"a.kml"}, {"a.kmz"}, {"a.gpkg"}, {"a.fgb"}, {"a.parquet"}, {"a.geojson"},
		{"a.csv"}, {"a.xlsx"}, {"a.gml"}, {"a.shp"}, {"a.rtz"}, {"a.igc"}, {"a.tlk"}, {"a.vpl"}, {"a.krd"},
		{"min.csv", "--notation", "min"}, {"mgrs.csv", "--notation", "mgrs"}, {"plan.csv", "--notation", "plan"},
		{"utm.csv", "--crs", "utm"}, {"utm.shp", "--crs", "utm"},
		{"rows.csv", "--rows", "items", "--columns", "kind,name,wkt"},
		{"unit.gpx", "--unit", "ridge"}} {
		r := f.must(append([]string{"convert", "planning.kmz", "walk.gpx", "round.gpx", "--read-back", "-o"}, args...)...)
		if m := againOf.FindStringSubmatch(r.err); m == nil || m[1] != m[2] {
			t.Errorf("%v: %s", args, r.err)
		}
	}
	f.must("convert", "walk.gpx", "--append", "-o", "a.gpkg", "--read-back")
	f.must("convert", "planning.kmz", "walk.gpx", "-o", "out-{name}.kml", "--read-back")
	f.refuses(1, "these columns", "convert", "planning.kmz", "-o", "b.csv", "--columns", "name,lat,lon", "--read-back")
	f.refuses(2, "standard output", "convert", "planning.kmz", "-o", "-", "--write-as", "gpx", "--read-back")
}

var againOf = regexp.MustCompile(`; (\d+) of (\d+) found again`)
