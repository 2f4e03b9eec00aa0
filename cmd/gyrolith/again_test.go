package main

import (
	"os"
	"strings"
	"testing"
	"time"
)

const oneCopy = "[[output]]\nfile = \"{name}.kml\"\n"

// An input that was refused and then mended is written over what an earlier run wrote of it.
func TestMendedInput(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("copy.toml", oneCopy)
	good := `<gpx><wpt lat="-47.6" lon="11.3"><name>A</name></wpt></gpx>`
	f.put("a.gpx", good)
	f.must("run", "copy.toml", "a.gpx", "--into", "out", "--quiet")
	f.put("a.gpx", "<gpx><wpt")
	f.refuses(1, "refused", "run", "copy.toml", "a.gpx", "--into", "out")
	f.refuses(1, "refused", "run", "copy.toml", "a.gpx", "--into", "out")
	f.put("a.gpx", strings.Replace(good, "A", "B", 1))
	f.must("run", "copy.toml", "a.gpx", "--into", "out", "--quiet")
	if !strings.Contains(f.get("out/a.kml"), "<name>B</name>") {
		t.Errorf("%s", f.get("out/a.kml"))
	}
}

// kept says whether a run finds that nothing has changed.
func (f *folder) kept(args ...string) bool {
	f.t.Helper()
	return strings.Contains(f.must(append([]string{"run"}, args...)...).err, "nothing has changed")
}

// What an input, a step or an output depends on is in the sums: what links lead to, the unit of a split, a world file,
// a template.
func TestWhatRunsDependOn(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.env = []string{"XDG_CONFIG_HOME=" + f.path("config")}
	f.putDemo("counting.txt", "walk.gpx")
	check := func(what string, change func(), args ...string) {
		t.Helper()
		args = append(args, "--into", "out-"+what)
		f.must(append([]string{"run"}, args...)...)
		if !f.kept(args...) {
			t.Errorf("%s: done again though nothing has changed", what)
		}
		change()
		if f.kept(args...) {
			t.Errorf("%s: what has changed is kept", what)
		}
	}
	f.put("copy.toml", oneCopy)
	f.put("real/a.gpx", `<gpx><wpt lat="-47.6" lon="11.3"><name>A</name></wpt></gpx>`)
	if os.Symlink(f.path("real/a.gpx"), f.path("a.gpx")) == nil && os.Symlink(f.path("real"), f.path("folder")) == nil {
		check("link", func() { f.put("real/a.gpx", strings.Replace(f.get("real/a.gpx"), "A", "C", 1)) }, "copy.toml", "a.gpx")
		check("folder", func() { f.put("real/a.gpx", strings.Replace(f.get("real/a.gpx"), "C", "D", 1)) }, "copy.toml",
			"folder")
	}
	f.must("units", "--new", "mine", "--like", "ridge")
	profile := "config/gyrolith/units/mine.toml"
	f.put("split.toml", "[[step]]\ndo = \"recast\"\nsplit-at = \"unit:mine\"\n[[output]]\nfile = \"{name}.gpx\"\n")
	check("unit", func() { f.put(profile, strings.Replace(f.get(profile), "points = 200", "points = 150", 1)) },
		"split.toml", "counting.txt")
	f.must("draw", "walk.gpx", "-o", "chart.png", "--size", "300x200", "--quiet")
	f.put("chart.pgw", "0.001\n0\n0\n-0.001\n11.2\n-47.5\n")
	f.put("draw.toml", "[[output]]\ndo = \"draw\"\nfile = \"{name}.png\"\nsize = \"300x200\"\nbackdrop = \"chart.png\"\n")
	check("world", func() { f.put("chart.pgw", "0.002\n0\n0\n-0.002\n11.2\n-47.5\n") }, "draw.toml", "walk.gpx")
	if out := f.get("out-unit/journal.jsonl"); strings.Contains(out, `"program":"0.1.0"`) {
		t.Errorf("the journal does not know the build: %s", out)
	}
}

