package main

import (
	"bytes"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"

	"gyrolith/demo"
)

// program is the built program, which these tests drive on files in temporary folders.
var program string

// breakable gives the program built so that it can be killed at a step of its work.
var breakable = sync.OnceValues(func() (string, error) {
	path := strings.TrimSuffix(program, ".exe") + "-breakable" + filepath.Ext(program)
	build := exec.Command("go", "build", "-tags", "breakoff", "-o", path, ".")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	out, err := build.CombinedOutput()
	if err != nil {
		err = fmt.Errorf("%s%w", out, err)
	}
	return path, err
})

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "gyrolith-test-")
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	program = filepath.Join(dir, "gyrolith")
	if runtime.GOOS == "windows" {
		program += ".exe"
	}
	build := exec.Command("go", "build", "-o", program, ".")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if counters := os.Getenv("GYROLITH_COVERAGE"); counters != "" { // every run leaves there what it executed
		build.Args = slices.Insert(build.Args, 2, "-cover")
		os.Setenv("GOCOVERDIR", counters)
	}
	if out, err := build.CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "%s%v\n", out, err)
		os.Exit(1)
	}
	status := m.Run()
	os.RemoveAll(dir)
	os.Exit(status)
}

// result is how a run of the program ended.
type result struct {
	status   int
	out, err string
}

// folder is a temporary folder that the program runs in.
type folder struct {
	t       testing.TB
	dir     string
	program string
	env     []string // besides the usual one
}

func newFolder(t testing.TB) *folder { return &folder{t: t, dir: t.TempDir(), program: program} }

// killedAt has the program of this folder killed at a step of its work, counted from 1; 0 lets it live.
func (f *folder) killedAt(step int) {
	f.t.Helper()
	path, err := breakable()
	if err != nil {
		f.t.Fatal(err)
	}
	f.program, f.env = path, []string{fmt.Sprint("GYROLITH_DIE_AT=", step)}
	if step == 0 {
		f.env = nil
	}
}

func (f *folder) path(name string) string { return filepath.Join(f.dir, filepath.FromSlash(name)) }

func (f *folder) put(name, content string) {
	f.t.Helper()
	if err := os.MkdirAll(filepath.Dir(f.path(name)), 0o777); err != nil {
		f.t.Fatal(err)
	}
	if err := os.WriteFile(f.path(name), []byte(content), 0o666); err != nil {
		f.t.Fatal(err)
	}
}

func (f *folder) get(name string) string {
	f.t.Helper()
	b, err := os.ReadFile(f.path(name))
	if err != nil {
		f.t.Fatal(err)
	}
	return string(b)
}

// putDemo puts a file of the example scenario.
func (f *folder) putDemo(names ...string) {
	f.t.Helper()
	for _, name := range names {
		b, err := demo.Files.ReadFile("files/" + name)
		if err != nil {
			f.t.Fatal(err)
		}
		f.put(name, string(b))
	}
}

// list gives all files below the folder, with slashes.
func (f *folder) list() []string {
	var names []string
	filepath.Walk(f.dir, func(path string, info os.FileInfo, err error) error {
		if err == nil && !info.IsDir() {
			rel, _ := filepath.Rel(f.dir, path)
			names = append(names, filepath.ToSlash(rel))
		}
		return nil
	})
	return names
}

func (f *folder) runWith(stdin string, args ...string) result {
	f.t.Helper()
	cmd := exec.Command(f.program, args...)
	cmd.Dir = f.dir
	cmd.Env = append(os.Environ(), "XDG_DATA_HOME="+f.path("data"), "HOME="+f.dir, "NO_COLOR=1")
	cmd.Env = append(cmd.Env, f.env...)
	cmd.Stdin = strings.NewReader(stdin)
	var out, errOut bytes.Buffer
	cmd.Stdout, cmd.Stderr = &out, &errOut
	err := cmd.Run()
	if err != nil && cmd.ProcessState == nil {
		f.t.Fatal(err)
	}
	return result{cmd.ProcessState.ExitCode(), out.String(), errOut.String()}
}

func (f *folder) run(args ...string) result { f.t.Helper(); return f.runWith("", args...) }

// must runs the program and expects it to succeed.
func (f *folder) must(args ...string) result {
	f.t.Helper()
	r := f.run(args...)
	if r.status != 0 {
		f.t.Fatalf("gyrolith %s: status %d\n%s%s", strings.Join(args, " "), r.status, r.out, r.err)
	}
	return r
}

// refuses runs the program and expects one line of complaint with the words, a status, and no new file.
func (f *folder) refuses(status int, words string, args ...string) result {
	f.t.Helper()
	before := fmt.Sprint(f.list())
	r := f.run(args...)
	line := lastLine(r.err)
	if r.status != status || !strings.Contains(line, words) || !strings.HasPrefix(line, "gyrolith: ") &&
		!strings.HasPrefix(line, `{"status":`) {
		f.t.Errorf("gyrolith %s:\nstatus %d, want %d\n%s\nwant %q", strings.Join(args, " "), r.status, status, r.err, words)
	}
	if after := fmt.Sprint(f.list()); after != before {
		f.t.Errorf("gyrolith %s left files behind: %s, before %s", strings.Join(args, " "), after, before)
	}
	return r
}

func lastLine(text string) string {
	lines := strings.Split(strings.TrimRight(text, "\n"), "\n")
	return lines[len(lines)-1]
}

func TestDemo(t *testing.T) {
	t.Parallel()
	f := newFolder(t)
	r := f.must("demo", "there")
	for _, want := range []string{"$ gyrolith look planning.kmz", "$ gyrolith stow dressed.kmz",
		"the unit shows what was intended", "WAYPOINTS 26 of 2,000"} {
		if !strings.Contains(r.out, want) {
			t.Errorf("%q is missing:\n%s", want, r.out)
		}
	}
	f.refuses(1, "is not empty", "demo", "there")
}
