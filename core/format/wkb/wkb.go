// Package wkb reads well-known binary of simple features (OGC 06-103r4, 8.2), also with the marks of heights, measures
// and a system's number that a widespread extension (EWKB) has in the types.
package wkb

import (
	"encoding/binary"
	"errors"
	"math"

	"gyrolith/core/format/layer"
)

// The types of geometries (8.2.8). With heights they are 1000 more, with measures 2000, with both 3000.
const (
	Point        = 1
	Line         = 2
	Polygon      = 3
	MultiPoint   = 4
	MultiLine    = 5
	MultiPolygon = 6
	Collection   = 7
)

// The marks in the types of the extension.
const (
	markZ      = 0x80000000
	markM      = 0x40000000
	markSystem = 0x20000000
)

// LittleEndian is the mark of the order of bytes.
const LittleEndian byte = 1

const mostNesting = 16

var errGeometry = errors.New("is not well-known binary, or is cut off")

// Head is what a geometry begins with.
type Head struct {
	Type   uint32 // without what says whether there are heights and measures
	System int    // the number that the extension has; 0 is none
	order  binary.ByteOrder
	size   int // bytes of a position
	hasZ   bool
	hasM   bool
}

// reader reads from the front of what is left.
type reader struct{ left []byte }

// Parse reads a geometry; what stands behind it is not looked at.
func Parse(b []byte) (*layer.Shape, Head, error) {
	r, g := reader{left: b}, &layer.Shape{}
	h, err := (&reader{left: b}).head()
	if err != nil {
		return nil, h, err
	}
	return g, h, r.geometry(g, 0)
}

// geometry adds the geometry that comes next to g.
func (r *reader) geometry(g *layer.Shape, depth int) error {
	h, err := r.head()
	if err != nil || depth > mostNesting {
		return errGeometry
	}
	g.HasZ, g.HasM = g.HasZ || h.hasZ, g.HasM || h.hasM
	switch h.Type {
	case Point:
		if len(r.left) < h.size {
			return errGeometry
		}
		if p := r.position(h); !math.IsNaN(p.X) { // an empty point has no numbers
			g.Points = append(g.Points, p)
		}
	case Line:
		line, err := r.line(h)
		if err != nil {
			return err
		}
		if len(line) > 0 {
			g.Lines = append(g.Lines, line)
		}
	case Polygon:
		rings, err := r.rings(h)
		if err != nil {
			return err
		}
		if len(rings) > 0 {
			g.Polygons = append(g.Polygons, rings)
		}
	case MultiPoint, MultiLine, MultiPolygon, Collection:
		n, err := r.count(h, 5)
		if err != nil {
			return err
		}
		for range n {
			if err := r.geometry(g, depth+1); err != nil {
				return err
			}
		}
	default: // curves and surfaces of the extensions
		g.Other = layer.Curve
	}
	return nil
}

func (r *reader) head() (h Head, err error) {
	if len(r.left) < 5 {
		return h, errGeometry
	}
	h.order = binary.BigEndian
	if r.left[0] == LittleEndian {
		h.order = binary.LittleEndian
	}
	kind := h.order.Uint32(r.left[1:])
	r.left = r.left[5:]
	if kind&markSystem != 0 {
		if len(r.left) < 4 {
			return h, errGeometry
		}
		h.System, r.left = int(h.order.Uint32(r.left)), r.left[4:]
	}
	sorts := kind &^ (markZ | markM | markSystem)
	if sorts >= 4000 {
		return h, errGeometry
	}
	h.Type = sorts % 1000
	h.hasZ = kind&markZ != 0 || sorts/1000 == 1 || sorts/1000 == 3
	h.size = 16
	if h.hasZ {
		h.size += 8
	}
	if h.hasM = kind&markM != 0 || sorts/1000 >= 2; h.hasM {
		h.size += 8
	}
	return h, nil
}

// count reads how many things follow, each of at least so many bytes.
func (r *reader) count(h Head, least int) (int, error) {
	if len(r.left) < 4 {
		return 0, errGeometry
	}
	n := int(h.order.Uint32(r.left))
	r.left = r.left[4:]
	if n < 0 || n > len(r.left)/least {
		return 0, errGeometry
	}
	return n, nil
}

// position reads a position, of which all bytes are there.
func (r *reader) position(h Head) layer.Position {
	float := func(at int) float64 { return math.Float64frombits(h.order.Uint64(r.left[at:])) }
	p := layer.Position{X: float(0), Y: float(8), Z: math.NaN()}
	if h.hasZ {
		p.Z = float(16)
	}
	if h.hasM {
		p.M = float(h.size - 8)
	}
	r.left = r.left[h.size:]
	return p
}

func (r *reader) line(h Head) ([]layer.Position, error) {
	n, err := r.count(h, h.size)
	if err != nil {
		return nil, err
	}
	line := make([]layer.Position, n)
	for i := range line {
		line[i] = r.position(h)
	}
	return line, nil
}

// rings reads the rings of a polygon, without empty ones.
func (r *reader) rings(h Head) ([][]layer.Position, error) {
	n, err := r.count(h, 4)
	if err != nil {
		return nil, err
	}
	var rings [][]layer.Position
	for range n {
		ring, err := r.line(h)
		if err != nil {
			return nil, err
		}
		if len(ring) > 0 {
			rings = append(rings, ring)
		}
	}
	return rings, nil
}
