package gpkg

import (
	"context"
	"database/sql"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// foreign makes a GeoPackage as another program might: columns of all sorts, geometries that ours are not.
func foreign(t *testing.T, statements ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "foreign.gpkg")
	db, err := sql.Open("sqlite", "file:"+path)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if err := create(db); err != nil {
		t.Fatal(err)
	}
	for _, s := range statements {
		if _, err := db.Exec(s); err != nil {
			t.Fatalf("%s: %v", s, err)
		}
	}
	return path
}

// blob is the head of a geometry and its well-known binary, written for SQL.
func blob(wkb []byte) string {
	head := []byte{'G', 'P', 0, 1, 0xE6, 0x10, 0, 0}
	return "X'" + hex.EncodeToString(append(head, wkb...)) + "'"
}

func numbers(kind uint32, counts []uint32, values ...float64) []byte {
	b := binary.LittleEndian.AppendUint32([]byte{1}, kind)
	for _, c := range counts {
		b = binary.LittleEndian.AppendUint32(b, c)
	}
	for _, v := range values {
		b = binary.LittleEndian.AppendUint64(b, math.Float64bits(v))
	}
	return b
}

func layerOf(table, kind string, srs int, columns string, rows ...string) []string {
	out := []string{
		"CREATE TABLE " + table + " (id INTEGER PRIMARY KEY, shape " + kind + columns + ")",
		fmt.Sprintf("INSERT INTO gpkg_contents (table_name, data_type, srs_id) VALUES ('%s', 'features', %d)", table, srs),
		fmt.Sprintf("INSERT INTO gpkg_geometry_columns VALUES ('%s', 'shape', '%s', %d, 2, 2)", table, kind, srs),
	}
	for _, r := range rows {
		out = append(out, "INSERT INTO "+table+" VALUES ("+r+")")
	}
	return out
}

