package geodesy

import "math"

// Transverse Mercator by L. Krüger's series in the third flattening, to its sixth power, with the coefficients of
// C. F. F. Karney, Transverse Mercator with an accuracy of a few nanometers, J. Geodesy 85 (2011), equations 35 and
// 36. Within 35° of the central meridian the error is below a micrometre.
var (
	third      = Flattening / (2 - Flattening)
	rectifying = SemiMajor / (1 + third) * (1 + third*third/4 + third*third*third*third/64 + math.Pow(third, 6)/256)
	krueger    = [6]float64{
		polynomial(1./2, -2./3, 5./16, 41./180, -127./288, 7891./37800) * third,
		polynomial(13./48, -3./5, 557./1440, 281./630, -1983433./1935360) * math.Pow(third, 2),
		polynomial(61./240, -103./140, 15061./26880, 167603./181440) * math.Pow(third, 3),
		polynomial(49561./161280, -179./168, 6601661./7257600) * math.Pow(third, 4),
		polynomial(34729./80640, -3418889./1995840) * math.Pow(third, 5),
		212378941. / 319334400 * math.Pow(third, 6),
	}
	kruegerInverse = [6]float64{
		polynomial(1./2, -2./3, 37./96, -1./360, -81./512, 96199./604800) * third,
		polynomial(1./48, 1./15, -437./1440, 46./105, -1118711./3870720) * math.Pow(third, 2),
		polynomial(17./480, -37./840, -209./4480, 5569./90720) * math.Pow(third, 3),
		polynomial(4397./161280, -11./504, -830251./7257600) * math.Pow(third, 4),
		polynomial(4583./161280, -108847./3991680) * math.Pow(third, 5),
		20648693. / 638668800 * math.Pow(third, 6),
	}
	eccentricity = math.Sqrt(ecc2)
)

func polynomial(c ...float64) (sum float64) {
	for i := len(c) - 1; i >= 0; i-- {
		sum = sum*third + c[i]
	}
	return
}

// TransverseMercator is the projection of the ellipsoid along a central meridian, with scale 1 on it. It is conformal,
// and true to length near the meridian: 100 km away distances are too long by an eight-thousandth.
type TransverseMercator struct{ Meridian float64 }

// Forward gives metres east of the meridian and north of the equator.
func (p TransverseMercator) Forward(lat, lon float64) (east, north float64) {
	lambda := math.Remainder(lon-p.Meridian, 360) * radian
	sin := math.Sin(lat * radian)
	// The conformal latitude's tangent.
	t := math.Sinh(math.Atanh(sin) - eccentricity*math.Atanh(eccentricity*sin))
	xi := math.Atan2(t, math.Cos(lambda))
	eta := math.Atanh(math.Sin(lambda) / math.Sqrt(1+t*t))
	x, y := eta, xi
	for j, a := range krueger {
		k := 2 * float64(j+1)
		y += a * math.Sin(k*xi) * math.Cosh(k*eta)
		x += a * math.Cos(k*xi) * math.Sinh(k*eta)
	}
	return rectifying * x, rectifying * y
}

// Inverse gives latitude and longitude in degrees.
func (p TransverseMercator) Inverse(east, north float64) (lat, lon float64) {
	xi, eta := north/rectifying, east/rectifying
	y, x := xi, eta
	for j, b := range kruegerInverse {
		k := 2 * float64(j+1)
		y -= b * math.Sin(k*xi) * math.Cosh(k*eta)
		x -= b * math.Cos(k*xi) * math.Sinh(k*eta)
	}
	chi := math.Asin(math.Sin(y) / math.Cosh(x))
	lambda := math.Atan2(math.Sinh(x), math.Cos(y))
	lon = math.Remainder(p.Meridian+lambda/radian, 360)
	return geodetic(math.Sin(chi)), lon
}

// geodetic gives the latitude in degrees whose conformal latitude has a sine, by fixed-point iteration, which gains
// more than two digits a round.
func geodetic(sinChi float64) float64 {
	psi := math.Atanh(sinChi)
	sin := sinChi
	for range 8 {
		sin = math.Tanh(psi + eccentricity*math.Atanh(eccentricity*sin))
	}
	return math.Asin(sin) / radian
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
