package kml

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func readString(t testing.TB, doc string) *nav.Dataset {
	t.Helper()
	d, err := Format.Read(format.FromBytes(t.Context(), "test.kml", []byte(doc)), &format.ReadOptions{})
	if err != nil {
		t.Fatalf("%.80q: %v", doc, err)
	}
	return d
}

func writeString(t testing.TB, d *nav.Dataset, version string) (string, nav.Ledger) {
	t.Helper()
	var b bytes.Buffer
	done, err := Format.Store(&b, d, &format.WriteOptions{Version: version})
	l := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	if n := strings.Count(b.String(), "<?xml"); n != 1 { // which the package below does not mind
		t.Fatalf("%d XML declarations:\n%s", n, b.String())
	}
	dec := xml.NewDecoder(bytes.NewReader(b.Bytes()))
	for {
		if _, err := dec.Token(); err == io.EOF {
			break
		} else if err != nil && !strings.Contains(err.Error(), "invalid XML name") {
			t.Fatalf("not well-formed: %v\n%s", err, b.String())
		}
	}
	return b.String(), l
}

func problems(d *nav.Dataset) string {
	var out []string
	for _, p := range d.Problems {
		out = append(out, fmt.Sprintf("%s %d: %s", p.Code, p.Count, p.Text))
	}
	return strings.Join(out, "\n")
}

const plan = `<?xml version="1.0" encoding="UTF-8"?>
<kml xmlns="http://www.opengis.net/kml/2.2" xmlns:gx="http://www.google.com/kml/ext/2.2" ` +
	`xmlns:atom="http://www.w3.org/2005/Atom">
<Document><name>Plan</name><description>All of it</description>
<Style id="red"><LineStyle><color>7f0000ff</color><width>3</width></LineStyle><PolyStyle><color>550000ff</color>` +
	`<outline>0</outline></PolyStyle><BalloonStyle><text>$[name]</text></BalloonStyle></Style>
<Style id="pin"><IconStyle><color>ff112233</color><scale>1.2</scale><heading>30</heading><Icon><href>pin.png</href>` +
	`</Icon><hotSpot x="0.5" y="0" xunits="fraction" yunits="fraction"/></IconStyle><LabelStyle><scale>0.8</scale>` +
	`</LabelStyle></Style>
<StyleMap id="map"><Pair><key>highlight</key><styleUrl>#none</styleUrl></Pair><Pair><key>normal</key><styleUrl>` +
	`#red</styleUrl></Pair></StyleMap>
<Folder><name>Out/side</name><description>kept</description>
 <Folder><name>Inner</name>
 <Placemark id="p1"><name>Rock &amp; bay</name><visibility>0</visibility><atom:author><atom:name>A. ` +
	`Writer</atom:name></atom:author><Snippet maxLines="1">s</Snippet><description><![CDATA[<b>breaks</b>]]>` +
	`</description><LookAt><longitude>11</longitude></LookAt>
  <TimeStamp><when>2026-03-14T05:30:00Z</when></TimeStamp><styleUrl>#pin</styleUrl>
  <ExtendedData><Data name="depth"><displayName>Depth</displayName><value>2.5</value></Data><SchemaData ` +
	`schemaUrl="#s"><SimpleData name="seen">yes</SimpleData></SchemaData></ExtendedData>
  <Point><altitudeMode>absolute</altitudeMode><coordinates>11.30000,-47.60000,12.5</coordinates></Point></Placemark>
 </Folder>
 <Placemark><name>Line</name><styleUrl>other.kml#map</styleUrl><Style><LineStyle><width>5</width></LineStyle>` +
	`</Style><LineString><coordinates>
   11.1, -47.1, 0
   11.2 ,-47.2 , 0 11.3,-47.3,0
 </coordinates></LineString></Placemark>
</Folder>
<Placemark><name>Zone</name><styleUrl>#map</styleUrl><Polygon><outerBoundaryIs><LinearRing><coordinates>0,0 3,0 3,3 ` +
	`0,3 0,0</coordinates></LinearRing></outerBoundaryIs><innerBoundaryIs><LinearRing><coordinates>1,1 2,1 2,2 1,` +
	`1</coordinates></LinearRing></innerBoundaryIs></Polygon></Placemark>
<Placemark><name>Mixed</name><MultiGeometry><Point><coordinates>5,5</coordinates></Point><LineString><coordinates>1,` +
	`1 2,2</coordinates></LineString><MultiGeometry><LineString><coordinates>3,3 4,4</coordinates></LineString>` +
	`</MultiGeometry><LinearRing><coordinates>6,6 7,6 7,7 6,6</coordinates></LinearRing></MultiGeometry></Placemark>
<Placemark><name>Timed</name><gx:MultiTrack><gx:Track><altitudeMode>absolute</altitudeMode><when>` +
	`2026-03-14T05:30:00Z</when><when>2026-03-14T05:30:05.5Z</when><gx:coord>11.30 -47.60 1.0</gx:coord><gx:coord>` +
	`11.31 -47.61 2.25</gx:coord>
 <ExtendedData><SchemaData schemaUrl="#x"><gx:SimpleArrayData name="hr"><gx:value>90</gx:value><gx:value>` +
	`95</gx:value></gx:SimpleArrayData></SchemaData></ExtendedData></gx:Track>
 <gx:Track><when>2026-03-14T06:30:00Z</when><gx:coord>11.32 -47.62 0</gx:coord></gx:Track></gx:MultiTrack></Placemark>
<NetworkLink><name>n</name></NetworkLink><GroundOverlay/><GroundOverlay/><gx:Tour/><Placemark><Model/></Placemark>
</Document></kml>`

