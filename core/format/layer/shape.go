package layer

import (
	"gyrolith/core/format"
	"gyrolith/core/nav"
)

// Shape is the geometry of a feature as a file has it: any number of points, lines and polygons, which are rings.
type Shape struct {
	Points   []Position
	Lines    [][]Position
	Polygons [][][]Position
	HasZ     bool
	HasM     bool
	Other    string // what it holds besides, such as "a curve or surface"; "" is nothing
}

// Curve is what a shape holds besides where its type is none of simple features.
const Curve = "a curve or surface"

// Empty says whether there is no position.
func (s *Shape) Empty() bool { return len(s.Points)+len(s.Lines)+len(s.Polygons) == 0 }

// All gives the positions part by part, for reading and for changing them.
func (s *Shape) All() [][]Position {
	out := [][]Position{s.Points}
	out = append(out, s.Lines...)
	for _, rings := range s.Polygons {
		out = append(out, rings...)
	}
	return out
}

// Bounds are around all positions.
func (s *Shape) Bounds() Bounds {
	b := NewBounds()
	b.AddAll(s.All())
	return b
}

// Feature adds the items of a feature.
func (b *Builder) Feature(s *Shape, values []string, record int) {
	b.Box.AddAll(s.All())
	if s.Other != "" {
		b.d.Note(nav.ProblemLeftOut, s.Other+", which is not a point, line or area with straight edges, was left out",
			record, 0)
	} else if s.Empty() {
		b.Nothing(nav.Waypoints, values, record)
	}
	format.Mixed(b.d, record, len(s.Points) > 0, len(s.Lines) > 0, len(s.Polygons) > 0)
	b.HasZ, b.HasM = s.HasZ, s.HasM
	if len(s.Points) > 0 {
		b.Points(s.Points, values, record)
	}
	if len(s.Lines) > 0 {
		b.Line(s.Lines, values, record)
	}
	if len(s.Polygons) > 0 {
		b.Area(s.Polygons, values, record)
	}
}
