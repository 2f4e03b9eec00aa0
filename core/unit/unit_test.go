package unit

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"testing/fstest"
	"time"
	"unicode/utf8"

	"gyrolith/core/nav"
	"gyrolith/core/unit/standin"
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
	n := newNamer(ridge(t).Text)
	seen := map[string]bool{}
	for _, c := range []struct{ name, want string }{
		{"Rock 1", "Rock 1"}, {"Rock 1", "Rock 1 2"}, {"ROCK 1", "ROCK 1 3"}, {"Østre Båe", "Ostre Bae"}, {"Grey Mare's Foal", "Grey Mares Foal"},
		{"Lantern Head north", "Lntrn Head north"}, {"Lantern Head south", "Lntrn Head south"}, {"Straße 7/9", "Strasse 7 9"},
		{"The Saddle, west side", "Saddle west side"}, {"日本", "waypoint"}, {"", "waypoint 2"}, {"\x1b[2J", "2J"},
		{"A very long name of a place 1234", ""}, {"A very long name of a place 1235", ""}, {"Supercalifragilisticexpialidocious", ""},
		{"Supercalifragilisticexpialidociously", ""},
	} {
		got := n.fit(c.name, "waypoint")
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
	n := newNamer(Text{Length: 8, Characters: "A-Z"})
	seen := map[string]bool{}
	for i := range 500 {
		got := n.fit(fmt.Sprintf("Landing place %c", 'a'+i%26), "x")
		if seen[strings.ToLower(got)] || utf8.RuneCountInString(got) > 8 {
			t.Fatalf("%d: %q", i, got)
		}
		seen[strings.ToLower(got)] = true
	}
}

func TestFileNames(t *testing.T) {
	for name, want := range map[string]string{"../../etc": "etc", "CON": "CON_", "nul": "nul_", "a/b\\c:d": "a b c d", "": "unnamed", "...": "unnamed", "Tarn to the Saddle": "Tarn to the Saddle"} {
		if got := fileName(name, fileNameLength); got != want {
			t.Errorf("%q becomes %q, want %q", name, got, want)
		}
	}
}

func FuzzNames(f *testing.F) {
	f.Add("Lantern Head north", 16)
	f.Fuzz(func(t *testing.T, name string, length int) {
		length = min(max(length, 1), 64)
		got := newNamer(Text{Length: length, Characters: "A-Za-z0-9 "}).fit(name, "x")
		if n := utf8.RuneCountInString(got); n == 0 || n > length {
			t.Fatalf("%q at %d becomes %q", name, length, got)
		}
		if file := fileName(name, fileNameLength); strings.ContainsAny(file, "/\\:") || file == "" || strings.Trim(file, ". ") != file || len(file) > 60 {
			t.Fatalf("%q becomes the file %q", name, file)
		}
	})
}

func line(name string, n int) nav.Track {
	t := nav.Track{Item: nav.Item{Name: name}}
	var s nav.Segment
	for i := range n {
		s.Points = append(s.Points, nav.At(-47, 11+float64(i)/1e5))
	}
	t.Segments = append(t.Segments, s)
	return t
}

// Lines with more points than the unit takes are parted, and no point is lost.
func TestSplit(t *testing.T) {
	d := &nav.Dataset{Tracks: []nav.Track{line("Walk", 25000)}}
	var r nav.Route
	r.Name = "Run"
	for i := range 450 {
		w := nav.Waypoint{Point: nav.At(-47, 11+float64(i)/1e4)}
		w.Name = fmt.Sprint("P", i)
		r.Points = append(r.Points, w)
	}
	d.Routes = []nav.Route{r}
	f := Fit(d, ridge(t))
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
	if n := len(f.Data.Routes); n != 3 || f.Data.Routes[1].Points[0].Name != "P199" || len(f.Data.Routes[0].Points) != 200 {
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
	f := Fit(d, ridge(t))
	if len(f.Data.Waypoints) != 2000 || f.Data.Waypoints[1999].Name != "W1999" || f.Ledger.Losses() != 3 || f.Ledger[0].Name != "W2000" {
		t.Errorf("%d waypoints, ledger %+v", len(f.Data.Waypoints), f.Ledger)
	}
}

// The stand-in has a reader of its own: what it would not show is found, whoever wrote the card.
func TestRidgeHabits(t *testing.T) {
	card := t.TempDir()
	put := func(name, text string) {
		path := filepath.Join(card, filepath.FromSlash(name))
		os.MkdirAll(filepath.Dir(path), 0o777)
		os.WriteFile(path, []byte(text), 0o666)
	}
	head := `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">`
	put("ridge/waypoints/A.GPX", head+`<wpt lat="-47.1234567" lon="11.3"><name>A name that is far too long é</name></wpt><wpt lat="99" lon="1"/><rte/></gpx>`)
	put("ridge/waypoints/old.gpx", `<gpx version="1.0" xmlns="http://www.topografix.com/GPX/1/0"/>`)
	put("ridge/waypoints/half.gpx", head)
	put("ridge/waypoints/notes.txt", "")
	put("ridge/tracks/t.gpx", head+"<trk><name>T</name><trkseg>"+strings.Repeat(`<trkpt lat="1" lon="2"/>`, 10005)+"</trkseg></trk></gpx>")
	shown, err := standin.Ridge(os.DirFS(card))
	if err != nil {
		t.Fatal(err)
	}
	if w := shown.Data.Waypoints; len(w) != 1 || w[0].Name != "A name that is f" || w[0].Lat != -47.123457 {
		t.Errorf("waypoints %+v", w)
	}
	if n := shown.Data.Tracks[0].Len(); n != 10000 {
		t.Errorf("%d points of the track", n)
	}
	if len(shown.Ignored) != 6 {
		t.Errorf("ignored %+v", shown.Ignored)
	}
	if _, err := standin.Ridge(os.DirFS(t.TempDir())); err == nil {
		t.Error("an empty card is shown")
	}
}

func TestProfileFaults(t *testing.T) {
	for _, c := range []struct{ text, want string }{
		{"name = \"x\"\nspeed = 4", "p.toml:2:1: a profile has no key \"speed\""},
		{"name = ", "p.toml:1:"}, {"title = \"x\"", "no name"},
		{"name = \"x\"\nshows = [\"music\"]", "there is no property \"music\""},
		{"name = \"x\"\n[areas]\nas = \"tracks\"", "takes no tracks either"},
		{"name = \"x\"\n[tracks]\nas = \"tracks\"", "a format and a file are needed"},
	} {
		if _, err := Parse("p.toml", []byte(c.text)); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%q: %v, want %q", c.text, err, c.want)
		}
	}
}

