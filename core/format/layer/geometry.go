package layer

import (
	"math"
	"slices"
)

// Position is a coordinate in the layer's system. M is a measure, where the shape has them; not a number is none.
type Position struct{ X, Y, Z, M float64 }

// Feature is one item, or several that are parts of one: points are parts of one position each, a line has parts, an
// area rings. Rings repeat their first position; outlines go counter-clockwise and holes clockwise (OGC 06-103r4,
// 6.1.11). It holds until the next is visited.
type Feature struct {
	Parts  [][]Position
	Outer  []bool   // which rings of an area are outlines; the others are holes of the one before
	Values []string // as the columns; "" is absent
}

// HasZ says whether every position has a height.
func (f *Feature) HasZ() bool {
	return !slices.ContainsFunc(f.Parts, func(part []Position) bool {
		return slices.ContainsFunc(part, func(p Position) bool { return math.IsNaN(p.Z) })
	})
}

// Polygons gives the rings of each polygon of an area, its outline first.
func (f *Feature) Polygons() (out [][][]Position) {
	for i, ring := range f.Parts {
		if f.Outer[i] {
			out = append(out, nil)
		}
		n := len(out) - 1
		out[n] = append(out[n], ring)
	}
	return
}

// Bounds grows around positions.
type Bounds struct{ MinX, MinY, MaxX, MaxY, MinZ, MaxZ float64 }

// NewBounds is around nothing.
func NewBounds() Bounds {
	inf := math.Inf(1)
	return Bounds{inf, inf, -inf, -inf, inf, -inf}
}

// Add takes a position in.
func (b *Bounds) Add(p Position) {
	b.MinX, b.MaxX = min(b.MinX, p.X), max(b.MaxX, p.X)
	b.MinY, b.MaxY = min(b.MinY, p.Y), max(b.MaxY, p.Y)
	b.MinZ, b.MaxZ = min(b.MinZ, p.Z), max(b.MaxZ, p.Z)
}

// Join takes another in.
func (b *Bounds) Join(o *Bounds) {
	b.MinX, b.MaxX = min(b.MinX, o.MinX), max(b.MaxX, o.MaxX)
	b.MinY, b.MaxY = min(b.MinY, o.MinY), max(b.MaxY, o.MaxY)
	b.MinZ, b.MaxZ = min(b.MinZ, o.MinZ), max(b.MaxZ, o.MaxZ)
}

// Beyond says whether something of it lies outside of a box that a file gives for it, but for what rounding costs.
func (b *Bounds) Beyond(minX, minY, maxX, maxY float64) bool {
	slack := 1e-6 * max(1, math.Abs(minX), math.Abs(minY), math.Abs(maxX), math.Abs(maxY))
	return b.MinX < minX-slack || b.MinY < minY-slack || b.MaxX > maxX+slack || b.MaxY > maxY+slack
}

// AddAll takes the positions of parts in.
func (b *Bounds) AddAll(parts [][]Position) {
	for _, part := range parts {
		for _, p := range part {
			b.Add(p)
		}
	}
}

// Below and Above give the nearest float on that side of a value, so that a box of floats is never smaller than what
// lies
// in it.
func Below(v float64) float32 {
	f := float32(v)
	if float64(f) > v {
		f = math.Nextafter32(f, float32(math.Inf(-1)))
	}
	return f
}

// Above is the nearest float that is not below a value.
func Above(v float64) float32 { return -Below(-v) }

// SignedArea is the area of a closed ring, positive where it goes counter-clockwise.
func SignedArea(ring []Position) (sum float64) {
	for i := 1; i < len(ring); i++ {
		sum += (ring[i-1].X-ring[0].X)*(ring[i].Y-ring[0].Y) - (ring[i].X-ring[0].X)*(ring[i-1].Y-ring[0].Y)
	}
	return sum / 2
}
