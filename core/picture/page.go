package picture

import (
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
// the profile, and what is to be told. It asks nothing of any network, which its content policy forbids as well.
type Page struct {
	Map    *Map
	Drawn  *Drawn
	Notes  []string
	Faults []string
	Ledger nav.Ledger
}

// group is a kind of items in the list.
type group struct {
	Title string
	Items []listed
}

// listed is an item of the list, with a picture of its symbol, or the colours of its line.
type listed struct {
	Item
	View         string // of the symbol, in the drawing; "" for lines and areas
	Stroke, Fill string
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
	mapSVG, profileSVG := p.pictures()
	data, err := json.Marshal(p.data())
	if err != nil {
		return err
	}
	looks := map[string]*Shape{} // the first shape of each line and area
	for i := range p.Drawn.Scene.Shapes {
		if s := &p.Drawn.Scene.Shapes[i]; s.Item != "" && s.Pin == nil && len(s.Path) > 0 && s.Stroke.A > 0 {
			looks[s.Item] = s
		}
	}
	var groups []group
	for _, kind := range nav.Kinds {
		g := group{Title: kind.String()}
		for _, it := range p.Drawn.Items {
			if it.Kind == kind.One() {
				if it.Name == "" {
					it.Name = "without a name"
				}
				g.Items = append(g.Items, p.listed(it, looks))
			}
		}
		if len(g.Items) > 0 {
			groups = append(groups, g)
		}
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
	c := p.Map.Data.Counts()
	var parts []string
	for i, n := range c {
		if n > 0 {
			word := nav.Kind(i).String()
			if n == 1 {
				word = nav.Kind(i).One()
			}
			parts = append(parts, measure.Count(n)+" "+word)
		}
	}
	profile := ""
	if p.Drawn.Profile != nil {
		profile = orLine(p.Drawn.Profile.Line)
	}
	return pageTemplate.Execute(w, map[string]any{
		"Theme": p.Map.Theme.Name, "Title": title, "Summary": strings.Join(parts, ", "), "Profile": profile,
		"Policy": "default-src 'none'; img-src data:; style-src " + sum(pageStyle) + "; script-src " + sum(pageScript) +
			"; base-uri 'none'; form-action 'none'",
		"MapSVG": template.HTML(mapSVG), "ProfileSVG": template.HTML(profileSVG), "Layers": p.layers(), "Groups": groups,
		"Faults": p.Faults, "Removed": removed, "Ledger": p.Ledger, "Notes": append(slices.Clone(p.Drawn.Notes),
			p.Notes...), "Data": template.JS(data),
		"Style": template.CSS(pageStyle), "Script": template.JS(pageScript), // as they are, since the policy has their sums
	})
}

// listed gives an item its picture in the list.
func (p *Page) listed(it Item, looks map[string]*Shape) listed {
	out := listed{Item: it}
	if it.Kind == nav.Waypoints.One() {
		if p.Drawn.frame.Has(it.At) {
			out.View = fmt.Sprintf("%s %s 24 24", number(it.At.X-12), number(it.At.Y-12))
		}
		return out
	}
	if s := looks[it.ID]; s != nil {
		out.Stroke, out.Fill = s.Stroke.String(), "none"
		if it.Kind == nav.Areas.One() {
			out.Fill = out.Stroke
		}
	}
	return out
}

// layers lists those that can be hidden.
func (p *Page) layers() (out []string) {
	for i := range p.Drawn.Scene.Shapes {
		l := p.Drawn.Scene.Shapes[i].Layer
		if l != "frame" && l != "scale" && l != "section" && !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return
}

// pictures splits the scene: the map, of which what moves is in one group, and the profile.
func (p *Page) pictures() (mapSVG, profileSVG string) {
	var moving, still, section []Shape
	for _, s := range p.Drawn.Scene.Shapes {
		s.Clip = nil
		switch s.Layer {
		case "frame":
			still = append(still, s)
		case "scale": // the page draws its own, which follows the zoom
		case "section":
			section = append(section, s)
		default:
			moving = append(moving, s)
		}
	}
	const font = `font-family="Go, Liberation Sans, DejaVu Sans, Arial, sans-serif"`
	f := p.Drawn.frame
	m := &svgWriter{}
	if f.W > 0 {
		fmt.Fprintf(m, `<svg viewBox="%s %s %s %s" role="img" aria-label="map" %s><defs><clipPath id="cut"><rect x="%s" `+
			`y="%s" width="%s" height="%s"/></clipPath></defs><rect x="%s" y="%s" width="%s" height="%s"`,
			number(f.X), number(f.Y), number(f.W), number(f.H), font, number(f.X), number(f.Y), number(f.W), number(f.H),
			number(f.X), number(f.Y), number(f.W), number(f.H))
		m.paint("fill", p.Map.Theme.Paper)
		m.WriteString("/>\n<g clip-path=\"url(#cut)\"><g id=\"world\">\n")
		m.named = map[string]bool{}
		m.pins(moving)
		m.WriteString(`<rect id="ring" class="hidden"/><circle id="dot" class="hidden" r="6"/></g></g>` + "\n")
		m.shapes(still)
		fmt.Fprintf(m, `<g id="scale"><rect class="panel" x="%s" y="%s" width="190" height="34"/><rect id="bar" x="%s" `+
			`y="%s" width="0" height="5"/><text id="length" x="%s" y="%s" font-size="11"> </text></g></svg>`,
			number(f.X+f.W-200), number(f.Y+f.H-44), number(f.X+f.W-190), number(f.Y+f.H-22), number(f.X+f.W-190),
			number(f.Y+f.H-29))
	}
	if p.Drawn.Profile == nil {
		return m.String(), ""
	}
	x := &svgWriter{}
	plot := p.Drawn.Profile.Frame
	fmt.Fprintf(x, `<svg viewBox="%s %s %s %s" role="img" aria-label="heights along the way" %s>`+"\n",
		number(plot.X-52), number(plot.Y-28), number(plot.W+108), number(plot.H+54), font)
	x.shapes(section)
	fmt.Fprintf(x, `<line id="line" class="hidden" y1="%s" y2="%s"/></svg>`, number(plot.Y), number(plot.Y+plot.H))
	return m.String(), x.String()
}

// pins writes shapes, those that stand at one place in a group that keeps its size when the map is enlarged.
func (w *svgWriter) pins(shapes []Shape) {
	for i := 0; i < len(shapes); {
		j := i
		if s := &shapes[i]; s.Pin != nil {
			for j < len(shapes) && shapes[j].Pin != nil && shapes[j].Item == s.Item && *shapes[j].Pin == *s.Pin {
				j++
			}
			item := ""
			if s.Item != "" {
				item = fmt.Sprintf(` data-item="%s"`, escaped(s.Item))
			}
			id := ""
			if s.Item != "" && !w.named[s.Item] { // the list shows the same symbol
				w.named[s.Item] = true
				id = fmt.Sprintf(` id="pin-%s"`, escaped(s.Item))
			}
			fmt.Fprintf(w, `<g class="layer" data-layer="%s"><g class="pin"%s data-x="%s" data-y="%s"><g%s>`,
				escaped(s.Layer), item, number(s.Pin.X), number(s.Pin.Y), id)
			for k := i; k < j; k++ {
				w.shape(&shapes[k])
			}
			w.WriteString("</g></g></g>\n")
			i = j
			continue
		}
		for j < len(shapes) && shapes[j].Pin == nil {
			j++
		}
		w.shapes(shapes[i:j])
		i = j
	}
}

// data is what the page's program knows.
func (p *Page) data() any {
	type rect struct {
		X float64 `json:"x"`
		Y float64 `json:"y"`
		W float64 `json:"w"`
		H float64 `json:"h"`
	}
	round := func(v float64) float64 {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return 0
		}
		return math.Round(v*10) / 10
	}
	of := func(r Rect) rect { return rect{round(r.X), round(r.Y), round(r.W), round(r.H)} }
	type item struct {
		ID      string  `json:"id"`
		Kind    string  `json:"kind"`
		Name    string  `json:"name"`
		Details string  `json:"details"`
		X       float64 `json:"x"`
		Y       float64 `json:"y"`
		Box     rect    `json:"box"`
	}
	items := []item{}
	for _, it := range p.Drawn.Items {
		items = append(items, item{it.ID, it.Kind, it.Name, it.Details, round(it.At.X), round(it.At.Y), of(it.Box)})
	}
	samples := [][]any{}
	if pr := p.Drawn.Profile; pr != nil {
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
			samples = append(samples, []any{round(s.X), round(s.Map.X), round(s.Map.Y), text})
		}
	}
	name, unit := p.Map.Measure.LongMeasure()
	out := map[string]any{"frame": of(p.Drawn.frame), "items": items, "samples": samples, "metres": p.Drawn.metres,
		"measure": name, "unit": unit}
	if v := p.Drawn.view; v != nil && !v.world {
		f := p.Drawn.frame
		out["ground"] = map[string]float64{"lat0": v.lat0, "lon0": v.lon0, "sin0": v.sin0, "cos0": v.cos0,
			"radius": v.radius, "e": earth.Eccentricity, "a": geodesy.SemiMajor, "f": geodesy.Flattening,
			"x": f.X + f.W/2 - v.cx/v.perPx, "y": f.Y + f.H/2 + v.cy/v.perPx}
	}
	return out
}
