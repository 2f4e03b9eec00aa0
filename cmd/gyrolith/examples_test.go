package main

import (
	"strings"
	"testing"

	"gyrolith/internal/cli"
)

// words splits a command line as a shell does, with its quotes.
func words(line string) (out []string) {
	var b strings.Builder
	quote, any := rune(0), false
	for _, r := range line {
		switch {
		case quote != 0 && r == quote:
			quote = 0
		case quote == 0 && (r == '\'' || r == '"'):
			quote, any = r, true
		case quote == 0 && r == ' ':
			if any || b.Len() > 0 {
				out = append(out, b.String())
			}
			b.Reset()
			any = false
		default:
			b.WriteRune(r)
		}
	}
	if any || b.Len() > 0 {
		out = append(out, b.String())
	}
	return
}

// Every example of the help runs on the files that the demo leaves, in the order of the work.
func TestExamples(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	f.must("demo", "isles")
	f.dir = f.path("isles")
	for _, v := range cli.Verbs() {
		for _, line := range v.Examples {
			if r := f.run(words(line)...); r.status != 0 {
				t.Errorf("gyrolith %s: status %d\n%s", line, r.status, r.err)
			}
		}
	}
}
