package recipe

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"
	"testing"

	"gyrolith/core/export"
)

// copier is a worker that copies its input into an output of the same name; what begins with "bad" is refused.
type copier struct{ suffix string }

var asked atomic.Int64

func (c copier) Do(_ context.Context, inputs []Input, sink export.Sink) (*Result, error) {
	asked.Add(1)
	var all []byte
	for _, in := range inputs {
		b, err := os.ReadFile(in.Path)
		if err != nil {
			return nil, err
		}
		if strings.HasPrefix(string(b), "bad") {
			return nil, fmt.Errorf("%s: is bad", in.Path)
		}
		all = append(all, b...)
	}
	if err := put(sink, inputs[0].Rel+c.suffix, all); err != nil {
		return nil, err
	}
	return &Result{Changes: 2, Lost: 1}, put(sink, "side/"+inputs[0].Rel, []byte("side"))
}

// put writes an output.
func put(sink export.Sink, name string, content []byte) error {
	w, err := sink.Create(name)
	if err == nil {
		_, err = w.Write(content)
	}
	return err
}

func (copier) Close() {}

// bench is a folder with inputs, a recipe and a place to write to.
type bench struct {
	t      *testing.T
	dir    string
	r      *Recipe
	suffix string
	step   func()
}

func newBench(t *testing.T, files ...string) *bench {
	b := &bench{t: t, dir: t.TempDir(), suffix: ".out"}
	for _, f := range files {
		b.put("in/"+f, "content of "+f)
	}
	r, err := Parse("r.toml", []byte("[[output]]\nfile = \"{folder}/{name}.out\"\n"))
	if err != nil {
		t.Fatal(err)
	}
	b.r = r
	return b
}

func (b *bench) put(name, content string) {
	b.t.Helper()
	path := filepath.Join(b.dir, name)
	os.MkdirAll(filepath.Dir(path), 0o777)
	if err := os.WriteFile(path, []byte(content), 0o666); err != nil {
		b.t.Fatal(err)
	}
}

func (b *bench) get(name string) string {
	text, err := os.ReadFile(filepath.Join(b.dir, name))
	if err != nil {
		return "gone"
	}
	return string(text)
}

// run does what is new and gives the outcomes, as "name status", in order.
func (b *bench) run(change func(*Runner)) (out []string, err error) {
	inputs, _, err := Gather([]string{filepath.Join(b.dir, "in")}, filepath.Join(b.dir, "out"),
		func(string) bool { return true })
	if err != nil {
		b.t.Fatal(err)
	}
	os.MkdirAll(filepath.Join(b.dir, "out"), 0o777)
	r := &Runner{Recipe: b.r, Inputs: inputs, Into: filepath.Join(b.dir, "out"), Share: Share{1, 1}, Program: "1",
		Workers: 2, Step: b.step,
		NewWorker: func() (Worker, error) { return copier{b.suffix}, nil },
		Tell:      func(o *Outcome) { out = append(out, o.Entry.Input+" "+string(o.Entry.Status)) }}
	if change != nil {
		change(r)
	}
	var done atomic.Int64
	err = r.Run(context.Background(), &done)
	slices.Sort(out)
	return out, err
}

func (b *bench) want(change func(*Runner), want ...string) {
	b.t.Helper()
	got, err := b.run(change)
	if err != nil || fmt.Sprint(got) != fmt.Sprint(want) {
		b.t.Errorf("%v (%v), want %v", got, err, want)
	}
}

// What has not changed is not done again; what has is: by its content, the recipe, the files that steps use, the
// program.
func TestResume(t *testing.T) {
	b := newBench(t, "a", "b/c", "d")
	b.put("in/bad", "bad")
	b.want(nil, "a done", "b/c done", "bad refused", "d done")
	if b.get("out/b/c.out") != "content of b/c" || b.get("out/side/a") != "side" {
		t.Error("outputs are not there")
	}
	asked.Store(0)
	b.want(nil, "a kept", "b/c kept", "bad refused", "d kept")
	if n := asked.Load(); n != 1 {
		t.Errorf("%d inputs were done again", n)
	}
	b.put("in/a", "another")
	b.want(nil, "a done", "b/c kept", "bad refused", "d kept")
	os.Remove(filepath.Join(b.dir, "out/d.out"))
	b.want(nil, "a kept", "b/c kept", "bad refused", "d done")
	b.want(func(r *Runner) { r.With = "other rules" }, "a done", "b/c done", "bad refused", "d done")
	b.want(func(r *Runner) { r.With, r.Program = "other rules", "2" }, "a done", "b/c done", "bad refused", "d done")
	b.put("in/bad", "good")
	b.want(func(r *Runner) { r.With, r.Program = "other rules", "2" }, "a kept", "b/c kept", "bad done", "d kept")
}

// A dry run does nothing, and says what would be done.
func TestDry(t *testing.T) {
	b := newBench(t, "a")
	b.want(func(r *Runner) { r.DryRun = true }, "a done")
	if b.get("out/a.out") != "gone" || b.get("out/journal.jsonl") != "gone" {
		t.Error("a dry run writes")
	}
}

