package clean

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

func waypoint(name string, lat, lon float64) nav.Waypoint {
	w := nav.Waypoint{Point: nav.At(lat, lon)}
	w.Name = name
	return w
}

func date(text string) int64 {
	t, err := time.Parse(time.DateOnly, text)
	if err != nil {
		panic(err)
	}
	return t.UnixNano()
}

func rows(r *Result) string {
	var out []string
	for _, x := range r.Rows {
		out = append(out, strings.TrimSpace(fmt.Sprintf("%s %s %s %d", x.Fault, x.Kind.One(), x.Item, x.Count)))
	}
	return strings.Join(out, "; ")
}

// Two rocks called Rock are two rocks, unless one says how near they must be to be one.
func TestRepeatedWaypoints(t *testing.T) {
	make := func() *nav.Dataset {
		first, second := waypoint("Rock", -47.6, 11.3), waypoint("Rock", -47.6, 11.3)
		second.Desc = "awash"
		second.SetHeight(1, 0, nav.MeanSeaLevel)
		return &nav.Dataset{Waypoints: []nav.Waypoint{first, waypoint("Rock", -47.60002, 11.3), second,
			waypoint("Other", -47.6, 11.3)}}
	}
	d := make()
	s := Step{Faults: []Fault{Repeats}}
	if got := rows(s.run(d)); got != "repeats waypoint Rock 1" || len(d.Waypoints) != 3 {
		t.Errorf("got %s, %d left", got, len(d.Waypoints))
	}
	if w := d.Waypoints[0]; w.Desc != "awash" || !w.HasHeight() {
		t.Errorf("the fields are not merged: %+v", w)
	}
	d, s.RepeatsWithin = make(), 5
	s.run(d)
	if len(d.Waypoints) != 2 {
		t.Errorf("within 5 m: %d left", len(d.Waypoints))
	}
}

func TestZeros(t *testing.T) {
	d := dataset([]nav.Point{nav.At(-47.6, 11.3), nav.At(0, 0), nav.At(-47.61, 11.3)})
	d.Waypoints = []nav.Waypoint{waypoint("Null", 0, 0), waypoint("A", -47.6, 11.3)}
	s := Step{Faults: []Fault{Strays}}
	r := s.run(d)
	if len(d.Waypoints) != 1 || d.Tracks[0].Len() != 2 || len(r.Removed) != 2 || r.Removed[1].Point.Lat != -47.6 {
		t.Errorf("%s; %+v", rows(r), r.Removed)
	}
	near := &nav.Dataset{Waypoints: []nav.Waypoint{waypoint("Null", 0, 0), waypoint("Buoy", 0.1, 0.1)}}
	if r := s.run(near); len(r.Rows) > 0 {
		t.Errorf("0/0 near the rest: %s", rows(r))
	}
}

func timed(day string, n int) []nav.Point {
	var out []nav.Point
	for i := range n {
		p := nav.At(-47.6, 11.3+float64(i)/10000)
		p.SetTime(date(day)+int64(i)*1e9, instant.Seconds)
		out = append(out, p)
	}
	return out
}

