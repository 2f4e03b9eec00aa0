package frame

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"

	"gyrolith/core/chain"
	"gyrolith/core/choose"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/words"
)

// Expand lists the files that the arguments name: those of folders and patterns too. What was left alone is said.
func (j *Task) Expand(ctx context.Context, args []string) ([]input.File, error) {
	g, err := j.Gathered(ctx, args)
	if err != nil {
		return nil, err
	}
	return g.Files, nil
}

// IsData says whether a file in a folder is data.
func (a *App) IsData(ctx context.Context) func(path string) bool {
	return func(path string) bool { return input.IsData(ctx, a.Kit.Formats, path) }
}

// SaySkipped counts the files of folders that are no data, and names them to who wants it verbose.
func (j *Task) SaySkipped(others []string) {
	for _, path := range others {
		j.log().Debug("skipped", "file", path)
	}
	if n, kinds := input.Kinds(others); n > 0 {
		j.Err.Printf("%s of other kinds skipped in the folders: %s\n",
			measure.Counted(n, "file", "files"), console.Show(kinds))
	}
}

// Gathered lists the inputs that arguments name, and says what was left alone.
func (j *Task) Gathered(ctx context.Context, args []string) (*input.Gathered, error) {
	g, err := input.Gather(args, "", j.IsData(ctx))
	if err != nil {
		return nil, err
	}
	if !j.Quiet && !j.JSON {
		j.SaySkipped(g.Others)
	}
	if len(g.Files) == 0 && len(args) > 0 {
		return nil, NothingError("%s: contains no data file", strings.Join(args, ", "))
	}
	return g, nil
}

// Load reads the files, in their order. What a reader noticed is said by the caller.
func (j *Task) Load(ctx context.Context, files []input.File) ([]*format.Loaded, error) {
	began := time.Now()
	if err := j.ready(ctx, input.Paths(files)); err != nil {
		return nil, err
	}
	inputs, others, err := job.Inputs(ctx, j.Reading, files)
	j.sayOthers(others)
	j.logRead(inputs, began)
	return inputs, err
}

// ready refuses files that can't be read together, and settles what is read of them.
func (j *Task) ready(ctx context.Context, paths []string) error {
	if len(paths) == 0 {
		return UsageError("%s: name at least one file, or - for standard input; 'gyrolith %s --help' explains the rest",
			j.Verb, j.Verb)
	}
	if i := slices.Index(paths, "-"); i >= 0 && slices.Contains(paths[i+1:], "-") {
		return UsageError("%s: standard input can be read only once", j.Verb)
	}
	if err := j.Stage.Take.Check(); err != nil {
		return UsageError("%s: %v", j.Verb, err)
	}
	if err := j.Reading.Resolve(ctx, &j.Stage.Take); err != nil {
		return err
	}
	j.saySame(paths)
	if j.Stage.Take.Plain() {
		j.Reading.Options.Inside = j.Stage.Take.Inside
	}
	return nil
}

// sayOthers counts the files of folders that turned out to be no data.
func (j *Task) sayOthers(n int) {
	if n > 0 && !j.Quiet && !j.JSON {
		j.Err.Printf("%s without navigation data skipped\n", measure.Counted(n, "file", "files"))
	}
}

func (j *Task) logRead(inputs []*format.Loaded, began time.Time) {
	for _, in := range inputs {
		j.log().Debug("read", "file", in.Path, "format", in.Format.Name, "points", in.Data.Points(), "took",
			time.Since(began))
	}
}

// saySame tells of a file that is named twice.
func (j *Task) saySame(paths []string) {
	var seen []os.FileInfo
	for i, path := range paths {
		info, err := os.Stat(path)
		if err != nil || path == "-" {
			continue
		}
		if slices.ContainsFunc(seen, func(x os.FileInfo) bool { return os.SameFile(x, info) }) {
			j.Note(fmt.Sprintf("%s is named twice (input %d) and was read twice", path, i+1))
		}
		seen = append(seen, info)
	}
}

// JobOf is the job of a verb: its step if there is one, what is chosen for it, and what it writes.
func (j *Task) JobOf(ends ...*chain.End) *job.Job {
	c := &chain.Chain{Reading: j.Reading, Stages: []*chain.Stage{j.Stage}, Ends: ends}
	return &job.Job{Chain: c, Strict: j.Strict}
}

// Begin loads the inputs of a job and says what was noticed of them.
func (j *Task) Begin(ctx context.Context, x *job.Job, files []input.File) (*job.Result, error) {
	began := time.Now()
	if err := j.ready(ctx, input.Paths(files)); err != nil {
		return nil, err
	}
	x.Read = func(inputs []*format.Loaded) {
		j.logRead(inputs, began)
		j.SaySystem(j.Reading.Options.System, false)
		for _, in := range inputs {
			j.Remarks(in)
		}
	}
	r, err := x.Load(ctx, files)
	j.sayOthers(r.Others)
	return r, err
}

// Apply does the steps of a job and says what of the choice had no effect.
func (j *Task) Apply(ctx context.Context, x *job.Job, r *job.Result) error {
	told := len(r.Remarks)
	err := x.Apply(ctx, r)
	for _, m := range r.Remarks[told:] {
		j.Note(m.String())
	}
	if errors.Is(err, choose.ErrNothing) {
		err = NothingError("nothing in these files matches the options; 'gyrolith look' shows what is in them")
	}
	return err
}

// Gather loads the inputs of a verb that makes no data, merged, and takes what is chosen of them.
func (j *Task) Gather(ctx context.Context, args []string) (w *chain.Work, path string, err error) {
	x := j.JobOf()
	if err := x.Open(ctx); err != nil {
		return nil, "", Worded(j.Verb, err)
	}
	defer x.Close()
	files, err := j.Expand(ctx, args)
	if err != nil {
		return nil, "", err
	}
	r, err := j.Begin(ctx, x, files)
	if err == nil {
		err = j.Apply(ctx, x, r)
	}
	if err != nil {
		return nil, "", err
	}
	return &r.Work, r.Path, nil
}

// fewRejects are named one by one; of more, the rest are counted.
const fewRejects = 10

// Remarks says on standard error what was left out of an input and what was guessed.
func (j *Task) Remarks(in *format.Loaded) {
	if j.Quiet {
		return
	}
	var read, problems, rejects []chain.Remark
	for _, r := range chain.Remarks([]*format.Loaded{in}) {
		switch {
		case r.Cut != nil:
			j.Note(r.String())
		case r.Reject != nil:
			rejects = append(rejects, r)
		case r.Problem.Info:
			read = append(read, r)
		default:
			problems = append(problems, r)
		}
	}
	for _, r := range read {
		j.Err.Printf("%s %s\n", j.Err.Paint(console.Faint, "read:"), console.Show(words.Advised(r.String(), r.Advice())))
	}
	for _, r := range rejects[:min(len(rejects), fewRejects)] {
		j.Note(words.Advised(r.String(), r.Advice()))
	}
	if n := len(rejects) - fewRejects; n > 0 {
		j.Note(
			fmt.Sprintf("%s: %d more positions were left out, in %s", in.Path, n, words.Lines(in.Data.Rejects[fewRejects:])))
	}
	for _, r := range problems {
		j.Note(words.Advised(r.String(), r.Advice()))
	}
}

// Same says whether two names are of one file.
func Same(a, b string) bool {
	x, err1 := os.Stat(a)
	y, err2 := os.Stat(b)
	return err1 == nil && err2 == nil && os.SameFile(x, y)
}
