package picture

import (
	"bytes"
	"encoding/base64"
	"encoding/xml"
	"fmt"
	"image/png"
	"io"
	"slices"
	"strconv"
	"strings"

	"gyrolith/core/nav"
)

// svgWriter writes shapes as SVG (W3C SVG 1.1). Everything of the data is escaped.
type svgWriter struct {
	bytes.Buffer
	prefix string // of names, where several drawings stand in one document
	clips  map[Rect]int
	looks  map[string]int // of what stands at a place, defined once
}

func escaped(text string) string {
	var b strings.Builder
	xml.EscapeText(&b, []byte(text))
	return b.String()
}

// number writes a coordinate to a tenth of a pixel.
func number(v float64) string {
	text := strconv.FormatFloat(v, 'f', 1, 64)
	return strings.TrimSuffix(text, ".0")
}

func (w *svgWriter) paint(attr string, c nav.Colour) {
	if !c.Set {
		fmt.Fprintf(w, ` %s="none"`, attr)
		return
	}
	fmt.Fprintf(w, ` %s="#%02x%02x%02x"`, attr, c.R, c.G, c.B)
	if c.A != 255 {
		fmt.Fprintf(w, ` %s-opacity="%s"`, attr, strconv.FormatFloat(float64(c.A)/255, 'f', 2, 64))
	}
}

// WriteSVG writes the scene as a document of its own.
func (s *Scene) WriteSVG(w io.Writer) error {
	x := &svgWriter{}
	x.WriteString(`<?xml version="1.0" encoding="UTF-8"?>` + "\n")
	x.scene(s)
	_, err := w.Write(x.Bytes())
	return err
}

// svgFonts are the fonts of texts, the first that is there.
const svgFonts = `font-family="Go, Liberation Sans, DejaVu Sans, Arial, sans-serif"`

func (w *svgWriter) scene(s *Scene) {
	fmt.Fprintf(w, `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" `+
		`width="%s" height="%s" viewBox="0 0 %s %s" %s>`+"\n",
		number(s.Width), number(s.Height), number(s.Width), number(s.Height), svgFonts)
	if s.Paper.Set {
		w.WriteString(`<rect width="100%" height="100%"`)
		w.paint("fill", s.Paper)
		w.WriteString("/>\n")
	}
	w.shapes(s.Shapes)
	w.WriteString("</svg>\n")
}

// clip gives the attribute that cuts at a part of the drawing, which it defines where it is new.
func (w *svgWriter) clip(r *Rect) string {
	if r == nil {
		return ""
	}
	if w.clips == nil {
		w.clips = map[Rect]int{}
	}
	n, known := w.clips[*r]
	if !known {
		n = len(w.clips) + 1
		w.clips[*r] = n
		fmt.Fprintf(w, `<clipPath id="%scut%d"><rect x="%s" y="%s" width="%s" height="%s"/></clipPath>`+"\n", w.prefix, n,
			number(r.X), number(r.Y), number(r.W), number(r.H))
	}
	return fmt.Sprintf(` clip-path="url(#%scut%d)"`, w.prefix, n)
}

// shapes writes shapes, those of one layer that follow one another in a group.
func (w *svgWriter) shapes(shapes []Shape) {
	layer, cut, open := "", (*Rect)(nil), false
	for i := 0; i < len(shapes); i++ {
		s := &shapes[i]
		if !open || s.Layer != layer || !same(s.Clip, cut) {
			if open {
				w.WriteString("</g>\n")
			}
			layer, cut, open = s.Layer, s.Clip, true
			clip := w.clip(s.Clip)
			fmt.Fprintf(w, `<g class="layer" data-layer="%s"%s fill-rule="evenodd" stroke-linecap="round" `+
				`stroke-linejoin="round">`+"\n", escaped(layer), clip)
		}
		if s.Pin == nil {
			w.shape(s)
			continue
		}
		look, n := lookOf(shapes[i:])
		w.use(s, w.define(look))
		i += n - 1
	}
	if open {
		w.WriteString("</g>\n")
	}
}

// lookOf writes the shapes that stand at one place, about that place, and says how many there are.
func lookOf(shapes []Shape) (look string, n int) {
	first := &shapes[0]
	w := &svgWriter{}
	for n < len(shapes) && shapes[n].Pin != nil && *shapes[n].Pin == *first.Pin && shapes[n].Item == first.Item &&
		shapes[n].Layer == first.Layer {
		w.shape(moved(&shapes[n], *first.Pin))
		n++
	}
	return w.String(), n
}