func TestEpoch(t *testing.T) {
	for _, c := range []struct {
		name   string
		days   []string
		meta   string
		around string
		want   []string
	}{
		{"in order", []string{"2026-03-14"}, "", "", []string{"2026-03-14"}},
		{"long ago, and nothing against it", []string{"2006-07-29"}, "", "", []string{"2006-07-29"}},
		{"after now, and no evidence", []string{"2045-10-28"}, "", "", []string{"2045-10-28"}},
		{"against the file's own date", []string{"2006-07-29"}, "2026-03-20", "", []string{"2026-03-14"}},
		{"against the others, which are none", []string{"2026-03-14", "2026-03-15", "2006-07-30"}, "", "",
			[]string{"2026-03-14", "2026-03-15", "2006-07-30"}},
		{"years between, but no cycle", []string{"2026-03-14", "2026-03-15", "2012-01-30"}, "", "",
			[]string{"2026-03-14", "2026-03-15", "2012-01-30"}},
		{"around", []string{"2006-07-29"}, "", "2026-01-01", []string{"2026-03-14"}},
		{"two cycles", []string{"1986-12-13"}, "", "2026-01-01", []string{"2026-03-14"}},
	} {
		d := &nav.Dataset{}
		for _, day := range c.days {
			d.Tracks = append(d.Tracks, dataset(timed(day, 20)).Tracks[0])
		}
		if c.meta != "" {
			d.Meta.Time.SetTime(date(c.meta), instant.Seconds)
		}
		planned := nav.Waypoint{Point: dataset(timed(c.days[0], 1)).Tracks[0].Segments[0].Points[0]}
		d.Waypoints, d.Routes = []nav.Waypoint{planned}, []nav.Route{{Points: []nav.Waypoint{planned}}}
		s := Step{Faults: []Fault{Epoch}}
		if c.around != "" {
			s.Around = time.Unix(0, date(c.around))
		}
		r := s.run(d)
		if d.Waypoints[0].Point != planned.Point || d.Routes[0].Points[0].Point != planned.Point {
			t.Errorf("%s: the dates of a plan were moved", c.name)
		}
		for _, row := range r.Rows {
			if !strings.Contains(row.Text, c.days[row.Number-1]+" becomes "+c.want[row.Number-1]) {
				t.Errorf("%s: the ledger says %q", c.name, row.Text)
			}
		}
		var got []string
		for i := range d.Tracks {
			got = append(got, d.Tracks[i].Segments[0].Points[0].Time().Format(time.DateOnly))
		}
		if !slices.Equal(got, c.want) {
			t.Errorf("%s: got %v, want %v", c.name, got, c.want)
		}
	}
}

// Points written in the wrong order are sorted; times that are wrong are taken out.
func TestOrder(t *testing.T) {
	points := timed("2026-03-14", 50)
	shuffled := slices.Clone(points)
	shuffled[10], shuffled[20] = shuffled[20], shuffled[10]
	d := dataset(shuffled)
	s := Step{Faults: []Fault{Order}}
	r := s.run(d)
	if !slices.Equal(d.Tracks[0].Segments[0].Points, points) || len(r.Removed) > 0 || len(r.Rows) != 1 {
		t.Errorf("not sorted: %s", rows(r))
	}
	wrong := slices.Clone(points)
	wrong[10].SetTime(wrong[10].UnixNano()-3600e9, instant.Seconds)
	d = dataset(wrong)
	r = s.run(d)
	if n := d.Tracks[0].Len(); n != 49 || len(r.Removed) != 1 || r.Removed[0].Number != 11 {
		t.Errorf("%d left: %s", n, rows(r))
	}
}

func TestHeights(t *testing.T) {
	points := timed("2026-03-14", 300)
	for i := range points {
		points[i].SetHeight(100+3*math.Sin(float64(i)/10)+float64(i%3)/10, 0, nav.DatumUnstated)
	}
	bad := map[int]bool{50: true, 90: true, 200: true}
	points[50].SetHeight(900, 0, nav.DatumUnstated)
	points[90].SetHeight(0, 0, nav.DatumUnstated)
	points[200].SetHeight(-40, 0, nav.DatumUnstated)
	for i := 120; i < 150; i++ { // a step
		points[i].SetHeight(points[i].Height()+80, 0, nav.DatumUnstated)
		bad[i] = true
	}
	d := dataset(points)
	s := Step{Faults: []Fault{Heights}}
	r := s.run(d)
	for i := range points {
		if has := d.Tracks[0].Segments[0].Points[i].HasHeight(); has == bad[i] {
			t.Errorf("point %d: height %v", i, has)
		}
	}
	if d.Tracks[0].Len() != 300 {
		t.Error("points are gone with their heights")
	}
	if r := s.run(d); len(r.Rows) > 0 {
		t.Errorf("a second run: %s", rows(r))
	}
	_ = r
	shore := timed("2026-03-14", 50)
	for i := range shore {
		shore[i].SetHeight(float64(i%3), 0, nav.DatumUnstated)
	}
	if r := s.run(dataset(shore)); len(r.Rows) > 0 {
		t.Errorf("a walk on the shore: %s", rows(r))
	}
}

