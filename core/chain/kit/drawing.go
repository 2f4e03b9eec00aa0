package kit

import (
	"bytes"
	"context"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"time"
	"unicode"

	"gyrolith/core/chain"
	"gyrolith/core/export"
	"gyrolith/core/format"
	"gyrolith/core/geodesy"
	"gyrolith/core/input"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/param"
	"gyrolith/core/passage"
	"gyrolith/core/picture"
	"gyrolith/core/reference"
	"gyrolith/core/terrain"
)

// Drawing is draw as an output. It reads the files that are drawn beside the data as the data are read.
type Drawing struct {
	picture.Map
	Drawn *picture.Drawn // the last drawing, once it is written

	kit      *chain.Kit
	reading  *input.Reading // of what is drawn beside the data
	backdrop string
	before   string
	rejects  string
	terrain  []string
	system   reference.Choice
	passage  passage.Step
	hazards  *nav.Dataset
	files    []string
	ext      string
	sheets   []string // of a document; none is the map, and the section if there is one
	notation geodesy.Notation
	paper    bool // the size is that of a sheet
}

func newDrawing(k *chain.Kit) *Drawing {
	return &Drawing{kit: k, reading: k.NewReading(), Map: picture.Map{Width: 1280, Height: 800}}
}

// ReadLike has the files beside the data read like the data.
func (d *Drawing) ReadLike(r *input.Reading) { d.reading = r }

// Params lists the parameters of a drawing.
func (d *Drawing) Params() param.Table {
	size := param.Func("size", "SIZE", "the `SIZE` in pixels, or of a sheet: A4, A3, letter, A4-portrait",
		func(text string) (err error) {
			d.Width, d.Height, err = picture.ParseSize(text)
			d.paper = unicode.IsLetter([]rune(text + "1")[0])
			return
		})
	size.Default = "1280x800"
	theme := param.Func("theme", "THEME", "the `THEME`: light, dark or print",
		func(text string) (err error) { d.Theme, err = picture.ParseTheme(text); return })
	theme.Words, theme.Default = []string{"light", "dark", "print"}, "light"
	system := param.Text("backdrop-crs", &d.system.Word, "SYSTEM",
		"the coordinate `SYSTEM` of the backdrop: an EPSG number or the path of a .prj file (default: WGS 84)")
	system.Path = param.Maybe
	section := param.Word("section", &d.Section.Along, []string{"distance", "time"}, "WHAT",
		"heights and speeds under the map, over `WHAT`: distance or time")
	clock := param.Clock(func(_ *param.Env, zone *time.Location) { d.Zone = zone })
	return append(param.Table{
		size,
		param.Func("scale", "SCALE", "the `SCALE` in the middle, such as 1:25000 (default: all of the data)",
			func(text string) (err error) { d.Scale, err = picture.ParseScale(text); return }),
		theme,
		param.Text("title", &d.Title, "TITLE", "the `TITLE` (default: that of the file)"),
		param.Files("terrain", &d.terrain, "PATH", "a file or folder of terrain, `PATH`, for the ground; repeatable"),
		param.File("backdrop", &d.backdrop, "FILE",
			"put a picture under the map: a `FILE` with a world file, or a KMZ with a ground overlay"),
		system,
	}, append(d.system.ShiftParams("the backdrop"),
		param.WordsOf("sheets", &d.sheets, picture.AllSheets,
			func(w string) bool { return slices.Contains(picture.AllSheets, w) }, "SHEETS",
			"the `SHEETS` of a .pdf, or to print from a page, comma-separated: map, legs, points, section (default: map)"),
		export.NotationParam(&d.notation),
		section,
		param.Switch("section-only", &d.Section.Alone, "the section only, without the map"),
		param.File("before", &d.before, "FILE", "an earlier version of the data, `FILE`, drawn faintly beneath"),
		param.File("removed", &d.rejects, "FILE", "the `FILE` of points removed by clean, marked by fault"),
		param.File("hazards", &d.passage.HazardsPath, "FILE",
			"the `FILE` with hazards: the clearance is drawn where a route comes too near"),
		param.HazardsTake(&d.passage.HazardsTake),
		param.Length("clear", &d.passage.Clear, "DISTANCE", "the `DISTANCE` to keep from hazards, such as 150m"),
		param.Measures(func(s measure.System) { d.Measure = s }),
		clock,
	)...).In("Drawing")
}

// pictures are the forms of a drawing.
var pictures = []string{".png", ".svg", ".pdf", ".html"}

// IsDrawing says whether a name is that of a drawing.
func IsDrawing(name string) bool {
	return slices.Contains(pictures, strings.ToLower(filepath.Ext(name)))
}

