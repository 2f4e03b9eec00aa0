package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/jpeg"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// recording is a track that goes east from a time, a fix a minute.
func recording(name string, begin time.Time, fixes int) string {
	var b strings.Builder
	fmt.Fprintf(&b, `<gpx version="1.1"><trk><name>%s</name><trkseg>`, name)
	for i := range fixes {
		fmt.Fprintf(&b, `<trkpt lat="-47.6" lon="%.6f"><ele>%d</ele><time>%s</time></trkpt>`, 11.3+float64(i)/1000, 100+i,
			begin.Add(time.Duration(i)*time.Minute).Format(time.RFC3339))
	}
	return b.String() + "</trkseg></trk></gpx>"
}

var day1 = time.Date(2026, 3, 14, 6, 0, 0, 0, time.UTC)

// putSeason puts a folder with three recordings, a damaged file, and files that are no data.
func (f *folder) putSeason() {
	f.put("season/a/one.gpx", recording("One", day1, 30))
	f.put("season/a/two.gpx", recording("Two", day1.Add(17*time.Hour+40*time.Minute), 40)) // over midnight
	f.put("season/b/one.gpx", recording("Three", day1.Add(48*time.Hour), 20))
	f.put("season/b/cut.gpx", recording("Cut", day1, 20)[:400])
	f.put("season/notes.txt", "nothing of a position")
	f.put("season/list.json", `{"a": 1}`)
	f.put("season/logo.png", "\x89PNG\r\n\x1a\n")
}

// A folder is shown with a line a file: what can't be used is named and does not hide the others, what is no data is
// counted.
func TestFolderIsLookedAt(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putSeason()
	r := f.run("look", "season")
	if r.status != 1 || !strings.Contains(r.err, "cut.gpx") || !strings.Contains(r.err, "skipped") {
		t.Errorf("status %d: %s", r.status, r.err)
	}
	for _, want := range []string{"a/one.gpx", "a/two.gpx", "b/one.gpx", "2026-03-14 06:00–06:29",
		"2026-03-14 to 2026-03-15",
		"4 files: 3 tracks, 90 points"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("%q is not in\n%s", want, r.out)
		}
	}
	if strings.Contains(r.out, "notes.txt") || strings.Contains(r.out, "list.json") {
		t.Errorf("what is no data is listed:\n%s", r.out)
	}
	var answer struct {
		Files []struct {
			Path  string
			Items []struct {
				Name string
				Time []string
				Low  float64 `json:"low_m"`
			}
		}
	}
	r = f.run("look", "season", "--json")
	if err := json.Unmarshal([]byte(r.out), &answer); err != nil || len(answer.Files) != 3 ||
		answer.Files[0].Items[0].Low != 100 || len(answer.Files[0].Items[0].Time) != 2 {
		t.Errorf("%v: %s", err, r.out)
	}
	if r := f.must("look", "season/a", "--each"); strings.Count(r.out, "no problems found") != 2 {
		t.Errorf("--each: %s", r.out)
	}
	if r := f.must("look", "season/*/one.gpx"); !strings.Contains(r.out, "2 files: 2 tracks, 50 points") {
		t.Errorf("a pattern: %s", r.out)
	}
	f.refuses(1, "no file matches this pattern", "look", "season/*.xyz")
}

