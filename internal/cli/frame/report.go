package frame

import (
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/recipe"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/words"
)

// Report tells the outcomes of a run and counts them.
type Report struct {
	A                      *App
	Quiet, JSON, Dry       bool
	done, kept, refused    int
	strict, nothing        int // of the refused ones
	others                 int // files of folders that are no data
	changes, lost, outputs int
	counts                 []nav.Count
	failures               []*recipe.Entry // the first ones
	all                    []*recipe.Entry // for JSON alone
}

// mostFailures are told again in the table at the end.
const mostFailures = 50

// Tell prints an outcome and counts it.
func (p *Report) Tell(o *recipe.Outcome) {
	e := o.Entry
	if p.JSON {
		p.all = append(p.all, e)
	}
	switch e.Status {
	case recipe.Kept:
		p.kept++
	case recipe.Other:
		p.others++
		return
	case recipe.Refused:
		p.refused++
		if e.Strict {
			p.strict++
		}
		if e.Nothing {
			p.nothing++
		}
		if len(p.failures) < mostFailures {
			p.failures = append(p.failures, e)
		}
	default:
		p.done++
		p.changes += e.Changes
		p.lost += e.Lost
		p.outputs += len(e.Outputs)
		p.counts = job.AddCounts(p.counts, e.Counts)
	}
	if p.Quiet || p.JSON {
		return
	}
	a := p.A
	names := strings.Join(words.Shortened(slices.Sorted(maps.Keys(e.Outputs))), ", ")
	switch {
	case e.Status == recipe.Kept:
		a.Err.Printf("%s %s: nothing has changed\n", a.Err.Paint(console.Faint, "kept   "), console.Show(e.Input))
	case e.Status == recipe.Refused:
		a.Err.Printf("%s %s\n", a.Err.Paint(console.Red, "refused"), console.Show(whose(e)))
	case p.Dry:
		a.Err.Printf("would do %s → %s\n", console.Show(e.Input), console.Show(names))
	default:
		more := ""
		if e.Changes > 0 {
			more += ", " + measure.Counted(e.Changes, "change", "changes")
		}
		for _, c := range e.Counts {
			more += ", " + c.What + ": " + measure.Count(c.N)
		}
		if e.Lost > 0 {
			more += ", " + measure.Counted(e.Lost, "property not carried over", "properties not carried over")
		}
		a.Err.Printf("%s %s → %s%s\n", a.Err.Paint(console.Green, "done   "), console.Show(e.Input),
			console.OneLine(names, 96), more)
	}
	for _, r := range e.Remarks {
		if e.Status != recipe.Kept {
			a.Err.Printf("  %s %s\n", a.Err.Paint(console.Yellow, "note:"), console.Show(words.Advised(r.Text, r.Advice)))
		}
	}
}

// whose is why an input was refused, with the name of the input if the reason does not begin with it.
func whose(e *recipe.Entry) string {
	why := words.Advised(e.Why, e.Advice)
	if e.Strict {
		why += ", refused by --strict"
	}
	if path, _, _ := strings.Cut(filepath.ToSlash(why), ":"); path == e.Input || strings.HasSuffix(path, "/"+e.Input) {
		return why
	}
	return e.Input + ": " + why
}

// RunAnswer is what run, and a verb over a folder, answer as JSON.
type RunAnswer struct {
	Recipe  string          `json:"recipe"`
	Into    string          `json:"into"`
	DryRun  bool            `json:"dry_run"`
	Done    int             `json:"done"`
	Kept    int             `json:"kept"`
	Refused int             `json:"refused"`
	Changes int             `json:"changes"`
	Lost    int             `json:"lost"`
	Results []*recipe.Entry `json:"results"`
}

// End prints the table and gives the error of inputs that were refused.
func (p *Report) End(r *recipe.Recipe, into string) error {
	a := p.A
	if p.JSON {
		slices.SortFunc(p.all, func(x, y *recipe.Entry) int { return strings.Compare(x.Input, y.Input) })
		if err := a.PrintJSON(RunAnswer{r.Path, into, p.Dry, p.done, p.kept, p.refused, p.changes, p.lost,
			append([]*recipe.Entry{}, p.all...)}); err != nil {
			return err
		}
	} else if !p.Quiet {
		word := "done"
		if p.Dry {
			word = "would be done"
		}
		rows := [][]string{{word, measure.Count(p.done), fmt.Sprintf("%s in %s", measure.Counted(p.outputs, "file", "files"),
			console.Show(into))}}
		for _, c := range p.counts {
			rows = append(rows, []string{c.What, measure.Count(c.N), ""})
		}
		if p.lost > 0 {
			rows = append(rows, []string{"not carried over", measure.Count(p.lost), "what the output format can't store"})
		}
		if p.kept > 0 {
			rows = append(rows, []string{"kept", measure.Count(p.kept), "unchanged since the last run"})
		}
		if p.others > 0 {
			rows = append(rows, []string{"skipped", measure.Count(p.others), "files without navigation data"})
		}
		if p.refused > 0 {
			rows = append(rows, []string{a.Err.Paint(console.Red, "refused"), measure.Count(p.refused), ""})
		}
		a.Err.Printf("\n")
		a.Err.Table("", []console.Column{{}, {Right: true}, {}}, rows)
		if p.refused > 1 {
			var why [][]string
			for _, e := range p.failures {
				why = append(why, []string{console.Show(whose(e))})
			}
			a.Err.Table("  ", []console.Column{{}}, why)
		}
	}
	switch {
	case p.others > 0 && p.done+p.kept+p.refused == 0:
		return job.ErrNoData
	case p.refused > 0 && p.refused == p.strict:
		return StrictError("%d of %s refused by --strict", p.refused,
			measure.Counted(p.refused+p.done+p.kept, "input", "inputs"))
	case p.refused > 0 && p.refused == p.nothing:
		return NothingError("%d of %s refused", p.refused, measure.Counted(p.refused+p.done+p.kept, "input", "inputs"))
	case p.refused > 0 && p.refused == p.strict+p.nothing:
		return StrictError("%d of %s refused", p.refused, measure.Counted(p.refused+p.done+p.kept, "input", "inputs"))
	case p.refused > 0:
		return fmt.Errorf("%d of %s refused", p.refused, measure.Counted(p.refused+p.done+p.kept, "input", "inputs"))
	}
	return nil
}
