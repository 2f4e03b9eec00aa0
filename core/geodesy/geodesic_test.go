package geodesy

import (
	"math"
	"testing"
)

// The expected figures are those of the published method's reference implementation (C. F. F. Karney,
// GeographicLib 2.1, its command for the inverse problem with ten decimals), which shares no code with this one.
var lines = []struct{ lat1, lon1, lat2, lon2, course1, course2, metres float64 }{
	{-47.6, 11.3, -47.55, 11.41, 56.150752868, 56.069555134, 9969.7277707},
	{40.6, -73.8, 51.6, -0.5, 51.198882846, 107.821776736, 5551759.4003187},
	{0, 0, 0.5, 179.5, 25.671872868, 154.327085470, 19936288.5789653},
	{0, 0, 0.5, 179.7, 15.556882793, 164.442513891, 19944127.4207505},
	{0, 0, 0, 179.5, 55.966495140, 124.033504860, 19980861.9088910},
	{0, 0, 0, 179.3, 90.000000000, 90.000000000, 19959584.6992340},
	{-30, 0, 29.9, 179.8, 161.890524736, 18.090737246, 19989832.8276095},
	{-30, 0, 30, 180, 180.000000000, 0.000000000, 20003931.4586254},
	{10, 20, -10, -160, 0.000000000, 180.000000000, 20003931.4586254},
	{90, 0, -47.6, 11.3, 168.700000000, 180.000000000, 15275918.7526158},
	{-90, 30, 47, 11.3, 341.300000000, 0.000000000, 15209212.7382685},
	{-47.6, 11.3, 90, 0, 0.000000000, 348.700000000, 15275918.7526158},
	{89.9, 10, 89.9, -170, 0.000000000, 180.000000000, 22338.7956825},
	{-47.6, 179.99, -47.61, -179.98, 116.248624531, 116.226469105, 2514.9107407},
	{12, 5, 12, 5.0000001, 89.999999990, 90.000000010, 0.0108903},
	{12, 5, 12.0000001, 5, 0.000000000, 0.000000000, 0.0110622},
	{0, 10, 0, -170, 0.000000000, 180.000000000, 20003931.4586254},
	{-47.6, 11.3, -47.6, 11.300001, 90.000000369, 89.999999631, 0.0752004},
	{-41.32, 174.81, 40.96, -5.5, 161.067669986, 18.825195123, 19959679.2673538},
	{27.2, 0, -27.1, 179.5, 45.824687168, 134.227765327, 19974354.7657671},
	{36.493, 0, -36.493, 179.4, 90.034015928, 90.034015928, 19971921.0806201},
	{0, 0, 0.0001, 0.0001, 45.192423216, 45.192423216, 15.6903472},
	{20, 0, 60, 0, 0.000000000, 0.000000000, 4441706.5653189},
	{-31.7101, -125.6943, 27.1682, -153.9229, 332.135258809, 333.447067532, 7171504.0230776},
	{6.4588, -48.352, -79.5602, 2.6769, 171.869886497, 129.373540463, 9978476.8159407},
	{-83.2508, -23.8876, -77.426, -147.3433, 217.829994989, 340.662445140, 1923732.1945378},
	{-13.5865, 117.6668, -67.7156, -99.634, 166.656789694, 36.155597184, 10502397.0090108},
	{22.938, 161.1752, 13.8785, -37.195, 27.615208877, 153.905414123, 15471905.7062253},
	{85.7259, -163.2302, 64.5243, -75.7407, 83.555298753, 170.079691070, 2860106.1965271},
	{-64.0341, -137.5948, -34.4733, 113.8055, 238.161386661, 333.132278059, 7446684.7163497},
	{-57.4693, 29.3761, 25.0044, -45.9369, 295.498599208, 327.552552240, 11485980.2321674},
	{8.594, -157.396, -79.2718, -105.8549, 171.581508184, 129.178226516, 10199907.3570690},
	{32.472, -26.0668, -33.4535, 30.8023, 135.287567656, 134.653424299, 9420971.8204659},
}

func turn(a, b float64) float64 { return math.Abs(math.Remainder(a-b, 360)) }