func TestReadsPlan(t *testing.T) {
	d := readString(t, plan)
	if got := fmt.Sprint(d.Counts()); got != "[2 0 3 1]" {
		t.Fatalf("counts %s", got)
	}
	w := d.Waypoints[0]
	if w.Name != "Rock & bay" || w.Group != "Out\u2215side/Inner" || w.Desc != "breaks" || w.Height() != 12.5 ||
		w.VerticalDatum() != nav.MeanSeaLevel || !w.HasTime() {
		t.Errorf("waypoint %+v", w)
	}
	if s := w.Style; s.Icon != "pin.png" || s.Colour != nav.RGB(0x33, 0x22, 0x11) || s.IconScale != 1.2 {
		t.Errorf("its style %+v", s)
	}
	if fmt.Sprint(w.Fields) != "[{depth 2.5 false false} {seen yes false false}]" {
		t.Errorf("its fields %v", w.Fields)
	}
	l := d.Tracks[0]
	if l.Group != "Out\u2215side" || l.Len() != 3 || l.Style.Width != 5 ||
		l.Style.Colour != (nav.Colour{R: 255, A: 0x7f, Set: true}) {
		t.Errorf("line %+v", l)
	}
	if p := l.Segments[0].Points[1]; p.Lat != -47.2 || p.Lon != 11.2 || p.HasHeight() {
		t.Errorf("its second point %+v", p)
	}
	a := d.Areas[0]
	if len(a.Outline) != 4 || len(a.Holes) != 1 || len(a.Holes[0]) != 3 || !a.Style.NoOutline ||
		a.Style.Fill.A != 0x55 {
		t.Errorf("area %+v", a)
	}
	if m := d.Tracks[1]; m.Name != "Mixed" || len(m.Segments) != 3 || d.Waypoints[1].Name != "Mixed" {
		t.Errorf("mixed %+v", m)
	}
	timed := d.Tracks[2]
	if len(timed.Segments) != 2 {
		t.Fatalf("timed %+v", timed)
	}
	seg := &timed.Segments[0]
	if p := &seg.Points[1]; string(p.AppendTime(nil)) != "2026-03-14T05:30:05.5Z" ||
		string(p.AppendHeight(nil)) != "2.25" || seg.Detail(p).Values[0] != (nav.Field{Key: "hr", Value: "95"}) {
		t.Errorf("its second point %+v", p)
	}
	if timed.Segments[1].Points[0].HasHeight() {
		t.Error("a zero without a mode is taken as a height")
	}
	for _, want := range []string{"left out 1: a network link", "left out 2: a picture laid over the ground",
		"left out 1: a tour", "left out 1: a three-dimensional model", "places 1: a placemark without a position"} {
		if !strings.Contains(problems(d), want) {
			t.Errorf("%q is not said: %s", want, problems(d))
		}
	}
}

