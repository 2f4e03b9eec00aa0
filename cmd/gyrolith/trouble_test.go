//go:build unix

package main

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"
)

// writing are verbs that write, with the file or folder that they make.
var writing = []struct{ line, made string }{
	{"convert planning.kmz -o out.gpx", "out.gpx"},
	{"convert planning.kmz -o out.kmz", "out.kmz"},
	{"convert planning.kmz -o out.gpkg", "out.gpkg"},
	{"convert planning.kmz -o out.shp --take waypoints", "out.shp"},
	{"convert planning.kmz -o out.xlsx", "out.xlsx"},
	{"convert planning.kmz -o out.fgb", "out.fgb"},
	{"convert planning.kmz -o out.parquet", "out.parquet"},
	{"convert planning.kmz -o out.csv", "out.csv"},
	{"clean walk.gpx -o out.gpx --rejects gone.gpx", "out.gpx"},
	{"draw planning.kmz -o out.png", "out.png"},
	{"draw planning.kmz -o out.html", "out.html"},
	{"draw planning.kmz -o out.pdf", "out.pdf"},
	{"legs briefing.txt -o out.xlsx", "out.xlsx"},
	{"tally walk.gpx -o out.csv", "out.csv"},
	{"merge planning.kmz walk.gpx -o out.gpx", "out.gpx"},
	{"unstow --card card -o out.zip", "out.zip"},
	{"when 2026-03-14T06:20Z --along walk.gpx -o out.gpx", "out.gpx"},
}

func (f *folder) putWork() {
	f.putDemo("planning.kmz", "walk.gpx", "briefing.txt")
	if err := os.Mkdir(f.path("card"), 0o777); err != nil {
		f.t.Fatal(err)
	}
	f.must("stow", "planning.kmz", "--unit", "keel", "--card", "card", "--archives", "kept", "--quiet")
}

// limited runs the program where no file may be larger than so many blocks of 512 bytes, as on a disk that is full
// then.
func (f *folder) limited(blocks int, args ...string) result {
	f.t.Helper()
	line := fmt.Sprintf("trap '' XFSZ; ulimit -f %d; exec \"$0\" \"$@\"", blocks)
	cmd := exec.Command("/bin/sh", append([]string{"-c", line, f.program}, args...)...)
	cmd.Dir = f.dir
	cmd.Env = append(os.Environ(), "XDG_DATA_HOME="+f.path("data"), "HOME="+f.dir, "NO_COLOR=1", "TMPDIR="+f.path("tmp"))
	var out, errOut bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errOut
	if err := cmd.Run(); err != nil && cmd.ProcessState == nil {
		f.t.Fatal(err)
	}
	return result{cmd.ProcessState.ExitCode(), out.String(), errOut.String()}
}

// Where a file can't be written whole, its verb says so in one line, leaves the old file as it was and nothing half
// written.
func TestFullDisk(t *testing.T) {
	t.Parallel()
	if _, err := exec.LookPath("/bin/sh"); err != nil {
		t.Skip(err)
	}
	f := newFolder(t)
	f.putWork()
	for _, c := range writing {
		name := c.made
		for _, old := range []bool{false, true} {
			os.MkdirAll(f.path("tmp"), 0o777)
			args := strings.Fields(c.line)
			if old {
				f.put(name, "what was here")
				args = append(args, "--replace")
			}
			before := f.list()
			r := f.limited(0, args...)
			if r.status != 1 || !strings.Contains(r.err, "gyrolith: ") || strings.Contains(r.err, "panic") {
				t.Errorf("%s: status %d: %s", c.line, r.status, r.err)
			}
			if old && f.get(name) != "what was here" {
				t.Errorf("%s: the old file is gone", c.line)
			}
			if after := f.list(); !slices.Equal(before, after) {
				t.Errorf("%s: %v, was %v", c.line, after, before)
			}
		}
		os.Remove(f.path(name))
	}
}

