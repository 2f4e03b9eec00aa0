package main

import (
	"strings"
	"testing"
)

// A name has the day of the clock, whether dress gives it to an item or an output is called so.
func TestOneDay(t *testing.T) {
	f := newFolder(t)
	f.put("late.gpx", `<gpx><trk><name>Late</name><trkseg><trkpt lat="-47.5" lon="11.2"><time>2026-03-14T23:30:00Z</time>`+
		`</trkpt><trkpt lat="-47.6" lon="11.2"><time>2026-03-14T23:50:00Z</time></trkpt></trkseg></trk></gpx>`)
	for _, c := range []struct{ clock, day, time string }{{"+02:00", "2026-03-15", "01:30:00"},
		{"UTC", "2026-03-14", "23:30:00"}} {
		f.must("dress", "late.gpx", "--match", "tracks", "--rename", "{date} {time}", "--clock", c.clock, "-o",
			"named-{date}.gpx", "--replace")
		if text := f.get("named-" + c.day + ".gpx"); !strings.Contains(text, "<name>"+c.day+" "+c.time) {
			t.Errorf("by %s: %s", c.clock, text)
		}
	}
	f.put("rules.toml", "[[rule]]\nmatch = \"tracks\"\nset.name = \"{date}\"\n")
	f.must("dress", "late.gpx", "--rules", "rules.toml", "--clock", "+02:00", "-o", "x.gpx")
	if text := f.get("x.gpx"); !strings.Contains(text, "<name>2026-03-15") {
		t.Errorf("by a file of rules: %s", text)
	}
}
