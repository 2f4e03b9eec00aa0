package gpkg

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"modernc.org/sqlite"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func sample() *nav.Dataset {
	w := nav.Waypoint{Item: nav.Item{Name: "Rock", Desc: "awash", Group: "Rocks",
		Fields: []nav.Field{{Key: "geom", Value: "x"}, {Key: "count", Value: "12"}, {Key: "ring", Value: "007"},
			{Key: "size", Value: "1.5"}}}, Point: nav.At(-47.6, 11.3)}
	w.SetTime(time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC).UnixNano(), instant.Seconds)
	s := nav.Segment{Points: []nav.Point{nav.At(-47.6, 11.3), nav.At(-47.61, 11.31), nav.At(-47.62, 11.3)}}
	for i := range s.Points {
		s.Points[i].SetHeight(float64(10*i), decimal.PrecisionOf(0), nav.DatumUnstated)
		s.Points[i].SetTime(int64(i)*10e9, instant.Seconds)
	}
	a := nav.Area{Item: nav.Item{Name: "Closure", Style: nav.Style{Fill: nav.RGB(1, 2, 3)}},
		Outline: []nav.Point{nav.At(-47, 11), nav.At(-46, 11), nav.At(-46, 12), nav.At(-47, 12)},
		Holes:   [][]nav.Point{{nav.At(-46.6, 11.4), nav.At(-46.4, 11.4), nav.At(-46.4, 11.6)}}}
	return &nav.Dataset{Waypoints: []nav.Waypoint{w},
		Tracks: []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: []nav.Segment{s, s}}}, Areas: []nav.Area{a},
		Routes: []nav.Route{{Item: nav.Item{Name: "Run"}, Points: []nav.Waypoint{{Point: nav.At(-47.6, 11.3)},
			{Point: nav.At(-47.7, 11.4)}}}}}
}

// written puts a dataset into a file and opens it as a database.
func written(t *testing.T, d *nav.Dataset, opt *format.WriteOptions) (string, *sql.DB) {
	t.Helper()
	var out bytes.Buffer
	if _, err := write(&out, d, opt); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "data.gpkg")
	if err := os.WriteFile(path, out.Bytes(), 0o666); err != nil {
		t.Fatal(err)
	}
	db, err := sql.Open("sqlite", "file:"+path)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { db.Close() })
	return path, db
}

func ask(t *testing.T, db *sql.DB, query string, args ...any) string {
	t.Helper()
	rows, err := db.Query(query, args...)
	if err != nil {
		t.Fatalf("%s: %v", query, err)
	}
	defer rows.Close()
	columns, _ := rows.Columns()
	var lines []string
	for rows.Next() {
		cells := make([]any, len(columns))
		to := make([]any, len(columns))
		for i := range cells {
			to[i] = &cells[i]
		}
		if err := rows.Scan(to...); err != nil {
			t.Fatal(err)
		}
		lines = append(lines, strings.TrimSpace(fmt.Sprintln(cells...)))
	}
	return strings.Join(lines, "; ")
}

// The file is what OGC 12-128r17 asks for, seen with SQL alone.
func TestBySQL(t *testing.T) {
	utm, _ := crs.Find("32732")
	_, db := written(t, sample(), &format.WriteOptions{System: utm})
	for query, want := range map[string]string{
		"PRAGMA application_id":    "1196444487", // "GPKG"
		"PRAGMA user_version":      "10300",
		"PRAGMA integrity_check":   "ok",
		"PRAGMA foreign_key_check": "",
		"SELECT table_name, geometry_type_name, srs_id, z, m FROM gpkg_geometry_columns ORDER BY 1": "areas POLYGON " +
			"32732 0 " +
			"0; routes LINESTRING 32732 0 0; tracks MULTILINESTRING 32732 1 0; waypoints POINT 32732 0 0",
		"SELECT organization, organization_coordsys_id FROM gpkg_spatial_ref_sys ORDER " +
			"BY srs_id": "NONE -1; NONE 0; EPSG 4326; EPSG 32732",
		"SELECT data_type, srs_id FROM gpkg_contents WHERE table_name = 'tracks'": "features 32732",
		"SELECT name, kind, description, \"group\", time, count, ring, size, geom_2 FROM waypoints": "Rock waypoint awash " +
			"Rocks 2026-03-14 05:30:00 +0000 UTC 12 007 1.5 x",
		"SELECT typeof(count), typeof(ring), typeof(size), typeof(time) FROM waypoints": "integer text real text",
		"SELECT hex(substr(geom, 1, 8)) FROM waypoints":                                 "47500001DC7F0000",
		"SELECT extension_name FROM gpkg_extensions WHERE table_name = 'areas'":         "gpkg_rtree_index",
		"SELECT count(*) FROM rtree_areas_geom WHERE minx < 900000 AND maxx > 0":        "1",
	} {
		if got := ask(t, db, query); got != want {
			t.Errorf("%s: %q, want %q", query, got, want)
		}
	}
	// The position as GeographicLib has it: 672887.547 4725593.402.
	var x, y float64
	if err := db.QueryRow("SELECT ST_MinX(geom), ST_MaxY(geom) FROM waypoints").Scan(&x, &y); err != nil ||
		math.Abs(x-672887.547) > 0.001 || math.Abs(y-4725593.402) > 0.001 {
		t.Errorf("the waypoint is at %v %v, %v", x, y, err)
	}
	// The triggers keep the index when a row goes.
	if _, err := db.Exec("DELETE FROM tracks"); err != nil {
		t.Fatal(err)
	}
	if got := ask(t, db, "SELECT count(*) FROM rtree_tracks_geom"); got != "0" {
		t.Errorf("the index still holds %s rows", got)
	}
}

