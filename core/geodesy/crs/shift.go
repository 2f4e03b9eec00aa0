package crs

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Shift brings latitude and longitude of a geographic system to WGS 84: by the seven parameters of a similarity between
// the geocentric coordinates (position vector convention; EPSG method 9606, of which the three-parameter method 9603 is
// a part), or by a grid. The zero value changes nothing.
type Shift struct {
	Code     int        // in the EPSG registry; 0 where it has none
	Name     string     // "" where none is needed
	Accuracy float64    // metres, as its publisher states it; below zero where nobody does
	Values   [7]float64 // metres, seconds of arc, millionths
	Grid     *Grid
}

// ParseShift reads three or seven numbers, separated by commas, or none: no shift at all.
func ParseShift(text string) (*Shift, error) {
	if text == "none" {
		return &Shift{Name: "none, as given", Accuracy: -1}, nil
	}
	s := &Shift{Name: "as given", Accuracy: -1}
	words := strings.Split(text, ",")
	if len(words) != 3 && len(words) != 7 {
		return nil, fmt.Errorf("%q has %d numbers: give three (metres) or seven (metres, seconds of arc of the position "+
			"vector, millionths), separated by commas, or none", text, len(words))
	}
	for i, w := range words {
		v, err := strconv.ParseFloat(strings.TrimSpace(w), 64)
		if err != nil || math.IsInf(v, 0) || math.IsNaN(v) {
			return nil, fmt.Errorf("%q is not a number", w)
		}
		if limit := [...]float64{5000, 200, 200}[min(i/3, 2)]; math.Abs(v) > limit {
			return nil, fmt.Errorf("%s is too large: translations are in metres, rotations in seconds of arc, the scale in "+
				"millionths", w)
		}
		s.Values[i] = v
	}
	return s, nil
}

// null says whether the shift changes no coordinates but for the ellipsoid.
func (s *Shift) null() bool { return s.Grid == nil && s.Values == [7]float64{} }

// ellipsoid is a figure as the shift needs it.
type ellipsoid struct{ a, e2 float64 }

func newEllipsoid(semiMajor, inverseFlattening float64) ellipsoid {
	if inverseFlattening == 0 {
		return ellipsoid{semiMajor, 0}
	}
	f := 1 / inverseFlattening
	return ellipsoid{semiMajor, f * (2 - f)}
}

func (l ellipsoid) cartesian(lat, lon float64) [3]float64 {
	sin, cos := math.Sincos(lat)
	sinL, cosL := math.Sincos(lon)
	n := l.a / math.Sqrt(1-l.e2*sin*sin)
	return [3]float64{n * cos * cosL, n * cos * sinL, n * (1 - l.e2) * sin}
}

// geodetic gives latitude and longitude in radians by fixed-point iteration on the latitude, which near the surface
// gains two digits a round.
func (l ellipsoid) geodetic(p [3]float64) (lat, lon float64) {
	r := math.Hypot(p[0], p[1])
	lat = math.Atan2(p[2], r*(1-l.e2))
	for range 10 {
		sin := math.Sin(lat)
		n := l.a / math.Sqrt(1-l.e2*sin*sin)
		lat = math.Atan2(p[2]+l.e2*n*sin, r)
	}
	return lat, math.Atan2(p[1], p[0])
}

// apply turns geocentric coordinates.
func (s *Shift) apply(p [3]float64) [3]float64 {
	v := &s.Values
	rx, ry, rz := v[3]/3600*radian, v[4]/3600*radian, v[5]/3600*radian
	k := 1 + v[6]*1e-6
	return [3]float64{
		v[0] + k*(p[0]-rz*p[1]+ry*p[2]),
		v[1] + k*(rz*p[0]+p[1]-rx*p[2]),
		v[2] + k*(-ry*p[0]+rx*p[1]+p[2]),
	}
}

// undo solves apply for what was given to it.
func (s *Shift) undo(q [3]float64) [3]float64 {
	p := q
	for range 8 {
		back := s.apply(p)
		for i := range p {
			p[i] += q[i] - back[i]
		}
	}
	return p
}

// toWGS84 brings radians on an ellipsoid to radians on WGS 84, on the surface of the ellipsoid.
func (s *Shift) toWGS84(from ellipsoid, lat, lon float64) (float64, float64, bool) {
	if s.Grid != nil {
		return s.Grid.forward(lat, lon)
	}
	if s.null() {
		return lat, lon, true
	}
	lat, lon = wgs84.geodetic(s.apply(from.cartesian(lat, lon)))
	return lat, lon, true
}

// fromWGS84 is the inverse of toWGS84, for points on the surface of the local ellipsoid: the height that the shift
// gives such a point is found by iteration, so that there and back is the same place.
func (s *Shift) fromWGS84(to ellipsoid, lat, lon float64) (float64, float64, bool) {
	if s.Grid != nil {
		return s.Grid.inverse(lat, lon)
	}
	if s.null() {
		return lat, lon, true
	}
	x, y := to.geodetic(s.undo(wgs84.cartesian(lat, lon)))
	for range 4 {
		u, v, _ := s.toWGS84(to, x, y)
		x += lat - u
		y += math.Remainder(lon-v, 2*math.Pi)
	}
	return x, y, true
}

var wgs84 = newEllipsoid(6378137, 298.257223563)
