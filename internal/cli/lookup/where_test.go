package lookup

import (
	"math"
	"testing"

	"gyrolith/core/geodesy/crs"
)

func TestParseSpots(t *testing.T) {
	utm, err := crs.Find("32732")
	if err != nil {
		t.Fatal(err)
	}
	near := func(s spot, lat, lon float64) bool {
		return math.Abs(s.lat-lat) < 1e-4 && math.Abs(s.lon-lon) < 1e-4
	}
	for _, c := range []struct {
		args []string
		in   *crs.System
		n    int
	}{{[]string{"47.6", "S", "11.3", "E"}, nil, 1}, {[]string{"−47.6", "11.3"}, nil, 1},
		{[]string{"47.6 S 11.3 E", "4736S01118E"}, nil, 2}, {[]string{"672887.547,4725593.402"}, utm, 1},
		{[]string{"672887.547", "4725593.402"}, utm, 1}} {
		got, err := parseSpots(c.args, c.in)
		if err != nil || len(got) != c.n {
			t.Errorf("%v: %v %v", c.args, got, err)
			continue
		}
		for _, s := range got {
			if !near(s, -47.6, 11.3) {
				t.Errorf("%v: %v", c.args, s)
			}
		}
	}
	for _, args := range [][]string{nil, {"x"}, {"1", "2", "3"}, {"91 N 0 E"}} {
		if got, err := parseSpots(args, nil); err == nil {
			t.Errorf("%v is %v", args, got)
		}
	}
	if _, err := parseSpots([]string{"1", "2", "3"}, utm); err == nil {
		t.Error("three numbers are an easting and a northing")
	}
}
