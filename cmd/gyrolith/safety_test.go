package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"
)

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
	f.refuses(5, "holds no waypoint", "convert", "none.gpx", "-o", "out.kml")
	for _, c := range []struct{ file, words string }{
		{"cut.gpx", "the file is cut off"}, {"cut.kmz", "damaged or cut off"}, {"page.kml", "is an HTML page"},
		{"picture.gpx", "is a PNG picture"}, {"empty.gpx", "is empty (0 bytes)"}, {"zeros.gpx", "zero bytes"},
		{"tags.gpx", "tags.gpx:3:11: <trkseg> is closed by </trk>"}, {"deep.gpx", "nested more than 1000 deep"},
		{"bomb.gpx", "declares entities"}, {"file.gpx", "declares entities"}, {"words.txt", "not in a recognised format"},
		{"other.xml", "outermost element is <svg>"}, {"missing.gpx", "there is no such file"},
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
