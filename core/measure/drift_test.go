package measure

import (
	"math"
	"testing"
)

// A drift towards each direction has the parts that a compass card gives, and comes back from them.
func TestDriftVectors(t *testing.T) {
	for to, want := range map[float64][2]float64{0: {0, 2}, 90: {2, 0}, 180: {0, -2}, 270: {-2, 0},
		30: {1, math.Sqrt(3)}, 315: {-math.Sqrt2, math.Sqrt2}} {
		east, north := Drift{to, 2}.Vector()
		if math.Hypot(east-want[0], north-want[1]) > 1e-12 {
			t.Errorf("towards %v: %v east, %v north", to, east, north)
		}
		if d := DriftOf(east, north); math.Abs(math.Remainder(d.To-to, 360)) > 1e-9 || math.Abs(d.Speed-2) > 1e-12 {
			t.Errorf("towards %v: %+v", to, d)
		}
	}
}
