package frame

import (
	"cmp"
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/export"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/recipe"
)

// StepVerb is a verb that is one step and one file: a chain of its own.
type StepVerb struct {
	*Task
	end    *chain.End
	target *export.Target
	append bool
	update bool // what the file has with other values

	// before anything is read; nil for nothing
	Begun  func() error
	Report func(w *chain.Work, r *nav.Report) (before nav.Ledger, err error) // says what the step did
	// once all is written; nil for nothing
	After func(ctx context.Context, w *chain.Work, r *nav.Report) (err error)
}

// Step makes a verb of a step, with further options.
func (a *App) Step(v *Verb, more func(*StepVerb) param.Table) (*StepVerb, Made) {
	j := a.NewTask(v.Name)
	s := &StepVerb{Task: j}
	s.end, _ = a.Kit.NewEnd("convert")
	s.target = kit.Target(s.end.Output)
	s.Report = func(_ *chain.Work, r *nav.Report) (nav.Ledger, error) { return r.Ledger, nil }
	tables := []param.Table{j.Reading.Params()}
	if v.Name != "convert" { // convert fits what it writes, and not on the way
		tables = append(tables, j.Stage.Step.Params())
	}
	if more != nil {
		tables = append(tables, more(s))
	}
	tables = append(tables, s.end.Output.Params(), s.end.Parting(),
		j.Writing("the `FILE` to write; its extension chooses the format; - is standard output; a folder, or a name with "+
			"{name}, makes one file per input"),
		param.Table{param.Switch("append", &s.append, "add to an existing GeoPackage what it doesn't have yet"),
			param.Switch("update", &s.update, "with --append: items that it has get their new values"),
			j.Waiting()}.In("Writing").ForOneRun(),
		input.Choosing(&j.Stage.Take), j.Answering(), j.RecipeTable())
	return s, Made{Tables: tables, Run: s.run}
}

func (s *StepVerb) run(ctx context.Context, l *Line) error {
	s.end.Name = s.Output
	if err := s.Stage.Step.Check(); err != nil {
		return Checked(s.Verb, err)
	}
	if s.AsRecipe {
		return s.printRecipe(l)
	}
	if s.end.OnePer != "" && !IsMany(s.Output) {
		return Checked(s.Verb, s.end.Check())
	}
	if IsMany(s.Output) {
		m := &Many{Task: s.Task, OnePer: s.end.OnePer, Ext: s.extension,
			Printed: func(name string) (_, _ *recipe.Printed) { return s.printed(l, name) }}
		return m.Run(ctx, l)
	}
	if s.update && !s.append {
		return UsageError("%s: --update goes with --append", s.Verb)
	}
	if s.append {
		if s.Replace {
			return UsageError("%s: give only one of --append and --replace", s.Verb)
		}
		s.target.AppendTo = s.Output
		release, err := s.Hold(ctx, s.Output)
		if err != nil {
			return err
		}
		defer release()
	}
	files, err := s.Expand(ctx, l.Args)
	if err != nil {
		return err
	}
	dry := s.DryRun && s.Output == "" // what the step would do is asked, and not what would be written
	ends := []*chain.End{s.end}
	if dry {
		ends = nil
	} else {
		j := *s.Task
		j.Replace = j.Replace || s.append
		if err := j.Settle(s.Verb, s.end, input.Paths(files)); err != nil {
			return err
		}
	}
	if s.Begun != nil {
		if err := s.Begun(); err != nil {
			return err
		}
	}
	x := s.JobOf(ends...)
	if err := x.Open(ctx); err != nil {
		return err
	}
	defer x.Close()
	r, err := s.perform(ctx, x, files)
	if err != nil || s.After == nil || dry {
		return err
	}
	return s.After(ctx, &r.Work, r.Reports[0])
}

// perform does the job, says what the step did, and writes the file.
func (s *StepVerb) perform(ctx context.Context, x *job.Job, files []input.File) (*job.Result, error) {
	r, err := s.Begin(ctx, x, files)
	if err != nil {
		return r, err
	}
	stop := s.Progress(s.Verb+": "+measure.Counted(r.Data.Points(), "point", "points"), 0, nil)
	err = s.Apply(ctx, x, r)
	stop()
	if err != nil && len(r.Reports) == 0 {
		return r, err
	}
	before, said := s.Report(&r.Work, r.Reports[0])
	if err = cmp.Or(err, said); err != nil {
		return r, err
	}
	if len(x.Ends) == 0 {
		s.Ledger(before)
		return r, nil
	}
	if s.append {
		left, err := s.leaveThere(ctx, r)
		if err != nil {
			return r, err
		}
		if before = append(before, left...); s.Strict && len(left) > 0 {
			s.Ledger(left)
			return r, job.RefuseLosses(s.Output, left)
		}
		if r.Data.Counts() == [4]int{} {
			s.Ledger(left)
			if s.JSON {
				return r, s.PrintJSON(WroteAnswer{Output: s.Output, Format: s.target.Format.Name, Ledger: left})
			}
			return r, nil
		}
	}
	return r, s.Finish(ctx, x, r, before, s.append)
}

