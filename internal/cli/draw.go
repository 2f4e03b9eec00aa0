package cli

import (
	"context"
	"strings"

	"gyrolith/core/chain"
	"gyrolith/core/chain/kit"
	"gyrolith/core/export"
	"gyrolith/core/input"
	"gyrolith/core/job"
	"gyrolith/core/recipe"
	"gyrolith/internal/cli/console"
)

const drawHelp = `Draws a map of tracks, routes in order, waypoints with symbols, and areas. The output's
extension chooses the form: .png, .svg, .pdf, or .html for an interactive page in one
file. --section adds heights, and the speeds of recordings, below. Terrain comes from
--terrain, as shaded relief with contour lines, or a picture lies beneath with --backdrop.`

// drawTask is the work of draw.
type drawTask struct {
	*task
	end     *chain.End
	drawing *kit.Drawing
}

// drawVerb is draw.
var drawVerb = verb{name: "draw", stage: drawAndAdd,
	brief: "a map, a section, a page, sheets of paper",
	usage: "draw a map and the heights along the way, as a picture or a page",
	args:  "FILES… -o map.png|map.svg|map.html",
	help:  drawHelp,
	examples: []string{"draw dressed.kmz clean.gpx --terrain terrain --section distance -o isles.png",
		"draw dressed.kmz run.gpx --size A4 --scale 1:50000 --sheets map,legs,points -o isles.pdf",
		"draw dressed.kmz clean.gpx --terrain terrain -o isles.html", "draw recordings -o maps/"},
	tried: []string{"print", "plot", "map", "render"},
	own:   []string{"measure", "notation"},
	make:  (*app).draw}

func (a *app) draw(v *verb) made {
	d := &drawTask{task: a.newTask(v.name)}
	d.end, _ = a.kit.NewEnd("draw")
	d.drawing = d.end.Output.(*kit.Drawing)
	d.drawing.ReadLike(d.reading)
	return made{tables: append(
		d.readTables(),
		d.end.Output.Params(),
		d.end.Parting(),
		d.writing("the `FILE` to write: .png, .svg, .pdf or .html; a folder, or a name with {name}, makes one per input"),
		d.answering(),
		d.recipeTable(),
	), run: d.run}
}

func (d *drawTask) run(ctx context.Context, l *commandLine) error {
	if d.asRecipe {
		return d.printOutput(l, d.end.Output.Params(), ".png")
	}
	if isMany(d.output) {
		table := append(d.end.Output.Params(), d.end.Parting()...)
		m := &many{task: d.task, onePer: d.end.OnePer, ext: func([]input.File) (string, error) { return ".png", nil },
			printed: func(name string) (_, _ *recipe.Printed) { return d.printed(l, table, name) }}
		return m.run(ctx, l)
	}
	d.end.Name = d.output
	if d.output == "" {
		return usageError("draw: no output given; add -o map.png, map.svg or map.html")
	}
	paths, err := d.expand(ctx, l.args)
	if err != nil {
		return err
	}
	if err := d.settle("draw", d.end, paths); err != nil {
		return err
	}
	x := d.jobOf(d.end)
	if err := x.Open(ctx); err != nil {
		return err
	}
	defer x.Close()
	r, err := d.begin(ctx, x, paths)
	if err == nil {
		err = d.apply(ctx, x, r)
	}
	if err != nil {
		return err
	}
	sink := d.sink(false)
	defer sink.Discard()
	if err := x.Write(ctx, r, sink); err != nil {
		return worded("draw", err)
	}
	if len(r.Made) == 0 {
		return faultIn(d.end.Name, "there is nothing to draw")
	}
	return d.commit(sink, r.Made[0])
}

// mapOf is the drawing of a map as it is without any option, for verbs that also answer with one.
func (j *task) mapOf(name string) *drawTask {
	d := &drawTask{task: j}
	d.end, _ = j.kit.NewEnd("draw")
	d.drawing, d.end.Name = d.end.Output.(*kit.Drawing), name
	return d
}

// draw draws data that no chain has made.
func (d *drawTask) draw(ctx context.Context, w *chain.Work) error {
	sink := d.sink(false)
	defer sink.Discard()
	made, err := d.end.Write(ctx, w, d.end.Name, sink)
	if err != nil {
		return worded("draw", err)
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

func (d *drawTask) say(made *export.Made, kept string) error {
	notes := d.drawing.Drawn.Notes
	if d.json {
		c := made.Items
		return d.printJSON(map[string]any{"output": d.end.Name, "width": d.drawing.Width, "height": d.drawing.Height,
			"bytes": made.Bytes,
			"notes": append([]string{}, notes...), "kept": kept, "dry_run": d.dryRun,
			"waypoints": c[0], "routes": c[1], "tracks": c[2], "areas": c[3]})
	}
	if d.quiet {
		return nil
	}
	for _, n := range notes {
		d.err.Printf("%s %s\n", d.err.Paint(console.Faint, "note:"), console.Show(n))
	}
	word := d.err.Paint(console.Green, "drew")
	if d.dryRun {
		word = "would draw"
	}
	d.err.Printf("%s %s (%d × %d): %s, %s\n", word, console.Show(d.end.Name), d.drawing.Width, d.drawing.Height,
		countWords(made.Items),
		plural(made.Points, "point", "points"))
	if kept != "" {
		d.err.Printf("the old file is kept as %s\n", console.Show(kept))
	}
	return nil
}
