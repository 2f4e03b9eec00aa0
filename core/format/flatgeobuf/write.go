package flatgeobuf

import (
	"bufio"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"

	flatbuffers "github.com/google/flatbuffers/go"

	"gyrolith/core/format"
	"gyrolith/core/format/inorder"
	"gyrolith/core/format/layer"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/core/scratch"
)

// encoded is a feature as it will stand in the file: its box, and where it ends among all.
type encoded struct {
	minX, minY, maxX, maxY float64
	end                    int64
}

func (e *encoded) box() layer.Bounds {
	b := layer.NewBounds()
	b.MinX, b.MinY, b.MaxX, b.MaxY = e.minX, e.minY, e.maxX, e.maxY
	return b
}

type writer struct {
	layers   []*layer.Layer
	types    []byte // of the columns
	titles   []string
	features scratch.List[encoded] // of which a recording has millions
	data     scratch.List[byte]
	all      layer.Bounds
	geometry byte // of all features; typeUnknown where they differ
}

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	layers, done := layer.Of(d, opt, layer.Together, true)
	if len(layers) == 0 {
		return nil, errors.New(
			"there is nothing that FlatGeobuf can store: no waypoint, and no line or area with enough points")
	}
	w := &writer{layers: layers, all: layer.NewBounds()}
	for _, c := range layers[0].Columns {
		w.titles, w.types = append(w.titles, c.Name), append(w.types, columnTypes[c.Type])
	}
	if err := w.encode(); err != nil {
		return nil, err
	}
	box := func(i int) layer.Bounds { return w.features.At(i).box() }
	order := layer.Along(nil, w.features.Len(), &w.all, box)
	number := func(i int) int { return int(uint32(order[i])) }
	buf := bufio.NewWriterSize(out, 256<<10)
	buf.WriteString(magic)
	buf.Write(w.header(d, opt.System))
	var bytes []byte
	put := func(n node) {
		bytes = appendNode(bytes[:0], &n)
		buf.Write(bytes)
	}
	for _, n := range inner(len(order), func(i int) layer.Bounds { return box(number(i)) }) {
		put(n)
	}
	offset := uint64(0)
	for i := range order {
		begin, end := w.place(number(i))
		put(node{box(number(i)), offset})
		offset += uint64(end - begin)
	}
	for i := range order {
		begin, end := w.place(number(i))
		for part := range w.data.Between(begin, end) {
			buf.Write(part)
		}
	}
	return done, buf.Flush()
}

// place gives where a feature is among the data of all.
func (w *writer) place(i int) (begin, end int) {
	if i > 0 {
		begin = int(w.features.At(i - 1).end)
	}
	return begin, int(w.features.At(i).end)
}

// multi gives the type of a geometry of several.
var multi = map[layer.Geometry]byte{
	layer.Points: typeMultiPoint,
	layer.Lines:  typeMultiLine,
	layer.Areas:  typeMultiPolygon,
}

// encode makes the features.
func (w *writer) encode() error {
	one := &encoder{writer: w}
	order := 0
	for _, l := range w.layers {
		typ := multi[l.Geometry]
		single := true
		err := l.EachRun(func(f *layer.Feature) error {
			single = single && (l.Geometry == layer.Areas && len(f.Polygons()) == 1 ||
				l.Geometry != layer.Areas && len(f.Parts) == 1)
			return nil
		}, func(*layer.Run) error { return nil }) // of points
		if err != nil {
			return err
		}
		if single {
			typ -= typeMultiPoint - typePoint
		}
		if len(w.layers) == 1 {
			w.geometry = typ
		}
		err = l.EachRun(func(f *layer.Feature) error {
			order++
			one.begin()
			if err := one.feature(f, typ, l.HasZ, order); err != nil {
				return err
			}
			w.add(one)
			return nil
		}, func(r *layer.Run) error {
			err := w.run(r, typ, l.HasZ, order)
			order += r.Len()
			return err
		})
		if err != nil {
			return err
		}
	}
	return nil
}

