package gpkg

import (
	"database/sql"
	"strings"
)

// inserter puts rows into a table, many with one statement.
type inserter struct {
	tx   *sql.Tx
	text string // up to the values
	row  string // the marks of one
	wide int    // values of a row
	many *sql.Stmt
	most int // rows of it

	args  []any
	bytes int // of the blobs among them

	first, last int64 // the ids of the rows that were put
}

// What is kept before it is put: SQLite takes 32,766 values in a statement, and many more rows gain nothing.
const (
	mostValues = 32_000
	mostRows   = 64
	mostBytes  = 256 << 10
)

// newInserter prepares for rows; the verb is that of the statement, INSERT INTO or INSERT OR REPLACE INTO.
func newInserter(tx *sql.Tx, verb, table string, columns ...string) (x *inserter, err error) {
	quoted := make([]string, len(columns))
	for i, c := range columns {
		quoted[i] = quote(c)
	}
	wide := len(columns)
	x = &inserter{
		tx:   tx,
		text: verb + " " + quote(table) + " (" + strings.Join(quoted, ", ") + ") VALUES ",
		row:  "(?" + strings.Repeat(", ?", wide-1) + ")",
		wide: wide,
		most: max(1, min(mostRows, mostValues/wide)),
	}
	x.many, err = tx.Prepare(x.statement(x.most))
	return x, err
}

func (x *inserter) statement(rows int) string {
	return x.text + x.row + strings.Repeat(", "+x.row, rows-1)
}

// add puts a row, or keeps it until there are enough: a blob must stay as it is until then.
func (x *inserter) add(values ...any) error {
	x.args = append(x.args, values...)
	for _, v := range values {
		if blob, ok := v.([]byte); ok {
			x.bytes += len(blob)
		}
	}
	if len(x.args) < x.most*x.wide && x.bytes < mostBytes {
		return nil
	}
	return x.flush()
}

// flush puts what is kept.
func (x *inserter) flush() error {
	rows := len(x.args) / x.wide
	if rows == 0 {
		return nil
	}
	var done sql.Result
	var err error
	if rows == x.most {
		done, err = x.many.Exec(x.args...)
	} else {
		done, err = x.tx.Exec(x.statement(rows), x.args...)
	}
	if err == nil {
		x.last, err = done.LastInsertId()
	}
	if x.first == 0 {
		x.first = x.last - int64(rows) + 1
	}
	clear(x.args)
	x.args, x.bytes = x.args[:0], 0
	return err
}

func (x *inserter) close() { x.many.Close() }
