package picture

import (
	"math"

	"gyrolith/core/geodesy"
)

const radian = math.Pi / 180

// projection is true to shape everywhere: the oblique stereographic projection of the conformal sphere about the middle
// of the data (J. P. Snyder, USGS Professional Paper 1395, 21-24 to 21-27), or Mercator's where the data go around the
// earth.
type projection struct {
	lat0, lon0 float64 // degrees
	sin0, cos0 float64 // of the conformal latitude
	radius     float64 // metres
	world      bool
	span       float64 // degrees of latitude that the places take
}

// conformal gives the sine and the cosine of the conformal latitude: the hyperbolic tangent and secant of the isometric
// one (1395, 3-1 and 3-7).
func conformal(lat float64) (sin, cos float64) {
	s, e := math.Sin(lat*radian), earth.Eccentricity
	if math.Abs(lat) >= 90 || math.Abs(s) == 1 {
		return math.Copysign(1, lat), 0
	}
	q := (1 + s) / (1 - s) * math.Exp(-2*e*math.Atanh(e*s)) // e to the power of twice the isometric latitude
	return (q - 1) / (q + 1), 2 * math.Sqrt(q) / (q + 1)
}

var earth = geodesy.NewEllipsoid(geodesy.SemiMajor, geodesy.Flattening)

// around finds the projection for places: about the middle of their directions, so that neither the antimeridian nor a
// pole is a border.
func around(each func(visit func(lat, lon float64))) *projection {
	const all, one = 1000, 16 // of so many all count, and then one of these
	var sum [3]float64
	n, south, north := 0, 90.0, -90.0
	each(func(lat, lon float64) {
		south, north = min(south, lat), max(north, lat)
		if n++; n > all && n%one != 0 {
			return
		}
		sin, cos := math.Sincos(lat * radian)
		sinL, cosL := math.Sincos(lon * radian)
		sum[0] += cos * cosL
		sum[1] += cos * sinL
		sum[2] += sin
	})
	p := &projection{span: north - south}
	length := math.Sqrt(sum[0]*sum[0] + sum[1]*sum[1] + sum[2]*sum[2])
	if length > 1e-9*float64(n) {
		p.lat0 = math.Asin(sum[2]/length) / radian
		p.lon0 = math.Atan2(sum[1], sum[0]) / radian
	}
	p.set()
	return p
}

func (p *projection) set() {
	p.sin0, p.cos0 = conformal(p.lat0)
	// The scale in the middle is that of the ellipsoid; at a pole it is the limit towards it.
	lat := math.Copysign(min(math.Abs(p.lat0), 89.999), p.lat0)
	sin, cos := math.Sincos(lat * radian)
	e := earth.Eccentricity
	_, cosChi := conformal(lat)
	p.radius = geodesy.SemiMajor * cos / math.Sqrt(1-e*e*sin*sin) / cosChi
}

// mercatorEdge is the latitude up to which a map of the world goes.
const mercatorEdge = 84

// forward gives metres east and north of the middle.
func (p *projection) forward(lat, lon float64) (x, y float64) {
	d := math.Remainder(lon-p.lon0, 360) * radian
	if p.world {
		lat = max(min(lat, mercatorEdge), -mercatorEdge)
		return geodesy.SemiMajor * d, geodesy.SemiMajor * earth.Isometric(math.Sin(lat*radian))
	}
	sin, cos := conformal(lat)
	sinD, cosD := math.Sincos(d)
	k := 2 * p.radius / (1 + p.sin0*sin + p.cos0*cos*cosD)
	return k * cos * sinD, k * (p.cos0*sin - p.sin0*cos*cosD)
}

// inverse gives latitude and longitude in degrees.
func (p *projection) inverse(x, y float64) (lat, lon float64) {
	if p.world {
		return earth.Latitude(y/geodesy.SemiMajor) / radian, math.Remainder(p.lon0+x/geodesy.SemiMajor/radian, 360)
	}
	r := math.Hypot(x, y)
	if r == 0 {
		return p.lat0, p.lon0
	}
	c := 2 * math.Atan(r/(2*p.radius))
	sin, cos := math.Sincos(c)
	sinChi := max(min(cos*p.sin0+y*sin*p.cos0/r, 1), -1)
	lon = p.lon0 + math.Atan2(x*sin, r*p.cos0*cos-y*p.sin0*sin)/radian
	return earth.Latitude(math.Atanh(sinChi)) / radian, math.Remainder(lon, 360)
}

// view is the part of the projection that a frame shows.
type view struct {
	*projection
	frame  Rect
	cx, cy float64 // metres, of the middle of the frame
	perPx  float64 // metres a pixel, in the middle of the projection

	width, height float64 // of the data, metres
}

// degreeMetres is about what a degree of latitude is, and a degree of longitude at most.
const degreeMetres = geodesy.SemiMajor * radian

// quarter is a quarter of a pixel, in degrees, which stays less than half of one wherever the projection enlarges.
func (p *projection) quarter(pixel float64) float64 {
	if p.world {
		pixel /= 10 // which Mercator's enlarges at its edge
	}
	return pixel / 4
}

// thinned passes by the places that are less than a step from the last one that was visited: a recording has many to a
// pixel.
func thinned(step float64, visit func(lat, lon float64)) func(lat, lon float64) {
	atLat, atLon := math.Inf(1), 0.0
	return func(lat, lon float64) {
		if math.Abs(lat-atLat)+math.Abs(lon-atLon) < step {
			return
		}
		atLat, atLon = lat, lon
		visit(lat, lon)
	}
}

// place gives where a position is drawn.
func (v *view) place(lat, lon float64) XY {
	x, y := v.forward(lat, lon)
	return XY{v.frame.X + v.frame.W/2 + (x-v.cx)/v.perPx, v.frame.Y + v.frame.H/2 - (y-v.cy)/v.perPx}
}

// position is the inverse of place.
func (v *view) position(p XY) (lat, lon float64) {
	return v.inverse(v.cx+(p.X-v.frame.X-v.frame.W/2)*v.perPx, v.cy-(p.Y-v.frame.Y-v.frame.H/2)*v.perPx)
}

// fit chooses the view that has all places within a margin of the frame, or one of a given scale about their middle.
func fit(frame Rect, scale float64, each func(visit func(lat, lon float64))) *view {
	v := &view{projection: around(each), frame: frame}
	var west, east, south, north float64
	bounds := func() (near bool) {
		inf := math.Inf(1)
		west, east, south, north, near = inf, -inf, inf, -inf, true
		horizon := 2 * v.radius * math.Tan(36*radian) // 72 degrees from the middle (1395, 21-24)
		each(thinned(v.quarter(v.span/frame.H), func(lat, lon float64) {
			x, y := v.forward(lat, lon)
			west, east, south, north = min(west, x), max(east, x), min(south, y), max(north, y)
			near = near && x*x+y*y <= horizon*horizon
		}))
		return near
	}
	if !bounds() {
		v.world = true
		bounds()
	}
	if west > east {
		west, east, south, north = -500, 500, -500, 500
	}
	v.cx, v.cy = (west+east)/2, (south+north)/2
	v.width, v.height = east-west, north-south
	const margin, least = 0.86, 400.0 // of the frame; metres of a single place
	v.perPx = max((east-west)/(frame.W*margin), (north-south)/(frame.H*margin), least/min(frame.W, frame.H))
	if scale > 0 {
		v.perPx = scale * pixelMetres
	}
	return v
}

// pixelMetres is the reference pixel of CSS Values 3, 1/96 inch.
const pixelMetres = 0.0254 / 96
