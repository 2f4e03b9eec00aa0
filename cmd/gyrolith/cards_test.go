package main

import (
	"archive/zip"
	"fmt"
	"io"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"
)

// state reads the files of a card by name, but for what is hidden and the manifest.
func (f *folder) state(card string) map[string]string {
	out := map[string]string{}
	root := f.path(card)
	filepath.Walk(root, func(path string, info os.FileInfo, err error) error {
		if err == nil && !info.IsDir() && !strings.HasPrefix(info.Name(), ".") && info.Name() != "gyrolith-manifest.json" {
			b, _ := os.ReadFile(path)
			rel, _ := filepath.Rel(root, path)
			out[filepath.ToSlash(rel)] = string(b)
		}
		return nil
	})
	return out
}

func same(a, b map[string]string) bool { return fmt.Sprint(a) == fmt.Sprint(b) }

// The program is killed at every step of a stow. Each time every file of the card is as before or as meant, the archive
// holds what was replaced, and the card can be brought to either state.
func TestKilledAtEveryStep(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.put("blank/.here", "")
	f.must("stow", "planning.kmz", "--take", "waypoints:Landings", "--take", "areas", "--unit", "ridge", "--card",
		"blank", "--quiet")
	before := f.state("blank")
	again := []string{"stow", "planning.kmz", "--take", "waypoints", "--take", "areas:Nesting, W*", "--take",
		"tracks:Paths", "--unit", "ridge", "--replace", "--quiet"}
	os.CopyFS(f.path("done"), os.DirFS(f.path("blank")))
	f.must(append(again, "--card", "done", "--archives", f.path("kept-done"))...)
	meant := f.state("done")

	between := 0
	for n := 1; ; n++ {
		if n > 50 {
			t.Fatal("the stow has no end")
		}
		card, keep := fmt.Sprintf("card%d", n), fmt.Sprintf("kept%d", n)
		os.CopyFS(f.path(card), os.DirFS(f.path("blank")))
		f.killedAt(n)
		r := f.run(append(again, "--card", card, "--archives", f.path(keep))...)
		f.killedAt(0)
		if r.status == 0 {
			if n < 8 || between < 3 {
				t.Fatalf("only %d steps, %d of them between files", n-1, between)
			}
			break
		}
		now := f.state(card)
		for name, content := range now {
			if content != before[name] && content != meant[name] {
				t.Fatalf("step %d: %s is neither as before nor as meant", n, name)
			}
		}
		for name := range before {
			if _, there := now[name]; !there && meant[name] != "" {
				t.Fatalf("step %d: %s is gone", n, name)
			}
		}
		if same(now, before) == false { // something was replaced: the archive is there, and holds it
			archives, _ := filepath.Glob(f.path(keep + "/*.zip"))
			if len(archives) != 1 {
				t.Fatalf("step %d: archives %v", n, archives)
			}
			z, err := zip.OpenReader(archives[0])
			if err != nil {
				t.Fatal(err)
			}
			for _, entry := range z.File {
				r, _ := entry.Open()
				b, _ := io.ReadAll(r)
				if !strings.HasPrefix(entry.Name, "gyrolith-") && string(b) != before[entry.Name] {
					t.Errorf("step %d: the archive's %s is not what was on the card", n, entry.Name)
				}
			}
			z.Close()
		}
		boot := f.run("boot", "--unit", "ridge", "--card", card)
		if strings.Contains(boot.err, "was interrupted") {
			between++
			f.refuses(1, "gyrolith stow --finish --card "+card, append(again, "--card", card)...)
			os.CopyFS(f.path(card+"u"), os.DirFS(f.path(card)))
			f.must("stow", "--finish", "--card", card)
			if !same(f.state(card), meant) {
				t.Errorf("step %d: finished, the card is not as meant", n)
			}
			f.must("stow", "--verify", "--card", card)
			f.must("stow", "--undo", "--card", card+"u")
			if !same(f.state(card+"u"), before) {
				t.Errorf("step %d: undone, the card is not as before", n)
			}
		} else if !same(now, before) && !same(now, meant) {
			t.Errorf("step %d: the card is between two states, and nobody says so", n)
		}
		f.must(append(again, "--card", card)...)
		if !same(f.state(card), meant) {
			t.Errorf("step %d: stowed again, the card is not as meant", n)
		}
		filepath.Walk(f.path(card), func(path string, info os.FileInfo, err error) error {
			if err == nil && strings.HasSuffix(path, ".part") {
				t.Errorf("step %d: %s is left behind", n, path)
			}
			return nil
		})
	}
	f.refuses(1, "there is no interrupted stow or restore on this card", "stow", "--finish", "--card", "done")
}

