package shape

import (
	"math"
	"slices"

	"gyrolith/core/decimal"
	"gyrolith/core/nav"
)

// Polygon is an outline, and then its holes.
type Polygon = [][]nav.Point

// chart is the map on which areas are computed with: longitudes and latitudes as plane coordinates, turned so that as
// little as possible crosses its borders at -180 and 180. What does is cut there, with edges along the border and the
// pole, and put together again at the end.
type chart struct {
	turn    float64             // degrees by which all is turned west
	corners map[place]nav.Point // of the data, by their places on the chart
}

// chartOf makes the chart for polygons.
func chartOf(sets ...[]Polygon) *chart {
	c := &chart{corners: map[place]nav.Point{}}
	var e nav.Extent
	crosses := false
	for _, set := range sets {
		for _, rings := range set {
			for _, ring := range rings {
				crosses = crosses || Crosses(ring, true)
				for i := range ring {
					crosses = crosses || ring[i].Lon == -180
					e.Add(ring[i].Lat, ring[i].Lon)
				}
			}
		}
	}
	if b, ok := e.Box(); ok && crosses {
		gap := math.Mod(b.West-b.East+720, 360)
		c.turn = nav.WrapLon(math.Round(b.East+gap/2) + 180)
	}
	return c
}

// to gives polygons on the chart, cut at its borders.
func (c *chart) to(set []Polygon) (out []Polygon) {
	for _, rings := range set {
		turned := make(Polygon, len(rings))
		for i, ring := range rings {
			turned[i] = c.ring(ring)
		}
		for _, cut := range CutArea(turned) {
			plain := withoutRepeats(cut)
			switch {
			case len(plain) == 0:
			case touches(plain): // which the arithmetic can't bear
				parts, _ := split([]Polygon{plain}, nil)
				out = append(out, parts...)
			default:
				out = append(out, plain)
			}
		}
	}
	return
}

// ring gives a ring on the chart, and remembers its corners.
func (c *chart) ring(ring []nav.Point) []nav.Point {
	out := make([]nav.Point, len(ring))
	for i, p := range ring {
		p.Lon = nav.WrapLon(p.Lon - c.turn)
		at := placeOf(&p)
		if _, known := c.corners[at]; !known {
			c.corners[at] = ring[i]
		}
		out[i] = p
	}
	return out
}

// withoutRepeats leaves out corners at the place of the one before, and rings of which nothing is left; nothing of a
// polygon is where that is its outline.
func withoutRepeats(rings Polygon) Polygon {
	out := make(Polygon, 0, len(rings))
	for k, ring := range rings {
		same := func(p, q nav.Point) bool { return placeOf(&p) == placeOf(&q) }
		kept := slices.CompactFunc(slices.Clone(ring), same)
		for n := len(kept); n > 1 && same(kept[0], kept[n-1]); n = len(kept) {
			kept = kept[:n-1]
		}
		if len(kept) > 2 {
			out = append(out, kept)
		} else if k == 0 {
			return nil
		}
	}
	return out
}

// from gives polygons of the chart as data: what its borders part is joined, and corners of the data are what they
// were.
func (c *chart) from(set []Polygon) (out []Polygon) {
	for _, rings := range set {
		for _, ring := range rings {
			for i := range ring {
				if ring[i].Lon == 180 {
					ring[i].Lon = -180
				}
			}
		}
	}
	for _, rings := range JoinAreas(set) {
		for _, ring := range rings {
			for i := range ring {
				ring[i] = c.point(ring[i])
			}
		}
		out = append(out, rings)
	}
	return
}

// crossingDecimals are those of positions that are worked out: a tenth of a millimetre.
const crossingDecimals = 9

// point gives the position of a place on the chart.
func (c *chart) point(p nav.Point) nav.Point {
	if was, known := c.corners[placeOf(&p)]; known {
		return was
	}
	const scale = 1e9
	out := nav.At(math.Round(p.Lat*scale)/scale, math.Round((p.Lon+c.turn)*scale)/scale)
	out.LatPrecision, out.LonPrecision = decimal.PrecisionOf(crossingDecimals), decimal.PrecisionOf(crossingDecimals)
	if p.HasHeight() {
		out.SetHeight(p.Height(), p.HeightPrecision(), p.VerticalDatum())
	}
	return out
}

// InnerPoint gives a position inside of a sound polygon: in the middle of its widest stretch between two of its corners
// in the middle of their latitudes.
func InnerPoint(polygon Polygon) (nav.Point, bool) {
	c := chartOf([]Polygon{polygon})
	widest, at := 0.0, nav.Point{}
	for _, rings := range c.to([]Polygon{polygon}) {
		var lats, lons []float64
		for i := range rings[0] {
			lats = append(lats, rings[0][i].Lat)
		}
		slices.Sort(lats)
		lats = slices.Compact(lats)
		if len(lats) < 2 {
			continue
		}
		middle := len(lats) / 2
		lat := (lats[middle-1] + lats[middle]) / 2
		for _, ring := range rings {
			for i := range ring {
				p, q := &ring[i], &ring[(i+1)%len(ring)]
				if (p.Lat > lat) != (q.Lat > lat) {
					lons = append(lons, p.Lon+(lat-p.Lat)/(q.Lat-p.Lat)*(q.Lon-p.Lon))
				}
			}
		}
		slices.Sort(lons)
		for i := 1; i < len(lons); i += 2 {
			if wide := lons[i] - lons[i-1]; wide > widest {
				widest, at = wide, nav.At(lat, (lons[i]+lons[i-1])/2+c.turn)
			}
		}
	}
	return at, widest > 0
}
