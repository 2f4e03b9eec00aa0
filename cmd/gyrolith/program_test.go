package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"gyrolith/demo"
)

// program is the built program, which these tests drive on files in temporary folders.
var program string

// breakable gives the program built so that it can be killed at a step of its work.
var breakable = sync.OnceValues(func() (string, error) {
	path := strings.TrimSuffix(program, ".exe") + "-breakable" + filepath.Ext(program)
	build := exec.Command("go", "build", "-tags", "breakoff", "-o", path, ".")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	out, err := build.CombinedOutput()
	if err != nil {
		err = fmt.Errorf("%s%w", out, err)
	}
	return path, err
})

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "gyrolith-test-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	program = filepath.Join(dir, "gyrolith")
	if runtime.GOOS == "windows" {
		program += ".exe"
	}
	build := exec.Command("go", "build", "-o", program, ".")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := build.CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "%s%v\n", out, err)
		os.Exit(1)
	}
	status := m.Run()
	os.RemoveAll(dir)
	os.Exit(status)
}

// result is how a run of the program ended.
type result struct {
	status   int
	out, err string
}

// folder is a temporary folder that the program runs in.
type folder struct {
	t       testing.TB
	dir     string
	program string
	env     []string // besides the usual one
}

func newFolder(t testing.TB) *folder { return &folder{t: t, dir: t.TempDir(), program: program} }

// killedAt has the program of this folder killed at a step of its work, counted from 1; 0 lets it live.
func (f *folder) killedAt(step int) {
	f.t.Helper()
	path, err := breakable()
	if err != nil {
		f.t.Fatal(err)
	}
	f.program, f.env = path, []string{fmt.Sprint("GYROLITH_DIE_AT=", step)}
	if step == 0 {
		f.env = nil
	}
}

func (f *folder) path(name string) string { return filepath.Join(f.dir, filepath.FromSlash(name)) }

func (f *folder) put(name, content string) {
	f.t.Helper()
	if err := os.MkdirAll(filepath.Dir(f.path(name)), 0o777); err != nil {
		f.t.Fatal(err)
	}
	if err := os.WriteFile(f.path(name), []byte(content), 0o666); err != nil {
		f.t.Fatal(err)
	}
}

func (f *folder) get(name string) string {
	f.t.Helper()
	b, err := os.ReadFile(f.path(name))
	if err != nil {
		f.t.Fatal(err)
	}
	return string(b)
}

// putDemo puts a file of the example scenario.
func (f *folder) putDemo(names ...string) {
	f.t.Helper()
	for _, name := range names {
		b, err := demo.Files.ReadFile("files/" + name)
		if err != nil {
			f.t.Fatal(err)
		}
		f.put(name, string(b))
	}
}

// list gives all files below the folder, with slashes.
func (f *folder) list() []string {
	var names []string
	filepath.Walk(f.dir, func(path string, info os.FileInfo, err error) error {
		if err == nil && !info.IsDir() {
			rel, _ := filepath.Rel(f.dir, path)
			names = append(names, filepath.ToSlash(rel))
		}
		return nil
	})
	return names
}

func (f *folder) runWith(stdin string, args ...string) result {
	f.t.Helper()
	cmd := exec.Command(f.program, args...)
	cmd.Dir = f.dir
	cmd.Env = append(os.Environ(), "XDG_DATA_HOME="+f.path("data"), "HOME="+f.dir, "NO_COLOR=1")
	cmd.Env = append(cmd.Env, f.env...)
	cmd.Stdin = strings.NewReader(stdin)
	var out, errOut bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errOut
	err := cmd.Run()
	if err != nil && cmd.ProcessState == nil {
		f.t.Fatal(err)
	}
	return result{cmd.ProcessState.ExitCode(), out.String(), errOut.String()}
}

func (f *folder) run(args ...string) result { f.t.Helper(); return f.runWith("", args...) }

// must runs the program and expects it to succeed.
func (f *folder) must(args ...string) result {
	f.t.Helper()
	r := f.run(args...)
	if r.status != 0 {
		f.t.Fatalf("gyrolith %s: status %d\n%s%s", strings.Join(args, " "), r.status, r.out, r.err)
	}
	return r
}