// A verb with a folder for its output does for each input what it does for one, keeps the folders, refuses what is
// there, and is not stopped by what fails.
func TestOneOutputForEachInput(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putSeason()
	r := f.run("convert", "season", "-o", "kml/", "--write-as", "kml")
	if r.status != 1 || !strings.Contains(r.err, " inputs refused") {
		t.Errorf("status %d: %s", r.status, r.err)
	}
	f.must("convert", "season/a/two.gpx", "-o", "alone.kml")
	if f.get("kml/a/two.kml") != f.get("alone.kml") {
		t.Error("of many it is another file than alone")
	}
	for _, name := range []string{"kml/a/one.kml", "kml/b/one.kml"} {
		if _, err := os.Stat(f.path(name)); err != nil {
			t.Error(err)
		}
	}
	if r := f.run("convert", "season/a", "-o", "kml/a", "--write-as", "kml"); r.status != 1 ||
		strings.Count(r.err, "already exists") < 2 {
		t.Errorf("what is there: %d %s", r.status, r.err)
	}
	f.must("clean", "season/a/one.gpx", "season/a/two.gpx", "-o", "clean/{date} {name}.gpx")
	f.get("clean/2026-03-14 one.gpx")
	f.get("clean/2026-03-14 two.gpx")
	f.must("draw", "season/a", "-o", "maps/", "--size", "300x200")
	f.get("maps/one.png")
	f.putDemo("planning.kmz")
	f.must("lay", "lines", "planning.kmz", "--take", "areas:Nesting*", "--spacing", "300m", "-o", "laid/")
	f.get("laid/planning.gpx")
	f.refuses(2, "would both write", "convert", "season/a/one.gpx", "season/b/one.gpx", "-o", "x/{name}.gpx")
	f.refuses(2, "add --write-as", "convert", "season/a/one.gpx", "alone.kml", "-o", "x/")
	f.refuses(2, "standard input has no name", "convert", "-", "-o", "x/", "--write-as", "gpx")
	f.refuses(2, "has no {item}", "convert", "season/a/one.gpx", "-o", "x.gpx", "--one-per", "item")
}

// One file for each item, day or group holds its part and no more, and nothing of it is lost.
func TestOneOutputForEachPart(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putSeason()
	f.putDemo("planning.kmz")
	f.must("convert", "season/a/two.gpx", "-o", "days/", "--one-per", "day")
	first, second := f.get("days/two 2026-03-14.gpx"), f.get("days/two 2026-03-15.gpx")
	if strings.Count(first, "<trkpt") != 20 || strings.Count(second, "<trkpt") != 20 ||
		strings.Contains(first, "2026-03-15T") {
		t.Errorf("%d and %d points", strings.Count(first, "<trkpt"), strings.Count(second, "<trkpt"))
	}
	f.must("convert", "season/a/two.gpx", "-o", "zone/", "--one-per", "day", "--clock", "+02:00")
	if got, _ := filepath.Glob(f.path("zone/*")); len(got) != 1 {
		t.Errorf("in a zone where it is one day: %v", got)
	}
	f.must("convert", "planning.kmz", "-o", "items/", "--one-per", "item", "--write-as", "gpx")
	if got, _ := filepath.Glob(f.path("items/planning/*.gpx")); len(got) != 37 {
		t.Errorf("%d files of 37 items", len(got))
	}
	f.put("same.csv", "name,lat,lon\nA/../../B,1,2\nA/../../B,3,4\n")
	f.must("convert", "same.csv", "-o", "same/{item}.gpx", "--one-per", "item")
	got, _ := filepath.Glob(f.path("same/*"))
	for i := range got {
		got[i] = filepath.Base(got[i])
	}
	if !slices.Equal(got, []string{"A-..-..-B (2).gpx", "A-..-..-B.gpx"}) {
		t.Errorf("items of one name, which is a path: %q", got)
	}
	f.must("recast", "season/a/two.gpx", "--split-at", "day", "-o", "split.gpx")
	f.must("recast", "season/a/two.gpx", "--split-at", "00:00", "-o", "midnight.gpx")
	if a := f.get("split.gpx"); strings.Count(a, "<trk>") != 2 || a != f.get("midnight.gpx") {
		t.Error("a track over midnight is not split there")
	}
}

