// Package crs turns WGS 84 positions into the coordinates of other systems and back: projections by IOGP Publication
// 373-7-2, the parameters of the systems from the EPSG registry, datum shifts, and the WKT 1 of .prj files.
package crs

import (
	"fmt"
	"math"
	"strconv"
	"strings"
)

// Area is where a system is meant to be used, in degrees; West may lie beyond East.
type Area struct {
	West, South, East, North float64
	Name                     string
}

// Contains says whether a position lies in the area.
func (a *Area) Contains(lat, lon float64) bool {
	if lat < a.South || lat > a.North {
		return false
	}
	if a.West <= a.East {
		return lon >= a.West && lon <= a.East
	}
	return lon >= a.West || lon <= a.East
}

// Geographic is a system of latitude and longitude on an ellipsoid of its own.
type Geographic struct {
	Code                          int // in the EPSG registry; 0 where it has none
	Name, Datum, Alias, Ellipsoid string
	SemiMajor, InverseFlattening  float64 // metres; 0 is a sphere
	Meridian                      float64 // degrees east of Greenwich
}

// System is a coordinate system.
type System struct {
	Code       int // in the EPSG registry; 0 where it has none
	Name       string
	Area       Area
	Geographic *Geographic
	Method     Method
	Parameters
	Measure float64 // metres of the measure of its coordinates; degrees of it for a geographic system
	Shift   *Shift  // to WGS 84; nil where none is known

	projection projection
	figure     ellipsoid
}

// Projected says whether the system has eastings and northings.
func (s *System) Projected() bool { return s.Method != Geographic2D }

// Southing says whether the system counts to the west and south, as its definition has it. Forward gives eastings and
// northings all the same.
func (s *System) Southing() bool { return s.Method == TransverseSouth || s.Method == Krovak }

// WGS84 says whether the system is that of all positions.
func (s *System) WGS84() bool { return s == nil || s.Code == 4326 }

// ready works out the constants.
func (s *System) ready() error {
	g := s.Geographic
	s.figure = newEllipsoid(g.SemiMajor, g.InverseFlattening)
	if !s.Projected() {
		if !(g.SemiMajor > 6.3e6 && g.SemiMajor < 6.5e6) || g.InverseFlattening < 0 || g.InverseFlattening != 0 &&
			g.InverseFlattening < 100 {
			return fmt.Errorf("an ellipsoid of %v m and 1/%v is none of the earth", g.SemiMajor, g.InverseFlattening)
		}
		return nil
	}
	p, err := newProjection(s.Method, s.Parameters, g.SemiMajor, g.InverseFlattening)
	s.projection = p
	return err
}

// near is how exactly a position must come back for a projection to be trusted where it lies: a tenth of a millimetre.
const near = 1.6e-11

// Forward gives the easting and northing of a WGS 84 position in degrees, in the measure of the system, or the
// longitude and latitude where it is geographic. It is not ok where the projection or the grid of shifts does not
// reach.
func (s *System) Forward(lat, lon float64) (east, north float64, ok bool) {
	if s.WGS84() {
		return lon, lat, true
	}
	y, x := lat*radian, lon*radian
	if s.Shift != nil {
		if y, x, ok = s.Shift.fromWGS84(s.figure, y, x); !ok {
			return
		}
	}
	x = math.Remainder(x-s.Geographic.Meridian*radian, 2*math.Pi)
	if !s.Projected() {
		return x / radian / s.Measure, y / radian / s.Measure, true
	}
	east, north = s.projection.forward(y, x)
	u, v := s.projection.inverse(east, north)
	// Near a pole a longitude says little.
	if math.Abs(u-y) > near || math.Abs(math.Remainder(v-x, 2*math.Pi))*math.Cos(y) > near || math.IsNaN(u+v) ||
		math.IsInf(east+north, 0) {
		return 0, 0, false
	}
	return east / s.Measure, north / s.Measure, true
}

