package cli

import (
	"cmp"
	"context"
	"os"
	"path/filepath"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/export"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/recipe"
)

// stepVerb is a verb that is one step and one file: a chain of its own.
type stepVerb struct {
	*task
	end    *chain.End
	target *export.Target
	append bool

	// before anything is read; nil for nothing
	begun  func() error
	report func(w *chain.Work, r *nav.Report) (before nav.Ledger, err error) // says what the step did
	// once all is written; nil for nothing
	after func(ctx context.Context, w *chain.Work, r *nav.Report, inputs []string) (err error)
}

// step makes a verb of a step, with further options.
func (a *app) step(v *verb, more func(*stepVerb) param.Table) (*stepVerb, made) {
	j := a.newTask(v.name)
	s := &stepVerb{task: j}
	s.end, _ = a.kit.NewEnd("convert")
	s.target = kit.Target(s.end.Output)
	s.report = func(_ *chain.Work, r *nav.Report) (nav.Ledger, error) { return r.Ledger, nil }
	tables := []param.Table{j.reading.Params()}
	if v.name != "convert" { // convert fits what it writes, and not on the way
		tables = append(tables, j.stage.Step.Params())
	}
	if more != nil {
		tables = append(tables, more(s))
	}
	tables = append(tables, s.end.Output.Params(), s.end.Parting(),
		j.writing("the `FILE` to write; its extension chooses the format; - is standard output; a folder, or a name with "+
			"{name}, makes one file per input"),
		param.Table{param.Switch("append", &s.append, "add to an existing GeoPackage"),
			j.waiting()}.In("Writing").ForOneRun(),
		input.Choosing(&j.stage.Take), j.answering(), j.recipeTable())
	return s, made{tables: tables, run: s.run}
}

func (s *stepVerb) run(ctx context.Context, l *commandLine) error {
	s.end.Name = s.output
	if err := s.stage.Step.Check(); err != nil {
		return checked(s.verb, err)
	}
	if s.asRecipe {
		return s.printRecipe(l)
	}
	if s.end.OnePer != "" && !isMany(s.output) {
		return checked(s.verb, s.end.Check())
	}
	if isMany(s.output) {
		m := &many{task: s.task, onePer: s.end.OnePer, ext: s.extension,
			printed: func(name string) (_, _ *recipe.Printed) { return s.printed(l, name) }}
		return m.run(ctx, l)
	}
	if s.append {
		if s.replace {
			return usageError("%s: give only one of --append and --replace", s.verb)
		}
		s.target.AppendTo = s.output
		release, err := s.hold(ctx, s.output)
		if err != nil {
			return err
		}
		defer release()
	}
	paths, err := s.expand(ctx, l.args)
	if err != nil {
		return err
	}
	dry := s.dryRun && s.output == "" // what the step would do is asked, and not what would be written
	ends := []*chain.End{s.end}
	if dry {
		ends = nil
	} else {
		j := *s.task
		j.replace = j.replace || s.append
		if err := j.settle(s.verb, s.end, paths); err != nil {
			return err
		}
	}
	if s.begun != nil {
		if err := s.begun(); err != nil {
			return err
		}
	}
	x := s.jobOf(ends...)
	if err := x.Open(ctx); err != nil {
		return err
	}
	defer x.Close()
	r, err := s.perform(ctx, x, paths)
	if err != nil || s.after == nil || dry {
		return err
	}
	return s.after(ctx, &r.Work, r.Reports[0], paths)
}

// perform does the job, says what the step did, and writes the file.
func (s *stepVerb) perform(ctx context.Context, x *job.Job, paths []string) (*job.Result, error) {
	r, err := s.begin(ctx, x, paths)
	if err != nil {
		return r, err
	}
	stop := s.progress(s.verb+": "+plural(r.Data.Points(), "point", "points"), 0, nil)
	err = s.apply(ctx, x, r)
	stop()
	if err != nil && len(r.Reports) == 0 {
		return r, err
	}
	before, said := s.report(&r.Work, r.Reports[0])
	if err = cmp.Or(err, said); err != nil {
		return r, err
	}
	if len(x.Ends) == 0 {
		s.ledger(before)
		return r, nil
	}
	return r, s.finish(ctx, x, r, before, s.append)
}

// checked words a fault of parameters as one of usage.
func checked(verb string, err error) error {
	f := worded(verb, err)
	if _, ok := f.(*failure); ok {
		return f
	}
	return usageError("%s: %w", verb, f)
}

// printRecipe prints the step, and the output, that do what the verb would do with the options that it was given.
func (s *stepVerb) printRecipe(l *commandLine) error {
	ext := filepath.Ext(s.output)
	if ext == "" && s.target.Format == nil {
		ext = ".gpx"
	}
	name := "{folder}/{name}" + ext
	if isMany(s.output) {
		name = filepath.ToSlash(s.output)
	}
	together := s.takesTogether(l)
	if together {
		name = filepath.Base(s.output)
		if filepath.Ext(name) == "" {
			name += ext
		}
	}
	step, output := s.printed(l, name)
	return s.print(together, step, output)
}

// takesTogether says whether several inputs go to one output, as in a recipe that takes all of them together.
func (j *task) takesTogether(l *commandLine) bool {
	if isMany(j.output) || j.output == "" || j.output == "-" {
		return false
	}
	if len(l.args) > 1 {
		return true
	}
	for _, arg := range l.args {
		if info, err := os.Stat(arg); err == nil && info.IsDir() || err != nil && strings.ContainsAny(arg, "*?[") {
			return true
		}
	}
	return false
}

// printed are the step and the output that do what the verb would do, as parts of a recipe.
func (s *stepVerb) printed(l *commandLine, name string) (step, output *recipe.Printed) {
	step = &recipe.Printed{Do: s.verb, Table: append(s.reading.Params(), s.stage.Params()...), Settings: l.settings}
	if s.verb == "convert" {
		step.Table = append(s.reading.Params(), input.Choosing(&s.stage.Take)...)
	}
	output = &recipe.Printed{Do: "convert", Table: append(s.end.Output.Params(), s.end.Parting()...),
		Settings: l.settings, Name: param.Setting{Name: "file", Values: []string{name}}}
	return
}

// printOutput prints how the data are read, and the output that does what the verb would do with its options.
func (j *task) printOutput(l *commandLine, table param.Table, usual string) error {
	ext := cmp.Or(filepath.Ext(j.output), usual)
	name := "{folder}/{name}" + ext
	if isMany(j.output) {
		name = filepath.ToSlash(j.output)
	}
	together := j.takesTogether(l)
	if together {
		name = filepath.Base(j.output)
	}
	step, output := j.printed(l, table, name)
	return j.print(together, step, output)
}

// printed are how the data are read and the output that do what the verb would do, as parts of a recipe.
func (j *task) printed(l *commandLine, table param.Table, name string) (step, output *recipe.Printed) {
	return &recipe.Printed{Do: "convert", Table: append(j.reading.Params(), input.Choosing(&j.stage.Take)...),
			Settings: l.settings}, &recipe.Printed{Do: j.verb, Table: table, Settings: l.settings,
			Name: param.Setting{Name: "file", Values: []string{name}}}
}

func (j *task) print(together bool, step, output *recipe.Printed) error {
	j.out.Printf("# gyrolith %s, as steps of a recipe\n", j.verb)
	if together {
		j.out.Printf("together = true\n\n")
	}
	return recipe.Print(j.out, step, output)
}
