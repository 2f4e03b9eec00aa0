package format_test

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/core/advice"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func sniff(t testing.TB, content string) (string, error) {
	f, err := all.Formats.Sniff(format.FromBytes(t.Context(), "x", []byte(content)))
	if err != nil {
		return "", err
	}
	return f.Name, nil
}

// The content tells the format, with or without a mark, a declaration, comments and a document type before it.
func TestSniff(t *testing.T) {
	utf16 := "\xfe\xff"
	for _, r := range "<?xml version='1.0'?><gpx/>" {
		utf16 += string([]byte{0, byte(r)})
	}
	for content, want := range map[string]string{
		"<gpx/>": "gpx", "\xef\xbb\xbf<gpx/>": "gpx", utf16: "gpx", "<!-- <kml/> --><gpx/>": "gpx",
		"\n\n  <g:gpx xmlns:g='x'/>": "gpx",
		"<?xml version='1.0' encoding='windows-1252'?><!DOCTYPE gpx SYSTEM 'x'><gpx>\xe9</gpx>": "gpx",
		"<kml/>": "kml", "<Document xmlns='http://www.opengis.net/kml/2.2'/>": "kml", "<Placemark/>": "kml",
		`{"type":"FeatureCollection","features":[]}`: "geojson", "\x1e{\"type\":\"Point\"}\n": "geojsonseq",
		"PK\x03\x04 doc.kml": "kmz", "PK\x03\x04 list.csv": "zip",
	} {
		if got, err := sniff(t, content); got != want {
			t.Errorf("%.30q: got %q (%v), want %q", content, got, err, want)
		}
	}
}

// What is no navigation data is called by its name, and one is told what to do.
func TestForeignFiles(t *testing.T) {
	for content, want := range map[string]string{
		"": "is empty", "   \n": "blanks or zero bytes", "\x00\x00\x00": "blanks or zero bytes",
		"\x89PNG\r\n": "PNG picture", "\xff\xd8\xff\xe0": "JPEG picture",
		"%PDF-1.7": "PDF document", "<html>": "HTML page", "<!DOCTYPE HTML PUBLIC>\n<html>": "HTML page",
		"<!doctype html><p>x": "HTML page",
		"\x1f\x8b\x08":        "gzip archive: unpack it first", "<svg/>": "outermost element is <svg>",
		`{"a":1}`: "JSON, but not GeoJSON", "[1,2]": "JSON, but not GeoJSON",
		"hello": "not in a recognised format", "\x7fELF": "a program", "SQLite format 3\x00": "a database",
		"\x01\x02\x00\xff\xfe\xfd":  "binary file",
		"<?xml version='1.0'?><gpx": "is cut off", "<a b=c>": "not in quotes",
	} {
		_, err := sniff(t, content)
		if err == nil || !strings.Contains(err.Error(), want) || !strings.HasPrefix(err.Error(), "x:") {
			t.Errorf("%.30q: got %v, want %q", content, err, want)
		}
	}
}

func TestRegistry(t *testing.T) {
	for path, want := range map[string]string{"a.gpx": "gpx", "A.GPX": "gpx", "x/y.kmz": "kmz",
		"b.geojsonl": "geojsonl", "b.geojsons": "geojsonseq", "c.json": "geojson"} {
		if f := all.Formats.ByPath(path); f == nil || f.Name != want {
			t.Errorf("%s: %v", path, f)
		}
	}
	if all.Formats.ByPath("a.doc") != nil || all.Formats.ByPath("gpx") != nil {
		t.Error("a name that tells nothing tells a format")
	}
	seen := map[string]bool{}
	for _, f := range all.Formats {
		if f.Title == "" || f.Brief == "" || (f.Holds == nil) == f.Writes() || (f.Sniff == nil) != (f.Read == nil) ||
			seen[f.Name] {
			t.Errorf("%s is not described whole, or there twice", f.Name)
		}
		seen[f.Name] = true
	}
}

