package main

import (
	"archive/zip"
	"bytes"
	"fmt"
	"io"
	"math"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"syscall"
	"testing"
	"time"
)

// begun starts the program in a folder with temporary files of its own, and gives what ends it.
func (f *folder) begun(args ...string) (cmd *exec.Cmd, errOut *bytes.Buffer) {
	f.t.Helper()
	os.MkdirAll(f.path("tmp"), 0o777)
	cmd = exec.Command(f.program, args...)
	cmd.Dir = f.dir
	cmd.Env = append(os.Environ(), "TMPDIR="+f.path("tmp"), "HOME="+f.dir, "XDG_DATA_HOME="+f.path("data"), "NO_COLOR=1")
	errOut = &bytes.Buffer{}
	cmd.Stderr = errOut
	return cmd, errOut
}

// A run that is told to stop leaves no temporary card and no half written file, and ends with its own status.
func TestStoppedRunCleansUp(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("signals are sent otherwise there")
	}
	f := newFolder(t)
	f.putDemo("planning.kmz")
	for i := range 200 {
		f.put(fmt.Sprintf("in/plan%d.kmz", i), f.get("planning.kmz"))
	}
	cmd, errOut := f.begun("run", "season-cards", "in", "--into", "out", "--quiet")
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	for range 500 {
		if files, _ := filepath.Glob(f.path("out/*-handheld")); len(files) > 3 {
			break
		}
		time.Sleep(10 * time.Millisecond)
	}
	cmd.Process.Signal(syscall.SIGTERM)
	cmd.Wait()
	if status := cmd.ProcessState.ExitCode(); status != 130 {
		t.Errorf("status %d: %s", status, errOut)
	}
	for _, name := range f.list() {
		if strings.Contains(name, ".part") || strings.HasPrefix(name, "tmp/") {
			t.Errorf("%s is left behind", name)
		}
	}
	if r := f.run("run", "season-cards", "in", "--into", "out", "--quiet"); r.status != 0 {
		t.Errorf("it does not go on: %s", r.err)
	}
}

// A signal ends any verb within half a second or so, whatever it is computing, with its own status and without a file.
func TestSignalWhileComputing(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("signals are sent otherwise there")
	}
	f := newFolder(t)
	var b strings.Builder
	b.WriteString(`<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>`)
	for i := range 500_000 {
		fmt.Fprintf(&b, "<trkpt lat=\"%.6f\" lon=\"%.6f\"/>\n", -47.5+0.2*math.Sin(float64(i)/4e4),
			11.3+0.2*math.Cos(float64(i)/3e4))
	}
	b.WriteString(`</trkseg></trk></gpx>`)
	f.put("a.gpx", b.String())
	f.put("b.gpx", b.String())
	f.put("card/.here", "")
	stopped := 0
	for _, args := range [][]string{
		{"draw", "a.gpx", "-o", "made.svg"},
		{"compare", "a.gpx", "b.gpx"},
		{"merge", "a.gpx", "b.gpx", "-o", "made.gpx"},
		{"clean", "a.gpx", "--thin-within", "1m", "-o", "made.gpx"},
		{"recast", "a.gpx", "--tracks-to", "routes", "--thin-within", "1m", "-o", "made.gpx"},
		{"stow", "a.gpx", "--unit", "keel", "--card", "card"},
		{"convert", "a.gpx", "-o", "made.gpkg"},
	} {
		for _, after := range []time.Duration{150, 450} {
			cmd, errOut := f.begun(args...)
			if err := cmd.Start(); err != nil {
				t.Fatal(err)
			}
			time.Sleep(after * time.Millisecond)
			began := time.Now()
			if cmd.Process.Signal(syscall.SIGTERM) != nil {
				cmd.Wait()
				continue
			}
			cmd.Wait()
			status, took := cmd.ProcessState.ExitCode(), time.Since(began)
			if status == 0 { // it had ended
				os.Remove(f.path(args[len(args)-1]))
				os.RemoveAll(f.path("card"))
				f.put("card/.here", "")
				continue
			}
			stopped++
			if status != 130 || took > 3*time.Second { // on a busy machine
				t.Errorf("%v after %d ms: status %d after %v: %s", args, after, status, took, errOut)
			}
			for _, name := range f.list() {
				if strings.HasPrefix(name, "made") || strings.Contains(name, ".part") || strings.HasPrefix(name, "tmp/") ||
					strings.HasPrefix(name, "card/K") {
					t.Errorf("%v after %d ms: %s is left behind", args, after, name)
				}
			}
		}
	}
	if stopped < 5 {
		t.Errorf("only %d were stopped", stopped)
	}
}

