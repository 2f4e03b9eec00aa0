package picture

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"gyrolith/core/geodesy"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
	"gyrolith/core/shape"
	"gyrolith/core/terrain"
)

// Map says what is drawn, and how.
type Map struct {
	Data          *nav.Dataset
	Title         string
	Width, Height int
	Scale         float64          // 25000 is 1:25,000; 0 fits the data
	Shift         XY               // metres from the middle of the data to that of the picture
	Imprint       string           // a line at its lower edge; "" for none
	Grid          geodesy.Notation // its lines: UTM for that and the military grid, else latitude and longitude
	Theme         *Theme
	Measure       measure.System
	Zone          *time.Location

	Terrain  *terrain.Terrain // the ground under it; nil is none
	Backdrop *Backdrop
	Before   *nav.Dataset // drawn faintly beneath
	Removed  *nav.Dataset // points that were taken out, by the fault that is their type
	Circles  []Circle
	Section  Section

	page bool // what is drawn is moved about in: nothing is left out for lack of room
}

// Circle is a clearance that is not kept, about a hazard.
type Circle struct {
	Lat, Lon, Radius float64 // metres
	Name             string
}

// Drawn is a drawing, and what is to be said of it.
type Drawn struct {
	Scene   *Scene
	Notes   []string
	Items   []Item
	Profile *Profile // nil where there is none
	frame   Rect     // of the map
	metres  float64  // a pixel
	view    *view    // nil where there is no map
	middle  XY       // of the frame, metres of the projection
	extent  Rect     // of the data, metres of the projection
	ground  Rect     // that the frame shows
	fits    bool     // all of the data is in the frame
	labels  []Label  // in the order of their claims to a place
	legend  []Shape
	size    XY // of the legend
}

// Item is what a page lists beside the map.
type Item struct {
	ID, Kind, Name, Group, Details string
	At                             XY
	Box                            Rect
}

// drawing is a map in the making.
type drawing struct {
	marks map[string][]*nav.Point // the waypoints by their names; made when it is needed
	*Map
	scene    *Scene
	view     *view
	labels   *placer
	out      *Drawn
	unit     float64  // the size of texts
	legend   Rect     // where it stands, once that is settled
	hidden   []string // labels without a place
	beyond   int      // points outside of the frame
	gridName string   // of UTM; "" for latitude and longitude
}

// Draw draws the map, and the section under it.
func (m *Map) Draw(ctx context.Context) (*Drawn, error) {
	d := &drawing{Map: m, out: &Drawn{}, unit: 12}
	d.scene = &Scene{Width: float64(m.Width), Height: float64(m.Height), Paper: m.Theme.Paper}
	d.out.Scene = d.scene
	frame := Rect{10, 10, d.scene.Width - 20, d.scene.Height - 20}
	var section Rect
	if m.Section.Along != "" {
		height := max(d.scene.Height*0.27, 130)
		if m.Section.Alone {
			height = d.scene.Height - 20
		}
		section = Rect{10, d.scene.Height - 10 - height, d.scene.Width - 20, height}
		frame.H -= height + 10
	}
	if !m.Section.Alone {
		if err := d.drawMap(ctx, frame); err != nil {
			return nil, err
		}
	}
	if m.Section.Along != "" {
		d.section(section)
	}
	if err := ctx.Err(); err != nil {
		return nil, err
	}
	if n := len(d.hidden); n > 0 {
		noun := "labels"
		if n == 1 {
			noun = "label"
		}
		const few = 8
		names := make([]string, 0, few)
		for _, name := range d.hidden[:min(n, few)] {
			names = append(names, clip(name))
		}
		list := strings.Join(names, ", ")
		if n > few {
			list += fmt.Sprintf(" and %s more", measure.Count(n-few))
		}
		d.note("%s %s omitted for lack of room (a larger picture or scale shows more): %s", measure.Count(n), noun, list)
	}
	if letters, first := d.scene.missingLetters(); letters != "" {
		d.note("the font lacks %s, as in %q: they are drawn as boxes or question marks", letters, clip(first))
	}
	if d.beyond > 0 {
		d.note("points outside the picture at this scale: %s", measure.Count(d.beyond))
	}
	return d.out, nil
}

func (d *drawing) note(format string, args ...any) {
	d.out.Notes = append(d.out.Notes, fmt.Sprintf(format, args...))
}

