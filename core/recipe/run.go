package recipe

import (
	"context"
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
	"gyrolith/core/export"
	"gyrolith/core/job"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// Outcome is what came of one input: a line of the journal, and the files that were written.
type Outcome struct {
	Input *Input
	Entry *Entry
}

// Result is how much was changed and lost on the way, and what one should know.
type Result struct {
	Changes, Lost int
	Counts        []nav.Count
	Remarks       []Remark // findings among them
}

// Worker does the chain for inputs, one after the other, and writes the outputs to a sink, by their names below the
// folder with slashes. Each goroutine has a worker of its own.
type Worker interface {
	Do(ctx context.Context, inputs []Input, sink export.Sink) (*Result, error)
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
	ByTimes bool          // what has the size and the time that it had is taken for what it was
	ByBytes bool          // shares are by the bytes of inputs
	Replace bool          // outputs that are there and that no run has written are kept beside, and not refused

	Step      func()   // called before outputs get their names; tests break a run off there
	Patterns  []string // the names of outputs, with the words of inputs
	NewWorker func() (Worker, error)

	mu     sync.Mutex
	stamps *stamps           // nil where none are kept
	taken  map[string]string // the inputs of outputs, by the names in lower case
	Notice func(string)      // called for what one should know of the run as a whole
	Tell   func(*Outcome)    // called for one outcome after the other
}

// Run does what is new or changed since the journal was written. Outcomes are told as they come; a failing input does
// not stop the others. The error is of the run as a whole.
func (r *Runner) Run(ctx context.Context, done *atomic.Int64) error {
	path := filepath.Join(r.Into, JournalName(r.Share))
	open := OpenJournal
	if r.Plain {
		open = func(string) (*Journal, error) { return &Journal{}, nil }
	} else if r.DryRun {
		open = ReadJournal
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
		if safefile.Lockless(path) && r.Notice != nil {
			r.Notice(fmt.Sprintf("%s is on a file system without locks: see to it that no two runs of share %s are at work "+
				"there", r.Into, r.Share))
		}
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
		if head.Round, err = journal.Borrow(r.Into, r.Share.Of, r.ByBytes, wanted); err != nil {
			return err
		}
	}
	if !r.Plain && !r.DryRun {
		if r.stamps, err = openStamps(path); err != nil {
			return err
		}
		defer r.stamps.close()
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
	before := journal.all(j.key)
	now, _ := stampOf(j.inputs[0].Path)
	alone := len(j.inputs) == 1 && r.stamps != nil
	if alone && r.ByTimes {
		for _, old := range before {
			if old.lasts(recipe, e) && r.stamps.hold(o.Input, r.Into, old) {
				return o, r.keep(journal, o, old)
			}
		}
	}
	sum, err := "", error(nil)
	if !r.Plain {
		sum, err = SumOfAll(pathsOf(j.inputs))
	}
	if err != nil {
		e.Status, e.Why, e.Before = Refused, err.Error(), ours(before)
		return o, r.note(journal, e)
	}
	e.Sum = sum
	for _, old := range before {
		if old.Sum == sum && old.lasts(recipe, e) && r.standing(old) {
			if alone && !r.stamps.hold(o.Input, r.Into, old) {
				err = r.stamps.keep(o.Input, now, r.Into, old)
			}
			return o, errors.Join(err, r.keep(journal, o, old))
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
	files := &outputs{runner: r, input: j.key, ours: ours(before)}
	defer files.discard()
	result, err := w.Do(ctx, j.inputs, files)
	if ctx.Err() != nil {
		return nil, ctx.Err()
	}
	if err == nil {
		e.Remarks, e.Changes, e.Lost, e.Counts = result.Remarks, result.Changes, result.Lost, result.Counts
		e.Outputs = files.sums()
		err = files.commit(journal, e)
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
			Advice: advice.Of(err), Before: ours(before)}
		return o, r.note(journal, e)
	}
	e.Status = Done
	if alone {
		err = r.stamps.keep(o.Input, now, r.Into, e)
	}
	return o, errors.Join(err, r.note(journal, e))
}

// lasts says whether what was done before would be done in the same way again.
func (e *Entry) lasts(recipe string, now *Entry) bool {
	return (e.Status == Done || e.Status == Other) && e.Recipe == recipe && e.With == now.With && e.Program == now.Program
}

// keep tells what was done before as kept; this run has it as well.
func (r *Runner) keep(journal *Journal, o *Outcome, old *Entry) error {
	kept := *old
	if o.Entry = &kept; old.Status == Done {
		kept.Status = Kept
	}
	if r.DryRun {
		return nil
	}
	if len(journal.beside) > 0 { // of which another may be the one
		return journal.Add(old)
	}
	return journal.Again(old.Input, old)
}

func pathsOf(inputs []Input) (out []string) {
	for i := range inputs {
		out = append(out, inputs[i].Path)
	}
	return
}

// stopped is an error that no other input would fare better with.
type stopped struct{ error }

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

// claim refuses an output that another input has written in the same run.
func (r *Runner) claim(input, name string) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if r.taken == nil {
		r.taken = map[string]string{}
	}
	folded := strings.ToLower(name)
	if other, ok := r.taken[folded]; ok && other != input {
		return fmt.Errorf("would write %s, which %s has already written: tell them apart with {folder}, {name} or {number}",
			name, other)
	}
	r.taken[folded] = input
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
