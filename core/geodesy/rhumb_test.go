package geodesy

import (
	"math"
	"testing"
)

// The expected figures are those of GeographicLib 2.1, its command for rhumb lines with six decimals.
func TestRhumb(t *testing.T) {
	for _, c := range []struct{ lat1, lon1, lat2, lon2, course, metres float64 }{
		{-47.6, 11.3, -47.5, 11.5, 53.55293558851, 18714.919031},
		{-47.6, 11.3, -47.6, 11.3001, 90, 7.520039},
		{50, 179, 20, -120, 121.46246841752, 6377133.823127},
		{89.5, 0, 89.6, 90, 81.91471868001, 79414.412321},
		{-10, -170, 70, 175, 360 - 7.83159589972, 8958391.833067},
		{0, 0, 0.00001, 90, 89.99999367642, 10018754.171395},
		{-47.60001, 11.3, -47.60002, 11.3000000001, 179.99961246937, 1.111825},
		// nearly equal latitudes, and within centimetres of a pole
		{-58.55992671412908, 20.98581647163985, -58.55992671412904, -76.45156122170704, 270, 5671533.887571},
		{-47.6, 11.3, -47.600000001, 100, 90.00000000095503, 6670274.191764},
		{0.000001, 0, -0.000001, 179, 90.00000063589, 19926188.851996},
		{89.9999999, 10, -60, 100, 175.94612306655, 16697816.221017},
		{89.9999995, -170, 89.9999991, 20, 258.79455509164, 0.229909},
		{-89.9999998, 5, -89.9999998, 90, 90, 0.033140},
	} {
		metres, course := Rhumb(c.lat1, c.lon1, c.lat2, c.lon2)
		if math.Abs(metres-c.metres) > 2e-6 || math.Abs(course-c.course) > 1e-7 {
			t.Errorf("%+v: %.6f m on %.9f", c, metres, course)
		}
		if lat, lon, ok := RhumbDirect(c.lat1, c.lon1, c.course, c.metres); !ok || Distance(lat, lon, c.lat2, c.lon2) > 1e-3 {
			t.Errorf("%+v: one arrives at %.9f %.9f", c, lat, lon)
		}
	}
	for _, c := range []struct{ lat, lon, course, metres, lat2, lon2 float64 }{
		{-47.6, 11.3, 33, 120000, -46.69474583152, 12.16172537437},
		{10, 20, 90, 1000000, 10, 29.12081174950},
		{80, 0, 45, 1000000, 86.33172054182, 57.58083266112},
		{0, 0, -60, 5000000, 22.59782290598, -39.94131181200},
	} {
		lat, lon, ok := RhumbDirect(c.lat, c.lon, c.course, c.metres)
		if !ok || math.Abs(lat-c.lat2) > 1e-10 || math.Abs(lon-c.lon2) > 1e-10 {
			t.Errorf("%+v: %.11f %.11f", c, lat, lon)
		}
	}
	if _, _, ok := RhumbDirect(80, 0, 10, 2e6); ok {
		t.Error("beyond the pole there is no place")
	}
	if d, course := Rhumb(90, 5, 80, 40); math.Abs(d-1116825.857) > 0.01 || course != 180 {
		t.Errorf("from the pole: %.3f on %v", d, course)
	}
}
