package gpkg

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"modernc.org/sqlite"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/identity"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// read reads all layers of features, or the one that is asked for. The database is opened for reading only, and nothing
// that its schema might call is trusted.
func read(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	path := s.File()
	if path == "" {
		dir, remove, err := safefile.Scratch()
		if err != nil {
			return nil, err
		}
		defer remove()
		if path, err = spilled(s, dir, opt.Unpacked()); err != nil {
			return nil, err
		}
	} else if err := noLog(path); err != nil {
		return nil, err
	}
	absolute, err := filepath.Abs(path)
	if err != nil {
		return nil, err
	}
	where := url.URL{Scheme: "file", Path: filepath.ToSlash(absolute),
		RawQuery: "mode=ro&immutable=1&_pragma=trusted_schema(0)&_pragma=cell_size_check(1)&_pragma=query_only(1)"}
	db, err := sql.Open("sqlite", where.String())
	if err != nil {
		return nil, err
	}
	defer db.Close()
	ctx, cancel := context.WithCancelCause(s.Context())
	defer cancel(nil)
	r := &reader{db: db, d: &nav.Dataset{}, opt: opt,
		watch: newWatch(cancel, "one of its layers is computed by the database", opt.MaxUnpacked, path)}
	defer r.watch.stop()
	err = r.layers(ctx)
	if err != nil && ctx.Err() != nil {
		err = context.Cause(ctx)
	}
	if err != nil {
		return nil, &format.Error{Path: s.Path, Msg: readFault(err), Advice: advice.Of(err), Err: err}
	}
	return r.d, nil
}

// spilled writes a source that is no file to one.
func spilled(s *format.Source, dir string, limit int64) (string, error) {
	path := filepath.Join(dir, "data.gpkg")
	f, err := os.Create(path)
	if err != nil {
		return "", err
	}
	n, err := io.Copy(f, io.LimitReader(s.Reader(), limit+1))
	if err = errors.Join(err, f.Close()); err == nil && n > limit {
		err = advice.Errorf(advice.AllowUnpacked, "is larger than the limit")
	}
	return path, err
}

type reader struct {
	db        *sql.DB
	d         *nav.Dataset
	opt       *format.ReadOptions
	watch     *watch
	undefined []string // layers in no system
	read      []string // tables of attributes whose columns say where
}

// located lists the tables of attributes with columns of latitudes and longitudes.
func (r *reader) located(ctx context.Context) ([]string, error) {
	rows, err := r.db.QueryContext(ctx, "SELECT c.table_name, p.name FROM gpkg_contents c, "+
		"pragma_table_info(c.table_name) p WHERE c.data_type = 'attributes' ORDER BY c.rowid, p.cid")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	columns := map[string][]string{}
	var tables []string
	for rows.Next() {
		var table, column string
		if err := rows.Scan(&table, &column); err != nil {
			return nil, err
		}
		if columns[table] == nil {
			tables = append(tables, table)
		}
		columns[table] = append(columns[table], column)
	}
	r.read = slices.DeleteFunc(tables, func(t string) bool { return !layer.FromColumns(columns[t]) })
	return r.read, rows.Err()
}

// repeats finds the layer whose rows a view shows; "" where the table is none, or shows no layer.
func (r *reader) repeats(ctx context.Context, table string, layers []string) string {
	var kind, text string
	if r.db.QueryRowContext(ctx, "SELECT type, sql FROM sqlite_master WHERE lower(name) = lower(?)", table).
		Scan(&kind, &text) != nil || kind != "view" {
		return ""
	}
	words := strings.FieldsFunc(strings.ToLower(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '_'
	})
	for _, l := range layers {
		if !strings.EqualFold(l, table) && slices.Contains(words, strings.ToLower(l)) {
			return l
		}
	}
	return ""
}

// source is a layer of the database.
type source struct {
	table, geometry string
	srs             int
}

