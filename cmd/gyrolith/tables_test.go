package main

import (
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// The office's list reaches the unit: what is wrong with it is said row by row, what is right arrives.
func TestOfficeListToUnit(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("stations.csv")
	r := f.must("convert", "stations.csv", "-o", "stations.gpx")
	for _, words := range []string{`lat from "Latitude", lon from "Longitude", name from "Station"`, "stations.csv:9: ",
		"no coordinates (ST-05", "stations.csv:12: ", `"-47,5962O" is not a number`,
		"row 11 (ST-07)", "row 7 (ST-03); with the opposite sign of the latitude"} {
		if !strings.Contains(r.err, words) {
			t.Errorf("%q is not said:\n%s", words, r.err)
		}
	}
	got := f.look("stations.gpx")
	if got.Files[0].Waypoints != 8 {
		t.Errorf("%d waypoints", got.Files[0].Waypoints)
	}
	f.refuses(3, "refused by --strict", "convert", "stations.csv", "-o", "strict.gpx", "--strict")
	if err := os.Mkdir(f.path("card"), 0o777); err != nil {
		t.Fatal(err)
	}
	f.must("stow", "stations.csv", "--inside", "11,-48,12,-47", "--unit", "ridge", "--card", "card")
	if r := f.must("boot", "--unit", "ridge", "--card", "card"); !strings.Contains(r.out, "ST-04") ||
		strings.Contains(r.out, "ST-03") {
		t.Errorf("the unit shows\n%s", r.out)
	}
}

// The recording reaches the GIS in its own system: positions, times and the coordinate system are in the files.
func TestRecordingToLayer(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	r := f.must("convert", "walk.gpx", "-o", "walk.gpkg", "--crs", "utm", "--track-points")
	for _, words := range []string{"EPSG:32732", "easting, northing in metres", "heights are not transformed"} {
		if !strings.Contains(r.err, words) {
			t.Errorf("%q is not said:\n%s", words, r.err)
		}
	}
	walk, layer := f.look("walk.gpx").Files[0], f.look("walk.gpkg").Files[0]
	if layer.Waypoints != walk.Waypoints+walk.Points-walk.Waypoints || layer.Tracks != walk.Tracks {
		t.Errorf("%d points and %d tracks of %d", layer.Waypoints, layer.Tracks, walk.Points)
	}
	for i := range walk.Bounds {
		if math.Abs(walk.Bounds[i]-layer.Bounds[i]) > 1e-8 {
			t.Errorf("the extent is %v, and was %v", layer.Bounds, walk.Bounds)
		}
	}
	f.must("convert", "walk.gpx", "-o", "walk.shp", "--crs", "3857")
	if got := strings.Join(f.list(), " "); !strings.Contains(got, "walk-lines.dbf") ||
		!strings.Contains(got, "walk-points.prj") {
		t.Errorf("files %s", got)
	}
	if !strings.Contains(f.get("walk-lines.prj"), "Mercator_Auxiliary_Sphere") {
		t.Errorf("%s", f.get("walk-lines.prj"))
	}
	// A set that is partly there is refused whole, and nothing of it is written.
	f.put("part-points.dbf", "mine")
	f.refuses(1, "part-points.dbf: already exists", "convert", "walk.gpx", "-o", "part.shp")
	if got := strings.Join(f.list(), " "); strings.Contains(got, "part-lines") ||
		strings.Contains(got, "part-points.shp") || f.get("part-points.dbf") != "mine" {
		t.Errorf("files %s", got)
	}
	f.must("convert", "walk.gpx", "-o", "part.shp", "--replace")
	if f.get("part-points.before-1.dbf") != "mine" {
		t.Error("what was replaced is not kept")
	}
	f.must("convert", "walk-lines.shp", "-o", "back.gpx")
	if back := f.look("back.gpx").Files[0]; back.Tracks != walk.Tracks {
		t.Errorf("%d tracks come back", back.Tracks)
	}
}

// Several zones of UTM are refused with the advice; a system that a format can't hold too.
func TestWrongSystems(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("wide.csv", "name,lat,lon\nA,-47.6,11.3\nB,-47.6,12.7\n")
	f.put("pole.csv", "name,lat,lon\nA,-88,11.3\nB,-88,12.7\n")
	f.refuses(1, "32 south (1 point), 33 south (1 point): give the number of one, such as 32732", "convert", "wide.csv",
		"-o", "x.shp", "--crs", "utm")
	f.refuses(1, "use 5041 (north) or 5042 (south)", "convert", "pole.csv", "-o", "x.shp", "--crs", "utm")
	f.refuses(2, "gpx is always WGS 84", "convert", "wide.csv", "-o", "x.gpx", "--crs", "utm")
	f.refuses(2, "EPSG:99999 is not a known system", "convert", "wide.csv", "-o", "x.shp", "--crs", "99999")
	f.refuses(2, "no datum shift from EPSG:4610", "convert", "wide.csv", "-o", "x.shp", "--crs", "4610")
	f.refuses(2, "utm alone doesn't give a zone", "convert", "wide.csv", "-o", "x.gpx", "--crs-in", "utm")
	f.refuses(2, "gpx is not a table", "convert", "wide.csv", "-o", "x.gpx", "--columns", "name")
	f.refuses(2, `"nme" is not a column`, "convert", "wide.csv", "-o", "x.csv", "--columns", "nme")
	f.refuses(2, "gpkg, shp, fgb, geoparquet, gml are layers", "convert", "wide.csv", "-o", "x.csv", "--track-points")
	f.refuses(2, "can't be added to (only gpkg", "convert", "wide.csv", "-o", "x.csv", "--append")
	f.refuses(2, "can't go to standard output", "convert", "wide.csv", "-o", "-", "--write-as", "shp")
	f.must("convert", "wide.csv", "-o", "wide.fgb")
	if r := f.run("look", "wide.fgb", "--inside", "50,1,51,2"); !strings.Contains(r.out,
		"lie outside the box by the index and were not read") {
		t.Error(r)
	}
	f.refuses(1, "gone.prj: there is no such file", "convert", "wide.csv", "-o", "x.shp", "--crs", "gone.prj")
	f.put("bad.prj", "hello")
	f.refuses(1, "bad.prj: is not the well-known text", "convert", "wide.csv", "-o", "x.shp", "--crs", "bad.prj")
	f.put("island.prj", `GEOGCS["GCS_X",DATUM["D_Island",SPHEROID["S",6378200,298.3]],PRIMEM["Greenwich",0],`+
		`UNIT["Degree",0.0174532925199433]]`)
	f.refuses(1, "give one with --shift X,Y,Z", "convert", "wide.csv", "-o", "x.shp", "--crs", "island.prj")
	f.must("convert", "wide.csv", "-o", "x.shp", "--crs", "island.prj", "--shift", "100,-20,30")
	if back := f.must("convert", "x.shp", "-o", "x.csv", "--shift", "100,-20,30",
		"--quiet"); !strings.Contains(f.get("x.csv"), "A,-47.6,11.3") {
		t.Errorf("there and back by a shift: %s%s", back.err, f.get("x.csv"))
	}
	f.put("broken.gsb", "NUM_OREC")
	f.refuses(1, "broken.gsb: is not an NTv2 shift grid", "convert", "wide.csv", "-o", "y.shp", "--crs", "4267",
		"--shift-grid",
		"broken.gsb")
}

// A table out, as it is asked for: columns with titles, a notation, projected coordinates, items as rows.
func TestTableOut(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.must("convert", "planning.kmz", "--take", "waypoints:Landings", "-o", "a.csv", "--columns",
		"name=Station,lat=Breite,lon,position=Where,symbol", "--notation", "min", "--quiet")
	rows := strings.Split(f.get("a.csv"), "\r\n")
	if rows[0] != "Station,Breite,lon,Where,symbol" ||
		rows[1] != "Sorrel Landing,-47.587048,11.279908,47°35.223′ S 011°16.794′ E,landing" {
		t.Errorf("%q", rows[:2])
	}
	f.must("convert", "planning.kmz", "--take", "waypoints:Landings", "-o", "utm.csv", "--notation", "utm", "--quiet")
	if rows := strings.Split(f.get("utm.csv"), "\r\n"); !strings.HasPrefix(rows[0],
		"kind,name,zone,easting,northing,") || !strings.HasPrefix(rows[1], "waypoint,Sorrel Landing,32 south,6714") {
		t.Errorf("%q", rows[:2])
	}
	f.must("convert", "utm.csv", "-o", "back.csv", "--quiet")
	if !strings.Contains(f.get("back.csv"), "Sorrel Landing,-47.58704") {
		t.Errorf("the zones are not read back: %s", f.get("back.csv"))
	}
	f.must("convert", "planning.kmz", "-o", "items.csv", "--rows", "items", "--quiet")
	if text := f.get("items.csv"); !strings.Contains(text, "kind,name,lat,lon,points,length") ||
		strings.Count(text, "\r\n") != 38 {
		t.Errorf("%d rows\n%s", strings.Count(text, "\r\n"), text)
	}
	r := f.must("convert", "planning.kmz", "-o", "all.xlsx")
	f.must("convert", "all.xlsx", "-o", "again.gpx", "--quiet")
	before, after := f.look("planning.kmz").Files[0], f.look("again.gpx").Files[0]
	if fmt.Sprint(before.Waypoints, before.Tracks, before.Areas, before.Points) != fmt.Sprint(after.Waypoints,
		after.Tracks, after.Areas, after.Points) {
		t.Errorf("by a workbook: %+v\n%s", after, r.err)
	}
}

// A GeoPackage is added to on a copy, the older file is kept, and a second time as well.
func TestAppend(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	f.must("convert", "planning.kmz", "-o", "survey.gpkg", "--quiet")
	before := f.get("survey.gpkg")
	f.refuses(1, "already exists", "convert", "walk.gpx", "-o", "survey.gpkg")
	r := f.must("convert", "walk.gpx", "-o", "survey.gpkg", "--append")
	if !strings.Contains(r.err, "kept as survey.before-1.gpkg") || f.get("survey.before-1.gpkg") != before {
		t.Errorf("the older file is not kept:\n%s", r.err)
	}
	plan, walk, both := f.look("planning.kmz").Files[0], f.look("walk.gpx").Files[0], f.look("survey.gpkg").Files[0]
	if both.Waypoints != plan.Waypoints+walk.Waypoints || both.Tracks != plan.Tracks+walk.Tracks ||
		both.Areas != plan.Areas {
		t.Errorf("%+v", both)
	}
	f.must("convert", "walk.gpx", "-o", "new.gpkg", "--append", "--dry-run")
	if _, err := os.Stat(f.path("new.gpkg")); err == nil {
		t.Error("a dry run writes")
	}
}

// where and crs say what they know, and what is wrong with the question.
func TestWhereAndCRS(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	// The figures of GeographicLib for this place.
	r := f.must("where", "-47.6", "11.3", "--crs", "32732", "--crs", "4258")
	for _, words := range []string{"47°36.000′ S 011°18.000′ E", "32 south 672888 4725593", "473600S0111800E",
		"672887.547 4725593.402", "11.300000000 -47.600000000"} {
		if !strings.Contains(r.out, words) {
			t.Errorf("%q is not in\n%s", words, r.out)
		}
	}
	if r = f.must("where", "672887.547", "4725593.402", "--crs-in", "32732", "--notation",
		"deg"); !strings.Contains(r.out, "47.60000° S 11.30000° E") {
		t.Errorf("%s", r.out)
	}
	if r = f.must("where", "47.6 S 11.3 E", "46 S 12 E", "--notation", "utm"); strings.Count(r.out, "south") != 2 {
		t.Errorf("two positions: %s", r.out)
	}
	f.refuses(2, "give a position", "where")
	f.refuses(1, "beyond 90 degrees", "where", "95", "11")
	f.refuses(1, `"nowhere" is not a position`, "where", "nowhere")
	f.refuses(1, "not an easting and a northing", "where", "47.6 S 11.3 E", "--crs-in", "32732")
	if r = f.must("crs", "27700"); !strings.Contains(r.out, "Airy 1830: 6377563.396 m") ||
		!strings.Contains(r.out, "good to 2 m") {
		t.Errorf("%s", r.out)
	}
	if r = f.must("crs", "utm zone 32s"); !strings.Contains(r.out, "32732") {
		t.Errorf("%s", r.out)
	}
	f.refuses(1, "no coordinate system matches", "crs", "atlantis")
	f.put("mine.prj", f.must("crs", "2154", "--prj").out)
	// the origin of that system
	if r = f.must("where", "46.5", "3", "--crs", "mine.prj"); !strings.Contains(r.out, "700000.000 6600000.000") {
		t.Errorf("%s", r.out)
	}
}

// Parts of a shapefile, and documents of offices, are called by their name.
func TestWrongParts(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.must("convert", "planning.kmz", "--take", "areas", "-o", "a.shp", "--quiet")
	f.refuses(1, "name the .shp beside it", "look", "a.dbf")
	f.put("old.xls", "\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1")
	f.refuses(1, "save it as .xlsx", "look", "old.xls")
	b := f.get("a.shp")
	f.put("cut.shp", b[:len(b)-9])
	for _, ext := range []string{".dbf", ".prj"} {
		f.put("cut"+ext, f.get("a"+ext))
	}
	f.refuses(1, "incomplete; --salvage takes", "convert", "cut.shp", "-o", "x.gpx")
	f.must("convert", "cut.shp", "-o", "x.gpx", "--salvage")
	if names, _ := filepath.Glob(f.path("*.part")); len(names) > 0 {
		t.Errorf("left behind: %v", names)
	}
}

// Latitude and longitude on another datum are brought to WGS 84 and back: figures of PROJ for the registry's
// parameters.
func TestOtherDatum(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("old.csv", "name,lat,lon\nA,52.5,-1.5\n")
	r := f.must("convert", "old.csv", "--crs-in", "4277", "-o", "wgs.csv")
	if !strings.Contains(r.err, "good to 2 m") || !strings.Contains(r.err, "longitude, latitude in degrees") {
		t.Errorf("what was assumed is not said: %s", r.err)
	}
	var lat, lon float64
	rows := strings.Split(f.get("wgs.csv"), "\r\n")
	cells := strings.Split(rows[1], ",")
	fmt.Sscan(cells[2], &lat)
	fmt.Sscan(cells[3], &lon)
	if math.Abs(lat-52.50037381) > 1e-7 || math.Abs(lon+1.50148799) > 1e-7 {
		t.Errorf("%v %v, want 52.50037381 -1.50148799, which an independent program has", lat, lon)
	}
	f.must("convert", "wgs.csv", "--crs", "4277", "-o", "again.csv", "--quiet")
	if !strings.Contains(f.get("again.csv"), "A,52.5,-1.5") {
		t.Errorf("and back: %s", f.get("again.csv"))
	}
}

// ownSystem is a project's transverse Mercator around the isles, with the middle at 20,000 m.
const ownSystem = `PROJCS["Veldrin_Grid",GEOGCS["GCS_WGS_1984",DATUM["D_WGS_1984",SPHEROID["WGS_1984",6378137.0,` +
	`298.257223563]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],` +
	`PARAMETER["False_Easting",20000.0],PARAMETER["False_Northing",5280000.0],PARAMETER["Central_Meridian",11.3],` +
	`PARAMETER["Scale_Factor",1.0],PARAMETER["Latitude_Of_Origin",0.0],UNIT["Meter",1.0]]`

// A layer that is written in the project's own system, by its .prj file, is read again at the same places.
func TestOwnSystem(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.put("grid.prj", ownSystem)
	for _, ext := range []string{"shp", "gpkg", "csv"} {
		r := f.must("convert", "planning.kmz", "--take", "waypoints", "--crs", "grid.prj", "-o", "isles."+ext)
		if !strings.Contains(r.err, "Veldrin_Grid") {
			t.Errorf("%s: the system is not said: %s", ext, r.err)
		}
		args := []string{"convert", "isles." + ext, "-o", "back-" + ext + ".gpx", "--quiet"}
		if ext == "csv" {
			args = append(args, "--crs-in", "grid.prj")
		}
		f.must(args...)
		before, after := f.look("planning.kmz", "--take", "waypoints").Files[0], f.look("back-" + ext + ".gpx").Files[0]
		for i := range before.Bounds {
			if math.Abs(before.Bounds[i]-after.Bounds[i]) > 2e-9 {
				t.Errorf("%s: the extent is %v, and was %v", ext, after.Bounds, before.Bounds)
			}
		}
	}
	// just west of the middle, at 20,000 m
	if !strings.HasPrefix(strings.Split(f.get("isles.csv"), "\r\n")[1], "waypoint,Sorrel Landing,18") {
		t.Errorf("%.200s", f.get("isles.csv"))
	}
}

// Positions are written in each one's own UTM zone and in a project's system: figures of PROJ.
func TestWhere(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("grid.prj", ownSystem)
	r := f.must("where", "47.65 S 11.2 E", "47.65 S 0.1 E", "--crs", "utm", "--crs", "grid.prj", "--notation", "min")
	for _, want := range []string{"12487.130 482.980", "-820921.306 -60627.433", "282222.394 4718524.8", "EPSG:32732 ",
		"EPSG:32731 (WGS 84 / UTM zone 31S): easting, northing in metres", "47°39.000′ S 011°12.000′ E"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("%q is missing in\n%s", want, r.out)
		}
	}
	if strings.Contains(r.out, "sec ") {
		t.Errorf("other notations than the one that was asked for:\n%s", r.out)
	}
	for _, text := range []string{"672887 4725593x", "672887,5 4725593,2", "nan 1", "672887"} {
		f.refuses(1, "is not an easting and a northing: write 672887 4725593", "where", text, "--crs-in", "32732")
	}
	f.refuses(2, "utm alone doesn't give a zone", "where", "672887 4725593", "--crs-in", "utm")
	f.refuses(2, "EPSG:1 is not a known system", "where", "47 S 11 E", "--crs", "1")
	f.refuses(1, "there is no such file", "where", "47 S 11 E", "--crs", "nothing.prj")
}
