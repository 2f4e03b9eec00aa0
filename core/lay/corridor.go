package lay

import (
	"fmt"

	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// mostCornered is the most points of a line about which a corridor is laid.
const mostCornered = 20_000

// corridor lays an area about a line, with round ends: all places up to half its width from it.
func (s *Step) corridor(out *nav.Dataset, name string, points []nav.Point) error {
	if len(points) < 2 {
		return nil
	}
	if len(points) > mostCornered {
		return fmt.Errorf("%q has %d points, but a corridor takes at most %d: thin the line first", name,
			len(points), mostCornered)
	}
	polygons, err := shape.Buffer(nil, [][]nav.Point{points}, s.Width/2)
	if err != nil {
		return fmt.Errorf("%q: %w", name, err)
	}
	of := nav.Area{Item: nav.Item{Name: s.named("Corridor", name, false)}}
	out.Areas = append(out.Areas, nav.AreasOf(&of, polygons)...)
	return nil
}
