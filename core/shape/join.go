package shape

import (
	"cmp"
	"math"
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// JoinAreas puts areas together again that a cut at the antimeridian parted: edges along it that two of them share, or
// one has twice, in opposite directions, go, and so does the edge along a pole. What was not cut stays as it is.
func JoinAreas(areas [][][]nav.Point) [][][]nav.Point {
	var j joiner
	for i, rings := range areas {
		j.add(i, rings)
	}
	if j.cut == nil || !j.cancel() {
		return areas
	}
	var left [][][]nav.Point
	j.from = map[place][]int{}
	for i, rings := range areas {
		if !j.cut[i] {
			left = append(left, rings)
		}
	}
	for k := range j.edges {
		if e := &j.edges[k]; j.cut[e.area] && !e.gone {
			j.from[placeOf(&e.from)] = append(j.from[placeOf(&e.from)], k)
		}
	}
	out, ok := assemble(j.rings())
	if !ok {
		return areas // no cut of ours
	}
	return append(out, left...)
}

// place is a corner without what else is known of it.
type place struct{ lat, lon float64 }

func placeOf(p *nav.Point) place { return place{p.Lat, p.Lon} }

// joiner holds the edges of areas, with the area to their left, and which of them lie along the antimeridian.
type joiner struct {
	edges []edge
	seams map[[2]place]int // edges along the antimeridian that have not met their opposite
	cut   map[int]bool     // the areas that lose an edge
	from  map[place][]int  // edges by where they begin
}

type edge struct {
	from, to nav.Point
	area     int
	gone     bool
}

// add takes the edges of an area in if there are some along the antimeridian.
func (j *joiner) add(area int, rings [][]nav.Point) {
	along := func(p, q *nav.Point) bool { return p.Lon == -180 && q.Lon == -180 }
	some := false
	for _, r := range rings {
		for i := range r {
			some = some || along(&r[i], &r[(i+1)%len(r)])
		}
	}
	if !some {
		return
	}
	if j.seams == nil {
		j.seams, j.cut = map[[2]place]int{}, map[int]bool{}
	}
	for i, r := range rings {
		r, _ := leftward(r, i == 0)
		for k := range r {
			j.edges = append(j.edges, edge{from: r[k], to: r[(k+1)%len(r)], area: area})
		}
	}
}

// cancel takes out edges along the antimeridian that have an opposite one. It says whether there were some.
func (j *joiner) cancel() bool {
	j.part()
	for k := range j.edges {
		e := &j.edges[k]
		if e.from.Lon != -180 || e.to.Lon != -180 {
			continue
		}
		a, b := placeOf(&e.from), placeOf(&e.to)
		if other, ok := j.seams[[2]place{b, a}]; ok {
			e.gone, j.edges[other].gone = true, true
			j.cut[e.area], j.cut[j.edges[other].area] = true, true
			delete(j.seams, [2]place{b, a})
			continue
		}
		j.seams[[2]place{a, b}] = k
	}
	return len(j.cut) > 0
}

// part parts edges along the antimeridian where another one ends, so that opposite ones are equally long.
func (j *joiner) part() {
	const most = 2000 // ends, beyond which no map of the world has them
	var ends []nav.Point
	for k := range j.edges {
		if e := &j.edges[k]; e.from.Lon == -180 && e.to.Lon == -180 {
			ends = append(ends, e.from, e.to)
		}
	}
	slices.SortFunc(ends, func(p, q nav.Point) int { return cmp.Compare(p.Lat, q.Lat) })
	if ends = slices.CompactFunc(ends, func(p, q nav.Point) bool { return p.Lat == q.Lat }); len(ends) > most {
		return
	}
	var out []edge
	for _, e := range j.edges {
		if e.from.Lon == -180 && e.to.Lon == -180 && e.from.Lat != e.to.Lat {
			low, high := min(e.from.Lat, e.to.Lat), max(e.from.Lat, e.to.Lat)
			var stops []nav.Point
			for _, p := range ends {
				if p.Lat > low && p.Lat < high {
					stops = append(stops, p)
				}
			}
			if e.from.Lat > e.to.Lat {
				slices.Reverse(stops)
			}
			for _, p := range stops {
				out = append(out, edge{from: e.from, to: p, area: e.area})
				e.from = p
			}
		}
		out = append(out, e)
	}
	j.edges = out
}

// rings follows the edges that are left, of areas that lose one.
func (j *joiner) rings() (out [][]nav.Point) {
	done := make([]bool, len(j.edges))
	for k := range j.edges {
		if e := &j.edges[k]; e.gone || !j.cut[e.area] {
			continue
		}
		var points []nav.Point
		for at := k; at >= 0 && !done[at]; {
			done[at] = true
			points = append(points, j.edges[at].from)
			next := -1
			for _, i := range j.from[placeOf(&j.edges[at].to)] {
				if !done[i] {
					next = i
					break
				}
			}
			at = next
		}
		points = withoutSeams(points)
		alongPole := !slices.ContainsFunc(points, func(p nav.Point) bool { return math.Abs(p.Lat) != 90 })
		if len(points) > 2 && !alongPole {
			out = append(out, points)
		}
	}
	return out
}

// assemble makes areas of rings that have them to their left; false if some ring is a hole in none.
func assemble(rings [][]nav.Point) (out [][][]nav.Point, ok bool) {
	var holes, around [][]nav.Point
	for _, r := range rings {
		switch {
		case nav.Around(r) != 0:
			around = append(around, r)
		case SignedArea(r) > 0:
			out = append(out, [][]nav.Point{r})
		default:
			holes = append(holes, r)
		}
	}
	// From south to north one that goes east begins what the next one, to the west, ends.
	south := func(r []nav.Point) float64 {
		return slices.MinFunc(r, func(p, q nav.Point) int { return cmp.Compare(p.Lat, q.Lat) }).Lat
	}
	slices.SortFunc(around, func(a, b []nav.Point) int { return cmp.Compare(south(a), south(b)) })
	for i := 0; i < len(around); i++ {
		area := [][]nav.Point{around[i]}
		if nav.Around(around[i]) > 0 && i+1 < len(around) && nav.Around(around[i+1]) < 0 {
			i++
			slices.Reverse(around[i])
			area = append(area, around[i])
		}
		out = append(out, area)
	}
	for _, h := range holes {
		in := slices.IndexFunc(out, func(rings [][]nav.Point) bool {
			return region.NewInterior(&nav.Area{Outline: rings[0], Holes: rings[1:]}).Contains(h[0].Lat, h[0].Lon)
		})
		if in < 0 {
			return nil, false
		}
		out[in] = append(out[in], h)
	}
	return out, len(out) > 0
}

// withoutSeams drops the positions on the antimeridian that lie on the straight line between their neighbours.
func withoutSeams(points []nav.Point) (out []nav.Point) {
	n := len(points)
	for i := range points {
		p, q := &points[(i+n-1)%n], &points[(i+1)%n]
		if points[i].Lon == -180 && straight(p, &points[i], q) {
			continue
		}
		out = append(out, points[i])
	}
	return
}
