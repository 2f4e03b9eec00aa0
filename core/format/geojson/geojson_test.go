package geojson

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

type reading func(*format.Source, *format.ReadOptions) (*nav.Dataset, error)
type writing func(io.Writer, *nav.Dataset, *format.WriteOptions) (*format.Written, error)

func load(t testing.TB, r reading, doc string) *nav.Dataset {
	t.Helper()
	d, err := r(format.FromBytes(t.Context(), "test.geojson", []byte(doc)), &format.ReadOptions{})
	if err != nil {
		t.Fatalf("%.80q: %v", doc, err)
	}
	return d
}

func store(t testing.TB, w writing, d *nav.Dataset) (string, nav.Ledger) {
	t.Helper()
	var b bytes.Buffer
	done, err := w(&b, d, &format.WriteOptions{})
	if err != nil {
		t.Fatal(err)
	}
	return b.String(), done.Ledger
}

const layer = `{"type":"FeatureCollection","title":"kept","bbox":[1,2,3,4],"features":[
{"type":"Feature","id":7,"bbox":[1,1,1,1],"properties":{"name":"Rock \"1\"","description":"d","count":12.50,` +
	`"seen":true,"tags":["a",{"b":null}],"note":"x","none":null},"geometry":{"type":"Point","coordinates":[11.30000,` +
	`-47.60,12.5]},"extra":{"k":[1]}},
{"geometry":{"coordinates":[[1,1],[2.0,2]],"type":"LineString"},"properties":null,"type":"Feature"},
{"type":"Feature","properties":{"name":"Zone"},"geometry":{"type":"Polygon","coordinates":[[[0,0],[3,0],[3,3],[0,3],` +
	`[0,0]],[[1,1],[1,2],[2,2],[1,1]]]}},
{"type":"Feature","properties":{"name":"Two zones"},"geometry":{"type":"MultiPolygon","coordinates":[[[[0,0],[1,0],` +
	`[1,1],[0,0]]],[[[5,5],[6,5],[6,6],[5,5]],[[5.5,5.2],[5.6,5.2],[5.6,5.3],[5.5,5.2]]]]}},
{"type":"Feature","properties":{"name":"Lines"},"geometry":{"type":"MultiLineString","coordinates":[[[1,1],[2,2]],` +
	`[[3,3],[4,4],[5,5]]]}},
{"type":"Feature","properties":{"name":"Mixed"},"geometry":{"type":"GeometryCollection",` +
	`"geometries":[{"type":"MultiPoint","coordinates":[[1,1],[2,2]]},{"type":"LineString","coordinates":[[1,1],[2,2]]}]}},
{"type":"Feature","properties":{"name":"Nowhere"},"geometry":null}
]}`

func TestReadsLayer(t *testing.T) {
	d := load(t, read, layer)
	if got := fmt.Sprint(d.Counts()); got != "[3 0 3 3]" {
		t.Fatalf("counts %s", got)
	}
	w := d.Waypoints[0]
	if w.Name != `Rock "1"` || w.Desc != "d" || string(w.AppendHeight(nil)) != "12.5" ||
		w.VerticalDatum() != nav.AboveEllipsoid {
		t.Errorf("waypoint %+v", w)
	}
	if got := fmt.Sprint(
		w.Fields); got != `[{count 12.50 true false} {seen true true false} {tags ["a",{"b":null}] true false} {note x `+
		`false true} {none null `+
		`true false}]` {
		t.Errorf("fields %s", got)
	}
	if z := d.Areas[0]; len(z.Outline) != 4 || len(z.Holes) != 1 || len(z.Holes[0]) != 3 {
		t.Errorf("zone %+v", z)
	}
	if d.Areas[1].Name != "Two zones" || d.Areas[2].Name != "Two zones" || len(d.Areas[2].Holes) != 1 {
		t.Errorf("two zones %+v", d.Areas[1:])
	}
	if l := d.Tracks[1]; len(l.Segments) != 2 || l.Len() != 5 {
		t.Errorf("lines %+v", l)
	}
	if p := d.Problems; len(p) != 2 || p[0].Code != "lines" || !p[0].Info || p[1].Code != "places" {
		t.Errorf("problems %+v", p)
	}
}