func TestVerifyUnstowRestore(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz", "counting.txt")
	f.put("card/.here", "")
	f.refuses(1, "nothing was stowed on it", "stow", "--verify", "--card", "card")
	r := f.must("stow", "planning.kmz", "counting.txt", "--unit", "keel", "--card", "card")
	for _, want := range []string{"meant", "on the card", "shown by the unit", "the unit shows what was intended",
		"stow --verify --card card"} {
		if !strings.Contains(r.err, want) {
			t.Errorf("it does not say %q:\n%s", want, r.err)
		}
	}
	f.must("stow", "--verify", "--card", "card")
	f.put("card/NOTES.TXT", "mine")
	before := f.state("card")
	f.must("unstow", "--card", "card", "-o", "all.zip", "--write-as", "gpx")
	if text := f.get("all.gpx"); strings.Count(text, "<wpt") != 26 || !strings.Contains(text, "VC05") {
		t.Error("the contents are not all there as GPX")
	}
	f.refuses(1, "already exists", "unstow", "--card", "card", "-o", "all.zip")

	whole := f.get("card/KEEL/MARKS.KRD")
	f.put("card/KEEL/MARKS.KRD", whole[:len(whole)/2])
	f.put("card/KEEL/EXTRA.BIN", "x")
	f.refuses(4, "1 of 1 file not as written", "stow", "--verify", "--card", "card")
	f.refuses(1, "CARD ERROR", "boot", "--unit", "keel", "--card", "card")
	f.refuses(1, "--salvage takes what is complete", "look", f.path("card/KEEL/MARKS.KRD"))
	f.must("look", f.path("card/KEEL/MARKS.KRD"), "--salvage")
	f.refuses(1, "--replace overwrites them and archives the old ones", "unstow", "--restore", "all.zip", "--card", "card")
	f.must("unstow", "--restore", "all.zip", "--card", "card", "--replace", "--archives", "kept")
	state := f.state("card")
	if delete(state, "KEEL/EXTRA.BIN"); !same(state, before) || f.get("card/KEEL/EXTRA.BIN") != "x" {
		t.Errorf("restored: %v", len(f.state("card")))
	}
	f.must("boot", "--unit", "keel", "--card", "card", "-o", "shown.gpx")
	if r := f.must("compare", "all.gpx", "shown.gpx", "--take", "routes"); !strings.Contains(r.out, "no difference") {
		t.Errorf("what the unit shows is not what the card holds:\n%s", r.out)
	}
	f.refuses(2, "no card given", "unstow", "-o", "x.zip")
	f.refuses(2, "call it x.zip", "unstow", "--card", "card", "-o", "x.gpx")
	f.refuses(2, "give only one of", "stow", "--verify", "--undo", "--card", "card")
}

// What another has put on a card is refused to be forgotten, kept with --add, and named and archived with --replace.
func TestCardOfAnother(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	foreign := `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="1" lon="2"><name>Old camp</name>` +
		`</wpt></gpx>`
	f.put("card/RIDGE/WAYPOINTS/foreign.gpx", foreign)
	f.put("card/RIDGE/WAYPOINTS/readme.txt", "not for the unit")
	stow := []string{"stow", "planning.kmz", "--unit", "ridge", "--card", "card"}
	r := f.refuses(1, "1 waypoint would no longer be shown", stow...)
	if !strings.Contains(r.err, "Old camp") {
		t.Errorf("%s", r.err)
	}
	f.must(append(stow, "--add")...)
	if f.get("card/RIDGE/WAYPOINTS/foreign.gpx") != foreign {
		t.Error("what was there was changed")
	}
	if r := f.must("boot", "--card", "card", "--all"); !strings.Contains(r.out, "Old camp") ||
		!strings.Contains(r.out, "WAYPOINTS 27 of") {
		t.Errorf("%s", r.out)
	}
	r = f.must(append(stow, "--replace", "--archives", "kept")...)
	if !strings.Contains(r.err, "Old camp") || !strings.Contains(r.err, "1 file was removed") {
		t.Errorf("%s", r.err)
	}
	if f.get("card/RIDGE/WAYPOINTS/readme.txt") != "not for the unit" {
		t.Error("a file that is not the unit's was touched")
	}
	f.must("stow", "--verify", "--card", "card")
}

