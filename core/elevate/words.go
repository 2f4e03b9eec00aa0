package elevate

import (
	"fmt"
	"math"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/measure"
)

// without counts the points that have no height above the sea.
func (r *Result) without() string {
	n := r.Failed()
	if r.Unstated == n {
		return r.Left()
	}
	if n == 1 {
		return "1 point could not be given a height"
	}
	return measure.Count(n) + " points could not be given a height"
}

// Left counts the heights of which nothing says what they are above.
func (r *Result) Left() string {
	if r.Unstated == 1 {
		return "1 height left as it is, as nothing says what it is above"
	}
	return measure.Count(r.Unstated) + " heights left as they are, as nothing says what they are above"
}

// Unseen says that legs are longer than the samples of the terrain are apart; "" where they are not.
func (r *Result) Unseen() string {
	if r.Long == 0 {
		return ""
	}
	return fmt.Sprintf("heights were taken at the points alone: legs are up to %s long, the samples of the terrain %s "+
		"apart, and what lies between is in no ascent or descent", measure.Metric.Length(r.Longest),
		measure.Metric.Length(r.Spacing))
}

// UnseenAdvice is the step that sees it.
func (r *Result) UnseenAdvice() advice.Advice {
	return advice.Advice{Code: advice.StepOverGround, Arg: fmt.Sprintf("%.0fm", math.Max(r.Spacing, 1))}
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
	if r.Unstated > 0 {
		reasons = append(reasons, r.Left())
	}
	return strings.Join(reasons, ", ")
}
