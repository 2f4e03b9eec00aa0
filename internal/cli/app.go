// Package cli is the command line: words into chains and calls of the core, reports into words. It is the only place
// that prints.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"runtime/debug"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/choose"
	"gyrolith/core/dress"
	"gyrolith/core/format"
	"gyrolith/core/job"
	"gyrolith/core/param"
	"gyrolith/core/safefile"
	"gyrolith/core/unit"
	"gyrolith/internal/cli/console"
)

// The exit statuses.
const (
	statusDone    = 0
	statusInput   = 1 // an input could not be used, or the output not be written
	statusUsage   = 2
	statusStrict  = 3   // --strict refused a loss, a finding or a difference
	statusDiffers = 4   // done, but the unit shows or the card holds something else
	statusNothing = 5   // nothing is there: nothing taken, an empty folder or result
	statusStopped = 130 // by a signal
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
	out, err *console.Stream
	now      func() time.Time
	kit      *chain.Kit
	line     []string // the arguments
	keepIn   string   // the folder for archives of cards; "" is the user's own
	alone    bool     // no settings hold
	helpAll  bool     // help explains shared options too
	beside   []string // the files that options name for reading
	verbs    map[string]*made
}

func newApp(in io.Reader, out, errOut io.Writer) *app {
	a := &app{in: in, out: console.New(out), err: console.New(errOut), now: time.Now,
		verbs: map[string]*made{}}
	a.err.Prose = true
	a.kit = kit.New(a.now(), unit.UserFolder(), in)
	return a
}

// Run runs the program with the arguments after its name and gives the exit status.
func Run(ctx context.Context, args []string, in io.Reader, out, errOut io.Writer) int {
	a := newApp(in, out, errOut)
	if len(args) > 0 && args[0] == completing {
		a.complete(args[1:])
		return statusDone
	}
	args, a.helpAll = askedForHelp(args)
	a.line = args
	err := a.runLine(ctx, args)
	if err == nil && a.out.Failed() != nil {
		err = fmt.Errorf("standard output: can't be written: %w", safefile.Bare(a.out.Failed()))
	}
	switch {
	case err == nil:
		return statusDone
	case errors.Is(err, context.Canceled) && ctx.Err() != nil:
		fmt.Fprintf(a.err, "%s stopped; no partial files were left behind\n", a.err.Paint(console.Red, "gyrolith:"))
		return statusStopped
	}
	a.complain(err)
	return statusOf(err)
}

// statusOf gives the exit status of an error; of several the one that says most of what is to be done.
func statusOf(err error) int {
	if many, ok := err.(interface{ Unwrap() []error }); ok {
		all := map[int]bool{}
		for _, e := range many.Unwrap() {
			all[statusOf(e)] = true
		}
		for _, status := range []int{statusUsage, statusInput, statusStrict, statusNothing, statusDiffers} {
			if all[status] {
				return status
			}
		}
	}
	if f, ok := errors.AsType[*failure](err); ok {
		return f.status
	}
	if _, strict := errors.AsType[*job.Refused](err); strict {
		return statusStrict
	}
	if _, nothing := errors.AsType[choose.Nothing](err); nothing {
		return statusNothing
	}
	return statusInput
}

// nothingError is an error of what is not there.
func nothingError(text string, args ...any) error {
	return &failure{statusNothing, fmt.Errorf(text, args...)}
}

// complain prints an error with the advice for it, one line for each of several.
func (a *app) complain(err error) {
	if many, ok := err.(interface{ Unwrap() []error }); ok {
		for _, e := range many.Unwrap() {
			a.complain(e)
		}
		return
	}
	text := advisedError(err)
	if _, strict := errors.AsType[*job.Refused](err); strict {
		text += "; refused by --strict, nothing was written"
	}
	a.err.Printf("%s %s\n", a.err.Paint(console.Red, "gyrolith:"), console.Show(text))
}

// runLine runs the verb of a line.
func (a *app) runLine(ctx context.Context, args []string) error {
	if err := a.checkOptions(args); err != nil {
		return err
	}
	return a.commandFor(args).Run(ctx, append([]string{"gyrolith"}, a.joinNegative(args)...))
}

// lineVerb is the verb that a line begins with, made; nil where it begins with none.
func (a *app) lineVerb(line []string) *made {
	if len(line) == 0 || verbOf(line[0]) == nil {
		return nil
	}
	return a.made(verbOf(line[0]))
}

// checkOptions refuses options that the verb of a line does not have, and those that lack their value.
func (a *app) checkOptions(line []string) error {
	v := a.lineVerb(line)
	if v == nil {
		return nil
	}
	for i := 1; i < len(line) && line[i] != "--"; i++ {
		word := line[i]
		if len(word) < 2 || word[0] != '-' || v.positions && isDigit(word[1]) {
			continue
		}
		name, value, tied := strings.Cut(strings.TrimLeft(word, "-"), "=")
		p := v.param(name)
		switch {
		case p == nil:
			return a.noOption(v, word, name)
		case tied && p.Switch() && value != "true" && value != "false":
			return usageError("%s: the option --%s takes no value, and has %q; 'gyrolith %s --help' explains the options",
				v.name, p.Name, value, v.name)
		case tied || p.Switch():
		case i+1 == len(line):
			return usageError("%s: the option --%s needs a value; 'gyrolith %s --help' explains the options", v.name, p.Name,
				v.name)
		default:
			i++
		}
	}
	return nil
}

