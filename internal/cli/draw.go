package cli

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/urfave/cli/v3"

	"gyrolith/core/format"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/passage"
	"gyrolith/core/picture"
	"gyrolith/core/safefile"
	"gyrolith/core/terrain"
)

const drawing = "Drawing"

const drawHelp = `Draws a map: tracks, routes with their order, waypoints with their symbols, areas; the name
of the output says the form: .png, .svg, or .html for a page of one file that one can move
about in. --section puts heights, and speeds of recordings, under it. The ground comes from
--terrain, with shaded relief and contour lines, or from a picture with --backdrop.`

func (a *app) draw() *cli.Command {
	text := func(name, usage string) cli.Flag {
		return &cli.StringFlag{Name: name, Category: drawing, Usage: usage}
	}
	return &cli.Command{
		Name:        "draw",
		Usage:       "draw a map and the heights along the way, as a picture or a page",
		ArgsUsage:   "FILES… -o map.png|map.svg|map.html",
		Description: drawHelp,
		Flags: flags([]cli.Flag{
			&cli.StringFlag{Name: "output", Aliases: []string{"o"}, Category: writing, Usage: "the `FILE` to write: .png, .svg or .html"},
			&cli.BoolFlag{Name: "replace", Category: writing, Usage: "write over an existing file, and keep the old one beside it"},
			&cli.BoolFlag{Name: "dry-run", Category: writing, Usage: "say what would be done and write nothing"},
			text("size", "the `SIZE` in pixels (default: 1280x800)"),
			text("scale", "the `SCALE` in the middle, such as 1:25000 (default: all of the data)"),
			text("theme", "the `THEME`: light, dark or print (default: light)"),
			text("title", "the `TITLE` (default: that of the file)"),
			&cli.StringSliceFlag{Name: "terrain", Category: drawing, Usage: "a file or folder of terrain, `PATH`, for the ground; may be repeated"},
			text("backdrop", "a picture with a world file, or the ground overlay of a KMZ, `FILE`, under the map"),
			text("crs", "the coordinate `SYSTEM` of the backdrop: an EPSG number or the path of a .prj file (default: WGS 84)"),
			text("section", "heights and speeds under the map, over `WHAT`: distance or time"),
			&cli.BoolFlag{Name: "section-only", Category: drawing, Usage: "the section without the map"},
			text("before", "the `FILE` as it was before, faintly beneath"),
			text("rejects", "the `FILE` of points that clean removed, marked by fault"),
			text("hazards", "the `FILE` with hazards: where a route comes too near, the clearance is drawn"),
			&cli.StringSliceFlag{Name: "hazards-take", Category: drawing, Usage: "only these of the hazards, `KIND[:GLOB]`; may be repeated"},
			text("clear", "the `DISTANCE` that is kept from hazards (default: 200m)"),
		}, readFlags(), answerFlags()),
		Action: a.runDraw,
	}
}

// parseDimensions reads 1280x800.
func parseDimensions(text string) (w, h int, err error) {
	if text == "" {
		return 1280, 800, nil
	}
	a, b, ok := strings.Cut(strings.ReplaceAll(text, "×", "x"), "x")
	w, err1 := strconv.Atoi(a)
	h, err2 := strconv.Atoi(b)
	if !ok || err1 != nil || err2 != nil || w < 200 || h < 150 || w > 12000 || h > 12000 {
		return 0, 0, fmt.Errorf("%q is no size: write 1280x800, from 200x150 to 12000x12000", text)
	}
	return w, h, nil
}

// parseScale reads 1:25000.
func parseScale(text string) (float64, error) {
	if text == "" {
		return 0, nil
	}
	n := strings.NewReplacer(",", "", " ", "", "'", "").Replace(strings.TrimPrefix(text, "1:"))
	v, err := strconv.ParseFloat(n, 64)
	if err != nil || v < 10 || v > 1e9 {
		return 0, fmt.Errorf("%q is no scale: write 1:25000", text)
	}
	return v, nil
}

// pictures are the forms of a drawing.
var pictures = []string{".png", ".svg", ".html"}

