package unit

import (
	"archive/zip"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"gyrolith/core/nav"
)

func put(t *testing.T, root, name, text string) {
	t.Helper()
	path := filepath.Join(root, filepath.FromSlash(name))
	if err := os.MkdirAll(filepath.Dir(path), 0o777); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(path, []byte(text), 0o666); err != nil {
		t.Fatal(err)
	}
}

func get(root, name string) string {
	b, err := os.ReadFile(filepath.Join(root, filepath.FromSlash(name)))
	if err != nil {
		return "(none)"
	}
	return string(b)
}

func stowed(t *testing.T, d *nav.Dataset, card string, opt StowOptions) *Stowed {
	t.Helper()
	plan, err := MakePlan(d, ridge(t), "plan")
	if err != nil {
		t.Fatal(err)
	}
	out, err := plan.Stow(card, opt)
	if err != nil {
		t.Fatal(err)
	}
	return out
}

// The pattern of a profile says how many files there are and what they are called.
func TestFilePatterns(t *testing.T) {
	d := &nav.Dataset{}
	for _, name := range []string{"North/A", "North/B", "South/C"} {
		group, point, _ := strings.Cut(name, "/")
		d.Waypoints = append(d.Waypoints, nav.Waypoint{Item: nav.Item{Name: point, Group: group}, Point: nav.At(1, 2)})
	}
	for pattern, want := range map[string]string{
		"{source}.gpx":        "season.gpx",
		"ALL.GPX":             "ALL.GPX",
		"{name}.gpx":          "A.gpx B.gpx C.gpx",
		"{group}.gpx":         "North.gpx South.gpx",
		"P{number}.gpx":       "P001.gpx P002.gpx P003.gpx",
		"{source} {name}.gpx": "season A.gpx season B.gpx season C.gpx",
	} {
		p := *ridge(t)
		p.Shows = append(slices.Clone(p.Shows), "group")
		p.Waypoints.File, p.Waypoints.Folder = pattern, ""
		plan, err := MakePlan(d, &p, "season")
		if err != nil {
			t.Fatal(err)
		}
		var names []string
		for _, f := range plan.Files {
			names = append(names, f.Path)
		}
		if got := strings.Join(names, " "); got != want {
			t.Errorf("%s: %s, want %s", pattern, got, want)
		}
	}
	// Two items whose names become one file's are two files.
	p := *ridge(t)
	p.Text.Unique = "none"
	twins := &nav.Dataset{Tracks: []nav.Track{line("T/1", 2), line("T:1", 2)}}
	plan, err := MakePlan(twins, &p, "x")
	if err != nil || len(plan.Files) != 2 || plan.Files[0].Path == plan.Files[1].Path {
		t.Errorf("%v %+v", err, plan.Files)
	}
	// A file that is too large is refused.
	p.Tracks.Bytes = 100
	if _, err := MakePlan(twins, &p, "x"); err == nil || !strings.Contains(err.Error(), "takes files of 100") {
		t.Errorf("a large file: %v", err)
	}
}

func TestManifestAndVerify(t *testing.T) {
	card, keep := t.TempDir(), t.TempDir()
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(1, 2)}}, Tracks: []nav.Track{line("T", 3)}}
	out := stowed(t, d, card, StowOptions{Keep: keep})
	if out.Before.Files != 0 || out.OnCard != [4]int{1, 0, 1, 0} || out.Archive != "" {
		t.Errorf("%+v", out)
	}
	m, files, err := Verify(card)
	if err != nil || m.Unit != "ridge" || !m.Finished || len(files) != 2 || files[0].Why+files[1].Why != "" {
		t.Fatalf("%+v %+v %v", m, files, err)
	}
	put(t, card, files[0].Path, "other")
	os.Remove(filepath.Join(card, files[1].Path))
	_, files, err = Verify(card)
	if err != nil || !strings.Contains(files[0].Why, "bytes instead of") || !strings.Contains(files[1].Why, "missing") {
		t.Errorf("%+v %v", files, err)
	}
	put(t, card, ManifestName, "{")
	if _, _, err := Verify(card); err == nil || !strings.Contains(err.Error(), "is damaged") {
		t.Errorf("a damaged manifest: %v", err)
	}
	put(t, card, ManifestName, `{"files":[{"path":"../../etc/passwd"}]}`)
	if _, _, err := Verify(card); err == nil || !strings.Contains(err.Error(), "is damaged") {
		t.Errorf("a manifest that leads off the card: %v", err)
	}
	// A stow writes a damaged manifest anew.
	again := stowed(t, d, card, StowOptions{Keep: keep, Replace: true, Now: time.Unix(0, 0)})
	if _, _, err := Verify(card); err != nil || again.Archive == "" || again.Before.Files != 2 {
		t.Errorf("%+v %v", again, err)
	}
}

