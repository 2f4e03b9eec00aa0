package frame

import (
	"context"
	"log/slog"
	"os"
	"slices"
	"time"

	"github.com/urfave/cli/v3"

	"gyrolith/core/chain"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/motion"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/internal/cli/console"
)

// Verb is a command: all that is said of it, and how it is made. It is the one place where its name stands.
type Verb struct {
	Name      string
	Stage     string   // of the work, under which help lists it
	Brief     string   // what it does, in a few words
	Usage     string   // the same in a line
	Args      string   // what stands behind it
	Help      string   // how it works
	Examples  []string // command lines that run on the files of the example scenario
	Tried     []string // words that people bring along for it
	Own       []string // options that others share and that its help explains all the same
	Positions bool     // its arguments may be positions, which begin with a sign
	Bare      bool     // no settings hold for it
	Answers   []any    // what it answers as JSON: a zero value of each sort of answer

	Completes func(a *App, first bool) Choices // what can stand where no option does; nil is files and folders
	Make      func(*App, *Verb) Made
}

// Made is a verb with the tables of its options, bound to what it works with, so that a parsed command line has set all
// of it.
type Made struct {
	*Verb
	Tables []param.Table // in the order in which they are set
	Run    func(context.Context, *Line) error
}

// Line is a parsed command line.
type Line struct {
	verb     *Verb
	Args     []string
	Settings []param.Setting
}

// Given says whether an option was given.
func (l *Line) Given(name string) bool {
	return slices.ContainsFunc(l.Settings, func(s param.Setting) bool { return s.Name == name })
}

// Made makes a verb, once.
func (a *App) Made(v *Verb) *Made {
	m := a.verbs[v.Name]
	if m == nil {
		x := v.Make(a, v)
		x.Verb, m = v, &x
		a.verbs[v.Name] = m
	}
	return m
}

// CommandOf makes the command of a verb.
func (a *App) CommandOf(v *Verb) *cli.Command {
	m := a.Made(v)
	return &cli.Command{
		Name: v.Name, Usage: v.Usage, ArgsUsage: v.Args, Description: v.Help, Flags: flagsOf(m.Tables),
		HideHelp: true, DisableSliceFlagSeparator: true,
		Action: func(ctx context.Context, c *cli.Command) error {
			l := &Line{verb: v, Args: c.Args().Slice(), Settings: settingsOf(c, m.Tables)}
			if err := a.applySettings(l, m.Tables); err != nil {
				return err
			}
			env := &param.Env{}
			var faults []error
			for _, t := range m.Tables {
				a.beside = append(a.beside, t.Reads(l.Settings)...)
				if err := t.Set(env, l.Settings); err != nil {
					faults = append(faults, Worded(v.Name, err))
				}
			}
			if len(faults) > 0 {
				return faults[0]
			}
			return Worded(v.Name, m.Run(ctx, l))
		},
	}
}

// flagsOf makes the flags of tables. A parameter that stands in several tables is one flag.
func flagsOf(tables []param.Table) (out []cli.Flag) {
	seen := map[string]bool{}
	for _, t := range tables {
		for _, p := range t {
			if seen[p.Name] {
				continue
			}
			seen[p.Name] = true
			short := slices.Clone(p.Old)
			if p.Short != "" {
				short = append(short, p.Short)
			}
			switch {
			case p.Switch():
				out = append(out, &cli.BoolFlag{Name: p.Name, Aliases: short, Category: p.Group, Usage: p.Help,
					HideDefault: true})
			case p.List:
				out = append(out, &cli.StringSliceFlag{Name: p.Name, Aliases: short, Category: p.Group, Usage: p.Help,
					DefaultText: p.Default})
			default:
				out = append(out, &cli.StringFlag{Name: p.Name, Aliases: short, Category: p.Group, Usage: p.Help,
					DefaultText: p.Default})
			}
		}
	}
	return out
}

// settingsOf gathers what was given.
func settingsOf(c *cli.Command, tables []param.Table) (out []param.Setting) {
	seen := map[string]bool{}
	for _, t := range tables {
		for _, p := range t {
			if seen[p.Name] || !c.IsSet(p.Name) {
				continue
			}
			seen[p.Name] = true
			s := param.Setting{Name: p.Name}
			switch {
			case p.Switch():
				s.Values = []string{map[bool]string{true: "true", false: "false"}[c.Bool(p.Name)]}
			case p.List:
				s.Values = c.StringSlice(p.Name)
			default:
				s.Values = []string{c.String(p.Name)}
			}
			out = append(out, s)
		}
	}
	return out
}