// moved is a shape drawn about a place as if that were the origin, without what belongs to its item.
func moved(s *Shape, at XY) *Shape {
	out := *s
	out.Item, out.Title = "", ""
	out.At = XY{s.At.X - at.X, s.At.Y - at.Y}
	out.Path = slices.Clone(s.Path)
	for i := range out.Path {
		out.Path[i].X -= at.X
		out.Path[i].Y -= at.Y
	}
	return &out
}

// define names a look, which is written where it is new.
func (w *svgWriter) define(look string) int {
	n, known := w.looks[look]
	if !known {
		if w.looks == nil {
			w.looks = map[string]int{}
		}
		n = len(w.looks)
		w.looks[look] = n
		fmt.Fprintf(w, "<defs><g id=\"%slook-%d\">%s</g></defs>\n", w.prefix, n, look)
	}
	return n
}

// use writes what stands at a place.
func (w *svgWriter) use(s *Shape, look int) {
	fmt.Fprintf(w, `<use xlink:href="#%slook-%d" x="%s" y="%s"`, w.prefix, look, number(s.Pin.X), number(s.Pin.Y))
	if s.Item != "" {
		fmt.Fprintf(w, ` data-item="%s"`, escaped(s.Item))
	}
	w.title(s, "use")
}

func same(a, b *Rect) bool { return a == b || a != nil && b != nil && *a == *b }

func (w *svgWriter) shape(s *Shape) {
	item := ""
	if s.Item != "" {
		item = fmt.Sprintf(` data-item="%s"`, escaped(s.Item))
	}
	switch {
	case s.Image != nil:
		var b bytes.Buffer
		png.Encode(&b, s.Image)
		fmt.Fprintf(w, `<image x="%s" y="%s" width="%s" height="%s" preserveAspectRatio="none" href="data:image/png;`+
			`base64,%s"/>`+"\n",
			number(s.Box.X), number(s.Box.Y), number(s.Box.W), number(s.Box.H), base64.StdEncoding.EncodeToString(b.Bytes()))
		return
	case len(s.Path) > 0:
		fmt.Fprintf(w, `<path%s d="%s"`, item, pathData(s.Path))
		w.paint("fill", s.Fill)
		if s.Stroke.Set && s.Width > 0 {
			w.paint("stroke", s.Stroke)
			fmt.Fprintf(w, ` stroke-width="%s"`, number(s.Width))
			if len(s.Dash) > 0 {
				var parts []string
				for _, d := range s.Dash {
					parts = append(parts, number(d))
				}
				fmt.Fprintf(w, ` stroke-dasharray="%s"`, strings.Join(parts, " "))
			}
		}
		w.title(s, "path")
	}
	if s.Text == "" {
		return
	}
	anchor := "start"
	switch {
	case s.Anchor == 0.5:
		anchor = "middle"
	case s.Anchor == 1:
		anchor = "end"
	}
	fmt.Fprintf(w, `<text%s x="%s" y="%s" font-size="%s" text-anchor="%s"`, item, number(s.At.X), number(s.At.Y),
		number(s.Size), anchor)
	if s.Bold {
		w.WriteString(` font-weight="bold"`)
	}
	c := s.Fill
	if !c.Set {
		c = nav.RGB(0, 0, 0)
	}
	w.paint("fill", c)
	if s.Halo.Set {
		w.paint("stroke", s.Halo)
		w.WriteString(` stroke-width="3" paint-order="stroke"`)
	}
	fmt.Fprintf(w, ">%s</text>\n", escaped(s.Text))
}

func (w *svgWriter) title(s *Shape, element string) {
	if s.Title == "" {
		w.WriteString("/>\n")
		return
	}
	fmt.Fprintf(w, "><title>%s</title></%s>\n", escaped(s.Title), element)
}

// pathData writes a path; a circle is two arcs.
func pathData(ops []Op) string {
	var b strings.Builder
	for i, op := range ops {
		if i > 0 && op.Kind != 'L' {
			b.WriteByte(' ')
		}
		switch op.Kind {
		case 'M', 'L':
			b.WriteByte(op.Kind)
			b.WriteString(number(op.X))
			b.WriteByte(' ')
			b.WriteString(number(op.Y))
		case 'O':
			r := number(op.R)
			fmt.Fprintf(&b, "M%s %sa%s %s 0 1 0 %s 0a%s %s 0 1 0 -%s 0Z", number(op.X-op.R), number(op.Y), r, r,
				number(2*op.R), r, r, number(2*op.R))
		case 'Z':
			b.WriteByte('Z')
		}
	}
	return b.String()
}
