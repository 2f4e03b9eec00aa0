package main

import (
	"fmt"
	"strings"
	"testing"
)

// The answers of the verbs that hand over, draw and run are one JSON document each, with what a script wants to know.
func TestMoreAnswers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "stations.csv", "walk.gpx", "rules.toml")
	list := func(v any) []any { l, _ := v.([]any); return l }
	looked := f.answer("look", "stations.csv", "--json")
	file := list(looked["files"])[0].(map[string]any)
	if file["format"] != "csv" || len(list(file["read_as"])) != 1 ||
		!strings.Contains(fmt.Sprint(file["read_as"]), "Latitude") {
		t.Errorf("%v", file["read_as"])
	}
	codes := fmt.Sprint(file["problems"])
	if !strings.Contains(codes, "suspicious") || !strings.Contains(codes, "strays") {
		t.Errorf("%s", codes)
	}
	set := f.answer("convert", "planning.kmz", "-o", "s.shp", "--json")
	if len(list(set["files"])) != 15 || set["format"] != "shp" ||
		!strings.Contains(fmt.Sprint(set["ledger"]), "field name") {
		t.Errorf("%v", set["files"])
	}
	systems := list(f.answer("crs", "27700", "--json")["systems"])
	if s := systems[0].(map[string]any); len(systems) != 1 || s["epsg"] != 27700.0 || s["accuracy_m"] != 2.0 {
		t.Errorf("%v", systems)
	}
	spot := list(f.answer("where", "-47.6", "11.3", "--crs", "32732", "--json")["positions"])[0].(map[string]any)
	if n := spot["notations"].(map[string]any); n["plan"] != "473600S0111800E" || spot["lat"] != -47.6 {
		t.Errorf("%v", spot)
	}
	if s := list(spot["systems"])[0].(map[string]any); int(s["east"].(float64)) != 672887 {
		t.Errorf("%v", s)
	}
	picture := f.answer("draw", "walk.gpx", "-o", "x.svg", "--json")
	if picture["width"] != 1280.0 || picture["tracks"] != 1.0 || len(list(picture["notes"])) == 0 {
		t.Errorf("%v", picture)
	}
	if r := list(f.answer("recipes", "--json")["recipes"]); len(r) != 4 {
		t.Errorf("%v", r)
	}
	run := f.answer("run", "make-ready", "planning.kmz", "--into", "out", "--json")
	results := list(run["results"])
	if run["done"] != 1.0 || run["refused"] != 0.0 || len(results) != 1 ||
		len(results[0].(map[string]any)["outputs"].(map[string]any)) != 2 {
		t.Errorf("%v", run)
	}
	if again := f.answer("run", "make-ready", "planning.kmz", "--into", "out", "--json"); again["kept"] != 1.0 ||
		again["done"] != 0.0 {
		t.Errorf("%v", again)
	}
}

// Tables are inputs like any other: of legs, of a comparison, chosen by kind and place.
func TestTablesEverywhere(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("run.csv", "name;lat;lon;run\nA;-47,60;11,30;1\nB;-47,61;11,30;1\nC;-47,61;11,32;1\n")
	if r := f.must("legs", "run.csv", "--line-by", "run", "--measure", "metric"); strings.Count(r.out, "km") < 2 {
		t.Errorf("legs of a table: %s", r.out)
	}
	f.must("convert", "run.csv", "-o", "run.gpx", "--quiet")
	if r := f.must("compare", "run.csv", "run.gpx"); !strings.Contains(r.out+r.err, "no difference") {
		t.Errorf("compare: %s%s", r.out, r.err)
	}
	if r := f.runWith("name,lat,lon\nX,1,2\n", "convert", "-", "-o", "-", "--write-as", "csv"); r.status != 0 ||
		!strings.Contains(r.out, "waypoint,X,1,2") {
		t.Errorf("from standard input: %s%s", r.out, r.err)
	}
	f.must("recast", "run.csv", "--waypoints-to", "routes", "--name", "Run", "-o", "run.rtz", "--quiet")
	if got := f.look("run.rtz").Files[0]; got.Routes != 1 || got.Points != 3 {
		t.Errorf("%+v", got)
	}
}

