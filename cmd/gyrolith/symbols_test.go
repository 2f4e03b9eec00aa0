package main

import (
	"fmt"
	"os"
	"strings"
	"testing"
)

// A symbol that a unit doesn't know never fails a stow, in whatever words and case: the unit shows the nearest, or its
// plain mark, which is a remark.
func TestForeignSymbols(t *testing.T) {
	f := newFolder(t)
	text := `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">`
	for i, sym := range []string{"Campground", "ROCK", "Danger", "Blue Zeppelin", "Anchorage", "waypoint", "Dot",
		"Flag, Blue",
		"Airport", "tower", "point", "?"} {
		text += fmt.Sprintf(`<wpt lat="-47.%d" lon="11.2"><name>M%d</name><sym>%s</sym></wpt>`, 50+i, i, sym)
	}
	text += `<rte><name>R</name><rtept lat="-47.1" lon="11.2"><name>A</name><sym>Zeppelin</sym></rtept>` +
		`<rtept lat="-47.2" lon="11.2"><name>B</name><sym>Buoy</sym></rtept></rte></gpx>`
	f.put("others.gpx", text)
	for _, unit := range []string{"ridge", "keel", "vane"} {
		if err := os.Mkdir(f.path("card-"+unit), 0o777); err != nil {
			t.Fatal(err)
		}
		args := []string{"stow", "others.gpx", "--unit", unit, "--card", "card-" + unit}
		r := f.must(append(args, "--strict")...)
		if !strings.Contains(r.err, "the unit shows what was intended") {
			t.Errorf("%s: %s", unit, r.err)
		}
	}
	shown := f.must("convert", "card-keel/KEEL/MARKS.KRD", "-o", "-", "--write-as", "csv", "--columns", "name,symbol").out
	for _, want := range []string{"M1,rock", "M2,hazard", "M3,\r\n", "M4,anchorage", "M7,flag"} {
		if !strings.Contains(shown, want) {
			t.Errorf("a Keel does not show %s: %s", want, shown)
		}
	}
}
