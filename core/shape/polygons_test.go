package shape

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
	"gyrolith/core/region"
)

func sizeOf(set []Polygon) (sum float64) {
	for _, rings := range set {
		sum += (&nav.Area{Outline: rings[0], Holes: rings[1:]}).Size()
	}
	return
}

// spiky is a ring of spikes around a position.
func spiky(r *rand.Rand, lat, lon, size float64, corners int) (ring []nav.Point) {
	for i := range corners {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(corners))
		far := size * (0.3 + 0.7*r.Float64())
		ring = append(ring, nav.At(lat+far*sin, nav.WrapLon(lon+far*cos)))
	}
	return
}

// stars are polygons about a place, some of them with a hole.
func stars(r *rand.Rand, lat, lon float64, n int) (set []Polygon) {
	for i := range n {
		y, x := lat+r.Float64()*4-2, lon+r.Float64()*4-2
		p := Polygon{spiky(r, y, x, 1.2, 8+r.IntN(30))}
		if i%3 == 0 {
			p = append(p, spiky(r, y, x, 0.1, 3+r.IntN(9)))
		}
		set = append(set, p)
	}
	return
}

func holding(set []Polygon, lat, lon float64) bool {
	return slices.ContainsFunc(set, func(p Polygon) bool {
		return region.NewInterior(&nav.Area{Outline: p[0], Holes: p[1:]}).Contains(lat, lon)
	})
}

func turnedBy(set []Polygon, east float64) (out []Polygon) {
	for _, rings := range set {
		var polygon Polygon
		for _, ring := range rings {
			ring = slices.Clone(ring)
			for i := range ring {
				ring[i].Lon = nav.WrapLon(ring[i].Lon + east)
			}
			polygon = append(polygon, ring)
		}
		out = append(out, polygon)
	}
	return
}

// What a union, an intersection and a difference hold is what their operands do, by a look at positions; their sizes
// add up; and it is the same in another order, and over the antimeridian.
func TestPolygonArithmetic(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 9))
	for round := range 40 {
		lat, lon := r.Float64()*120-60, r.Float64()*360-180
		a, b := stars(r, lat, lon, 1+r.IntN(6)), stars(r, lat, lon, 1+r.IntN(6))
		sizes := func(a, b []Polygon) (u, i, d, s float64, all [3][]Polygon) {
			var err [5]error
			var ua, ub []Polygon
			ua, err[0] = Union(a)
			ub, err[1] = Union(b)
			all[0], err[2] = Union(slices.Concat(a, b))
			all[1], err[3] = Intersection(a, b)
			all[2], err[4] = Difference(a, b)
			for _, e := range err {
				if e != nil {
					t.Fatal(e)
				}
			}
			u, i, d = sizeOf(all[0]), sizeOf(all[1]), sizeOf(all[2])
			if sum := sizeOf(ua) + sizeOf(ub); math.Abs(u+i-sum) > 1e-9*sum {
				t.Fatalf("round %d: union %f and intersection %f are not %f", round, u, i, sum)
			}
			if sum := sizeOf(ua); math.Abs(i+d-sum) > 1e-9*sum {
				t.Fatalf("round %d: intersection %f and difference %f are not %f", round, i, d, sum)
			}
			return u, i, d, u + i + d, all
		}
		u, i, d, _, all := sizes(a, b)
		for range 100 {
			y, x := lat+r.Float64()*6-3, nav.WrapLon(lon+r.Float64()*6-3)
			inA, inB := holding(a, y, x), holding(b, y, x)
			for k, want := range []bool{inA || inB, inA && inB, inA && !inB} {
				if holding(all[k], y, x) != want {
					t.Fatalf("round %d: %v %v in result %d: %v", round, y, x, k, !want)
				}
			}
		}
		for _, set := range all {
			for _, p := range set {
				if f := Flaws(&nav.Area{Outline: p[0], Holes: p[1:]}); len(f) > 0 {
					t.Fatalf("round %d: the result is flawed: %v", round, f)
				}
			}
		}
		back, other := slices.Clone(a), slices.Clone(b)
		slices.Reverse(back)
		slices.Reverse(other)
		east := math.Round(180 - lon)
		for _, again := range [][2][]Polygon{{back, other}, {turnedBy(a, east), turnedBy(b, east)}} {
			u2, i2, d2, _, _ := sizes(again[0], again[1])
			if math.Abs(u-u2)+math.Abs(i-i2)+math.Abs(d-d2) > 1e-8*u {
				t.Fatalf("round %d: %f %f %f, and again %f %f %f", round, u, i, d, u2, i2, d2)
			}
		}
	}
}