func TestRoundTrip(t *testing.T) {
	for _, version := range []string{"2.2", "2.3"} {
		d := readString(t, plan)
		once, ledger := writeString(t, d, version)
		if len(ledger) > 0 {
			t.Errorf("%s: ledger %+v", version, ledger)
		}
		for _, want := range []string{"<visibility>0</visibility>", `<Snippet maxLines="1">s</Snippet>`,
			"<LookAt><longitude>11</longitude></LookAt>", "<heading>30</heading>", "<hotSpot ",
			"<LabelStyle><scale>0.8</scale></LabelStyle>", "<BalloonStyle><text>$[name]</text></BalloonStyle>",
			"<atom:name>A. Writer</atom:name>", "<name>Out/side</name>", "<description>kept</description>",
			"11.30000,-47.60000,12.5", "11.31 -47.61 2.25", "<when>2026-03-14T05:30:05.5Z</when>",
			`<Data name="depth"><value>2.5</value></Data>`, "7f0000ff"} {
			if !strings.Contains(once, want) {
				t.Errorf("%s: %s is gone", version, want)
			}
		}
		again := readString(t, once)
		if twice, _ := writeString(t, again, version); twice != once {
			t.Errorf("%s: a second round changes the file:\n%s\n---\n%s", version, once, twice)
		}
		if fmt.Sprint(again.Counts(), again.Points()) != fmt.Sprint(d.Counts(), d.Points()) || len(again.Problems) > 0 {
			t.Errorf("%s: %v, problems %s", version, again.Counts(), problems(again))
		}
		if v23 := strings.Contains(once, "<Track>") &&
			strings.Contains(once, "http://www.opengis.net/kml/2.3"); v23 != (version == "2.3") {
			t.Errorf("%s: the spelling of timed tracks", version)
		}
	}
}

// What stands in which place of the schema's order matters to strict readers.
func TestFeatureOrder(t *testing.T) {
	out, _ := writeString(t, readString(t, plan), "")
	at := -1
	for _, tag := range []string{"<name>Rock", "<visibility>", "<atom:author>", "<Snippet", "<description>&lt;b",
		"<LookAt>", "<TimeStamp>", "<styleUrl>", "<ExtendedData>", "<Point>"} {
		i := strings.Index(out[strings.Index(out, "<name>Rock"):], tag)
		if i < at {
			t.Errorf("%s is out of order", tag)
		}
		at = i
	}
}

func TestNamespaces(t *testing.T) {
	body := `<Document><Placemark><name>P</name><Point><coordinates>11.3,-47.6</coordinates></Point></Placemark>` +
		`</Document>`
	for _, doc := range []string{
		"<kml>" + body + "</kml>",
		`<kml xmlns="http://earth.google.com/kml/2.0">` + body + "</kml>",
		`<kml xmlns="http://earth.google.com/kml/2.1">` + body + "</kml>",
		`<kml xmlns="http://www.opengis.net/kml/2.3">` + body + "</kml>",
		strings.NewReplacer("</", "</k:", "<", "<k:").Replace("<kml xmlns:k='http://www.opengis.net/kml/2.2'>" + body +
			"</kml>"),
		body,
		`<Folder><name>F</name>` + strings.TrimSuffix(strings.TrimPrefix(body, "<Document>"), "</Document>") + `</Folder>`,
		`<Placemark><name>P</name><Point><coordinates>11.3,-47.6</coordinates></Point></Placemark>`,
	} {
		if d := readString(t, doc); len(d.Waypoints) != 1 || d.Waypoints[0].Name != "P" {
			t.Errorf("%.60q: %v", doc, d.Counts())
		}
	}
}

