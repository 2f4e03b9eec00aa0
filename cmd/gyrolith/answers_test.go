package main

import (
	"archive/zip"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
)

// answer runs the program and reads its JSON.
func (f *folder) answer(args ...string) map[string]any {
	f.t.Helper()
	r := f.must(args...)
	var v map[string]any
	if err := json.Unmarshal([]byte(r.out), &v); err != nil {
		f.t.Fatalf("%v: %v\n%s", args, err, r.out)
	}
	return v
}

// Every verb answers in JSON on standard output, and says nothing else there.
func TestJSONAnswers(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	f.putTerrain()
	f.put("card/.here", "")
	v := f.answer("convert", "planning.kmz", "-o", "a.gpx", "--json")
	if v["output"] != "a.gpx" || v["format"] != "gpx" || v["waypoints"] != 26.0 || len(v["ledger"].([]any)) != 1 {
		t.Errorf("convert: %v", v)
	}
	entry := v["ledger"].([]any)[0].(map[string]any)
	if entry["property"] != "attached files" || entry["count"] != 2.0 || entry["loss"] != true {
		t.Errorf("its ledger: %v", entry)
	}
	v = f.answer("clean", "walk.gpx", "-o", "b.gpx", "--json")
	words := map[string]float64{}
	for _, e := range v["ledger"].([]any) {
		e := e.(map[string]any)
		words[e["property"].(string)] += e["count"].(float64)
		if e["asked"] != true {
			t.Errorf("what clean removed was asked for: %v", e)
		}
	}
	if words["strays"] != 2 || words["spikes"] != 4 || words["repeats"] != 4 {
		t.Errorf("clean: %v", words)
	}
	v = f.answer("elevate", "b.gpx", "--terrain", "terrain", "-o", "c.gpx", "--json")
	if len(v["ledger"].([]any)) == 0 {
		t.Errorf("elevate: %v", v)
	}
	v = f.answer("compare", "b.gpx", "c.gpx", "--json")
	if len(v["differences"].([]any)) != 2 || v["matched"] != 3.0 {
		t.Errorf("compare: %v", v)
	}
	v = f.answer("stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--json")
	if len(v["files"].([]any)) != 12 || len(v["differences"].([]any)) != 0 {
		t.Errorf("stow: %v", v)
	}
	v = f.answer("boot", "--unit", "ridge", "--card", "card", "--json")
	shows := v["shows"].(map[string]any)["files"].([]any)[0].(map[string]any)
	if shows["waypoints"] != 26.0 || shows["tracks"] != 11.0 || len(v["ignored"].([]any)) != 0 {
		t.Errorf("boot: %v", shows)
	}
	v = f.answer("formats", "--json")
	if len(v["formats"].([]any)) < 5 {
		t.Errorf("formats: %v", v)
	}
}

// Data go to standard output, everything said to standard error, and --quiet says nothing.
func TestStreams(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	r := f.must("convert", "walk.gpx", "--write-as", "kml", "-o", "-")
	if !strings.HasPrefix(r.out, "<?xml") || !strings.HasSuffix(r.out, "</kml>\n") ||
		!strings.Contains(r.err, "wrote standard output") {
		t.Errorf("standard output begins %.40q and ends %q", r.out, r.out[max(0, len(r.out)-40):])
	}
	r = f.must("convert", "walk.gpx", "-o", "q.kml", "--quiet")
	if r.out != "" || r.err != "" {
		t.Errorf("quiet says %q %q", r.out, r.err)
	}
	r = f.must("convert", "walk.gpx", "-o", "v.kml", "--verbose")
	if !strings.Contains(r.err, "msg=read file=walk.gpx format=gpx") || !strings.Contains(r.err, "msg=wrote") {
		t.Errorf("the log: %s", r.err)
	}
	f.refuses(2, "both use standard output", "convert", "walk.gpx", "--write-as", "kml", "-o", "-", "--json")
	if strings.Contains(f.must("look", "walk.gpx").out, "\x1b[") {
		t.Error("colours where there is no terminal")
	}
}

