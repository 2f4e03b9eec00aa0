package main

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"sort"
	"strings"
	"testing"
	"time"
)

const dayRecipe = `about = "a day's work"
[values]
season = "2026"
[[step]]
do = "clean"
also = ["stops"]
[[output]]
file = "{season}/{folder}/{name}.gpx"
[[output]]
file = "{season}/{folder}/{name}.csv"
take = ["waypoints"]
`

// season puts some small recordings into folders, among them one that can't be read.
func (f *folder) season(n int) {
	for i := range n {
		var b strings.Builder
		fmt.Fprintf(&b, "<gpx><wpt lat=\"-47.6\" lon=\"11.%d\"><name>P%d</name></wpt><trk><name>T%d</name><trkseg>", i+1, i,
			i)
		for j := range 50 {
			fmt.Fprintf(&b, "<trkpt lat=\"-47.%04d\" lon=\"11.%04d\"><time>2026-03-14T05:%02d:%02dZ</time></trkpt>", 5000+j+i,
				3000+j, j/2, j%2*30)
		}
		b.WriteString("</trkseg></trk></gpx>")
		f.put(fmt.Sprintf("in/day%d/walk%d.gpx", i%3, i), b.String())
	}
	f.put("in/broken.gpx", "<gpx><wpt lat=")
	f.put("in/readme.txt", "hello")
	f.put("day.toml", dayRecipe)
}

// outputs is what a run wrote, without the journals.
func (f *folder) outputs(dir string) string {
	var names []string
	for _, name := range f.list() {
		if strings.HasPrefix(name, dir+"/") && !strings.Contains(name, "journal") {
			names = append(names, name)
		}
	}
	sort.Strings(names)
	var b strings.Builder
	for _, name := range names {
		fmt.Fprintf(&b, "== %s\n%s", strings.TrimPrefix(name, dir+"/"), f.get(name))
	}
	return b.String()
}

// One run does all; the next only what is new or changed; a file that fails stops no other, and the status tells.
func TestRun(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.season(6)
	r := f.run("run", "day.toml", "in", "--into", "out")
	if r.status != 1 || strings.Count(r.err, "done    day") != 6 ||
		!strings.Contains(r.err, "refused in/broken.gpx:1:") || !strings.Contains(r.err, "1 of 7 inputs refused") ||
		!strings.Contains(r.err, "1 file of other kinds") {
		t.Errorf("status %d\n%s", r.status, r.err)
	}
	if text := f.get("out/2026/day0/walk3.csv"); !strings.Contains(text, "P3,-47.6,11.4") {
		t.Errorf("%s", text)
	}
	if strings.Count(f.get("out/2026/day0/walk3.gpx"), "<trkpt") == 0 {
		t.Error("the track is not there")
	}
	before := f.outputs("out")
	f.put("in/day1/walk1.gpx", strings.Replace(f.get("in/day1/walk1.gpx"), "P1", "Q1", 1))
	r = f.run("run", "day.toml", "in", "--into", "out", "--dry-run")
	// the changed one and the one that was refused
	if strings.Count(r.err, "would do") != 2 || f.outputs("out") != before {
		t.Errorf("a dry run:\n%s", r.err)
	}
	r = f.run("run", "day.toml", "in", "--into", "out")
	if strings.Count(r.err, "kept    day") != 5 || strings.Count(r.err, "done    day") != 1 ||
		!strings.Contains(f.get("out/2026/day1/walk1.csv"), "Q1") {
		t.Errorf("the second run:\n%s", r.err)
	}
	// Another value is another recipe; an output that somebody changed is not written over.
	if r = f.run("run", "day.toml", "in/day2", "--into", "out", "--value", "season=2027"); r.status != 0 ||
		!strings.Contains(f.outputs("out"), "2027/walk2.gpx") {
		t.Errorf("another season: %s", r.err)
	}
	f.put("out/2026/day0/walk0.csv", "mine")
	f.put("in/day0/walk0.gpx", strings.Replace(f.get("in/day0/walk0.gpx"), "P0", "Q0", 1))
	if r = f.run("run", "day.toml", "in", "--into", "out"); !strings.Contains(r.err, "has been changed") ||
		f.get("out/2026/day0/walk0.csv") != "mine" {
		t.Errorf("%s", r.err)
	}
	if r = f.run("run", "day.toml", "in", "--into", "out",
		"--replace"); f.get("out/2026/day0/walk0.before-1.csv") != "mine" ||
		!strings.Contains(f.get("out/2026/day0/walk0.csv"), "Q0") {
		t.Errorf("%s", r.err)
	}
	f.put("fresh/2026/walk2.gpx", "somebody's")
	if r = f.run("run", "day.toml", "in/day2", "--into", "fresh"); r.status != 1 ||
		f.get("fresh/2026/walk2.gpx") != "somebody's" || strings.Contains(f.outputs("fresh"), "walk2.csv") {
		t.Errorf("an output of somebody's: %s", r.err)
	}
}

