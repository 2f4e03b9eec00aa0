package cli

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync/atomic"

	"gyrolith/core/measure"
	"gyrolith/core/param"
	"gyrolith/core/recipe"
	"gyrolith/core/safefile"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/lookup"
)

//go:embed texts/run.txt
var runHelp string

// runTask is the work of run.
type runTask struct {
	*frame.Task
	into    string
	values  []string
	share   recipe.Share
	merging bool
	asked   bool   // how far the shares are
	list    string // of inputs
	byTimes bool
	workers int
}

// runVerb is run.
var runVerb = frame.Verb{Name: "run", Stage: frame.DrawAndAdd,
	Brief: "run a recipe over many files",
	Usage: "run a recipe on many files, in parallel and resumable",
	Args:  "RECIPE FILES-or-folders… --into DIR",
	Help:  runHelp,
	Examples: []string{
		"run archive-day walk.gpx --into my-archive",
		"run season-cards dressed.kmz --into my-cards --dry-run",
	},
	Tried: []string{"batch"},
	Completes: func(_ *frame.App, first bool) frame.Choices {
		return frame.Choices{Words: lookup.RecipeWords(first), Files: true}
	},
	Answers: []any{frame.RunAnswer{}, sharesAnswer{}},
	Make:    makeRun}

func makeRun(a *frame.App, v *frame.Verb) frame.Made {
	r := &runTask{Task: a.NewTask(v.Name), share: recipe.Share{Part: 1, Of: 1}}
	return frame.Made{Tables: []param.Table{{
		intoParam(&r.into),
		param.Texts("value", &r.values, "NAME=TEXT", "set a value of the recipe, `NAME=TEXT`; repeatable"),
		param.Func("share", "PART/OF", "only this share of the inputs, `PART/OF` such as 3/16",
			func(text string) (err error) { r.share, err = recipe.ParseShare(text); return }),
		listParam(&r.list),
		param.Switch("by-times", &r.byTimes, "take a file of the same size and time for unchanged, without reading it"),
		param.Switch("merge", &r.merging, "combine the journals of all shares: run --merge JOURNALS…"),
		param.Switch("status", &r.asked, "show how far each share has come: run --status --into DIR"),
		param.Count("workers", &r.workers, 1, 1<<16, "N", "process `N` inputs at a time (default: one per core)"),
		param.Switch("replace", &r.Replace, "overwrite files that no run has written, and keep backups"),
		r.Dry(), r.Waiting(),
		param.Switch("strict", &r.Strict, "refuse inputs with losses or findings"),
		param.Switch("json", &r.JSON, "print the result as JSON"),
		frame.Short("q", param.Switch("quiet", &r.Quiet, "print only errors")),
		param.Switch("verbose", &r.Verbose, "name the files that are skipped"),
	}}, Run: r.run}
}

func listParam(to *string) param.Param {
	return param.File("inputs", to, "LIST", "the inputs are the files of this `LIST`, a path a line with its size in "+
		"bytes behind a tab or comma; shares are balanced by bytes then; - is standard input")
}

func intoParam(to *string) param.Param {
	p := param.Text("into", to, "DIR", "the `DIR` to write to")
	p.Path = param.Written
	return p
}

