package core_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"gyrolith/demo"
)

// Every package of the core is on the page of the library.
func TestLibraryPageListsThePackages(t *testing.T) {
	page, err := os.ReadFile("../docs/library.md")
	if err != nil {
		t.Fatal(err)
	}
	for _, r := range layers(t) {
		for _, p := range r.packages {
			if !strings.HasPrefix(p, "format") && !strings.Contains(string(page), "`"+p+"`") {
				t.Errorf("%s is not on the page", p)
			}
		}
	}
}

// The programs of docs/library.md are built and run on the example.
func TestLibraryPage(t *testing.T) {
	if testing.Short() {
		t.Skip("long, and nothing in it happens side by side")
	}
	page, err := os.ReadFile("../docs/library.md")
	if err != nil {
		t.Fatal(err)
	}
	parts := strings.Split(string(page), "```go\n")[1:]
	if len(parts) != 4 {
		t.Fatalf("the page has %d programs", len(parts))
	}
	for i, want := range []string{"changes; ", "<kml", "spikes ", "walk.gpx done"} {
		program, _, _ := strings.Cut(parts[i], "```")
		dir := t.TempDir()
		if err := os.WriteFile(filepath.Join(dir, "main.go"), []byte(program), 0o666); err != nil {
			t.Fatal(err)
		}
		built := filepath.Join(dir, "program.exe")
		build := exec.Command("go", "build", "-o", built, filepath.Join(dir, "main.go"))
		build.Env = append(os.Environ(), "CGO_ENABLED=0")
		if out, err := build.CombinedOutput(); err != nil {
			t.Errorf("program %d: %v\n%s", i+1, err, out)
			continue
		}
		walk, err := demo.Files.ReadFile("files/walk.gpx")
		if err != nil {
			t.Fatal(err)
		}
		os.Mkdir(filepath.Join(dir, "season"), 0o777)
		os.WriteFile(filepath.Join(dir, "walk.gpx"), walk, 0o666)
		os.WriteFile(filepath.Join(dir, "season", "walk.gpx"), walk, 0o666)
		os.WriteFile(filepath.Join(dir, "day.toml"), []byte("[[output]]\nfile = \"{name}.kml\"\n"), 0o666)
		cmd := exec.Command(built)
		cmd.Dir = dir
		if out, err := cmd.CombinedOutput(); err != nil || !strings.Contains(string(out), want) {
			t.Errorf("program %d: %v, and it says %.300s", i+1, err, out)
		}
	}
}
