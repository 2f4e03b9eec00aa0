package geodesy

import "math"

// isometric is the isometric latitude, by which the rhumb line is straight: the northing of Mercator's projection for
// a radius of 1 (J. P. Snyder, Map Projections - A Working Manual, USGS Professional Paper 1395, equation 7-7).
func isometric(lat float64) float64 {
	return wgs84.Isometric(math.Sin(lat * radian))
}

// cosine is that of a latitude in degrees, exact to the last digits near the poles too.
func cosine(lat float64) float64 { return math.Sin((90 - math.Abs(lat)) * radian) }

// parallel is the radius of a circle of latitude in metres.
func parallel(lat float64) float64 {
	s, c := (1-Flattening)*math.Sin(lat*radian), cosine(lat)
	return SemiMajor * c / math.Hypot(s, c)
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
	from := math.Atan2((1-Flattening)*math.Sin(lat*radian), cosine(lat))
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
// unit of isometric latitude. Both are built of differences that lose no digits, however near the latitudes are to each
// other or to a pole, as C. F. F. Karney does it (The area of rhumb polygons, Stud. Geophys. Geod. 68, 2024, section
// 4). The isometric latitude is that of J. P. Snyder (USGS Professional Paper 1395, equation 3-7).
func between(lat1, lat2 float64) (meridian, stretch float64) {
	if lat1 == lat2 {
		return 0, parallel(lat1)
	}
	s1, c1 := math.Sin(lat1*radian), cosine(lat1)
	s2, c2 := math.Sin(lat2*radian), cosine(lat2)
	h1, h2 := math.Hypot((1-Flattening)*s1, c1), math.Hypot((1-Flattening)*s2, c2)
	// of the reduced latitudes
	arc := math.Atan2((1-Flattening)*math.Sin((lat2-lat1)*radian), c1*c2+(1-Flattening)*(1-Flattening)*s1*s2)
	if h1*h2 == 0 {
		return 0, 0
	}
	from := math.Atan2((1-Flattening)*s1, c1)
	meridian = SemiMinor * arcFrom(secondEcc2, from, arc)
	// ψ is the inverse hyperbolic sine of tan φ, less e times the inverse hyperbolic tangent of e sin φ.
	ds := 2 * cosine((lat1+lat2)/2) * math.Sin((lat2-lat1)/2*radian)
	e := math.Sqrt(ecc2)
	psi := math.Asinh(ds/(c1*c2)) - e*math.Atanh(e*ds/(1-ecc2*s1*s2))
	return meridian, meridian / psi
}

// arcFrom is arcLength over an arc that may be so short that its end is not told from its start.
func arcFrom(k2, from, arc float64) float64 {
	return arc * integrate(0, 1, func(t float64) float64 { return speed(k2, from+t*arc) })
}

func wrap(lon float64) float64 {
	if lon >= -180 && lon < 180 { // most are
		return lon
	}
	if lon = math.Remainder(lon, 360); lon == 180 {
		return -180
	}
	return lon
}
