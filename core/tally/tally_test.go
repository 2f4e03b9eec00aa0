package tally

import (
	"context"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"gyrolith/core/decimal"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

var begin = time.Date(2026, 3, 14, 22, 0, 0, 0, time.UTC)

// walker makes a recording: so many fixes, ten seconds apart, on a course at a speed, one leg after the other.
type walker struct {
	at     nav.Point
	now    time.Time
	points []nav.Point
}

func newWalker() *walker { return &walker{at: nav.At(-47.6, 11.3), now: begin} }

func (w *walker) fix() {
	p := w.at
	p.SetTime(w.now.UnixNano(), instant.Seconds)
	w.points = append(w.points, p)
}

func (w *walker) walk(span time.Duration, course, speed, climb float64) {
	const step = 10 * time.Second
	height := 0.0
	if w.at.HasHeight() {
		height = w.at.Height()
	}
	for range int(span / step) {
		w.now = w.now.Add(step)
		lat, lon, _ := geodesy.Direct(w.at.Lat, w.at.Lon, course, speed*10)
		height += climb * 10
		w.at = nav.At(lat, lon)
		w.at.SetHeight(height, decimal.PrecisionOf(1), nav.MeanSeaLevel)
		w.fix()
	}
}

func (w *walker) track(name string) *nav.Dataset {
	return &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: name},
		Segments: []nav.Segment{{Points: w.points}}}}}
}

