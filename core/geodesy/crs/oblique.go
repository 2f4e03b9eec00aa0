package crs

import (
	"errors"
	"math"
)

// hotine is the oblique Mercator projection of M. Hotine, with its origin where the initial line crosses the
// aposphere's equator (variant A) or in the centre (variant B).
type hotine struct {
	base
	a, b, h, uc            float64
	sinG, cosG, sinR, cosR float64 // of gamma at the origin, of the angle from the skewed to the rectified grid
}

func newHotine(base base, m Method, azimuth, skew float64) (projection, error) {
	p := &hotine{base: base}
	sin, cos := math.Sincos(base.lat0)
	w := 1 - base.ecc2*sin*sin
	p.b = math.Sqrt(1 + base.ecc2*math.Pow(cos, 4)/(1-base.ecc2))
	p.a = base.e.SemiMajor * p.b * base.k * math.Sqrt(1-base.ecc2) / w
	d := p.b * math.Sqrt(1-base.ecc2) / (cos * math.Sqrt(w))
	root := math.Copysign(math.Sqrt(math.Max(d*d-1, 0)), base.lat0)
	f := math.Max(d, 1) + root
	p.h = f * math.Exp(-p.b*p.psi(base.lat0))
	gamma := math.Asin(math.Sin(azimuth) / math.Max(d, 1))
	g := (f - 1/f) / 2
	across := math.Abs(math.Abs(azimuth)-math.Pi/2) < 1e-12
	angle := math.Asin(math.Max(math.Min(g*math.Tan(gamma), 1), -1))
	if across { // the sine is then 1, of which rounding would take centimetres
		angle = math.Copysign(math.Pi/2, g*math.Tan(gamma))
	}
	origin := base.lon0 - angle/p.b
	if math.IsNaN(origin) || base.lat0 == 0 || math.Abs(sin) == 1 {
		return nil, errors.New("an oblique Mercator projection with its centre on the equator or a pole")
	}
	if m == HotineB {
		if across {
			p.uc = p.a * (base.lon0 - origin)
		} else {
			p.uc = p.a / p.b * math.Atan2(root, math.Cos(azimuth))
		}
	}
	p.lon0 = origin
	p.sinG, p.cosG = math.Sincos(gamma)
	p.sinR, p.cosR = math.Sincos(skew)
	return p, nil
}

func (p *hotine) forward(lat, lon float64) (east, north float64) {
	q := p.h / math.Exp(-p.b*p.psi(lat))
	s, t := (q-1/q)/2, (q+1/q)/2
	if math.Abs(lat) >= math.Pi/2-1e-15 {
		return math.NaN(), math.NaN()
	}
	sin, cos := math.Sincos(p.b * p.from(lon))
	u1 := (s*p.sinG - sin*p.cosG) / t
	v := p.a * math.Log((1-u1)/(1+u1)) / (2 * p.b)
	u := p.a*math.Atan2(s*p.cosG+sin*p.sinG, cos)/p.b - p.uc
	return v*p.cosR + u*p.sinR + p.east0, u*p.cosR - v*p.sinR + p.north0
}

func (p *hotine) inverse(east, north float64) (lat, lon float64) {
	x, y := east-p.east0, north-p.north0
	v, u := x*p.cosR-y*p.sinR, y*p.cosR+x*p.sinR+p.uc
	q := math.Exp(-p.b * v / p.a)
	s, t := (q-1/q)/2, (q+1/q)/2
	sin, cos := math.Sincos(p.b * u / p.a)
	u1 := (sin*p.cosG + s*p.sinG) / t
	psi := -math.Log(p.h/math.Sqrt((1+u1)/(1-u1))) / p.b
	return p.e.Latitude(psi), p.lon0 - math.Atan2(s*p.cosG-sin*p.sinG, cos)/p.b
}

// cassini is the Cassini-Soldner projection.
type cassini struct {
	base
	arc float64 // of the origin
}

func newCassini(b base) *cassini {
	p := &cassini{base: b}
	p.arc = p.meridian(b.lat0)
	return p
}

// meridian is the length of the meridian from the equator.
func (p *cassini) meridian(lat float64) float64 {
	_, north := p.e.TransverseMercator(lat, 0)
	return north
}

func (p *cassini) forward(lat, lon float64) (east, north float64) {
	sin, cos := math.Sincos(lat)
	a := p.from(lon) * cos
	t := sin * sin / (cos * cos)
	c := p.ecc2 * cos * cos / (1 - p.ecc2)
	nu := p.e.SemiMajor / math.Sqrt(1-p.ecc2*sin*sin)
	a2 := a * a
	east = p.east0 + nu*a*(1-t*a2/6-(8-t+8*c)*t*a2*a2/120)
	north = p.north0 + p.meridian(lat) - p.arc + nu*sin/cos*a2*(0.5+(5-t+6*c)*a2/24)
	return
}

// inverse begins with the published series and improves on it until forward gives back what it was given.
func (p *cassini) inverse(east, north float64) (lat, lon float64) {
	foot, _ := p.e.TransverseMercatorInverse(0, p.arc+north-p.north0)
	sin, cos := math.Sincos(foot)
	w := 1 - p.ecc2*sin*sin
	nu, rho := p.e.SemiMajor/math.Sqrt(w), p.e.SemiMajor*(1-p.ecc2)/(w*math.Sqrt(w))
	t, d := sin*sin/(cos*cos), (east-p.east0)/nu
	lat = foot - nu*sin/cos/rho*(d*d/2-(1+3*t)*math.Pow(d, 4)/24)
	lon = p.lon0 + (d-t*math.Pow(d, 3)/3+(1+3*t)*t*math.Pow(d, 5)/15)/cos
	for range 6 {
		e, n := p.forward(lat, lon)
		lat += (north - n) / rho
		lon += (east - e) / (nu * math.Cos(lat))
	}
	return
}