// Of two archives in one second neither is lost.
func TestArchivesOfOneSecond(t *testing.T) {
	card, keep := t.TempDir(), t.TempDir()
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(1, 2)}}}
	opt := StowOptions{Keep: keep, Replace: true, Now: time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC)}
	stowed(t, d, card, opt)
	for i := range 3 {
		put(t, card, "RIDGE/WAYPOINTS/plan.gpx", strings.Repeat("x", i+1))
		stowed(t, d, card, opt)
	}
	archives, _ := filepath.Glob(filepath.Join(keep, "ridge-2026-03-14-053000*.zip"))
	if len(archives) != 3 {
		t.Errorf("%v", archives)
	}
	if _, err := (&Plan{Profile: ridge(t), Files: []CardFile{{"RIDGE/WAYPOINTS/plan.gpx", []byte("y")}}}).Stow(card, StowOptions{Replace: true, Keep: filepath.Join(card, "old")}); err == nil || !strings.Contains(err.Error(), "on the card itself") {
		t.Errorf("an archive on the card: %v", err)
	}
}

func TestFinishAndUndoRefuse(t *testing.T) {
	card := t.TempDir()
	if _, err := Finish(card); err == nil || !strings.Contains(err.Error(), "no stow on this card was broken off") {
		t.Errorf("%v", err)
	}
	broken := `{"unit":"ridge","finished":false,"files":[{"path":"A.GPX","bytes":1,"sha256":"` + sumOf([]byte("a")) + `","part":".gyrolith-0.part"}]}`
	put(t, card, ManifestName, broken)
	if _, err := Finish(card); err == nil || !strings.Contains(err.Error(), "--undo") {
		t.Errorf("finished without what was written: %v", err)
	}
	put(t, card, "A.GPX", "changed by somebody")
	if _, err := Undo(card); err == nil || !strings.Contains(err.Error(), "neither as it was nor as it was meant") {
		t.Errorf("undone over somebody's change: %v", err)
	}
	if get(card, "A.GPX") != "changed by somebody" {
		t.Error("somebody's file is gone")
	}
	put(t, card, "A.GPX", "a")
	put(t, card, ".gyrolith-0.part", "left")
	if _, err := Undo(card); err != nil || get(card, "A.GPX") != "(none)" || get(card, ManifestName) != "(none)" || get(card, ".gyrolith-0.part") != "(none)" {
		t.Errorf("undone: %v", err)
	}
}

func TestRestore(t *testing.T) {
	card, keep := t.TempDir(), t.TempDir()
	put(t, card, "A.GPX", "a")
	put(t, card, "DIR/B.GPX", "b")
	archive := filepath.Join(t.TempDir(), "whole.zip")
	files, _, err := Unstow(card, archive, false)
	if err != nil || len(files) != 2 {
		t.Fatalf("%v %v", files, err)
	}
	put(t, card, "A.GPX", "changed")
	put(t, card, "EXTRA.GPX", "x")
	os.Remove(filepath.Join(card, "DIR/B.GPX"))
	if _, err := Restore(card, archive, StowOptions{Keep: keep}); err == nil || get(card, "A.GPX") != "changed" {
		t.Errorf("written over without being asked to: %v", err)
	}
	out, err := Restore(card, archive, StowOptions{Keep: keep, Replace: true})
	if err != nil || get(card, "A.GPX") != "a" || get(card, "DIR/B.GPX") != "b" || get(card, "EXTRA.GPX") != "(none)" || !out.Removed {
		t.Fatalf("%+v %v", out, err)
	}
	old, err := unpack(out.Archive)
	if err != nil || string(old["A.GPX"]) != "changed" || string(old["EXTRA.GPX"]) != "x" {
		t.Errorf("what was there is not in the archive: %v", err)
	}
	if out, err = Restore(card, archive, StowOptions{Keep: keep}); err != nil || out.Same != 2 || len(out.Written) != 0 {
		t.Errorf("a card that is as in the archive: %+v %v", out, err)
	}
	if _, _, err := Unstow(t.TempDir(), filepath.Join(keep, "e.zip"), false); err == nil || !strings.Contains(err.Error(), "empty") {
		t.Errorf("an empty card: %v", err)
	}
}

