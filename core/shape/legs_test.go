package shape

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// The nearest place on lines is the one that a look at every leg finds, the first of those that share it.
func TestLegsNearest(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	for round := range 16 {
		var lines [][]nav.Point
		for range 1 + round%4 {
			lines = append(lines, wander(uint64(round), 1+r.IntN(400), 30, 0.5))
		}
		for _, l := range lines {
			for i := range l {
				l[i].Lon = nav.WrapLon(l[i].Lon + 168.65) // across the antimeridian
			}
		}
		legs := NewLegs(lines...)
		for range 50 {
			of := lines[r.IntN(len(lines))]
			p := of[r.IntN(len(of))]
			if r.IntN(3) > 0 {
				far := math.Exp(r.Float64()*10 - 8)
				p.Lat, p.Lon = p.Lat+r.NormFloat64()*far/10, nav.WrapLon(p.Lon+r.NormFloat64()*far/10)
			}
			plane := geodesy.NewPlane(p.Lat, p.Lon)
			got := legs.Nearest(plane, p.Lat, p.Lon)
			least, first, before := math.Inf(1), -1, 0
			var around []int
			for _, l := range lines {
				for i := 0; i+1 < len(l); i++ {
					_, part := Foot(plane, &l[i], &l[i+1])
					at := nav.Between(&l[i], &l[i+1], part)
					off, _, _ := geodesy.Inverse(p.Lat, p.Lon, at.Lat, at.Lon)
					if off < least-1e-4 {
						least, first = off, before+i
					}
					if off < 50 {
						around = append(around, before+i)
					}
				}
				if len(l) == 1 {
					if off, _, _ := geodesy.Inverse(p.Lat, p.Lon, l[0].Lat, l[0].Lon); off < least-1e-4 {
						least, first = off, -1
					}
				}
				before += max(len(l)-1, 0)
			}
			off, _, _ := geodesy.Inverse(p.Lat, p.Lon, got.At.Lat, got.At.Lon)
			if slack := 1e-3 + least*1e-5; math.Abs(off-least) > slack || math.Abs(got.Distance-off) > slack {
				t.Fatalf("%.4f m off on leg %d, said to be %.4f; it is %.4f on leg %d", off, got.Leg, got.Distance, least, first)
			}
			if least < 1 && got.Leg != first {
				t.Errorf("leg %d, where %d is the first at the place", got.Leg, first)
			}
			within := legs.Within(p.Lat, p.Lon, 50)
			if !slices.IsSorted(within) || slices.ContainsFunc(around, func(k int) bool { return !slices.Contains(within, k) }) {
				t.Fatalf("within 50 m are %v, and found were %v", around, within)
			}
		}
	}
}
