package picture

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/symbol"
)

func theme(t testing.TB, word string) *Theme {
	t.Helper()
	th, err := ParseTheme(word)
	if err != nil {
		t.Fatal(err)
	}
	return th
}

func sample() *nav.Dataset {
	w := func(name, symbol string, lat, lon float64) nav.Waypoint {
		return nav.Waypoint{Item: nav.Item{Name: name, Style: nav.Style{Symbol: symbol}}, Point: nav.At(lat, lon)}
	}
	s := nav.Segment{}
	for i := range 200 {
		p := nav.At(-47.6+float64(i)*1e-4, 11.3+0.002*math.Sin(float64(i)/20))
		p.SetHeight(100+50*math.Sin(float64(i)/30), 0, nav.MeanSeaLevel)
		p.SetTime(int64(i)*10e9, instant.Seconds)
		s.Points = append(s.Points, p)
	}
	return &nav.Dataset{
		Waypoints: []nav.Waypoint{w("Rock <b>", "rock", -47.59, 11.31), w("Cove", "anchorage", -47.585, 11.29)},
		Routes: []nav.Route{{Item: nav.Item{Name: "Run"}, Points: []nav.Waypoint{w("A", "", -47.6, 11.29),
			w("B", "", -47.58, 11.31)}}},
		Tracks: []nav.Track{{Item: nav.Item{Name: "Walk"}, Segments: []nav.Segment{s}}},
		Areas: []nav.Area{{Item: nav.Item{Name: "Closure"}, Outline: []nav.Point{nav.At(-47.59, 11.295),
			nav.At(-47.59, 11.3), nav.At(-47.585, 11.3)}}},
	}
}

func drawn(t testing.TB, m *Map) *Drawn {
	t.Helper()
	if m.Theme == nil {
		m.Theme = theme(t, "light")
	}
	if m.Width == 0 {
		m.Width, m.Height = 800, 600
	}
	d, err := m.Draw(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	return d
}

// The projection is true to shape wherever the data lie: a square on the ground is one in the drawing, by the
// antimeridian, at a pole, and on the equator; and there and back is the same place.
func TestTrueToShape(t *testing.T) {
	for _, at := range []struct{ lat, lon float64 }{{-47.6, 11.3}, {0, 0}, {70, 179.99}, {-89.95, 40}, {89.9, -120},
		{10, -179.999}} {
		var places [][2]float64
		lat, lon := at.lat, at.lon
		places = append(places, [2]float64{lat, lon})
		for _, course := range []float64{0, 90, 180, 270} {
			a, o, _ := geodesy.Direct(lat, lon, course, 2000)
			places = append(places, [2]float64{a, o})
		}
		v := fit(Rect{0, 0, 800, 600}, 0, func(visit func(lat, lon float64)) {
			for _, p := range places {
				visit(p[0], p[1])
			}
		})
		middle := v.place(lat, lon)
		var first float64
		for i, p := range places[1:] {
			q := v.place(p[0], p[1])
			length := math.Hypot(q.X-middle.X, q.Y-middle.Y)
			if i == 0 {
				first = length
			}
			if math.Abs(length-first) > 0.002*first || math.Abs(first*v.perPx-2000) > 4 {
				t.Errorf("at %v: 2,000 m to %d° are %.2f pixels of %.2f m", at, 90*i, length, v.perPx)
			}
			if !v.frame.Has(q) {
				t.Errorf("at %v: a place is outside of the frame: %v", at, q)
			}
			if a, o := v.position(q); math.Abs(a-p[0]) > 1e-7 || geodesy.Distance(a, o, p[0], p[1]) > 0.1 {
				t.Errorf("at %v: %v comes back as %v %v", at, p, a, o)
			}
		}
	}
}

// A scale is the scale: at 1:25,000 a kilometre is four centimetres, which are 151.2 pixels of 1/96 inch.
func TestScale(t *testing.T) {
	v := fit(Rect{0, 0, 800, 600}, 25000, func(visit func(lat, lon float64)) { visit(-47.6, 11.3) })
	lat, lon, _ := geodesy.Direct(-47.6, 11.3, 90, 1000)
	a, b := v.place(-47.6, 11.3), v.place(lat, lon)
	if px := math.Hypot(b.X-a.X, b.Y-a.Y); math.Abs(px-151.18) > 0.1 {
		t.Errorf("a kilometre is %.2f pixels", px)
	}
}

// Names cover neither one another nor a waypoint.
func TestNamesKeepApart(t *testing.T) {
	d := &nav.Dataset{}
	for i := range 60 {
		d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: fmt.Sprintf("Waypoint number %d", i)},
			Point: nav.At(-47.6+float64(i%8)*1e-3, 11.3+float64(i/8)*1e-3)})
	}
	m := &Map{Data: d, Width: 900, Height: 700}
	out := drawn(t, m)
	fonts := faces{}
	var boxes []Rect
	names := 0
	for _, s := range out.Scene.Shapes {
		if s.Layer == "names" {
			names++
			w := fonts.width(s.Text, s.Size, s.Bold)
			boxes = append(boxes, Rect{s.At.X - w*s.Anchor, s.At.Y - s.Size*0.75, w, s.Size * 0.9})
		}
	}
	for i := range boxes {
		for j := range i {
			if boxes[i].meets(boxes[j]) {
				t.Fatalf("names %d and %d cover one another: %v %v", i, j, boxes[i], boxes[j])
			}
		}
		for _, it := range out.Items {
			if boxes[i].Has(it.At) {
				t.Errorf("a name covers %s", it.Name)
			}
		}
	}
	if names < 15 || names == 60 || !strings.Contains(strings.Join(out.Notes, " "), "omitted for lack of room") {
		t.Errorf("%d names, notes %v", names, out.Notes)
	}
}

