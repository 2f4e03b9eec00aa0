package cli

import (
	"cmp"
	"context"
	"os"
	"path/filepath"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/export"
	"gyrolith/core/input"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/recipe"
)

// stepVerb is a verb that is one step and one file: a chain of its own.
type stepVerb struct {
	*job
	end    *chain.End
	target *export.Target
	append bool

	// before anything is read; nil for nothing
	begin  func() error
	report func(w *chain.Work, r *nav.Report) (before nav.Ledger, err error) // says what the step did
	// once all is written; nil for nothing
	after func(ctx context.Context, w *chain.Work, r *nav.Report, inputs []string) (err error)
}

// step makes a verb of a step, with further options.
func (a *app) step(v *verb, more func(*stepVerb) param.Table) (*stepVerb, *cli.Command) {
	j := a.newJob(v.name)
	s := &stepVerb{job: j}
	s.end, _ = a.kit.NewEnd("convert")
	s.target = kit.Target(s.end.Output)
	s.report = func(_ *chain.Work, r *nav.Report) (nav.Ledger, error) { return r.Ledger, nil }
	v.tables = []param.Table{j.reading.Params()}
	if v.name != "convert" { // convert fits what it writes, and not on the way
		v.tables = append(v.tables, j.stage.Step.Params())
	}
	if more != nil {
		v.tables = append(v.tables, more(s))
	}
	v.tables = append(v.tables, s.end.Output.Params(), s.end.Parting(),
		j.writing("the `FILE` to write; its extension chooses the format; - is standard output; a folder, or a name with "+
			"{name}, makes one file per input"),
		param.Table{param.Switch("append", &s.append, "add to an existing GeoPackage"),
			j.waiting()}.In("Writing").ForOneRun(),
		input.Choosing(&j.stage.Take), j.answering(), j.recipeTable())
	v.run = s.run
	return s, a.verb(v)
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
		m := &many{job: s.job, onePer: s.end.OnePer, ext: s.extension,
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
	j := *s.job
	j.replace = j.replace || s.append
	dry := s.dryRun && s.output == "" // what the step would do is asked, and not what would be written
	if !dry {
		if err := j.settle(s.verb, s.end, paths); err != nil {
			return err
		}
	}
	if s.begin != nil {
		if err := s.begin(); err != nil {
			return err
		}
	}
	stage := &chain.Stage{Verb: s.verb, Step: s.stage.Step} // what is chosen is chosen once the files are merged
	c := &chain.Chain{Reading: s.reading, Stages: []*chain.Stage{stage}, Ends: []*chain.End{s.end}}
	if dry {
		c.Ends = nil
	}
	if err := c.Open(ctx); err != nil {
		return err
	}
	defer c.Close()
	inputs, err := s.load(ctx, paths)
	if err != nil {
		return err
	}
	w, err := s.merged(inputs, s.strict, c.Mends())
	if err != nil {
		return err
	}
	stop := s.progress(s.verb+": "+plural(w.Data.Points(), "point", "points"), 0, nil)
	err = c.Apply(ctx, w)
	stop()
	if err != nil {
		return inFile(inputs[0].Path, err)
	}
	r := w.Reports[0]
	before, err := s.report(w, r)
	if err != nil {
		return err
	}
	if s.strict && len(r.Findings) > 0 {
		return strictError("%s: %s, refused by --strict; nothing was written", inputs[0].Path, r.Findings[0])
	}
	if dry {
		s.ledger(before)
		return nil
	}
	if err := s.write(ctx, s.end, w, before, s.append); err != nil || s.after == nil {
		return err
	}
	return s.after(ctx, w, r, paths)
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
func (j *job) takesTogether(l *commandLine) bool {
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
func (j *job) printOutput(l *commandLine, table param.Table, usual string) error {
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
func (j *job) printed(l *commandLine, table param.Table, name string) (step, output *recipe.Printed) {
	return &recipe.Printed{Do: "convert", Table: append(j.reading.Params(), input.Choosing(&j.stage.Take)...),
			Settings: l.settings}, &recipe.Printed{Do: j.verb, Table: table, Settings: l.settings,
			Name: param.Setting{Name: "file", Values: []string{name}}}
}

func (j *job) print(together bool, step, output *recipe.Printed) error {
	j.out.Printf("# gyrolith %s, as steps of a recipe\n", j.verb)
	if together {
		j.out.Printf("together = true\n\n")
	}
	return recipe.Print(j.out, step, output)
}