func TestRoundTrip(t *testing.T) {
	for name, f := range map[string]*format.Format{"collection": Format, "sequence": FormatSeq} {
		once, ledger := store(t, f.Write, load(t, read, layer))
		for _, want := range []string{`"id":7`, `"count":12.50`, `"tags":["a",{"b":null}]`, `"none":null`,
			`"extra":{"k":[1]}`, "[11.30000,-47.60,12.5]"} {
			if !strings.Contains(once, want) {
				t.Errorf("%s: %s is gone", name, want)
			}
		}
		if name == "collection" && (!json.Valid([]byte(once)) || !strings.Contains(once, `"title":"kept"`) ||
			len(ledger) > 0) {
			t.Errorf("not sound, or not whole (%v): %s", ledger, once)
		}
		if twice, _ := store(t, f.Write, load(t, f.Read, once)); twice != once {
			t.Errorf("%s: a second round changes the file:\n%s\n---\n%s", name, once, twice)
		}
	}
}

// The outline of an area goes against the clock, its holes with it, whichever way they came (RFC 7946, 3.1.6).
func TestRingOrder(t *testing.T) {
	ring := func(p ...[2]float64) (out []nav.Point) {
		for _, q := range p {
			out = append(out, nav.At(q[1], q[0]))
		}
		return
	}
	for _, a := range []nav.Area{
		{Outline: ring([2]float64{0, 0}, [2]float64{0, 3}, [2]float64{3, 3}),
			Holes: [][]nav.Point{ring([2]float64{1, 2}, [2]float64{1, 1.5}, [2]float64{1.2, 2})}},
		{Outline: ring([2]float64{177, 0}, [2]float64{177, 3}, [2]float64{179, 3})},
	} {
		out, _ := store(t, write, &nav.Dataset{Areas: []nav.Area{a}})
		var doc struct {
			Features []struct {
				Geometry struct{ Coordinates [][][2]float64 }
			}
		}
		if err := json.Unmarshal([]byte(out), &doc); err != nil {
			t.Fatal(err)
		}
		for i, r := range doc.Features[0].Geometry.Coordinates {
			sum := 0.0
			for j := range r[:len(r)-1] {
				lon := func(k int) float64 {
					if r[k][0] < -90 {
						return r[k][0] + 360
					}
					return r[k][0]
				}
				sum += lon(j)*r[j+1][1] - lon(j+1)*r[j][1]
			}
			if (sum > 0) != (i == 0) || r[0] != r[len(r)-1] {
				t.Errorf("ring %d: %v", i, r)
			}
		}
	}
}

// Routes, times, styles and links travel in a member of ours.
func TestOwnMember(t *testing.T) {
	var r nav.Route
	r.Name, r.Number = "Run", "3"
	for i := range 3 {
		w := nav.Waypoint{Point: nav.At(-47, 11+float64(i))}
		w.Name, w.Style.Symbol = fmt.Sprint("R", i), "flag"
		w.SetTime(int64(i)*1e9, instant.Seconds)
		w.Fields = []nav.Field{{Key: "depth", Value: "3.10", Literal: true}}
		r.Points = append(r.Points, w)
	}
	t1 := nav.Track{Item: nav.Item{Name: "Walk", Group: "Paths",
		Links: []nav.Link{{Href: "https://veldrin.example", Text: "more"}}}}
	t1.Style = nav.Style{Colour: nav.RGB(1, 2, 3), Width: 2.5}
	for s := range 2 {
		seg := nav.Segment{Points: []nav.Point{nav.At(1, 2), nav.At(3, 4)}}
		seg.Points[s].SetTime(1e18+5e8, instant.Seconds+1)
		t1.Segments = append(t1.Segments, seg)
	}
	out, ledger := store(t, write, &nav.Dataset{Routes: []nav.Route{r}, Tracks: []nav.Track{t1},
		Meta: nav.Meta{Name: "Season"}})
	if len(ledger) > 0 {
		t.Errorf("ledger %v", ledger)
	}
	d := load(t, read, out)
	if len(d.Routes) != 1 || d.Meta.Name != "Season" {
		t.Fatalf("counts %v, name %q", d.Counts(), d.Meta.Name)
	}
	if got := d.Routes[0]; got.Number != "3" || got.Points[2].Name != "R2" || got.Points[2].UnixNano() != 2e9 ||
		got.Points[1].Fields[0] != r.Points[1].Fields[0] {
		t.Errorf("route %+v", got)
	}
	got := d.Tracks[0]
	if got.Style != t1.Style || got.Group != "Paths" || got.Links[0] != t1.Links[0] ||
		got.Segments[0].Points[1].HasTime() || got.Segments[1].Points[1].UnixNano() != 1e18+5e8 {
		t.Errorf("track %+v", got)
	}
}

