package nav

import (
	"math"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
)

// Between gives the point at a part of the way between two others, from 0 to 1 along the shortest line, with its height
// and time where both have one.
func Between(a, b *Point, part float64) Point {
	const short = 0.01 // degrees, within which the shortest line is a straight one to a hundredth of a millimetre
	p := a.Toward(b, part)
	dlat, dlon := b.Lat-a.Lat, math.Remainder(b.Lon-a.Lon, 360)
	if (math.Abs(dlat) > short || math.Abs(dlon) > short) && part > 0 && part < 1 {
		distance, course, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
		lat, lon, _ := geodesy.Direct(a.Lat, a.Lon, course, part*distance)
		p.Lat, p.Lon = lat, WrapLon(lon)
	}
	return p
}

// StraightFor is how long a leg at a latitude may be, in metres, to stay so many metres beside the line that is
// straight in degrees: an arc of length L is L² tan φ / 8R off it.
func StraightFor(lat, off float64) float64 {
	slope := max(math.Tan(min(math.Abs(lat), 89.9)*math.Pi/180), 1e-3)
	return math.Sqrt(8 * off * geodesy.MeanRadius / slope)
}

// AlongLeg visits the pieces of a leg that are straight in degrees to a few centimetres, with the parts of the leg at
// which they begin and end.
func AlongLeg(a, b *Point, visit func(p, q *Point, from, to float64)) {
	const short, off, most = 0.01, 0.05, 10_000 // degrees, metres
	dlat, dlon := math.Abs(b.Lat-a.Lat), math.Abs(WrapLon(b.Lon-a.Lon))
	if dlon <= short && dlat <= short {
		visit(a, b, 0, 1)
		return
	}
	high := max(math.Abs(a.Lat), math.Abs(b.Lat)) + dlon/4 // a leg to the side goes poleward between its ends
	piece := StraightFor(high, off)
	n := min(max(math.Ceil(geodesy.Distance(a.Lat, a.Lon, b.Lat, b.Lon)/piece), 1), most)
	p := *a
	for k := 1.0; k <= n; k++ {
		q := *b
		if k < n {
			q = Between(a, b, k/n)
		}
		visit(&p, &q, (k-1)/n, k/n)
		p = q
	}
}

// Toward gives the point at a part of the way to another, from 0 to 1, straight in degrees the short way around, with
// its height and time where both have one.
func (p *Point) Toward(q *Point, part float64) Point {
	out := At(p.Lat+part*(q.Lat-p.Lat), p.Lon+part*math.Remainder(q.Lon-p.Lon, 360))
	if p.HasHeight() && q.HasHeight() && p.VerticalDatum().Comparable(q.VerticalDatum()) {
		out.SetHeight(p.Height()+part*(q.Height()-p.Height()), decimal.PrecisionOf(1), p.VerticalDatum())
	}
	if p.HasTime() && q.HasTime() {
		out.SetTime(p.UnixNano()+int64(math.Round(part*float64(q.Since(p)))), p.TimeMark())
	}
	return out
}
