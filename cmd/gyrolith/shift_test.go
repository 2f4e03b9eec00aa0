package main

import (
	"strings"
	"testing"
)

// A datum shift belongs to the system that it was given for: what is written in another datum in one step is what two
// steps give.
func TestShiftOfOneSystem(t *testing.T) {
	f := newFolder(t)
	f.put("dhdn.csv", "name,easting,northing\nA,3500000,5500000\n")
	const shift = "598.1,73.7,418.2,0.202,0.045,-2.455,6.7"
	place := func(args ...string) string {
		t.Helper()
		r := f.must(append(append([]string{"convert"}, args...), "-o", "-", "--write-as", "csv", "-q")...)
		_, row, _ := strings.Cut(r.out, "\r\n")
		return strings.TrimSpace(row)
	}
	f.must("convert", "dhdn.csv", "--crs-in", "31467", "--shift", shift, "-o", "world.gpx")
	direct := place("dhdn.csv", "--crs-in", "31467", "--crs", "25832", "--shift", shift)
	if steps := place("world.gpx", "--crs", "25832"); direct != steps {
		t.Errorf("DHDN to ETRS89 is %s in one step and %s in two", direct, steps)
	}
	// A shift of what is written, and one of both.
	if back := place("world.gpx", "--crs", "31467", "--shift", shift); !strings.Contains(back, "3500000,5500000") {
		t.Errorf("back to DHDN: %s", back)
	}
	if same := place("dhdn.csv", "--crs-in", "31467", "--crs", "31467", "--shift", shift); !strings.Contains(same,
		"3500000,5500000") {
		t.Errorf("DHDN to DHDN: %s", same)
	}
	// From a system that needs none to one that does, in which the shift is the other's.
	f.must("convert", "world.gpx", "--crs", "25832", "-o", "etrs.csv")
	if out := place("etrs.csv", "--crs-in", "25832", "--crs", "31467", "--shift", shift); !strings.Contains(out,
		"3500000,5500000") && !strings.Contains(out, "3499999.9999") && !strings.Contains(out, "5499999.9999") {
		t.Errorf("ETRS89 to DHDN: %s", out)
	}
}