// Sixteen shares, each of them killed once and run again, give exactly what one run gives; so do their journals
// together.
func TestShares(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.season(40)
	f.killedAt(0)
	f.run("run", "day.toml", "in", "--into", "one", "--quiet")
	killed := 0
	for share := 1; share <= 16; share++ {
		name := fmt.Sprintf("%d/16", share)
		f.killedAt(1)
		if r := f.run("run", "day.toml", "in", "--into", "many", "--share", name, "--quiet"); r.status == -1 {
			killed++
		}
		f.killedAt(0)
		f.run("run", "day.toml", "in", "--into", "many", "--share", name, "--quiet")
	}
	if killed < 10 {
		t.Errorf("only %d shares were killed", killed)
	}
	for _, name := range f.list() { // what a killed run left half written
		if strings.HasSuffix(name, ".part") {
			os.Remove(f.path(name))
		}
	}
	if one, many := f.outputs("one"), f.outputs("many"); one != many || len(one) < 1000 {
		t.Errorf("%d and %d bytes of outputs", len(one), len(many))
	}
	journals, _ := filepath.Glob(f.path("many/journal-*.jsonl"))
	r := f.run(append([]string{"run", "--merge", "--into", "many"}, journals...)...)
	if len(journals) != 16 || r.status != 1 || !strings.Contains(r.err, "1 of 41 inputs refused") {
		t.Errorf("%d journals, status %d: %s", len(journals), r.status, r.err)
	}
	last := func(journal string) string { // the last word on each input, without the lines of what was begun
		var lines []string
		for line := range strings.Lines(journal) {
			if !strings.Contains(line, `"status":"writing"`) && !strings.Contains(line, `"run":`) {
				lines = append(lines, line)
			}
		}
		sort.Strings(lines)
		return strings.Join(lines, "")
	}
	if last(f.get("one/journal.jsonl")) != last(f.get("many/journal.jsonl")) {
		t.Error("the merged journal tells something else than that of one run")
	}
	f.refuses(1, "are missing", append([]string{"run", "--merge"}, journals[1:]...)...)
}

// Merging counts what the last runs did with the inputs that there are now, and nothing else.
func TestSharesOfChangedInputs(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.season(12)
	os.Remove(f.path("in/broken.gpx"))
	f.put("in/list.csv", "Name,Count\nA,3\n") // of another kind, which is an outcome as well
	share := func(name string) result {
		return f.run("run", "day.toml", "in", "--into", "out", "--share", name, "--quiet")
	}
	journals := func() []string {
		all, _ := filepath.Glob(f.path("out/journal-*.jsonl"))
		return append([]string{"run", "--merge"}, all...)
	}
	share("1/2")
	share("2/2")
	if r := f.run(journals()...); r.status != 0 || !strings.Contains(r.err, "done     12 ") {
		t.Errorf("status %d: %s", r.status, r.err)
	}
	// Inputs are replaced, and one share is killed after its first file.
	for i := range 12 {
		name := fmt.Sprintf("in/day%d/walk%d.gpx", i%3, i)
		f.put(name, strings.ReplaceAll(f.get(name), "P", "Q"))
	}
	share("1/2")
	f.killedAt(2)
	if r := share("2/2"); r.status != -1 {
		t.Fatalf("status %d: %s", r.status, r.err)
	}
	f.killedAt(0)
	f.refuses(1, "its last run has", journals()...)
	if r := f.run("run", "--status", "--into", "out", "--json"); !strings.Contains(r.out, `"left": 0`) ||
		strings.Count(r.out, `"left"`) != 2 || strings.Count(r.out, `"left": 0`) != 1 {
		t.Errorf("%s", r.out)
	}
	share("2/2")
	if r := f.run(append(journals(), "--into", "out")...); r.status != 0 {
		t.Errorf("status %d: %s", r.status, r.err)
	}
	share("1/2") // one again, after the merge
	if r := f.run(journals()...); r.status != 0 {
		t.Errorf("status %d: %s", r.status, r.err)
	}
	// One input goes, another comes: shares that saw other inputs don't belong together.
	os.Remove(f.path("in/day0/walk0.gpx"))
	f.put("in/day0/walk99.gpx", f.get("in/day0/walk3.gpx"))
	share("1/2")
	f.refuses(1, "found other inputs", journals()...)
	share("2/2")
	if r := f.run(append(journals(), "--json")...); strings.Contains(r.out, "walk0.gpx") ||
		!strings.Contains(r.out, "walk99.gpx") {
		t.Errorf("%s", r.out)
	}
	// Three shares instead of two go on from what the two did, and take their place.
	kept := 0
	for _, name := range []string{"1/3", "2/3", "3/3"} {
		r := f.run("run", "day.toml", "in", "--into", "out", "--share", name)
		kept += strings.Count(r.err, "kept    day")
		if r.status != 0 || strings.Contains(r.err, "done    day") {
			t.Errorf("%s: status %d: %s", name, r.status, r.err)
		}
	}
	if r := f.run("run", "--status", "--into", "out"); strings.Count(r.out, "overtaken") != 2 ||
		strings.Count(r.out, "/3 ") != 3 {
		t.Errorf("%s", r.out)
	}
	if r := f.run(journals()...); kept != 12 || r.status != 0 || !strings.Contains(r.err, "done     12 ") {
		t.Errorf("%d kept, status %d: %s", kept, r.status, r.err)
	}
}

