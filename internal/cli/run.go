package cli

import (
	"context"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"

	"github.com/urfave/cli/v3"

	"gyrolith/core/measure"
	"gyrolith/core/recipe"
	"gyrolith/core/safefile"
)

const runHelp = `Does the chain of a recipe for each input, in memory, on all cores. The recipe is a file, or
one that 'gyrolith recipes' lists. Of a folder all files of data below it are inputs.

Run it again, and only what is new or changed is done: the journal in the output folder
knows the sums of inputs, recipe, rules, terrain, profiles and outputs. An output that no
run has written, or that somebody changed, is refused; --replace keeps it beside.

--share 3/16 does a sixteenth of the inputs, the same ones on every machine, with a journal
of its own; --merge puts the journals of all shares together.`

func (a *app) run() *cli.Command {
	return &cli.Command{
		Name:        "run",
		Usage:       "do the whole chain of a recipe over many files, in parallel; resumable",
		ArgsUsage:   "RECIPE FILES-or-folders… --into DIR",
		Description: runHelp,
		Flags: []cli.Flag{
			&cli.StringFlag{Name: "into", Usage: "the `DIR` that is written to"},
			&cli.StringSliceFlag{Name: "value", Usage: "set a value of the recipe, `NAME=TEXT`; may be repeated"},
			&cli.StringFlag{Name: "share", Usage: "only this `PART/OF` of the inputs, such as 3/16"},
			&cli.BoolFlag{Name: "merge", Usage: "put the journals of all shares together: run --merge JOURNALS…"},
			&cli.IntFlag{Name: "workers", Usage: "how many inputs at a time, `N` (default: one a core)"},
			&cli.BoolFlag{Name: "replace", Usage: "write over files that no run has written, and keep the old ones beside"},
			&cli.BoolFlag{Name: "dry-run", Usage: "say what would be done and write nothing"},
			&cli.BoolFlag{Name: "json", Usage: "the result as JSON on standard output"},
			&cli.BoolFlag{Name: "quiet", Aliases: []string{"q"}, Usage: "say nothing but errors"},
		},
		Action: a.runRun,
	}
}

func (a *app) recipes() *cli.Command {
	return &cli.Command{
		Name:      "recipes",
		Usage:     "list the recipes that ship, or show one to begin your own with",
		ArgsUsage: "[NAME]",
		Flags:     []cli.Flag{&cli.BoolFlag{Name: "json", Usage: "as JSON"}},
		Action: func(_ context.Context, c *cli.Command) error {
			all := recipe.Shipped()
			if name := c.Args().First(); name != "" {
				i := slices.IndexFunc(all, func(r *recipe.Recipe) bool { return r.Path == name })
				if i < 0 {
					return usageError("recipes: there is no recipe %q; 'gyrolith recipes' lists those that ship", name)
				}
				a.out.printf("%s", all[i].Source)
				return nil
			}
			type row struct {
				Name  string `json:"name"`
				About string `json:"about"`
			}
			var list []row
			var cells [][]string
			for _, r := range all {
				list = append(list, row{r.Path, r.About})
				var values []string
				for _, v := range r.Values {
					values = append(values, v.Name+"="+v.Text)
				}
				cells = append(cells, []string{a.out.paint(bold, r.Path), r.About, strings.Join(values, " ")})
			}
			if c.Bool("json") {
				return a.printJSON(map[string]any{"recipes": list})
			}
			a.out.table("", []column{{title: "recipe"}, {title: "what it does"}, {title: "values"}}, cells)
			a.out.printf("'gyrolith recipes NAME > mine.toml' begins your own with one; any verb that makes data prints with --as-recipe the step that does the same.\n")
			return nil
		},
	}
}

// theRecipe reads a recipe, of a file or of those that ship, and judges it. Base is the folder that its paths are below.
func (a *app) theRecipe(name string, values []string) (r *recipe.Recipe, base string, err error) {
	if text, readErr := a.readText(name); readErr == nil {
		r, err = recipe.Parse(name, text)
		base = filepath.Dir(name)
	} else {
		all := recipe.Shipped()
		i := slices.IndexFunc(all, func(r *recipe.Recipe) bool { return r.Path == name })
		if i < 0 {
			if _, missing := os.Stat(name); missing == nil {
				return nil, "", readErr
			}
			return nil, "", usageError("run: %s: there is no such file, and no recipe of that name; 'gyrolith recipes' lists those that ship", name)
		}
		r = all[i]
	}
	if err == nil {
		err = r.Set(values)
	}
	if err == nil {
		err = r.Check(a.language())
	}
	if err != nil {
		return nil, "", &failure{statusUsage, err}
	}
	return r, base, nil
}

