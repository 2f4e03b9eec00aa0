package cli

import (
	"cmp"
	"context"
	"errors"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/column"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/lay"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/recipe"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

// layHelp explains what can be laid.
func layHelp() string {
	return "Lays out routes to follow, and points and areas for reference:\n\n" + explained(lay.All) + `
Lines and grids are laid over the areas of the files, or of --over FILE; points, sections and
track line searches along their routes and tracks; the other patterns around --datum, or
around each waypoint of the files. All distances are on the ellipsoid.`
}

// layTask is the work of lay.
type layTask struct {
	*frame.Task
	step *lay.Step
	over string
	end  *chain.End
}

// layVerb is lay.
var layVerb = frame.Verb{Name: "lay", Stage: frame.PlanWithIt,
	Brief: "survey lines, search patterns, rings, grids",
	Usage: "survey lines, search patterns, rings, points along lines, sampling grids",
	Args:  "WHAT [FILES…] -o FILE",
	Help:  layHelp(),
	Examples: []string{"lay lines --over planning.kmz --take areas:'Nesting*' --spacing 100m --turn 80m -o lines.gpx",
		"lay expanding-square --datum '47.57 S 11.30 E' --spacing 0.3nm --legs 10 -o square.gpx",
		"lay rings --datum '47.57 S 11.30 E' --radius 1nm,2nm -o rings.kml",
		"lay drift-datum --last-known '47.57 S 11.30 E' --from-time 2026-03-14T05:00Z --to-time 2026-03-14T11:00Z " +
			"--current 090/0.8kn --leeway 045/0.5kn,25 --position-error 1nm --craft-error 0.1nm -o drift.kml"},
	Tried:     []string{"survey"},
	Completes: wordFirst(lay.All),
	Answers:   []any{frame.WroteAnswer{}, frame.RunAnswer{}},
	Make:      makeLay}

func makeLay(a *frame.App, v *frame.Verb) frame.Made {
	l := &layTask{Task: a.NewTask(v.Name)}
	l.step = kit.Laying(l.Stage.Step)
	l.end, _ = a.Kit.NewEnd("convert")
	return frame.Made{Tables: append(l.ReadTables(), append(param.Table{
		param.File("over", &l.over, "FILE", "lay it over the areas, or along the lines, of this `FILE`"),
	}, l.step.Params()...).In("Laying"), kit.Target(l.end.Output).Params(), l.end.Parting(),
		l.Writing("the `FILE` to write; its extension chooses the format; - is standard output; a folder, or a name "+
			"with {name}, makes one file per input"), l.Answering(), l.RecipeTable()), Run: l.run}
}

func (l *layTask) run(ctx context.Context, line *frame.Line) error {
	files := line.Args
	if len(files) == 0 {
		return frame.UsageError("lay: name a pattern: %s", listed(lay.All))
	}
	l.step.What = lay.What(files[0])
	if files = files[1:]; !slices.Contains(lay.All, l.step.What) {
		return frame.UsageError("lay: there is no %q to lay; there are %s", l.step.What, listed(lay.All))
	}
	if l.over != "" {
		files = append(slices.Clone(files), l.over)
	}
	if err := l.step.Check(); err != nil {
		return frame.Checked("lay", err)
	}
	if l.AsRecipe {
		return l.printRecipe(line)
	}
	needs := l.step.What.Needs()
	switch {
	case len(files) == 0 && needs != "a datum":
		return frame.UsageError("lay: %s lies over %s: name a file that has some", l.step.What, needs)
	case len(files) == 0 && l.step.Datum == nil:
		option := "--datum"
		if l.step.What == lay.DriftDatum {
			option = "--last-known"
		}
		return frame.UsageError("lay: no datum; give a position with %s, or a file of waypoints", option)
	}
	if frame.IsMany(l.Output) {
		m := &frame.Many{Task: l.Task, OnePer: l.end.OnePer, Ext: func([]input.File) (string, error) {
			if f := kit.Target(l.end.Output).Format; f != nil {
				return f.Extensions[0], nil
			}
			return ".gpx", nil
		}, Printed: func(name string) (_, _ *recipe.Printed) { return l.printed(line, name) }}
		each := *line
		each.Args = files
		return m.Run(ctx, &each)
	}
	l.end.Name = l.Output
	if err := l.Settle("lay", l.end, files); err != nil {
		return err
	}
	x := l.JobOf(l.end)
	if err := x.Open(ctx); err != nil {
		return frame.Worded("lay", err)
	}
	defer x.Close()
	r := &job.Result{Path: string(l.step.What), Work: chain.Work{Data: &nav.Dataset{}, Source: string(l.step.What)}}
	if len(files) > 0 {
		inputs, err := l.Expand(ctx, files)
		if err != nil {
			return err
		}
		if r, err = l.Begin(ctx, x, inputs); err != nil {
			return err
		}
	}
	err := l.Apply(ctx, x, r)
	if errors.Is(err, lay.ErrNothing) {
		return frame.NothingError("%s: holds no %s to lay %s over", files[0], strings.TrimPrefix(needs, "a "), l.step.What)
	}
	if err != nil {
		return err
	}
	l.sayLaid(r.Data)
	return l.Finish(ctx, x, r, r.Ledger(), false)
}

// printRecipe prints the step, and the output, that lay what the verb would lay.
func (l *layTask) printRecipe(line *frame.Line) error {
	if l.over != "" {
		return frame.UsageError("lay: --as-recipe: in a recipe the areas or lines are those of the input, and not --over")
	}
	ext := cmp.Or(filepath.Ext(l.Output), ".gpx")
	step, output := l.printed(line, "{folder}/{name}"+ext)
	return l.Print(false, step, output)
}

// printed are the step and the output that lay what the verb would lay, as parts of a recipe.
func (l *layTask) printed(line *frame.Line, name string) (step, output *recipe.Printed) {
	laying := l.Kit.NewStage("lay").Params()
	table := append(append(l.Reading.Params(), input.Choosing(&l.Stage.Take)...), laying...)
	settings := append(slices.Clone(line.Settings), param.Setting{Name: "what", Values: line.Args[:1]})
	return &recipe.Printed{Do: "lay", Table: table, Settings: settings},
		&recipe.Printed{Do: "convert", Table: append(l.end.Output.Params(), l.end.Parting()...), Settings: line.Settings,
			Name: param.Setting{Name: "file", Values: []string{name}}}
}

// sayLaid says how long what was laid is, and how long it takes.
func (l *layTask) sayLaid(d *nav.Dataset) {
	if l.Quiet || l.JSON {
		return
	}
	var rows [][]string
	for i := range d.Routes {
		r := &d.Routes[i]
		sum := r.Summary()
		row := []string{
			console.OneLine(r.Name, 40),
			measure.Counted(len(r.Points), "point", "points"),
			l.Measure.Length(sum.Length),
			r.Desc,
			"",
		}
		if took := l.step.Takes(i, r); took > 0 {
			row[4] = column.Clock(took)
		}
		rows = append(rows, row)
	}
	if l.step.What == lay.DriftDatum {
		for i := range d.Waypoints {
			w := &d.Waypoints[i]
			rows = append(rows, []string{console.OneLine(w.Name, 40), l.Notation.Format(w.Lat, w.Lon), "",
				console.Show(w.Desc)})
		}
		l.Err.List("  ", []console.Column{{}, {}, {}, {}}, rows, words.ManyRows, "")
		return
	}
	columns := []console.Column{{}, {Right: true}, {Right: true}, {}, {Right: true}}
	l.Err.List("  ", columns, rows, words.ManyRows, "")
}
