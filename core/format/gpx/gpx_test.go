package gpx

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/nav"
)

func readString(t testing.TB, doc string) *nav.Dataset {
	t.Helper()
	d, err := read(format.FromBytes(t.Context(), "test.gpx", []byte(doc)), &format.ReadOptions{})
	if err != nil {
		t.Fatalf("%.80q: %v", doc, err)
	}
	return d
}

func writeString(t testing.TB, d *nav.Dataset) (string, nav.Ledger) {
	t.Helper()
	var b bytes.Buffer
	done, err := Format.Store(&b, d, &format.WriteOptions{})
	l := done.Ledger
	if err != nil {
		t.Fatal(err)
	}
	return b.String(), l
}

const everything = `<?xml version="1.0" encoding="UTF-8"?>

<gpx version="1.1" creator="office" xmlns="http://www.topografix.com/GPX/1/1" xmlns:x="urn:x">
 <metadata><name>Season &amp; more</name><desc>d</desc><author><name>A. N. Other</name><email id="a" ` +
	`domain="veldrin.example"/><link href="https://veldrin.example/a"><text>t</text><type>text/html</type></link></author>
  <copyright author="Survey"><year>2026</year><license>https://veldrin.example/l</license></copyright><link ` +
	`href="https://veldrin.example/"/><time>2026-03-14T05:00:00Z</time><keywords>k1, k2</keywords>
  <bounds minlat="-48" minlon="11" maxlat="-47" maxlon="12"/><extensions><x:season>3</x:season></extensions></metadata>
 <wpt lat="-47.6000" lon="11.30"><ele>3.50</ele><time>2026-03-14T05:31:20.5Z</time><magvar>12.5</magvar>` +
	`<geoidheight>21.0</geoidheight><name>Sorrel Landing</name><cmt>c</cmt><desc>d</desc><src>s</src>
  <link href="https://veldrin.example/1"><text>one</text></link><link href="https://veldrin.example/2"/><sym>` +
	`flag</sym><type>landing</type><fix>3d</fix><sat>7</sat><hdop>1.2</hdop><vdop>2.10</vdop><pdop>3</pdop>` +
	`<ageofdgpsdata>4</ageofdgpsdata><dgpsid>1023</dgpsid>
  <extensions><x:tide unit="m">1.4</x:tide></extensions></wpt>
 <rte><name>Run</name><cmt>rc</cmt><desc>rd</desc><src>rs</src><link href="https://veldrin.example/r"/><number>` +
	`4</number><type>launch</type><extensions><x:r/></extensions>
  <rtept lat="-47.61" lon="11.31"><name>R1</name><extensions><x:p>1</x:p></extensions></rtept><rtept lat="-47.62" ` +
	`lon="11.32"><name>R2</name></rtept></rte>
 <trk><name>Walk</name><number>1</number><extensions><line xmlns="http://www.topografix.com/GPX/gpx_style/0/2">` +
	`<color>d67f00</color><opacity>0.5</opacity><width>0.5292</width></line><x:t/></extensions>
  <trkseg><trkpt lat="-47.6" lon="11.3"><ele>1</ele><time>2026-03-14T05:31:20Z</time><extensions><x:hr>93</x:hr>` +
	`</extensions></trkpt><trkpt lat="-47.61" lon="11.3"/></trkseg>
  <trkseg><trkpt lat="-47.62" lon="11.3"><name>here</name></trkpt><extensions><x:s/></extensions></trkseg></trk>
 <extensions><x:file>kept</x:file></extensions>
</gpx>`

