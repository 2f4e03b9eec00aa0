package shapefile

import (
	"encoding/binary"
	"errors"
	"io"
	"math"

	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
)

// set gives the files of a dataset: one set of five a geometry, with its word behind the name where there are several.
func set(d *nav.Dataset, opt *format.WriteOptions) ([]format.Part, *format.Written, error) {
	layers, done := layer.Of(d, opt, layer.ByGeometry, false)
	system := opt.System
	if system == nil {
		system = crs.World()
	}
	if len(layers) == 0 {
		return nil, nil, errors.New("there is nothing that a shapefile can store: no waypoint, and no line or area with " +
			"enough points")
	}
	var parts []format.Part
	for _, l := range layers {
		columns := columnsFor(l, columnsOf(d.Meta.Kept, l.Geometry), &done.Ledger)
		if err := checkTable(columns); err != nil {
			return nil, nil, err
		}
		w := &writer{l: l}
		if err := w.measure(); err != nil {
			return nil, nil, err
		}
		stem := ""
		if len(layers) > 1 {
			stem = "-" + l.Geometry.String()
		}
		text := func(s string) func(io.Writer) error {
			return func(w io.Writer) error { _, err := io.WriteString(w, s); return err }
		}
		parts = append(parts,
			format.Part{Suffix: stem + ".shp", Write: w.shapes},
			format.Part{Suffix: stem + ".shx", Write: w.index},
			format.Part{Suffix: stem + ".dbf", Write: func(out io.Writer) error { return writeDBF(out, l, columns) }},
			format.Part{Suffix: stem + ".prj", Write: text(system.WKT())},
			format.Part{Suffix: stem + ".cpg", Write: text("UTF-8")})
	}
	return parts, done, nil
}

// writer writes the geometries of a layer.
type writer struct {
	l      *layer.Layer
	shape  uint32
	bounds layer.Bounds
	words  int64 // 16-bit words of the .shp
	sizes  []uint32
}

// measure works out the sizes and the extent, which the head begins with.
func (w *writer) measure() error {
	w.shape = [...]uint32{shapePoint, shapeLine, shapePolygon}[w.l.Geometry]
	if w.l.Geometry == layer.Points && w.l.Multi {
		w.shape = shapeMultiPoint
	}
	if w.l.HasZ {
		w.shape += withHeights
	}
	w.bounds = layer.NewBounds()
	w.words = headerSize / 2
	var b []byte
	w.l.Each(func(f *layer.Feature) error {
		w.bounds.AddAll(f.Parts)
		b = w.record(b[:0], f)
		w.sizes = append(w.sizes, uint32(len(b)/2))
		w.words += int64(len(b)/2) + 4
		return nil
	})
	w.l.Count = len(w.sizes)
	if w.words > math.MaxInt32 {
		return errors.New("a shapefile holds at most 4 GB, and there is more: write a GeoPackage, or take fewer")
	}
	return nil
}

func (w *writer) header(words int64) []byte {
	b := make([]byte, 36, headerSize)
	binary.BigEndian.PutUint32(b, fileCode)
	binary.BigEndian.PutUint32(b[24:], uint32(words))
	binary.LittleEndian.PutUint32(b[28:], version)
	binary.LittleEndian.PutUint32(b[32:], w.shape)
	v := w.bounds
	if len(w.sizes) == 0 {
		v = layer.Bounds{}
	}
	if !w.l.HasZ {
		v.MinZ, v.MaxZ = 0, 0
	}
	for _, x := range []float64{v.MinX, v.MinY, v.MaxX, v.MaxY, v.MinZ, v.MaxZ, 0, 0} {
		b = appendFloat(b, x)
	}
	return b
}

// record appends the content of a record.
func (w *writer) record(b []byte, f *layer.Feature) []byte {
	b = binary.LittleEndian.AppendUint32(b, w.shape)
	if w.l.Geometry == layer.Points && !w.l.Multi {
		p := f.Parts[0][0]
		b = appendFloat(appendFloat(b, p.X), p.Y)
		if w.l.HasZ {
			b = appendFloat(appendFloat(b, p.Z), 0)
		}
		return b
	}
	box := layer.NewBounds()
	box.AddAll(f.Parts)
	for _, x := range []float64{box.MinX, box.MinY, box.MaxX, box.MaxY} {
		b = appendFloat(b, x)
	}
	n := 0
	for _, part := range f.Parts {
		n += len(part)
	}
	if w.l.Geometry != layer.Points {
		b = binary.LittleEndian.AppendUint32(b, uint32(len(f.Parts)))
	}
	b = binary.LittleEndian.AppendUint32(b, uint32(n))
	at := 0
	for _, part := range f.Parts {
		if w.l.Geometry != layer.Points {
			b = binary.LittleEndian.AppendUint32(b, uint32(at))
		}
		at += len(part)
	}
	each := func(visit func(layer.Position)) {
		for _, part := range f.Parts {
			for j := range part {
				if w.l.Geometry == layer.Areas { // the outline goes clockwise here, holes the other way
					j = len(part) - 1 - j
				}
				visit(part[j])
			}
		}
	}
	each(func(p layer.Position) { b = appendFloat(appendFloat(b, p.X), p.Y) })
	if w.l.HasZ {
		b = appendFloat(appendFloat(b, box.MinZ), box.MaxZ)
		each(func(p layer.Position) { b = appendFloat(b, p.Z) })
	}
	return b
}

func (w *writer) shapes(out io.Writer) error {
	if _, err := out.Write(w.header(w.words)); err != nil {
		return err
	}
	n := 0
	var b []byte
	return w.l.Each(func(f *layer.Feature) error {
		b = binary.BigEndian.AppendUint32(b[:0], uint32(n+1))
		b = binary.BigEndian.AppendUint32(b, w.sizes[n])
		n++
		_, err := out.Write(w.record(b, f))
		return err
	})
}

func (w *writer) index(out io.Writer) error {
	if _, err := out.Write(w.header(headerSize/2 + 4*int64(len(w.sizes)))); err != nil {
		return err
	}
	at := uint32(headerSize / 2)
	for _, size := range w.sizes {
		var b [8]byte
		binary.BigEndian.PutUint32(b[:], at)
		binary.BigEndian.PutUint32(b[4:], size)
		if _, err := out.Write(b[:]); err != nil {
			return err
		}
		at += size + 4
	}
	return nil
}