// What somebody else put there, or changed, is not written over; with Replace it is kept beside.
func TestOthers(t *testing.T) {
	b := newBench(t, "a", "d")
	b.put("out/d.out", "mine")
	b.want(nil, "a done", "d refused")
	if b.get("out/d.out") != "mine" || b.get("out/side/d") != "gone" {
		t.Error("an input that is refused left something")
	}
	b.put("out/a.out", "changed")
	b.put("in/a", "new")
	b.want(nil, "a refused", "d refused")
	b.want(func(r *Runner) { r.Replace = true }, "a done", "d done")
	if b.get("out/a.out") != "new" || b.get("out/a.before-1.out") != "changed" || b.get("out/d.before-1.out") != "mine" {
		t.Error("what was replaced is not kept")
	}
}

// A run that is broken off between the journal and the names of the outputs, or before, is carried on, and knows its
// own files.
func TestBrokenOff(t *testing.T) {
	b := newBench(t, "a", "d")
	b.want(nil, "a done", "d done")
	b.put("in/a", "changed")
	b.step = func() { panic("broken off") }
	func() {
		defer func() { recover() }()
		inputs, _, _ := Gather([]string{filepath.Join(b.dir, "in")}, "", func(string) bool { return true })
		j, err := OpenJournal(filepath.Join(b.dir, "out/journal.jsonl"))
		if err != nil {
			t.Fatal(err)
		}
		defer j.Close()
		r := &Runner{Recipe: b.r, Into: filepath.Join(b.dir, "out"), Program: "1", Step: b.step}
		r.one(context.Background(), copier{b.suffix}, j, task{"a", inputs[:1]}, b.r.SumOfText())
	}()
	if !strings.Contains(b.get("out/journal.jsonl"), `"status":"writing"`) || b.get("out/a.out") != "content of a" {
		t.Fatal("it was not broken off where it was meant")
	}
	b.step = nil
	b.want(nil, "a done", "d kept")
	if b.get("out/a.out") != "changed" || b.get("out/a.before-1.out") != "gone" {
		t.Errorf("carried on: %q", b.get("out/a.out"))
	}
}

func TestTogether(t *testing.T) {
	b := newBench(t, "a", "d")
	b.r.Together = true
	b.want(nil, "all done")
	if b.get("out/a.out") != "content of acontent of d" {
		t.Errorf("%q", b.get("out/a.out"))
	}
	b.want(nil, "all kept")
}

// An error of the whole, such as a worker that can't be made, ends the run and is given.
func TestFailingRun(t *testing.T) {
	b := newBench(t, "a", "d", "e")
	no := errors.New("no worker")
	if _, err := b.run(func(r *Runner) { r.NewWorker = func() (Worker, error) { return nil, no } }); !errors.Is(err, no) {
		t.Errorf("%v", err)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	r := &Runner{Recipe: b.r, Inputs: []Input{{Rel: "a", Path: "a"}}, Into: b.dir, Share: Share{1, 1},
		NewWorker: func() (Worker, error) { return copier{}, nil }, Tell: func(*Outcome) {}}
	if err := r.Run(ctx, &atomic.Int64{}); !errors.Is(err, context.Canceled) {
		t.Errorf("a run that is told to stop gives %v", err)
	}
}

func TestSums(t *testing.T) {
	b := newBench(t, "x/one", "x/two")
	folder := filepath.Join(b.dir, "in")
	first, err := SumOfAll([]string{folder})
	if err != nil {
		t.Fatal(err)
	}
	os.Rename(filepath.Join(folder, "x/one"), filepath.Join(folder, "x/three"))
	if second, _ := SumOfAll([]string{folder}); second == first {
		t.Error("another name has the same sum")
	}
	// The known sum of the empty file (FIPS 180-4).
	b.put("empty", "")
	if sum, _ := SumOf(filepath.Join(b.dir,
		"empty")); sum != "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855" {
		t.Errorf("%s", sum)
	}
	if _, err := SumOfAll([]string{filepath.Join(b.dir, "gone")}); err == nil {
		t.Error("what is not there has a sum")
	}
}

// What two inputs would both write is written once, and the second is refused with the name of the first.
func TestTwoInputsOneOutput(t *testing.T) {
	b := newBench(t, "a", "d")
	same := func() (Worker, error) { return renamer{}, nil }
	var out []string
	b.run(func(r *Runner) {
		r.Workers, r.NewWorker = 1, same
		tell := r.Tell
		r.Tell = func(o *Outcome) { tell(o); out = append(out, o.Entry.Input+": "+o.Entry.Why) }
	})
	if len(out) != 2 || out[0] != "a: " || !strings.Contains(out[1], "which a has already written") {
		t.Errorf("%q", out)
	}
}

// renamer gives every input the same output.
type renamer struct{}

func (renamer) Do(_ context.Context, inputs []Input, sink export.Sink) (*Result, error) {
	return &Result{}, put(sink, "one.out", []byte(inputs[0].Rel))
}

func (renamer) Close() {}
