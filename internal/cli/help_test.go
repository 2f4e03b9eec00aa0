package cli

import (
	"bytes"
	"strings"
	"testing"
	"unicode/utf8"

	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/help"
)

// What the program says of itself names every verb once, and fits a small window.
func TestRootHelp(t *testing.T) {
	var out bytes.Buffer
	a := frame.NewApp(verbs, strings.NewReader(""), &out, &out)
	help.RootHelp(a, a.Out)
	lines := strings.Split(strings.TrimRight(out.String(), "\n"), "\n")
	if len(lines) > 45 {
		t.Errorf("%d lines", len(lines))
	}
	for _, l := range lines {
		if utf8.RuneCountInString(l) > 80 {
			t.Errorf("%q is wider than 80 columns", l)
		}
	}
	for _, v := range verbs {
		if n := strings.Count("\n"+out.String(), " "+v.Name+" "); n == 0 {
			t.Errorf("%s is not listed", v.Name)
		}
	}
}

// Every verb that works on files has examples, its help fits 80 columns but for lines of commands, and every option is
// explained or named.
func TestVerbHelp(t *testing.T) {
	var out bytes.Buffer
	a := frame.NewApp(verbs, strings.NewReader(""), &out, &out)
	for _, one := range verbs {
		name, v := one.Name, a.Made(one)
		for _, all := range []bool{false, true} {
			out.Reset()
			a.HelpAll = all
			help.VerbHelp(a, a.Out, v)
			for _, l := range strings.Split(out.String(), "\n") {
				if utf8.RuneCountInString(l) > 80 && !strings.HasPrefix(l, "  gyrolith ") && !strings.HasPrefix(l, "gyrolith ") {
					t.Errorf("%s: %q is wider than 80 columns", name, l)
				}
			}
			for _, table := range v.Tables {
				for _, p := range table {
					if !strings.Contains(out.String(), "--"+p.Name) {
						t.Errorf("%s: --%s is not in its help", name, p.Name)
					}
				}
			}
		}
		if len(v.Tables) > 1 && len(v.Examples) == 0 {
			t.Errorf("%s has no examples", name)
		}
	}
}

// A call for help is found anywhere on the line, and a guess is one by meaning or none.
func TestHelpAnywhere(t *testing.T) {
	for line, want := range map[string]string{"clean walk.gpx --help": "help clean", "clean -h": "help clean",
		"clean x --help=all": "help clean", "--help": "help", "clean -- --help": "clean -- --help",
		"look a.gpx": "look a.gpx"} {
		got, all := help.AskedForHelp(strings.Fields(line))
		if strings.Join(got, " ") != want || all != strings.Contains(line, "=all") {
			t.Errorf("%s: %q", line, got)
		}
	}
	var out bytes.Buffer
	a := frame.NewApp(verbs, strings.NewReader(""), &out, &out)
	for word, want := range map[string]string{"info": `"look"`, "convrt": `did you mean "convert"`,
		"version": "--version", "qwertyuiop": "gyrolith help' lists",
		"options_test.go": "gyrolith look options_test.go"} {
		if err := help.UnknownVerb(a, word); !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", word, err)
		}
	}
}
