package cli

import (
	"context"

	"gyrolith/core/compare"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
)

// compareVerb is compare.
var compareVerb = frame.Verb{Name: "compare", Stage: frame.LookAtIt,
	Brief: "differences between two files or two recordings",
	Usage: "compare two files: items added, lost, moved or renamed, and properties changed",
	Args:  "A B",
	Help: "Items are matched by identifier, then by name and place, then by unique name, then by\n" +
		"place, which finds renamed items. Every property is compared unless --only or --not limits them.\n\n" +
		"--in-time compares two recordings in time: when and where they were closest, how long they were\n" +
		"within a distance, and the average offset of the second from the first, as of two receivers carried together.",
	Examples: []string{"compare walk.gpx clean.gpx", "compare planning.kmz dressed.kmz --only symbol,colour",
		"compare walk.gpx clean.gpx --in-time --within 10m"},
	Tried:   []string{"diff"},
	Answers: []any{compare.Result{}, apartAnswer{}},
	Make:    makeCompare}

func makeCompare(a *frame.App, v *frame.Verb) frame.Made {
	j := a.NewTask(v.Name)
	var opt compare.Options
	x := &inTimeTask{Task: j, opt: compare.InTime{}}
	plot := param.Text("plot", &x.plot, "FILE", "plot the distance over time to this `FILE`: .png, .svg or .pdf")
	plot.Path = param.Written
	gap := x.opt.Motion.GapParam()
	return frame.Made{Tables: append(j.ReadTables(), param.Table{
		param.Length("within", &opt.Within, "DISTANCE",
			"how far a position may differ before it counts as moved, a `DISTANCE` such as 5m (default: not at all); "+
				"with --in-time, the distance for which the time is counted"),
		param.WordsOf("only", &opt.Only, compare.Words(), compare.IsWord, "PROPERTIES",
			"compare these `PROPERTIES` only, a comma-separated list such as name,position"),
		param.WordsOf("not", &opt.Not, compare.Words(), compare.IsWord, "PROPERTIES",
			"do not compare these `PROPERTIES`, a comma-separated list such as time,colour"),
	}.In("Reporting"), param.Table{param.Switch("in-time", &x.asked, "compare the recordings in time"), gap, plot,
		param.Switch("replace", &j.Replace, "overwrite an existing plot, and keep a backup beside it")}.In("Time"),
		j.Answering()), Run: func(ctx context.Context, l *frame.Line) error {
		if len(l.Args) != 2 {
			return frame.UsageError("compare: name two files, the one before and the one after")
		}
		if x.asked {
			x.opt.Within = opt.Within
			return x.run(ctx, l.Args)
		}
		if x.plot != "" {
			return frame.UsageError("compare: --plot draws the distance of two recordings --in-time")
		}
		return runCompare(ctx, j, l.Args, opt)
	}}
}

func runCompare(ctx context.Context, j *frame.Task, paths []string, opt compare.Options) error {
	if err := j.Reading.Open(ctx); err != nil {
		return err
	}
	j.Reading.Take = j.Stage.Take
	inputs, err := j.Load(ctx, input.Named(paths...))
	if err != nil {
		return err
	}
	result, err := compare.Compare(ctx, inputs[0].Data, inputs[1].Data, opt)
	if err != nil {
		return err
	}
	switch {
	case j.JSON:
		if result.Differences == nil {
			result.Differences = []compare.Difference{}
		}
		if err := j.PrintJSON(result); err != nil {
			return err
		}
	case len(result.Differences) == 0:
		j.Out.Printf("%s\n", j.Out.Paint(console.Green, "no difference"))
	default:
		j.SayDifferences(j.Out, inputs[0].Path, inputs[1].Path, result.Differences)
	}
	if n := len(result.Differences); n > 0 && j.Strict {
		return frame.StrictError("%s and %s differ (%s)", inputs[0].Path, inputs[1].Path,
			measure.Counted(n, "difference", "differences"))
	}
	return nil
}
