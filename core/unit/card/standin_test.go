package card

import (
	"context"
	"io"
	"math"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"testing/fstest"

	"gyrolith/core/compare"
	"gyrolith/core/decimal"
	"gyrolith/core/format"
	"gyrolith/core/format/all"
	"gyrolith/core/geodesy"
	"gyrolith/core/instant"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
	"gyrolith/core/unit"
	"gyrolith/core/unit/seasontest"
	"gyrolith/core/unit/standin"
)

func find(t testing.TB, name string) *unit.Profile {
	t.Helper()
	p, err := unit.Find(name, "")
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
		plan, err := Make(context.Background(), seasontest.Season(), p, "season", all.Formats)
		if err != nil {
			t.Fatal(err)
		}
		card := fstest.MapFS{}
		for _, f := range plan.Files {
			card[f.Path] = &fstest.MapFile{Data: f.Content}
		}
		shown, err := standin.Find(c.unit).Of(c.version)(card)
		if err != nil {
			t.Fatalf("%s: %v", c.unit, err)
		}
		if len(shown.Ignored) > 0 {
			t.Errorf("%s passes over %+v", c.unit, shown.Ignored)
		}
		result, err := compare.Compare(t.Context(), plan.Meant, shown.Data,
			compare.Options{Within: p.Resolution * geodesy.EquatorDegree})
		if err != nil {
			t.Fatal(err)
		}
		for _, d := range result.Differences {
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

func TestKeelRefuses(t *testing.T) {
	plan, err := Make(context.Background(), seasontest.Season(), find(t, "keel"), "x", all.Formats)
	if err != nil {
		t.Fatal(err)
	}
	good := plan.Files[0].Content
	boot := func(change func([]byte) []byte) error {
		_, err := standin.KeelOf(0)(fstest.MapFS{"keel/marks.krd": {Data: change(append([]byte{}, good...))}})
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
	if _, err := standin.KeelOf(0)(fstest.MapFS{}); err == nil {
		t.Error("an empty card is shown")
	}
	shown, err := standin.Vane(fstest.MapFS{"VANE/A.VPL": {Data: []byte("VANE PLAN 1\nSUM 1 0000\n")}, "VANE/B.TXT": {}})
	if err != nil || len(shown.Ignored) != 1 || !strings.Contains(shown.Ignored[0].Why, "wrong sum") {
		t.Errorf("%+v %v", shown, err)
	}
}

func FuzzKeel(f *testing.F) {
	plan, err := Make(context.Background(), seasontest.Season(), find(f, "keel"), "x", all.Formats)
	if err != nil {
		f.Fatal(err)
	}
	f.Add(plan.Files[0].Content)
	f.Fuzz(func(t *testing.T, b []byte) {
		shown, err := standin.KeelOf(0)(fstest.MapFS{"KEEL/MARKS.KRD": {Data: b}})
		if err == nil {
			usable(t, shown.Data)
		}
	})
}

func FuzzVane(f *testing.F) {
	plan, err := Make(context.Background(), seasontest.Season(), find(f, "vane"), "x", all.Formats)
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
	for p := range d.AllPoints() {
		if !nav.Usable(p.Lat, p.Lon) {
			t.Fatalf("position %v %v", p.Lat, p.Lon)
		}
	}
}

// A card takes a tenth of the time that the same data take as GPX.
func BenchmarkFormats(b *testing.B) {
	d := &nav.Dataset{Tracks: []nav.Track{seasontest.Line("Wake", 200000)}}
	for i := range d.Tracks[0].Segments[0].Points {
		p := &d.Tracks[0].Segments[0].Points[i]
		p.Lat, p.Lon = math.Round((-47.6+math.Sin(float64(i)/900)/50)*1e7)/1e7,
			math.Round((11.3+math.Cos(float64(i)/700)/50)*1e7)/1e7
		p.LatPrecision, p.LonPrecision = decimal.PrecisionOf(7), decimal.PrecisionOf(7)
		p.SetTime(1773466200e9+int64(i)*1e9, instant.Seconds)
		p.SetHeight(float64(i%100), decimal.PrecisionOf(1), nav.MeanSeaLevel)
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
			src, err := format.Open(context.Background(), file, nil)
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

// The stand-in has a reader of its own: what it would not show is found, whoever wrote the card.
func TestRidgeHabits(t *testing.T) {
	card := t.TempDir()
	put := func(name, text string) {
		path := filepath.Join(card, filepath.FromSlash(name))
		os.MkdirAll(filepath.Dir(path), 0o777)
		os.WriteFile(path, []byte(text), 0o666)
	}
	head := `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">`
	put("ridge/waypoints/A.GPX",
		head+`<wpt lat="-47.1234567" lon="11.3"><name>A name that is far too long é</name></wpt><wpt lat="99" lon="1"/>`+
			`<rte/></gpx>`)
	put("ridge/waypoints/old.gpx", `<gpx version="1.0" xmlns="http://www.topografix.com/GPX/1/0"/>`)
	put("ridge/waypoints/half.gpx", head)
	put("ridge/waypoints/notes.txt", "")
	put("ridge/tracks/t.gpx", head+"<trk><name>T</name><trkseg>"+strings.Repeat(`<trkpt lat="1" lon="2"/>`,
		10005)+"</trkseg></trk></gpx>")
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

// The stand-in meets any file on its card without harm, and shows only positions that there are.
func FuzzRidge(f *testing.F) {
	f.Add([]byte(`<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="1" lon="2"><name>x</name>` +
		`</wpt><rte><rtept lat="1" lon="2"/></rte><trk><trkseg><trkpt lat="1" lon="2"/></trkseg></trk></gpx>`))
	f.Fuzz(func(t *testing.T, data []byte) {
		card := fstest.MapFS{"RIDGE/WAYPOINTS/a.gpx": {Data: data}, "RIDGE/ROUTES/a.gpx": {Data: data},
			"RIDGE/TRACKS/a.gpx": {Data: data}}
		shown, err := standin.Ridge(card)
		if err != nil {
			t.Fatal(err)
		}
		for p := range shown.Data.AllPoints() {
			if !nav.Usable(p.Lat, p.Lon) {
				t.Fatalf("position %v %v", p.Lat, p.Lon)
			}
		}
	})
}

// What can't become the kind that a unit wants is left out and told, and does not stop the rest.
func TestWhatCannotBeTurned(t *testing.T) {
	p := *find(t, "kml-file")
	p.Tracks = unit.Kind{As: "areas"}
	p.Routes = unit.Kind{}
	d := seasontest.Season()
	plan, err := Make(context.Background(), d, &p, "x", all.Formats)
	if err != nil {
		t.Fatal(err)
	}
	if c := plan.Meant.Counts(); c[nav.Tracks] != 0 || c[nav.Areas] != 1 || c[nav.Waypoints] != 6 {
		t.Errorf("%v", c)
	}
	told := ""
	for _, e := range plan.Ledger {
		if e.Loss {
			told += string(e.What) + " of " + e.Name + "; "
		}
	}
	if !strings.Contains(told, "no area made of it of Walk") || !strings.Contains(told, "route of Run to the jetty") {
		t.Errorf("%s", told)
	}
}