func TestBack(t *testing.T) {
	etrs, _ := crs.Find("3035")
	for name, opt := range map[string]*format.WriteOptions{"degrees": {}, "projected": {System: etrs}} {
		d := sample()
		if name == "projected" { // to where that system is made for
			for p := range d.AllPoints() {
				p.Lat = -p.Lat
			}
		}
		path, _ := written(t, d, opt)
		src, err := format.Open(context.Background(), path, nil)
		if err != nil {
			t.Fatal(err)
		}
		defer src.Close()
		back, err := read(src, &format.ReadOptions{})
		if err != nil {
			t.Fatal(err)
		}
		if back.Counts() != d.Counts() || back.Points() != d.Points() ||
			back.Tracks[0].Segments[1].Points[2].Height() != 20 || len(back.Areas[0].Holes) != 1 ||
			back.Areas[0].Style.Fill != nav.RGB(1, 2, 3) {
			t.Errorf("%s: %+v", name, back)
		}
		w := &back.Waypoints[0]
		if w.Name != "Rock" || w.Desc != "awash" || string(w.AppendTime(nil)) != "2026-03-14T05:30:00Z" ||
			math.Abs(w.Lon-11.3) > 1e-9 || math.Abs(math.Abs(w.Lat)-47.6) > 1e-9 {
			t.Errorf("%s: %+v", name, w)
		}
		// From standard input it is the same.
		raw, _ := os.ReadFile(path)
		if again, err := read(format.FromBytes(t.Context(), "standard input", raw),
			&format.ReadOptions{Sheet: "routes"}); err != nil ||
			again.Counts() != [4]int{0, 1, 0, 0} {
			t.Errorf("one layer of standard input: %v", err)
		}
	}
}

// What is appended goes to the layers that are there, in their system, with new columns added.
func TestAppend(t *testing.T) {
	utm, _ := crs.Find("32732")
	path, _ := written(t, sample(), &format.WriteOptions{System: utm})
	more := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "Cove",
		Fields: []nav.Field{{Key: "depth", Value: "3"}}}, Point: nav.At(-47.61, 11.31)}},
		Tracks: []nav.Track{{Item: nav.Item{Name: "Flat"},
			Segments: []nav.Segment{{Points: []nav.Point{nav.At(-47, 11), nav.At(-47.1, 11)}}}}}}
	before, _ := os.ReadFile(path)
	var out bytes.Buffer
	done, err := write(&out, more, &format.WriteOptions{Append: path})
	ledger := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	if after, _ := os.ReadFile(path); !bytes.Equal(before, after) {
		t.Error("the file itself was changed")
	}
	both := filepath.Join(t.TempDir(), "both.gpkg")
	os.WriteFile(both, out.Bytes(), 0o666)
	db, _ := sql.Open("sqlite", "file:"+both)
	defer db.Close()
	for query, want := range map[string]string{
		"SELECT name, depth FROM waypoints ORDER BY fid":                                      "Rock <nil>; Cove 3",
		"SELECT count(*) FROM rtree_waypoints_geom":                                           "2",
		"SELECT round(min_x), round(max_x) FROM gpkg_contents WHERE table_name = 'waypoints'": "672888 673606",
		"SELECT table_name, z FROM gpkg_geometry_columns WHERE table_name LIKE 'tracks%'":     "tracks 2",
		"PRAGMA integrity_check": "ok",
	} {
		if got := ask(t, db, query); got != want {
			t.Errorf("%s: %q, want %q", query, got, want)
		}
	}
	if ledger.Losses() > 0 {
		t.Errorf("%v", ledger)
	}
	text := filepath.Join(t.TempDir(), "x.gpkg")
	os.WriteFile(text, []byte("hello"), 0o666)
	if _, err := write(&out, more, &format.WriteOptions{Append: text}); err == nil ||
		!strings.Contains(err.Error(), "not a GeoPackage") {
		t.Errorf("a text is added to: %v", err)
	}
}

