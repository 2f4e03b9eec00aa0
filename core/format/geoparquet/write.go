package geoparquet

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"

	"github.com/parquet-go/parquet-go"

	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/nav"
)

// rowsInGroup is how many features have a box together.
const rowsInGroup = 1 << 16

// So many rows are sorted along the curve together: memory is bounded by them, not by the data. Points of tracks are
// near one another as they come.
const (
	featuresSorted = 1 << 20
	pointsSorted   = 1 << 17
)

// pageSize is the most bytes of a page before it is compressed.
const pageSize = 256 << 10

type writer struct {
	layers   []*layer.Layer
	schema   *parquet.Schema
	leaves   []layer.Column // of the attributes, as the first columns of the file
	geometry string
	boxes    string
	order    string
	types    []string
	all      layer.Bounds
	rows     int // of all features before the chunk
	chunk    *chunk
	full     chan *chunk // those to be written
	empty    chan *chunk // those to be filled
}

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	layers, done := layer.Of(d, opt, layer.Together)
	if len(layers) == 0 {
		return nil, errors.New(
			"there is nothing that GeoParquet can store: no waypoint, and no line or area with enough points")
	}
	w := &writer{layers: layers, leaves: layers[0].Columns, all: layer.NewBounds()}
	w.columns()
	count := 0
	for _, l := range layers {
		count += l.Count
	}
	mine, err := json.Marshal(own{w.order, d.Meta.Name, d.Meta.Desc})
	if err != nil {
		return nil, err
	}
	page := min(max(64*count, 4<<10), pageSize)
	file, err := newAssembly(out, func() []parquet.WriterOption {
		return []parquet.WriterOption{w.schema, parquet.Compression(&fastSnappy{}), parquet.CreatedBy("Gyrolith", "", ""),
			parquet.PageBufferSize(page), parquet.ColumnPageBuffers(parquet.NewChunkBufferPool(page))}
	}, (count+rowsInGroup-1)/rowsInGroup)
	if err != nil {
		return nil, err
	}
	defer file.discard()
	if err := w.encode(file, count); err != nil {
		return nil, err
	}
	about, err := w.metadata()
	if err != nil {
		return nil, err
	}
	return done, file.close(map[string]string{geoKey: about, ownKey: string(mine)})
}

// encode makes rows of the features, a chunk while the one before is written.
func (w *writer) encode(file *assembly, count int) error {
	w.full, w.empty = make(chan *chunk), make(chan *chunk, 2)
	for range cap(w.empty) {
		w.empty <- newChunk(w.leaves, min(count, pointsSorted))
	}
	w.chunk = <-w.empty
	written := make(chan error, 1)
	go func() {
		var err error
		for c := range w.full {
			if err == nil {
				err = c.write(file)
			}
			c.reset()
			w.empty <- c
		}
		written <- err
	}()
	var err error
	for _, l := range w.layers {
		if err == nil {
			err = l.EachRun(func(f *layer.Feature) error { return w.feature(l, f) }, w.run)
		}
	}
	if err == nil && w.chunk.len() > 0 {
		w.full <- w.chunk
	}
	close(w.full)
	return errors.Join(err, <-written)
}

// next ends a row, of a feature or a point. A chunk of so many is written.
func (w *writer) next(box *layer.Bounds, most int) {
	w.rows++
	w.chunk.end(box, int64(w.rows))
	w.all.Join(box)
	if w.chunk.len() >= most {
		w.full <- w.chunk
		w.chunk = <-w.empty
	}
}

// seen notes a type of geometries.
func (w *writer) seen(kind uint32, hasZ bool) {
	name := geometryNames[kind]
	if hasZ {
		name += " Z"
	}
	if !slices.Contains(w.types, name) {
		w.types = append(w.types, name)
	}
}

func (w *writer) feature(l *layer.Layer, f *layer.Feature) error {
	kind := typeOf(l, f)
	w.seen(kind, f.HasZ())
	for i, v := range f.Values {
		if err := w.chunk.attributes[i].text(v); err != nil {
			return err
		}
	}
	w.chunk.geometry = wkb.Append(w.chunk.geometry, f, kind)
	box := layer.NewBounds()
	box.AddAll(f.Parts)
	w.next(&box, featuresSorted)
	return nil
}

// run makes rows of track points.
func (w *writer) run(r *layer.Run) error {
	own := [4]int{r.Column(layer.Moment), r.Column(layer.Height), r.Column(layer.Speed), r.Column(layer.Course)}
	first := true
	for k := range r.Len() {
		at, ok := r.Position(k)
		if !ok {
			continue
		}
		for i := range w.leaves {
			if i == own[0] || i == own[1] || i == own[2] || i == own[3] {
				continue
			}
			if !first && w.chunk.len() > 0 {
				w.chunk.attributes[i].again()
			} else if err := w.chunk.attributes[i].text(r.Values[i]); err != nil {
				return err
			}
		}
		if i := r.Column(layer.Moment); i >= 0 {
			if err := w.chunk.attributes[i].moment(r.Point(k)); err != nil {
				return err
			}
		}
		speed, course := r.Motion(k)
		for j, v := range [3]float64{r.Height(k), speed, course} {
			if i := own[1+j]; i >= 0 {
				if err := w.chunk.attributes[i].number(v); err != nil {
					return err
				}
			}
		}
		if first {
			w.seen(wkb.Point, !math.IsNaN(at.Z))
			first = false
		}
		w.chunk.geometry = wkb.AppendPoint(w.chunk.geometry, at)
		box := layer.NewBounds()
		box.Add(at)
		w.next(&box, pointsSorted)
	}
	return nil
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

// ascending is a column in which a value is mostly near the one before.
func ascending(n parquet.Node) parquet.Node { return parquet.Encoded(n, &parquet.DeltaBinaryPacked) }

// columns makes the schema: the attributes, any of which may be absent, the geometry, its box and the order.
func (w *writer) columns() {
	var taken []string
	for _, c := range w.layers[0].Columns {
		taken = append(taken, strings.ToLower(c.Name))
	}
	w.geometry, w.boxes, w.order = free(geometry, taken), free(boxes, taken), free(orderName, taken)
	double, side := parquet.Leaf(parquet.DoubleType), parquet.Leaf(parquet.FloatType)
	group := parquet.Group{w.geometry: parquet.Encoded(parquet.Leaf(parquet.ByteArrayType), &parquet.Plain),
		w.order: ascending(parquet.Int(64)),
		w.boxes: parquet.Group{"xmin": side, "ymin": side, "xmax": side, "ymax": side}}
	for _, c := range w.layers[0].Columns {
		node := parquet.Encoded(parquet.String(), &parquet.RLEDictionary)
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
			node = ascending(parquet.Timestamp(parquet.Microsecond))
		}
		group[c.Name] = parquet.Optional(node)
	}
	names := []string{}
	for _, c := range w.layers[0].Columns {
		names = append(names, c.Name)
	}
	w.schema = parquet.NewSchema("features", &ordered{group, append(names, w.geometry, w.boxes, w.order)})
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
