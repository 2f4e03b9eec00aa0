package card

import (
	"archive/zip"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"testing"
	"testing/fstest"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/format/all"
	"gyrolith/core/nav"
	"gyrolith/core/unit"
	"gyrolith/core/unit/seasontest"
	"gyrolith/core/unit/standin"
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

func stowed(t *testing.T, d *nav.Dataset, card string, opt Options) *Stowed {
	t.Helper()
	plan, err := Make(context.Background(), d, ridge(t), "plan", all.Formats)
	if err != nil {
		t.Fatal(err)
	}
	out, err := plan.Stow(context.Background(), card, opt)
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
		plan, err := Make(context.Background(), d, &p, "season", all.Formats)
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
	twins := &nav.Dataset{Tracks: []nav.Track{seasontest.Line("T/1", 2), seasontest.Line("T:1", 2)}}
	plan, err := Make(context.Background(), twins, &p, "x", all.Formats)
	if err != nil || len(plan.Files) != 2 || plan.Files[0].Path == plan.Files[1].Path {
		t.Errorf("%v %+v", err, plan.Files)
	}
	// A file that is too large is refused.
	p.Tracks.Bytes = 100
	if _, err := Make(context.Background(), twins, &p, "x", all.Formats); err == nil ||
		!strings.Contains(err.Error(), "accepts files of up to 100") {
		t.Errorf("a large file: %v", err)
	}
}

func TestManifestAndVerify(t *testing.T) {
	card, keep := t.TempDir(), t.TempDir()
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(1, 2)}},
		Tracks: []nav.Track{seasontest.Line("T", 3)}}
	out := stowed(t, d, card, Options{Keep: keep})
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
	again := stowed(t, d, card, Options{Keep: keep, Replace: true, Now: time.Unix(0, 0)})
	if _, _, err := Verify(card); err != nil || again.Archive == "" || again.Before.Files != 2 {
		t.Errorf("%+v %v", again, err)
	}
}

// Of two archives in one second neither is lost.
func TestArchivesOfOneSecond(t *testing.T) {
	card, keep := t.TempDir(), t.TempDir()
	d := &nav.Dataset{Waypoints: []nav.Waypoint{{Item: nav.Item{Name: "A"}, Point: nav.At(1, 2)}}}
	opt := Options{Keep: keep, Replace: true, Now: time.Date(2026, 3, 14, 5, 30, 0, 0, time.UTC)}
	stowed(t, d, card, opt)
	for i := range 3 {
		put(t, card, "RIDGE/WAYPOINTS/plan.gpx", strings.Repeat("x", i+1))
		stowed(t, d, card, opt)
	}
	archives, _ := filepath.Glob(filepath.Join(keep, "ridge-2026-03-14-053000*.zip"))
	if len(archives) != 3 {
		t.Errorf("%v", archives)
	}
	if _, err := (&Plan{Profile: ridge(t), Files: []File{{"RIDGE/WAYPOINTS/plan.gpx", []byte("y")}}}).Stow(
		context.Background(), card, Options{Replace: true, Keep: filepath.Join(card, "old")}); err == nil ||
		!strings.Contains(err.Error(), "on the card itself") {
		t.Errorf("an archive on the card: %v", err)
	}
}

func TestFinishAndUndoRefuse(t *testing.T) {
	card, keep := t.TempDir(), t.TempDir()
	undo := func() (string, error) {
		_, archived, err := Undo(context.Background(), card, Options{Keep: keep, Now: time.Unix(0, 0)})
		return archived, err
	}
	if _, err := Finish(card); err == nil || !strings.Contains(err.Error(), "no interrupted stow or restore") {
		t.Errorf("%v", err)
	}
	broken := `{"unit":"ridge","finished":false,"files":[{"path":"A.GPX","bytes":1,"sha256":"` + sumOf([]byte("a")) +
		`","part":".gyrolith-0.part"}]}`
	put(t, card, ManifestName, broken)
	if _, err := Finish(card); err == nil || advice.Of(err).Code != advice.UndoCard {
		t.Errorf("finished without what was written: %v", err)
	}
	put(t, card, "A.GPX", "has been changed")
	if _, err := undo(); err == nil || !strings.Contains(err.Error(), "neither the old nor the new version") {
		t.Errorf("undone over somebody's change: %v", err)
	}
	if get(card, "A.GPX") != "has been changed" {
		t.Error("somebody's file is gone")
	}
	put(t, card, "A.GPX", "a")
	put(t, card, ".gyrolith-0.part", "left")
	archived, err := undo()
	if err != nil || get(card, "A.GPX") != "(none)" || get(card, ManifestName) != "(none)" ||
		get(card, ".gyrolith-0.part") != "(none)" {
		t.Errorf("undone: %v", err)
	}
	old, err := openArchive(archived)
	if err != nil || old.sum("A.GPX") != sumOf([]byte("a")) {
		t.Errorf("what was removed is not kept: %v", err)
	}
	old.Close()
}

