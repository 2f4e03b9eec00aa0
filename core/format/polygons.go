package format

import (
	"fmt"
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/shape"
)

// Polygons makes rings as a file has them, an outline and its holes each, those of areas: what was cut at the
// antimeridian is joined, and of an outline that goes around the earth it is said which pole is in it. Way is how
// outlines turn by the rules of the format.
func Polygons(d *nav.Dataset, name string, polygons [][][]nav.Point, way shape.Winding, line int) [][][]nav.Point {
	for _, rings := range polygons {
		if way != shape.AnyWay && len(rings) > 0 && nav.Around(rings[0]) == 0 && shape.SignedArea(rings[0])*float64(way) < 0 {
			d.Note(nav.ProblemWinding, "outlines turn against the rule of the format, which changes nothing", line,
				0).Info = true
		}
		pole := shape.Poleward(rings, way)
		if pole == 0 || around(rings[1:]) { // a band holds none
			continue
		}
		which, why := "north", "as the direction of the outline says"
		if pole < 0 {
			which = "south"
		}
		if way == shape.AnyWay {
			why = "which is the nearer one; the format says nothing of directions"
		}
		d.Tell(nav.ProblemPlaces, fmt.Sprintf("area %q goes around the earth and was taken to hold the %s pole, %s", name,
			which, why)).Line = line
	}
	return shape.JoinAreas(polygons)
}

// around says whether any of the rings goes around the earth.
func around(rings [][]nav.Point) bool {
	return slices.ContainsFunc(rings, func(r []nav.Point) bool { return nav.Around(r) != 0 })
}

// outline is what the ledger calls the outline of an area.
const outline nav.Property = "outline"

// PoleEdges tells of the areas around a pole that they get an edge along it, where longitudes end at the antimeridian.
func PoleEdges(l *nav.Ledger, areas []nav.Area) {
	for i := range areas {
		a := &areas[i]
		which := nav.Around(a.Outline)
		if which == 0 || around(a.Holes) {
			continue
		}
		pole := "north"
		if which < 0 {
			pole = "south"
		}
		l.Changed(nav.Areas, a.Name, outline, "around the "+pole+" pole", "with edges along the antimeridian and the pole",
			"longitudes end at 180° here")
	}
}
