package demo

import (
	"bytes"
	"io/fs"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
)

func load(t *testing.T, name string) *nav.Dataset {
	t.Helper()
	content, err := fs.ReadFile(Files, "files/"+name)
	if err != nil {
		t.Fatal(err)
	}
	in, err := all.Formats.Load(format.FromBytes(t.Context(), name, content), "", false, &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	return in.Data
}

// The scenario agrees with its land: landings are on a shore, rocks in the water, paths on land.
func TestPlanLiesOnTheLand(t *testing.T) {
	d := load(t, "planning.kmz")
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		h := groundAt(w.Lat, w.Lon)
		switch w.Group {
		case "Landings":
			if h < -5 || h > 6 {
				t.Errorf("%s lies at %.0f m", w.Name, h)
			}
		case "Rock heads":
			if h > 0 {
				t.Errorf("%s lies at %.0f m, on land", w.Name, h)
			}
		}
	}
	for i := range d.Tracks {
		for _, p := range d.Tracks[i].Segments[0].Points {
			if h := groundAt(p.Lat, p.Lon); h < -3 {
				t.Errorf("%s goes through water of %.0f m", d.Tracks[i].Name, -h)
			}
		}
	}
}

// The recording is of the hill: its heights are those of the land, but for what a receiver gets wrong.
func TestWalkFollowsTheHill(t *testing.T) {
	d := load(t, "walk.gpx")
	far := 0
	points := d.Tracks[0].Segments[0].Points
	for i := range points {
		p := &points[i]
		if p.HasHeight() {
			if off := p.Height() - groundAt(p.Lat, p.Lon); off > 25 || off < -25 {
				far++
			}
		}
	}
	if far > 10 {
		t.Errorf("%d of %d heights are far from the ground", far, len(points))
	}
}

func TestFilesAreWhole(t *testing.T) {
	for _, name := range []string{"planning.kmz", "walk.gpx", "terrain/S48E011.zip"} {
		content, err := fs.ReadFile(Files, "files/"+name)
		if err != nil || len(content) < 1000 || bytes.HasPrefix(content, []byte("version https://")) {
			t.Errorf("%s: %d bytes, %v", name, len(content), err)
		}
	}
}