// leaveThere takes out of the data what the file that is added to has already, and says how much that is. The ledger
// has what is there with other values and stays.
func (s *StepVerb) leaveThere(ctx context.Context, r *job.Result) (left nav.Ledger, err error) {
	if _, err := os.Stat(s.Output); err != nil {
		return nil, nil
	}
	in, err := s.Reading.Beside().Load(ctx, s.Output)
	if err != nil {
		return nil, err
	}
	x, err := s.target.Beside(ctx, r.Data, in.Data, s.update)
	if err != nil {
		return nil, err
	}
	if x.There > 0 {
		what := ""
		if r.Data.Counts() == [4]int{} && len(x.Changed) == 0 {
			what = "; nothing was added"
		}
		s.Note(fmt.Sprintf("%s already there%s", measure.Count(x.There), what))
	}
	if s.update && len(x.Changed) > 0 {
		s.Note(fmt.Sprintf("%s already there with other values: updated", measure.Count(len(x.Changed))))
	}
	for i := range x.Changed {
		if t := &x.Changed[i]; !s.update {
			left.Lost(t.Kind, t.Item.Name, nav.Property(t.Kind.One()),
				"the file has it with other values, and keeps those; --update takes these", 1)
		}
	}
	return left, nil
}

// Checked words a fault of parameters as one of usage.
func Checked(verb string, err error) error {
	f := Worded(verb, err)
	if _, ok := f.(*Failure); ok {
		return f
	}
	if many, ok := f.(interface{ Unwrap() []error }); ok { // one line for all
		var texts []string
		for _, e := range many.Unwrap() {
			texts = append(texts, strings.TrimPrefix(e.Error(), verb+": "))
		}
		return UsageError("%s: %s", verb, strings.Join(texts, "; "))
	}
	return UsageError("%s: %w", verb, f)
}

// printRecipe prints the step, and the output, that do what the verb would do with the options that it was given.
func (s *StepVerb) printRecipe(l *Line) error {
	ext := filepath.Ext(s.Output)
	if ext == "" && s.target.Format == nil {
		ext = ".gpx"
	}
	name := "{folder}/{name}" + ext
	if IsMany(s.Output) {
		name = filepath.ToSlash(s.Output)
	}
	together := s.takesTogether(l)
	if together {
		name = filepath.Base(s.Output)
		if filepath.Ext(name) == "" {
			name += ext
		}
	}
	step, output := s.printed(l, name)
	return s.Print(together, step, output)
}

// takesTogether says whether several inputs go to one output, as in a recipe that takes all of them together.
func (j *Task) takesTogether(l *Line) bool {
	if IsMany(j.Output) || j.Output == "" || j.Output == "-" {
		return false
	}
	if len(l.Args) > 1 {
		return true
	}
	for _, arg := range l.Args {
		if info, err := os.Stat(arg); err == nil && info.IsDir() || err != nil && strings.ContainsAny(arg, "*?[") {
			return true
		}
	}
	return false
}

// printed are the step and the output that do what the verb would do, as parts of a recipe.
func (s *StepVerb) printed(l *Line, name string) (step, output *recipe.Printed) {
	step = &recipe.Printed{Do: s.Verb, Table: append(s.Reading.Params(), s.Stage.Params()...), Settings: l.Settings}
	if s.Verb == "convert" {
		step.Table = append(s.Reading.Params(), input.Choosing(&s.Stage.Take)...)
	}
	output = &recipe.Printed{Do: "convert", Table: append(s.end.Output.Params(), s.end.Parting()...),
		Settings: l.Settings, Name: param.Setting{Name: "file", Values: []string{name}}}
	return
}

// PrintOutput prints how the data are read, and the output that does what the verb would do with its options.
func (j *Task) PrintOutput(l *Line, table param.Table, usual string) error {
	ext := cmp.Or(filepath.Ext(j.Output), usual)
	name := "{folder}/{name}" + ext
	if IsMany(j.Output) {
		name = filepath.ToSlash(j.Output)
	}
	together := j.takesTogether(l)
	if together {
		name = filepath.Base(j.Output)
	}
	step, output := j.Printed(l, table, name)
	return j.Print(together, step, output)
}

// Printed are how the data are read and the output that do what the verb would do, as parts of a recipe.
func (j *Task) Printed(l *Line, table param.Table, name string) (step, output *recipe.Printed) {
	return &recipe.Printed{Do: "convert", Table: append(j.Reading.Params(), input.Choosing(&j.Stage.Take)...),
			Settings: l.Settings}, &recipe.Printed{Do: j.Verb, Table: table, Settings: l.Settings,
			Name: param.Setting{Name: "file", Values: []string{name}}}
}

// Print prints a step and an output as a recipe.
func (j *Task) Print(together bool, step, output *recipe.Printed) error {
	j.Out.Printf("# gyrolith %s, as steps of a recipe\n", j.Verb)
	if together {
		j.Out.Printf("together = true\n\n")
	}
	return recipe.Print(j.Out, step, output)
}