// A full card is as it was, and a full folder of a run can be gone on with.
func TestFullCardAndRun(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putWork()
	before := f.state("card")
	if r := f.limited(1, "stow", "walk.gpx", "--unit", "keel", "--card", "card", "--archives", "kept",
		"--replace"); r.status != 1 {
		t.Errorf("status %d: %s", r.status, r.err)
	}
	if after := f.state("card"); fmt.Sprint(after) != fmt.Sprint(before) {
		t.Errorf("the card is %v, was %v", after, before)
	}
	f.put("r.toml", "[[step]]\ndo = \"clean\"\n\n[[output]]\nfile = \"{name}.gpx\"\n")
	f.put("in/a.gpx", f.get("walk.gpx"))
	f.put("in/b.kmz", f.get("planning.kmz"))
	for blocks := range 4 {
		if r := f.limited(blocks, "run", "r.toml", "in", "--into", "out"); r.status != 1 {
			t.Errorf("%d blocks: status %d: %s", blocks, r.status, r.err)
		}
	}
	f.must("run", "r.toml", "in", "--into", "out")
	if got := f.outputs("out"); !strings.Contains(got, "a.gpx") || !strings.Contains(got, "b.gpx") {
		t.Errorf("%s", got)
	}
}

// Two that write in one place at once: one does, the other says why not or waits, and what stands there is whole.
func TestTwoAtOnce(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putWork()
	f.put("r.toml", "[[step]]\ndo = \"clean\"\n\n[[output]]\nfile = \"{name}.gpx\"\n")
	f.put("in/a.gpx", f.get("walk.gpx"))
	f.must("convert", "planning.kmz", "-o", "list.gpkg", "--take", "areas")
	both := func(first, second string) (a, b result) {
		done := make(chan result, 1)
		go func() { done <- f.run(strings.Fields(first)...) }()
		b = f.run(strings.Fields(second)...)
		return <-done, b
	}
	for range 4 {
		a, b := both("stow planning.kmz --unit keel --card card --archives kept --replace",
			"stow walk.gpx --unit keel --card card --archives kept --replace --wait 1min")
		f.must("stow", "--verify", "--card", "card")
		for _, r := range []result{a, b} {
			if r.status != 0 && !strings.Contains(r.err, "another gyrolith") {
				t.Errorf("status %d: %s", r.status, r.err)
			}
		}
		if b.status != 0 {
			t.Errorf("the patient one gave up: %s", b.err)
		}
		both("run r.toml in --into out", "run r.toml in --into out --wait 1min")
		f.must("run", "r.toml", "in", "--into", "out")
	}
	for range 4 {
		f.must("convert", "planning.kmz", "-o", "list.gpkg", "--take", "areas", "--replace")
		a, b := both("convert walk.gpx -o list.gpkg --append --wait 1min",
			"convert planning.kmz --take tracks -o list.gpkg --append --wait 1min")
		x := f.look("list.gpkg").Files[0]
		if a.status != 0 || b.status != 0 || x.Areas != 3 || x.Tracks != 9 {
			t.Errorf("%d %d: %d areas and %d tracks: %s%s", a.status, b.status, x.Areas, x.Tracks, a.err, b.err)
		}
	}
}