// The table of a season has a row a recording, numbers that add up in a workbook's form too, and its bars.
func TestTally(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putSeason()
	f.put("zone.kml", `<kml><Document><Placemark><name>Bay</name><Polygon><outerBoundaryIs><LinearRing><coordinates>`+
		`11.3105,-47.7 11.3205,-47.7 11.3205,-47.5 11.3105,-47.5 11.3105,-47.7</coordinates></LinearRing></outerBoundaryIs>`+
		`</Polygon></Placemark></Document></kml>`)
	r := f.run("tally", "season", "--areas", "zone.kml", "-o", "tally.json", "--plot", "bars.svg")
	if r.status != 1 || !strings.Contains(r.out, "Three") || !strings.Contains(r.err, "cut.gpx") {
		t.Errorf("status %d\n%s\n%s", r.status, r.out, r.err)
	}
	var answer struct {
		Rows []struct {
			Name    string
			Length  float64 `json:"length_m"`
			Elapsed float64 `json:"elapsed_s"`
		}
		Total struct {
			Elapsed float64 `json:"elapsed_s"`
		}
		Visits []struct {
			Name, Area, In, Out string
		}
	}
	if err := json.Unmarshal([]byte(f.get("tally.json")), &answer); err != nil || len(answer.Rows) != 3 ||
		answer.Total.Elapsed != (29+39+19)*60 || len(answer.Visits) != 3 {
		t.Fatalf("%v: %s", err, f.get("tally.json"))
	}
	// A fix a minute, a thousandth of a degree each: it comes in after 10.5 and goes out after 20.5 minutes.
	if v := answer.Visits[0]; v.In != "2026-03-14T06:10:30Z" || v.Out != "2026-03-14T06:20:30Z" || v.Area != "Bay" {
		t.Errorf("%+v", v)
	}
	if !strings.Contains(f.get("bars.svg"), "moving, h") {
		t.Error("the bars have no titles")
	}
	f.must("tally", "season/a", "-o", "tracks.geojson", "--quiet")
	if got := f.get("tracks.geojson"); strings.Count(got, `"LineString"`) != 2 ||
		!strings.Contains(got, `"elapsed s":1740`) {
		t.Errorf("the tracks with what they add up to: %.400s", got)
	}
	f.refuses(2, "there is only a table", "tally", "season/a", "--by", "day", "-o", "x.gpkg")
	f.must("tally", "season/a", "--by", "day", "-o", "days.csv", "--quiet")
	lines := strings.Split(strings.TrimSpace(f.get("days.csv")), "\r\n")
	if len(lines) != 3 || !strings.Contains(lines[1], "2026-03-14") || !strings.Contains(lines[2], "2026-03-15") {
		t.Errorf("%q", lines)
	}
	f.refuses(2, "needs a file of areas", "tally", "season/a", "--by", "area")
	f.refuses(2, "is not one of them", "tally", "season/a", "-o", "x.txt2")
	f.putDemo("planning.kmz")
	f.put("points.csv", "name,lat,lon\nA,1,2\n")
	f.refuses(1, "no track to total up", "tally", "points.csv")
}

// Pictures and lists find their places on the recordings; the pictures themselves stay as they are.
func TestWhen(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putSeason()
	f.put("times.csv", "name,time\nHalf,06:10:30\nLate,23:00\n")
	r := f.must("when", "times.csv", "--along", "season/a/one.gpx", "-o", "marks.gpx")
	if got := f.get("marks.gpx"); !strings.Contains(got, `lat="-47.6" lon="11.3105"`) || strings.Contains(got, "Late") {
		t.Errorf("%s", got)
	}
	if !strings.Contains(r.err, "refused Late: 16 h 31 min after \"One\" ends") {
		t.Errorf("%s", r.err)
	}
	r = f.must("when", "times.csv", "--along", "season/a/one.gpx", "-o", "where.svg")
	if got := f.get("where.svg"); !strings.Contains(got, ">Half<") || !strings.Contains(r.err, "drew where.svg") {
		t.Errorf("no map of the places: %s", r.err)
	}
	f.refuses(1, "already exists", "when", "times.csv", "--along", "season/a/one.gpx", "-o", "where.svg")
	f.refuses(3, "are not on", "when", "times.csv", "--along", "season/a/one.gpx", "-o", "x.gpx", "--strict")
	if r := f.must("when", "2026-03-14T23:50Z", "--along", "season/a"); !strings.Contains(r.out, "Two") ||
		strings.Contains(r.out, "One") {
		t.Errorf("where was everybody: %s", r.out)
	}
	f.refuses(2, "has no day", "when", "10:00", "--along", "season/a")
	f.refuses(2, "is not a time", "when", "sometime", "--along", "season/a")
	f.refuses(2, "name the recordings", "when", "10:00")
	var picture bytes.Buffer
	if err := jpeg.Encode(&picture, image.NewGray(image.Rect(0, 0, 8, 8)), nil); err != nil {
		t.Fatal(err)
	}
	f.put("pics/none.jpg", picture.String())
	f.refuses(1, "no pictures with times", "when", "pics", "--along", "season/a", "--write-positions", "out")
}

