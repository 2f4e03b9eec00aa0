package shape

import (
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

var plane = geodesy.NewPlane(-47.6, 11.3)

func at(x, y float64) nav.Point {
	lat, lon := plane.LatLon(x, y)
	return nav.At(lat, lon)
}

func wander(seed uint64, n int, step, turn float64) []nav.Point {
	r := rand.New(rand.NewPCG(seed, 5))
	var out []nav.Point
	x, y, heading := 0.0, 0.0, 0.0
	for range n {
		out = append(out, at(x+r.NormFloat64(), y+r.NormFloat64()))
		heading += r.NormFloat64() * turn
		x, y = x+step*math.Cos(heading), y+step*math.Sin(heading)
	}
	return out
}

// farthestOff is how far any point is from the thinned line.
func farthestOff(points []nav.Point, kept []int) (far float64) {
	for k := 1; k < len(kept); k++ {
		for i := kept[k-1]; i <= kept[k]; i++ {
			far = math.Max(far, DistanceToLeg(&points[i], &points[kept[k-1]], &points[kept[k]]))
		}
	}
	return
}

// fewest is the true optimum, by trying every leg.
func fewest(points []nav.Point, within float64) int {
	n := len(points)
	best := make([]int, n)
	for j := 1; j < n; j++ {
		best[j] = j
	next:
		for i := range j {
			if best[i]+1 >= best[j] {
				continue
			}
			for k := i + 1; k < j; k++ {
				if DistanceToLeg(&points[k], &points[i], &points[j]) > within {
					continue next
				}
			}
			best[j] = best[i] + 1
		}
	}
	return best[n-1] + 1
}

// The line stays within the distance, and keeps at most 1.3 times the points of the true optimum.
func TestThinIsNearOptimal(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	worst := 0.0
	for seed := range uint64(12) {
		for _, c := range []struct{ step, turn, within float64 }{{8, 0.1, 3}, {8, 0.4, 5}, {30, 0.6, 10}, {5, 0.05, 2},
			{15, 1.2, 20}} {
			points := wander(seed, 300, c.step, c.turn)
			kept := Thin(points, c.within)
			if far := farthestOff(points, kept); far > c.within*1.001 {
				t.Errorf("seed %d, %v: a point is %.2f m off", seed, c, far)
			}
			ratio := float64(len(kept)) / float64(fewest(points, c.within))
			worst = math.Max(worst, ratio)
			if ratio > 1.3 || kept[0] != 0 || kept[len(kept)-1] != 299 {
				t.Errorf("seed %d, %v: %d points kept, %.2f times the optimum", seed, c, len(kept), ratio)
			}
		}
	}
	t.Logf("at worst %.3f times the optimum", worst)
}

// badCases are lines that make quadratic methods slow.
func badCases(n int) map[string][]nav.Point {
	spiral, straight, equal, zigzag := make([]nav.Point, n), make([]nav.Point, n), make([]nav.Point, n),
		make([]nav.Point, n)
	for i := range n {
		a := math.Sqrt(float64(i))
		spiral[i] = at(3*a*math.Cos(a), 3*a*math.Sin(a))
		straight[i] = at(float64(i)/10, float64(i)/20)
		equal[i] = at(5, 5)
		zigzag[i] = at(float64(i)/1000, float64(i%2)*100)
	}
	return map[string][]nav.Point{"spiral": spiral, "straight": straight, "equal": equal, "zigzag": zigzag}
}

func TestThinBadCases(t *testing.T) {
	for name, points := range badCases(20000) {
		kept := Thin(points, 3)
		if !slices.IsSorted(kept) || kept[0] != 0 || kept[len(kept)-1] != len(points)-1 {
			t.Errorf("%s: %d kept", name, len(kept))
		}
		if far := farthestOff(points, kept); far > 3.001 {
			t.Errorf("%s: %.2f m off", name, far)
		}
		if name == "straight" && len(kept) != 2 {
			t.Errorf("a straight line keeps %d points", len(kept))
		}
	}
	for _, n := range []int{0, 1, 2} {
		if got := Thin(make([]nav.Point, n), 3); len(got) != n {
			t.Errorf("%d points keep %d", n, len(got))
		}
	}
}

func TestThinTo(t *testing.T) {
	points := wander(3, 5000, 8, 0.2)
	for _, most := range []int{2, 10, 100, 500, 4999, 5000, 9000} {
		kept := ThinTo([][]nav.Point{points}, most)[0]
		if len(kept) > most || most <= 500 && most >= 100 && len(kept) < most*8/10 {
			t.Errorf("at most %d: %d kept", most, len(kept))
		}
	}
	two := ThinTo([][]nav.Point{points[:2500], points[2500:]}, 100)
	if n := len(two[0]) + len(two[1]); n > 100 || n < 80 {
		t.Errorf("two lines keep %d of 100", n)
	}
	// No line is lost where even its ends are too many.
	few := ThinTo([][]nav.Point{points[:50], nil, points[50:51], points[51:60], points[60:]}, 5)
	if !reflect.DeepEqual(few, [][]int{{0, 49}, nil, {0}, {0, 8}, {0, 4939}}) {
		t.Errorf("five lines keep %v", few)
	}
}

// A halt on a straight road is kept, so that the speed of the legs stays believable.
func TestThinKeepsHalts(t *testing.T) {
	var points []nav.Point
	clock := int64(0)
	add := func(x float64) {
		p := at(x, 0)
		p.SetTime(clock, instant.Seconds)
		points = append(points, p)
		clock += 1e9
	}
	for i := range 200 {
		add(float64(i) * 10)
	}
	for range 300 {
		add(1990)
	}
	for i := range 200 {
		add(1990 + float64(i)*10)
	}
	kept := Thin(points, 3)
	for k := 1; k < len(kept); k++ {
		p, q := &points[kept[k-1]], &points[kept[k]]
		v := geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) / (float64(q.UnixNano()-p.UnixNano()) / 1e9)
		if v > 1 && v < 9 {
			t.Errorf("a leg of %.1f m/s, where it went at 10 or stood", v)
		}
	}
	if len(kept) > 12 {
		t.Errorf("%d points kept", len(kept))
	}
}

