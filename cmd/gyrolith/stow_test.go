package main

import (
	"os"
	"runtime"
	"strings"
	"testing"
)

func TestStowAndBoot(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	f.refuses(1, "no such folder", "stow", "planning.kmz", "--unit", "ridge", "--card", "card")
	f.put("card/photo.jpg", "picture")
	r := f.must("stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--dry-run")
	if len(f.list()) != 3 || !strings.Contains(r.err, "would write") {
		t.Errorf("the dry run wrote: %v", f.list())
	}
	r = f.must("stow", "planning.kmz", "--unit", "ridge", "--card", "card")
	for _, want := range []string{"Lantern Head north", "Lantern Head N", "the unit shows what was intended"} {
		if !strings.Contains(r.err, want) {
			t.Errorf("%q is not said:\n%s", want, r.err)
		}
	}
	if f.get("card/photo.jpg") != "picture" {
		t.Error("a foreign file on the card was touched")
	}
	boot := f.must("boot", "--unit", "ridge", "--card", "card").out
	for _, want := range []string{"WAYPOINTS 26 of 2,000", "TRACKS 11 of 100", "Lantern Head S"} {
		if !strings.Contains(boot, want) {
			t.Errorf("the unit does not show %q:\n%s", want, boot)
		}
	}
	// A second stow is refused, then allowed, and the old state is archived off the card.
	f.refuses(1, "--replace", "stow", "planning.kmz", "--unit", "ridge", "--card", "card")
	old := f.get("card/RIDGE/WAYPOINTS/planning.gpx")
	r = f.must("stow", "planning.kmz", "--take", "waypoints:Landings", "--unit", "ridge", "--card", "card", "--replace",
		"--archives", "kept")
	if f.get("card/RIDGE/WAYPOINTS/planning.gpx") == old {
		t.Error("the file was not replaced")
	}
	var archives int
	for _, name := range f.list() {
		if strings.HasPrefix(name, "kept/ridge-") && strings.HasSuffix(name, ".zip") {
			archives++
		}
		if strings.Contains(name, ".part") || strings.Contains(name, "before") {
			t.Errorf("left on the card: %s", name)
		}
	}
	if archives != 1 {
		t.Errorf("%d archives: %v", archives, f.list())
	}
	f.refuses(1, "is on the card itself", "stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--replace",
		"--archives", "card/old")
	f.refuses(3, "refused by --strict", "stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--strict")
}

// A stow that can't be carried through leaves the card as it was.
func TestStowFails(t *testing.T) {
	t.Parallel()
	if os.Getuid() == 0 && runtime.GOOS != "linux" {
		t.Skip("needs a folder that can't be written")
	}
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.put("card/RIDGE/TRACKS", "a file where a folder belongs")
	f.refuses(1, "the card is as it was", "stow", "planning.kmz", "--unit", "ridge", "--card", "card")
}