// What is read beside the inputs is never written over either, not even with --replace.
func TestFilesBesideTheInputsStay(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz", "stations.csv")
	before := f.get("walk.gpx") + f.get("planning.kmz") + f.get("stations.csv")
	for _, line := range []string{
		"near Sexton planning.kmz stations.csv -o stations.csv",
		"near --to stations.csv planning.kmz -o stations.csv",
		"tally walk.gpx --areas planning.kmz -o planning.kmz",
		"when 06:20 --along walk.gpx -o walk.gpx",
		"convert walk.gpx --inside planning.kmz:Nesting* -o planning.kmz",
		"convert walk.gpx --fixes stations.csv -o stations.csv",
	} {
		f.refuses(2, "is an input as well", strings.Fields(line+" --replace")...)
	}
	if f.get("walk.gpx")+f.get("planning.kmz")+f.get("stations.csv") != before {
		t.Error("an input is changed")
	}
}

// What is near is found by a position in any notation, or by the name of a waypoint.
func TestNear(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.must("convert", "planning.kmz", "--take", "waypoints:Landings", "-o", "landings.gpx")
	r := f.must("near", "47.60059 S", "11.25574 E", "planning.kmz", "--take", "waypoints", "--within", "2km")
	byName := f.must("near", "rock 9", "planning.kmz", "--take", "waypoints", "--within", "2km")
	if !strings.Contains(r.out, "Rock 9") || !strings.Contains(r.out, "The Saddle, west side") ||
		strings.Contains(byName.out, "Rock 9") || !strings.Contains(byName.out, "Sexton") {
		t.Errorf("%s\n%s", r.out, byName.out)
	}
	f.must("near", "--to", "landings.gpx", "planning.kmz", "--take", "waypoints:Rock*", "-o", "near.csv", "--quiet")
	if lines := strings.Split(strings.TrimSpace(f.get("near.csv")), "\r\n"); len(lines) != 7 {
		t.Errorf("the nearest of six landings: %q", lines)
	}
	f.refuses(2, "neither a position", "near", "nowhere", "planning.kmz")
	f.refuses(2, "name the files", "near", "47.6 S 11.3 E")
}

// The areas of a file choose, on every verb and in a recipe, where the path is the recipe's.
func TestInsideTheAreasOfAFile(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	f.must("convert", "walk.gpx", "--inside", "planning.kmz:Nesting, Cairn*", "-o", "inside.gpx")
	f.put(
		"recipes/in.toml",
		"[[step]]\ndo = \"convert\"\ninside = \"../planning.kmz:Nesting, Cairn*\"\n[[output]]\nfile = \"inside.gpx\"\n",
	)
	f.must("run", "recipes/in.toml", "walk.gpx", "--into", "out")
	if got := f.get("inside.gpx"); strings.Count(got, "<trkseg>") != 2 || got != f.get("out/inside.gpx") {
		t.Errorf("%d segments", strings.Count(got, "<trkseg>"))
	}
	f.refuses(1, "has no area called", "convert", "walk.gpx", "--inside", "planning.kmz:Nothing", "-o", "x.gpx")
	f.refuses(2, "no such file of areas", "convert", "walk.gpx", "--inside", "zones.kml:Nothing", "-o", "x.gpx")
}

// Settings of the folder above hold unless the command line says otherwise, are told, and are never those of a card.
func TestSettings(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.put("gyrolith.toml", "measure = \"nautical\"\nnotation = \"min\"\n[short]\nisles = \"planning.kmz\"\n")
	r := f.must("look", "@isles")
	if !strings.Contains(r.err, "settings: measure nautical; notation min (gyrolith.toml)") ||
		!strings.Contains(r.out, "47°35.223′ S") || !strings.Contains(r.out, "nm wide") {
		t.Errorf("%s\n%s", r.err, r.out)
	}
	if r := f.must("look", "@isles", "--notation", "deg"); strings.Contains(r.out, "47°35.223′ S") {
		t.Error("the command line does not come first")
	}
	f.must("convert", "planning.kmz", "-o", "plan.csv", "--take", "waypoints")
	if !strings.Contains(f.get("plan.csv"), "-47.587048") {
		t.Errorf("data are written in the notation of answers: %.200s", f.get("plan.csv"))
	}
	if r := f.must("settings"); !strings.Contains(r.out, "measure") || !strings.Contains(r.out, "@isles") {
		t.Errorf("%s", r.out)
	}
	f.put("gyrolith-manifest.json", "{}")
	if r := f.must("look", "planning.kmz"); strings.Contains(r.err, "settings:") {
		t.Error("the settings of a card are used")
	}
	if err := os.Remove(f.path("gyrolith-manifest.json")); err != nil {
		t.Fatal(err)
	}
	f.put("gyrolith.toml", "measures = \"nautical\"\n")
	f.refuses(2, "there is no setting \"measures\"", "look", "planning.kmz")
}

