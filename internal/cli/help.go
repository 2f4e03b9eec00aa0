package cli

import (
	"context"

	"github.com/urfave/cli/v3"
)

// help shows what --help shows, for those who type it as a verb.
func (a *app) help() *cli.Command {
	c := a.verb(&verb{name: "help", usage: "show the help of the program, or of a verb", args: "[VERB]"})
	c.ShellComplete = func(_ context.Context, c *cli.Command) {
		for _, v := range c.Root().VisibleCommands() {
			a.out.Printf("%s\n", v.Name)
		}
	}
	c.Action = func(ctx context.Context, c *cli.Command) error {
		root := c.Root()
		switch words := c.Args().Slice(); {
		case len(words) == 0:
			return cli.ShowRootCommandHelp(root)
		case len(words) > 1:
			return usageError("help: name one verb")
		case root.Command(words[0]) == nil:
			return a.unknownVerb(root, words[0])
		default:
			return cli.ShowCommandHelp(ctx, root, words[0])
		}
	}
	return c
}
