package choose

import (
	"fmt"
	"testing"
	"unsafe"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func waypoint(name, group string, lat, lon float64) nav.Waypoint {
	w := nav.Waypoint{Point: nav.At(lat, lon)}
	w.Name, w.Group = name, group
	return w
}

func sample() *nav.Dataset {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{
		waypoint("Rock 1", "Rock heads", -47.55, 11.30), waypoint("Rock 2", "Rock heads", -47.56, 11.31),
		waypoint("Sorrel Landing", "Landings/West", -47.60, 11.28), waypoint("Fiji side", "", 0, 179.5),
		waypoint("Other side", "", 0, -179.5)}}
	r := nav.Route{Points: []nav.Waypoint{waypoint("a", "", -47.5, 11.2), waypoint("b", "", -47.7, 11.4)}}
	r.Name = "Launch run"
	d.Routes = append(d.Routes, r)
	t := nav.Track{Item: nav.Item{Name: "Walk"}}
	var seg nav.Segment
	for i := range 10 {
		p := nav.At(-47.6, 11.30+float64(i)/100)
		p.SetTime(int64(i)*1e9, instant.Seconds)
		seg.Points = append(seg.Points, p)
	}
	t.Segments = append(t.Segments, seg)
	d.Tracks = append(d.Tracks, t)
	a := nav.Area{
		Item:    nav.Item{Name: "Nesting"},
		Outline: []nav.Point{nav.At(-48, 11), nav.At(-48, 12), nav.At(-47, 12), nav.At(-47, 11)},
	}
	d.Areas = append(d.Areas, a)
	return d
}

func choose(t *testing.T, take, leave []string, box string) *nav.Dataset {
	t.Helper()
	var s Selection
	for _, text := range take {
		c, err := Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		s.Take = append(s.Take, c)
	}
	for _, text := range leave {
		c, err := Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		s.Leave = append(s.Leave, c)
	}
	if box != "" {
		b, err := nav.ParseBox(box)
		if err != nil {
			t.Fatal(err)
		}
		s.Inside = b
	}
	d := sample()
	if err := s.Apply(d); err != nil && err != ErrNothing {
		t.Fatal(err)
	}
	return d
}

func TestSelection(t *testing.T) {
	for _, c := range []struct {
		take, leave []string
		box         string
		want        string // waypoints, routes, tracks, areas, points
	}{
		{nil, nil, "", "[5 1 1 1] 21"},
		{[]string{"waypoints"}, nil, "", "[5 0 0 0] 5"},
		{[]string{"waypoints:rock*"}, nil, "", "[2 0 0 0] 2"},
		{[]string{"waypoints:ROCK HEADS"}, nil, "", "[2 0 0 0] 2"},
		{[]string{"waypoints:Landings*"}, nil, "", "[1 0 0 0] 1"},
		{[]string{"waypoints:Landings/West/*"}, nil, "", "[1 0 0 0] 1"},
		{[]string{"all"}, []string{"tracks", "waypoints:Rock ?"}, "", "[3 1 0 1] 9"},
		{[]string{"track:walk", "area"}, nil, "", "[0 0 1 1] 14"},
		{nil, nil, "11.29,-47.57,11.32,-47.54", "[2 0 0 1] 6"},   // the box lies inside the area
		{nil, nil, "11.325,-47.61,11.355,-47.59", "[0 0 1 1] 9"}, // and the track is cut
		{nil, nil, "179,-1,-179,1", "[2 0 0 0] 2"},
		{nil, nil, "11.1,-47.9,11.25,-47.4", "[0 1 0 1] 6"},
		{[]string{"waypoints:nothing"}, nil, "", "[0 0 0 0] 0"},
	} {
		d := choose(t, c.take, c.leave, c.box)
		if got := fmt.Sprint(d.Counts(), d.Points()); got != c.want {
			t.Errorf("take %v leave %v inside %q: got %s, want %s", c.take, c.leave, c.box, got, c.want)
		}
	}
}

// A track that leaves the box and comes back is cut in two; what has no time is not since anything.
func TestCut(t *testing.T) {
	d := sample()
	d.Tracks[0].Segments[0].Points[5].Lat = -40
	s := Selection{Inside: &nav.Box{West: 11, South: -48, East: 12, North: -47}}
	if err := s.Apply(d); err != nil {
		t.Fatal(err)
	}
	if n := len(d.Tracks[0].Segments); n != 2 {
		t.Errorf("%d segments, want 2", n)
	}
	d = sample()
	since := int64(4e9)
	s = Selection{Since: &since}
	if err := s.Apply(d); err != nil {
		t.Fatal(err)
	}
	if got := fmt.Sprint(d.Counts(), d.Points()); got != "[0 0 1 0] 6" {
		t.Errorf("since: got %s", got)
	}
}

func TestBadChoices(t *testing.T) {
	for _, text := range []string{"", "rocks", "waypoints:[a", "Waypoint"} {
		if _, err := Parse(text); err == nil {
			t.Errorf("%q is taken as a choice", text)
		}
	}
	for _, text := range []string{"", "1,2,3", "1,2,3,x", "0,10,1,5", "0,-91,1,0", "-181,0,1,1", "0,0,200,1"} {
		if _, err := nav.ParseBox(text); err == nil {
			t.Errorf("%q is taken as a box", text)
		}
	}
}