// The circle as one types it: the card goes out, the crew works on it, it comes home, and goes out again.
func TestCircleOfACard(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.put("card/.here", "")
	f.must("stow", "planning.kmz", "--take", "waypoints", "--unit", "keel", "--card", "card", "--names", "names.csv")
	if text := f.get("names.csv"); !strings.Contains(text, `The Saddle W side`) || !strings.Contains(text,
		`"The Saddle, west side"`) {
		t.Errorf("names.csv:\n%s", text)
	}
	f.must("boot", "--card", "card", "--make", "Seal rock", "47.57 S", "11.34 E")
	f.must("boot", "--card", "card", "--move", "Rock 2", "47.5655 S 11.3465 E")
	f.must("boot", "--card", "card", "--delete", "Rock 3")
	r := f.refuses(4, "merge OFFICE --card card", "stow", "--verify", "--card", "card")
	for _, want := range []string{"made     waypoint  Seal rock", "moved    waypoint  Rock 2",
		"deleted  waypoint  Rock 3"} {
		if !strings.Contains(r.err, want) {
			t.Errorf("%q is not said:\n%s", want, r.err)
		}
	}
	f.must("merge", "planning.kmz", "--card", "card", "-o", "home.kmz")
	v := f.answer("compare", "planning.kmz", "home.kmz", "--json")
	if got := v["differences"].([]any); len(got) != 3 {
		t.Errorf("%v", got)
	}
	v = f.answer("stow", "home.kmz", "--take", "waypoints", "--card", "card", "--add", "--json")
	if n := v["kept"].(map[string]any)["waypoints"].(float64); n != 26 {
		t.Errorf("kept %v, added %v, updated %v", n, v["added"], v["updated"])
	}
	f.must("stow", "--card", "card", "--drop", "waypoints:Seal*", "--archives", "kept")
	f.refuses(1, `the nearest: waypoint "Rock 1"`, "stow", "--card", "card", "--drop", "waypoints:Rok 1")
	f.refuses(2, "give only one of", "stow", "home.kmz", "--card", "card", "--add", "--replace")
	f.refuses(2, "doesn't record which unit", "stow", "home.kmz", "--card", "kept", "--add")
	f.refuses(2, "needs a position", "boot", "--card", "card", "--make", "X")
	f.refuses(1, "already", "boot", "--card", "card", "--make", "Rock 1", "47 S", "11 E")
}

// Versions of a list are merged, conflicts are listed, settled or refused.
func TestMergeVersions(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.put("old.csv", "code,name,lat,lon,depth\nA,Alpha,-47.5,11.3,4\nB,Bravo,-47.6,11.3,5\nC,Charlie,-47.7,11.3,6\n")
	f.put("office.csv", "code,name,lat,lon,depth\nA,Alpha,-47.5,11.3,4.5\nB,Bravo,-47.6,11.3,5\nC,Charlie,-47.7,11.3,7\n")
	f.put("boat.csv", "code,name,lat,lon,depth\nA,Alpha buoy,-47.51,11.3,4\n"+
		"C,Charlie,-47.7,11.3,8\nD,Delta,-47.8,11.3,9\n")
	merge := []string{"merge", "office.csv", "boat.csv", "--base", "old.csv", "--key", "code"}
	f.refuses(3, "1 conflict is open", append(merge, "-o", "out.geojson", "--strict")...)
	f.must(append(merge, "-o", "out.geojson", "--conflicts", "other.csv")...)
	text := f.get("out.geojson")
	for _, want := range []string{`"Alpha buoy"`, "-47.51", "4.5", `"Delta"`} {
		if !strings.Contains(text, want) {
			t.Errorf("%s is not in what was merged:\n%s", want, text)
		}
	}
	if strings.Contains(text, "Bravo") || !strings.Contains(f.get("other.csv"), "Charlie") {
		t.Errorf("%s\n%s", text, f.get("other.csv"))
	}
	v := f.answer(append(merge, "-o", "b.geojson", "--prefer", "second", "--json")...)
	if c := v["conflicts"].([]any)[0].(map[string]any); c["property"] != "field depth" || c["second"] != "8" ||
		c["taken"] != "second" {
		t.Errorf("%v", v["conflicts"])
	}
	f.refuses(1, `no item has the field "cod"`, "merge", "office.csv", "boat.csv", "--key", "cod", "-o", "x.csv")
	f.refuses(2, "at least two versions", "merge", "office.csv", "-o", "x.csv")
	f.refuses(2, "is an input as well", "merge", "office.csv", "boat.csv", "-o", "boat.csv")
}