func (r *reader) layers(ctx context.Context) error {
	rows, err := r.db.QueryContext(ctx, "SELECT g.table_name, g.column_name, g.srs_id FROM gpkg_geometry_columns g LEFT "+
		"JOIN gpkg_contents c ON lower(c.table_name) = lower(g.table_name) ORDER BY c.rowid IS NULL, c.rowid")
	if err != nil {
		return err
	}
	defer rows.Close()
	var all []source
	for rows.Next() {
		var s source
		if err := rows.Scan(&s.table, &s.geometry, &s.srs); err != nil {
			return err
		}
		all = append(all, s)
	}
	if err := rows.Err(); err != nil {
		return err
	}
	if all, err = r.contents(ctx, all); err != nil {
		return err
	}
	var names []string
	for _, s := range all {
		names = append(names, s.table)
	}
	located, err := r.located(ctx)
	if err != nil {
		return err
	}
	for _, table := range located {
		all, names = append(all, source{table: table, srs: 4326}), append(names, table)
	}
	if len(all) == 0 {
		for _, p := range r.d.Problems {
			if p.Code == nav.ProblemContradiction {
				return fmt.Errorf("has no feature layer: %s", p.Text)
			}
		}
		return errors.New("has no feature layer")
	}
	if want := r.opt.Sheet; want != "" {
		i := slices.IndexFunc(names, func(n string) bool { return strings.EqualFold(n, want) })
		if n, err := strconv.Atoi(want); i < 0 && err == nil && n >= 1 && n <= len(all) {
			i = n - 1
		}
		if i < 0 {
			return fmt.Errorf("has no layer %q; it has %s", want, strings.Join(names, ", "))
		}
		all = all[i : i+1]
	}
	for _, s := range all {
		if of := r.repeats(ctx, s.table, names); of != "" && r.opt.Sheet == "" {
			r.d.Tell(nav.ProblemSheets, fmt.Sprintf("the view %s shows features of the layer %s, and was not read as well",
				s.table, of))
			continue
		}
		if err := r.layer(ctx, s); err != nil {
			return fmt.Errorf("layer %q: %w", s.table, err)
		}
	}
	if len(r.undefined) > 0 && r.d.Points() == 0 { // nothing in them can be degrees
		return advice.Errorf(advice.NameSystemIn, "layer %q: its coordinate system is undefined", r.undefined[0])
	}
	if r.opt.Sheet == "" {
		return r.others(ctx)
	}
	return nil
}

// isOwnLayer says whether a layer has a name that we give.
func isOwnLayer(table string) bool {
	name := strings.TrimRight(strings.ToLower(table), "_0123456789")
	return slices.Contains([]string{"waypoints", "track_points", "routes", "tracks", "areas"}, name)
}

// others tells of tables without positions and of pictures.
func (r *reader) others(ctx context.Context) error {
	rows, err := r.db.QueryContext(ctx, "SELECT table_name, data_type FROM gpkg_contents WHERE data_type != 'features'")
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var table, kind string
		if err := rows.Scan(&table, &kind); err != nil {
			return err
		}
		if slices.Contains(r.read, table) {
			continue
		}
		r.d.Note(nav.ProblemLeftOut, fmt.Sprintf("the table %s (%s) has no positions and was left out", table, kind), 0, 0)
	}
	return rows.Err()
}

// system finds the coordinate system of a layer, by its number or its definition.
func (r *reader) system(ctx context.Context, s source) (*crs.System, error) {
	if s.srs == 4326 {
		return nil, nil
	}
	var org, definition string
	var code int
	if err := r.db.QueryRowContext(ctx, "SELECT organization, organization_coordsys_id, definition FROM "+
		"gpkg_spatial_ref_sys WHERE srs_id = ?", s.srs).Scan(&org, &code, &definition); err != nil {
		return nil, advice.Errorf(advice.NameSystemIn, "its coordinate system (%d) is not described", s.srs)
	}
	if definition == "undefined" && !strings.EqualFold(org, "EPSG") { // clause 1.1.2.1.2: srs_id 0 and -1
		r.d.Note(nav.ProblemSystem, fmt.Sprintf("the coordinate system of the layer %s is undefined; its coordinates "+
			"were read as degrees of WGS 84", s.table), 0, 0).Advise(advice.NameSystemIn)
		r.undefined = append(r.undefined, s.table)
		return nil, nil
	}
	return layer.Described(org, code, definition)
}