// Inverse gives the WGS 84 position in degrees of an easting and northing, or of a longitude and latitude.
func (s *System) Inverse(east, north float64) (lat, lon float64, ok bool) {
	if s.WGS84() {
		return north, east, math.Abs(north) <= 90 && math.Abs(east) <= 180
	}
	var y, x float64
	if s.Projected() {
		y, x = s.projection.inverse(east*s.Measure, north*s.Measure)
		if math.IsNaN(y + x) {
			return 0, 0, false
		}
		if e, n := s.projection.forward(y, x); !(math.Abs(e-east*s.Measure) < 1e-3 && math.Abs(n-north*s.Measure) < 1e-3) {
			return 0, 0, false
		}
	} else {
		y, x = north*s.Measure*radian, east*s.Measure*radian
	}
	x += s.Geographic.Meridian * radian
	ok = true
	if s.Shift != nil {
		y, x, ok = s.Shift.toWGS84(s.figure, y, math.Remainder(x, 2*math.Pi))
	}
	lat, lon = y/radian, x/radian
	if lon = math.Remainder(lon, 360); lon == 180 {
		lon = -180
	}
	return lat, lon, ok && math.Abs(lat) <= 90
}

// WithShift is the system with another shift to WGS 84.
func (s *System) WithShift(shift *Shift) *System {
	c := *s
	c.Shift = shift
	return &c
}

// String is EPSG:25832 (ETRS89 / UTM zone 32N).
func (s *System) String() string {
	if s.Code == 0 {
		return s.Name
	}
	return fmt.Sprintf("EPSG:%d (%s)", s.Code, s.Name)
}

// Axes says what the two coordinates are and in which measure.
func (s *System) Axes() string {
	if !s.Projected() {
		return "longitude, latitude in " + measureName(s.Measure, true)
	}
	return "easting, northing in " + measureName(s.Measure, false)
}

func measureName(factor float64, angle bool) string {
	if angle {
		switch {
		case math.Abs(factor-1) < 1e-12:
			return "degrees"
		case math.Abs(factor-0.9) < 1e-12:
			return "grads"
		}
		return fmt.Sprintf("%v degrees", factor)
	}
	switch { // the registry's units 9001, 9002, 9003, 9005, 9036
	case factor == 1:
		return "metres"
	case math.Abs(factor-0.3048) < 1e-12:
		return "feet"
	case math.Abs(factor-1200.0/3937) < 1e-10:
		return "US survey feet"
	case math.Abs(factor-0.3047972654) < 1e-10:
		return "Clarke's feet"
	case math.Abs(factor-1000) < 1e-9:
		return "kilometres"
	}
	return fmt.Sprintf("measures of %v m", factor)
}

// Accuracy says how good the way from the system to WGS 84 is.
func (s *System) Accuracy() string {
	switch {
	case s.WGS84() || s.Shift != nil && s.Shift.Name == "" && s.Shift.Grid == nil:
		return "no datum shift is needed"
	case s.Shift == nil:
		return "no datum shift to WGS 84 is known"
	}
	x := s.Shift
	name := x.Name
	switch {
	case x.Code != 0:
		name = fmt.Sprintf("%s (EPSG:%d)", x.Name, x.Code)
	case x.Grid != nil:
		name = "by the grid " + x.Grid.Name
		if x.Grid.From != "" {
			name += fmt.Sprintf(" (%s to %s)", x.Grid.From, x.Grid.To)
		}
	}
	if x.Accuracy < 0 {
		return "datum shift " + name + ", of no stated accuracy"
	}
	how := ""
	if x.null() && x.Code != 0 {
		how = ": no change, "
	} else if x.Code != 0 {
		how = ", "
	}
	return fmt.Sprintf("datum shift %s%sgood to %v m", name, how, x.Accuracy)
}

func decimal(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }

// Explain says in words how the system is made.
func (s *System) Explain() string {
	var b strings.Builder
	g := s.Geographic
	fmt.Fprintf(&b, "%s on %s", s.Method, g.Ellipsoid)
	if g.Meridian != 0 {
		fmt.Fprintf(&b, ", longitudes from %v°", g.Meridian)
	}
	if s.Projected() {
		p := s.Parameters
		add := func(format string, v ...any) { fmt.Fprintf(&b, ", "+format, v...) }
		switch s.Method {
		case WebMercator:
		case HotineA, HotineB, Krovak, KrovakNorth:
			add("centre %v° %v°", p.Lat0, p.Lon0)
			add("azimuth %v°", p.Azimuth)
		default:
			add("origin %v° %v°", p.Lat0, p.Lon0)
		}
		if p.Lat1 != 0 || p.Lat2 != 0 {
			add("parallels %v° %v°", p.Lat1, p.Lat2)
		}
		if p.Scale != 1 {
			add("scale %v", p.Scale)
		}
		if p.FalseEast != 0 || p.FalseNorth != 0 {
			add("false origin %s %s", decimal(p.FalseEast), decimal(p.FalseNorth))
		}
	}
	return b.String()
}