func TestSequence(t *testing.T) {
	point := `{"type":"Feature","properties":{"name":"%s"},"geometry":{"type":"Point","coordinates":[11,-47]}}`
	a, b := fmt.Sprintf(point, "A"), fmt.Sprintf(point, "B")
	for _, c := range []struct {
		text    string
		points  int
		rejects int
	}{
		{"\x1e" + a + "\n\x1e" + b + "\n", 2, 0}, {a + "\n" + b, 2, 0}, {a + "\r\n\r\n" + b + "\n", 2, 0},
		{"\x1e" + a[:40] + "\n\x1e" + b + "\n", 1, 1},
	} {
		if h := format.NewHead([]byte(c.text)); FormatSeq.Sniff(h) == FormatLines.Sniff(h) {
			t.Errorf("%.30q is not recognised", c.text)
		}
		d := load(t, readSeq, c.text)
		if d.Points() != c.points || len(d.Rejects) != c.rejects {
			t.Errorf("%.30q: %d points, rejects %+v", c.text, d.Points(), d.Rejects)
		}
	}
	_, err := readSeq(format.FromBytes(t.Context(), "a", []byte("\x1e"+a+"\n\x1e"+b[:50])), &format.ReadOptions{})
	var where *format.Error
	if !errors.As(err, &where) || !where.Cut || where.Line != 2 {
		t.Errorf("a cut sequence: %v", err)
	}
}

func TestFaults(t *testing.T) {
	for _, c := range []struct{ doc, want string }{
		{"{\"type\":\"Point\",\n\"coordinates\":[1,2}", "test.geojson:2:19: is not valid JSON"},
		{`{"type":"FeatureCollection","features":{}}`, "1:39: a list belongs here"},
		{`{"type":"Feature","geometry":{"type":"LineString","coordinates":[[1,2],3]}}`, "numbers and lists are mixed"},
		{`{"crs":{"type":"name","properties":{"name":"urn:ogc:def:crs:EPSG::99999"}},"type":"FeatureCollection",` +
			`"features":[]}`, "an unknown system"},
		{`{"crs":{"properties":{"name":"urn:ogc:def:crs:EPSG::99999"},"type":"name"},"type":"FeatureCollection",` +
			`"features":[]}`, "an unknown system"},
		{`{"coordinates":` + strings.Repeat("[", 100000), "nested too deeply"},
		{`{"type":"Feature","properties":{"a":` + strings.Repeat(`{"a":`, 5000) + "1" + strings.Repeat("}", 5000) + `}}`,
			"nested more than 1000 deep"},
		{`{"a":1}`, `an object without a "type"`},
		{`{"type":"Point","coordinates":[1,2]}{"type":"Point","coordinates":[1,2]}`, "a second object follows"},
	} {
		_, err := read(format.FromBytes(t.Context(), "test.geojson", []byte(c.doc)), &format.ReadOptions{})
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%.60q: %v, want %q", c.doc, err, c.want)
		}
	}
}

func TestRejects(t *testing.T) {
	d := load(t, read, `{"type":"FeatureCollection","features":[
{"type":"Feature","geometry":{"type":"Point","coordinates":[11,-97]},"properties":{"name":"Far"}},
{"type":"Feature","geometry":{"type":"LineString","coordinates":[[1,1],[200,1],["x",1],[2],[2,2]]},`+
		`"properties":{"name":"Line"}}]}`)
	var got []string
	for _, x := range d.Rejects {
		got = append(got, fmt.Sprintf("%d:%d %s %q %d", x.Line, x.Col, x.Kind.One(), x.Name, x.Number))
	}
	if fmt.Sprint(got) != `[2:60 waypoint "Far" 0 3:72 track "Line" 2 3:80 track "Line" 2 3:88 track "Line" 2]` ||
		d.Points() != 2 {
		t.Errorf("%d points, rejects %v", d.Points(), got)
	}
}