// refuses runs the program and expects one line of complaint with the words, a status, and no new file.
func (f *folder) refuses(status int, words string, args ...string) result {
	f.t.Helper()
	before := fmt.Sprint(f.list())
	r := f.run(args...)
	line := lastLine(r.err)
	if r.status != status || !strings.Contains(line, words) || !strings.HasPrefix(line, "gyrolith: ") {
		f.t.Errorf("gyrolith %s:\nstatus %d, want %d\n%s\nwant %q", strings.Join(args, " "), r.status, status, r.err, words)
	}
	if after := fmt.Sprint(f.list()); after != before {
		f.t.Errorf("gyrolith %s left files behind: %s, before %s", strings.Join(args, " "), after, before)
	}
	return r
}

func lastLine(text string) string {
	lines := strings.Split(strings.TrimRight(text, "\n"), "\n")
	return lines[len(lines)-1]
}

type looked struct {
	Files []struct {
		Path, Format                     string
		Waypoints, Routes, Tracks, Areas int
		Points                           int
		Length                           float64   `json:"length_m"`
		Bounds                           []float64 `json:"bounds"`
		Time                             []string
		Heights                          int
		Items                            []struct {
			Kind, Name, Group string
			Points            int
		}
		Problems []struct {
			Code  string
			Count int
			Text  string
		}
	}
}

func (f *folder) look(args ...string) looked {
	f.t.Helper()
	var l looked
	r := f.must(append([]string{"look", "--json"}, args...)...)
	if err := json.Unmarshal([]byte(r.out), &l); err != nil {
		f.t.Fatalf("%v\n%s", err, r.out)
	}
	return l
}

func TestLookJSON(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	l := f.look("planning.kmz", "walk.gpx")
	plan, walk := l.Files[0], l.Files[1]
	if plan.Format != "kmz" || plan.Waypoints != 26 || plan.Tracks != 8 || plan.Areas != 3 ||
		plan.Items[0].Group != "Landings" {
		t.Errorf("plan %+v", plan)
	}
	if walk.Format != "gpx" || walk.Tracks != 1 || len(walk.Time) != 2 || walk.Time[0] != "2026-03-14T05:31:20Z" ||
		walk.Heights == 0 {
		t.Errorf("walk %+v", walk)
	}
	if len(walk.Bounds) != 4 || walk.Bounds[0] < 11 || walk.Bounds[1] > -47 {
		t.Errorf("bounds %v", walk.Bounds)
	}
	found := map[string]int{}
	for _, p := range walk.Problems {
		found[p.Code] = p.Count
	}
	if found["strays"] != 2 || found["repeats"] != 4 || found["order"] == 0 || found["spikes"] == 0 {
		t.Errorf("problems %v", found)
	}
}

// A file of hundreds of items stays readable, and --all shows every one.
func TestLookManyItems(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	for i := range 300 {
		fmt.Fprintf(&b, "<wpt lat='-47.6' lon='11.%03d'><name>Rock %d</name></wpt>", i, i)
	}
	f.put("rocks.gpx", "<gpx>"+b.String()+"</gpx>")
	short := f.must("look", "rocks.gpx").out
	if n := strings.Count(short, "\n"); n > 25 || !strings.Contains(short, "Rock 299") ||
		!strings.Contains(short, "295 more") {
		t.Errorf("%d lines:\n%s", n, short)
	}
	if all := f.must("look", "--all", "rocks.gpx").out; strings.Count(all, "Rock ") != 300 {
		t.Errorf("--all shows %d", strings.Count(all, "Rock "))
	}
}

