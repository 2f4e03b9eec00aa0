package main

import (
	"fmt"
	"os"
	"strings"
	"testing"
)

// What the program lays out, works times out for, leads around hazards, or brings home from a card is no recording with
// faults: clean leaves it alone, by whatever it moves and whatever line it is.
func TestOwnLinesAreClean(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "briefing.txt", "counting.txt")
	datum := []string{"--datum", "47.57 S 11.30 E"}
	with := func(more ...string) []string { return append(more, datum...) }
	for i, c := range [][]string{
		with("expanding-square", "--spacing", "0.3nm", "--legs", "10"),
		with("sector", "--radius", "2nm"),
		with("parallel-sweep", "--size", "6nmx4nm", "--spacing", "0.5nm"),
		with("creeping-line", "--size", "600mx400m", "--spacing", "50m"),
		{"lines", "--over", "planning.kmz", "--take", "areas:Nesting*", "--spacing", "100m", "--turn", "80m"},
		{"lines", "--over", "planning.kmz", "--take", "areas:Nesting*", "--spacing", "60m"},
		{"track-line-return", "briefing.txt", "--spacing", "0.2nm"},
	} {
		laid := fmt.Sprintf("laid-%d.gpx", i)
		f.must(append(append([]string{"lay"}, c...), "-o", laid)...)
		for _, speed := range []string{"4km/h", "10kn", "95kn", "250kn"} {
			f.clean(t, strings.Join(c, " "), laid, "recast", "--depart", "2026-03-14T06:00Z", "--speed", speed,
				"--routes-to", "tracks")
			f.clean(t, strings.Join(c, " "), laid, "recast", "--depart", "2026-03-14T06:00Z", "--speed", speed, "--routes-to",
				"tracks", "--step", "100m")
		}
	}
	f.must("legs", "briefing.txt", "--hazards", "planning.kmz", "--hazards-take", "waypoints", "--clear", "150m",
		"--detour",
		"around.gpx")
	for _, speed := range []string{"4km/h", "12kn", "95kn"} {
		f.clean(t, "a detour", "around.gpx", "recast", "--depart", "2026-03-14T06:00Z", "--speed", speed, "--routes-to",
			"tracks")
		f.clean(t, "a plan", "counting.txt", "recast", "--depart", "2026-03-14T06:00Z", "--speed", speed, "--routes-to",
			"tracks")
	}
	// A track that was thinned to be shown by a unit, and came home again.
	f.must("recast", "laid-4.gpx", "--depart", "2026-03-14T06:00Z", "--speed", "95kn", "--routes-to", "tracks", "-o",
		"timed.gpx",
		"--replace")
	for _, unit := range []string{"ridge", "keel"} {
		if err := os.Mkdir(f.path("card-"+unit), 0o777); err != nil {
			t.Fatal(err)
		}
		f.must("stow", "timed.gpx", "--unit", unit, "--card", "card-"+unit)
		f.must("unstow", "--card", "card-"+unit, "-o", unit+".zip", "--write-as", "gpx")
		f.cleanAlready(t, "unstowed from a "+unit, unit+".gpx")
	}
}

// clean makes a file by a verb, and checks that there is nothing to clean in it.
func (f *folder) clean(t *testing.T, what, input, verb string, args ...string) {
	t.Helper()
	f.must(append([]string{verb, input, "-o", "made.gpx", "--replace"}, args...)...)
	f.cleanAlready(t, what+", "+strings.Join(args, " "), "made.gpx")
}

func (f *folder) cleanAlready(t *testing.T, what, made string) {
	t.Helper()
	before := f.get(made)
	r := f.must("clean", made, "--also", "stops,heights", "-o", "cleaned.gpx", "--replace")
	if !strings.Contains(r.err, "nothing to clean") || f.get("cleaned.gpx") != before {
		t.Errorf("%s: %s", what, r.err)
	}
}