// Measures, notations and clocks change what is shown, not what is written.
func TestShownIn(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	for _, c := range []struct {
		args []string
		want []string
	}{
		{nil, []string{"8.79 km", "47.58820° S 11.32180° E", "05:31:20 to 08:00:10", "3.2–239 m", "UTC"}},
		{[]string{"--measure", "nautical"}, []string{"4.75 nm", "3.2–239 m"}},
		{[]string{"--measure", "flight"}, []string{"4.75 nm", "10–785 ft"}},
		{[]string{"--notation", "min"}, []string{"47°35.292′ S 011°19.308′ E"}},
		{[]string{"--notation", "sec"}, []string{"47°35′17.5″ S 011°19′18.5″ E"}},
		{[]string{"--clock", "+05:30"}, []string{"11:01:20 to 13:30:10", "UTC+05:30"}},
	} {
		out := f.must(append([]string{"look", "walk.gpx"}, c.args...)...).out
		for _, want := range c.want {
			if !strings.Contains(out, want) {
				t.Errorf("%v: %q is not shown:\n%s", c.args, want, out)
			}
		}
	}
	f.must("convert", "walk.gpx", "-o", "a.gpx", "--measure", "flight", "--notation", "sec", "--clock", "+05:30")
	f.must("convert", "walk.gpx", "-o", "b.gpx")
	if f.get("a.gpx") != f.get("b.gpx") {
		t.Error("the file depends on how things are shown")
	}
}

// A time that names no zone is read by the clock that is given, and otherwise as UTC, which is said.
func TestClockReads(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("local.gpx", `<gpx><wpt lat="1" lon="2"><time>2026-03-14T05:30:00</time></wpt></gpx>`)
	f.must("convert", "local.gpx", "-o", "a.gpx", "--clock", "+02:00")
	if !strings.Contains(f.get("a.gpx"), "<time>2026-03-14T03:30:00Z</time>") {
		t.Errorf("got %s", f.get("a.gpx"))
	}
	r := f.must("convert", "local.gpx", "-o", "b.gpx")
	if !strings.Contains(f.get("b.gpx"), "<time>2026-03-14T05:30:00Z</time>") || !strings.Contains(r.err, "read as UTC") {
		t.Errorf("got %s, said %s", f.get("b.gpx"), r.err)
	}
}

// A file that can't be used does not hide the others from look; a verb that makes data makes none.
func TestOneBadFileOfSeveral(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("good.gpx", `<gpx><wpt lat="1" lon="2"><name>P</name></wpt></gpx>`)
	f.put("bad.gpx", "<gpx>")
	r := f.run("look", "good.gpx", "bad.gpx", "none.gpx")
	if r.status != 1 || !strings.Contains(r.out, "• P") || !strings.Contains(r.err, "bad.gpx:1:6") ||
		!strings.Contains(r.err, "none.gpx: there is no such file") {
		t.Errorf("status %d\n%s\n%s", r.status, r.out, r.err)
	}
	f.refuses(1, "bad.gpx", "convert", "good.gpx", "bad.gpx", "-o", "out.kml")
}

// What is archived of a card is what stood there, byte for byte.
func TestArchiveOfACard(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.put("card/RIDGE/WAYPOINTS/planning.gpx", "the season before")
	f.refuses(1, "RIDGE/WAYPOINTS/planning.gpx:1:18: there is no <gpx> element", "stow", "planning.kmz", "--unit",
		"ridge", "--card", "card")
	if got := f.get("card/RIDGE/WAYPOINTS/planning.gpx"); got != "the season before" {
		t.Errorf("a refused stow changed the card: %.40q", got)
	}
	r := f.must("stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--replace")
	if !strings.Contains(r.err, "1 file was replaced") {
		t.Errorf("said: %s", r.err)
	}
	// Without --archives the archive is in the user's data folder.
	matches, _ := filepath.Glob(f.path("data/gyrolith/cards/ridge-*.zip"))
	if len(matches) != 1 {
		t.Fatalf("archives %v in %v", matches, f.list())
	}
	z, err := zip.OpenReader(matches[0])
	if err != nil {
		t.Fatal(err)
	}
	defer z.Close()
	if len(z.File) != 2 || z.File[0].Name != "RIDGE/WAYPOINTS/planning.gpx" || z.File[1].Name != "gyrolith-before.json" {
		t.Fatalf("it holds %v", z.File)
	}
	in, err := z.File[0].Open()
	if err != nil {
		t.Fatal(err)
	}
	if b, _ := io.ReadAll(in); string(b) != "the season before" {
		t.Errorf("it holds %q", b)
	}
}