// The content decides, never the name.
func TestContentDecides(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	gpx := `<gpx><wpt lat="-47.6" lon="11.3"><name>P</name></wpt></gpx>`
	f.put("a.gpx", gpx)
	f.must("convert", "a.gpx", "-o", "b.kmz")
	f.put("gpx.kml", gpx)
	f.put("kmz.zip", f.get("b.kmz"))
	f.put("kmz.txt", f.get("b.kmz"))
	f.must("convert", "a.gpx", "-o", "c.geojson")
	f.put("noext", f.get("c.geojson"))
	l := f.look("gpx.kml", "kmz.zip", "kmz.txt", "noext")
	var got []string
	for _, x := range l.Files {
		got = append(got, fmt.Sprint(x.Format, x.Waypoints))
	}
	if fmt.Sprint(got) != "[gpx1 kmz1 kmz1 geojson1]" {
		t.Errorf("got %v", got)
	}
	if r := f.runWith(gpx, "convert", "-", "--write-as", "geojson", "-o", "-"); r.status != 0 ||
		!strings.Contains(r.out, `"Point"`) {
		t.Errorf("standard input and output: %+v", r)
	}
}

// Through every format and back nothing of the plan is lost that the formats can carry.
func TestConvertThroughFormats(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.must("convert", "planning.kmz", "-o", "0.kmz")
	f.must("convert", "0.kmz", "-o", "1.gpx")
	f.must("convert", "1.gpx", "-o", "2.geojson")
	f.must("convert", "2.geojson", "-o", "3.geojsons")
	f.must("convert", "3.geojsons", "--write-as", "kml:2.3", "-o", "4")
	f.must("convert", "4.kml", "-o", "5.gpx")
	if f.get("1.gpx") == f.get("5.gpx") {
		return
	}
	a, b := f.look("1.gpx").Files[0], f.look("5.gpx").Files[0]
	if fmt.Sprint(a.Items) != fmt.Sprint(b.Items) || a.Length != b.Length || fmt.Sprint(a.Bounds) != fmt.Sprint(b.Bounds) {
		t.Errorf("before %+v\nafter %+v", a, b)
	}
}

// The same input gives the same bytes.
func TestSameBytes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	for _, ext := range []string{"kml", "kmz", "gpx", "geojson", "geojsons"} {
		f.must("convert", "planning.kmz", "walk.gpx", "-o", "a."+ext)
		f.must("convert", "planning.kmz", "walk.gpx", "-o", "b."+ext)
		if f.get("a."+ext) != f.get("b."+ext) {
			t.Errorf("%s differs from one run to the next", ext)
		}
	}
}

func TestSelectionOptions(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	for _, c := range []struct {
		args []string
		want string
	}{
		{[]string{"--take", "waypoints:Landings", "planning.kmz"}, "6 0 0 0"},
		{[]string{"--take", "waypoints:Rock ?", "--take", "areas", "planning.kmz"}, "9 0 0 3"},
		{[]string{"planning.kmz", "--leave", "all:Nesting*", "--leave", "waypoints"}, "0 0 8 0"},
		{[]string{"--inside", "-180,-90,0,0", "planning.kmz"}, "0 0 0 0"},
		{[]string{"--inside", "11.30,-47.60,11.35,-47.58", "--take", "tracks", "planning.kmz"}, "0 0 6 0"},
		{[]string{"--since", "2026-03-14T07:00Z", "walk.gpx"}, "0 0 1 0"},
		{[]string{"--until", "2026-03-13", "walk.gpx"}, "0 0 0 0"},
		{[]string{"--clock", "+02:00", "--since", "2026-03-14T09:00", "walk.gpx"}, "0 0 1 0"},
	} {
		x := f.look(c.args...).Files[0]
		if got := fmt.Sprint(x.Waypoints, x.Routes, x.Tracks, x.Areas); got != c.want {
			t.Errorf("%v: got %s, want %s", c.args, got, c.want)
		}
	}
	f.refuses(1, "nothing in these files matches", "convert", "walk.gpx", "--take", "routes", "-o", "x.gpx")
	f.put("two.csv", "name,lat,lon\nRock 1,-47.5,11.3\nRock 2,-47.6,11.3\n")
	f.refuses(3, "the choice \"all:Rok 2\" matches nothing; the nearest: waypoint \"Rock 2\"; refused by --strict",
		"convert", "two.csv", "--take", "waypoints:Rock*", "--leave", "all:Rok 2", "--strict", "-o", "x.gpx")
	f.refuses(2, "since is later than until", "look", "walk.gpx", "--since", "2026-05-01", "--until", "2026-04-01")
	if r := f.must("look", "walk.gpx", "walk.gpx"); !strings.Contains(r.err, "is named twice") {
		t.Error(r.err)
	}
}

