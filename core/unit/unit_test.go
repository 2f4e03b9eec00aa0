package unit

import (
	"fmt"
	"strings"
	"testing"
	"unicode/utf8"

	"gyrolith/core/nav"
	"gyrolith/core/unit/seasontest"
)

func ridge(t testing.TB) *Profile {
	t.Helper()
	p, err := Find("Ridge", "")
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func TestNames(t *testing.T) {
	n := NewNamer(ridge(t).Text)
	seen := map[string]bool{}
	for _, c := range []struct{ name, want string }{
		{"Rock 1", "Rock 1"}, {"Rock 1", "Rock 1 (b)"}, {"ROCK 1", "ROCK 1 (c)"}, {"Østre Båe", "Ostre Bae"},
		{"Grey Mare's Foal", "Grey Mares Foal"},
		{"Lantern Head north", "Lantern Head N"}, {"Lantern Head south", "Lantern Head S"}, {"Straße 7/9", "Strasse 7-9"},
		{"The Saddle, west side", "Saddle W side"}, {"日本", "Ri Ben"}, {"😀", "Waypoint 1"},
		{"", "Waypoint 2"}, {"\x1b[2J", "2J"},
		{"A very long name of a place 1234", ""}, {"A very long name of a place 1235", ""},
		{"Supercalifragilisticexpialidocious", ""},
		{"Supercalifragilisticexpialidociously", ""},
	} {
		got := n.Fit(c.name, "waypoint")
		if c.want != "" && got != c.want {
			t.Errorf("%q becomes %q, want %q", c.name, got, c.want)
		}
		if utf8.RuneCountInString(got) > 16 || got == "" || got != strings.TrimSpace(got) || seen[strings.ToLower(got)] {
			t.Errorf("%q becomes %q: too long, or not its own", c.name, got)
		}
		if strings.HasSuffix(c.name, "1234") && !strings.HasSuffix(got, "1234") {
			t.Errorf("%q becomes %q: the number at its end is gone", c.name, got)
		}
		seen[strings.ToLower(got)] = true
	}
}

// A thousand names that begin alike stay a thousand names.
func TestManyNames(t *testing.T) {
	n := NewNamer(Text{Length: 8, Characters: "A-Z"})
	seen := map[string]bool{}
	for i := range 500 {
		got := n.Fit(fmt.Sprintf("Landing place %c", 'a'+i%26), "x")
		if seen[strings.ToLower(got)] || utf8.RuneCountInString(got) > 8 {
			t.Fatalf("%d: %q", i, got)
		}
		seen[strings.ToLower(got)] = true
	}
}

func TestFileNames(t *testing.T) {
	for name, want := range map[string]string{"../../etc": "etc", "CON": "CON_", "nul": "nul_", "a/b\\c:d": "a b c d",
		"": "unnamed", "...": "unnamed", "Tarn to the Saddle": "Tarn to the Saddle"} {
		if got := FileName(name, FileNameLength); got != want {
			t.Errorf("%q becomes %q, want %q", name, got, want)
		}
	}
}

func FuzzNames(f *testing.F) {
	f.Add("Lantern Head north", 16)
	f.Fuzz(func(t *testing.T, name string, length int) {
		length = min(max(length, 1), 64)
		got := NewNamer(Text{Length: length, Characters: "A-Za-z0-9 "}).Fit(name, "x")
		if n := utf8.RuneCountInString(got); n == 0 || n > length {
			t.Fatalf("%q at %d becomes %q", name, length, got)
		}
		if file := FileName(name, FileNameLength); strings.ContainsAny(file, "/\\:") || file == "" ||
			strings.Trim(file, ". ") != file || len(file) > 60 {
			t.Fatalf("%q becomes the file %q", name, file)
		}
	})
}

// Lines with more points than the unit takes are parted, and no point is lost.
func TestSplit(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{seasontest.Line("Walk", 25000)}}
	var r nav.Route
	r.Name = "Run"
	for i := range 450 {
		w := nav.Waypoint{Point: nav.At(-47, 11+float64(i)/1e4)}
		w.Name = fmt.Sprint("P", i)
		r.Points = append(r.Points, w)
	}
	d.Routes = []nav.Route{r}
	f := fitted(t, d, ridge(t))
	covered := map[float64]bool{}
	for _, part := range f.Data.Tracks {
		if part.Len() > 10000 {
			t.Errorf("%s has %d points", part.Name, part.Len())
		}
		for _, p := range part.Segments[0].Points {
			covered[p.Lon] = true
		}
	}
	if len(f.Data.Tracks) != 3 || len(covered) != 25000 {
		t.Errorf("%d tracks hold %d of 25000 points", len(f.Data.Tracks), len(covered))
	}
	if n := len(f.Data.Routes); n != 3 || f.Data.Routes[1].Points[0].Name != "P199" ||
		len(f.Data.Routes[0].Points) != 200 {
		t.Errorf("%d routes, the second begins at %s", n, f.Data.Routes[1].Points[0].Name)
	}
	if f.Ledger.Losses() != 0 || len(f.Ledger) < 2 {
		t.Errorf("ledger %+v", f.Ledger)
	}
	if len(d.Tracks) != 1 || d.Tracks[0].Name != "Walk" {
		t.Error("the data were changed, not a copy")
	}
}

// What is over a limit is left out in the stated order, and every item is in the ledger.
func TestLimit(t *testing.T) {
	d := &nav.Dataset{}
	for i := range 2003 {
		w := nav.Waypoint{Point: nav.At(-47, 11)}
		w.Name = fmt.Sprint("W", i)
		d.Waypoints = append(d.Waypoints, w)
	}
	f := fitted(t, d, ridge(t))
	if len(f.Data.Waypoints) != 2000 || f.Data.Waypoints[1999].Name != "W1999" || f.Ledger.Losses() != 3 ||
		f.Ledger[0].Name != "W2000" {
		t.Errorf("%d waypoints, ledger %+v", len(f.Data.Waypoints), f.Ledger)
	}
}

func TestProfileFaults(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"name = \"x\"\nspeed = 4", "p.toml:2:1: a profile has no key \"speed\""},
		{"name = ", "p.toml:1:"}, {"title = \"x\"", "no name"},
		{"name = \"x\"\nshows = [\"music\"]", "\"music\" is not one of"},
		{"name = \"x\"\n[areas]\nas = \"tracks\"", "doesn't accept tracks either"},
		{"name = \"x\"\n[tracks]\nas = \"tracks\"", "a format and a file are needed"},
	} {
		if _, err := Parse("p.toml", []byte(c.text)); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%q: %v, want %q", c.text, err, c.want)
		}
	}
}

func FuzzProfile(f *testing.F) {
	f.Add(ridge(f).Source)
	f.Fuzz(func(t *testing.T, text string) {
		p, err := Parse("p.toml", []byte(text))
		if err != nil {
			return
		}
		fitted(t, &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(1, 2)}},
			Areas: []nav.Area{{Outline: []nav.Point{nav.At(1, 2)}}}}, p)
	})
}

// The titles of a unit's own table are its format: no measure is put behind them.
func TestTitlesOfAUnitsTable(t *testing.T) {
	p := &Profile{Table: &Table{Columns: []Column{{Title: "height", Holds: "height"}}}}
	layout, err := p.TableLayout()
	if err != nil || len(layout.Columns) != 1 || !layout.Columns[0].Given {
		t.Errorf("%+v %v", layout, err)
	}
}
