// Package cli is the command line: options in, calls of the core, words out. It is the only place that prints.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"runtime/debug"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"gyrolith/core/format"
)

// Version is the program's version.
const Version = "0.1.0"

// The exit statuses.
const (
	statusDone    = 0
	statusInput   = 1 // an input could not be used, or the output not be written
	statusUsage   = 2
	statusStrict  = 3 // --strict refused a loss, a finding or a difference
	statusStopped = 130
)

// failure is an error with its exit status.
type failure struct {
	status int
	err    error
}

func (f *failure) Error() string { return f.err.Error() }
func (f *failure) Unwrap() error { return f.err }

func usageError(text string, args ...any) error {
	return &failure{statusUsage, fmt.Errorf(text, args...)}
}

func strictError(text string, args ...any) error {
	return &failure{statusStrict, fmt.Errorf(text, args...)}
}

// app is one run of the program.
type app struct {
	in       io.Reader
	out, err *stream
	now      func() time.Time
}

// Run runs the program with the arguments after its name and gives the exit status.
func Run(ctx context.Context, args []string, in io.Reader, out, errOut io.Writer) int {
	a := &app{in: in, out: newStream(out), err: newStream(errOut), now: time.Now}
	err := a.command().Run(ctx, append([]string{"gyrolith"}, joinNegative(args)...))
	if err == nil {
		return statusDone
	}
	status := statusInput
	if f, ok := errors.AsType[*failure](err); ok {
		status = f.status
	}
	a.complain(err)
	return status
}

// complain prints an error, one line for each of several.
func (a *app) complain(err error) {
	if many, ok := err.(interface{ Unwrap() []error }); ok {
		for _, e := range many.Unwrap() {
			a.complain(e)
		}
		return
	}
	fmt.Fprintf(a.err, "%s %s\n", a.err.paint(red, "gyrolith:"), show(err.Error()))
}

// joinNegative ties a negative number to the option before it, since a value is never an option.
func joinNegative(args []string) []string {
	var out []string
	place := len(args) > 0 && args[0] == "where"
	for i := 0; i < len(args); i++ {
		if args[i] == "--" {
			return append(out, args[i:]...)
		}
		if place && len(args[i]) > 1 && args[i][0] == '-' && args[i][1] >= '0' && args[i][1] <= '9' { // a coordinate, with the sign that is no option's
			out = append(out, "−"+args[i][1:])
			continue
		}
		if i+1 < len(args) && strings.HasPrefix(args[i], "--") && !strings.Contains(args[i], "=") && len(args[i+1]) > 1 &&
			args[i+1][0] == '-' && (args[i+1][1] >= '0' && args[i+1][1] <= '9' || args[i+1][1] == '.') {
			out = append(out, args[i]+"="+args[i+1])
			i++
			continue
		}
		out = append(out, args[i])
	}
	return out
}

func (a *app) command() *cli.Command {
	root := &cli.Command{
		Name:                            "gyrolith",
		Usage:                           "look at, convert, clean and prepare waypoints, routes, tracks and areas for navigation units",
		Version:                         Version,
		Reader:                          a.in,
		Writer:                          a.out,
		ErrWriter:                       a.err,
		EnableShellCompletion:           true,
		ConfigureShellCompletionCommand: func(c *cli.Command) { c.Hidden = false; c.Usage = "print the completion script for a shell" },
		Suggest:                         true,
		HideHelpCommand:                 true,
		DisableSliceFlagSeparator:       true,
		ExitErrHandler:                  func(context.Context, *cli.Command, error) {},
		OnUsageError:                    a.onUsageError,
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Args().Len() > 0 {
				return a.unknownVerb(c, c.Args().First())
			}
			return cli.ShowRootCommandHelp(c)
		},
		Commands: []*cli.Command{a.look(), a.withRecipe(a.convert()), a.withRecipe(a.clean()), a.withRecipe(a.elevate()), a.withRecipe(a.recast()), a.withRecipe(a.dress()), a.legs(), a.compare(), a.units(), a.withRecipe(a.stow()), a.boot(), a.unstow(), a.send(), a.withRecipe(a.draw()), a.run(), a.recipes(), a.formats(), a.symbols(), a.crs(), a.where(), a.demo()},
	}
	for _, c := range root.Commands {
		c.OnUsageError = a.onUsageError
		c.HideHelpCommand = true
		c.DisableSliceFlagSeparator = true
	}
	return root
}

func (a *app) unknownVerb(c *cli.Command, word string) error {
	if near := cli.SuggestCommand(c.Commands, word); near != "" {
		return usageError("there is no verb %q; did you mean %q? 'gyrolith --help' lists them", word, near)
	}
	return usageError("there is no verb %q; 'gyrolith --help' lists them", word)
}

func (a *app) onUsageError(_ context.Context, c *cli.Command, err error, _ bool) error {
	text := err.Error()
	if name, ok := strings.CutPrefix(text, "flag provided but not defined: -"); ok {
		text = "there is no option --" + strings.TrimLeft(name, "-")
		if near := cli.SuggestFlag(c.Flags, strings.TrimLeft(name, "-"), false); near != "" {
			text += "; did you mean " + near + "?"
		}
	} else if name, ok := strings.CutPrefix(text, "flag needs an argument: "); ok {
		text = "the option " + name + " needs a value"
	}
	return usageError("%s: %s; '%s --help' explains the options", c.Name, text, c.FullName())
}

// logTo sets up the log that --verbose asks for.
func (a *app) logger(verbose bool) *slog.Logger {
	if !verbose {
		return slog.New(slog.DiscardHandler)
	}
	return slog.New(slog.NewTextHandler(a.err, &slog.HandlerOptions{Level: slog.LevelDebug}))
}

// tuneMemory lets the heap grow little beyond what lives: a track takes most of the memory, and it stays.
func tuneMemory() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(25)
	}
}

// manySmall lets the heap grow between collections, for many small files one after the other, which leave much behind and keep
// little; up to a limit, from which on it is collected as often as it takes.
func manySmall() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(800)
		debug.SetMemoryLimit(192 << 20)
	}
}

// faultIn is an error of one file, in the words of format.Error.
func faultIn(path, text string, args ...any) error {
	return &format.Error{Path: path, Msg: fmt.Sprintf(text, args...)}
}
