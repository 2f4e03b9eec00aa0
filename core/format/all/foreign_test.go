package all_test

import (
	"bytes"
	"database/sql"
	"encoding/binary"
	"encoding/hex"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	_ "modernc.org/sqlite"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
)

// geometries of a layer that another program wrote: two lines, two areas, two points.
var foreignShapes = map[string][][][2]float64{
	"LINESTRING": {{{11.1, -47.5}, {11.2, -47.6}, {11.3, -47.6}}, {{11.4, -47.5}, {11.4, -47.7}}},
	"POLYGON": {{{11.1, -47.5}, {11.3, -47.5}, {11.2, -47.6}, {11.1, -47.5}}, {{12, -47}, {12.1, -47}, {12, -47.1},
		{12, -47}}},
	"POINT": {{{11.1, -47.5}}, {{11.25, -47.625}}},
}

// wkb of a geometry, with the head of a GeoPackage's.
func foreignBlob(kind string, points [][2]float64) string {
	b := []byte{'G', 'P', 0, 1, 0xE6, 0x10, 0, 0}
	code := map[string][]uint32{"POINT": {1}, "LINESTRING": {2, uint32(len(points))}, "POLYGON": {3, 1,
		uint32(len(points))}}[kind]
	b = append(b, 1)
	for _, c := range code {
		b = binary.LittleEndian.AppendUint32(b, c)
	}
	for _, p := range points {
		b = binary.LittleEndian.AppendUint64(b, math.Float64bits(p[0]))
		b = binary.LittleEndian.AppendUint64(b, math.Float64bits(p[1]))
	}
	return "X'" + hex.EncodeToString(b) + "'"
}

// What another program's table has in its columns, of the first and the second row.
var foreignColumns = [][3]string{{"CODE", "007", "R-2"}, {"NOTE", "wet", "dry, mostly"}, {"SPECIES", "tern", "gull"},
	{"LEVEL", "1.10", "1.1"}, {"COUNT", "12", "7"}, {"RATIO", "0.30000000000000004", "1e-05"}, {"seen", "2026-03-14",
		"2026-03-15"}}

// foreignPackage writes a GeoPackage of one layer with the tables that the standard asks for and nothing of ours.
func foreignPackage(t *testing.T, kind string) string {
	path := filepath.Join(t.TempDir(), "foreign.gpkg")
	db, err := sql.Open("sqlite", "file:"+path)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	statements := []string{"PRAGMA application_id = 1196444487", "PRAGMA user_version = 10300",
		"CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT, srs_id INTEGER PRIMARY KEY, organization TEXT, " +
			"organization_coordsys_id INTEGER, definition TEXT, description TEXT)",
		"INSERT INTO gpkg_spatial_ref_sys VALUES ('WGS 84', 4326, 'EPSG', 4326, '', '')",
		"CREATE TABLE gpkg_contents (table_name TEXT PRIMARY KEY, data_type TEXT, identifier TEXT, srs_id INTEGER)",
		"CREATE TABLE gpkg_geometry_columns (table_name TEXT, column_name TEXT, geometry_type_name TEXT, srs_id " +
			"INTEGER, z, m)",
		"CREATE TABLE survey (fid INTEGER PRIMARY KEY, geom " + kind + ", CODE TEXT, NOTE TEXT, SPECIES TEXT, LEVEL TEXT, " +
			"COUNT INTEGER, RATIO REAL, seen DATE)",
		"INSERT INTO gpkg_contents VALUES ('survey', 'features', 'survey', 4326)",
		"INSERT INTO gpkg_geometry_columns VALUES ('survey', 'geom', '" + kind + "', 4326, 0, 0)"}
	for i, shape := range foreignShapes[kind] {
		values := []string{fmt.Sprint(i + 1), foreignBlob(kind, shape)}
		for _, c := range foreignColumns {
			v := "'" + c[1+i] + "'"
			if c[0] == "COUNT" || c[0] == "RATIO" {
				v = c[1+i]
			}
			values = append(values, v)
		}
		statements = append(statements, "INSERT INTO survey VALUES ("+strings.Join(values, ", ")+")")
	}
	for _, s := range statements {
		if _, err := db.Exec(s); err != nil {
			t.Fatalf("%s: %v", s, err)
		}
	}
	return path
}

