package motion

import (
	"testing"
	"time"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// A place is believed between two fixes as far as their silence is no gap, and nowhere beyond the ends; the order of
// the segments does not matter.
func TestCourse(t *testing.T) {
	fix := func(seconds int, lat float64) nav.Point {
		p := nav.At(lat, 11.2)
		p.SetTime(int64(seconds)*1e9, instant.Seconds)
		return p
	}
	a := nav.Segment{Points: []nav.Point{fix(0, -47.50), fix(60, -47.51)}}
	b := nav.Segment{Points: []nav.Point{fix(1200, -47.60), fix(1260, -47.61)}}
	for _, segments := range [][]nav.Segment{{a, b}, {b, a}} {
		c := CourseOf(segments, Limits{Gap: 5 * time.Minute})
		for _, x := range []struct {
			at  int64
			lat float64 // 0 is nowhere
		}{{-1, 0}, {0, -47.50}, {30, -47.505}, {60, -47.51}, {600, 0}, {1230, -47.605}, {1260, -47.61}, {1261, 0}} {
			p, before, after, ok := c.At(x.at * 1e9)
			if ok != (x.lat != 0) || ok && (p.Lat-x.lat > 1e-6 || x.lat-p.Lat > 1e-6) {
				t.Errorf("after %d s: %v %v, want %v", x.at, p.Lat, ok, x.lat)
			}
			if (before == nil) != (x.at < 0) || (after == nil) != (x.at > 1260) {
				t.Errorf("after %d s: between %v and %v", x.at, before, after)
			}
		}
	}
}
