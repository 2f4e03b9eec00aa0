package elevate

import (
	"bytes"
	"encoding/binary"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/core/nav"
	"gyrolith/core/terrain"
)

// slope is a plane in degrees.
func slope(lat, lon float64) float64 { return 1000 + 400*(lat+47) + 300*(lon-11) }

func save(t *testing.T, name string, content []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, content, 0o666); err != nil {
		t.Fatal(err)
	}
	return path
}

// tile makes the raw tile of the degree from 48° S 11° E, a sample every three seconds.
func tile(height func(lat, lon float64) float64) []byte {
	const side = 1201
	var b bytes.Buffer
	for row := range side {
		for col := range side {
			v := height(-47-float64(row)/(side-1), 11+float64(col)/(side-1))
			binary.Write(&b, binary.BigEndian, int16(math.Round(v)))
		}
	}
	return b.Bytes()
}

func open(t *testing.T, paths ...string) *terrain.Terrain {
	t.Helper()
	x, err := terrain.Open(paths)
	if err != nil {
		t.Fatal(err)
	}
	return x
}

func TestElevate(t *testing.T) {
	x := open(t, save(t, "S48E011.hgt", tile(slope)))
	with, without, outside := nav.At(-47.5, 11.5), nav.At(-47.5, 11.5), nav.At(-47.5, 12.5)
	with.SetHeight(7, 0, nav.MeanSeaLevel)
	d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: []nav.Point{with, without, outside}}}}}}
	s := Step{Terrain: x}
	r, err := s.Elevate(t.Context(), d)
	points := d.Tracks[0].Segments[0].Points
	if err != nil || r.Given != 1 || r.Had != 1 || r.Outside != 1 || r.Missing["S48E012"] != 1 ||
		points[0].Height() != 7 || points[1].VerticalDatum() != nav.MeanSeaLevel || points[2].HasHeight() {
		t.Errorf("%+v, %v, %v", r, err, points)
	}
	s.Always = true
	if r, _ = s.Elevate(t.Context(), d); r.Given != 2 || points[0].Height() == 7 {
		t.Errorf("always: %+v", r)
	}
}

// Ridges between the ends of a line count once points are added there; without, it is said that nothing was looked at.
func TestRidgesBetweenThePoints(t *testing.T) {
	ridges := func(lat, _ float64) float64 { return 500 - 250*math.Cos((lat+48)*8*math.Pi) } // four of 500 m
	x := open(t, save(t, "S48E011.hgt", tile(ridges)))
	line := func() *nav.Dataset {
		a, b := nav.Waypoint{Point: nav.At(-48, 11.5)}, nav.Waypoint{Point: nav.At(-47, 11.5)}
		a.Name, b.Name = "A", "B"
		return &nav.Dataset{Routes: []nav.Route{{Points: []nav.Waypoint{a, b}}}}
	}
	d := line()
	r, err := (&Step{Terrain: x}).Elevate(t.Context(), d)
	if sum := d.Routes[0].Summary(); err != nil || sum.Ascent != 0 || !strings.Contains(r.Unseen(), "111 km long") ||
		r.UnseenAdvice().Arg != "93m" {
		t.Errorf("up %v; %q %v %v", sum.Ascent, r.Unseen(), r.UnseenAdvice(), err)
	}
	d = line()
	r, err = (&Step{Terrain: x, Every: 93}).Elevate(t.Context(), d)
	sum := d.Routes[0].Summary()
	if err != nil || math.Abs(sum.Ascent-2000) > 20 || math.Abs(sum.Descent-2000) > 20 || r.Unseen() != "" {
		t.Errorf("up %v, down %v, want 2000 each; %q %v", sum.Ascent, sum.Descent, r.Unseen(), err)
	}
	points := d.Routes[0].Points
	if points[0].Name != "A" || points[len(points)-1].Name != "B" || len(points) != r.Added+2 {
		t.Errorf("%d points, %d added, from %q to %q", len(points), r.Added, points[0].Name, points[len(points)-1].Name)
	}
	// Between two heights that stay there is nothing to look for.
	d = line()
	for i := range d.Routes[0].Points {
		d.Routes[0].Points[i].SetHeight(900, 0, nav.MeanSeaLevel)
	}
	if r, err = (&Step{Terrain: x, Every: 93}).Elevate(t.Context(), d); err != nil || r.Added != 0 || r.Had != 2 {
		t.Errorf("%+v %v", r, err)
	}
}

// A geoid leaves heights alone of which nothing says what they are above, and says so.
func TestUnstatedHeights(t *testing.T) {
	x := open(t, save(t, "S48E011.hgt", tile(slope)))
	p := nav.Waypoint{Point: nav.At(-47.5, 11.5)}
	p.SetHeight(100, 0, nav.DatumUnstated)
	d := &nav.Dataset{Waypoints: []nav.Waypoint{p}}
	report, err := (&Step{Geoid: x}).Apply(t.Context(), d)
	if err != nil || len(report.Findings) != 1 || !strings.HasPrefix(report.Findings[0], "1 height left as it is") ||
		d.Waypoints[0].Height() != 100 {
		t.Errorf("%+v %v", report, err)
	}
}

func TestGeoid(t *testing.T) {
	g := open(t,
		save(t, "geoid.asc", []byte("ncols 2\nnrows 2\nxllcorner 11\nyllcorner -48\ncellsize 0.5\n25 25\n25 25\n")))
	over := nav.At(-47.5, 11.5)
	over.SetHeight(125, 0, nav.AboveEllipsoid)
	sea := nav.At(-47.5, 11.5)
	sea.SetHeight(100, 0, nav.MeanSeaLevel)
	d := &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{{Points: []nav.Point{over, sea}}}}}}
	s := Step{Geoid: g}
	r, err := s.Elevate(t.Context(), d)
	points := d.Tracks[0].Segments[0].Points
	if err != nil || r.Converted != 1 || points[0].Height() != 100 || points[0].VerticalDatum() != nav.MeanSeaLevel ||
		points[1].Height() != 100 {
		t.Errorf("%+v %v %v", r, err, points)
	}
}
