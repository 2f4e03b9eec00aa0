package kml

import (
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/nav"
)

func styledDoc(style, geometry string) string {
	return `<kml xmlns="http://www.opengis.net/kml/2.2"><Document><Style id="s"><LineStyle><color>ff0000ff</color>` +
		`<width>2</width></LineStyle></Style>` +
		`<StyleMap id="m"><Pair><key>normal</key><styleUrl>#m2</styleUrl></Pair></StyleMap><StyleMap id="m2"><Pair><key>` +
		`normal</key><styleUrl>#s</styleUrl></Pair></StyleMap>` +
		`<StyleMap id="loop"><Pair><key>normal</key><styleUrl>#loop</styleUrl></Pair></StyleMap>` +
		`<Placemark><name>P</name>` + style + geometry + `</Placemark></Document></kml>`
}

const lineGeometry = `<LineString><coordinates>1,2 3,4</coordinates></LineString>`

// A style comes by its address, through maps of maps, from within the placemark, or from both; where there is none that
// is said, and a map that points at itself is none.
func TestStyleResolution(t *testing.T) {
	for _, c := range []struct {
		style, colour string
		width         float64
		said          string
	}{
		{"<styleUrl>#s</styleUrl>", "#ff0000", 2, ""},
		{"<styleUrl>s</styleUrl>", "#ff0000", 2, ""},
		{"<styleUrl>#m</styleUrl>", "#ff0000", 2, ""},
		{"<Style><LineStyle><color>80ff0000</color></LineStyle></Style>", "#0000ff80", 0, ""},
		{"<styleUrl>#s</styleUrl><Style><LineStyle><width>7</width></LineStyle></Style>", "#ff0000", 7, ""},
		{"<StyleMap><Pair><key>normal</key><Style><LineStyle><width>4</width></LineStyle></Style></Pair></StyleMap>", "", 4,
			""},
		{"<styleUrl>#loop</styleUrl>", "", 0, "a style that is not in the file"},
		{"<styleUrl>http://veldrin.example/styles.kml#x</styleUrl>", "", 0, "a style that is not in the file"},
		{"", "", 0, ""},
		{"<Style><LineStyle><color>red</color><width>wide</width></LineStyle></Style>", "", 0,
			"<width> in <LineStyle> can't"},
	} {
		d := readString(t, styledDoc(c.style, lineGeometry))
		st := d.Tracks[0].Style
		if st.Colour.String() != c.colour || st.Width != c.width || !strings.Contains(problems(d), c.said) ||
			c.said == "" && len(d.Problems) > 0 {
			t.Errorf("%s: %+v, said %q", c.style, st, problems(d))
		}
	}
}

// Items that look alike share one style; the file does not grow with their number.
func TestSharedStyles(t *testing.T) {
	var d nav.Dataset
	for i := range 50 {
		w := nav.Waypoint{Point: nav.At(1, 2)}
		w.Style = nav.Style{Symbol: "rock", Icon: "files/rock.png", Colour: nav.RGB(200, 16, uint8(i%2))}
		d.Waypoints = append(d.Waypoints, w)
	}
	out, _ := writeString(t, &d, "")
	if n := strings.Count(out, "<Style id="); n != 2 {
		t.Errorf("%d styles for two looks", n)
	}
	for i, w := range readString(t, out).Waypoints {
		if w.Style != d.Waypoints[i].Style {
			t.Errorf("waypoint %d: %+v", i, w.Style)
		}
	}
}

