package nav

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"gyrolith/core/geodesy"
)

func ringOf(at ...float64) (ring []Point) {
	for i := 0; i < len(at); i += 2 {
		ring = append(ring, At(at[i], at[i+1]))
	}
	return
}

// capOf is a ring around the south pole, of corners at two latitudes in turn.
func capOf(first, second float64, corners int) (ring []Point) {
	for i := range corners {
		lat := first
		if i%2 == 1 {
			lat = second
		}
		ring = append(ring, At(lat, 180-360*float64(i+1)/float64(corners)))
	}
	return
}

// Sizes and perimeters are those that a geodesic calculator (C. F. F. Karney, Algorithms for geodesics, J. Geodesy 87,
// 2013, section 6) gives for rings with 20,000 points on each edge, which is straight in longitude and latitude.
func TestSizes(t *testing.T) {
	for _, c := range []struct {
		name            string
		ring            []Point
		perimeter, size float64
	}{
		{"plot", ringOf(-47.5, 11.2, -47.5, 11.3, -47.45, 11.32, -47.42, 11.22), 30563.597224, 56997764.7},
		{"wide box", ringOf(10, -20, 10, 30, 45, 30, 45, -20), 17182489.047425, 18866278782595.7},
		{"over the antimeridian", ringOf(-17, 178, -18, -178.5, -15, -177, -14, 179), 1550430.148254, 148054388612.2},
		{"slanting", ringOf(60, 5, 72, 40, 65, 55), 5709554.058739, 1088794426861.2},
		{"cap", capOf(-70, -70, 12), 13747154.858776, 15506340663840.6},
		{"wavy cap", capOf(-65, -70, 18), 18368699.952822, 19643235821247.5},
	} {
		for _, turned := range []float64{0, 77.25, 180} {
			ring := slices.Clone(c.ring)
			for i := range ring {
				ring[i].Lon = WrapLon(ring[i].Lon + turned)
			}
			a := Area{Outline: ring}
			if size := a.Size(); math.Abs(size-c.size) > 1e-8*c.size {
				t.Errorf("%s, turned by %v: %.1f m², want %.1f", c.name, turned, size, c.size)
			}
			if around := a.Perimeter(); math.Abs(around-c.perimeter) > 1e-8*c.perimeter {
				t.Errorf("%s, turned by %v: %.4f m around, want %.4f", c.name, turned, around, c.perimeter)
			}
		}
	}
	// The ellipsoid by the closed form for its surface, and by its two halves.
	e2 := geodesy.EccentricitySquared
	e := math.Sqrt(e2)
	want := 2 * math.Pi * geodesy.SemiMajor * geodesy.SemiMajor * (1 + (1-e2)/e*math.Atanh(e))
	half := Area{Outline: ringOf(0, 0, 0, 90, 0, 179, 0, -90)}
	if whole := 2 * half.Size(); math.Abs(whole-want) > 1e-12*want {
		t.Errorf("%.0f m² on the earth, want %.0f", whole, want)
	}
}

// The size is that of small squares added up, holes left out, whichever way rings turn and wherever they begin.
func TestSizeByParts(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 8))
	for range 200 {
		south, west := r.Float64()*150-75, r.Float64()*360-180
		high, wide := math.Exp(r.Float64()*8-7), math.Exp(r.Float64()*8-7)
		box := func(s, w, n, e float64) []Point {
			return ringOf(s, WrapLon(w), s, WrapLon(e), n, WrapLon(e), n, WrapLon(w))
		}
		whole := Area{Outline: box(south, west, south+high, west+wide),
			Holes: [][]Point{box(south+high/4, west+wide/4, south+high/2, west+wide/2)}}
		sum := 0.0
		for i := range 4 {
			for k := range 4 {
				if i == 1 && k == 1 {
					continue
				}
				part := Area{Outline: box(south+high*float64(i)/4, west+wide*float64(k)/4, south+high*float64(i+1)/4,
					west+wide*float64(k+1)/4)}
				sum += part.Size()
			}
		}
		slices.Reverse(whole.Holes[0])
		whole.Outline = append(whole.Outline[2:], whole.Outline[:2]...)
		if size := whole.Size(); math.Abs(size-sum) > 1e-9*sum+1e-6 {
			t.Fatalf("box of %v° by %v° at %v %v: %v m², and %v in parts", high, wide, south, west, size, sum)
		}
	}
}
