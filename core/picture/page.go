package picture

import (
	"context"
	"crypto/sha256"
	_ "embed" // the page's parts
	"encoding/base64"
	"encoding/json"
	"fmt"
	"html/template"
	"io"
	"math"
	"slices"
	"strings"

	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

//go:embed page/page.html
var pageText string

//go:embed page/page.css
var pageStyle string

//go:embed page/page.js
var pageScript string

var pageTemplate = template.Must(template.New("page").Parse(pageText))

// Page is a drawing as one file that opens from a folder: the map that one can move about in, the list of its items,
// the profile, what is to be told, and the sheets that it prints. It asks nothing of any network, which its content
// policy forbids as well.
type Page struct {
	Map    *Map
	Drawn  *Drawn // by DrawPage
	Sheets []*Scene
	Notes  []string
	Faults []string
	Ledger nav.Ledger
}

// DrawPage draws the map for a page: without furniture and labels, which the page's program puts where the window has
// room for them, and with ground beyond the frame.
func (m *Map) DrawPage(ctx context.Context) (*Drawn, error) {
	p := *m
	p.page = true
	return p.Draw(ctx)
}

// faultCount is a row of what was taken out.
type faultCount struct {
	Fault string
	Count int
}

func sum(text string) string {
	s := sha256.Sum256([]byte(text))
	return "'sha256-" + base64.StdEncoding.EncodeToString(s[:]) + "'"
}

// Write writes the page.
func (p *Page) Write(w io.Writer) error {
	parts := p.split()
	data, err := json.Marshal(p.data(parts))
	if err != nil {
		return err
	}
	var removed []faultCount
	if p.Map.Removed != nil {
		faults, counts := faultsOf(p.Map.Removed)
		for _, f := range faults {
			removed = append(removed, faultCount{f, counts[f]})
		}
	}
	title := p.Map.Title
	if title == "" {
		title = "Map"
	}
	var counts []string
	for i, n := range p.Map.Data.Counts() {
		if n > 0 {
			word := nav.Kind(i).String()
			if n == 1 {
				word = nav.Kind(i).One()
			}
			counts = append(counts, measure.Count(n)+" "+word)
		}
	}
	profile := ""
	if p.Drawn.Profile != nil {
		profile = orLine(p.Drawn.Profile.Line)
	}
	sheetStyle := ""
	if len(p.Sheets) > 0 { // the paper is that of the first; a pixel of CSS is 1/96 inch on paper too
		sheetStyle = fmt.Sprintf("@page{size:%gpx %gpx;margin:0}", p.Sheets[0].Width, p.Sheets[0].Height)
	}
	return pageTemplate.Execute(w, map[string]any{
		"Theme": p.Map.Theme.Name, "Title": title, "Summary": strings.Join(counts, ", "), "Profile": profile,
		"Policy": "default-src 'none'; img-src data:; style-src " + sum(pageStyle) + " " + sum(sheetStyle) +
			"; script-src " + sum(pageScript) + "; base-uri 'none'; form-action 'none'",
		"HasMap": p.Drawn.frame.W > 0, "Ground": template.HTML(parts.ground), "Lines": template.HTML(parts.lines),
		"Looks": template.HTML(parts.looks), "Legend": template.HTML(p.legend()),
		"ProfileSVG": template.HTML(p.profile(parts.section)), "Layers": parts.layers,
		"Faults": p.Faults, "Removed": removed, "Ledger": p.Ledger, "Notes": append(slices.Clone(p.Drawn.Notes),
			p.Notes...), "Data": template.JS(data), "Sheets": p.sheets(), "SheetStyle": template.CSS(sheetStyle),
		"Style": template.CSS(pageStyle), "Script": template.JS(pageScript), // as they are, since the policy has their sums
	})
}

// pin is what stands at a place of the map and keeps its size.
type pin struct {
	x, y  float64
	look  int
	item  string
	layer string
	title string
}

// pageParts are the parts of a drawing, as the page needs them.
type pageParts struct {
	ground, lines string // SVG of what grows with the map, beneath the grid and above it
	looks         string // SVG of what pins look like, one each
	pins          []pin
	layers        []string // that can be hidden
	section       []Shape
	strokes       map[string]nav.Colour // of lines and areas, by item
	symbols       map[string]int        // looks of waypoints, by item
}

// split sorts the shapes of the drawing into parts.
func (p *Page) split() *pageParts {
	out := &pageParts{strokes: map[string]nav.Colour{}, symbols: map[string]int{}}
	var ground, lines []Shape
	looks := &svgWriter{}
	shapes := p.Drawn.Scene.Shapes
	layer := func(name string) {
		if !slices.Contains(out.layers, name) {
			out.layers = append(out.layers, name)
		}
	}
	for i := 0; i < len(shapes); i++ {
		s := shapes[i]
		s.Clip = nil
		switch s.Layer {
		case "section":
			out.section = append(out.section, s)
			continue
		case "ground", "backdrop":
			ground = append(ground, s)
			layer(s.Layer)
			continue
		}
		layer(s.Layer)
		if s.Pin == nil {
			lines = append(lines, s)
			if _, ok := out.strokes[s.Item]; !ok && s.Item != "" && s.Stroke.A > 0 {
				out.strokes[s.Item] = s.Stroke
			}
			continue
		}
		look, same := lookOf(shapes[i:])
		i += same - 1
		n := looks.define(look)
		out.pins = append(out.pins, pin{s.Pin.X, s.Pin.Y, n, s.Item, s.Layer, s.Title})
		if s.Layer == "waypoints" {
			out.symbols[s.Item] = n
		}
	}
	if p.Drawn.frame.W > 0 {
		out.layers = append(out.layers, "grid")
	}
	if len(p.Drawn.labels) > 0 {
		out.layers = append(out.layers, "names")
	}
	g, l := &svgWriter{prefix: "ground-"}, &svgWriter{}
	g.shapes(ground)
	l.shapes(lines)
	out.ground, out.lines, out.looks = g.String(), l.String(), looks.String()
	return out
}

func (p *Page) legend() string {
	if len(p.Drawn.legend) == 0 {
		return ""
	}
	w := &svgWriter{}
	fmt.Fprintf(w, `<svg width="%s" height="%s" viewBox="0 0 %s %s" role="img" aria-label="Legend" %s>`+"\n",
		number(p.Drawn.size.X), number(p.Drawn.size.Y), number(p.Drawn.size.X), number(p.Drawn.size.Y), svgFonts)
	w.shapes(p.Drawn.legend)
	w.WriteString("</svg>")
	return w.String()
}

func (p *Page) profile(section []Shape) string {
	if p.Drawn.Profile == nil {
		return ""
	}
	x := &svgWriter{}
	plot := p.Drawn.Profile.Frame
	fmt.Fprintf(x, `<svg viewBox="%s %s %s %s" role="img" aria-label="heights along the way" %s>`+"\n",
		number(plot.X-52), number(plot.Y-28), number(plot.W+108), number(plot.H+54), svgFonts)
	x.shapes(section)
	fmt.Fprintf(x, `<line id="line" class="hidden" y1="%s" y2="%s"/></svg>`, number(plot.Y), number(plot.Y+plot.H))
	return x.String()
}

func (p *Page) sheets() (out []template.HTML) {
	for i, s := range p.Sheets {
		w := &svgWriter{prefix: fmt.Sprintf("sheet%d-", i+1)}
		w.scene(s)
		out = append(out, template.HTML(w.String()))
	}
	return
}

func tenth(v float64) float64 {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return 0
	}
	return math.Round(v*10) / 10
}