// Names in an archive never lead off the card.
func TestHostileArchive(t *testing.T) {
	for _, name := range []string{"../out.txt", "/abs.txt", `..\out.txt`, "a/../../out.txt"} {
		archive := filepath.Join(t.TempDir(), "bad.zip")
		f, _ := os.Create(archive)
		z := zip.NewWriter(f)
		w, _ := z.Create(name)
		w.Write([]byte("x"))
		z.Close()
		f.Close()
		if _, err := Restore(t.TempDir(), archive, StowOptions{Keep: t.TempDir()}); err == nil || !strings.Contains(err.Error(), "does not stay on a card") {
			t.Errorf("%s: %v", name, err)
		}
	}
	bad := filepath.Join(t.TempDir(), "no.zip")
	os.WriteFile(bad, []byte("no archive"), 0o666)
	if _, err := Restore(t.TempDir(), bad, StowOptions{}); err == nil || !strings.Contains(err.Error(), "can't be read") {
		t.Errorf("%v", err)
	}
}

func TestOwnProfiles(t *testing.T) {
	dir := t.TempDir()
	put(t, dir, "mine.toml", strings.Replace(ridge(t).Source, `name = "ridge"`, `name = "mine"`, 1))
	put(t, dir, "broken.toml", "name = ")
	put(t, dir, "notes.txt", "")
	own, faults := Own(dir)
	if len(own) != 1 || own[0].Name != "mine" || len(faults) != 1 {
		t.Errorf("%+v %v", own, faults)
	}
	if p, err := Find("MINE", dir); err != nil || p.Path == "" {
		t.Errorf("%v", err)
	}
	if _, err := Find("broken", dir); err == nil || !strings.Contains(err.Error(), "broken.toml:1") {
		t.Errorf("%v", err)
	}
	if _, err := Find("none", dir); err == nil || !strings.Contains(err.Error(), "there are mine, csv-list") {
		t.Errorf("%v", err)
	}
	if p, err := Find(filepath.Join(dir, "mine.toml"), ""); err != nil || p.Name != "mine" {
		t.Errorf("by its file: %v", err)
	}
	if own, faults := Own(filepath.Join(dir, "nowhere")); own != nil || faults != nil {
		t.Error("a folder that there is not")
	}
}

func TestVersions(t *testing.T) {
	p := find(t, "keel")
	if got := strings.Join(p.VersionNumbers(), " "); got != "1 2 3" {
		t.Errorf("%s", got)
	}
	one, err := p.ForVersion(1)
	if err != nil || one.Routes.As != "" || one.Waypoints.As == "" || one.ShowsA("colour") || p.Routes.As == "" {
		t.Errorf("%+v %v", one, err)
	}
	if _, err := p.ForVersion(4); err == nil || !strings.Contains(err.Error(), "there are 1, 2, 3") {
		t.Errorf("%v", err)
	}
	if _, err := ridge(t).ForVersion(2); err == nil || !strings.Contains(err.Error(), "have no versions") {
		t.Errorf("%v", err)
	}
}

// A table profile may start from a workbook beside it.
func TestTableProfile(t *testing.T) {
	dir := t.TempDir()
	text := strings.Replace(find(t, "workbook-list").Source, `sheet = "Points"`, "sheet = \"Points\"\ntemplate = \"form.xlsx\"", 1)
	put(t, dir, "form.toml", text)
	p, err := Open(filepath.Join(dir, "form.toml"))
	if err != nil {
		t.Fatal(err)
	}
	layout, err := p.TableLayout()
	if err != nil || layout.Template != filepath.Join(dir, "form.xlsx") || len(layout.Columns) != 10 {
		t.Errorf("%+v %v", layout, err)
	}
	if _, err := MakePlan(season(), p, "x"); err == nil || !strings.Contains(err.Error(), "form.xlsx") {
		t.Errorf("a template that is missing: %v", err)
	}
	plan, err := MakePlan(season(), find(t, "csv-list"), "x")
	if err != nil || len(plan.Files) != 1 || !strings.Contains(string(plan.Files[0].Content), "RN THE JETTY;MARK 0;-47.4") && !strings.Contains(string(plan.Files[0].Content), "JETTY;MARK 0;-47.4") {
		t.Errorf("%v\n%s", err, plan.Files[0].Content)
	}
}