// A unit that listens shows what it heard when it is ended.
func TestEndedListenerShows(t *testing.T) {
	t.Parallel()
	if runtime.GOOS == "windows" {
		t.Skip("signals are sent otherwise there")
	}
	f := newFolder(t)
	in, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Skip(err)
	}
	address := in.Addr().String()
	in.Close()
	cmd, _ := f.begun("boot", "--unit", "keel", "--listen", address)
	var out bytes.Buffer
	cmd.Stdout = &out
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	var conn net.Conn
	for range 300 {
		if conn, err = net.Dial("tcp", address); err == nil {
			break
		}
		time.Sleep(10 * time.Millisecond)
	}
	if err != nil {
		t.Fatal(err)
	}
	body := "ECWPL,4735.0000,S,01115.5000,E,JETTY"
	sum := byte(0)
	for _, b := range []byte(body) {
		sum ^= b
	}
	fmt.Fprintf(conn, "$%s*%02X\r\n", body, sum)
	time.Sleep(300 * time.Millisecond)
	cmd.Process.Signal(os.Interrupt)
	cmd.Wait()
	if !strings.Contains(out.String(), "JETTY") || cmd.ProcessState.ExitCode() != 0 {
		t.Errorf("status %d, and it shows %q", cmd.ProcessState.ExitCode(), out.String())
	}
}

// An answer that can't be written is no success.
func TestFullStandardOutput(t *testing.T) {
	t.Parallel()
	full, err := os.OpenFile("/dev/full", os.O_WRONLY, 0)
	if err != nil {
		t.Skip("there is no device that is full")
	}
	defer full.Close()
	f := newFolder(t)
	f.putDemo("walk.gpx")
	for _, args := range [][]string{{"look", "walk.gpx"}, {"look", "walk.gpx", "--json"}, {"formats"}, {"units"},
		{"convert", "walk.gpx", "-o", "-", "--write-as", "kml"}, {"where", "47.6 S 11.3 E"}} {
		cmd, errOut := f.begun(args...)
		cmd.Stdout = full
		cmd.Run()
		if status := cmd.ProcessState.ExitCode(); status != 1 || !strings.Contains(errOut.String(), "no space left") {
			t.Errorf("%v: status %d, %q", args, status, errOut)
		}
	}
}

// Errors of several files come in the order of the files, each time.
func TestErrorsInOrder(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var args []string
	for i := range 12 {
		name := fmt.Sprintf("bad%02d.gpx", i)
		f.put(name, strings.Repeat(" ", i*5000)+"<gpx><wpt lat=")
		args = append(args, name)
	}
	for range 5 {
		last := -1
		for line := range strings.Lines(f.run(append([]string{"look"}, args...)...).err) {
			var n int
			if _, err := fmt.Sscanf(line, "gyrolith: bad%d.gpx", &n); err != nil || n < last {
				t.Fatalf("%q comes after %d", line, last)
			}
			last = n
		}
	}
	for range 10 {
		if r := f.run("look", "bad00.gpx", "--since", "x", "--inside", "y", "--clock", "z"); !strings.Contains(r.err,
			"--clock") {
			t.Fatalf("another error comes first: %s", r.err)
		}
	}
	f.refuses(2, "--max-nesting: 0 is too small", "look", "bad00.gpx", "--max-nesting", "0")
}

// The program that ships knows nothing of being killed for a test.
func TestShippedProgramLives(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	os.Mkdir(f.path("card"), 0o777)
	f.env = []string{"GYROLITH_DIE_AT=1"}
	f.must("stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--quiet")
}