func TestRunRefuses(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.season(2)
	f.refuses(2, "name a recipe", "run")
	f.refuses(2, "name the files or folders", "run", "day.toml")
	f.refuses(2, "--into DIR", "run", "day.toml", "in")
	f.refuses(2, "no recipe of that name", "run", "nonesuch", "in", "--into", "out")
	f.refuses(2, "is not a share", "run", "day.toml", "in", "--into", "out", "--share", "17/16")
	f.refuses(2, "has no value", "run", "day.toml", "in", "--into", "out", "--value", "saison=1")
	f.refuses(1, "no such file or folder", "run", "day.toml", "gone", "--into", "out")
	f.put("joint.toml", "together = true\n[[output]]\nfile = \"all.gpx\"\n")
	// A system's file is beside the recipe, like all files that it names, and a run notices when it changes.
	f.put("office/grid.prj", ownSystem)
	f.put("office/grid.toml", "[[step]]\ndo = \"convert\"\n[[output]]\nfile = \"{name}.csv\"\ncrs = \"grid.prj\"\ntake = "+
		"[\"waypoints\"]\n")
	grid := []string{"run", "office/grid.toml", "in/day0/walk0.gpx", "--into", "grid"}
	f.must(grid...)
	f.put("office/grid.prj", strings.Replace(ownSystem, "20000.0", "30000.0", 1))
	if r := f.must(grid...); !strings.Contains(r.err, "done    walk0.gpx") {
		t.Errorf("another system; nothing was done: %s", r.err)
	}
	f.refuses(2, "make-ready:19:1: rules: rules.toml: there is no such file or folder; --value rules=PATH names another",
		"run", "make-ready", "in", "--into", "out")
	f.refuses(2, "archive-day:20:1: terrain: terrain: there is no such file or folder; --value terrain=PATH "+
		"names another", "run", "archive-day", "in", "--into", "out")
	f.refuses(2, "can't be divided", "run", "joint.toml", "in", "--into", "out", "--share", "1/2")
	f.put("value.toml", strings.Replace(dayRecipe, `"stops"`, `"stps"`, 1))
	f.refuses(2, `value.toml:6:1: also: "stps" is not a fault`, "run", "value.toml", "in", "--into", "out")
	f.put("name.toml", strings.Replace(dayRecipe, "{folder}/{name}.gpx", "all.gpx", 1))
	f.refuses(2, "would both write 2026/all.gpx", "run", "name.toml", "in", "--into", "out")
	f.put("ext.toml", strings.Replace(dayRecipe, "{name}.gpx", "{name}.doc", 1))
	f.refuses(2, "doesn't give a format to write", "run", "ext.toml", "in", "--into", "out")
	if names := strings.Join(f.list(), " "); strings.Contains(names, "out/") {
		t.Errorf("a recipe with a fault wrote something: %s", names)
	}
	f.run("run", "joint.toml", "in/day0", "in/day1", "--into", "joint", "--quiet")
	if got := f.look("joint/all.gpx").Files[0]; got.Waypoints != 2 || got.Tracks != 2 {
		t.Errorf("together: %+v", got)
	}
}

