package main

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// shellFolder is a folder in which gyrolith is on the path.
func shellFolder(t *testing.T, shell string) *folder {
	t.Helper()
	if _, err := exec.LookPath(shell); err != nil {
		t.Skip(err)
	}
	f := newFolder(t)
	f.putDemo("planning.kmz", "walk.gpx")
	f.put("keep.txt", "precious")
	f.put("odd dir/x", "")
	if err := os.Mkdir(f.path("bin"), 0o777); err != nil {
		t.Fatal(err)
	}
	if err := os.Symlink(program, f.path("bin/gyrolith")); err != nil {
		t.Skip(err)
	}
	return f
}

// script runs a script of a shell and gives what it prints.
func (f *folder) script(shell string, args ...string) string {
	f.t.Helper()
	cmd := exec.Command(shell, args...)
	cmd.Dir = f.dir
	cmd.Env = append(os.Environ(), "PATH="+f.path("bin")+string(filepath.ListSeparator)+os.Getenv("PATH"), "HOME="+f.dir,
		"TERM=dumb", "COMPLETING="+f.path("bin"))
	out, err := cmd.CombinedOutput()
	if err != nil {
		f.t.Fatalf("%s: %v\n%s", shell, err, out)
	}
	return string(out)
}

// In bash, with its word breaks, quotes and redirections, with and without the package bash-completion.
func TestCompletionInBash(t *testing.T) {
	t.Parallel()
	f := shellFolder(t, "bash")
	for line, want := range map[string]string{
		"gyrolith conv": "<convert>",
		"gyrolith convert planning.kmz --take waypoints:Sorrel\\ L": `<Sorrel\ Landing>`,
		"gyrolith convert planning.kmz --take 'waypoints:Sorrel L":  "<waypoints:Sorrel Landing>",
		"gyrolith convert planning.kmz --take=rou":                  "<routes>",
		"gyrolith clean walk.gpx --also sto":                        "<stops>",
		"gyrolith stow --card od":                                   "<odd dir>",
		"gyrolith stow --unit kee":                                  "<keel>",
		"gyrolith convert x.csv --crs 32732":                        "<32732>",
		"gyrolith look walk.gpx > kee":                              "<keep.txt>",
		"gyrolith look walk.gpx 2>kee":                              "<keep.txt>",
		"cat x | gyrolith convert - --write-as geop":                "<geoparquet>",
		"gyrolith run make":                                         "<make-ready>",
		"gyrolith nothing ":                                         "",
		"gyrolith convert walk.gpx --columns time,hei":              "<time,height>",
		"gyrolith legs x.gpx --sort-down leg-d":                     "<leg-distance>",
	} {
		for _, more := range []string{"", ". /usr/share/bash-completion/bash_completion 2>/dev/null;"} {
			got := f.script("bash", "--norc", "-c", more+`source <(gyrolith completion bash); compopt() { :; }
COMP_LINE="$1" COMP_POINT=${#1} COMPREPLY=(); _gyrolith gyrolith
for r in "${COMPREPLY[@]}"; do printf '<%s>' "$r"; done`,
				"bash", line)
			if got != want {
				t.Errorf("%s: %s, want %s", line, got, want)
			}
		}
	}
	if f.get("keep.txt") != "precious" {
		t.Error("completion has run what stood on the line")
	}
}

// In fish.
func TestCompletionInFish(t *testing.T) {
	t.Parallel()
	f := shellFolder(t, "fish")
	for line, want := range map[string]string{
		"gyrolith conv": "convert\twrite the same data in another format; several inputs are merged",
		"gyrolith convert planning.kmz --take waypoints:Sorrel": "waypoints:Sorrel Landing",
		"gyrolith stow --unit kee":                              "keel",
		"gyrolith look walk.g":                                  "walk.gpx",
		"gyrolith look walk.gpx > kee":                          "keep.txt",
	} {
		got := strings.TrimSpace(f.script("fish", "--no-config", "-c",
			"gyrolith completion fish | source; complete -C '"+line+"'"))
		if got != want {
			t.Errorf("%s: %q, want %q", line, got, want)
		}
	}
	if f.get("keep.txt") != "precious" {
		t.Error("completion has run what stood on the line")
	}
}

// In zsh, at a terminal of its own.
func TestCompletionInZsh(t *testing.T) {
	t.Parallel()
	f := shellFolder(t, "zsh")
	out := f.script("zsh", "-f", "-c", `zmodload zsh/zpty
zpty z 'PS1="> " zsh -f -i'
zpty -w z 'PATH=$COMPLETING:$PATH'
zpty -w z 'autoload -U compinit; compinit -u; source <(gyrolith completion zsh)'
zpty -w z 'bindkey "^I" complete-word; print READY'
while zpty -r z line && [[ $line != READY* ]]; do :; done
for l in "gyrolith conv" "gyrolith convert planning.kmz --take waypoints:Sorrel" \
	"gyrolith convert planning.kmz --take=are" \
	"gyrolith stow --card od" "gyrolith stow --unit kee" "gyrolith look walk.gpx > kee"; do
	zpty -n -w z "$l"$'\t'
	sleep 1.5
	zpty -n -w z $'\x01print -r -- "<\x05>"\n' 2>/dev/null
	sleep 0.5
	while zpty -r -t z c; do print -r -- "$c"; done
done`)
	for _, want := range []string{"gyrolith convert ", `--take waypoints:Sorrel\ Landing`, "--take=areas",
		`--card odd\ dir/`,
		"--unit keel ", "> keep.txt"} {
		if !strings.Contains(out, want) {
			t.Errorf("nothing completed to %q:\n%s", want, out)
		}
	}
}