func TestGapsAndCrumbs(t *testing.T) {
	points := timed("2026-03-14", 60)
	for i := 30; i < 60; i++ {
		points[i].SetTime(points[i].UnixNano()+3600e9, instant.Seconds)
	}
	points[59].SetTime(points[59].UnixNano()+3600e9, instant.Seconds)
	d := dataset(points)
	s := Step{Faults: []Fault{Gaps, Crumbs}}
	r := s.run(d)
	if n := len(d.Tracks[0].Segments); n != 2 || d.Tracks[0].Len() != 59 {
		t.Errorf("%d segments, %d points: %s", n, d.Tracks[0].Len(), rows(r))
	}
	// Between arrival and departure there is no gap.
	stop := timed("2026-03-14", 60)
	stop[30].Lat, stop[30].Lon = stop[29].Lat, stop[29].Lon
	for i := 30; i < 60; i++ {
		stop[i].SetTime(stop[i].UnixNano()+3600e9, instant.Seconds)
	}
	d = dataset(stop)
	if s.run(d); len(d.Tracks[0].Segments) != 1 {
		t.Error("a stop was split")
	}
	d = dataset(nil)
	d.Tracks = append(d.Tracks, nav.Track{Item: nav.Item{Name: "None"}})
	if r := s.run(d); len(d.Tracks) != 0 || len(r.Rows) != 2 {
		t.Errorf("empty tracks: %s", rows(r))
	}
	d = dataset(points[:2])
	if s.run(d); len(d.Tracks) != 0 {
		t.Error("a track of two points is no crumb")
	}
}

// A planner's pins go; places that somebody named stay, and so does the line.
func TestPins(t *testing.T) {
	var line nav.Track
	line.Name = "Path"
	line.Segments = make([]nav.Segment, 1)
	d := &nav.Dataset{}
	for i := range 8 {
		p := nav.At(-47.6-float64(i)/100, 11.3)
		line.Segments[0].Points = append(line.Segments[0].Points, p)
		w := nav.Waypoint{Point: p}
		w.Name = fmt.Sprintf("WP %02d", i+1)
		if i == 0 {
			w.Name = "Sorrel Landing"
		}
		if i == 3 {
			w.Name, w.Desc = "WP 04", "ring bolt"
		}
		d.Waypoints = append(d.Waypoints, w)
	}
	d.Waypoints = append(d.Waypoints, waypoint("WP 99", -40, 11))
	d.Tracks = []nav.Track{line}
	before := fmt.Sprint(line)
	s := Step{Faults: []Fault{Pins}}
	s.run(d)
	var left []string
	for _, w := range d.Waypoints {
		left = append(left, w.Name)
	}
	if fmt.Sprint(left) != "[Sorrel Landing WP 04 WP 99]" || fmt.Sprint(d.Tracks[0]) != before {
		t.Errorf("left %v", left)
	}
	rocks := &nav.Dataset{Waypoints: []nav.Waypoint{waypoint("Rock 1", -47.6, 11.3), waypoint("Rock 2", -47.7, 11.3)},
		Tracks: []nav.Track{line}}
	if s.run(rocks); len(rocks.Waypoints) != 2 {
		t.Error("two rocks beside a path are pins")
	}
}

func TestBaggage(t *testing.T) {
	d := dataset(timed("2026-03-14", 3))
	seg := &d.Tracks[0].Segments[0]
	seg.Attach(&seg.Points[1], nav.Detail{Values: []nav.Field{{Key: "hr", Value: "90"}}})
	d.Waypoints = []nav.Waypoint{waypoint("A", 1, 1)}
	d.Waypoints[0].Fields = []nav.Field{{Key: "k", Value: "v"}}
	d.Waypoints[0].Kept = []nav.Kept{{Format: "gpx", Text: "<x/>"}}
	s := Step{Faults: []Fault{Baggage}}
	if got := rows(s.run(d)); got != "baggage waypoint A 2; baggage track T 1" {
		t.Errorf("got %s", got)
	}
	if seg.Detail(&seg.Points[1]) != nil || d.Waypoints[0].Fields != nil {
		t.Error("the baggage is still there")
	}
}

