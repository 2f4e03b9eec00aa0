package compare

import (
	"context"
	"math"
	"testing"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/motion"
	"gyrolith/core/nav"
)

// sailed is a recording of an hour from a place on a course, with a fix so often.
func sailed(lat, lon, course, speed float64, every time.Duration) *nav.Dataset {
	begin := time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)
	var points []nav.Point
	for at := time.Duration(0); at <= time.Hour; at += every {
		y, x, _ := geodesy.Direct(lat, lon, course, speed*at.Seconds())
		p := nav.At(y, x)
		p.SetTime(begin.Add(at).UnixNano(), instant.Seconds)
		points = append(points, p)
	}
	return &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: points}}}}}
}

// Two boats cross: one goes east at 4 m/s, the other north at 3 m/s from a place 8 km east and 9 km south of it. Where
// and when they are nearest comes from the triangle of their speeds.
func TestNearestApproach(t *testing.T) {
	a := sailed(0, 11, 90, 4, time.Minute)
	south, _, _ := geodesy.Direct(0, 11, 180, 9000)
	_, east, _ := geodesy.Direct(0, 11, 90, 8000)
	b := sailed(south, east, 0, 3, 97*time.Second)
	o := &InTime{Motion: motion.Limits{Gap: 5 * time.Minute}, Within: 3000}
	x, err := o.Compare(context.Background(), a, b)
	if err != nil || x == nil {
		t.Fatal(err)
	}
	// From the first the second lies (8000 − 4t, −9000 + 3t).
	when := (8000.0*4 + 9000*3) / 25
	least := math.Hypot(8000-4*when, -9000+3*when)
	if got := x.Nearest.At.Sub(x.First).Seconds(); math.Abs(got-when) > 3 || math.Abs(x.Nearest.Distance-least) > 3 {
		t.Errorf("%.1f m after %.0f s, want %.1f m after %.0f s", x.Nearest.Distance, got, least, when)
	}
	inside := 2 * math.Sqrt(2000*2000-least*least) / 5
	if math.Abs(x.Inside.Seconds()-inside) > 5 || x.Times != 1 {
		t.Errorf("within 3 km for %v, %d times, want %.0f s", x.Inside, x.Times, inside)
	}
	if math.Abs(x.Farthest.Distance-math.Hypot(8000, 9000)) > 20 || x.Farthest.At != x.First {
		t.Errorf("farthest %.0f m at %v", x.Farthest.Distance, x.Farthest.At)
	}
}

// Of two receivers on one way the second lies 30 m to the east all the time.
func TestOffset(t *testing.T) {
	_, east, _ := geodesy.Direct(-47.6, 11.3, 90, 30)
	o := &InTime{Motion: motion.Limits{Gap: time.Hour}}
	x, err := o.Compare(context.Background(), sailed(-47.6, 11.3, 0, 1.5, 5*time.Second),
		sailed(-47.6, east, 0, 1.5, 7*time.Second))
	if err != nil {
		t.Fatal(err)
	}
	if math.Abs(x.Offset-30) > 0.1 || math.Abs(x.Direction-90) > 0.2 || x.Spread > 0.1 || math.Abs(x.Mean-30) > 0.1 {
		t.Errorf("%+v", x)
	}
	later := sailed(-47.6, 11.3, 0, 1.5, time.Minute)
	for i := range later.Tracks[0].Segments[0].Points {
		p := &later.Tracks[0].Segments[0].Points[i]
		p.SetTime(p.UnixNano()+int64(24*time.Hour), instant.Seconds)
	}
	if x, err := o.Compare(context.Background(), sailed(-47.6, 11.3, 0, 1, time.Minute), later); x != nil || err != nil {
		t.Errorf("recordings of two days: %+v %v", x, err)
	}
}
