// Command changed changes lines of the program one by one and runs the tests that should notice, each on an overlay, so
// that no file is touched. It names the changes that no test noticed.
//
//	go run ./bench/changed bench/changed/lines.txt
//
// An entry of the list is a file, the line as it is behind "-", as it becomes behind "+", and behind "test" what go
// test is given. Blank lines part entries.
package main

import (
	"bufio"
	"encoding/json"
	"fmt"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
)

// change is an entry of the list.
type change struct {
	line          int // of the list
	file, old, is string
	test          []string
}

func main() {
	log.SetFlags(0)
	if len(os.Args) < 2 {
		log.Fatal("name the list of changes")
	}
	list, err := read(os.Args[1])
	if err != nil {
		log.Fatal(err)
	}
	survived := 0
	for _, c := range list {
		noticed, err := c.noticed()
		switch {
		case err != nil:
			log.Fatalf("%s:%d: %v", os.Args[1], c.line, err)
		case noticed:
			fmt.Printf("noticed   %s: %s\n", c.file, strings.TrimSpace(c.is))
		default:
			survived++
			fmt.Printf("survived  %s: %s\n", c.file, strings.TrimSpace(c.is))
		}
	}
	if survived > 0 {
		log.Fatalf("%d of %d changes were noticed by no test", survived, len(list))
	}
}

// read reads the list.
func read(name string) (list []change, err error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	in := bufio.NewScanner(f)
	begun := false
	for n := 1; in.Scan(); n++ {
		text := in.Text()
		if text == "" {
			begun = false
			continue
		}
		if !begun {
			list, begun = append(list, change{line: n, file: text}), true
			continue
		}
		c := &list[len(list)-1]
		switch word, rest, _ := strings.Cut(text, " "); word {
		case "-":
			c.old = rest
		case "+":
			c.is = rest
		case "test":
			c.test = strings.Fields(rest)
		default:
			return nil, fmt.Errorf("%s:%d: begins with neither -, + nor test", name, n)
		}
	}
	return list, in.Err()
}

// noticed says whether the tests fail on the changed file.
func (c *change) noticed() (bool, error) {
	text, err := os.ReadFile(c.file)
	if err != nil {
		return false, err
	}
	if n := strings.Count(string(text), c.old); n != 1 {
		return false, fmt.Errorf("%q stands %d times in %s, and not once", c.old, n, c.file)
	}
	dir, err := os.MkdirTemp("", "changed")
	if err != nil {
		return false, err
	}
	defer os.RemoveAll(dir)
	changed, overlay := filepath.Join(dir, "changed.go"), filepath.Join(dir, "overlay.json")
	if err := os.WriteFile(changed, []byte(strings.Replace(string(text), c.old, c.is, 1)), 0o666); err != nil {
		return false, err
	}
	file, err := filepath.Abs(c.file)
	if err != nil {
		return false, err
	}
	places, err := json.Marshal(map[string]map[string]string{"Replace": {file: changed}})
	if err == nil {
		err = os.WriteFile(overlay, places, 0o666)
	}
	if err != nil {
		return false, err
	}
	// The tests of the whole program build it, which has to see the change as well.
	env := append(os.Environ(), "GOFLAGS=-overlay="+overlay)
	build := exec.Command("go", append([]string{"test", "-count=1", "-vet=off", "-run", "^$"}, c.test[:1]...)...)
	build.Env = env
	if out, err := build.CombinedOutput(); err != nil {
		return false, fmt.Errorf("does not compile: %s", out)
	}
	test := exec.Command("go", append([]string{"test", "-count=1", "-vet=off"}, c.test...)...)
	test.Env = env
	return test.Run() != nil, nil
}