func TestAltitudeModes(t *testing.T) {
	for _, c := range []struct{ mode, z, height, field, said string }{
		{"<altitudeMode>absolute</altitudeMode>", "0", "0", "", ""},
		{"<altitudeMode>absolute</altitudeMode>", "25.50", "25.50", "", ""},
		{"<altitudeMode>clampToGround</altitudeMode>", "25", "", "", "clamped"},
		{"<altitudeMode>clampToGround</altitudeMode>", "0", "", "", ""},
		{"<altitudeMode>relativeToGround</altitudeMode>", "30.0", "30.0", "", ""},
		{`<gx:altitudeMode>relativeToSeaFloor</gx:altitudeMode>`, "3", "", "height-over-seafloor=3", ""},
		{"", "0", "", "", ""},
		{"", "12", "12", "", "without an altitude mode"},
	} {
		d := readString(t, `<kml xmlns:gx="http://www.google.com/kml/ext/2.2"><Placemark><name>P</name>`+
			`<Point>`+c.mode+`<coordinates>11,-47,`+c.z+`</coordinates></Point></Placemark></kml>`)
		w := &d.Waypoints[0]
		height, field := "", ""
		if w.HasHeight() {
			height = string(w.AppendHeight(nil))
		}
		if len(w.Fields) > 0 {
			field = w.Fields[0].Key + "=" + w.Fields[0].Value
		}
		if height != c.height || field != c.field || !strings.Contains(problems(d), c.said) || c.said == "" &&
			len(d.Problems) > 0 {
			t.Errorf("%s %s: height %q field %q said %q", c.mode, c.z, height, field, problems(d))
		}
	}
}

// Coordinate lists as people write them.
func TestCoordinates(t *testing.T) {
	for _, c := range []struct {
		list    string
		points  int
		rejects string
	}{
		{"1,2 3,4", 2, ""}, {"1,2,5 3,4,6\n5,6,7", 3, ""}, {"1, 2, 5 3, 4, 6", 2, ""}, {" 1 , 2 , 5\n 3 , 4 , 6 ", 2, ""},
		{"1,2,\n3,4", 0, `"1,2,3": has 4 numbers`}, {"1,2,3,4,5,6", 0, `"1,2,3": has 6 numbers`},
		{"1,2 7 3,4", 2, `"7": has a longitude without a latitude`},
		{"1,2 12,abc 3,4", 2, `"12,abc": latitude "abc" is not a number`},
		{"1,91 3,4", 1, `"1,91": latitude 91 is beyond`}, {"181,1 180,1 -180,1", 2, `"181,1": longitude 181 is beyond`},
		{"1,2,x 3,4", 2, ""}, {"", 0, ""}, {"1,,5", 0, `"1,,5"`}, {"1<!-- c -->1.5,2 3,4", 2, ""},
		{"1,<![CDATA[2 3]]>,4", 2, ""},
	} {
		d := readString(t, "<kml><Placemark><name>L</name><LineString><coordinates>"+c.list+"</coordinates>"+
			"</LineString></Placemark></kml>")
		var rejects []string
		for _, x := range d.Rejects {
			rejects = append(rejects, fmt.Sprintf("%q: %s", x.Raw, x.Why))
		}
		got := strings.Join(rejects, "; ")
		if d.Points() != c.points || !strings.Contains(got, c.rejects) || c.rejects == "" && got != "" {
			t.Errorf("%q: %d points, rejects %s", c.list, d.Points(), got)
		}
	}
	if d := readString(t,
		"<kml><Placemark><LineString><coordinates>1<!-- c -->1.5,2 "+
			"3,4</coordinates></LineString></Placemark></kml>"); d.Tracks[0].Segments[0].Points[0].Lon != 11.5 {
		t.Error("a number that a comment parts is not one number")
	}
}

// A list longer than any buffer is read whole, and a fault in it has its line.
func TestLongList(t *testing.T) {
	var b strings.Builder
	b.WriteString("<kml><Placemark><name>L</name><LineString><coordinates>")
	for i := range 60000 {
		fmt.Fprintf(&b, "\n11.%05d,-47.6,%d", i, i)
	}
	b.WriteString("\n999,1\n11,-47</coordinates></LineString></Placemark></kml>")
	d := readString(t, b.String())
	if n := d.Points(); n != 60001 {
		t.Errorf("%d points", n)
	}
	if x := d.Rejects[0]; x.Line != 60002 || x.Col != 1 || x.Number != 60001 {
		t.Errorf("the fault is at %d:%d, point %d", x.Line, x.Col, x.Number)
	}
}

