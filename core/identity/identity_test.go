package identity

import (
	"fmt"
	"testing"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func mark(id, name string, lat, lon float64) nav.Waypoint {
	w := nav.Waypoint{Point: nav.At(lat, lon)}
	w.ID, w.Name = id, name
	return w
}

func marks(list ...nav.Waypoint) []Thing { return Things(&nav.Dataset{Waypoints: list}, nav.Waypoints) }

// An id outlasts name and place, a name at its place outlasts an order, and what could be several is not guessed.
func TestMatch(t *testing.T) {
	const metre = 1.0 / 111_132 // degrees of latitude
	for _, c := range []struct {
		name      string
		a, b      []Thing
		want      []int
		ambiguous int
	}{
		{"an id", marks(mark("7", "Rock", -47, 11)), marks(mark("8", "Rock", -47, 11), mark("7", "Wreck", -46, 12)),
			[]int{1}, 0},
		{"an id that two have says nothing", marks(mark("7", "A", -47, 11), mark("7", "B", -47.5, 11)),
			marks(mark("7", "B", -47.5, 11), mark("7", "A", -47, 11)), []int{1, 0}, 0},
		{"a name at its place", marks(mark("", "Rock", -47, 11), mark("", "Rock", -47.1, 11)),
			marks(mark("", "Rock", -47.1, 11), mark("", "Rock", -47+3*metre, 11)), []int{1, 0}, 0},
		{"the nearer of two", marks(mark("", "Rock", -47, 11), mark("", "Rock", -47+6*metre, 11)),
			marks(mark("", "Rock", -47+5*metre, 11), mark("", "Rock", -47+1*metre, 11)), []int{1, 0}, 0},
		{"a name that nothing else has, far away", marks(mark("", "Camp", -47, 11)), marks(mark("", "Camp", -46, 12)),
			[]int{0}, 0},
		{"a name that two have, far away", marks(mark("", "Rock", -47, 11)),
			marks(mark("", "Rock", -46, 12), mark("", "Rock", -46, 13)), []int{-1}, 1},
		{"a place", marks(mark("", "Rock 3", -47, 11)), marks(mark("", "Bad rock", -47, 11)), []int{0}, 0},
		{"a place near by is another", marks(mark("", "Mooring 12", -47, 11)), marks(mark("", "Mooring 13", -47+3*metre, 11)),
			[]int{-1}, 0},
		{"a place where two stand", marks(mark("", "A", -47, 11)),
			marks(mark("", "B", -47, 11), mark("", "C", -47, 11)), []int{-1}, 1},
		{"no name, another place", marks(mark("", "", -47, 11)), marks(mark("", "", -46, 11)), []int{-1}, 0},
	} {
		m := Match(c.a, c.b, 0)
		if fmt.Sprint(m.First) != fmt.Sprint(c.want) || len(m.Ambiguous[0]) != c.ambiguous {
			t.Errorf("%s: %v, %d ambiguous; want %v, %d", c.name, m.First, len(m.Ambiguous[0]), c.want, c.ambiguous)
		}
		for i, j := range m.First {
			if j >= 0 && m.Second[j] != i {
				t.Errorf("%s: %v and %v do not agree", c.name, m.First, m.Second)
			}
		}
	}
}

func walk(name string, from, n int) nav.Track {
	tr := nav.Track{Item: nav.Item{Name: name}, Segments: make([]nav.Segment, 1)}
	for i := from; i < from+n; i++ {
		p := nav.At(-47, 11+float64(i)/1000)
		p.SetTime(int64(i)*1e9, instant.Seconds)
		tr.Segments[0].Points = append(tr.Segments[0].Points, p)
	}
	return tr
}

// Two days' recordings of one name are two, and one that was cut is the same.
func TestMatchRecordings(t *testing.T) {
	tracks := func(list ...nav.Track) []Thing { return Things(&nav.Dataset{Tracks: list}, nav.Tracks) }
	for _, c := range []struct {
		name string
		a, b nav.Track
		same bool
	}{
		{"another day", walk("Walk", 0, 10), walk("Walk", 500, 10), false},
		{"cut at its beginning", walk("Walk", 0, 30), walk("Walk", 5, 25), true},
		{"without a name, cut", walk("", 0, 30), walk("", 5, 25), true},
		{"without a name, elsewhere", walk("", 0, 30), walk("", 28, 30), false},
	} {
		if got := Match(tracks(c.a), tracks(c.b), 0).First[0] == 0; got != c.same {
			t.Errorf("%s: the same: %v, want %v", c.name, got, c.same)
		}
	}
}

// Every property that can be read can be taken over, and then its value is the other's.
func TestProperties(t *testing.T) {
	d := &nav.Dataset{Waypoints: []nav.Waypoint{mark("7", "Rock", -47, 11)},
		Routes: []nav.Route{{Item: nav.Item{Name: "R"}, Points: []nav.Waypoint{mark("", "A", -47, 11)}}},
		Tracks: []nav.Track{walk("Walk", 0, 3)}, Areas: []nav.Area{{Outline: walk("", 0, 4).Segments[0].Points}}}
	d.Waypoints[0].SetHeight(3.5, 1, nav.MeanSeaLevel)
	d.Waypoints[0].SetTime(1e9, instant.Seconds)
	d.Each(func(_ nav.Kind, it *nav.Item) {
		it.ID, it.Desc, it.Comment, it.Type, it.Source, it.Number, it.Group = "7", "d", "c", "t", "s", "4", "g/h"
		it.Links = []nav.Link{{Href: "https://veldrin.example/"}}
		it.Style = nav.Style{Symbol: "rock", Icon: "i.png", IconScale: 2, Colour: nav.RGB(1, 2, 3), Width: 2,
			Fill: nav.RGB(4, 5, 6), NoFill: true, NoOutline: true}
		it.Fields = []nav.Field{{Key: "depth", Value: "4.50"}, {Key: "depth", Value: "5"}}
		it.Kept = []nav.Kept{{Format: "kml", Text: "<x/>"}}
	})
	for _, from := range All(d) {
		empty := &nav.Dataset{Waypoints: make([]nav.Waypoint, 1), Routes: make([]nav.Route, 1), Tracks: make([]nav.Track, 1),
			Areas: make([]nav.Area, 1)}
		to := Things(empty, from.Kind)[0]
		for _, p := range Properties(&from) {
			if p.Get(&from) == "" {
				t.Errorf("%v has no %s", from.Kind, p.Word)
			}
			p.Take(&to, &from)
			if p.Get(&to) != p.Get(&from) || p.Sum(&to) != p.Sum(&from) || p.Show(&to) == "" {
				t.Errorf("%v: %s is %q, want %q", from.Kind, p.Word, p.Get(&to), p.Get(&from))
			}
		}
		if Of(&to) != "7" {
			t.Errorf("%v: it is %q", from.Kind, Of(&to))
		}
	}
	a, b := marks(mark("", "Rock", -47, 11)), marks(mark("", "Rock", -47, 11.0001))
	if Of(&a[0]) == Of(&b[0]) || Of(&a[0]) != Of(&marks(mark("", "Rock", -47, 11))[0]) {
		t.Error("made identities do not tell things apart")
	}
}

// Two recordings of one name are one where their fixes are, whatever they are called; a name alone, even with the same
// start, makes no two things one where neither list comes from the other.
func TestUnrelated(t *testing.T) {
	recorded := func(name string, lat, lon float64, from, n int) nav.Track {
		tr := nav.Track{Item: nav.Item{Name: name}, Segments: make([]nav.Segment, 1)}
		for i := from; i < from+n; i++ {
			p := nav.At(lat+float64(i)*1e-4, lon)
			p.SetTime(int64(1e18)+int64(i)*1e9, instant.Seconds)
			tr.Segments[0].Points = append(tr.Segments[0].Points, p)
		}
		return tr
	}
	tracks := func(list ...nav.Track) []Thing { return Things(&nav.Dataset{Tracks: list}, nav.Tracks) }
	later := recorded("Log 1", -47, 11, 0, 50)
	for i := range later.Segments[0].Points {
		p := &later.Segments[0].Points[i]
		p.SetTime(p.UnixNano()+86400e9, instant.Seconds)
	}
	for _, c := range []struct {
		name      string
		a, b      []Thing
		want      int
		ambiguous int
	}{
		{"another place at the same times", tracks(recorded("Log 1", -47, 11, 0, 50)),
			tracks(recorded("Log 1", -46.5, 11, 0, 50)), -1, 0},
		{"another day on the same way", tracks(recorded("Log 1", -47, 11, 0, 50)), tracks(later), -1, 0},
		{"the same, cut", tracks(recorded("Log 1", -47, 11, 0, 50)), tracks(recorded("Log 1", -47, 11, 0, 30)), 0, 0},
		{"the same under another name", tracks(recorded("Log 1", -47, 11, 0, 50)),
			tracks(recorded("Walk", -47, 11, 0, 50)), 0, 0},
		{"a mark of one name far away", marks(mark("", "Camp", -47, 11)), marks(mark("", "Camp", -46, 12)), -1, 1},
		{"a mark at its place", marks(mark("", "Camp", -47, 11)), marks(mark("", "Camp", -47.00001, 11)), 0, 0},
		{"an id", marks(mark("7", "Camp", -47, 11)), marks(mark("7", "Camp", -46, 12)), 0, 0},
	} {
		m := MatchUnrelated(c.a, c.b, 0)
		if m.First[0] != c.want || len(m.Ambiguous[0]) != c.ambiguous {
			t.Errorf("%s: %v, %v ambiguous", c.name, m.First, m.Ambiguous)
		}
	}
}