// Positions behind the first are read as one value each, whatever they hold: errors, notes and their places are those
// of a position that is read number by number.
func TestFurtherPositions(t *testing.T) {
	line := func(positions string) string {
		return `{"type":"Feature","properties":{},"geometry":{"type":"LineString","coordinates":[[1,1],` + "\n" +
			positions + `,[3,3]]}}`
	}
	for positions, want := range map[string]string{
		`[ 2.50 , -1.25 , 7.0 ]`:   "1,1 2.50,-1.25,7.0 3,3",
		`[-180.0,90,-0.5]`:         "1,1 -180.0,90,-0.5 3,3",
		`[180,2]`:                  "1,1 -180,2 3,3",
		`[2e0,1.5E1,null]`:         "1,1 2,15 3,3",
		`[2.123456789012345678,2]`: "1,1 2.123456789012345678,2 3,3",
		`[2,2,5,6]`: "1,1 2,2,5 3,3; 2:1 numbers after the height of a position have no meaning and " +
			"were left out",
		`[2,91]`:            "1,1 3,3; 2:1 latitude 91 is beyond 90 degrees",
		`[2,2,"high"]`:      `1,1 3,3; 2:1 height "\"high\"" is not a number`,
		`[2]`:               "1,1 3,3; 2:1 has a longitude without a latitude",
		`[2,[2,2]]`:         "numbers and lists are mixed",
		`[[[[[2,2]]]]]`:     "nested too deeply",
		`{"lon":2,"lat":2}`: "numbers and lists are mixed",
	} {
		d, err := read(format.FromBytes(t.Context(), "x", []byte(line(positions))), &format.ReadOptions{})
		if err != nil {
			if !strings.Contains(err.Error(), want) {
				t.Errorf("%s: %v", positions, err)
			}
			continue
		}
		var got []string
		s := &d.Tracks[0].Segments[0]
		for i := range s.Points {
			p := &s.Points[i]
			text := string(p.AppendLon(nil)) + "," + string(p.AppendLat(nil))
			if x := s.Detail(p); x != nil {
				lat, lon, _ := strings.Cut(x.Exact, " ")
				text = lon + "," + lat
			}
			if p.HasHeight() {
				text += "," + string(p.AppendHeight(nil))
			}
			got = append(got, text)
		}
		text := strings.Join(got, " ")
		for _, x := range d.Rejects {
			text += fmt.Sprintf("; %d:%d %s", x.Line, x.Col, x.Why)
		}
		for _, x := range d.Problems {
			text += fmt.Sprintf("; %d:%d %s", x.Line, x.Col, x.Text)
		}
		if text != want {
			t.Errorf("%s gives %s, not %s", positions, text, want)
		}
	}
}

// Times and names stay with their points where positions before, between and behind them can't be used.
func TestNumbersBesideRejects(t *testing.T) {
	var places, times, points []string
	for i := range 40 {
		place := fmt.Sprintf("[11,%d]", i)
		if i < 2 || i%7 == 3 || i > 37 {
			place = fmt.Sprintf("[11,%d]", 91+i)
		}
		places, times = append(places, place), append(times, fmt.Sprintf(`"2026-03-01T00:00:%02dZ"`, i))
		if i%5 == 0 || i%7 == 3 {
			points = append(points, fmt.Sprintf(`{"at":%d,"name":"P%d"}`, i, i))
		}
	}
	for cut, typ := range map[int]string{40: "LineString", 20: "MultiLineString"} {
		if cut == 20 { // in whatever order they stand
			slices.Reverse(points)
		}
		coordinates := "[" + strings.Join(places, ",") + "]"
		if cut < len(places) {
			coordinates = "[[" + strings.Join(places[:cut], ",") + "],[" + strings.Join(places[cut:], ",") + "]]"
		}
		d := load(
			t,
			read,
			`{"type":"Feature","properties":{},"gyrolith":{"times":[`+strings.Join(times, ",")+`],"points":[`+
				strings.Join(points, ",")+`]},"geometry":{"type":"`+typ+`","coordinates":`+coordinates+`}}`,
		)
		n := 0
		for j := range d.Tracks[0].Segments {
			s := &d.Tracks[0].Segments[j]
			for i := range s.Points {
				p := &s.Points[i]
				number, name := int(p.Lat), ""
				if number%5 == 0 {
					name = fmt.Sprintf("P%d", number)
				}
				got := ""
				if x := s.Detail(p); x != nil && x.Item != nil {
					got = x.Item.Name
				}
				if p.Time().Second() != number || got != name {
					t.Errorf("%s: position %d has the time %v and the name %q", typ, number, p.Time(), got)
				}
				n++
			}
		}
		if n+len(d.Rejects) != 40 || len(d.Rejects) != 9 {
			t.Errorf("%s: %d points, %d rejects", typ, n, len(d.Rejects))
		}
	}
}

