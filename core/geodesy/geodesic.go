// Package geodesy measures on the WGS 84 ellipsoid: geodesics, their courses, and a fast approximation for
// short legs. Angles are degrees, lengths metres, courses degrees true from 0 up to but not including 360.
package geodesy

import "math"

// The WGS 84 ellipsoid (NGA.STND.0036, 2014): semi-major axis in metres, flattening, and what follows.
const (
	SemiMajor  = 6378137.0
	Flattening = 1 / 298.257223563
	SemiMinor  = SemiMajor * (1 - Flattening)

	// EccentricitySquared is the square of the first eccentricity.
	EccentricitySquared = Flattening * (2 - Flattening)
	ecc2                = EccentricitySquared
	secondEcc2          = ecc2 / (1 - ecc2)

	// MeanRadius is that of the earth in metres, rounded, for what a sphere is good enough.
	MeanRadius = 6_371_000.0
	// EquatorDegree and MeridianDegree are a degree of longitude on the equator, and one of latitude on the mean, in
	// metres, rounded, for what a hundredth is good enough.
	EquatorDegree  = 111_320.0
	MeridianDegree = 111_132.0
)

const radian = math.Pi / 180

// Inverse gives the length of the shortest line between two positions, its course at the first and its
// course on arrival at the second. It solves for the course as C. F. F. Karney, Algorithms for geodesics,
// J. Geodesy 87 (2013), sections 4 and 5 have it, in a bracket that no pair of positions, antipodal ones
// included, can leave; the integrals are taken by Gaussian quadrature instead of series. The error is
// below a micrometre.
func Inverse(lat1, lon1, lat2, lon2 float64) (distance, course1, course2 float64) {
	dlon := math.Remainder(lon2-lon1, 360)
	east, swapped, south := 1.0, 1.0, 1.0
	if dlon < 0 {
		east, dlon = -1, -dlon
	}
	if math.Abs(lat1) < math.Abs(lat2) {
		lat1, lat2 = lat2, lat1
		swapped, east = -1, -east
	}
	if lat1 >= 0 { // of the two equal lines between places on the equator the northern one is given
		lat1, lat2, south = -lat1, -lat2, -1
	}
	// From here on the first position is the southern one and the farther from the equator.
	g := newPair(lat1, lat2)
	target := dlon * radian
	var line solution
	switch {
	case lat1 == lat2 && dlon == 0:
		return 0, 0, 0
	case dlon == 0 || lat1 == -90:
		line = g.try(0, 1)
		if lat1 == -90 {
			line.sin1, line.cos1 = math.Sincos(target)
			line.sin2, line.cos2 = 0, 1
		}
	case dlon == 180:
		line = g.try(0, -1)
	case lat1 == 0 && lat2 == 0 && target <= (1-Flattening)*math.Pi:
		distance = SemiMajor * target
		line = solution{sin1: 1, sin2: 1}
		return distance, bearing(swapped*east, 0), bearing(swapped*east, 0)
	default:
		line = g.solve(target)
	}
	distance = SemiMinor * arcLength(line.k2, line.sigma1, line.sigma2)
	s1, c1, s2, c2 := line.sin1, line.cos1, line.sin2, line.cos2
	if swapped < 0 {
		s1, c1, s2, c2 = s2, c2, s1, c1
	}
	return distance, bearing(s1*swapped*east, c1*swapped*south), bearing(s2*swapped*east, c2*swapped*south)
}

func bearing(sin, cos float64) float64 {
	b := math.Atan2(sin, cos) / radian
	if b < 0 {
		b += 360
	}
	if b >= 360 || b == 0 {
		return 0
	}
	return b
}

// pair is two reduced latitudes in the canonical order: sin1 <= 0, |sin2| <= |sin1|.
type pair struct{ sin1, cos1, sin2, cos2 float64 }

// reduced gives sine and cosine of the reduced latitude.
func reduced(lat float64) (sin, cos float64) {
	s, c := math.Sincos(lat * radian)
	if math.Abs(lat) == 90 {
		c = 0
	}
	s *= 1 - Flattening
	h := math.Hypot(s, c)
	return s / h, c / h
}

func newPair(lat1, lat2 float64) pair {
	var p pair
	p.sin1, p.cos1 = reduced(lat1)
	p.sin2, p.cos2 = reduced(lat2)
	if p.sin1 == 0 { // the first position is never quite on the equator, so that its quadrant is known
		p.sin1 = -1e-300
	}
	if lat2 == lat1 {
		p.sin2, p.cos2 = p.sin1, p.cos1
	} else if lat2 == -lat1 {
		p.sin2, p.cos2 = -p.sin1, p.cos1
	}
	return p
}