// Task is what a verb works with that reads data: the shared options, and how the data are read.
type Task struct {
	*App
	Verb    string
	Reading *input.Reading
	Motion  motion.Limits // of halts and gaps, where the verb knows them
	Stage   *chain.Stage  // whose selection is that of the verb

	Measure  measure.System
	Notation geodesy.Notation
	Notated  bool // a notation was asked for
	JSON     bool
	Quiet    bool
	Strict   bool
	Verbose  bool

	Output   string
	Replace  bool
	DryRun   bool
	Wait     time.Duration // with others that write in the same place
	AsRecipe bool

	Written []string // the files that were, for answers as JSON
}

// NewTask makes the work of a verb; its step is that of a recipe's verb, or convert, which only chooses.
func (a *App) NewTask(verb string) *Task {
	j := &Task{App: a, Verb: verb, Reading: a.Kit.NewReading(), Stage: a.Kit.NewStage(verb)}
	if j.Stage == nil {
		j.Stage = a.Kit.NewStage("convert")
	}
	j.Reading.Watching = func(s *format.Source) func() {
		return j.Progress("reading "+console.Show(s.Path), max(s.Size, 0), s.Done)
	}
	return j
}

// ReadTables are the options of every verb that reads, in the order in which they are set.
func (j *Task) ReadTables() []param.Table {
	return []param.Table{j.Reading.Params(), input.Choosing(&j.Stage.Take)}
}

// Answering are the options that say how a verb answers.
func (j *Task) Answering() param.Table {
	measures := param.Measures(func(s measure.System) { j.Measure = s })
	notation := export.NotationParam(&j.Notation)
	return param.Table{
		measures,
		notation,
		param.Switch("json", &j.JSON, "print the result as JSON"),
		Short("q", param.Switch("quiet", &j.Quiet, "print only errors")),
		param.Switch("strict", &j.Strict, "refuse losses and findings: write nothing and exit with status 3 "+
			"instead"),
		param.Switch("verbose", &j.Verbose, "log each step with timings"),
	}.In("Reporting").ForOneRun()
}

// Writing are the options of where a verb writes.
func (j *Task) Writing(help string) param.Table {
	output := Short("o", param.Text("output", &j.Output, "FILE", help))
	output.Path = param.Written
	return param.Table{
		output,
		param.Switch("replace", &j.Replace, "overwrite an existing file, and keep a backup beside it"),
		j.Dry(),
	}.In("Writing").ForOneRun()
}

// Dry is the option of a dry look.
func (j *Task) Dry() param.Param {
	return param.Switch("dry-run", &j.DryRun, "show what would be done, but write nothing")
}

// Waiting is the option of verbs that write where somebody else may write as well.
func (j *Task) Waiting() param.Param {
	return param.Span("wait", &j.Wait, "TIME", "wait up to this `TIME` for another gyrolith writing there")
}

// Hold keeps others from a file or folder that is there until it is released.
func (j *Task) Hold(ctx context.Context, path string) (release func(), err error) {
	if _, err := os.Stat(path); err != nil || j.DryRun || j.AsRecipe {
		return func() {}, nil
	}
	release, err = safefile.Lock(ctx, path, j.Wait)
	return release, Worded(j.Verb, err)
}

// RecipeTable is the option with which a verb prints itself.
func (j *Task) RecipeTable() param.Table {
	return param.Table{param.Switch("as-recipe", &j.AsRecipe,
		"print the recipe step that does the same, and do nothing else")}.
		In("Reporting").ForOneRun()
}

// Short gives an option a letter.
func Short(letter string, p param.Param) param.Param {
	p.Short = letter
	return p
}

// Zone is the zone in which times are shown.
func (j *Task) Zone() *time.Location {
	if j.Reading.Options.Zone != nil {
		return j.Reading.Options.Zone
	}
	return time.UTC
}

func (j *Task) log() *slog.Logger { return j.logger(j.Verbose) }

// Progress shows how far something is until it is stopped, on a terminal alone.
func (j *Task) Progress(label string, total int64, done func() int64) (stop func()) {
	if j.Quiet {
		return func() {}
	}
	return j.Err.Progress(label, total, done)
}

// First is the first of some words; "" where there is none.
func First(args []string) string {
	if len(args) == 0 {
		return ""
	}
	return args[0]
}

// Param finds an option of a verb by its name or letter.
func (v *Made) Param(name string) *param.Param {
	for _, t := range v.Tables {
		for i := range t {
			if p := &t[i]; p.Name == name || p.Short != "" && p.Short == name || slices.Contains(p.Old, name) {
				return p
			}
		}
	}
	return nil
}
