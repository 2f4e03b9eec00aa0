package nav

import "strings"

// Zone is where things are chosen: areas of a file, by a pattern for their names. It holds them once they are read.
type Zone struct {
	Path, Pattern string
	Areas         []Area
	boxes         []Box
}

// ParseZoneOf reads FILE or FILE:GLOB. What stands behind a colon is a pattern unless it is a part of a path.
func ParseZoneOf(text string) *Zone {
	i := strings.LastIndexByte(text, ':')
	if i < 2 || strings.ContainsAny(text[i:], `/\`) { // C:\zones.kml
		return &Zone{Path: text}
	}
	return &Zone{Path: text[:i], Pattern: text[i+1:]}
}

// Take keeps the areas that the pattern names. It says how many those are.
func (z *Zone) Take(areas []Area) int {
	pattern := strings.ToLower(z.Pattern)
	z.Areas, z.boxes = nil, nil
	for i := range areas {
		a := &areas[i]
		if pattern != "" && !Glob(pattern, a.Name) && !Glob(pattern, a.Group) || len(a.Outline) < 3 {
			continue
		}
		var e Extent
		for _, p := range a.Outline {
			e.Add(p.Lat, p.Lon)
		}
		box, _ := e.Box()
		z.Areas, z.boxes = append(z.Areas, *a), append(z.boxes, box)
	}
	return len(z.Areas)
}

// has says whether a position lies in any of the areas, and in none of its holes.
func (z *Zone) has(lat, lon float64) bool {
	for i := range z.Areas {
		if z.boxes[i].Contains(lat, lon) && z.Areas[i].Contains(lat, lon) {
			return true
		}
	}
	return false
}

// crossed says whether a leg crosses the outline of any of the areas.
func (z *Zone) crossed(a, b *Point) bool { return len(z.crossings(a, b, nil)) > 0 }

// crossings adds the parts of a leg, from 0 to 1, at which it crosses the outlines of the areas.
func (z *Zone) crossings(a, b *Point, out []float64) []float64 {
	for i := range z.Areas {
		if !z.boxes[i].crossedBy(a, b) {
			continue
		}
		for _, ring := range z.Areas[i].Rings() {
			for k := range ring {
				if t, ok := crossing(a, b, &ring[k], &ring[(k+1)%len(ring)]); ok {
					out = append(out, t)
				}
			}
		}
	}
	return out
}

// covered says whether the first corner of any of the areas lies in an outline.
func (z *Zone) covered(outline []Point) bool {
	for i := range z.Areas {
		if p := &z.Areas[i].Outline[0]; RingContains(outline, p.Lat, p.Lon) {
			return true
		}
	}
	return false
}

// crossing gives the part of the first leg at which the second crosses it; both are straight in degrees, the short way
// around.
func crossing(a, b, c, d *Point) (part float64, ok bool) {
	dx, dy := WrapLon(b.Lon-a.Lon), b.Lat-a.Lat
	cx, cy := WrapLon(c.Lon-a.Lon), c.Lat-a.Lat
	ex, ey := WrapLon(d.Lon-c.Lon), d.Lat-c.Lat
	den := dx*ey - dy*ex
	if den == 0 {
		return 0, false
	}
	t, u := (cx*ey-cy*ex)/den, (cx*dy-cy*dx)/den
	return t, t >= 0 && t <= 1 && u >= 0 && u <= 1
}
