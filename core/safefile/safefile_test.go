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
	if got := content(t, path) + " " + content(t, filepath.Join(dir, "plan.before-1.gpx")) + " " + content(t, filepath.Join(dir, "plan.before-2.gpx")); got != "three one two" {
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
	if _, err := Create(filepath.Join(dir, "no", "plan.gpx"), false); err == nil || !strings.Contains(err.Error(), "there is no folder") {
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
