package recast

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

var plane = geodesy.NewPlane(-47.6, 11.3)

func at(x, y float64) nav.Point {
	lat, lon := plane.LatLon(x, y)
	return nav.At(lat, lon)
}

func line(xy ...float64) (out []nav.Point) {
	for i := 0; i < len(xy); i += 2 {
		out = append(out, at(xy[i], xy[i+1]))
	}
	return
}

func wpt(name string, x, y float64) nav.Waypoint {
	return nav.Waypoint{Item: nav.Item{Name: name}, Point: at(x, y)}
}

func kind(k nav.Kind) *nav.Kind { return &k }

func track(name string, segments ...[]nav.Point) nav.Track {
	t := nav.Track{Item: nav.Item{Name: name, Group: "Paths", Style: nav.Style{Colour: nav.RGB(1, 2, 3), Width: 2},
		Fields: []nav.Field{{Key: "party", Value: "A"}}}}
	for _, s := range segments {
		t.Segments = append(t.Segments, nav.Segment{Points: s})
	}
	return t
}

func apply(t *testing.T, s *Step, d *nav.Dataset) nav.Ledger {
	t.Helper()
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	l, err := s.Recast(context.Background(), d)
	if err != nil {
		t.Fatal(err)
	}
	return l
}

func pathLength(points []nav.Waypoint) float64 { return length(points) }

// The shortest way through these layouts is known by how they are made; the way found is within 5 % of it.
func TestNearIsNearTheShortest(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	layouts := map[string]struct {
		at      func(i int) (x, y float64)
		optimum float64
	}{
		"lattice":        {func(i int) (float64, float64) { return float64(i%20) * 100, float64(i/20) * 100 }, 199 * 100},
		"narrow lattice": {func(i int) (float64, float64) { return float64(i%50) * 100, float64(i/50) * 100 }, 199 * 100},
		"circle": {func(i int) (float64, float64) {
			s, c := math.Sincos(float64(i) * 2 * math.Pi / 200)
			return 2000 * c, 2000 * s
		}, 199 * 2 * 2000 * math.Sin(math.Pi/200)},
		"line": {func(i int) (float64, float64) { return float64(i) * 37, 0 }, 199 * 37},
		"spiral": {func(i int) (float64, float64) { // turns 400 m apart, points 100 m apart or less
			a := math.Sqrt(float64(i)+20) * 1.25
			s, c := math.Sincos(a)
			return 63 * a * c, 63 * a * s
		}, -1},
	}
	for name, l := range layouts {
		var points []nav.Waypoint
		optimum := l.optimum
		for i := range 200 {
			x, y := l.at(i)
			points = append(points, wpt("", x, y))
		}
		if optimum < 0 { // along the spiral, since its turns are farther apart than its points
			optimum = pathLength(points)
		}
		for seed := range uint64(2) {
			shuffled := slices.Clone(points)
			rand.New(rand.NewPCG(seed, 1)).Shuffle(200, func(i, j int) { shuffled[i], shuffled[j] = shuffled[j], shuffled[i] })
			way, _ := shortWay(shuffled, -1, -1)
			if sorted := slices.Sorted(slices.Values(way)); !slices.Equal(sorted, indices(200)) {
				t.Fatalf("%s: not every point once: %v", name, way)
			}
			var out []nav.Waypoint
			for _, i := range way {
				out = append(out, shuffled[i])
			}
			if ratio := pathLength(out) / optimum; ratio > 1.05 || ratio < 0.98 && name != "spiral" {
				t.Errorf("%s, shuffled by %d: %.3f times the shortest", name, seed, ratio)
			}
		}
	}
}