// Corners on a coarse grid give outlines that touch themselves and one another, and edges that lie on others: what they
// share and leave still adds up.
func TestTouchingPolygons(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 3))
	ring := func(corners int) (out []nav.Point) {
		for range corners {
			out = append(out, nav.At(float64(r.IntN(8)), float64(r.IntN(8))))
		}
		return
	}
	computed := 0
	for round := range 300 {
		var sets [2][]Polygon
		for k := range sets {
			for range 1 + r.IntN(4) {
				a := nav.Area{Outline: ring(3 + r.IntN(6))}
				if r.IntN(3) == 0 {
					a.Holes = append(a.Holes, ring(3+r.IntN(3)))
				}
				parts, _, err := Mended(&a)
				if err != nil {
					t.Fatalf("round %d: %v", round, err)
				}
				sets[k] = append(sets[k], parts...)
			}
		}
		if len(sets[0]) == 0 || len(sets[1]) == 0 {
			continue
		}
		computed++
		var sizes []float64
		for _, make := range []func() ([]Polygon, error){
			func() ([]Polygon, error) { return Union(slices.Concat(sets[0], sets[1])) },
			func() ([]Polygon, error) { return Intersection(sets[0], sets[1]) },
			func() ([]Polygon, error) { return Difference(sets[0], sets[1]) },
			func() ([]Polygon, error) { return Union(sets[0]) }, func() ([]Polygon, error) { return Union(sets[1]) },
		} {
			got, err := make()
			if err != nil {
				t.Fatalf("round %d: %v", round, err)
			}
			sizes = append(sizes, sizeOf(got))
		}
		u, i, d, a, b := sizes[0], sizes[1], sizes[2], sizes[3], sizes[4]
		if math.Abs(u+i-a-b)+math.Abs(i+d-a) > 1e-5*u {
			t.Errorf("round %d: union %f, intersection %f, difference %f of %f and %f", round, u, i, d, a, b)
		}
	}
	if computed < 50 {
		t.Errorf("only %d rounds", computed)
	}
}

// Caps around the poles and bands around the earth are computed with as well.
func TestPolarArithmetic(t *testing.T) {
	ring := func(lat float64, east bool) (out []nav.Point) {
		for k := range 12 {
			out = append(out, nav.At(lat, float64(k)*30-180))
		}
		if !east {
			slices.Reverse(out)
		}
		return
	}
	big, small := []Polygon{{ring(-60, false)}}, []Polygon{{ring(-75, false)}}
	wedge := []Polygon{{{nav.At(-80, 10), nav.At(-80, 40), nav.At(-50, 40), nav.At(-50, 10)}}}
	for _, c := range []struct {
		name string
		got  func() ([]Polygon, error)
		want float64
		in   [][2]float64
		out  [][2]float64
	}{
		{"band", func() ([]Polygon, error) { return Difference(big, small) }, sizeOf(big) - sizeOf(small),
			[][2]float64{{-65, 0}, {-65, 179}, {-65, -180}}, [][2]float64{{-80, 0}, {-55, 20}, {-90, 0}}},
		{"cap again", func() ([]Polygon, error) { return Intersection(big, small) }, sizeOf(small),
			[][2]float64{{-80, 0}, {-89.9, 170}}, [][2]float64{{-65, 0}}},
		{"cap and wedge", func() ([]Polygon, error) { return Union(slices.Concat(big, wedge)) },
			sizeOf(big) + sizeOf(wedge)/sizeOf([]Polygon{{{nav.At(-80, 0), nav.At(-80, 30), nav.At(-50, 30), nav.At(-50, 0)}}})*
				sizeOf([]Polygon{{{nav.At(-60, 0), nav.At(-60, 30), nav.At(-50, 30), nav.At(-50, 0)}}}),
			[][2]float64{{-55, 20}, {-70, 100}, {-89, 0}}, [][2]float64{{-55, 45}}},
		{"cap without wedge", func() ([]Polygon, error) { return Difference(big, wedge) },
			sizeOf(big) - sizeOf([]Polygon{{{nav.At(-80, 10), nav.At(-80, 40), nav.At(-60, 40), nav.At(-60, 10)}}}),
			[][2]float64{{-85, 20}, {-70, 45}}, [][2]float64{{-70, 20}}},
	} {
		got, err := c.got()
		if err != nil {
			t.Fatal(err)
		}
		if size := sizeOf(got); math.Abs(size-c.want) > 1e-9*c.want {
			t.Errorf("%s: %.0f m², want %.0f", c.name, size, c.want)
		}
		for _, at := range c.in {
			if !holding(got, at[0], at[1]) {
				t.Errorf("%s: %v is not in it", c.name, at)
			}
		}
		for _, at := range c.out {
			if holding(got, at[0], at[1]) {
				t.Errorf("%s: %v is in it", c.name, at)
			}
		}
	}
}