// Every symbol has a drawing of its own.
func TestGlyphs(t *testing.T) {
	seen := map[string]string{}
	for _, s := range symbol.All {
		g := fmt.Sprint(parsedGlyphs()[s.Word])
		if len(parsedGlyphs()[s.Word]) == 0 {
			t.Errorf("%s has no drawing", s.Word)
		}
		if other := seen[g]; other != "" {
			t.Errorf("%s looks like %s", s.Word, other)
		}
		seen[g] = s.Word
		for _, x := range glyph(s.Word, XY{50, 50}, 14, nav.RGB(0, 0, 0), nav.RGB(255, 255, 255)) {
			for _, op := range x.Path {
				if op.Kind != 'Z' && (op.X-op.R < 42.5 || op.X+op.R > 57.5 || op.Y-op.R < 42.5 || op.Y+op.R > 57.5) {
					t.Errorf("%s goes beyond its square: %v", s.Word, op)
				}
			}
		}
	}
	for word := range parsedGlyphs() {
		if _, ok := symbol.ByWord(word); !ok {
			t.Errorf("a drawing of %s, which is no symbol", word)
		}
	}
}

// What falls on the same pixel is drawn once, however often the line goes there.
func TestDrawnOnce(t *testing.T) {
	s := nav.Segment{}
	for i := range 100_000 {
		s.Points = append(s.Points, nav.At(-47.6+1e-3*float64(i%2), 11.3))
	}
	out := drawn(t, &Map{Data: &nav.Dataset{Tracks: []nav.Track{{Segments: []nav.Segment{s}}}}})
	steps := 0
	for _, x := range out.Scene.Shapes {
		if x.Layer == "tracks" {
			steps = max(steps, len(x.Path))
		}
	}
	if steps == 0 || steps > 4 {
		t.Errorf("the path of a line there and back has %d steps", steps)
	}
}