func TestNearKeepsItsEnds(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 3))
	for _, n := range []int{1, 2, 3, 4, 7, 8, 9, 30} {
		var points []nav.Waypoint
		for range n {
			points = append(points, wpt("", r.Float64()*1000, r.Float64()*1000))
		}
		for _, ends := range [][2]int{{-1, -1}, {0, -1}, {-1, 0}, {n - 1, 0}, {n / 2, n - 1}, {0, 0}, {n / 2, n / 2}} {
			way, _ := shortWay(points, ends[0], ends[1])
			round := ends[0] == ends[1] && ends[0] >= 0 && n > 0
			body := way
			if round {
				body = way[:len(way)-1]
			}
			if !slices.Equal(slices.Sorted(slices.Values(body)), indices(n)) {
				t.Fatalf("%d points, ends %v: %v", n, ends, way)
			}
			if ends[0] >= 0 && way[0] != ends[0] || ends[1] >= 0 && way[len(way)-1] != ends[1] {
				t.Errorf("%d points, ends %v: %v", n, ends, way)
			}
		}
	}
}

func TestWaypointOrders(t *testing.T) {
	d := func() *nav.Dataset {
		return &nav.Dataset{Waypoints: []nav.Waypoint{wpt("Rock 10", 0, 0), wpt("rock 2", 900, 0), wpt("Anchor", 100, 0),
			wpt("Rock 02", 500, 0)}}
	}
	names := func(order Order) string {
		data := d()
		for i := range data.Waypoints {
			data.Waypoints[i].SetTime(int64(10-i)*1e9, instant.Seconds)
		}
		apply(t, &Step{To: [4]*nav.Kind{kind(nav.Routes)}, Order: order}, data)
		var out []string
		for _, p := range data.Routes[0].Points {
			out = append(out, p.Name)
		}
		if len(data.Waypoints) != 0 {
			t.Error("the waypoints stay")
		}
		return strings.Join(out, ", ")
	}
	for order, want := range map[Order]string{
		ByFile: "Rock 10, rock 2, Anchor, Rock 02", ByName: "Anchor, Rock 02, rock 2, Rock 10",
		ByTime: "Rock 02, Anchor, rock 2, Rock 10", Near: "Rock 10, Anchor, Rock 02, rock 2",
	} {
		if got := names(order); got != want {
			t.Errorf("%s: %s, want %s", order, got, want)
		}
	}
	if _, err := (&Step{To: [4]*nav.Kind{kind(nav.Routes)}, Order: ByTime}).Recast(context.Background(), d()); err == nil {
		t.Error("ordered by times that there are not")
	}
	if _, err := (&Step{To: [4]*nav.Kind{kind(nav.Routes)}, Order: Near, First: "Rok"}).Recast(context.Background(),
		d()); err == nil {
		t.Error("began at a waypoint that there is not")
	}
}

// The corners of a line that was walked through them stay, whatever lies between, and waypoints on it lend their names.
func TestTrackToRoute(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	corners := []float64{0, 0, 1000, 0, 1000, 600, 400, 600, 400, 650, 1500, 650}
	var points []nav.Point
	for i := 2; i < len(corners); i += 2 {
		for k := range 50 {
			f := float64(k) / 50
			points = append(points, at(corners[i-2]+f*(corners[i]-corners[i-2]), corners[i-1]+f*(corners[i+1]-corners[i-1])))
		}
	}
	points = append(points, at(1500, 650))
	d := &nav.Dataset{Tracks: []nav.Track{track("Way", points)}, Waypoints: []nav.Waypoint{wpt("Tarn", 503, 12),
		wpt("Far", 500, 300)}}
	d.Waypoints[0].Style.Symbol = "flag"
	l := apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Routes)}, MaxPoints: 7}, d)
	if len(d.Tracks) != 0 || len(d.Routes) != 1 || len(d.Waypoints) != 2 {
		t.Fatalf("%v", d.Counts())
	}
	r := d.Routes[0]
	want := slices.Insert(line(corners...), 1, at(500, 0))
	if len(r.Points) != len(want) {
		t.Fatalf("%d points", len(r.Points))
	}
	for i := range want {
		p := &r.Points[i]
		if off := geodesy.Distance(p.Lat, p.Lon, want[i].Lat, want[i].Lon); off > 5 {
			t.Errorf("point %d is %.1f m off its corner", i, off)
		}
	}
	if p := r.Points[1]; p.Name != "Tarn" || p.Style.Symbol != "flag" {
		t.Errorf("the waypoint on the line lent %q %q", p.Name, p.Style.Symbol)
	}
	if r.Group != "Paths" || r.Style.Width != 2 || len(r.Fields) != 1 {
		t.Errorf("the route has lost what the track had: %+v", r.Item)
	}
	if !slices.ContainsFunc(l, func(e nav.Entry) bool {
		return e.What == "points" &&
			strings.Contains(e.Why, "stays within")
	}) {
		t.Errorf("it is not said what was lost of the shape: %v", l)
	}

	d = &nav.Dataset{Tracks: []nav.Track{track("Way", points)}}
	apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Routes)}, Within: 20, KeepSource: true}, d)
	if len(d.Tracks) != 1 {
		t.Error("the source is gone")
	}
	for i := range points {
		near := math.Inf(1)
		for k := 1; k < len(d.Routes[0].Points); k++ {
			near = min(near, distanceToLeg(&points[i], &d.Routes[0].Points[k-1].Point, &d.Routes[0].Points[k].Point))
		}
		if near > 20.01 {
			t.Errorf("a point is %.1f m off the route", near)
		}
	}
}

