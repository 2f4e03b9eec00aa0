package unit

import (
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"gyrolith/core/compare"
	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
	"gyrolith/core/unit/standin"
)

func season() *nav.Dataset {
	d := &nav.Dataset{}
	for i, name := range []string{"Lantern Head north", "Lantern Head south", "Østre Båe", "Grey Mare's Foal", "Rock 10", "Rock 11"} {
		w := nav.Waypoint{Item: nav.Item{Name: name, Group: "Hazards", Desc: "Breaks in any swell.", Style: nav.Style{Symbol: "rock-awash", Colour: nav.RGB(208, 16, 46)}, Fields: []nav.Field{{Key: "depth", Value: "1.5"}}}, Point: nav.At(-47.5+float64(i)/1000, 11.3)}
		d.Waypoints = append(d.Waypoints, w)
	}
	r := nav.Route{Item: nav.Item{Name: "Run to the jetty", Group: "Runs"}}
	for i := range 4 {
		w := nav.Waypoint{Item: nav.Item{Name: fmt.Sprintf("Mark %d", i)}, Point: nav.At(-47.4-float64(i)/1000, 11.4)}
		w.SetHeight(100+float64(i), nav.DigitsOf(0), nav.OverSea)
		r.Points = append(r.Points, w)
	}
	d.Routes = []nav.Route{r}
	d.Tracks = []nav.Track{line("Walk", 20)}
	d.Areas = []nav.Area{{Item: nav.Item{Name: "Nesting, Cairn Hill west", Style: nav.Style{Colour: nav.RGB(200, 0, 0)}, Fields: []nav.Field{{Key: nav.FieldCeiling, Value: "1500ft"}}},
		Outline: []nav.Point{nav.At(-47.1, 11.1), nav.At(-47.2, 11.1), nav.At(-47.2, 11.2)}, Holes: [][]nav.Point{{nav.At(-47.15, 11.12), nav.At(-47.16, 11.12), nav.At(-47.16, 11.13)}}}}
	return d
}

