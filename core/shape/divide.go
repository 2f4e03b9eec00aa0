package shape

import (
	"cmp"
	"math"
	"slices"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// direction is the axis of coordinates across a heading: degrees of latitude to the right of it, through the middle of
// what is divided. Lines of one coordinate are straight in longitude and latitude, and have the heading in the middle.
type direction struct{ lat, lon, east, north float64 }

func directionOf(set []Polygon, heading float64) direction {
	b := boxOf(set)
	d := direction{lat: (b.South + b.North) / 2, lon: (b.West + b.East) / 2}
	sin, cos := math.Sincos(heading * math.Pi / 180)
	d.east, d.north = cos*math.Cos(d.lat*math.Pi/180), -sin
	return d
}

func (d direction) of(p *nav.Point) float64 { return (p.Lon-d.lon)*d.east + (p.Lat-d.lat)*d.north }

// span is from where to where polygons reach.
func (d direction) span(set []Polygon) (low, high float64) {
	low, high = math.Inf(1), math.Inf(-1)
	for _, rings := range set {
		for i := range rings[0] {
			v := d.of(&rings[0][i])
			low, high = min(low, v), max(high, v)
		}
	}
	return
}

// size is the size of what of polygons lies below a coordinate, in square metres on the ellipsoid.
func (d direction) size(set []Polygon, below float64) (sum float64) {
	for _, rings := range set {
		for i, ring := range rings {
			part := math.Abs(d.ringSize(ring, below))
			if i > 0 {
				part = -part
			}
			sum += part
		}
	}
	return
}

// ringSize follows a ring as far as it lies below a coordinate, and that coordinate's line elsewhere.
func (d direction) ringSize(ring []nav.Point, below float64) (sum float64) {
	var last nav.Point
	begun := false
	var first nav.Point
	to := func(p nav.Point) {
		if begun {
			sum += geodesy.AreaUnder(last.Lat, p.Lat, p.Lon-last.Lon)
		} else {
			first, begun = p, true
		}
		last = p
	}
	for i := range ring {
		p, q := &ring[i], &ring[(i+1)%len(ring)]
		v, w := d.of(p), d.of(q)
		if v <= below {
			to(*p)
		}
		if (v <= below) != (w <= below) {
			t := (below - v) / (w - v)
			to(nav.Point{Lat: p.Lat + t*(q.Lat-p.Lat), Lon: p.Lon + t*(q.Lon-p.Lon)})
		}
	}
	if begun {
		to(first)
	}
	return
}

// cut finds the coordinate below which a size lies, by regula falsi with the step of the Illinois method.
func (d direction) cut(set []Polygon, size, low, high float64) float64 {
	below, above := -size, d.size(set, high)-size
	for side := range 100 {
		at := low - below*(high-low)/(above-below)
		if side%8 == 7 || !(at > low && at < high) {
			at = (low + high) / 2
		}
		v := d.size(set, at) - size
		switch {
		case math.Abs(v) <= 1e-12*size || at == low || at == high:
			return at
		case v < 0:
			low, below = at, v
			above /= 2
		default:
			high, above = at, v
			below /= 2
		}
	}
	return (low + high) / 2
}

// Divided are the parts of polygons, in order.
type Divided struct {
	Parts   [][]Polygon
	Heading float64 // of the lines between them
	Turning float64 // by how many degrees that heading is off at the ends, at the most
}

// Divide cuts polygons into parts of one size side by side, from left to right looking along a heading, by lines that
// are straight in longitude and latitude. Without a heading the lines go across the longer side.
func Divide(set []Polygon, parts int, heading *float64) (*Divided, bool) {
	c := chartOf(set)
	flat := c.to(set)
	out := &Divided{Parts: make([][]Polygon, parts)}
	if heading != nil {
		out.Heading = *heading
	} else {
		out.Heading = across(flat)
	}
	d := directionOf(flat, out.Heading)
	low, high := d.span(flat)
	whole := d.size(flat, high)
	var at []float64
	for k := 1; k < parts; k++ {
		at = append(at, d.cut(flat, whole*float64(k)/float64(parts), low, high))
	}
	faces, ok := split(flat, d.lines(flat, at))
	for _, f := range faces {
		low, high := d.span([]Polygon{f})
		k, _ := slices.BinarySearch(at, (low+high)/2)
		out.Parts[k] = append(out.Parts[k], f)
	}
	out.Turning = d.turning(flat, out.Heading)
	for k := range out.Parts {
		out.Parts[k] = c.from(out.Parts[k])
	}
	return out, ok
}

// lines are those of coordinates, from one side of polygons to the other.
func (d direction) lines(set []Polygon, at []float64) (out [][]nav.Point) {
	along := direction{d.lat, d.lon, -d.north, d.east} // at a right angle on this plane
	low, high := along.span(set)
	low, high = low-(high-low)/16, high+(high-low)/16
	square := d.east*d.east + d.north*d.north
	for _, v := range at {
		var line []nav.Point
		for _, w := range [2]float64{low, high} {
			line = append(line, nav.Point{Lon: d.lon + (v*d.east-w*d.north)/square, Lat: d.lat + (v*d.north+w*d.east)/square})
		}
		out = append(out, line)
	}
	return
}

// turning is by how much a line of one coordinate changes its course between the latitudes of polygons.
func (d direction) turning(set []Polygon, heading float64) (most float64) {
	sin, cos := math.Sincos(heading * math.Pi / 180)
	for _, rings := range set {
		for i := range rings[0] {
			wider := math.Cos(rings[0][i].Lat*math.Pi/180) / math.Cos(d.lat*math.Pi/180)
			there := math.Atan2(sin*wider, cos)
			most = max(most, math.Abs(math.Remainder(there*180/math.Pi-heading, 360)))
		}
	}
	return
}

// across is the heading, to a degree, across the longer side of the smallest rectangle around polygons.
func across(set []Polygon) (heading float64) {
	reach := func(h float64) float64 {
		low, high := directionOf(set, h).span(set)
		return high - low
	}
	smallest := math.Inf(1)
	for h := range 90 {
		along, beside := reach(float64(h)), reach(float64(h)+90)
		if size := along * beside; size < smallest*(1-1e-9) {
			if smallest, heading = size, float64(h); beside > along {
				heading += 90
			}
		}
	}
	return
}

// split gives the parts of polygons between lines that are straight on their chart, from west to east.
func split(flat []Polygon, lines [][]nav.Point) (out []Polygon, ok bool) {
	var rings [][]nav.Point
	for _, polygon := range flat {
		for i, ring := range polygon {
			if (PlainArea(ring) > 0) != (i == 0) {
				slices.Reverse(ring)
			}
			rings = append(rings, ring)
		}
	}
	faces, ok := facesOf(rings, lines)
	for _, f := range faces {
		if f.around > 0 {
			out = append(out, f.polygon)
		}
	}
	middle := func(p Polygon) (lon, lat float64) {
		for i := range p[0] {
			lon, lat = lon+p[0][i].Lon/float64(len(p[0])), lat+p[0][i].Lat/float64(len(p[0]))
		}
		return
	}
	slices.SortStableFunc(out, func(a, b Polygon) int {
		lonA, latA := middle(a)
		lonB, latB := middle(b)
		return cmp.Or(cmp.Compare(lonA, lonB), cmp.Compare(latB, latA))
	})
	return out, ok
}