func TestNeverLoseAFile(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	f.put("out.kml", "precious")
	f.refuses(1, "out.kml: already exists", "convert", "walk.gpx", "-o", "out.kml")
	if f.get("out.kml") != "precious" {
		t.Error("the file was written over")
	}
	for range 2 {
		f.must("convert", "walk.gpx", "-o", "out.kml", "--replace")
	}
	if f.get("out.before-1.kml") != "precious" || f.get("out.before-2.kml") != f.get("out.kml") {
		t.Error("the older files are not kept")
	}
	f.refuses(2, "inputs are never changed", "convert", "walk.gpx", "-o", "walk.gpx", "--replace")
	f.refuses(2, "inputs are never changed", "convert", "walk.gpx", "-o", "./walk.gpx", "--replace")
	f.refuses(1, "there is no folder", "convert", "walk.gpx", "-o", "nowhere/out.kml")
	f.refuses(2, "the extension of x.doc is not that of a format", "convert", "walk.gpx", "-o", "x.doc")
	f.must("convert", "walk.gpx", "-o", "dry.kml", "--dry-run")
	if _, err := os.Stat(f.path("dry.kml")); err == nil {
		t.Error("a dry run wrote a file")
	}
}

// Bad input gets one line with the place, the reason and what to do, and leaves nothing behind.
func TestBadInput(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	whole := f.get("walk.gpx")
	f.put("cut.gpx", whole[:len(whole)/2])
	f.put("cut.kmz", f.get("planning.kmz")[:2000])
	f.put("page.kml", "<!DOCTYPE html><html><body>502 Bad Gateway</body></html>")
	f.put("picture.gpx", "\x89PNG\r\n\x1a\n")
	f.put("empty.gpx", "")
	f.put("zeros.gpx", strings.Repeat("\x00", 5000))
	f.put("tags.gpx", "<gpx>\n<trk>\n  <trkseg></trk></gpx>")
	f.put("deep.gpx", "<gpx>"+strings.Repeat("<extensions>", 300000))
	f.put("bomb.gpx", `<!DOCTYPE lolz [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><gpx><wpt `+
		`lat="1" lon="1"><name>&b;</name></wpt></gpx>`)
	f.put("file.gpx", `<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/hostname">]><gpx><wpt lat="1" lon="1"><name>&x;`+
		`</name></wpt></gpx>`)
	f.put("words.txt", "meet us at the landing")
	f.put("other.xml", "<svg/>")
	f.put("none.gpx", "<gpx/>")
	for _, c := range []struct{ file, words string }{
		{"cut.gpx", "the file is cut off"}, {"cut.kmz", "damaged or cut off"}, {"page.kml", "is an HTML page"},
		{"picture.gpx", "is a PNG picture"}, {"empty.gpx", "is empty (0 bytes)"}, {"zeros.gpx", "zero bytes"},
		{"tags.gpx", "tags.gpx:3:11: <trkseg> is closed by </trk>"}, {"deep.gpx", "nested more than 1000 deep"},
		{"bomb.gpx", "declares entities"}, {"file.gpx", "declares entities"}, {"words.txt", "not in a recognised format"},
		{"other.xml", "outermost element is <svg>"}, {"missing.gpx", "there is no such file"},
		{"none.gpx", "holds no waypoint"},
	} {
		began := time.Now()
		f.refuses(1, c.words, "convert", c.file, "-o", "out.kml")
		if took := time.Since(began); took > 5*time.Second {
			t.Errorf("%s took %v", c.file, took)
		}
	}
	if r := f.run("convert", "cut.gpx", "-o", "out.kml"); !strings.Contains(r.err, "cut.gpx:") ||
		!strings.Contains(r.err, "--salvage") {
		t.Errorf("the cut file: %s", r.err)
	}
	if r := f.must("convert", "cut.gpx", "--salvage", "-o", "saved.gpx"); !strings.Contains(r.err, "is cut off") {
		t.Errorf("salvage does not say where: %s", r.err)
	}
	if n := f.look("saved.gpx").Files[0].Points; n < 800 || n > 1000 {
		t.Errorf("%d points were saved", n)
	}
}

