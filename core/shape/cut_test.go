package shape

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// star is a ring of some corners about a place, each as far from it as chance has it, in degrees.
func star(r *rand.Rand, lat, lon, size float64) (out []nav.Point) {
	n := 3 + r.IntN(9)
	for i := range n {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(n))
		far := size * (0.3 + 0.7*r.Float64())
		out = append(out, nav.At(max(min(lat+far*sin, 89), -89), lon+far*cos))
	}
	return
}

// girdle is a ring around the earth to the east, between two latitudes.
func girdle(r *rand.Rand, low, high float64) (out []nav.Point) {
	n := 3 + r.IntN(9)
	for i := range n {
		out = append(out, nav.At(low+r.Float64()*(high-low), 360*float64(i)/float64(n)+r.Float64()*50))
	}
	return
}

// anArea is one of several sorts: about a place, around a pole, a band, each perhaps with a hole.
func anArea(r *rand.Rand) [][]nav.Point {
	switch r.IntN(4) {
	case 0: // around a pole, perhaps with a hole beside it
		rings := [][]nav.Point{girdle(r, 10, 40)}
		if r.IntN(2) == 0 {
			rings = append(rings, star(r, 65, 360*r.Float64(), 10))
		}
		if r.IntN(2) == 0 {
			for _, ring := range rings {
				for i := range ring {
					ring[i].Lat = -ring[i].Lat
				}
			}
			slices.Reverse(rings[0])
		}
		return rings
	case 1: // a band
		return [][]nav.Point{girdle(r, -40, -10), girdle(r, 20, 60)}
	}
	lat, lon := 100*r.Float64()-50, 360*r.Float64()
	rings := [][]nav.Point{star(r, lat, lon, 30)}
	if r.IntN(2) == 0 {
		rings = append(rings, star(r, lat, lon, 5))
	}
	return rings
}

func moved(rings [][]nav.Point, by float64) (out [][]nav.Point) {
	for _, ring := range rings {
		ring = slices.Clone(ring)
		for i := range ring {
			ring[i].Lon = nav.WrapLon(ring[i].Lon + by)
		}
		out = append(out, ring)
	}
	return
}

// plainly says whether a place lies in areas that were cut, by their longitudes as they stand: inside of an odd number
// of rings.
func plainly(parts [][][]nav.Point, lat, lon float64) (in bool) {
	for _, rings := range parts {
		for _, ring := range rings {
			if inside(ring, &nav.Point{Lat: lat, Lon: lon}) {
				in = !in
			}
		}
	}
	return
}

func whole(rings [][]nav.Point) *region.Interior {
	return region.NewInterior(&nav.Area{Outline: rings[0], Holes: rings[1:]})
}

// Cut at the antimeridian an area is the same set of places on a map from -180° to 180°, wherever that begins, and
// joined again as well: about a place, around a pole, or all around the earth, with holes and without.
func TestCutAndJoined(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for n := range 900 {
		rings := anArea(r)
		in := whole(rings)
		by := 360 * r.Float64()
		if n%3 == 0 {
			by = 180 - rings[0][0].Lon // a corner lies on the antimeridian
		}
		rings = moved(rings, by)
		parts := CutArea(rings)
		var read [][][]nav.Point
		for _, part := range parts {
			var polygon [][]nav.Point
			for _, ring := range part {
				var points []nav.Point
				var east []int
				for i, p := range ring {
					if p.Lon < -180 || p.Lon > 180 {
						t.Fatalf("%v of %v lies beyond the map", p.Lon, rings)
					}
					if p.Lon == 180 {
						p.Lon, east = -180, append(east, i)
					}
					points = append(points, p)
				}
				polygon = append(polygon, Corners(points, east))
			}
			read = append(read, polygon)
		}
		joined := JoinAreas(read)
		if len(joined) != 1 || len(joined[0]) != len(rings) {
			t.Fatalf("%v is joined as %v", rings, joined)
		}
		back := whole(joined[0])
		for range 40 {
			lat, lon := 180*r.Float64()-90, 360*r.Float64()-180
			want := in.Contains(lat, nav.WrapLon(lon-by))
			if got := plainly(parts, lat, lon); got != want {
				t.Fatalf("%v %v is in %v: %v, and cut as %v: %v", lat, lon, rings, want, parts, got)
			}
			if got := back.Contains(lat, lon); got != want {
				t.Fatalf("%v %v is in %v: %v, and joined as %v: %v", lat, lon, rings, want, joined[0], got)
			}
		}
	}
}

// A ring is read as its longitudes stand: all around the earth, half around it, along a pole, and closed by its first
// corner on the other side.
func TestCorners(t *testing.T) {
	type at struct{ lat, lon float64 }
	for _, c := range []struct {
		name    string
		ring    []at // 180 is not -180
		in, out []at
	}{
		{"a band", []at{{50, -180}, {50, 180}, {60, 180}, {60, -180}, {50, -180}}, []at{{55, 0}, {55, 179.9}, {55, -180}},
			[]at{{45, 0}, {65, 0}}},
		{"the eastern half", []at{{-10, 0}, {-10, 180}, {10, 180}, {10, 0}, {-10, 0}}, []at{{0, 90}, {5, 179}},
			[]at{{0, -90}, {5, -179}}},
		{"the western half", []at{{-10, -180}, {-10, 0}, {10, 0}, {10, -180}, {-10, -180}}, []at{{0, -90}, {5, -179}},
			[]at{{0, 90}, {5, 179}}},
		{"a polar continent", []at{{-90, -180}, {-90, 180}, {-75, 180}, {-65, 0}, {-72, -120}, {-75, -180}, {-90, -180}},
			[]at{{-80, 10}, {-89.9, -180}, {-80, 179.99}, {-90, 0}}, []at{{-60, 0}, {60, 0}, {90, 0}}},
		{"with steps along its border", []at{{-90, -180}, {-90, 0}, {-90, 180}, {-75, 180}, {-65, 0}, {-72, -120},
			{-75, -180}, {-80, -180}, {-90, -180}}, []at{{-80, 10}, {-89.9, -180}}, []at{{-60, 0}}},
		{"a cap whose end is its beginning", []at{{80, -180}, {80, 0}, {80, 180}, {80, -180}}, []at{{85, 10}, {90, 0}},
			[]at{{75, 10}}},
		{"the world", []at{{-90, -180}, {-90, 180}, {90, 180}, {90, -180}, {-90, -180}}, []at{{0, 0}, {-89, -179.9},
			{89, 179}}, nil},
	} {
		var points []nav.Point
		var east []int
		for i, p := range c.ring {
			if p.lon == 180 {
				east = append(east, i)
			}
			points = append(points, nav.At(p.lat, p.lon))
		}
		rings := [][]nav.Point{Corners(points, east)}
		Poleward(rings, AnyWay)
		in := whole(JoinAreas([][][]nav.Point{rings})[0])
		for _, p := range c.in {
			if !in.Contains(p.lat, p.lon) {
				t.Errorf("%s: %v is not in it", c.name, p)
			}
		}
		for _, p := range c.out {
			if in.Contains(p.lat, p.lon) {
				t.Errorf("%s: %v is in it", c.name, p)
			}
		}
	}
}