// All that a file holds is there again after writing and reading, and after that nothing changes any more.
func TestRoundTrip(t *testing.T) {
	d := readString(t, everything)
	once, ledger := writeString(t, d)
	if len(ledger) > 0 {
		t.Errorf("ledger: %v", ledger)
	}
	for _, want := range []string{`lat="-47.6000" lon="11.30"`, "<ele>3.50</ele>", "<time>2026-03-14T05:31:20.5Z</time>",
		"<magvar>12.5</magvar>",
		"<geoidheight>21.0</geoidheight>", "Season &amp; more", `<email id="a" domain="veldrin.example"/>`,
		"<keywords>k1, k2</keywords>",
		`<x:tide unit="m">1.4</x:tide>`, "<x:hr>93</x:hr>", "<x:s/>", "<x:r/>", "<x:p>1</x:p>", "<x:t/>",
		"<x:season>3</x:season>", "<x:file>kept</x:file>",
		"<color>d67f00</color>", "<opacity>0.502</opacity>", "<vdop>2.10</vdop>", "<dgpsid>1023</dgpsid>",
		"<number>4</number>", "<name>here</name>",
		"<sym>flag</sym>", "<type>landing</type>", "<license>https://veldrin.example/l</license>", `xmlns:x="urn:x"`} {
		if !strings.Contains(once, want) {
			t.Errorf("%s is gone", want)
		}
	}
	if strings.Contains(once, "gyro:") {
		t.Error("an extension of ours where none was needed")
	}
	if twice, _ := writeString(t, readString(t, once)); twice != once {
		t.Errorf("a second round changes the file:\n%s\n---\n%s", once, twice)
	}
	w := d.Waypoints[0]
	if !w.HasTime() || w.TimeMark().Decimals() != 1 || w.Height() != 3.5 || len(w.Links) != 2 {
		t.Errorf("waypoint %+v", w)
	}
	if hr, _ := nav.Get(d.Tracks[0].Segments[0].Detail(&d.Tracks[0].Segments[0].Points[0]).Values, "hr"); hr != "93" {
		t.Errorf("the heart rate is %q", hr)
	}
	if c := d.Tracks[0].Style.Colour; c != (nav.Colour{R: 0xd6, G: 0x7f, A: 128, Set: true}) ||
		d.Tracks[0].Style.Width != 2 {
		t.Errorf("style %+v", d.Tracks[0].Style)
	}
}

// order is the sequence of child elements that the schema of GPX 1.1 prescribes.
var order = map[string][]string{
	"gpx":      {"metadata", "wpt", "rte", "trk", "extensions"},
	"metadata": {"name", "desc", "author", "copyright", "link", "time", "keywords", "bounds", "extensions"},
	"author":   {"name", "email", "link"}, "copyright": {"year", "license"}, "link": {"text", "type"},
	"wpt": {"ele", "time", "magvar", "geoidheight", "name", "cmt", "desc", "src", "link", "sym", "type", "fix", "sat",
		"hdop", "vdop", "pdop",
		"ageofdgpsdata", "dgpsid", "extensions"},
	"rte":    {"name", "cmt", "desc", "src", "link", "number", "type", "extensions", "rtept"},
	"trk":    {"name", "cmt", "desc", "src", "link", "number", "type", "extensions", "trkseg"},
	"trkseg": {"trkpt", "extensions"},
}

// checkSchema follows a document with the standard library's decoder and the schema's sequences.
func checkSchema(doc string) error {
	d := xml.NewDecoder(strings.NewReader(doc))
	type frame struct {
		name string
		rank int
	}
	var stack []frame
	foreign := 0
	declared := map[string]bool{"": true, "http://www.w3.org/XML/1998/namespace": true}
	for {
		tok, err := d.Token()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
		switch tok := tok.(type) {
		case xml.StartElement:
			for _, a := range tok.Attr {
				if a.Name.Space == "xmlns" || a.Name.Local == "xmlns" {
					declared[a.Value] = true
				}
			}
			// The decoder gives a prefix that nobody declared as if it were a namespace.
			if space := tok.Name.Space; !declared[space] {
				return fmt.Errorf("<%s:%s> has a prefix that is not declared", space, tok.Name.Local)
			}
			if foreign > 0 || tok.Name.Space != space11 {
				if foreign == 0 && (len(stack) == 0 || stack[len(stack)-1].name != "extensions") {
					return fmt.Errorf("<%s> of %q outside of extensions", tok.Name.Local, tok.Name.Space)
				}
				foreign++
				continue
			}
			name := tok.Name.Local
			if len(stack) > 0 {
				parent := &stack[len(stack)-1]
				rank := slices.Index(order[parent.name], name)
				if rank < parent.rank {
					return fmt.Errorf("<%s> in <%s> is out of order or unknown", name, parent.name)
				}
				parent.rank = rank
			}
			if name == "rtept" || name == "trkpt" {
				name = "wpt"
			}
			stack = append(stack, frame{name, 0})
		case xml.EndElement:
			if foreign > 0 {
				foreign--
			} else {
				stack = stack[:len(stack)-1]
			}
		}
	}
}

