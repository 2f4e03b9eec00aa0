package picture

import (
	"bytes"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/terrain"
)

// texts lists what is written in a layer.
func texts(d *Drawn, layer string) (out []string) {
	for _, s := range d.Scene.Shapes {
		if s.Layer == layer && s.Text != "" {
			out = append(out, s.Text)
		}
	}
	return
}

func has(list []string, part string) bool { return strings.Contains(strings.Join(list, "\n"), part) }

// The lines of latitude and longitude are labelled with degrees that are where they say.
func TestGraticule(t *testing.T) {
	for _, c := range []struct {
		name      string
		lat, lon  float64
		span      float64
		want, not string
	}{
		{"isles", -47.6, 11.3, 0.05, "47°36′ S", "N"}, {"equator", 0, 20, 3, "0°", "′"}, {"antimeridian", 10, 179.9, 2,
			"180°", "181"}, {"arctic", 80, 0, 4, "80° N", "S"},
	} {
		d := &nav.Dataset{}
		for _, k := range []float64{-1, 1} {
			d.Waypoints = append(d.Waypoints, nav.Waypoint{Point: nav.At(c.lat+k*c.span, c.lon+k*c.span)},
				nav.Waypoint{Point: nav.At(c.lat-k*c.span, c.lon+k*c.span)})
		}
		m := &Map{Data: d}
		out := drawn(t, m)
		labels := texts(out, "graticule")
		if !has(labels, c.want) || has(labels, c.not) || len(labels) < 4 {
			t.Errorf("%s: labels %q", c.name, labels)
		}
	}
	for v, want := range map[float64]string{-47.6: "47°36′ S", 0: "0°00′", 11.5: "11°30′ N", 47.99999999: "48°00′ N"} {
		if got := degreeLabel(v, 1./60, "N", "S"); got != want {
			t.Errorf("%v is %q, want %q", v, got, want)
		}
	}
	if got := degreeLabel(-179.75, 1./3600, "E", "W"); got != "179°45′00″ W" {
		t.Error(got)
	}
}

// Data all around the earth make a map of the world, without lines across it where they pass the antimeridian.
func TestWorld(t *testing.T) {
	s := nav.Segment{}
	for i := range 73 {
		s.Points = append(s.Points, nav.At(20*math.Sin(float64(i)/10), float64(i*5)-180))
	}
	out := drawn(t, &Map{Data: &nav.Dataset{Tracks: []nav.Track{{Item: nav.Item{Name: "Around"},
		Segments: []nav.Segment{s}}}}})
	for _, x := range out.Scene.Shapes {
		if x.Layer != "tracks" {
			continue
		}
		for i := 1; i < len(x.Path); i++ {
			if x.Path[i].Kind == 'L' && math.Abs(x.Path[i].X-x.Path[i-1].X) > 400 {
				t.Errorf("a line across the map: %v to %v", x.Path[i-1], x.Path[i])
			}
		}
	}
	pole := &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(-89, 0)}, {Point: nav.At(-89, 120)},
		{Point: nav.At(-89, -120)}}}
	at := drawn(t, &Map{Data: pole}).Items
	a, b, c := at[0].At, at[1].At, at[2].At
	if d1, d2 := math.Hypot(a.X-b.X, a.Y-b.Y), math.Hypot(a.X-c.X, a.Y-c.Y); math.Abs(d1-d2) > 0.01*d1 || d1 < 100 {
		t.Errorf("three places around a pole are %v and %v pixels apart", d1, d2)
	}
}

// Routes have their order, the legend says what is drawn, the bar is a round length in the chosen measure.
func TestFurniture(t *testing.T) {
	d := sample()
	for _, c := range []struct {
		system measure.System
		bar    string
	}{{measure.Metric, "500 m"}, {measure.Nautical, "nm"}} {
		out := drawn(t, &Map{Data: d, Title: "The Isles", Measure: c.system})
		if !has(texts(out, "names"), "1 A") || !has(texts(out, "names"), "2 B") {
			t.Errorf("names %q", texts(out, "names"))
		}
		frame := texts(out, "frame")
		for _, part := range []string{"The Isles", "N", "Walk", "Run", "areas (1)", "rock (1)", "anchorage (1)"} {
			if !has(frame, part) {
				t.Errorf("%q is not in %q", part, frame)
			}
		}
		if !has(texts(out, "scale"), c.bar) {
			t.Errorf("%v: bar %q", c.system, texts(out, "scale"))
		}
	}
	// Of many lines the legend counts, and does not name each.
	for i := range 10 {
		d.Tracks = append(d.Tracks, nav.Track{Item: nav.Item{Name: fmt.Sprint("T", i)}, Segments: d.Tracks[0].Segments})
	}
	if frame := texts(drawn(t, &Map{Data: d}), "frame"); !has(frame, "tracks (11)") || has(frame, "T3") {
		t.Errorf("%q", frame)
	}
	for v, want := range map[float64]float64{0.9: 0.5, 1: 1, 1.9: 1, 4.99: 2, 5: 5, 99: 50, 150: 100, 2345: 2000} {
		if got := roundLength(v); math.Abs(got-want) > 1e-9 {
			t.Errorf("the bar of %v is %v, want %v", v, got, want)
		}
	}
}