// Damaged and foreign databases are refused with a word of what they are.
func TestRefused(t *testing.T) {
	path, _ := written(t, sample(), &format.WriteOptions{})
	raw, _ := os.ReadFile(path)
	if _, err := read(format.FromBytes(t.Context(), "x", raw[:len(raw)/3]),
		&format.ReadOptions{}); err == nil ||
		!strings.Contains(err.Error(), "incomplete") {
		t.Errorf("a third of it: %v", err)
	}
	plain := filepath.Join(t.TempDir(), "plain.db")
	db, _ := sql.Open("sqlite", "file:"+plain)
	db.Exec("CREATE TABLE t (a); INSERT INTO t VALUES (1)")
	db.Close()
	raw, _ = os.ReadFile(plain)
	if _, err := read(format.FromBytes(t.Context(), "x", raw),
		&format.ReadOptions{}); err == nil ||
		!strings.Contains(err.Error(), "not a GeoPackage") {
		t.Errorf("another database: %v", err)
	}
	os.WriteFile(path+"-wal", []byte("changes"), 0o666)
	src, _ := format.Open(context.Background(), path, nil)
	defer src.Close()
	if _, err := read(src, &format.ReadOptions{}); err == nil || !strings.Contains(err.Error(), "close the program") {
		t.Errorf("with a log beside it: %v", err)
	}
}

// Heads of geometries of others: empty ones, and those that are none.
func TestGeometries(t *testing.T) {
	big := []byte{0, 0, 0, 0, 1, 0x40, 0x26, 0, 0, 0, 0, 0, 0, 0xC0, 0x47, 0x80, 0, 0, 0, 0, 0}
	if e, err := extentOf([]byte{'G', 'P', 0, 0x11, 0, 0, 0, 0}); err != nil || e.MinX <= e.MaxX {
		t.Errorf("an empty one: %+v %v", e, err)
	}
	for _, b := range [][]byte{nil, []byte("GP"), []byte("XX000000"), {'G', 'P', 0, 9, 0, 0, 0, 0},
		append([]byte{'G', 'P', 0, 1, 0, 0, 0, 0}, big[:12]...)} {
		if _, err := extentOf(b); err == nil {
			t.Errorf("% x is a geometry", b)
		}
	}
}

func FuzzGeometry(f *testing.F) {
	d := sample()
	layers, _ := layer.Of(d, &format.WriteOptions{}, layer.ByKind, false)
	for i, l := range layers {
		l.Each(func(x *layer.Feature) error {
			f.Add(appendGeometry(nil, x, []uint32{wkb.Point, wkb.Line, wkb.MultiLine, wkb.Polygon}[i], 4326))
			return nil
		})
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		extentOf(b)
		if code, empty, err := body(b); err == nil && !empty {
			wkb.Parse(code)
		}
	})
}

func FuzzGeoPackage(f *testing.F) {
	var out bytes.Buffer
	if _, err := write(&out, sample(), &format.WriteOptions{}); err != nil {
		f.Fatal(err)
	}
	f.Add(out.Bytes())
	f.Fuzz(func(t *testing.T, b []byte) {
		d, err := read(format.FromBytes(t.Context(), "x", b), &format.ReadOptions{MaxUnpacked: 1 << 20})
		if err != nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Errorf("%v %v", p.Lat, p.Lon)
			}
		}
	})
}

