package picture

import (
	"bytes"
	"fmt"
	"math"
	"path/filepath"
	"strings"
	"time"

	"gyrolith/core/nav"
)

// Chart is a picture of bars: for each series a row of them, one above the other, so that each has a scale of its own.
type Chart struct {
	Title         string
	Theme         *Theme
	Width, Height int
	Labels        []string
	Series        []Series
}

// Series is one value for each label; not a number is none.
type Series struct {
	Name   string
	Values []float64
}

// ChartForms are the forms in which a chart is drawn.
var ChartForms = []string{".png", ".svg", ".pdf"}

// FormOf is the form of a drawing by its name.
func FormOf(name string) string { return strings.ToLower(filepath.Ext(name)) }

// Draw draws the chart.
func (c *Chart) Draw() *Scene {
	s := &Scene{Width: float64(c.Width), Height: float64(c.Height), Paper: c.Theme.Paper}
	const left, right, top, between, foot = 76.0, 24.0, 56.0, 44.0, 96.0
	s.add(Shape{Text: c.Title, At: XY{left, 30}, Size: 18, Bold: true, Fill: c.Theme.Ink})
	rows := float64(len(c.Series))
	height := (s.Height - top - foot - between*(rows-1)) / rows
	for i := range c.Series {
		plot := Rect{left, top + float64(i)*(height+between), s.Width - left - right, height}
		c.bars(s, &c.Series[i], plot, c.Theme.Lines[i%len(c.Theme.Lines)])
	}
	c.names(s, Rect{left, s.Height - foot, s.Width - left - right, foot})
	return s
}

// bars draws one series with its scale.
func (c *Chart) bars(s *Scene, series *Series, plot Rect, colour nav.Colour) {
	most := 0.0
	for _, v := range series.Values {
		if v > most {
			most = v
		}
	}
	s.add(Shape{Text: series.Name, At: XY{plot.X, plot.Y - 8}, Size: 12, Bold: true, Fill: c.Theme.Ink})
	if most == 0 {
		s.add(Shape{Text: "no values", At: XY{plot.X + plot.W/2, plot.Y + plot.H/2}, Anchor: 0.5, Size: 12,
			Fill: c.Theme.Faint})
		most = 1
	}
	ticks := nice(0, most*1.08, 5)
	full := max(most*1.08, ticks[len(ticks)-1])
	y := func(v float64) float64 { return plot.Y + plot.H*(1-v/full) }
	for _, v := range ticks {
		s.line("", c.Theme.Grid, 0.8, XY{plot.X, y(v)}, XY{plot.X + plot.W, y(v)})
		s.add(Shape{Text: trimmed(v), At: XY{plot.X - 8, y(v) + 4}, Anchor: 1, Size: 11, Fill: c.Theme.Faint})
	}
	step := plot.W / float64(len(series.Values))
	wide := max(min(step*0.72, 64), min(step, 1))
	for i, v := range series.Values {
		if math.IsNaN(v) || v <= 0 {
			continue
		}
		x := plot.X + step*(float64(i)+0.5)
		s.add(Shape{Path: box(Rect{x - wide/2, y(v), wide, plot.Y + plot.H - y(v)}), Fill: colour})
		const room = 34
		if step >= room {
			s.add(Shape{Text: shortNumber(v), At: XY{x, y(v) - 4}, Anchor: 0.5, Size: 11, Fill: c.Theme.Ink})
		}
	}
	s.line("", c.Theme.Ink, 1, XY{plot.X, plot.Y + plot.H}, XY{plot.X + plot.W, plot.Y + plot.H})
}

func shortNumber(v float64) string {
	if v >= 100 {
		return fmt.Sprintf("%.0f", v)
	}
	return fmt.Sprintf("%.1f", v)
}

// names writes the labels under the bars: on one line where there is room, else on two or three lines in turn, and of
// more than that as many as there is room for.
func (c *Chart) names(s *Scene, room Rect) {
	const size, line = 11.0, 16.0
	fonts := faces{}
	step := room.W / float64(max(len(c.Labels), 1))
	var ends [4]float64
	for i := range ends {
		ends[i] = math.Inf(-1)
	}
	for i, label := range c.Labels {
		text := label
		if r := []rune(text); len(r) > 28 {
			text = string(r[:27]) + "…"
		}
		wide := fonts.width(text, size, false)
		x := min(max(room.X+step*(float64(i)+0.5), wide/2+4), s.Width-wide/2-4)
		for n := range ends {
			if x-wide/2 > ends[n]+8 {
				s.add(Shape{Text: text, At: XY{x, room.Y + 18 + line*float64(n)}, Anchor: 0.5, Size: size, Fill: c.Theme.Ink})
				ends[n] = x + wide/2
				break
			}
		}
	}
}

