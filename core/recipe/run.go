package recipe

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"maps"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"gyrolith/core/advice"
	"gyrolith/core/choose"
	"gyrolith/core/job"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// Outcome is what came of one input: a line of the journal, and the files that were written.
type Outcome struct {
	Input *Input
	Entry *Entry
}

// Result is what the chain makes of inputs: files to be written, and how much was changed and lost on the way.
type Result struct {
	Files         []File
	Changes, Lost int
	Counts        []nav.Count
	Remarks       []Remark // findings among them
}

// File is an output, with its name below the folder that is written to, with slashes.
type File struct {
	Name    string
	Content Content
}

// Worker does the chain for inputs, one after the other, in memory. Each goroutine has a worker of its own.
type Worker interface {
	Do(ctx context.Context, inputs []Input) (*Result, error)
	Close()
}

// Runner runs a recipe over inputs.
type Runner struct {
	Recipe  *Recipe
	Inputs  []Input // of the share
	Into    string
	Share   Share
	All     string // the sum of the names and sizes of all inputs
	With    string // the sum of the files that steps use
	Program string
	Workers int // 0 is one a core
	DryRun  bool
	Plain   bool          // without a journal: outputs are new, or replace what is there
	Wait    time.Duration // for another run with the same journal to end
	Replace bool          // outputs that are there and that no run has written are kept beside, and not refused

	Step      func()   // called before outputs get their names; tests break a run off there
	Patterns  []string // the names of outputs, with the words of inputs
	NewWorker func() (Worker, error)

	mu    sync.Mutex
	taken map[string]string // the inputs of outputs, by the names in lower case
	Tell  func(*Outcome)    // called for one outcome after the other
}