// Name settles the form by the extension.
func (d *Drawing) Name(name string) (string, error) {
	d.ext = strings.ToLower(filepath.Ext(name))
	if !slices.Contains(pictures, d.ext) {
		return "", fmt.Errorf("the name %s doesn't give the form of the drawing: use .png, .svg, .pdf or .html", name)
	}
	return name, nil
}

// Check finds parameters that make no sense.
func (d *Drawing) Check() error {
	if d.Section.Alone && d.Section.Along == "" {
		d.Section.Along = "distance"
	}
	if len(d.passage.HazardsTake) > 0 && d.passage.HazardsPath == "" {
		return param.Errorf("hazards-take", "chooses among hazards, but no file of hazards is given")
	}
	return nil
}

// Open reads the files that are drawn beside the data.
func (d *Drawing) Open(ctx context.Context) (err error) {
	if len(d.terrain) > 0 {
		if d.Terrain, err = terrain.Open(d.terrain); err != nil {
			return err
		}
		d.Terrain.FillVoids = true // a hole in the relief would look like something
	}
	if err := d.system.Open("crs"); err != nil {
		return err
	}
	if d.backdrop != "" {
		if d.Backdrop, err = picture.OpenBackdrop(d.backdrop, d.system.System); err != nil {
			return err
		}
		d.files = d.Backdrop.Files
	}
	beside := d.reading.Beside()
	load := func(path string, to **nav.Dataset) error {
		if path == "" {
			return nil
		}
		in, err := beside.Load(ctx, path)
		if err == nil {
			*to = in.Data
		}
		return err
	}
	if err := load(d.before, &d.Before); err != nil {
		return err
	}
	if err := load(d.rejects, &d.Removed); err != nil {
		return err
	}
	d.hazards, _, err = d.passage.LoadHazards(ctx, d.reading)
	return err
}

// Close closes the terrain.
func (d *Drawing) Close() {
	if d.Terrain != nil {
		d.Terrain.Close()
	}
}

// Files lists the files beside those that the parameters name.
func (d *Drawing) Files() []string { return d.files }

// Write draws the data.
func (d *Drawing) Write(ctx context.Context, w *chain.Work, name string, sink export.Sink) (*export.Made, error) {
	m := d.Map
	m.Data = w.Data
	if m.Title == "" {
		if m.Title = w.Data.Meta.Name; m.Title == "" && w.Source != "standard input" {
			m.Title = w.Source
		}
	}
	if m.Theme == nil {
		m.Theme = picture.Themes["light"]
		if d.ext == ".pdf" {
			m.Theme = picture.Themes["print"]
		}
	}
	step := d.passage
	step.On = d.reading.Options.On
	for _, c := range step.Clearances(d.hazards, w.Data.Routes) {
		m.Circles = append(m.Circles, picture.Circle{Lat: c.Lat, Lon: c.Lon, Radius: step.Clear,
			Name: fmt.Sprintf("%s, %s from leg %d of %s", c.Name, m.Measure.Length(c.Distance), c.Leg, c.Route)})
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	m.Grid = d.notation
	draw := m.Draw
	if d.ext == ".html" {
		draw = m.DrawPage
	}
	drawn, err := draw(ctx)
	if err != nil {
		return nil, err
	}
	if m.Terrain != nil && m.Terrain.Err() != nil {
		return nil, m.Terrain.Err()
	}
	d.Drawn = drawn
	var content bytes.Buffer
	switch d.ext {
	case ".png":
		err = drawn.Scene.WritePNG(&content)
	case ".svg":
		err = drawn.Scene.WriteSVG(&content)
	case ".pdf":
		var sheets []*picture.Scene
		if sheets, err = d.sheetsOf(ctx, &m, drawn); err == nil {
			err = picture.WritePDF(&content, m.Title, sheets)
		}
	default:
		page := &picture.Page{Map: &m, Drawn: drawn, Ledger: w.Ledger()}
		if page.Sheets, err = d.printed(ctx, m); err != nil {
			return nil, err
		}
		for _, r := range w.Remarks {
			if r.Problem != nil {
				page.Notes = append(page.Notes, r.String())
			} else {
				page.Faults = append(page.Faults, r.String())
			}
		}
		err = page.Write(&content)
	}
	if err != nil {
		return nil, err
	}
	out := &export.Made{Files: []string{name}, Bytes: content.Len(), Written: format.Written{Items: w.Data.Counts(),
		Points: w.Data.Points()}}
	to, err := sink.Create(name)
	if err == nil {
		_, err = to.Write(content.Bytes())
	}
	return out, err
}
