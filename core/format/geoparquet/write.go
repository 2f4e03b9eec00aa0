package geoparquet

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
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

// So many rows, or positions of lines and areas, are sorted along the curve together: memory is bounded by them, not by
// the data. Points of tracks are near one another as they come.
const (
	featuresSorted  = 1 << 20
	pointsSorted    = rowsInGroup
	positionsSorted = 1 << 19
)

// manyPositions is from how many on a line or area is encoded beside what is read of the data.
const manyPositions = 1 << 12

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
	full     chan *chunk // those to be written, in order
	empty    chan *chunk // those to be filled
}

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	layers, done := layer.Of(d, opt, layer.Together, true)
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
	file, err := newAssembly(out, w.schema)
	if err != nil {
		return nil, err
	}
	if err := w.encode(file, count); err != nil {
		return nil, err
	}
	about, err := w.metadata()
	if err != nil {
		return nil, err
	}
	return done, file.close(map[string]string{geoKey: about, ownKey: string(mine)})
}

// encode makes rows of the features: a chunk is filled while another is sorted and a third is written.
func (w *writer) encode(file *assembly, count int) error {
	w.full, w.empty = make(chan *chunk, 1), make(chan *chunk, 3)
	for range cap(w.empty) {
		w.empty <- &chunk{encoder: encoder{leaves: file.leaves}}
	}
	w.begin(count)
	written := make(chan error, 1)
	go func() {
		var err error
		for c := range w.full {
			<-c.ready
			if err = errors.Join(err, c.fault); err == nil {
				err = file.add(c)
			}
			w.all.Join(&c.all)
			for name := range c.types {
				if !slices.Contains(w.types, name) {
					w.types = append(w.types, name)
				}
			}
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
		w.end()
	}
	close(w.full)
	return errors.Join(err, <-written)
}

// begin begins a chunk. The most that it is likely to hold is as many rows as are left.
func (w *writer) begin(rows int) {
	w.chunk = <-w.empty
	w.chunk.begin(w.leaves, min(rows, pointsSorted))
}

// end has a chunk sorted, encoded and written.
func (w *writer) end() {
	c := w.chunk
	go func() {
		defer close(c.ready)
		if c.fault = c.sort(); c.fault == nil && len(c.rows) <= rowsInGroup {
			c.group, c.fault = c.encoder.encode(c, c.rows)
		}
	}()
	w.full <- c
}

func (w *writer) feature(l *layer.Layer, f *layer.Feature) error {
	w.rows++
	s := span{feature: f, kind: typeOf(l, f), order: int64(w.rows)}
	positions := 0
	for _, part := range f.Parts {
		positions += len(part)
	}
	if positions < manyPositions {
		if err := w.chunk.feature(&s); err != nil {
			return err
		}
	} else {
		s.feature = &layer.Feature{Values: slices.Clone(f.Values), Outer: slices.Clone(f.Outer)}
		for _, part := range f.Parts {
			s.feature.Parts = append(s.feature.Parts, slices.Clone(part))
		}
		w.chunk.leave(s, 1, positions)
	}
	if w.chunk.len() >= featuresSorted || w.chunk.size() >= position*positionsSorted {
		w.end()
		w.begin(pointsSorted)
	}
	return nil
}

// run leaves it to the chunk to make rows of track points.
func (w *writer) run(r *layer.Run) error {
	for from := 0; from < r.Len(); {
		to := min(r.Len(), from+max(pointsSorted-w.chunk.len(), 1))
		w.chunk.leave(span{run: r, from: from, to: to, order: int64(w.rows) + 1}, to-from, to-from)
		w.rows += to - from
		from = to
		if w.chunk.len() >= pointsSorted {
			w.end()
			w.begin(pointsSorted)
		}
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
			node = ascending(parquet.Int(64))
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
