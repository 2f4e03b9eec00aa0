package safefile

import (
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
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