func (r *runTask) run(ctx context.Context, l *frame.Line) error {
	args := l.Args
	switch {
	case r.merging:
		return r.merge(args)
	case r.asked:
		return r.status()
	case len(args) == 0:
		return frame.UsageError(
			"run: name a recipe and the files or folders to run it on; 'gyrolith recipes' lists recipes " +
				"that are built in",
		)
	case r.list != "" && len(args) > 1:
		return frame.UsageError("run: --inputs lists all of the inputs: don't name %s as well", args[1])
	case len(args) == 1 && r.list == "":
		return frame.UsageError("run: name the files or folders to run %s on", args[0])
	case r.into == "":
		return frame.UsageError("run: no output folder; add --into DIR")
	}
	x, base, err := theRecipe(args[0], r.values)
	if err != nil {
		return err
	}
	if x.Together && r.share.Of > 1 {
		return frame.UsageError("run: --share: %s takes all inputs together and can't be divided", x.Path)
	}
	first, err := x.Open(ctx, r.Kit, base) // which finds what is wrong with a step
	if err != nil {
		return ofRecipe(err)
	}
	defer first.Close()
	for _, in := range args[1:] {
		if frame.Same(in, r.into) {
			return frame.UsageError("run: --into %s is the folder of the inputs, which are never changed; name another folder",
				r.into)
		}
	}
	inputs, skipped, err := r.gather(ctx, args[1:])
	if err != nil {
		return err
	}
	if err := x.CheckNames(first, inputs); err != nil {
		return ofRecipe(err)
	}
	files, err := x.Files(r.Kit, base, first)
	if err != nil {
		return ofRecipe(err)
	}
	runner := &recipe.Runner{Recipe: x, Inputs: slices.Clone(inputs), Into: r.into, Share: r.share, Program: buildID(),
		All:     recipe.SumOfInputs(inputs),
		Workers: r.workers, Wait: r.Wait,
		DryRun: r.DryRun, Replace: r.Replace, Step: frame.BreakOffRun(), ByTimes: r.byTimes, ByBytes: r.list != "",
		Notice:    r.Note,
		NewWorker: func() (recipe.Worker, error) { return x.NewWorker(ctx, r.Kit, base, r.Strict) }}
	for _, e := range first.Ends {
		runner.Patterns = append(runner.Patterns, e.Name)
	}
	if r.DryRun { // which writes nothing, and keeps no sums either
		runner.With, err = recipe.SumOfAll(files)
	} else {
		runner.With, err = recipe.SumKept(files, r.into)
	}
	if err != nil {
		return err
	}
	if runner.ByBytes {
		runner.Inputs = r.share.ByBytes(inputs)
	} else {
		runner.Inputs = slices.DeleteFunc(runner.Inputs, func(in recipe.Input) bool { return !r.share.Has(&in) })
	}
	return r.over(ctx, runner, len(inputs), skipped)
}

// gather finds the inputs: those of a list, or of the files and folders that are named.
func (r *runTask) gather(ctx context.Context, paths []string) (inputs []recipe.Input, skipped []string, err error) {
	if r.list == "" {
		if inputs, skipped, err = recipe.Gather(paths, r.into, r.IsData(ctx)); err == nil && len(inputs) == 0 {
			err = frame.NothingError("%s: contains no data file", strings.Join(paths, ", "))
		}
		return
	}
	in := r.Kit.Stdin
	if r.list != "-" {
		f, err := os.Open(r.list)
		if err != nil {
			return nil, nil, safefile.CannotRead(r.list, "list of inputs", err)
		}
		defer f.Close()
		in = f
	}
	if inputs, err = recipe.Listed(in, r.list); err == nil && len(inputs) == 0 {
		err = frame.NothingError("%s: names no file", r.list)
	}
	return inputs, nil, err
}

// over runs the recipe and tells of it.
func (r *runTask) over(ctx context.Context, runner *recipe.Runner, all int, skipped []string) error {
	if !r.DryRun {
		if err := os.MkdirAll(r.into, 0o777); err != nil {
			return fmt.Errorf("%s: can't be made: %w", r.into, err)
		}
	}
	p := &frame.Report{A: r.App, Quiet: r.Quiet, JSON: r.JSON, Dry: r.DryRun}
	runner.Tell = p.Tell
	if !r.Quiet && !r.JSON {
		if r.share.Of > 1 {
			r.Err.Printf("share %s: %d of %s\n", r.share, len(runner.Inputs), measure.Counted(all, "input", "inputs"))
		}
		r.SaySkipped(skipped)
	}
	if !r.byTimes {
		frame.ManySmall()
	}
	var done atomic.Int64
	stop := r.Progress("running "+console.Show(runner.Recipe.Path), int64(len(runner.Inputs)), done.Load)
	err := runner.Run(ctx, &done)
	stop()
	if err != nil {
		return ofRecipe(err)
	}
	return p.End(runner.Recipe, r.into)
}

