//go:build unix

package main

import (
	"bufio"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// No verb and no format does more work than grows with the size of its input, or hardly: the statements that the
// program executes are counted at one size and at ten times that.
func TestWorkGrowsWithTheInput(t *testing.T) {
	if testing.Short() {
		t.Skip("builds the program with counters")
	}
	dir := t.TempDir()
	program := filepath.Join(dir, "gyrolith")
	build := exec.Command("go", "build", "-cover", "-covermode=atomic", "-o", program,
		"-coverpkg=gyrolith/cmd/gyrolith,gyrolith/core/...,gyrolith/internal/...,github.com/tidwall/rtree",
		"gyrolith/cmd/gyrolith")
	if out, err := build.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	// At small sizes one level more of a tree shows; what compares all pairs is far beyond.
	const n, most = 250, 1.3
	sizes := [2]int{n, 10 * n}
	for _, size := range sizes {
		if err := generate(filepath.Join(dir, fmt.Sprint(size)), size); err != nil {
			t.Fatal(err)
		}
	}
	idle := work(t, program, filepath.Join(dir, fmt.Sprint(n)), "--version")
	for i, task := range tasks {
		t.Run(task, func(t *testing.T) {
			t.Parallel()
			var done [2]float64
			for k, size := range sizes {
				line := strings.ReplaceAll(task, "OUT", fmt.Sprint("out", i))
				done[k] = work(t, program, filepath.Join(dir, fmt.Sprint(size)), strings.Fields(line)...) - idle
			}
			if power := math.Log10(done[1] / max(done[0], 1)); !(power <= most) {
				t.Errorf("%.0f statements became %.0f with ten times the input: the power is %.2f", done[0], done[1], power)
			}
		})
	}
}

// work is how many statements the program executes.
func work(t *testing.T, program, dir string, args ...string) (sum float64) {
	t.Helper()
	counters := t.TempDir()
	cmd := exec.Command(program, named(dir, args)...)
	cmd.Dir = dir
	cmd.Env = append(os.Environ(), "GOCOVERDIR="+counters)
	if out, err := cmd.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	list := filepath.Join(counters, "list")
	read := exec.Command("go", "tool", "covdata", "textfmt", "-i="+counters, "-o="+list)
	if out, err := read.CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	file, err := os.Open(list)
	if err != nil {
		t.Fatal(err)
	}
	defer file.Close()
	for lines := bufio.NewScanner(file); lines.Scan(); {
		var statements, times float64
		if f := strings.Fields(lines.Text()); len(f) == 3 {
			fmt.Sscan(f[1], &statements)
			fmt.Sscan(f[2], &times)
			sum += statements * times
		}
	}
	if sum == 0 {
		t.Fatal("nothing was counted")
	}
	return
}