// A long outline is shortened where nothing happens, and comes back with all of its corners as they were.
func TestFarCornersStay(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 4))
	big := Polygon{spiky(r, -47, 11, 1, 3*manyCorners)}
	for i := range big[0] { // gently waved
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / float64(len(big[0])))
		far := 1 + 0.002*r.Float64()
		big[0][i] = nav.At(-47+far*sin, 11+far*cos)
	}
	bite := []Polygon{{spiky(r, -46, 11, 0.2, 30)}}
	if _, runs := withoutFar(big, boxOf(bite)); len(runs) == 0 {
		t.Fatal("nothing was shortened")
	}
	without, err := Difference([]Polygon{big}, bite)
	within, err2 := Intersection([]Polygon{big}, bite)
	if err != nil || err2 != nil {
		t.Fatal(err, err2)
	}
	whole := sizeOf([]Polygon{big})
	if sum := sizeOf(without) + sizeOf(within); math.Abs(sum-whole) > 1e-9*whole {
		t.Errorf("%f, and in parts %f", whole, sum)
	}
	of := map[place]bool{}
	for _, set := range [][]Polygon{without, within} {
		for _, p := range set {
			for _, ring := range p {
				for i := range ring {
					of[placeOf(&ring[i])] = true
				}
			}
		}
	}
	for i := range big[0] {
		if !of[placeOf(&big[0][i])] {
			t.Fatalf("corner %d is gone", i)
		}
	}
}

// Many others take out of an area what they cover, whether they lie inside of it, across its edges, around one of its
// holes or around all of it.
func TestManyHoles(t *testing.T) {
	r := rand.New(rand.NewPCG(4, 9))
	square := func(lat, lon, half float64) []nav.Point {
		return []nav.Point{nav.At(lat-half, lon-half), nav.At(lat-half, lon+half), nav.At(lat+half, lon+half),
			nav.At(lat+half, lon-half)}
	}
	big := Polygon{square(-47, 11, 1), square(-47, 11, 0.1), square(-46.5, 11.5, 0.05)}
	others := []Polygon{{square(-47, 11, 0.2)}, {square(-46.5, 11.5, 0.03)}}
	for range 3 * manyHoles {
		others = append(others, Polygon{square(-48.2+2.4*r.Float64(), 9.8+2.4*r.Float64(), 0.02+0.05*r.Float64())})
	}
	got, err := Difference([]Polygon{big}, others)
	if err != nil {
		t.Fatal(err)
	}
	for range 3000 {
		lat, lon := -48.1+2.2*r.Float64(), 9.9+2.2*r.Float64()
		if want := holding([]Polygon{big}, lat, lon) && !holding(others, lat, lon); holding(got, lat, lon) != want {
			t.Fatalf("%v %v in the rest: %v", lat, lon, !want)
		}
	}
	for _, p := range got {
		if f := Flaws(&nav.Area{Outline: p[0], Holes: p[1:]}); len(f) > 0 {
			t.Errorf("the rest is flawed: %v", f)
		}
	}
	if left, err := Difference([]Polygon{big}, append(others, Polygon{square(-47, 11, 3)})); err != nil || len(left) > 0 {
		t.Errorf("%d left of what lies in another: %v", len(left), err)
	}
}