func distanceToLeg(p, a, b *nav.Point) float64 {
	best := math.Inf(1)
	for k := range 1001 {
		q := nav.Between(a, b, float64(k)/1000)
		best = min(best, geodesy.Distance(p.Lat, p.Lon, q.Lat, q.Lon))
	}
	return best
}

func TestAreasAndClosedTracks(t *testing.T) {
	outline, hole := line(0, 0, 500, 0, 500, 500, 0, 500), line(100, 100, 200, 100, 200, 200)
	d := &nav.Dataset{Areas: []nav.Area{{Item: nav.Item{Name: "Nesting", Group: "Closures",
		Style: nav.Style{Fill: nav.RGB(200, 0, 0)}}, Outline: outline, Holes: [][]nav.Point{hole}}}}
	apply(t, &Step{To: [4]*nav.Kind{nav.Areas: kind(nav.Tracks)}}, d)
	tr := d.Tracks[0]
	if len(d.Areas) != 0 || len(tr.Segments) != 2 || len(tr.Segments[0].Points) != 5 ||
		!tr.Segments[0].Points[4].SamePlace(&outline[0]) || tr.Group != "Closures" {
		t.Fatalf("%+v", tr)
	}
	if tr.Style.Colour != nav.RGB(200, 0, 0) {
		t.Error("the outline has lost the area's colour")
	}
	apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Areas)}}, d)
	if len(d.Areas) != 1 || len(d.Areas[0].Outline) != 4 || len(d.Areas[0].Holes) != 1 || len(d.Areas[0].Holes[0]) != 3 {
		t.Fatalf("%+v", d.Areas)
	}

	open := &nav.Dataset{Tracks: []nav.Track{track("Open", line(0, 0, 500, 0, 500, 500, 0, 340))}}
	l := apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Areas)}}, open)
	if len(open.Areas) != 0 || len(open.Tracks) != 1 || l.Losses() != 1 || !strings.Contains(l[0].Why, "340 m apart") {
		t.Errorf("an open line: %v %v", open.Counts(), l)
	}
	apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Areas)}, ClosingWithin: 350}, open)
	if len(open.Areas) != 1 {
		t.Error("it does not close within 350 m")
	}
}

