package geodesy

import (
	"math"
	"testing"
)

// A plane's distances are right to a thousandth near its origin, also across the antimeridian, and it gives back the
// positions that it was given.
func TestPlane(t *testing.T) {
	for _, o := range [][2]float64{{-47.6, 11.3}, {0, 0}, {60, 179.99}, {-75, -179.995}} {
		p := NewPlane(o[0], o[1])
		for _, d := range [][2]float64{{100, 0}, {0, -100}, {3000, 4000}, {-5000, 2000}} {
			lat, lon := p.LatLon(d[0], d[1])
			x, y := p.XY(lat, math.Remainder(lon, 360))
			if math.Abs(x-d[0]) > 1e-6 || math.Abs(y-d[1]) > 1e-6 {
				t.Errorf("%v: %v comes back as %v %v", o, d, x, y)
			}
			want := math.Hypot(d[0], d[1])
			got, _, _ := Inverse(o[0], o[1], lat, lon)
			if math.Abs(got-want) > want/300 {
				t.Errorf("%v: %v is %.3f m away, not %.3f", o, d, got, want)
			}
		}
	}
}

// The distance there is the distance back, and no way round is shorter.
func TestTriangle(t *testing.T) {
	places := [][2]float64{{-47.6, 11.3}, {40.96, -5.5}, {0, 179.9}, {89.9, 0}, {-89, 100}, {0.1, -0.1}, {47.6, -168.7}}
	for _, a := range places {
		for _, b := range places {
			ab, c1, _ := Inverse(a[0], a[1], b[0], b[1])
			ba, _, c2 := Inverse(b[0], b[1], a[0], a[1])
			if math.Abs(ab-ba) > 1e-6 {
				t.Errorf("%v %v: %.7f there, %.7f back", a, b, ab, ba)
			}
			if ab > 1 && ab < 19e6 && turn(c1+180, c2) > 1e-6 {
				t.Errorf("%v %v: sets out on %.7f, comes back on %.7f", a, b, c1, c2)
			}
			for _, c := range places {
				ac, _, _ := Inverse(a[0], a[1], c[0], c[1])
				cb, _, _ := Inverse(c[0], c[1], b[0], b[1])
				if ab > ac+cb+1e-6 {
					t.Errorf("%v to %v is longer than by %v", a, b, c)
				}
			}
		}
	}
}

// Distances and directions from the origin of a plane are those of the ellipsoid, near by and far off.
func TestPolar(t *testing.T) {
	for _, o := range [][2]float64{{-47.6, 11.3}, {0, 179.99}, {75, -10}, {86, 5}} {
		plane := NewPlane(o[0], o[1])
		for _, far := range []float64{10, 1000, 6000, 9500, 50e3, 240e3, 3e6} {
			for azimuth := 7.0; azimuth < 360; azimuth += 31 {
				lat, lon, _ := Direct(o[0], o[1], azimuth, far)
				r, theta := plane.Polar(lat, lon)
				off := math.Remainder(math.Pi/2-azimuth*math.Pi/180-theta, 2*math.Pi)
				if math.Abs(r-far) > 0.05 || math.Abs(off)*far > 0.05 {
					t.Errorf("from %v, %v m on %v: %.4f m, %.4f m aside", o, far, azimuth, r, off*far)
				}
				same, east, north := plane.Toward(lat, lon)
				if off := math.Hypot(east-r*math.Cos(theta), north-r*math.Sin(theta)); same != r || off > 1e-13*r {
					t.Errorf("from %v, %v m on %v: the vector is %g off", o, far, azimuth, off)
				}
			}
		}
	}
}
