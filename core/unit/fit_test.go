package unit

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/core/format"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/unit/seasontest"
)

func find(t testing.TB, name string) *Profile {
	t.Helper()
	p, err := Find(name, "")
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func TestFittingDetails(t *testing.T) {
	keel := fitted(t, seasontest.Season(), find(t, "keel"))
	w := keel.Data.Waypoints
	if w[0].Name == w[1].Name || w[0].Style.Symbol != "awash" || w[0].Style.Colour != nav.RGB(0xd0, 0x1c, 0x1c) ||
		w[2].Name != "Ostre Bae" {
		t.Errorf("%+v", w[:3])
	}
	vane := fitted(t, seasontest.Season(), find(t, "vane"))
	names := map[string]bool{}
	for _, x := range vane.Data.Waypoints {
		if len(x.Name) > 5 || names[x.Name] || strings.ToUpper(x.Name) != x.Name || strings.Contains(x.Name, " ") {
			t.Errorf("identifier %q", x.Name)
		}
		names[x.Name] = true
	}
	for _, want := range []string{"LANTN", "LANTS", "ROC10", "ROC11"} {
		if !names[want] {
			t.Errorf("no %s among %v", want, names)
		}
	}
	if len(vane.Data.Tracks) != 0 || len(vane.Data.Routes) != 2 || len(vane.Data.Areas[0].Holes) != 0 ||
		vane.Data.Areas[0].Name != "Nesting, Cairn Hill west" {
		t.Errorf("%v", vane.Data.Counts())
	}
	if d := seasontest.Season(); len(fitted(t, d, find(t, "vane")).Data.Areas[0].Holes) != 0 &&
		len(d.Areas[0].Holes) != 1 {
		t.Error("the data were changed, not a copy")
	}
}

func TestLimitsOfLines(t *testing.T) {
	p := *find(t, "keel")
	p.Tracks.Points, p.Tracks.Segments, p.Tracks.Most = 50, 1, 2
	long := seasontest.Line("Long", 400)
	for i := range long.Segments[0].Points {
		long.Segments[0].Points[i].Lat += float64(i%40) / 1e4
	}
	two := seasontest.Line("Two", 10)
	two.Segments = append(two.Segments, seasontest.Line("", 10).Segments...)
	f := fitted(t, &nav.Dataset{Tracks: []nav.Track{two, long}}, &p)
	what := map[string]string{}
	for _, e := range f.Ledger {
		what[string(e.What)] = e.New + e.Why
	}
	if n := f.Data.Tracks[len(f.Data.Tracks)-1].Len(); len(f.Data.Tracks) != 2 || n > 50 {
		t.Errorf("%d tracks, the last of %d points", len(f.Data.Tracks), n)
	}
	if !strings.Contains(what["thinned"], "the line stays within") || !strings.Contains(what["split"], "2 tracks") ||
		what["left out"] == "" {
		t.Errorf("the ledger: %v", what)
	}
	p.Waypoints.Most, p.Waypoints.Drop = 2, "oldest"
	d := &nav.Dataset{}
	for i, at := range []int64{0, 30, 10, 20} {
		w := nav.Waypoint{Item: nav.Item{Name: fmt.Sprint("W", i)}, Point: nav.At(1, 2)}
		if at > 0 {
			w.SetTime(at*1e9, instant.Seconds)
		}
		d.Waypoints = append(d.Waypoints, w)
	}
	if w := fitted(t, d, &p).Data.Waypoints; len(w) != 2 || w[0].Name != "W1" || w[1].Name != "W3" {
		t.Errorf("the newest are %+v", w)
	}
}

func TestMoreProfileFaults(t *testing.T) {
	base := "name = \"x\"\n[waypoints]\nas = \"waypoints\"\nformat = \"gpx\"\nfile = \"a.gpx\"\n"
	for text, want := range map[string]string{
		"name = \"x\"\n": "accepts no kind of item",
		strings.Replace(base, "a.gpx", "../a.gpx", 1):   "leads out of the card",
		strings.Replace(base, "a.gpx", "{nmae}.gpx", 1): "p.toml:5: [waypoints] file: there is no {nmae}",
		base + "drop = \"some\"\n":                      "p.toml:6: [waypoints] drop: \"some\" is not one of last, oldest",
		base + "[symbols]\nrok = \"R\"\n":               "p.toml:7: symbols: there is no neutral symbol \"rok\"",
		base + "[text]\nlenght = 5\n": "p.toml:7:1: a profile has no key \"text.lenght\"; did you mean " +
			"\"length\"?",
		base + "[text]\nlength = 1\n":                    "p.toml:7: names of 1 characters",
		base + "[text]\ncharacters = \"*\"\n":            "too few to make names",
		base + "[versions.1]\ntakes = [\"waypoints\"]\n": "versions.1: it is not a number below",
		"colours = [\"reddish\"]\n" + base:               "p.toml:1: colours: \"reddish\" is not a colour",
		strings.Replace(base, "\"gpx\"", "\"csv\"", 1) +
			"[table]\ncolumns = [{title = \"A\", holds = \"latt\"}]\n": "no column \"latt\"",
		base + "[areas]\nmost = 5\n": "as is missing",
	} {
		if _, err := Parse("p.toml", []byte(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
}

// A format that nobody writes is told with its line.
func TestUnknownFormat(t *testing.T) {
	p, err := Parse("p.toml",
		[]byte("name = \"x\"\n[waypoints]\nas = \"waypoints\"\nformat = \"pgx\"\nfile = \"a.gpx\"\n"))
	if err != nil {
		t.Fatal(err)
	}
	known := format.Formats{{Name: "gpx", Write: func(io.Writer, *nav.Dataset, *format.WriteOptions) (*format.Written,
		error) {
		return nil, nil
	}}}
	err = p.CheckFormats(known)
	if err == nil || !strings.Contains(err.Error(),
		"x.toml:4: [waypoints] format: there is no format \"pgx\" to write; there are gpx") {
		t.Errorf("%v", err)
	}
	known[0].Name, known[0].Tabular = "pgx", true
	if err := p.CheckFormats(known); err == nil || !strings.Contains(err.Error(), "need a [table]") {
		t.Errorf("%v", err)
	}
}

func TestOwnProfiles(t *testing.T) {
	dir := t.TempDir()
	put(t, dir, "mine.toml", strings.Replace(ridge(t).Source, `name = "ridge"`, `name = "mine"`, 1))
	put(t, dir, "broken.toml", "name = ")
	put(t, dir, "notes.txt", "")
	own, faults := Own(dir)
	if len(own) != 1 || own[0].Name != "mine" || len(faults) != 1 {
		t.Errorf("%+v %v", own, faults)
	}
	if p, err := Find("MINE", dir); err != nil || p.Path == "" {
		t.Errorf("%v", err)
	}
	if _, err := Find("broken", dir); err == nil || !strings.Contains(err.Error(), "broken.toml:1") {
		t.Errorf("%v", err)
	}
	if _, err := Find("none", dir); err == nil || !strings.Contains(err.Error(), "there are mine, csv-list") {
		t.Errorf("%v", err)
	}
	if p, err := Find(filepath.Join(dir, "mine.toml"), ""); err != nil || p.Name != "mine" {
		t.Errorf("by its file: %v", err)
	}
	if own, faults := Own(filepath.Join(dir, "nowhere")); own != nil || faults != nil {
		t.Error("a folder that there is not")
	}
}

func TestVersions(t *testing.T) {
	p := find(t, "keel")
	if got := strings.Join(p.VersionNumbers(), " "); got != "1 2 3" {
		t.Errorf("%s", got)
	}
	one, err := p.ForVersion(1)
	if err != nil || one.Routes.As != "" || one.Waypoints.As == "" || one.ShowsA("colour") || p.Routes.As == "" {
		t.Errorf("%+v %v", one, err)
	}
	if _, err := p.ForVersion(4); err == nil || !strings.Contains(err.Error(), "there are 1, 2, 3") {
		t.Errorf("%v", err)
	}
	if _, err := ridge(t).ForVersion(2); err == nil || !strings.Contains(err.Error(), "have no versions") {
		t.Errorf("%v", err)
	}
}

func put(t *testing.T, root, name, text string) {
	t.Helper()
	path := filepath.Join(root, filepath.FromSlash(name))
	if err := os.MkdirAll(filepath.Dir(path), 0o777); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, []byte(text), 0o666); err != nil {
		t.Fatal(err)
	}
}

// fitted fits without an end.
func fitted(t testing.TB, d *nav.Dataset, p *Profile) *Fitted {
	t.Helper()
	f, err := Fit(t.Context(), d, p)
	if err != nil {
		t.Fatal(err)
	}
	return f
}