// A route's points get the names that the waypoints got which they are.
func TestRoutePointsKeepTheirNames(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("card/.here", "")
	f.put("a.gpx", `<gpx><wpt lat="-47.6" lon="11.3"><name>Lantern Head north</name></wpt><rte><name>Run</name><rtept `+
		`lat="-47.6" lon="11.3"><name>Lantern Head north</name></rtept><rtept lat="-47.7" lon="11.3"/></rte></gpx>`)
	f.must("stow", "a.gpx", "--unit", "ridge", "--card", "card", "--strict")
	route := f.get("card/RIDGE/ROUTES/Run.gpx")
	if !strings.Contains(route, "<name>Lantern Head N</name>") || !strings.Contains(route, "<name>2</name>") {
		t.Errorf("the route: %s", route)
	}
}

// Several inputs are merged, in their order, into one file.
func TestMerge(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("a.gpx", `<gpx><metadata><name>First</name></metadata><wpt lat="1" lon="2"><name>A</name></wpt></gpx>`)
	f.put("b.kml", `<kml><Document><name>Second</name><Placemark><name>B</name><Point><coordinates>3,4</coordinates>`+
		`</Point></Placemark></Document></kml>`)
	r := f.runWith(`{"type":"Point","coordinates":[5,6]}`, "convert", "a.gpx", "b.kml", "-", "-o", "all.gpx")
	if r.status != 0 {
		t.Fatal(r.err)
	}
	all := f.get("all.gpx")
	if a, b, c := strings.Index(all, "<name>A<"), strings.Index(all, "<name>B<"), strings.Index(all, `lat="6"`); a < 0 ||
		b < a || c < b || !strings.Contains(all, "<name>First<") {
		t.Errorf("got %s", all)
	}
}

// A folder that can't be written is said, and nothing is left behind.
func TestLockedFolder(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" || os.Getuid() == 0 {
		t.Skip("needs a folder that this user can't write")
	}
	f := newFolder(t)
	f.putDemo("walk.gpx")
	f.put("locked/.here", "")
	if err := os.Chmod(f.path("locked"), 0o555); err != nil {
		t.Fatal(err)
	}
	f.refuses(1, "permission denied in its folder", "convert", "walk.gpx", "-o", "locked/out.kml")
}

// The shell completes the values of options from the tables, and never runs what stands on the line.
func TestCompletion(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	for want, args := range map[string][]string{"ridge": {"stow", "--unit"}, "walk": {"clean", "x.gpx", "--carrier"},
		"spikes": {"clean", "--also"}, "geojson": {"convert", "--write-as"}, "--also": {"clean", "--al"},
		"nautical": {"look", "--measure"}} {
		if args[len(args)-1] != "--al" {
			args = append(args, "")
		}
		r := f.run(append([]string{"__complete", "fish"}, args...)...)
		if !strings.Contains(r.out, want) || r.status != 0 {
			t.Errorf("%v completes to %q", args, r.out)
		}
	}
	if len(f.list()) > 0 {
		t.Errorf("files were written: %v", f.list())
	}
}

// The manual has a page a verb, made of the tables.
func TestManual(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.must("man", "pages")
	if page := f.get("pages/gyrolith-clean.1"); !strings.Contains(page, "spike") || !strings.HasPrefix(page, ".") {
		t.Errorf("%.200s", page)
	}
	f.refuses(1, "already exists", "man", "pages")
}
