package wkb

import (
	"encoding/binary"
	"math"
	"slices"

	"gyrolith/core/format/layer"
)

// Append writes the geometry of a feature as one of the types, with heights where all of its positions have them.
func Append(b []byte, f *layer.Feature, kind uint32) []byte {
	hasZ, n := f.HasZ(), 0
	for _, part := range f.Parts {
		n += 24*len(part) + 9
	}
	b = slices.Grow(b, n+9)
	position := func(p layer.Position) {
		b = appendFloat(appendFloat(b, p.X), p.Y)
		if hasZ {
			b = appendFloat(b, p.Z)
		}
	}
	head := func(kind uint32) {
		if hasZ {
			kind += 1000
		}
		b = binary.LittleEndian.AppendUint32(append(b, LittleEndian), kind)
	}
	count := func(n int) { b = binary.LittleEndian.AppendUint32(b, uint32(n)) }
	line := func(part []layer.Position) {
		count(len(part))
		for _, p := range part {
			position(p)
		}
	}
	polygon := func(rings [][]layer.Position) {
		count(len(rings))
		for _, ring := range rings {
			line(ring)
		}
	}
	head(kind)
	switch kind {
	case Point:
		position(f.Parts[0][0])
	case MultiPoint:
		count(len(f.Parts))
		for _, part := range f.Parts {
			head(Point)
			position(part[0])
		}
	case Line:
		line(f.Parts[0])
	case MultiLine:
		count(len(f.Parts))
		for _, part := range f.Parts {
			head(Line)
			line(part)
		}
	case Polygon:
		polygon(f.Parts)
	case MultiPolygon:
		polygons := f.Polygons()
		count(len(polygons))
		for _, rings := range polygons {
			head(Polygon)
			polygon(rings)
		}
	}
	return b
}

// AppendPoint writes a point, with its height where it has one.
func AppendPoint(b []byte, p layer.Position) []byte {
	kind := uint32(Point)
	if !math.IsNaN(p.Z) {
		kind += 1000
	}
	b = binary.LittleEndian.AppendUint32(append(b, LittleEndian), kind)
	b = appendFloat(appendFloat(b, p.X), p.Y)
	if kind != Point {
		b = appendFloat(b, p.Z)
	}
	return b
}

func appendFloat(b []byte, v float64) []byte {
	return binary.LittleEndian.AppendUint64(b, math.Float64bits(v))
}

// WithSystem puts the number of a system into a geometry, as the extension has it; 0 leaves it as it is.
func WithSystem(b []byte, number int) []byte {
	if number == 0 {
		return b
	}
	kind := binary.LittleEndian.Uint32(b[1:]) | markSystem
	if sort := kind &^ markSystem; sort > 1000 { // which the extension marks otherwise
		kind = kind - 1000 | markZ
	}
	out := binary.LittleEndian.AppendUint32([]byte{b[0]}, kind)
	return append(binary.LittleEndian.AppendUint32(out, uint32(number)), b[5:]...)
}
