package geoparquet

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/parquet-go/parquet-go"

	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/nav"
)

// rowsInGroup is how many features have a box together.
const rowsInGroup = 1 << 16

// encoded is a feature as it will stand in the file.
type encoded struct {
	box        layer.Bounds
	begin, end int // of its geometry in the buffer of all
	values     []parquet.Value
	order      int
}

// leaf is a column of attributes.
type leaf struct {
	name string
	typ  layer.Type
	at   int // among the columns of the file
}

type writer struct {
	layers   []*layer.Layer
	schema   *parquet.Schema
	leaves   []leaf
	ends     int // the column behind those of the attributes
	geometry string
	boxes    string
	order    string
	features []encoded
	data     []byte
	all      layer.Bounds
	types    []string
}

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	layers, done := layer.Of(d, opt, layer.Together)
	if len(layers) == 0 {
		return nil, errors.New(
			"there is nothing that GeoParquet can hold: no waypoint, and no line or area of enough points")
	}
	w := &writer{layers: layers, all: layer.NewBounds()}
	w.columns()
	if err := w.encode(); err != nil {
		return nil, err
	}
	layer.SortAlong(w.features, w.all, func(f *encoded) *layer.Bounds { return &f.box })
	about, err := w.metadata()
	if err != nil {
		return nil, err
	}
	mine, err := json.Marshal(own{w.order, d.Meta.Name, d.Meta.Desc})
	if err != nil {
		return nil, err
	}
	file := parquet.NewWriter(out, w.schema, parquet.Compression(&parquet.Zstd), parquet.MaxRowsPerRowGroup(rowsInGroup),
		parquet.KeyValueMetadata(geoKey, about), parquet.KeyValueMetadata(ownKey, string(mine)),
		parquet.CreatedBy("Gyrolith", "", ""), parquet.PageBufferSize(min(max(64*len(w.features), 4<<10), 256<<10)))
	const batch = 1024
	rows := make([]parquet.Row, batch)
	for from := 0; from < len(w.features); from += batch {
		n := min(batch, len(w.features)-from)
		for i := range n {
			rows[i] = w.row(rows[i][:0], &w.features[from+i])
		}
		if _, err := file.WriteRows(rows[:n]); err != nil {
			return nil, err
		}
	}
	return done, file.Close()
}

// free gives a name that no attribute has.
func free(name string, taken []string) string {
	out := name
	for n := 2; slices.Contains(taken, strings.ToLower(out)); n++ {
		out = fmt.Sprintf("%s_%d", name, n)
	}
	return out
}

// ordered is a group whose columns stand in the order of the attributes, and not in that of their names.
type ordered struct {
	parquet.Group
	names []string
}

// Fields lists the columns.
func (o *ordered) Fields() []parquet.Field {
	fields := o.Group.Fields()
	slices.SortStableFunc(fields, func(a, b parquet.Field) int {
		return slices.Index(o.names, a.Name()) - slices.Index(o.names, b.Name())
	})
	return fields
}

// columns makes the schema: the attributes, any of which may be absent, the geometry, its box and the order.
func (w *writer) columns() {
	var taken []string
	for _, c := range w.layers[0].Columns {
		taken = append(taken, strings.ToLower(c.Name))
	}
	w.geometry, w.boxes, w.order = free(geometry, taken), free(boxes, taken), free(orderName, taken)
	double := parquet.Leaf(parquet.DoubleType)
	group := parquet.Group{w.geometry: parquet.Leaf(parquet.ByteArrayType), w.order: parquet.Int(64),
		w.boxes: parquet.Group{"xmin": double, "ymin": double, "xmax": double, "ymax": double}}
	for _, c := range w.layers[0].Columns {
		node := parquet.String()
		switch c.Type {
		case layer.Integer:
			node = parquet.Int(64)
		case layer.Decimal:
			node = double
		case layer.Boolean:
			node = parquet.Leaf(parquet.BooleanType)
		case layer.Date:
			node = parquet.Date()
		case layer.Time:
			node = parquet.Timestamp(parquet.Microsecond)
		}
		group[c.Name] = parquet.Optional(node)
	}
	names := []string{}
	for _, c := range w.layers[0].Columns {
		names = append(names, c.Name)
	}
	w.schema = parquet.NewSchema("features", &ordered{group, append(names, w.geometry, w.boxes, w.order)})
	for i, c := range w.layers[0].Columns {
		w.leaves = append(w.leaves, leaf{c.Name, c.Type, i})
	}
	w.ends = len(w.leaves)
}

