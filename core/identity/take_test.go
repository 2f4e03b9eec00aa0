package identity

import (
	"fmt"
	"strings"
	"testing"

	"gyrolith/core/decimal"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

// full is a dataset with an item of each kind of which everything is said, in one of two ways.
func full(way int) *nav.Dataset {
	v := float64(way)
	item := func(kind string) nav.Item {
		say := func(what string) string { return fmt.Sprintf("%s of %s %d", what, kind, way) }
		return nav.Item{ID: say("id"), Name: say("name"), Comment: say("comment"), Desc: say("description"),
			Source: say("source"), Type: say("type"), Number: fmt.Sprint(way), Group: say("group"),
			Links: []nav.Link{{Href: say("link"), Text: say("text")}},
			Style: nav.Style{Symbol: say("symbol"), Colour: nav.RGB(uint8(way), 2, 3), Width: 1 + v,
				Fill: nav.RGB(4, uint8(way), 6), NoFill: way == 1, NoOutline: way == 2, Icon: say("icon"), IconScale: 2 + v},
			Fields: []nav.Field{{Key: "depth", Value: fmt.Sprint(way)}, {Key: "only " + fmt.Sprint(way), Value: "x"}},
			Kept:   []nav.Kept{{Format: "gpx", Text: say("kept")}}}
	}
	place := func(i int) nav.Point {
		p := nav.At(-47.6+v/100+float64(i)/1000, 11.3)
		p.SetHeight(10*v+float64(i), decimal.PrecisionOf(1), nav.MeanSeaLevel)
		p.SetTime(int64(v*1e12)+int64(i)*1e9, instant.Seconds)
		return p
	}
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: item("waypoint"), Point: place(0)}},
		Routes: []nav.Route{{Item: item("route")}}, Tracks: []nav.Track{{Item: item("track")}},
		Areas: []nav.Area{{Item: item("area")}}}
	var s nav.Segment
	for i := range 3 + way {
		d.Routes[0].Points = append(d.Routes[0].Points, nav.Waypoint{Item: item(fmt.Sprint("point ", i)), Point: place(i)})
		s.Points = append(s.Points, place(i))
		d.Areas[0].Outline = append(d.Areas[0].Outline, nav.At(-47-v, 11+float64(i*i)))
	}
	s.Attach(&s.Points[1], nav.Detail{Values: []nav.Field{{Key: "hr", Value: fmt.Sprint(100 + way)}}})
	d.Tracks[0].Segments = []nav.Segment{s}
	return d
}

// values are those of all properties of a thing that it or another has.
func values(t, other *Thing) map[string]string {
	out := map[string]string{}
	for _, p := range Properties(t, other) {
		out[p.Word] = p.Get(t)
	}
	return out
}

// Whatever is said of an item can be taken over from another by itself: then it is said of both alike, and nothing else
// has changed. The other one stays as it is.
func TestTakeEveryProperty(t *testing.T) {
	seen := map[string]bool{}
	for kind := range nav.Kinds {
		other := All(full(2))[kind]
		before := values(&other, &other)
		for _, p := range Properties(&All(full(1))[kind], &other) {
			d := full(1)
			one := All(d)[kind]
			old := values(&one, &other)
			if p.Get(&one) == p.Get(&other) {
				t.Errorf("kind %d: %s is the same in both", kind, p.Word)
			}
			p.Take(&one, &other)
			if p.Get(&one) != p.Get(&other) || p.Show(&one) != p.Show(&other) || p.Sum(&one) != p.Sum(&other) {
				t.Errorf("kind %d: %s was taken and is %q, not %q", kind, p.Word, p.Get(&one), p.Get(&other))
			}
			for word, value := range values(&one, &other) {
				if word != p.Word && value != old[word] && !(p.Word == Course && strings.HasPrefix(word, "details")) {
					t.Errorf("kind %d: with %s, %s became %q, was %q", kind, p.Word, word, value, old[word])
				}
			}
			seen[p.Word] = true
		}
		for word, value := range values(&other, &other) {
			if value != before[word] {
				t.Errorf("kind %d: what was taken from has %s changed", kind, word)
			}
		}
	}
	for _, word := range Words() {
		if !seen[word] && word != "fields" {
			t.Errorf("%s was never taken", word)
		}
	}
	if !seen[FieldWord+"depth"] || !seen[FieldWord+"only 1"] || !seen[FieldWord+"only 2"] {
		t.Errorf("fields weren't taken: %v", seen)
	}
}

// A value that is written otherwise is the same; one that differs has another sum, and none has none.
func TestSameValues(t *testing.T) {
	field := func(key, value string) *Thing {
		w := mark("", "A", -47, 11)
		w.Fields = []nav.Field{{Key: key, Value: value}}
		return &marks(w)[0]
	}
	for _, c := range []struct {
		key, a, b string
		same      bool
	}{
		{"depth", "12.50", "12.5", true}, {"depth", "12.5", "12.51", false}, {"depth", "007", "7", false},
		{"depth", "", "0", false}, {"note", "Bad rock", "bad rock", false},
		{nav.FieldCeiling, "1500ft", "457.2m", true}, {nav.FieldCeiling, "1500ft", "1501ft", false},
		{nav.FieldFrom, "2026-03-14T05:30:00Z", "2026-03-14T07:30:00+02:00", true},
		{nav.FieldFrom, "2026-03-14T05:30:00Z", "2026-03-14T05:30:01Z", false},
	} {
		p := fieldProperty(c.key)
		a, b := field(c.key, c.a), field(c.key, c.b)
		if same := p.Get(a) == p.Get(b); same != c.same || same != (p.Sum(a) == p.Sum(b)) {
			t.Errorf("%s: %q and %q are the same: %v", c.key, c.a, c.b, same)
		}
		if p.Show(a) != c.a {
			t.Errorf("%s is shown as %q", c.a, p.Show(a))
		}
	}
	if p := fieldProperty("x"); p.Get(nil) != "" || p.Show(nil) != "" || p.Sum(nil) != "" || SumOf("") != "" {
		t.Error("nothing has a value")
	}
}
