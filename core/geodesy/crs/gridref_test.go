package crs

import (
	"math"
	"strconv"
	"testing"
)

// The squares are those of the published maps of the letters; the middle of a square is its easting and northing and a
// half of its size.
func TestGridReference(t *testing.T) {
	for _, c := range []struct {
		code        int
		text        string
		east, north float64
	}{
		{27700, "TQ 30 80", 530500, 180500},
		{27700, "tq3080", 530500, 180500},
		{27700, "TG 51409 13177", 651409.5, 313177.5}, // the guide's example of the projection, to the metre
		{27700, "SV 0 0", 5000, 5000},
		{27700, "HP 62 12", 462500, 1212500},
		{29903, "O 15 34", 315500, 234500},
		{29902, "V 6 8", 65000, 85000},
		{29901, "J 33874 74123", 333874.5, 374123.5},
	} {
		s, err := Find(strconv.Itoa(c.code))
		if err != nil {
			t.Fatal(err)
		}
		lat, lon, ok, err := s.GridReference(c.text)
		if !ok || err != nil {
			t.Errorf("%s: %v %v", c.text, ok, err)
			continue
		}
		if e, n, _ := s.Forward(lat, lon); math.Hypot(e-c.east, n-c.north) > 0.01 {
			t.Errorf("%s: %.2f %.2f, want %v %v", c.text, e, n, c.east, c.north)
		}
	}
	s, _ := Find("27700")
	for text, is := range map[string]bool{"TQ 301 80": true, "AA 1 1": true, "47.5 S": false, "T 30 80": false,
		"TQ":          false,
		"VELDN 30 80": false} {
		if _, _, ok, err := s.GridReference(text); ok != is || is && err == nil {
			t.Errorf("%s: %v %v", text, ok, err)
		}
	}
	if utm, _ := Find("32732"); utm.HasGrid() {
		t.Error("letters for UTM")
	}
}
