package picture

import (
	"math"
	"strings"
	"testing"

	"gyrolith/core/nav"
)

func TestNice(t *testing.T) {
	for _, c := range []struct {
		low, high float64
		want      int
		first     float64
		most      int
	}{{0, 100, 5, 0, 11}, {3, 239, 4, 50, 10}, {-5, 5, 2, -5, 6}, {0, 0.7, 3, 0, 8}} {
		got := nice(c.low, c.high, c.want)
		if len(got) < c.want-1 || len(got) > c.most || math.Abs(got[0]-c.first) > 1e-9 {
			t.Errorf("%v to %v: %v", c.low, c.high, got)
		}
		for i := 1; i < len(got); i++ {
			if math.Abs((got[i]-got[i-1])-(got[1]-got[0])) > 1e-9 {
				t.Errorf("uneven: %v", got)
			}
		}
	}
	if got := nice(5, 5, 3); len(got) > 1 {
		t.Errorf("of nothing: %v", got)
	}
}

// A label finds another side where one is taken, and none where all are.
func TestPlacer(t *testing.T) {
	p := newPlacer(Rect{0, 0, 300, 100})
	at := XY{150, 50}
	p.take(Rect{145, 45, 10, 10})
	sides := map[float64]int{}
	placed := 0
	for range 20 {
		if _, anchor, ok := p.beside("name", at, 8, 12, false); ok {
			sides[anchor]++
			placed++
		}
	}
	if placed < 4 || placed == 20 || sides[0] == 0 || sides[1] == 0 || sides[0.5] == 0 {
		t.Errorf("%d placed, %v", placed, sides)
	}
	for i, a := range p.taken {
		for _, b := range p.taken[:i] {
			if a.meets(b) {
				t.Errorf("%v and %v", a, b)
			}
		}
	}
	if _, _, ok := p.beside("name", XY{299, 99}, 8, 12, false); ok {
		if last := p.taken[len(p.taken)-1]; last.X+last.W > 300 || last.Y+last.H > 100 {
			t.Errorf("beyond the frame: %v", last)
		}
	}
}

func TestRects(t *testing.T) {
	a := Rect{0, 0, 10, 10}
	if !a.meets(Rect{5, 5, 10, 10}) || a.meets(Rect{10, 0, 5, 5}) || !a.Has(XY{10, 10}) || a.Has(XY{10.1, 5}) {
		t.Error("what meets and what has")
	}
	var box Rect
	for _, p := range []XY{{5, 5}, {1, 9}, {7, 2}} {
		grow(&box, p)
	}
	if box.X != 1 || box.Y != 2 || math.Abs(box.W-6) > 0.02 || math.Abs(box.H-7) > 0.02 {
		t.Errorf("%v", box)
	}
}

func TestPaths(t *testing.T) {
	ops := parsePath("M1 2L3 4.5O7 8 2Z")
	if len(ops) != 4 || ops[1].Y != 4.5 || ops[2].R != 2 || ops[3].Kind != 'Z' {
		t.Errorf("%+v", ops)
	}
	if got := pathData([]Op{moveTo(1, 2), lineTo(3.14, 4), closed, circle(10, 10, 5)}); got != "M1 2L3.1 4 Z M5 10a5 5 0 "+
		"1 0 10 0a5 5 0 1 0 -10 0Z" {
		t.Errorf("%s", got)
	}
	d := &drawing{Map: &Map{}, scene: &Scene{Width: 100, Height: 100}, view: &view{projection: &projection{},
		frame: Rect{0, 0, 100, 100}, perPx: 1}}
	d.view.set()
	if got := d.path([]nav.Point{nav.At(0, 0)}, false, nil); len(got) != 1 {
		t.Errorf("a line of one point: %v", got)
	}
	if got := d.path(nil, true, nil); len(got) != 0 {
		t.Errorf("an outline of none: %v", got)
	}
}

// Fault marks differ, so that print tells them apart; what a fault is comes from the field, the type or the group.
func TestFaultMarks(t *testing.T) {
	seen := map[string]bool{}
	for n := range 6 {
		text := pathData(faultMark(n, XY{0, 0}, 4))
		if seen[text] {
			t.Errorf("mark %d is there twice", n)
		}
		seen[text] = true
	}
	for want, w := range map[string]nav.Waypoint{"spikes": {Item: nav.Item{Fields: []nav.Field{{Key: "fault",
		Value: "spikes"}}, Group: "other"}}, "stops": {Item: nav.Item{Type: "stops"}},
		"gaps": {Item: nav.Item{Group: "gaps"}}, "removed": {}} {
		if got := faultOf(&w); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

// Heights between the points of a profile are interpolated, and there is none where nothing is known.
func TestColumns(t *testing.T) {
	p := &Profile{Samples: []Sample{{X: 0, Height: 0, Distance: 0}, {X: 10, Height: 100, Distance: 50},
		{X: 20, Height: math.NaN(), Distance: 100}, {X: 30, Height: 10, Distance: 150}}}
	c := columnsOf(p, Rect{0, 0, 30, 10})
	if len(c) != 30 || math.Abs(c[5].height-50) > 1e-9 || math.Abs(c[5].along-25) > 1e-9 || !math.IsNaN(c[15].height) ||
		!math.IsNaN(c[25].height) {
		t.Errorf("%v", c)
	}
}

// Hostile and long names are cut for a terminal and a legend.
func TestShortNames(t *testing.T) {
	if got := visible("a\x1b[0m\u202eb" + strings.Repeat("x", 50)); strings.ContainsAny(got, "\x1b\u202e") ||
		len([]rune(got)) > 24 {
		t.Errorf("%q", got)
	}
	if got := clip(strings.Repeat("ä", 60)); len([]rune(got)) != 34 {
		t.Errorf("%q", got)
	}
	for m, want := range map[float64]string{12: "12 m", 1234: "1200 m", 5500: "5.5 km"} {
		if got := lengthAcross(m); got != want {
			t.Errorf("%v is %q, want %q", m, got, want)
		}
	}
}
