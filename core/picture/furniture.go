package picture

import (
	"fmt"
	"math"
	"strings"

	"gyrolith/core/decimal"
	"gyrolith/core/measure"
	"gyrolith/core/nav"
)

// legendRow is a line of the legend.
type legendRow struct {
	text string
	draw func(at XY) []Shape
}

// legendRows say what the drawing shows.
func (d *drawing) legendRows() (rows []legendRow) {
	line := func(text string, c nav.Colour, width float64, dash ...float64) {
		rows = append(rows, legendRow{text, func(at XY) []Shape {
			return []Shape{{Path: polyline(XY{at.X, at.Y}, XY{at.X + 26, at.Y}), Stroke: c, Width: width, Dash: dash}}
		}})
	}
	n := 0
	few := len(d.Data.Tracks)+len(d.Data.Routes) <= 6
	for i := range d.Data.Tracks {
		t := &d.Data.Tracks[i]
		if few && t.Name != "" {
			line(t.Name, d.colourOf(&t.Item, n, d.Theme.Lines), 2.2)
		}
		n++
	}
	for i := range d.Data.Routes {
		r := &d.Data.Routes[i]
		if few && r.Name != "" {
			line(r.Name, d.colourOf(&r.Item, n, d.Theme.Lines), 2.6, 9, 5)
		}
		n++
	}
	if !few {
		if k := len(d.Data.Tracks); k > 0 {
			line(fmt.Sprintf("tracks (%s)", measure.Count(k)), d.colourOf(&d.Data.Tracks[0].Item, 0, d.Theme.Lines), 2.2)
		}
		if k := len(d.Data.Routes); k > 0 {
			line(fmt.Sprintf("routes (%s), numbered", measure.Count(k)), d.colourOf(&d.Data.Routes[0].Item, len(d.Data.Tracks),
				d.Theme.Lines), 2.6, 9, 5)
		}
	}
	if k := len(d.Data.Areas); k > 0 {
		c := d.colourOf(&d.Data.Areas[0].Item, 0, []nav.Colour{d.Theme.Area})
		rows = append(rows, legendRow{fmt.Sprintf("areas (%s)", measure.Count(k)), func(at XY) []Shape {
			return []Shape{{Path: box(Rect{at.X, at.Y - 5, 26, 10}), Fill: faded(c, 60), Stroke: faded(c, 255), Width: 1.5}}
		}})
	}
	counts := map[string]int{}
	colours := map[string]nav.Colour{}
	for i := range d.Data.Waypoints {
		w := &d.Data.Waypoints[i]
		word := w.Style.Symbol
		if _, ok := parsedGlyphs()[word]; !ok {
			word = "mark"
		}
		counts[word]++
		if _, ok := colours[word]; !ok {
			colours[word] = d.colourOf(&w.Item, 0, []nav.Colour{d.Theme.Symbol})
		}
	}
	words := commonest(counts)
	for _, w := range words[:min(len(words), 8)] {
		rows = append(rows, legendRow{fmt.Sprintf("%s (%s)", w, measure.Count(counts[w])), func(at XY) []Shape {
			return glyph(w, XY{at.X + 13, at.Y}, 14, colours[w], d.Theme.Panel)
		}})
	}
	if d.Before != nil {
		line("before", faded(d.Theme.Faint, 160), 1, 3, 3)
	}
	if d.Removed != nil && len(d.Removed.Waypoints) > 0 {
		faults, counts := faultsOf(d.Removed)
		for n, f := range faults[:min(len(faults), 6)] {
			rows = append(rows, legendRow{fmt.Sprintf("%s, removed (%s)", f, measure.Count(counts[f])), func(at XY) []Shape {
				return []Shape{{Path: faultMark(n, XY{at.X + 13, at.Y}, 4), Stroke: d.Theme.Removed, Width: 1.5}}
			}})
		}
	}
	if len(d.Circles) > 0 {
		rows = append(rows, legendRow{"too near to a hazard", func(at XY) []Shape {
			return []Shape{{Path: []Op{circle(at.X+13, at.Y, 7)}, Fill: faded(d.Theme.Hazard, 40), Stroke: d.Theme.Hazard,
				Width: 1.4, Dash: []float64{4, 3}}}
		}})
	}
	return
}

