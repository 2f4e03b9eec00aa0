// Package cli is the command line: words into chains and calls of the core, reports into words. It is the only place
// that prints.
// Package frame is what all verbs share: a run of the program, a verb and its parsed line, how inputs are read and
// outputs written, and what is said of both.
package frame

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"runtime/debug"
	"slices"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/choose"
	"gyrolith/core/dress"
	"gyrolith/core/format"
	"gyrolith/core/job"
	"gyrolith/core/param"
	"gyrolith/core/unit"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/words"
)

// The exit statuses.
const (
	StatusDone    = 0
	statusInput   = 1 // an input could not be used, or the output not be written
	StatusUsage   = 2
	statusStrict  = 3   // --strict refused a loss, a finding or a difference
	StatusDiffers = 4   // done, but the unit shows or the card holds something else
	statusNothing = 5   // nothing is there: nothing taken, an empty folder or result
	StatusStopped = 130 // by a signal
)

// Failure is an error with its exit status.
type Failure struct {
	status int
	err    error
}

func (f *Failure) Error() string { return f.err.Error() }

// Unwrap gives the error itself.
func (f *Failure) Unwrap() error { return f.err }

// Fail makes an error with the exit status that it has.
func Fail(status int, err error) error { return &Failure{status, err} }

// UsageError is an error of wrong usage.
func UsageError(text string, args ...any) error {
	return &Failure{StatusUsage, fmt.Errorf(text, args...)}
}

// StrictError is one of what --strict refuses.
func StrictError(text string, args ...any) error {
	return &Failure{statusStrict, fmt.Errorf(text, args...)}
}

// App is one run of the program.
type App struct {
	In       io.Reader
	Out, Err *console.Stream
	Now      func() time.Time
	Kit      *chain.Kit
	Line     []string // the arguments
	KeepIn   string   // the folder for archives of cards; "" is the user's own
	Alone    bool     // no settings hold
	HelpAll  bool     // help explains shared options too
	beside   []string // the files that options name for reading

	fromSettings []string // what comes from files of settings, in words
	All          []*Verb  // that there are
	verbs        map[string]*Made
}

// NewApp makes a run with the verbs that there are.
func NewApp(all []*Verb, in io.Reader, out, errOut io.Writer) *App {
	a := &App{All: all, In: in, Out: console.New(out), Err: console.New(errOut), Now: time.Now,
		verbs: map[string]*Made{}}
	a.Err.Prose = true
	a.Kit = kit.New(a.Now(), unit.UserFolder(), in)
	return a
}

// StatusOf gives the exit status of an error; of several the one that says most of what is to be done.
func StatusOf(err error) int {
	if many, ok := err.(interface{ Unwrap() []error }); ok {
		all := map[int]bool{}
		for _, e := range many.Unwrap() {
			all[StatusOf(e)] = true
		}
		for _, status := range []int{StatusUsage, statusInput, statusStrict, statusNothing, StatusDiffers} {
			if all[status] {
				return status
			}
		}
	}
	if f, ok := errors.AsType[*Failure](err); ok {
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

// NothingError is an error of what is not there.
func NothingError(text string, args ...any) error {
	return &Failure{statusNothing, fmt.Errorf(text, args...)}
}

// Complain prints an error with the advice for it, one line for each of several.
func (a *App) Complain(err error) {
	for _, text := range complaints(err) {
		a.Err.Printf("%s %s\n", a.Err.Paint(console.Red, "gyrolith:"), console.Show(text))
	}
}

// ErrorAnswer is how errors are said as JSON.
type ErrorAnswer struct {
	Status int      `json:"status"`
	Errors []string `json:"errors"`
}

// ComplainJSON says on standard error what went wrong, as one line of JSON.
func (a *App) ComplainJSON(err error) {
	if text, wrong := json.Marshal(ErrorAnswer{StatusOf(err), complaints(err)}); wrong == nil {
		a.Err.Printf("%s\n", console.ShowJSON(string(text)))
	}
}

// complaints words an error, or each of several.
func complaints(err error) (out []string) {
	if many, ok := err.(interface{ Unwrap() []error }); ok {
		for _, e := range many.Unwrap() {
			out = append(out, complaints(e)...)
		}
		return out
	}
	text := words.AdvisedError(err)
	if _, strict := errors.AsType[*job.Refused](err); strict {
		text += "; refused by --strict, nothing was written"
	}
	return []string{text}
}

// LineVerb is the verb that a line begins with, made; nil where it begins with none.
func (a *App) LineVerb(line []string) *Made {
	if len(line) == 0 {
		return nil
	}
	for _, v := range a.All {
		if v.Name == line[0] {
			return a.Made(v)
		}
	}
	return nil
}

// logger gives the log that --verbose asks for.
func (a *App) logger(verbose bool) *slog.Logger {
	if !verbose {
		return slog.New(slog.DiscardHandler)
	}
	return slog.New(slog.NewTextHandler(a.Err, &slog.HandlerOptions{Level: slog.LevelDebug}))
}

// largeInput is from how many bytes on an input decides what memory is needed.
const largeInput = 4 << 20

// TuneMemory lets the heap grow little beyond what lives where an input may be large: a track takes most of the memory,
// and it stays.
func TuneMemory(args []string) {
	large := func(arg string) bool {
		info, err := os.Stat(arg)
		return arg == "-" || err == nil && (!info.Mode().IsRegular() || info.Size() >= largeInput)
	}
	if os.Getenv("GOGC") == "" && slices.ContainsFunc(args, large) {
		debug.SetGCPercent(25)
	}
}

// ManySmall lets the heap grow between collections, for many small files one after the other, which leave much behind
// and keep little; up to a limit, from which on it is collected as often as it takes.
func ManySmall() {
	if os.Getenv("GOGC") == "" {
		debug.SetGCPercent(800)
		debug.SetMemoryLimit(384 << 20)
	}
}

// FaultIn is an error of one file, in the words of format.Error.
func FaultIn(path, text string, args ...any) error {
	err := fmt.Errorf(text, args...)
	return &format.Error{Path: path, Msg: err.Error(), Err: err}
}

// Worded says of which option of a verb a fault of parameters is: such a fault is one of usage. An error of several is
// worded one by one.
func Worded(verb string, err error) error {
	if err == nil {
		return nil
	}
	if many, ok := err.(interface{ Unwrap() []error }); ok {
		var out []error
		for _, e := range many.Unwrap() {
			out = append(out, Worded(verb, e))
		}
		return errors.Join(out...)
	}
	if f, ok := errors.AsType[*Failure](err); ok {
		return f
	}
	if p, ok := errors.AsType[*param.Error](err); ok {
		if words := words.Missing(verb, p); words != "" {
			return UsageError("%s", words)
		}
		return UsageError("%s: --%s: %w", verb, p.Name, p.Err)
	}
	if f, ok := errors.AsType[*dress.Error](err); ok { // like a faulty recipe
		return &Failure{StatusUsage, f}
	}
	if f, ok := errors.AsType[*chain.Error](err); ok {
		return f.Err
	}
	return err
}