// The legend stands where it covers nothing, if there is such a corner.
func TestLegendKeepsOff(t *testing.T) {
	for _, c := range []struct{ lat1, lon1, lat2, lon2 float64 }{{-47.7, 11.2, -47.5, 11.4}, {-47.5, 11.2, -47.7, 11.4}} {
		d := &nav.Dataset{Routes: []nav.Route{{Item: nav.Item{Name: "R"},
			Points: []nav.Waypoint{{Point: nav.At(c.lat1, c.lon1)}, {Point: nav.At(c.lat2, c.lon2)}}}}}
		out := drawn(t, &Map{Data: d})
		var ends []XY
		for _, s := range out.Scene.Shapes {
			if s.Layer == "routes" && len(s.Path) == 1 {
				ends = append(ends, s.Path[0].XY)
			}
		}
		for _, s := range out.Scene.Shapes {
			if s.Layer == "frame" && s.Text == "R" {
				for _, e := range ends {
					if math.Hypot(e.X-s.At.X, e.Y-s.At.Y) < 60 {
						t.Errorf("the legend at %v covers the end %v", s.At, e)
					}
				}
			}
		}
		if len(ends) != 2 {
			t.Errorf("%d ends", len(ends))
		}
	}
}

// At a scale that shows a part only, what lies outside is counted.
func TestBeyond(t *testing.T) {
	out := drawn(t, &Map{Data: sample(), Scale: 1000})
	if !strings.Contains(strings.Join(out.Notes, "\n"), "points outside the picture") {
		t.Errorf("%v", out.Notes)
	}
}

// Colours that the data give are kept; in the dark one that could not be seen is not.
func TestColours(t *testing.T) {
	d := sample()
	d.Tracks[0].Style.Colour = nav.RGB(10, 10, 10)
	stroke := func(word string) nav.Colour {
		for _, s := range drawn(t, &Map{Data: d, Theme: theme(t, word)}).Scene.Shapes {
			if s.Layer == "tracks" && s.Item == "t1" {
				return s.Stroke
			}
		}
		return nav.Colour{}
	}
	if stroke("light") != nav.RGB(10, 10, 10) || stroke("dark") == nav.RGB(10, 10, 10) {
		t.Errorf("%v %v", stroke("light"), stroke("dark"))
	}
	for word, th := range Themes {
		for i, a := range th.Lines {
			for _, b := range th.Lines[:i] {
				if d := math.Abs(float64(a.R)-float64(b.R)) + math.Abs(float64(a.G)-float64(b.G)) +
					math.Abs(float64(a.B)-float64(b.B)); d < 90 {
					t.Errorf("%s: two lines look alike: %v %v", word, a, b)
				}
			}
		}
	}
	if _, err := ParseTheme("blue"); err == nil {
		t.Error("there is a theme blue")
	}
}