// A route becomes a track with the names of its points, and along the great circle where that is asked for.
func TestRouteToTrack(t *testing.T) {
	r := nav.Route{Item: nav.Item{Name: "R"},
		Points: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(-47.6, 11.3)},
			{Item: nav.Item{Name: "B"}, Point: nav.At(-47.6, 21.3)}}}
	d := &nav.Dataset{Routes: []nav.Route{r}}
	apply(t, &Step{To: [4]*nav.Kind{nav.Routes: kind(nav.Tracks)}}, d)
	s := &d.Tracks[0].Segments[0]
	if len(s.Points) != 2 || s.Detail(&s.Points[1]).Item.Name != "B" {
		t.Errorf("straight legs: %+v", s)
	}
	d = &nav.Dataset{Routes: []nav.Route{r}}
	apply(t, &Step{To: [4]*nav.Kind{nav.Routes: kind(nav.Tracks)}, Every: 50000}, d)
	s = &d.Tracks[0].Segments[0]
	if n := len(s.Points); n != 17 { // 750,9 km
		t.Errorf("%d points", n)
	}
	// The middle of the great circle lies south of the parallel (GeographicLib 2.1: the direct problem over half of the
	// way).
	if p := s.Points[8]; p.Lat > -47.7 || p.Lat < -47.8 {
		t.Errorf("the middle is at %v", p.Lat)
	}
	for i := 1; i < 16; i++ {
		if d := geodesy.Distance(s.Points[i-1].Lat, s.Points[i-1].Lon, s.Points[i].Lat,
			s.Points[i].Lon); math.Abs(d-50000) > 0.01 {
			t.Errorf("a step of %.3f m", d)
		}
	}
}

func TestPace(t *testing.T) {
	start := time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)
	d := &nav.Dataset{Tracks: []nav.Track{track("Way", line(0, 0, 1000, 0, 3000, 0))}}
	apply(t, &Step{Start: start, Speed: 4 / 3.6}, d)
	p := d.Tracks[0].Segments[0].Points
	if !p[0].Time().Equal(start) || p[2].Time().Sub(start).Round(time.Second) != 45*time.Minute {
		t.Errorf("it arrives at %v", p[2].Time())
	}
	// A line with times of its own is left alone, and that is said.
	if l := apply(t, &Step{Start: time.Unix(0, 1), Speed: 1}, d); l.Losses() != 1 || !p[0].Time().Equal(start) {
		t.Errorf("times were replaced: %v", l)
	}
	apply(t, &Step{Shift: -time.Hour}, d)
	if !p[0].Time().Equal(start.Add(-time.Hour)) {
		t.Errorf("shifted to %v", p[0].Time())
	}
	apply(t, &Step{Reverse: true}, d)
	if q := d.Tracks[0].Segments[0].Points; q[0].HasTime() || q[0].Lon < q[2].Lon {
		t.Error("reversed with times running backwards, or not at all")
	}
	now := &nav.Dataset{Tracks: []nav.Track{track("Way", line(0, 0, 1000, 0))}}
	if l := apply(t, &Step{Speed: 1, Now: start.Add(5 * time.Second)},
		now); !now.Tracks[0].Segments[0].Points[0].Time().Equal(start) || !strings.Contains(l[0].Why, "from now") {
		t.Errorf("a pace alone: %v", l)
	}
}

