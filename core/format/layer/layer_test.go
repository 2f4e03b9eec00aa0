package layer

import (
	"fmt"
	"math"
	"strings"
	"testing"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func TestTypes(t *testing.T) {
	for text, want := range map[string]Type{
		"0": Integer, "-7": Integer, "12345": Integer, "1.5": Decimal, "-0.25": Decimal, "0.0": Decimal,
		// a name, or not exact in a float64
		"007": Text, "1e5": Decimal, "0.30000000000000004": Decimal, "1e-05": Decimal, "1,5": Text, "+3": Text, "1.": Text,
		".5": Text, "12345678901234567890": Text,
		"2026-03-14": Date, "2026-03-14T05:30:00Z": Time, "2026-03-14T05:30:00+02:00": Text, "2026-13-01": Text,
		"2026": Integer, "Rock": Text,
	} {
		if got, _ := typeOf(text); got != want {
			t.Errorf("%q is %v, want %v", text, got, want)
		}
	}
	var c Column
	for _, v := range []string{"1", "2.25", ""} {
		c.take(attribute{"x", v, field})
	}
	if c.Type != Decimal || c.Width != 4 || c.Decimals != 2 {
		t.Errorf("whole and decimal numbers make %+v", c)
	}
	if c.take(attribute{"x", "x", field}); c.Type != Text {
		t.Errorf("a text among numbers makes %+v", c)
	}
}

// sample has a waypoint and a track that moves 10 m to the east each second.
func sample() *nav.Dataset {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "W",
		Fields: []nav.Field{{Key: "time", Value: "mine"}}}, Point: nav.At(-47.6, 11.3)}}}
	d.Waypoints[0].SetTime(5e9, instant.Seconds)
	s := nav.Segment{}
	lat, lon := -47.6, 11.3
	for i := range 5 {
		p := nav.At(lat, lon)
		p.SetTime(int64(i)*1e9, instant.Seconds)
		s.Points = append(s.Points, p)
		lat, lon, _ = geodesy.Direct(lat, lon, 90, 10)
	}
	s.Attach(&s.Points[3], nav.Detail{Values: []nav.Field{{Key: "speed", Value: "7.5"}}})
	d.Tracks = []nav.Track{{Item: nav.Item{Name: "T", Number: "4"}, Segments: []nav.Segment{s}}}
	return d
}

func column(l *Layer, f *Feature, name string) string {
	for i, c := range l.Columns {
		if c.Name == name {
			return f.Values[i]
		}
	}
	return ""
}

// Track points have speed and course: those that were recorded, and else what follows from their neighbours.
func TestTrackPoints(t *testing.T) {
	layers, done := Of(sample(), &format.WriteOptions{TrackPoints: true}, ByKind, false)
	ledger := done.Ledger
	if len(layers) != 3 || layers[1].Name != "track_points" || layers[1].Count != 5 || ledger.Losses() != 0 {
		t.Fatalf("%d layers, %v", len(layers), ledger)
	}
	n := 0
	layers[1].Each(func(f *Feature) error {
		speed, course := column(layers[1], f, "speed"), column(layers[1], f, "course")
		want := "10"
		if n == 3 { // recorded
			want = "7.5"
		}
		if speed != want || course != "90" || column(layers[1], f, "line") != "T" ||
			column(layers[1], f, "kind") != "track point" {
			t.Errorf("point %d: speed %s, course %s, %v", n, speed, course, f.Values)
		}
		n++
		return nil
	})
	if got := column(layers[2], one(layers[2]), "item no"); got != "4" {
		t.Errorf("the number of the track is %q", got)
	}
	// A field of the data is not hidden by what is worked out.
	if got := column(layers[0], one(layers[0]), "time_2"); got != "mine" {
		t.Errorf("the field time is %q", got)
	}
}

func one(l *Layer) *Feature {
	var out Feature
	l.Each(func(f *Feature) error {
		out = Feature{Parts: f.Parts, Values: append([]string{}, f.Values...)}
		return nil
	})
	return &out
}

// What a layer can't hold is told: times and heights of lines, names of route points, what lies beyond the system.
func TestLedger(t *testing.T) {
	d := sample()
	d.Tracks[0].Segments[0].Points[1].SetHeight(5, 0, nav.MeanSeaLevel)
	d.Routes = []nav.Route{{Item: nav.Item{Name: "R"},
		Points: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(0, 0)}, {Point: nav.At(1, 1)}}},
		{Item: nav.Item{Name: "E"}}}
	d.Meta.Name = "file"
	utm, _ := crs.Find("32732")
	d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: "Far"}, Point: nav.At(10, -170)},
		nav.Waypoint{Item: nav.Item{Name: "Near"}, Point: nav.At(-47, 20)})
	layers, done := Of(d, &format.WriteOptions{System: utm}, ByGeometry, false)
	ledger := done.Ledger
	told := fmt.Sprint(append(Declare("a layer", false, nil).Losses(d, ""), ledger...))
	for _, what := range []string{"times", "heights", "names of route points", "empty route",
		"out of range", "outside of the system's area", "title of the file"} {
		if !strings.Contains(told, what) {
			t.Errorf("%s is lost in silence: %s", what, told)
		}
	}
	n := 0
	layers[0].Each(func(f *Feature) error {
		n++
		if math.IsNaN(f.Parts[0][0].X) {
			t.Error("a feature without a place")
		}
		return nil
	})
	if n != 2 { // Far is beyond the reach
		t.Errorf("%d points are written", n)
	}
}

