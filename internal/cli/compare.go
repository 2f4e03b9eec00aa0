package cli

import (
	"context"

	"github.com/urfave/cli/v3"

	"gyrolith/core/compare"
	"gyrolith/core/measure"
)

func (a *app) compare() *cli.Command {
	return &cli.Command{
		Name:      "compare",
		Usage:     "tell two files apart: what was added, lost, moved, renamed, given or deprived of heights and times",
		ArgsUsage: "A B",
		Description: "Items are matched by what they are, not by their order: by kind and name, the nearest with the nearest, and\n" +
			"then by their place, which finds what was renamed.",
		Flags: flags([]cli.Flag{
			&cli.StringFlag{Name: "within", Category: answering, Usage: "how far a position may be off before it counts as moved, a `DISTANCE` such as 5m (default: not at all)"},
		}, readFlags(), answerFlags()),
		Action: func(_ context.Context, c *cli.Command) error {
			o, err := a.options(c)
			if err != nil {
				return err
			}
			var opt compare.Options
			if text := c.String("within"); text != "" {
				if opt.Within, err = measure.ParseLength(text); err != nil {
					return usageError("compare: --within: %v", err)
				}
			}
			if c.Args().Len() != 2 {
				return usageError("compare: name two files, the one before and the one after")
			}
			inputs, err := a.load(c.Name, c.Args().Slice(), o)
			if err != nil {
				return err
			}
			result := compare.Compare(inputs[0].Data, inputs[1].Data, opt)
			if o.json {
				if result.Differences == nil {
					result.Differences = []compare.Difference{}
				}
				if err := a.printJSON(result); err != nil {
					return err
				}
			} else if len(result.Differences) == 0 {
				a.out.printf("%s\n", a.out.paint(green, "no difference"))
			} else {
				printDifferences(a.out, result.Differences, o)
			}
			if n := len(result.Differences); n > 0 && o.strict {
				return strictError("%s and %s differ (%s)", inputs[0].Path, inputs[1].Path, plural(n, "difference", "differences"))
			}
			return nil
		},
	}
}
