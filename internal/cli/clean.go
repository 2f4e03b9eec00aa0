package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/clean"
	"gyrolith/core/inspect"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/internal/cli/console"
)

// faultHelp explains the faults in the help of clean.
func faultHelp() string {
	var b strings.Builder
	b.WriteString("The faults:\n\n")
	for _, f := range clean.All {
		mark := " "
		if slices.Contains(clean.Default, f) {
			mark = "*"
		}
		fmt.Fprintf(&b, "  %s %-8s  %s\n", mark, f, f.Explain())
	}
	return b.String() + `
Those marked * are corrected by default. A point counts as a spike, and not as
movement, when it is farther off than the top speed allows in the time between two
points plus the least distance (--spike-over): for a walker recorded
every second, at 12 km/h and 8 m, that is 12 m.

--smooth is the fixed-interval smoother of Rauch, Tung and Striebel (AIAA Journal
3(8), 1965) over a model of constant velocity. --thin-within and --thin-to keep
the points that the line needs, in space and, with times, along the line.`
}

// cleanVerb is clean.
var cleanVerb = verb{name: "clean", stage: makeReady,
	brief: "remove faults of receivers and planning programs",
	usage: "remove faults of receivers and planning programs, and report them",
	args:  "FILES… -o FILE",
	help:  faultHelp(),
	examples: []string{"clean walk.gpx -o tidy.gpx", "clean walk.gpx --also heights,stops -o tidier.gpx --rejects out.kml",
		"clean walk.gpx --carrier walk --thin-within 5m -o thin.gpx", "clean recordings -o tidied/"},
	tried: []string{"filter", "fix", "simplify", "smooth", "reduce"},
	make:  (*app).clean}

func (a *app) clean(v *verb) made {
	rejects := ""
	s, c := a.step(v, func(*stepVerb) param.Table {
		p := param.Text("rejects", &rejects, "FILE",
			"write the removed points as waypoints to this `FILE`; its extension chooses the format")
		p.Path = param.Written
		return param.Table{p}.In("Writing").ForOneRun()
	})
	s.report = func(_ *chain.Work, r *nav.Report) (nav.Ledger, error) {
		if s.json {
			return r.Ledger, nil
		}
		s.sayCleaned(r.Detail.(*clean.Result))
		return nil, nil
	}
	var removed *chain.End
	quietly := *s.task
	s.begun = func() error {
		if rejects == "" {
			return nil
		}
		if filepath.Clean(rejects) == filepath.Clean(s.output) {
			return usageError("clean: --rejects and -o are the same file")
		}
		quietly = *s.task
		quietly.json, quietly.quiet, quietly.strict = false, true, false
		s.stage.Step.(*clean.Step).List = true
		removed, _ = a.kit.NewEnd("convert")
		removed.Name = rejects
		return quietly.settle("clean --rejects", removed, nil)
	}
	// After the data, so that a refusal of these leaves no rejects behind.
	s.after = func(ctx context.Context, _ *chain.Work, r *nav.Report, inputs []string) error {
		if removed == nil {
			return nil
		}
		result := r.Detail.(*clean.Result)
		if len(result.Removed) == 0 {
			s.note("nothing was removed, so " + rejects + " was not written")
			return nil
		}
		if err := quietly.write(ctx, removed, &chain.Work{Data: result.Rejects()}, nil, false); err != nil {
			return err
		}
		if !s.quiet && !s.json && !s.dryRun {
			s.err.Printf("the %s are in %s\n", plural(len(result.Removed), "removed point", "removed points"),
				console.Show(removed.Name))
		}
		return nil
	}
	return c
}

// sayCleaned prints a row a fault: how many, in which item, the farthest one off.
func (j *task) sayCleaned(r *clean.Result) {
	if j.quiet {
		return
	}
	for _, o := range r.Over {
		j.note(fmt.Sprintf("track %s keeps %s, more than --thin-to allows: both ends of each of its %s stay",
			console.Show(o.Item), plural(o.Points, "point", "points"), plural(o.Segments, "segment", "segments")))
	}
	for _, m := range r.Much {
		j.note(fmt.Sprintf("%s took %s of the %s of track %s, more than a tenth: look at the result, or leave them with "+
			"--not %s", m.Fault, measure.Count(m.Points), plural(m.Of, "point", "points"), console.Show(m.Item), m.Fault))
	}
	if len(r.Rows) == 0 {
		j.err.Printf("%s\n", j.err.Paint(console.Green, "nothing to clean"))
		return
	}
	j.err.Printf("%s\n", j.err.Paint(console.Bold, "cleaned"))
	var rows [][]string
	for _, f := range r.Sums() {
		far := ""
		if f.Off > 0 {
			far = j.measure.Length(f.Off)
		}
		if f.Rise > 0 {
			far = strings.TrimPrefix(far+", "+j.measure.Height(f.Rise)+" in height", ", ")
		}
		rows = append(rows, []string{j.err.Paint(console.Yellow, string(f.Fault)), measure.Count(f.Count),
			console.OneLine(inspect.Where(f), 80), far, f.Fault.Done()})
	}
	j.err.Table("  ", []console.Column{{Title: "fault"}, {Title: "count", Right: true}, {Title: "in"},
		{Title: "farthest", Right: true}, {Title: "done"}}, rows)
}
