// Package chain holds steps and outputs as data, and runs them over one dataset. A command line, a recipe and a program
// of somebody else's make the same chains, and get the same results.
package chain

import (
	"context"
	"errors"
	"slices"
	"time"

	"gyrolith/core/choose"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/template"
)

// Step changes a dataset. A struct that holds the parameters of a step is one.
type Step interface {
	Params() param.Table
	Check() error // of parameters that make no sense, alone or together; it is called once, after they are set
	Apply(context.Context, *nav.Dataset) (*nav.Report, error)
}

// Output makes files of a dataset.
type Output interface {
	Params() param.Table
	// Name settles what is written by the name that is asked for, and gives the name its extension where it has none.
	Name(name string) (string, error)
	Check() error // called once, after the parameters are set and the name is settled
	Write(ctx context.Context, w *Work, name string, sink export.Sink) (*export.Made, error)
}

// Opener is a step or an output that has something to open before it is used.
type Opener interface {
	Open(context.Context) error
	Close()
}

// Zoned is a step or an output that writes dates or times of day: in the zone of the clock.
type Zoned interface{ InZone(*time.Location) }

// Measuring is an output whose measures are those of the lengths in its name.
type Measuring interface{ Measures() measure.System }

// Mending is a step that deals with what is wrong with its input, so that a strict run need not refuse that.
type Mending interface{ Mends() }

// Mends says whether the first step deals with what is wrong with the inputs.
func (c *Chain) Mends() bool {
	if len(c.Stages) == 0 {
		return false
	}
	_, mends := c.Stages[0].Step.(Mending)
	return mends
}

// Shifting is an output that may need the datum shift that is given.
type Shifting interface{ WantsShift() bool }

// User is a step or an output that uses files beside those that its parameters name.
type User interface{ Files() []string }

// Stage is a step, and what is chosen for it and all behind it.
type Stage struct {
	Verb string
	Take choose.Selection
	Step Step
}

// End is an output, what is chosen for it alone, and the name of what it makes.
type End struct {
	Verb   string
	Take   choose.Selection
	Name   string
	OnePer OnePer // "" is one file of all
	Output Output
}

// Chain is how data are read, the steps that change them one after the other, and what is made of them at the end.
type Chain struct {
	Reading *input.Reading
	Stages  []*Stage
	Ends    []*End

	opened []Opener
}

// Check finds parameters that make no sense. Step is called with the number of each stage and end whose fault it is.
func (c *Chain) Check() error {
	for _, s := range c.Stages {
		if err := s.Step.Check(); err != nil {
			return &Error{Stage: s, Err: err}
		}
	}
	for _, e := range c.Ends {
		if err := e.Check(); err != nil {
			return err
		}
	}
	return nil
}

// Check settles the name of an end and finds parameters that make no sense.
func (e *End) Check() (err error) {
	if e.Name, err = e.Output.Name(e.Name); err == nil {
		err = e.Output.Check()
	}
	if err == nil {
		err = e.OnePer.check(e.Name)
	}
	if err != nil {
		return &Error{End: e, Err: err}
	}
	return nil
}

// Error is an error of one stage or end.
type Error struct {
	Stage *Stage // nil where it is of an end or of the reading
	End   *End
	Err   error
}

func (f *Error) Error() string { return f.Err.Error() }

// Unwrap gives the error itself.
func (f *Error) Unwrap() error { return f.Err }

// Open opens what the reading, the steps and the outputs need: grids, rules, systems, profiles.
func (c *Chain) Open(ctx context.Context) error {
	for _, e := range c.Ends {
		if o, ok := e.Output.(Shifting); ok && o.WantsShift() {
			c.Reading.System.Elsewhere = true
		}
	}
	if err := c.Reading.Open(ctx); err != nil {
		return &Error{Err: err}
	}
	open := func(what any) error {
		o, ok := what.(Opener)
		if !ok {
			return nil
		}
		if err := o.Open(ctx); err != nil {
			o.Close()
			return err
		}
		c.opened = append(c.opened, o)
		return nil
	}
	for _, s := range c.Stages {
		if err := c.Reading.Resolve(ctx, &s.Take); err != nil {
			c.Close()
			return &Error{Stage: s, Err: err}
		}
		c.inZone(s.Step)
		if err := open(s.Step); err != nil {
			c.Close()
			return &Error{Stage: s, Err: err}
		}
	}
	for _, e := range c.Ends {
		if err := c.Reading.Resolve(ctx, &e.Take); err != nil {
			c.Close()
			return &Error{End: e, Err: err}
		}
		c.inZone(e.Output)
		if err := open(e.Output); err != nil {
			c.Close()
			return &Error{End: e, Err: err}
		}
	}
	return nil
}