// What a verb prints as a recipe does what the verb does.
func TestAsRecipe(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx", "planning.kmz", "rules.toml")
	for i, args := range [][]string{{"clean", "walk.gpx", "--also", "heights,stops", "--thin-within", "5m", "-o",
		"by-hand.gpx"},
		{"convert", "planning.kmz", "--take", "waypoints:Landings", "--columns", "name,lat,lon", "-o", "by-hand.csv"},
		{"recast", "planning.kmz", "--take", "areas", "--areas-to", "tracks", "-o", "by-hand.kml"},
		{"dress", "planning.kmz", "--rules", "rules.toml", "-o", "by-hand.geojson"},
		{"draw", "planning.kmz", "--theme", "dark", "--size", "640x480", "-o", "by-hand.svg"}} {
		f.must(append(args, "--quiet")...)
		r := f.must(append(args, "--as-recipe")...)
		f.put("mine.toml", r.out)
		into := fmt.Sprint("by-recipe", i)
		f.must("run", "mine.toml", args[1], "--into", into)
		ext := filepath.Ext(args[len(args)-1])
		stem := strings.TrimSuffix(args[1], filepath.Ext(args[1]))
		if hand, chain := f.get("by-hand"+ext), f.get(into+"/"+stem+ext); hand != chain {
			t.Errorf("%s: %d bytes by hand, %d by recipe\n%s", args[0], len(hand), len(chain), r.out)
		}
	}
}

// The recipes that ship run on the example as their comments say.
func TestShippedRecipes(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putTerrain()
	f.putDemo("walk.gpx", "planning.kmz", "rules.toml", "stations.csv")
	for name, args := range map[string][]string{"make-ready": {"planning.kmz"}, "archive-day": {"walk.gpx"},
		"season-cards": {"planning.kmz"}, "office-to-unit": {"stations.csv"}} {
		r := f.must(append([]string{"run", name, "--into", name}, args...)...)
		if !strings.Contains(r.err, "done ") {
			t.Errorf("%s: %s", name, r.err)
		}
		if text := f.must("recipes", name).out; !strings.Contains(text, "gyrolith run "+name) {
			t.Errorf("%s does not say how it is run", name)
		}
	}
	if r := f.must("boot", "--unit", "keel", "--card", "season-cards/planning-plotter"); !strings.Contains(r.out,
		"Rock 1") {
		t.Errorf("the plotter shows %s", r.out)
	}
}

// BenchmarkRun compares one core with two on small files: go test -run '^$' -bench Run ./cmd/gyrolith
func BenchmarkRun(b *testing.B) {
	f := newFolder(b)
	f.put("day.toml", dayRecipe)
	var track bytes.Buffer
	track.WriteString("<gpx><trk><name>T</name><trkseg>")
	for j := range 400 {
		fmt.Fprintf(&track, "<trkpt lat=\"-47.%05d\" "+
			"lon=\"11.%05d\"><ele>%d</ele><time>2026-03-14T05:%02d:%02dZ</time></trkpt>", 50000+j*7, 30000+j*5, j%90, j/10,
			j%10*6)
	}
	track.WriteString("</trkseg></trk></gpx>")
	for i := range 10000 {
		f.put(fmt.Sprintf("in/%d/%d.gpx", i%100, i), track.String())
	}
	for _, workers := range []string{"1", "2"} {
		b.Run("workers-"+workers, func(b *testing.B) {
			for b.Loop() {
				os.RemoveAll(f.path("out"))
				f.must("run", "day.toml", "in", "--into", "out", "--quiet", "--workers", workers)
			}
		})
	}
}

// A dry run leaves nothing behind, not even the sums of large files that its steps use; a real one keeps them.
func TestDryRunKeepsNoSums(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	f.put("grid.asc", "ncols 2\nnrows 2\nxllcorner 11\nyllcorner -48\ncellsize 0.5\n1 2\n3 4\n"+strings.Repeat(" ", 2<<20))
	old := time.Now().Add(-time.Hour)
	os.Chtimes(f.path("grid.asc"), old, old)
	f.put("high.toml", "about = \"heights\"\n[[step]]\ndo = \"elevate\"\nterrain = \"grid.asc\"\n[[output]]\n"+
		"file = \"{name}.gpx\"\n")
	os.Mkdir(f.path("out"), 0o777)
	f.must("run", "high.toml", "walk.gpx", "--into", "out", "--dry-run", "--quiet")
	if left, _ := os.ReadDir(f.path("out")); len(left) > 0 {
		t.Errorf("a dry run leaves %v", left)
	}
	time.Sleep(2100 * time.Millisecond) // until the file is no fresh one
	f.must("run", "high.toml", "walk.gpx", "--into", "out", "--quiet")
	if !strings.Contains(f.get("out/sums.json"), "grid.asc") {
		t.Error("the sum of a large grid is not kept")
	}
}
