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

// solve finds the course whose geodesic has the wanted difference of longitude, by R. Chandrupatla's method
// (Advances in Engineering Software 28, 1997): inverse quadratic steps inside a bracket.
func (p pair) solve(target float64) solution {
	f := func(course float64) (float64, solution) {
		sin, cos := math.Sincos(course)
		s := p.try(sin, cos)
		return s.lambda - target, s
	}
	a, b := 0.0, math.Pi
	fa, fb := -target, math.Pi-target
	best, bestF := solution{}, math.Inf(1)
	c, fc := a, fa
	t := 0.5
	for range 200 {
		x := a + t*(b-a)
		fx, s := f(x)
		if math.Abs(fx) < bestF {
			best, bestF = s, math.Abs(fx)
		}
		if (fx < 0) == (fa < 0) {
			c, fc = a, fa
		} else {
			c, b, fc, fb = b, a, fb, fa
		}
		a, fa = x, fx
		if fx == 0 {
			return s
		}
		tol := 2e-16*math.Abs(a) + 1e-18
		span := math.Abs(b - a)
		if span < 2*tol {
			break
		}
		xi, phi := (a-b)/(c-b), (fa-fb)/(fc-fb)
		t = 0.5
		if phi*phi < xi && (1-phi)*(1-phi) < 1-xi {
			t = fa/(fb-fa)*fc/(fb-fc) + (c-a)/(b-a)*fa/(fc-fa)*fb/(fc-fb)
		}
		t = min(max(t, tol/span), 1-tol/span)
	}
	return best
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
	sin1, cos1 := math.Sincos(sigma1)
	// The longitude on the auxiliary sphere, unrolled so that it grows with sigma.
	turn := func(sin, cos float64) float64 { return math.Atan2(sin0*sin, cos) }
	omega := math.Remainder(turn(sin2, cos2)-turn(sin1, cos1), 2*math.Pi)
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

// integrate is Gauss and Legendre's rule, in as many parts as keep it exact to the last digit: a part of
// half a turn has an error below 1e-16 with 16 nodes, since k² is below 0.0068.
func integrate(from, to float64, f func(float64) float64) float64 {
	parts := max(1, math.Ceil(math.Abs(to-from)/math.Pi))
	half := (to - from) / parts / 2
	sum := 0.0
	for i := 0.0; i < parts; i++ {
		mid := from + (2*i+1)*half
		for _, n := range legendre {
			sum += n[1] * (f(mid-half*n[0]) + f(mid+half*n[0]))
		}
	}
	return sum * half
}

// legendre holds the positive nodes of the 16-point rule and their weights, found by Newton's method on the
// Legendre polynomial.
var legendre = func() (rule [8][2]float64) {
	const n = 16
	for i := range rule {
		x := math.Cos(math.Pi * (float64(i) + 0.75) / (n + 0.5))
		var slope float64
		for range 8 {
			p0, p1 := 1.0, x
			for k := 2.0; k <= n; k++ {
				p0, p1 = p1, ((2*k-1)*x*p1-(k-1)*p0)/k
			}
			slope = n * (x*p1 - p0) / (x*x - 1)
			x -= p1 / slope
		}
		rule[i] = [2]float64{x, 2 / ((1 - x*x) * slope * slope)}
	}
	return
}()

// The limits of the approximation for short legs, in degrees.
const (
	shortSpan  = 0.01
	shortPolar = 85.0
)

// Distance is the length of the shortest line between two positions. Legs below a kilometre or so are
// measured by the mean-latitude formula, whose error there is below a hundredth of a millimetre.
func Distance(lat1, lon1, lat2, lon2 float64) float64 {
	dlat, dlon := lat2-lat1, lon2-lon1
	if math.Abs(dlon) > 180 {
		dlon = math.Remainder(dlon, 360)
	}
	if math.Abs(dlat) > shortSpan || math.Abs(dlon) > shortSpan || math.Abs(lat1) > shortPolar {
		d, _, _ := Inverse(lat1, lon1, lat2, lon2)
		return d
	}
	ny, nx := metresPerDegree((lat1 + lat2) / 2)
	return math.Sqrt(ny*ny*dlat*dlat + nx*nx*dlon*dlon)
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
	distance, azimuth, _ := Inverse(p.lat, p.lon, lat, lon)
	return distance, math.Pi/2 - azimuth*radian
}

// Toward is Polar with the direction as a vector of length 1, zero at no distance.
func (p Plane) Toward(lat, lon float64) (distance, east, north float64) {
	if x, y, r, turn, ok := p.near(lat, lon); ok {
		if r == 0 {
			return 0, 0, 0
		}
		t2 := turn * turn // at most a hundredth, so that the next terms are nothing
		sin, cos := turn*(1-t2/6), 1-t2/2+t2*t2/24
		return r, (x*cos - y*sin) / r, (x*sin + y*cos) / r
	}
	distance, azimuth, _ := Inverse(p.lat, p.lon, lat, lon)
	east, north = math.Sincos(azimuth * radian)
	return distance, east, north
}

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
