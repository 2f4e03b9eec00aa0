// Fuzz goes round all fuzz targets of the repository for a time and gives those more that find more:
// go run ./bench/fuzz --for 1h. What the engine keeps stays in Go's cache, outside of the repository; what it finds
// wrong is in testdata beside the target, as a seed.
package main

import (
	"bufio"
	"bytes"
	"context"
	"flag"
	"fmt"
	"io/fs"
	"log"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"time"
)

// target is a fuzz target, and what it has yielded.
type target struct {
	dir, name  string
	executions int
	finds      int // inputs that reach something new
	faults     int
	spent      time.Duration
	processor  time.Duration // of the tests and what they started
}

// yield is what a target may be expected to find in a second: much, as long as it has not had its turn.
// One with a fault fails at once from then on, and is done.
func (t *target) yield() float64 {
	if t.faults > 0 {
		return 0
	}
	return float64(t.finds+1) / (t.spent.Seconds() + 1)
}

var (
	declared = regexp.MustCompile(`(?m)^func (Fuzz\w+)\(f \*testing\.F\)`)
	progress = regexp.MustCompile(`execs: (\d+).*new interesting: (\d+)`)
)

func main() {
	log.SetFlags(0)
	whole := flag.Duration("for", 10*time.Minute, "how long to go round")
	turn := flag.Duration("turn", 30*time.Second, "how long one target has at a time")
	only := flag.String("only", "", "targets whose names have this in them")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt)
	defer stop()
	targets, err := find(*only)
	if err != nil {
		log.Fatal(err)
	}
	if len(targets) == 0 {
		log.Fatal("there is no such fuzz target here; run this in the repository")
	}
	begun := time.Now()
	for ctx.Err() == nil && time.Since(begun) < *whole {
		best := targets[0]
		for _, t := range targets {
			if t.yield() > best.yield() {
				best = t
			}
		}
		if best.yield() == 0 {
			break
		}
		best.run(ctx, min(*turn, *whole-time.Since(begun)))
		fmt.Printf("%8s  %-28s %-20s %12d executions %6d new %3d faults\n", time.Since(begun).Round(time.Second), best.dir,
			best.name, best.executions, best.finds, best.faults)
	}
	executions, faults, processor := 0, 0, time.Duration(0)
	for _, t := range targets {
		executions, faults, processor = executions+t.executions, faults+t.faults, processor+t.processor
	}
	fmt.Printf("%d targets, %d executions, %d faults in %s, %s of processors\n", len(targets), executions, faults,
		time.Since(begun).Round(time.Second), processor.Round(time.Second))
	if faults > 0 {
		os.Exit(1)
	}
}

// find lists the fuzz targets of the repository.
func find(only string) (out []*target, err error) {
	err = filepath.WalkDir(".", func(path string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() || !strings.HasSuffix(path, "_test.go") {
			return err
		}
		text, err := os.ReadFile(path)
		for _, m := range declared.FindAllSubmatch(text, -1) {
			if name := string(m[1]); strings.Contains(name, only) {
				out = append(out, &target{dir: "./" + filepath.ToSlash(filepath.Dir(path)), name: name})
			}
		}
		return err
	})
	return
}

// run gives a target a turn.
func (t *target) run(ctx context.Context, turn time.Duration) {
	begun := time.Now()
	defer func() { t.spent += time.Since(begun) }()
	cmd := exec.CommandContext(ctx, "go", "test", "-run", "^$", "-fuzz", "^"+t.name+"$", "-fuzztime", turn.String(),
		"-fuzzminimizetime", "5s", t.dir)
	var text bytes.Buffer
	cmd.Stdout, cmd.Stderr = &text, &text
	err := cmd.Run()
	if cmd.ProcessState != nil {
		t.processor += cmd.ProcessState.UserTime() + cmd.ProcessState.SystemTime()
	}
	executions, finds := 0, 0
	for lines := bufio.NewScanner(bytes.NewReader(text.Bytes())); lines.Scan(); {
		if m := progress.FindStringSubmatch(lines.Text()); m != nil {
			executions, _ = strconv.Atoi(m[1])
			finds, _ = strconv.Atoi(m[2])
		}
	}
	t.executions, t.finds = t.executions+executions, t.finds+finds
	// At the end of its time the engine now and then says that it failed, with nothing found.
	if err != nil && ctx.Err() == nil && strings.Contains(text.String(), "Failing input written") {
		t.faults++
		fmt.Println(text.String())
	}
}