// Whatever comes in, what goes out is in the order of the schema, with foreign elements in extensions only.
func TestWritesToSchema(t *testing.T) {
	for name, doc := range map[string]string{"1.1": everything, "1.0": old, "mixed": `<gpx version="1.1" ` +
		`xmlns="http://www.topografix.com/GPX/1/1" xmlns:x="urn:x">
		<trk><trkseg><trkpt lon="1" lat="2"><x:bare/><time>2026-03-14T05:31:20Z</time><ele>5</ele></trkpt></trkseg></trk>` +
		`<wpt lat="1" lon="2"><sym>s</sym><name>n</name><fix>bad</fix><sat>x</sat></wpt></gpx>`} {
		out, _ := writeString(t, readString(t, doc))
		if err := checkSchema(out); err != nil {
			t.Errorf("%s: %v\n%s", name, err, out)
		}
	}
}

const old = `<?xml version="1.0" encoding="ISO-8859-1"?>

<gpx version="1.0" creator="old" xmlns="http://www.topografix.com/GPX/1/0" xmlns:y="urn:y"><name>Old</name><author>` +
	`Somebody</author><email>a@veldrin.example</email><url>https://veldrin.example</url><urlname>Veldrin</urlname>` +
	`<time>2002-02-27T17:18:33Z</time><keywords>k</keywords><bounds minlat="1" minlon="1" maxlat="2" maxlon="2"/>
<wpt lat="47.644548" lon="-122.326897"><ele>44.586548</ele><time>2001-11-28T21:05:28Z</time><name>5066</name><desc>` +
	`<![CDATA[<b>5066</b>]]></desc><url>https://veldrin.example/w</url><urlname>W</urlname><sym>Crossing</sym><type>` +
	`<![CDATA[Crossing]]></type><y:own>1</y:own></wpt>
<trk><name>T</name><url>https://veldrin.example/t</url><trkseg><trkpt lat="1" lon="2"><ele>3</ele><time>` +
	`2001-11-28T21:05:28Z</time><course>95.5</course><speed>1.25</speed></trkpt></trkseg></trk></gpx>`

func TestReadsVersion10(t *testing.T) {
	d := readString(t, strings.ReplaceAll(old, "Somebody", "Sm\xf8rby"))
	if d.Meta.Author != "Smørby" || d.Meta.AuthorEmail != "a@veldrin.example" || len(d.Meta.Links) != 1 ||
		d.Meta.Links[0].Text != "Veldrin" {
		t.Errorf("meta %+v", d.Meta)
	}
	if w := d.Waypoints[0]; w.Desc != "<b>5066</b>" ||
		w.Links[0] != (nav.Link{Href: "https://veldrin.example/w", Text: "W"}) || len(w.Kept) != 1 {
		t.Errorf("waypoint %+v", w)
	}
	out, _ := writeString(t, d)
	for _, want := range []string{`<gyro:field name="course" type="json">95.5</gyro:field>`,
		`<gyro:field name="speed" type="json">1.25</gyro:field>`, "<y:own>1</y:own>", `version="1.1"`} {
		if !strings.Contains(out, want) {
			t.Errorf("%s is gone:\n%s", want, out)
		}
	}
	seg := &readString(t, out).Tracks[0].Segments[0]
	if v, _ := nav.Get(seg.Detail(&seg.Points[0]).Values, "speed"); v != "1.25" {
		t.Errorf("the speed is %q", v)
	}
}

