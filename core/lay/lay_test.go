package lay

import (
	"context"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/region"
)

func ring(at ...float64) (out []nav.Point) {
	for i := 0; i < len(at); i += 2 {
		out = append(out, nav.At(at[i], at[i+1]))
	}
	return
}

func laidOut(t *testing.T, s *Step, d *nav.Dataset) *nav.Dataset {
	t.Helper()
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	out, err := s.Lay(context.Background(), d)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

func apart(p, q *nav.Point) float64 { return geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon) }

// toLeg is the least distance from a position to a geodesic, found by going along it.
func toLeg(p, a, b *nav.Point) float64 {
	length, course, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
	low, high := 0.0, length
	at := func(x float64) float64 {
		lat, lon, _ := geodesy.Direct(a.Lat, a.Lon, course, x)
		return geodesy.Distance(p.Lat, p.Lon, lat, lon)
	}
	for range 100 {
		if third := (high - low) / 3; at(low+third) < at(high-third) {
			high -= third
		} else {
			low += third
		}
	}
	return at(low)
}

// Over two hundred kilometres, far in the south and across the antimeridian, lines are as far apart as they are to be,
// to a metre.
func TestSpacing(t *testing.T) {
	heading := 40.0
	s := &Step{What: Lines, Spacing: 20_000, Heading: &heading}
	d := &nav.Dataset{Areas: []nav.Area{{Item: nav.Item{Name: "Sea"}, Outline: ring(-47, 178.8, -47, -178.6, -48.6, -178.6,
		-48.6, 178.8)}}}
	r := laidOut(t, s, d).Routes[0]
	lines := map[string][]nav.Point{}
	name := ""
	for i := range r.Points {
		if n := r.Points[i].Name; strings.HasSuffix(n, "A") {
			name = strings.TrimSuffix(n, "A")
		}
		lines[name] = append(lines[name], r.Points[i].Point)
	}
	if len(lines) < 8 {
		t.Fatalf("%d lines", len(lines))
	}
	checked := 0
	for i := 2; i < len(lines); i++ {
		line, next := lines[string(rune('0'+i))], lines[string(rune('0'+i+1))]
		for k := range line {
			least := math.Inf(1)
			for j := 1; j < len(next); j++ {
				least = min(least, toLeg(&line[k], &next[j-1], &next[j]))
			}
			if least < 30_000 && math.Abs(least-20_000) > 1 && k > 0 && k < len(line)-1 {
				t.Errorf("line %d is %.2f m from the next at point %d", i, least, k)
			}
			checked++
		}
	}
	if checked == 0 {
		t.Error("nothing was checked")
	}
}

// Holes are not flown, and an outline that bends in is cut: what is flown between A and B is inside.
func TestLinesStayInside(t *testing.T) {
	heading := 90.0
	area := nav.Area{Outline: ring(-47, 11, -47, 11.1, -47.05, 11.1, -47.05, 11.06, -47.02, 11.06, -47.02, 11.04, -47.05,
		11.04, -47.05, 11), Holes: [][]nav.Point{ring(-47.005, 11.02, -47.005, 11.08, -47.015, 11.08, -47.015, 11.02)}}
	r := laidOut(t, &Step{What: Lines, Spacing: 300, Heading: &heading}, &nav.Dataset{Areas: []nav.Area{area}}).Routes[0]
	lines, length := 0, 0.0
	for i := 1; i < len(r.Points); i++ {
		a, b := &r.Points[i-1], &r.Points[i]
		if !strings.HasSuffix(b.Name, "B") {
			continue
		}
		lines++
		length += apart(&a.Point, &b.Point)
		distance, course, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
		for _, part := range []float64{0.02, 0.3, 0.5, 0.7, 0.98} {
			if lat, lon, _ := geodesy.Direct(a.Lat, a.Lon, course, part*distance); !contains(&area, lat, lon) {
				t.Errorf("line %s leaves the area at %.4f %.4f", b.Name, lat, lon)
			}
		}
	}
	// The area has 31.8 km² without its hole and its bay, so that lines 300 m apart are some 106 km long.
	want := surface(area.Outline) - surface(area.Holes[0])
	if math.Abs(length*300-want) > 0.04*want || lines < 20 {
		t.Errorf("%d lines of %.0f m cover %.1f km², the area has %.1f km²", lines, length, length*300/1e6, want/1e6)
	}
	// Of two directions the one with fewer lines is found: the area is longer than it is wide.
	best := laidOut(t, &Step{What: Lines, Spacing: 300}, &nav.Dataset{Areas: []nav.Area{{Outline: ring(-47, 11, -47, 11.2,
		-47.01, 11.2, -47.01, 11)}}}).Routes[0]
	if !strings.HasPrefix(best.Desc, "4 lines, heading 09") && !strings.HasPrefix(best.Desc, "4 lines, heading 08") {
		t.Errorf("%s", best.Desc)
	}
}