// Data go into files of others: without the optional table of extensions, with a column of numbers where texts come,
// and with layers of names of their own, which stay layers.
func TestAppendToOthers(t *testing.T) {
	path, db := written(t, &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A",
		Fields: []nav.Field{{Key: "nests", Value: "12", Literal: true}}}, Point: nav.At(-47.6, 11.3)}}},
		&format.WriteOptions{})
	for _, text := range []string{"DROP TABLE gpkg_extensions", "ALTER TABLE waypoints RENAME TO \"wells, old\"",
		"UPDATE gpkg_geometry_columns SET table_name = 'wells, old'",
		"INSERT INTO gpkg_contents (table_name, data_type, last_change) VALUES " +
			"('notes', 'attributes', '2026-01-01T00:00:00.000Z')",
		"PRAGMA foreign_keys = off", "UPDATE gpkg_contents SET table_name = 'wells, old' WHERE table_name = 'waypoints'"} {
		if _, err := db.Exec(text); err != nil && !strings.Contains(err.Error(), "FOREIGN KEY") {
			t.Fatal(text, err)
		}
	}
	db.Close()
	d, err := open(t, path, &format.ReadOptions{})
	if err != nil || d.Waypoints[0].Group != "wells, old" || !strings.Contains(fmt.Sprint(d.Problems), "notes") {
		t.Fatalf("%v %+v", err, d)
	}
	more := d.Clone()
	more.Waypoints[0].Fields = []nav.Field{{Key: "nests", Value: "about ten"}}
	more.Waypoints[0].SetTime(1e18, instant.Seconds)
	var out bytes.Buffer
	done, err := write(&out, more, &format.WriteOptions{Append: path})
	if err != nil {
		t.Fatal(err)
	}
	both := filepath.Join(t.TempDir(), "both.gpkg")
	os.WriteFile(both, out.Bytes(), 0o666)
	again, _ := sql.Open("sqlite", "file:"+both)
	defer again.Close()
	for query, want := range map[string]string{
		`SELECT nests, nests_2 FROM "wells, old" ORDER BY fid`: "12 <nil>; <nil> about ten",
		"SELECT count(*) FROM gpkg_geometry_columns":           "1",
		"PRAGMA integrity_check":                               "ok",
	} {
		if got := ask(t, again, query); got != want {
			t.Errorf("%s: %q, want %q", query, got, want)
		}
	}
	if !strings.Contains(fmt.Sprint(done.Ledger), "nests_2") {
		t.Errorf("%v", done.Ledger)
	}
	// Written anew, the layer is one again, and its time of change is the data's.
	_, db = written(t, more, &format.WriteOptions{})
	if got := ask(t, db, "SELECT table_name, last_change FROM gpkg_contents"); !strings.HasPrefix(got,
		"wells, old 2001-09-09") {
		t.Errorf("%s", got)
	}
}

// A name of a layer that is hostile to SQL is but a name.
func TestHostileLayerName(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A", Group: `x"; DROP TABLE gpkg_contents; --`},
		Point: nav.At(1, 2)}}}
	d.Meta.Kept = []nav.Kept{{Format: "gpkg", Where: layer.KeptLayer, Text: d.Waypoints[0].Group, Free: true}}
	path, db := written(t, d, &format.WriteOptions{})
	if got := ask(t, db, "PRAGMA integrity_check"); got != "ok" {
		t.Error(got)
	}
	if back, err := open(t, path, &format.ReadOptions{}); err != nil ||
		back.Waypoints[0].Group != d.Waypoints[0].Group {
		t.Errorf("%v %+v", err, back)
	}
}

// What the database says of a fault comes with the file's trouble and a way out, and the cause stays in the error.
func TestFaultsInWords(t *testing.T) {
	path, db := written(t, sample(), &format.WriteOptions{})
	if _, err := db.Exec("CREATE UNIQUE INDEX one ON waypoints (name)"); err != nil {
		t.Fatal(err)
	}
	db.Close()
	_, err := write(io.Discard, sample(), &format.WriteOptions{Append: path})
	if err == nil || !strings.Contains(err.Error(), "waypoints.name") ||
		!strings.Contains(err.Error(), "write a new file") {
		t.Errorf("the rule of a layer: %v", err)
	}
	if _, ok := errors.AsType[*sqlite.Error](err); !ok {
		t.Errorf("the cause is lost: %#v", err)
	}
	raw, _ := os.ReadFile(path)
	clear(raw[len(raw)/2:])
	os.WriteFile(path, raw[:len(raw)/4*3], 0o666)
	if _, err := write(io.Discard, sample(), &format.WriteOptions{Append: path}); err == nil ||
		!strings.Contains(err.Error(), "is damaged") {
		t.Errorf("added to a damaged one: %v", err)
	}
	t.Setenv("TMPDIR", filepath.Join(t.TempDir(), "gone"))
	if _, err := write(io.Discard, sample(), &format.WriteOptions{}); !errors.Is(err, fs.ErrNotExist) ||
		!strings.Contains(err.Error(), "TMPDIR") {
		t.Errorf("without a temporary folder: %v", err)
	}
}
