package gpkg

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// A layer that is a view without end, or of values without measure, is ended with a word.
func TestViewsWithoutEnd(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(-47.6, 11.3), Item: nav.Item{Name: "Tarn"}}}}
	var out bytes.Buffer
	if _, err := write(&out, d, &format.WriteOptions{}); err != nil {
		t.Fatal(err)
	}
	for want, view := range map[string]string{
		"more data than the limit": "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x+1 FROM c) SELECT x AS fid, " +
			"(SELECT geom FROM kept) AS geom, printf('%.*c', 100000, 'x') AS note FROM c",
		"more than 256 MB": "SELECT 1 AS fid, geom, zeroblob(500000000) AS picture FROM kept",
	} {
		path := filepath.Join(t.TempDir(), "view.gpkg")
		if err := os.WriteFile(path, out.Bytes(), 0o666); err != nil {
			t.Fatal(err)
		}
		db, err := sql.Open("sqlite", path)
		if err == nil {
			_, err = db.Exec("ALTER TABLE waypoints RENAME TO kept; CREATE VIEW waypoints AS " + view +
				"; UPDATE gpkg_contents SET table_name = 'waypoints'; " +
				"UPDATE gpkg_geometry_columns SET table_name = 'waypoints'; ")
		}
		if err != nil {
			t.Fatal(err)
		}
		if err := db.Close(); err != nil {
			t.Fatal(err)
		}
		src, err := format.Open(context.Background(), path, nil)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := read(src, &format.ReadOptions{}); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
		src.Close()
	}
}

// A trigger that keeps only bookkeeping, and does not end, is ended with a word; so it is with the context.
func TestTriggersWithoutEnd(t *testing.T) {
	defer func(was time.Duration) { longestSilence = was }(longestSilence)
	longestSilence = 200 * time.Millisecond
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(-47.6, 11.3), Item: nav.Item{Name: "Tarn"}}}}
	path, db := written(t, d, &format.WriteOptions{})
	if _, err := db.Exec("CREATE TABLE gpkg_n (n); INSERT INTO gpkg_n VALUES (1); CREATE TRIGGER endless AFTER " +
		"INSERT ON waypoints BEGIN UPDATE gpkg_n SET n = (WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c) " +
		"SELECT max(x) FROM c); END"); err != nil {
		t.Fatal(err)
	}
	db.Close()
	var out bytes.Buffer
	opt := &format.WriteOptions{Append: path, Context: t.Context()}
	if _, err := write(&out, d, opt); err == nil || !strings.Contains(err.Error(), "a trigger of one of its tables") {
		t.Errorf("%v", err)
	}
	ctx, cancel := context.WithTimeout(t.Context(), 50*time.Millisecond)
	defer cancel()
	longestSilence = time.Hour
	_, err := write(&out, d, &format.WriteOptions{Append: path, Context: ctx})
	if !errors.Is(err, context.DeadlineExceeded) {
		t.Errorf("%v", err)
	}
}