// Run does what is new or changed since the journal was written. Outcomes are told as they come; a failing input does
// not stop the others. The error is of the run as a whole.
func (r *Runner) Run(ctx context.Context, done *atomic.Int64) error {
	path := filepath.Join(r.Into, JournalName(r.Share))
	open := OpenJournal
	if r.Plain {
		open = func(string) (*Journal, error) { return &Journal{entries: map[string]*Entry{}}, nil }
	} else if r.DryRun {
		open = func(path string) (*Journal, error) {
			j, _, err := ReadJournal(path)
			return j, err
		}
	}
	if !r.Plain && !r.DryRun {
		if err := os.MkdirAll(r.Into, 0o777); err != nil {
			return err
		}
		release, err := safefile.Lock(ctx, path, r.Wait)
		if err != nil {
			return err
		}
		defer release()
		safefile.Sweep(r.Into)
	}
	journal, err := open(path)
	if err != nil {
		return err
	}
	defer journal.Close()
	sum := r.Recipe.SumOfText()
	tasks := r.tasks()
	head := &Head{Recipe: sum, Share: r.Share.String(), Inputs: len(tasks), All: r.All, By: host()}
	if !r.Plain {
		wanted := map[string]bool{}
		for i := range tasks {
			wanted[tasks[i].key] = true
		}
		if head.Round, err = journal.Borrow(r.Into, r.Share.Of, wanted); err != nil {
			return err
		}
	}
	if !r.DryRun {
		if err := journal.Add(&Entry{Run: head}); err != nil {
			return err
		}
	}
	workers := r.Workers
	if workers == 0 {
		workers = runtime.GOMAXPROCS(0)
	}
	queue := make(chan task)
	var group sync.WaitGroup
	var tell sync.Mutex
	var faults []error
	fail := func(err error) {
		tell.Lock()
		defer tell.Unlock()
		faults = append(faults, err)
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	for range min(workers, max(len(tasks), 1)) {
		group.Go(func() {
			w, err := r.NewWorker()
			if err != nil {
				fail(err)
				cancel()
				return
			}
			defer w.Close()
			for j := range queue {
				o, err := r.one(ctx, w, journal, j, sum)
				if err != nil {
					fail(err)
					cancel()
					return
				}
				done.Add(1)
				tell.Lock()
				r.Tell(o)
				tell.Unlock()
			}
		})
	}
feed:
	for _, j := range tasks {
		select {
		case queue <- j:
		case <-ctx.Done():
			break feed
		}
	}
	close(queue)
	group.Wait()
	if len(faults) == 0 && ctx.Err() != nil {
		faults = append(faults, ctx.Err())
	}
	if len(faults) == 0 && !r.DryRun {
		faults = append(faults, journal.Finish())
	}
	return errors.Join(faults...)
}

// task is what one chain is done for: an input, or all of them.
type task struct {
	key    string
	inputs []Input
}

func (r *Runner) tasks() (out []task) {
	if r.Recipe.Together {
		return []task{{"all", r.Inputs}}
	}
	for i := range r.Inputs {
		out = append(out, task{r.Inputs[i].Rel, r.Inputs[i : i+1]})
	}
	return
}

// one does the chain for a task, unless the journal says that nothing has changed.
func (r *Runner) one(ctx context.Context, w Worker, journal *Journal, j task, recipe string) (*Outcome, error) {
	e := &Entry{Input: j.key, Recipe: recipe, With: r.With, Program: r.Program}
	o := &Outcome{Input: &j.inputs[0], Entry: e}
	var paths []string
	for _, in := range j.inputs {
		paths = append(paths, in.Path)
	}
	sum, err := "", error(nil)
	if !r.Plain {
		sum, err = SumOfAll(paths)
	}
	if err != nil {
		e.Status, e.Why, e.Before = Refused, err.Error(), ours(journal.all(j.key))
		return o, r.note(journal, e)
	}
	e.Sum = sum
	for _, old := range journal.all(j.key) {
		if (old.Status == Done || old.Status == Other) && old.Sum == sum && old.Recipe == recipe && old.With == e.With &&
			old.Program == e.Program && r.standing(old) {
			kept := *old
			if o.Entry = &kept; old.Status == Done {
				kept.Status = Kept
			}
			return o, r.note(journal, old) // this run has it as well
		}
	}
	if r.DryRun && !r.Plain {
		e.Status = Done
		e.Outputs = map[string]string{}
		for _, pattern := range r.Patterns {
			e.Outputs[j.inputs[0].Fill(pattern)] = ""
		}
		return o, nil
	}
	result, err := w.Do(ctx, j.inputs)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if err == nil {
		e.Remarks = result.Remarks
		e.Changes, e.Lost, e.Counts, e.Outputs = result.Changes, result.Lost, result.Counts, map[string]string{}
		for _, f := range result.Files {
			if e.Outputs[f.Name] = ""; !r.Plain {
				sum := sha256.New()
				f.Content.WriteTo(sum)
				e.Outputs[f.Name] = hex.EncodeToString(sum.Sum(nil))
			}
		}
		err = r.write(journal, e, result.Files)
	}
	if errors.Is(err, job.ErrNoData) {
		e.Status = Other
		return o, r.note(journal, e)
	}
	if stop, ok := errors.AsType[*stopped](err); ok {
		return nil, stop.error
	}
	if err != nil {
		_, nothing := errors.AsType[choose.Nothing](err)
		_, strict := errors.AsType[*job.Refused](err)
		*e = Entry{Input: e.Input, Sum: e.Sum, Recipe: e.Recipe, With: e.With, Program: e.Program, Status: Refused,
			Why: err.Error(), Nothing: nothing, Strict: strict,
			Advice: advice.Of(err), Before: ours(journal.all(j.key))}
		return o, r.note(journal, e)
	}
	e.Status = Done
	return o, r.note(journal, e)
}

// stopped is an error that no other input would fare better with.
type stopped struct{ error }

// write gives the outputs of an input their names, all or none. Before that a line of the journal says which they will
// be, so that a run after a crash knows them for its own.
func (r *Runner) write(journal *Journal, e *Entry, files []File) error {
	var pending []*safefile.Pending
	old := ours(journal.all(e.Input))
	if err := r.claim(e.Input, files); err != nil {
		return err
	}
	if r.DryRun {
		return nil
	}
	for _, f := range files {
		path := filepath.Join(r.Into, filepath.FromSlash(f.Name))
		over, err := r.mayWrite(path, f.Name, old)
		if err != nil {
			return err
		}
		if err := r.folderOf(f.Name); err != nil {
			return err
		}
		begin := safefile.CreateOver
		if !over {
			begin = func(path string) (*safefile.Pending, error) { return safefile.Create(path, r.Replace) }
		}
		p, err := begin(path)
		if err != nil {
			return err
		}
		defer p.Discard()
		if !r.Plain {
			p.Quick() // the journal has its sum
		}
		if _, err := f.Content.WriteTo(p); err != nil {
			return err
		}
		pending = append(pending, p)
	}
	begun := *e
	begun.Status = writing
	begun.Before = old
	if err := journal.Add(&begun); err != nil {
		return &stopped{err}
	}
	if r.Step != nil {
		r.Step()
	}
	_, err := safefile.CommitAll(pending)
	return err
}

// folderOf makes the folder of an output. A link does not lead out of the folder for all.
func (r *Runner) folderOf(name string) error {
	if r.Plain {
		return os.MkdirAll(filepath.Join(r.Into, filepath.Dir(filepath.FromSlash(name))), 0o777)
	}
	if err := os.MkdirAll(r.Into, 0o777); err != nil {
		return err
	}
	root, err := os.OpenRoot(r.Into)
	if err != nil {
		return err
	}
	defer root.Close()
	dir := path.Dir(filepath.ToSlash(name))
	if err := root.MkdirAll(dir, 0o777); err != nil {
		return fmt.Errorf("%s can't be written: its folder can't be reached below %s, perhaps because a link leads out of it",
			name,
			r.Into)
	}
	return nil
}

// claim refuses outputs that another input has written in the same run.
func (r *Runner) claim(input string, files []File) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.taken == nil {
		r.taken = map[string]string{}
	}
	for _, f := range files {
		if other, ok := r.taken[strings.ToLower(f.Name)]; ok && other != input {
			return fmt.Errorf("would write %s, which %s has already written: tell them apart with {folder}, {name} or {number}",
				f.Name, other)
		}
	}
	for _, f := range files {
		r.taken[strings.ToLower(f.Name)] = input
	}
	return nil
}