// pageRect is a part of the drawing, for the page's program.
type pageRect [4]float64

func rectOf(r Rect) pageRect { return pageRect{tenth(r.X), tenth(r.Y), tenth(r.W), tenth(r.H)} }

// pageItem is an item of the list.
type pageItem struct {
	ID      string    `json:"id"`
	Kind    string    `json:"kind"`
	Name    string    `json:"name"`
	Group   string    `json:"group,omitempty"`
	Details string    `json:"details,omitempty"`
	X       float64   `json:"x"`
	Y       float64   `json:"y"`
	Box     *pageRect `json:"box,omitempty"`  // of lines and areas
	Look    *int      `json:"look,omitempty"` // of waypoints
	Stroke  string    `json:"stroke,omitempty"`
}

// labelStyle is what many labels have in common.
type labelStyle struct {
	Size float64 `json:"size"`
	Gap  float64 `json:"gap"`
	Bold bool    `json:"bold,omitempty"`
	Ink  string  `json:"ink"`
}

// data is what the page's program knows.
func (p *Page) data(parts *pageParts) any {
	items, place := []pageItem{}, map[string]int{}
	for _, kind := range nav.Kinds { // as they stand in the list
		for _, it := range p.Drawn.Items {
			if it.Kind != kind.One() {
				continue
			}
			out := pageItem{ID: it.ID, Kind: it.Kind, Name: it.Name, Group: it.Group, Details: it.Details, X: tenth(it.At.X),
				Y: tenth(it.At.Y)}
			if look, ok := parts.symbols[it.ID]; ok {
				out.Look = &look
			}
			if kind != nav.Waypoints {
				box := rectOf(it.Box)
				out.Box = &box
				if c, ok := parts.strokes[it.ID]; ok {
					out.Stroke = c.String()
				}
			}
			place[it.ID] = len(items)
			items = append(items, out)
		}
	}
	of := func(id string) int {
		if i, ok := place[id]; ok {
			return i
		}
		return -1
	}
	pins := [][]any{} // x, y, look, item, layer, and a title unless it is the item's name
	for i := range parts.pins {
		s := &parts.pins[i]
		row := []any{tenth(s.x), tenth(s.y), s.look, of(s.item), slices.Index(parts.layers, s.layer)}
		if n := of(s.item); s.title != "" && (n < 0 || items[n].Name != s.title) {
			row = append(row, s.title)
		}
		pins = append(pins, row)
	}
	labels, styles := [][]any{}, []labelStyle{} // text, item, style, and the spots as x, y, x, y …
	for i := range p.Drawn.labels {
		l := &p.Drawn.labels[i]
		style := labelStyle{l.Size, tenth(l.Gap), l.Bold, l.Ink.String()}
		n := slices.Index(styles, style)
		if n < 0 {
			n = len(styles)
			styles = append(styles, style)
		}
		row := []any{l.Text, of(l.Item), n}
		for _, spot := range l.Spots {
			row = append(row, tenth(spot.X), tenth(spot.Y))
		}
		labels = append(labels, row)
	}
	name, unit := p.Map.Measure.LongMeasure()
	out := map[string]any{"frame": rectOf(p.Drawn.frame), "items": items, "pins": pins, "labels": labels,
		"styles": styles, "layers": parts.layers, "samples": p.samples(), "metres": p.Drawn.metres, "measure": name,
		"unit": unit}
	if v := p.Drawn.view; v != nil {
		f := p.Drawn.frame
		out["ground"] = map[string]any{"lat0": v.lat0, "lon0": v.lon0, "sin0": v.sin0, "cos0": v.cos0,
			"radius": v.radius, "e": earth.Eccentricity, "a": geodesy.SemiMajor, "f": geodesy.Flattening, "world": v.world,
			"x": f.X + f.W/2 - v.cx/v.perPx, "y": f.Y + f.H/2 + v.cy/v.perPx}
	}
	return out
}

// samples are places of the profile, those of the map that belong to them, and what is said of them.
func (p *Page) samples() [][]any {
	samples := [][]any{}
	pr := p.Drawn.Profile
	if pr == nil {
		return samples
	}
	last := math.Inf(-1)
	for i := range pr.Samples {
		s := &pr.Samples[i]
		if math.IsNaN(s.X) || s.X-last < 1.5 && i != len(pr.Samples)-1 {
			continue
		}
		last = s.X
		text := p.Map.Measure.Length(s.Distance)
		if !math.IsNaN(s.Height) {
			text += ", " + p.Map.Measure.Height(s.Height)
		}
		if !math.IsNaN(s.Speed) {
			text += ", " + p.Map.Measure.Speed(s.Speed)
		}
		samples = append(samples, []any{tenth(s.X), tenth(s.Map.X), tenth(s.Map.Y), text})
	}
	return samples
}
