package gpkg

import (
	"encoding/binary"
	"math"

	"gyrolith/core/format/layer"
)

// The types of well-known binary (OGC 06-103r4, 8.2.8). With heights they are 1000 more, with measures 2000, with both
// 3000.
const (
	wkbPoint             = 1
	wkbLine              = 2
	wkbPolygon           = 3
	wkbMultiPoint        = 4
	wkbMultiLine         = 5
	wkbMultiPolygon      = 6
	wkbCollection        = 7
	mostNesting          = 16
	littleEndian    byte = 1
)

// appendGeometry writes the blob of a feature (clause 2.1.3): a head with the extent, and then well-known binary.
func appendGeometry(b []byte, f *layer.Feature, wkb uint32, srs int32) []byte {
	hasZ := f.HasZ()
	b = append(b, 'G', 'P', 0)
	if wkb == wkbPoint {
		b = append(b, 1)
		b = binary.LittleEndian.AppendUint32(b, uint32(srs))
	} else {
		b = append(b, 1|1<<1)
		b = binary.LittleEndian.AppendUint32(b, uint32(srs))
		e := layer.NewBounds()
		e.AddAll(f.Parts)
		for _, v := range []float64{e.MinX, e.MaxX, e.MinY, e.MaxY} {
			b = appendFloat(b, v)
		}
	}
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
		b = binary.LittleEndian.AppendUint32(append(b, littleEndian), kind)
	}
	count := func(n int) { b = binary.LittleEndian.AppendUint32(b, uint32(n)) }
	line := func(part []layer.Position) {
		count(len(part))
		for _, p := range part {
			position(p)
		}
	}
	polygon := func(from, to int) {
		count(to - from)
		for i := from; i < to; i++ {
			ring := f.Parts[i]
			count(len(ring))
			// The outline goes counter-clockwise, holes the other way (OGC 06-103r4, 6.1.11).
			turn := (layer.SignedArea(ring) < 0) == f.Outer[i]
			for j := range ring {
				if turn {
					j = len(ring) - 1 - j
				}
				position(ring[j])
			}
		}
	}
	head(wkb)
	switch wkb {
	case wkbPoint:
		position(f.Parts[0][0])
	case wkbMultiPoint:
		count(len(f.Parts))
		for _, part := range f.Parts {
			head(wkbPoint)
			position(part[0])
		}
	case wkbLine:
		line(f.Parts[0])
	case wkbMultiLine:
		count(len(f.Parts))
		for _, part := range f.Parts {
			head(wkbLine)
			line(part)
		}
	case wkbPolygon:
		polygon(0, len(f.Parts))
	case wkbMultiPolygon:
		count(f.Polygons())
		for from := 0; from < len(f.Parts); {
			to := from + 1
			for to < len(f.Parts) && !f.Outer[to] {
				to++
			}
			head(wkbPolygon)
			polygon(from, to)
			from = to
		}
	}
	return b
}

func appendFloat(b []byte, v float64) []byte {
	return binary.LittleEndian.AppendUint64(b, math.Float64bits(v))
}

// envelope is the extent of a geometry.
type envelope struct {
	layer.Bounds
	empty bool
}

// body gives the well-known binary behind the head of a blob.
func body(b []byte) (wkb []byte, empty bool, err error) {
	if len(b) < 8 || b[0] != 'G' || b[1] != 'P' {
		return nil, false, errGeometry
	}
	size, ok := map[byte]int{0: 0, 1: 32, 2: 48, 3: 48, 4: 64}[b[3]>>1&7]
	if !ok || len(b) < 8+size || b[3]&0x20 != 0 { // extended types are none of the standard's
		return nil, false, errGeometry
	}
	return b[8+size:], b[3]&0x10 != 0, nil
}

func envelopeOf(b []byte) (*envelope, error) {
	wkb, empty, err := body(b)
	if err != nil {
		return nil, err
	}
	e := &envelope{Bounds: layer.NewBounds(), empty: empty}
	if empty {
		return e, nil
	}
	g, err := parseWKB(wkb)
	if err != nil {
		return nil, err
	}
	for _, p := range g.points {
		e.Add(p)
	}
	e.AddAll(g.lines)
	for _, rings := range g.polygons {
		e.AddAll(rings)
	}
	e.empty = e.MinX > e.MaxX
	return e, nil
}

// geometry is what a blob holds.
type geometry struct {
	points   []layer.Position
	lines    [][]layer.Position
	polygons [][][]layer.Position
	hasZ     bool
	other    bool // something beside points, lines and polygons
}