// The ground: land is shaded, the sea is flat and of its colour, contour lines run where the heights cross their
// levels.
func TestGround(t *testing.T) {
	dir := t.TempDir()
	var b strings.Builder
	b.WriteString("ncols 101\nnrows 101\nxllcorner 11.25\nyllcorner -47.65\ncellsize 0.001\nNODATA_value -9999\n")
	for r := range 101 {
		for c := range 101 {
			fmt.Fprintf(&b, "%d ", max(0, 300-8*int(math.Hypot(float64(r-50), float64(c-50))))) // a hill in the sea
		}
		b.WriteString("\n")
	}
	path := filepath.Join(dir, "hill.asc")
	os.WriteFile(path, []byte(b.String()), 0o666)
	grid, err := terrain.Open([]string{path})
	if err != nil {
		t.Fatal(err)
	}
	defer grid.Close()
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(-47.63, 11.27)}, {Point: nav.At(-47.57, 11.33)}}}
	m := &Map{Data: d, Terrain: grid, Theme: theme(t, "light"), Width: 600, Height: 600}
	out, _ := m.Draw(t.Context())
	img := out.Scene.Shapes[0].Image
	if out.Scene.Shapes[0].Layer != "ground" || img == nil {
		t.Fatal("there is no ground")
	}
	w, h := img.Bounds().Dx(), img.Bounds().Dy()
	r, g, bl, _ := img.At(10, h/2).RGBA()
	if sea := m.Theme.Sea; uint8(r>>8) != sea.R || uint8(g>>8) != sea.G || uint8(bl>>8) != sea.B {
		t.Errorf("the sea is %d %d %d", r>>8, g>>8, bl>>8)
	}
	light := func(x, y int) uint32 { r, g, b, _ := img.At(x, y).RGBA(); return r + g + b }
	if nw, se := light(w/2-w/12, h/2-h/12), light(w/2+w/12, h/2+h/12); nw <= se { // the light is in the north-west
		t.Errorf("the slopes: %d to the north-west, %d to the south-east", nw, se)
	}
	if !has(out.Notes, "contour lines every 25 m") {
		t.Errorf("%v", out.Notes)
	}
	// A contour of a square whose corners are 0 and 10 crosses at the middle for 5.
	ops := square(nil, 0, 0, 5, 0, 0, 10, 10)
	if len(ops) != 2 || ops[0].Y != groundStep/2 || ops[1].Y != groundStep/2 {
		t.Errorf("%v", ops)
	}
}

// The section is along the longest line that has heights, and has the waypoints that it passes.
func TestSection(t *testing.T) {
	d := sample()
	d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: "Hut"},
		Point: d.Tracks[0].Segments[0].Points[100]})
	long := nav.Segment{Points: []nav.Point{nav.At(-47.6, 11), nav.At(-47.6, 12)}}
	d.Tracks = append(d.Tracks, nav.Track{Item: nav.Item{Name: "Longer, without heights"}, Segments: []nav.Segment{long}})
	out := drawn(t, &Map{Data: d, Section: Section{Along: "time"}})
	s := texts(out, "section")
	for _, part := range []string{"heights along Walk", "0:30 h", "Hut", "climb 5 %", "km/h"} {
		if !has(s, part) {
			t.Errorf("%q is not in %q", part, s)
		}
	}
	if out.Profile == nil || out.Profile.Along != "time" || len(out.Profile.Samples) != 200 {
		t.Errorf("%+v", out.Profile)
	}
	for i := 1; i < len(out.Profile.Samples); i++ {
		if out.Profile.Samples[i].X < out.Profile.Samples[i-1].X {
			t.Fatal("the profile runs backwards")
		}
	}
	alone := drawn(t, &Map{Data: d, Section: Section{Along: "distance", Alone: true}})
	if len(texts(alone, "frame")) != 0 || !has(texts(alone, "section"), "0.4 km") {
		t.Errorf("%q %q", texts(alone, "frame"), texts(alone, "section"))
	}
	none := drawn(t, &Map{Data: &nav.Dataset{Waypoints: d.Waypoints}, Section: Section{Along: "distance"}})
	if none.Profile != nil || !has(none.Notes, "no line with heights") {
		t.Errorf("%v", none.Notes)
	}
}