func TestPNG(t *testing.T) {
	for word := range Themes {
		m := &Map{Data: sample(), Title: "Isles", Theme: theme(t, word), Section: Section{Along: "time"}}
		var b, again bytes.Buffer
		if err := drawn(t, m).Scene.WritePNG(&b); err != nil {
			t.Fatal(err)
		}
		drawn(t, m).Scene.WritePNG(&again)
		if !bytes.Equal(b.Bytes(), again.Bytes()) {
			t.Errorf("%s: the same data give another picture", word)
		}
		img, err := png.Decode(&b)
		if err != nil || img.Bounds().Dx() != 800 || img.Bounds().Dy() != 600 {
			t.Fatalf("%s: %v", word, err)
		}
		colours := map[color.Color]bool{}
		for y := 0; y < 600; y += 3 {
			for x := 0; x < 800; x += 3 {
				colours[img.At(x, y)] = true
			}
		}
		if len(colours) < 50 {
			t.Errorf("%s: %d colours", word, len(colours))
		}
	}
}

// SVG is well-formed, and texts of the data are texts in it, never markup.
func TestSVG(t *testing.T) {
	d := sample()
	d.Waypoints[0].Name = `<script>alert(1)</script>"&'`
	var b bytes.Buffer
	if err := drawn(t, &Map{Data: d, Title: "a < b", Section: Section{Along: "distance"}}).Scene.WriteSVG(&b); err != nil {
		t.Fatal(err)
	}
	in := xml.NewDecoder(bytes.NewReader(b.Bytes()))
	texts := ""
	for {
		tok, err := in.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		switch x := tok.(type) {
		case xml.StartElement:
			if x.Name.Local == "script" {
				t.Error("a name is markup")
			}
		case xml.CharData:
			texts += string(x)
		}
	}
	if !strings.Contains(texts, d.Waypoints[0].Name) || !strings.Contains(texts, "a < b") {
		t.Error("a name is not there as it is")
	}
}

// The profile measures what the line does: distance, height, speed.
func TestProfile(t *testing.T) {
	var points []nav.Point
	lat, lon := -47.6, 11.3
	for i := range 121 { // 2 m/s to the north, up 1 in 10
		p := nav.At(lat, lon)
		p.SetHeight(float64(i)*2, 0, nav.MeanSeaLevel)
		p.SetTime(int64(i)*10e9, instant.Seconds)
		points = append(points, p)
		lat, lon, _ = geodesy.Direct(lat, lon, 0, 20)
	}
	p := newProfile("x", points)
	last := p.Samples[120]
	if math.Abs(last.Distance-2400) > 0.01 || last.Height != 240 || math.Abs(last.Speed-2) > 0.001 ||
		last.Seconds != 1200 {
		t.Errorf("%+v", last)
	}
	// Without times and heights it says so instead of an empty picture.
	flat := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Drawn"},
		Segments: []nav.Segment{{Points: []nav.Point{nav.At(1, 2), nav.At(1, 3)}}}}}}
	notes := strings.Join(drawn(t, &Map{Data: flat, Section: Section{Along: "time"}}).Notes, "\n")
	if !strings.Contains(notes, "Drawn has no times") || !strings.Contains(notes, "elevate adds heights") {
		t.Errorf("%s", notes)
	}
}

