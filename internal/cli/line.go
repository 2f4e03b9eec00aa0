package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/safefile"
	"gyrolith/internal/cli/complete"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/help"
)

// Run runs the program with the arguments after its name and gives the exit status.
func Run(ctx context.Context, args []string, in io.Reader, out, errOut io.Writer) int {
	a := frame.NewApp(verbs, in, out, errOut)
	if len(args) > 0 && args[0] == complete.Completing {
		complete.Complete(a, args[1:])
		return frame.StatusDone
	}
	args, a.HelpAll = help.AskedForHelp(args)
	a.Line = args
	err := runLine(ctx, a, args)
	if err == nil && a.Out.Failed() != nil {
		err = fmt.Errorf("standard output: can't be written: %w", safefile.Bare(a.Out.Failed()))
	}
	switch {
	case err == nil:
		return frame.StatusDone
	case errors.Is(err, context.Canceled) && ctx.Err() != nil:
		fmt.Fprintf(a.Err, "%s stopped; no partial files were left behind\n", a.Err.Paint(console.Red, "gyrolith:"))
		return frame.StatusStopped
	}
	if asksJSON(args) {
		a.ComplainJSON(err)
	} else {
		a.Complain(err)
	}
	return frame.StatusOf(err)
}

// asksJSON says whether a line asks for an answer as JSON.
func asksJSON(line []string) bool {
	for _, word := range line {
		if word == "--" {
			break
		}
		if word == "--json" || word == "-json" || word == "--json=true" {
			return true
		}
	}
	return false
}

// runLine runs the verb of a line.
func runLine(ctx context.Context, a *frame.App, args []string) error {
	if err := checkOptions(a, args); err != nil {
		return err
	}
	return commandFor(a, args).Run(ctx, append([]string{"gyrolith"}, joinNegative(a, args)...))
}

// checkOptions refuses options that the verb of a line does not have, and those that lack their value.
func checkOptions(a *frame.App, line []string) error {
	v := a.LineVerb(line)
	if v == nil {
		return nil
	}
	for i := 1; i < len(line) && line[i] != "--"; i++ {
		word := line[i]
		if len(word) < 2 || word[0] != '-' || v.Positions && isDigit(word[1]) {
			continue
		}
		name, value, tied := strings.Cut(strings.TrimLeft(word, "-"), "=")
		p := v.Param(name)
		switch {
		case p == nil:
			return noOption(a, v, word, name)
		case tied && p.Switch() && value != "true" && value != "false":
			return frame.UsageError("%s: the option --%s takes no value, and has %q; 'gyrolith %s --help' explains the options",
				v.Name, p.Name, value, v.Name)
		case tied || p.Switch():
		case i+1 == len(line):
			return frame.UsageError("%s: the option --%s needs a value; 'gyrolith %s --help' explains the options", v.Name,
				p.Name, v.Name)
		default:
			i++
		}
	}
	return nil
}

// noOption words an option that there is not, or a file that looks like one.
func noOption(a *frame.App, v *frame.Made, word, name string) error {
	if looksLikeFile(word) {
		return frame.UsageError("%s: %s begins with a dash and was read as an option; write ./%s", v.Name, word, word)
	}
	text := "there is no option --" + name
	if near := guess(v, name); near != "" {
		text += "; did you mean " + near + "?"
	}
	return frame.UsageError("%s: %s; 'gyrolith %s --help' explains the options", v.Name, text, v.Name)
}

func isDigit(b byte) bool { return b >= '0' && b <= '9' }

// joinNegative ties a negative number to the option before it, since a value is never an option; a switch has none.
func joinNegative(a *frame.App, args []string) []string {
	var out []string
	v := a.LineVerb(args)
	for i := 0; i < len(args); i++ {
		if args[i] == "--" {
			return append(out, args[i:]...)
		}
		// a coordinate, with the sign that is no option's
		if v != nil && v.Positions && len(args[i]) > 1 && args[i][0] == '-' && isDigit(args[i][1]) {
			out = append(out, "−"+args[i][1:])
			continue
		}
		takes := strings.HasPrefix(args[i], "--") && !strings.Contains(args[i], "=")
		if takes && v != nil {
			p := v.Param(args[i][2:])
			takes = p == nil || !p.Switch()
		}
		if i+1 < len(args) && takes && len(args[i+1]) > 1 && args[i+1][0] == '-' &&
			(isDigit(args[i+1][1]) || args[i+1][1] == '.') {
			out = append(out, args[i]+"="+args[i+1])
			i++
			continue
		}
		out = append(out, args[i])
	}
	return out
}

// commandFor makes the command of the verb that a line begins with alone, since to make all takes longer than many a
// verb's work; none of them for the version.
func commandFor(a *frame.App, line []string) *cli.Command {
	if v := a.LineVerb(line); v != nil {
		return command(a, []*frame.Verb{v.Verb})
	}
	return command(a, nil)
}

// command makes the program's command with some of the verbs.
func command(a *frame.App, verbs []*frame.Verb) *cli.Command {
	wrong := func(_ context.Context, c *cli.Command, err error, _ bool) error { return wrongUsage(a, c, err) }
	root := &cli.Command{
		Name:                      "gyrolith",
		Usage:                     help.Purpose,
		Version:                   versionText(),
		Reader:                    a.In,
		Writer:                    a.Out,
		ErrWriter:                 a.Err,
		HideHelp:                  true,
		DisableSliceFlagSeparator: true,
		ExitErrHandler:            func(context.Context, *cli.Command, error) {},
		OnUsageError:              wrong,
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Args().Len() > 0 {
				return help.UnknownVerb(a, c.Args().First())
			}
			help.RootHelp(a, a.Out)
			return nil
		},
	}
	for _, v := range verbs {
		c := a.CommandOf(v)
		c.OnUsageError = wrong
		root.Commands = append(root.Commands, c)
	}
	return root
}

// wrongUsage words what the library still finds wrong, such as options without a verb.
func wrongUsage(a *frame.App, c *cli.Command, err error) error {
	if c != c.Root() {
		return frame.UsageError("%s: %w; 'gyrolith %s --help' explains the options", c.Name, err, c.Name)
	}
	for _, word := range a.Line { // an unknown verb's options are not the point
		if !strings.HasPrefix(word, "-") {
			return help.UnknownVerb(a, word)
		}
	}
	return frame.UsageError("name a verb first; 'gyrolith help' lists them")
}