// A route has no word in KML: it is a good line to others, and a route to us.
func TestRouteAsLine(t *testing.T) {
	var r nav.Route
	r.Name, r.Number, r.Comment, r.Group = "Launch run", "7", "slack water", "Runs"
	for i, name := range []string{"Sorrel", "Rock <gap>", "Skarn"} {
		w := nav.Waypoint{Point: nav.At(-47.6, 11.3+float64(i)/100)}
		w.Name, w.Style.Symbol = name, "flag"
		w.SetHeight(float64(i), 0, nav.MeanSeaLevel)
		w.Fields = []nav.Field{{Key: "depth", Value: "3"}}
		r.Points = append(r.Points, w)
	}
	r.Points[1].SetTime(1e18, instant.Seconds)
	out, ledger := writeString(t, &nav.Dataset{Routes: []nav.Route{r}}, "")
	if len(ledger) > 0 || !strings.Contains(out, "<LineString>") {
		t.Errorf("ledger %v\n%s", ledger, out)
	}
	d := readString(t, out)
	if len(d.Routes) != 1 || len(d.Tracks) != 0 {
		t.Fatalf("counts %v", d.Counts())
	}
	got := d.Routes[0]
	if got.Number != "7" || got.Comment != "slack water" || got.Group != "Runs" || got.Points[1].Name != "Rock <gap>" ||
		got.Points[1].UnixNano() != 1e18 || got.Points[2].Fields[0].Value != "3" || got.Points[0].Style.Symbol != "flag" {
		t.Errorf("route %+v", got)
	}
}

// What a track of which not every point has a time says of its points is in the extension.
func TestLedger(t *testing.T) {
	seg := nav.Segment{Points: []nav.Point{nav.At(1, 1), nav.At(2, 2)}}
	seg.Points[0].SetTime(0, instant.Seconds)
	seg.Attach(&seg.Points[1], nav.Detail{Values: []nav.Field{{Key: "hr", Value: "90"}}, Item: &nav.Item{Name: "here"}})
	out, ledger := writeString(t,
		&nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "T"}, Segments: []nav.Segment{seg}}}}, "")
	back := readString(t, out).Tracks[0].Segments[0]
	d := back.Detail(&back.Points[1])
	if len(ledger) > 0 || !back.Points[0].HasTime() || back.Points[1].HasTime() || d == nil || d.Item.Name != "here" ||
		d.Values[0].Value != "90" {
		t.Errorf("ledger %+v, %+v", ledger, back)
	}
	if _, err := write(io.Discard, &nav.Dataset{}, &format.WriteOptions{Version: "9"}); err == nil {
		t.Error("KML 9 was written")
	}
}

func zipped(t testing.TB, names []string, contents ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i, name := range names {
		f, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		f.Write([]byte(contents[i]))
	}
	z.Close()
	return b.Bytes()
}

func TestKMZ(t *testing.T) {
	point := "<kml><Placemark><name>P</name><Style><IconStyle><Icon><href>files/i.png</href></Icon></IconStyle>" +
		"</Style><Point><coordinates>1,2</coordinates></Point></Placemark></kml>"
	for _, names := range [][]string{{"doc.kml", "files/i.png"}, {"deep/in/plan.KML", "deep/in/files/i.png"},
		{"plan.xml", "files/i.png"}} {
		d, err := readKMZ(format.FromBytes(t.Context(), "a.kmz", zipped(t, names, point, "picture")), &format.ReadOptions{})
		if err != nil || len(d.Waypoints) != 1 {
			t.Errorf("%v: %v", names, err)
			continue
		}
		var b bytes.Buffer
		if _, err := writeKMZ(&b, d, &format.WriteOptions{}); err != nil {
			t.Fatal(err)
		}
		again, err := readKMZ(format.FromBytes(t.Context(), "b.kmz", b.Bytes()), &format.ReadOptions{})
		if err != nil || len(again.Meta.Attachments) != 1 || again.Meta.Attachments[0].Name != "files/i.png" ||
			again.Waypoints[0].Style.Icon != "files/i.png" {
			t.Errorf("%v: the picture is gone: %v %+v", names, err, again.Meta.Attachments)
		}
	}
}