// Smoothing brings a jittery recording nearer to the way that was gone.
func TestSmooth(t *testing.T) {
	m := newMaker(5, 1.4, 1, 0)
	m.move(600, 0.02)
	truth := slices.Clone(m.points)
	noisy := slices.Clone(truth)
	for i := range noisy {
		lat, lon := m.plane.XY(noisy[i].Lat, noisy[i].Lon)
		noisy[i].Lat, noisy[i].Lon = m.plane.LatLon(lat+m.r.NormFloat64()*4, lon+m.r.NormFloat64()*4)
	}
	off := func(points []nav.Point) (sum float64) {
		for i := range points {
			sum += apart(&points[i], &truth[i])
		}
		return sum / float64(len(points))
	}
	d := dataset(noisy)
	s := Step{Smooth: true, Carrier: "walk"}
	s.run(d)
	if before, after := off(noisy), off(d.Tracks[0].Segments[0].Points); after > before/2 {
		t.Errorf("%.2f m off before, %.2f after", before, after)
	}
}

func TestNeedle(t *testing.T) {
	var points []nav.Point
	for i := range 40 {
		points = append(points, nav.At(-47.6, 11.3+float64(i)/5000))
	}
	points[20].Lat += 0.1
	d := dataset(points)
	s := Step{Faults: Default}
	if r := s.run(d); d.Tracks[0].Len() != 39 || r.Removed[0].Number != 21 {
		t.Errorf("%s", rows(r))
	}
}

func TestCheck(t *testing.T) {
	for _, s := range []Step{{Carrier: "horse"}, {TopSpeed: -1}, {ThinTo: 1}, {Motion: motion.Limits{Longer: -1}},
		{ThinWithin: -2}} {
		if s.Check() == nil {
			t.Errorf("%+v is taken", s)
		}
	}
	if _, err := ParseFaults("spikes,jumps"); err == nil || !strings.Contains(err.Error(), "\"jumps\" is not a fault") {
		t.Errorf("got %v", err)
	}
}

func BenchmarkClean(b *testing.B) {
	m := newMaker(1, 1.4, 1, 3)
	for len(m.points) < 100000 {
		m.move(1000, 0.05)
	}
	b.Run("default", func(b *testing.B) {
		for b.Loop() {
			s := Step{Faults: Default}
			s.run(dataset(m.points))
		}
	})
	b.Run("all", func(b *testing.B) {
		for b.Loop() {
			s := Step{Faults: All}
			s.run(dataset(m.points))
		}
	})
}

// A track of more segments than it may have points keeps the ends of all, and that is said.
func TestThinToFewerThanTheEnds(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Pieces"}}}}
	for i := range 5 {
		var s nav.Segment
		for k := range 20 {
			s.Points = append(s.Points, nav.At(-47.6+0.01*float64(i), 11.3+0.001*float64(k*k)))
		}
		d.Tracks[0].Segments = append(d.Tracks[0].Segments, s)
	}
	r, err := (&Step{Faults: []Fault{}, ThinTo: 6}).Apply(context.Background(), d)
	if err != nil {
		t.Fatal(err)
	}
	if n := d.Tracks[0].Len(); n != 10 || len(d.Tracks[0].Segments) != 5 {
		t.Errorf("%d points in %d segments are left", n, len(d.Tracks[0].Segments))
	}
	said := slices.ContainsFunc(r.Ledger, func(e nav.Entry) bool { return e.What == "points" && e.New == "10" && !e.Loss })
	if !said {
		t.Errorf("it is not said that more are left than were wanted: %+v", r.Ledger)
	}
}
