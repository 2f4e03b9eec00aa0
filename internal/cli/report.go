package cli

import (
	"fmt"
	"io"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/recipe"
	"gyrolith/core/safefile"
	"gyrolith/internal/cli/console"
)

// report tells the outcomes of a run and counts them.
type report struct {
	a                      *app
	quiet, json, dry       bool
	done, kept, refused    int
	strict, nothing        int // of the refused ones
	others                 int // files of folders that are no data
	verb                   bool
	changes, lost, outputs int
	counts                 []nav.Count
	failures               []*recipe.Entry // the first ones
	all                    []*recipe.Entry // for JSON alone
}

// mostFailures are told again in the table at the end.
const mostFailures = 50

func (p *report) tell(o *recipe.Outcome) {
	e := o.Entry
	if p.json {
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
	if p.quiet || p.json {
		return
	}
	a := p.a
	names := strings.Join(shortened(slices.Sorted(maps.Keys(e.Outputs))), ", ")
	switch {
	case e.Status == recipe.Kept:
		a.err.Printf("%s %s: nothing has changed\n", a.err.Paint(console.Faint, "kept   "), console.Show(e.Input))
	case e.Status == recipe.Refused:
		a.err.Printf("%s %s\n", a.err.Paint(console.Red, "refused"), console.Show(whose(e)))
	case p.dry:
		a.err.Printf("would do %s → %s\n", console.Show(e.Input), console.Show(names))
	default:
		more := ""
		if e.Changes > 0 {
			more += ", " + plural(e.Changes, "change", "changes")
		}
		for _, c := range e.Counts {
			more += ", " + c.What + ": " + measure.Count(c.N)
		}
		if e.Lost > 0 {
			more += ", " + plural(e.Lost, "property not carried over", "properties not carried over")
		}
		if names == "" {
			names = "no output: nothing that the outputs accept"
		}
		a.err.Printf("%s %s → %s%s\n", a.err.Paint(console.Green, "done   "), console.Show(e.Input),
			console.OneLine(names, 96), more)
	}
	for _, r := range e.Remarks {
		if e.Status != recipe.Kept {
			a.err.Printf("  %s %s\n", a.err.Paint(console.Yellow, "note:"), console.Show(advised(r.Text, r.Advice)))
		}
	}
}

// whose is why an input was refused, with the name of the input if the reason does not begin with it.
func whose(e *recipe.Entry) string {
	why := advised(e.Why, e.Advice)
	if e.Strict {
		why += ", refused by --strict"
	}
	if path, _, _ := strings.Cut(filepath.ToSlash(why), ":"); path == e.Input || strings.HasSuffix(path, "/"+e.Input) {
		return why
	}
	return e.Input + ": " + why
}

// end prints the table and gives the error of inputs that were refused.
func (p *report) end(r *recipe.Recipe, into string) error {
	a := p.a
	if p.json {
		slices.SortFunc(p.all, func(x, y *recipe.Entry) int { return strings.Compare(x.Input, y.Input) })
		if err := a.printJSON(map[string]any{"recipe": r.Path, "into": into, "dry_run": p.dry, "done": p.done,
			"kept": p.kept, "refused": p.refused, "changes": p.changes, "lost": p.lost,
			"results": append([]*recipe.Entry{}, p.all...)}); err != nil {
			return err
		}
	} else if !p.quiet {
		word := "done"
		if p.dry {
			word = "would be done"
		}
		rows := [][]string{{word, measure.Count(p.done), fmt.Sprintf("%s in %s", plural(p.outputs, "file", "files"),
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
			rows = append(rows, []string{a.err.Paint(console.Red, "refused"), measure.Count(p.refused), ""})
		}
		a.err.Printf("\n")
		a.err.Table("", []console.Column{{}, {Right: true}, {}}, rows)
		if p.refused > 1 {
			var why [][]string
			for _, e := range p.failures {
				why = append(why, []string{console.Show(whose(e))})
			}
			a.err.Table("  ", []console.Column{{}}, why)
		}
	}
	switch {
	case p.refused > 0 && p.refused == p.strict:
		return strictError("%d of %s refused by --strict", p.refused, plural(p.refused+p.done+p.kept, "input", "inputs"))
	case p.refused > 0 && p.refused == p.nothing:
		return nothingError("%d of %s refused", p.refused, plural(p.refused+p.done+p.kept, "input", "inputs"))
	case p.refused > 0 && p.refused == p.strict+p.nothing:
		return strictError("%d of %s refused", p.refused, plural(p.refused+p.done+p.kept, "input", "inputs"))
	case p.refused > 0:
		return fmt.Errorf("%d of %s refused", p.refused, plural(p.refused+p.done+p.kept, "input", "inputs"))
	}
	return nil
}

// merge puts the journals of shares together.
func (r *runTask) merge(paths []string) error {
	if len(paths) == 0 {
		return usageError("run: --merge: name the journals of all shares, such as out/journal-*.jsonl")
	}
	j, err := recipe.Merge(paths)
	if err != nil {
		return err
	}
	p := &report{a: r.app, quiet: true, json: r.json}
	for _, e := range j.Entries() {
		p.tell(&recipe.Outcome{Entry: e})
	}
	into := r.into
	if into != "" && !r.dryRun {
		path := filepath.Join(into, recipe.JournalName(recipe.Share{Part: 1, Of: 1}))
		_, err := safefile.WriteAll(path, r.replace, func(w io.Writer) error { _, err := j.WriteTo(w); return err })
		if err != nil {
			return err
		}
	}
	p.quiet = r.quiet
	if into == "" {
		into = "all shares"
	}
	return p.end(&recipe.Recipe{Path: "merged"}, into)
}