func TestBuilder(t *testing.T) {
	d := &nav.Dataset{}
	b := NewBuilder(d, &format.ReadOptions{}, nil, []string{"NAME", "Beschreibu", "ele_ft", "time", "fill", "colour",
		"link", "count"}, []bool{false, false, true, false, false, false, false, true})
	b.Points([]Position{{X: 11.3, Y: -47.6}}, []string{"W", "text", "100", "2026-03-14T05:30:00Z", "#010203", "bluish",
		"http://a http://b", "3"}, 1)
	w := &d.Waypoints[0]
	if w.Name != "W" || w.Desc != "text" || w.Time().Year() != 2026 || w.Style.Fill != nav.RGB(1, 2, 3) ||
		len(w.Links) != 2 {
		t.Errorf("%+v", w)
	}
	if got := fmt.Sprint(w.Fields); !strings.Contains(got, "{colour bluish false true}") ||
		!strings.Contains(got, "{count 3 true false}") {
		t.Errorf("fields %s", got) // a colour that is none, and a number
	}
	b.Points([]Position{{X: 200, Y: 10}}, make([]string, 8), 2)
	b.Points([]Position{{X: math.NaN(), Y: 10}}, make([]string, 8), 3)
	b.Nothing(nav.Areas, make([]string, 8), 4)
	b.Area([][][]Position{{{{X: 1, Y: 1}, {X: 2, Y: 2}}}}, make([]string, 8), 5)
	if len(d.Rejects) != 3 || d.Rejects[0].Line != 2 || !strings.Contains(d.Rejects[0].Why, "may be projected") ||
		len(d.Areas) != 0 || len(d.Problems) == 0 {
		t.Errorf("%+v %+v", d.Rejects, d.Problems)
	}
	b.Area([][][]Position{{{{X: 0, Y: 0}, {X: 1, Y: 0}, {X: 1, Y: 1}, {X: 0, Y: 0}}},
		{{{X: 5, Y: 0}, {X: 6, Y: 0}, {X: 6, Y: 1}}}}, []string{"Twins", "", "", "", "", "", "", ""}, 6)
	if len(d.Areas) != 2 || d.Areas[0].Name != "Twins" || d.Areas[1].Whole != d.Areas[0].Whole ||
		len(d.Areas[0].Outline) != 3 {
		t.Errorf("%+v", d.Areas)
	}
	// The user knows better what a column holds.
	own := NewBuilder(&nav.Dataset{}, &format.ReadOptions{Columns: []format.Column{{Title: "label", Holds: "name"},
		{Title: "name", Holds: "field:old"}}}, nil, []string{"name", "label"}, []bool{false, false})
	own.Points([]Position{{X: 1, Y: 1}}, []string{"n", "l"}, 1)
	if it := own.d.Waypoints[0]; it.Name != "l" || fmt.Sprint(it.Fields) != "[{old n false true}]" {
		t.Errorf("%+v", it)
	}
}

// The system is the user's, the file's, or WGS 84, and it is said which.
func TestSystemOf(t *testing.T) {
	utm, _ := crs.Find("32732")
	etrs, _ := crs.Find("25832")
	unknown, _ := crs.Find("4610")
	d := &nav.Dataset{}
	if s, err := SystemOf(d, &format.ReadOptions{}, nil, "x"); s != nil || err != nil || len(d.Problems) != 0 {
		t.Errorf("%v %v %v", s, err, d.Problems)
	}
	if s, err := SystemOf(d, &format.ReadOptions{}, etrs, "its .prj"); s != etrs || err != nil ||
		!strings.Contains(d.Problems[0].Text, "EPSG:25832") {
		t.Errorf("%v %v %v", s, err, d.Problems)
	}
	if s, _ := SystemOf(d, &format.ReadOptions{System: utm}, etrs, "its .prj"); s != utm ||
		!strings.Contains(d.Problems[1].Text, "is used") {
		t.Errorf("%v %v", s, d.Problems)
	}
	if _, err := SystemOf(d, &format.ReadOptions{}, unknown, "x"); err == nil ||
		advice.Of(err).Code != advice.NameShiftIn {
		t.Errorf("%v", err)
	}
}
