package terrain

import (
	"fmt"
	"strings"

	"gyrolith/core/measure"
)

func pointsWithout(n int) string {
	if n == 1 {
		return "1 point could not be given a height"
	}
	return measure.Count(n) + " points could not be given a height"
}

// Why says why points have no height: 2 in a void, 2 outside the terrain: tile S48E012 is missing.
func (r *Result) Why() string {
	var reasons []string
	if r.InVoid > 0 {
		reasons = append(reasons, measure.Count(r.InVoid)+" in a void")
	}
	if r.Outside > 0 {
		text := measure.Count(r.Outside) + " outside the terrain"
		switch tiles := r.MissingTiles(); {
		case len(tiles) == 1:
			text += ": tile " + tiles[0] + " is missing"
		case len(tiles) > 5:
			text += fmt.Sprintf(": tiles %s and %d more are missing", strings.Join(tiles[:5], ", "), len(tiles)-5)
		case len(tiles) > 1:
			text += ": tiles " + strings.Join(tiles, ", ") + " are missing"
		}
		reasons = append(reasons, text)
	}
	if r.NoGeoid > 0 {
		reasons = append(reasons, measure.Count(r.NoGeoid)+" outside the geoid grid, left above the ellipsoid")
	}
	return strings.Join(reasons, ", ")
}
