package near

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// scattered are waypoints all over the earth, about the antimeridian and a pole too.
func scattered(n int) *nav.Dataset {
	d := &nav.Dataset{}
	r := rand.New(rand.NewPCG(1, 2))
	for i := range n {
		lat, lon := math.Asin(2*r.Float64()-1)*180/math.Pi, 360*r.Float64()-180
		if i%3 == 0 {
			lat, lon = -17+r.NormFloat64(), nav.WrapLon(180+r.NormFloat64())
		}
		w := nav.Waypoint{Point: nav.At(lat, lon)}
		w.Name = fmt.Sprint(i)
		d.Waypoints = append(d.Waypoints, w)
	}
	return d
}

// What the index finds is what a look at everything finds, wherever one asks.
func TestIndexFindsWhatALookAtAllFinds(t *testing.T) {
	d := scattered(3000)
	x := NewIndex(d, "f")
	for _, at := range [][2]float64{{-17, 180}, {-17, -179.9}, {89.9, 40}, {-90, 0}, {0, 0}, {47, 11}, {60, -179.5}} {
		type one struct {
			name string
			far  float64
		}
		var want []one
		for i := range d.Waypoints {
			w := &d.Waypoints[i]
			want = append(want, one{w.Name, geodesy.Distance(at[0], at[1], w.Lat, w.Lon)})
		}
		least := func(than float64) (best one) {
			best.far = math.Inf(1)
			for _, o := range want {
				if o.far > than && o.far < best.far {
					best = o
				}
			}
			return
		}
		got := x.Near(at[0], at[1], math.Inf(1), 12)
		last := -1.0
		for i, h := range got {
			w := least(last)
			if last = w.far; h.Name != w.name || math.Abs(h.Distance-w.far) > 0.001 {
				t.Fatalf("from %v number %d: %s at %.3f m, want %s at %.3f m", at, i+1, h.Name, h.Distance, w.name, w.far)
			}
		}
		if len(got) != 12 {
			t.Errorf("from %v: %d hits", at, len(got))
		}
		within := 0
		for _, o := range want {
			if o.far <= 100_000 {
				within++
			}
		}
		if got := x.Near(at[0], at[1], 100_000, 0); len(got) != within {
			t.Errorf("from %v within 100 km: %d, want %d", at, len(got), within)
		}
	}
}

// The nearest place of a line lies on a leg and not at a point; inside of an area nothing is nearer, and in its hole
// the edge of the hole is.
func TestLinesAndAreas(t *testing.T) {
	at := func(course, far float64) nav.Point {
		lat, lon, _ := geodesy.Direct(-47.6, 11.3, course, far)
		return nav.At(lat, lon)
	}
	square := func(size float64) []nav.Point {
		return []nav.Point{at(45, size), at(135, size), at(225, size), at(315, size)}
	}
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "line"}, Segments: []nav.Segment{{Points: []nav.Point{
		at(45, 2000), at(135, 2000)}}}}},
		Areas: []nav.Area{{Item: nav.Item{Name: "around"}, Outline: square(5000)},
			{Item: nav.Item{Name: "ring"}, Outline: square(9000), Holes: [][]nav.Point{square(8000)}}}}
	got := NewIndex(d, "").Near(-47.6, 11.3, math.Inf(1), 0)
	if len(got) != 3 || !got[0].Inside || got[0].Name != "around" || got[0].Distance != 0 {
		t.Fatalf("%+v", got)
	}
	// The leg runs from north-east to south-east, 2 km off: its middle lies 2000 m times the cosine of 45° to the east.
	if h := got[1]; h.Name != "line" || math.Abs(h.Distance-2000*math.Sqrt2/2) > 0.5 || math.Abs(h.Course-90) > 0.05 ||
		h.Leg != 1 {
		t.Errorf("%+v", h)
	}
	if h := got[2]; h.Name != "ring" || h.Inside || math.Abs(h.Distance-8000*math.Sqrt2/2) > 3 {
		t.Errorf("%+v", h)
	}
}