// ours are the outputs that earlier runs wrote for an input, with all sums that they may have, separated by blanks: a
// refusal or a crash in between does not make them somebody else's.
func ours(all []*Entry) map[string]string {
	out := map[string]string{}
	for _, old := range all {
		names := []map[string]string{old.Outputs, old.Before}
		if old.Status == Done {
			names = names[:1]
		}
		for _, sums := range names {
			for name, sum := range sums {
				if sum != "" && !strings.Contains(out[name], sum) {
					out[name] = strings.TrimSpace(out[name] + " " + sum)
				}
			}
		}
	}
	if len(out) == 0 {
		return nil
	}
	return out
}

// writing is the status of an input whose outputs are about to get their names.
const writing Status = "writing"

// mayWrite says whether an output may be written over, which is so only for what a run has written and nobody has
// changed since.
func (r *Runner) mayWrite(path, name string, ours map[string]string) (over bool, err error) {
	if _, err := os.Lstat(path); err != nil || ours[name] == "" {
		return false, nil
	}
	now, err := SumOf(path)
	switch {
	case err != nil:
		return false, err
	case strings.Contains(ours[name], now):
		return true, nil
	case !r.Replace:
		return false, advice.Errorf(advice.ReplaceOurs, "%s has been changed since it was written", name)
	}
	return false, nil
}

func (r *Runner) note(journal *Journal, e *Entry) error {
	if r.DryRun {
		return nil
	}
	return journal.Add(e)
}

// standing says whether all outputs are there as they were written.
func (r *Runner) standing(e *Entry) bool {
	for name, sum := range maps.All(e.Outputs) {
		path := filepath.Join(r.Into, filepath.FromSlash(name))
		if _, err := os.Stat(path); err != nil {
			return false
		}
		if now, err := SumOf(path); err != nil || now != sum {
			return false
		}
	}
	return true
}
