// Package magnetic gives the magnetic declination by the World Magnetic Model of NOAA NCEI and the British Geological
// Survey, whose coefficients are part of the program.
package magnetic

import (
	_ "embed"
	"fmt"
	"math"
	"strings"
	"sync"
	"time"

	"gyrolith/core/geodesy"
)

//go:embed wmm2025.txt
var coefficients string

// Name is the model whose coefficients are embedded.
const Name = "World Magnetic Model 2025"

// The model's epoch and the years for which it is valid, from First up to but not including End.
const (
	epoch = 2025.0
	First = 2025
	End   = 2030
)

const (
	degree = 12
	// referenceRadius is the geomagnetic reference radius of the model in metres.
	referenceRadius = 6371200.0
)

// term holds the Gauss coefficients g and h of one degree and order in nT, and their change in nT a year.
type term struct{ g, h, dg, dh float64 }

var model = sync.OnceValue(func() *[degree + 1][degree + 1]term {
	var m [degree + 1][degree + 1]term
	for line := range strings.Lines(coefficients) {
		if strings.HasPrefix(line, "#") {
			continue
		}
		var n, k int
		var t term
		if _, err := fmt.Sscan(line, &n, &k, &t.g, &t.h, &t.dg, &t.dh); err != nil {
			panic(err) // the table is part of the program
		}
		m[n][k] = t
	}
	return &m
})

// Covers says whether the model is valid on a day.
func Covers(day time.Time) bool {
	y := Year(day)
	return y >= First && y < End
}

// Year gives a time as a decimal year.
func Year(t time.Time) float64 {
	t = t.UTC()
	start := time.Date(t.Year(), 1, 1, 0, 0, 0, 0, time.UTC)
	end := time.Date(t.Year()+1, 1, 1, 0, 0, 0, 0, time.UTC)
	return float64(t.Year()) + float64(t.Sub(start))/float64(end.Sub(start))
}

// Declination is the angle from true to magnetic north in degrees, positive to the east, at a position, a height in
// metres above the ellipsoid and a decimal year.
func Declination(lat, lon, height, year float64) float64 {
	north, east, _ := Field(lat, lon, height, year)
	return math.Atan2(east, north) * 180 / math.Pi
}

// Field gives the components of the field in nT, to the north, to the east and down, by the sums of equations 9 to 18
// of the model's technical report (A. Chulliat and others, The US/UK World Magnetic Model for 2025-2030, NOAA 2025).
func Field(lat, lon, height, year float64) (north, east, down float64) {
	const radian = math.Pi / 180
	sinLat, cosLat := math.Sincos(lat * radian)
	e2 := geodesy.Flattening * (2 - geodesy.Flattening)
	prime := geodesy.SemiMajor / math.Sqrt(1-e2*sinLat*sinLat)
	p, z := (prime+height)*cosLat, (prime*(1-e2)+height)*sinLat
	r := math.Hypot(p, z)
	sin, cos := z/r, p/r // of the geocentric latitude
	if cos < 1e-10 {
		cos = 1e-10 // at a pole: as close to it as makes no difference, on the given meridian
	}
	legendre, slope := functions(sin, cos)
	dt := year - epoch
	var x, y, down1 float64
	ratio := referenceRadius / r
	power := ratio * ratio
	for n := 1; n <= degree; n++ {
		power *= ratio
		for m := 0; m <= n; m++ {
			t := model()[n][m]
			g, h := t.g+dt*t.dg, t.h+dt*t.dh
			sinM, cosM := math.Sincos(float64(m) * lon * radian)
			x -= power * (g*cosM + h*sinM) * slope[n][m]
			y += power * float64(m) * (g*sinM - h*cosM) * legendre[n][m] / cos
			down1 -= power * float64(n+1) * (g*cosM + h*sinM) * legendre[n][m]
		}
	}
	// From the geocentric to the geodetic vertical.
	turn := math.Asin(sin) - lat*radian
	s, c := math.Sincos(turn)
	return x*c - down1*s, y, x*s + down1*c
}

// functions gives Schmidt's semi-normalised associated Legendre functions of the sine of the latitude, and their
// slopes with the latitude.
func functions(sin, cos float64) (p, d [degree + 1][degree + 1]float64) {
	p[0][0] = 1
	for n := 1; n <= degree; n++ {
		for m := 0; m <= n; m++ {
			N, M := float64(n), float64(m)
			switch {
			case n == m && n == 1:
				p[n][m], d[n][m] = cos*p[0][0], -sin
			case n == m:
				k := math.Sqrt((2*N - 1) / (2 * N))
				p[n][m] = k * cos * p[n-1][m-1]
				d[n][m] = k * (cos*d[n-1][m-1] - sin*p[n-1][m-1])
			default:
				k := math.Sqrt(N*N - M*M)
				a, b := (2*N-1)/k, 0.0
				if n >= 2 && m <= n-2 {
					b = math.Sqrt((N-1)*(N-1)-M*M) / k
				}
				p[n][m] = a*sin*p[n-1][m] - b*at(&p, n-2, m)
				d[n][m] = a*(sin*d[n-1][m]+cos*p[n-1][m]) - b*at(&d, n-2, m)
			}
		}
	}
	return
}

func at(t *[degree + 1][degree + 1]float64, n, m int) float64 {
	if n < 0 || m > n {
		return 0
	}
	return t[n][m]
}