// ofRecipe makes a fault of a recipe one of usage.
func ofRecipe(err error) error {
	if f, ok := errors.AsType[*recipe.Error](err); ok {
		return frame.Fail(frame.StatusUsage, f)
	}
	return err
}

// mostRecipe is the most bytes of a recipe.
const mostRecipe = 16 << 20

// theRecipe reads a recipe, of a file or of those that ship. Base is the folder that its paths are below.
func theRecipe(name string, values []string) (r *recipe.Recipe, base string, err error) {
	text, readErr := os.ReadFile(name)
	shipped := recipe.Shipped()
	i := slices.IndexFunc(shipped, func(r *recipe.Recipe) bool { return r.Path == name })
	switch {
	case len(text) > mostRecipe:
		return nil, "", frame.FaultIn(name, "is larger than 16 MiB, which is too large for a recipe")
	case readErr == nil:
		r, err = recipe.Parse(name, text)
		base = filepath.Dir(name)
	case i >= 0:
		r = shipped[i]
	case errors.Is(readErr, os.ErrNotExist):
		return nil, "", frame.UsageError(
			"run: %s: there is no such file, and no recipe of that name; 'gyrolith recipes' lists "+
				"the built-in ones",
			name,
		)
	default:
		return nil, "", frame.FaultIn(name, "can't be read: %v", safefile.Bare(readErr))
	}
	if err == nil {
		err = r.Set(values)
	}
	if err != nil {
		return nil, "", frame.Fail(frame.StatusUsage, err)
	}
	return r, base, nil
}

// status shows how far the shares in a folder have come.
// sharesAnswer is what run --status answers as JSON.
type sharesAnswer struct {
	Shares []recipe.ShareStatus `json:"shares"`
}

func (r *runTask) status() error {
	if r.into == "" {
		return frame.UsageError("run: --status: name the output folder with --into DIR")
	}
	shares, err := recipe.StatusOf(r.into)
	if err != nil {
		return frame.FaultIn(r.into, "can't be read: %v", safefile.Bare(err))
	}
	if len(shares) == 0 {
		return frame.NothingError("%s: has no journal of a run", r.into)
	}
	if r.JSON {
		return r.PrintJSON(sharesAnswer{shares})
	}
	var rows [][]string
	for _, s := range shares {
		note := s.By
		if s.Stale {
			note += " (overtaken: run it again, or remove its journal)"
		}
		rows = append(rows, []string{s.Share, measure.Count(s.Inputs), measure.Count(s.Done), measure.Count(s.Refused),
			measure.Count(s.Other), measure.Count(s.Left), strings.TrimSpace(note)})
	}
	r.Out.Table("", []console.Column{{Title: "share"}, {Title: "inputs", Right: true}, {Title: "done", Right: true},
		{Title: "refused", Right: true}, {Title: "no data", Right: true}, {Title: "left", Right: true}, {Title: "by"}}, rows)
	return nil
}

// merge puts the journals of shares together.
func (r *runTask) merge(paths []string) error {
	if len(paths) == 0 {
		return frame.UsageError("run: --merge: name the journals of all shares, such as out/journal-*.jsonl")
	}
	j, err := recipe.Merge(paths)
	if err != nil {
		return err
	}
	defer j.Close()
	p := &frame.Report{A: r.App, Quiet: true, JSON: r.JSON}
	err = j.Entries(func(e *recipe.Entry) error { p.Tell(&recipe.Outcome{Entry: e}); return nil })
	if err != nil {
		return err
	}
	into := r.into
	if into != "" && !r.DryRun {
		path := filepath.Join(into, recipe.JournalName(recipe.Share{Part: 1, Of: 1}))
		_, err := safefile.WriteAll(path, r.Replace, j.Write)
		if err != nil {
			return err
		}
	}
	p.Quiet = r.Quiet
	if into == "" {
		into = "all shares"
	}
	return p.End(&recipe.Recipe{Path: "merged"}, into)
}
