package gpkg

import (
	"context"
	"database/sql"
	"strings"
)

// inserter puts rows into a table, many with one statement.
type inserter struct {
	ctx   context.Context // nil for none
	watch *watch          // hears of rows that were put; nil for nobody
	tx    *sql.Tx
	text  string // up to the values
	row   string // the marks of one
	wide  int    // values of a row
	most  int    // rows of a statement
	many  *sql.Stmt

	args  []any
	bytes int // of the blobs among them

	beside chan<- []any  // rows that are put while others are made; nil where they are put at once
	ended  chan struct{} // closed when nothing is put beside any more: all is, or some could not be
	err    error         // why, once it is closed

	first, last int64 // the ids of the rows that were put
}

// What is kept before it is put: SQLite takes 32,766 values in a statement, and many more rows gain nothing.
const (
	mostValues = 32_000
	mostRows   = 64
	mostBytes  = 256 << 10
)

// newInserter prepares for rows; the verb is that of the statement, INSERT INTO or INSERT OR REPLACE INTO. It must be
// ended.
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

// putBeside has rows put while others are made. Until it is ended, the transaction is this one's alone, so that the
// same rows make the same file.
func (x *inserter) putBeside() {
	rows := make(chan []any, 2)
	x.beside, x.ended = rows, make(chan struct{})
	go func() {
		defer close(x.ended)
		for args := range rows {
			if x.err = x.put(args); x.err != nil {
				return
			}
		}
	}()
}

// add puts a row, or keeps it until there are enough: a blob must stay as it is until the end.
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
	args := x.args
	if x.bytes = 0; len(args) == 0 {
		return nil
	}
	if x.beside == nil {
		x.args = args[:0]
		return x.put(args)
	}
	x.args = make([]any, 0, cap(args))
	select {
	case x.beside <- args:
		return nil
	case <-x.ended:
		return x.err
	}
}

// end puts what is left. It may be called again.
func (x *inserter) end() error {
	err := x.flush()
	if x.beside != nil {
		close(x.beside)
		<-x.ended
		x.beside = nil
	}
	x.many.Close()
	if err == nil {
		err = x.err
	}
	return err
}

func (x *inserter) put(args []any) (err error) {
	rows := len(args) / x.wide
	var done sql.Result
	switch {
	case rows == x.most && x.ctx != nil:
		done, err = x.many.ExecContext(x.ctx, args...)
	case rows == x.most:
		done, err = x.many.Exec(args...)
	default:
		done, err = execIn(x.ctx, x.tx, x.statement(rows), args)
	}
	if err != nil {
		return err
	}
	if x.watch != nil {
		x.watch.timer.Reset(longestSilence)
	}
	x.last, err = done.LastInsertId()
	if x.first == 0 {
		x.first = x.last - int64(rows) + 1
	}
	return err
}