// drawMap draws layer upon layer, until the context ends.
func (d *drawing) drawMap(ctx context.Context, frame Rect) error {
	m := d.Map
	d.view = fit(frame, m.Scale, func(visit func(lat, lon float64)) {
		reach(m.Data, visit)
		if m.Removed == nil && m.Data.Points() == 0 && m.Before != nil {
			reach(m.Before, visit)
		}
	})
	v := d.view
	d.out.extent = Rect{v.cx - v.width/2, v.cy - v.height/2, v.width, v.height}
	v.cx, v.cy = v.cx+m.Shift.X, v.cy+m.Shift.Y
	d.out.view = v
	d.out.frame, d.out.metres, d.out.middle = frame, v.perPx, XY{v.cx, v.cy}
	d.out.ground = Rect{v.cx - frame.W/2*v.perPx, v.cy - frame.H/2*v.perPx, frame.W * v.perPx, frame.H * v.perPx}
	d.out.fits = v.width <= d.out.ground.W && v.height <= d.out.ground.H
	d.labels = newPlacer(frame)
	d.ground()
	if !m.page { // which draws its own grid, and places its labels anew for each zoom
		d.furnitureRoom()
		d.symbolRoom()
		d.grid()
	}
	begun := len(d.scene.Shapes)
	before := func() {
		if m.Before != nil {
			d.faint(m.Before)
		}
	}
	for _, layer := range []func(){d.areas, before, d.circles, d.lines, d.removed, d.waypoints} {
		if err := ctx.Err(); err != nil {
			return err
		}
		layer()
	}
	for i := begun; i < len(d.scene.Shapes); i++ {
		d.scene.Shapes[i].Clip = &d.view.frame
	}
	if m.page {
		rows := d.legendRows()
		d.out.legend, d.out.size = d.drawLegend(rows, XY{}), XY{320, legendLine * float64(len(rows))}
		return nil
	}
	d.furniture()
	return nil
}

// path draws a line of points: what falls on one pixel is drawn once, and so is a stretch that was drawn before. A jump
// over more than half of the earth is not drawn.
func (d *drawing) path(points []nav.Point, close bool, box *Rect) (ops []Op) {
	type step struct{ x1, y1, x2, y2 int32 }
	seen := map[step]bool{}
	var last XY
	lx, ly := int32(math.MinInt32), int32(math.MinInt32)
	pen := false
	limit := 4 * (d.scene.Width + d.scene.Height)
	each := thinned(d.view.quarter(d.view.perPx/degreeMetres), func(lat, lon float64) {
		p := d.view.place(lat, lon)
		if math.IsNaN(p.X + p.Y) {
			return
		}
		p.X, p.Y = max(min(p.X, limit), -limit), max(min(p.Y, limit), -limit)
		x, y := int32(math.Round(p.X)), int32(math.Round(p.Y))
		if x == lx && y == ly {
			return
		}
		if lx == math.MinInt32 {
			ops, pen = append(ops, moveTo(p.X, p.Y)), true
		} else {
			s := step{lx, ly, x, y}
			jump := d.view.world && math.Abs(p.X-last.X) > d.scene.Width*0.6
			if !close && (seen[s] || seen[step{x, y, lx, ly}]) || jump {
				pen = false
			} else {
				if !pen {
					ops, pen = append(ops, moveTo(last.X, last.Y)), true
				}
				ops = append(ops, lineTo(p.X, p.Y))
				seen[s] = true
			}
		}
		if !d.view.frame.Has(p) {
			d.beyond++
		}
		grow(box, p)
		last, lx, ly = p, x, y
	})
	if close {
		for i := range points {
			each(points[i].Lat, points[i].Lon)
		}
	} else {
		shape.DenseLegs(points, d.view.bend(), each)
	}
	if close && len(ops) > 0 {
		ops = append(ops, closed)
	}
	return
}

func grow(r *Rect, p XY) {
	if r == nil {
		return
	}
	if r.W < 0 || *r == (Rect{}) {
		*r = Rect{p.X, p.Y, 0.01, 0.01}
		return
	}
	x2, y2 := max(r.X+r.W, p.X), max(r.Y+r.H, p.Y)
	r.X, r.Y = min(r.X, p.X), min(r.Y, p.Y)
	r.W, r.H = x2-r.X, y2-r.Y
}

func (d *drawing) colourOf(item *nav.Item, n int, fallback []nav.Colour) nav.Colour {
	if c := item.Style.Colour; c.Set {
		if d.Theme.Name == "dark" { // as bright as it takes to be seen there
			for k := 0; k < 4 && brightness(c) < 105; k++ {
				c = mixed(c, nav.RGB(255, 255, 255), 0.3)
			}
		}
		return c
	}
	return fallback[n%len(fallback)]
}

