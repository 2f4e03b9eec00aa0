package region

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"gyrolith/core/nav"
)

// star is a ring of spikes, or of many small steps, around a position.
func star(r *rand.Rand, lat, lon, size float64, corners int) (ring []nav.Point) {
	for i := range corners {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(corners))
		far := size * (0.2 + 0.8*r.Float64())
		ring = append(ring, nav.At(lat+far*sin, nav.WrapLon(lon+far*cos)))
	}
	return
}

// contains says whether a position is in an area, by a look at every edge.
func contains(a *nav.Area, lat, lon float64) bool {
	return Contains(a.Outline, lat, lon) &&
		!slices.ContainsFunc(a.Holes, func(hole []nav.Point) bool { return Contains(hole, lat, lon) })
}

// crossedEdges gives where a leg crosses the edges of areas, by a look at every one.
func crossedEdges(a, b *nav.Point, areas ...nav.Area) (parts []float64) {
	for i := range areas {
		for _, ring := range areas[i].Rings() {
			for k := range ring {
				if part, ok := crossing(a, b, &ring[k], &ring[(k+1)%len(ring)]); ok {
					parts = append(parts, part)
				}
			}
		}
	}
	slices.Sort(parts)
	return
}

// What holds a position, and where a leg crosses edges, is the same with the index as by a look at every edge.
func TestRegionsAsByEveryEdge(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 1))
	var areas []nav.Area
	for i := range 60 {
		lat, lon := r.Float64()*20-10, nav.WrapLon(175+r.Float64()*10)
		size := math.Exp(r.Float64()*4 - 3)
		a := nav.Area{Outline: star(r, lat, lon, size, 3+r.IntN(200))}
		for range i % 4 {
			a.Holes = append(a.Holes, star(r, lat+size*(r.Float64()-0.5), nav.WrapLon(lon+size*(r.Float64()-0.5)), size/6, 8))
		}
		areas = append(areas, a)
	}
	areas[3].Outline, areas[4].Holes = areas[3].Outline[:2], [][]nav.Point{nil} // no area, and an empty hole
	flat := []nav.Point{nav.At(1, 178), nav.At(1, 179), nav.At(1, 180)}
	areas[5] = nav.Area{Outline: flat}
	regions := New(areas, func(a *nav.Area) bool { return len(a.Holes) != 3 })
	var ready []nav.Area
	for i, a := range areas {
		if i != 3 && len(a.Holes) != 3 {
			ready = append(ready, a)
		}
	}
	held := 0
	for range 5000 {
		lat, lon := r.Float64()*24-12, nav.WrapLon(172+r.Float64()*16)
		if r.IntN(20) == 0 { // at the height of a corner
			ring := areas[r.IntN(len(areas))].Outline
			lat = ring[r.IntN(len(ring))].Lat
		}
		var want, got []int
		for i := range areas {
			in := i != 3 && len(areas[i].Holes) != 3 && contains(&areas[i], lat, lon)
			if in {
				want = append(want, i)
			}
			if regions.Holds(i, lat, lon) != in {
				t.Fatalf("%v %v in area %d: %v", lat, lon, i, !in)
			}
		}
		regions.Holding(lat, lon, func(i int) bool { got = append(got, i); return true })
		if held += len(got); !slices.Equal(got, want) {
			t.Fatalf("%v %v is in %v, and found in %v", lat, lon, want, got)
		}
	}
	if held < 400 {
		t.Errorf("only %d times in an area", held)
	}
	for range 1000 {
		a := nav.At(r.Float64()*24-12, nav.WrapLon(172+r.Float64()*16))
		b := nav.At(a.Lat+r.NormFloat64()*3, nav.WrapLon(a.Lon+r.NormFloat64()*3))
		want, got := crossedEdges(&a, &b, ready...), regions.Straight(&a, &b, nil)
		slices.Sort(got)
		if !slices.Equal(got, want) {
			t.Fatalf("%v to %v crosses at %v, and was found to at %v", a, b, want, got)
		}
	}
}

// Areas wider than half of the earth, and one all around it, hold what they hold, and legs cross them where they do.
func TestWideRegions(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 9))
	around := func(lons ...float64) (ring []nav.Point) {
		for _, lon := range lons {
			ring = append(ring, nav.At(-60, lon))
		}
		for _, lon := range slices.Backward(lons) {
			ring = append(ring, nav.At(60, lon))
		}
		return
	}
	rings := [][]nav.Point{around(-180, -90, 0, 90, 180), around(-180, -60, 60, 180), around(-170, -60, 60, 170),
		around(100, 180, -90, 0), around(-100, 100)}
	for range 400 {
		wide, middle, n := r.Float64()*170, r.Float64()*360-180, 3+r.IntN(40)
		var ring []nav.Point
		for i := range n {
			sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(n))
			ring = append(ring, nav.At(60*sin*r.Float64(), nav.WrapLon(middle+wide*cos)))
		}
		rings = append(rings, ring)
	}
	var all []nav.Area
	for _, ring := range rings {
		all = append(all, nav.Area{Outline: ring})
	}
	together := New(all, func(*nav.Area) bool { return true })
	for range 300 {
		a, b := nav.At(r.Float64()*180-90, r.Float64()*360-180), nav.At(r.Float64()*180-90, r.Float64()*360-180)
		if r.IntN(4) == 0 {
			a.Lon = -180
		}
		var want, got []int
		for i := range all {
			if contains(&all[i], a.Lat, a.Lon) {
				want = append(want, i)
			}
		}
		together.Holding(a.Lat, a.Lon, func(i int) bool { got = append(got, i); return true })
		if !slices.Equal(got, want) {
			t.Fatalf("%v is in %v, and found in %v", a, want, got)
		}
		edges, parts := crossedEdges(&a, &b, all...), together.Straight(&a, &b, nil)
		slices.Sort(parts)
		if !slices.Equal(parts, edges) {
			t.Fatalf("%v to %v crosses at %v, and was found to at %v", a, b, edges, parts)
		}
	}
	for _, ring := range rings {
		areas := []nav.Area{{Outline: ring}}
		regions := New(areas, func(*nav.Area) bool { return true })
		for range 200 {
			a, b := nav.At(r.Float64()*180-90, r.Float64()*360-180), nav.At(r.Float64()*180-90, r.Float64()*360-180)
			if in := contains(&areas[0], a.Lat, a.Lon); regions.Holds(0, a.Lat, a.Lon) != in {
				t.Fatalf("%v in %v: %v", a, ring, !in)
			}
			want, got := crossedEdges(&a, &b, areas...), regions.Straight(&a, &b, nil)
			slices.Sort(got)
			if !slices.Equal(got, want) {
				t.Fatalf("%v to %v crosses %v at %v, and was found to at %v", a, b, ring, want, got)
			}
		}
	}
}