// solution is a geodesic from the first latitude to the second: sines and cosines of its courses, the arcs on
// the auxiliary sphere, k² and the difference of longitude in radians.
type solution struct {
	sin1, cos1, sin2, cos2, sigma1, sigma2, k2, lambda float64
}

// try follows the geodesic that leaves the first latitude on a course until it reaches the second northbound
// (Karney, equations 5, 8, 11 to 14 and 45).
func (p pair) try(sin1, cos1 float64) solution {
	s := solution{sin1: sin1, cos1: cos1}
	sin0 := sin1 * p.cos1
	cos0 := math.Hypot(cos1, sin1*p.sin1)
	s.k2 = secondEcc2 * cos0 * cos0
	s.sin2 = sin0 / p.cos2
	if p.cos2 == p.cos1 {
		s.sin2 = sin1
		s.cos2 = math.Abs(cos1)
	} else {
		// The difference of the squared cosines, without cancellation.
		diff := (p.sin1 - p.sin2) * (p.sin1 + p.sin2)
		if p.cos1 < -p.sin1 {
			diff = (p.cos2 - p.cos1) * (p.cos1 + p.cos2)
		}
		s.cos2 = math.Sqrt(max(0, cos1*cos1*p.cos1*p.cos1+diff)) / p.cos2
	}
	y1, x1 := p.sin1, cos1*p.cos1
	y2, x2 := p.sin2, s.cos2*p.cos2
	if x1 == 0 && y1 == 0 {
		x1 = 1
	}
	s.sigma1 = math.Atan2(y1, x1)
	arc := math.Atan2(max(0, y2*x1-x2*y1), x2*x1+y2*y1)
	s.sigma2 = s.sigma1 + arc
	oy1, ox1, oy2, ox2 := sin0*y1, x1, sin0*y2, x2
	omega := math.Atan2(max(0, oy2*ox1-ox2*oy1), ox2*ox1+oy2*oy1)
	s.lambda = omega - Flattening*sin0*lonIntegral(s.k2, s.sigma1, s.sigma2)
	return s
}

// solve finds the course whose geodesic has the wanted difference of longitude. Secants from the course on a sphere
// (Karney, equations 48 to 51) come to it in a few steps, save between places nearly opposite one another.
func (p pair) solve(target float64) solution {
	middle := (p.cos1 + p.cos2) / 2
	sin, cos := math.Sincos(min(target/math.Sqrt(1-ecc2*middle*middle), math.Pi))
	x := math.Atan2(p.cos2*sin, p.cos1*p.sin2-p.sin1*p.cos2*cos)
	b := bracket{low: 0, high: math.Pi, lowF: -target, highF: math.Pi - target, bestF: math.Inf(1)}
	var before, beforeF float64
	for round := range 8 {
		s, f := p.miss(x, target)
		if b.take(x, f, s); math.Abs(f) < 3e-16 { // two nanometres
			return s
		}
		slope := math.Sin(s.sigma2-s.sigma1) / (s.cos2 * p.cos2) // equation 46, on a sphere
		if round > 0 {
			if math.Abs(f) >= math.Abs(beforeF) {
				break
			}
			slope = (f - beforeF) / (x - before)
		}
		before, beforeF = x, f
		next := x - f/slope
		if next == x || !(next > b.low && next < b.high) {
			break
		}
		x = next
	}
	if b.bestF > 1e-13 {
		p.narrow(&b, target)
	}
	return b.best
}

// miss is by how much the geodesic on a course misses the wanted difference of longitude.
func (p pair) miss(course, target float64) (solution, float64) {
	sin, cos := math.Sincos(course)
	s := p.try(sin, cos)
	return s, s.lambda - target
}

// bracket holds two courses that miss to either side, and the best of all that were tried.
type bracket struct {
	low, high, lowF, highF float64
	best                   solution
	bestF                  float64
}

func (b *bracket) take(x, f float64, s solution) {
	if math.Abs(f) < b.bestF {
		b.best, b.bestF = s, math.Abs(f)
	}
	if f < 0 {
		b.low, b.lowF = x, f
	} else {
		b.high, b.highF = x, f
	}
}