// mapOf understands the options of draw; done lets go of the terrain.
func (a *app) mapOf(c *cli.Command, o *options) (m *picture.Map, done func(), err error) {
	m = &picture.Map{Measure: o.measure, Zone: o.zone, Title: c.String("title")}
	done = func() {}
	fail := func(name string, err error) (*picture.Map, func(), error) {
		return nil, func() {}, usageError("draw: --%s: %v", name, err)
	}
	if m.Width, m.Height, err = parseDimensions(c.String("size")); err != nil {
		return fail("size", err)
	}
	if m.Scale, err = parseScale(c.String("scale")); err != nil {
		return fail("scale", err)
	}
	if m.Theme, err = picture.ParseTheme(c.String("theme")); err != nil {
		return fail("theme", err)
	}
	switch word := c.String("section"); word {
	case "", "distance", "time":
		m.Section = picture.Section{Along: word, Alone: c.Bool("section-only")}
		if m.Section.Alone && word == "" {
			m.Section.Along = "distance"
		}
	default:
		return fail("section", fmt.Errorf("%q is neither distance nor time", word))
	}
	if list := c.StringSlice("terrain"); len(list) > 0 {
		if m.Terrain, err = terrain.Open(list); err != nil {
			return nil, done, err
		}
		m.Terrain.FillVoids = true // a hole in the relief would look like something
		done = func() { m.Terrain.Close() }
	}
	if name := c.String("backdrop"); name != "" {
		var system *crs.System
		if word := c.String("crs"); word != "" {
			if system, err = a.system("draw", "crs", word, o.shift); err != nil {
				return nil, done, err
			}
		}
		if m.Backdrop, err = picture.OpenBackdrop(name, system); err != nil {
			return nil, done, &failure{statusInput, err}
		}
	}
	plain := *o
	plain.selection, plain.quiet = nav.Selection{}, true
	if path := c.String("before"); path != "" { // a file like those that are drawn
		in, err := a.loadOne(path, &plain)
		if err != nil {
			return nil, done, err
		}
		m.Before = in.Data
	}
	plain.read.System = nil
	if path := c.String("rejects"); path != "" {
		in, err := a.loadOne(path, &plain)
		if err != nil {
			return nil, done, err
		}
		m.Removed = in.Data
	}
	return m, done, nil
}

// hazardsOf loads the hazards whose clearances are drawn; nil where none are wanted.
func (a *app) hazardsOf(c *cli.Command, o *options) (*nav.Dataset, error) {
	path := c.String("hazards")
	if path == "" {
		return nil, nil
	}
	plain := *o
	plain.selection, plain.read.System = nav.Selection{}, nil
	for _, text := range c.StringSlice("hazards-take") {
		choice, err := nav.ParseChoice(text)
		if err != nil {
			return nil, usageError("draw: --hazards-take: %v", err)
		}
		plain.selection.Take = append(plain.selection.Take, choice)
	}
	in, err := a.loadOne(path, &plain)
	if err != nil {
		return nil, err
	}
	return in.Data, nil
}

// nearHazards finds where the routes come nearer to hazards than is kept, for circles in the drawing.
func (a *app) nearHazards(c *cli.Command, hazards, d *nav.Dataset, o *options) ([]picture.Circle, error) {
	if hazards == nil {
		return nil, nil
	}
	clear := 200.0
	if err := quantities(c, measure.ParseLength, map[string]*float64{"clear": &clear}); err != nil {
		return nil, err
	}
	dangers := passage.NewDangers(hazards, nil, nil)
	dangers.LeaveOut(d.Routes)
	step := &passage.Step{Clear: clear, Dangers: dangers, On: o.read.On}
	var out []picture.Circle
	for i := range d.Routes {
		for _, f := range step.Plan(&d.Routes[i]).Findings {
			if f.Near == nil {
				continue
			}
			circle := picture.Circle{Lat: f.Near.Lat, Lon: f.Near.Lon, Radius: clear, Name: fmt.Sprintf("%s, %s from leg %d of %s", f.Name, o.measure.Length(f.Near.Distance), f.Leg, f.Route)}
			if at := f.Near.Hazard; at != nil {
				circle.Lat, circle.Lon = at.Lat, at.Lon
			}
			out = append(out, circle)
		}
	}
	return out, nil
}

