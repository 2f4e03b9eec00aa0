// Package picture draws data: maps and height profiles as scenes of plain shapes, which are written as PNG, as SVG, or
// as a page that can be moved about in.
package picture

import (
	"image"

	"gyrolith/core/nav"
)

// Scene is a drawing in pixels, the origin at the top left. Its shapes are drawn in their order.
type Scene struct {
	Width, Height float64
	Paper         nav.Colour
	Shapes        []Shape
}

// Shape is one thing that is drawn: a path, a text or an image.
type Shape struct {
	Layer string // which can be hidden on a page
	Item  string // what it stands for, such as w3; "" for furniture
	Title string // in words, for readers of the page
	Pin   *XY    // the place that it stands at, and keeps its size when a page is enlarged; nil for what grows

	Path   []Op
	Stroke nav.Colour
	Width  float64
	Dash   []float64
	Fill   nav.Colour
	Clip   *Rect

	Text   string
	At     XY
	Size   float64 // of the text, in pixels
	Bold   bool
	Anchor float64 // 0 begins at At, 0.5 is in its middle, 1 ends there
	Halo   nav.Colour

	Image image.Image
	Box   Rect // of the image
}

// XY is a place in the drawing.
type XY struct{ X, Y float64 }

// Rect is a part of the drawing.
type Rect struct{ X, Y, W, H float64 }

// Has says whether a place lies in it.
func (r Rect) Has(p XY) bool { return p.X >= r.X && p.X <= r.X+r.W && p.Y >= r.Y && p.Y <= r.Y+r.H }

// meets says whether two parts have something in common.
func (r Rect) meets(o Rect) bool {
	return r.X < o.X+o.W && o.X < r.X+r.W && r.Y < o.Y+o.H && o.Y < r.Y+r.H
}

// Op is a step of a path: to move, to draw a line, a circle of a radius about a place, or to close.
type Op struct {
	Kind byte // M, L, Z, O
	XY
	R float64 // of O
}

func moveTo(x, y float64) Op    { return Op{Kind: 'M', XY: XY{x, y}} }
func lineTo(x, y float64) Op    { return Op{Kind: 'L', XY: XY{x, y}} }
func circle(x, y, r float64) Op { return Op{Kind: 'O', XY: XY{x, y}, R: r} }

var closed = Op{Kind: 'Z'}

// polyline makes a path of places.
func polyline(points ...XY) []Op {
	out := make([]Op, len(points))
	for i, p := range points {
		out[i] = lineTo(p.X, p.Y)
	}
	if len(out) > 0 {
		out[0].Kind = 'M'
	}
	return out
}

func (s *Scene) add(shapes ...Shape) { s.Shapes = append(s.Shapes, shapes...) }

// line adds a straight line.
func (s *Scene) line(layer string, colour nav.Colour, width float64, points ...XY) {
	s.add(Shape{Layer: layer, Path: polyline(points...), Stroke: colour, Width: width})
}