// narrow closes a bracket by R. Chandrupatla's method (Advances in Engineering Software 28, 1997): inverse quadratic
// steps inside it.
func (p pair) narrow(within *bracket, target float64) {
	a, b, fa, fb := within.low, within.high, within.lowF, within.highF
	c, fc := a, fa
	t := 0.5
	for range 200 {
		x := a + t*(b-a)
		s, fx := p.miss(x, target)
		within.take(x, fx, s)
		if (fx < 0) == (fa < 0) {
			c, fc = a, fa
		} else {
			c, b, fc, fb = b, a, fb, fa
		}
		a, fa = x, fx
		tol := 2e-16*math.Abs(a) + 1e-18
		span := math.Abs(b - a)
		if fx == 0 || span < 2*tol {
			return
		}
		xi, phi := (a-b)/(c-b), (fa-fb)/(fc-fb)
		t = 0.5
		if phi*phi < xi && (1-phi)*(1-phi) < 1-xi {
			t = fa/(fb-fa)*fc/(fb-fc) + (c-a)/(b-a)*fa/(fc-fa)*fb/(fc-fb)
		}
		t = min(max(t, tol/span), 1-tol/span)
	}
}

// Direct gives where one arrives after a distance on a course, and the course there.
func Direct(lat, lon, course, distance float64) (lat2, lon2, course2 float64) {
	sinA, cosA := math.Sincos(math.Remainder(course, 360) * radian)
	sinB, cosB := reduced(lat)
	if cosB < 1e-160 {
		cosB = 1e-160
	}
	sin0 := sinA * cosB
	cos0 := math.Hypot(cosA, sinA*sinB)
	k2 := secondEcc2 * cos0 * cos0
	sigma1 := math.Atan2(sinB, cosA*cosB)
	if sinB == 0 && cosA*cosB == 0 {
		sigma1 = 0
	}
	sigma2 := sigma1 + distance/SemiMinor/math.Sqrt(1+k2/2)
	for range 12 {
		step := (arcLength(k2, sigma1, sigma2) - distance/SemiMinor) / speed(k2, sigma2)
		sigma2 -= step
		if math.Abs(step) < 1e-16 {
			break
		}
	}
	sin2, cos2 := math.Sincos(sigma2)
	beta := math.Atan2(cos0*sin2, math.Hypot(cos0*cos2, sin0))
	lat2 = math.Atan2(math.Sin(beta), (1-Flattening)*math.Cos(beta)) / radian
	// The longitude on the auxiliary sphere, unrolled so that it grows with sigma; from the latitude and the course and
	// not from sigma, in which the course from a pole is lost.
	turn := func(sin, cos float64) float64 { return math.Atan2(sin0*sin, cos) }
	omega := math.Remainder(turn(sin2, cos2)-turn(sinB, cosA*cosB), 2*math.Pi)
	lambda := omega - Flattening*sin0*lonIntegral(k2, sigma1, sigma2)
	lon2 = math.Remainder(lon+lambda/radian, 360)
	if lon2 == 180 {
		lon2 = -180
	}
	return lat2, lon2, bearing(sin0, cos0*cos2)
}

func speed(k2, sigma float64) float64 {
	s := math.Sin(sigma)
	return math.Sqrt(1 + k2*s*s)
}

// arcLength is the integral of Karney's equation 7 from one arc to another, in units of the semi-minor axis.
func arcLength(k2, from, to float64) float64 {
	return integrate(from, to, func(sigma float64) float64 { return speed(k2, sigma) })
}

// lonIntegral is the integral of Karney's equation 8.
func lonIntegral(k2, from, to float64) float64 {
	return integrate(from, to, func(sigma float64) float64 {
		return (2 - Flattening) / (1 + (1-Flattening)*speed(k2, sigma))
	})
}

// integrate is Gauss and Legendre's rule, in as many parts and with as many nodes as keep it exact to the last digit:
// since k² is below 0.0068, a part of half a turn has an error below 1e-16 with 16 nodes, one of 1.5 radians with 8 and
// one of a tenth of a radian with 4.
func integrate(from, to float64, f func(float64) float64) float64 {
	arc := math.Abs(to - from)
	rule := nodes16
	switch {
	case arc < 0.1:
		rule = nodes4
	case arc < 1.5:
		rule = nodes8
	}
	parts := max(1, math.Ceil(arc/math.Pi))
	half := (to - from) / parts / 2
	sum := 0.0
	for i := 0.0; i < parts; i++ {
		mid := from + (2*i+1)*half
		for _, n := range rule {
			sum += n[1] * (f(mid-half*n[0]) + f(mid+half*n[0]))
		}
	}
	return sum * half
}

var nodes4, nodes8, nodes16 = legendre(4), legendre(8), legendre(16)