func (r *reader) layer(ctx context.Context, s source) error {
	var own *crs.System
	if r.opt.System == nil {
		var err error
		if own, err = r.system(ctx, s); err != nil {
			return err
		}
	}
	system, err := layer.SystemOf(r.d, r.opt, own, "the layer "+s.table)
	if err != nil {
		return err
	}
	conn, err := r.db.Conn(ctx)
	if err != nil {
		return err
	}
	defer conn.Close()
	if _, err := sqlite.Limit(conn, limitLength, mostValue); err != nil {
		return err
	}
	rows, err := conn.QueryContext(ctx, "SELECT * FROM "+quote(s.table))
	if err != nil {
		return err
	}
	defer rows.Close()
	columns, err := rows.ColumnTypes()
	if err != nil {
		return err
	}
	key := ""
	r.db.QueryRowContext(ctx, "SELECT name FROM pragma_table_info(?) WHERE pk = 1 AND upper(type) = 'INTEGER'",
		s.table).Scan(&key)
	geometryAt, keyAt := -1, -1
	var titles []string
	var numbers []bool
	var at []int
	var kinds []string
	for i, c := range columns {
		kind := strings.ToUpper(c.DatabaseTypeName())
		switch {
		case c.Name() == s.geometry:
			geometryAt = i
		case c.Name() == key && !strings.EqualFold(key, r.opt.Key):
			keyAt = i
		default:
			titles, at, kinds = append(titles, c.Name()), append(at, i), append(kinds, kind)
			numbers = append(numbers, slices.ContainsFunc([]string{"INT", "REAL", "DOUBLE", "FLOAT", "BOOLEAN"},
				func(w string) bool { return strings.Contains(kind, w) }))
		}
	}
	if geometryAt < 0 && s.geometry != "" {
		return fmt.Errorf("has no column %q, where its geometries should be", s.geometry)
	}
	b := layer.NewBuilder(r.d, r.opt, system, titles, numbers)
	if !isOwnLayer(s.table) {
		b.Group = strings.ReplaceAll(s.table, "/", "\u2215")
		r.d.Meta.Kept = append(r.d.Meta.Kept, nav.Kept{Format: "gpkg", Where: layer.KeptLayer, Text: b.Group, Free: true})
	}
	cells := make([]any, len(columns))
	to := make([]any, len(columns))
	for i := range cells {
		to[i] = &cells[i]
	}
	values := make([]string, len(titles))
	shapes, features := 0, 0
	for record := 1; rows.Next(); record++ {
		if err := rows.Scan(to...); err != nil {
			return err
		}
		r.watch.row(cells)
		if keyAt >= 0 {
			b.ID = identity.OfFeature(s.table, cells[keyAt])
		}
		for i, column := range at {
			values[i] = r.text(cells[column], titles[i], kinds[i], record)
		}
		var shape any
		if geometryAt >= 0 {
			shape = cells[geometryAt]
		}
		features = record
		if r.feature(b, shape, values, record) {
			shapes++
		}
	}
	b.Finish()
	if err := rows.Err(); err != nil || s.geometry == "" {
		return err
	}
	rows.Close()
	r.counts(ctx, s, shapes, features, &b.Box)
	return nil
}

// text writes a value as a field has it.
func (r *reader) text(v any, title, kind string, record int) string {
	switch v := v.(type) {
	case nil:
		return ""
	case int64:
		if kind == "BOOLEAN" {
			return strconv.FormatBool(v != 0)
		}
		return strconv.FormatInt(v, 10)
	case float64:
		return strconv.FormatFloat(v, 'f', -1, 64)
	case bool:
		return strconv.FormatBool(v)
	case []byte:
		r.d.Note(nav.ProblemLeftOut, fmt.Sprintf("binary data in the column %s were left out", title), record, 0)
		return ""
	case string:
		if head, ok := strings.CutSuffix(v, ".000Z"); ok && len(v) == len("2026-03-14T05:30:00.000Z") {
			return head + "Z" // milliseconds that the format asks for and nobody took
		}
		return v
	}
	if t, ok := v.(interface{ Format(string) string }); ok { // dates and times, which the driver reads
		text := t.Format("2006-01-02T15:04:05.999999999Z")
		if kind == "DATE" {
			text = strings.TrimSuffix(text, "T00:00:00Z")
		}
		return text
	}
	return fmt.Sprint(v)
}

// feature reads a row, and says whether it has a shape.
func (r *reader) feature(b *layer.Builder, cell any, values []string, record int) bool {
	blob, ok := cell.([]byte)
	if !ok || len(blob) == 0 {
		b.Nothing(nav.Waypoints, values, record)
		return false
	}
	code, empty, err := body(blob)
	g := &layer.Shape{}
	if err == nil && !empty {
		g, _, err = wkb.Parse(code)
	}
	if err != nil {
		r.d.Note(nav.ProblemLeftOut, "a geometry that can't be read was left out", record, 0)
		return true
	}
	b.Feature(g, values, record)
	return !empty
}
