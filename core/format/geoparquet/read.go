package geoparquet

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"strconv"
	"strings"
	"time"

	"github.com/parquet-go/parquet-go"

	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// reader reads a file into a dataset.
type reader struct {
	src     *format.Source
	opt     *format.ReadOptions
	d       *nav.Dataset
	file    *parquet.File
	builder *layer.Builder
	at      map[int]int // the attributes, by the column of the file
	kinds   []parquet.Node
	shape   int // the column of the geometry
	order   int // that of the order; -1 is none
	orders  layer.Orders
}

func read(src *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	r := &reader{src: src, opt: opt, d: &nav.Dataset{}, at: map[int]int{}, shape: -1, order: -1}
	err := guard(r.all)
	if r.builder != nil {
		r.builder.Finish()
	}
	if r.order >= 0 {
		r.orders.Arrange(r.d)
	}
	if err != nil {
		if _, ok := errors.AsType[*format.Error](err); !ok {
			err = src.FaultOf(err)
		}
	}
	return r.d, err
}

// guard makes an error of what the reading of a damaged file runs into.
func guard(read func() error) (err error) {
	defer func() {
		if recover() != nil {
			err = errDamaged
		}
	}()
	return read()
}

func (r *reader) all() error {
	at, size, err := r.src.ReaderAt(r.opt.Unpacked())
	if err != nil {
		return err
	}
	if err := r.checkEnd(at, size); err != nil {
		return err
	}
	// Everything is read, in its order: the page index, which has no checksum, is not asked where it stands.
	if r.file, err = parquet.OpenFile(at, size, parquet.SkipBloomFilters(true), parquet.SkipPageIndex(true)); err != nil {
		return errDamaged
	}
	unpacked := int64(0)
	for _, g := range r.file.Metadata().RowGroups {
		unpacked += g.TotalByteSize
	}
	if unpacked > r.opt.Unpacked() {
		return fmt.Errorf("unpacks to %d bytes, which is over the limit", unpacked)
	}
	if err := r.checkPages(at, size); err != nil {
		return err
	}
	if err := r.schema(); err != nil {
		return err
	}
	r.builder.Wholes = &format.Wholes{}
	record := 0
	for _, g := range r.file.RowGroups() {
		if err := r.group(g, &record); err != nil {
			return err
		}
	}
	return nil
}

// schema finds out what the columns are.
func (r *reader) schema() error {
	text, ok := r.file.Lookup(geoKey)
	if !ok {
		return errors.New("is Parquet without the metadata \"geo\", so no column is known to have positions")
	}
	var g geo
	if err := json.Unmarshal([]byte(text), &g); err != nil {
		return fmt.Errorf("its metadata \"geo\" are not valid JSON: %w", err)
	}
	c := g.Columns[g.Primary]
	switch {
	case c == nil:
		return fmt.Errorf("its metadata name the column %q without describing it", g.Primary)
	case c.Encoding != "WKB":
		return fmt.Errorf("its geometries are encoded as %s; only well-known binary (WKB) can be read", c.Encoding)
	}
	var mine own
	if text, ok := r.file.Lookup(ownKey); ok && json.Unmarshal([]byte(text), &mine) == nil {
		r.d.Meta.Name, r.d.Meta.Desc = mine.Title, mine.Desc
	}
	named, err := systemOf(text, g.Primary, c)
	if err != nil {
		return err
	}
	system, err := layer.SystemOf(r.d, r.opt, named, "its metadata")
	if err != nil {
		return err
	}
	covers := map[string]bool{}
	if c.Covering != nil {
		for _, path := range c.Covering.Box {
			if len(path) > 0 {
				covers[path[0]] = true
			}
		}
	}
	var titles, left []string
	var numbers []bool
	schema := r.file.Schema()
	for i, path := range schema.Columns() {
		node, ok := schema.Lookup(path...)
		switch {
		case path[0] == g.Primary && len(path) == 1:
			r.shape = i
		case covers[path[0]]:
		case mine.Order != "" && path[0] == mine.Order && node.Node.Type().Kind() == parquet.Int64:
			r.order = i
		case len(path) > 1 || !ok || node.Node.Repeated():
			left = append(left, strings.Join(path, "."))
		default:
			r.at[i] = len(titles)
			titles, r.kinds = append(titles, path[0]), append(r.kinds, node.Node)
			kind := node.Node.Type().Kind()
			numbers = append(numbers, node.Node.Type().LogicalType() == nil && kind != parquet.ByteArray ||
				isInteger(node.Node))
		}
	}
	if r.shape < 0 {
		return fmt.Errorf("has no column %q, which its metadata name for geometries", g.Primary)
	}
	if len(left) > 0 {
		r.d.Note(nav.ProblemLeftOut, "nested columns were left out: "+strings.Join(left, ", "), 0, 0)
	}
	r.builder = layer.NewBuilder(r.d, r.opt, system, titles, numbers)
	r.builder.Winding = layer.AnyWay
	if r.order >= 0 {
		r.builder.Exact()
	}
	return nil
}