// legendre finds the positive nodes of the rule of n points and their weights, by Newton's method on the Legendre
// polynomial.
func legendre(n int) [][2]float64 {
	rule := make([][2]float64, n/2)
	for i := range rule {
		x := math.Cos(math.Pi * (float64(i) + 0.75) / (float64(n) + 0.5))
		var slope float64
		for range 8 {
			p0, p1 := 1.0, x
			for k := 2.0; k <= float64(n); k++ {
				p0, p1 = p1, ((2*k-1)*x*p1-(k-1)*p0)/k
			}
			slope = float64(n) * (x*p1 - p0) / (x*x - 1)
			x -= p1 / slope
		}
		rule[i] = [2]float64{x, 2 / ((1 - x*x) * slope * slope)}
	}
	return rule
}

// The limits of the approximations for short legs, in degrees.
const (
	shortSpan  = 0.01
	middleSpan = 0.4
	shortPolar = 85.0
)

// Distance is the length of the shortest line between two positions. Legs below a kilometre or so are
// measured by the mean-latitude formula, and those below some fifty by a normal section; either's error there is below
// a hundredth of a millimetre.
func Distance(lat1, lon1, lat2, lon2 float64) float64 {
	dlat, dlon := lat2-lat1, lon2-lon1
	if math.Abs(dlon) > 180 {
		dlon = math.Remainder(dlon, 360)
	}
	switch span := math.Max(math.Abs(dlat), math.Abs(dlon)); {
	case span <= shortSpan && math.Abs(lat1) <= shortPolar:
		ny, nx := metresPerDegree((lat1 + lat2) / 2)
		return math.Sqrt(ny*ny*dlat*dlat + nx*nx*dlon*dlon)
	case span <= middleSpan:
		if d, _, _, ok := NewPlane(lat1, lon1).section(lat2, lon2); ok {
			return d
		}
	}
	d, _, _ := Inverse(lat1, lon1, lat2, lon2)
	return d
}

// metresPerDegree gives the length of a degree of latitude and of longitude at a latitude, from the radii of
// curvature in the meridian and in the prime vertical.
func metresPerDegree(lat float64) (north, east float64) {
	sin, cos := math.Sincos(lat * radian)
	w2 := 1 - ecc2*sin*sin
	m := radian * SemiMajor / math.Sqrt(w2)
	return m * (1 - ecc2) / w2, m * cos
}

// Plane is a flat map around a place, for steps that need millions of distances: x east and y north in metres.
// Within 10 km of its origin a distance is off by less than a millionth part of it, outside the polar caps.
type Plane struct {
	lat, lon, north, east float64
	sin, cos              float64 // of the latitude
	widening              float64 // of a degree of longitude towards the pole, per radian of latitude
}

// NewPlane makes the plane around a position.
func NewPlane(lat, lon float64) Plane {
	sin, cos := math.Sincos(lat * radian)
	w2 := 1 - ecc2*sin*sin
	m := radian * SemiMajor / math.Sqrt(w2) // as in metresPerDegree
	return Plane{lat, lon, m * (1 - ecc2) / w2, m * cos, sin, cos, sin / cos * (1 - ecc2) / w2}
}

// planeReach is how far from its origin distances and directions of a plane are good to centimetres, in metres.
const planeReach = 10e3

// Polar gives how far a position is from the plane's origin, in metres, and in which direction the shortest line there
// sets out: in radians from east, against the clock. It is exact at any distance.
func (p Plane) Polar(lat, lon float64) (distance, direction float64) {
	if x, y, r, turn, ok := p.near(lat, lon); ok {
		return r, math.Atan2(y, x) + turn
	}
	distance, east, north := p.far(lat, lon)
	return distance, math.Atan2(north, east)
}

// Toward is Polar with a vector of the distance's length in that direction, in metres.
func (p Plane) Toward(lat, lon float64) (distance, east, north float64) {
	if x, y, r, turn, ok := p.near(lat, lon); ok {
		t2 := turn * turn // at most a hundredth, so that the next terms are nothing
		sin, cos := turn*(1-t2/6), 1-t2/2+t2*t2/24
		return r, x*cos - y*sin, x*sin + y*cos
	}
	distance, east, north = p.far(lat, lon)
	return distance, distance * east, distance * north
}