func add(t *testing.T, s *Step, d *nav.Dataset) *Found {
	t.Helper()
	if err := s.Check(); err != nil {
		t.Fatal(err)
	}
	f, err := s.Of(context.Background(), d, "f.gpx", "day")
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// An hour's walk up at 1.5 m/s, a rest of twenty minutes, and half an hour on at 2 m/s.
func dayOut() *walker {
	w := newWalker()
	w.at.SetHeight(0, decimal.PrecisionOf(1), nav.MeanSeaLevel)
	w.fix()
	w.walk(time.Hour, 90, 1.5, 0.1)
	w.walk(20*time.Minute, 0, 0, 0)
	w.walk(30*time.Minute, 0, 2, -0.05)
	return w
}

func TestRow(t *testing.T) {
	f := add(t, &Step{}, dayOut().track("Out"))
	if len(f.Rows) != 1 {
		t.Fatalf("%d rows", len(f.Rows))
	}
	r := &f.Rows[0]
	about := func(what string, got, want, off float64) {
		if math.Abs(got-want) > off {
			t.Errorf("%s is %v, want %v", what, got, want)
		}
	}
	about("length", r.Length, 5400+3600, 5)
	about("elapsed", r.Elapsed.Minutes(), 110, 0.01)
	about("standing", r.Standing.Minutes(), 20, 0.5)
	about("moving", r.Moving.Minutes(), 90, 0.5)
	about("mean speed", r.Mean(), 9000.0/5400, 0.02)
	about("top speed", r.Top, 2, 0.01)
	about("ascent", r.Ascent, 360, 1)
	about("descent", r.Descent, 90, 1)
	about("highest", r.High, 360, 0.1)
	if r.Name != "Out" || r.Folder != "day" || r.Day != "2026-03-14" || r.Faults != 0 || !r.Start.Equal(begin) {
		t.Errorf("%+v", r)
	}
}

// What is plainly wrong adds nothing to a length, and is counted.
func TestFaultsAreNotCountedIn(t *testing.T) {
	w := dayOut()
	clean := add(t, &Step{}, w.track("Out")).Rows[0].Length
	lat, lon, _ := geodesy.Direct(w.points[50].Lat, w.points[50].Lon, 0, 4000)
	w.points[50].Lat, w.points[50].Lon = lat, lon
	r := add(t, &Step{}, w.track("Out")).Rows[0]
	if math.Abs(r.Length-clean) > 20 || r.Faults != 1 {
		t.Errorf("%.0f m with a spike, %.0f m without; %d faults", r.Length, clean, r.Faults)
	}
}

// A recording over midnight counts to each of its days, and the days add up to the whole.
func TestDays(t *testing.T) {
	w := dayOut()
	w.walk(3*time.Hour, 180, 1, 0) // from 23:50 to 02:50
	whole := add(t, &Step{}, w.track("Out")).Rows[0]
	s := &Step{By: []By{Day}}
	rows, total := s.Gather(add(t, s, w.track("Out")).Rows, nil)
	if len(rows) != 2 || rows[0].Day != "2026-03-14" || rows[1].Day != "2026-03-15" {
		t.Fatalf("%+v", rows)
	}
	if math.Abs(total.Length-whole.Length) > 0.01 || total.Elapsed != whole.Elapsed || total.Points != whole.Points {
		t.Errorf("the days have %.2f m, %v, the whole %.2f m, %v", total.Length, total.Elapsed, whole.Length, whole.Elapsed)
	}
	if got := rows[1].Length; math.Abs(got-170*60) > 10 || rows[1].Elapsed != 170*time.Minute {
		t.Errorf("%.0f m and %v after midnight", got, rows[1].Elapsed)
	}
	s.Zone = time.FixedZone("", 3*3600) // where it is one day
	rows, _ = s.Gather(add(t, s, w.track("Out")).Rows, nil)
	if len(rows) != 1 || rows[0].Day != "2026-03-15" {
		t.Errorf("in a zone east: %+v", rows)
	}
	s = &Step{By: []By{Week}}
	if rows, _ := s.Gather(add(t, s, w.track("Out")).Rows, nil); len(rows) != 1 || rows[0].Day != "2026-W11" {
		t.Errorf("by week: %+v", rows)
	}
}

// A clock that is centuries off makes neither a row for each of its days nor a time that runs backwards.
func TestCenturies(t *testing.T) {
	w := newWalker()
	for i, year := range []int{1700, 1980, 2250} {
		w.at, w.now = nav.At(-47.6, 11.3+float64(i)), time.Date(year, 1, 1, 0, 0, 0, 0, time.UTC)
		w.fix()
	}
	for _, by := range []By{"", Day, Leg} {
		s := &Step{By: []By{by}}
		rows, total := s.Gather(add(t, s, w.track("Out")).Rows, nil)
		if len(rows) > 3 || total.Elapsed < 0 || total.Points > 3 {
			t.Errorf("by %q: %d rows, %+v", by, len(rows), total)
		}
	}
}

// From one halt to the next are legs of their own.
func TestLegs(t *testing.T) {
	rows := add(t, &Step{By: []By{Leg}}, dayOut().track("Out")).Rows
	if len(rows) != 2 || math.Abs(rows[0].Length-5400) > 20 || math.Abs(rows[1].Length-3600) > 20 ||
		rows[0].Standing+rows[1].Standing != 0 {
		t.Errorf("%+v", rows)
	}
}

// A leg is from the departure at one halt to the arrival at the next: it ends when its time under way has passed, and
// none is a fix or two before the first halt. The jitter of a receiver makes no top speed.
func TestLegsBetweenHalts(t *testing.T) {
	w := newWalker()
	noise := rand.New(rand.NewPCG(1, 2))
	jitter := func(span time.Duration, speed float64) {
		for range int(span / time.Second) {
			w.now = w.now.Add(time.Second)
			lat, lon, _ := geodesy.Direct(w.at.Lat, w.at.Lon, 70, speed)
			w.at = nav.At(lat, lon)
			kept := w.at
			lat, lon, _ = geodesy.Direct(lat, lon, 360*noise.Float64(), 3*math.Abs(noise.NormFloat64()))
			w.at = nav.At(lat, lon)
			w.fix()
			w.at = kept
		}
	}
	w.fix()
	jitter(10*time.Minute, 0)
	jitter(15*time.Minute, 1.2)
	jitter(10*time.Minute, 0)
	jitter(15*time.Minute, 1.2)
	jitter(10*time.Minute, 0)
	rows := add(t, &Step{By: []By{Leg}}, w.track("Rounds")).Rows
	if len(rows) != 2 {
		t.Fatalf("%d legs: %+v", len(rows), rows)
	}
	for i, r := range rows {
		if math.Abs(r.Length-1080) > 54 || r.Elapsed != r.Moving || (r.Elapsed-15*time.Minute).Abs() > 30*time.Second ||
			r.End.Sub(r.Start) != r.Elapsed || r.Top > 2 {
			t.Errorf("leg %d: %.0f m, from %v to %v, %v under way, %.1f m/s at the most", i+1, r.Length, r.Start, r.End,
				r.Elapsed, r.Top)
		}
	}
}

// A track without times has a length, and nothing is made up for the rest.
func TestWithoutTimes(t *testing.T) {
	w := dayOut()
	for i := range w.points {
		w.points[i].ClearTime()
		w.points[i].ClearHeight()
	}
	r := add(t, &Step{}, w.track("Drawn")).Rows[0]
	if math.Abs(r.Length-9000) > 5 || r.Elapsed != 0 || !math.IsNaN(r.Mean()) || !math.IsNaN(r.Top) ||
		!math.IsNaN(r.High) || !r.Start.IsZero() ||
		r.Day != "" {
		t.Errorf("%+v", r)
	}
}

// Visits begin and end where the legs cross the outline, not at the nearest fix; holes are outside, overlapping areas
// each have theirs.
func TestVisits(t *testing.T) {
	at := func(course, far float64) nav.Point {
		lat, lon, _ := geodesy.Direct(-47.6, 11.3, course, far)
		return nav.At(lat, lon)
	}
	// A strip across the way from 1003 m to 2004 m east, and one in it with a hole.
	strip := func(from, to, high float64) []nav.Point {
		a, b := at(90, from), at(90, to)
		return []nav.Point{nav.At(a.Lat-high, a.Lon), nav.At(a.Lat-high, b.Lon), nav.At(a.Lat+high, b.Lon),
			nav.At(a.Lat+high, a.Lon)}
	}
	w := newWalker()
	w.fix()
	w.walk(time.Hour, 90, 1, 0) // a fix every 10 m
	s := &Step{Areas: []nav.Area{{Item: nav.Item{Name: "strip"}, Outline: strip(1003, 2004, 0.01)},
		{Item: nav.Item{Name: "ring"}, Outline: strip(500, 3000, 0.02), Holes: [][]nav.Point{strip(1000, 2500, 0.005)}},
		{Item: nav.Item{Name: "start"}, Outline: strip(-100, 55, 0.01)}}}
	f := add(t, s, w.track("Out"))
	type visit struct {
		area    string
		in, out float64 // seconds
	}
	want := []visit{{"start", 0, 55}, {"ring", 500, 1000}, {"strip", 1003, 2004}, {"ring", 2500, 3000}}
	if len(f.Visits) != len(want) {
		t.Fatalf("%d visits: %+v", len(f.Visits), f.Visits)
	}
	for i, x := range want {
		v := &f.Visits[i]
		in, out := v.In.Sub(begin).Seconds(), v.Out.Sub(begin).Seconds()
		if v.Area != x.area || math.Abs(in-x.in) > 0.1 || math.Abs(out-x.out) > 0.1 ||
			math.Abs(v.Length-(x.out-x.in)) > 0.5 || math.Abs(v.Inside.Seconds()-(x.out-x.in)) > 0.2 {
			t.Errorf("%s from %.2f to %.2f s, %.2f m; want %+v", v.Area, in, out, v.Length, x)
		}
	}
	if !f.Visits[0].Begun || f.Visits[1].Begun || f.Visits[1].Ended {
		t.Error("which visits begin with the recording")
	}
	s.By = []By{Area}
	rows, _ := s.Gather(f.Rows, f.Visits)
	if len(rows) != 3 || rows[1].Area != "ring" || rows[1].Tracks != 2 || math.Abs(rows[1].Elapsed.Seconds()-1000) > 0.5 {
		t.Errorf("by area: %+v", rows)
	}
}

// Visits are found across the antimeridian.
func TestVisitAcrossTheAntimeridian(t *testing.T) {
	points := []nav.Point{nav.At(-17, 179.9), nav.At(-17, -179.9)}
	s := &Step{Areas: []nav.Area{{Item: nav.Item{Name: "a"}, Outline: []nav.Point{nav.At(-17.1, 179.95),
		nav.At(-17.1, -179.95), nav.At(-16.9, -179.95), nav.At(-16.9, 179.95)}}}}
	f := add(t, s, &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: points}}}}})
	want := geodesy.Distance(-17, 179.95, -17, -179.95)
	if len(f.Visits) != 1 || math.Abs(f.Visits[0].Length-want) > 10 {
		t.Errorf("%+v, want one of %.0f m", f.Visits, want)
	}
}

