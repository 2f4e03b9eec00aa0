package cli

import (
	"context"
	_ "embed"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/export"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/measure"
	"gyrolith/core/recipe"
	"gyrolith/internal/cli/console"
	"gyrolith/internal/cli/frame"
	"gyrolith/internal/cli/words"
)

//go:embed texts/draw.txt
var drawHelp string

// drawTask is the work of draw.
type drawTask struct {
	*frame.Task
	end     *chain.End
	drawing *kit.Drawing
}

// drawVerb is draw.
var drawVerb = frame.Verb{Name: "draw", Stage: frame.DrawAndAdd,
	Brief: "a map, a section, a page, sheets of paper",
	Usage: "draw a map and the heights along the way, as a picture or a page",
	Args:  "FILES… -o map.png|map.svg|map.html",
	Help:  drawHelp,
	Examples: []string{"draw dressed.kmz clean.gpx --terrain terrain --section distance -o isles.png",
		"draw dressed.kmz run.gpx --size A4 --scale 1:50000 --sheets map,legs,points -o isles.pdf",
		"draw dressed.kmz clean.gpx --terrain terrain -o isles.html", "draw recordings -o maps/"},
	Tried:   []string{"print", "plot", "map", "render"},
	Own:     []string{"measure", "notation"},
	Answers: []any{drawAnswer{}, frame.RunAnswer{}},
	Make:    makeDraw}

func makeDraw(a *frame.App, v *frame.Verb) frame.Made {
	d := &drawTask{Task: a.NewTask(v.Name)}
	d.end, _ = a.Kit.NewEnd("draw")
	d.drawing = d.end.Output.(*kit.Drawing)
	d.drawing.ReadLike(d.Reading)
	return frame.Made{Tables: append(d.ReadTables(), d.end.Output.Params(), d.end.Parting(),
		d.Writing("the `FILE` to write: .png, .svg, .pdf or .html; a folder, or a name with {name}, makes one per input"),
		d.Answering(), d.RecipeTable()), Run: d.run}
}

func (d *drawTask) run(ctx context.Context, l *frame.Line) error {
	if d.AsRecipe {
		return d.PrintOutput(l, d.end.Output.Params(), ".png")
	}
	if frame.IsMany(d.Output) {
		table := append(d.end.Output.Params(), d.end.Parting()...)
		m := &frame.Many{Task: d.Task, OnePer: d.end.OnePer, Ext: func([]input.File) (string, error) { return ".png", nil },
			Printed: func(name string) (_, _ *recipe.Printed) { return d.Printed(l, table, name) }}
		return m.Run(ctx, l)
	}
	d.end.Name = d.Output
	if d.Output == "" {
		return frame.UsageError("draw: no output given; add -o map.png, map.svg or map.html")
	}
	files, err := d.Expand(ctx, l.Args)
	if err != nil {
		return err
	}
	if err := d.Settle("draw", d.end, input.Paths(files)); err != nil {
		return err
	}
	x := d.JobOf(d.end)
	if err := x.Open(ctx); err != nil {
		return err
	}
	defer x.Close()
	r, err := d.Begin(ctx, x, files)
	if err == nil {
		err = d.Apply(ctx, x, r)
	}
	if err != nil {
		return err
	}
	sink := d.Sink(false)
	defer sink.Discard()
	if err := x.Write(ctx, r, sink); err != nil {
		return frame.Worded("draw", err)
	}
	if len(r.Made) == 0 {
		return frame.FaultIn(d.end.Name, "there is nothing to draw")
	}
	return d.commit(sink, r.Made[0])
}

// mapOf is the drawing of a map as it is without any option, for verbs that also answer with one.
func mapOf(j *frame.Task, name string) *drawTask {
	d := &drawTask{Task: j}
	d.end, _ = j.Kit.NewEnd("draw")
	d.drawing, d.end.Name = d.end.Output.(*kit.Drawing), name
	return d
}

// draw draws data that no chain has made.
func (d *drawTask) draw(ctx context.Context, w *chain.Work) error {
	sink := d.Sink(false)
	defer sink.Discard()
	made, err := d.end.Write(ctx, w, d.end.Name, sink)
	if err != nil {
		return frame.Worded("draw", err)
	}
	return d.commit(sink, made)
}

// commit gives the picture its name and says what it shows.
func (d *drawTask) commit(sink *job.Files, made *export.Made) error {
	kept, err := sink.Commit()
	if err != nil {
		return err
	}
	return d.say(made, strings.Join(kept, ", "))
}

// drawAnswer is what draw answers as JSON.
type drawAnswer struct {
	Output    string   `json:"output"`
	Width     int      `json:"width"`
	Height    int      `json:"height"`
	Bytes     int      `json:"bytes"`
	Notes     []string `json:"notes"`
	Kept      string   `json:"kept,omitempty"`
	DryRun    bool     `json:"dry_run,omitempty"`
	Waypoints int      `json:"waypoints"`
	Routes    int      `json:"routes"`
	Tracks    int      `json:"tracks"`
	Areas     int      `json:"areas"`
}

func (d *drawTask) say(made *export.Made, kept string) error {
	notes := d.drawing.Drawn.Notes
	if d.JSON {
		c := made.Items
		return d.PrintJSON(drawAnswer{d.end.Name, d.drawing.Width, d.drawing.Height, made.Bytes,
			append([]string{}, notes...), kept, d.DryRun, c[0], c[1], c[2], c[3]})
	}
	if d.Quiet {
		return nil
	}
	for _, n := range notes {
		d.Err.Printf("%s %s\n", d.Err.Paint(console.Faint, "note:"), console.Show(n))
	}
	word := d.Err.Paint(console.Green, "drew")
	if d.DryRun {
		word = "would draw"
	}
	d.Err.Printf("%s %s (%d × %d): %s, %s\n", word, console.Show(d.end.Name), d.drawing.Width, d.drawing.Height,
		words.Counts(made.Items),
		measure.Counted(made.Points, "point", "points"))
	if kept != "" {
		d.Err.Printf("the old file is kept as %s\n", console.Show(kept))
	}
	return nil
}