// A manifest that somebody made up does not get a file of the card removed or written over.
func TestHostileManifest(t *testing.T) {
	card := t.TempDir()
	put(t, card, "SURVEY/mine.gpx", "mine")
	sum := sumOf([]byte("mine"))
	for manifest, want := range map[string]string{
		`{"unit":"ridge","files":[{"path":"A","sha256":"` + sumOf(nil) + `","part":"SURVEY/mine.gpx"}]}`: "is damaged",
		`{"unit":"ridge","files":[],"gone":[{"path":"SURVEY/mine.gpx","sha256":"` + sum + `"}]}`:         "in no archive",
		`{"unit":"ridge","files":[{"path":"SURVEY/mine.gpx","sha256":"` + sumOf([]byte("x")) + `","replace":"` + sum +
			`","part":"SURVEY/.gyrolith-1.part"}]}`: "in no archive",
		`{"unit":"ridge","files":[{"path":"SURVEY/mine.gpx","sha256":"` + sumOf([]byte("x")) +
			`","part":"SURVEY/.gyrolith-1.part"}]}`: "neither the old nor the new version",
	} {
		put(t, card, "SURVEY/.gyrolith-1.part", "x")
		put(t, card, ManifestName, manifest)
		if _, err := Finish(card); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", manifest, err)
		}
		if get(card, "SURVEY/mine.gpx") != "mine" {
			t.Fatalf("%s: somebody's file is gone", manifest)
		}
	}
}

func TestRestore(t *testing.T) {
	card, keep := t.TempDir(), t.TempDir()
	put(t, card, "A.GPX", "a")
	put(t, card, "DIR/B.GPX", "b")
	archive := filepath.Join(t.TempDir(), "whole.zip")
	linked := os.Symlink("A.GPX", filepath.Join(card, "LINK.GPX")) == nil
	all, _, err := Unstow(context.Background(), card, archive, false)
	if err != nil || len(all.Files) != 2 || linked && fmt.Sprint(all.Others) != "[LINK.GPX]" {
		t.Fatalf("%v %v", all, err)
	}
	os.Remove(filepath.Join(card, "LINK.GPX"))
	put(t, card, "A.GPX", "changed")
	put(t, card, "EXTRA.GPX", "x")
	os.Remove(filepath.Join(card, "DIR/B.GPX"))
	if _, err := Restore(context.Background(), card, archive, Options{Keep: keep}); err == nil ||
		get(card, "A.GPX") != "changed" {
		t.Errorf("written over without being asked to: %v", err)
	}
	out, err := Restore(context.Background(), card, archive, Options{Keep: keep, Replace: true})
	if err != nil || get(card, "A.GPX") != "a" || get(card, "DIR/B.GPX") != "b" || get(card, "EXTRA.GPX") != "x" ||
		len(out.Gone) != 0 || fmt.Sprint(out.Extra) != "[EXTRA.GPX]" {
		t.Fatalf("%+v %v", out, err)
	}
	old, err := openArchive(out.Archive)
	if err != nil || old.sum("A.GPX") != sumOf([]byte("changed")) {
		t.Errorf("what was there is not in the archive: %v", err)
	}
	old.Close()
	if out, err = Restore(context.Background(), card, archive, Options{Keep: keep}); err != nil || out.Same != 2 ||
		len(out.Written) != 0 {
		t.Errorf("a card that is as in the archive: %+v %v", out, err)
	}
	if _, _, err := Unstow(context.Background(), t.TempDir(), filepath.Join(keep, "e.zip"), false); err == nil ||
		!strings.Contains(err.Error(), "empty") {
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
		if _, err := Restore(context.Background(), t.TempDir(), archive, Options{Keep: t.TempDir()}); err == nil ||
			!strings.Contains(err.Error(), "leads out of the card") {
			t.Errorf("%s: %v", name, err)
		}
	}
	bad := filepath.Join(t.TempDir(), "no.zip")
	os.WriteFile(bad, []byte("no archive"), 0o666)
	if _, err := Restore(context.Background(), t.TempDir(), bad, Options{}); err == nil ||
		!strings.Contains(err.Error(), "can't be read") {
		t.Errorf("%v", err)
	}
}