func (a *app) runRun(ctx context.Context, c *cli.Command) error {
	if c.Bool("merge") {
		return a.runMerge(c)
	}
	args := c.Args().Slice()
	switch {
	case len(args) == 0:
		return usageError("run: name a recipe and the files or folders that it is for; 'gyrolith recipes' lists recipes that ship")
	case len(args) == 1:
		return usageError("run: name the files or folders that %s is for", args[0])
	case c.String("into") == "":
		return usageError("run: say where to write: --into DIR")
	}
	r, base, err := a.theRecipe(args[0], c.StringSlice("value"))
	if err != nil {
		return err
	}
	share := recipe.Share{Part: 1, Of: 1}
	if text := c.String("share"); text != "" {
		if share, err = recipe.ParseShare(text); err != nil {
			return usageError("run: --share: %v", err)
		}
		if r.Together && share.Of > 1 {
			return usageError("run: --share: %s takes all inputs together, and can't be shared out", r.Path)
		}
	}
	if n := c.Int("workers"); c.IsSet("workers") && n < 1 {
		return usageError("run: --workers: there is one at least")
	}
	into := c.String("into")
	inputs, skipped, err := recipe.Gather(args[1:], into, func(name string) bool { return formats.ByPath(name) != nil })
	if err != nil {
		return &failure{statusInput, err}
	}
	if len(inputs) == 0 {
		return &failure{statusInput, fmt.Errorf("%s: holds no file of data that could be an input", strings.Join(args[1:], ", "))}
	}
	if err := r.CheckNames(inputs); err != nil {
		return &failure{statusUsage, err}
	}
	all := len(inputs)
	inputs = slices.DeleteFunc(inputs, func(in recipe.Input) bool { return !share.Has(&in) })
	first, err := a.newWorker(r, base) // which finds what is wrong with a step
	if err != nil {
		return err
	}
	first.Close()
	with, err := a.sumOfFiles(r, base)
	if err != nil {
		return err
	}
	dry := c.Bool("dry-run")
	if !dry {
		if err := os.MkdirAll(into, 0o777); err != nil {
			return fmt.Errorf("%s: can't be made: %w", into, err)
		}
	}
	report := &report{a: a, quiet: c.Bool("quiet"), json: c.Bool("json"), dry: dry}
	run := &recipe.Runner{Recipe: r, Inputs: inputs, Into: into, Share: share, With: with, Program: Version, Workers: int(c.Int("workers")), DryRun: dry, Replace: c.Bool("replace"),
		NewWorker: func() (recipe.Worker, error) { return a.newWorker(r, base) }, Tell: report.tell, Step: dieAt()}
	if share.Of > 1 && !report.quiet && !report.json {
		a.err.printf("share %s: %d of %s\n", share, len(inputs), plural(all, "input", "inputs"))
	}
	if skipped > 0 && !report.quiet && !report.json {
		a.err.printf("%s of other kinds in the folders left alone\n", plural(skipped, "file", "files"))
	}
	manySmall()
	var done atomic.Int64
	stop := a.progress(&options{quiet: report.quiet || report.json}, "running "+show(r.Path), int64(len(inputs)), done.Load)
	err = run.Run(ctx, &done)
	stop()
	if err != nil {
		return err
	}
	return report.end(r, into)
}

// dieAt breaks a run off before outputs get their names, in tests: at the step that GYROLITH_DIE_AT numbers.
func dieAt() func() {
	at, err := strconv.Atoi(os.Getenv("GYROLITH_DIE_AT"))
	if err != nil {
		return nil
	}
	var n atomic.Int64
	return func() {
		if n.Add(1) == int64(at) {
			if p, err := os.FindProcess(os.Getpid()); err == nil {
				p.Kill()
				select {}
			}
		}
	}
}

