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
	"gyrolith/internal/cli/frame"
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
var cleanVerb = frame.Verb{Name: "clean", Stage: frame.MakeReady,
	Brief: "remove faults of receivers and planning programs",
	Usage: "remove faults of receivers and planning programs, and report them",
	Args:  "FILES… -o FILE",
	Help:  faultHelp(),
	Examples: []string{"clean walk.gpx -o tidy.gpx", "clean walk.gpx --also heights,stops -o tidier.gpx --rejects out.kml",
		"clean walk.gpx --carrier walk --thin-within 5m -o thin.gpx", "clean recordings -o tidied/"},
	Tried:   []string{"filter", "fix", "simplify", "smooth", "reduce"},
	Answers: []any{frame.WroteAnswer{}, frame.RunAnswer{}},
	Make:    makeClean}

func makeClean(a *frame.App, v *frame.Verb) frame.Made {
	rejects := ""
	s, c := a.Step(v, func(*frame.StepVerb) param.Table {
		p := param.Text("rejects", &rejects, "FILE",
			"write the removed points as waypoints to this `FILE`; its extension chooses the format")
		p.Path = param.Written
		return param.Table{p}.In("Writing").ForOneRun()
	})
	s.Report = func(_ *chain.Work, r *nav.Report) (nav.Ledger, error) {
		if s.JSON {
			return r.Ledger, nil
		}
		sayCleaned(s.Task, r.Detail.(*clean.Result))
		return nil, nil
	}
	var removed *chain.End
	quietly := *s.Task
	s.Begun = func() error {
		if rejects == "" {
			return nil
		}
		if filepath.Clean(rejects) == filepath.Clean(s.Output) {
			return frame.UsageError("clean: --rejects and -o are the same file")
		}
		quietly = *s.Task
		quietly.JSON, quietly.Quiet, quietly.Strict = false, true, false
		s.Stage.Step.(*clean.Step).List = true
		removed, _ = a.Kit.NewEnd("convert")
		removed.Name = rejects
		return quietly.Settle("clean --rejects", removed, nil)
	}
	// After the data, so that a refusal of these leaves no rejects behind.
	s.After = func(ctx context.Context, _ *chain.Work, r *nav.Report) error {
		if removed == nil {
			return nil
		}
		result := r.Detail.(*clean.Result)
		if len(result.Removed) == 0 {
			s.Note("nothing was removed, so " + rejects + " was not written")
			return nil
		}
		if err := quietly.Write(ctx, removed, &chain.Work{Data: result.Rejects()}, nil, false); err != nil {
			return err
		}
		if !s.Quiet && !s.JSON && !s.DryRun {
			s.Err.Printf("the %s are in %s\n", measure.Counted(len(result.Removed), "removed point", "removed points"),
				console.Show(removed.Name))
		}
		return nil
	}
	return c
}

// sayCleaned prints a row a fault: how many, in which item, the farthest one off.
func sayCleaned(j *frame.Task, r *clean.Result) {
	if j.Quiet {
		return
	}
	for _, o := range r.Over {
		j.Note(fmt.Sprintf("track %s keeps %s, more than --thin-to allows: both ends of each of its %s stay",
			console.Show(o.Item), measure.Counted(o.Points, "point", "points"),
			measure.Counted(o.Segments, "segment", "segments")))
	}
	for _, m := range r.Much {
		j.Note(fmt.Sprintf("%s took %s of the %s of track %s, more than a tenth: look at the result, or leave them with "+
			"--not %s", m.Fault, measure.Count(m.Points), measure.Counted(m.Of, "point", "points"),
			console.Show(m.Item), m.Fault))
	}
	for _, x := range r.Left {
		j.Note(fmt.Sprintf("area %q %s: there is no one answer, so that it was left as it is", x.Item, x.Why))
	}
	if len(r.Rows) == 0 {
		j.Err.Printf("%s\n", j.Err.Paint(console.Green, "nothing to clean"))
		return
	}
	j.Err.Printf("%s\n", j.Err.Paint(console.Bold, "cleaned"))
	var rows [][]string
	for _, f := range r.Sums() {
		far := ""
		if f.Off > 0 {
			far = j.Measure.Length(f.Off)
		}
		if f.Rise > 0 {
			far = strings.TrimPrefix(far+", "+j.Measure.Height(f.Rise)+" in height", ", ")
		}
		rows = append(rows, []string{j.Err.Paint(console.Yellow, string(f.Fault)), measure.Count(f.Count),
			console.OneLine(inspect.Where(f), 80), far, f.Fault.Done()})
	}
	j.Err.Table("  ", []console.Column{{Title: "fault"}, {Title: "count", Right: true}, {Title: "in"},
		{Title: "farthest", Right: true}, {Title: "done"}}, rows)
}
