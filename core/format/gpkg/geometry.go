package gpkg

import (
	"encoding/binary"
	"math"

	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
)

// appendGeometry writes the blob of a feature (clause 2.1.3): a head with the extent, and then well-known binary.
func appendGeometry(b []byte, f *layer.Feature, kind uint32, srs int32) []byte {
	b = append(b, 'G', 'P', 0)
	if kind == wkb.Point {
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
	return wkb.Append(b, f, kind)
}

func appendFloat(b []byte, v float64) []byte {
	return binary.LittleEndian.AppendUint64(b, math.Float64bits(v))
}

// body gives the well-known binary behind the head of a blob.
func body(b []byte) (code []byte, empty bool, err error) {
	if len(b) < 8 || b[0] != 'G' || b[1] != 'P' {
		return nil, false, errGeometry
	}
	size, ok := map[byte]int{0: 0, 1: 32, 2: 48, 3: 48, 4: 64}[b[3]>>1&7]
	if !ok || len(b) < 8+size || b[3]&0x20 != 0 { // extended types are none of the standard's
		return nil, false, errGeometry
	}
	return b[8+size:], b[3]&0x10 != 0, nil
}

// extentOf gives the extent of a blob; it is empty where the least is beyond the most.
func extentOf(b []byte) (layer.Bounds, error) {
	code, empty, err := body(b)
	if err != nil || empty {
		return layer.NewBounds(), err
	}
	g, _, err := wkb.Parse(code)
	if err != nil {
		return layer.NewBounds(), err
	}
	return g.Bounds(), nil
}