func TestStrict(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	f.refuses(3, "refused by --strict", "convert", "walk.gpx", "--strict", "-o", "x.kml")
	f.refuses(3, "refused by --strict", "convert", "planning.kmz", "--strict", "-o", "x.gpx")
	f.refuses(3, "refused by --strict", "look", "walk.gpx", "--strict")
	f.put("one.gpx", `<gpx><wpt lat="-47.6" lon="11.3"><name>P</name></wpt></gpx>`)
	f.must("convert", "one.gpx", "--strict", "-o", "x.kml")
}

func TestUsage(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	for _, c := range []struct {
		words string
		args  []string
	}{
		{"name at least one file", []string{"look"}},
		{"no output given", []string{"convert", "walk.gpx"}},
		{"there is no verb \"lok\"; did you mean \"look\"", []string{"lok", "walk.gpx"}},
		{"there is no option --tak", []string{"look", "--tak", "waypoints", "walk.gpx"}},
		{"--take: \"rocks\" is not a kind of item", []string{"look", "--take", "rocks", "walk.gpx"}},
		{"--inside: \"1,2,3\" is not a box", []string{"look", "--inside", "1,2,3", "walk.gpx"}},
		{"--since: \"yesterday\" is not a time", []string{"look", "--since", "yesterday", "walk.gpx"}},
		{"there is no format \"gpz\"", []string{"convert", "walk.gpx", "--write-as", "gpz", "-o", "x"}},
		{"--clock: \"noon\" is not a time zone", []string{"look", "--clock", "noon", "walk.gpx"}},
		{"--measure: \"furlongs\"", []string{"look", "--measure", "furlongs", "walk.gpx"}},
		{"followed by the option --replace", []string{"convert", "walk.gpx", "-o", "--replace"}},
		{"--write-as", []string{"convert", "walk.gpx", "-o", "-"}},
		{"there is no unit \"rigde\"", []string{"stow", "walk.gpx", "--unit", "rigde", "--card", "."}},
		{"no card given", []string{"stow", "walk.gpx", "--unit", "ridge"}},
		{"needs a value", []string{"look", "walk.gpx", "--take"}},
		{"standard input can be read only once", []string{"look", "-", "-"}},
	} {
		f.refuses(2, c.words, c.args...)
	}
}

// Names full of mischief harm neither the terminal, nor a path, nor a later reader.
func TestHostileNames(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	names := []string{"\x1b[2J\x1b]0;owned\x07", "../../../etc/passwd", "CON", "a/b\\c:d*e?f\"g<h>i|j", "..",
		"\u202eelgnat", "line\nbreak", strings.Repeat("long ", 100), "' onload=alert(1)", "nul.gpx", " ", "\u0000"}
	var features []string
	for _, n := range names {
		quoted, _ := json.Marshal(n)
		features = append(features,
			fmt.Sprintf(`{"type":"Feature","properties":{"name":%s},"geometry":{"type":"LineString","coordinates":[[11,-47],`+
				`[12,-47]]}}`, quoted))
	}
	f.put("bad.geojson", `{"type":"FeatureCollection","features":[`+strings.Join(features, ",")+`]}`)
	if out := f.must("look", "bad.geojson").out; strings.ContainsAny(out, "\x1b\x07\x00") ||
		strings.Contains(out, "\u202e") {
		t.Errorf("raw control characters: %q", out)
	}
	f.put("card/.here", "")
	f.must("stow", "bad.geojson", "--unit", "ridge", "--card", "card")
	files := 0
	for _, name := range f.list() {
		if strings.HasSuffix(name, ".gpx") {
			files++
			if !strings.HasPrefix(name, "card/RIDGE/TRACKS/") || strings.Count(name, "/") != 3 {
				t.Errorf("a file outside of its folder: %s", name)
			}
			base := strings.ToLower(strings.TrimSuffix(filepath.Base(name), ".gpx"))
			if base == "con" || base == "nul" || strings.ContainsAny(base, `\:*?"<>|`) {
				t.Errorf("a file's name that some systems refuse: %s", name)
			}
		}
	}
	if files != len(names) {
		t.Errorf("%d files for %d tracks", files, len(names))
	}
	for _, ext := range []string{"gpx", "kml", "geojson"} {
		f.must("convert", "bad.geojson", "-o", "out."+ext)
		if n := f.look("out." + ext).Files[0].Tracks; n != len(names) {
			t.Errorf("%s: %d tracks come back", ext, n)
		}
	}
}