func TestOpen(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "a.gpx")
	content := strings.Repeat("0123456789", 20000)
	os.WriteFile(path, []byte(content), 0o666)
	s, err := format.Open(context.Background(), path, nil)
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	for range 2 { // a file can be read again
		if b, err := io.ReadAll(s.Reader()); string(b) != content {
			t.Errorf("%d bytes, %v", len(b), err)
		}
	}
	if s.Size != int64(len(content)) || s.Done() == 0 {
		t.Errorf("size %d, done %d", s.Size, s.Done())
	}
	in, err := format.Open(context.Background(), "-", strings.NewReader(content))
	if err != nil {
		t.Fatal(err)
	}
	if b, _ := io.ReadAll(in.Reader()); string(b) != content || in.Size != -1 {
		t.Errorf("standard input: %d bytes, size %d", len(b), in.Size)
	}
	for path, want := range map[string]string{filepath.Join(dir, "none"): "there is no such file", dir: "is a folder"} {
		if _, err := format.Open(context.Background(), path, nil); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", path, err)
		}
	}
	small, _ := format.Open(context.Background(), "-", strings.NewReader(content))
	if _, _, err := small.ReaderAt(100); err == nil {
		t.Error("standard input is read beyond the limit")
	}
}

func TestLoad(t *testing.T) {
	load := func(content, as string, salvage bool) (*format.Loaded, error) {
		return all.Formats.Load(format.FromBytes(t.Context(), "a.gpx", []byte(content)), as, salvage, &format.ReadOptions{})
	}
	cut := `<gpx><wpt lat="1" lon="2"/><wpt lat="3"`
	if _, err := load(cut, "", false); err == nil || advice.Of(err).Code != advice.Salvage {
		t.Errorf("a cut file: %v", err)
	}
	if in, err := load(cut, "", true); err != nil || len(in.Data.Waypoints) != 1 || in.Cut == nil || in.Cut.Line != 1 {
		t.Errorf("salvaged: %v", err)
	}
	// Salvage forgives an end that comes too early, and no other fault.
	if _, err := load(`<gpx><wpt lat="1" lon="2"/></kml>`, "", true); err == nil {
		t.Error("salvage forgives mismatched tags")
	}
	if _, err := load("<gpx/>", "kml", false); err == nil ||
		!strings.Contains(err.Error(), "outermost element is <gpx>, not <kml>") {
		t.Errorf("read as the wrong format: %v", err)
	}
	if _, err := load("<gpx/>", "nonsense", false); err == nil {
		t.Error("there is no such format")
	}
}

// However long a line is and however its size was foreseen, its points come back in their order.
func TestCollector(t *testing.T) {
	var c format.Collector
	for _, n := range []int{0, 1, 63, 64, 65, 5000, 100000} {
		for _, size := range []int64{-1, 10, int64(n) * 100, int64(n) * 1000} {
			c.Begin(50)
			for i := range n {
				p := c.Add(50+int64(i)*100, size)
				p.Lat = float64(i)
				if i%10 == 9 { // one that can't be used is dropped
					c.Add(0, size)
					c.Drop()
				}
			}
			points := c.Take()
			if len(points) != n || cap(points) > n+n/4+64 {
				t.Fatalf("%d points of %d, room for %d", len(points), n, cap(points))
			}
			for i := range points {
				if points[i].Lat != float64(i) {
					t.Fatalf("point %d is %v", i, points[i].Lat)
				}
			}
		}
	}
}

// Lines of very many points come back in their order too, wherever they stand, with those of lines before and after.
func TestCollectorOfMany(t *testing.T) {
	const bytesOfPoint = 100
	lines := []int{10, 5000, 1_200_000, 3, 70_000, 300_000}
	size := int64(0)
	for _, n := range lines {
		size += int64(n) * bytesOfPoint
	}
	for _, foreseen := range []int64{size, size / 2, -1} {
		var c format.Collector
		var taken [][]nav.Point
		offset, number := int64(0), 0.0
		for _, n := range lines {
			c.Begin(offset)
			for range n {
				c.Add(offset, foreseen).Lat = number
				number++
				offset += bytesOfPoint
			}
			taken = append(taken, c.Take())
		}
		want := 0.0
		for k, points := range taken {
			if len(points) != lines[k] {
				t.Fatalf("size %d: line %d has %d points", foreseen, k, len(points))
			}
			for i := range points {
				if points[i].Lat != want {
					t.Fatalf("size %d: point %d of line %d is %v, not %v", foreseen, i, k, points[i].Lat, want)
				}
				want++
			}
		}
	}
}