// brightness is the luma of a colour (ITU-R BT.601), from 0 to 255.
func brightness(c nav.Colour) float64 {
	return 0.299*float64(c.R) + 0.587*float64(c.G) + 0.114*float64(c.B)
}

func (d *drawing) areas() {
	for i := range d.Data.Areas {
		a := &d.Data.Areas[i]
		id := fmt.Sprintf("a%d", i+1)
		c := d.colourOf(&a.Item, 0, []nav.Colour{d.Theme.Area})
		fill := c
		if a.Style.Fill.Set {
			fill = a.Style.Fill
		}
		fill.A = 60
		if a.Style.NoFill {
			fill = nav.Colour{}
		}
		var box Rect
		var ops []Op
		for _, ring := range d.view.rings(a) {
			ops = append(ops, d.path(ring, true, &box)...)
		}
		c.A = 255
		d.scene.add(Shape{Layer: "areas", Item: id, Title: a.Name, Path: ops, Fill: fill, Stroke: c,
			Width: max(a.Style.Width, 1.5)})
		middle := XY{box.X + box.W/2, box.Y + box.H/2}
		d.item(id, nav.Areas, &a.Item, middle, box, areaWords(a, d.Measure))
	}
}

func areaWords(a *nav.Area, m measure.System) string {
	words := strings.TrimPrefix(m.Area(a.Size())+", perimeter "+m.Length(a.Perimeter()), ", ")
	for _, key := range []string{nav.FieldFloor, nav.FieldCeiling} {
		if v, ok := nav.Get(a.Fields, key); ok {
			words += ", " + key + " " + v
		}
	}
	return words
}

// faint draws data as they were before, beneath.
func (d *drawing) faint(b *nav.Dataset) {
	beyond := d.beyond
	draw := func(points []nav.Point) {
		d.scene.add(Shape{Layer: "before", Path: d.path(points, false, nil), Stroke: faded(d.Theme.Faint, 120), Width: 1,
			Dash: []float64{3, 3}})
	}
	for i := range b.Tracks {
		for j := range b.Tracks[i].Segments {
			draw(b.Tracks[i].Segments[j].Points)
		}
	}
	for i := range b.Routes {
		draw(b.Routes[i].Line())
	}
	for i := range b.Waypoints {
		p := d.view.place(b.Waypoints[i].Lat, b.Waypoints[i].Lon)
		d.scene.add(Shape{Layer: "before", Pin: &XY{p.X, p.Y}, Path: []Op{circle(p.X, p.Y, 2)},
			Fill: faded(d.Theme.Faint, 120)})
	}
	d.beyond = beyond
}

// lines draws tracks, and routes with their order.
func (d *drawing) lines() {
	n := 0
	for i := range d.Data.Tracks {
		t := &d.Data.Tracks[i]
		id := fmt.Sprintf("t%d", i+1)
		c := d.colourOf(&t.Item, n, d.Theme.Lines)
		n++
		var box Rect
		var ops []Op
		for j := range t.Segments {
			ops = append(ops, d.path(t.Segments[j].Points, false, &box)...)
		}
		width := max(t.Style.Width, 2.2)
		d.scene.add(Shape{Layer: "tracks", Path: ops, Stroke: faded(d.Theme.Paper, 170), Width: width + 2},
			Shape{Layer: "tracks", Item: id, Title: t.Name, Path: ops, Stroke: c, Width: width})
		d.lineLabel(id, t.Name, ops, c)
		s := t.Summary()
		d.item(id, nav.Tracks, &t.Item, middleOf(ops, box), box, lineWords(s, d.Measure))
	}
	for i := range d.Data.Routes {
		r := &d.Data.Routes[i]
		id := fmt.Sprintf("r%d", i+1)
		c := d.colourOf(&r.Item, n, d.Theme.Lines)
		n++
		var box Rect
		ops := d.path(r.Line(), false, &box)
		d.scene.add(Shape{Layer: "routes", Path: ops, Stroke: faded(d.Theme.Paper, 170), Width: 4.6},
			Shape{Layer: "routes", Item: id, Title: r.Name, Path: ops, Stroke: c, Width: 2.6, Dash: []float64{9, 5}})
		var last XY
		drawn := newMarks(len(r.Points))
		// Where points have names, one without is there for the shape of the line.
		named := slices.ContainsFunc(r.Points, func(w nav.Waypoint) bool { return w.Name != "" })
		nameless := slices.ContainsFunc(r.Points, func(w nav.Waypoint) bool { return w.Name == "" })
		for j := range r.Points {
			p := d.view.place(r.Points[j].Lat, r.Points[j].Lon)
			shapeOnly := named && r.Points[j].Name == "" && j > 0 && j < len(r.Points)-1
			if j > 0 && !shapeOnly {
				d.arrow(last, p, c)
			}
			last = p
			if shapeOnly {
				continue
			}
			text := fmt.Sprint(j + 1)
			if name := r.Points[j].Name; named && nameless && name != "" {
				text = name // a count of all points would say nothing
			} else if name != "" && name != text && !d.labelled(&r.Points[j]) {
				text += " " + name
			}
			if d.crowdedOut(drawn, p, "", text) {
				continue
			}
			d.labels.take(Rect{p.X - 5, p.Y - 5, 10, 10})
			d.scene.add(Shape{Layer: "routes", Item: id, Title: r.Points[j].Name, Pin: &XY{p.X, p.Y},
				Path: []Op{circle(p.X, p.Y, 4)}, Fill: d.Theme.Paper, Stroke: c, Width: 2})
			d.label(Label{Item: id, Text: text, Spots: []XY{p}, Gap: 8, Size: d.unit - 1, Ink: d.Theme.Faint})
		}
		d.lineLabel(id, r.Name, ops, c)
		d.item(id, nav.Routes, &r.Item, middleOf(ops, box), box, fmt.Sprintf("%d points, %s", len(r.Points),
			d.Measure.Length(r.Summary().Length)))
	}
}

