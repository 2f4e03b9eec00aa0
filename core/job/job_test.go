package job_test

import (
	"context"
	"errors"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/choose"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/param"
)

// try does a job for a file: a step with its parameters, and an output.
func try(t *testing.T, content, verb string, settings []param.Setting, output string,
	strict bool) (*job.Result, *job.Files, error) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "in.gpx")
	if err := os.WriteFile(path, []byte(content), 0o666); err != nil {
		t.Fatal(err)
	}
	tools := kit.New(time.Date(2026, 3, 14, 0, 0, 0, 0, time.UTC), "", nil)
	stage := tools.NewStage(verb)
	if err := stage.Params().Set(nil, settings); err != nil {
		t.Fatal(err)
	}
	end, _ := tools.NewEnd("convert")
	end.Name = filepath.Join(t.TempDir(), output)
	c := &chain.Chain{Reading: tools.NewReading(), Stages: []*chain.Stage{stage}, Ends: []*chain.End{end}}
	if err := c.Check(); err != nil {
		t.Fatal(err)
	}
	if err := c.Open(t.Context()); err != nil {
		t.Fatal(err)
	}
	defer c.Close()
	files := &job.Files{Stdout: io.Discard}
	t.Cleanup(files.Discard)
	r, err := (&job.Job{Chain: c, Strict: strict}).Do(t.Context(), []input.File{{Path: path}}, files)
	return r, files, err
}

const head = `<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1">`

// One rule says what a strict job refuses: what is missing of the input, findings, and losses; the same job that is not
// strict is done, and says them.
func TestStrict(t *testing.T) {
	rules := []param.Setting{
		{Name: "match", Values: []string{"waypoints:Rock*"}},
		{Name: "symbol", Values: []string{"rock"}},
	}
	for _, c := range []struct {
		what, content, verb string
		settings            []param.Setting
		output, says        string
	}{
		{"a position that can't be used", head + `<wpt lat="95" lon="1"/><wpt lat="1" lon="1"/></gpx>`, "convert", nil,
			"a.gpx", "beyond 90 degrees"},
		{"a rule without effect", head + `<wpt lat="1" lon="1"><name>A</name></wpt></gpx>`, "dress", rules, "a.gpx",
			"1 rule matched nothing"},
	} {
		if _, _, err := try(t, c.content, c.verb, c.settings, c.output, false); err != nil {
			t.Errorf("%s: %v", c.what, err)
		}
		_, _, err := try(t, c.content, c.verb, c.settings, c.output, true)
		refused, ok := errors.AsType[*job.Refused](err)
		if !ok || !strings.Contains(refused.Error(), c.says) {
			t.Errorf("%s is not refused: %v", c.what, err)
		}
	}
	lossy := head + `<wpt lat="1" lon="1"><name>A</name><sat>7</sat></wpt><wpt lat="2" lon="1"><name>B</name></wpt>` +
		`<rte><name>R</name><rtept lat="1" lon="1"/><rtept lat="2" lon="1"/></rte></gpx>`
	r, _, err := try(t, lossy, "convert", nil, "a.rtz", false)
	if err != nil {
		t.Fatal(err)
	}
	if _, lost := r.Changes(); lost == 0 {
		t.Fatalf("nothing is lost: %+v", r.Ledger())
	}
	_, _, err = try(t, lossy, "convert", nil, "a.rtz", true)
	if refused, ok := errors.AsType[*job.Refused](err); !ok || !refused.Loss {
		t.Errorf("a loss is not refused: %v", err)
	}
}

// Nothing taken and nothing left are errors of their own, and nothing has its name before all is committed.
func TestNothingAndCommit(t *testing.T) {
	whole := head + `<wpt lat="1" lon="1"><name>A</name></wpt></gpx>`
	_, _, err := try(t, whole, "convert", []param.Setting{{Name: "take", Values: []string{"routes"}}}, "a.gpx", false)
	if !errors.Is(err, choose.ErrNothing) {
		t.Errorf("nothing taken: %v", err)
	}
	r, files, err := try(t, whole, "convert", nil, "a.gpx", true)
	if err != nil {
		t.Fatal(err)
	}
	name := r.Made[0].Files[0]
	if _, err := os.Stat(name); err == nil {
		t.Error("it has its name before it is committed")
	}
	if _, err := files.Commit(); err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(name); err != nil {
		t.Error(err)
	}
	stopped, stop := context.WithCancel(t.Context())
	stop()
	tools := kit.New(time.Now(), "", nil)
	end, _ := tools.NewEnd("convert")
	end.Name = "x.gpx"
	c := &chain.Chain{Reading: tools.NewReading(), Ends: []*chain.End{end}}
	if _, err := job.Run(stopped, c, []string{name}, files); !errors.Is(err, context.Canceled) {
		t.Errorf("once stopped: %v", err)
	}
}