// Parts of an area have one size each and add up to it; a heading is that of the lines between them.
func TestDivide(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 1))
	for round := range 60 {
		lat, lon := r.Float64()*140-70, r.Float64()*360-180
		set := []Polygon{{spiky(r, lat, lon, 2, 8+r.IntN(40)), spiky(r, lat, lon, 0.2, 5)}}
		parts := 2 + r.IntN(7)
		var heading *float64
		if round%2 == 0 {
			h := r.Float64() * 360
			heading = &h
		}
		d, ok := Divide(set, parts, heading)
		if !ok {
			t.Fatal("not divided")
		}
		whole, sum := sizeOf(set), 0.0
		for k, part := range d.Parts {
			size := sizeOf(part)
			if sum += size; math.Abs(size*float64(parts)-whole) > 1e-6*whole {
				t.Errorf("round %d: part %d of %d is %.6f of its share", round, k, parts, size*float64(parts)/whole)
			}
			if both, err := Intersection(part, d.Parts[(k+1)%parts]); err != nil || sizeOf(both) > 1e-9*whole {
				t.Errorf("round %d: parts %d and %d share %f m²: %v", round, k, k+1, sizeOf(both), err)
			}
		}
		if math.Abs(sum-whole) > 1e-9*whole {
			t.Errorf("round %d: the parts are %f of %f", round, sum, whole)
		}
	}
	// Four parts of a box between lines of 0° lie from west to east, and are quarters of it.
	north := 0.0
	box := []Polygon{{{nav.At(-48, 179), nav.At(-48, -177), nav.At(-47, -177), nav.At(-47, 179)}}}
	d, _ := Divide(box, 4, &north)
	for k, part := range d.Parts {
		lons := map[float64]bool{}
		for i := range part[0][0] {
			lons[math.Round(part[0][0][i].Lon*1e6)/1e6] = true
		}
		west, east := nav.WrapLon(179+float64(k)), nav.WrapLon(180+float64(k))
		if len(lons) != 2 || !lons[west] || !lons[east] {
			t.Errorf("part %d lies between %v", k, lons)
		}
	}
}

// Lines part an area where they go all through it, over the antimeridian as well; ends inside part nothing.
func TestSplit(t *testing.T) {
	for _, east := range []float64{0, 169, -100} {
		at := func(lat, lon float64) nav.Point { return nav.At(lat, nav.WrapLon(lon+east)) }
		box := []Polygon{{{at(-1, 10), at(-1, 12), at(1, 12), at(1, 10)}, {at(-0.2, 10.8), at(0.2, 10.8), at(0.2, 11.2),
			at(-0.2, 11.2)}}}
		for _, c := range []struct {
			name  string
			lines [][]nav.Point
			parts int
		}{
			{"through the hole", [][]nav.Point{{at(-2, 11), at(2, 11)}}, 2},
			{"beside it", [][]nav.Point{{at(-2, 10.5), at(2, 10.5)}}, 2},
			{"a cross", [][]nav.Point{{at(-2, 10.5), at(2, 10.5)}, {at(0.5, 9), at(0.5, 13)}}, 4},
			{"ends inside", [][]nav.Point{{at(-2, 10.5), at(0.5, 10.5)}}, 1},
			{"from edge to edge", [][]nav.Point{{at(-1, 10.5), at(0, 10.6), at(1, 10.5)}}, 2},
			{"to the hole", [][]nav.Point{{at(-2, 11), at(0, 11)}}, 1},
			{"along an edge", [][]nav.Point{{at(-1, 9), at(-1, 13)}}, 1},
			{"a loop", [][]nav.Point{{at(0.5, 10.5), at(0.8, 10.5), at(0.8, 10.8), at(0.5, 10.8), at(0.5, 10.5)}}, 2},
			{"elsewhere", [][]nav.Point{{at(5, 5), at(6, 6)}}, 1},
		} {
			got, ok := Split(box, c.lines)
			if !ok || len(got) != c.parts {
				t.Errorf("%s, turned by %v: %d parts, want %d", c.name, east, len(got), c.parts)
			}
			if sum := sizeOf(got); math.Abs(sum-sizeOf(box)) > 1e-9*sum {
				t.Errorf("%s, turned by %v: %f of %f", c.name, east, sum, sizeOf(box))
			}
		}
	}
}