func TestKMZRefusals(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	bomb := zipped(t, []string{"doc.kml"}, "<kml>"+strings.Repeat(" ", 64<<20)+"</kml>")
	good := zipped(t, []string{"doc.kml"}, "<kml/>")
	for _, c := range []struct {
		data []byte
		opt  format.ReadOptions
		want string
	}{
		{bomb, format.ReadOptions{}, "more than 200 times its size"},
		{bomb, format.ReadOptions{MaxUnpacked: 10 << 20, MaxRatio: 100000}, "unpacks to more than the limit"},
		{zipped(t, []string{"../doc.kml"}, "<kml/>"), format.ReadOptions{}, "leads out of its folder"},
		{zipped(t, []string{"doc.kml", "/etc/passwd"}, "<kml/>", "x"), format.ReadOptions{}, "leads out of its folder"},
		{zipped(t, []string{"a.txt"}, "x"), format.ReadOptions{}, "contains no KML document"},
		{good[:len(good)-10], format.ReadOptions{}, "damaged or cut off"},
	} {
		_, err := readKMZ(format.FromBytes(t.Context(), "a.kmz", c.data), &c.opt)
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("got %v, want %q", err, c.want)
		}
	}
}

// Of a file that is cut off, what is complete before the cut can be had.
func TestSalvage(t *testing.T) {
	for _, c := range []struct {
		doc    string
		counts string
		points int
	}{
		{"<kml><Placemark><name>A</name><Point><coordinates>1,2</coordinates></Point></Placemark><Placemark><name>B" +
			"</name><Point><coordinates>3,", "[1 0 0 0]", 1},
		{"<kml><Placemark><name>L</name><LineString><coordinates>1,2 3,4 5,6 7,8.1", "[0 0 1 0]", 3},
		{"<kml><Placemark><name>Z</name><Polygon><outerBoundaryIs><LinearRing><coordinates>1,2 3,4 5,6", "[0 0 0 0]", 0},
		{`<kml xmlns:gx="http://www.google.com/kml/ext/2.2"><Placemark><gx:Track><when>2026-03-14T05:30:00Z</when><when>` +
			`2026-03-14T05:30:01Z</when><gx:coord>1 2 3</gx:coord><gx:coord>4`, "[0 0 1 0]", 1},
	} {
		d, err := Format.Read(format.FromBytes(t.Context(), "cut.kml", []byte(c.doc)), &format.ReadOptions{})
		var where *format.Error
		if !errors.As(err, &where) || !where.Cut {
			t.Errorf("%.60q: %v", c.doc, err)
			continue
		}
		if fmt.Sprint(d.Counts()) != c.counts || d.Points() != c.points {
			t.Errorf("%.60q: %v, %d points", c.doc, d.Counts(), d.Points())
		}
	}
}

// Of an archive that is cut off, what is complete of its document can be had.
func TestSalvageKMZ(t *testing.T) {
	var b strings.Builder
	b.WriteString("<kml><Document>")
	for i := range 2000 {
		fmt.Fprintf(&b, "<Placemark><name>P%d</name><Point><coordinates>11.%d,-47.%d</coordinates></Point></Placemark>", i,
			i*7919%9973, i*104729%9973)
	}
	b.WriteString("</Document></kml>")
	whole := zipped(t, []string{"doc.kml"}, b.String())
	for _, share := range []int{2, 4, 10} {
		d, err := readKMZ(format.FromBytes(t.Context(), "cut.kmz", whole[:len(whole)/share]), &format.ReadOptions{})
		var where *format.Error
		if !errors.As(err, &where) || !where.Cut || d == nil {
			t.Fatalf("a %dth: %v", share, err)
		}
		if n := len(d.Waypoints); n < 1500/share || n > 2000/share+400 ||
			d.Waypoints[n-1].Name != fmt.Sprintf("P%d", n-1) {
			t.Errorf("a %dth of the archive gives %d of 2000", share, n)
		}
	}
	if d, err := readKMZ(format.FromBytes(t.Context(), "cut.kmz", whole[:len(whole)-30]),
		&format.ReadOptions{}); err == nil ||
		len(d.Waypoints) != 2000 {
		t.Errorf("without its list of members: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(plan))
	f.Add([]byte("<kml><Placemark><LineString><coordinates>1, 2, 3 4,5</coordinates></LineString></Placemark></kml>"))
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := Format.Read(format.FromBytes(t.Context(), "fuzz", data), &format.ReadOptions{})
		if err != nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) || p.Lon >= 180 {
				t.Fatalf("an unusable position %v %v", p.Lat, p.Lon)
			}
		}
		out, _ := writeString(t, d, "")
		again := readString(t, out)
		if a, b := d.Points(), again.Points(); a != b {
			t.Fatalf("%d points become %d\nfrom %q\nto %s", a, b, data, out)
		}
		if twice, _ := writeString(t, again, ""); twice != out {
			t.Fatalf("from %q\nto %s\nand to %s", data, out, twice)
		}
	})
}