// Times of points that can't be read are said.
func TestUnreadableTimes(t *testing.T) {
	d := load(
		t,
		read,
		`{"type":"Feature","properties":{},"gyrolith":{"times":["2026-03-01T10:00:00Z",null,"noon",17.5]},`+
			`"geometry":{"type":"LineString","coordinates":[[1,1],[2,2],[3,3],[4,4]]}}`,
	)
	points := d.Tracks[0].Segments[0].Points
	if !points[0].HasTime() || points[1].HasTime() || points[2].HasTime() || points[3].HasTime() ||
		!strings.Contains(fmt.Sprint(d.Problems), "an unreadable time was left out") {
		t.Errorf("%+v, %v", points, d.Problems)
	}
}

// Of a file that is cut off, the features before the cut can be had, and of a line its points.
func TestSalvage(t *testing.T) {
	for n := 60; n < len(layer)-4; n += 7 {
		d, err := read(format.FromBytes(t.Context(), "cut", []byte(layer[:n])), &format.ReadOptions{})
		var where *format.Error
		if !errors.As(err, &where) || !where.Cut || where.Line == 0 {
			t.Fatalf("cut at %d: %v", n, err)
		}
		if n > strings.Index(layer, `{"geometry"`) && len(d.Waypoints) == 0 {
			t.Errorf("cut at %d: the first feature is gone", n)
		}
	}
	d, _ := read(format.FromBytes(
		t.Context(),
		"cut",
		[]byte(
			`{"type":"Feature","geometry":{"type":"LineString","coordinates":[[1,1],[2,2],[3,`,
		),
	), &format.ReadOptions{})
	if d.Points() != 2 {
		t.Errorf("%d points of the cut line", d.Points())
	}
}

func TestSniff(t *testing.T) {
	for text, want := range map[string]bool{layer: true, ` {"features":[]}`: true, `{"type":"Topology"}`: false,
		`[1]`: false, "": false, "<gpx/>": false} {
		if got := Format.Sniff(format.NewHead([]byte(text))); got != want {
			t.Errorf("%.30q: %v", text, got)
		}
	}
}

func fuzz(f *testing.F, x *format.Format) {
	f.Add([]byte(layer))
	f.Add([]byte("\x1e{\"type\":\"Point\",\"coordinates\":[1,2]}\n"))
	f.Add([]byte(`{"type":"Feature","gyrolith":{"kind":"route","points":[{"name":"a"}],"times":[null]},` +
		`"geometry":{"type":"LineString","coordinates":[[1,2],[3,4]]}}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := x.Read(format.FromBytes(t.Context(), "fuzz", data), &format.ReadOptions{})
		if err != nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) || p.Lon >= 180 {
				t.Fatalf("an unusable position %v %v", p.Lat, p.Lon)
			}
		}
		out, _ := store(t, write, d)
		if !json.Valid([]byte(out)) {
			t.Fatalf("not valid JSON\nfrom %q\nto %s", data, out)
		}
		again := load(t, read, out)
		if a, b := d.Points(), again.Points(); a != b {
			t.Fatalf("%d points become %d\nfrom %q\nto %s", a, b, data, out)
		}
		if twice, _ := store(t, write, again); twice != out {
			t.Fatalf("from %q\nto %s\nand to %s", data, out, twice)
		}
	})
}

func FuzzRead(f *testing.F)    { fuzz(f, Format) }
func FuzzReadSeq(f *testing.F) { fuzz(f, FormatSeq) }

// A member that stands twice is not chosen from in silence.
func TestTwice(t *testing.T) {
	d, err := Format.Read(
		format.FromBytes(t.Context(), "x", []byte(`{"type":"Feature","properties":{"name":"a","name":"b",
		"time":"2026-03-14T05:00:00Z","time":"2026-03-15"},"geometry":{"type":"Point","coordinates":[11,-47]}}`)),
		&format.ReadOptions{},
	)
	if err != nil {
		t.Fatal(err)
	}
	w := &d.Waypoints[0]
	if w.Name != "a" || string(w.AppendTime(nil)) != "2026-03-14T05:00:00Z" || len(w.Fields) != 2 ||
		w.Fields[0].Value != "b" || w.Fields[1].Value != "2026-03-15" {
		t.Errorf("%+v", w)
	}
	_, err = Format.Read(
		format.FromBytes(t.Context(), "x", []byte(`{"type":"LineString","coordinates":[[[0,0],[0]],[[0,0]]],
		"coordinates":[[1,2],[3,4]]}`)),
		&format.ReadOptions{},
	)
	if err == nil || !strings.Contains(err.Error(), "coordinates twice") {
		t.Errorf("%v", err)
	}
}