// Undo after a broken second stow brings back the manifest of the first.
func TestUndoKeepsTheManifestBefore(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	os.Mkdir(f.path("card"), 0o777)
	stow := []string{"stow", "planning.kmz", "--take", "waypoints", "--unit", "ridge", "--card", "card", "--quiet",
		"--replace"}
	f.must(stow...)
	before := f.state("card")
	broken := false
	for n := 1; n < 12 && !broken; n++ {
		f.killedAt(n)
		f.run(append(stow, "--take", "tracks:Paths*", "--take", "areas")...)
		f.killedAt(0)
		broken = strings.Contains(f.get("card/gyrolith-manifest.json"), `"finished":false`)
	}
	if !broken {
		t.Fatal("no interrupted stow")
	}
	f.must("stow", "--undo", "--card", "card")
	if !same(before, f.state("card")) {
		t.Errorf("the card is not as it was before: %v", names(f.state("card")))
	}
	f.must("stow", "--verify", "--card", "card")
}

// An archive of a card does not go on to the card, nor through a link on to it.
func TestArchiveOffTheCard(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	os.Mkdir(f.path("card"), 0o777)
	f.must("stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--quiet")
	f.refuses(1, "is on the card itself", "unstow", "--card", "card", "-o", "card/all.zip")
	if os.Symlink("card", f.path("link")) == nil {
		f.refuses(1, "is on the card itself", "unstow", "--card", "card", "-o", "link/all.zip")
	}
}

// What a card's files can't hold is told in a stow, and --strict refuses it.
func TestStowTellsWhatFilesLose(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	os.Mkdir(f.path("card"), 0o777)
	f.put("part.geojson", `{"type":"Feature","properties":{"name":"T"},"geometry":{"type":"LineString",`+
		`"coordinates":[[11.3,-47.6,30],[11.31,-47.6,31]]}}`)
	f.refuses(3, "would not show all of this", "stow", "part.geojson", "--unit", "kml-file", "--card", "card", "--strict",
		"--quiet")
	if r := f.must("stow", "part.geojson", "--unit", "kml-file", "--card", "card"); !strings.Contains(r.err,
		"height references") {
		t.Errorf("it is not said that the reference of heights is lost:\n%s", r.err)
	}
	f.put("titled.gpx", `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><metadata>`+
		`<name>Season</name><desc>All of it</desc>`+
		`</metadata><wpt lat="-47.6" lon="11.3"><name>A</name></wpt></gpx>`)
	os.Mkdir(f.path("keel"), 0o777)
	r := f.must("stow", "titled.gpx", "--unit", "keel", "--card", "keel")
	if !strings.Contains(r.err, "title of the file") || !strings.Contains(r.err, "description of the file") {
		t.Errorf("the title goes unsaid:\n%s", r.err)
	}
}

// archive makes a KMZ with a picture.
func archive(t *testing.T, name, picture string) string {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	put := func(name, content string) {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		io.WriteString(w, content)
	}
	put("doc.kml", `<kml xmlns="http://www.opengis.net/kml/2.2"><Document><name>`+name+`</name><description>of `+name+
		`</description><Placemark><name>`+name+`</name>`+
		`<Style><IconStyle><Icon><href>files/icon.png</href></Icon></IconStyle></Style>`+
		`<Point><coordinates>11.3,-47.6</coordinates></Point></Placemark></Document></kml>`)
	put("files/icon.png", picture)
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.String()
}

// Two archives with different pictures of one name keep both, and each item its own; what describes the second file
// stays too.
func TestMergedArchives(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("a.kmz", archive(t, "North", "a picture"))
	f.put("b.kmz", archive(t, "South", "another picture"))
	f.must("convert", "a.kmz", "b.kmz", "-o", "both.kmz", "--quiet")
	z, err := zip.OpenReader(f.path("both.kmz"))
	if err != nil {
		t.Fatal(err)
	}
	defer z.Close()
	files := map[string]string{}
	for _, m := range z.File {
		r, err := m.Open()
		if err != nil {
			t.Fatal(err)
		}
		b, _ := io.ReadAll(r)
		r.Close()
		files[m.Name] = string(b)
	}
	doc := files["doc.kml"]
	if files["files/icon.png"] != "a picture" || files["files/icon-2.png"] != "another picture" ||
		!strings.Contains(doc, "<href>files/icon.png</href>") || !strings.Contains(doc, "<href>files/icon-2.png</href>") ||
		!strings.Contains(doc, "of North") || !strings.Contains(doc, "South: of South") {
		t.Errorf("%q", files)
	}
}
