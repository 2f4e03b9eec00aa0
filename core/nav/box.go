package nav

import (
	"fmt"
	"strings"

	"gyrolith/core/decimal"
)

// Box is a range of latitude and longitude in degrees. West greater than East crosses the antimeridian.
type Box struct{ West, South, East, North float64 }

// Contains says whether a position is in the box; its edges are.
func (b Box) Contains(lat, lon float64) bool {
	if lat < b.South || lat > b.North {
		return false
	}
	if b.West <= b.East {
		return lon >= b.West && lon <= b.East || b.East == 180 && lon == -180
	}
	return lon >= b.West || lon <= b.East
}

// ParseBox reads W,S,E,N in degrees.
func ParseBox(text string) (*Box, error) {
	parts := strings.Split(text, ",")
	if len(parts) != 4 {
		return nil, fmt.Errorf("%q is not a box: write west,south,east,north in degrees, such as 11.2,-47.7,11.4,-47.5", text)
	}
	var v [4]float64
	for i, p := range parts {
		var ok bool
		if v[i], _, ok = decimal.Parse([]byte(p)); !ok {
			return nil, fmt.Errorf("%q in the box %q is not a number of degrees", p, text)
		}
	}
	b := &Box{v[0], v[1], v[2], v[3]}
	switch {
	case b.South > b.North:
		return nil, fmt.Errorf("the box %q has its south above its north: the order is west,south,east,north", text)
	case b.South < -90 || b.North > 90:
		return nil, fmt.Errorf("the box %q has a latitude beyond 90: the order is west,south,east,north", text)
	case b.West < -180 || b.West > 180 || b.East < -180 || b.East > 180:
		return nil, fmt.Errorf("the box %q has a longitude beyond 180", text)
	}
	return b, nil
}

// Crossings adds the parts of a leg, from 0 to 1, at which it crosses the edges of the box.
func (b *Box) Crossings(p, q *Point, out []float64) []float64 {
	if !b.CrossedBy(p, q) {
		return out
	}
	east := b.East - b.West // longitudes are counted from the west edge
	if east < 0 {
		east += 360
	}
	x, dx := WrapLon(p.Lon-b.West), WrapLon(q.Lon-p.Lon)
	for _, turn := range []float64{-360, 0, 360} {
		for _, at := range [2]float64{0, east} {
			t := (at - x - turn) / dx
			if y := p.Lat + t*(q.Lat-p.Lat); t >= 0 && t <= 1 && y >= b.South && y <= b.North {
				out = append(out, t)
			}
		}
		for _, at := range [2]float64{b.South, b.North} {
			t := (at - p.Lat) / (q.Lat - p.Lat)
			if x := x + turn + t*dx; t >= 0 && t <= 1 && x >= 0 && x <= east {
				out = append(out, t)
			}
		}
	}
	return out
}

// CrossedBy says whether the straight line between two positions, the short way around the earth, meets the box.
func (b *Box) CrossedBy(p, q *Point) bool {
	east := b.East - b.West // longitudes are counted from the west edge
	if east < 0 {
		east += 360
	}
	px := WrapLon(p.Lon - b.West)
	qx := px + WrapLon(q.Lon-p.Lon)
	for _, turn := range []float64{-360, 0, 360} {
		if crossesBox(px+turn, p.Lat, qx+turn, q.Lat, 0, b.South, east, b.North) {
			return true
		}
	}
	return false
}

// crossesBox says whether a straight line meets a box, by clipping (Liang and Barsky, ACM TOG 3(1), 1984).
func crossesBox(x0, y0, x1, y1, w, s, e, n float64) bool {
	t0, t1 := 0.0, 1.0
	dx, dy := x1-x0, y1-y0
	for _, side := range [4][2]float64{{-dx, x0 - w}, {dx, e - x0}, {-dy, y0 - s}, {dy, n - y0}} {
		p, q := side[0], side[1]
		if p == 0 {
			if q < 0 {
				return false
			}
			continue
		}
		if r := q / p; p < 0 {
			t0 = max(t0, r)
		} else {
			t1 = min(t1, r)
		}
	}
	return t0 <= t1
}
