package shape

import (
	"maps"
	"math"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// farRuns replaces runs of corners that lie far from what a polygon is computed with by straight lines, and puts them
// back: most of the work of a long outline is where nothing happens. Between the corners of a run, and on its line,
// nothing else of the polygon lies, and no other polygon comes near.
type farRuns map[[2]place][]nav.Point // the corners between two

// The least corners that are worth it, and the most of a run.
const (
	manyCorners = 500
	longestRun  = 256
)

// boxOf is the box around polygons on a chart.
func boxOf(set []Polygon) region.Span {
	b := region.Span{West: math.Inf(1), South: math.Inf(1), East: math.Inf(-1), North: math.Inf(-1)}
	for _, rings := range set {
		for i := range rings[0] {
			p := &rings[0][i]
			b = region.Span{West: min(b.West, p.Lon), South: min(b.South, p.Lat), East: max(b.East, p.Lon),
				North: max(b.North, p.Lat)}
		}
	}
	return b
}

// withoutFar shortens a polygon on a chart outside of a box; it is given as it was where that is not sound.
func withoutFar(polygon Polygon, box region.Span) (Polygon, farRuns) {
	corners := (&nav.Area{Outline: polygon[0], Holes: polygon[1:]}).Len()
	if corners < manyCorners {
		return polygon, nil
	}
	runs, short := farRuns{}, make(Polygon, len(polygon))
	left := 0
	for k, ring := range polygon {
		short[k] = runs.shorten(ring, box)
		left += len(short[k])
	}
	if left > corners/2 || len(Flaws(&nav.Area{Outline: short[0], Holes: short[1:]})) > 0 {
		return polygon, nil
	}
	return short, runs
}

func (f farRuns) shorten(ring []nav.Point, box region.Span) (out []nav.Point) {
	for i := 0; i < len(ring); {
		b := boxOf([]Polygon{{ring[i : i+1]}})
		end := i // of the run
		for k := i; k < len(ring) && k < i+longestRun; k++ {
			b = region.Span{West: min(b.West, ring[k].Lon), South: min(b.South, ring[k].Lat), East: max(b.East, ring[k].Lon),
				North: max(b.North, ring[k].Lat)}
			if b.West <= box.East && b.East >= box.West && b.South <= box.North && b.North >= box.South {
				break
			}
			end = k
		}
		out = append(out, ring[i])
		if end > i+1 && math.Abs(ring[i].Lon) != 180 && math.Abs(ring[end].Lon) != 180 {
			f[[2]place{placeOf(&ring[i]), placeOf(&ring[end])}] = ring[i+1 : end]
			i = end
		} else {
			i++
		}
	}
	return
}

// with joins the runs of two polygons.
func (f farRuns) with(o farRuns) farRuns {
	if len(f) == 0 {
		return o
	}
	maps.Copy(f, o)
	return f
}

// restore puts the corners of runs back.
func (f farRuns) restore(set []Polygon) []Polygon {
	if len(f) == 0 {
		return set
	}
	for _, rings := range set {
		for k, ring := range rings {
			var out []nav.Point
			for i := range ring {
				out = append(out, ring[i])
				a, b := placeOf(&ring[i]), placeOf(&ring[(i+1)%len(ring)])
				if run, ok := f[[2]place{a, b}]; ok {
					out = append(out, run...)
				} else if run, ok := f[[2]place{b, a}]; ok {
					for n := range run {
						out = append(out, run[len(run)-1-n])
					}
				}
			}
			rings[k] = out
		}
	}
	return set
}
