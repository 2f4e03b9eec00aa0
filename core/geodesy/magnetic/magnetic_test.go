package magnetic

import (
	"fmt"
	"math"
	"os"
	"strings"
	"testing"
	"time"
)

// All hundred values that are published with the model: angles to their last digit, the intensity to a thousandth of a
// nanotesla (the published ones take a rounded semi-minor axis).
func TestPublishedValues(t *testing.T) {
	text, err := os.ReadFile("testdata/wmm2025-test-values.txt")
	if err != nil {
		t.Fatal(err)
	}
	n := 0
	for line := range strings.Lines(string(text)) {
		if strings.HasPrefix(line, "#") {
			continue
		}
		var year, km, lat, lon, inclination, declination, horizontal float64
		if _, err := fmt.Sscan(line, &year, &km, &lat, &lon, &inclination, &declination, &horizontal); err != nil {
			t.Fatal(err)
		}
		n++
		north, east, down := Field(lat, lon, km*1000, year)
		h := math.Hypot(north, east)
		if math.Abs(h-horizontal) > 1e-3 {
			t.Errorf("%s: horizontal intensity %.6f", line, h)
		}
		if i := math.Atan2(down, h) * 180 / math.Pi; math.Abs(i-inclination) > 0.0051 {
			t.Errorf("%s: inclination %.4f", line, i)
		}
		if d := Declination(lat, lon, km*1000, year); math.Abs(d-declination) > 0.0051 {
			t.Errorf("%s: declination %.4f", line, d)
		}
	}
	if n != 100 {
		t.Errorf("%d values", n)
	}
}

func TestPoles(t *testing.T) {
	for _, lat := range []float64{-90, 90} {
		at, near := Declination(lat, 30, 0, 2026), Declination(lat*(1-1e-9), 30, 0, 2026)
		if math.IsNaN(at) || math.Abs(at-near) > 0.001 {
			t.Errorf("at %v it is %v, close by %v", lat, at, near)
		}
	}
}

func TestValidity(t *testing.T) {
	for day, want := range map[string]bool{"2024-12-31": false, "2025-01-01": true, "2029-12-31": true,
		"2030-01-01": false} {
		at, _ := time.Parse(time.DateOnly, day)
		if Covers(at) != want {
			t.Errorf("%s: %v", day, !want)
		}
	}
	if y := Year(time.Date(2025, 7, 2, 12, 0, 0, 0, time.UTC)); y != 2025.5 {
		t.Errorf("the middle of 2025 is %v", y)
	}
}
