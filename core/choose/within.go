package choose

import (
	"strings"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// Zone is where things are chosen: areas of a file, by a pattern for their names. It holds them once they are read.
type Zone struct {
	Path, Pattern string
	regions       *region.Index
}

// ParseZone reads FILE or FILE:GLOB. What stands behind a colon is a pattern unless it is a part of a path.
func ParseZone(text string) *Zone {
	i := strings.LastIndexByte(text, ':')
	if i < 2 || strings.ContainsAny(text[i:], `/\`) { // C:\zones.kml
		return &Zone{Path: text}
	}
	return &Zone{Path: text[:i], Pattern: text[i+1:]}
}

// Take keeps the areas that the pattern names. It says how many those are.
func (z *Zone) Take(areas []nav.Area) int {
	pattern := strings.ToLower(z.Pattern)
	z.regions = region.New(areas, func(a *nav.Area) bool {
		return pattern == "" || Glob(pattern, a.Name) || Glob(pattern, a.Group)
	})
	return z.regions.Len()
}

// Ready says whether the areas have been read.
func (z *Zone) Ready() bool { return z.regions != nil }

// Regions are the areas, once they are read.
func (z *Zone) Regions() *region.Index { return z.regions }

// Cut parts segments at the very edges of the areas, where points get the time and the height that the line has there.
// What stays lies in any of the areas, or outside of all of them.
func (z *Zone) Cut(segments []nav.Segment, outside bool) []nav.Segment {
	s := &Selection{Within: z, outside: outside}
	return s.cut(segments)
}

// Holds says whether a position lies in any of the areas, and in none of its holes.
func (z *Zone) Holds(lat, lon float64) (found bool) {
	z.regions.Holding(lat, lon, func(int) bool { found = true; return false })
	return
}