// Rough is about how far a position is, in metres: to a 5,000th part within a degree's length of the origin outside of
// the polar caps, and not known elsewhere.
func (p Plane) Rough(lat, lon float64) (distance float64, known bool) {
	dlat, dlon := lat-p.lat, wrap(lon-p.lon)
	half := dlat / 2 * radian
	x, y := dlon*p.east*(1-half*p.widening), dlat*p.north
	d2 := x*x + y*y
	return math.Sqrt(d2), d2 < roughReach*roughReach && math.Abs(p.lat) < 75
}

// roughReach is how far distances of Rough go, in metres.
const roughReach = 110e3

// near gives the coordinates of a position near the origin, by the measures of the latitude half-way to first order,
// its distance, and half of the convergence of the meridians.
func (p Plane) near(lat, lon float64) (x, y, r, turn float64, ok bool) {
	dlat, dlon := lat-p.lat, wrap(lon-p.lon)
	if math.Abs(p.lat) >= 80 || math.Abs(dlat)*p.north >= planeReach || math.Abs(dlon)*p.east >= planeReach {
		return 0, 0, 0, 0, false
	}
	half := dlat / 2 * radian
	x = dlon * p.east * (1 - half*p.widening)
	y = dlat * p.north * (1 + 3*ecc2*p.sin*p.cos*half)
	r = math.Sqrt(x*x + y*y)
	return x, y, r, dlon / 2 * radian * (p.sin + p.cos*half), r < planeReach
}

// sectionReach is how far a normal section is taken for the shortest line, in metres; they part by less than a
// centimetre there once the first term of their difference is taken off.
const sectionReach = 250e3

// far gives distance and direction, as a vector of length 1, of positions that are not near: by a normal section, and
// beyond its reach by the shortest line.
func (p Plane) far(lat, lon float64) (distance, east, north float64) {
	distance, east, north, ok := p.section(lat, lon)
	if !ok {
		var azimuth float64
		distance, azimuth, _ = Inverse(p.lat, p.lon, lat, lon)
		east, north = math.Sincos(azimuth * radian)
	}
	return
}

// section takes the normal section through the origin and a position for the shortest line, which is ten times quicker
// than solving for that. The difference of their courses is that of A. R. Clarke, Geodesy (1880), chapter VI.
func (p Plane) section(lat, lon float64) (distance, east, north float64, ok bool) {
	sin, cos := math.Sincos(lat * radian)
	sinLon, cosLon := math.Sincos(wrap(lon-p.lon) * radian)
	n, nb := SemiMajor/math.Sqrt(1-ecc2*p.sin*p.sin), SemiMajor/math.Sqrt(1-ecc2*sin*sin)
	// From the origin to the position, with the origin's meridian for zero.
	out, y, up := nb*cos*cosLon-n*p.cos, nb*cos*sinLon, (1-ecc2)*(nb*sin-n*p.sin)
	chord2 := out*out + y*y + up*up
	if chord2 < 1 || chord2 > sectionReach*sectionReach {
		return 0, 0, 0, false
	}
	east, north = y, p.cos*up-p.sin*out
	flat := math.Hypot(east, north)
	east, north = east/flat, north/flat
	middle := (p.sin + sin) / 2
	w2 := 1 - ecc2*middle*middle
	curved := (east*east + north*north*w2/(1-ecc2)) * math.Sqrt(w2) / SemiMajor
	bend := chord2 * curved * curved
	turn := secondEcc2 * p.cos * p.cos * east * north * chord2 / (6 * n * n)
	along := 1 - turn*turn/2
	return math.Sqrt(chord2) * (1 + bend/24*(1+bend*9/80)), along*east - turn*north, along*north + turn*east, true
}

// XY gives the coordinates of a position in the plane.
func (p Plane) XY(lat, lon float64) (x, y float64) {
	dlon := lon - p.lon
	if dlon > 180 {
		dlon -= 360
	} else if dlon < -180 {
		dlon += 360
	}
	return dlon * p.east, (lat - p.lat) * p.north
}

// LatLon is the position of a place in the plane; the longitude is not brought into range.
func (p Plane) LatLon(x, y float64) (lat, lon float64) {
	return p.lat + y/p.north, p.lon + x/p.east
}

// Cartesian gives a position on the ellipsoid in metres from its centre: towards 0° 0°, towards 0° 90° E, and north.
func Cartesian(lat, lon float64) [3]float64 {
	sin, cos := math.Sincos(lat * radian)
	sinLon, cosLon := math.Sincos(lon * radian)
	n := SemiMajor / math.Sqrt(1-ecc2*sin*sin)
	return [3]float64{n * cos * cosLon, n * cos * sinLon, n * (1 - ecc2) * sin}
}
