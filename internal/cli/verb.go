package cli

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
	"gyrolith/core/passage"
	"gyrolith/core/safefile"
	"gyrolith/internal/cli/console"
)

// verb is a command: all that is said of it, and how it is made. It is the one place where its name stands.
type verb struct {
	name      string
	stage     string   // of the work, under which help lists it
	brief     string   // what it does, in a few words
	usage     string   // the same in a line
	args      string   // what stands behind it
	help      string   // how it works
	examples  []string // command lines that run on the files of the example scenario
	tried     []string // words that people bring along for it
	own       []string // options that others share and that its help explains all the same
	positions bool     // its arguments may be positions, which begin with a sign
	bare      bool     // no settings hold for it

	completes func(a *app, first bool) choices // what can stand where no option does; nil is files and folders
	make      func(*app, *verb) made
}

// made is a verb with the tables of its options, bound to what it works with, so that a parsed command line has set all
// of it.
type made struct {
	*verb
	tables []param.Table // in the order in which they are set
	run    func(context.Context, *commandLine) error
}

// commandLine is a parsed command line.
type commandLine struct {
	verb     *verb
	args     []string
	settings []param.Setting
}

// given says whether an option was given.
func (l *commandLine) given(name string) bool {
	return slices.ContainsFunc(l.settings, func(s param.Setting) bool { return s.Name == name })
}

// made makes a verb, once.
func (a *app) made(v *verb) *made {
	m := a.verbs[v.name]
	if m == nil {
		x := v.make(a, v)
		x.verb, m = v, &x
		a.verbs[v.name] = m
	}
	return m
}

// commandOf makes the command of a verb.
func (a *app) commandOf(v *verb) *cli.Command {
	m := a.made(v)
	return &cli.Command{
		Name: v.name, Usage: v.usage, ArgsUsage: v.args, Description: v.help, Flags: flagsOf(m.tables),
		HideHelp: true, DisableSliceFlagSeparator: true,
		Action: func(ctx context.Context, c *cli.Command) error {
			l := &commandLine{verb: v, args: c.Args().Slice(), settings: settingsOf(c, m.tables)}
			if err := a.applySettings(l, m.tables); err != nil {
				return err
			}
			env := &param.Env{}
			var faults []error
			for _, t := range m.tables {
				a.beside = append(a.beside, t.Reads(l.settings)...)
				if err := t.Set(env, l.settings); err != nil {
					faults = append(faults, worded(v.name, err))
				}
			}
			if len(faults) > 0 {
				return faults[0]
			}
			return worded(v.name, m.run(ctx, l))
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

// task is what a verb works with that reads data: the shared options, and how the data are read.
type task struct {
	*app
	verb    string
	reading *input.Reading
	found   []input.File  // the inputs, where some were found in folders
	motion  motion.Limits // of halts and gaps, where the verb knows them
	stage   *chain.Stage  // whose selection is that of the verb

	measure  measure.System
	notation geodesy.Notation
	notated  bool              // a notation was asked for
	columns  []*passage.Column // of the table of legs; none are the usual ones
	json     bool
	quiet    bool
	strict   bool
	verbose  bool

	output   string
	replace  bool
	dryRun   bool
	patience time.Duration // with others that write in the same place
	asRecipe bool
}

// newTask makes the work of a verb; its step is that of a recipe's verb, or convert, which only chooses.
func (a *app) newTask(verb string) *task {
	j := &task{app: a, verb: verb, reading: a.kit.NewReading(), stage: a.kit.NewStage(verb)}
	if j.stage == nil {
		j.stage = a.kit.NewStage("convert")
	}
	j.reading.Watching = func(s *format.Source) func() {
		return j.progress("reading "+console.Show(s.Path), max(s.Size, 0), s.Done)
	}
	return j
}

// readTables are the options of every verb that reads, in the order in which they are set.
func (j *task) readTables() []param.Table {
	return []param.Table{j.reading.Params(), input.Choosing(&j.stage.Take)}
}

// answering are the options that say how a verb answers.
func (j *task) answering() param.Table {
	measures := param.Measures(func(s measure.System) { j.measure = s })
	notation := export.NotationParam(&j.notation)
	return param.Table{
		measures,
		notation,
		param.Switch("json", &j.json, "print the result as JSON"),
		short("q", param.Switch("quiet", &j.quiet, "print only errors")),
		param.Switch("strict", &j.strict, "refuse losses and findings: write nothing and exit with status 3 "+
			"instead"),
		param.Switch("verbose", &j.verbose, "log each step with timings"),
	}.In("Reporting").ForOneRun()
}

// writing are the options of where a verb writes.
func (j *task) writing(help string) param.Table {
	output := short("o", param.Text("output", &j.output, "FILE", help))
	output.Path = param.Written
	return param.Table{
		output,
		param.Switch("replace", &j.replace, "overwrite an existing file, and keep a backup beside it"),
		j.dry(),
	}.In("Writing").ForOneRun()
}

func (j *task) dry() param.Param {
	return param.Switch("dry-run", &j.dryRun, "show what would be done, but write nothing")
}

// waiting is the option of verbs that write where somebody else may write as well.
func (j *task) waiting() param.Param {
	return param.Span("wait", &j.patience, "TIME", "wait up to this `TIME` for another gyrolith writing there")
}

// hold keeps others from a file or folder that is there until it is released.
func (j *task) hold(ctx context.Context, path string) (release func(), err error) {
	if _, err := os.Stat(path); err != nil || j.dryRun || j.asRecipe {
		return func() {}, nil
	}
	release, err = safefile.Lock(ctx, path, j.patience)
	return release, worded(j.verb, err)
}

// recipeTable is the option with which a verb prints itself.
func (j *task) recipeTable() param.Table {
	return param.Table{param.Switch("as-recipe", &j.asRecipe,
		"print the recipe step that does the same, and do nothing else")}.
		In("Reporting").ForOneRun()
}

func short(letter string, p param.Param) param.Param {
	p.Short = letter
	return p
}

// zone is the zone in which times are shown.
func (j *task) zone() *time.Location {
	if j.reading.Options.Zone != nil {
		return j.reading.Options.Zone
	}
	return time.UTC
}

func (j *task) log() *slog.Logger { return j.logger(j.verbose) }

func (j *task) progress(label string, total int64, done func() int64) (stop func()) {
	if j.quiet {
		return func() {}
	}
	return j.err.Progress(label, total, done)
}