// sumOfFiles is the sum of all that the steps use beside their parameters: rules, terrain, grids, and profiles of the user's own.
func (a *app) sumOfFiles(r *recipe.Recipe, base string) (string, error) {
	var paths []string
	for _, s := range slices.Concat(r.Steps, r.Outputs) {
		for _, k := range s.Keys {
			for _, v := range k.Values {
				switch {
				case isFile(k.Name, v):
					paths = append(paths, beside(base, v))
				case k.Name == "unit" || k.Name == "for":
					if p, err := findUnit(v); err == nil && p.Path != "" {
						paths = append(paths, p.Path)
					}
				}
			}
		}
	}
	if len(paths) == 0 {
		return "", nil
	}
	sum, err := recipe.SumOfAll(paths)
	if err != nil {
		return "", &failure{statusInput, err}
	}
	return sum, nil
}

// report tells the outcomes of a run and counts them.
type report struct {
	a                      *app
	quiet, json, dry       bool
	done, kept, refused    int
	changes, lost, outputs int
	failures               []*recipe.Entry // the first ones
	all                    []*recipe.Entry // for JSON alone
}

// mostFailures are told again in the table at the end.
const mostFailures = 50

func (p *report) tell(o *recipe.Outcome) {
	e := o.Entry
	if p.json {
		p.all = append(p.all, e)
	}
	switch e.Status {
	case recipe.Kept:
		p.kept++
	case recipe.Refused:
		p.refused++
		if len(p.failures) < mostFailures {
			p.failures = append(p.failures, e)
		}
	default:
		p.done++
		p.changes += e.Changes
		p.lost += e.Lost
		p.outputs += len(e.Outputs)
	}
	if p.quiet || p.json {
		return
	}
	a := p.a
	names := strings.Join(shortened(slices.Sorted(maps.Keys(e.Outputs))), ", ")
	switch {
	case e.Status == recipe.Kept:
		a.err.printf("%s %s: nothing has changed\n", a.err.paint(faint, "kept   "), show(e.Input))
	case e.Status == recipe.Refused:
		a.err.printf("%s %s\n", a.err.paint(red, "refused"), show(whose(e)))
	case p.dry:
		a.err.printf("would do %s → %s\n", show(e.Input), show(names))
	default:
		more := ""
		if e.Changes > 0 {
			more += ", " + plural(e.Changes, "change", "changes")
		}
		if e.Lost > 0 {
			more += ", " + plural(e.Lost, "thing not carried over", "things not carried over")
		}
		if names == "" {
			names = "no output: nothing that the outputs take"
		}
		a.err.printf("%s %s → %s%s\n", a.err.paint(green, "done   "), show(e.Input), oneLine(names, 96), more)
	}
}

// whose is why an input was refused, with the name of the input if the reason does not begin with it.
func whose(e *recipe.Entry) string {
	if path, _, _ := strings.Cut(filepath.ToSlash(e.Why), ":"); path == e.Input || strings.HasSuffix(path, "/"+e.Input) {
		return e.Why
	}
	return e.Input + ": " + e.Why
}

// end prints the table and gives the error of inputs that were refused.
func (p *report) end(r *recipe.Recipe, into string) error {
	a := p.a
	if p.json {
		slices.SortFunc(p.all, func(x, y *recipe.Entry) int { return strings.Compare(x.Input, y.Input) })
		if err := a.printJSON(map[string]any{"recipe": r.Path, "into": into, "dry_run": p.dry, "done": p.done, "kept": p.kept, "refused": p.refused, "changes": p.changes, "lost": p.lost,
			"results": append([]*recipe.Entry{}, p.all...)}); err != nil {
			return err
		}
	} else if !p.quiet {
		word := "done"
		if p.dry {
			word = "would be done"
		}
		rows := [][]string{{word, measure.Count(p.done), fmt.Sprintf("%s in %s", plural(p.outputs, "file", "files"), show(into))}}
		if p.changes > 0 {
			rows = append(rows, []string{"changed", measure.Count(p.changes), "points, names and the like, as the steps say"})
		}
		if p.lost > 0 {
			rows = append(rows, []string{"not carried over", measure.Count(p.lost), "what an output has no place for"})
		}
		if p.kept > 0 {
			rows = append(rows, []string{"kept", measure.Count(p.kept), "nothing has changed since the last run"})
		}
		if p.refused > 0 {
			rows = append(rows, []string{a.err.paint(red, "refused"), measure.Count(p.refused), ""})
		}
		a.err.printf("\n")
		a.err.table("", []column{{}, {right: true}, {}}, rows)
		if p.refused > 1 {
			var why [][]string
			for _, e := range p.failures {
				why = append(why, []string{show(whose(e))})
			}
			a.err.table("  ", []column{{}}, why)
		}
	}
	if p.refused > 0 {
		return &failure{statusInput, fmt.Errorf("refused %d of %s", p.refused, plural(p.refused+p.done+p.kept, "input", "inputs"))}
	}
	return nil
}

