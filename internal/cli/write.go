package cli

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/export"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
	"gyrolith/internal/cli/console"
)

// settle settles where an end is written, before anything is read.
func (j *job) settle(verb string, end *chain.End, inputs []string) error {
	switch {
	case end.Name == "":
		return usageError("%s: no output given; add -o FILE, or -o - for standard output", verb)
	case strings.HasPrefix(end.Name, "--"):
		return usageError("%s: -o is followed by the option %s instead of a file name", verb, end.Name)
	case end.Name == "-" && j.json:
		return usageError("%s: --json and -o - both use standard output", verb)
	}
	if err := end.Check(); err != nil {
		if u, ok := errors.AsType[*export.Unnamed](err); ok {
			return unnamed(verb, u)
		}
		f := worded(verb, err)
		if _, ok := errors.AsType[*failure](f); !ok {
			f = usageError("%s: %w", verb, f)
		}
		return f
	}
	return j.free(verb, end.Name, inputs)
}

// free refuses an output that is an input, or that is there already.
func (j *job) free(verb, name string, inputs []string) error {
	if name == "-" {
		return nil
	}
	for _, in := range slices.Concat(inputs, j.beside) {
		if same(in, name) {
			return usageError("%s: %s is an input as well; inputs are never changed: name another output", verb, name)
		}
	}
	if _, err := os.Lstat(name); err == nil && !j.replace && !j.dryRun && !safefile.IsStream(name) {
		return fmt.Errorf("%s: %w", name, safefile.ErrExists)
	}
	return nil
}

func unnamed(verb string, u *export.Unnamed) error {
	switch {
	case u.Name == "-":
		return usageError("%s: standard output needs a format: add --write-as with one of %s", verb,
			u.Formats)
	case filepath.Ext(u.Name) == "":
		return usageError("%s: %s has no extension to choose the format by: add one, or --write-as with one of %s", verb,
			u.Name, u.Formats)
	}
	return usageError("%s: the extension of %s is not that of a format; add --write-as with one of %s", verb, u.Name,
		u.Formats)
}

// sink keeps the files of an output beside their names until all are written and nothing speaks against them.
type sink struct {
	j      *job
	over   bool // what is there is kept beside, or added to
	files  []*safefile.Pending
	stdout bytes.Buffer // under --strict, until it is clear that nothing was lost
}

func (s *sink) Create(name string) (io.Writer, error) {
	switch {
	case s.j.dryRun:
		return io.Discard, nil
	case name == "-" && s.j.strict:
		return &s.stdout, nil
	case name == "-":
		return s.j.out, nil
	}
	p, err := safefile.Create(name, s.over)
	if err == nil {
		s.files = append(s.files, p)
	}
	return p, err
}

func (s *sink) discard() {
	for _, p := range s.files {
		p.Discard()
	}
}

func (s *sink) commit() (kept []string, err error) {
	if _, err := s.stdout.WriteTo(s.j.out); err != nil {
		return nil, err
	}
	return safefile.CommitAll(s.files)
}

// write writes an end, refuses losses under --strict, and says what was written. Before is what was changed on the way.
func (j *job) write(ctx context.Context, end *chain.End, w *chain.Work, before nav.Ledger, over bool) error {
	began := time.Now()
	s := &sink{j: j, over: over || j.replace}
	defer s.discard()
	made, err := end.Write(ctx, w, end.Name, s)
	if err != nil {
		return worded(j.verb, err)
	}
	if made == nil {
		return faultIn(end.Name, "there is nothing to write")
	}
	j.saySystem(made.System, true)
	ledger := append(append(nav.Ledger{}, before...), made.Ledger...)
	if n := ledger.Losses(); j.strict && n > 0 {
		j.ledger(ledger)
		return strictError("%s: %s would be lost, refused by --strict; nothing was written", end.Name,
			plural(n, "thing", "things"))
	}
	kept, err := s.commit()
	if err != nil {
		return err
	}
	j.log().Debug("wrote", "file", end.Name, "took", time.Since(began))
	return j.wrote(made, end.Name, ledger, strings.Join(kept, ", "))
}

// wrote ends a verb that makes data: the ledger, and one line that says what stands where, as the writer counted it.
func (j *job) wrote(made *export.Made, name string, ledger nav.Ledger, kept string) error {
	files := made.Files
	if len(files) == 1 {
		files = nil
	}
	if j.json {
		c := made.Items
		return j.printJSON(struct {
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
			Ledger    nav.Ledger `json:"ledger"`
		}{name, files, made.Format.Name, kept, j.dryRun, c[0], c[1], c[2], c[3], made.Points, told(ledger)})
	}
	j.ledger(ledger)
	if j.quiet {
		return nil
	}
	verb := j.err.Paint(console.Green, "wrote")
	if j.dryRun {
		verb = "would write"
	}
	if name == "-" {
		name = "standard output"
	}
	if len(files) > 0 {
		name = strings.Join(shortened(files), ", ")
	}
	j.err.Printf("%s %s (%s): %s, %s\n", verb, console.Show(name), made.Format.Name, countWords(made.Items),
		plural(made.Points, "point", "points"))
	if kept != "" {
		j.err.Printf("the old file is kept as %s\n", console.Show(kept))
	}
	return nil
}
