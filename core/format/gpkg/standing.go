package gpkg

import (
	"context"
	"database/sql"
	"fmt"
	"slices"
	"strings"

	"gyrolith/core/format/layer"
	"gyrolith/core/identity"
)

// What a table of somebody else's does by itself when rows are put into it is for the database to say: a statement is
// compiled and the programs of its triggers are looked at. They may keep the standard's own tables, such as counts and
// extents, and an index; where one changes anything else, rows could vanish or change.

// trust refuses a statement, which has so many values, of which a trigger changes other tables than those of the
// standard.
func (p *pack) trust(table, statement string, values int) error {
	roots, err := p.roots()
	if err != nil {
		return err
	}
	rows, err := p.tx.Query("EXPLAIN "+statement, make([]any, values)...)
	if err != nil {
		return err
	}
	defer rows.Close()
	trigger := ""
	for rows.Next() {
		var skip any
		var op string
		var root int
		var text any
		if err := rows.Scan(&skip, &op, &skip, &root, &skip, &text, &skip, &skip); err != nil {
			return err
		}
		name, _ := text.(string)
		if name, begins := strings.CutPrefix(name, "-- TRIGGER "); op == "Init" && begins {
			trigger = name
		}
		if changes := roots[root]; op == "OpenWrite" && trigger != "" && !ofStandard(changes) {
			return fmt.Errorf("the trigger %s of the table %s changes the table %s, so nothing was added: remove the trigger, "+
				"or write a new file", trigger, table, changes)
		}
	}
	return rows.Err()
}

// ofStandard says whether a table is one of the standard, of an extension of it, or of an index.
func ofStandard(table string) bool {
	lower := strings.ToLower(table)
	return strings.HasPrefix(lower, "gpkg_") || strings.HasPrefix(lower, "rtree_") || lower == "sqlite_sequence"
}

// roots gives the tables by the pages where they and their indexes begin.
func (p *pack) roots() (map[int]string, error) {
	rows, err := p.tx.Query("SELECT rootpage, tbl_name FROM sqlite_master WHERE rootpage > 0")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[int]string{1: "sqlite_master"}
	for rows.Next() {
		var root int
		var name string
		if err := rows.Scan(&root, &name); err != nil {
			return nil, err
		}
		out[root] = name
	}
	return out, rows.Err()
}

// count counts the rows of a table.
func (p *pack) count(table string) (n int64, err error) {
	err = p.tx.QueryRow("SELECT count(*) FROM " + quote(table)).Scan(&n)
	return n, err
}

// replacing are the rows of a table that are to be given other values, by the identities of their items.
type replacing struct {
	p          *pack
	table, key string          // the key is the column of the numbers of features
	ids        map[string]bool // that are to be replaced
	idAt       int             // which value of a feature is its identity
	statement  string          // up to the condition
	late       [][]any         // the values of rows, and what finds each
}

// replacing finds what of a layer is to replace rows of a table.
func (p *pack) replacing(table string, l *layer.Layer, columns []string) (*replacing, error) {
	r := &replacing{p: p, table: table, ids: map[string]bool{},
		idAt: slices.IndexFunc(l.Columns, func(c layer.Column) bool { return c.Name == "item id" })}
	for _, id := range p.opt.Update {
		r.ids[id] = true
	}
	if len(r.ids) == 0 || r.idAt < 0 {
		return r, nil
	}
	err := p.tx.QueryRow("SELECT name FROM pragma_table_info(?) WHERE pk = 1", table).Scan(&r.key)
	var set []string
	for _, c := range columns {
		set = append(set, quote(c)+" = ?")
	}
	r.statement = "UPDATE " + quote(table) + " SET " + strings.Join(set, ", ") + " WHERE "
	if err == nil {
		err = p.trust(table, r.statement+"0", len(columns))
	}
	return r, err
}

// takes keeps the values of a feature until rows are put no more, if they are to replace a row.
func (r *replacing) takes(f *layer.Feature, values []any) bool {
	if r.statement == "" || !r.ids[f.Values[r.idAt]] {
		return false
	}
	r.late = append(r.late, append(append([]any{}, values...), f.Values[r.idAt]))
	return true
}

// put replaces the rows.
func (r *replacing) put() error {
	for _, values := range r.late {
		where, last := quote("item id")+" = ?", len(values)-1
		id := values[last].(string)
		if number, is := strings.CutPrefix(id, identity.OfFeature(r.table, "")); is {
			where, values[last] = quote(r.key)+" = ?", number
		}
		done, err := execIn(r.p.opt.Context, r.p.tx, r.statement+where, values)
		if err != nil {
			return err
		}
		if n, err := done.RowsAffected(); err != nil || n != 1 {
			return fmt.Errorf("%d rows of the table %s are the item %s, so it can't be updated there", n, r.table, id)
		}
		r.p.updated++
	}
	return nil
}

// execIn does a statement under a context, if there is one.
func execIn(ctx context.Context, tx *sql.Tx, text string, args []any) (sql.Result, error) {
	if ctx == nil {
		return tx.Exec(text, args...)
	}
	return tx.ExecContext(ctx, text, args...)
}