// All places within a distance are in a buffer, and no others, but for a thousandth of it.
func TestBuffer(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 2))
	for _, at := range [][2]float64{{-47, 11}, {10, 180}, {78, -20}} {
		var line []nav.Point
		lat, lon := at[0], at[1]
		for range 30 {
			lat, lon = lat+r.NormFloat64()*0.004, lon+r.NormFloat64()*0.006
			line = append(line, nav.At(lat, lon))
		}
		const far = 300.0
		area := []Polygon{{spiky(r, at[0], at[1], 0.02, 12)}}
		around, err := Buffer(nil, [][]nav.Point{line}, far)
		wider, err2 := Buffer(area, nil, far)
		less, err3 := Buffer(area, nil, -far)
		if err != nil || err2 != nil || err3 != nil {
			t.Fatal(err, err2, err3)
		}
		toLine := NewLegs(line)
		toEdge := NewEdges(append(slices.Clone(area[0][0]), area[0][0][0]))
		for range 2000 {
			y, x := at[0]+r.NormFloat64()*0.02, nav.WrapLon(at[1]+r.NormFloat64()*0.03)
			p := nav.At(y, x)
			check := func(name string, set []Polygon, away float64, want bool) {
				if math.Abs(away-far) > 1 && holding(set, y, x) != want {
					t.Errorf("%s: %v %v is %.1f m away, and in it: %v", name, y, x, away, !want)
				}
			}
			d := toLine.Nearest(geodesy.NewPlane(p.Lat, p.Lon), p.Lat, p.Lon).Distance
			check("line", around, d, d < far)
			d = toEdge.Nearest(geodesy.NewPlane(p.Lat, p.Lon), p.Lat, p.Lon).Distance
			in := holding(area, y, x)
			check("wider", wider, d, in || d < far)
			check("less", less, d, in && d > far)
		}
	}
	circle, err := Buffer(nil, [][]nav.Point{{nav.At(-47, 11)}}, 1000)
	if err != nil || len(circle) != 1 {
		t.Fatal(err)
	}
	for _, p := range circle[0][0] {
		if d := geodesy.Distance(-47, 11, p.Lat, p.Lon); math.Abs(d-1000) > 0.01 {
			t.Errorf("a corner of the circle is %.3f m from its middle", d)
		}
	}
	pole, err := Buffer(nil, [][]nav.Point{{nav.At(89.99, 0)}}, 10_000)
	if err != nil || !holding(pole, 90, 0) || !holding(pole, 89.95, 180) || holding(pole, 89.8, 90) {
		t.Errorf("around the pole: %v %v", pole, err)
	}
}

// Crossings are found wherever a ring begins, and none by a look at every two edges that is not found so.
func TestFlaws(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	crossed := 0
	for round := range 300 {
		var ring []nav.Point
		lon := r.Float64()*360 - 180
		for range 3 + r.IntN(12) {
			ring = append(ring, nav.At(r.Float64(), nav.WrapLon(lon+r.Float64())))
		}
		edges := appendEdges(nil, 0, ring, ring[0].Lon)
		want := false
		for i := range edges {
			for k := i + 2; k < len(edges); k++ {
				want = want || apart(&edges[i], &edges[k])
			}
		}
		got := slices.ContainsFunc(Flaws(&nav.Area{Outline: ring}), func(f Flawed) bool { return f.Flaw == CrossesItself })
		if got != want {
			t.Fatalf("round %d: crossed %v, want %v: %v", round, got, want, ring)
		}
		if want {
			crossed++
			mended, flaw, err := Mended(&nav.Area{Outline: ring})
			if err != nil {
				t.Fatal(err)
			}
			if flaw != nil {
				continue
			}
			for range 30 { // inside of what is mended is what the ring goes around an odd number of times
				y, x := r.Float64(), nav.WrapLon(lon+r.Float64())
				if holding(mended, y, x) != region.Contains(ring, y, x) {
					t.Fatalf("round %d: %v %v in %v: %v", round, y, x, mended, holding(mended, y, x))
				}
			}
		}
	}
	if crossed < 50 {
		t.Errorf("only %d of the rings crossed themselves", crossed)
	}
}