// run makes features of track points on all cores, with numbers of their order from one on.
func (w *writer) run(r *layer.Run, typ byte, hasZ bool, order int) error {
	var first error
	inorder.Make(r.Len(), func(e *encoder, from, to int) *encoder {
		if e == nil {
			e = &encoder{writer: w}
		}
		e.begin()
		e.err = r.Features(from, to, func(k int, f *layer.Feature) error { return e.feature(f, typ, hasZ, order+k+1) })
		return e
	}, func(e *encoder) {
		first = cmp.Or(first, e.err)
		w.add(e)
	})
	return first
}

// add puts what was encoded behind all else.
func (w *writer) add(e *encoder) {
	before := int64(w.data.Len())
	w.data.Append(e.data...)
	for i := range e.features {
		e.features[i].end += before
		box := e.features[i].box()
		w.all.Join(&box)
	}
	w.features.Append(e.features...)
}

var columnTypes = map[layer.Type]byte{layer.Empty: typeString, layer.Integer: typeLong, layer.Decimal: typeDouble,
	layer.Boolean: typeBool, layer.Date: typeString, layer.Time: typeDateTime, layer.Text: typeString}

// header writes the header with its size.
func (w *writer) header(d *nav.Dataset, system *crs.System) []byte {
	b := flatbuffers.NewBuilder(4096)
	order := orderKey
	for n := 2; slices.Contains(w.titles, order); n++ {
		order = fmt.Sprintf("%s_%d", orderKey, n)
	}
	var columns []flatbuffers.UOffsetT
	for i, title := range append(w.titles, order) {
		name := b.CreateString(title)
		typ := byte(typeLong)
		if i < len(w.types) {
			typ = w.types[i]
		}
		b.StartObject(columnSlots)
		b.PrependUOffsetTSlot(columnName, name, 0)
		b.PrependByteSlot(columnType, typ, 0)
		columns = append(columns, b.EndObject())
	}
	table := b.CreateVectorOfTables(columns)
	if system == nil {
		system = crs.World()
	}
	text := func(s string) flatbuffers.UOffsetT {
		if s == "" {
			return 0
		}
		return b.CreateString(s)
	}
	org := flatbuffers.UOffsetT(0)
	if system.Code != 0 {
		org = b.CreateString("EPSG")
	}
	name, wkt := text(system.Name), text(system.WKTWithCodes())
	b.StartObject(crsSlots)
	b.PrependUOffsetTSlot(crsOrg, org, 0)
	b.PrependInt32Slot(crsCode, int32(system.Code), 0)
	b.PrependUOffsetTSlot(crsName, name, 0)
	b.PrependUOffsetTSlot(crsWKT, wkt, 0)
	reference := b.EndObject()
	metadata, _ := json.Marshal(map[string]map[string]string{"gyrolith": {orderKey: order}})
	own, layerName := b.CreateString(string(metadata)), b.CreateString("items")
	title, description := text(d.Meta.Name), text(d.Meta.Desc)
	b.StartVector(8, 4, 8)
	for _, v := range [...]float64{w.all.MaxY, w.all.MaxX, w.all.MinY, w.all.MinX} {
		b.PrependFloat64(v)
	}
	envelope := b.EndVector(4)
	b.StartObject(headerSlots)
	b.PrependUOffsetTSlot(headerName, layerName, 0)
	b.PrependUOffsetTSlot(headerEnvelope, envelope, 0)
	b.PrependByteSlot(headerGeometry, w.geometry, 0)
	b.PrependBoolSlot(headerHasZ, w.layers[0].HasZ, false)
	b.PrependUOffsetTSlot(headerColumns, table, 0)
	b.PrependUint64Slot(headerCount, uint64(w.features.Len()), 0)
	b.PrependUint16Slot(headerNodeSize, nodeSize, 16)
	b.PrependUOffsetTSlot(headerCRS, reference, 0)
	b.PrependUOffsetTSlot(headerTitle, title, 0)
	b.PrependUOffsetTSlot(headerDescription, description, 0)
	b.PrependUOffsetTSlot(headerMetadata, own, 0)
	b.FinishSizePrefixed(b.EndObject())
	return b.FinishedBytes()
}