func TestStowAndBoot(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	f.refuses(1, "no such folder", "stow", "planning.kmz", "--unit", "ridge", "--card", "card")
	f.put("card/photo.jpg", "picture")
	r := f.must("stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--dry-run")
	if len(f.list()) != 3 || !strings.Contains(r.err, "would write") {
		t.Errorf("the dry run wrote: %v", f.list())
	}
	r = f.must("stow", "planning.kmz", "--unit", "ridge", "--card", "card")
	for _, want := range []string{"Lantern Head north", "Lantern Head N", "the unit shows what was intended"} {
		if !strings.Contains(r.err, want) {
			t.Errorf("%q is not said:\n%s", want, r.err)
		}
	}
	if f.get("card/photo.jpg") != "picture" {
		t.Error("a foreign file on the card was touched")
	}
	boot := f.must("boot", "--unit", "ridge", "--card", "card").out
	for _, want := range []string{"WAYPOINTS 26 of 2,000", "TRACKS 11 of 100", "Lantern Head S"} {
		if !strings.Contains(boot, want) {
			t.Errorf("the unit does not show %q:\n%s", want, boot)
		}
	}
	// A second stow is refused, then allowed, and the old state is archived off the card.
	f.refuses(1, "--replace", "stow", "planning.kmz", "--unit", "ridge", "--card", "card")
	old := f.get("card/RIDGE/WAYPOINTS/planning.gpx")
	r = f.must("stow", "planning.kmz", "--take", "waypoints:Landings", "--unit", "ridge", "--card", "card", "--replace",
		"--archives", "kept")
	if f.get("card/RIDGE/WAYPOINTS/planning.gpx") == old {
		t.Error("the file was not replaced")
	}
	var archives int
	for _, name := range f.list() {
		if strings.HasPrefix(name, "kept/ridge-") && strings.HasSuffix(name, ".zip") {
			archives++
		}
		if strings.Contains(name, ".part") || strings.Contains(name, "before") {
			t.Errorf("left on the card: %s", name)
		}
	}
	if archives != 1 {
		t.Errorf("%d archives: %v", archives, f.list())
	}
	f.refuses(1, "is on the card itself", "stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--replace",
		"--archives", "card/old")
	f.refuses(3, "refused by --strict", "stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--strict")
}

// A stow that can't be carried through leaves the card as it was.
func TestStowFails(t *testing.T) {
	t.Parallel()
	if os.Getuid() == 0 && runtime.GOOS != "linux" {
		t.Skip("needs a folder that can't be written")
	}
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.put("card/RIDGE/TRACKS", "a file where a folder belongs")
	f.refuses(1, "the card is as it was", "stow", "planning.kmz", "--unit", "ridge", "--card", "card")
}

func TestDemo(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := f.must("demo", "there")
	for _, want := range []string{"$ gyrolith look planning.kmz", "$ gyrolith stow dressed.kmz",
		"the unit shows what was intended", "WAYPOINTS 26 of 2,000"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("%q is missing:\n%s", want, r.out)
		}
	}
	f.refuses(1, "is not empty", "demo", "there")
}

