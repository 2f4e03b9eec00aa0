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
		{"<styleUrl>#loop</styleUrl>", "", 0, "a style that the file does not hold"},
		{"<styleUrl>http://veldrin.example/styles.kml#x</styleUrl>", "", 0, "a style that the file does not hold"},
		{"", "", 0, ""},
		{"<Style><LineStyle><color>red</color><width>wide</width></LineStyle></Style>", "", 0, ""},
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
