package shape

import (
	"math"
	"math/rand/v2"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// Nothing in a box is nearer than its distance, and near by that is not much less than to the nearest place.
func TestBoxDistance(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 2))
	for range 3000 {
		lat, lon := r.Float64()*178-89, nav.WrapLon(170+r.Float64()*20)
		size := math.Exp(-r.Float64() * 9)
		low := [2]float64{lon + r.NormFloat64()*size*3, max(lat+r.NormFloat64()*size*2, -90)}
		high := [2]float64{low[0] + size*r.Float64()*2, min(low[1]+size*r.Float64(), 90)}
		plane := geodesy.NewPlane(lat, lon)
		least, rough := math.Inf(1), PlaneBoxDistance(plane, lat, lon, low, high)
		sphere := BoxDistance(lat, lon, low, high)
		const steps = 8
		for i := range steps + 1 {
			for k := range steps + 1 {
				a := low[1] + (high[1]-low[1])*float64(i)/steps
				o := nav.WrapLon(low[0] + (high[0]-low[0])*float64(k)/steps)
				far, _, _ := geodesy.Inverse(lat, lon, a, o)
				least = min(least, far)
			}
		}
		if rough > least || sphere > least {
			t.Fatalf("from %v %v to %v %v: %v m, and %v by the plane, where %v m are enough", lat, lon, low, high, sphere,
				rough, least)
		}
		aside := 111e3 / steps * (high[0] - low[0] + high[1] - low[1])
		if math.Abs(lat) < 70 && least < 90e3 && rough < least*0.9994-aside-1e-3 {
			t.Fatalf("from %v %v to %v %v: %v m, where it is %v m", lat, lon, low, high, rough, least)
		}
	}
}