// Prefixes, quotes, attribute order, blanks: the same data however they are dressed.
func TestDresses(t *testing.T) {
	for _, doc := range []string{
		`<gpx><trk><trkseg><trkpt lat="-47.6" lon="11.3"><ele>5.0</ele></trkpt></trkseg></trk></gpx>`,
		`<g:gpx xmlns:g="http://www.topografix.com/GPX/1/1"><g:trk><g:trkseg><g:trkpt lon='11.3' lat='-47.6'><g:ele>` +
			`5.0</g:ele></g:trkpt></g:trkseg></g:trk></g:gpx>`,
		`<gpx:gpx><gpx:trk><gpx:trkseg><gpx:trkpt lat="-47.6" lon="11.3"><gpx:ele>5.0</gpx:ele></gpx:trkpt></gpx:trkseg>` +
			`</gpx:trk></gpx:gpx>`,
		"<gpx xmlns='urn:somebody:else'>\r\n<trk>\r\n<trkseg>\r\n<trkpt\tlat = '-47.6'\n\tlon = ' 11.3 ' >\r\n<ele> 5.0 " +
			"</ele></trkpt></trkseg></trk></gpx>",
		"\xef\xbb\xbf<gpx><trk><trkseg><trkpt lat=\"-47.6\" " +
			"lon=\"11.3\"><ele><![CDATA[5.0]]></ele></trkpt></trkseg></trk></gpx>",
	} {
		d := readString(t, doc)
		if len(d.Tracks) != 1 || d.Tracks[0].Len() != 1 {
			t.Errorf("%.60q: %v", doc, d.Counts())
			continue
		}
		p := d.Tracks[0].Segments[0].Points[0]
		if p.Lat != -47.6 || p.Lon != 11.3 || string(p.AppendHeight(nil)) != "5.0" {
			t.Errorf("%.60q: %v", doc, p)
		}
	}
}

