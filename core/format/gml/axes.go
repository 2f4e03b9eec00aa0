package gml

import (
	"errors"
	"math"
	"strings"

	"gyrolith/core/format/layer"
	"gyrolith/core/format/xmlscan"
	"gyrolith/core/geodesy/crs"
)

// unsure says that the order of axes in a system's name has two readings, of which the whole file decides one.
type unsure struct{}

func (*unsure) Error() string { return "the order of axes is not certain" }

// isCut says whether a document ends too early.
func isCut(err error) bool {
	x, ok := errors.AsType[*xmlscan.Error](err)
	return ok && x.Cut
}

// survey is what all positions of a file say of the order of their axes.
type survey struct {
	of   map[string]*spread // by the name of a system
	area *layer.Bounds      // around all features, longitudes and latitudes; nil where no name of a system is formal
}

// spread is how far the numbers of positions go, and whether they lie where their system is made for.
type spread struct {
	first, second float64 // the farthest from zero
	all           []layer.Position
}

// mostPositions is how many positions of a system are looked at.
const mostPositions = 1 << 16

func (s *survey) add(name string, g *shape) {
	at := s.of[name]
	if at == nil {
		at = &spread{}
		s.of[name] = at
	}
	for _, part := range g.All() {
		for _, p := range part {
			at.first, at.second = max(at.first, math.Abs(p.X)), max(at.second, math.Abs(p.Y))
			if len(at.all) < mostPositions {
				at.all = append(at.all, p)
			}
		}
	}
}

// box takes the corners of a box around features: in a formal system they are latitude first, else positions like
// others.
func (s *survey) box(name string, corners *shape) {
	number := crs.NumberIn(name)
	switch {
	case number == "" || len(corners.Points) != 2:
	case (strings.HasPrefix(name, "urn:") || strings.Contains(name, "/def/crs/")) && number == "4326":
		b := layer.NewBounds()
		for _, p := range corners.Points {
			b.Add(layer.Position{X: p.Y, Y: p.X, Z: p.Z})
		}
		if s.area == nil {
			s.area = &b
		} else {
			s.area.Join(&b)
		}
	default:
		s.add(name, corners)
	}
}

// northingFirst decides the order of axes for a system, and words what decided where that is to be said.
func (s *survey) northingFirst(name string, system *crs.System) (yes bool, why string) {
	at := s.of[name]
	if at == nil {
		return false, ""
	}
	projected := system != nil && system.Projected()
	first, second := "longitude first", "latitude first"
	if projected {
		first, second = "the easting first", "the northing first"
	}
	fits := func(in func(x, y float64) bool) (asIs, turned bool) {
		asIs, turned = true, true
		for _, p := range at.all {
			asIs, turned = asIs && in(p.X, p.Y), turned && in(p.Y, p.X)
		}
		return asIs, turned
	}
	if !projected {
		switch {
		case at.second > 90 && at.first <= 90:
			return true, second + ", since others would be beyond 90°"
		case at.first > 90:
			return false, ""
		}
	}
	if s.area != nil && !projected {
		const edge = 1e-6
		asIs, turned := fits(func(x, y float64) bool {
			return x >= s.area.MinX-edge && x <= s.area.MaxX+edge && y >= s.area.MinY-edge && y <= s.area.MaxY+edge
		})
		if asIs != turned {
			return turned, map[bool]string{true: second, false: first}[turned] + ", as the box around them says"
		}
	}
	if !system.WGS84() {
		asIs, turned := fits(func(x, y float64) bool {
			lat, lon, ok := system.Inverse(x, y)
			return ok && system.Area.Contains(lat, lon)
		})
		if turned && !asIs {
			return true, second + ", as the area of the system says"
		}
		if asIs && !turned || projected {
			return false, ""
		}
	}
	return false, first + ", since nothing says otherwise"
}