func open(t *testing.T, path string, opt *format.ReadOptions) (*nav.Dataset, error) {
	t.Helper()
	src, err := format.Open(context.Background(), path, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer src.Close()
	return read(src, opt)
}

// Values of every type become fields; what can't be read is told, and the rest goes on.
func TestForeignValues(t *testing.T) {
	point := blob(numbers(1, nil, 11.3, -47.6))
	path := foreign(t, layerOf("stations", "POINT", 4326,
		", label TEXT, n INTEGER, x REAL, ok BOOLEAN, seen DATE, at DATETIME, photo BLOB",
		"1, "+point+", 'Rock', 7, 1.25, 1, '2026-03-14', '2026-03-14T05:30:00.000Z', X'FF00'",
		"2, NULL, 'Nowhere', NULL, NULL, NULL, NULL, NULL, NULL",
		"3, X'00', 'Broken', 1, 1, 1, NULL, NULL, NULL",
		"4, "+blob(numbers(1, nil, math.NaN(), math.NaN()))+", 'Empty', 1, 1, 1, NULL, NULL, NULL")...)
	d, err := open(t, path, &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	if len(d.Waypoints) != 1 || d.Waypoints[0].Name != "Rock" {
		t.Fatalf("%+v", d.Waypoints)
	}
	got := map[string]string{}
	for _, f := range d.Waypoints[0].Fields {
		got[f.Key] = fmt.Sprint(f.Value, f.Literal)
	}
	for key, want := range map[string]string{"n": "7true", "x": "1.25true", "seen": "2026-03-14false",
		"at": "2026-03-14T05:30:00Zfalse"} {
		if got[key] != want {
			t.Errorf("%s is %q, want %q", key, got[key], want)
		}
	}
	told := fmt.Sprint(d.Problems, d.Rejects)
	for _, part := range []string{"binary data in the column photo", "geometry that can't be read", "Nowhere", "Empty"} {
		if !strings.Contains(told, part) {
			t.Errorf("%q is not told: %s", part, told)
		}
	}
}

// Geometries with heights and measures, collections and curves.
func TestForeignShapes(t *testing.T) {
	line := numbers(3002, []uint32{2}, 11, -47, 5, 1, 12, -47, 6, 2) // with heights and measures
	poly := numbers(3, []uint32{1, 4}, 0, 0, 1, 0, 1, 1, 0, 0)
	multi := append(numbers(6, []uint32{2}), append(append([]byte{}, poly...), poly...)...)
	curve := numbers(8, []uint32{0})
	path := foreign(t, layerOf("things", "GEOMETRY", 4326, ", name TEXT",
		"1, "+blob(line)+", 'Line'", "2, "+blob(multi)+", 'Two'", "3, "+blob(curve)+", 'Bent'",
		"4, "+blob(numbers(2001, nil, 11, -47, 9))+", 'Measured'")...)
	d, err := open(t, path, &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	if len(d.Tracks) != 1 || d.Tracks[0].Segments[0].Points[1].Height() != 6 || len(d.Areas) != 2 ||
		d.Areas[1].Name != "Two" || d.Areas[0].Whole != d.Areas[1].Whole ||
		len(d.Waypoints) != 1 || d.Waypoints[0].HasHeight() {
		t.Errorf("%+v", d)
	}
	if !strings.Contains(fmt.Sprint(d.Problems), "a curve or surface") {
		t.Errorf("%v", d.Problems)
	}
}

// Systems: one that nobody describes, one that is undefined, and one of the user's own, which comes back.
func TestForeignSystems(t *testing.T) {
	point := blob(numbers(1, nil, 672887, 4725593))
	for srs, want := range map[int]string{-1: "undefined", 0: "undefined"} {
		path := foreign(t, layerOf("p", "POINT", srs, "", "1, "+point)...)
		if _, err := open(t, path, &format.ReadOptions{}); err == nil || advice.Of(err).Code != advice.NameSystemIn ||
			!strings.Contains(err.Error(), want) || !strings.Contains(err.Error(), `layer "p"`) {
			t.Errorf("%d: %v", srs, err)
		}
		utm, _ := crs.Find("32732")
		if d, err := open(t, path, &format.ReadOptions{System: utm}); err != nil || math.Abs(d.Waypoints[0].Lat+47.6) > 1e-4 {
			t.Errorf("%d with --crs-in: %v", srs, err)
		}
	}
	own, err := crs.ParseWKT(
		`PROJCS["Survey grid",GEOGCS["WGS 84",DATUM["World Geodetic System 1984",SPHEROID["WGS 84",6378137,` +
			`298.257223563]],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],` +
			`PARAMETER["central_meridian",11.3],PARAMETER["scale_factor",1],PARAMETER["false_easting",5000],` +
			`PARAMETER["false_northing",5274000],UNIT["metre",1]]`)
	if err != nil || own.Code != 0 {
		t.Fatalf("%v %v", own, err)
	}
	path, db := written(t, sample(), &format.WriteOptions{System: own})
	if got := ask(t, db, "SELECT srs_id, organization FROM gpkg_spatial_ref_sys WHERE srs_id "+
		">= 100000"); got != "100000 NONE" {
		t.Errorf("the own system is entered as %q", got)
	}
	d, err := open(t, path, &format.ReadOptions{})
	if err != nil || math.Abs(d.Waypoints[0].Lat+47.6) > 1e-9 {
		t.Errorf("%v %+v", err, d)
	}
	if _, err := open(t, path, &format.ReadOptions{Sheet: "9"}); err == nil ||
		!strings.Contains(err.Error(), "it has waypoints, routes, tracks, areas") {
		t.Errorf("%v", err)
	}
	if d, err := open(t, path, &format.ReadOptions{Sheet: "2"}); err != nil || len(d.Routes) != 1 ||
		len(d.Waypoints) != 0 {
		t.Errorf("the second layer: %v", err)
	}
}

// A schema that calls what it should not, or a table that is described and is not there, harms nothing.
func TestHostileSchema(t *testing.T) {
	path := foreign(t, append(layerOf("p", "POINT", 4326, ""), "DROP TABLE p",
		"CREATE VIEW p AS SELECT 1 AS id, load_extension('x') AS shape")...)
	if _, err := open(t, path, &format.ReadOptions{}); err == nil {
		t.Error("a view that calls a function is read")
	}
	gone := foreign(t, append(layerOf("p", "POINT", 4326, ""), "DROP TABLE p")...)
	if _, err := open(t, gone, &format.ReadOptions{}); err == nil || !strings.Contains(err.Error(), "no such table") {
		t.Errorf("%v", err)
	}
	nothing := foreign(t)
	if _, err := open(t, nothing, &format.ReadOptions{}); err == nil ||
		!strings.Contains(err.Error(), "no feature layer") {
		t.Errorf("%v", err)
	}
	before, _ := os.ReadFile(nothing)
	open(t, nothing, &format.ReadOptions{})
	if after, _ := os.ReadFile(nothing); string(before) != string(after) {
		t.Error("reading changes the file")
	}
}