func (a *app) runDraw(_ context.Context, c *cli.Command) error {
	o, err := a.options(c)
	if err != nil {
		return err
	}
	paths := c.Args().Slice()
	ext := strings.ToLower(filepath.Ext(o.output))
	switch {
	case o.output == "":
		return usageError("draw: say where to write: -o map.png, map.svg or map.html")
	case !slices.Contains(pictures, ext):
		return usageError("draw: the name %s tells no form of a drawing: .png, .svg and .html do", o.output)
	}
	for _, in := range paths {
		if same(in, o.output) {
			return usageError("draw: %s is an input as well; inputs are never changed: name another output", o.output)
		}
	}
	m, done, err := a.mapOf(c, o)
	if err != nil {
		return err
	}
	defer done()
	inputs, err := a.load(c.Name, paths, o)
	if err != nil {
		return err
	}
	if m.Data, err = a.merged(inputs, o); err != nil {
		return err
	}
	if m.Title == "" {
		if m.Title = m.Data.Meta.Name; m.Title == "" && inputs[0].Path != "standard input" {
			m.Title = strings.TrimSuffix(filepath.Base(inputs[0].Path), filepath.Ext(inputs[0].Path))
		}
	}
	hazards, err := a.hazardsOf(c, o)
	if err != nil {
		return err
	}
	if m.Circles, err = a.nearHazards(c, hazards, m.Data, o); err != nil {
		return err
	}
	drawn, content, err := drawn(m, ext, inputs, nil)
	if err != nil {
		return err
	}
	kept := ""
	if !o.dryRun {
		kept, err = safefile.WriteAll(o.output, o.replace, func(w io.Writer) error { _, err := w.Write(content); return err })
		if err != nil {
			return err
		}
	}
	return a.sayDrawn(m, drawn, len(content), kept, o)
}

// drawn makes the drawing in its form. A page tells as well what was left out of the inputs, and what a chain changed.
func drawn(m *picture.Map, ext string, inputs []*format.Loaded, ledger nav.Ledger) (*picture.Drawn, []byte, error) {
	var out bytes.Buffer
	d := m.Draw()
	var err error
	switch ext {
	case ".png":
		err = d.Scene.WritePNG(&out)
	case ".svg":
		err = d.Scene.WriteSVG(&out)
	case ".html":
		page := &picture.Page{Map: m, Drawn: d, Ledger: ledger}
		for _, in := range inputs {
			for i := range in.Data.Problems {
				page.Notes = append(page.Notes, problemWords(in.Path, &in.Data.Problems[i]))
			}
			for i := range in.Data.Rejects {
				page.Faults = append(page.Faults, rejectWords(in.Path, &in.Data.Rejects[i]))
			}
		}
		err = page.Write(&out)
	default:
		err = errors.New("draws no " + ext)
	}
	return d, out.Bytes(), err
}

func (a *app) sayDrawn(m *picture.Map, d *picture.Drawn, size int, kept string, o *options) error {
	if o.json {
		c := m.Data.Counts()
		return a.printJSON(map[string]any{"output": o.output, "width": m.Width, "height": m.Height, "bytes": size, "notes": append([]string{}, d.Notes...), "kept": kept, "dry_run": o.dryRun,
			"waypoints": c[0], "routes": c[1], "tracks": c[2], "areas": c[3]})
	}
	if o.quiet {
		return nil
	}
	for _, n := range d.Notes {
		a.err.printf("%s %s\n", a.err.paint(faint, "note:"), show(n))
	}
	word := a.err.paint(green, "drew")
	if o.dryRun {
		word = "would draw"
	}
	a.err.printf("%s %s (%d × %d): %s, %s\n", word, show(o.output), m.Width, m.Height, contents(m.Data), plural(m.Data.Points(), "point", "points"))
	if kept != "" {
		a.err.printf("the older file is kept as %s\n", show(kept))
	}
	return nil
}