func lineWords(s nav.Summary, m measure.System) string {
	words := m.Length(s.Length)
	if s.Ascent+s.Descent > 0 {
		words += fmt.Sprintf(", up %s, down %s", m.Height(s.Ascent), m.Height(s.Descent))
	}
	if s.Times > 1 {
		words += ", " + measure.Duration(s.Last.Time().Sub(s.First.Time()))
	}
	return words
}

// arrow marks in the middle of a leg which way it goes.
func (d *drawing) arrow(a, b XY, c nav.Colour) {
	length := math.Hypot(b.X-a.X, b.Y-a.Y)
	if length < 34 {
		return
	}
	ux, uy := (b.X-a.X)/length, (b.Y-a.Y)/length
	x, y := (a.X+b.X)/2, (a.Y+b.Y)/2
	d.scene.add(Shape{Layer: "routes", Pin: &XY{x, y}, Path: []Op{moveTo(x+ux*6, y+uy*6),
		lineTo(x-ux*4-uy*4.5, y-uy*4+ux*4.5), lineTo(x-ux*4+uy*4.5, y-uy*4-ux*4.5), closed}, Fill: c, Stroke: d.Theme.Paper,
		Width: 1})
}

func middleOf(ops []Op, box Rect) XY {
	if len(ops) == 0 {
		return XY{box.X, box.Y}
	}
	return ops[len(ops)/2].XY
}

// lineLabel names a line about its middle, or where there is room along it.
func (d *drawing) lineLabel(id, name string, ops []Op, c nav.Colour) {
	if name == "" || len(ops) == 0 {
		return
	}
	l := Label{Item: id, Text: name, Gap: 7, Size: d.unit, Bold: true, Ink: c}
	for _, at := range []float64{0.5, 0.3, 0.7, 0.15, 0.85, 0.4, 0.6, 0.05, 0.95} {
		l.Spots = append(l.Spots, ops[int(at*float64(len(ops)-1))].XY)
	}
	d.label(l)
}

// circles draws clearances that are not kept, each hazard once and with its name.
func (d *drawing) circles() {
	seen := map[XY]bool{}
	for _, c := range d.Circles {
		p := d.view.place(c.Lat, c.Lon)
		if seen[p] {
			continue
		}
		seen[p] = true
		lat, lon, _ := geodesy.Direct(c.Lat, c.Lon, 90, c.Radius)
		q := d.view.place(lat, lon)
		r := math.Hypot(q.X-p.X, q.Y-p.Y)
		d.scene.add(Shape{Layer: "hazards", Title: c.Name, Path: []Op{circle(p.X, p.Y, r)}, Fill: faded(d.Theme.Hazard, 40),
			Stroke: d.Theme.Hazard, Width: 1.4, Dash: []float64{4, 3}})
		for _, s := range glyph("hazard", p, 14, d.Theme.Hazard, d.Theme.Paper) {
			s.Layer, s.Title, s.Pin = "hazards", c.Name, &XY{p.X, p.Y}
			d.scene.add(s)
		}
		d.labels.take(Rect{p.X - 7, p.Y - 7, 14, 14})
		name, _, _ := strings.Cut(c.Name, ",")
		d.label(Label{Text: name, Spots: []XY{p}, Gap: max(r, 9) + 3, Size: d.unit - 1, Bold: true, Ink: d.Theme.Hazard})
	}
}