// File draws the chart in a form, by its extension.
func (c *Chart) File(form string) ([]byte, error) { return asFile(c.Draw(), c.Title, form) }

func asFile(scene *Scene, title, form string) ([]byte, error) {
	var out bytes.Buffer
	var err error
	switch form {
	case ".svg":
		err = scene.WriteSVG(&out)
	case ".pdf":
		err = WritePDF(&out, title, []*Scene{scene})
	default:
		err = scene.WritePNG(&out)
	}
	return out.Bytes(), err
}

// Curve is a picture of a value over time.
type Curve struct {
	Title, Name   string // of the picture, and of the value with its measure
	Theme         *Theme
	Width, Height int
	Times         []time.Time // in the zone that is shown
	Values        []float64
	Broken        []bool  // there is a gap before the value
	Limit         float64 // a line across; 0 is none
}

// File draws the curve in a form, by its extension.
func (c *Curve) File(form string) ([]byte, error) { return asFile(c.Draw(), c.Title, form) }

// Draw draws the curve.
func (c *Curve) Draw() *Scene {
	s := &Scene{Width: float64(c.Width), Height: float64(c.Height), Paper: c.Theme.Paper}
	plot := Rect{80, 70, s.Width - 110, s.Height - 130}
	s.add(Shape{Text: c.Title, At: XY{plot.X, 30}, Size: 18, Bold: true, Fill: c.Theme.Ink},
		Shape{Text: c.Name, At: XY{plot.X, plot.Y - 12}, Size: 12, Bold: true, Fill: c.Theme.Ink})
	most := c.Limit
	for _, v := range c.Values {
		most = max(most, v)
	}
	if most == 0 {
		most = 1
	}
	full := most * 1.06
	y := func(v float64) float64 { return plot.Y + plot.H*(1-v/full) }
	for _, v := range nice(0, full, 6) {
		s.line("", c.Theme.Grid, 0.8, XY{plot.X, y(v)}, XY{plot.X + plot.W, y(v)})
		s.add(Shape{Text: trimmed(v), At: XY{plot.X - 8, y(v) + 4}, Anchor: 1, Size: 11, Fill: c.Theme.Faint})
	}
	if len(c.Times) == 0 {
		return s
	}
	first, last := c.Times[0], c.Times[len(c.Times)-1]
	span := max(last.Sub(first).Seconds(), 1)
	x := func(t time.Time) float64 { return plot.X + plot.W*t.Sub(first).Seconds()/span }
	for i := range 7 {
		at := first.Add(time.Duration(float64(i) / 6 * span * 1e9))
		text := at.Format("15:04")
		if span > 36*3600 {
			text = at.Format("02 Jan 15:04")
		}
		s.line("", c.Theme.Grid, 0.8, XY{x(at), plot.Y}, XY{x(at), plot.Y + plot.H})
		s.add(Shape{Text: text, At: XY{x(at), plot.Y + plot.H + 18}, Anchor: 0.5, Size: 11, Fill: c.Theme.Faint})
	}
	var ops []Op
	for i, v := range c.Values {
		op := lineTo(x(c.Times[i]), y(v))
		if i == 0 || c.Broken[i] {
			op.Kind = 'M'
		}
		ops = append(ops, op)
	}
	s.add(Shape{Path: ops, Stroke: c.Theme.Lines[0], Width: 2})
	if c.Limit > 0 {
		s.add(
			Shape{Path: polyline(XY{plot.X, y(c.Limit)}, XY{plot.X + plot.W, y(c.Limit)}), Stroke: c.Theme.Hazard, Width: 1.5,
				Dash: []float64{6, 4}},
		)
	}
	s.line("", c.Theme.Ink, 1, XY{plot.X, plot.Y + plot.H}, XY{plot.X + plot.W, plot.Y + plot.H})
	return s
}