// contains says whether a position is in an area, by a look at every edge.
func contains(a *nav.Area, lat, lon float64) bool {
	return region.Contains(a.Outline, lat, lon) &&
		!slices.ContainsFunc(a.Holes, func(hole []nav.Point) bool { return region.Contains(hole, lat, lon) })
}

// surface is the area of a small ring in square metres, by the lengths of a degree at its latitude.
func surface(points []nav.Point) float64 {
	lat := points[0].Lat * math.Pi / 180
	north := 111132.95 - 559.85*math.Cos(2*lat)
	east := 111412.88*math.Cos(lat) - 93.5*math.Cos(3*lat)
	sum := 0.0
	for i := range points {
		p, q := &points[i], &points[(i+1)%len(points)]
		sum += p.Lon*q.Lat - q.Lon*p.Lat
	}
	return math.Abs(sum) / 2 * north * east
}

// Turns between lines are no tighter than the radius, whether the lines are farther apart than a turn is wide or not.
func TestTurns(t *testing.T) {
	for _, c := range []struct{ across, along float64 }{{300, 0}, {1000, 0}, {50, 400}, {-300, -100}, {0, 0}} {
		const radius = 200.0
		from, to := pose{place{0, 0}, 0}, pose{place{c.along, c.across}, math.Pi}
		places := append(append([]place{from.place}, turnBetween(from, to, radius)...), to.place)
		if len(places) < 4 {
			t.Fatalf("%+v: %v", c, places)
		}
		for i := 2; i < len(places); i++ {
			a, b, p := places[i-2], places[i-1], places[i]
			// The circle through three points of a turn.
			ab, bp, ap := math.Hypot(b.x-a.x, b.y-a.y), math.Hypot(p.x-b.x, p.y-b.y), math.Hypot(p.x-a.x, p.y-a.y)
			area := math.Abs((b.x-a.x)*(p.y-a.y)-(p.x-a.x)*(b.y-a.y)) / 2
			if area < 1e-6 {
				continue
			}
			if r := ab * bp * ap / (4 * area); r < radius*0.98 && min(ab, bp) > 1 {
				t.Errorf("%+v: a turn of %.1f m at %d of %d", c, r, i, len(places))
			}
		}
	}
}

