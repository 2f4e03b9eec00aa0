package frame

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/export"
	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/words"
)

// Settle settles where an end is written, before anything is read.
func (j *Task) Settle(verb string, end *chain.End, inputs []string) error {
	switch {
	case end.Name == "":
		return UsageError("%s: no output given; add -o FILE, or -o - for standard output", verb)
	case strings.HasPrefix(end.Name, "--"):
		return UsageError("%s: -o is followed by the option %s instead of a file name", verb, end.Name)
	case end.Name == "-" && j.JSON:
		return UsageError("%s: --json and -o - both use standard output", verb)
	}
	if err := end.Check(); err != nil {
		if u, ok := errors.AsType[*export.Unnamed](err); ok {
			return unnamed(verb, u)
		}
		return Checked(verb, err)
	}
	return j.Free(verb, end.Name, inputs)
}

// Free refuses an output that is an input, or that is there already.
func (j *Task) Free(verb, name string, inputs []string) error {
	if name == "-" {
		return nil
	}
	for _, in := range slices.Concat(inputs, j.beside) {
		if Same(in, name) {
			return UsageError("%s: %s is an input as well; inputs are never changed: name another output", verb, name)
		}
	}
	if _, err := os.Lstat(name); err == nil && !j.Replace && !j.DryRun && !safefile.IsStream(name) {
		return fmt.Errorf("%s: %w", name, safefile.ErrExists)
	}
	return nil
}

func unnamed(verb string, u *export.Unnamed) error {
	switch {
	case u.Name == "-":
		return UsageError("%s: standard output needs a format: add --write-as with one of %s", verb,
			u.Formats)
	case filepath.Ext(u.Name) == "":
		return UsageError("%s: %s has no extension to choose the format by: add one, or --write-as with one of %s", verb,
			u.Name, u.Formats)
	}
	return UsageError("%s: the extension of %s is not that of a format; add --write-as with one of %s", verb, u.Name,
		u.Formats)
}

// Sink is where the files of a verb stand until nothing speaks against them.
func (j *Task) Sink(over bool) *job.Files {
	return &job.Files{Stdout: j.Out, Over: over || j.Replace, Held: j.Strict, Dry: j.DryRun}
}

// Write writes an end of data that no chain has made, refuses losses under --strict, and says what was written. Before
// is what was changed on the way.
func (j *Task) Write(ctx context.Context, end *chain.End, w *chain.Work, before nav.Ledger, over bool) error {
	s := j.Sink(over)
	defer s.Discard()
	made, err := end.Write(ctx, w, end.Name, s)
	if err != nil {
		return Worded(j.Verb, err)
	}
	if made == nil {
		return FaultIn(end.Name, "there is nothing to write")
	}
	ledger := append(append(nav.Ledger{}, before...), made.Ledger...)
	if j.Strict {
		if err := job.RefuseLosses(end.Name, ledger); err != nil {
			j.Ledger(ledger)
			return err
		}
	}
	return j.commit(s, end, made, ledger)
}

// Finish writes the one end of a job and says what was written. Before is what was changed on the way.
func (j *Task) Finish(ctx context.Context, x *job.Job, r *job.Result, before nav.Ledger, over bool) error {
	s := j.Sink(over)
	defer s.Discard()
	err := x.Write(ctx, r, s)
	if len(r.Made) == 0 {
		return Worded(j.Verb, cmp.Or(err, FaultIn(x.Ends[0].Name, "there is nothing to write")))
	}
	ledger := append(append(nav.Ledger{}, before...), r.Made[0].Ledger...)
	if err != nil {
		j.Ledger(ledger)
		return Worded(j.Verb, err)
	}
	return j.commit(s, x.Ends[0], r.Made[0], ledger)
}

// commit gives the files of an output their names, and says what they hold.
func (j *Task) commit(s *job.Files, end *chain.End, made *export.Made, ledger nav.Ledger) error {
	began := time.Now()
	j.SaySystem(made.System, true)
	kept, err := s.Commit()
	if err != nil {
		return err
	}
	j.log().Debug("wrote", "file", end.Name, "took", time.Since(began))
	return j.Wrote(made, end.Name, ledger, strings.Join(kept, ", "))
}

// WroteAnswer is what a verb that makes data answers as JSON.
type WroteAnswer struct {
	Output    string     `json:"output"`
	Files     []string   `json:"files,omitempty"`
	Format    string     `json:"format"`
	Kept      string     `json:"kept,omitempty"`
	DryRun    bool       `json:"dry_run,omitempty"`
	Waypoints int        `json:"waypoints"`
	Routes    int        `json:"routes"`
	Tracks    int        `json:"tracks"`
	Areas     int        `json:"areas"`
	Points    int        `json:"points"`
	Found     *int       `json:"found_again,omitempty"` // items, when it was read back
	Ledger    nav.Ledger `json:"ledger"`
}

// Wrote ends a verb that makes data: the ledger, and one line that says what stands where, as the writer counted it.
func (j *Task) Wrote(made *export.Made, name string, ledger nav.Ledger, kept string) error {
	files := made.Files
	j.Written = append(j.Written, files...)
	if len(files) == 1 {
		files = nil
	}
	if j.JSON {
		c := made.Items
		return j.PrintJSON(WroteAnswer{name, files, made.Format.Name, kept, j.DryRun, c[0], c[1], c[2], c[3], made.Points,
			made.Found, words.Told(ledger)})
	}
	j.Ledger(ledger)
	if j.Quiet {
		return nil
	}
	verb := j.Err.Paint(console.Green, "wrote")
	if j.DryRun {
		verb = "would write"
	}
	if name == "-" {
		name = "standard output"
	}
	if len(files) > 0 {
		name = strings.Join(words.Shortened(files), ", ")
	}
	again := ""
	if made.Found != nil {
		n := made.Items[0] + made.Items[1] + made.Items[2] + made.Items[3]
		again = fmt.Sprintf("; %s of %s found again", measure.Count(*made.Found), measure.Count(n))
	}
	j.Err.Printf("%s %s (%s): %s, %s%s\n", verb, console.Show(name), made.Format.Name, words.Counts(made.Items),
		measure.Counted(made.Points, "point", "points"), again)
	if kept != "" {
		j.Err.Printf("the old file is kept as %s\n", console.Show(kept))
	}
	return nil
}