// What has one answer is mended, and what has none is named with its place.
func TestMended(t *testing.T) {
	at := func(list ...float64) (ring []nav.Point) {
		for i := 0; i < len(list); i += 2 {
			ring = append(ring, nav.At(list[i+1], list[i]))
		}
		return
	}
	square := at(0, 0, 4, 0, 4, 4, 0, 4)
	for _, c := range []struct {
		name  string
		rings [][]nav.Point
		parts int
		flaw  string
	}{
		{"sound", [][]nav.Point{square}, 1, ""},
		{"hole inside", [][]nav.Point{square, at(1, 1, 2, 1, 2, 2, 1, 2)}, 1, ""},
		{"hole that touches", [][]nav.Point{square, at(0, 0, 2, 1, 1, 2)}, 1, ""},
		{"bow-tie", [][]nav.Point{at(0, 0, 4, 4, 4, 0, 0, 4)}, 2, ""},
		{"pentagram", [][]nav.Point{at(0, 0, 1, 3, 2, 0, -0.5, 2, 2.5, 2)}, 0, "crosses"},
		{"hole across", [][]nav.Point{square, at(3, 1, 6, 1, 6, 2, 3, 2)}, 1, ""},
		{"hole from side to side", [][]nav.Point{square, at(-1, 1, 6, 1, 6, 2, -1, 2)}, 2, ""},
		{"hole outside", [][]nav.Point{square, at(5, 5, 6, 5, 6, 6)}, 0, "outside"},
		{"flat", [][]nav.Point{at(0, 0, 1, 0, 2, 0)}, 0, "size"},
		{"over the antimeridian", [][]nav.Point{at(178, 0, -178, 4, -178, 0, 178, 4)}, 2, ""},
	} {
		got, flaw, err := Mended(&nav.Area{Outline: c.rings[0], Holes: c.rings[1:]})
		said := ""
		if flaw != nil {
			said = map[Flaw]string{CrossesItself: "crosses", HoleOutside: "outside", NoSize: "size"}[flaw.Flaw]
		}
		if err != nil || said != c.flaw || len(got) != c.parts {
			t.Errorf("%s: %d parts, flaw %q, %v; want %d and %q", c.name, len(got), said, err, c.parts, c.flaw)
		}
		for _, p := range got {
			if f := Flaws(&nav.Area{Outline: p[0], Holes: p[1:]}); len(f) > 0 {
				t.Errorf("%s: the answer is flawed: %v", c.name, f)
			}
		}
	}
}

func BenchmarkPolygons(b *testing.B) {
	r := rand.New(rand.NewPCG(8, 1))
	var many []Polygon
	for range 3000 {
		lat, lon := -47+2*r.Float64(), 11+2*r.Float64()
		var ring []nav.Point
		for i := range 36 {
			sin, cos := math.Sincos(2 * math.Pi * float64(i) / 36)
			ring = append(ring, nav.At(lat+0.05*sin, lon+0.05*cos))
		}
		many = append(many, Polygon{ring})
	}
	var wave []nav.Point
	const corners = 100_000
	for i := range corners {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / corners)
		far := 1 + 0.01*r.Float64()
		wave = append(wave, nav.At(-47+far*sin, 11+far*cos))
	}
	big, bite := []Polygon{{wave}}, []Polygon{{spiky(r, -46, 11.5, 0.4, 50)}}
	for name, do := range map[string]func() ([]Polygon, error){
		"union of 3,000":        func() ([]Polygon, error) { return Union(many) },
		"difference of 100,000": func() ([]Polygon, error) { return Difference(big, bite) },
	} {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				if _, err := do(); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