func isInteger(n parquet.Node) bool {
	t := n.Type().LogicalType()
	return t != nil && t.Integer != nil
}

// systemOf finds the system of the geometries. Where the key is missing it is WGS 84; null is none that is known.
func systemOf(text, primary string, c *column) (*crs.System, error) {
	var raw struct {
		Columns map[string]map[string]json.RawMessage
	}
	if c.System == nil {
		if json.Unmarshal([]byte(text), &raw) == nil && string(raw.Columns[primary]["crs"]) == "null" {
			return nil, nil
		}
		return crs.World(), nil
	}
	if id := c.System.ID; id != nil {
		code, _ := strconv.Atoi(fmt.Sprint(id.Code))
		if id.Authority == "OGC" && fmt.Sprint(id.Code) == "CRS84" {
			return crs.World(), nil
		}
		return layer.Described(id.Authority, code, "")
	}
	return nil, fmt.Errorf("its coordinate system %q has no EPSG number", c.System.Name)
}

// group reads the rows of a group.
func (r *reader) group(g parquet.RowGroup, record *int) error {
	rows := g.Rows()
	defer rows.Close()
	buf := make([]parquet.Row, 256)
	values := make([]string, len(r.kinds))
	for {
		n, err := rows.ReadRows(buf)
		for _, row := range buf[:n] {
			*record++
			if err := r.feature(row, values, *record); err != nil {
				return fmt.Errorf("row %d: %w", *record, err)
			}
		}
		switch {
		case err == io.EOF:
			return nil
		case err != nil:
			return errDamaged
		case n == 0:
			return nil
		}
	}
}

func (r *reader) feature(row parquet.Row, values []string, record int) error {
	clear(values)
	order := int64(0)
	var g *layer.Shape
	for _, v := range row {
		switch i := v.Column(); {
		case v.IsNull():
		case i == r.shape:
			var err error
			if g, _, err = wkb.Parse(v.ByteArray()); err != nil {
				return err
			}
		case i == r.order:
			order = v.Int64()
		default:
			if k, ok := r.at[i]; ok {
				values[k] = textOf(v, r.kinds[k])
			}
		}
	}
	if g == nil {
		g = &layer.Shape{}
	}
	before := r.d.Counts()
	r.builder.Feature(g, values, record)
	if r.order >= 0 {
		r.orders.Add(r.d, before, order)
	}
	return nil
}

// textOf gives a value as the attributes of layers have it.
func textOf(v parquet.Value, n parquet.Node) string {
	t := n.Type().LogicalType()
	switch v.Kind() {
	case parquet.Boolean:
		return strconv.FormatBool(v.Boolean())
	case parquet.Int32:
		if t != nil && t.Date != nil {
			return time.Unix(int64(v.Int32())*86400, 0).UTC().Format(time.DateOnly)
		}
		return strconv.Itoa(int(v.Int32()))
	case parquet.Int64:
		if t == nil || t.Timestamp == nil {
			return strconv.FormatInt(v.Int64(), 10)
		}
		at := time.UnixMicro(v.Int64())
		switch u := t.Timestamp.Unit; {
		case u.Millis != nil:
			at = time.UnixMilli(v.Int64())
		case u.Nanos != nil:
			at = time.Unix(0, v.Int64())
		}
		return at.UTC().Format(time.RFC3339Nano)
	case parquet.Float:
		return number(float64(v.Float()), 32)
	case parquet.Double:
		return number(v.Double(), 64)
	case parquet.ByteArray, parquet.FixedLenByteArray:
		return string(v.ByteArray())
	}
	return ""
}

func number(v float64, bits int) string {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return ""
	}
	return strconv.FormatFloat(v, 'f', -1, bits)
}
