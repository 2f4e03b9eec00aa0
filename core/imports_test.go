package core_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

// row is a row of the table of layers: its packages, and whether they know nothing of one another.
type row struct {
	packages []string
	apart    bool
}

// layers reads the table of layers from the page for developers.
func layers(t *testing.T) (out []row) {
	page, err := os.ReadFile("../docs/developers.md")
	if err != nil {
		t.Fatal(err)
	}
	_, table, found := strings.Cut(string(page), "| row | packages |\n|---|---|\n")
	if !found {
		t.Fatal("the page for developers has no table of layers")
	}
	for line := range strings.Lines(table) {
		cells := strings.Split(line, "|")
		if len(cells) < 3 {
			break
		}
		out = append(out, row{strings.Fields(strings.ReplaceAll(cells[2], "`", "")), strings.Contains(cells[1], "*apart*")})
	}
	return out
}

// The packages import only what docs/developers.md allows.
func TestImports(t *testing.T) {
	rows := layers(t)
	at := map[string][2]int{}
	for i, r := range rows {
		for k, p := range r.packages {
			at[p] = [2]int{i, k}
		}
	}
	list := exec.Command("go", "list", "-f", "{{.ImportPath}} {{join .Imports \" \"}}", "./...")
	out, err := list.Output()
	if err != nil {
		t.Fatal(err)
	}
	allowed := func(from, to [2]int) bool {
		return to[0] < from[0] || to[0] == from[0] && to[1] < from[1] && !rows[from[0]].apart
	}
	for line := range strings.Lines(string(out)) {
		words := strings.Fields(line)
		of := strings.TrimPrefix(words[0], "gyrolith/core/")
		from, known := at[of]
		switch {
		case words[0] == "gyrolith/core" || strings.HasSuffix(of, "test"):
			continue // which hold tests alone
		case !known:
			t.Errorf("%s is in no row of the table of layers", of)
			continue
		}
		for _, w := range words[1:] {
			to, of2 := at[strings.TrimPrefix(w, "gyrolith/core/")], strings.TrimPrefix(w, "gyrolith/core/")
			switch {
			case !strings.HasPrefix(w, "gyrolith/"):
			case !strings.HasPrefix(w, "gyrolith/core/"):
				t.Errorf("%s imports %s, which is not the core's", of, w)
			case !allowed(from, to):
				t.Errorf("%s must not import %s", of, of2)
			}
		}
	}
}

// Only the command line prints, exits, or reads options and the environment.
func TestCoreHasNoInterface(t *testing.T) {
	forbidden := []string{"fmt.Print", "os.Exit(", "os.Args", "os.Stdout", "os.Stderr", "log.Print", "log.Fatal",
		"context.Background()", "context.TODO()"}
	err := filepath.WalkDir(".", func(path string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		text, err := os.ReadFile(path)
		if strings.HasPrefix(string(text), "//go:build ignore") { // a program that makes a table
			return err
		}
		if i := slices.IndexFunc(forbidden, func(w string) bool { return strings.Contains(string(text), w) }); i >= 0 {
			t.Errorf("%s has %s", path, forbidden[i])
		}
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
}

// The rooms of the command line stay small.
func TestRoomsOfTheCommandLine(t *testing.T) {
	files, lines := map[string]int{}, map[string]int{}
	err := filepath.WalkDir("../internal/cli", func(path string, e os.DirEntry, err error) error {
		if err != nil || e.IsDir() || !strings.HasSuffix(path, ".go") {
			return err
		}
		text, err := os.ReadFile(path)
		room := filepath.Dir(path)
		files[room]++
		lines[room] += strings.Count(string(text), "\n")
		return err
	})
	if err != nil {
		t.Fatal(err)
	}
	for room, n := range files {
		if n > 40 || lines[room] > 6000 {
			t.Errorf("%s has %d files with %d lines", room, n, lines[room])
		}
	}
}