// Killed at any moment, a verb leaves the old file or the new one, whole; and it does its work when it is called again.
func TestKilledAnywhere(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putWork()
	old := func(name string) int { // how many items the file of two generations has; -1 where it can't be read
		r := f.run("look", name, "--json")
		if r.status != 0 {
			return -1
		}
		return strings.Count(r.out, `"kind"`)
	}
	for _, c := range []struct{ name, first, second string }{
		{"set.shp", "convert planning.kmz --take waypoints -o set.shp", "convert walk.gpx --take waypoints -o set.shp"},
		{"one.gpkg", "convert planning.kmz -o one.gpkg", "convert walk.gpx -o one.gpkg"},
		{"one.gpx", "convert planning.kmz -o one.gpx", "clean walk.gpx -o one.gpx"},
	} {
		f.must(append(strings.Fields(c.second), "--replace")...)
		second := old(c.name)
		begun := time.Now()
		f.must(append(strings.Fields(c.first), "--replace")...)
		took, first := time.Since(begun), old(c.name)
		for i := range 12 {
			f.must(append(strings.Fields(c.first), "--replace", "--quiet")...)
			cmd, _ := f.begun(append(strings.Fields(c.second), "--replace")...)
			if err := cmd.Start(); err != nil {
				t.Fatal(err)
			}
			time.Sleep(took * time.Duration(i+1) / 12)
			cmd.Process.Kill()
			cmd.Wait()
			if n := old(c.name); n != first && n != second && n != -1 {
				t.Errorf("%s has %d items, neither %d nor %d", c.name, n, first, second)
			}
			f.must(append(strings.Fields(c.second), "--replace")...)
			if n := old(c.name); n != second {
				t.Errorf("%s written again has %d items, not %d", c.name, n, second)
			}
			kept, _ := filepath.Glob(f.path("*.before-*"))
			for _, k := range kept {
				os.Remove(k)
			}
		}
	}
}

// No home, a home that can't be written, twenty columns, an odd zone, a pipe that closes: what is asked for is done.
func TestEnvironments(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putWork()
	sealed := f.path("sealed")
	if err := os.Mkdir(sealed, 0o555); err != nil {
		t.Fatal(err)
	}
	want := f.must("look", "walk.gpx", "--json").out
	for _, env := range [][]string{
		{"HOME=", "XDG_DATA_HOME=", "XDG_CONFIG_HOME="},
		{"HOME=" + sealed, "XDG_DATA_HOME=" + sealed, "XDG_CONFIG_HOME=" + sealed},
		{"HOME=/nowhere/at/all", "XDG_DATA_HOME="}, {"COLUMNS=20"}, {"COLUMNS=x"}, {"TZ=Nowhere/Odd"}, {"TZ=Asia/Kathmandu"},
		{"LANG=C", "LC_ALL=C"}, {"TERM=dumb"}, {"PATH="},
	} {
		f.env = env
		if got := f.must("look", "walk.gpx", "--json").out; got != want {
			t.Errorf("%v: looks otherwise", env)
		}
		f.must("look", "planning.kmz")
		f.must("convert", "planning.kmz", "-o", "out.gpx", "--replace", "--quiet")
		f.must("stow", "planning.kmz", "--unit", "keel", "--card", "card", "--archives", "kept", "--replace", "--quiet")
	}
	f.env = nil
	for _, line := range []string{"look walk.gpx", "convert walk.gpx -o - --write-as csv", "formats", "convert --help"} {
		cmd := exec.Command("/bin/sh", "-c", `"$0" `+line+` 2>err | head -1 >/dev/null`, f.program)
		cmd.Dir = f.dir
		if out, err := cmd.CombinedOutput(); err != nil || len(out) > 0 || strings.Contains(f.get("err"), "panic") {
			t.Errorf("%s | head: %v %s %s", line, err, out, f.get("err"))
		}
	}
}

// A link in the folder of a run leads no output out of it.
func TestRunStaysInItsFolder(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	f.put("r.toml", "[[step]]\ndo = \"clean\"\n\n[[output]]\nfile = \"{folder}/{name}.gpx\"\n")
	f.put("in/sub/a.gpx", f.get("walk.gpx"))
	f.put("in/b.gpx", f.get("walk.gpx"))
	f.put("elsewhere/mine", "")
	f.put("out/x", "")
	if err := os.Symlink(f.path("elsewhere"), f.path("out/sub")); err != nil {
		t.Skip(err)
	}
	if r := f.run("run", "r.toml", "in", "--into", "out"); r.status != 1 || !strings.Contains(r.err,
		"a link leads out of it") {
		t.Errorf("status %d: %s", r.status, r.err)
	}
	if _, err := os.Stat(f.path("elsewhere/a.gpx")); err == nil {
		t.Error("an output stands outside of the folder")
	}
	f.get("out/b.gpx")
}
