package crs

import "math"

// azimuthal is Lambert's azimuthal equal area projection; at a pole in its polar form.
type azimuthal struct {
	base
	qp, rq, d, sin0, cos0 float64
	pole                  float64 // 1 north, -1 south, 0 neither
}

func newAzimuthal(b base) *azimuthal {
	p := &azimuthal{base: b}
	p.qp = p.q(1)
	p.rq = b.e.SemiMajor * math.Sqrt(p.qp/2)
	if math.Abs(math.Abs(b.lat0)-math.Pi/2) < 1e-10 {
		p.pole = math.Copysign(1, b.lat0)
		return p
	}
	p.sin0 = p.q(math.Sin(b.lat0)) / p.qp
	p.cos0 = math.Sqrt(1 - p.sin0*p.sin0)
	p.d = b.e.SemiMajor * p.m(b.lat0) / (p.rq * p.cos0)
	return p
}

func (p *azimuthal) forward(lat, lon float64) (east, north float64) {
	q := p.q(math.Sin(lat))
	sin, cos := math.Sincos(p.from(lon))
	if p.pole != 0 {
		r := p.e.SemiMajor * math.Sqrt(math.Max(p.qp-p.pole*q, 0))
		return p.east0 + r*sin, p.north0 - p.pole*r*cos
	}
	sinB := q / p.qp
	cosB := math.Sqrt(math.Max(1-sinB*sinB, 0))
	b := p.rq * math.Sqrt(2/(1+p.sin0*sinB+p.cos0*cosB*cos))
	return p.east0 + b*p.d*cosB*sin, p.north0 + b/p.d*(p.cos0*sinB-p.sin0*cosB*cos)
}

func (p *azimuthal) inverse(east, north float64) (lat, lon float64) {
	x, y := east-p.east0, north-p.north0
	if p.pole != 0 {
		r := math.Hypot(x, y) / p.e.SemiMajor
		return p.fromQ(p.pole * (p.qp - r*r)), p.lon0 + math.Atan2(x, -p.pole*y)
	}
	r := math.Hypot(x/p.d, p.d*y)
	if r == 0 {
		return p.lat0, p.lon0
	}
	sin, cos := math.Sincos(2 * math.Asin(r/(2*p.rq)))
	lat = p.fromQ(p.qp * (cos*p.sin0 + p.d*y*sin*p.cos0/r))
	return lat, p.lon0 + math.Atan2(x*sin, p.d*r*p.cos0*cos-p.d*p.d*y*p.sin0*sin)
}

// cylindrical is Lambert's cylindrical equal area projection.
type cylindrical struct{ base }

func newCylindrical(b base, lat1 float64) *cylindrical {
	b.k = b.m(lat1)
	if lat1 == 0 {
		b.k = b.m(b.lat0)
	}
	return &cylindrical{b}
}

func (p *cylindrical) forward(lat, lon float64) (east, north float64) {
	return p.east0 + p.e.SemiMajor*p.k*p.from(lon), p.north0 + p.e.SemiMajor*p.q(math.Sin(lat))/(2*p.k)
}

func (p *cylindrical) inverse(east, north float64) (lat, lon float64) {
	return p.fromQ((north - p.north0) * 2 * p.k / p.e.SemiMajor), p.lon0 + (east-p.east0)/(p.e.SemiMajor*p.k)
}

// polar is the stereographic projection about a pole.
type polar struct {
	base
	radius float64 // of the equator's tangent: rho is radius·t
	south  bool
}

func newPolar(b base, m Method) *polar {
	p := &polar{base: b, south: b.lat0 < 0}
	e := b.ecc
	whole := math.Sqrt(math.Pow(1+e, 1+e) * math.Pow(1-e, 1-e))
	lat := math.Abs(b.lat0)
	if m != PolarStereoA && math.Abs(lat-math.Pi/2) > 1e-10 { // the latitude is that of the true scale
		p.k = p.m(lat) * whole / (2 * math.Exp(-p.psi(lat)))
	}
	p.radius = 2 * b.e.SemiMajor * p.k / whole
	if m == PolarStereoC { // counted from the standard parallel, not from the pole
		r := p.radius * math.Exp(-p.psi(lat))
		if p.south {
			r = -r
		}
		p.north0 += r
	}
	return p
}

func (p *polar) forward(lat, lon float64) (east, north float64) {
	sin, cos := math.Sincos(p.from(lon))
	if p.south {
		lat, cos = -lat, -cos
	}
	r := 0.0
	if lat < math.Pi/2-1e-15 {
		r = p.radius * math.Exp(-p.psi(lat))
	}
	return p.east0 + r*sin, p.north0 - r*cos
}

func (p *polar) inverse(east, north float64) (lat, lon float64) {
	x, y := east-p.east0, p.north0-north
	lat = math.Pi / 2
	if r := math.Hypot(x, y); r > 0 {
		lat = p.e.Latitude(-math.Log(r / p.radius))
	}
	if p.south {
		return -lat, p.lon0 + math.Atan2(x, -y)
	}
	return lat, p.lon0 + math.Atan2(x, y)
}

// oblique is the double stereographic projection about a point.
type oblique struct {
	base
	n, c, chi0, r2 float64
}

func newOblique(b base) *oblique {
	p := &oblique{base: b}
	sin, cos := math.Sincos(b.lat0)
	w := 1 - b.ecc2*sin*sin
	p.r2 = 2 * b.k * b.e.SemiMajor * math.Sqrt(1-b.ecc2) / w
	p.n = math.Sqrt(1 + b.ecc2*math.Pow(cos, 4)/(1-b.ecc2))
	w1 := math.Exp(2 * p.n * p.psi(b.lat0))
	sin1 := (w1 - 1) / (w1 + 1)
	p.c = (p.n + sin) * (1 - sin1) / ((p.n - sin) * (1 + sin1))
	p.chi0 = math.Asin((p.c*w1 - 1) / (p.c*w1 + 1))
	return p
}

func (p *oblique) forward(lat, lon float64) (east, north float64) {
	w := p.c * math.Exp(2*p.n*p.psi(lat))
	chi := math.Asin((w - 1) / (w + 1))
	sin, cos := math.Sincos(p.n * p.from(lon))
	sinC, cosC := math.Sincos(chi)
	sin0, cos0 := math.Sincos(p.chi0)
	b := 1 + sinC*sin0 + cosC*cos0*cos
	return p.east0 + p.r2*cosC*sin/b, p.north0 + p.r2*(sinC*cos0-cosC*sin0*cos)/b
}

func (p *oblique) inverse(east, north float64) (lat, lon float64) {
	x, y := east-p.east0, north-p.north0
	g := p.r2 * math.Tan(math.Pi/4-p.chi0/2)
	h := 2*p.r2*math.Tan(p.chi0) + g
	i := math.Atan2(x, h+y)
	j := math.Atan2(x, g-y) - i
	chi := p.chi0 + 2*math.Atan((y-x*math.Tan(j/2))/p.r2)
	return p.e.Latitude(math.Atanh(math.Sin(chi))/p.n - math.Log(p.c)/(2*p.n)), p.lon0 + (j+2*i)/p.n
}