func TestInverse(t *testing.T) {
	for _, l := range lines {
		d, c1, c2 := Inverse(l.lat1, l.lon1, l.lat2, l.lon2)
		if math.Abs(d-l.metres) > 1e-5 {
			t.Errorf("%v: %.7f m, off by %.2g m", l, d, d-l.metres)
		}
		if got := Distance(l.lat1, l.lon1, l.lat2, l.lon2); math.Abs(got-l.metres) > 1e-4 {
			t.Errorf("%v: Distance %.7f m, off by %.2g m", l, got, got-l.metres)
		}
		// The course of a line matters as far as it moves its end: a millimetre at the most.
		reach := math.Min(l.metres, 6.3e6)
		if l.lat1 == -l.lat2 && turn(l.lon1+180, l.lon2) == 0 { // to the antipode every course is right, or nearly so
			continue
		}
		if e := turn(c1, l.course1) * radian * reach; e > 1e-2 {
			t.Errorf("%v: course %.9f, off by %.2g m", l, c1, e)
		}
		if e := turn(c2, l.course2) * radian * reach; e > 1e-2 {
			t.Errorf("%v: arrival %.9f, off by %.2g m", l, c2, e)
		}
	}
}

// Going out on a line's course for its length arrives at its end.
func TestDirect(t *testing.T) {
	for _, l := range lines {
		if math.Abs(l.lat1) == 90 {
			continue
		}
		lat, lon, c2 := Direct(l.lat1, l.lon1, l.course1, l.metres)
		if miss, _, _ := Inverse(lat, lon, l.lat2, l.lon2); miss > 2e-3 {
			t.Errorf("%v: arrives at %.9f %.9f, %.2g m off", l, lat, lon, miss)
		}
		if math.Abs(l.lat2) < 89 && turn(c2, l.course2) > 1e-6 {
			t.Errorf("%v: arrives on %.9f", l, c2)
		}
	}
}

// Short legs, also across the antimeridian and far south, agree with the exact line to a hundredth of a millimetre.
func TestShortLegs(t *testing.T) {
	for lat := -89.5; lat < 90; lat += 5.5 {
		for _, d := range [][2]float64{{0.0099, 0}, {0, 0.0099}, {0.007, -0.007}, {1e-6, 2e-6}, {-0.011, 0}, {0, 0.011},
			{0.1, 0.05}, {-0.39, 0.39}, {0.2, -0.399}, {1e-7, 0.39}} {
			want, _, _ := Inverse(lat, 179.998, lat+d[0], 179.998+d[1])
			got := Distance(lat, 179.998, lat+d[0], math.Remainder(179.998+d[1], 360))
			if math.Abs(got-want) > 1e-5 {
				t.Errorf("%v %v: %.6f, want %.6f", lat, d, got, want)
			}
		}
	}
}

func BenchmarkInverse(b *testing.B) {
	for b.Loop() {
		Inverse(-47.6, 11.3, 40.96, -5.5)
	}
}

func BenchmarkShortDistance(b *testing.B) {
	for b.Loop() {
		Distance(-47.6, 11.3, -47.6001, 11.3001)
	}
}

// From a pole a course leads along the meridian that it names, as it does on the azimuthal picture of the pole: to the
// east of that of the start by the course in the south, and from the opposite one to the west in the north.
func TestDirectFromPoles(t *testing.T) {
	for _, course := range []float64{0, 30, 90, 180, 299} {
		for _, c := range []struct{ lat, lon float64 }{{-90, 10 + course}, {90, 190 - course}} {
			lat, lon, _ := Direct(c.lat, 10, course, 100_000)
			if off := math.Remainder(lon-c.lon, 360); math.Abs(off) > 1e-9 {
				t.Errorf("from %v on %v: longitude %v, not %v", c.lat, course, lon, c.lon)
			}
			distance, back, _ := Inverse(c.lat, 10, lat, lon)
			if math.Abs(distance-100_000) > 1e-6 || math.Abs(math.Remainder(back-course, 360)) > 1e-9 {
				t.Errorf("from %v on %v: back %v on %v", c.lat, course, distance, back)
			}
		}
	}
}
