package choose

import (
	"fmt"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// A track is cut at the very edge of a box or an area, with the time and height that it had there, also where no fix
// lies inside; a hole is left out, and what comes no further than the edge stays as it is.
func TestCutAtTheEdge(t *testing.T) {
	track := func(lons ...float64) *nav.Dataset {
		var seg nav.Segment
		for i, lon := range lons {
			p := nav.At(-47.5, lon)
			p.SetTime(int64(i)*100e9, instant.Seconds)
			p.SetHeight(float64(100*i), decimal.PrecisionOf(1), nav.DatumUnstated)
			seg.Points = append(seg.Points, p)
			seg.Attach(&seg.Points[i], nav.Detail{Values: []nav.Field{{Key: "fix", Value: fmt.Sprint(i)}}})
		}
		return &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{seg}}}}
	}
	square := func(lon, half float64) []nav.Point {
		return []nav.Point{
			nav.At(-47.5-half, lon-half),
			nav.At(-47.5-half, lon+half),
			nav.At(-47.5+half, lon+half),
			nav.At(-47.5+half, lon-half),
		}
	}
	zone := &Zone{}
	zone.Take([]nav.Area{{Outline: square(11, 0.5), Holes: [][]nav.Point{square(11, 0.25)}}})
	box, _ := nav.ParseBox("10.5,-48,11.5,-47")
	for _, c := range []struct {
		name string
		s    Selection
		lons []float64
		want string // the segments: longitude, seconds, metres and what the fix was called
	}{
		{"box", Selection{Inside: box}, []float64{10, 11, 12}, "[10.5 50 50 , 11 100 100 1, 11.5 150 150 ]"},
		{"box between two fixes", Selection{Inside: box}, []float64{10, 12}, "[10.5 25 25 , 11.5 75 75 ]"},
		{"box's edge", Selection{Inside: box}, []float64{10.5, 11, 11.5, 12}, "[10.5 0 0 0, 11 100 100 1, 11.5 200 200 2]"},
		{"area with a hole", Selection{Within: zone}, []float64{10, 12},
			"[10.5 25 25 , 10.75 37.5 37.5 ][11.25 62.5 62.5 , 11.5 75 75 ]"},
		{"in the hole and out", Selection{Within: zone}, []float64{11, 11.4}, "[11.25 62.5 62.5 , 11.4 100 100 1]"},
		{"both", Selection{Within: zone, Inside: &nav.Box{West: 10, South: -48, East: 11, North: -47}}, []float64{10, 12},
			"[10.5 25 25 , 10.75 37.5 37.5 ]"},
		{"outside", Selection{Within: zone}, []float64{12, 13}, ""},
	} {
		d, got := track(c.lons...), ""
		if err := c.s.Apply(d); err != nil && err != ErrNothing {
			t.Fatal(err)
		}
		for _, tr := range d.Tracks {
			for k := range tr.Segments {
				seg := &tr.Segments[k]
				got += "["
				for i := range seg.Points {
					p := &seg.Points[i]
					fix := ""
					if x := seg.Detail(p); x != nil {
						fix, _ = nav.Get(x.Values, "fix")
					}
					got += fmt.Sprintf("%.6g %.4g %.4g %s", p.Lon, float64(p.UnixNano())/1e9, p.Height(), fix)
					if i < len(seg.Points)-1 {
						got += ", "
					}
				}
				got += "]"
			}
		}
		if got != c.want {
			t.Errorf("%s: %s, want %s", c.name, got, c.want)
		}
	}
	// What is not of the time is not interpolated into it.
	until := int64(150e9)
	d := track(10, 11, 12)
	s := Selection{Inside: box, Until: &until}
	if err := s.Apply(d); err != nil || d.Tracks[0].Len() != 2 {
		t.Errorf("%v %v", err, d.Tracks)
	}
}
