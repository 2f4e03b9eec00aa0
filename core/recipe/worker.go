package recipe

import (
	"context"
	"fmt"
	"io"

	"gyrolith/core/chain"
	"gyrolith/core/format"
	"gyrolith/core/input"
	"gyrolith/core/nav"
)

// NewWorker makes a worker that does the chain of the recipe, opened.
func (r *Recipe) NewWorker(ctx context.Context, kit *chain.Kit, base string) (Worker, error) {
	c, err := r.Open(ctx, kit, base)
	if err != nil {
		return nil, err
	}
	return &worker{c}, nil
}

// worker does a chain.
type worker struct{ chain *chain.Chain }

// Close closes what the chain holds.
func (w *worker) Close() { w.chain.Close() }

// Do runs the chain in memory.
func (w *worker) Do(ctx context.Context, inputs []Input) (*Result, error) {
	var loaded []*format.Loaded
	for i := range inputs {
		in, err := w.chain.Reading.Load(ctx, inputs[i].Path)
		if err != nil {
			return nil, err
		}
		loaded = append(loaded, in)
	}
	work := &chain.Result{Work: chain.Work{Source: inputs[0].Name(), Remarks: chain.Remarks(loaded),
		Zone: w.chain.Reading.Options.Zone}}
	work.Data = input.Merge(loaded)
	if err := w.chain.Reading.NotEmpty(work.Data, inputs[0].Path); err != nil {
		return nil, err
	}
	if err := w.chain.Apply(ctx, &work.Work); err != nil {
		return nil, err
	}
	if work.Data.Counts() == [4]int{} {
		if w.chain.Chooses() {
			return nil, fmt.Errorf("%s: %w, or nothing in it matches what is chosen", inputs[0].Path, chain.ErrNothingLeft)
		}
		return nil, fmt.Errorf("%s: %w", inputs[0].Path, chain.ErrNothingLeft)
	}
	sink := &memory{}
	for _, e := range w.chain.Ends {
		made, err := e.Write(ctx, &work.Work, inputs[0].Fill(e.Name), sink)
		if err != nil {
			return nil, err
		}
		if made != nil {
			work.Made = append(work.Made, made)
		}
	}
	out := &Result{Changes: work.Changes(), Lost: work.Lost()}
	for _, f := range sink.files {
		out.Files = append(out.Files, *f)
	}
	if r, refused := chain.Strict(work.Work.Remarks, w.chain.Mends()); refused {
		out.Unread = append(out.Unread, r.String())
	}
	for _, made := range work.Made {
		for _, f := range made.Findings {
			out.Findings = append(out.Findings, f)
			out.Remarks = append(out.Remarks, Remark{Text: "finding: " + f})
		}
	}
	for _, r := range work.Work.Remarks {
		switch {
		case r.Cut == nil && r.Problem != nil && r.Problem.Info:
		case len(out.Remarks) >= mostRemarks:
			out.Remarks[len(out.Remarks)-1] = Remark{Text: "there are more remarks about this input; 'look' shows them all"}
		default:
			out.Remarks = append(out.Remarks, Remark{r.String(), r.Advice()})
		}
	}
	ledger := work.Work.Ledger()
	for _, made := range work.Made {
		ledger = append(ledger, made.Ledger...)
	}
	names := 0
	for i := range ledger {
		if ledger[i].What == nav.PropertyName {
			names += max(ledger[i].Count, 1)
		}
	}
	for _, r := range work.Reports {
		out.Counts = AddCounts(out.Counts, r.Counts)
	}
	if names > 0 {
		out.Counts = AddCounts(out.Counts, []nav.Count{{What: "names changed", N: names}})
	}
	return out, nil
}

// mostRemarks is how many remarks of one input are kept.
const mostRemarks = 6

// AddCounts adds numbers to those of the same sort.
func AddCounts(to, more []nav.Count) []nav.Count {
next:
	for _, c := range more {
		for i := range to {
			if to[i].What == c.What {
				to[i].N += c.N
				continue next
			}
		}
		to = append(to, c)
	}
	return to
}

// memory keeps files in memory.
type memory struct{ files []*File }

func (m *memory) Create(name string) (io.Writer, error) {
	f := &File{Name: name}
	m.files = append(m.files, f)
	return &f.Content, nil
}