// A table profile may start from a workbook beside it.
func TestTableProfile(t *testing.T) {
	dir := t.TempDir()
	text := strings.Replace(find(t, "workbook-list").Source, `sheet = "Points"`,
		"sheet = \"Points\"\ntemplate = \"form.xlsx\"", 1)
	put(t, dir, "form.toml", text)
	p, err := unit.Open(filepath.Join(dir, "form.toml"))
	if err != nil {
		t.Fatal(err)
	}
	layout, err := p.TableLayout()
	if err != nil || layout.Template != filepath.Join(dir, "form.xlsx") || len(layout.Columns) != 10 {
		t.Errorf("%+v %v", layout, err)
	}
	if _, err := Make(context.Background(), seasontest.Season(), p, "x", all.Formats); err == nil ||
		!strings.Contains(err.Error(), "form.xlsx") {
		t.Errorf("a template that is missing: %v", err)
	}
	plan, err := Make(context.Background(), seasontest.Season(), find(t, "csv-list"), "x", all.Formats)
	if err != nil || len(plan.Files) != 1 ||
		!strings.Contains(string(plan.Files[0].Content), "RN THE JETTY;MARK 0;-47.4") &&
			!strings.Contains(string(plan.Files[0].Content), "JETTY;MARK 0;-47.4") {
		t.Errorf("%v\n%s", err, plan.Files[0].Content)
	}
}

// A file that can't get its name puts everything back.
func TestPlaceFails(t *testing.T) {
	card := t.TempDir()
	plan, err := Make(context.Background(), &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(1, 2)}},
		Tracks: []nav.Track{seasontest.Line("T", 2)}}, ridge(t), "plan", all.Formats)
	if err != nil {
		t.Fatal(err)
	}
	opt := Options{Replace: true, Keep: t.TempDir(), Now: time.Unix(0, 0)}
	if _, err := plan.Stow(context.Background(), card, opt); err != nil {
		t.Fatal(err)
	}
	first := filepath.Join(card, filepath.FromSlash(plan.Files[0].Path))
	os.WriteFile(first, []byte("old"), 0o666)
	second := filepath.Join(card, filepath.FromSlash(plan.Files[1].Path))
	os.Remove(second)
	os.MkdirAll(filepath.Join(second, "in the way"), 0o777)
	if _, err := plan.Stow(context.Background(), card, opt); err == nil || errors.Is(err, os.ErrNotExist) {
		t.Fatalf("got %v", err)
	}
	if b, _ := os.ReadFile(first); string(b) != "old" {
		t.Errorf("the first file is %q", b)
	}
}

// A card that is taken out in the middle, or whose file system fails, gets a line that says what happened.
func TestCardTakenOut(t *testing.T) {
	for _, step := range []string{"write", "place"} {
		card := filepath.Join(t.TempDir(), "card")
		os.Mkdir(card, 0o777)
		plan, err := Make(context.Background(), &nav.Dataset{Waypoints: []nav.Waypoint{{Point: nav.At(1, 2)}},
			Tracks: []nav.Track{seasontest.Line("T", 2)}}, ridge(t), "plan", all.Formats)
		if err != nil {
			t.Fatal(err)
		}
		_, err = plan.Stow(context.Background(), card, Options{Keep: t.TempDir(), Step: func(name string) {
			if strings.HasPrefix(name, step) {
				os.RemoveAll(card)
			}
		}})
		if err == nil || !strings.Contains(err.Error(), "was the card taken out?") {
			t.Errorf("%s: %v", step, err)
		}
	}
	for err, want := range map[error]string{syscall.ENOSPC: "is full", syscall.EROFS: "read-only",
		syscall.ENAMETOOLONG: "can't store this name", syscall.EIO: "taken out"} {
		if got := reason(&os.PathError{Op: "write", Path: "x", Err: err}); !strings.Contains(got, want) {
			t.Errorf("%v: %s", err, got)
		}
	}
}

// An older unit refuses the card of a newer one and reads that of an older one.
func TestOlderKeel(t *testing.T) {
	for _, c := range []struct {
		card, unit int
		shows      bool
	}{{1, 3, true}, {2, 2, true}, {3, 2, false}, {2, 1, false}} {
		p, err := find(t, "keel").ForVersion(c.card)
		if err != nil {
			t.Fatal(err)
		}
		plan, err := Make(context.Background(), seasontest.Season(), p, "x", all.Formats)
		if err != nil {
			t.Fatal(err)
		}
		_, err = standin.KeelOf(c.unit)(fstest.MapFS{plan.Files[0].Path: {Data: plan.Files[0].Content}})
		if (err == nil) != c.shows {
			t.Errorf("a unit of version %d with a card of version %d: %v", c.unit, c.card, err)
		}
	}
}

func ridge(t testing.TB) *unit.Profile { return find(t, "ridge") }