// A file that can't get its name puts everything back.
func TestPlaceFails(t *testing.T) {
	card := t.TempDir()
	plan, err := MakePlan(&nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(1, 2)}}, Tracks: []nav.Track{line("T", 2)}}, ridge(t), "plan")
	if err != nil {
		t.Fatal(err)
	}
	opt := StowOptions{Replace: true, Keep: t.TempDir(), Now: time.Unix(0, 0)}
	if _, err := plan.Stow(card, opt); err != nil {
		t.Fatal(err)
	}
	first := filepath.Join(card, filepath.FromSlash(plan.Files[0].Path))
	os.WriteFile(first, []byte("old"), 0o666)
	second := filepath.Join(card, filepath.FromSlash(plan.Files[1].Path))
	os.Remove(second)
	os.MkdirAll(filepath.Join(second, "in the way"), 0o777)
	if _, err := plan.Stow(card, opt); err == nil || errors.Is(err, os.ErrNotExist) {
		t.Fatalf("got %v", err)
	}
	if b, _ := os.ReadFile(first); string(b) != "old" {
		t.Errorf("the first file is %q", b)
	}
}

// The stand-in meets any file on its card without harm, and shows only positions that there are.
func FuzzRidge(f *testing.F) {
	f.Add([]byte(`<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="1" lon="2"><name>x</name></wpt><rte><rtept lat="1" lon="2"/></rte><trk><trkseg><trkpt lat="1" lon="2"/></trkseg></trk></gpx>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		card := fstest.MapFS{"RIDGE/WAYPOINTS/a.gpx": {Data: data}, "RIDGE/ROUTES/a.gpx": {Data: data}, "RIDGE/TRACKS/a.gpx": {Data: data}}
		shown, err := standin.Ridge(card)
		if err != nil {
			t.Fatal(err)
		}
		shown.Data.EachPoint(func(p *nav.Point) {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Fatalf("position %v %v", p.Lat, p.Lon)
			}
		})
	})
}

func FuzzProfile(f *testing.F) {
	f.Add(ridge(f).Source)
	f.Fuzz(func(t *testing.T, text string) {
		p, err := Parse("p.toml", []byte(text))
		if err != nil {
			return
		}
		Fit(&nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(1, 2)}}, Areas: []nav.Area{{Outline: []nav.Point{nav.At(1, 2)}}}}, p)
	})
}

// A card that is taken out in the middle, or whose file system fails, gets a line that says what happened.
func TestCardTakenOut(t *testing.T) {
	for _, step := range []string{"write", "place"} {
		card := filepath.Join(t.TempDir(), "card")
		os.Mkdir(card, 0o777)
		plan, err := MakePlan(&nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(1, 2)}}, Tracks: []nav.Track{line("T", 2)}}, ridge(t), "plan")
		if err != nil {
			t.Fatal(err)
		}
		_, err = plan.Stow(card, StowOptions{Keep: t.TempDir(), Step: func(name string) {
			if strings.HasPrefix(name, step) {
				os.RemoveAll(card)
			}
		}})
		if err == nil || !strings.Contains(err.Error(), "was the card taken out?") {
			t.Errorf("%s: %v", step, err)
		}
	}
	for err, want := range map[error]string{syscall.ENOSPC: "is full", syscall.EROFS: "read-only", syscall.ENAMETOOLONG: "can't hold this name", syscall.EIO: "taken out"} {
		if got := cardReason(&os.PathError{Op: "write", Path: "x", Err: err}); !strings.Contains(got, want) {
			t.Errorf("%v: %s", err, got)
		}
	}
}

// An older unit refuses the card of a newer one and reads that of an older one.
func TestOlderKeel(t *testing.T) {
	for _, c := range []struct {
		card, unit int
		shows      bool
	}{{1, 3, true}, {2, 2, true}, {3, 2, false}, {2, 1, false}} {
		p, err := find(t, "keel").ForVersion(c.card)
		if err != nil {
			t.Fatal(err)
		}
		plan, err := MakePlan(season(), p, "x")
		if err != nil {
			t.Fatal(err)
		}
		_, err = standin.KeelOf(c.unit)(fstest.MapFS{plan.Files[0].Path: {Data: plan.Files[0].Content}})
		if (err == nil) != c.shows {
			t.Errorf("a unit of version %d with a card of version %d: %v", c.unit, c.card, err)
		}
	}
}