// runMerge puts the journals of shares together.
func (a *app) runMerge(c *cli.Command) error {
	if c.Args().Len() == 0 {
		return usageError("run: --merge: name the journals of all shares, such as out/journal-*.jsonl")
	}
	j, err := recipe.Merge(c.Args().Slice())
	if err != nil {
		return &failure{statusInput, err}
	}
	report := &report{a: a, quiet: true, json: c.Bool("json")}
	for _, e := range j.Entries() {
		report.tell(&recipe.Outcome{Entry: e})
	}
	into := c.String("into")
	if into != "" && !c.Bool("dry-run") {
		path := filepath.Join(into, recipe.JournalName(recipe.Share{Part: 1, Of: 1}))
		p, err := safefile.Create(path, c.Bool("replace"))
		if err != nil {
			return err
		}
		defer p.Discard()
		if _, err := j.WriteTo(p); err != nil {
			return err
		}
		if _, err := p.Commit(); err != nil {
			return err
		}
	}
	report.quiet = c.Bool("quiet")
	if into == "" {
		into = "all shares"
	}
	return report.end(&recipe.Recipe{Path: "merged"}, into)
}

// asRecipe prints the step, and the output, that do what a verb would do with the options that it was given.
func (a *app) asRecipe(c *cli.Command) error {
	quote := func(s string) string { return strconv.Quote(s) }
	var step, out strings.Builder
	for _, f := range c.Flags {
		name := f.Names()[0]
		if !c.IsSet(name) || slices.Contains(notInSteps, name) {
			continue
		}
		cat, _ := f.(cli.CategorizableFlag)
		to := &step
		if cat.GetCategory() == writing && name != "rejects" {
			to = &out
		}
		if cat.GetCategory() == answering && name != "notation" || name == "rejects" || name == "into" {
			continue
		}
		if name == "for" || name == "notation" || c.Name == "stow" && (name == "unit" || name == "card") {
			to = &out
		}
		switch f.(type) {
		case *cli.BoolFlag:
			fmt.Fprintf(to, "%s = %v\n", name, c.Bool(name))
		case *cli.IntFlag:
			fmt.Fprintf(to, "%s = %d\n", name, c.Int(name))
		case *cli.StringSliceFlag:
			var words []string
			for _, w := range c.StringSlice(name) {
				words = append(words, quote(w))
			}
			fmt.Fprintf(to, "%s = [%s]\n", name, strings.Join(words, ", "))
		default:
			fmt.Fprintf(to, "%s = %s\n", name, quote(c.String(name)))
		}
	}
	a.out.printf("# gyrolith %s, as steps of a recipe\n", c.Name)
	switch {
	case c.Name == "draw":
		ext := filepath.Ext(c.String("output"))
		if ext == "" {
			ext = ".png"
		}
		a.out.printf("[[output]]\ndo = \"draw\"\nfile = \"{folder}/{name}%s\"\n%s", ext, step.String()+out.String())
		return nil
	case c.Name == "stow":
		a.out.printf("[[output]]\ndo = \"stow\"\n%s", step.String()+out.String())
		return nil
	case c.Name != "convert" || step.Len() > 0:
		a.out.printf("[[step]]\ndo = %s\n%s\n", quote(c.Name), step.String())
	}
	name := c.String("output")
	ext := filepath.Ext(name)
	if ext == "" {
		ext = ".gpx"
	}
	a.out.printf("[[output]]\nfile = \"{folder}/{name}%s\"\n%s", ext, out.String())
	return nil
}

// withRecipe lets a verb print itself as a step.
func (a *app) withRecipe(c *cli.Command) *cli.Command {
	c.Flags = append(c.Flags, &cli.BoolFlag{Name: "as-recipe", Category: answering, Usage: "print the step of a recipe that does the same, and do nothing"})
	act := c.Action
	c.Action = func(ctx context.Context, c *cli.Command) error {
		if !c.Bool("as-recipe") {
			return act(ctx, c)
		}
		if _, err := a.options(c); err != nil {
			return err
		}
		return a.asRecipe(c)
	}
	return c
}
