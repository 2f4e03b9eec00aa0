package merge

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"gyrolith/core/instant"
	"gyrolith/core/nav"
)

func mark(name string, lat float64, more ...func(*nav.Waypoint)) nav.Waypoint {
	w := nav.Waypoint{Point: nav.At(lat, 11)}
	w.Name = name
	for _, f := range more {
		f(&w)
	}
	return w
}

func list(marks ...nav.Waypoint) *nav.Dataset { return &nav.Dataset{Waypoints: marks} }

func desc(text string) func(*nav.Waypoint) { return func(w *nav.Waypoint) { w.Desc = text } }
func field(key, value string) func(*nav.Waypoint) {
	return func(w *nav.Waypoint) { w.Fields = append(w.Fields, nav.Field{Key: key, Value: value}) }
}
func symbol(word string) func(*nav.Waypoint) { return func(w *nav.Waypoint) { w.Style.Symbol = word } }

// words says what is in a list: names, latitudes, descriptions and fields.
func words(d *nav.Dataset) string {
	var out []string
	for _, w := range d.Waypoints {
		s := fmt.Sprintf("%s %g %s %s", w.Name, w.Lat, w.Style.Symbol, w.Desc)
		for _, f := range w.Fields {
			s += " " + f.Key + "=" + f.Value
		}
		out = append(out, strings.Join(strings.Fields(s), " "))
	}
	slices.Sort(out)
	return strings.Join(out, "; ")
}

func told(r *Report) string {
	var out []string
	for word, list := range map[string][]Change{"added": r.Added, "removed": r.Removed, "moved": r.Moved,
		"changed": r.Changed, "conflict": r.Conflicts} {
		for _, c := range list {
			s := word + " " + c.Name
			if c.Property != "" && word != "moved" {
				s += " " + c.Property
			}
			out = append(out, s)
		}
	}
	slices.Sort(out)
	return strings.Join(out, "; ")
}

func TestThreeWay(t *testing.T) {
	base := list(mark("A", -47), mark("B", -48, desc("b")), mark("C", -49))
	for _, c := range []struct {
		name                string
		first, second       *nav.Dataset
		want, said, besides string // the merged list, the report, and what was not taken
		prefer              Prefer
	}{
		{name: "nothing", first: base, second: base, want: "A -47; B -48 b; C -49"},
		{name: "each side adds", first: list(mark("A", -47), mark("B", -48, desc("b")), mark("C", -49), mark("D", -50)),
			second: list(mark("A", -47), mark("B", -48, desc("b")), mark("C", -49), mark("E", -51)),
			want:   "A -47; B -48 b; C -49; D -50; E -51", said: "added D; added E"},
		{name: "both add the same", first: list(append(base.Waypoints[:3:3], mark("D", -50))...),
			second: list(append(base.Waypoints[:3:3], mark("D", -50))...), want: "A -47; B -48 b; C -49; D -50"},
		{name: "one moves, the other describes", first: list(mark("A", -47), mark("B", -48, desc("new")), mark("C", -49)),
			second: list(mark("A", -47.5), mark("B", -48.5, desc("b")), mark("C", -49)),
			want:   "A -47.5; B -48.5 new; C -49", said: "changed B description; moved A; moved B"},
		{name: "deleted", first: base, second: list(mark("A", -47), mark("C", -49)), want: "A -47; C -49",
			said: "removed B"},
		{name: "deleted and changed", first: list(mark("A", -47), mark("B", -48, desc("new")), mark("C", -49)),
			second: list(mark("A", -47), mark("C", -49)), want: "A -47; B -48 new; C -49", said: "conflict B description"},
		{name: "deleted and changed, settled", first: list(mark("A", -47), mark("B", -48, desc("new")), mark("C", -49)),
			second: list(mark("A", -47), mark("C", -49)), want: "A -47; C -49", said: "conflict B description",
			besides: "B -48 new", prefer: Second},
		{name: "both change", first: list(mark("A", -47), mark("B", -48, desc("one")), mark("C", -49)),
			second: list(mark("A", -47), mark("B", -48, desc("two")), mark("C", -49)), want: "A -47; B -48 one; C -49",
			said: "conflict B description", besides: "B -48 two"},
		{name: "both change, settled", first: list(mark("A", -47), mark("B", -48, desc("one")), mark("C", -49)),
			second: list(mark("A", -47), mark("B", -48, desc("two")), mark("C", -49)), want: "A -47; B -48 two; C -49",
			said: "conflict B description", besides: "B -48 one", prefer: Second},
		{name: "both change it to the same", first: list(mark("A", -47), mark("B", -48, desc("x")), mark("C", -49)),
			second: list(mark("A", -47), mark("B", -48, desc("x")), mark("C", -49)), want: "A -47; B -48 x; C -49"},
		{name: "a format without descriptions", first: base, second: list(mark("A", -47), mark("B", -48.5), mark("C", -49)),
			want: "A -47; B -48.5 b; C -49", said: "moved B"},
		{name: "a renamed one", first: base, second: list(mark("A", -47), mark("Bad rock", -48, desc("b")), mark("C", -49)),
			want: "A -47; Bad rock -48 b; C -49", said: "changed B name"},
	} {
		got, r := merged(t, base, c.first, c.second, Options{Prefer: c.prefer, Within: 0.1})
		if words(got) != c.want || told(r) != c.said || words(r.Other) != c.besides {
			t.Errorf("%s: %s (%s; not taken: %s), want %s (%s; %s)", c.name, words(got), told(r), words(r.Other), c.want, c.said,
				c.besides)
		}
	}
	if words(base) != "A -47; B -48 b; C -49" {
		t.Errorf("the base was changed: %s", words(base))
	}
}