func TestSetPosition(t *testing.T) {
	for _, c := range []struct{ lat, lon, why string }{
		{"-47.6", "11.3", ""}, {"90", "-180", ""}, {" 1 ", "2", ""}, {"90.0001", "0", "latitude 90.0001 is beyond 90"},
		{"0", "180.5", "longitude 180.5 is beyond 180"},
		{"", "1", "has no latitude"}, {"x", "1", `latitude "x" is not a number`},
		{"1", "NaN", `longitude "NaN" is not a number`}, {"1", "1e400", "is not a number"},
	} {
		var p nav.Point
		if _, why := format.SetPosition(&p, []byte(c.lat), []byte(c.lon)); !strings.Contains(why, c.why) || c.why == "" &&
			why != "" {
			t.Errorf("%s %s: %q", c.lat, c.lon, why)
		}
	}
	var p nav.Point
	format.SetPosition(&p, []byte("0"), []byte("180"))
	if p.Lon != -180 {
		t.Errorf("the antimeridian is at %v", p.Lon)
	}
}

// anything makes a dataset of all kinds from a seed, with values at random.
func anything(seed uint64) *nav.Dataset {
	r := rand.New(rand.NewPCG(seed, 1))
	text := func() string {
		return []string{"", "Rock", "a & b < c", "naïve \"x\"", "line\nbreak", "日本", "  ", "'"}[r.IntN(8)]
	}
	point := func() nav.Point {
		p := nav.At(float64(r.IntN(180000)-90000)/1000, float64(r.IntN(360000)-180000)/1000)
		if r.IntN(2) == 0 {
			p.SetHeight(float64(r.IntN(5000))/10, decimal.PrecisionOf(1), nav.MeanSeaLevel)
		}
		return p
	}
	item := func() nav.Item {
		it := nav.Item{Name: text(), Desc: strings.TrimSpace(text()), Comment: strings.TrimSpace(text()), Type: "t"}
		it.Name = strings.TrimSpace(it.Name)
		it.Group = "A/B" // one for all, since a file with folders lists the items folder by folder
		if r.IntN(2) == 0 {
			it.Fields = []nav.Field{{Key: "k" + text(), Value: "v" + text()}}
		}
		return it
	}
	d := &nav.Dataset{}
	for range 3 + r.IntN(4) {
		w := nav.Waypoint{Item: item(), Point: point()}
		w.SetTime(int64(r.IntN(1e9))*1e9, instant.Seconds)
		d.Waypoints = append(d.Waypoints, w)
		rt := nav.Route{Item: item()}
		t := nav.Track{Item: item()}
		for range 2 {
			rt.Points = append(rt.Points, nav.Waypoint{Item: nav.Item{Name: "r"}, Point: point()})
			var s nav.Segment
			timed := r.IntN(2) == 0
			for i := range 3 {
				p := point()
				if timed {
					p.SetTime(int64(i)*1e9, instant.Seconds)
				}
				s.Points = append(s.Points, p)
			}
			t.Segments = append(t.Segments, s)
		}
		d.Routes, d.Tracks = append(d.Routes, rt), append(d.Tracks, t)
		d.Areas = append(d.Areas, nav.Area{Item: item(), Outline: []nav.Point{nav.At(0, 0), nav.At(0, 3), nav.At(3, 3)}})
	}
	return d
}

// essence is what every format must bring back: kinds, names, groups, fields, positions, heights and times.
func essence(d *nav.Dataset) string {
	var b strings.Builder
	d.Each(func(k nav.Kind, it *nav.Item) {
		fmt.Fprintf(&b, "%s %q %q %q %q\n", k, it.Name, it.Desc, it.Comment, it.Group)
		for _, f := range it.Fields {
			fmt.Fprintf(&b, "%q=%q %v\n", f.Key, f.Value, f.Literal)
		}
	})
	for p := range d.AllPoints() {
		b.Write(p.AppendLon(append(p.AppendLat(nil), ' ')))
		if p.HasHeight() {
			b.Write(p.AppendHeight([]byte(" h")))
		}
		b.Write(p.AppendTime([]byte(" t")))
		b.WriteByte('\n')
	}
	return b.String()
}