func TestRejectsSinglePositions(t *testing.T) {
	d := readString(t, `<gpx>
<wpt lat="97.6" lon="11"><name>Far</name></wpt>
<wpt lat="NaN" lon="11"/><wpt lon="11"><name>No lat</name></wpt>
<wpt lat="-47,6" lon="11"/><wpt lat="-47.6" lon="181"/>
<wpt lat="-47.6" lon="11"><name>Good</name></wpt>
<trk><name>T</name><trkseg><trkpt lat="1" lon="1"/><trkpt lat="x" lon="1"/><trkpt lat="2" lon="2"/></trkseg></trk>`+
		`</gpx>`)
	if len(d.Waypoints) != 1 || d.Waypoints[0].Name != "Good" || d.Tracks[0].Len() != 2 {
		t.Fatalf("left: %v", d.Counts())
	}
	var got []string
	for _, x := range d.Rejects {
		got = append(got, fmt.Sprintf("%d:%d %s %q %d %q: %s", x.Line, x.Col, x.Kind.One(), x.Name, x.Number, x.Raw, x.Why))
	}
	want := []string{
		`2:1 waypoint "Far" 0 "97.6 11": latitude 97.6 is beyond 90 degrees`,
		`3:1 waypoint "" 0 "NaN 11": latitude "NaN" is not a number`,
		`3:26 waypoint "No lat" 0 " 11": has no latitude and longitude`,
		`4:1 waypoint "" 0 "-47,6 11": latitude "-47,6" is not a number`,
		`4:28 waypoint "" 0 "-47.6 181": longitude 181 is beyond 180 degrees`,
		`6:52 track "T" 2 "x 1": latitude "x" is not a number`,
	}
	if !slices.Equal(got, want) {
		t.Errorf("got\n%s\nwant\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
	if last := d.Rejects[5]; !last.HasNear || last.Near.Lat != 1 {
		t.Errorf("its neighbour is %+v", last.Near)
	}
}

// Of a file that is cut off, what is complete before the cut can be had, wherever the cut is.
func TestCutAnywhere(t *testing.T) {
	whole := readString(t, everything)
	points := whole.Points()
	for n := range len(everything) {
		d, err := read(format.FromBytes(t.Context(), "cut.gpx", []byte(everything[:n])), &format.ReadOptions{})
		var where *format.Error
		if n > strings.LastIndex(everything, "<") && err == nil {
			continue
		}
		if !errors.As(err, &where) || !where.Cut && n > 40 || where.Line == 0 {
			if n < 40 {
				continue
			}
			t.Fatalf("cut at %d: %v", n, err)
		}
		if d.Points() > points || n > strings.Index(everything, "<rte>") && len(d.Waypoints) != 1 {
			t.Fatalf("cut at %d: %d points, %v", n, d.Points(), d.Counts())
		}
	}
}

func TestRefuses(t *testing.T) {
	for _, c := range []struct{ doc, want string }{
		{"<gpx><trk><trkseg></trk></gpx>", "test.gpx:1:19: <trkseg> is closed by </trk>"},
		{"<kml/>", "the outermost element is <kml>, not <gpx>"},
		{"<gpx>" + strings.Repeat("<extensions>", 200000), "elements are nested more than 1000 deep"},
		{"<!DOCTYPE gpx [<!ENTITY a 'b'>]><gpx/>", "declares entities"},
		{"   ", "there is no <gpx> element"},
	} {
		_, err := read(format.FromBytes(t.Context(), "test.gpx", []byte(c.doc)), &format.ReadOptions{})
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%.40q: %v, want %q", c.doc, err, c.want)
		}
	}
}

// Groups, areas with holes, fields, icons and colours of waypoints come back from the extension.
func TestExtensionCarries(t *testing.T) {
	w := nav.Waypoint{Point: nav.At(-47.6, 11.3)}
	w.Name, w.Group = "Rock <1> & \"co\"", "Rock heads/North"
	w.Style = nav.Style{Symbol: "hazard", Icon: "files/rock.png", IconScale: 1.5, Colour: nav.RGB(200, 16, 46)}
	w.Fields = []nav.Field{{Key: "surveyed by", Value: "party \u2013 A\nline two"}, {Key: "hdop", Value: "not a number"},
		{Key: "speed", Value: ""}}
	ring := []nav.Point{nav.At(0, 0), nav.At(0, 3), nav.At(3, 3)}
	a := nav.Area{Item: nav.Item{Name: "Closure"}, Outline: ring,
		Holes: [][]nav.Point{{nav.At(1, 1), nav.At(1, 2), nav.At(2, 2)}}}
	a.Style = nav.Style{Fill: nav.Colour{R: 1, G: 2, B: 3, A: 85, Set: true}, NoOutline: true, Width: 3,
		Colour: nav.RGB(9, 8, 7)}
	out, ledger := writeString(t, &nav.Dataset{Waypoints: []nav.Waypoint{w}, Areas: []nav.Area{a}})
	if len(ledger) > 0 {
		t.Errorf("ledger %v", ledger)
	}
	if err := checkSchema(out); err != nil {
		t.Error(err)
	}
	d := readString(t, out)
	if got := fmt.Sprintf("%+v", d.Waypoints[0].Item); got != fmt.Sprintf("%+v", w.Item) {
		t.Errorf("got  %s\nwant %+v", got, w.Item)
	}
	if len(d.Areas) != 1 || len(d.Tracks) != 0 || len(d.Areas[0].Holes) != 1 || len(d.Areas[0].Outline) != 3 ||
		d.Areas[0].Style != a.Style {
		t.Errorf("area %+v", d.Areas)
	}
}

// What GPX can't hold is in the ledger.
func TestLedger(t *testing.T) {
	w := nav.Waypoint{Point: nav.At(1, 2)}
	w.Name = "bell\a"
	w.SetHeight(5, 0, nav.AboveEllipsoid)
	w.Kept = []nav.Kept{{Format: "kml", Where: "LookAt", Text: "<LookAt/>"}}
	out, ledger := writeString(t, &nav.Dataset{Waypoints: []nav.Waypoint{w}})
	if !strings.Contains(out, "bell\uFFFD") {
		t.Errorf("the control character: %s", out)
	}
	if ledger.Losses() != 3 {
		t.Errorf("ledger %+v", ledger)
	}
}

// Digits beyond those of float64 are kept as text, as long as the point is not moved.
func TestExactDigits(t *testing.T) {
	const lat, lon = "-47.60000000000000000123", "11.299999999999999822364316"
	d := readString(t, `<gpx><wpt lat="`+lat+`" lon="`+lon+`"/><trk><trkseg><trkpt lat="`+lat+`" lon="`+lon+`"/>`+
		`</trkseg></trk></gpx>`)
	out, _ := writeString(t, d)
	if n := strings.Count(out, `lat="`+lat+`" lon="`+lon+`"`); n != 2 {
		t.Errorf("the digits are kept %d times of 2:\n%s", n, out)
	}
	d.Waypoints[0].Lat += 0.001
	if out, _ = writeString(t, d); strings.Count(out, lat) != 1 {
		t.Errorf("a moved point has its old digits:\n%s", out)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(everything))
	f.Add([]byte(old))
	f.Add([]byte(pad("<trkpt lat='1' lon='2'/>")))
	f.Fuzz(func(t *testing.T, data []byte) {
		d, err := read(format.FromBytes(t.Context(), "fuzz", data), &format.ReadOptions{})
		if err != nil {
			return
		}
		for p := range d.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) || p.Lon >= 180 {
				t.Fatalf("an unusable position %v %v", p.Lat, p.Lon)
			}
		}
		out, _ := writeString(t, d)
		// The judge has the names of an older edition of XML.
		if err := checkSchema(out); err != nil && !strings.Contains(err.Error(), "invalid XML name") {
			t.Fatalf("%v\nfrom %q\nto %s", err, data, out)
		}
		again := readString(t, out)
		if a, b := d.Points(), again.Points(); a != b {
			t.Fatalf("%d points become %d\nfrom %q\nto %s", a, b, data, out)
		}
		if twice, _ := writeString(t, again); twice != out {
			t.Fatalf("from %q\nto %s\nand to %s", data, out, twice)
		}
	})
}

