package identity

import (
	"math/rand/v2"
	"testing"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// season makes recordings of many parties that walk the same ground on the same days, every tenth of them a copy.
func season(n, fixes int) (out []*Recording, copies int) {
	r := rand.New(rand.NewPCG(7, 1))
	var last []nav.Point
	for i := range n {
		if i%10 == 9 {
			out = append(out, NewRecording([][]nav.Point{last[:len(last)-i%7]}))
			copies++
			continue
		}
		day := int64(1_773_400_000+86400*(i%120)) + int64(r.IntN(20000))
		lat, lon := -47.6+r.Float64()*0.05, 11.3+r.Float64()*0.05
		last = nil
		for k := range fixes {
			lat, lon = lat+r.NormFloat64()*2e-5, lon+r.NormFloat64()*2e-5
			p := nav.At(lat, lon)
			p.SetTime((day+int64(10*k))*1e9, instant.Seconds)
			last = append(last, p)
		}
		out = append(out, NewRecording([][]nav.Point{last}))
	}
	return out, copies
}

// Copies are found, whole and cut, and nothing else is taken for one.
func TestCopies(t *testing.T) {
	all, copies := season(400, 200)
	found := Copies(all)
	for _, c := range found {
		if c.Of%10 != 9 || c.In != c.Of-1 || !c.Whole {
			t.Errorf("%+v", c)
		}
	}
	if len(found) != copies {
		t.Errorf("%d of %d copies", len(found), copies)
	}
}

// Ten thousand recordings of 300 fixes, on 120 days.
func BenchmarkCopies(b *testing.B) {
	all, _ := season(10_000, 300)
	for b.Loop() {
		Copies(all)
	}
}
