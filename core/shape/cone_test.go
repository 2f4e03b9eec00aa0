package shape

import (
	"math"
	"math/rand/v2"
	"testing"
)

// A cone has a direction exactly if all directions by which it was narrowed are as near to it as was allowed.
func TestCone(t *testing.T) {
	random := rand.New(rand.NewPCG(1, 2))
	type arc struct{ middle, half float64 }
	off := func(a arc, direction float64) float64 { // beyond the edge
		return math.Abs(math.Remainder(direction-a.middle, 2*math.Pi)) - a.half
	}
	const unclear = 1e-9
	for range 20_000 {
		var c cone
		var arcs []arc
		wide := math.Pi / 2 * math.Pow(random.Float64(), 3)
		for range 12 {
			next := arc{random.NormFloat64() * wide * 1.5, min(wide*(0.2+random.Float64()), math.Pi/2)}
			if random.IntN(10) == 0 {
				next.middle += math.Pi
			}
			some := !c.narrowed // whether the arcs have any direction in common: if so, an edge of one
			clear := true
			for _, a := range append(arcs, next) {
				for _, edge := range []float64{a.middle - a.half, a.middle + a.half} {
					in := true
					for _, b := range append(arcs, next) {
						if o := off(b, edge); o > unclear {
							in = false
						} else if o > -unclear && b != a {
							clear = false
						}
					}
					some = some || in
				}
			}
			if !clear {
				break
			}
			sin, cos := math.Sincos(next.middle)
			seen := c.sight(cos*70, sin*70, 70)
			if got := c.narrow(&seen, 70*math.Sin(next.half)); got != some {
				t.Fatalf("%v narrowed by %v: %v", arcs, next, got)
			}
			if !some {
				break
			}
			arcs = append(arcs, next)
			for range 20 {
				at := next.middle + (random.Float64()*2-1)*next.half*1.2
				in, far := true, true
				for _, a := range arcs {
					in, far = in && off(a, at) <= 0, far && math.Abs(off(a, at)) > unclear
				}
				sin, cos := math.Sincos(at)
				if far && c.has(cos, sin) != in {
					t.Fatalf("%v: %v in it is %v", arcs, at, !in)
				}
			}
		}
	}
}
