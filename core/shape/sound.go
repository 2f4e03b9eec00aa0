package shape

import (
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// Flaw is what can be wrong with the rings of an area (OGC 06-103r4, section 6.1.11).
type Flaw uint8

// A ring crosses itself; a hole crosses its outline or another hole; a hole lies outside of its outline; nothing is
// inside; there are more crossings than can be looked at.
const (
	CrossesItself Flaw = iota
	HoleAcross
	HoleOutside
	NoSize
	Entangled
)

// Flawed is a flaw, and where it is.
type Flawed struct {
	Flaw Flaw
	At   nav.Point
}

// edgeOf is an edge of a ring in longitudes that go on over the antimeridian.
type edgeOf struct {
	from, to nav.Point
	ring, at int
}

// Flaws finds what is wrong with an area: the first crossing of each ring and of each two of them, and holes outside.
// Rings that only touch are sound.
func Flaws(a *nav.Area) (out []Flawed) {
	if len(a.Outline) == 0 {
		return
	}
	var edges []edgeOf
	for r, ring := range a.Rings() {
		edges = appendEdges(edges, r, ring, a.Outline[0].Lon)
	}
	boxes := boxesOf(len(edges), func(i int) (p, q *nav.Point) { return &edges[i].from, &edges[i].to })
	crossed := map[[2]int]bool{}
	left := mostMeetings * (len(edges) + 1000)
	region.Pairs(boxes, func(i, j int) bool {
		e, f := &edges[i], &edges[j]
		if left--; left == 0 {
			out = append(out, Flawed{Entangled, e.from})
			return false
		}
		if e.ring == f.ring && (j-i == 1 || e.at == f.at) || !apart(e, f) {
			return true
		}
		pair := [2]int{min(e.ring, f.ring), max(e.ring, f.ring)}
		at, ok := properCrossing(e, f)
		if !ok || crossed[pair] {
			return true
		}
		crossed[pair] = true
		flaw := HoleAcross
		if e.ring == f.ring {
			flaw = CrossesItself
		}
		at.Lon = nav.WrapLon(at.Lon)
		out = append(out, Flawed{flaw, at})
		return true
	})
	for k, hole := range a.Holes {
		if len(hole) > 2 && !crossed[[2]int{0, k + 1}] && !within(hole, a.Outline) {
			out = append(out, Flawed{HoleOutside, hole[0]})
		}
	}
	if len(out) == 0 && !(a.Size() > 0) {
		out = append(out, Flawed{NoSize, a.Outline[0]})
	}
	return
}

// appendEdges adds the edges of a ring, with longitudes near to one. Those of one around the earth are there twice, so
// that they meet at either end of the map.
func appendEdges(edges []edgeOf, number int, ring []nav.Point, near float64) []edgeOf {
	if len(ring) < 3 {
		return edges
	}
	times := 1
	if nav.Around(ring) != 0 {
		times = 2
	}
	u := ring[0].Lon + near - ring[0].Lon + nav.WrapLon(ring[0].Lon-near)
	for range times {
		for i := range ring {
			p, q := ring[i], ring[(i+1)%len(ring)]
			p.Lon, q.Lon = u, u+nav.WrapLon(q.Lon-p.Lon)
			u = q.Lon
			edges = append(edges, edgeOf{p, q, number, i})
		}
	}
	return edges
}

// apart says whether the ends of each of two edges lie on different sides of the other.
func apart(e, f *edgeOf) bool {
	side := func(a, b, p *nav.Point) float64 {
		return (b.Lon-a.Lon)*(p.Lat-a.Lat) - (b.Lat-a.Lat)*(p.Lon-a.Lon)
	}
	return side(&e.from, &e.to, &f.from)*side(&e.from, &e.to, &f.to) < 0 &&
		side(&f.from, &f.to, &e.from)*side(&f.from, &f.to, &e.to) < 0
}

// properCrossing gives the place at which two edges go through one another, inside of both.
func properCrossing(e, f *edgeOf) (at nav.Point, ok bool) {
	t, u, n := meetingsOf(&e.from, &e.to, &f.from, &f.to)
	const inner = 1e-9
	if n != 1 || t[0] < inner || t[0] > 1-inner || u[0] < inner || u[0] > 1-inner {
		return at, false
	}
	return nav.Point{Lat: e.from.Lat + t[0]*(e.to.Lat-e.from.Lat), Lon: e.from.Lon + t[0]*(e.to.Lon-e.from.Lon)}, true
}

// touches says whether any two edges of a polygon on a chart meet but for neighbours at their corner.
func touches(polygon Polygon) (found bool) {
	var edges []edgeOf
	for r, ring := range polygon {
		for i := range ring {
			edges = append(edges, edgeOf{ring[i], ring[(i+1)%len(ring)], r, i})
		}
	}
	boxes := boxesOf(len(edges), func(i int) (p, q *nav.Point) { return &edges[i].from, &edges[i].to })
	region.Pairs(boxes, func(i, j int) bool {
		e, f := &edges[i], &edges[j]
		_, _, n := meetingsOf(&e.from, &e.to, &f.from, &f.to)
		if last := len(polygon[e.ring]) - 1; e.ring == f.ring && (f.at-e.at == 1 || e.at == 0 && f.at == last) {
			n-- // at their corner
		}
		found = n > 0
		return !found
	})
	return
}

// Simple says whether no two edges of an area's rings meet but for neighbours at their corner.
func Simple(a *nav.Area) bool {
	if len(Flaws(a)) > 0 {
		return false
	}
	c := chartOf([]Polygon{a.Rings()})
	var turned Polygon
	for _, ring := range a.Rings() {
		turned = append(turned, c.ring(ring))
	}
	return !touches(turned)
}

// within says whether a ring that crosses no edge of an outline lies in it.
func within(ring, outline []nav.Point) bool {
	at := offCorners(ring, outline)
	return region.Contains(outline, at.Lat, at.Lon)
}

// Mended gives the sound polygons that an area is, as long as there is one answer: an outline that crosses itself is
// all that it goes around once, and holes take out what they cover. It is the area itself where that is sound. Where
// there is no one answer, or none at all, it says which flaw it is.
func Mended(a *nav.Area) ([]Polygon, *Flawed, error) {
	flaws := Flaws(a)
	i := slices.IndexFunc(flaws, func(f Flawed) bool { return f.Flaw >= HoleOutside })
	switch {
	case len(flaws) == 0:
		return []Polygon{a.Rings()}, nil, nil
	case i >= 0:
		return nil, &flaws[i], nil
	}
	outlines, ok := once(a.Outline)
	var holes []Polygon
	for _, hole := range a.Holes {
		parts, sound := once(hole)
		holes, ok = append(holes, parts...), ok && sound
	}
	if !ok {
		return nil, &flaws[0], nil
	}
	if len(holes) == 0 {
		return outlines, nil, nil
	}
	out, err := Difference(outlines, holes)
	return out, nil, err
}

// once gives the parts that a ring goes around once; false where it goes around some more often.
func once(ring []nav.Point) ([]Polygon, bool) {
	if len(ring) < 3 {
		return nil, true
	}
	if nav.Around(ring) != 0 {
		return []Polygon{{ring}}, len(Flaws(&nav.Area{Outline: ring})) == 0
	}
	set := []Polygon{{ring}}
	c := chartOf(set)
	turned := c.ring(ring)
	if Crosses(turned, true) {
		return nil, false
	}
	faces, ok := facesOf([][]nav.Point{turned}, nil)
	var out []Polygon
	for _, f := range faces {
		switch {
		case f.around > 1 || f.around < -1:
			return nil, false
		case f.around != 0:
			out = append(out, f.polygon)
		}
	}
	return c.from(out), ok && len(out) > 0
}

// Split parts polygons along lines, which are geodesics between their points. Lines that end inside part nothing.
func Split(set []Polygon, lines [][]nav.Point) ([]Polygon, bool) {
	c := chartOf(set)
	flat := c.to(set)
	var cuts [][]nav.Point
	for _, line := range lines {
		var dense []nav.Point
		for i := 1; i < len(line); i++ {
			nav.AlongLeg(&line[i-1], &line[i], func(p, q *nav.Point, _, _ float64) {
				if len(dense) == 0 {
					dense = append(dense, *p)
				}
				dense = append(dense, *q)
			})
		}
		for i := range dense {
			dense[i].Lon = nav.WrapLon(dense[i].Lon - c.turn)
		}
		cuts = append(cuts, CutLine(dense)...)
	}
	out, ok := split(flat, cuts)
	return c.from(out), ok
}
