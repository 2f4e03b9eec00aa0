package crs

import (
	"fmt"
	"math"

	"gyrolith/core/geodesy"
)

// Method is a projection, by its number in the EPSG registry.
type Method int

// The projections, with the sections of IOGP Publication 373-7-2 (2023) that give their formulas.
const (
	Geographic2D         Method = 0    // no projection
	WebMercator          Method = 1024 // 3.5.1.3
	KrovakNorth          Method = 1041 // 3.2.3.2
	ConformalMichigan    Method = 1051 // 3.1.1.3
	Conformal1           Method = 9801 // 3.1.1.2
	Conformal2           Method = 9802 // 3.1.1.1
	ConformalBelgium     Method = 9803 // 3.1.1.4
	MercatorA            Method = 9804 // 3.5.1.1
	MercatorB            Method = 9805 // 3.5.1.2
	CassiniSoldner       Method = 9806 // 3.2.2
	TransverseMercator   Method = 9807 // 3.5.2.1
	TransverseSouth      Method = 9808 // 3.5.2.4
	ObliqueStereo        Method = 9809 // 3.3.1.1
	PolarStereoA         Method = 9810 // 3.3.2.1
	HotineA              Method = 9812 // 3.5.4.1
	HotineB              Method = 9815 // 3.5.4.2
	Krovak               Method = 9819 // 3.2.3.1
	AzimuthalEqualArea   Method = 9820 // 3.4.1
	Albers               Method = 9822 // 3.1.4
	PolarStereoB         Method = 9829 // 3.3.2.2
	PolarStereoC         Method = 9830 // 3.3.2.3
	CylindricalEqualArea Method = 9835 // 3.4.2
)

var methodNames = map[Method]string{
	Geographic2D: "latitude and longitude", WebMercator: "web Mercator (spherical)", KrovakNorth: "Krovak oblique conic",
	Krovak:            "Krovak oblique conic",
	ConformalMichigan: "Lambert conformal conic, two parallels, scaled",
	Conformal1:        "Lambert conformal conic, one parallel", Conformal2: "Lambert conformal conic, two parallels",
	ConformalBelgium: "Lambert conformal conic, Belgium", MercatorA: "Mercator", MercatorB: "Mercator",
	CassiniSoldner:     "Cassini-Soldner",
	TransverseMercator: "transverse Mercator", TransverseSouth: "transverse Mercator, counted to the south and west",
	ObliqueStereo: "oblique stereographic",
	PolarStereoA:  "polar stereographic", PolarStereoB: "polar stereographic", PolarStereoC: "polar stereographic",
	HotineA: "oblique Mercator", HotineB: "oblique Mercator",
	AzimuthalEqualArea: "Lambert azimuthal equal area", Albers: "Albers equal area conic",
	CylindricalEqualArea: "cylindrical equal area",
}

func (m Method) String() string { return methodNames[m] }

// Parameters are those of a projection: angles in degrees, lengths in metres. For HotineA and HotineB, Lat0 and Lon0
// are of the centre; for Krovak, Lat1 is the pseudo standard parallel and Azimuth the co-latitude of the cone's axis.
type Parameters struct {
	Lat0, Lon0, Lat1, Lat2 float64
	Scale                  float64
	Azimuth, Skew          float64
	FalseEast, FalseNorth  float64
}

// projection turns latitude and longitude in radians into metres east and north, and back. The longitude is counted
// from the system's own prime meridian.
type projection interface {
	forward(lat, lon float64) (east, north float64)
	inverse(east, north float64) (lat, lon float64)
}

const radian = math.Pi / 180

// newProjection works out the constants of a projection.
func newProjection(m Method, p Parameters, semiMajor, inverseFlattening float64) (projection, error) {
	f := 0.0
	if inverseFlattening != 0 {
		f = 1 / inverseFlattening
	}
	if !(semiMajor > 6.3e6 && semiMajor < 6.5e6) || f < 0 || f > 0.01 {
		return nil, fmt.Errorf("an ellipsoid of %v m and 1/%v is none of the earth", semiMajor, inverseFlattening)
	}
	for _, v := range []float64{p.Lat0, p.Lat1, p.Lat2} {
		if !(math.Abs(v) <= 90) {
			return nil, fmt.Errorf("a latitude of %v° in a projection", v)
		}
	}
	for _, v := range []float64{p.Lon0, p.Azimuth, p.Skew} {
		if !(math.Abs(v) <= 360) {
			return nil, fmt.Errorf("a longitude or angle of %v° in a projection", v)
		}
	}
	if !(math.Abs(p.FalseEast) < 1e10 && math.Abs(p.FalseNorth) < 1e10) {
		return nil, fmt.Errorf("a false easting or northing of %v and %v m", p.FalseEast, p.FalseNorth)
	}
	if !(p.Scale > 0.1 && p.Scale < 10) {
		return nil, fmt.Errorf("a scale of %v in a projection", p.Scale)
	}
	b := base{e: geodesy.NewEllipsoid(semiMajor, f), k: p.Scale, east0: p.FalseEast, north0: p.FalseNorth,
		lat0: p.Lat0 * radian, lon0: p.Lon0 * radian}
	b.ecc = b.e.Eccentricity
	b.ecc2 = b.ecc * b.ecc
	switch m {
	case TransverseMercator, TransverseSouth:
		return newTransverse(b, m), nil
	case Conformal1, Conformal2, ConformalBelgium, ConformalMichigan:
		return newConformal(b, m, p.Lat1*radian, p.Lat2*radian)
	case MercatorA, MercatorB, WebMercator:
		return newMercator(b, m, p.Lat1*radian), nil
	case AzimuthalEqualArea:
		return newAzimuthal(b), nil
	case Albers:
		return newAlbers(b, p.Lat1*radian, p.Lat2*radian)
	case CylindricalEqualArea:
		return newCylindrical(b, p.Lat1*radian), nil
	case PolarStereoA, PolarStereoB, PolarStereoC:
		return newPolar(b, m), nil
	case ObliqueStereo:
		return newOblique(b), nil
	case HotineA, HotineB:
		return newHotine(b, m, p.Azimuth*radian, p.Skew*radian)
	case Krovak, KrovakNorth:
		return newKrovak(b, p.Azimuth*radian, p.Lat1*radian), nil
	case CassiniSoldner:
		return newCassini(b), nil
	}
	return nil, fmt.Errorf("the projection %d of the registry is not supported", m)
}

