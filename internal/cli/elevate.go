package cli

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/terrain"
)

const elevating = "Heights"

func (a *app) elevate() *cli.Command {
	return &cli.Command{
		Name:      "elevate",
		Usage:     "give points heights from terrain, and say which could not be given one, and why",
		ArgsUsage: "FILES… --terrain PATH -o FILE",
		Description: "Waypoints, routes and tracks get their heights above the sea; outlines of areas get none. Terrain is raw tiles of one\n" +
			"degree (.hgt, called by their south-western corner, also in .zip), GeoTIFF in degrees or UTM, and ASCII grids; of\n" +
			"several grids the finest that has a height is asked.\n\n" +
			fmt.Sprintf("Ascent and descent count changes of height of %d m and more.", nav.ClimbThreshold),
		Flags: flags([]cli.Flag{
			&cli.StringSliceFlag{Name: "terrain", Category: elevating, Usage: "a file or folder of terrain, `PATH`; may be repeated"},
			&cli.StringFlag{Name: "when", Category: elevating, Value: "missing", Usage: "which points get a height, `WORD`: missing, those without one, or always, all of them"},
			&cli.StringFlag{Name: "between", Category: elevating, Value: "bilinear", Usage: "how a height between samples is found, `WORD`: nearest, bilinear or cubic"},
			&cli.BoolFlag{Name: "fill-voids", Category: elevating, Usage: "fill voids of the terrain from their rim"},
			&cli.StringSliceFlag{Name: "geoid", Category: elevating, Usage: "a grid of the geoid above the ellipsoid, `GRID`: heights above the ellipsoid become heights above the sea"},
		}, writeFlags(), readFlags(), answerFlags()),
		Action: a.runElevate,
	}
}

// elevateStep understands the options of elevate; done lets go of the terrain.
func (a *app) elevateStep(c *cli.Command) (step *terrain.Step, done func(), err error) {
	between, err := terrain.ParseBetween(c.String("between"))
	if err != nil {
		return nil, nil, usageError("elevate: --between: %v", err)
	}
	step = &terrain.Step{}
	switch c.String("when") {
	case "missing":
	case "always":
		step.Always = true
	default:
		return nil, nil, usageError("elevate: --when: %q is neither missing nor always", c.String("when"))
	}
	if len(c.StringSlice("terrain"))+len(c.StringSlice("geoid")) == 0 {
		return nil, nil, usageError("elevate: say where the heights come from: --terrain PATH, or --geoid GRID to bring heights above the ellipsoid to the sea")
	}
	if step.Always && len(c.StringSlice("terrain")) == 0 {
		return nil, nil, usageError("elevate: --when always needs --terrain")
	}
	var opened []*terrain.Terrain
	done = func() {
		for _, t := range opened {
			t.Close()
		}
	}
	for _, grid := range []struct {
		name string
		to   **terrain.Terrain
	}{{"terrain", &step.Terrain}, {"geoid", &step.Geoid}} {
		list := c.StringSlice(grid.name)
		if len(list) == 0 {
			continue
		}
		t, err := terrain.Open(list)
		if err != nil {
			done()
			return nil, nil, err
		}
		t.Between, t.FillVoids = between, c.Bool("fill-voids") && grid.name == "terrain"
		opened = append(opened, t)
		*grid.to = t
	}
	return step, done, nil
}

