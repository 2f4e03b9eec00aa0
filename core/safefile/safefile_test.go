package safefile

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"
)

func names(t *testing.T, dir string) string {
	t.Helper()
	entries, err := os.ReadDir(dir)
	if err != nil {
		t.Fatal(err)
	}
	var out []string
	for _, e := range entries {
		out = append(out, e.Name())
	}
	return strings.Join(out, " ")
}

func put(text string) func(io.Writer) error {
	return func(w io.Writer) error { _, err := io.WriteString(w, text); return err }
}

func content(t *testing.T, path string) string {
	t.Helper()
	b, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return string(b)
}

func TestNothingIsLost(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "plan.gpx")
	if kept, err := WriteAll(path, false, put("one")); err != nil || kept != "" {
		t.Fatal(kept, err)
	}
	if _, err := WriteAll(path, false, put("two")); !errors.Is(err, ErrExists) {
		t.Errorf("an existing file: %v", err)
	}
	for i, text := range []string{"two", "three"} {
		kept, err := WriteAll(path, true, put(text))
		if want := filepath.Join(dir, fmt.Sprintf("plan.before-%d.gpx", i+1)); err != nil || kept != want {
			t.Errorf("kept %s, %v", kept, err)
		}
	}
	if got := content(t, path) + " " + content(t, filepath.Join(dir, "plan.before-1.gpx")) + " " +
		content(t, filepath.Join(dir, "plan.before-2.gpx")); got != "three one two" {
		t.Errorf("contents %q", got)
	}
}

func TestFailureLeavesNothing(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "plan.gpx")
	WriteAll(path, false, put("old"))
	_, err := WriteAll(path, true, func(w io.Writer) error {
		io.WriteString(w, strings.Repeat("half", 100000))
		return errors.New("no more")
	})
	if err == nil || names(t, dir) != "plan.gpx" || content(t, path) != "old" {
		t.Errorf("%v; left %s, %q", err, names(t, dir), content(t, path))
	}
	if _, err := Create(filepath.Join(dir, "no", "plan.gpx"), false); err == nil ||
		!strings.Contains(err.Error(), "there is no folder") {
		t.Errorf("a missing folder: %v", err)
	}
	if _, err := Create(dir, true); err == nil || !strings.Contains(err.Error(), "is a folder") {
		t.Errorf("a folder: %v", err)
	}
}

// A file that appears while ours is being written is not written over.
func TestRace(t *testing.T) {
	dir := t.TempDir()
	path := filepath.Join(dir, "plan.gpx")
	p, err := Create(path, false)
	if err != nil {
		t.Fatal(err)
	}
	io.WriteString(p, "ours")
	os.WriteFile(path, []byte("theirs"), 0o666)
	if _, err := p.Commit(); !errors.Is(err, ErrExists) || content(t, path) != "theirs" || names(t, dir) != "plan.gpx" {
		t.Errorf("%v; left %s, %q", err, names(t, dir), content(t, path))
	}
}

func TestAbandon(t *testing.T) {
	dir := t.TempDir()
	p, err := Create(filepath.Join(dir, "plan.gpx"), false)
	if err != nil {
		t.Fatal(err)
	}
	io.WriteString(p, "half")
	Abandon()
	if left := names(t, dir); left != "" {
		t.Errorf("left %s", left)
	}
	p.Discard()
}