// A flight above the ceiling of an area is not in it: the visit begins where it descends through the ceiling, and where
// the height is not known it counts as inside.
func TestVisitsBetweenFloorAndCeiling(t *testing.T) {
	area := nav.Area{Item: nav.Item{Name: "Closure", Fields: []nav.Field{{Key: nav.FieldCeiling, Value: "3500ft"}}},
		Outline: []nav.Point{nav.At(-48, 11), nav.At(-48, 12), nav.At(-47, 12), nav.At(-47, 11)}}
	flight := func(heights ...float64) *nav.Dataset {
		w := newWalker()
		for i, h := range heights {
			w.at = nav.At(-47.5, 11.2+float64(i)*0.01)
			w.now = begin.Add(time.Duration(i) * time.Minute)
			if h > 0 {
				w.at.SetHeight(h, 0, nav.MeanSeaLevel)
			}
			w.fix()
		}
		return w.track("Flight")
	}
	for _, c := range []struct {
		what    string
		heights []float64
		visits  int
		begins  time.Duration
	}{
		{"above", []float64{2500, 2500, 2500}, 0, 0},
		{"below", []float64{500, 500, 500}, 1, 0},
		{"unknown", []float64{0, 0, 0}, 1, 0},
		{"descending", []float64{2066.8, 2066.8, 66.8, 66.8}, 1, 90 * time.Second}, // the ceiling is at 1066.8 m
	} {
		s := &Step{Areas: []nav.Area{area}}
		visits := add(t, s, flight(c.heights...)).Visits
		if len(visits) != c.visits || c.visits > 0 && visits[0].In.Sub(begin).Round(time.Second) != c.begins {
			t.Errorf("%s: %+v", c.what, visits)
		}
	}
}
