package cli

import (
	"context"

	"github.com/urfave/cli/v3"
)

func (a *app) convert() *cli.Command {
	return &cli.Command{
		Name:      "convert",
		Usage:     "write the same data in another format; several inputs are merged",
		ArgsUsage: "FILES… -o FILE",
		Flags:     flags(writeFlags(), readFlags(), answerFlags()),
		Action: func(_ context.Context, c *cli.Command) error {
			o, err := a.options(c)
			if err != nil {
				return err
			}
			paths := c.Args().Slice()
			if err := a.target(c.Name, o, paths); err != nil {
				return err
			}
			inputs, err := a.load(c.Name, paths, o)
			if err != nil {
				return err
			}
			data, err := a.merged(inputs, o)
			if err != nil {
				return err
			}
			return a.write(data, nil, o)
		},
	}
}
