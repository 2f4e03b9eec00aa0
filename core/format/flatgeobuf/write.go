package flatgeobuf

import (
	"bufio"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"

	flatbuffers "github.com/google/flatbuffers/go"

	"gyrolith/core/format"
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
	b        *flatbuffers.Builder
	values   []byte
}

func write(out io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
	layers, done := layer.Of(d, opt, layer.Together)
	if len(layers) == 0 {
		return nil, errors.New(
			"there is nothing that FlatGeobuf can store: no waypoint, and no line or area with enough points")
	}
	w := &writer{layers: layers, all: layer.NewBounds(), b: flatbuffers.NewBuilder(4096)}
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
	order := 0
	for _, l := range w.layers {
		typ := multi[l.Geometry]
		single := true
		err := l.Each(func(f *layer.Feature) error {
			single = single && (l.Geometry == layer.Areas && len(f.Polygons()) == 1 ||
				l.Geometry != layer.Areas && len(f.Parts) == 1)
			return nil
		})
		if err != nil {
			return err
		}
		if single {
			typ -= typeMultiPoint - typePoint
		}
		if len(w.layers) == 1 {
			w.geometry = typ
		}
		err = l.Each(func(f *layer.Feature) error {
			order++
			return w.feature(l, f, typ, order)
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func (w *writer) feature(l *layer.Layer, f *layer.Feature, typ byte, order int) error {
	var err error
	if w.values, err = w.appendValues(w.values[:0], f, order); err != nil {
		return err
	}
	w.b.Reset()
	properties := w.b.CreateByteVector(w.values)
	geometry := w.geometryOf(f, typ, l.HasZ)
	w.b.StartObject(featureSlots)
	w.b.PrependUOffsetTSlot(featureGeometry, geometry, 0)
	w.b.PrependUOffsetTSlot(featureProperties, properties, 0)
	w.b.FinishSizePrefixed(w.b.EndObject())
	box := layer.NewBounds()
	box.AddAll(f.Parts)
	w.all.Join(&box)
	w.data.Append(w.b.FinishedBytes()...)
	w.features.Append(encoded{box.MinX, box.MinY, box.MaxX, box.MaxY, int64(w.data.Len())})
	return nil
}

// appendValues writes the attributes that are there, and the order as the column behind them.
func (w *writer) appendValues(to []byte, f *layer.Feature, order int) ([]byte, error) {
	for i, v := range f.Values {
		if v == "" {
			continue
		}
		to = binary.LittleEndian.AppendUint16(to, uint16(i))
		var err error
		switch w.types[i] {
		case typeLong:
			var n int64
			n, err = strconv.ParseInt(v, 10, 64)
			to = binary.LittleEndian.AppendUint64(to, uint64(n))
		case typeDouble:
			var n float64
			n, err = strconv.ParseFloat(v, 64)
			to = binary.LittleEndian.AppendUint64(to, math.Float64bits(n))
		case typeBool:
			truth := byte(0)
			if v == "true" {
				truth = 1
			}
			to = append(to, truth)
		default:
			to = append(binary.LittleEndian.AppendUint32(to, uint32(len(v))), v...)
		}
		if err != nil {
			return nil, fmt.Errorf("the value %q in column %s is not a number", v, w.titles[i])
		}
	}
	to = binary.LittleEndian.AppendUint16(to, uint16(len(f.Values)))
	return binary.LittleEndian.AppendUint64(to, uint64(order)), nil
}

var columnTypes = map[layer.Type]byte{layer.Empty: typeString, layer.Integer: typeLong, layer.Decimal: typeDouble,
	layer.Boolean: typeBool, layer.Date: typeString, layer.Time: typeDateTime, layer.Text: typeString}

// geometryOf writes the geometry of a feature. A polygon of several is a part of its own.
func (w *writer) geometryOf(f *layer.Feature, typ byte, hasZ bool) flatbuffers.UOffsetT {
	if typ != typeMultiPolygon {
		return w.plain(f.Parts, typ, hasZ)
	}
	var parts []flatbuffers.UOffsetT
	for _, rings := range f.Polygons() {
		parts = append(parts, w.plain(rings, typePolygon, hasZ))
	}
	vector := w.b.CreateVectorOfTables(parts)
	w.b.StartObject(geometrySlots)
	w.b.PrependByteSlot(geometryType, typ, 0)
	w.b.PrependUOffsetTSlot(geometryParts, vector, 0)
	return w.b.EndObject()
}

func (w *writer) plain(parts [][]layer.Position, typ byte, hasZ bool) flatbuffers.UOffsetT {
	total := 0
	ends := make([]int, len(parts))
	for i, part := range parts {
		total += len(part)
		ends[i] = total
	}
	backwards := func(put func(layer.Position)) {
		for i := len(parts) - 1; i >= 0; i-- {
			for k := len(parts[i]) - 1; k >= 0; k-- {
				put(parts[i][k])
			}
		}
	}
	w.b.StartVector(8, 2*total, 8)
	backwards(func(p layer.Position) {
		w.b.PrependFloat64(p.Y)
		w.b.PrependFloat64(p.X)
	})
	xy, z, ending := w.b.EndVector(2*total), flatbuffers.UOffsetT(0), flatbuffers.UOffsetT(0)
	if hasZ {
		w.b.StartVector(8, total, 8)
		backwards(func(p layer.Position) { w.b.PrependFloat64(p.Z) })
		z = w.b.EndVector(total)
	}
	if len(parts) > 1 && typ != typeMultiPoint {
		w.b.StartVector(4, len(ends), 4)
		for i := len(ends) - 1; i >= 0; i-- {
			w.b.PrependUint32(uint32(ends[i]))
		}
		ending = w.b.EndVector(len(ends))
	}
	w.b.StartObject(geometrySlots)
	w.b.PrependUOffsetTSlot(geometryEnds, ending, 0)
	w.b.PrependUOffsetTSlot(geometryXY, xy, 0)
	w.b.PrependUOffsetTSlot(geometryZ, z, 0)
	w.b.PrependByteSlot(geometryType, typ, 0)
	return w.b.EndObject()
}

// header writes the header with its size.
func (w *writer) header(d *nav.Dataset, system *crs.System) []byte {
	b := w.b
	b.Reset()
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
