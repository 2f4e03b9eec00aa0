package cli

import (
	"context"
	"strconv"

	"github.com/urfave/cli/v3"

	"gyrolith/core/nav"
	"gyrolith/core/unit"
)

func (a *app) convert() *cli.Command {
	return &cli.Command{
		Name:      "convert",
		Usage:     "write the same data in another format; several inputs are merged",
		ArgsUsage: "FILES… -o FILE",
		Flags: flags([]cli.Flag{
			&cli.StringFlag{Name: "for", Category: writing, Usage: "fit the data to this `UNIT` first, as stow does; 'gyrolith units' lists them"},
			&cli.IntFlag{Name: "card-version", Category: writing, Usage: "the `VERSION` of the unit's cards, for older units"},
		}, writeFlags(), readFlags(), answerFlags()),
		Action: func(_ context.Context, c *cli.Command) error {
			o, err := a.options(c)
			if err != nil {
				return err
			}
			data, _, err := a.gathered(c, o)
			if err != nil {
				return err
			}
			if name := c.String("for"); name != "" {
				return a.convertFor(name, c, data, o)
			}
			return a.write(data, nil, o)
		},
	}
}

// convertFor fits data to a unit before they are written.
func (a *app) convertFor(name string, c *cli.Command, data *nav.Dataset, o *options) error {
	p, err := findUnit(name)
	if err != nil {
		return usageError("convert: --for: %v", err)
	}
	if p, err = p.ForVersion(int(c.Int("card-version"))); err != nil {
		return usageError("convert: --card-version: %v", err)
	}
	fitted := unit.Fit(data, p)
	if p.Table != nil {
		if o.table, err = p.TableLayout(); err != nil {
			return err
		}
	}
	if p.Version > 0 && o.version == "" && o.writeAs.Name == p.Name {
		o.version = strconv.Itoa(p.Version)
	}
	return a.write(fitted.Data, fitted.Ledger, o)
}