// What a style has of one kind of thing does not dress another: an icon's colour is no line's.
func TestStyleOfItsKind(t *testing.T) {
	style := "<Style><IconStyle><color>ff00ff00</color><Icon><href>i.png</href></Icon></IconStyle><LineStyle>" +
		"<color>ff0000ff</color></LineStyle><PolyStyle><color>40ff0000</color><fill>0</fill></PolyStyle></Style>"
	w := readString(t, styledDoc(style, "<Point><coordinates>1,2</coordinates></Point>")).Waypoints[0].Style
	l := readString(t, styledDoc(style, lineGeometry)).Tracks[0].Style
	a := readString(t, styledDoc(style,
		"<Polygon><outerBoundaryIs><LinearRing><coordinates>0,0 1,0 1,1 "+
			"0,0</coordinates></LinearRing></outerBoundaryIs></Polygon>")).Areas[0].Style
	if w.Colour.String() != "#00ff00" || w.Icon != "i.png" || l.Colour.String() != "#ff0000" || l.Icon != "" ||
		a.Fill.String() != "#0000ff40" || !a.NoFill || a.Colour.String() != "#ff0000" {
		t.Errorf("waypoint %+v\nline %+v\narea %+v", w, l, a)
	}
}

// Ten times the folders, each with a style of its own and on one line, are to take about ten times as long.
func BenchmarkFolders(b *testing.B) {
	for _, n := range []int{2000, 20000} {
		var doc strings.Builder
		doc.WriteString(`<kml xmlns="http://www.opengis.net/kml/2.2"><Document>`)
		for i := range n {
			fmt.Fprintf(&doc, `<Folder><name>Day %d</name><open>1</open><Placemark><name>Mark %d</name><Style><IconStyle>`+
				`<color>ff%06x</color></IconStyle></Style><Point><coordinates>11.3,-47.6</coordinates></Point></Placemark>`+
				`</Folder>`, i, i, i)
		}
		doc.WriteString(`</Document></kml>`)
		b.Run(fmt.Sprintf("%d read", n), func(b *testing.B) {
			for b.Loop() {
				readString(b, doc.String())
			}
		})
		d := readString(b, doc.String())
		b.Run(fmt.Sprintf("%d written", n), func(b *testing.B) {
			for b.Loop() {
				writeString(b, d, "")
			}
		})
	}
}

// What KML says of how things are drawn goes from KML to KML: styles of what is pointed at, extrusion, ids, open
// folders, the angles of what moves and the types of fields; a style of a folder without an id is nobody's.
func TestDrawingSurvives(t *testing.T) {
	d := readString(t, `<kml xmlns="http://www.opengis.net/kml/2.2" xmlns:gx="`+spaceGX+`"><Document><open>1</open>
<Style id="n"><LineStyle><color>ff0000ff</color></LineStyle></Style>
<Style id="h"><LineStyle><color>ff00ffff</color><width>4</width></LineStyle>
<LabelStyle><scale>2</scale></LabelStyle><BalloonStyle><text>$[name]</text></BalloonStyle></Style>
<StyleMap id="m"><Pair><key>normal</key><styleUrl>#n</styleUrl></Pair>
<Pair><key>highlight</key><styleUrl>#h</styleUrl></Pair>
</StyleMap>
<Schema id="s"><SimpleField name="count" type="int"/><SimpleField name="ring" type="string"/></Schema>
<Folder><name>Paths</name><open>1</open><Style><LineStyle><color>ff123456</color></LineStyle></Style>
<Placemark id="pm1"><name>A</name><styleUrl>#m</styleUrl><ExtendedData><SchemaData schemaUrl="#s">
<SimpleData name="count">12</SimpleData><SimpleData name="ring">007</SimpleData></SchemaData></ExtendedData>
<LineString><extrude>1</extrude><tessellate>1</tessellate><coordinates>11,-47 12,-47</coordinates></LineString>
</Placemark>
</Folder>
<Placemark><name>B</name><LineString><coordinates>11,-48 12,-48</coordinates></LineString></Placemark>
<Placemark><name>C</name><gx:Track><when>2026-03</when><when>2026-03-14T05:30:00Z</when><gx:coord>11 -47</gx:coord>
<gx:coord>11.1 -47</gx:coord><gx:angles>45 1 2</gx:angles><gx:angles/></gx:Track></Placemark></Document></kml>`)
	if c := d.Tracks[1].Style.Colour; c.Set {
		t.Errorf("the style of the folder is on a placemark outside of it: %v", c)
	}
	if f := d.Tracks[0].Fields; len(f) != 2 || !f[0].Literal || f[1].Literal {
		t.Errorf("types of fields %+v", f)
	}
	once, ledger := writeString(t, d, "")
	if len(ledger) > 0 {
		t.Errorf("ledger %v", ledger)
	}
	for _, want := range []string{`<Placemark id="pm1">`, "<extrude>1</extrude>", "<tessellate>1</tessellate>",
		"<open>1</open>", "<key>highlight</key>", "<color>ff00ffff</color>", "<text>$[name]</text>", `schemaUrl="#s"`,
		`type="int"`,
		"<gx:angles>45 1 2</gx:angles>", "<when>2026-03</when>", `<SimpleData name="ring">007</SimpleData>`} {
		if !strings.Contains(once, want) {
			t.Errorf("%s is gone:\n%s", want, once)
		}
	}
	if again, _ := writeString(t, readString(t, once), ""); again != once {
		t.Errorf("it changes from one KML to the next:\n%s\n%s", once, again)
	}
}