func FuzzKMZ(f *testing.F) {
	f.Add(zipped(f, []string{"doc.kml", "files/a.png"}, plan, "x"))
	f.Fuzz(func(t *testing.T, data []byte) {
		readKMZ(format.FromBytes(t.Context(), "fuzz", data), &format.ReadOptions{MaxUnpacked: 1 << 22})
	})
}

// A polygon's TimeSpan says when an area holds, in every format, and is there once when it is written again.
func TestTimeSpanOfAreas(t *testing.T) {
	span := "<TimeSpan><begin>2026-09-01</begin><end>2027-03-31</end></TimeSpan>"
	text := `<kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><name>Nesting</name>` + span +
		`<Polygon><outerBoundaryIs><LinearRing><coordinates>0,0 1,0 1,1 0,0</coordinates></LinearRing></outerBoundaryIs>` +
		`</Polygon></Placemark></kml>`
	d := readString(t, text)
	l, faults := d.Areas[0].Limits()
	if l.From == nil || l.Until == nil || len(faults) > 0 {
		t.Fatalf("%+v %v", l, faults)
	}
	out, _ := writeString(t, d, "")
	if strings.Count(out, "2026-09-01") != 1 || !strings.Contains(out, "TimeSpan") {
		t.Errorf("written as\n%s", out)
	}
	if again := readString(t, out); len(again.Areas[0].Fields) != len(d.Areas[0].Fields) {
		t.Errorf("read again with %v", again.Areas[0].Fields)
	}
}

// What stands twice where it may stand once is not chosen from in silence; several outlines of a polygon are several
// areas.
func TestTwice(t *testing.T) {
	d := readString(t, `<kml><Document><Placemark><name>L</name><name>M</name><LineString>
		<coordinates>11,-47 11.1,-47.1</coordinates>
		<coordinates>12,-48 12.1,-48.1</coordinates></LineString></Placemark><Placemark><name>A</name><Polygon>
		<outerBoundaryIs><LinearRing><coordinates>11,-47 11.3,-47 11.3,-47.3 11,-47.3</coordinates></LinearRing>
		<LinearRing><coordinates>11.1,-47.1 11.2,-47.1 11.2,-47.2</coordinates></LinearRing></outerBoundaryIs>
		<outerBoundaryIs><LinearRing><coordinates>12,-47 12.1,-47 12.1,-47.1</coordinates></LinearRing></outerBoundaryIs>
		</Polygon></Placemark></Document></kml>`)
	if d.Tracks[0].Name != "L" || d.Tracks[0].Segments[0].Points[0].Lat != -47 {
		t.Errorf("%+v", d.Tracks)
	}
	if len(d.Areas) != 2 || len(d.Areas[0].Holes) != 1 || len(d.Areas[1].Holes) != 0 {
		t.Errorf("%+v", d.Areas)
	}
	if told := fmt.Sprint(d.Problems); !strings.Contains(told, "a second <name>") ||
		!strings.Contains(told, "a second list of coordinates") {
		t.Errorf("said %s", told)
	}
}
