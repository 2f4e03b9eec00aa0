package nav

import (
	"strings"
	"testing"

	"gyrolith/core/instant"
)

func mark(name, group string, lat, lon float64) Waypoint {
	w := Waypoint{Point: At(lat, lon)}
	w.Name, w.Group = name, group
	return w
}

func isles() *Dataset {
	d := &Dataset{Waypoints: []Waypoint{
		mark("Rock 1", "Rock heads", -47.55, 11.30), mark("Rock 2", "Rock heads", -47.56, 11.31),
		mark("Sorrel Landing", "Landings/West", -47.60, 11.28), mark("Fiji side", "", 0, 179.5),
		mark("Other side", "", 0, -179.5)}}
	r := Route{Points: []Waypoint{mark("a", "", -47.5, 11.2), mark("b", "", -47.7, 11.4)}}
	r.Name = "Launch run"
	d.Routes = append(d.Routes, r)
	t := Track{Item: Item{Name: "Walk"}}
	var seg Segment
	for i := range 10 {
		p := At(-47.6, 11.30+float64(i)/100)
		p.SetTime(int64(i)*1e9, instant.Seconds)
		seg.Points = append(seg.Points, p)
	}
	t.Segments = append(t.Segments, seg)
	d.Tracks = append(d.Tracks, t)
	a := Area{Item: Item{Name: "Nesting"}, Outline: []Point{At(-48, 11), At(-48, 12), At(-47, 12), At(-47, 11)}}
	d.Areas = append(d.Areas, a)
	return d
}

// Merging keeps the description of the first file that has one, and counts what the readers said together.
func TestMerge(t *testing.T) {
	a, b := isles(), isles()
	b.Meta.Name = "Second"
	a.Note("times", "x", 3, 1)
	b.Note("times", "x", 5, 1)
	b.Note("times", "y", 7, 1)
	a.Merge(b)
	if a.Meta.Name != "Second" || len(a.Waypoints) != 10 || a.Points() != 42 {
		t.Errorf("%q, %v, %d points", a.Meta.Name, a.Counts(), a.Points())
	}
	if len(a.Problems) != 2 || a.Problems[0].Count != 2 || a.Problems[0].Line != 3 {
		t.Errorf("problems %+v", a.Problems)
	}
	c := isles()
	c.Meta.Name = "Third"
	a.Merge(c)
	if a.Meta.Name != "Second" {
		t.Errorf("the name is now %q", a.Meta.Name)
	}
}

// A thousand equal losses are one line of the ledger.
func TestLedgerJoins(t *testing.T) {
	var l Ledger
	for range 1000 {
		l.Lost(Tracks, "Walk", "times", "because", 1)
	}
	l.Lost(Tracks, "Other", "times", "because", 1)
	l.Changed(Waypoints, "A", "name", "A", "B", "")
	l.Changed(Waypoints, "A", "name", "A", "B", "")
	if len(l) != 4 || l[0].Count != 1000 || l.Losses() != 2 {
		t.Errorf("%+v", l)
	}
	l[0].Asked = true
	if l.Losses() != 1 {
		t.Error("what was asked for is a loss")
	}
}

func TestColour(t *testing.T) {
	for text, want := range map[string]Colour{"#c8102e": RGB(0xc8, 0x10, 0x2e), "#C8102E80": {0xc8, 0x10, 0x2e, 0x80,
		true}} {
		c, ok := ParseColour(text)
		if !ok || c != want || c.String() != strings.ToLower(text) {
			t.Errorf("%s: %+v %v %s", text, c, ok, c)
		}
	}
	for _, text := range []string{"", "c8102e", "#c8102", "#c8102g", "reddish", "#"} {
		if _, ok := ParseColour(text); ok {
			t.Errorf("%q is taken", text)
		}
	}
	for text, want := range map[string]Colour{"#f0a": RGB(255, 0, 170), "red": RGB(255, 0, 0),
		"Gelb": RGB(255, 255, 0), "blå": RGB(0, 0, 255),
		" grün ": RGB(0, 128, 0)} {
		if c, ok := ParseColour(text); !ok || c != want {
			t.Errorf("%q: %+v %v", text, c, ok)
		}
	}
	if (Colour{}).String() != "" {
		t.Error("a colour that is not set is written")
	}
}

func TestSummary(t *testing.T) {
	d := isles()
	s := d.Tracks[0].Summary()
	// Nine hundredths of a degree of longitude at 47.6° S, by the length of the parallel: 75,190 m a degree.
	if s.Points != 10 || s.Times != 10 || s.Heights != 0 || s.Length < 6760 || s.Length > 6775 {
		t.Errorf("%+v", s)
	}
	a := d.Areas[0].Summary()
	if a.Points != 4 || a.Length < 370e3 || a.Length > 380e3 {
		t.Errorf("around the area: %+v", a)
	}
	var both Summary
	both.Join(s)
	both.Join(a)
	if both.Points != 14 || both.Times != 10 || both.First.UnixNano() != 0 || both.Last.UnixNano() != 9e9 {
		t.Errorf("together %+v", both)
	}
}

// What is done to a clone is not done to what it was made of.
func TestClone(t *testing.T) {
	s := Segment{Points: []Point{At(1, 2), At(3, 4)}}
	s.Attach(&s.Points[0], Detail{Values: []Field{{Key: "speed", Value: "1"}}})
	d := &Dataset{Waypoints: []Waypoint{{Item: Item{Name: "W"}, Point: At(5, 6)}},
		Routes: []Route{{Points: []Waypoint{{Point: At(7, 8)}}}},
		Tracks: []Track{{Segments: []Segment{s}}}, Areas: []Area{{Outline: []Point{At(0, 0), At(0, 1), At(1, 1)},
			Holes: [][]Point{{At(0.1, 0.1)}}}}}
	c := d.Clone()
	c.Waypoints[0].Name, c.Waypoints[0].Lat = "changed", 50
	c.Routes[0].Points[0].Lat = 50
	c.Tracks[0].Segments[0].Points[1].Lat = 50
	c.Tracks[0].Segments = append(c.Tracks[0].Segments, Segment{})
	c.Areas[0].Outline[0].Lat, c.Areas[0].Holes[0][0].Lat = 50, 50
	c.Note("code", "text", 1, 1)
	c.Tell("code", "how it was read")
	if d.Waypoints[0].Name != "W" || d.Waypoints[0].Lat != 5 || d.Routes[0].Points[0].Lat != 7 ||
		d.Tracks[0].Segments[0].Points[1].Lat != 3 || len(d.Tracks[0].Segments) != 1 ||
		d.Areas[0].Outline[0].Lat != 0 || d.Areas[0].Holes[0][0].Lat != 0.1 || len(d.Problems) != 0 {
		t.Errorf("%+v", d)
	}
	if x := c.Tracks[0].Segments[0].Detail(&c.Tracks[0].Segments[0].Points[0]); x == nil || x.Values[0].Value != "1" {
		t.Error("the details are lost")
	}
	if len(c.Problems) != 2 || c.Problems[0].Info || !c.Problems[1].Info {
		t.Errorf("%+v", c.Problems)
	}
}