func TestJoin(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{
		track("A", line(0, 0, 100, 0)), track("B", line(290, 0, 200, 0)), track("C", line(-50, 0, -10, 0),
			line(300, 0, 400, 0)),
	}}
	apply(t, &Step{Join: true}, d)
	if len(d.Tracks) != 1 || len(d.Tracks[0].Segments) != 1 {
		t.Fatalf("%d tracks", len(d.Tracks))
	}
	p := d.Tracks[0].Segments[0].Points
	sorted := slices.IsSortedFunc(p, func(a, b nav.Point) int { return int((a.Lon - b.Lon) * 1e7) })
	slices.Reverse(p)
	if back := slices.IsSortedFunc(p, func(a, b nav.Point) int { return int((a.Lon - b.Lon) * 1e7) }); len(p) != 8 ||
		!sorted && !back {
		t.Errorf("%d points, not in a row", len(p))
	}
	apart := &nav.Dataset{Tracks: []nav.Track{track("A", line(0, 0, 100, 0)), track("B", line(110, 0, 200, 0)),
		track("C", line(5000, 0, 6000, 0))}}
	l := apply(t, &Step{Join: true, JoinWithin: 50}, apart)
	if len(apart.Tracks) != 2 ||
		!slices.ContainsFunc(l, func(e nav.Entry) bool { return strings.Contains(e.Why, "4800 m apart") }) {
		t.Errorf("%d tracks, %v", len(apart.Tracks), l)
	}
	// A line without times is turned around rather than one with them; where one with them has to be, that is told.
	mix := func(more ...nav.Track) *nav.Dataset {
		d := &nav.Dataset{
			Tracks: append([]nav.Track{track("plain", line(0, 0, 100, 0)), track("timed", line(300, 0, 110, 0))},
				more...),
		}
		for i := 1; i < len(d.Tracks); i++ {
			for k := range d.Tracks[i].Segments[0].Points {
				d.Tracks[i].Segments[0].Points[k].SetTime(int64(i*100+k+1)*1e9, instant.Seconds)
			}
		}
		return d
	}
	lost := func(l nav.Ledger) bool {
		return slices.ContainsFunc(l,
			func(e nav.Entry) bool { return e.What == "times" && e.Count == 2 && e.Loss && !e.Asked })
	}
	if l := apply(t, &Step{Join: true}, mix()); lost(l) {
		t.Errorf("times went without need: %v", l)
	}
	if l := apply(t, &Step{Join: true}, mix(track("on", line(310, 0, 400, 0)))); !lost(l) {
		t.Errorf("times went without a word: %v", l)
	}
	// Recordings follow one another in time, and none is turned around.
	timed := func(name string, start int64, points []nav.Point) nav.Track {
		for i := range points {
			points[i].SetTime(start+int64(i)*1e9, instant.Seconds)
		}
		return track(name, points)
	}
	rec := &nav.Dataset{Tracks: []nav.Track{timed("late", 100e9, line(0, 0, 50, 0)),
		timed("early", 10e9, line(900, 0, 0, 0))}}
	apply(t, &Step{Join: true}, rec)
	q := rec.Tracks[0].Segments[0].Points
	if !slices.IsSortedFunc(q, func(a, b nav.Point) int { return int(a.UnixNano() - b.UnixNano()) }) || !q[0].HasTime() {
		t.Errorf("the times are out of order: %v", q)
	}
}

func TestSplit(t *testing.T) {
	length := func(s nav.Segment) (sum float64) {
		for i := 1; i < len(s.Points); i++ {
			sum += geodesy.Distance(s.Points[i-1].Lat, s.Points[i-1].Lon, s.Points[i].Lat, s.Points[i].Lon)
		}
		return
	}
	split := func(c Cut, waypoints ...nav.Waypoint) []nav.Track {
		d := &nav.Dataset{Tracks: []nav.Track{track("Way", line(0, 0, 700, 0, 700, 1600))}, Waypoints: waypoints}
		for i := range d.Tracks[0].Segments[0].Points {
			if c.Span > 0 || !c.At.IsZero() || c.Daily {
				d.Tracks[0].Segments[0].Points[i].SetTime(int64(i)*3600e9+5*3600e9, instant.Seconds)
			}
		}
		apply(t, &Step{SplitAt: &c}, d)
		return d.Tracks
	}
	parts := split(Cut{Every: 1000})
	if len(parts) != 3 || parts[0].Name != "Way 1" || math.Abs(length(parts[0].Segments[0])-1000) > 0.1 ||
		math.Abs(length(parts[2].Segments[0])-300) > 0.1 {
		t.Errorf("by distance: %d parts", len(parts))
	}
	a, b := parts[0].Segments[0].Points, parts[1].Segments[0].Points
	if !a[len(a)-1].SamePlace(&b[0]) {
		t.Error("the second part does not begin where the first ends")
	}
	for name, c := range map[string]Cut{"span": {Span: time.Hour}, "time": {At: time.Unix(6*3600, 0)},
		"time of day": {Daily: true, OfDay: 6 * time.Hour, Zone: time.UTC}, "points": {Points: [4]int{nav.Tracks: 2}}} {
		if parts := split(c); len(parts) != 2 || len(parts[0].Segments[0].Points) != 2 {
			t.Errorf("by %s: %d parts", name, len(parts))
		}
	}
	if parts := split(Cut{Waypoints: []string{"ta*"}}, wpt("Tarn", 690, 800)); len(parts) != 2 ||
		math.Abs(length(parts[1].Segments[0])-800) > 0.1 {
		t.Errorf("at a waypoint: %d parts", len(parts))
	}
	d := &nav.Dataset{Tracks: []nav.Track{track("Way", line(0, 0, 700, 0))}}
	if _, err := (&Step{SplitAt: &Cut{Waypoints: []string{"nowhere"}}}).Recast(context.Background(), d); err == nil {
		t.Error("split at a waypoint that there is not")
	}
	if l := apply(t, &Step{SplitAt: &Cut{Every: 9000}}, d); l.Losses() != 1 {
		t.Error("nothing was split, and it is not said")
	}
}