// The legs of the search patterns, by distance and course.
func TestPatterns(t *testing.T) {
	datum := nav.At(-47.5, 11.2)
	const mile = 1852.0
	course := func(a, b *nav.Waypoint) (distance, course float64) {
		distance, course, _ = geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
		return
	}
	check := func(what string, r *nav.Route, want [][2]float64) {
		t.Helper()
		if len(r.Points) != len(want)+1 {
			t.Fatalf("%s has %d points, want %d", what, len(r.Points), len(want)+1)
		}
		for i, w := range want {
			d, c := course(&r.Points[i], &r.Points[i+1])
			if math.Abs(d-w[0]*mile) > 1 || math.Abs(math.Remainder(c-w[1], 360)) > 0.1 {
				t.Errorf("%s, leg %d: %.1f m on %.2f°, want %.1f on %.0f°", what, i+1, d, c, w[0]*mile, w[1])
			}
		}
	}
	heading := 30.0
	square := &Step{What: ExpandingBox, Spacing: mile, Legs: 5, Heading: &heading, Datum: &datum}
	check("expanding square", &laidOut(t, square, &nav.Dataset{}).Routes[0],
		[][2]float64{{1, 30}, {1, 120}, {2, 210}, {2, 300}, {3, 30}})
	square.Left = true
	check("to the left", &laidOut(t, square, &nav.Dataset{}).Routes[0],
		[][2]float64{{1, 30}, {1, 300}, {2, 210}, {2, 120}, {3, 30}})
	sectors := laidOut(t, &Step{What: Sector, Radii: []float64{2 * mile}, Heading: &heading, Datum: &datum},
		&nav.Dataset{}).Routes[0]
	check("sector", &sectors, [][2]float64{{2, 30}, {2, 150}, {2, 270}, {2, 270}, {2, 30}, {2, 150}, {2, 150}, {2, 270},
		{2, 30}})
	for _, i := range []int{0, 3, 6, 9} {
		if off := apart(&sectors.Points[i].Point, &datum); off > 0.5 {
			t.Errorf("point %d of the sector search is %.2f m from the datum", i+1, off)
		}
	}
	sweep := laidOut(t, &Step{What: ParallelSweep, Spacing: mile, Length: 6 * mile, Width: 3 * mile, Heading: &heading,
		Datum: &datum}, &nav.Dataset{}).Routes[0]
	check("parallel sweep", &sweep, [][2]float64{{5, 30}, {1, 120}, {5, 210}, {1, 120}, {5, 30}})
	creep := laidOut(t, &Step{What: CreepingLine, Spacing: mile, Length: 3 * mile, Width: 6 * mile, Heading: &heading,
		Datum: &datum}, &nav.Dataset{}).Routes[0]
	check("creeping line", &creep, [][2]float64{{5, 120}, {1, 30}, {5, 300}, {1, 30}, {5, 120}})
	// With a drift each point is where the datum has drifted to when one comes there.
	square.Left, square.Drift, square.Speed = false, &measure.Drift{To: 90, Speed: 1}, 10
	drifted := laidOut(t, square, &nav.Dataset{}).Routes[0]
	square.Drift = nil
	still := laidOut(t, square, &nav.Dataset{}).Routes[0]
	flown := 0.0
	for i := range still.Points {
		if i > 0 {
			flown += apart(&still.Points[i-1].Point, &still.Points[i].Point)
		}
		p, q := &still.Points[i], &drifted.Points[i]
		if _, to, _ := geodesy.Inverse(p.Lat, p.Lon, q.Lat, q.Lon); i > 0 && math.Abs(to-90) > 0.5 {
			t.Errorf("point %d drifts to %.1f°, and not to the east", i+1, to)
		}
		if off := apart(&still.Points[i].Point, &drifted.Points[i].Point); math.Abs(off-flown/10) > 0.5 {
			t.Errorf("point %d drifts %.1f m, want %.1f", i+1, off, flown/10)
		}
	}
	rings := laidOut(t, &Step{What: Rings, Radii: []float64{mile, 2 * mile}, Datum: &datum}, &nav.Dataset{})
	for i := range rings.Areas {
		for k := range rings.Areas[i].Outline {
			if off := apart(&datum, &rings.Areas[i].Outline[k]) - mile*float64(i+1); math.Abs(off) > 0.1 {
				t.Fatalf("ring %d is off by %.2f m", i+1, off)
			}
		}
	}
}

// Sampling points are inside, as far apart as they are to be, and the same for the same seed.
func TestGrids(t *testing.T) {
	area := nav.Area{Item: nav.Item{Name: "Nesting"}, Outline: ring(-47, 11, -47, 11.02, -47.02, 11.02, -47.02, 11)}
	d := &nav.Dataset{Areas: []nav.Area{area}}
	square := laidOut(t, &Step{What: Grid, Spacing: 100}, d).Waypoints
	if want := surface(area.Outline) / 1e4; math.Abs(float64(len(square))-want) > 0.06*want {
		t.Errorf("%d points, want some %.0f", len(square), want)
	}
	nearest := func(list []nav.Waypoint) float64 {
		least := math.Inf(1)
		for i := range list {
			for j := range i {
				least = min(least, apart(&list[i].Point, &list[j].Point))
			}
		}
		return least
	}
	if n := nearest(laidOut(t, &Step{What: Grid, Spacing: 200, Pattern: Triangular}, d).Waypoints); math.Abs(n-200) > 0.1 {
		t.Errorf("triangular points are %.2f m apart", n)
	}
	random := &Step{What: Grid, Pattern: Random, Count: 100, Apart: 60, Seed: 7}
	list := laidOut(t, random, d).Waypoints
	if len(list) != 100 || nearest(list) < 59.9 {
		t.Errorf("%d points, %.1f m apart", len(list), nearest(list))
	}
	again := laidOut(t, random, d).Waypoints
	for i := range list {
		if !contains(&area, list[i].Lat, list[i].Lon) || !list[i].SamePlace(&again[i].Point) {
			t.Fatalf("point %d: %v, %v", i, list[i].Point, again[i].Point)
		}
	}
	random.Apart = 900
	if _, err := random.Lay(context.Background(), d); err == nil || !strings.Contains(err.Error(), "room for") {
		t.Errorf("a hundred points 900 m apart: %v", err)
	}
}