func TestProfiles(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.env = []string{"XDG_CONFIG_HOME=" + f.path("config")}
	if runtime.GOOS != "linux" {
		t.Skip("the configuration folder is elsewhere")
	}
	f.putDemo("planning.kmz")
	f.must("units", "--new", "mine", "--like", "csv-list")
	file := "config/gyrolith/units/mine.toml"
	f.put(file, strings.Replace(f.get(file), "length = 12", "length = 8", 1))
	if r := f.must("units"); !strings.Contains(r.out, "mine") || !strings.Contains(r.out, file) {
		t.Errorf("%s", r.out)
	}
	f.must("units", "--check", file)
	f.put("card/.here", "")
	r := f.must("stow", "planning.kmz", "--take", "waypoints", "--unit", "mine", "--card", "card")
	if !strings.Contains(r.err, "expected") ||
		!strings.HasPrefix(f.get("card/POINTS.CSV"), "ROUTE;NAME;LATITUDE;LONGITUDE;ALT;NOTE\r\n") {
		t.Errorf("%s\n%.200s", r.err, f.get("card/POINTS.CSV"))
	}
	f.put("bad.toml", strings.Replace(f.get(file), "length = 8", "lenght = 8", 1))
	f.refuses(1, `did you mean "length"?`, "units", "--check", "bad.toml")
	f.refuses(2, "lower-case letters", "units", "--new", "My Unit")
	f.refuses(1, "already exists", "units", "--new", "mine")
	f.must("convert", "planning.kmz", "--unit", "keel", "--card-version", "1", "-o", "old.krd")
	c := f.must("compare", "planning.kmz", "old.krd", "--take", "waypoints")
	if !strings.Contains(c.out, "moved") {
		t.Errorf("version 1 moves nothing:\n%s", c.out)
	}
	f.refuses(2, "have no version 7", "convert", "planning.kmz", "--unit", "keel", "--card-version", "7", "-o", "x.krd")
	f.must("convert", "planning.kmz", "-o", "plain.gpx", "--quiet")
	f.refuses(3, "would not show all", "stow", "plain.gpx", "--unit", "vane", "--card", "card", "--strict", "--quiet")
}

// An upload whose connection breaks in the middle begins its route again, and the unit confirms it.
func TestSend(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("briefing.txt", "counting.txt")
	unit, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Skip(err)
	}
	address := unit.Addr().String()
	unit.Close()
	boot := exec.Command(program, "boot", "--listen", address, "-o", f.path("shown.gpx"))
	boot.Dir = f.dir
	if err := boot.Start(); err != nil {
		t.Fatal(err)
	}
	defer boot.Process.Kill()
	// Between the two stands a line that is cut once.
	line, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer line.Close()
	go func() {
		for first := true; ; first = false {
			in, err := line.Accept()
			if err != nil {
				return
			}
			var out net.Conn
			for range 100 {
				if out, err = net.Dial("tcp", address); err == nil {
					break
				}
				time.Sleep(50 * time.Millisecond)
			}
			if out == nil {
				in.Close()
				return
			}
			if first {
				io.CopyN(out, in, 100)
				in.(*net.TCPConn).SetLinger(0)
				in.Close()
				out.Close()
				continue
			}
			go func() { io.Copy(in, out); in.Close() }()
			io.Copy(out, in)
			out.Close()
		}
	}()
	r := f.must("send", "briefing.txt", "counting.txt", "--to", "tcp://"+line.Addr().String(), "--rate", "9600")
	if !strings.Contains(r.err, "sending it again") || !strings.Contains(r.err, "sent and confirmed") ||
		!strings.Contains(r.err, "2 routes") {
		t.Errorf("%s", r.err)
	}
	if err := boot.Wait(); err != nil {
		t.Fatal(err)
	}
	if c := f.must("compare", "briefing.txt", "shown.gpx", "--within", "1m", "--quiet"); strings.Contains(c.out, "lost") {
		t.Errorf("%s", c.out)
	}
	if text := f.must("send", "counting.txt", "--dry-run").out; !strings.HasPrefix(text,
		"$ECWPL,4735.00000,S,01115.50000,E,VC01*") {
		t.Errorf("%s", text)
	}
	f.refuses(2, "is not an address", "send", "counting.txt", "--to", "somewhere")
	f.refuses(1, "no answer", "send", "counting.txt", "--to", "tcp://127.0.0.1:1")
	f.refuses(1, "no such device", "send", "counting.txt", "--to", "serial:/dev/ttyNONE")
}