func TestCheck(t *testing.T) {
	for _, s := range []Step{{}, {MaxPoints: 1, Reverse: true}, {Start: time.Unix(0, 1)}, {Reverse: true, Last: "A"},
		{Reverse: true, Within: -1}} {
		if s.Check() == nil {
			t.Errorf("%+v passes", s)
		}
	}
	if _, err := (&Step{To: [4]*nav.Kind{nav.Areas: kind(nav.Tracks)}}).Recast(context.Background(),
		&nav.Dataset{Tracks: []nav.Track{track("A", line(0, 0, 1, 1))}}); err == nil ||
		!strings.Contains(err.Error(), "no areas") {
		t.Errorf("nothing to recast: %v", err)
	}
}

func BenchmarkShortWay(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 2))
	for _, n := range []int{50, 200, 2000} {
		var points []nav.Waypoint
		for range n {
			points = append(points, wpt("", r.Float64()*1e4, r.Float64()*1e4))
		}
		b.Run(fmt.Sprint(n), func(b *testing.B) {
			for b.Loop() {
				shortWay(points, -1, -1)
			}
		})
	}
}

// Several waypoints on one leg each get their own place on it, and one at a corner lends it its name.
func TestWaypointsOnOneLeg(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{track("Way", line(0, 0, 1000, 0, 1000, 500))},
		Waypoints: []nav.Waypoint{wpt("Eight", 800, 3), wpt("Three", 300, -4), wpt("Corner", 1001, 2), wpt("Five", 500, 0),
			wpt("Start", 2, 1)}}
	apply(t, &Step{To: [4]*nav.Kind{nav.Tracks: kind(nav.Routes)}}, d)
	want := line(0, 0, 300, 0, 500, 0, 800, 0, 1000, 0, 1000, 500)
	names := []string{"Start", "Three", "Five", "Eight", "Corner", ""}
	r := d.Routes[0]
	if len(r.Points) != len(want) {
		t.Fatalf("%d points", len(r.Points))
	}
	for i := range want {
		p := &r.Points[i]
		off := geodesy.Distance(p.Lat, p.Lon, want[i].Lat, want[i].Lon)
		if off > 0.05 || names[i] != "" && p.Name != names[i] {
			t.Errorf("point %d is %q, %.2f m off the place of %q", i, p.Name, off, names[i])
		}
	}
}

// Heights above different things are no climb of a leg: the times are those of the level.
func TestNoClimbOfDatums(t *testing.T) {
	timed := func(over nav.VerticalDatum) time.Duration {
		points := line(0, 0, 0, 1000)
		points[0].SetHeight(0, 1, nav.MeanSeaLevel)
		points[1].SetHeight(300, 1, over)
		d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: points}}}}}
		s := &Step{Speed: 5 / 3.6, Now: time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)}
		if _, err := s.Apply(t.Context(), d); err != nil {
			t.Fatal(err)
		}
		made := d.Tracks[0].Segments[0].Points
		return made[1].Since(&made[0]).Round(time.Second)
	}
	level := 12 * time.Minute // a kilometre at 5 km/h
	if got := timed(nav.PressureLevel); got < level-time.Second || got > level+time.Second {
		t.Errorf("between the sea and a pressure level it takes %v, want %v", got, level)
	}
	if got := timed(nav.MeanSeaLevel); got < level+29*time.Minute {
		t.Errorf("300 m up take %v", got)
	}
}
