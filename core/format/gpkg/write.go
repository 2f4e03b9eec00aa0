package gpkg

import (
	"cmp"
	"context"
	"database/sql"
	_ "embed"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// write makes the database in a temporary file, since SQLite wants one, and copies it. Data are added to a copy of the
// file that is there.
func write(w io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	dir, remove, err := safefile.Scratch()
	if err != nil {
		return nil, err
	}
	defer remove()
	path := filepath.Join(dir, "data.gpkg")
	fresh := true
	if opt.Append != "" {
		if fresh, err = copyOf(opt.Append, path); err != nil {
			return nil, err
		}
	}
	done, err := fill(path, fresh, d, opt)
	if err != nil {
		return nil, writeFault(err, dir)
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	_, err = io.Copy(w, f)
	return done, err
}

// copyOf copies the file that data are added to; fresh says that there is none.
func copyOf(from, to string) (fresh bool, err error) {
	in, err := os.Open(from)
	if errors.Is(err, os.ErrNotExist) {
		return true, nil
	}
	if err != nil {
		return false, err
	}
	defer in.Close()
	var head [100]byte
	if _, err := io.ReadFull(in, head[:]); err != nil || !sniff(&format.Head{Raw: head[:]}) {
		return false, &format.Error{Path: from, Msg: "is not a GeoPackage, so nothing can be added to it"}
	}
	if err := noLog(from); err != nil {
		return false, err
	}
	if _, err := in.Seek(0, io.SeekStart); err != nil {
		return false, err
	}
	out, err := os.Create(to)
	if err != nil {
		return false, err
	}
	if _, err = io.Copy(out, in); err == nil {
		return false, out.Close()
	}
	out.Close()
	return false, notMade(filepath.Dir(to), safefile.Bare(err))
}

// noLog refuses a database beside which a log holds what is not in it yet.
func noLog(path string) error {
	if info, err := os.Stat(path + "-wal"); err == nil && info.Size() > 0 {
		return &format.Error{Path: path, Msg: "has pending changes in a log beside it (-wal): close the " +
			"program that has it open"}
	}
	return nil
}

// quote puts a name in the quotes of SQL.
func quote(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

func fill(path string, fresh bool, d *nav.Dataset, opt *format.WriteOptions) (done *format.Written, err error) {
	db, err := sql.Open("sqlite",
		"file:"+path+"?_pragma=journal_mode(off)&_pragma=synchronous(off)&_pragma=foreign_keys(1)")
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, db.Close()) }()
	db.SetMaxOpenConns(1)
	if fresh {
		if err := create(db); err != nil {
			return nil, err
		}
	}
	p := &pack{db: db, opt: *opt, changed: changeOf(d, opt)}
	if !fresh && opt.System == nil {
		if err := p.takeSystem(); err != nil {
			return nil, err
		}
	}
	layers, done := layer.Of(d, &p.opt, layer.ByKind, false)
	if len(layers) == 0 {
		return nil, errors.New("there is nothing that a GeoPackage can store: no waypoint, and no line or area with " +
			"enough points")
	}
	if err := p.addSystem(); err != nil {
		return nil, err
	}
	begin := db.Begin
	if opt.Context != nil {
		ctx, cancel := context.WithCancelCause(opt.Context)
		defer cancel(nil)
		p.opt.Context, p.watch = ctx, newWatch(cancel, "a trigger of one of its tables doesn't end", 0, path)
		defer p.watch.stop()
		begin = func() (*sql.Tx, error) { return db.BeginTx(ctx, nil) }
		defer func() {
			if err != nil && ctx.Err() != nil {
				err = context.Cause(ctx)
			}
		}()
	}
	if p.tx, err = begin(); err != nil {
		return nil, err
	}
	defer p.tx.Rollback()
	for _, s := range []struct{ table, statement string }{
		{"gpkg_contents", "INSERT INTO gpkg_contents (table_name) VALUES ('')"},
		{"gpkg_contents", "UPDATE gpkg_contents SET last_change = '', min_x = 0, min_y = 0, max_x = 0, max_y = 0"},
		{"gpkg_geometry_columns", "INSERT INTO gpkg_geometry_columns (table_name) VALUES ('')"},
		{"gpkg_geometry_columns", "UPDATE gpkg_geometry_columns SET z = 2"},
	} {
		if err := p.trust(s.table, s.statement, 0); err != nil {
			return nil, err
		}
	}
	for _, l := range layers {
		if err := p.add(l, &done.Ledger); err != nil {
			return nil, err
		}
	}
	if p.updated < len(opt.Update) {
		return nil, fmt.Errorf("%d of %d items that are to be updated stand in layers of another name, geometry or system: "+
			"write a new file", len(opt.Update)-p.updated, len(opt.Update))
	}
	return done, p.tx.Commit()
}

//go:embed create.sql
var tables string

//go:embed extensions.sql
var extensions string

// create makes the tables that every GeoPackage has (annex C).
func create(db *sql.DB) error {
	_, err := db.Exec(fmt.Sprintf("PRAGMA application_id = %d; PRAGMA user_version = %d;", applicationID, userVersion) +
		tables + extensions)
	if err != nil {
		return err
	}
	w := crs.World()
	_, err = db.Exec("INSERT INTO gpkg_spatial_ref_sys VALUES (?, 4326, 'EPSG', 4326, ?, 'longitude and latitude in "+
		"degrees')", w.Name, w.WKTWithCodes())
	return err
}

// pack is a GeoPackage that is being filled.
type pack struct {
	db  *sql.DB
	tx  *sql.Tx
	opt format.WriteOptions
	srs int32

	watch   *watch // that ends a trigger without end; nil where nothing can be ended
	changed string // the time of change that layers get
	updated int    // rows that have new values
}

// unknownChange is the time of change of data without any time.
var unknownChange = time.Unix(0, 0)

// changeOf gives the time of change of data: the one that is asked for, or their own latest, so that the same data give
// the same bytes.
func changeOf(d *nav.Dataset, opt *format.WriteOptions) string {
	at := opt.Stamp
	if at.IsZero() {
		at = unknownChange
		for p := range d.AllPoints() {
			if p.HasTime() && p.Time().After(at) {
				at = p.Time()
			}
		}
		if d.Meta.Time.HasTime() && d.Meta.Time.Time().After(at) {
			at = d.Meta.Time.Time()
		}
	}
	return at.UTC().Format("2006-01-02T15:04:05.000Z")
}

// takeSystem makes the system of the layers that are there that of those which are added, where no other is asked for.
func (p *pack) takeSystem() error {
	var org string
	var code int
	err := p.db.QueryRow("SELECT organization, organization_coordsys_id FROM gpkg_spatial_ref_sys s JOIN "+
		"gpkg_geometry_columns g ON g.srs_id = s.srs_id WHERE g.table_name IN "+
		"('waypoints','routes','tracks','areas','track_points') ORDER BY g.table_name LIMIT 1").Scan(&org, &code)
	if errors.Is(err, sql.ErrNoRows) || code == 4326 {
		return nil
	}
	if err != nil {
		return err
	}
	s, err := crs.Find(strconv.Itoa(code))
	if !strings.EqualFold(org, "EPSG") || err != nil || s.Shift == nil {
		return advice.Errorf(advice.NameSystem,
			"its layers are in an unknown coordinate system (%s %d)", org, code)
	}
	p.opt.System = s
	return nil
}

// firstOwn is the first number of a system that is in no registry.
const firstOwn = 100000

// addSystem enters the coordinate system, unless it is there.
func (p *pack) addSystem() error {
	s := p.opt.System
	if s.WGS84() {
		p.srs = 4326
		return nil
	}
	org, code := "EPSG", s.Code
	text := s.WKTWithCodes()
	if s.Code == 0 {
		org = "NONE"
		err := p.db.QueryRow("SELECT srs_id FROM gpkg_spatial_ref_sys WHERE definition = ?", text).Scan(&p.srs)
		if err == nil {
			return nil
		}
		if err := p.db.QueryRow("SELECT max(?, 1 + coalesce(max(srs_id), 0)) FROM gpkg_spatial_ref_sys",
			firstOwn).Scan(&code); err != nil {
			return err
		}
	}
	p.srs = int32(code)
	_, err := p.db.Exec("INSERT OR IGNORE INTO gpkg_spatial_ref_sys VALUES (?, ?, ?, ?, ?, ?)", s.Name, code, org, code,
		text, s.Axes())
	return err
}

var sqlTypes = map[layer.Type]string{
	layer.Empty:   "TEXT",
	layer.Integer: "INTEGER",
	layer.Decimal: "REAL",
	layer.Boolean: "BOOLEAN",
	layer.Date:    "DATE",
	layer.Time:    "DATETIME",
	layer.Text:    "TEXT",
}

// add writes a layer: into the table of its name where that has the same geometry and system, or a new one.
func (p *pack) add(l *layer.Layer, ledger *nav.Ledger) error {
	kind, word := uint32(wkb.Point), "POINT"
	switch {
	case l.Geometry == layer.Areas:
		kind, word = wkb.Polygon, "POLYGON"
	case l.Geometry == layer.Lines:
		kind, word = wkb.Line, "LINESTRING"
	}
	if l.Multi || l.Own() && l.Kind() == nav.Tracks.One() {
		kind, word = kind+wkb.MultiPoint-wkb.Point, "MULTI"+word
	}
	table, exists, err := p.tableFor(l, word)
	if err != nil {
		return err
	}
	if table != l.Name {
		*ledger = append(*ledger, nav.Entry{KindWord: "layer", What: "layer name", Old: l.Name, New: table,
			Why: "the existing layer has another geometry type or coordinate system, or is a view", Count: 1})
	}
	columns, err := p.columns(table, exists, l, word, ledger)
	if err != nil {
		return err
	}
	if exists {
		if err := p.allowHeights(table, l); err != nil {
			return err
		}
	}
	names := make([]string, len(columns))
	for i := range columns {
		names[i] = columns[i].name
	}
	geometry := "geom"
	if exists {
		if err := p.tx.QueryRow("SELECT column_name FROM gpkg_geometry_columns WHERE table_name = ?",
			table).Scan(&geometry); err != nil {
			return err
		}
	}
	rows, err := newInserter(p.tx, "INSERT INTO", table, append([]string{geometry}, names...)...)
	if err != nil {
		return err
	}
	defer rows.end()
	rows.ctx, rows.watch = p.opt.Context, p.watch
	late, before := &replacing{}, int64(0)
	if exists {
		if late, err = p.replacing(table, l, append([]string{geometry}, names...)); err == nil {
			before, err = p.count(table)
		}
		if err != nil {
			return err
		}
		if err := p.trust(table, rows.statement(1), rows.wide); err != nil {
			return err
		}
	}
	rows.putBeside()
	bounds := layer.NewBounds()
	var boxes []entry
	put := int64(0)
	args := make([]any, len(names)+1)
	err = l.Each(func(f *layer.Feature) error {
		bounds.AddAll(f.Parts)
		args[0] = appendGeometry(nil, f, kind, p.srs)
		for i := range names {
			args[i+1] = valueOf(f.Values[i], columns[i].typ)
		}
		if !exists { // else triggers keep the index
			e := entry{box: layer.NewBounds()}
			e.box.AddAll(f.Parts)
			boxes = append(boxes, e)
		}
		if late.takes(f, args) {
			return nil
		}
		put++
		return rows.add(args...)
	})
	if err == nil {
		err = rows.end()
	}
	if err == nil {
		err = late.put()
	}
	if err != nil {
		return err
	}
	if after, err := p.count(table); err != nil || after != before+put {
		return cmp.Or(err, fmt.Errorf("of %d rows that were added to the table %s the database kept %d: write a new file",
			put, table, after-before))
	}
	if !exists {
		if n := int64(len(boxes)); n > 0 && rows.last-rows.first+1 != n {
			return fmt.Errorf("the rows of the layer %s were not numbered one after the other", table)
		}
		for i := range boxes {
			boxes[i].id = rows.first + int64(i)
		}
		if err := p.index(table, boxes); err != nil {
			return err
		}
	}
	if bounds.MinX > bounds.MaxX {
		return nil
	}
	_, err = p.tx.Exec("UPDATE gpkg_contents SET min_x = min(coalesce(min_x, ?1), ?1), min_y = min(coalesce(min_y, ?2), "+
		"?2), max_x = max(coalesce(max_x, ?3), ?3), max_y = max(coalesce(max_y, ?4), ?4) WHERE table_name = ?5",
		bounds.MinX, bounds.MinY, bounds.MaxX, bounds.MaxY, table)
	return err
}

// valueOf is a value in the type of its column.
func valueOf(text string, t layer.Type) any {
	if text == "" {
		return nil
	}
	switch t {
	case layer.Integer:
		if v, err := strconv.ParseInt(text, 10, 64); err == nil {
			return v
		}
	case layer.Decimal:
		if v, err := strconv.ParseFloat(text, 64); err == nil && !math.IsInf(v, 0) {
			return v
		}
	case layer.Boolean:
		return text == "true"
	case layer.Time: // with milliseconds, as table 1 of the standard has it
		if ns, _, _, ok := instant.Parse([]byte(text), nil); ok {
			return string(instant.Append(nil, ns, instant.Seconds+3))
		}
	}
	return text
}

// tableFor finds the table that a layer goes to.
func (p *pack) tableFor(l *layer.Layer, word string) (table string, exists bool, err error) {
	for n := 1; ; n++ {
		table = tableName(l.Name)
		if n > 1 {
			table = fmt.Sprintf("%s_%d", tableName(l.Name), n)
		}
		var there int
		if err := p.tx.QueryRow("SELECT count(*) FROM sqlite_master WHERE lower(name) = lower(?)",
			table).Scan(&there); err != nil {
			return "", false, err
		}
		if there == 0 {
			return table, false, nil
		}
		var kind, sort string
		var srs int32
		err = p.tx.QueryRow("SELECT type FROM sqlite_master WHERE lower(name) = lower(?)", table).Scan(&sort)
		if err != nil {
			return "", false, err
		}
		err = p.tx.QueryRow("SELECT geometry_type_name, srs_id FROM gpkg_geometry_columns WHERE table_name = ?",
			table).Scan(&kind, &srs)
		if err == nil && sort == "table" && srs == p.srs &&
			(strings.EqualFold(kind, word) || strings.EqualFold(kind, "GEOMETRY")) {
			return table, true, nil
		}
		if err != nil && !errors.Is(err, sql.ErrNoRows) {
			return "", false, err
		}
	}
}

// tableName is the name of the table of a layer, which is none of those that the standard or the database take.
func tableName(layer string) string {
	name := strings.ReplaceAll(layer, "\u2215", "/")
	for _, taken := range []string{"gpkg_", "rtree_", "sqlite_"} {
		if strings.HasPrefix(strings.ToLower(name), taken) {
			return "layer_" + name
		}
	}
	return name
}

// column is one of a table, with the type in which its values are written.
type column struct {
	name string
	typ  layer.Type
}

// typeOf gives the type of values that a column of a table takes.
func typeOf(sql string) layer.Type {
	sql = strings.ToUpper(sql)
	for _, t := range []struct {
		word string
		typ  layer.Type
	}{{"BOOLEAN", layer.Boolean}, {"DATETIME", layer.Time}, {"DATE", layer.Date}, {"INT", layer.Integer},
		{"REAL", layer.Decimal}, {"DOUBLE", layer.Decimal}, {"FLOAT", layer.Decimal}} {
		if strings.Contains(sql, t.word) {
			return t.typ
		}
	}
	return layer.Text
}

// takes says whether values of one type can stand in a column of another.
func takes(column, values layer.Type) bool {
	return column == values || values == layer.Empty || column == layer.Text ||
		column == layer.Decimal && values == layer.Integer
}

// there gives the types of the columns of a table, by their names in small letters.
func (p *pack) there(table string) (map[string]string, error) {
	rows, err := p.tx.Query("SELECT name, type FROM pragma_table_info(?)", table)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	out := map[string]string{}
	for rows.Next() {
		var name, typ string
		if err := rows.Scan(&name, &typ); err != nil {
			return nil, err
		}
		out[strings.ToLower(name)] = typ
	}
	return out, rows.Err()
}

// columns makes the table, or adds to it the columns that it lacks, and gives the layer's columns in it. A column that
// is there and takes no such values stays as it is, and another is added beside it.
func (p *pack) columns(table string, exists bool, l *layer.Layer, word string, ledger *nav.Ledger) (out []column,
	err error) {
	taken := map[string]bool{"fid": true, "geom": true}
	there := map[string]string{}
	if exists {
		if there, err = p.there(table); err != nil {
			return nil, err
		}
	}
	def := []string{`"fid" INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL`, `"geom" ` + word}
	for _, c := range l.Columns {
		name := c.Name
		fits := func() bool {
			old, is := there[strings.ToLower(name)]
			return !taken[strings.ToLower(name)] && (!is || takes(typeOf(old), c.Type))
		}
		for n := 2; !fits(); n++ {
			name = fmt.Sprintf("%s_%d", c.Name, n)
		}
		if taken[strings.ToLower(c.Name)] && !exists {
			*ledger = append(*ledger, nav.Entry{KindWord: table, What: nav.PropertyFieldName, Old: c.Name, New: name,
				Why: "the columns of a table don't differ by case alone", Count: 1})
		}
		taken[strings.ToLower(name)] = true
		typ := c.Type
		old, is := there[strings.ToLower(name)]
		if is {
			typ = typeOf(old)
		} else if _, other := there[strings.ToLower(c.Name)]; other {
			*ledger = append(*ledger, nav.Entry{KindWord: table, What: nav.PropertyFieldName, Old: c.Name, New: name,
				Why: "the existing column doesn't accept such values", Count: 1})
		}
		out = append(out, column{name, typ})
		text := quote(name) + " " + sqlTypes[c.Type]
		if exists && !is {
			if _, err := p.tx.Exec("ALTER TABLE " + quote(table) + " ADD COLUMN " + text); err != nil {
				return nil, err
			}
		}
		def = append(def, text)
	}
	if exists {
		return out, nil
	}
	if len(def) > 2000 {
		return nil, fmt.Errorf("a table of a GeoPackage holds 2,000 columns at most, and there are %d fields", len(def))
	}
	if _, err := p.tx.Exec("CREATE TABLE " + quote(table) + " (" + strings.Join(def, ", ") + ")"); err != nil {
		return nil, err
	}
	if _, err := p.tx.Exec("INSERT INTO gpkg_contents (table_name, data_type, identifier, last_change, srs_id) VALUES "+
		"(?, 'features', ?, ?, ?)", table, table, p.changed, p.srs); err != nil {
		return nil, err
	}
	_, err = p.tx.Exec("INSERT INTO gpkg_geometry_columns VALUES (?, 'geom', ?, ?, ?, 0)", table, word, p.srs, heights(l))
	return out, err
}

// heights says whether the geometries of a layer have heights: 0 none, 1 all, 2 some (table 6).
func heights(l *layer.Layer) int {
	switch {
	case l.HasZ:
		return 1
	case l.ByEach && l.SomeZ:
		return 2
	}
	return 0
}

// allowHeights lets a table that is there hold geometries with and without heights, where both will be in it.
func (p *pack) allowHeights(table string, l *layer.Layer) error {
	_, err := p.tx.Exec("UPDATE gpkg_geometry_columns SET z = 2 WHERE table_name = ? AND z != ?", table, heights(l))
	if err == nil {
		_, err = p.tx.Exec("UPDATE gpkg_contents SET last_change = max(last_change, ?) WHERE table_name = ?", p.changed,
			table)
	}
	return err
}
