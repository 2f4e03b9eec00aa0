package cli

import "github.com/urfave/cli/v3"

func (a *app) convert() *cli.Command {
	_, c := a.step(&verb{name: "convert", usage: "write the same data in another format; several inputs are merged",
		args: "FILES… -o FILE"}, nil)
	return c
}
