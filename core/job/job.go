// Package job does a whole job from file to file: inputs are loaded, a chain is applied to them, and its outputs are
// written. A verb, a folder with an output for each file, a recipe and a program of somebody else's do it in this way,
// with one rule for what a strict job refuses.
package job

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"gyrolith/core/chain"
	"gyrolith/core/choose"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/nav"
)

// Job is a chain, and the rule for what is refused. The chain is open.
type Job struct {
	*chain.Chain
	Strict bool // what is lost, a finding, and a file that was cut off are errors, and nothing is written

	Read func([]*format.Loaded)  // hears of the inputs before anything is done with them; nil for nobody
	Name func(*chain.End) string // the name of what an end makes; nil is the end's own
}

// Result is what has come of a job so far.
type Result struct {
	chain.Work
	Path   string         // of the first input
	Others int            // files that were found in folders and are no data
	Made   []*export.Made // by the ends, of which those with nothing to write made none
}

// Do loads the files, applies the chain and writes its ends to the sink. With an error comes what was done before it.
func (j *Job) Do(ctx context.Context, files []input.File, sink export.Sink) (*Result, error) {
	r, err := j.Load(ctx, files)
	if err == nil {
		err = j.Apply(ctx, r)
	}
	if err == nil {
		err = j.Write(ctx, r, sink)
	}
	return r, err
}

// Run judges and opens a chain, does the whole job for files by their paths, and closes it.
func Run(ctx context.Context, c *chain.Chain, paths []string, sink export.Sink) (*Result, error) {
	if err := c.Check(); err != nil {
		return nil, err
	}
	if err := c.Open(ctx); err != nil {
		return nil, err
	}
	defer c.Close()
	return (&Job{Chain: c}).Do(ctx, input.Named(paths...), sink)
}

// Load reads the files and makes one dataset of them.
func (j *Job) Load(ctx context.Context, files []input.File) (*Result, error) {
	inputs, others, err := Inputs(ctx, j.Reading, files)
	r := &Result{Others: others}
	if err != nil {
		return r, err
	}
	if j.Reading.Distinct {
		input.LeaveCopies(inputs)
	}
	r.Path, r.Source, r.Zone = inputs[0].Path, chain.Stem(inputs[0].Path), j.Reading.Options.Zone
	r.Remarks = chain.Remarks(inputs)
	if j.Read != nil {
		j.Read(inputs)
	}
	if err := j.refuse(r); err != nil {
		return r, err
	}
	r.Data = input.Merge(inputs)
	return r, j.Reading.NotEmpty(r.Data, r.Path)
}

// ErrNoData says that none of the files that were found in folders is data.
var ErrNoData error = choose.Nothing("no file in these folders has navigation data")

// Inputs reads files, of which those that were found in folders and are no data are left out and counted.
func Inputs(ctx context.Context, reading *input.Reading, files []input.File) (inputs []*format.Loaded, others int,
	err error) {
	inputs, err = reading.LoadAll(ctx, input.Paths(files))
	faults := []error{err}
	if joined, ok := err.(interface{ Unwrap() []error }); ok {
		faults = slices.Clone(joined.Unwrap())
	}
	named := map[string]bool{}
	for _, f := range files {
		named[f.Path] = named[f.Path] || !f.Found
	}
	n := len(faults)
	faults = slices.DeleteFunc(faults, func(err error) bool {
		e, ok := errors.AsType[*format.Error](err)
		if !ok || !e.Other {
			return false
		}
		byName, known := named[e.Path]
		return known && !byName
	})
	others = n - len(faults)
	inputs = slices.DeleteFunc(inputs, func(in *format.Loaded) bool { return in == nil })
	err = errors.Join(faults...)
	if err == nil && len(inputs) == 0 {
		err = ErrNoData
	}
	return inputs, others, err
}

// Apply does the steps.
func (j *Job) Apply(ctx context.Context, r *Result) error {
	if err := j.Chain.Apply(ctx, &r.Work); err != nil {
		return inFile(r.Path, err)
	}
	return j.refuse(r)
}

// InputError names the file whose data an error is about.
type InputError struct {
	Path string
	Err  error
}

func (e *InputError) Error() string { return e.Path + ": " + e.Err.Error() }

// Unwrap gives the error itself.
func (e *InputError) Unwrap() error { return e.Err }

// inFile names the file in an error of a step, unless the error names one.
func inFile(path string, err error) error {
	f, ok := errors.AsType[*chain.Error](err)
	if !ok {
		return err
	}
	if _, named := errors.AsType[*format.Error](f.Err); named || f.Stage == nil {
		return f.Err
	}
	return &InputError{path, f.Err}
}

// ErrNothingLeft says that the steps left no item.
var ErrNothingLeft error = choose.Nothing("nothing is left after the steps")

// Write makes the files of the ends. Whether they are kept is for the sink.
func (j *Job) Write(ctx context.Context, r *Result, sink export.Sink) error {
	if r.Data.Counts() == [4]int{} {
		return fmt.Errorf("%s: %w", r.Path, ErrNothingLeft)
	}
	for _, e := range j.Ends {
		name := e.Name
		if j.Name != nil {
			name = j.Name(e)
		}
		made, err := e.Write(ctx, &r.Work, name, sink)
		if err != nil {
			return err
		}
		if made != nil {
			r.Made = append(r.Made, made)
		}
	}
	if len(r.Made) == 0 && len(j.Ends) > 0 {
		return fmt.Errorf("%s: %w", r.Path, ErrNothingMade)
	}
	return j.refuse(r)
}

// ErrNothingMade says that no output takes anything of the data, as a table of legs where there is no route.
var ErrNothingMade error = choose.Nothing("has nothing that the outputs take")

// Ledger is what was changed and lost by the steps and in the outputs.
func (r *Result) Ledger() nav.Ledger {
	ledger := r.Work.Ledger()
	for _, m := range r.Made {
		ledger = append(ledger, m.Ledger...)
	}
	return ledger
}

// Findings are what speaks against what was read or planned, in words.
func (r *Result) Findings() (out []string) {
	for _, report := range r.Reports {
		out = append(out, report.Findings...)
	}
	for _, m := range r.Made {
		out = append(out, m.Findings...)
	}
	return out
}

// Changes counts what was changed, and Lost what could not be carried over and was not asked for, with the positions
// that could not be used.
func (r *Result) Changes() (changes, lost int) {
	changes, lost = r.Ledger().Changes()
	for _, m := range r.Remarks {
		if m.Reject != nil {
			lost++
		}
	}
	return changes, lost
}

// Counts are the numbers that the steps tell, and how many names were changed.
func (r *Result) Counts() (out []nav.Count) {
	for _, report := range r.Reports {
		out = AddCounts(out, report.Counts)
	}
	names := 0
	for _, e := range r.Ledger() {
		if e.What == nav.PropertyName {
			names += max(e.Count, 1)
		}
	}
	if names > 0 {
		out = AddCounts(out, []nav.Count{{What: "names changed", N: names}})
	}
	return out
}

// AddCounts adds numbers to those of the same sort.
func AddCounts(to, more []nav.Count) []nav.Count {
	for _, c := range more {
		i := slices.IndexFunc(to, func(x nav.Count) bool { return x.What == c.What })
		if i < 0 {
			to = append(to, c)
		} else {
			to[i].N += c.N
		}
	}
	return to
}