const (
	legendLine = 19.0
	titleSize  = 16.0
)

// legendBox is where the legend stands: in the corner where it covers the least of the data.
func (d *drawing) legendBox(rows []legendRow) Rect {
	if d.legend.W > 0 {
		return d.legend
	}
	w := 0.0
	for _, r := range rows {
		w = max(w, d.labels.fonts.width(clip(r.text), 11.5, false))
	}
	f := d.view.frame
	w, h := w+54, float64(len(rows))*legendLine+12
	top := f.Y + 10
	if d.Title != "" {
		top = d.titleBox().Y + d.titleBox().H + 8
	}
	corners := []Rect{{f.X + 10, f.Y + f.H - h - 24, w, h}, {f.X + f.W - w - 10, d.scaleBox().Y - h - 8, w, h},
		{f.X + f.W - w - 10, d.arrowBox().Y + d.arrowBox().H + 8, w, h}, {f.X + 10, top, w, h}}
	covers := make([]int, len(corners))
	stride, n := d.Data.Points()/20000+1, 0
	var last XY
	for p := range d.Data.AllPoints() {
		if n++; n%stride != 0 {
			continue
		}
		q := d.view.place(p.Lat, p.Lon)
		for i, c := range corners {
			// The way from the point before counts as well, where the line just crosses a corner.
			for k := 0.0; k < 1; k += 0.125 {
				if c.Has(XY{q.X + k*(last.X-q.X), q.Y + k*(last.Y-q.Y)}) {
					covers[i]++
					break
				}
			}
		}
		last = q
	}
	best := 0
	for i := range covers {
		if covers[i] < covers[best] {
			best = i
		}
	}
	d.legend = corners[best]
	return d.legend
}

// clip shortens a name for the legend.
func clip(text string) string {
	if r := []rune(text); len(r) > 34 {
		return string(r[:33]) + "…"
	}
	return text
}

func (d *drawing) titleBox() Rect {
	f := d.view.frame
	return Rect{f.X + 10, f.Y + 10, d.labels.fonts.width(d.Title, titleSize, true) + 20, titleSize + 14}
}

func (d *drawing) scaleBox() Rect {
	f := d.view.frame
	return Rect{f.X + f.W - 210, f.Y + f.H - 60, 200, 36}
}

func (d *drawing) arrowBox() Rect {
	f := d.view.frame
	return Rect{f.X + f.W - 44, f.Y + 10, 34, 50}
}

// furnitureRoom keeps the places of title, legend, scale and arrow free of names.
func (d *drawing) furnitureRoom() {
	if rows := d.legendRows(); len(rows) > 0 {
		d.labels.take(d.legendBox(rows))
	}
	if d.Title != "" {
		d.labels.take(d.titleBox())
	}
	d.labels.take(d.scaleBox())
	d.labels.take(d.arrowBox())
}

func (d *drawing) panel(r Rect) {
	d.scene.add(Shape{Layer: "frame", Path: box(r), Fill: faded(d.Theme.Panel, 225), Stroke: d.Theme.Grid, Width: 1})
}

