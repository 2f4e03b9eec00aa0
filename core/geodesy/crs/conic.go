package crs

import (
	"errors"
	"math"
)

// conformal is Lambert's conformal conic projection with one or two standard parallels.
type conformal struct {
	base
	n, aF, rho0, bend float64
}

func newConformal(b base, m Method, lat1, lat2 float64) (projection, error) {
	p := &conformal{base: b}
	scale := b.k
	at := lat1
	if m == Conformal1 {
		at, lat2 = b.lat0, b.lat0
	}
	if math.Abs(at-lat2) < 1e-12 {
		p.n = math.Sin(at)
	} else {
		p.n = math.Log(p.m(lat1)/p.m(lat2)) / (p.psi(lat2) - p.psi(lat1))
	}
	if math.Abs(p.n) < 1e-9 || math.IsNaN(p.n) || math.Abs(p.n) >= 1 {
		return nil, errors.New("a conic projection with standard parallels that make no cone")
	}
	if m == ConformalBelgium {
		p.bend = 29.2985 / 3600 * radian
	}
	p.aF = scale * b.e.SemiMajor * p.m(at) / p.n * math.Exp(p.n*p.psi(at))
	p.rho0 = p.radius(b.lat0)
	return p, nil
}

func (p *conformal) radius(lat float64) float64 {
	if math.Abs(lat) >= math.Pi/2-1e-15 { // the pole is the tip of the cone, or out of reach
		if lat*p.n > 0 {
			return 0
		}
		return math.Inf(1)
	}
	return p.aF * math.Exp(-p.n*p.psi(lat))
}

func (p *conformal) forward(lat, lon float64) (east, north float64) {
	r := p.radius(lat)
	sin, cos := math.Sincos(p.n*p.from(lon) - p.bend)
	return p.east0 + r*sin, p.north0 + p.rho0 - r*cos
}

func (p *conformal) inverse(east, north float64) (lat, lon float64) {
	x, y := east-p.east0, p.rho0-(north-p.north0)
	sign := math.Copysign(1, p.n)
	r := sign * math.Hypot(x, y)
	if r == 0 {
		return math.Copysign(math.Pi/2, p.n), p.lon0
	}
	return p.e.Latitude(-math.Log(r/p.aF) / p.n), p.lon0 + (math.Atan2(sign*x, sign*y)+p.bend)/p.n
}

// albers is the equal area conic projection.
type albers struct {
	base
	n, c, rho0 float64
}

func newAlbers(b base, lat1, lat2 float64) (projection, error) {
	p := &albers{base: b}
	m1, m2, q1, q2 := p.m(lat1), p.m(lat2), p.q(math.Sin(lat1)), p.q(math.Sin(lat2))
	if p.n = (m1*m1 - m2*m2) / (q2 - q1); math.Abs(lat1-lat2) < 1e-12 {
		p.n = math.Sin(lat1)
	}
	if math.Abs(p.n) < 1e-9 || math.IsNaN(p.n) {
		return nil, errors.New("a conic projection with standard parallels that make no cone")
	}
	p.c = m1*m1 + p.n*q1
	p.rho0 = p.radius(b.lat0)
	return p, nil
}

func (p *albers) radius(lat float64) float64 {
	return p.e.SemiMajor * math.Sqrt(math.Max(p.c-p.n*p.q(math.Sin(lat)), 0)) / p.n
}

func (p *albers) forward(lat, lon float64) (east, north float64) {
	r := p.radius(lat)
	sin, cos := math.Sincos(p.n * p.from(lon))
	return p.east0 + r*sin, p.north0 + p.rho0 - r*cos
}

func (p *albers) inverse(east, north float64) (lat, lon float64) {
	x, y := east-p.east0, p.rho0-(north-p.north0)
	sign := math.Copysign(1, p.n)
	r := math.Hypot(x, y) * p.n / p.e.SemiMajor
	return p.fromQ((p.c - r*r) / p.n), p.lon0 + math.Atan2(sign*x, sign*y)/p.n
}

// krovak is Krovak's oblique conformal conic projection, counted to the east and north.
type krovak struct {
	base
	a, b, t0, n, r0, parallel float64
	sinC, cosC                float64 // of the co-latitude of the cone's axis
}

func newKrovak(b base, axis, parallel float64) *krovak {
	p := &krovak{base: b, parallel: parallel}
	sin, cos := math.Sincos(b.lat0)
	p.a = b.e.SemiMajor * math.Sqrt(1-b.ecc2) / (1 - b.ecc2*sin*sin)
	p.b = math.Sqrt(1 + b.ecc2*math.Pow(cos, 4)/(1-b.ecc2))
	gamma := math.Asin(sin / p.b)
	p.t0 = math.Tan(math.Pi/4+gamma/2) * math.Exp(-p.b*p.psi(b.lat0))
	p.n = math.Sin(parallel)
	p.r0 = b.k * p.a / math.Tan(parallel)
	p.sinC, p.cosC = math.Sincos(axis)
	return p
}

func (p *krovak) forward(lat, lon float64) (east, north float64) {
	u := 2*math.Atan(p.t0*math.Exp(p.b*p.psi(lat))) - math.Pi/2
	sinV, cosV := math.Sincos(-p.b * p.from(lon))
	sinU, cosU := math.Sincos(u)
	t := math.Asin(p.cosC*sinU + p.sinC*cosU*cosV)
	d := math.Asin(cosU * sinV / math.Cos(t))
	r := p.r0 * math.Pow(math.Tan(math.Pi/4+p.parallel/2)/math.Tan(t/2+math.Pi/4), p.n)
	sin, cos := math.Sincos(p.n * d)
	return p.east0 - r*sin, p.north0 - r*cos
}

func (p *krovak) inverse(east, north float64) (lat, lon float64) {
	x, y := p.north0-north, p.east0-east
	r := math.Hypot(x, y)
	d := math.Atan2(y, x) / p.n
	t := 2*math.Atan(math.Pow(p.r0/r, 1/p.n)*math.Tan(math.Pi/4+p.parallel/2)) - math.Pi/2
	sinT, cosT := math.Sincos(t)
	sinD, cosD := math.Sincos(d)
	u := math.Asin(p.cosC*sinT - p.sinC*cosT*cosD)
	v := math.Asin(cosT * sinD / math.Cos(u))
	return p.e.Latitude(math.Log(math.Tan(u/2+math.Pi/4)/p.t0) / p.b), p.lon0 - v/p.b
}