// What GPX can't hold of an author is said.
func TestAuthors(t *testing.T) {
	for _, c := range []struct {
		meta nav.Meta
		want string
	}{
		{nav.Meta{AuthorEmail: "ada"}, `author's e-mail address 1 "ada" is not an address`},
		{nav.Meta{AuthorEmail: "ada@"}, `author's e-mail address 1 "ada@" is not an address`},
		{nav.Meta{AuthorEmail: "ada@ferry.example"}, ""},
		{nav.Meta{AuthorLinks: []nav.Link{{Href: "a"}, {Href: "b"}, {Href: "c"}}}, "author's links 2 GPX has one link"},
	} {
		text, ledger := writeString(t, &nav.Dataset{Meta: c.meta})
		told := ""
		for _, e := range ledger {
			told += fmt.Sprint(e.What, " ", e.Count, " ", e.Why)
		}
		if !strings.HasPrefix(told, c.want) || c.want == "" && told != "" {
			t.Errorf("%+v: %q is said, not %q", c.meta, told, c.want)
		}
		if back := readString(t, text); c.want == "" && back.Meta.AuthorEmail != c.meta.AuthorEmail {
			t.Errorf("%+v became %+v", c.meta, back.Meta)
		}
	}
}

// What stands twice where it may stand once is not chosen from in silence.
func TestTwice(t *testing.T) {
	d := readString(t, `<gpx version="1.1"><wpt lat="1" lon="2"><ele>5</ele><ele>7</ele><time>2026-03-14T05:00:00Z</time>`+
		`<time>2026-03-15T05:00:00Z</time><name>A</name><name>B</name></wpt></gpx>`)
	w := &d.Waypoints[0]
	if w.Name != "A" || w.Height() != 5 || string(w.AppendTime(nil)) != "2026-03-14T05:00:00Z" {
		t.Errorf("%+v", w)
	}
	told := fmt.Sprint(d.Problems)
	for _, want := range []string{"a second <name>", "a second height", "a second time"} {
		if !strings.Contains(told, want) {
			t.Errorf("%q is not said: %s", want, told)
		}
	}
}