// furniture draws the frame, the title, the legend, the scale bar and the arrow to the north.
func (d *drawing) furniture() {
	t, f := d.Theme, d.view.frame
	d.scene.add(Shape{Layer: "frame", Path: box(f), Stroke: t.Faint, Width: 1})
	if d.Title != "" {
		r := d.titleBox()
		d.panel(r)
		d.scene.add(Shape{Layer: "frame", Text: d.Title, At: XY{r.X + 10, r.Y + titleSize + 5}, Size: titleSize, Bold: true,
			Fill: t.Ink})
	}
	if rows := d.legendRows(); len(rows) > 0 {
		r := d.legendBox(rows)
		d.panel(r)
		d.scene.add(d.drawLegend(rows, XY{r.X + 10, r.Y + 6})...)
	}
	d.scaleBar()
	if imprint := strings.TrimPrefix(d.Imprint+"  ·  "+d.gridName, "  ·  "); imprint != "" {
		imprint = strings.TrimSuffix(imprint, "  ·  ")
		at := XY{f.X + f.W/2, f.Y + f.H - 8}
		w := d.labels.fonts.width(imprint, 10, false) + 16
		d.panel(Rect{at.X - w/2, at.Y - 12, w, 17})
		d.scene.add(Shape{Layer: "frame", Text: imprint, At: at, Anchor: 0.5, Size: 10, Fill: t.Ink})
	}
	r := d.arrowBox()
	d.panel(r)
	x, y := r.X+r.W/2, r.Y+8
	// North at the middle of the picture is up, but where the picture is moved off the middle of the projection.
	lat, lon := d.view.position(XY{f.X + f.W/2, f.Y + f.H/2})
	from, to := d.view.place(lat, lon), d.view.place(min(lat+0.001, 90), lon)
	turn := math.Atan2(to.X-from.X, from.Y-to.Y)
	sin, cos := math.Sincos(turn)
	rotated := func(px, py float64) XY { return XY{x + px*cos - py*sin, y + 12 + px*sin + py*cos} }
	a, b, c, e := rotated(0, -12), rotated(7, 10), rotated(0, 5), rotated(-7, 10)
	d.scene.add(Shape{Layer: "frame", Path: append(polyline(a, b, c, e), closed), Fill: t.Ink},
		Shape{Layer: "frame", Text: "N", At: XY{x, r.Y + r.H - 5}, Anchor: 0.5, Size: 12, Bold: true, Fill: t.Ink})
}

// drawLegend draws the rows of the legend from a place at their top left.
func (d *drawing) drawLegend(rows []legendRow, at XY) (out []Shape) {
	for i, row := range rows {
		y := at.Y + legendLine*(float64(i)+0.5)
		for _, s := range row.draw(XY{at.X, y}) {
			s.Layer = "frame"
			out = append(out, s)
		}
		out = append(out, Shape{Layer: "frame", Text: clip(row.text), At: XY{at.X + 35, y + 4}, Size: 11.5,
			Fill: d.Theme.Ink})
	}
	return
}

// scaleBar draws a bar of a round length in the chosen measure, and the scale.
func (d *drawing) scaleBar() {
	t, r := d.Theme, d.scaleBox()
	perPx := d.view.perPx
	if !d.view.world { // in the middle of the picture, which may not be that of the projection
		lat, lon := d.view.position(XY{r.X, r.Y})
		lat2, lon2 := d.view.position(XY{r.X + 100, r.Y})
		if m := distance(lat, lon, lat2, lon2); m > 0 {
			perPx = m / 100
		}
	}
	name, unit := d.Measure.LongMeasure()
	length := roundLength(150 * perPx / unit)
	if length < 0.1 || length < 1 && d.Measure == measure.Metric {
		name, unit = "m", 1
		length = roundLength(150 * perPx)
	}
	px := length * unit / perPx
	d.scene.add(Shape{Layer: "scale", Path: box(r), Fill: faded(t.Panel, 225), Stroke: t.Grid, Width: 1})
	x, y := r.X+12, r.Y+24
	d.scene.add(Shape{Layer: "scale", Path: box(Rect{x, y, px / 2, 5}), Fill: t.Ink, Stroke: t.Ink, Width: 1},
		Shape{Layer: "scale", Path: box(Rect{x + px/2, y, px / 2, 5}), Fill: t.Panel, Stroke: t.Ink, Width: 1})
	text := func(s string, at, anchor float64) {
		d.scene.add(Shape{Layer: "scale", Text: s, At: XY{at, r.Y + 17}, Anchor: anchor, Size: 11, Fill: t.Ink})
	}
	text("0", x, 0.5)
	text(trimmed(length)+" "+name, x+px, 0.5)
	scale := perPx / pixelMetres
	d.note("scale about 1:%s", measure.Count(int(roundTo(scale, 2))))
}

// roundLength is the longest of 1, 2 or 5 times a power of ten that is not longer.
func roundLength(v float64) float64 {
	p := math.Pow(10, math.Floor(math.Log10(v)))
	for _, k := range []float64{5, 2, 1} {
		if k*p <= v {
			return k * p
		}
	}
	return p
}

// roundTo rounds to some digits.
func roundTo(v float64, digits int) float64 {
	p := math.Pow(10, math.Floor(math.Log10(v))-float64(digits-1))
	return math.Round(v/p) * p
}

func trimmed(v float64) string { return string(decimal.AppendShort(nil, v, 3)) }
