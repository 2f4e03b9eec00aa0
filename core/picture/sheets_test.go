package picture

import (
	"bytes"
	"fmt"
	"math"
	"regexp"
	"strings"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/nav"
)

// spread is data that lie so many kilometres apart.
func spread(km float64) *nav.Dataset {
	d := &nav.Dataset{}
	for i, course := range []float64{0, 90, 180, 270} {
		lat, lon, _ := geodesy.Direct(-47.6, 11.3, course, km*500)
		w := nav.Waypoint{Point: nav.At(lat, lon)}
		w.Name = fmt.Sprint("Mark ", i+1)
		d.Waypoints = append(d.Waypoints, w)
	}
	return d
}

// On paper a kilometre at 1:25,000 is four centimetres, and the sheets of a larger map show all of it.
func TestSheetsAreTrueToScale(t *testing.T) {
	width, height, err := ParseSize("A4")
	if err != nil {
		t.Fatal(err)
	}
	m := &Map{Data: spread(12), Title: "Isles", Width: width, Height: height, Scale: 25_000, Theme: Themes["print"]}
	sheets, notes, err := m.MapSheets(t.Context())
	if err != nil || len(sheets) < 7 {
		t.Fatalf("%d sheets: %v %v", len(sheets), notes, err)
	}
	a, b := m.Data.Waypoints[0], m.Data.Waypoints[2]
	v := fit(Rect{0, 0, 800, 600}, 25_000, func(visit func(lat, lon float64)) { visit(a.Lat, a.Lon); visit(b.Lat, b.Lon) })
	p, q := v.place(a.Lat, a.Lon), v.place(b.Lat, b.Lon)
	const perCentimetre = 96 / 2.54
	if cm := math.Hypot(p.X-q.X, p.Y-q.Y) / perCentimetre; math.Abs(cm-48) > 0.05 {
		t.Errorf("12 km are %.2f cm", cm)
	}
	labels := map[string]bool{}
	for _, s := range sheets[1:] {
		for i := range s.Shapes {
			if x := &s.Shapes[i]; strings.HasPrefix(x.Text, "Mark") && x.At.X > 0 && x.At.X < s.Width && x.At.Y > 0 &&
				x.At.Y < s.Height {
				labels[x.Text] = true
			}
		}
	}
	if len(labels) != 4 {
		t.Errorf("the sheets name only %v", labels)
	}
	m.Scale = 100
	if _, _, err := m.MapSheets(t.Context()); err == nil || !strings.Contains(err.Error(), "sheets") {
		t.Errorf("a map of millions of sheets: %v", err)
	}
	m.Scale = 0
	if sheets, _, err := m.MapSheets(t.Context()); err != nil || len(sheets) != 1 {
		t.Errorf("%d sheets: %v", len(sheets), err)
	}
}

// A document has a page a sheet, of the size of the paper, its fonts within, and the same bytes twice.
func TestPDF(t *testing.T) {
	width, height, _ := ParseSize("A4-portrait")
	m := &Map{Data: spread(2), Title: "Isles \u6df1 \U0001F6A2", Width: width, Height: height, Theme: Themes["print"]}
	drawn, _ := m.Draw(t.Context())
	if notes := strings.Join(drawn.Notes, "\n"); !strings.Contains(notes, "the font lacks 深") {
		t.Errorf("missing letters are not said: %s", notes)
	}
	list := &Listing{Title: "Points", Heads: []string{"name", "nothing", "at"}, Right: []bool{false, false, true}}
	for i := range 120 {
		list.Rows = append(list.Rows, []string{fmt.Sprint("Point ", i), "", "47.6 S"})
	}
	pages := list.Sheets(width, height, m.Theme)
	if len(pages) < 2 || len(list.Heads) != 2 {
		t.Fatalf("%d pages, columns %v", len(pages), list.Heads)
	}
	var first, second bytes.Buffer
	for _, to := range []*bytes.Buffer{&first, &second} {
		if err := WritePDF(to, m.Title, append([]*Scene{drawn.Scene}, pages...)); err != nil {
			t.Fatal(err)
		}
	}
	if !bytes.Equal(first.Bytes(), second.Bytes()) {
		t.Error("the same drawing gives other bytes")
	}
	text := first.String()
	if n := len(regexp.MustCompile(`/Type /Page\b[^s]`).FindAllString(text, -1)); n != len(pages)+1 {
		t.Errorf("%d pages, want %d", n, len(pages)+1)
	}
	box := regexp.MustCompile(`/MediaBox \[0 0 ([\d.]+) ([\d.]+)\]`).FindStringSubmatch(text)
	var w, h float64
	if box == nil {
		t.Fatal("no page says its size")
	}
	fmt.Sscan(box[1], &w)
	fmt.Sscan(box[2], &h)
	if math.Abs(w-595.28) > 0.5 || math.Abs(h-841.89) > 0.5 { // A4 in points
		t.Errorf("the page is %g by %g points", w, h)
	}
	if !strings.Contains(text, "/FontFile2") {
		t.Error("no font is within")
	}
}

func TestPaperSizes(t *testing.T) {
	for text, want := range map[string][2]int{"A4": {1123, 794}, "a4-portrait": {794, 1123}, "A3-landscape": {1587, 1123},
		"letter": {1056, 816}, "640x480": {640, 480}} {
		if w, h, err := ParseSize(text); err != nil || w != want[0] || h != want[1] {
			t.Errorf("%s: %d by %d, %v", text, w, h, err)
		}
	}
	for _, bad := range []string{"A9", "4", "A4x3", "-portrait", ""} {
		if _, _, err := ParseSize(bad); err == nil {
			t.Errorf("%q is a size", bad)
		}
	}
}
