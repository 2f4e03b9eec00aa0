package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// fence is a block of a page: commands, or commands with what they print.
var fence = regexp.MustCompile("(?s)```(sh|console)\n(.*?)```")

// pages lists the pages of the manual in the order of its contents.
func pages(t *testing.T) (out []string) {
	t.Helper()
	text := readPage(t, "../../docs/manual/README.md")
	for _, m := range regexp.MustCompile(`(?m)^\d+\. \[.*?\]\((\w+\.md)\)`).FindAllStringSubmatch(text, -1) {
		out = append(out, "../../docs/manual/"+m[1])
	}
	return out
}

func readPage(t *testing.T, path string) string {
	t.Helper()
	text, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	return string(text)
}

// Every command of the manual runs, one after the other in the folder of the example, and prints what the page shows;
// UPDATE_MANUAL=1 writes into the pages what is printed.
func TestDocumentedCommands(t *testing.T) {
	t.Parallel()
	f := shellFolder(t, "sh")
	f.must("demo", "example")
	run := func(line string) string {
		cmd := exec.Command("sh", "-c", line)
		cmd.Dir = f.path("example")
		cmd.Env = append(os.Environ(), "PATH="+f.path("bin")+string(filepath.ListSeparator)+os.Getenv("PATH"),
			"HOME="+f.path("home"), "XDG_DATA_HOME="+f.path("data"), "XDG_CONFIG_HOME="+f.path("config"), "NO_COLOR=1",
			"COLUMNS=120")
		out, err := cmd.CombinedOutput()
		if err != nil {
			t.Errorf("%s\n%v\n%s", line, err, out)
		}
		return string(out)
	}
	for _, page := range pages(t) {
		text := readPage(t, page)
		now := fence.ReplaceAllStringFunc(text, func(block string) string {
			m := fence.FindStringSubmatch(block)
			if m[1] == "console" {
				line, _, _ := strings.Cut(strings.TrimPrefix(m[2], "$ "), "\n")
				return "```console\n$ " + line + "\n" + run(line) + "```"
			}
			for line := range strings.Lines(strings.ReplaceAll(m[2], "\\\n", " ")) {
				if line = strings.TrimSpace(line); line != "" && !strings.HasPrefix(line, "#") {
					run(line)
				}
			}
			return block
		})
		if now == text {
			continue
		}
		if os.Getenv("UPDATE_MANUAL") == "" {
			t.Errorf("%s shows other output than what is printed; UPDATE_MANUAL=1 writes it anew:\n%s", page, now)
		} else if !figuresHold(t, figures(t), page, now) {
			t.Errorf("%s is not written: its figures are not what they are by other means", page)
		} else if err := os.WriteFile(page, []byte(now), 0o666); err != nil {
			t.Fatal(err)
		}
	}
}

// The commands that the README shows in its tables run in the folder of the example.
func TestReadmeCommands(t *testing.T) {
	t.Parallel()
	f := shellFolder(t, "sh")
	f.must("demo", "example")
	text := readPage(t, "../../README.md")
	for _, m := range regexp.MustCompile("`(gyrolith [^`]+)`").FindAllStringSubmatch(text, -1) {
		if regexp.MustCompile(`\b[A-Z]{3,}\b|^gyrolith man`).MatchString(m[1]) { // a pattern of a command
			continue
		}
		cmd := exec.Command("sh", "-c", m[1])
		cmd.Dir = f.path("example")
		cmd.Env = append(os.Environ(), "PATH="+f.path("bin")+string(filepath.ListSeparator)+os.Getenv("PATH"),
			"XDG_DATA_HOME="+f.path("data"), "XDG_CONFIG_HOME="+f.path("config"), "NO_COLOR=1")
		if out, err := cmd.CombinedOutput(); err != nil {
			t.Errorf("%s\n%v\n%s", m[1], err, out)
		}
	}
}

// Links between the pages, and to what lies beside them, lead somewhere.
func TestLinksOfPages(t *testing.T) {
	t.Parallel()
	all, _ := filepath.Glob("../../docs/*.md")
	for _, pattern := range []string{"../../*.md", "../../docs/manual/*.md", "../../docs/formats/*.md"} {
		more, _ := filepath.Glob(pattern)
		all = append(all, more...)
	}
	heading := regexp.MustCompile(`(?m)^#+ (.*)$`)
	anchors := func(path string) map[string]bool {
		out := map[string]bool{}
		for _, m := range heading.FindAllStringSubmatch(readPage(t, path), -1) {
			name := regexp.MustCompile(`[^\w\- ]`).ReplaceAllString(strings.ToLower(m[1]), "")
			out[strings.ReplaceAll(name, " ", "-")] = true
		}
		return out
	}
	for _, page := range all {
		for _, m := range regexp.MustCompile(`\]\(([^)#:]*)(?:#([^)]*))?\)`).FindAllStringSubmatch(readPage(t, page), -1) {
			target := page
			if m[1] != "" {
				target = filepath.Join(filepath.Dir(page), m[1])
			}
			if _, err := os.Stat(target); err != nil {
				t.Errorf("%s: %s leads nowhere", page, m[0])
			} else if m[2] != "" && !anchors(target)[m[2]] {
				t.Errorf("%s: %s: there is no such heading", page, m[0])
			}
		}
	}
}