func TestFormatsAndUnits(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	if out := f.must("formats").out; !strings.Contains(out, "geojsonseq") || !strings.Contains(out, "RFC 7946") {
		t.Errorf("formats: %s", out)
	}
	if out := f.must("units", "ridge").out; !strings.Contains(out, "16 characters") ||
		!strings.Contains(out, "[waypoints]") {
		t.Errorf("units: %s", out)
	}
	if out := f.must("--version").out; !strings.Contains(out, "gyrolith") {
		t.Errorf("version: %s", out)
	}
	for _, shell := range []string{"bash", "zsh", "fish", "pwsh"} {
		if out := f.must("completion", shell).out; len(out) < 100 {
			t.Errorf("completion for %s: %.80s", shell, out)
		}
	}
}

// An interrupted run leaves no half-written file.
func TestInterrupted(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("needs signals")
	}
	f := newFolder(t)
	cmd := exec.Command(program, "convert", "-", "-o", "out.kml")
	cmd.Dir = f.dir
	in, err := cmd.StdinPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	in.Write([]byte("<gpx><trk><trkseg>"))
	time.Sleep(500 * time.Millisecond) // until it reads
	cmd.Process.Signal(os.Interrupt)
	cmd.Wait()
	if left := f.list(); len(left) > 0 || cmd.ProcessState.ExitCode() != 130 {
		t.Errorf("status %d, left %v", cmd.ProcessState.ExitCode(), left)
	}
}

// putTerrain puts the terrain of the example scenario.
func (f *folder) putTerrain() { f.putDemo("terrain/S48E011.zip") }

func TestClean(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	r := f.must("clean", "walk.gpx", "--also", "heights,stops,gaps", "-o", "clean.gpx", "--rejects", "removed.kml")
	for _, want := range []string{"strays       2", "repeats      4", "spikes       4", "2.02 km"} {
		if !strings.Contains(r.err, want) {
			t.Errorf("%q is not said:\n%s", want, r.err)
		}
	}
	rejects := f.look("removed.kml").Files[0]
	if rejects.Waypoints < 150 || !strings.HasPrefix(rejects.Items[0].Name, "strays") {
		t.Errorf("rejects %+v", rejects.Items[:1])
	}
	// A second run changes nothing, and compare says so.
	f.must("clean", "clean.gpx", "--also", "heights,stops,gaps", "-o", "again.gpx")
	if out := f.must("compare", "clean.gpx", "again.gpx", "--strict").out; out != "no difference\n" {
		t.Errorf("compare: %s", out)
	}
	if f.get("clean.gpx") != f.get("again.gpx") {
		t.Error("the second run writes other bytes")
	}
	// look names the same faults by the same detectors.
	found := map[string]int{}
	for _, p := range f.look("walk.gpx").Files[0].Problems {
		found[p.Code] = p.Count
	}
	if found["strays"] != 2 || found["repeats"] != 4 || found["spikes"] != 4 {
		t.Errorf("look finds %v", found)
	}
	f.must("clean", "walk.gpx", "--only", "order", "--thin-to", "100", "-o", "thin.gpx")
	if n := f.look("thin.gpx").Files[0].Points; n > 102 {
		t.Errorf("%d points are left", n)
	}
}

func TestCleanRefuses(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	for _, c := range []struct {
		words string
		args  []string
	}{
		{"\"jumps\" is not a fault", []string{"--also", "jumps"}},
		{"--top-speed: \"12\" has no unit", []string{"--top-speed", "12"}},
		{"--stop-longer: \"5m\" could be minutes or metres", []string{"--stop-longer", "5m"}},
		{"--thin-within: -3m is not greater than zero", []string{"--thin-within", "-3m"}},
		{"\"horse\" is not one of walk", []string{"--carrier", "horse"}},
		{"--thin-to: 1 is too small", []string{"--thin-to", "1"}},
		{"give only one", []string{"--thin-to", "5", "--thin-within", "3m"}},
		{"--only: lists every fault", []string{"--only", "spikes", "--also", "pins"}},
		{"--around: \"soon\" is not a time", []string{"--around", "soon"}},
		{"are the same file", []string{"--rejects", "out.gpx"}},
		{"are the same file", []string{"--rejects", "./out.gpx"}},
	} {
		f.refuses(2, c.words, append([]string{"clean", "walk.gpx", "-o", "out.gpx"}, c.args...)...)
	}
	f.refuses(3, "refused by --strict", "clean", "walk.gpx", "-o", "out.gpx", "--strict")
	// A loss that only the writer finds leaves no rejects behind either.
	f.put("sound.geojson", `{"type":"Point","coordinates":[11.3,-47.6,5]}`)
	f.refuses(3, "refused by --strict", "clean", "sound.geojson", "-o", "out.gpx", "--rejects", "r.gpx", "--strict")
}

