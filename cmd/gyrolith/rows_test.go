package main

import (
	"database/sql"
	"encoding/binary"
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	_ "gyrolith/core/format/gpkg" // the functions of geometries that triggers of a GeoPackage call
)

// edit changes a GeoPackage as somebody does with a database tool.
func (f *folder) edit(name string, statements ...string) {
	f.t.Helper()
	db, err := sql.Open("sqlite", "file:"+f.path(name))
	if err != nil {
		f.t.Fatal(err)
	}
	defer db.Close()
	for _, s := range statements {
		if _, err := db.Exec(s); err != nil {
			f.t.Fatalf("%s: %v", s, err)
		}
	}
}

// pointAt is a geometry of a GeoPackage as SQL has it (clause 2.1.3).
func pointAt(lat, lon float64) string {
	b := append([]byte("GP\x00\x01"), 0xe6, 0x10, 0, 0, 1, 1, 0, 0, 0)
	b = binary.LittleEndian.AppendUint64(b, math.Float64bits(lon))
	return fmt.Sprintf("X'%x'", binary.LittleEndian.AppendUint64(b, math.Float64bits(lat)))
}

// shown lists the names that the unit of a card shows, sorted.
func (f *folder) shown(card string) []string {
	f.t.Helper()
	var answer struct {
		Shows struct {
			Files []struct {
				Items []struct{ Name string }
			}
		}
	}
	unmarshal(f.t, f.must("boot", "--card", card, "--json").out, &answer)
	var names []string
	for _, item := range answer.Shows.Files[0].Items {
		names = append(names, item.Name)
	}
	slices.Sort(names)
	return names
}

func unmarshal(t testing.TB, text string, into any) {
	t.Helper()
	if err := json.Unmarshal([]byte(text), into); err != nil {
		t.Fatalf("%v: %s", err, text)
	}
}

const marks = "name,lat,lon\nRock 1,-47.57,11.31\nRock 2,-47.58,11.32\nRock 3,-47.59,11.33\nRock 4,-47.60,11.34\n"

// A mark that somebody renames and moves in a layer is that mark on the unit, and on no account another: by the
// identity that its row was written with, or by the number of its feature where the layer is somebody else's.
func TestEditedRowsKeepTheirIdentity(t *testing.T) {
	moved := "UPDATE waypoints SET name = 'Skarn', geom = " + pointAt(-47.65, 11.39) + " WHERE name = 'Rock 2'"
	foreign := `ALTER TABLE waypoints DROP COLUMN "item id"`
	for _, c := range []struct {
		name            string
		before, between []string
		first           string // the file of which the card is made
		want            string
	}{
		{"ours", []string{moved}, nil, "marks.csv", "Rock 1 Rock 3 Rock 4 Skarn"},
		{"a feature's number", nil, []string{moved}, "office.gpkg", "Rock 1 Rock 3 Rock 4 Skarn"},
		{"names that change places", nil, []string{"UPDATE waypoints SET name = 'x' WHERE fid = 1",
			"UPDATE waypoints SET name = 'Rock 1' WHERE fid = 3", "UPDATE waypoints SET name = 'Skarn' WHERE fid = 1"},
			"office.gpkg", "Rock 1 Rock 2 Rock 4 Skarn"},
		{"features that were numbered anew", nil, []string{"DELETE FROM waypoints WHERE fid = 1",
			"UPDATE waypoints SET fid = fid - 1", "UPDATE waypoints SET name = 'Skarn' WHERE name = 'Rock 4'"},
			"office.gpkg", "Rock 1 Rock 2 Rock 3 Skarn"},
	} {
		t.Run(c.name, func(t *testing.T) {
			t.Parallel()
			f := newFolder(t)
			f.put("marks.csv", marks)
			f.put("card/empty", "")
			f.must("convert", "marks.csv", "-o", "office.gpkg")
			if c.before == nil {
				f.edit("office.gpkg", foreign)
			}
			f.must("stow", c.first, "--unit", "ridge", "--card", "card")
			f.edit("office.gpkg", slices.Concat(c.before, c.between)...)
			f.must("stow", "office.gpkg", "--card", "card", "--add")
			if got := strings.Join(f.shown("card"), " "); got != c.want {
				t.Errorf("the unit shows %s, want %s", got, c.want)
			}
		})
	}
}

// Another office's layer has features of the same numbers, which are other marks.
func TestFeaturesOfOtherFilesAreOthers(t *testing.T) {
	f := newFolder(t)
	f.put("card/empty", "")
	for i, name := range []string{"a.gpkg", "b.gpkg"} {
		f.put("marks.csv", fmt.Sprintf("name,lat,lon\nNo %d,-47.%d,11.31\n", i, 57+i))
		f.must("convert", "marks.csv", "-o", name)
		f.edit(name, `ALTER TABLE waypoints DROP COLUMN "item id"`)
	}
	f.must("stow", "a.gpkg", "--unit", "ridge", "--card", "card")
	f.must("stow", "b.gpkg", "--card", "card", "--add")
	if got := f.shown("card"); len(got) != 2 {
		t.Errorf("the unit shows %v", got)
	}
	if out := f.must("merge", "a.gpkg", "b.gpkg", "-o", "both.gpx"); strings.Contains(out.out, "conflict") {
		t.Errorf("merged by number: %s", out.out)
	}
	if f.must("convert", "a.gpkg", "--key", "fid", "-o", "a.csv"); !strings.Contains(f.get("a.csv"), "fid") {
		t.Errorf("the number is no key: %s", f.get("a.csv"))
	}
}

