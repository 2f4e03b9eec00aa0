package geodesy

import (
	"math"
	"testing"
)

// The expected figures are those of PROJ 9's transverse Mercator (+proj=utm +ellps=WGS84), to the tenth of a
// millimetre.
var grid = []struct {
	zone                  int
	south                 bool
	lat, lon, east, north float64
}{
	{32, true, -47.6, 11.3, 672887.54668, 4725593.40160},
	{33, true, -47.6, 11.3, 221887.24894, 4721520.90033},
	{32, false, 60.5, 9, 500000.00000, 6707097.16810},
	{32, false, 0.0001, 5.9, 154878.05409, 11.06931},
	{1, true, -79.9, -179.9, 443247.87181, 1128161.37286},
	{60, false, 83.9, 179.99, 535457.20001, 9317850.30233},
	{31, false, 51.25, -2.5, 116272.72890, 5692009.79741},
	{18, true, -0.5, -75, 500000.00000, 9944734.96286},
}

func TestUTM(t *testing.T) {
	for _, g := range grid {
		u := UTM{g.zone, g.south}
		east, north := u.Forward(g.lat, g.lon)
		if math.Abs(east-g.east) > 1e-4 || math.Abs(north-g.north) > 1e-4 {
			t.Errorf("%+v: %.5f %.5f", g, east, north)
		}
		lat, lon := u.Inverse(g.east, g.north)
		if d, _, _ := Inverse(lat, lon, g.lat, g.lon); d > 1e-4 {
			t.Errorf("%+v: back at %.9f %.9f, %.2g m off", g, lat, lon, d)
		}
	}
}
