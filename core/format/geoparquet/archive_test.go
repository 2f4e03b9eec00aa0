package geoparquet

import (
	"database/sql"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/parquet-go/parquet-go"
	_ "modernc.org/sqlite"

	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// smallArchive writes recordings of two days, three points each.
func smallArchive(t *testing.T) string {
	dir := t.TempDir()
	for i, day := range []string{"2026-03-14", "2026-03-15"} {
		begin, _ := time.Parse(time.DateOnly, day)
		var seg nav.Segment
		for k := range 3 {
			p := nav.At(-47.5, 11.3+float64(k)*1e-3)
			p.SetTime(begin.Add(time.Duration(k)*time.Minute).UnixNano(), instant.Seconds)
			seg.Points = append(seg.Points, p)
		}
		d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Walk " + day}, Segments: []nav.Segment{seg}}}}
		f, err := os.Create(filepath.Join(dir, day+".parquet"))
		if err != nil {
			t.Fatal(err)
		}
		if _, err := Format.Store(f, d, &format.WriteOptions{Context: t.Context(), TrackPoints: true}); err != nil {
			t.Fatal(i, err)
		}
		f.Close()
	}
	return dir
}

// A folder of outputs is a table that an SQL engine can be asked about, read by somebody else's reader.
func TestArchiveQueried(t *testing.T) {
	dir, small := os.Getenv("GYROLITH_ARCHIVE"), false
	if small = dir == ""; small {
		dir = smallArchive(t)
	}
	db, err := sql.Open("sqlite", ":memory:")
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	db.SetMaxOpenConns(1)
	if _, err := db.Exec("CREATE TABLE archive (file TEXT, name TEXT, time TEXT)"); err != nil {
		t.Fatal(err)
	}
	tx, err := db.Begin()
	if err != nil {
		t.Fatal(err)
	}
	insert, err := tx.Prepare("INSERT INTO archive VALUES (?, ?, ?)")
	if err != nil {
		t.Fatal(err)
	}
	err = filepath.WalkDir(dir, func(path string, e fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".parquet") {
			return err
		}
		f, err := os.Open(path)
		if err != nil {
			return err
		}
		defer f.Close()
		rows := parquet.NewReader(f)
		defer rows.Close()
		for {
			row := map[string]any{}
			if err := rows.Read(&row); errors.Is(err, io.EOF) {
				return nil
			} else if err != nil {
				return err
			}
			if row["kind"] == "track point" {
				if _, err := insert.Exec(filepath.Base(path), row["line"], moment(row["time"])); err != nil {
					return err
				}
			}
		}
	})
	if err == nil {
		err = tx.Commit()
	}
	if err != nil {
		t.Fatal(err)
	}
	var points, files int
	var last string
	query := "SELECT count(*), count(DISTINCT file), max(time) FROM archive"
	if err := db.QueryRow(query).Scan(&points, &files, &last); err != nil {
		t.Fatal(err)
	}
	t.Logf("%d | %d | %s", points, files, last)
	if small && (points != 6 || files != 2 || last != "2026-03-15T00:02:00Z") {
		t.Errorf("%d points of %d files, the last at %s", points, files, last)
	}
}

// moment is a time as the reader gives it: milliseconds, microseconds or nanoseconds since 1970.
func moment(v any) string {
	n, ok := v.(int64)
	if !ok {
		if at, is := v.(time.Time); is {
			return at.UTC().Format(time.RFC3339)
		}
		return ""
	}
	for n > 1e11 {
		n /= 1000
	}
	return time.Unix(n, 0).UTC().Format(time.RFC3339)
}