// A layer that comes back has no times; they are no change, so that what it lacks is deleted and what it renames is
// renamed, in whichever order the versions are named, and the times stay.
func TestLayersComeBack(t *testing.T) {
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	f.must("convert", "walk.gpx", "planning.kmz", "-o", "base.gpx")
	for _, name := range []string{"office.gpkg", "office.fgb", "office.shp", "office.geojson"} {
		f.must("convert", "base.gpx", "-o", name)
	}
	f.edit("office.gpkg", "DELETE FROM tracks WHERE name = 'Transect 1'",
		"UPDATE waypoints SET name = 'Gully' WHERE name = 'Skarn Gully'")
	f.put("mine.gpx", strings.ReplaceAll(f.get("base.gpx"), "<name>Rock ", "<name>Head "))
	for i, pair := range [][]string{{"mine.gpx", "office.gpkg"}, {"office.gpkg", "mine.gpx"}} {
		out := f.must("merge", "--base", "base.gpx", pair[0], pair[1], "-o", fmt.Sprint(i, ".gpx"), "--json")
		var answer struct {
			Conflicts []any
			Removed   []struct{ Name string }
			Changed   []struct{ Property, Name string }
		}
		unmarshal(t, out.out, &answer)
		if len(answer.Conflicts) > 0 || len(answer.Removed) != 1 || len(answer.Changed) != 12 {
			t.Errorf("%v: %d conflicts, removed %v, changed %v", pair, len(answer.Conflicts), answer.Removed, answer.Changed)
		}
	}
	f.must("compare", "0.gpx", "1.gpx", "--strict")
	for _, name := range []string{"office.fgb", "office.geojson"} {
		out := f.must("merge", "--base", "base.gpx", name, "base.gpx", "-o", name+".gpx")
		if strings.Contains(out.out, "conflict") || strings.Contains(out.out, "points →") {
			t.Errorf("%s: %s", name, out.out)
		}
		f.must("compare", "base.gpx", name+".gpx", "--strict")
	}
}

// A name that somebody settled for the unit stays when the office renames the mark, and no two marks get one name.
func TestSettledNamesOutlastRenaming(t *testing.T) {
	f := newFolder(t)
	f.put("marks.csv", marks)
	f.put("card/empty", "")
	f.must("stow", "marks.csv", "--unit", "ridge", "--card", "card", "--names", "names.csv")
	f.put("names.csv", strings.Replace(f.get("names.csv"), "waypoint,Rock 3,", "waypoint,FELS,", 1))
	f.must("convert", "marks.csv", "-o", "office.gpkg")
	f.edit("office.gpkg", "UPDATE waypoints SET name = 'Rock Three' WHERE name = 'Rock 3'",
		"UPDATE waypoints SET name = 'Rock One' WHERE name = 'Rock 1'",
		"UPDATE waypoints SET name = 'Rock 1' WHERE name = 'Rock 2'")
	f.must("stow", "office.gpkg", "--card", "card", "--add", "--names-from", "names.csv")
	if got := strings.Join(f.shown("card"), ", "); got != "FELS, Rock 1, Rock 4, Rock One" {
		t.Errorf("the unit shows %s", got)
	}
}

// What a file has is not added again; what it has with other values is said, and gets the new ones where that is asked
// for, in its own row, in which columns of others stay.
func TestAppendUpdates(t *testing.T) {
	f := newFolder(t)
	f.put("marks.csv", "name,lat,lon,depth\nRock 1,-47.57,11.31,4\nRock 2,-47.58,11.32,5\n")
	f.must("convert", "marks.csv", "-o", "office.gpkg")
	f.edit("office.gpkg", "ALTER TABLE waypoints ADD COLUMN inspector TEXT", "UPDATE waypoints SET inspector = 'Ane'")
	out := f.must("convert", "marks.csv", "-o", "office.gpkg", "--append").err
	if !strings.Contains(out, "2 already there") {
		t.Errorf("a list that is there was added: %s", out)
	}
	f.put("new.csv", "name,lat,lon,depth\nRock 1,-47.57,11.31,7\nRock 2,-47.58,11.32,5\nRock 3,-47.59,11.33,6\n")
	f.refuses(3, "", "convert", "new.csv", "-o", "office.gpkg", "--append", "--strict")
	if out := f.must("convert", "new.csv", "-o", "office.gpkg", "--append"); !strings.Contains(out.err, "other values") {
		t.Errorf("that a value differs is not said: %s", out.err)
	}
	rows := func() string {
		f.must("convert", "office.gpkg", "--columns", "name,field:depth,field:inspector", "-o", "rows.csv", "--replace")
		return strings.ReplaceAll(f.get("rows.csv"), "\r", "")
	}
	if got := rows(); got != "name,depth,inspector\nRock 1,4,Ane\nRock 2,5,Ane\nRock 3,6,\n" {
		t.Errorf("without an update: %s", got)
	}
	f.must("convert", "new.csv", "-o", "office.gpkg", "--append", "--update")
	if got := rows(); got != "name,depth,inspector\nRock 1,7,Ane\nRock 2,5,Ane\nRock 3,6,\n" {
		t.Errorf("after an update: %s", got)
	}
}

