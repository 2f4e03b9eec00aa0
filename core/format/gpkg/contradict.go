package gpkg

import (
	"context"
	"slices"
	"strings"

	"gyrolith/core/format/layer"
	"gyrolith/core/nav"
)

// contents compares what the tables of the standard say with one another, and leaves out layers that aren't there.
func (r *reader) contents(ctx context.Context, layers []source) ([]source, error) {
	there, err := r.column(ctx, "SELECT lower(name) FROM sqlite_master WHERE type IN ('table', 'view')")
	if err != nil {
		return nil, err
	}
	listed, err := r.column(ctx, "SELECT lower(table_name) FROM gpkg_contents WHERE data_type = 'features'")
	if err != nil {
		return nil, err
	}
	has := func(name string) bool {
		return slices.ContainsFunc(layers, func(s source) bool { return strings.EqualFold(s.table, name) })
	}
	for _, name := range listed {
		switch {
		case !slices.Contains(there, name):
			r.d.Contradict("the contents name the layer %s, and there is no such table", name)
		case !has(name):
			r.d.Contradict("the contents name the layer %s, and none of its columns has geometries: it was left out", name)
		}
	}
	for _, name := range there {
		index, is := strings.CutPrefix(name, "rtree_")
		if !is || !slices.Contains(there, name+"_rowid") {
			continue
		}
		if !slices.ContainsFunc(layers, func(s source) bool { return strings.EqualFold(s.table+"_"+s.geometry, index) }) {
			r.d.Contradict("the index %s is of no layer", name)
		}
	}
	return slices.DeleteFunc(layers, func(s source) bool {
		name := strings.ToLower(s.table)
		if s.geometry == "" { // a table of attributes
			return false
		}
		switch gone := !slices.Contains(there, name); {
		case gone && !slices.Contains(listed, name):
			r.d.Contradict("the table %s is said to have geometries, and there is no such table", s.table)
			fallthrough
		case gone:
			return true
		}
		if !slices.Contains(listed, name) {
			r.d.Contradict("the layer %s is not in the contents; it was read", s.table)
		}
		return false
	}), nil
}

// counts compares a layer with its index and the number of its rows that is noted: with shapes and in all.
func (r *reader) counts(ctx context.Context, s source, shapes, rows int, box *layer.Bounds) {
	var in [4]float64 // which is for information only (clause 1.1.3.1.1)
	if r.db.QueryRowContext(ctx, "SELECT min_x, min_y, max_x, max_y FROM gpkg_contents WHERE lower(table_name) = lower(?)",
		s.table).Scan(&in[0], &in[1], &in[2], &in[3]) == nil && box.Beyond(in[0], in[1], in[2], in[3]) {
		r.d.Tell(nav.ProblemContradiction, "the extent that is noted for the layer "+s.table+" doesn't hold all of it")
	}
	var n int // an error says that there is none
	index := quote("rtree_" + s.table + "_" + s.geometry + "_rowid")
	if r.db.QueryRowContext(ctx, "SELECT count(*) FROM "+index).Scan(&n) == nil && n != shapes {
		r.d.Contradict("the layer %s has %d shapes, and its index has %d", s.table, shapes, n)
	}
	if r.db.QueryRowContext(ctx, "SELECT feature_count FROM gpkg_ogr_contents WHERE lower(table_name) = lower(?)",
		s.table).Scan(&n) == nil && n != rows {
		r.d.Contradict("the layer %s has %d rows, and %d are noted for it", s.table, rows, n)
	}
}

// column reads the texts of a column.
func (r *reader) column(ctx context.Context, query string) (out []string, err error) {
	rows, err := r.db.QueryContext(ctx, query)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var text string
		if err := rows.Scan(&text); err != nil {
			return nil, err
		}
		out = append(out, text)
	}
	return out, rows.Err()
}