// foreignTable writes the points as a table that an office keeps.
func foreignTable(t *testing.T, sep string) string {
	var b strings.Builder
	titles := []string{"Lat", "Lon"}
	for _, c := range foreignColumns {
		titles = append(titles, c[0])
	}
	b.WriteString(strings.Join(titles, sep) + "\n")
	for i, shape := range foreignShapes["POINT"] {
		cells := []string{fmt.Sprint(shape[0][1]), fmt.Sprint(shape[0][0])}
		for _, c := range foreignColumns {
			cells = append(cells, `"`+c[1+i]+`"`)
		}
		b.WriteString(strings.Join(cells, sep) + "\n")
	}
	path := filepath.Join(t.TempDir(), "foreign.csv")
	if err := os.WriteFile(path, []byte(b.String()), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// foreignFeatures writes GeoJSON as a web service does.
func foreignFeatures(t *testing.T, kind string) string {
	var features []string
	for i, shape := range foreignShapes[kind] {
		var props, places []string
		for _, c := range foreignColumns {
			v := fmt.Sprintf("%q", c[1+i])
			if c[0] == "COUNT" || c[0] == "RATIO" {
				v = c[1+i]
			}
			props = append(props, fmt.Sprintf("%q:%s", c[0], v))
		}
		for _, p := range shape {
			places = append(places, fmt.Sprintf("[%v,%v]", p[0], p[1]))
		}
		typ, at := "LineString", "["+strings.Join(places, ",")+"]"
		switch kind {
		case "POINT":
			typ, at = "Point", places[0]
		case "POLYGON":
			typ, at = "Polygon", "["+at+"]"
		}
		features = append(features,
			fmt.Sprintf(`{"type":"Feature","properties":{%s},"geometry":{"type":"%s","coordinates":%s}}`,
				strings.Join(props, ","), typ, at))
	}
	path := filepath.Join(t.TempDir(), "foreign.geojson")
	text := `{"type":"FeatureCollection","features":[` + strings.Join(features, ",") + "]}"
	if err := os.WriteFile(path, []byte(text), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// inColumn gives what an item's source has in a column, whatever that was taken for.
func inColumn(it *nav.Item, title string) string {
	if it.Titles != nil {
		for _, t := range *it.Titles {
			if strings.EqualFold(t.Text, title) {
				return map[string]string{"name": it.Name, "description": it.Desc, "comment": it.Comment, "type": it.Type,
					"group": it.Group}[t.Of]
			}
		}
	}
	for _, f := range it.Fields {
		if strings.EqualFold(f.Key, title) {
			return f.Value
		}
	}
	return ""
}

// Layers of others keep their geometry and their columns, names and values, through every layer and table that can hold
// them.
func TestLayersOfOthers(t *testing.T) {
	for _, kind := range []string{"LINESTRING", "POLYGON", "POINT"} {
		sources := map[string]string{"gpkg": foreignPackage(t, kind), "geojson": foreignFeatures(t, kind)}
		if kind == "POINT" {
			sources["csv"] = foreignTable(t, ",")
		}
		for from, path := range sources {
			src, err := format.Open(t.Context(), path, nil)
			if err != nil {
				t.Fatal(err)
			}
			in, err := all.Formats.Load(src, "", false, &format.ReadOptions{})
			if err != nil {
				t.Fatal(err)
			}
			for _, v := range variants() {
				if !slices.Contains([]string{"gpkg", "shp", "fgb", "geoparquet", "gml", "geojson", "geojsonseq", "csv", "xlsx"},
					v.Name) {
					continue
				}
				t.Run(kind+" of "+from+" by "+v.Name, func(t *testing.T) {
					v.opt.Table = &format.Table{Items: kind != "POINT"}
					back, _ := v.through(t, in.Data)
					items := itemsOf(back)
					if len(items) != 2 {
						t.Fatalf("%d items: %v", len(items), back.Counts())
					}
					if !v.Tabular {
						checkPlaces(t, kind, back)
					}
					for i, it := range items {
						for _, c := range foreignColumns {
							got := inColumn(it, c[0])
							if c[0] == "RATIO" {
								got, c[1+i] = canonical(got), canonical(c[1+i])
							}
							if got != c[1+i] {
								t.Errorf("row %d: %s is %q, not %q", i+1, c[0], got, c[1+i])
							}
						}
					}
				})
			}
		}
	}
}

// canonical writes a number as short as it is exact.
func canonical(text string) string {
	v, ok := decimal.Exact(text)
	if !ok {
		return text
	}
	return fmt.Sprint(v)
}

func itemsOf(d *nav.Dataset) (out []*nav.Item) {
	d.Each(func(_ nav.Kind, it *nav.Item) { out = append(out, it) })
	slices.SortStableFunc(out, func(a, b *nav.Item) int {
		return strings.Compare(inColumn(b, "SPECIES"), inColumn(a,
			"SPECIES"))
	})
	return
}

func checkPlaces(t *testing.T, kind string, d *nav.Dataset) {
	t.Helper()
	var got, want []string
	for p := range d.AllPoints() {
		got = append(got, fmt.Sprintf("%.9f %.9f", p.Lon, p.Lat))
	}
	for _, shape := range foreignShapes[kind] {
		if kind == "POLYGON" {
			shape = shape[1:]
		}
		for _, p := range shape {
			want = append(want, fmt.Sprintf("%.9f %.9f", p[0], p[1]))
		}
	}
	slices.Sort(got)
	slices.Sort(want)
	if !slices.Equal(got, want) {
		t.Errorf("positions %v, not %v", got, want)
	}
}

// What has too few corners for an outline is written by no format of geometries, and is told, not passed over.
func TestTooFewCorners(t *testing.T) {
	thin := nav.Area{Item: nav.Item{Name: "Two"}, Outline: []nav.Point{nav.At(-47.5, 11.2), nav.At(-47.6, 11.3)}}
	three := nav.Area{Item: nav.Item{Name: "Three"}, Outline: append(slices.Clone(thin.Outline), nav.At(-47.6, 11.4)),
		Holes: [][]nav.Point{thin.Outline}}
	for _, x := range all.Formats {
		if x.Shapes == format.AnyShape || !x.Writes() {
			continue
		}
		var out bytes.Buffer
		store := func(d *nav.Dataset) (*format.Written, error) {
			if x.Set != nil {
				_, done, err := x.StoreSet(d, &format.WriteOptions{})
				return done, err
			}
			return x.Store(&out, d, &format.WriteOptions{})
		}
		done, err := store(&nav.Dataset{Areas: []nav.Area{thin, three}})
		if err != nil || done.Items[nav.Areas] != 1 || done.Ledger.Losses() < 2 {
			t.Errorf("%s: %v %v", x.Name, done, err)
		}
		if _, err := store(&nav.Dataset{Areas: []nav.Area{thin}}); err == nil ||
			!strings.Contains(err.Error(), "enough points") {
			t.Errorf("%s writes an area of two corners: %v", x.Name, err)
		}
	}
}