// What is to be updated and stands in a layer of another system, or has its points as rows, is refused, not doubled.
func TestUpdatesThatCannotBe(t *testing.T) {
	f := newFolder(t)
	f.putDemo("walk.gpx")
	f.put("marks.csv", "name,lat,lon,depth\nRock 1,-47.57,11.31,4\n")
	f.put("new.csv", "name,lat,lon,depth\nRock 1,-47.57,11.31,7\n")
	f.must("convert", "marks.csv", "-o", "theirs.gpkg")
	f.refuses(1, "layers of another name", "convert", "new.csv", "-o", "theirs.gpkg", "--append", "--update",
		"--crs", "32732")
	f.must("convert", "walk.gpx", "--take", "tracks", "--track-points", "-o", "points.gpkg")
	again := f.must("convert", "walk.gpx", "--take", "tracks", "--track-points", "-o", "points.gpkg", "--append").err
	if !strings.Contains(again, "already there") {
		t.Errorf("a recording that is there was added: %s", again)
	}
	f.must("dress", "walk.gpx", "--take", "tracks", "--match", "tracks:*", "--colour", "red", "-o", "red.gpx")
	f.refuses(1, "rows of their own", "convert", "red.gpx", "--track-points", "-o", "points.gpkg", "--append", "--update")
}

// A table of which a trigger changes what is no bookkeeping is not written to, and the trigger is named; counts and
// extents are kept by their triggers.
func TestTriggersOfStrangers(t *testing.T) {
	f := newFolder(t)
	f.put("a.csv", marks)
	f.put("b.csv", "name,lat,lon\nRock 9,-47.51,11.31\n")
	f.must("convert", "a.csv", "-o", "plain.gpkg")
	for name, statements := range map[string][]string{
		"eats": {"CREATE TRIGGER eats AFTER INSERT ON waypoints BEGIN DELETE FROM waypoints WHERE fid = NEW.fid; END"},
		"logs": {"CREATE TABLE log (n)",
			"CREATE TRIGGER logs AFTER INSERT ON waypoints BEGIN INSERT INTO log VALUES (1); END"},
		"hidden": {"CREATE TRIGGER hidden AFTER INSERT ON waypoints BEGIN SELECT '--'; DELETE /* */ FROM waypoints; END"},
		"far": {"CREATE TRIGGER near AFTER INSERT ON waypoints BEGIN UPDATE gpkg_contents SET description = ''; END",
			"CREATE TRIGGER far AFTER UPDATE ON gpkg_contents BEGIN DELETE FROM waypoints; END"},
		"endless": {"CREATE TABLE log (n)", "CREATE TRIGGER endless AFTER INSERT ON waypoints BEGIN INSERT INTO log " +
			"WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c) SELECT x FROM c; END"},
	} {
		file := name + ".gpkg"
		f.put(file, f.get("plain.gpkg"))
		f.edit(file, statements...)
		before := f.get(file)
		f.refuses(1, "trigger "+name, "convert", "b.csv", "-o", file, "--append")
		if f.get(file) != before {
			t.Errorf("%s: the file was changed", name)
		}
	}
	f.edit("plain.gpkg", "CREATE TABLE gpkg_count (n)", "INSERT INTO gpkg_count VALUES (4)",
		"CREATE TRIGGER counts AFTER INSERT ON waypoints BEGIN UPDATE gpkg_count SET n = n + 1; END")
	f.must("convert", "b.csv", "-o", "plain.gpkg", "--append")
	f.edit("plain.gpkg", "CREATE VIEW v AS SELECT 1 / (n = 5) FROM gpkg_count")
	if look := f.look("plain.gpkg"); look.Files[0].Waypoints != 5 {
		t.Errorf("%d waypoints", look.Files[0].Waypoints)
	}
}

// The number of a feature means nothing in another file: that it is not there is no loss, and no column of a table.
func TestFeatureNumbersAreNoBaggage(t *testing.T) {
	f := newFolder(t)
	f.put("marks.csv", marks)
	f.must("convert", "marks.csv", "-o", "office.gpkg")
	f.edit("office.gpkg", `ALTER TABLE waypoints DROP COLUMN "item id"`)
	for _, name := range []string{"a.tlk", "a.krd", "a.csv"} {
		if r := f.must("convert", "office.gpkg", "-o", name, "--strict"); strings.Contains(r.err, "not carried over") {
			t.Errorf("%s: %s", name, r.err)
		}
	}
	if strings.Contains(f.get("a.csv"), "item id") {
		t.Errorf("a table has the numbers: %s", f.get("a.csv"))
	}
}