func TestOutliers(t *testing.T) {
	line := func(v ...float64) []int {
		return Outliers(len(v), 5, func(i, j int) bool { return math.Abs(v[i]-v[j]) <= 2*float64(j-i) })
	}
	for _, c := range []struct {
		values []float64
		want   []int
	}{
		{[]float64{0, 1, 2, 3}, nil},
		{[]float64{0, 1, 90, 3, 4}, []int{2}},
		{[]float64{0, 1, 90, 91, 92, 93, 94, 7, 8, 9, 10, 11}, []int{2, 3, 4, 5, 6}},
		{[]float64{0, 1, 2, 3, 4, 90, 91, 92, 93, 94, 95, 96, 97}, nil}, // it does not come back
		{[]float64{0, 1, 90, 3, 4, -80, 6, 7}, []int{2, 5}},
		{[]float64{90, 1, 2, 3}, nil},
		{[]float64{0, 1, 2, 90}, nil},
		{nil, nil}, {[]float64{1}, nil}, {[]float64{1, 100}, nil},
	} {
		if got := line(c.values...); !slices.Equal(got, c.want) {
			t.Errorf("%v: got %v, want %v", c.values, got, c.want)
		}
	}
}

func BenchmarkThin(b *testing.B) {
	for name, points := range badCases(100000) {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				Thin(points, 3)
			}
		})
	}
	points := wander(1, 100000, 8, 0.2)
	b.Run("wander", func(b *testing.B) {
		for b.Loop() {
			Thin(points, 3)
		}
	})
}

// offLine gives how far a position is from the geodesic between two others, in metres, and how far along it the nearest
// place is.
func offLine(lat, lon, lat1, lon1, lat2, lon2 float64) (off, along float64) {
	length, course, _ := geodesy.Inverse(lat1, lon1, lat2, lon2)
	for range 12 { // by what is left along the line, which shrinks with the cube
		at, lonAt, heading := geodesy.Direct(lat1, lon1, course, along)
		var azimuth float64
		off, azimuth, _ = geodesy.Inverse(at, lonAt, lat, lon)
		step := off * math.Cos((azimuth-heading)*math.Pi/180)
		next := min(max(along+step, 0), length)
		if math.Abs(next-along) < 1e-6 {
			break
		}
		along = next
	}
	return off, along
}