func find(t testing.TB, name string) *Profile {
	t.Helper()
	p, err := Find(name, "")
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// What is fitted for a unit is what the unit shows, for every stand-in and every version of its cards.
func TestUnitsShowWhatIsMeant(t *testing.T) {
	for _, c := range []struct {
		unit    string
		version int
		kinds   string // of which something is shown
	}{{"ridge", 0, "wrt"}, {"keel", 3, "wrta"}, {"keel", 2, "wr"}, {"keel", 1, "w"}, {"vane", 0, "wra"}} {
		p, err := find(t, c.unit).ForVersion(c.version)
		if err != nil {
			t.Fatal(err)
		}
		plan, err := MakePlan(season(), p, "season")
		if err != nil {
			t.Fatal(err)
		}
		card := fstest.MapFS{}
		for _, f := range plan.Files {
			card[f.Path] = &fstest.MapFile{Data: f.Content}
		}
		shown, err := standin.Units[c.unit](card)
		if err != nil {
			t.Fatalf("%s: %v", c.unit, err)
		}
		if len(shown.Ignored) > 0 {
			t.Errorf("%s passes over %+v", c.unit, shown.Ignored)
		}
		for _, d := range compare.Compare(plan.Meant, shown.Data, compare.Options{Within: p.Resolution * metresPerDegree}).Differences {
			t.Errorf("%s, version %d: %+v", c.unit, c.version, d)
		}
		for i, n := range shown.Data.Counts() {
			if has := strings.Contains(c.kinds, "wrta"[i:i+1]); has != (n > 0) {
				t.Errorf("%s, version %d shows %d %s", c.unit, c.version, n, nav.Kind(i))
			}
		}
		if c.unit != "ridge" && plan.Ledger == nil {
			t.Error("nothing is said of what was changed")
		}
	}
}

func TestFittingDetails(t *testing.T) {
	keel := Fit(season(), find(t, "keel"))
	w := keel.Data.Waypoints
	if w[0].Name == w[1].Name || w[0].Style.Symbol != "awash" || w[0].Style.Colour != nav.RGB(0xd0, 0x1c, 0x1c) || w[2].Name != "Ostre Bae" {
		t.Errorf("%+v", w[:3])
	}
	vane := Fit(season(), find(t, "vane"))
	names := map[string]bool{}
	for _, x := range vane.Data.Waypoints {
		if len(x.Name) > 5 || names[x.Name] || strings.ToUpper(x.Name) != x.Name || strings.Contains(x.Name, " ") {
			t.Errorf("identifier %q", x.Name)
		}
		names[x.Name] = true
	}
	for _, want := range []string{"LANNO", "LANSO", "ROC10", "ROC11"} {
		if !names[want] {
			t.Errorf("no %s among %v", want, names)
		}
	}
	if len(vane.Data.Tracks) != 0 || len(vane.Data.Routes) != 2 || len(vane.Data.Areas[0].Holes) != 0 || vane.Data.Areas[0].Name != "Nesting, Cairn Hill west" {
		t.Errorf("%v", vane.Data.Counts())
	}
	if d := season(); len(Fit(d, find(t, "vane")).Data.Areas[0].Holes) != 0 && len(d.Areas[0].Holes) != 1 {
		t.Error("the data were changed, not a copy")
	}
}

func TestLimitsOfLines(t *testing.T) {
	p := *find(t, "keel")
	p.Tracks.Points, p.Tracks.Segments, p.Tracks.Most = 50, 1, 2
	long := line("Long", 400)
	for i := range long.Segments[0].Points {
		long.Segments[0].Points[i].Lat += float64(i%40) / 1e4
	}
	two := line("Two", 10)
	two.Segments = append(two.Segments, line("", 10).Segments...)
	f := Fit(&nav.Dataset{Tracks: []nav.Track{two, long}}, &p)
	what := map[string]string{}
	for _, e := range f.Ledger {
		what[e.What] = e.New + e.Why
	}
	if n := f.Data.Tracks[len(f.Data.Tracks)-1].Len(); len(f.Data.Tracks) != 2 || n > 50 {
		t.Errorf("%d tracks, the last of %d points", len(f.Data.Tracks), n)
	}
	if !strings.Contains(what["thinned"], "the line stays within") || !strings.Contains(what["split"], "2 tracks") || what["left out"] == "" {
		t.Errorf("the ledger: %v", what)
	}
	p.Waypoints.Most, p.Waypoints.Drop = 2, "oldest"
	d := &nav.Dataset{}
	for i, at := range []int64{0, 30, 10, 20} {
		w := nav.Waypoint{Item: nav.Item{Name: fmt.Sprint("W", i)}, Point: nav.At(1, 2)}
		if at > 0 {
			w.SetTime(at*1e9, nav.Seconds)
		}
		d.Waypoints = append(d.Waypoints, w)
	}
	if w := Fit(d, &p).Data.Waypoints; len(w) != 2 || w[0].Name != "W1" || w[1].Name != "W3" {
		t.Errorf("the newest are %+v", w)
	}
}

// What can't become the kind that a unit wants is left out and told, and does not stop the rest.
func TestWhatCannotBeTurned(t *testing.T) {
	p := *find(t, "kml-file")
	p.Tracks = Kind{As: "areas"}
	p.Routes = Kind{}
	d := season()
	plan, err := MakePlan(d, &p, "x")
	if err != nil {
		t.Fatal(err)
	}
	if c := plan.Meant.Counts(); c[nav.Tracks] != 0 || c[nav.Areas] != 1 || c[nav.Waypoints] != 6 {
		t.Errorf("%v", c)
	}
	told := ""
	for _, e := range plan.Ledger {
		if e.Loss {
			told += e.What + " of " + e.Name + "; "
		}
	}
	if !strings.Contains(told, "no area made of it of Walk") || !strings.Contains(told, "route of Run to the jetty") {
		t.Errorf("%s", told)
	}
}

func TestKeelRefuses(t *testing.T) {
	plan, err := MakePlan(season(), find(t, "keel"), "x")
	if err != nil {
		t.Fatal(err)
	}
	good := plan.Files[0].Content
	boot := func(change func([]byte) []byte) error {
		_, err := standin.Keel(fstest.MapFS{"keel/marks.krd": {Data: change(append([]byte{}, good...))}})
		return err
	}
	if err := boot(func(b []byte) []byte { return b }); err != nil {
		t.Fatal(err)
	}
	for want, change := range map[string]func([]byte) []byte{
		"version 9":  func(b []byte) []byte { b[4] = 9; return b },
		"wrong sum":  func(b []byte) []byte { b[40] ^= 1; return b },
		"ends early": func(b []byte) []byte { return b[:len(b)-3] },
		"no Keel":    func(b []byte) []byte { return []byte("nothing of the kind") },
	} {
		if err := boot(change); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
	if _, err := standin.Keel(fstest.MapFS{}); err == nil {
		t.Error("an empty card is shown")
	}
	shown, err := standin.Vane(fstest.MapFS{"VANE/A.VPL": {Data: []byte("VANE PLAN 1\nSUM 1 0000\n")}, "VANE/B.TXT": {}})
	if err != nil || len(shown.Ignored) != 1 || !strings.Contains(shown.Ignored[0].Why, "wrong sum") {
		t.Errorf("%+v %v", shown, err)
	}
}

func FuzzKeel(f *testing.F) {
	plan, err := MakePlan(season(), find(f, "keel"), "x")
	if err != nil {
		f.Fatal(err)
	}
	f.Add(plan.Files[0].Content)
	f.Fuzz(func(t *testing.T, b []byte) {
		shown, err := standin.Keel(fstest.MapFS{"KEEL/MARKS.KRD": {Data: b}})
		if err == nil {
			usable(t, shown.Data)
		}
	})
}

func FuzzVane(f *testing.F) {
	plan, err := MakePlan(season(), find(f, "vane"), "x")
	if err != nil {
		f.Fatal(err)
	}
	for _, file := range plan.Files {
		f.Add(file.Content)
	}
	f.Fuzz(func(t *testing.T, b []byte) {
		shown, err := standin.Vane(fstest.MapFS{"VANE/A.VPL": {Data: b}})
		if err == nil {
			usable(t, shown.Data)
		}
	})
}

func usable(t *testing.T, d *nav.Dataset) {
	d.EachPoint(func(p *nav.Point) {
		if !nav.Usable(p.Lat, p.Lon) {
			t.Fatalf("position %v %v", p.Lat, p.Lon)
		}
	})
}

func TestMoreProfileFaults(t *testing.T) {
	base := "name = \"x\"\n[waypoints]\nas = \"waypoints\"\nformat = \"gpx\"\nfile = \"a.gpx\"\n"
	for text, want := range map[string]string{
		"name = \"x\"\n": "takes no kind of item",
		strings.Replace(base, "gpx\"\nfile", "pgx\"\nfile", 1): "p.toml:4: [waypoints] format: there is no format \"pgx\"",
		strings.Replace(base, "a.gpx", "../a.gpx", 1):          "does not stay on the card",
		strings.Replace(base, "a.gpx", "{nmae}.gpx", 1):        "p.toml:5: [waypoints] file: there is no {nmae}",
		base + "drop = \"some\"\n":                             "p.toml:6: [waypoints] drop: \"some\" is none of last, oldest",
		base + "[symbols]\nrok = \"R\"\n":                      "p.toml:7: symbols: there is no neutral symbol \"rok\"",
		base + "[text]\nlenght = 5\n":                          "p.toml:7:1: a profile has no key \"text.lenght\"; did you mean \"length\"?",
		base + "[text]\nlength = 1\n":                          "p.toml:7: names of 1 characters",
		base + "[text]\ncharacters = \"*\"\n":                  "no name can be made of",
		base + "[versions.1]\ntakes = [\"waypoints\"]\n":       "versions.1: it is not a number below",
		"colours = [\"red\"]\n" + base:                         "p.toml:1: colours: \"red\" is no colour",
		strings.Replace(base, "\"gpx\"", "\"csv\"", 1):         "need a [table]",
		strings.Replace(base, "\"gpx\"", "\"csv\"", 1) + "[table]\ncolumns = [{title = \"A\", holds = \"latt\"}]\n": "\"latt\" can't be held",
		base + "[areas]\nmost = 5\n": "as is missing",
	} {
		if _, err := Parse("p.toml", []byte(text)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v, want %q", text, err, want)
		}
	}
}

// A card takes a tenth of the time that the same data take as GPX.
func BenchmarkFormats(b *testing.B) {
	d := &nav.Dataset{Tracks: []nav.Track{line("Wake", 200000)}}
	for i := range d.Tracks[0].Segments[0].Points {
		p := &d.Tracks[0].Segments[0].Points[i]
		p.Lat, p.Lon = math.Round((-47.6+math.Sin(float64(i)/900)/50)*1e7)/1e7, math.Round((11.3+math.Cos(float64(i)/700)/50)*1e7)/1e7
		p.LatDigits, p.LonDigits = nav.DigitsOf(7), nav.DigitsOf(7)
		p.SetTime(1773466200e9+int64(i)*1e9, nav.Seconds)
		p.SetHeight(float64(i%100), nav.DigitsOf(1), nav.OverSea)
	}
	benchmarkFormat(b, d, "gpx")
	benchmarkFormat(b, d, "keel")
}

// benchmarkFormat writes a file and reads it, as a user's card is.
func benchmarkFormat(b *testing.B, d *nav.Dataset, name string) {
	f := all.Formats.ByName(name)
	file := filepath.Join(b.TempDir(), "card")
	b.Run("write "+name, func(b *testing.B) {
		for b.Loop() {
			_, err := safefile.WriteAll(file, true, func(w io.Writer) error {
				_, err := f.Write(w, d, &format.WriteOptions{})
				return err
			})
			if err != nil {
				b.Fatal(err)
			}
			b.StopTimer()
			matches, _ := filepath.Glob(file + ".before-*")
			for _, m := range matches {
				os.Remove(m)
			}
			b.StartTimer()
		}
	})
	b.Run("read "+name, func(b *testing.B) {
		for b.Loop() {
			src, err := format.Open(file, nil)
			if err != nil {
				b.Fatal(err)
			}
			if _, err := f.Read(src, &format.ReadOptions{}); err != nil {
				b.Fatal(err)
			}
			src.Close()
		}
	})
}