// A full and a read-only card, on file systems of their own where they can be had.
func TestCardsThatFail(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	if err := os.Mkdir(f.path("card"), 0o777); err != nil {
		t.Fatal(err)
	}
	mount := func(options string) bool {
		out, err := exec.Command("mount", "-t", "tmpfs", "-o", options, "none", f.path("card")).CombinedOutput()
		if err != nil {
			t.Logf("no file system of its own can be had: %s", out)
		}
		return err == nil
	}
	unmount := func() { exec.Command("umount", f.path("card")).Run() }
	stow := []string{"stow", "planning.kmz", "--unit", "ridge", "--card", "card", "--quiet"}
	if !mount("size=16k") {
		t.Skip("needs the right to mount")
	}
	defer unmount()
	f.refuses(1, "the card is full", stow...)
	unmount()
	if !mount("size=4m,ro") {
		t.Skip("needs the right to mount")
	}
	f.refuses(1, "the card is read-only", stow...)
}

// A unit that shows less than was meant, since others' files leave no room, is said first and is status 1; a strict
// stow finds out before it writes anything.
func TestStowOnAFullCard(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	var full strings.Builder
	full.WriteString(`<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">`)
	for i := range 2000 {
		fmt.Fprintf(&full, `<wpt lat="-47.%04d" lon="11.3"><name>OLD %d</name></wpt>`, i, i)
	}
	f.put("card/RIDGE/WAYPOINTS/a-full.gpx", full.String()+"</gpx>")
	f.put(
		"new.gpx",
		`<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="-48" lon="11.3"><name>NEW</name>`+
			`</wpt></gpx>`,
	)
	before := f.state("card")
	f.refuses(3, "nothing was written", "stow", "new.gpx", "--unit", "ridge", "--card", "card", "--strict", "--add")
	if !same(before, f.state("card")) {
		t.Errorf("the card was changed: %v", names(f.state("card")))
	}
	r := f.run("stow", "new.gpx", "--unit", "ridge", "--card", "card", "--add")
	if r.status != 4 || !strings.HasPrefix(r.err, "attention: 1 item does not fit") || !strings.Contains(r.err, "NEW") {
		t.Errorf("status %d:\n%s", r.status, r.err)
	}
}

// The unit of a card is that of the card alone: what merge and boot write for the office keeps its names and letters.
func TestUnitOfTheCardFitsNothing(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.putDemo("planning.kmz")
	f.put("card/x", "")
	f.must("stow", "planning.kmz", "--unit", "keel", "--card", "card", "--archives", "kept", "--quiet")
	for _, line := range []string{"merge planning.kmz --card card -o OUT.kmz --quiet",
		"boot --card card -o OUT.gpx --quiet"} {
		for name, more := range map[string]string{"plain": "", "named": " --unit keel"} {
			f.must(strings.Fields(strings.Replace(line, "OUT", name, 1) + more)...)
		}
	}
	if f.get("plain.kmz") != f.get("named.kmz") || f.get("plain.gpx") != f.get("named.gpx") {
		t.Error("the output was fitted to the unit of the card")
	}
	if x := f.run("look", "named.kmz", "--json").out; !strings.Contains(x, "Østre Båe") {
		t.Error("a name of the office has lost its letters")
	}
}