// Without a base nothing is deleted, what one side alone has is taken, and fields join one by one.
func TestTwoWay(t *testing.T) {
	first := list(mark("A", -47, field("depth", "4.50"), field("owner", "Ada")), mark("B", -48))
	second := list(mark("A", -47, field("depth", "4.5"), field("berth", "7"), symbol("rock")), mark("C", -49))
	got, r := merged(t, nil, first, second, Options{})
	if w := words(got); w != "A -47 rock depth=4.50 owner=Ada berth=7; B -48; C -49" ||
		len(r.Conflicts)+len(r.Removed) > 0 {
		t.Errorf("%s: %+v", w, r)
	}
	// Ambiguous ones are kept, and told.
	got, r = merged(t, nil, list(mark("Rock", -47)), list(mark("Rock", -48), mark("Rock", -49)), Options{})
	if len(got.Waypoints) != 3 || len(r.Ambiguous) != 1 {
		t.Errorf("%s: %+v", words(got), r.Ambiguous)
	}
}

// The later one of two is taken, by its time or by a field; where that can't be told the conflict stays open.
func TestNewer(t *testing.T) {
	at := func(ns int64) func(*nav.Waypoint) { return func(w *nav.Waypoint) { w.SetTime(ns, instant.Seconds) } }
	for _, c := range []struct {
		name, by string
		a, b     nav.Waypoint
		want     string
		open     int
	}{
		{"by time", "", mark("A", -47, desc("old"), at(1e9)), mark("A", -47, desc("new"), at(2e9)), "new", 0},
		{"the first is later", "", mark("A", -47, desc("new"), at(3e9)), mark("A", -47, desc("old"), at(2e9)), "new", 0},
		{"by a field", "seen", mark("A", -47, desc("old"), field("seen", "2026-03-01")),
			mark("A", -47, desc("new"), field("seen", "2026-03-02")), "new", 0},
		{"no times", "", mark("A", -47, desc("one")), mark("A", -47, desc("two")), "one", 1},
	} {
		got, r := merged(t, nil, list(c.a), list(c.b), Options{Prefer: Newer, NewerBy: c.by})
		if got.Waypoints[0].Desc != c.want || r.Open() != c.open {
			t.Errorf("%s: %q, %d open", c.name, got.Waypoints[0].Desc, r.Open())
		}
	}
}

// Routes, tracks and areas merge as waypoints do, their lines as a whole.
func TestLines(t *testing.T) {
	base := &nav.Dataset{
		Routes: []nav.Route{{Item: nav.Item{Name: "Run"}, Points: []nav.Waypoint{mark("a", -47), mark("b", -48)}}},
		Areas:  []nav.Area{{Item: nav.Item{Name: "Closed"}, Outline: []nav.Point{nav.At(1, 1), nav.At(1, 2), nav.At(2, 2)}}},
	}
	first, second := base.Clone(), base.Clone()
	first.Routes[0].Desc = "by night"
	second.Routes[0].Points = append(second.Routes[0].Points, mark("c", -49))
	second.Areas[0].Outline[2] = nav.At(3, 3)
	got, r := merged(t, base, first, second, Options{})
	if len(got.Routes[0].Points) != 3 || got.Routes[0].Desc != "by night" || got.Areas[0].Outline[2].Lat != 3 ||
		told(r) != "changed Closed line; changed Run description; changed Run line" {
		t.Errorf("%+v: %s", got, told(r))
	}
}

// What each side added by itself stays: marks of one name at two places, and recordings of one name.
func TestOneNameIsNotOneThing(t *testing.T) {
	for _, base := range []*nav.Dataset{nil, list(mark("Old", -46))} {
		got, r := merged(t, base, list(mark("Camp", -47, desc("east"))), list(mark("Camp", -48, desc("west"))), Options{})
		n := 0
		for _, w := range got.Waypoints {
			if w.Name == "Camp" {
				n++
			}
		}
		if n != 2 || len(r.Conflicts) != 0 || len(r.Ambiguous) != 1 {
			t.Errorf("%s: %+v", words(got), r)
		}
	}
}

// merged merges without an end.
func merged(t *testing.T, base, first, second *nav.Dataset, opt Options) (*nav.Dataset, *Report) {
	t.Helper()
	out, report, err := Merge(t.Context(), base, first, second, opt)
	if err != nil {
		t.Fatal(err)
	}
	return out, report
}
