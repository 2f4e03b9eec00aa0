package gpkg

import (
	"bytes"
	"database/sql"
	"fmt"
	"testing"
)

func emptyTable(t *testing.T, text string) *sql.Tx {
	t.Helper()
	db, err := sql.Open("sqlite", ":memory:")
	if err != nil {
		t.Fatal(err)
	}
	db.SetMaxOpenConns(1)
	t.Cleanup(func() { db.Close() })
	tx, err := db.Begin()
	if err == nil {
		_, err = tx.Exec(text)
	}
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { tx.Rollback() })
	return tx
}

// Any number of rows comes in its order, each with its values and the next number, put beside or at once, whatever the
// size of their blobs.
func TestInserter(t *testing.T) {
	for _, beside := range []bool{false, true} {
		for _, n := range []int{0, 1, mostRows - 1, mostRows, mostRows + 1, 10*mostRows + 7} {
			tx := emptyTable(t, `CREATE TABLE "a b" (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT, data BLOB)`)
			x, err := newInserter(tx, "INSERT INTO", "a b", "name", "data")
			if err != nil {
				t.Fatal(err)
			}
			if beside {
				x.putBeside()
			}
			blob := func(i int) []byte {
				if i%50 == 7 { // more than are kept
					return bytes.Repeat([]byte{byte(i)}, mostBytes+i)
				}
				return []byte{byte(i)}
			}
			for i := range n {
				if err := x.add(fmt.Sprint("row ", i), blob(i)); err != nil {
					t.Fatal(err)
				}
			}
			if err := x.end(); err != nil {
				t.Fatal(err)
			}
			if n > 0 && (x.first != 1 || x.last != int64(n)) {
				t.Errorf("%d rows have the numbers %d to %d", n, x.first, x.last)
			}
			rows, err := tx.Query(`SELECT id, name, data FROM "a b" ORDER BY id`)
			if err != nil {
				t.Fatal(err)
			}
			at := 0
			for rows.Next() {
				var id int
				var name string
				var data []byte
				if err := rows.Scan(&id, &name, &data); err != nil {
					t.Fatal(err)
				}
				if id != at+1 || name != fmt.Sprint("row ", at) || !bytes.Equal(data, blob(at)) {
					t.Fatalf("row %d is %d %q with %d bytes", at, id, name, len(data))
				}
				at++
			}
			if at != n {
				t.Errorf("%d rows of %d", at, n)
			}
		}
	}
}

// A row that can't be put is told, at the latest at the end, and nobody waits for the rest.
func TestInserterFails(t *testing.T) {
	for _, beside := range []bool{false, true} {
		tx := emptyTable(t, "CREATE TABLE a (n INTEGER PRIMARY KEY CHECK (n < 1000))")
		x, err := newInserter(tx, "INSERT INTO", "a", "n")
		if err != nil {
			t.Fatal(err)
		}
		if beside {
			x.putBeside()
		}
		for i := range 100_000 {
			if err = x.add(i); err != nil {
				break
			}
		}
		if last := x.end(); err == nil {
			err = last
		}
		if err == nil {
			t.Errorf("beside %v: a row that isn't allowed was put", beside)
		}
		if again := x.end(); beside && again == nil {
			t.Error("the end is fine the second time")
		}
	}
	tx := emptyTable(t, "CREATE TABLE a (n INTEGER)")
	if _, err := newInserter(tx, "INSERT INTO", "b", "n"); err == nil {
		t.Error("a table that isn't there has rows")
	}
}