// Several files get their names together or none does: where one can't, those before it are gone again, and what they
// replaced is back.
func TestCommitAll(t *testing.T) {
	dir := t.TempDir()
	path := func(name string) string { return filepath.Join(dir, name) }
	os.WriteFile(path("a"), []byte("old a"), 0o666)
	pending := func(name string, replace bool) *Pending {
		t.Helper()
		p, err := Create(path(name), replace)
		if err != nil {
			t.Fatal(err)
		}
		p.Write([]byte("new " + name))
		return p
	}
	files := []*Pending{pending("a", true), pending("b", false), pending("c", false)}
	os.WriteFile(path("c"), []byte("somebody's"), 0o666) // which came in between
	if _, err := CommitAll(files); !errors.Is(err, ErrExists) {
		t.Fatalf("%v", err)
	}
	for _, p := range files {
		p.Discard()
	}
	content := func(name string) string { b, _ := os.ReadFile(path(name)); return string(b) }
	if content("a") != "old a" || content("b") != "" || content("c") != "somebody's" {
		t.Errorf("%q %q %q", content("a"), content("b"), content("c"))
	}
	kept, err := CommitAll([]*Pending{pending("a", true), pending("b", false)})
	if err != nil || len(kept) != 1 || content("a") != "new a" || content("b") != "new b" {
		t.Errorf("%v %v", kept, err)
	}
	if left, _ := filepath.Glob(path(".gyrolith-*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
	over, err := CreateOver(path("a"))
	if err != nil {
		t.Fatal(err)
	}
	over.Quick()
	over.Write([]byte("again"))
	if kept, err := over.Commit(); err != nil || kept != "" || content("a") != "again" {
		t.Errorf("%v %q %q", err, kept, content("a"))
	}
}

// put writes a set of two files, and gives them their names up to the first: as if the program had died then.
func halfSet(t *testing.T, dir, text string) {
	t.Helper()
	var set []*Pending
	for _, name := range []string{"a.shp", "a.dbf"} {
		p, err := Create(filepath.Join(dir, name), true)
		if err == nil {
			_, err = p.Write([]byte(text))
		}
		if err == nil {
			err = p.Flush()
		}
		if err != nil {
			t.Fatal(err)
		}
		set = append(set, p)
	}
	j, err := begin(set)
	if err == nil {
		_, err = set[0].Place()
	}
	if err != nil {
		t.Fatal(err)
	}
	set[1].Keep()
	j.file.Close() // and with it goes the claim, as when a program dies
}

// A set of which a part was replaced when the program died is found for what it is, and made whole by the next that
// writes there; nothing old is lost.
func TestSetIsNeverMixed(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "with [brackets]")
	if err := os.Mkdir(dir, 0o777); err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{"a.shp", "a.dbf"} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte("old"), 0o666); err != nil {
			t.Fatal(err)
		}
	}
	shapes, table := filepath.Join(dir, "a.shp"), filepath.Join(dir, "a.dbf")
	if err := CheckSet(shapes); err != nil {
		t.Fatal(err)
	}
	halfSet(t, dir, "new")
	if err := CheckSet(table); err == nil || !strings.Contains(err.Error(), "partly old and partly new") {
		t.Errorf("a mixed set is read: %v", err)
	}
	var set []*Pending
	for _, name := range []string{"b.shp", "b.dbf"} {
		p, err := Create(filepath.Join(dir, name), false)
		if err != nil {
			t.Fatal(err)
		}
		set = append(set, p)
	}
	if _, err := CommitAll(set); err != nil {
		t.Fatal(err)
	}
	for path, want := range map[string]string{shapes: "new", table: "new", filepath.Join(dir, "a.before-1.shp"): "old",
		filepath.Join(dir, "a.before-1.dbf"): "old"} {
		if got, err := os.ReadFile(path); err != nil || string(got) != want {
			t.Errorf("%s: %q %v, want %q", path, got, err, want)
		}
	}
	if err := CheckSet(table); err != nil {
		t.Error(err)
	}
	if left, _ := filepath.Glob(filepath.Join(escaped(dir), ".gyrolith-*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
}

// Two that write in one place take turns, and the second waits as long as it was told to.
func TestLock(t *testing.T) {
	file := filepath.Join(t.TempDir(), "list.gpkg")
	if err := os.WriteFile(file, nil, 0o666); err != nil {
		t.Fatal(err)
	}
	for _, path := range []string{file, t.TempDir()} {
		release, err := Lock(t.Context(), path, 0)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := Lock(t.Context(), path, 0); err == nil || !strings.Contains(err.Error(), "another gyrolith") {
			t.Errorf("%s is locked twice: %v", path, err)
		}
		time.AfterFunc(50*time.Millisecond, release)
		again, err := Lock(t.Context(), path, time.Minute)
		if err != nil {
			t.Fatal(err)
		}
		again()
	}
	// A file that was replaced meanwhile is locked anew.
	release, err := Lock(t.Context(), file, 0)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := WriteAll(file, true, func(io.Writer) error { return nil }); err != nil {
		t.Fatal(err)
	}
	defer release()
	if next, err := Lock(t.Context(), file, 0); err != nil {
		t.Errorf("the new file is not free: %v", err)
	} else {
		next()
	}
}

// What a program left that died goes; what is being written stays.
func TestSweep(t *testing.T) {
	dir := t.TempDir()
	p, err := Create(filepath.Join(dir, "x.gpx"), false)
	if err != nil {
		t.Fatal(err)
	}
	defer p.Discard()
	left := filepath.Join(dir, ".gyrolith-00000001.part")
	if err := os.WriteFile(left, nil, 0o666); err != nil {
		t.Fatal(err)
	}
	old := time.Now().Add(-time.Hour)
	for _, path := range []string{left, p.Part()} {
		if err := os.Chtimes(path, old, old); err != nil {
			t.Fatal(err)
		}
	}
	Sweep(dir)
	if _, err := os.Lstat(left); err == nil {
		t.Error("what was left is still there")
	}
	if _, err := os.Lstat(p.Part()); err != nil {
		t.Errorf("what is being written is gone: %v", err)
	}
}

// A file has the mode that any other new file has, and nobody else reads it before it is whole.
func TestModes(t *testing.T) {
	if runtime.GOOS == "windows" {
		t.Skip("files have no modes here")
	}
	path := filepath.Join(t.TempDir(), "a.gpx")
	usual := filepath.Join(t.TempDir(), "usual")
	if err := os.WriteFile(usual, nil, 0o666); err != nil {
		t.Fatal(err)
	}
	mode := func(path string) os.FileMode {
		info, err := os.Stat(path)
		if err != nil {
			t.Fatal(err)
		}
		return info.Mode().Perm()
	}
	p, err := Create(path, false)
	if err != nil {
		t.Fatal(err)
	}
	defer p.Discard()
	if m := mode(p.Part()); m != 0o600 {
		t.Errorf("while it is written %o", m)
	}
	if _, err := p.Commit(); err != nil {
		t.Fatal(err)
	}
	if m := mode(path); m != mode(usual) {
		t.Errorf("%o, and other files %o", m, mode(usual))
	}
}
