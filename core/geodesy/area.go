package geodesy

import "math"

// areaTerms are the amplitudes of sin φ, sin 3φ, sin 5φ … of the area between the equator and a parallel, in square
// metres per radian of longitude. It is a²(1-e²) Σ (n+1)/(2n+1) e²ⁿ sin²ⁿ⁺¹ φ, the series of the integral of M N cos φ
// (J. P. Snyder, Map projections: a working manual, USGS Professional Paper 1395, section 3), with powers of sines as
// sines of multiples.
var areaTerms = func() (terms [7]float64) {
	power := SemiMajor * SemiMajor * (1 - ecc2)
	for n := range terms {
		k := 2*n + 1
		part := power * float64(n+1) / float64(k) / math.Pow(4, float64(n))
		choose := 1.0 // of k things n-m
		for m := n; m >= 0; m-- {
			sign := float64(1 - m%2*2)
			terms[m] += sign * part * choose
			choose *= float64(k-(n-m)) / float64(n-m+1)
		}
		power *= ecc2
	}
	return
}()

// AreaUnder gives the area in square metres between the equator and an edge that is straight in longitude and latitude
// and goes dlon degrees east; what is south of the equator, and what goes west, counts as negative. It is right to the
// rounding of float64.
func AreaUnder(lat1, lat2, dlon float64) (area float64) {
	half := (lat2 - lat1) / 2 * radian
	sin, cos := math.Sincos((lat1 + lat2) / 2 * radian)
	before, now, twice := -sin, sin, 2*(cos*cos-sin*sin) // sin (k+2)φ = 2 cos 2φ sin kφ - sin (k-2)φ
	for m, amplitude := range areaTerms {
		x := float64(2*m+1) * half
		mean := 1 - x*x/6*(1-x*x/20) // of sin kφ on the edge, as a part of that in its middle
		if math.Abs(x) > 0.01 {
			mean = math.Sin(x) / x
		}
		area += amplitude * now * mean
		before, now = now, twice*now-before
	}
	return area * dlon * radian
}

// EdgeLength gives the length in metres of an edge that is straight in longitude and latitude and goes dlon degrees
// east, by Gaussian quadrature.
func EdgeLength(lat1, lat2, dlon float64) (length float64) {
	span := max(math.Abs(lat2-lat1), math.Abs(dlon))
	if span <= shortSpan {
		north, east := metresPerDegree((lat1 + lat2) / 2)
		return math.Hypot(north*(lat2-lat1), east*dlon)
	}
	pieces := math.Ceil(span / 2)
	dlat, dlon := (lat2-lat1)/pieces, dlon/pieces
	for i := range int(pieces) {
		middle := lat1 + (float64(i)+0.5)*dlat
		for _, node := range nodes8 {
			for _, x := range [2]float64{-node[0], node[0]} {
				north, east := metresPerDegree(middle + x*dlat/2)
				length += node[1] / 2 * math.Hypot(north*dlat, east*dlon)
			}
		}
	}
	return
}