// The HTML of a balloon is read for what it says, and goes on to KML as it was as long as it is still true.
func TestBalloon(t *testing.T) {
	html := `<h3>Pier &amp; slip</h3><table border=1><tr><th colspan=2>Details</th></tr>` +
		`<tr><td>Owner:</td><td>H&amp;S Marina</td></tr><tr><td>Depth</td><td><b>3.5</b>&nbsp;m</td></tr></table>` +
		`<p>Dries at <i>low</i> water.</p><ul><li>water</li><li>fuel</li></ul><script>alert(1)</script>` +
		`See <a href="https://veldrin.example/pier">the pilot</a><br>and ask.`
	d := readString(t, `<kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><name>A</name><description><![CDATA[`+html+
		`]]></description><Point><coordinates>11,-47</coordinates></Point></Placemark><Placemark><name>B</name>`+
		`<description>5 &lt; 6 and plain</description><Point><coordinates>11,-47</coordinates></Point></Placemark></kml>`)
	w := &d.Waypoints[0]
	if want := "Pier & slip\n\nDries at low water.\n\n- water\n- fuel\nSee the pilot\nand ask."; w.Desc != want {
		t.Errorf("%q", w.Desc)
	}
	if got := fmt.Sprint(w.Fields); got != "[{Owner H&S Marina false false} {Depth 3.5 m false false}]" {
		t.Errorf("%s", got)
	}
	if len(w.Links) != 1 || w.Links[0].Href != "https://veldrin.example/pier" || w.Links[0].Text != "the pilot" {
		t.Errorf("%+v", w.Links)
	}
	if d.Waypoints[1].Desc != "5 < 6 and plain" {
		t.Errorf("%q", d.Waypoints[1].Desc)
	}
	once, ledger := writeString(t, d, "")
	back := readString(t, once)
	if len(ledger) > 0 || fmt.Sprint(back.Waypoints[0].Fields) != fmt.Sprint(w.Fields) ||
		back.Waypoints[0].Desc != w.Desc {
		t.Errorf("%v %+v", ledger, back.Waypoints[0])
	}
	if again, _ := writeString(t, back, ""); again != once || !strings.Contains(once, "H&amp;amp;S Marina&lt;/td") {
		t.Errorf("the HTML changes:\n%s", once)
	}
	w.Fields[1].Value = "2 m" // the HTML is true no more
	if out, _ := writeString(t, d, ""); strings.Contains(out, "&lt;table") ||
		!strings.Contains(out, "Dries at low water.") {
		t.Errorf("%s", out)
	}
	// Plain text that looks like HTML comes back as it is.
	d.Waypoints[1].Desc = "write <b> for bold & more"
	out, _ := writeString(t, d, "")
	if got := readString(t, out).Waypoints[1].Desc; got != "write <b> for bold & more" {
		t.Errorf("%q", got)
	}
}
