package gml

import (
	"bytes"
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

func load(t testing.TB, text string) *nav.Dataset {
	t.Helper()
	d, err := read(format.FromBytes(t.Context(), "a.gml", []byte(text)), &format.ReadOptions{})
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// one puts a geometry into a collection of somebody else's.
func one(geometry string) string {
	return `<wfs:FeatureCollection xmlns:wfs="http://www.opengis.net/wfs" xmlns:gml="http://www.opengis.net/gml" ` +
		`xmlns:a="urn:a"><gml:featureMember><a:well fid="w.1"><a:label>Well</a:label><a:the_geom>` + geometry +
		`</a:the_geom><a:nests>12</a:nests></a:well></gml:featureMember></wfs:FeatureCollection>`
}

// The order of the axes is that which the name of the system asks for.
func TestOrderOfAxes(t *testing.T) {
	for name, geometry := range map[string]string{
		"URN": `<gml:Point srsName="urn:ogc:def:crs:EPSG::4326"><gml:pos>-47.5 11.25</gml:pos></gml:Point>`,
		"URL": `<gml:Point srsName="http://www.opengis.net/def/crs/EPSG/0/4326">` +
			`<gml:pos>-47.5 11.25</gml:pos></gml:Point>`,
		"short": `<gml:Point srsName="EPSG:4326"><gml:pos>11.25 -47.5</gml:pos></gml:Point>`,
		"old URL": `<gml:Point srsName="http://www.opengis.net/gml/srs/epsg.xml#4326">` +
			`<gml:coordinates>11.25,-47.5</gml:coordinates></gml:Point>`,
		"CRS84": `<gml:Point srsName="urn:ogc:def:crs:OGC:1.3:CRS84"><gml:pos>11.25 -47.5</gml:pos></gml:Point>`,
		"none":  `<gml:Point><gml:pos>-47.5 11.25</gml:pos></gml:Point>`,
		"UTM": `<gml:Point srsName="urn:ogc:def:crs:EPSG::32732">` +
			`<gml:pos>669451.472 4736816.612</gml:pos></gml:Point>`,
		"UTM, north": `<gml:Point srsName="urn:ogc:def:crs:EPSG::32732">` +
			`<gml:pos>4736816.612 669451.472</gml:pos></gml:Point>`,
		"with heights": `<gml:Point srsName="urn:ogc:def:crs:EPSG::4979" srsDimension="3">` +
			`<gml:pos>-47.5 11.25 12</gml:pos></gml:Point>`,
	} {
		d := load(t, one(geometry))
		if len(d.Waypoints) != 1 {
			t.Errorf("%s: %+v", name, d)
			continue
		}
		w := &d.Waypoints[0]
		if got := fmt.Sprintf("%.5f %.5f", w.Lat, w.Lon); got != "-47.50000 11.25000" ||
			w.HasHeight() != (name == "with heights") {
			t.Errorf("%s: %s", name, got)
		}
		if w.Name != "Well" || fmt.Sprint(w.Fields) != "[{nests 12 false false}]" {
			t.Errorf("%s: %+v", name, w.Item)
		}
	}
}

// Curves of segments, several curves, surfaces of patches with holes, and the forms of GML 2.
func TestGeometries(t *testing.T) {
	const system = ` srsName="urn:ogc:def:crs:EPSG::4326"`
	for geometry, want := range map[string]string{
		`<gml:LineString` + system + `>` +
			`<gml:posList>1 2 3 4 5 6 7 8</gml:posList></gml:LineString>`: "0 tracks 1 4 0 0",
		`<gml:LineString` + system + `>` +
			`<gml:posList srsDimension="3">1 2 9 3 4 9</gml:posList></gml:LineString>`: "0 tracks 1 2 0 0",
		`<gml:MultiCurve` + system + ` srsDimension="3"><gml:curveMember><gml:LineString>` +
			`<gml:posList>1 2 9 3 4 9</gml:posList></gml:LineString></gml:curveMember><gml:curveMember><gml:Curve>` +
			`<gml:segments><gml:LineStringSegment><gml:posList>1 2 9 3 4 9</gml:posList></gml:LineStringSegment>` +
			`</gml:segments></gml:Curve></gml:curveMember></gml:MultiCurve>`: "0 tracks 2 4 0 0",
		`<gml:MultiCurve` + system + ` srsDimension="3"><gml:curveMember><gml:LineString` + system + `>` +
			`<gml:posList>1 2 9 3 4 9 5 6 9 7 8 9</gml:posList></gml:LineString></gml:curveMember>` +
			`</gml:MultiCurve>`: "0 tracks 1 4 0 0",
		`<gml:MultiSurface srsName="urn:ogc:def:crs:EPSG::4979"><gml:surfaceMember><gml:Polygon><gml:exterior>` +
			`<gml:LinearRing><gml:posList>0 0 5 0 9 5 9 9 5 9 0 5 8 0 5 0 0 5</gml:posList></gml:LinearRing></gml:exterior>` +
			`</gml:Polygon></gml:surfaceMember></gml:MultiSurface>`: "0 tracks 0 0 1 0",
		`<gml:MultiPoint` + system + ` srsDimension="2"><gml:pointMember><gml:Point srsDimension="3"><gml:pos>1 2 3` +
			`</gml:pos></gml:Point></gml:pointMember></gml:MultiPoint>`: "1 tracks 0 0 0 0",
		`<gml:LineString` + system + ` srsDimension="3"><gml:posList srsDimension="2">1 2 3 4 5 6</gml:posList>` +
			`</gml:LineString>`: "0 tracks 1 3 0 0",
		`<gml:Curve` + system + `><gml:segments><gml:LineStringSegment><gml:posList>1 2 3 4</gml:posList>` +
			`</gml:LineStringSegment><gml:LineStringSegment><gml:posList>3 4 5 6</gml:posList></gml:LineStringSegment>` +
			`</gml:segments></gml:Curve>`: "0 tracks 1 3 0 0",
		`<gml:MultiCurve` + system + `><gml:curveMember><gml:LineString><gml:posList>1 2 3 4</gml:posList></gml:LineString>` +
			`</gml:curveMember><gml:curveMember><gml:LineString><gml:pos>1 2</gml:pos><gml:pos>3 4</gml:pos></gml:LineString>` +
			`</gml:curveMember></gml:MultiCurve>`: "0 tracks 2 4 0 0",
		`<gml:Surface` + system + `><gml:patches><gml:PolygonPatch><gml:exterior><gml:LinearRing>` +
			`<gml:posList>0 0 0 9 9 9 9 0 ` +
			`0 0</gml:posList></gml:LinearRing></gml:exterior><gml:interior><gml:LinearRing><gml:posList>1 1 2 2 1 2 1 1` +
			`</gml:posList></gml:LinearRing></gml:interior></gml:PolygonPatch></gml:patches></gml:Surface>`: "0 tracks 0 0 1 1",
		`<gml:MultiPolygon srsName="EPSG:4326"><gml:polygonMember><gml:Polygon><gml:outerBoundaryIs><gml:LinearRing>` +
			`<gml:coordinates>0,0 9,0 9,9 0,0</gml:coordinates></gml:LinearRing></gml:outerBoundaryIs></gml:Polygon>` +
			`</gml:polygonMember><gml:polygonMember><gml:Polygon><gml:outerBoundaryIs><gml:LinearRing><gml:coordinates>` +
			`20,0 29,0 29,9 20,0</gml:coordinates></gml:LinearRing></gml:outerBoundaryIs></gml:Polygon></gml:polygonMember>` +
			`</gml:MultiPolygon>`: "0 tracks 0 0 2 0",
		`<gml:MultiPoint` + system + `><gml:pointMembers><gml:Point><gml:pos>1 2</gml:pos></gml:Point><gml:Point>` +
			`<gml:pos>3 4</gml:pos></gml:Point></gml:pointMembers></gml:MultiPoint>`: "2 tracks 0 0 0 0",
	} {
		d := load(t, one(geometry))
		segments, points, holes := 0, 0, 0
		for i := range d.Tracks {
			segments += len(d.Tracks[i].Segments)
			points += d.Tracks[i].Len()
		}
		for i := range d.Areas {
			holes += len(d.Areas[i].Holes)
			if len(d.Areas) > 1 && d.Areas[i].Whole == nil {
				t.Error("the parts are no feature any more")
			}
		}
		if got := fmt.Sprintln(len(d.Waypoints), "tracks", segments, points, len(d.Areas), holes); strings.TrimSpace(
			got,
		) != want {
			t.Errorf("%s: %s, want %s", geometry, got, want)
		}
	}
}

// What the box around all features says of coordinates holds where a geometry says nothing and its numbers allow it,
// and a second geometry in another system is left out aloud.
func TestBoxAround(t *testing.T) {
	d := load(t, `<c:FeatureCollection xmlns:c="urn:c" xmlns:gml="http://www.opengis.net/gml/3.2"><gml:boundedBy>`+
		`<gml:Envelope srsName="urn:ogc:def:crs:EPSG::4326" srsDimension="3"/></gml:boundedBy><gml:featureMember><c:f>`+
		`<c:line><gml:LineString><gml:posList>-47.5 11.3 5 -47.6 11.4 6</gml:posList></gml:LineString></c:line>`+
		`<c:at><gml:Point srsName="urn:ogc:def:crs:EPSG::32732"><gml:pos>669451 4736816</gml:pos></gml:Point></c:at>`+
		`</c:f></gml:featureMember></c:FeatureCollection>`)
	if len(d.Tracks) != 1 || len(d.Waypoints) != 0 {
		t.Fatalf("%v", d.Counts())
	}
	if p := &d.Tracks[0].Segments[0].Points[1]; p.Lat != -47.6 || p.Lon != 11.4 || p.Height() != 6 {
		t.Errorf("%+v", p)
	}
	flat := load(t, `<c:FeatureCollection xmlns:c="urn:c" xmlns:gml="http://www.opengis.net/gml/3.2"><gml:boundedBy>`+
		`<gml:Envelope srsDimension="3"/></gml:boundedBy><gml:featureMember><c:f><c:at><gml:Point><gml:pos>-47.5 11.3`+
		`</gml:pos></gml:Point></c:at></c:f></gml:featureMember><gml:featureMember><c:f><c:line><gml:LineString>`+
		`<gml:posList>-47.5 11.3 -47.6 11.4</gml:posList></gml:LineString></c:line></c:f></gml:featureMember>`+
		`</c:FeatureCollection>`)
	if len(flat.Waypoints) != 1 || len(flat.Tracks) != 1 || flat.Tracks[0].Len() != 2 {
		t.Errorf("positions of two numbers: %v", flat.Counts())
	}
	if !strings.Contains(fmt.Sprint(d.Problems), "another coordinate system") {
		t.Errorf("%v", d.Problems)
	}
}

func TestWhatCanGoWrong(t *testing.T) {
	good := one(`<gml:Point><gml:pos>-47.5 11.25</gml:pos></gml:Point>`)
	for want, text := range map[string]string{
		"is cut off":                good[:len(good)-60],
		"is not a number":           strings.Replace(good, "11.25", "x", 1),
		"don't make positions of 2": strings.Replace(good, "-47.5 11.25", "1 2 3 4 5", 1),
		"is not known":              strings.Replace(good, "<gml:Point>", `<gml:Point srsName="urn:x:somewhere">`, 1),
	} {
		if _, err := read(format.FromBytes(t.Context(), "a.gml", []byte(text)), &format.ReadOptions{}); err == nil ||
			!strings.Contains(err.Error(), want) {
			t.Errorf("%v, want %q", err, want)
		}
	}
	d := load(t, one(`<gml:Curve><gml:segments><gml:ArcString><gml:posList>1 2 3 4 5 6</gml:posList></gml:ArcString>`+
		`</gml:segments></gml:Curve>`))
	if !strings.Contains(fmt.Sprint(d.Problems), "a geometry ArcString") || len(d.Tracks) != 0 {
		t.Errorf("%+v", d)
	}
}

// What is written names its system with the latitude first, and has an id at every feature and geometry, each once.
func TestWritten(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A & B", Fields: []nav.Field{{Key: "nests here",
		Value: "12", Literal: true}}}, Point: nav.At(-47.5, 11.25)}}}
	var out bytes.Buffer
	if _, err := Format.Store(&out, d, &format.WriteOptions{}); err != nil {
		t.Fatal(err)
	}
	text := out.String()
	for _, want := range []string{`<gml:pos>-47.5 11.25</gml:pos>`, `srsName="http://www.opengis.net/def/crs/EPSG/0/4326"`,
		`<g:nests_here name="nests here" xsi:type="xs:integer">12</g:nests_here>`, `<g:name>A &amp; B</g:name>`,
		`<g:waypoint gml:id="f1">`} {
		if !strings.Contains(text, want) {
			t.Errorf("%s is not there:\n%s", want, text)
		}
	}
}

func FuzzGML(f *testing.F) {
	f.Add([]byte(one(`<gml:Point><gml:pos>-47.5 11.25</gml:pos></gml:Point>`)))
	f.Add(
		[]byte(
			one(`<gml:Curve><gml:segments><gml:LineStringSegment><gml:posList>1 2 3 4</gml:posList></gml:LineStringSegment>` +
				`</gml:segments></gml:Curve>`),
		),
	)
	f.Fuzz(func(t *testing.T, b []byte) {
		d, err := read(format.FromBytes(t.Context(), "a.gml", b), &format.ReadOptions{MaxNesting: 50})
		if err != nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Fatalf("position %v %v", p.Lat, p.Lon)
			}
		}
	})
}