func TestElevate(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz")
	f.putTerrain()
	r := f.must("elevate", "walk.gpx", "--terrain", "terrain", "-o", "high.gpx")
	if !strings.Contains(r.err, "39 points given a height, 1,748 already had one") {
		t.Errorf("said: %s", r.err)
	}
	if x := f.look("high.gpx").Files[0]; x.Heights != x.Points {
		t.Errorf("%d of %d points have a height", x.Heights, x.Points)
	}
	r = f.must("elevate", "planning.kmz", "--take", "tracks", "--terrain", "terrain", "-o", "paths.gpx")
	if !strings.Contains(r.err, "in a void)") {
		t.Errorf("said: %s", r.err)
	}
	r = f.must("elevate", "planning.kmz", "--take", "tracks", "--terrain", "terrain/S48E011.zip", "--fill-voids", "-o",
		"filled.gpx")
	if !strings.Contains(r.err, "119 points given a height") {
		t.Errorf("said: %s", r.err)
	}
	f.put("far.gpx", `<gpx><wpt lat="-47.5" lon="12.5"><name>Far</name></wpt><wpt lat="-47.6" lon="11.3"><name>`+
		`Near</name></wpt></gpx>`)
	r = f.must("elevate", "far.gpx", "--terrain", "terrain", "-o", "f.gpx")
	if !strings.Contains(r.err, "1 point given a height, 1 not (1 outside the terrain: tile S48E012 is missing)") {
		t.Errorf("said: %s", r.err)
	}
	f.refuses(3, "could not be given a height", "elevate", "far.gpx", "--terrain", "terrain", "-o", "g.gpx", "--strict")
	f.put("nothing/words.txt", "no terrain")
	f.refuses(1, "contains no terrain", "elevate", "walk.gpx", "--terrain", "nothing", "-o", "x.gpx")
	f.refuses(1, "there is no such terrain", "elevate", "walk.gpx", "--terrain", "nowhere", "-o", "x.gpx")
	f.refuses(2, "no source of heights given", "elevate", "walk.gpx", "-o", "x.gpx")
	f.refuses(2, "is not an interpolation", "elevate", "walk.gpx", "--terrain", "terrain", "--between", "guess", "-o",
		"x.gpx")
	f.refuses(2, "missing or always", "elevate", "walk.gpx", "--terrain", "terrain", "--when", "sometimes", "-o", "x.gpx")
}

func TestCompare(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("a.gpx", `<gpx><wpt lat="-47.6" lon="11.3"><name>A</name></wpt><wpt lat="-47.7" lon="11.3"><name>B</name>`+
		`</wpt></gpx>`)
	f.put("b.kml", `<kml><Placemark><name>B</name><Point><coordinates>11.3,-47.701</coordinates></Point></Placemark>`+
		`<Placemark><name>Aa</name><Point><coordinates>11.3,-47.6</coordinates></Point></Placemark></kml>`)
	out := f.must("compare", "a.gpx", "b.kml").out
	for _, want := range []string{"A", "renamed", "Aa", "B", "moved", "by 111 m"} {
		if !strings.Contains(out, want) {
			t.Errorf("%q is not said:\n%s", want, out)
		}
	}
	f.refuses(3, "differ (2 differences)", "compare", "a.gpx", "b.kml", "--strict")
	if out := f.must("compare", "a.gpx", "a.gpx", "--json").out; !strings.Contains(out, `"differences": []`) {
		t.Errorf("JSON: %s", out)
	}
	f.refuses(2, "name two files", "compare", "a.gpx")
}
