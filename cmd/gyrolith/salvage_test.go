package main

import (
	"fmt"
	"strings"
	"testing"
)

// Every format that is cut off is refused with its place, and on request gives what is complete before the cut.
func TestSalvageEveryFormat(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	for _, ext := range []string{"gpx", "kml", "kmz", "geojson", "geojsons"} {
		whole, cut, saved := "whole."+ext, "cut."+ext, "saved."+ext
		f.must("convert", "planning.kmz", "-o", whole)
		content := f.get(whole)
		f.put(cut, content[:len(content)*2/3])
		f.refuses(1, "--salvage", "convert", cut, "-o", "out.gpx")
		r := f.must("convert", cut, "--salvage", "-o", saved)
		if !strings.Contains(r.err, "the complete data before it was used") {
			t.Errorf("%s: said %s", ext, r.err)
		}
		before, after := f.look(whole).Files[0], f.look(saved).Files[0]
		if after.Waypoints < 10 || after.Points >= before.Points {
			t.Errorf("%s: %d waypoints and %d points of %d and %d", ext, after.Waypoints, after.Points, before.Waypoints,
				before.Points)
		}
		for i, item := range after.Items[:after.Waypoints] {
			if item.Name != before.Items[i].Name {
				t.Errorf("%s: item %d is %q, was %q", ext, i, item.Name, before.Items[i].Name)
			}
		}
	}
	// Also on the verbs that clean and give heights.
	f.put("walk-cut.gpx", f.get("walk.gpx")[:90000])
	f.must("clean", "walk-cut.gpx", "--salvage", "-o", "clean.gpx")
	if r := f.run("clean", "walk-cut.gpx", "-o", "never.gpx"); r.status != 1 {
		t.Errorf("clean takes a cut file without a word: %+v", r)
	}
}

// drift makes a recording of somebody who walks east at 1.4 m/s, one point a second, with what change does to it.
func drift(n int, change func(i int, lat, lon float64) (float64, float64)) string {
	var b strings.Builder
	b.WriteString(`<gpx><trk><name>W</name><trkseg>`)
	for i := range n {
		lat, lon := -47.6, 11.3+float64(i)*1.4/75190
		if change != nil {
			lat, lon = change(i, lat, lon)
		}
		fmt.Fprintf(&b, `<trkpt lat="%.7f" lon="%.7f"><time>2026-03-14T%02d:%02d:%02dZ</time></trkpt>`, lat, lon, 5+i/3600,
			i/60%60, i%60)
	}
	return b.String() + `</trkseg></trk></gpx>`
}

// The thresholds that one gives are those that count.
func TestCleanThresholds(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("spike.gpx", drift(300, func(i int, lat, lon float64) (float64, float64) {
		if i == 150 {
			lat += 30.0 / 111170
		}
		return lat, lon
	}))
	for _, c := range []struct {
		args []string
		left int
	}{
		{nil, 299}, {[]string{"--carrier", "walk"}, 299}, {[]string{"--spike-over", "60m"}, 300},
		{[]string{"--top-speed", "200km/h"}, 300},
		{[]string{"--not", "spikes"}, 300}, {[]string{"--only", "repeats,order"}, 300}, {[]string{"--carrier", "fly"}, 300},
	} {
		out := fmt.Sprintf("out-%d-%s.gpx", c.left, strings.Join(c.args, ""))
		out = strings.NewReplacer("/", "", ",", "").Replace(out)
		f.must(append([]string{"clean", "spike.gpx", "-o", out}, c.args...)...)
		if got := f.look(out).Files[0].Points; got != c.left {
			t.Errorf("%v: %d points are left, want %d", c.args, got, c.left)
		}
	}
	f.put("pause.gpx", strings.Replace(drift(300, nil), "T05:04:59Z", "T05:14:59Z", 1))
	f.must("clean", "pause.gpx", "--also", "gaps", "-o", "split.gpx")
	if n := strings.Count(f.get("split.gpx"), "<trkseg>"); n != 2 {
		t.Errorf("a pause of ten minutes gives %d segments", n)
	}
	f.must("clean", "pause.gpx", "--also", "gaps", "--gap-longer", "20min", "-o", "unsplit.gpx")
	if n := strings.Count(f.get("unsplit.gpx"), "<trkseg>"); n != 1 {
		t.Errorf("a gap of twenty minutes is asked for: %d segments", n)
	}
	f.put("future.gpx", strings.ReplaceAll(drift(20, nil), "2026-03-14", "2045-10-28"))
	f.must("clean", "future.gpx", "-o", "now.gpx", "--around", "2026-01-01")
	if !strings.Contains(f.get("now.gpx"), "2026-03-14T05:00:00Z") {
		t.Errorf("the week number is not put right: %.300s", f.get("now.gpx"))
	}
}

// What clean leaves of a track stays bit for bit: digits, fields of points and all.
func TestCleanKeepsTheRest(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString(`<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1" xmlns:x="urn:x"><trk><name>W</name>` +
		`<trkseg>`)
	for i := range 40 {
		fmt.Fprintf(&b, `<trkpt lat="-47.600%03d00" lon="11.30"><ele>%d.50</ele><time>2026-03-14T05:00:%02d.250Z</time>`+
			`<extensions><x:hr>%d</x:hr></extensions></trkpt>`, i, i, i, 90+i)
	}
	b.WriteString(`<trkpt lat="-47.60003900" lon="11.30"><time>2026-03-14T05:00:39.250Z</time></trkpt></trkseg></trk>` +
		`</gpx>`)
	f.put("a.gpx", b.String())
	f.must("clean", "a.gpx", "-o", "b.gpx")
	got := f.get("b.gpx")
	for i := range 40 {
		for _, want := range []string{fmt.Sprintf(`lat="-47.600%03d00" lon="11.30"`, i),
			fmt.Sprintf("<ele>%d.50</ele><time>2026-03-14T05:00:%02d.250Z</time>", i, i), fmt.Sprintf("<x:hr>%d</x:hr>", 90+i)} {
			if strings.Count(got, want) != 1 {
				t.Errorf("%s stands there %d times", want, strings.Count(got, want))
			}
		}
	}
}