var geometryNames = map[uint32]string{wkb.Point: "Point", wkb.Line: "LineString", wkb.Polygon: "Polygon",
	wkb.MultiPoint: "MultiPoint", wkb.MultiLine: "MultiLineString", wkb.MultiPolygon: "MultiPolygon"}

// typeOf is the type of a feature's geometry.
func typeOf(l *layer.Layer, f *layer.Feature) uint32 {
	kind := [...]uint32{wkb.Point, wkb.Line, wkb.Polygon}[l.Geometry]
	n := len(f.Parts)
	if l.Geometry == layer.Areas {
		n = len(f.Polygons())
	}
	if n > 1 {
		kind += wkb.MultiPoint - wkb.Point
	}
	return kind
}

func (w *writer) encode() error {
	order := 0
	for _, l := range w.layers {
		err := l.Each(func(f *layer.Feature) error {
			order++
			kind := typeOf(l, f)
			name := geometryNames[kind]
			if f.HasZ() {
				name += " Z"
			}
			if !slices.Contains(w.types, name) {
				w.types = append(w.types, name)
			}
			e := encoded{box: layer.NewBounds(), begin: len(w.data), order: order}
			e.box.AddAll(f.Parts)
			w.all.Join(&e.box)
			w.data = wkb.Append(w.data, f, kind)
			e.end = len(w.data)
			for i, v := range f.Values {
				value, err := w.value(&w.leaves[i], v)
				if err != nil {
					return err
				}
				e.values = append(e.values, value)
			}
			w.features = append(w.features, e)
			return nil
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// value gives an attribute as its column has it.
func (w *writer) value(c *leaf, text string) (parquet.Value, error) {
	if text == "" {
		return parquet.NullValue().Level(0, 0, c.at), nil
	}
	var v parquet.Value
	var err error
	switch c.typ {
	case layer.Integer:
		var n int64
		n, err = strconv.ParseInt(text, 10, 64)
		v = parquet.Int64Value(n)
	case layer.Decimal:
		var n float64
		n, err = strconv.ParseFloat(text, 64)
		v = parquet.DoubleValue(n)
	case layer.Boolean:
		v = parquet.BooleanValue(text == "true")
	case layer.Date:
		var t time.Time
		t, err = time.Parse(time.DateOnly, text)
		v = parquet.Int32Value(int32(math.Floor(float64(t.Unix()) / 86400)))
	case layer.Time:
		var t time.Time
		t, err = time.Parse(time.RFC3339Nano, text)
		v = parquet.Int64Value(t.UnixMicro())
	default:
		v = parquet.ByteArrayValue([]byte(text))
	}
	if err != nil {
		return v, fmt.Errorf("the value %q of the column %s is none of its type", text, c.name)
	}
	return v.Level(0, 1, c.at), nil
}

// row gives a feature as a row, its values in the order of the columns.
func (w *writer) row(row parquet.Row, f *encoded) parquet.Row {
	row = append(row, f.values...)
	put := func(v parquet.Value, column int) { row = append(row, v.Level(0, 0, column)) }
	at := w.ends
	put(parquet.ByteArrayValue(w.data[f.begin:f.end]), at)
	put(parquet.DoubleValue(f.box.MaxX), at+1) // the members of a group stand in the order of their names
	put(parquet.DoubleValue(f.box.MinX), at+2)
	put(parquet.DoubleValue(f.box.MaxY), at+3)
	put(parquet.DoubleValue(f.box.MinY), at+4)
	put(parquet.Int64Value(int64(f.order)), at+5)
	return row
}

// metadata says what the specification asks for: longitudes and latitudes of WGS 84, which is meant where no system is
// named.
func (w *writer) metadata() (string, error) {
	slices.Sort(w.types)
	side := func(name string) []string { return []string{w.boxes, name} }
	text, err := json.Marshal(geo{Version: version, Primary: w.geometry, Columns: map[string]*column{w.geometry: {
		Encoding: "WKB", Types: w.types, Box: []float64{w.all.MinX, w.all.MinY, w.all.MaxX, w.all.MaxY},
		Covering: &covering{map[string][]string{"xmin": side("xmin"), "ymin": side("ymin"), "xmax": side("xmax"),
			"ymax": side("ymax")}}}}})
	return string(text), err
}
