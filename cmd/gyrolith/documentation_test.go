package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// commandsOf lists the commands in the blocks of a page, in their order.
func commandsOf(t *testing.T, page string) (out []string) {
	t.Helper()
	text, err := os.ReadFile(page)
	if err != nil {
		t.Fatal(err)
	}
	for _, block := range regexp.MustCompile("(?s)```sh\n(.*?)```").FindAllStringSubmatch(string(text), -1) {
		if strings.HasPrefix(block[1], "#!") { // a script, which is shown and not run line by line
			continue
		}
		for line := range strings.Lines(strings.ReplaceAll(block[1], "\\\n", " ")) {
			if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "#") {
				out = append(out, line)
			}
		}
	}
	return out
}

// Every command that the pages show does what it says, one after the other in the folder of the example.
func TestDocumentedCommands(t *testing.T) {
	t.Parallel()
	f := shellFolder(t, "sh")
	f.must("demo", "example")
	for _, page := range []string{"../../docs/users.md"} {
		for _, line := range commandsOf(t, page) {
			cmd := exec.Command("sh", "-c", line)
			cmd.Dir = f.path("example")
			cmd.Env = append(os.Environ(), "PATH="+f.path("bin")+string(filepath.ListSeparator)+os.Getenv("PATH"), "HOME="+f.dir,
				"XDG_DATA_HOME="+f.path("data"), "XDG_CONFIG_HOME="+f.path("config"), "NO_COLOR=1")
			if out, err := cmd.CombinedOutput(); err != nil {
				t.Errorf("%s\n%v\n%s", line, err, out)
			}
		}
	}
}
