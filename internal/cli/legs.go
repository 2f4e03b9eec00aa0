package cli

import (
	"context"
	_ "embed"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"

	"gyrolith/core/advice"
	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/column"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/passage"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

//go:embed texts/legs.txt
var legsHelp string

// legsTask is the work of legs: a table, and perhaps a file of routes that keep clear.
type legsTask struct {
	*frame.Task
	step   passage.Step
	choice column.Choice[passage.Row]
	detour *chain.End
}

// legsVerb is legs.
var legsVerb = frame.Verb{Name: "legs", Stage: frame.PlanWithIt,
	Brief: "leg table of a route, clearances, detours",
	Usage: "print the leg table of routes; check clearance from hazards and closures; find detours",
	Args:  "FILES…",
	Help:  legsHelp,
	Examples: []string{"legs run.gpx --speed 8kn --measure nautical",
		"legs briefing.txt --hazards planning.kmz --hazards-take waypoints --clear 150m --detour around.gpx",
		"legs counting.gpx --speed 95kn --winds winds.csv --depart 2026-03-14T09:00Z --burn 32l/h -o log.xlsx"},
	Tried:   []string{"route", "plan", "distance"},
	Own:     []string{"measure", "notation"},
	Answers: []any{passage.Answer{}},
	Make:    makeLegs}

func makeLegs(a *frame.App, v *frame.Verb) frame.Made {
	l := &legsTask{Task: a.NewTask(v.Name), choice: passage.NewChoice()}
	l.step.On = a.Now()
	l.detour, _ = a.Kit.NewEnd("convert")
	target := l.detour.Output.Params()
	as := *target.Find("write-as")
	as.Help = "the `FORMAT` of the detour"
	path := param.Text("detour", &l.detour.Name, "FILE", "write routes that keep clear of hazards to this `FILE`")
	path.Path = param.Written
	return frame.Made{Tables: append(l.ReadTables(), l.step.Params(),
		append(l.choice.Params(), path, as, *target.Find("read-back")).In("Writing").ForOneRun(),
		l.Writing("write the table to this `FILE`, .csv, .xlsx or .json; - is standard output"), l.Answering(),
		l.RecipeTable()), Run: l.run}
}

func (l *legsTask) run(ctx context.Context, line *frame.Line) error {
	l.Notated = line.Given("notation")
	if err := l.step.Check(); err != nil {
		return frame.Checked(l.Verb, err)
	}
	if l.AsRecipe {
		if l.detour.Name != "" {
			return frame.UsageError("legs: --as-recipe: recipes can't make detours")
		}
		end, _ := l.Kit.NewEnd("legs")
		return l.PrintOutput(line, end.Output.Params(), ".csv")
	}
	if l.detour.Name == "" {
		l.detour = nil
	} else if l.step.Clear == 0 && len(l.step.KeepOut) == 0 {
		return frame.UsageError("legs: --detour needs a clearance (--clear) or areas to keep out of (--keep-out " +
			"KIND:GLOB)")
	}
	sources := append(line.Args[:len(line.Args):len(line.Args)], l.step.HazardsPath)
	if err := l.outputs(sources); err != nil {
		return err
	}
	w, path, err := l.Gather(ctx, line.Args)
	if err != nil {
		return err
	}
	if err := l.step.Open(l.Zone()); err != nil {
		return frame.Checked(l.Verb, err)
	}
	defer l.step.Close()
	data := w.Data
	if len(data.Routes) == 0 {
		return &format.Error{Path: path, Msg: fmt.Sprintf("has no route (it has %s)", words.Contents(data)),
			Advice: advice.Advice{Code: advice.MakeRoutes}, Err: job.ErrNothingMade}
	}
	hazards, in, err := l.step.LoadHazards(ctx, l.Reading)
	if err != nil {
		return err
	}
	if in != nil {
		l.Remarks(in)
	}
	plans, err := l.step.PlanAll(ctx, data, hazards)
	if errors.Is(err, passage.ErrNoClosure) {
		i := slices.IndexFunc(line.Settings, func(s param.Setting) bool { return s.Name == "keep-out" })
		return fmt.Errorf("--keep-out %s %w; 'gyrolith look' shows their names",
			strings.Join(line.Settings[i].Values, ", "), err)
	}
	if err != nil {
		return err
	}
	for _, f := range plans.Faults {
		l.Note(f + ", and encloses nothing")
	}
	return l.answer(ctx, path, plans.Considered(l.Measure), plans.Tables, data)
}

// answer prints and writes the tables. The table is written only once the detour is found.
func (l *legsTask) answer(ctx context.Context, path, considered string, tables []*passage.Table,
	data *nav.Dataset) error {
	findings, first, layout := 0, "", l.Layout()
	l.NoteAll(l.choice.Said(passage.Rows(tables), &layout))
	for _, t := range tables {
		if findings += len(t.Findings); len(t.Findings) > 0 && first == "" {
			first = findingWords(l.Task, &t.Findings[0], t)
		}
	}
	if refused := l.Strict && findings > 0; refused {
		l.DryRun = true
		if err := l.say(considered, tables); err != nil {
			return err
		}
		return frame.StrictError("%s: %s, refused by --strict; nothing was written; the first: %s", path,
			measure.Counted(findings, "finding", "findings"), first)
	}
	sink := l.Sink(false)
	defer sink.Discard()
	if err := l.beginTable(sink, considered, tables); err != nil {
		return err
	}
	if !l.JSON {
		if err := l.say(considered, tables); err != nil {
			return err
		}
	}
	var made *export.Made
	var ledger nav.Ledger
	if l.detour != nil {
		var err error
		if made, ledger, err = l.beginDetour(ctx, sink, data); err != nil {
			return err
		}
	}
	kept, err := sink.Commit()
	if err != nil {
		return err
	}
	if made != nil {
		quietly := *l.Task
		quietly.Quiet, quietly.JSON = l.Quiet || l.JSON, false // the answer as JSON is the table's
		quietly.SaySystem(made.System, true)
		old := "" // said with the table, if there is one
		if l.Output == "" {
			old = strings.Join(kept, ", ")
		}
		l.Written = append(l.Written, made.Files...)
		if err := quietly.Wrote(made, l.detour.Name, ledger, old); err != nil {
			return err
		}
		if !quietly.Quiet {
			l.Err.Printf("no leg of the detour has a finding; check what is not in the files, above all land\n")
		}
	}
	if l.Output != "" && l.Output != "-" {
		l.SayWrote(l.Output, "the table of "+measure.Counted(len(tables), "route", "routes"), kept)
	}
	if l.JSON {
		return l.say(considered, tables)
	}
	return nil
}

// outputs settles where the table and the detour go, before anything is read.
func (l *legsTask) outputs(sources []string) error {
	if l.Output != "" && l.Output != "-" {
		if ext := strings.ToLower(filepath.Ext(l.Output)); !slices.Contains(column.Forms, ext) {
			return frame.UsageError(
				"legs: -o writes the table as .csv, .json or .xlsx, and %s is not one of them; --detour FILE "+
					"writes a route",
				l.Output,
			)
		}
		if err := l.Free("legs", l.Output, sources); err != nil {
			return err
		}
	}
	if l.detour == nil {
		return nil
	}
	quietly := *l.Task
	quietly.JSON = false
	return quietly.Settle("legs --detour", l.detour, sources)
}

// say prints the tables.
func (l *legsTask) say(considered string, tables []*passage.Table) error {
	switch {
	case l.JSON:
		answer := passage.JSON(considered, tables, l.Zone())
		answer.Written = l.Written
		return l.PrintJSON(answer)
	case l.Output == "-":
		content, err := l.office(considered, tables)
		if err == nil {
			_, err = l.Out.Write(content)
		}
		return err
	}
	l.Out.Say("%s\n", l.Out.Paint(console.Faint, console.Show(considered)))
	for i, t := range tables {
		if i > 0 {
			l.Out.Printf("\n")
		}
		printLegs(l.Task, &l.choice, t)
	}
	return nil
}

// office gives the tables in the form of the output; that of standard output is CSV.
func (l *legsTask) office(considered string, tables []*passage.Table) ([]byte, error) {
	layout := l.Layout()
	return kit.LogbookFile(strings.ToLower(filepath.Ext(l.Output)), considered, tables, &l.choice, &layout)
}

// beginTable writes the tables to a sink, where a file of them is asked for.
func (l *legsTask) beginTable(sink *job.Files, considered string, tables []*passage.Table) error {
	if l.Output == "" || l.Output == "-" {
		return nil
	}
	content, err := l.office(considered, tables)
	if err != nil {
		return err
	}
	to, err := sink.Create(l.Output)
	if err == nil {
		_, err = to.Write(content)
	}
	return err
}

// beginDetour leads every route around what it comes too near to, and writes that to a sink.
func (l *legsTask) beginDetour(ctx context.Context, sink *job.Files,
	data *nav.Dataset) (*export.Made, nav.Ledger, error) {
	out := &nav.Dataset{Meta: data.Meta}
	ledger := nav.Ledger{}
	for i := range data.Routes {
		r := &data.Routes[i]
		way, err := l.step.Detour(ctx, r)
		if err != nil {
			return nil, nil, fmt.Errorf("route %q: no detour: %w", r.Name, err)
		}
		out.Routes = append(out.Routes, way.Route)
		change := nav.Entry{Kind: nav.Routes, KindWord: "route", Name: r.Name, What: "way", Count: way.Added, Asked: true}
		if way.Added > 0 {
			change.Old, change.New = l.Measure.Length(way.Before), l.Measure.Length(way.After)
			change.Why = measure.Counted(way.Added, "point added", "points added") + ", to keep clear"
			ledger = append(ledger, change)
		} else if len(way.Moved) == 0 && !l.Quiet && !l.JSON {
			l.Err.Printf("route %s already keeps clear\n", console.OneLine(r.Name, 40))
		}
		for _, m := range way.Moved {
			ledger = append(ledger, nav.Entry{Kind: nav.Routes, KindWord: "route", Name: m.Name, What: "position",
				Old: "too near to " + m.Hazard, New: "moved by " + l.Measure.Length(m.Distance), Count: 1, Asked: true})
		}
	}
	made, err := l.detour.Write(ctx, &chain.Work{Data: out}, l.detour.Name, sink)
	if err != nil {
		return nil, nil, frame.Worded(l.Verb, err)
	}
	ledger = append(ledger, made.Ledger...)
	if l.Strict {
		err = job.RefuseLosses(l.detour.Name, ledger)
	}
	return made, ledger, err
}
