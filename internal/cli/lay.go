package cli

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/column"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/lay"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/recipe"
	"gyrolith/internal/cli/console"
)

// layHelp explains what can be laid.
func layHelp() string {
	var b strings.Builder
	b.WriteString("Lays out routes to follow, and points and areas for reference:\n\n")
	for _, w := range lay.All {
		fmt.Fprintf(&b, "  %-21s %s\n", w, w.Explain())
	}
	return b.String() + `
Lines and grids are laid over the areas of the files, or of --over FILE; points, sections and
track line searches along their routes and tracks; the other patterns around --datum, or
around each waypoint of the files. All distances are on the ellipsoid.`
}

// layTask is the work of lay.
type layTask struct {
	*task
	step *lay.Step
	over string
	end  *chain.End
}

// layVerb is lay.
var layVerb = verb{name: "lay", stage: planWithIt,
	brief: "survey lines, search patterns, rings, grids",
	usage: "survey lines, search patterns, rings, points along lines, sampling grids",
	args:  "WHAT [FILES…] -o FILE",
	help:  layHelp(),
	examples: []string{"lay lines --over planning.kmz --take areas:'Nesting*' --spacing 100m --turn 80m -o lines.gpx",
		"lay expanding-square --datum '47.57 S 11.30 E' --spacing 0.3nm --legs 10 -o square.gpx",
		"lay rings --datum '47.57 S 11.30 E' --radius 1nm,2nm -o rings.kml"},
	tried: []string{"survey"},
	make:  (*app).lay}

func (a *app) lay(v *verb) made {
	l := &layTask{task: a.newTask(v.name)}
	l.step = kit.Laying(l.stage.Step)
	l.end, _ = a.kit.NewEnd("convert")
	return made{tables: append(l.readTables(), append(param.Table{
		param.File("over", &l.over, "FILE", "lay it over the areas, or along the lines, of this `FILE`"),
	}, l.step.Params()...).In("Laying"), kit.Target(l.end.Output).Params(), l.end.Parting(),
		l.writing("the `FILE` to write; its extension chooses the format; - is standard output; a folder, or a name "+
			"with {name}, makes one file per input"), l.answering(), l.recipeTable()), run: l.run}
}

func (l *layTask) run(ctx context.Context, line *commandLine) error {
	files := line.args
	if len(files) == 0 {
		return usageError("lay: name a pattern: %s", whats())
	}
	l.step.What = lay.What(files[0])
	if files = files[1:]; !slices.Contains(lay.All, l.step.What) {
		return usageError("lay: there is no %q to lay; there are %s", l.step.What, whats())
	}
	if l.over != "" {
		files = append(slices.Clone(files), l.over)
	}
	if err := l.step.Check(); err != nil {
		return checked("lay", err)
	}
	if l.asRecipe {
		return l.printRecipe(line)
	}
	needs := l.step.What.Needs()
	switch {
	case len(files) == 0 && needs != "a datum":
		return usageError("lay: %s lies over %s: name a file that has some", l.step.What, needs)
	case len(files) == 0 && l.step.Datum == nil:
		return usageError("lay: no datum; give a position with --datum, or a file of waypoints")
	}
	if isMany(l.output) {
		m := &many{task: l.task, onePer: l.end.OnePer, ext: func([]input.File) (string, error) {
			if f := kit.Target(l.end.Output).Format; f != nil {
				return f.Extensions[0], nil
			}
			return ".gpx", nil
		}, printed: func(name string) (_, _ *recipe.Printed) { return l.printed(line, name) }}
		each := *line
		each.args = files
		return m.run(ctx, &each)
	}
	l.end.Name = l.output
	if err := l.settle("lay", l.end, files); err != nil {
		return err
	}
	x := l.jobOf(l.end)
	if err := x.Open(ctx); err != nil {
		return worded("lay", err)
	}
	defer x.Close()
	r := &job.Result{Path: string(l.step.What), Work: chain.Work{Data: &nav.Dataset{}, Source: string(l.step.What)}}
	if len(files) > 0 {
		paths, err := l.expand(ctx, files)
		if err != nil {
			return err
		}
		if r, err = l.begin(ctx, x, paths); err != nil {
			return err
		}
	}
	err := l.apply(ctx, x, r)
	if errors.Is(err, lay.ErrNothing) {
		return nothingError("%s: holds no %s to lay %s over", files[0], strings.TrimPrefix(needs, "a "), l.step.What)
	}
	if err != nil {
		return err
	}
	l.sayLaid(r.Data)
	return l.finish(ctx, x, r, r.Ledger(), false)
}

// printRecipe prints the step, and the output, that lay what the verb would lay.
func (l *layTask) printRecipe(line *commandLine) error {
	if l.over != "" {
		return usageError("lay: --as-recipe: in a recipe the areas or lines are those of the input, and not --over")
	}
	ext := cmp.Or(filepath.Ext(l.output), ".gpx")
	step, output := l.printed(line, "{folder}/{name}"+ext)
	return l.print(false, step, output)
}

// printed are the step and the output that lay what the verb would lay, as parts of a recipe.
func (l *layTask) printed(line *commandLine, name string) (step, output *recipe.Printed) {
	laying := l.kit.NewStage("lay").Params()
	table := append(append(l.reading.Params(), input.Choosing(&l.stage.Take)...), laying...)
	settings := append(slices.Clone(line.settings), param.Setting{Name: "what", Values: line.args[:1]})
	return &recipe.Printed{Do: "lay", Table: table, Settings: settings},
		&recipe.Printed{Do: "convert", Table: append(l.end.Output.Params(), l.end.Parting()...), Settings: line.settings,
			Name: param.Setting{Name: "file", Values: []string{name}}}
}

func whats() string {
	var out []string
	for _, w := range lay.All {
		out = append(out, string(w))
	}
	return strings.Join(out, ", ")
}

// sayLaid says how long what was laid is, and how long it takes.
func (l *layTask) sayLaid(d *nav.Dataset) {
	if l.quiet || l.json {
		return
	}
	var rows [][]string
	for i := range d.Routes {
		r := &d.Routes[i]
		sum := r.Summary()
		row := []string{console.OneLine(r.Name, 40), plural(len(r.Points), "point", "points"), l.measure.Length(sum.Length),
			r.Desc, ""}
		if took := l.step.Takes(i, r); took > 0 {
			row[4] = column.Clock(took)
		}
		rows = append(rows, row)
	}
	columns := []console.Column{{}, {Right: true}, {Right: true}, {}, {Right: true}}
	l.err.List("  ", columns, rows, manyRows, "")
}