// The page says in its list and tables what there is, with everything escaped, and its program has the sums that the
// policy allows.
func TestPageText(t *testing.T) {
	d := sample()
	d.Waypoints[0].Desc = "<i>sharp</i> & deep"
	removed := &nav.Dataset{}
	for i := range 3 {
		removed.Waypoints = append(removed.Waypoints,
			nav.Waypoint{Item: nav.Item{Fields: []nav.Field{{Key: "fault", Value: "spikes"}}},
				Point: nav.At(-47.59, 11.3+float64(i)/1000)})
	}
	m := &Map{Data: d, Title: "Isles </title>", Theme: theme(t, "dark"), Removed: removed,
		Section: Section{Along: "distance"}, Width: 800, Height: 600}
	base, _ := m.DrawPage(t.Context())
	p := &Page{Map: m, Drawn: base, Faults: []string{"row 7 <x>"}, Notes: []string{"a note"},
		Ledger: nav.Ledger{{What: "heights", Name: "Walk", Count: 4, Why: "doesn't give the location"}}}
	var b bytes.Buffer
	if err := p.Write(&b); err != nil {
		t.Fatal(err)
	}
	page := b.String()
	for _, part := range []string{"Isles &lt;/title&gt;", `\u003ci\u003esharp\u003c/i\u003e \u0026 deep`,
		"<td>spikes</td><td>3</td>", "row 7 &lt;x&gt;", "<td>heights</td><td>Walk</td><td>4</td>",
		"2 waypoints, 1 route, 1 track, 1 area",
		`data-theme="dark"`, `data-layer="removed"`, `id="profile"`, `aria-live="polite"`, sum(pageScript)[8:20],
		sum(pageStyle)[8:20]} {
		if !strings.Contains(page, part) {
			t.Errorf("%q is not in the page", part)
		}
	}
	if !strings.Contains(page, "<script>"+pageScript+"</script>") ||
		!strings.Contains(page, "<style>"+pageStyle+"</style>") {
		t.Error("style or script are not as they were summed")
	}
	for _, bad := range []string{"<i>sharp", "http://", "https://", "Rock <b>"} {
		if strings.Contains(strings.ReplaceAll(page, "http://www.w3.org", ""), bad) {
			t.Errorf("%q is in the page", bad)
		}
	}
}

// A recording with many points to a pixel is drawn with fewer, none of which leaves the line; also where the projection
// enlarges most.
func TestDense(t *testing.T) {
	for name, lat := range map[string]float64{"isles": -47.6, "north": 83, "line": 0} {
		var points []nav.Point
		for i := range 4000 {
			a := float64(i) / 300
			points = append(points, nav.At(lat+0.001*a*math.Sin(a), 11.3+0.002*a*math.Cos(a)))
		}
		if name == "north" { // a map of the world
			points = append(points, nav.At(-60, 60), nav.At(0, 140))
		}
		d := &drawing{Map: &Map{}, scene: &Scene{Width: 800, Height: 600}}
		d.view = fit(Rect{0, 0, 800, 600}, 0, func(visit func(lat, lon float64)) {
			for _, p := range points {
				visit(p.Lat, p.Lon)
			}
		})
		if d.view.world != (name == "north") {
			t.Errorf("%s: a map of the world: %v", name, d.view.world)
		}
		ops := d.path(points, false, nil)
		if len(ops) > len(points)*2/3 {
			t.Errorf("%s: %d points are drawn with %d", name, len(points), len(ops))
		}
		for i := range points {
			p := d.view.place(points[i].Lat, points[i].Lon)
			if !d.view.frame.Has(p) {
				t.Fatalf("%s: point %d is not in the frame", name, i)
			}
			nearest := math.Inf(1)
			for _, op := range ops {
				nearest = min(nearest, math.Hypot(op.X-p.X, op.Y-p.Y))
			}
			if nearest > 1.5 { // the corner of a pixel away from where it was drawn
				t.Fatalf("%s: point %d lies %.2f pixels from what is drawn", name, i, nearest)
			}
		}
	}
}

// The grid on paper is in the coordinates that one reads off: its lines stand where UTM has them, and their zone is
// named.
func TestUTMGrid(t *testing.T) {
	m := &Map{Data: spread(6), Width: 1123, Height: 794, Theme: Themes["print"], Grid: geodesy.Grid}
	d, _ := m.Draw(t.Context())
	label := regexp.MustCompile(`^(\d+) m([EN])$`)
	east, north, imprint := 0, 0, false
	for i := range d.Scene.Shapes {
		s := &d.Scene.Shapes[i]
		imprint = imprint || strings.Contains(s.Text, "grid: UTM 32 south")
		x := label.FindStringSubmatch(s.Text)
		if x == nil {
			continue
		}
		want, _ := strconv.ParseFloat(x[1], 64)
		at := XY{s.At.X - 3, s.At.Y + 6} // where the line meets the lower edge
		if x[2] == "N" {
			at = XY{s.At.X - 5, s.At.Y + 4}
		}
		e, n := geodesy.ZoneOf(-47.6, 11.3).Forward(d.view.position(at))
		got := e
		if x[2] == "N" {
			got = n
			north++
		} else {
			east++
		}
		if math.Abs(got-want) > 2*d.metres {
			t.Errorf("the line %s stands at %.0f", s.Text, got)
		}
	}
	if east < 2 || north < 2 || !imprint {
		t.Errorf("%d eastings, %d northings, zone named: %v", east, north, imprint)
	}
}
