package cli

import (
	"context"
	"fmt"
	"strings"

	"gyrolith/core/compare"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
)

// compareVerb is compare.
var compareVerb = verb{name: "compare", stage: lookAtIt,
	brief: "differences between two files or two recordings",
	usage: "compare two files: items added, lost, moved or renamed, and properties changed",
	args:  "A B",
	help: "Items are matched by identifier, then by name and place, then by unique name, then by\n" +
		"place, which finds renamed items. Every property is compared unless --only or --not limits them.\n\n" +
		"--in-time compares two recordings in time: when and where they were closest, how long they were\n" +
		"within a distance, and the average offset of the second from the first, as of two receivers carried together.",
	examples: []string{"compare walk.gpx clean.gpx", "compare planning.kmz dressed.kmz --only symbol,colour",
		"compare walk.gpx clean.gpx --in-time --within 10m"},
	tried: []string{"diff"},
	make:  (*app).compare}

func (a *app) compare(v *verb) made {
	j := a.newTask(v.name)
	var opt compare.Options
	x := &inTimeTask{task: j, opt: compare.InTime{}}
	plot := param.Text("plot", &x.plot, "FILE", "plot the distance over time to this `FILE`: .png, .svg or .pdf")
	plot.Path = param.Written
	gap := x.opt.Motion.GapParam()
	return made{tables: append(j.readTables(), param.Table{
		param.Length("within", &opt.Within, "DISTANCE",
			"how far a position may differ before it counts as moved, a `DISTANCE` such as 5m (default: not at all); "+
				"with --in-time, the distance for which the time is counted"),
		param.WordsOf("only", &opt.Only, compare.Words(), compare.IsWord, "PROPERTIES",
			"compare these `PROPERTIES` only, a comma-separated list such as name,position"),
		param.WordsOf("not", &opt.Not, compare.Words(), compare.IsWord, "PROPERTIES",
			"do not compare these `PROPERTIES`, a comma-separated list such as time,colour"),
	}.In("Reporting"), param.Table{param.Switch("in-time", &x.asked, "compare the recordings in time"), gap, plot,
		param.Switch("replace", &j.replace, "overwrite an existing plot, and keep a backup beside it")}.In("Time"),
		j.answering()), run: func(ctx context.Context, l *commandLine) error {
		if len(l.args) != 2 {
			return usageError("compare: name two files, the one before and the one after")
		}
		if x.asked {
			x.opt.Within = opt.Within
			return x.run(ctx, l.args)
		}
		if x.plot != "" {
			return usageError("compare: --plot draws the distance of two recordings --in-time")
		}
		return j.runCompare(ctx, l.args, opt)
	}}
}

func (j *task) runCompare(ctx context.Context, paths []string, opt compare.Options) error {
	if err := j.reading.Open(ctx); err != nil {
		return err
	}
	j.reading.Take = j.stage.Take
	inputs, err := j.load(ctx, paths)
	if err != nil {
		return err
	}
	result, err := compare.Compare(ctx, inputs[0].Data, inputs[1].Data, opt)
	if err != nil {
		return err
	}
	switch {
	case j.json:
		if result.Differences == nil {
			result.Differences = []compare.Difference{}
		}
		if err := j.printJSON(result); err != nil {
			return err
		}
	case len(result.Differences) == 0:
		j.out.Printf("%s\n", j.out.Paint(console.Green, "no difference"))
	default:
		j.sayDifferences(j.out, inputs[0].Path, inputs[1].Path, result.Differences)
	}
	if n := len(result.Differences); n > 0 && j.strict {
		return strictError("%s and %s differ (%s)", inputs[0].Path, inputs[1].Path, plural(n, "difference", "differences"))
	}
	return nil
}

// shift writes a small distance to the centimetre.
func (j *task) shift(metres float64) string {
	switch {
	case metres == 0:
		return "0 m"
	case metres < 0.005:
		return "less than 1 cm"
	case metres < 1:
		return fmt.Sprintf("%.2f m", metres)
	}
	return j.measure.Length(metres)
}

// sayDifferences prints what tells one dataset from another, a row each, side by side.
func (j *task) sayDifferences(s *console.Stream, first, second string, differences []compare.Difference) {
	var rows [][]string
	doubtful := 0
	for _, d := range differences {
		what, old, is := string(d.What), console.OneLine(d.Old, 32), console.OneLine(d.New, 32)
		points := ""
		if d.Kind != nav.Waypoints && d.Count > 0 {
			points = plural(d.Count, "point", "points")
		}
		switch d.What {
		case compare.Added:
			is = strings.TrimSpace("there  " + points)
		case compare.Lost:
			old = strings.TrimSpace("there  " + points)
		default:
			if d.Metres > 0 {
				points = strings.TrimSpace(points + "  by " + j.shift(d.Metres) + " at most")
				if d.Kind == nav.Waypoints {
					points = "by " + j.shift(d.Metres)
				}
				is = strings.TrimSpace(is + "  " + j.notation.Format(d.Lat, d.Lon))
			}
			what = strings.TrimSpace(what + "  " + points)
		}
		if d.Doubtful {
			doubtful++
			what += "  (ambiguous)"
		}
		rows = append(rows, []string{d.Word, console.OneLine(d.Name, 32), what, old, is})
	}
	s.Table("  ", []console.Column{{Title: "item"}, {}, {Title: "difference"}, {Title: console.OneLine(first, 32)},
		{Title: console.OneLine(second, 32)}}, rows)
	if doubtful > 0 {
		s.Printf("%s %s with the same name or place are ambiguous; ids or --key FIELD tell them apart\n",
			s.Paint(console.Yellow, "note:"), plural(doubtful, "item", "items"))
	}
}
