package recipe

import (
	"context"

	"gyrolith/core/chain"
	"gyrolith/core/export"
	"gyrolith/core/input"
	"gyrolith/core/job"
)

// NewWorker makes a worker that does the chain of the recipe, opened. A strict one refuses what job.Job does.
func (r *Recipe) NewWorker(ctx context.Context, kit *chain.Kit, base string, strict bool) (Worker, error) {
	c, err := r.Open(ctx, kit, base)
	if err != nil {
		return nil, err
	}
	return &worker{c, strict}, nil
}

// worker does a chain in memory.
type worker struct {
	chain  *chain.Chain
	strict bool
}

// Close closes what the chain holds.
func (w *worker) Close() { w.chain.Close() }

// Do does the whole job for inputs.
func (w *worker) Do(ctx context.Context, inputs []Input, sink export.Sink) (*Result, error) {
	files := make([]input.File, len(inputs))
	for i, in := range inputs {
		files[i] = input.File{Path: in.Path, Rel: in.Rel, Found: in.Found}
	}
	x := &job.Job{Chain: w.chain, Strict: w.strict, Name: func(e *chain.End) string { return inputs[0].Fill(e.Name) }}
	done, err := x.Do(ctx, files, sink)
	if err != nil {
		return nil, err
	}
	out := &Result{Counts: done.Counts()}
	out.Changes, out.Lost = done.Changes()
	for _, made := range done.Made { // what a step found is among its counts
		for _, f := range made.Findings {
			out.Remarks = append(out.Remarks, Remark{Text: "finding: " + f})
		}
	}
	for _, r := range done.Remarks {
		switch {
		case r.Cut == nil && r.Problem != nil && r.Problem.Info:
		case len(out.Remarks) >= mostRemarks:
			out.Remarks[len(out.Remarks)-1] = Remark{Text: "there are more remarks about this input; 'look' shows them all"}
		default:
			out.Remarks = append(out.Remarks, Remark{r.String(), r.Advice()})
		}
	}
	return out, nil
}

// mostRemarks is how many remarks of one input are kept.
const mostRemarks = 6