// Two recordings are compared in time, and drawn.
func TestCompareInTime(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("a.gpx", recording("A", day1, 30))
	f.put("b.gpx", recording("B", day1.Add(time.Minute), 30)) // a minute behind, 75 m
	r := f.must("compare", "a.gpx", "b.gpx", "--in-time", "--within", "100m", "--plot", "apart.svg")
	for _, want := range []string{"2026-03-14 06:01:00 to 2026-03-14 06:29:00", "75 m at", "28 min, 1 time",
		"75 m from the first, towards 270°"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("%q is not in\n%s", want, r.out)
		}
	}
	f.get("apart.svg")
	f.put("c.gpx", recording("C", day1.AddDate(0, 0, 1), 30))
	f.refuses(1, "do not overlap in time", "compare", "a.gpx", "c.gpx", "--in-time")
	f.refuses(2, "--in-time", "compare", "a.gpx", "b.gpx", "--plot", "x.svg")
}

// Settings that somebody else could have written are not used, unless their sum is trusted; what hangs or never ends is
// no file of settings; a card from settings is always said.
func TestSettingsOfStrangers(t *testing.T) {
	f := newFolder(t)
	f.env = []string{"XDG_CONFIG_HOME=" + f.path("config")}
	f.putDemo("planning.kmz")
	f.put("gyrolith.toml", "clock = \"+05:00\"\n")
	mine := f.must("look", "planning.kmz", "--json")
	if !strings.Contains(mine.out, `"settings": [`) || !strings.Contains(mine.out, "clock +05:00") {
		t.Errorf("a clock from settings is not in the answer: %.200s", mine.out)
	}
	if err := os.Chmod(f.dir, 0o777); err != nil {
		t.Fatal(err)
	}
	said := f.must("look", "planning.kmz").err
	if !strings.Contains(said, "everybody may write") || strings.Contains(said, "clock +05:00") {
		t.Errorf("settings of a folder for everybody: %s", said)
	}
	f.must("settings", "--trust", "gyrolith.toml")
	if said := f.must("look", "planning.kmz").err; !strings.Contains(said, "clock +05:00") {
		t.Errorf("trusted settings are not used: %s", said)
	}
	f.put("gyrolith.toml", "clock = \"+06:00\"\n")
	if said := f.must("look", "planning.kmz").err; !strings.Contains(said, "everybody may write") {
		t.Errorf("settings that changed are still trusted: %s", said)
	}
	os.Chmod(f.dir, 0o755)
	if os.Geteuid() == 0 { // who may give a file away
		os.Chown(f.path("gyrolith.toml"), 54321, -1)
		if said := f.must("look", "planning.kmz").err; !strings.Contains(said, "somebody else") {
			t.Errorf("settings of somebody else: %s", said)
		}
	}
	f.put("card/empty", "")
	os.Remove(f.path("gyrolith.toml"))
	f.put("gyrolith.toml", "card = \"card\"\n")
	f.refuses(2, "", "stow", "planning.kmz", "--unit", "ridge", "-q")
	if said := f.must("stow", "planning.kmz", "--unit", "ridge").err; !strings.Contains(said, "card card") {
		t.Errorf("the card is not said: %s", said)
	}
	os.Remove(f.path("gyrolith.toml"))
	for _, put := range []func() error{
		func() error { return exec.Command("mkfifo", f.path("gyrolith.toml")).Run() },
		func() error { return os.Symlink("/dev/zero", f.path("gyrolith.toml")) },
		func() error { return os.WriteFile(f.path("gyrolith.toml"), make([]byte, 2<<20), 0o666) },
	} {
		if err := put(); err != nil {
			t.Skip(err)
		}
		if said := f.must("look", "planning.kmz").err; !strings.Contains(said, "was not used") {
			t.Errorf("%s", said)
		}
		os.Remove(f.path("gyrolith.toml"))
	}
}