func TestExtent(t *testing.T) {
	for _, c := range []struct {
		points [][2]float64
		want   nav.Box
	}{
		{[][2]float64{{-47, 11}, {-48, 12}}, nav.Box{West: 11, South: -48, East: 12, North: -47}},
		{[][2]float64{{0, 179}, {1, -179}}, nav.Box{West: 179, South: 0, East: -179, North: 1}},
		{[][2]float64{{0, 10.25}}, nav.Box{West: 10.25, South: 0, East: 10.25, North: 0}},
		{[][2]float64{{0, -180}, {0, 170}, {0, -170}}, nav.Box{West: 170, South: 0, East: -170, North: 0}},
		{[][2]float64{{0, 0}, {0, 120}, {0, -120}, {0, 60}}, nav.Box{West: -120, South: 0, East: 120, North: 0}},
	} {
		var e nav.Extent
		for _, p := range c.points {
			e.Add(p[0], p[1])
		}
		if got, ok := e.Box(); !ok || got != c.want {
			t.Errorf("%v: got %v, want %v", c.points, got, c.want)
		}
	}
}

// Ten million timed points have to live in half a gigabyte.
func TestPointSize(t *testing.T) {
	if size := unsafe.Sizeof(nav.Point{}); size > 48 {
		t.Errorf("a point takes %d bytes", size)
	}
}

// A point that nobody gave a height or a time has none.
func TestAbsentIsAbsent(t *testing.T) {
	var p nav.Point
	if p.HasHeight() || p.HasTime() || !p.Time().IsZero() {
		t.Error("the zero point has a height or a time")
	}
	_, digits, _ := decimal.Parse([]byte("12.50"))
	p.SetHeight(12.5, digits, nav.AboveEllipsoid)
	if got := string(p.AppendHeight(nil)); got != "12.50" || p.VerticalDatum() != nav.AboveEllipsoid {
		t.Errorf("height %s above %s", got, p.VerticalDatum())
	}
	p.ClearHeight()
	if p.HasHeight() {
		t.Error("the height is still there")
	}
}

func TestWrapLon(t *testing.T) {
	for _, c := range [][2]float64{{180, -180}, {-180, -180}, {190, -170}, {-190, 170}, {540, -180}, {11.3, 11.3},
		{359.5, -0.5}} {
		if got := nav.WrapLon(c[0]); got != c[1] {
			t.Errorf("WrapLon(%v) = %v, want %v", c[0], got, c[1])
		}
	}
}

// Small unrest is no climb; what is above the threshold counts whole.
func TestClimb(t *testing.T) {
	for _, c := range []struct {
		heights  []float64
		up, down float64
	}{
		{[]float64{100, 103, 99, 102, 99}, 0, 0},
		{[]float64{100, 110, 120}, 20, 0},
		{[]float64{100, 102, 104, 106, 104, 110}, 10, 0},
		{[]float64{100, 120, 117, 119, 100}, 20, 20},
		{[]float64{100, 98, 104, 103, 96}, 6, 8},
		{nil, 0, 0},
	} {
		var points []nav.Point
		for _, h := range c.heights {
			p := nav.At(0, 0)
			p.SetHeight(h, 0, nav.MeanSeaLevel)
			points = append(points, p, nav.At(0, 0))
		}
		var s nav.Summary
		s.Add(points)
		if s.Ascent != c.up || s.Descent != c.down {
			t.Errorf("%v: up %v down %v, want %v %v", c.heights, s.Ascent, s.Descent, c.up, c.down)
		}
	}
}

// An area on the other side of the earth is not in a narrow box, a box within an area is, and a route that passes
// through the box without a point in it is taken.
func TestInsideFarAndThrough(t *testing.T) {
	box := func(w, s, e, n float64) *Selection {
		return &Selection{Inside: &nav.Box{West: w, South: s, East: e, North: n}}
	}
	area := func(lon float64) nav.Area {
		return nav.Area{Outline: []nav.Point{nav.At(-3, lon-3), nav.At(-3, lon+3), nav.At(3, lon+3), nav.At(3, lon-3)}}
	}
	route := nav.Route{Points: []nav.Waypoint{{Point: nav.At(-1, 9)}, {Point: nav.At(2, 12)}}}
	for name, c := range map[string]struct {
		sel  *Selection
		d    nav.Dataset
		want int
	}{
		"the other side":       {box(0.1, -0.1, 0.2, 0.1), nav.Dataset{Areas: []nav.Area{area(180)}}, 0},
		"around the box":       {box(0.1, -0.1, 0.2, 0.1), nav.Dataset{Areas: []nav.Area{area(0)}}, 1},
		"around, far":          {box(179.9, -0.1, -179.9, 0.1), nav.Dataset{Areas: []nav.Area{area(180)}}, 1},
		"beside":               {box(10, -0.1, 10.1, 0.1), nav.Dataset{Areas: []nav.Area{area(0)}}, 0},
		"through":              {box(10, -0.5, 11, 1.5), nav.Dataset{Routes: []nav.Route{route}}, 1},
		"past":                 {box(10, 1.5, 10.5, 2), nav.Dataset{Routes: []nav.Route{route}}, 0},
		"nearly all the globe": {box(-179, -80, 179, 80), nav.Dataset{Areas: []nav.Area{area(0)}}, 1},
	} {
		c.sel.Apply(&c.d)
		if got := len(c.d.Areas) + len(c.d.Routes); got != c.want {
			t.Errorf("%s: %d taken, want %d", name, got, c.want)
		}
	}
}

// What has no time is neither since nor until anything.
func TestWithoutTimeNothingIsChosenByTime(t *testing.T) {
	for _, s := range []Selection{{Since: new(int64)}, {Until: new(int64)}} {
		d := &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(1, 2)}}}
		if err := s.Apply(d); err != ErrNothing || len(d.Waypoints) != 0 {
			t.Errorf("%+v takes a waypoint without a time (%v)", s, err)
		}
	}
}