// noOption words an option that there is not, or a file that looks like one.
func (a *app) noOption(v *made, word, name string) error {
	if looksLikeFile(word) {
		return usageError("%s: %s begins with a dash and was read as an option; write ./%s", v.name, word, word)
	}
	text := "there is no option --" + name
	if near := guess(v, name); near != "" {
		text += "; did you mean " + near + "?"
	}
	return usageError("%s: %s; 'gyrolith %s --help' explains the options", v.name, text, v.name)
}

func isDigit(b byte) bool { return b >= '0' && b <= '9' }

// joinNegative ties a negative number to the option before it, since a value is never an option; a switch has none.
func (a *app) joinNegative(args []string) []string {
	var out []string
	v := a.lineVerb(args)
	for i := 0; i < len(args); i++ {
		if args[i] == "--" {
			return append(out, args[i:]...)
		}
		// a coordinate, with the sign that is no option's
		if v != nil && v.positions && len(args[i]) > 1 && args[i][0] == '-' && isDigit(args[i][1]) {
			out = append(out, "−"+args[i][1:])
			continue
		}
		takes := strings.HasPrefix(args[i], "--") && !strings.Contains(args[i], "=")
		if takes && v != nil {
			p := v.param(args[i][2:])
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
func (a *app) commandFor(line []string) *cli.Command {
	if v := a.lineVerb(line); v != nil {
		return a.command([]*verb{v.verb})
	}
	return a.command(nil)
}

const purpose = "inspect, convert, clean and prepare waypoints, routes, tracks and areas for navigation units"

// command makes the program's command with some of the verbs.
func (a *app) command(verbs []*verb) *cli.Command {
	root := &cli.Command{
		Name:                      "gyrolith",
		Usage:                     purpose,
		Version:                   versionText(),
		Reader:                    a.in,
		Writer:                    a.out,
		ErrWriter:                 a.err,
		HideHelp:                  true,
		DisableSliceFlagSeparator: true,
		ExitErrHandler:            func(context.Context, *cli.Command, error) {},
		OnUsageError:              a.onUsageError,
		Action: func(_ context.Context, c *cli.Command) error {
			if c.Args().Len() > 0 {
				return a.unknownVerb(c.Args().First())
			}
			a.rootHelp(a.out)
			return nil
		},
	}
	for _, v := range verbs {
		c := a.commandOf(v)
		c.OnUsageError = a.onUsageError
		root.Commands = append(root.Commands, c)
	}
	return root
}

// onUsageError words what is left of wrong usage: an option without a verb, or a switch with a value.
func (a *app) onUsageError(_ context.Context, c *cli.Command, _ error, _ bool) error {
	if c == c.Root() {
		for _, word := range a.line { // an unknown verb's options are not the point
			if !strings.HasPrefix(word, "-") {
				return a.unknownVerb(word)
			}
		}
		return usageError("name a verb first; 'gyrolith help' lists them")
	}
	return usageError("%s: an option that takes no value has one; 'gyrolith %s --help' explains the options", c.Name, c.Name)
}

// logger gives the log that --verbose asks for.
func (a *app) logger(verbose bool) *slog.Logger {
	if !verbose {
		return slog.New(slog.DiscardHandler)
	}
	return slog.New(slog.NewTextHandler(a.err, &slog.HandlerOptions{Level: slog.LevelDebug}))
}

// largeInput is from how many bytes on an input decides what memory is needed.
const largeInput = 4 << 20

// tuneMemory lets the heap grow little beyond what lives where an input may be large: a track takes most of the memory,
// and it stays.
func tuneMemory(args []string) {
	large := func(arg string) bool {
		info, err := os.Stat(arg)
		return arg == "-" || err == nil && (!info.Mode().IsRegular() || info.Size() >= largeInput)
	}
	if os.Getenv("GOGC") == "" && slices.ContainsFunc(args, large) {
		debug.SetGCPercent(25)
	}
}

// manySmall lets the heap grow between collections, for many small files one after the other, which leave much behind
// and keep little; up to a limit, from which on it is collected as often as it takes.
func manySmall() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(800)
		debug.SetMemoryLimit(384 << 20)
	}
}

// faultIn is an error of one file, in the words of format.Error.
func faultIn(path, text string, args ...any) error {
	err := fmt.Errorf(text, args...)
	return &format.Error{Path: path, Msg: err.Error(), Err: err}
}

// worded says of which option of a verb a fault of parameters is: such a fault is one of usage. An error of several is
// worded one by one.
func worded(verb string, err error) error {
	if err == nil {
		return nil
	}
	if many, ok := err.(interface{ Unwrap() []error }); ok {
		var out []error
		for _, e := range many.Unwrap() {
			out = append(out, worded(verb, e))
		}
		return errors.Join(out...)
	}
	if f, ok := errors.AsType[*failure](err); ok {
		return f
	}
	if p, ok := errors.AsType[*param.Error](err); ok {
		if words := missing(verb, p); words != "" {
			return usageError("%s", words)
		}
		return usageError("%s: --%s: %w", verb, p.Name, p.Err)
	}
	if f, ok := errors.AsType[*dress.Fault](err); ok { // like a faulty recipe
		return &failure{statusUsage, f}
	}
	if f, ok := errors.AsType[*chain.Fault](err); ok {
		return f.Err
	}
	return err
}
