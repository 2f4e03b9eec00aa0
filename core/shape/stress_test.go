package shape

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"gyrolith/core/nav"
)

func TestStress(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 3))
	bad, errs, none := 0, 0, 0
	for round := range 4000 {
		ring := func(n, span int) (out []nav.Point) {
			for range n {
				out = append(out, nav.At(float64(r.IntN(span)), float64(r.IntN(span))))
			}
			return
		}
		var sets [2][]Polygon
		for k := range sets {
			for range 1 + r.IntN(4) {
				a := nav.Area{Outline: ring(3+r.IntN(6), 8)}
				if r.IntN(3) == 0 {
					a.Holes = append(a.Holes, ring(3+r.IntN(3), 8))
				}
				m, flaw, err := Mended(&a)
				if err != nil {
					errs++
				}
				if flaw == nil {
					sets[k] = append(sets[k], m...)
				} else {
					none++
				}
			}
		}
		if len(sets[0])*len(sets[1]) == 0 {
			continue
		}
		u, e1 := Union(append(sets[0][:len(sets[0]):len(sets[0])], sets[1]...))
		i, e2 := Intersection(sets[0], sets[1])
		d, e3 := Difference(sets[0], sets[1])
		a, e4 := Union(sets[0])
		b, e5 := Union(sets[1])
		if e1 != nil || e2 != nil || e3 != nil || e4 != nil || e5 != nil {
			errs++
			if errs < 6 {
				fmt.Println(round, e1, e2, e3, e4, e5)
			}
			continue
		}
		x := sizeOf(u) + sizeOf(i) - sizeOf(a) - sizeOf(b)
		y := sizeOf(i) + sizeOf(d) - sizeOf(a)
		if math.Abs(x)+math.Abs(y) > 1e-7*(sizeOf(u)+1) {
			if bad++; bad < 6 {
				fmt.Println(round, x/sizeOf(u), y/sizeOf(u), sets)
			}
		}
		Divide(a, 3, nil)
		Split(a, [][]nav.Point{ring(4, 9)})
	}
	fmt.Println("bad", bad, "errors", errs, "no answer", none)
}