// cards are formats that hold only a part of the data; they have tests of their own.
var cards = map[string]bool{"gpkg": true, "rtz": true, "csv": true, "xlsx": true, "keel": true, "vane": true,
	"talker": true, "igc": true, "gml": true, "fgb": true,
	"geoparquet": true}

// Any data go through every format and come back the same in all that matters.
func TestEveryFormatBringsBack(t *testing.T) {
	for _, f := range all.Formats {
		if f.Write == nil || f.Read == nil || cards[f.Name] {
			continue
		}
		for seed := range uint64(20) {
			d := anything(seed)
			var out bytes.Buffer
			if _, err := f.Write(&out, d, &format.WriteOptions{}); err != nil {
				t.Fatal(err)
			}
			in, err := all.Formats.Load(format.FromBytes(t.Context(), "x", out.Bytes()), "", false, &format.ReadOptions{})
			if err != nil || in.Format != f {
				t.Fatalf("%s, seed %d: %v\n%s", f.Name, seed, err, out.String())
			}
			if got, want := essence(in.Data), essence(d); got != want {
				t.Fatalf("%s, seed %d:\n%s\nwant\n%s\nfrom\n%s", f.Name, seed, got, want, out.String())
			}
		}
	}
}

// failing is an output that is full after some bytes.
type failing struct{ left int }

var errFull = errors.New("no space left on the card")

func (w *failing) Write(b []byte) (int, error) {
	if w.left -= len(b); w.left < 0 {
		return 0, errFull
	}
	return len(b), nil
}

// An output that fails, early or late, is an error, and no writer hangs on it.
func TestFailingOutput(t *testing.T) {
	d := anything(1)
	var s nav.Segment
	for i := range 20000 {
		p := nav.At(-47, 11+float64(i)/1e5)
		p.SetTime(int64(i)*1e9, instant.Seconds)
		s.Points = append(s.Points, p)
	}
	d.Tracks = append(d.Tracks, nav.Track{Segments: []nav.Segment{s}})
	for _, f := range all.Formats {
		if f.Write == nil {
			continue
		}
		d := d
		if f.Name == "rtz" { // which holds one route
			route := nav.Route{}
			for i := range 20000 {
				route.Points = append(route.Points, nav.Waypoint{Point: nav.At(-47, 11+float64(i)/1e5)})
			}
			d = &nav.Dataset{Routes: []nav.Route{route}}
		}
		var whole bytes.Buffer
		f.Write(&whole, d, &format.WriteOptions{})
		for _, left := range []int{0, 1000, 200000, 1000000} {
			_, err := f.Write(&failing{left}, d, &format.WriteOptions{})
			if (err != nil) != (whole.Len() > left) || err != nil && !errors.Is(err, errFull) {
				t.Errorf("%s with room for %d of %d bytes: %v", f.Name, left, whole.Len(), err)
			}
		}
	}
}

// Whoever loads a file can tell why it failed: the cause stays in the error.
func TestCausesStay(t *testing.T) {
	dir := t.TempDir()
	_, err := format.Open(context.Background(), filepath.Join(dir, "gone.gpx"), nil)
	if !errors.Is(err, fs.ErrNotExist) || !strings.HasSuffix(err.Error(), "gone.gpx: there is no such file") {
		t.Errorf("a missing file: %v", err)
	}
	stopped, stop := context.WithCancel(context.Background())
	stop()
	for name, text := range map[string]string{"a.csv": "name,lat,lon\nA,1,2\n",
		"a.gpx":     `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="1" lon="2"/></gpx>`,
		"a.geojson": `{"type":"Point","coordinates":[2,1]}`} {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(text), 0o666); err != nil {
			t.Fatal(err)
		}
		s, err := format.Open(stopped, path, nil)
		if err == nil {
			_, err = all.Formats.Load(s, "", false, &format.ReadOptions{})
			s.Close()
		}
		if !errors.Is(err, context.Canceled) {
			t.Errorf("%s, stopped: %v", name, err)
		}
	}
}
