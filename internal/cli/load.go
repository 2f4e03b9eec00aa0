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
	"gyrolith/core/job"
	"gyrolith/core/nav"
	"gyrolith/internal/cli/console"
)

// expand lists the files that the arguments name: those of folders and patterns too. What was left alone is said.
func (j *task) expand(ctx context.Context, args []string) ([]string, error) {
	g, err := j.gathered(ctx, args)
	if err != nil {
		return nil, err
	}
	j.found = g.Files
	return input.Paths(g.Files), nil
}

// isData says whether a file in a folder is data.
func (a *app) isData(ctx context.Context) func(path string) bool {
	return func(path string) bool { return input.IsData(ctx, a.kit.Formats, path) }
}

// saySkipped counts the files of folders that are no data, and names them to who wants it verbose.
func (j *task) saySkipped(others []string) {
	for _, path := range others {
		j.log().Debug("skipped", "file", path)
	}
	if n, kinds := input.Kinds(others); n > 0 {
		j.err.Printf("%s of other kinds skipped in the folders: %s\n", plural(n, "file", "files"), console.Show(kinds))
	}
}

func (j *task) gathered(ctx context.Context, args []string) (*input.Gathered, error) {
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
func (j *task) load(ctx context.Context, paths []string) ([]*format.Loaded, error) {
	began := time.Now()
	if err := j.ready(ctx, paths); err != nil {
		return nil, err
	}
	inputs, others, err := job.Inputs(ctx, j.reading, j.files(paths))
	j.sayOthers(others)
	j.logRead(inputs, began)
	return inputs, err
}

// ready refuses files that can't be read together, and settles what is read of them.
func (j *task) ready(ctx context.Context, paths []string) error {
	if len(paths) == 0 {
		return usageError("%s: name at least one file, or - for standard input; 'gyrolith %s --help' explains the rest",
			j.verb, j.verb)
	}
	if i := slices.Index(paths, "-"); i >= 0 && slices.Contains(paths[i+1:], "-") {
		return usageError("%s: standard input can be read only once", j.verb)
	}
	if err := j.stage.Take.Check(); err != nil {
		return usageError("%s: %v", j.verb, err)
	}
	if err := j.reading.Resolve(ctx, &j.stage.Take); err != nil {
		return err
	}
	j.saySame(paths)
	if j.stage.Take.Plain() {
		j.reading.Options.Inside = j.stage.Take.Inside
	}
	return nil
}

// files are the inputs of some paths: those that were found, or else those that are named.
func (j *task) files(paths []string) []input.File {
	if len(j.found) == len(paths) {
		return j.found
	}
	out := make([]input.File, len(paths))
	for i, path := range paths {
		out[i] = input.File{Path: path}
	}
	return out
}

// sayOthers counts the files of folders that turned out to be no data.
func (j *task) sayOthers(n int) {
	if n > 0 && !j.quiet && !j.json {
		j.err.Printf("%s without navigation data skipped\n", plural(n, "file", "files"))
	}
}

func (j *task) logRead(inputs []*format.Loaded, began time.Time) {
	for _, in := range inputs {
		j.log().Debug("read", "file", in.Path, "format", in.Format.Name, "points", in.Data.Points(), "took",
			time.Since(began))
	}
}

// saySame tells of a file that is named twice.
func (j *task) saySame(paths []string) {
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

// jobOf is the job of a verb: its step if there is one, what is chosen for it, and what it writes.
func (j *task) jobOf(ends ...*chain.End) *job.Job {
	c := &chain.Chain{Reading: j.reading, Stages: []*chain.Stage{j.stage}, Ends: ends}
	return &job.Job{Chain: c, Strict: j.strict}
}

// begin loads the inputs of a job and says what was noticed of them.
func (j *task) begin(ctx context.Context, x *job.Job, paths []string) (*job.Result, error) {
	began := time.Now()
	if err := j.ready(ctx, paths); err != nil {
		return nil, err
	}
	x.Read = func(inputs []*format.Loaded) {
		j.logRead(inputs, began)
		j.saySystem(j.reading.Options.System, false)
		for _, in := range inputs {
			j.remarks(in)
		}
	}
	r, err := x.Load(ctx, j.files(paths))
	j.sayOthers(r.Others)
	return r, err
}

// apply does the steps of a job and says what of the choice had no effect.
func (j *task) apply(ctx context.Context, x *job.Job, r *job.Result) error {
	told := len(r.Remarks)
	err := x.Apply(ctx, r)
	for _, m := range r.Remarks[told:] {
		j.note(m.String())
	}
	if errors.Is(err, chain.ErrNothingTaken) {
		err = nothingError("nothing in these files matches the options; 'gyrolith look' shows what is in them")
	}
	return err
}

// gather loads the inputs of a verb that makes no data, merged, and takes what is chosen of them.
func (j *task) gather(ctx context.Context, paths []string) (w *chain.Work, path string, err error) {
	x := j.jobOf()
	if err := x.Open(ctx); err != nil {
		return nil, "", worded(j.verb, err)
	}
	defer x.Close()
	if paths, err = j.expand(ctx, paths); err != nil {
		return nil, "", err
	}
	r, err := j.begin(ctx, x, paths)
	if err == nil {
		err = j.apply(ctx, x, r)
	}
	if err != nil {
		return nil, "", err
	}
	return &r.Work, r.Path, nil
}

// fewRejects are named one by one; of more, the rest are counted.
const fewRejects = 10

// remarks says on standard error what was left out of an input and what was guessed.
func (j *task) remarks(in *format.Loaded) {
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