// What is awkward about office lists is met with a line that says what to do.
func TestAwkwardTables(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("grid.csv", "Punkt;Rechtswert;Hochwert\nA;672887,5;4725593,4\n")
	f.refuses(1, `"Rechtswert" and "Hochwert"; give it with --crs-in`, "look", "grid.csv")
	f.must("convert", "grid.csv", "-o", "grid.gpx", "--crs-in", "32732", "--quiet")
	if !strings.Contains(f.get("grid.gpx"), `lat="-47.6000000`) {
		t.Errorf("%s", f.get("grid.gpx"))
	}
	f.put("us.csv", "name,lat,lon,date\nA,-47.6,11.3,03/04/2026\nB,-47.7,11.3,03/05/2026\n")
	if r := f.must("convert", "us.csv", "-o", "us.gpx"); !strings.Contains(r.err, "day and month or month and day") ||
		!strings.Contains(f.get("us.gpx"), "03/04/2026") {
		t.Errorf("an ambiguous date: %s", r.err)
	}
	f.put("swap.csv", "name,lat,lon\nA,111.3,-47.6\nB,111.4,-47.6\n")
	f.refuses(1, "no waypoint", "convert", "swap.csv", "-o", "swap.gpx")
	if r := f.run("convert", "swap.csv", "-o", "swap.gpx"); !strings.Contains(r.err, "seem to be swapped") ||
		!strings.Contains(r.err, "--columns-in lat=lon,lon=lat") {
		t.Errorf("%s", r.err)
	}
	f.must("convert", "swap.csv", "-o", "swap.gpx", "--columns-in", "lat=lon,lon=lat", "--quiet")
	f.put("open.csv", "name,lat,lon\n\"A,1,2\nB,3,4\n")
	f.refuses(1, "open.csv:2: a quoted cell starts here and doesn't end", "convert", "open.csv", "-o", "x.gpx")
	f.put("prose.txt", "Dear all,\n\nplease find the list attached.\n")
	f.refuses(1, "not in a recognised format", "convert", "prose.txt", "-o", "x.gpx")
	f.put("formula.csv", "name,lat,lon,note\n'=1+1,-47.6,11.3,=HYPERLINK(\"x\")\n")
	f.must("convert", "formula.csv", "-o", "formula-out.csv", "--quiet")
	if out := f.get("formula-out.csv"); !strings.Contains(out, "waypoint,'=1+1,-47.6,11.3,\"'=HYPERLINK") {
		t.Errorf("a cell is a formula: %s", out)
	}
	many := "name,lat,lon\n"
	for i := range 40 {
		many += fmt.Sprintf("P%d,%s,11.3\n", i, []string{"-47.6", "x"}[i%2])
	}
	f.put("many.csv", many)
	if r := f.must("convert", "many.csv", "-o", "many.gpx"); !strings.Contains(r.err,
		"10 more positions were left out, in lines 23, 25,") {
		t.Errorf("the places of the rest: %s", r.err)
	}
}

// An output of a recipe is one that a person could have made with the verbs, layers and pictures too.
func TestRecipeOutputs(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putTerrain()
	f.putDemo("walk.gpx", "planning.kmz")
	f.put("all.toml", `[[output]]
file = "{name}.shp"
crs = "utm"
[[output]]
file = "{name}.csv"
columns = "name,lat,lon"
take = ["waypoints"]
[[output]]
do = "draw"
file = "{name}.svg"
terrain = "terrain"
section = "distance"
size = "640x480"
[[output]]
file = "{name}-unit.gpx"
unit = "ridge"
`)
	f.must("run", "all.toml", "walk.gpx", "planning.kmz", "--into", "out", "--quiet")
	f.must("convert", "planning.kmz", "--crs", "utm", "-o", "hand.shp", "--quiet")
	f.must("convert", "planning.kmz", "--take", "waypoints", "--columns", "name,lat,lon", "-o", "hand.csv", "--quiet")
	f.must("draw", "planning.kmz", "--terrain", "terrain", "--section", "distance", "--size", "640x480", "-o",
		"hand.svg", "--quiet")
	f.must("convert", "planning.kmz", "--unit", "ridge", "-o", "hand-unit.gpx", "--quiet")
	for hand, chain := range map[string]string{"hand-points.shp": "planning-points.shp",
		"hand-lines.dbf": "planning-lines.dbf", "hand-areas.prj": "planning-areas.prj", "hand.csv": "planning.csv",
		"hand.svg": "planning.svg", "hand-unit.gpx": "planning-unit.gpx"} {
		if f.get(hand) != f.get("out/"+chain) {
			t.Errorf("%s by hand and %s by recipe differ", hand, chain)
		}
	}
	if !strings.Contains(f.get("out/journal.jsonl"), "walk-lines.shx") {
		t.Error("the journal does not know all files of a set")
	}
	f.put("out2.toml", "[[output]]\ndo = \"draw\"\nfile = \"{name}.gpx\"\n")
	f.refuses(2, "doesn't give the form of the drawing", "run", "out2.toml", "walk.gpx", "--into", "out2")
	f.put("out3.toml", "[[output]]\nfile = \"{name}.gpx\"\ncrs = \"utm\"\n")
	f.refuses(2, "gpx is always WGS 84", "run", "out3.toml", "walk.gpx", "--into", "out3")
	f.put("out4.toml", "[[output]]\ndo = \"stow\"\nunit = \"rigde\"\ncard = \"{name}\"\n")
	f.refuses(2, "out4.toml:", "run", "out4.toml", "walk.gpx", "--into", "out4")
}