// Long legs are measured along geodesics: a flight along one is its two ends, and one along a parallel keeps as many
// points as its bend asks for.
func TestThinAlongGeodesics(t *testing.T) {
	flight := func(at func(part float64) (float64, float64)) (out []nav.Point) {
		for i := range 401 {
			out = append(out, nav.At(at(float64(i)/400)))
		}
		return
	}
	distance, course, _ := geodesy.Inverse(-47.6, 11.3, -44, 25)
	straight := flight(func(part float64) (float64, float64) {
		lat, lon, _ := geodesy.Direct(-47.6, 11.3, course, part*distance)
		return lat, lon
	})
	if kept := Thin(straight, 5); len(kept) != 2 {
		t.Errorf("a geodesic keeps %d points", len(kept))
	}
	parallel := flight(func(part float64) (float64, float64) { return -47.6, 11.3 + part*13 })
	kept := Thin(parallel, 500)
	far := 0.0
	for k := 1; k < len(kept); k++ {
		a, b := &parallel[kept[k-1]], &parallel[kept[k]]
		for i := kept[k-1]; i <= kept[k]; i++ {
			off, _ := offLine(parallel[i].Lat, parallel[i].Lon, a.Lat, a.Lon, b.Lat, b.Lon)
			far = max(far, off)
		}
	}
	if len(kept) < 5 || len(kept) > 14 || far > 500 || math.Abs(far-farthestAside(parallel, kept)) > 0.5 {
		t.Errorf("a parallel keeps %d points, up to %.1f m off, %.1f by Farthest", len(kept), far, farthestAside(parallel,
			kept))
	}
}

func farthestAside(points []nav.Point, kept []int) float64 {
	aside, _ := Farthest(points, kept)
	return aside
}

// Heights count as positions do: a straight line over a hill keeps the hill, within the distance that is given.
func TestThinKeepsHeights(t *testing.T) {
	line := make([]nav.Point, 61)
	for i := range line {
		line[i] = at(0, float64(i)*500)
		height := 300 + 400*(1-math.Abs(float64(i-30))/30) // up to 700 m and down again
		line[i].SetHeight(height, decimal.PrecisionOf(0), nav.MeanSeaLevel)
	}
	if kept := Thin(line, 1); len(kept) != 3 || kept[1] != 30 {
		t.Errorf("a ridge keeps %v", kept)
	}
	for i := range line { // rounded as a hill is
		line[i].SetHeight(300+400*math.Sin(float64(i)*math.Pi/60), decimal.PrecisionOf(0), nav.MeanSeaLevel)
	}
	for _, within := range []float64{2, 10, 50} {
		kept := Thin(line, within)
		far := 0.0
		for k := 1; k < len(kept); k++ { // by the rule of three
			from, to := kept[k-1], kept[k]
			for i := from; i <= to; i++ {
				even := line[from].Height() + float64(i-from)/float64(to-from)*(line[to].Height()-line[from].Height())
				far = max(far, math.Abs(line[i].Height()-even))
			}
		}
		if _, said := Farthest(line, kept); far > within*1.001 || math.Abs(said-far) > 0.1 || len(kept) > 40 {
			t.Errorf("within %v m: %d points, heights %.2f m off, said to be %.2f", within, len(kept), far, said)
		}
	}
	few := ThinTo([][]nav.Point{line}, 9)[0]
	if _, off := Farthest(line, few); len(few) < 7 || len(few) > 9 || off > 20 {
		t.Errorf("nine points: %v, %.1f m off", few, off)
	}
}

// The fixed points of a line stay before others, and all the room is used.
func TestThinKeeping(t *testing.T) {
	line := make([]nav.Point, 60)
	for i := range line {
		line[i] = at(float64(i)*100, 300*math.Sin(float64(i)))
	}
	fixed := func(i int) bool { return i%7 == 0 }
	kept := Fill(line, ThinKeeping(line, fixed, 0, 20), 20)
	if len(kept) != 20 || kept[0] != 0 || kept[19] != 59 {
		t.Errorf("%v", kept)
	}
	for i := range line {
		if fixed(i) && !slices.Contains(kept, i) {
			t.Errorf("the fixed point %d went: %v", i, kept)
		}
	}
	for _, i := range ThinKeeping(line, fixed, 0, 6) { // no room for all of them: those alone
		if !fixed(i) && i != 59 {
			t.Errorf("%d stays, though it is not fixed", i)
		}
	}
	straight := make([]nav.Point, 61)
	for i := range straight {
		straight[i] = at(0, float64(i)*100)
	}
	if kept := Fill(straight, Thin(straight, 1), 7); len(kept) != 7 || kept[3] < 28 || kept[3] > 32 {
		t.Errorf("a straight line: %v", kept)
	}
}
