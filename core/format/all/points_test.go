package all_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// Values of any sort come back with their points, where numbers, truth values, lists and texts take turns.
func TestValuesOfPointsComeBack(t *testing.T) {
	values := []nav.Field{{Key: "hr", Value: "7.50", Literal: true}, {Key: "on", Value: "true", Literal: true},
		{Key: "note", Value: "to & fro"}, {Key: "n", Value: "[1,2]", Literal: true}, {Key: "hr", Value: "007"},
		{Key: "sat", Value: "9", Literal: true}, {Key: "sat", Value: "-9", Literal: true}}
	var s nav.Segment
	var want []string
	for i := range 500 {
		p := nav.At(-47.6+float64(i)*1e-4, 11.3)
		p.SetTime(int64(i)*2e9, instant.Seconds)
		d := nav.Detail{}
		for k := range values {
			if i>>k&1 == 1 && (k < 4 || i&15 == 0) {
				d.Values = append(d.Values, values[k])
			}
		}
		s.Attach(&p, d)
		s.Points = append(s.Points, p)
		slices.SortStableFunc(d.Values, func(a, b nav.Field) int { return strings.Compare(a.Key, b.Key) })
		want = append(want, fmt.Sprint(d.Values))
	}
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Ferry"}, Segments: []nav.Segment{s}}}}
	for _, name := range []string{"gpx", "kml", "geojson"} {
		back, _ := (&variant{all.Formats.ByName(name), format.WriteOptions{}}).through(t, d)
		got := &back.Tracks[0].Segments[0]
		for i := range got.Points {
			v := got.Values(nil, &got.Points[i])
			slices.SortStableFunc(v, func(a, b nav.Field) int { return strings.Compare(a.Key, b.Key) })
			if text := fmt.Sprint(v); text != want[i] {
				t.Fatalf("%s: point %d has %s, not %s", name, i, text, want[i])
			}
		}
	}
}

// Layers write track points in several ways, one by one or by the column: what is read again is the same from each.
func TestTrackPointsOfLayers(t *testing.T) {
	var s nav.Segment
	for i := range 300 {
		p := nav.At(-47.6+float64(i)*1e-4, 11.3)
		if i%9 > 0 {
			p.SetTime(int64(i)*2e9, instant.Seconds)
		}
		if i%13 > 0 {
			p.SetHeight(float64(i)/4, decimal.PrecisionOf(2), nav.DatumUnstated)
		}
		s.Points = append(s.Points, p)
	}
	literal := func(key, value string) nav.Field { return nav.Field{Key: key, Value: value, Literal: true} }
	s.Attach(&s.Points[0], nav.Detail{Values: []nav.Field{literal("speed", "1.5")}})
	s.Attach(&s.Points[20], nav.Detail{Values: []nav.Field{literal("hr", "120"), {Key: "fix", Value: "3d"}}})
	for i := 21; i < 150; i += 3 {
		s.Share(&s.Points[i], 1)
	}
	s.Attach(&s.Points[50], nav.Detail{Values: []nav.Field{literal("hr", "121"), literal("course", "7.5")}})
	s.Attach(&s.Points[60], nav.Detail{Values: []nav.Field{{Key: "note", Value: "at the buoy"}}})
	s.Attach(&s.Points[200], nav.Detail{Item: &nav.Item{Name: "Halt"}, Values: []nav.Field{literal("hr", "90")}})
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Ferry"}, Segments: []nav.Segment{s}}}}
	rows := func(x *format.Format) (out []string) {
		v := &variant{x, format.WriteOptions{TrackPoints: true}}
		back, _ := v.through(t, d)
		for i := range back.Waypoints {
			w := &back.Waypoints[i]
			var fields []string
			for _, f := range w.Fields {
				fields = append(fields, f.Key+"="+f.Value)
			}
			slices.Sort(fields)
			out = append(out, fmt.Sprintf("%.6f %.6f %v %v %q %s", w.Lat, w.Lon, w.Height(), w.Time(), w.Name,
				strings.Join(fields, " ")))
		}
		return
	}
	want := rows(all.Formats.ByName("gml"))
	if len(want) != 300 || !strings.Contains(want[0], "speed=1.5") || !strings.Contains(want[2], "speed=5.559") ||
		!strings.Contains(want[50], "course=7.5") || !strings.Contains(want[21], "hr=120") {
		t.Fatalf("%d points: %v", len(want), want[:min(len(want), 3)])
	}
	for _, name := range []string{"gpkg", "fgb", "geoparquet"} {
		if got := rows(all.Formats.ByName(name)); !slices.Equal(got, want) {
			for i := range min(len(got), len(want)) {
				if got[i] != want[i] {
					t.Errorf("%s: point %d is %s, not %s", name, i, got[i], want[i])
					break
				}
			}
			t.Errorf("%s has %d points, not %d, or others", name, len(got), len(want))
		}
	}
}