// symbolSize is the side of a symbol: less where there are many.
func (d *drawing) symbolSize() float64 {
	if len(d.Data.Waypoints) > 400 {
		return 10
	}
	return 16
}

// symbolRoom keeps names off the waypoints, which are drawn last.
func (d *drawing) symbolRoom() {
	size := d.symbolSize()
	if len(d.Data.Waypoints) > crowd { // where there is no room for names anyhow
		return
	}
	for i := range d.Data.Waypoints {
		p := d.view.place(d.Data.Waypoints[i].Lat, d.Data.Waypoints[i].Lon)
		if d.view.frame.Has(p) {
			d.labels.take(Rect{p.X - size/2, p.Y - size/2, size, size})
		}
	}
}

func (d *drawing) waypoints() {
	type spot struct {
		i  int
		at XY
	}
	var spots []spot
	size := d.symbolSize()
	drawn := newMarks(len(d.Data.Waypoints))
	for i := range d.Data.Waypoints {
		w := &d.Data.Waypoints[i]
		p := d.view.place(w.Lat, w.Lon)
		if !d.view.frame.Has(p) {
			d.beyond++
		}
		id, details := fmt.Sprintf("w%d", i+1), ""
		if d.page { // which alone shows them
			details = geodesy.Degrees.Format(w.Lat, w.Lon)
			if w.HasHeight() {
				details += ", " + d.Measure.Height(w.Height())
			}
		}
		d.item(id, nav.Waypoints, &w.Item, p, Rect{p.X - 8, p.Y - 8, 16, 16}, details)
		if d.crowdedOut(drawn, p, w.Style.Symbol, w.Name) {
			continue
		}
		spots = append(spots, spot{i, p})
		for _, s := range glyph(w.Style.Symbol, p, size, d.colourOf(&w.Item, 0, []nav.Colour{d.Theme.Symbol}),
			d.Theme.Paper) {
			s.Layer, s.Item, s.Title, s.Pin = "waypoints", id, w.Name, &XY{p.X, p.Y}
			d.scene.add(s)
		}
	}
	for _, s := range spots {
		w := &d.Data.Waypoints[s.i]
		if w.Name == "" || !d.view.frame.Has(s.at) && !d.page {
			continue
		}
		d.label(Label{Item: fmt.Sprintf("w%d", s.i+1), Text: w.Name, Spots: []XY{s.at}, Gap: size * 0.72, Size: d.unit,
			Ink: d.Theme.Ink})
	}
	// Areas come last: their names can stand anywhere inside.
	for i := range d.Data.Areas {
		a := &d.Data.Areas[i]
		if a.Name == "" {
			continue
		}
		it := d.out.Items[i] // the areas are drawn first
		c := d.colourOf(&a.Item, 0, []nav.Colour{d.Theme.Area})
		c.A = 255
		d.label(Label{Item: it.ID, Text: a.Name, Spots: []XY{it.At}, Size: d.unit, Bold: true, Ink: c})
	}
}

func (d *drawing) item(id string, kind nav.Kind, it *nav.Item, at XY, box Rect, details string) {
	if it.Desc != "" {
		details += "; " + it.Desc
	}
	d.out.Items = append(d.out.Items, Item{ID: id, Kind: kind.One(), Name: it.Name, Group: it.Group, Details: details,
		At: at, Box: box})
}

// labelled says whether a waypoint of the same name stands at a route's point, so that its label need not be written
// twice.
func (d *drawing) labelled(w *nav.Waypoint) bool {
	const same = 5 // metres
	if d.marks == nil {
		d.marks = map[string][]*nav.Point{}
		for i := range d.Data.Waypoints {
			o := &d.Data.Waypoints[i]
			d.marks[o.Name] = append(d.marks[o.Name], &o.Point)
		}
	}
	return slices.ContainsFunc(d.marks[w.Name], func(p *nav.Point) bool {
		return geodesy.Distance(p.Lat, p.Lon, w.Lat, w.Lon) < same
	})
}