// Points stand every so far along a line, and lines across it at a right angle.
func TestAlong(t *testing.T) {
	d := &nav.Dataset{Routes: []nav.Route{{Item: nav.Item{Name: "Run"}, Points: []nav.Waypoint{{Point: nav.At(-47, 11)},
		{Point: nav.At(-47, 11.05)}, {Point: nav.At(-47.05, 11.05)}}}}}
	points := laidOut(t, &Step{What: Points, Spacing: 1000}, d).Waypoints
	if len(points) != 10 || math.Abs(apart(&points[1].Point, &points[2].Point)-1000) > 0.01 ||
		points[0].Name != "Point Run 01" {
		t.Errorf("%d points: %+v", len(points), points[0])
	}
	sections := laidOut(t, &Step{What: Sections, Spacing: 1000, Width: 200}, d).Routes
	a, b := &sections[1].Points[0], &sections[1].Points[1]
	distance, course, _ := geodesy.Inverse(a.Lat, a.Lon, b.Lat, b.Lon)
	if math.Abs(distance-200) > 0.01 || math.Abs(course-180) > 0.1 {
		t.Errorf("%.2f m on %.2f°", distance, course)
	}
	out := laidOut(t, &Step{What: TrackReturn, Spacing: 400}, d).Routes[0]
	if len(out.Points) != 6 || math.Abs(apart(&out.Points[0].Point, &out.Points[5].Point)-400) > 0.1 {
		t.Errorf("%d points", len(out.Points))
	}
	far := laidOut(t, &Step{What: TrackNonReturn, Spacing: 400}, d).Routes[0]
	if last := &far.Points[len(far.Points)-1].Point; apart(last, &d.Routes[0].Points[2].Point) > 401 {
		t.Error("it does not end at the far end")
	}
	if _, err := (&Step{What: Points, Spacing: 5}).Lay(context.Background(), &nav.Dataset{}); err != ErrNothing {
		t.Errorf("%v", err)
	}
	for _, bad := range []Step{{What: Lines}, {What: Sector}, {What: Grid}, {What: "spiral"}, {What: Corridor},
		{What: ParallelSweep, Spacing: 1},
		{What: Rings, Radii: []float64{1}, From: new(float64)}, {What: Points, Spacing: 1, Drift: &measure.Drift{}}} {
		if bad.Check() == nil {
			t.Errorf("%+v makes sense", bad)
		}
	}
}

// A pattern in a drift takes the time of its way through the water, whichever way it drifts: 20 nm at 10 kn are two
// hours.
func TestTakesInDrift(t *testing.T) {
	datum := nav.At(-47.57, 11.3)
	for _, to := range []float64{0, 45, 90, 200, 315} {
		s := &Step{What: ExpandingBox, Spacing: 1852, Legs: 8, Datum: &datum, Speed: 10 * 1852.0 / 3600,
			Drift: &measure.Drift{To: to, Speed: 2 * 1852.0 / 3600}}
		r := laidOut(t, s, &nav.Dataset{}).Routes[0] // 1+1+2+2+3+3+4+4 nm
		if got := s.Takes(0, &r); got != 2*time.Hour {
			t.Errorf("in a drift to %v°: %v", to, got)
		}
	}
}
