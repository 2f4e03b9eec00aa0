// Command coverage prints, package by package, how many of the statements the tests execute, those of the built program
// among them, and fails where a package is below a floor.
//
//	go run ./bench/coverage -floor 70 tests.txt program.txt
//
// The profiles are those of go test -coverprofile and of go tool covdata textfmt.
package main

import (
	"bufio"
	"flag"
	"fmt"
	"log"
	"maps"
	"os"
	"path"
	"slices"
	"strconv"
	"strings"
)

// block is a piece of code without branches.
type block struct {
	statements int
	executed   bool
}

func main() {
	log.SetFlags(0)
	floor := flag.Float64("floor", 0, "percent that every package must reach")
	flag.Parse()
	blocks := map[string]block{} // by file and place
	for _, name := range flag.Args() {
		if err := read(name, blocks); err != nil {
			log.Fatal(err)
		}
	}
	all, executed := map[string]int{}, map[string]int{}
	for place, b := range blocks {
		file, _, _ := strings.Cut(place, ":")
		if !shipped(path.Dir(file)) {
			continue
		}
		for _, of := range []string{path.Dir(file), "all"} {
			all[of] += b.statements
			if b.executed {
				executed[of] += b.statements
			}
		}
	}
	low := 0
	for _, of := range slices.Sorted(maps.Keys(all)) {
		percent := 100 * float64(executed[of]) / float64(all[of])
		mark := ""
		if percent < *floor {
			low++
			mark = "  below the floor"
		}
		fmt.Printf("%6d statements %5.1f %%  %s%s\n", all[of], percent, of, mark)
	}
	if low > 0 {
		log.Fatalf("%d packages have less than %g %% of their statements executed by tests", low, *floor)
	}
}

// shipped says whether a package is of the program, and no tool or help of its tests.
func shipped(of string) bool {
	module, rest, below := strings.Cut(of, "/")
	if !below {
		return module != ""
	}
	return (strings.HasPrefix(rest, "core/") || strings.HasPrefix(rest, "internal/")) && !strings.HasSuffix(rest, "test")
}

// read adds the blocks of a profile: lines of a place, a number of statements, and how often they were executed.
func read(name string, blocks map[string]block) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	in := bufio.NewScanner(f)
	for line := 1; in.Scan(); line++ {
		words := strings.Fields(in.Text())
		if len(words) == 2 && words[0] == "mode:" {
			continue
		}
		if len(words) != 3 {
			return fmt.Errorf("%s:%d: is not a line of a profile", name, line)
		}
		n, err := strconv.Atoi(words[1])
		if err != nil {
			return fmt.Errorf("%s:%d: %w", name, line, err)
		}
		b := blocks[words[0]]
		b.statements, b.executed = n, b.executed || words[2] != "0"
		blocks[words[0]] = b
	}
	return in.Err()
}
