package geodesy

import "math"

// isometric is the isometric latitude, by which the rhumb line is straight: the northing of Mercator's projection for
// a radius of 1 (J. P. Snyder, Map Projections - A Working Manual, USGS Professional Paper 1395, equation 7-7).
func isometric(lat float64) float64 {
	return wgs84.Isometric(math.Sin(lat * radian))
}

// parallel is the radius of a circle of latitude in metres.
func parallel(lat float64) float64 {
	_, cos := reduced(lat)
	return SemiMajor * cos
}

// Rhumb gives the length of the line of constant course between two positions, and that course. It goes the shorter
// way round the earth.
func Rhumb(lat1, lon1, lat2, lon2 float64) (distance, course float64) {
	dlon := math.Remainder(lon2-lon1, 360) * radian
	meridian, stretch := between(lat1, lat2)
	if dlon == 0 {
		return math.Abs(meridian), bearing(0, lat2-lat1)
	}
	if math.Abs(lat1) == 90 || math.Abs(lat2) == 90 {
		return math.Abs(meridian), bearing(0, lat2-lat1) // at a pole any longitude will do
	}
	psi := meridian / stretch
	return math.Hypot(dlon, psi) * stretch, bearing(dlon, psi)
}

// RhumbDirect gives where one arrives after a distance on a constant course; false where the line ends at a pole
// before that.
func RhumbDirect(lat, lon, course, distance float64) (lat2, lon2 float64, ok bool) {
	sin, cos := math.Sincos(math.Remainder(course, 360) * radian)
	if math.Abs(cos) < 1e-15 { // along the parallel
		return lat, wrap(lon + distance*sin/parallel(lat)/radian), true
	}
	s, c := reduced(lat)
	from := math.Atan2(s, c)
	to := from + distance*cos/SemiMinor
	for range 12 { // the meridian is an ellipse: Newton's method on the length of its arc
		step := (arcLength(secondEcc2, from, to) - distance*cos/SemiMinor) / speed(secondEcc2, to)
		to -= step
		if math.Abs(step) < 1e-16 {
			break
		}
	}
	if math.Abs(to) > math.Pi/2 {
		return 0, 0, false
	}
	sinTo, cosTo := math.Sincos(to)
	lat2 = math.Atan2(sinTo, (1-Flattening)*cosTo) / radian
	_, stretch := between(lat, lat2)
	return lat2, wrap(lon + distance*sin/stretch/radian), true
}

// between gives the length of the meridian from one latitude to another in metres, and how many metres there are to a
// unit of isometric latitude.
func between(lat1, lat2 float64) (meridian, stretch float64) {
	s1, c1 := reduced(lat1)
	s2, c2 := reduced(lat2)
	from := math.Atan2(s1, c1)
	arc := math.Atan2(s2*c1-c2*s1, c2*c1+s2*s1)
	meridian = SemiMinor * arcLength(secondEcc2, from, from+arc)
	if math.Abs(lat2-lat1) > 1 || math.Abs(lat1) > 89 || math.Abs(lat2) > 89 {
		if psi := isometric(lat2) - isometric(lat1); psi != 0 {
			return meridian, meridian / psi
		}
	}
	// On a short way the two differences would lose digits: the mean of the quotient is taken instead.
	if lat1 == lat2 {
		return meridian, parallel(lat1)
	}
	psi := integrate(lat1*radian, lat2*radian, func(phi float64) float64 {
		sin, cos := math.Sincos(phi)
		return (1 - ecc2) / ((1 - ecc2*sin*sin) * cos)
	})
	return meridian, meridian / psi
}

func wrap(lon float64) float64 {
	if lon = math.Remainder(lon, 360); lon == 180 {
		return -180
	}
	return lon
}
