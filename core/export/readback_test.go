package export_test

import (
	"io"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/job"
	"gyrolith/core/nav"
)

// A writer that loses, moves, misnames or misdates an item is noticed before its file has a name; one that writes what
// it was given is not.
func TestReadBackNotices(t *testing.T) {
	d := &nav.Dataset{}
	for i, name := range []string{"Rock 1", "Rock 2", "Rock 3"} {
		d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: name}, Point: nav.At(-47.5-float64(i)/100, 11.3)})
	}
	line := nav.Segment{Points: []nav.Point{nav.At(-47.6, 11.3), nav.At(-47.61, 11.31), nav.At(-47.62, 11.3)}}
	for i := range line.Points {
		line.Points[i].SetTime(1e18+int64(i)*1e10, 9)
		line.Points[i].SetHeight(float64(10*i), 1, nav.MeanSeaLevel)
	}
	d.Tracks = []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: []nav.Segment{line}}}
	d.Routes = []nav.Route{{Item: nav.Item{Name: "Run"}, Points: d.Waypoints[:2]}} // of which a layer loses the names
	harms := map[string]func(d *nav.Dataset){
		"":        func(*nav.Dataset) {},
		"lost":    func(d *nav.Dataset) { d.Waypoints = d.Waypoints[1:] },
		"moved":   func(d *nav.Dataset) { d.Waypoints[1].Lat += 1e-6 },
		"renamed": func(d *nav.Dataset) { d.Waypoints[0].Name = "Rock 11" },
		"swapped": func(d *nav.Dataset) {
			d.Waypoints[0].Name, d.Waypoints[1].Name = d.Waypoints[1].Name, d.Waypoints[0].Name
		},
		"shorter": func(d *nav.Dataset) { s := &d.Tracks[0].Segments[0]; s.Points = s.Points[:2] },
		"late":    func(d *nav.Dataset) { d.Tracks[0].Segments[0].Points[1].SetTime(1e18+1e9, 9) },
		"high":    func(d *nav.Dataset) { d.Tracks[0].Segments[0].Points[2].SetHeight(21, 1, nav.MeanSeaLevel) },
	}
	for _, way := range []string{"gpx", "gpkg", "csv", "kml"} {
		for name, harm := range harms {
			if way == "gpkg" && name == "late" { // it has no times of lines
				continue
			}
			noticed(t, way, name, d, harm)
		}
	}
}

func noticed(t *testing.T, way, name string, d *nav.Dataset, harm func(*nav.Dataset)) {
	t.Run(way+" "+name, func(t *testing.T) {
		plain := all.Formats.ByName(way)
		x := *plain
		x.Write = func(w io.Writer, d *nav.Dataset, opt *format.WriteOptions) (*format.Written, error) {
			harmed := d.Clone()
			harm(harmed)
			done, err := plain.Write(w, harmed, opt)
			if err == nil {
				done.Items = d.Counts()
			}
			return done, err
		}
		dir := t.TempDir()
		files := &job.Files{}
		target := export.Target{Formats: all.Formats, Format: &x, ReadBack: true}
		made, err := target.Write(t.Context(), d, filepath.Join(dir, "a."+way), files)
		if name == "" && (err != nil || made.Found == nil || *made.Found != 5) {
			t.Errorf("what is right is refused: %v", err)
		}
		if name != "" && (err == nil || !strings.Contains(err.Error(), "of 5 items")) {
			t.Errorf("not noticed: %v", err)
		}
		files.Discard()
		if left, _ := filepath.Glob(filepath.Join(dir, "*")); len(left) > 0 {
			t.Errorf("left behind: %v", left)
		}
	})
}
