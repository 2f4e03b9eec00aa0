package geodesy

import "math"

// Ellipsoid is a figure of the earth, with what conformal projections need of it.
type Ellipsoid struct {
	SemiMajor, Flattening float64 // metres; 0 is a sphere
	Eccentricity          float64
	rectifying            float64    // the radius of the circle as long as a meridian
	forward, inverse      [6]float64 // the coefficients of the series
}

// wgs84 is the ellipsoid of all positions.
var wgs84 = NewEllipsoid(SemiMajor, Flattening)

// eccentricity is that of WGS 84.
var eccentricity = wgs84.Eccentricity

// NewEllipsoid works out the constants of L. Krüger's series in the third flattening, to its sixth power, with the
// coefficients of C. F. F. Karney, Transverse Mercator with an accuracy of a few nanometers, J. Geodesy 85 (2011),
// equations 35 and 36.
func NewEllipsoid(semiMajor, flattening float64) *Ellipsoid {
	n := flattening / (2 - flattening)
	sum := func(power int, c ...float64) (s float64) {
		for i := len(c) - 1; i >= 0; i-- {
			s = s*n + c[i]
		}
		return s * math.Pow(n, float64(power))
	}
	return &Ellipsoid{
		SemiMajor: semiMajor, Flattening: flattening, Eccentricity: math.Sqrt(flattening * (2 - flattening)),
		rectifying: semiMajor / (1 + n) * (1 + n*n/4 + math.Pow(n, 4)/64 + math.Pow(n, 6)/256),
		forward: [6]float64{
			sum(1, 1./2, -2./3, 5./16, 41./180, -127./288, 7891./37800),
			sum(2, 13./48, -3./5, 557./1440, 281./630, -1983433./1935360),
			sum(3, 61./240, -103./140, 15061./26880, 167603./181440),
			sum(4, 49561./161280, -179./168, 6601661./7257600),
			sum(5, 34729./80640, -3418889./1995840),
			sum(6, 212378941./319334400),
		},
		inverse: [6]float64{
			sum(1, 1./2, -2./3, 37./96, -1./360, -81./512, 96199./604800),
			sum(2, 1./48, 1./15, -437./1440, 46./105, -1118711./3870720),
			sum(3, 17./480, -37./840, -209./4480, 5569./90720),
			sum(4, 4397./161280, -11./504, -830251./7257600),
			sum(5, 4583./161280, -108847./3991680),
			sum(6, 20648693./638668800),
		},
	}
}

// Isometric gives the isometric latitude, of which conformal projections are made, for the sine of a latitude.
func (e *Ellipsoid) Isometric(sin float64) float64 {
	return math.Atanh(sin) - e.Eccentricity*math.Atanh(e.Eccentricity*sin)
}

// Latitude gives the latitude in radians of an isometric latitude, by fixed-point iteration, which gains more than two
// digits a round.
func (e *Ellipsoid) Latitude(psi float64) float64 {
	sin := math.Tanh(psi)
	for range 8 {
		sin = math.Tanh(psi + e.Eccentricity*math.Atanh(e.Eccentricity*sin))
	}
	return math.Asin(sin)
}

// TransverseMercator projects latitude and longitude from the central meridian, in radians, with scale 1 along it, to
// metres. It is conformal, and true to length near the meridian: 100 km away distances are too long by an
// eight-thousandth. Within 35° of the meridian the error is below a micrometre.
func (e *Ellipsoid) TransverseMercator(lat, lambda float64) (east, north float64) {
	t := math.Sinh(e.Isometric(math.Sin(lat))) // the tangent of the conformal latitude
	xi := math.Atan2(t, math.Cos(lambda))
	eta := math.Atanh(math.Sin(lambda) / math.Sqrt(1+t*t))
	x, y := eta, xi
	for j, a := range e.forward {
		k := 2 * float64(j+1)
		y += a * math.Sin(k*xi) * math.Cosh(k*eta)
		x += a * math.Cos(k*xi) * math.Sinh(k*eta)
	}
	return e.rectifying * x, e.rectifying * y
}

// TransverseMercatorInverse gives latitude and longitude from the central meridian, in radians.
func (e *Ellipsoid) TransverseMercatorInverse(east, north float64) (lat, lambda float64) {
	xi, eta := north/e.rectifying, east/e.rectifying
	y, x := xi, eta
	for j, b := range e.inverse {
		k := 2 * float64(j+1)
		y -= b * math.Sin(k*xi) * math.Cosh(k*eta)
		x -= b * math.Cos(k*xi) * math.Sinh(k*eta)
	}
	return e.Latitude(math.Atanh(math.Sin(y) / math.Cosh(x))), math.Atan2(math.Sinh(x), math.Cos(y))
}

// TransverseMercator is the projection of WGS 84 along a central meridian, in degrees, with scale 1 on it.
type TransverseMercator struct{ Meridian float64 }

// Forward gives metres east of the meridian and north of the equator.
func (p TransverseMercator) Forward(lat, lon float64) (east, north float64) {
	return wgs84.TransverseMercator(lat*radian, math.Remainder(lon-p.Meridian, 360)*radian)
}

// Inverse gives latitude and longitude in degrees.
func (p TransverseMercator) Inverse(east, north float64) (lat, lon float64) {
	lat, lambda := wgs84.TransverseMercatorInverse(east, north)
	return lat / radian, math.Remainder(p.Meridian+lambda/radian, 360)
}

// UTM is a zone of the Universal Transverse Mercator system (NGA.SIG.0012, 2014), from 1 to 60, north or south of the
// equator.
type UTM struct {
	Zone  int
	South bool
}

// ZoneOf gives the zone of a position between 80° S and 84° N, with the exceptions around Norway and Svalbard.
func ZoneOf(lat, lon float64) UTM {
	lon = math.Mod(lon+540, 360) - 180
	zone := min(int(math.Floor((lon+180)/6))+1, 60)
	switch {
	case lat >= 56 && lat < 64 && lon >= 3 && lon < 12:
		zone = 32
	case lat >= 72 && lon >= 0 && lon < 42:
		zone = [...]int{31, 33, 35, 37}[int(lon+3)/12]
	}
	return UTM{zone, lat < 0}
}

const (
	utmScale   = 0.9996
	falseEast  = 500000.0
	falseSouth = 10000000.0
)

func (u UTM) projection() TransverseMercator {
	return TransverseMercator{float64(6*u.Zone - 183)}
}

// Forward gives easting and northing in metres.
func (u UTM) Forward(lat, lon float64) (east, north float64) {
	east, north = u.projection().Forward(lat, lon)
	if north *= utmScale; u.South {
		north += falseSouth
	}
	return falseEast + utmScale*east, north
}

// Inverse gives latitude and longitude in degrees.
func (u UTM) Inverse(east, north float64) (lat, lon float64) {
	if u.South {
		north -= falseSouth
	}
	return u.projection().Inverse((east-falseEast)/utmScale, north/utmScale)
}
