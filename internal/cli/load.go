package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
)

// expand lists the files that the arguments name: those of folders and patterns too. What was left alone is said.
func (j *job) expand(ctx context.Context, args []string) ([]string, error) {
	g, err := j.gathered(ctx, args)
	if err != nil {
		return nil, err
	}
	paths := make([]string, len(g.Files))
	j.found = nil
	for i, f := range g.Files {
		paths[i] = f.Path
		if f.Found {
			j.found = g.Files
		}
	}
	return paths, nil
}

// leaveOthers leaves out what was found in folders and turns out to be no data.
func (j *job) leaveOthers(inputs []*format.Loaded, err error) ([]*format.Loaded, error) {
	faults := []error{err}
	if joined, ok := err.(interface{ Unwrap() []error }); ok {
		faults = joined.Unwrap()
	}
	n := len(faults)
	faults = slices.DeleteFunc(slices.Clone(faults), func(err error) bool {
		return slices.ContainsFunc(j.found, func(f input.File) bool {
			e, ok := errors.AsType[*format.Error](err)
			return ok && e.Path == f.Path && f.IsOther(err)
		})
	})
	if others := n - len(faults); others > 0 && !j.quiet && !j.json {
		j.err.Printf("%s without navigation data skipped\n", plural(others, "file", "files"))
	}
	inputs = slices.DeleteFunc(inputs, func(in *format.Loaded) bool { return in == nil })
	if err := errors.Join(faults...); err != nil || len(inputs) > 0 {
		return inputs, err
	}
	return nil, nothingError("no file in these folders has navigation data")
}

// isData says whether a file in a folder is data.
func (a *app) isData(ctx context.Context) func(path string) bool {
	return func(path string) bool { return input.IsData(ctx, a.kit.Formats, path) }
}

// saySkipped counts the files of folders that are no data, and names them to who wants it verbose.
func (j *job) saySkipped(others []string) {
	for _, path := range others {
		j.log().Debug("skipped", "file", path)
	}
	if n, kinds := input.Kinds(others); n > 0 {
		j.err.Printf("%s of other kinds skipped in the folders: %s\n", plural(n, "file", "files"), console.Show(kinds))
	}
}

func (j *job) gathered(ctx context.Context, args []string) (*input.Gathered, error) {
	g, err := input.Gather(args, "", j.isData(ctx))
	if err != nil {
		return nil, err
	}
	if !j.quiet && !j.json {
		j.saySkipped(g.Others)
	}
	if len(g.Files) == 0 && len(args) > 0 {
		return nil, nothingError("%s: contains no data file", strings.Join(args, ", "))
	}
	return g, nil
}

// load reads the files, in their order. What a reader noticed is said by the caller.
func (j *job) load(ctx context.Context, paths []string) ([]*format.Loaded, error) {
	if len(paths) == 0 {
		return nil, usageError("%s: name at least one file, or - for standard input; 'gyrolith %s --help' explains the rest",
			j.verb, j.verb)
	}
	if i := slices.Index(paths, "-"); i >= 0 && slices.Contains(paths[i+1:], "-") {
		return nil, usageError("%s: standard input can be read only once", j.verb)
	}
	began := time.Now()
	if err := j.stage.Take.Check(); err != nil {
		return nil, usageError("%s: %v", j.verb, err)
	}
	if err := j.reading.Resolve(ctx, &j.stage.Take); err != nil {
		return nil, err
	}
	j.saySame(paths)
	if j.stage.Take.Plain() {
		j.reading.Options.Inside = j.stage.Take.Inside
	}
	inputs, err := j.reading.LoadAll(ctx, paths)
	if j.found != nil {
		inputs, err = j.leaveOthers(inputs, err)
	}
	for _, in := range inputs {
		if in != nil {
			j.log().Debug("read", "file", in.Path, "format", in.Format.Name, "points", in.Data.Points(), "took",
				time.Since(began))
		}
	}
	return inputs, err
}

// saySame tells of a file that is named twice.
func (j *job) saySame(paths []string) {
	var seen []os.FileInfo
	for i, path := range paths {
		info, err := os.Stat(path)
		if err != nil || path == "-" {
			continue
		}
		if slices.ContainsFunc(seen, func(x os.FileInfo) bool { return os.SameFile(x, info) }) {
			j.note(fmt.Sprintf("%s is named twice (input %d) and was read twice", path, i+1))
		}
		seen = append(seen, info)
	}
}

