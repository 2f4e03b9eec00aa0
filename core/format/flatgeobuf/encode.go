package flatgeobuf

import (
	"encoding/binary"
	"fmt"
	"math"
	"strconv"

	flatbuffers "github.com/google/flatbuffers/go"

	"gyrolith/core/format/layer"
)

// encoder makes features, one behind the other. It is for one goroutine.
type encoder struct {
	*writer  // whose columns it reads
	features []encoded
	data     []byte
	err      error

	b      *flatbuffers.Builder
	values []byte
}

func (e *encoder) begin() {
	e.features, e.data, e.err = e.features[:0], e.data[:0], nil
	if e.b == nil {
		e.b = flatbuffers.NewBuilder(4096)
	}
}

func (e *encoder) feature(f *layer.Feature, typ byte, hasZ bool, order int) error {
	var err error
	if e.values, err = e.appendValues(e.values[:0], f, order); err != nil {
		return err
	}
	e.b.Reset()
	properties := e.b.CreateByteVector(e.values)
	geometry := e.geometryOf(f, typ, hasZ)
	e.b.StartObject(featureSlots)
	e.b.PrependUOffsetTSlot(featureGeometry, geometry, 0)
	e.b.PrependUOffsetTSlot(featureProperties, properties, 0)
	e.b.FinishSizePrefixed(e.b.EndObject())
	box := layer.NewBounds()
	box.AddAll(f.Parts)
	e.data = append(e.data, e.b.FinishedBytes()...)
	e.features = append(e.features, encoded{box.MinX, box.MinY, box.MaxX, box.MaxY, int64(len(e.data))})
	return nil
}

// appendValues writes the attributes that are there, and the order as the column behind them.
func (e *encoder) appendValues(to []byte, f *layer.Feature, order int) ([]byte, error) {
	for i, v := range f.Values {
		if v == "" {
			continue
		}
		to = binary.LittleEndian.AppendUint16(to, uint16(i))
		var err error
		switch e.types[i] {
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
			return nil, fmt.Errorf("the value %q in column %s is not a number", v, e.titles[i])
		}
	}
	to = binary.LittleEndian.AppendUint16(to, uint16(len(f.Values)))
	return binary.LittleEndian.AppendUint64(to, uint64(order)), nil
}

// geometryOf writes the geometry of a feature. A polygon of several is a part of its own.
func (e *encoder) geometryOf(f *layer.Feature, typ byte, hasZ bool) flatbuffers.UOffsetT {
	if typ != typeMultiPolygon {
		return e.plain(f.Parts, typ, hasZ)
	}
	var parts []flatbuffers.UOffsetT
	for _, rings := range f.Polygons() {
		parts = append(parts, e.plain(rings, typePolygon, hasZ))
	}
	vector := e.b.CreateVectorOfTables(parts)
	e.b.StartObject(geometrySlots)
	e.b.PrependByteSlot(geometryType, typ, 0)
	e.b.PrependUOffsetTSlot(geometryParts, vector, 0)
	return e.b.EndObject()
}

func (e *encoder) plain(parts [][]layer.Position, typ byte, hasZ bool) flatbuffers.UOffsetT {
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
	e.b.StartVector(8, 2*total, 8)
	backwards(func(p layer.Position) {
		e.b.PrependFloat64(p.Y)
		e.b.PrependFloat64(p.X)
	})
	xy, z, ending := e.b.EndVector(2*total), flatbuffers.UOffsetT(0), flatbuffers.UOffsetT(0)
	if hasZ {
		e.b.StartVector(8, total, 8)
		backwards(func(p layer.Position) { e.b.PrependFloat64(p.Z) })
		z = e.b.EndVector(total)
	}
	if len(parts) > 1 && typ != typeMultiPoint {
		e.b.StartVector(4, len(ends), 4)
		for i := len(ends) - 1; i >= 0; i-- {
			e.b.PrependUint32(uint32(ends[i]))
		}
		ending = e.b.EndVector(len(ends))
	}
	e.b.StartObject(geometrySlots)
	e.b.PrependUOffsetTSlot(geometryEnds, ending, 0)
	e.b.PrependUOffsetTSlot(geometryXY, xy, 0)
	e.b.PrependUOffsetTSlot(geometryZ, z, 0)
	e.b.PrependByteSlot(geometryType, typ, 0)
	return e.b.EndObject()
}
