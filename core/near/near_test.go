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
		got := x.Near(new(nav.At(at[0], at[1])), math.Inf(1), 12)
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
		if got := x.Near(new(nav.At(at[0], at[1])), 100_000, 0); len(got) != within {
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
	got := NewIndex(d, "").Near(new(nav.At(-47.6, 11.3)), math.Inf(1), 0)
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

// The nearest place on a leg of any length is the nearest of all places on the shortest line between its ends, and on
// an edge of an area the nearest of those that are straight in longitude and latitude.
func TestLongLegs(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	pick := func(scale float64) nav.Point {
		return nav.At(-47+scale*(r.Float64()-0.5), nav.WrapLon(176+2*scale*(r.Float64()-0.5)))
	}
	for n := range 120 {
		scale := []float64{0.5, 2, 10, 60}[n%4]
		a, b, at := pick(scale), pick(scale), pick(scale)
		d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: []nav.Point{a, b}}}}}}
		length, course, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
		want := least(at, func(part float64) (float64, float64) {
			lat, lon, _ := geodesy.Direct(a.Lat, a.Lon, course, part*length)
			return lat, lon
		})
		hits := NewIndex(d, "").Near(new(nav.At(at.Lat, at.Lon)), math.Inf(1), 0)
		if len(hits) != 1 || math.Abs(hits[0].Distance-want) > 0.001+want*1e-9 {
			t.Fatalf("%v to %v from %v: %+v, want %.4f m", a, b, at, hits, want)
		}
		c := pick(scale)
		d = &nav.Dataset{Areas: []nav.Area{{Outline: []nav.Point{a, b, c}}}}
		hits = NewIndex(d, "").Near(new(nav.At(at.Lat, at.Lon)), math.Inf(1), 0)
		want = math.Inf(1)
		for _, edge := range [3][2]nav.Point{{a, b}, {b, c}, {c, a}} {
			p, q := edge[0], edge[1]
			want = min(want, least(at, func(part float64) (float64, float64) {
				return p.Lat + part*(q.Lat-p.Lat), nav.WrapLon(p.Lon + part*nav.WrapLon(q.Lon-p.Lon))
			}))
		}
		if len(hits) != 1 || !hits[0].Inside && math.Abs(hits[0].Distance-want) > 0.001+want*1e-9 {
			t.Fatalf("the area %v %v %v from %v: %+v, want %.4f m", a, b, c, at, hits, want)
		}
	}
	d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: []nav.Point{nav.At(60.170, 173.878),
		nav.At(54.731, -165.829)}}}}}}
	d.Tracks[0].Segments[0].Points[0].Lat, d.Tracks[0].Segments[0].Points[1].Lat = -60.170, -54.731
	if h := NewIndex(d, "").Near(new(nav.At(-74.659, -20.309)), math.Inf(1), 0); math.Abs(h[0].Distance-5005.7e3) > 100 {
		t.Errorf("%.1f km, want 5,005.7", h[0].Distance/1000)
	}
}

// least goes over a line ever more finely.
func least(from nav.Point, at func(part float64) (lat, lon float64)) float64 {
	low, high, best := 0.0, 1.0, math.Inf(1)
	for range 7 {
		const steps = 400
		place := 0.0
		for i := range steps + 1 {
			part := low + (high-low)*float64(i)/steps
			lat, lon := at(part)
			if d, _, _ := geodesy.Inverse(from.Lat, from.Lon, lat, lon); d < best {
				best, place = d, part
			}
		}
		if place == 0 && low > 0 { // nothing nearer any more
			break
		}
		step := (high - low) / steps
		low, high = max(place-step, 0), min(place+step, 1)
	}
	return best
}