// A pasted list of hazards is the same to draw and to legs.
func TestHazardsAsAList(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("run.txt", "A 47 35.0 S 011 16.0 E\nB 47 33.0 S 011 18.0 E\n")
	f.put("rocks.txt", "Rock1 47 34.5 S 011 16.5 E\nRock2 47 33.5 S 011 17.5 E\n")
	legs := f.run("legs", "run.txt", "--hazards", "rocks.txt", "--clear", "200m")
	if strings.Count(legs.out, "nearer than the clearance")+strings.Count(legs.out, "goes over") != 2 {
		t.Fatalf("legs finds:\n%s%s", legs.out, legs.err)
	}
	f.must("draw", "run.txt", "--hazards", "rocks.txt", "--clear", "200m", "-o", "run.svg", "--quiet")
	if svg := f.get("run.svg"); !strings.Contains(svg, "Rock1, ") || !strings.Contains(svg, "Rock2, ") {
		t.Error("the clearances are not drawn")
	}
}

// A detour that there is not leaves no table behind.
func TestNoDetourNoTable(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("run.txt", "A 47 35.0 S 011 16.0 E\nB 47 33.0 S 011 18.0 E\n")
	f.put("zone.gpx", `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"/>`)
	f.put("zone.kml", `<kml><Placemark><name>Closed</name><Polygon><outerBoundaryIs><LinearRing><coordinates>`+
		`11.2,-47.6 11.28,-47.6 `+
		`11.28,-47.57 11.2,-47.57 11.2,-47.6</coordinates></LinearRing></outerBoundaryIs></Polygon></Placemark></kml>`)
	r := f.run("legs", "run.txt", "--hazards", "zone.kml", "--keep-out", "areas:Closed", "--detour", "way.gpx", "-o",
		"legs.csv")
	if r.status != 1 || !strings.Contains(r.err, "no detour") {
		t.Fatalf("status %d: %s", r.status, r.err)
	}
	for _, name := range f.list() {
		if name == "legs.csv" || name == "way.gpx" || strings.Contains(name, ".part") {
			t.Errorf("%s is left behind", name)
		}
	}
}

// The notes of a page name the file that they are about.
func TestPageNamesItsFiles(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("good.gpx", `<gpx><wpt lat="-47.6" lon="11.3"><name>A</name></wpt></gpx>`)
	f.put("faulty.gpx", `<gpx><wpt lat="-47.61" lon="11.3"><name>B</name></wpt>`+
		`<wpt lat="99" lon="11.3"><name>C</name></wpt></gpx>`)
	f.must("draw", "good.gpx", "faulty.gpx", "-o", "page.html", "--quiet")
	if page := f.get("page.html"); !strings.Contains(page, "faulty.gpx:1") || strings.Contains(page, "good.gpx:1") {
		t.Error("the fault is that of the other file")
	}
}

// Thousands of points of one name, or of none, take no longer than others: pairs of them are not all measured.
func TestManyOfOneName(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var b strings.Builder
	b.WriteString("lat,lon\n")
	for i := range 8000 {
		b.WriteString("-47." + strings.Repeat("0", 4-len(digits(i))) + digits(i) + ",11.3\n")
	}
	f.put("many.csv", b.String())
	began := time.Now()
	f.must("look", "many.csv")
	f.must("clean", "many.csv", "--repeats-within", "5m", "-o", "clean.gpx")
	if took := time.Since(began); took > 30*time.Second { // minutes, when all pairs are measured
		t.Errorf("it takes %v", took)
	}
	if n := f.look("clean.gpx").Files[0].Waypoints; n != 8000 {
		t.Errorf("%d waypoints are left", n)
	}
}

func digits(n int) string {
	if n < 10 {
		return string(rune('0' + n))
	}
	return digits(n/10) + string(rune('0'+n%10))
}
