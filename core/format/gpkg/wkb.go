package gpkg

import (
	"encoding/binary"
	"math"

	"gyrolith/core/format/layer"
)

// wkbReader reads well-known binary (OGC 06-103r4, 8.2) from the front of what is left.
type wkbReader struct {
	left []byte
}

// wkbHead is what a geometry begins with.
type wkbHead struct {
	order binary.ByteOrder
	kind  uint32 // without what says whether there are heights and measures
	size  int    // bytes of a position
	hasZ  bool
}

// parseWKB reads a geometry; what stands behind it is not looked at.
func parseWKB(b []byte) (*geometry, error) {
	r, g := wkbReader{left: b}, &geometry{}
	return g, r.geometry(g, 0)
}

// geometry adds the geometry that comes next to g.
func (r *wkbReader) geometry(g *geometry, depth int) error {
	h, err := r.head()
	if err != nil || depth > mostNesting {
		return errGeometry
	}
	g.hasZ = g.hasZ || h.hasZ
	switch h.kind {
	case wkbPoint:
		if len(r.left) < h.size {
			return errGeometry
		}
		if p := r.position(h); !math.IsNaN(p.X) { // an empty point has no numbers
			g.points = append(g.points, p)
		}
	case wkbLine:
		line, err := r.line(h)
		if err != nil {
			return err
		}
		if len(line) > 0 {
			g.lines = append(g.lines, line)
		}
	case wkbPolygon:
		rings, err := r.rings(h)
		if err != nil {
			return err
		}
		if len(rings) > 0 {
			g.polygons = append(g.polygons, rings)
		}
	case wkbMultiPoint, wkbMultiLine, wkbMultiPolygon, wkbCollection:
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
		g.other = true
	}
	return nil
}

func (r *wkbReader) head() (h wkbHead, err error) {
	if len(r.left) < 5 {
		return h, errGeometry
	}
	h.order = binary.BigEndian
	if r.left[0] == littleEndian {
		h.order = binary.LittleEndian
	}
	kind := h.order.Uint32(r.left[1:])
	r.left = r.left[5:]
	h.kind = kind % 1000
	switch kind / 1000 {
	case 0:
		h.size = 16
	case 1:
		h.hasZ, h.size = true, 24
	case 2:
		h.size = 24
	case 3:
		h.hasZ, h.size = true, 32
	default:
		return h, errGeometry
	}
	return h, nil
}

// count reads how many things follow, each of at least so many bytes.
func (r *wkbReader) count(h wkbHead, least int) (int, error) {
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
func (r *wkbReader) position(h wkbHead) layer.Position {
	float := func(at int) float64 { return math.Float64frombits(h.order.Uint64(r.left[at:])) }
	p := layer.Position{X: float(0), Y: float(8), Z: math.NaN()}
	if h.hasZ {
		p.Z = float(16)
	}
	r.left = r.left[h.size:]
	return p
}

func (r *wkbReader) line(h wkbHead) ([]layer.Position, error) {
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
func (r *wkbReader) rings(h wkbHead) ([][]layer.Position, error) {
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