// inZone gives the zone of the clock to what writes times.
func (c *Chain) inZone(what any) {
	if z, ok := what.(Zoned); ok && c.Reading.Options.Zone != nil {
		z.InZone(c.Reading.Options.Zone)
	}
}

// Close closes what Open opened.
func (c *Chain) Close() {
	for _, o := range slices.Backward(c.opened) {
		o.Close()
	}
	c.opened = nil
}

// Files lists the files that steps and outputs use beside those that their parameters name. The chain is open.
func (c *Chain) Files() (out []string) {
	add := func(what any) {
		if u, ok := what.(User); ok {
			out = append(out, u.Files()...)
		}
	}
	for _, s := range c.Stages {
		add(s.Step)
	}
	for _, e := range c.Ends {
		add(e.Output)
	}
	return
}

// Work is data on their way through a chain.
type Work struct {
	Data    *nav.Dataset
	Source  string // the name of the first input, without folder and extension
	Remarks []Remark
	Reports []*nav.Report
	Zone    *time.Location // in which a day begins; nil is UTC
}

// Remark is what was left out of an input, or had to be guessed.
type Remark struct {
	Path    string
	Problem *nav.Problem  // or
	Reject  *nav.Reject   // or
	Cut     *format.Error // where a file ends too early, of which what is complete was used
}

// Remarks gathers what the readers noticed, input by input. It is called before the inputs are merged.
func Remarks(inputs []*format.Loaded) (out []Remark) {
	for _, in := range inputs {
		if in.Cut != nil {
			out = append(out, Remark{Path: in.Path, Cut: in.Cut})
		}
		for _, p := range in.Data.Problems {
			out = append(out, Remark{Path: in.Path, Problem: &p})
		}
		for _, x := range in.Data.Rejects {
			out = append(out, Remark{Path: in.Path, Reject: &x})
		}
	}
	return
}

// choose takes what is chosen of the data. What of the choice matches nothing is a remark; where all of it does, the
// error is choose.ErrNothing.
func (w *Work) choose(s *choose.Selection) error {
	if s.Empty() {
		return nil
	}
	told := len(w.Data.Problems)
	if err := s.Apply(w.Data); err != nil && !errors.Is(err, choose.ErrNothing) {
		return err
	}
	for _, p := range w.Data.Problems[told:] {
		w.Remarks = append(w.Remarks, Remark{Problem: &p})
	}
	if w.Data.Counts() == [4]int{} {
		return choose.ErrNothing
	}
	return nil
}

// Ledger is what the steps have done so far.
func (w *Work) Ledger() (l nav.Ledger) {
	for _, r := range w.Reports {
		l = append(l, r.Ledger...)
	}
	return
}

// Apply runs the steps, and adds the report of each to the work.
func (c *Chain) Apply(ctx context.Context, w *Work) error {
	for _, s := range c.Stages {
		if err := w.choose(&s.Take); err != nil {
			return &Error{Stage: s, Err: err}
		}
		if err := ctx.Err(); err != nil {
			return err
		}
		r, err := s.Step.Apply(ctx, w.Data)
		if err != nil {
			return &Error{Stage: s, Err: err}
		}
		w.Reports = append(w.Reports, r)
	}
	return nil
}

// Write makes what an end makes of the data; nil where nothing is chosen for it.
func (e *End) Write(ctx context.Context, w *Work, name string, sink export.Sink) (*export.Made, error) {
	part := *w
	if !e.Take.Empty() {
		part.Data = w.Data.Clone()
		if err := e.Take.Apply(part.Data); err != nil && !errors.Is(err, choose.ErrNothing) {
			return nil, &Error{End: e, Err: err}
		}
	}
	if part.Data.Counts() == [4]int{} {
		return nil, nil
	}
	if e.OnePer != "" || template.Has(name, DataWords...) {
		return e.writeParts(ctx, &part, name, sink)
	}
	made, err := e.Output.Write(ctx, &part, name, sink)
	if err != nil {
		return nil, &Error{End: e, Err: err}
	}
	return made, nil
}