// A picture with a world file lies where the file says, also in a projected system; one without is refused with what is
// missing.
func TestBackdrop(t *testing.T) {
	dir := t.TempDir()
	img := image.NewNRGBA(image.Rect(0, 0, 100, 100))
	for y := range 100 {
		for x := range 100 {
			img.Set(x, y, color.NRGBA{uint8(2 * x), uint8(2 * y), 0, 255})
		}
	}
	put := func(name string) {
		f, _ := os.Create(filepath.Join(dir, name))
		png.Encode(f, img)
		f.Close()
	}
	put("a.png")
	os.WriteFile(filepath.Join(dir, "a.pgw"), []byte("0.001\n0\n0\n-0.001\n11.3\n-47.5\n"), 0o666)
	b, err := OpenBackdrop(filepath.Join(dir, "a.png"), nil)
	if err != nil {
		t.Fatal(err)
	}
	if x, y, ok := b.Pixel(-47.55, 11.32); !ok || math.Abs(x-20.5) > 1e-6 || math.Abs(y-50.5) > 1e-6 {
		t.Errorf("%v %v", x, y)
	}
	utm, _ := crs.Find("32732")
	e, n, _ := utm.Forward(-47.6, 11.3)
	put("b.png")
	os.WriteFile(filepath.Join(dir, "b.wld"), fmt.Appendf(nil, "10\n0\n0\n-10\n%f\n%f\n", e, n), 0o666)
	if b, err = OpenBackdrop(filepath.Join(dir, "b.png"), utm); err != nil {
		t.Fatal(err)
	}
	lat, lon, _ := utm.Inverse(e+300, n-200)
	if x, y, ok := b.Pixel(lat, lon); !ok || math.Abs(x-30.5) > 1e-3 || math.Abs(y-20.5) > 1e-3 {
		t.Errorf("%v %v", x, y)
	}
	if _, err := OpenBackdrop(filepath.Join(dir, "b.png"), nil); err == nil || advice.Of(err).Code != advice.NameSystem {
		t.Errorf("projected, and nobody said it: %v", err)
	}
	put("c.png")
	os.WriteFile(filepath.Join(dir, "d.png"), []byte("no picture"), 0o666)
	os.WriteFile(filepath.Join(dir, "d.pgw"), []byte("1\n"), 0o666)
	for name, want := range map[string]string{"c.png": "no world file beside it (.pgw, .pngw, .wld)",
		"d.png": "not a supported picture", "gone.png": "no such picture"} {
		if _, err := OpenBackdrop(filepath.Join(dir, name), nil); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", name, err)
		}
	}
	d := sample()
	out := drawn(t, &Map{Data: d, Backdrop: &Backdrop{Image: img, Pixel: func(lat, lon float64) (float64, float64,
		bool) {
		return 1, 1, true
	}}})
	if out.Scene.Shapes[0].Layer != "backdrop" {
		t.Error("the backdrop is not the lowest")
	}
}

func FuzzOverlay(f *testing.F) {
	f.Add([]byte(`<kml><GroundOverlay><Icon><href>a.png</href></Icon><LatLonBox><north>1</north><south>0</south><east>` +
		`1</east><west>0</west></LatLonBox></GroundOverlay></kml>`))
	f.Fuzz(func(t *testing.T, text []byte) { overlayOf(text) })
}

func TestText(t *testing.T) {
	lines := TextMap(sample(), 80, 20)
	whole := strings.Join(lines, "\n")
	if !strings.Contains(whole, "• Cove") || !strings.ContainsAny(whole, "⠁⠃⠇⡇⣿⢸⡏⠸⢇⡎") ||
		!strings.Contains(whole, "north is up") {
		t.Errorf("%s", whole)
	}
	for _, l := range append(lines, TextProfile(sample(), 80, 5)...) {
		if len([]rune(l)) > 80 {
			t.Errorf("wider than the window: %q", l)
		}
	}
	d := sample()
	d.Waypoints[0].Name = "a\x1b[31mb"
	if strings.Contains(strings.Join(TextMap(d, 80, 20), ""), "\x1b") {
		t.Error("a name's control characters reach the terminal")
	}
	if TextProfile(&nav.Dataset{}, 80, 5) != nil {
		t.Error("a profile of nothing")
	}
}

// BenchmarkDraw compares drawing a million points with visiting and measuring them.
func BenchmarkDraw(b *testing.B) {
	s := nav.Segment{}
	lat, lon := -47.6, 11.3
	for i := range 1_000_000 {
		lat += 1e-5 * math.Sin(float64(i)/5000)
		lon += 1e-5 * math.Cos(float64(i)/7000)
		p := nav.At(lat, lon)
		p.SetTime(int64(i)*int64(time.Second), instant.Seconds)
		s.Points = append(s.Points, p)
	}
	d := &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "T"}, Segments: []nav.Segment{s}}}}
	b.Run("png", func(b *testing.B) {
		for b.Loop() {
			m := &Map{Data: d, Width: 1280, Height: 800, Theme: theme(b, "light")}
			if err := drawn(b, m).Scene.WritePNG(io.Discard); err != nil {
				b.Fatal(err)
			}
		}
	})
}