// merged says what the readers noticed, refuses under --strict what is missing, and makes one dataset of the inputs.
func (j *job) merged(inputs []*format.Loaded, strict, mends bool) (*chain.Work, error) {
	j.saySystem(j.reading.Options.System, false)
	w := &chain.Work{Source: chain.Stem(inputs[0].Path), Remarks: chain.Remarks(inputs)}
	for _, in := range inputs {
		j.remarks(in)
	}
	if strict {
		if err := strictInput(w.Remarks, mends); err != nil {
			return nil, err
		}
	}
	w.Data = input.Merge(inputs)
	chosen := j.stage.Take
	unmatched, err := w.Choose(&chosen)
	if err != nil {
		return nil, err
	}
	for _, r := range unmatched {
		j.note(r.String())
	}
	if w.Data.Counts() == [4]int{} {
		if !chosen.Empty() {
			return nil, nothingError("nothing in these files matches the options; 'gyrolith look' shows what is in them")
		}
		return nil, j.reading.NotEmpty(w.Data, inputs[0].Path)
	}
	if strict {
		if err := strictInput(unmatched, mends); err != nil {
			return nil, err
		}
	}
	return w, nil
}

// gather opens the reading, and loads and merges the inputs of a verb.
func (j *job) gather(ctx context.Context, paths []string) (w *chain.Work, path string, err error) {
	if err := j.reading.Open(ctx); err != nil {
		return nil, "", worded(j.verb, err)
	}
	if paths, err = j.expand(ctx, paths); err != nil {
		return nil, "", err
	}
	inputs, err := j.load(ctx, paths)
	if err != nil {
		return nil, "", err
	}
	w, err = j.merged(inputs, j.strict, false)
	return w, inputs[0].Path, err
}

// strictInput refuses inputs with positions that can't be used or things that can't be held.
func strictInput(remarks []chain.Remark, mends bool) error {
	if r, refused := chain.Strict(remarks, mends); refused {
		return strictError("%s; refused by --strict", advised(r.String(), r.Advice()))
	}
	return nil
}

// fewRejects are named one by one; of more, the rest are counted.
const fewRejects = 10

// remarks says on standard error what was left out of an input and what was guessed.
func (j *job) remarks(in *format.Loaded) {
	if j.quiet {
		return
	}
	var read, problems, rejects []chain.Remark
	for _, r := range chain.Remarks([]*format.Loaded{in}) {
		switch {
		case r.Cut != nil:
			j.note(r.String())
		case r.Reject != nil:
			rejects = append(rejects, r)
		case r.Problem.Info:
			read = append(read, r)
		default:
			problems = append(problems, r)
		}
	}
	for _, r := range read {
		j.err.Printf("%s %s\n", j.err.Paint(console.Faint, "read:"), console.Show(advised(r.String(), r.Advice())))
	}
	for _, r := range rejects[:min(len(rejects), fewRejects)] {
		j.note(advised(r.String(), r.Advice()))
	}
	if n := len(rejects) - fewRejects; n > 0 {
		j.note(fmt.Sprintf("%s: %d more positions were left out, in %s", in.Path, n, lineList(in.Data.Rejects[fewRejects:])))
	}
	for _, r := range problems {
		j.note(advised(r.String(), r.Advice()))
	}
}

// lineList tells where rejects stand: lines 7, 9 to 12, 20.
func lineList(rejects []nav.Reject) string {
	var parts []string
	for i := 0; i < len(rejects); {
		j := i
		for j+1 < len(rejects) && rejects[j+1].Line-rejects[j].Line <= 1 {
			j++
		}
		part := strconv.Itoa(rejects[i].Line)
		if rejects[j].Line > rejects[i].Line {
			part += " to " + strconv.Itoa(rejects[j].Line)
		}
		parts = append(parts, part)
		i = j + 1
	}
	const many = 30
	if n := len(parts) - many; n > 0 {
		return fmt.Sprintf("lines %s and %d more places", strings.Join(parts[:many], ", "), n)
	}
	return "lines " + strings.Join(parts, ", ")
}

func same(a, b string) bool {
	x, err1 := os.Stat(a)
	y, err2 := os.Stat(b)
	return err1 == nil && err2 == nil && os.SameFile(x, y)
}
