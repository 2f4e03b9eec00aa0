package cli

import (
	"context"

	"github.com/urfave/cli/v3"
)

func (a *app) demo() *cli.Command {
	return &cli.Command{Name: "demo", Action: func(context.Context, *cli.Command) error { return nil }}
}