// base is what all projections have.
type base struct {
	e             *geodesy.Ellipsoid
	ecc, ecc2     float64
	k             float64 // scale at the origin
	east0, north0 float64 // false
	lat0, lon0    float64 // of the origin, in radians
}

// from gives a longitude counted from the origin's, within half a turn.
func (b *base) from(lon float64) float64 { return math.Remainder(lon-b.lon0, 2*math.Pi) }

// m is the radius of a parallel for a semi-major axis of 1.
func (b *base) m(lat float64) float64 {
	sin, cos := math.Sincos(lat)
	return cos / math.Sqrt(1-b.ecc2*sin*sin)
}

// psi is the isometric latitude: t of the formulas is exp(-psi).
func (b *base) psi(lat float64) float64 { return b.e.Isometric(math.Sin(lat)) }

// q is the authalic function.
func (b *base) q(sin float64) float64 {
	if b.ecc == 0 {
		return 2 * sin
	}
	return (1 - b.ecc2) * (sin/(1-b.ecc2*sin*sin) + math.Atanh(b.ecc*sin)/b.ecc)
}

// fromQ gives the latitude of a value of the authalic function, by Newton's method (Snyder, USGS PP 1395, 3-16).
func (b *base) fromQ(q float64) float64 {
	qp := b.q(1)
	if math.Abs(q) >= qp {
		return math.Copysign(math.Pi/2, q)
	}
	lat := math.Asin(q / qp)
	for range 12 {
		sin, cos := math.Sincos(lat)
		if cos < 1e-12 {
			break
		}
		w := 1 - b.ecc2*sin*sin
		step := w * w / (2 * (1 - b.ecc2) * cos) * (q - b.q(sin))
		if lat += step; math.Abs(step) < 1e-15 {
			break
		}
	}
	return lat
}

// transverse is the transverse Mercator projection.
type transverse struct {
	base
	arc float64 // the northing of the origin
}

func newTransverse(b base, m Method) *transverse {
	_, arc := b.e.TransverseMercator(b.lat0, 0)
	if m == TransverseSouth { // counted the other way, which System turns about
		b.east0, b.north0 = -b.east0, -b.north0
	}
	return &transverse{b, arc}
}

func (p *transverse) forward(lat, lon float64) (east, north float64) {
	d := p.from(lon)
	if math.Abs(d) > 80*radian { // the series hold for less
		return math.NaN(), math.NaN()
	}
	x, y := p.e.TransverseMercator(lat, d)
	return p.east0 + p.k*x, p.north0 + p.k*(y-p.arc)
}

func (p *transverse) inverse(east, north float64) (lat, lon float64) {
	lat, d := p.e.TransverseMercatorInverse((east-p.east0)/p.k, (north-p.north0)/p.k+p.arc)
	return lat, p.lon0 + d
}

// mercator is Mercator's projection, and its spherical form of the web.
type mercator struct {
	base
	sphere bool
}

func newMercator(b base, m Method, lat1 float64) *mercator {
	p := &mercator{b, m == WebMercator}
	if m == MercatorB {
		p.k = p.m(lat1)
	}
	return p
}

func (p *mercator) forward(lat, lon float64) (east, north float64) {
	psi := p.psi(lat)
	if p.sphere {
		psi = math.Atanh(math.Sin(lat))
	}
	return p.east0 + p.k*p.e.SemiMajor*p.from(lon), p.north0 + p.k*p.e.SemiMajor*psi
}

func (p *mercator) inverse(east, north float64) (lat, lon float64) {
	psi := (north - p.north0) / (p.k * p.e.SemiMajor)
	lon = p.lon0 + (east-p.east0)/(p.k*p.e.SemiMajor)
	if p.sphere {
		return math.Asin(math.Tanh(psi)), lon
	}
	return p.e.Latitude(psi), lon
}