func (a *app) runElevate(_ context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	paths := c.Args().Slice()
	step, done, err := a.elevateStep(c)
	if err != nil {
		return err
	}
	defer done()
	if err := a.target(c.Name, o, paths); err != nil {
		return err
	}
	inputs, err := a.load(c.Name, paths, o)
	if err != nil {
		return err
	}
	data, err := a.merged(inputs, o)
	if err != nil {
		return err
	}
	stop := a.progress(o, "giving heights to "+plural(data.Points(), "point", "points"), 0, nil)
	result, err := step.Apply(data)
	stop()
	if err != nil {
		return err
	}
	failed := result.InVoid + result.Outside + result.NoGeoid
	if o.strict && failed > 0 {
		a.sayElevated(result, o)
		return strictError("%s: %s could not be given a height, refused by --strict; nothing was written", o.output, plural(failed, "point", "points"))
	}
	before := nav.Ledger{}
	if o.json {
		before = append(before, result.Ledger...)
		if failed > 0 {
			before = append(before, nav.Entry{KindWord: "file", What: "no heights", Why: failedWords(result), Count: failed})
		}
	} else {
		a.sayElevated(result, o)
		a.sayClimb(data, o)
	}
	return a.write(data, before, o)
}

// failedWords says why points have no height: 4 not (2 in a void, 2 outside the terrain: tile S48E012 is missing).
func failedWords(r *terrain.Result) string {
	var reasons []string
	if r.InVoid > 0 {
		reasons = append(reasons, measure.Count(r.InVoid)+" in a void")
	}
	if r.Outside > 0 {
		text := measure.Count(r.Outside) + " outside the terrain"
		var tiles []string
		for tile := range r.Missing {
			tiles = append(tiles, tile)
		}
		slices.SortFunc(tiles, func(a, b string) int {
			if d := r.Missing[b] - r.Missing[a]; d != 0 {
				return d
			}
			return strings.Compare(a, b)
		})
		switch n := len(tiles); {
		case n == 1:
			text += ": tile " + tiles[0] + " is missing"
		case n > 5:
			text += fmt.Sprintf(": tiles %s and %d more are missing", strings.Join(tiles[:5], ", "), n-5)
		case n > 1:
			text += ": tiles " + strings.Join(tiles, ", ") + " are missing"
		}
		reasons = append(reasons, text)
	}
	if r.NoGeoid > 0 {
		reasons = append(reasons, measure.Count(r.NoGeoid)+" outside the geoid grid, left above the ellipsoid")
	}
	return strings.Join(reasons, ", ")
}

// sayElevated says what the user waits for: how many points were given a height, and how many not, and why.
func (a *app) sayElevated(r *terrain.Result, o *options) {
	if o.quiet {
		return
	}
	text := plural(r.Given, "point", "points") + " given a height"
	if r.Filled > 0 {
		text += fmt.Sprintf(" (%s in voids, filled from their rim)", measure.Count(r.Filled))
	}
	if r.Had > 0 {
		text += fmt.Sprintf(", %s had one", measure.Count(r.Had))
	}
	if failed := r.InVoid + r.Outside; failed > 0 {
		text += ", " + a.err.paint(yellow, measure.Count(failed)+" not") + " (" + failedWords(r) + ")"
	}
	a.err.printf("%s\n", text)
	if r.Converted+r.NoGeoid > 0 {
		a.err.printf("%s brought from the ellipsoid to the sea\n", plural(r.Converted, "height", "heights"))
	}
}

// sayClimb says how much each line climbs now.
func (a *app) sayClimb(d *nav.Dataset, o *options) {
	if o.quiet {
		return
	}
	var rows [][]string
	add := func(kind nav.Kind, name string, s nav.Summary) {
		if words := climbWords(s, o.measure); words != "" {
			rows = append(rows, []string{kind.One(), oneLine(name, 40), heightRange(s, o.measure), words})
		}
	}
	for i := range d.Routes {
		add(nav.Routes, d.Routes[i].Name, d.Routes[i].Summary())
	}
	for i := range d.Tracks {
		add(nav.Tracks, d.Tracks[i].Name, d.Tracks[i].Summary())
	}
	const few = 12
	a.err.table("  ", []column{{}, {}, {right: true}, {}}, rows[:min(len(rows), few)])
	if n := len(rows) - few; n > 0 {
		a.err.printf("  … and %s\n", plural(n, "line more", "lines more"))
	}
}
