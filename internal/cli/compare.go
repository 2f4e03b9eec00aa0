package cli

import (
	"context"
	"fmt"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/compare"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
)

func (a *app) compare() *cli.Command {
	j := a.newJob("compare")
	var opt compare.Options
	return a.verb(&verb{name: "compare",
		usage: "tell two files apart: what was added, lost, moved or renamed, and which heights and times were added " +
			"or removed",
		args: "A B",
		help: "Items are matched by what they are, not by their order: by kind and name, the nearest with the " +
			"nearest, and\n" +
			"then by their place, which finds what was renamed.",
		tables: append(j.readTables(), param.Table{param.Length("within", &opt.Within, "DISTANCE",
			"how far a position may be off before it counts as moved, a `DISTANCE` such as 5m (default: not at all)")}.In(
			"Answering"),
			j.answering()),
		run: func(ctx context.Context, l *commandLine) error {
			if len(l.args) != 2 {
				return usageError("compare: name two files, the one before and the one after")
			}
			return j.runCompare(ctx, l.args, opt)
		}})
}

func (j *job) runCompare(ctx context.Context, paths []string, opt compare.Options) error {
	if err := j.reading.Open(ctx); err != nil {
		return err
	}
	j.reading.Take = j.stage.Take
	inputs, err := j.load(ctx, paths)
	if err != nil {
		return err
	}
	result := compare.Compare(inputs[0].Data, inputs[1].Data, opt)
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
		j.sayDifferences(j.out, result.Differences)
	}
	if n := len(result.Differences); n > 0 && j.strict {
		return strictError("%s and %s differ (%s)", inputs[0].Path, inputs[1].Path, plural(n, "difference", "differences"))
	}
	return nil
}

// shift writes a small distance to the centimetre.
func (j *job) shift(metres float64) string {
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

// sayDifferences prints what tells one dataset from another, a row each.
func (j *job) sayDifferences(s *console.Stream, differences []compare.Difference) {
	var rows [][]string
	for _, d := range differences {
		var details []string
		if d.Old != "" || d.New != "" {
			details = append(details, console.OneLine(d.Old, 40)+" → "+console.OneLine(d.New, 40))
		}
		if d.Metres > 0 {
			details = append(details, fmt.Sprintf("%s at most, at %s", j.shift(d.Metres), j.notation.Format(d.Lat, d.Lon)))
		}
		detail := strings.Join(details, "; ")
		count := ""
		if d.Count > 0 && d.Kind != nav.Waypoints {
			count = plural(d.Count, "point", "points")
		}
		rows = append(rows, []string{d.Word, console.OneLine(d.Name, 40), string(d.What), count, detail})
	}
	s.Table("  ", []console.Column{{}, {}, {}, {Right: true}, {}}, rows)
}
