package picture

import (
	"bytes"
	"encoding/base64"
	"encoding/xml"
	"fmt"
	"image/png"
	"io"
	"strconv"
	"strings"

	"gyrolith/core/nav"
)

// svgWriter writes shapes as SVG (W3C SVG 1.1). Everything of the data is escaped.
type svgWriter struct {
	bytes.Buffer
	named map[string]bool // items whose symbol has a name already
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
	fmt.Fprintf(x, `<?xml version="1.0" encoding="UTF-8"?>`+"\n"+`<svg xmlns="http://www.w3.org/2000/svg" width="%s" `+
		`height="%s" viewBox="0 0 %s %s" font-family="Go, Liberation Sans, DejaVu Sans, Arial, sans-serif">`+"\n",
		number(s.Width), number(s.Height), number(s.Width), number(s.Height))
	if s.Paper.Set {
		x.WriteString(`<rect width="100%" height="100%"`)
		x.paint("fill", s.Paper)
		x.WriteString("/>\n")
	}
	x.shapes(s.Shapes)
	x.WriteString("</svg>\n")
	_, err := w.Write(x.Bytes())
	return err
}

// shapes writes shapes, those of one layer that follow one another in a group.
func (w *svgWriter) shapes(shapes []Shape) {
	layer, open := "", false
	for i := range shapes {
		s := &shapes[i]
		if !open || s.Layer != layer {
			if open {
				w.WriteString("</g>\n")
			}
			layer, open = s.Layer, true
			fmt.Fprintf(w, `<g class="layer" data-layer="%s" fill-rule="evenodd" stroke-linecap="round" `+
				`stroke-linejoin="round">`+"\n", escaped(layer))
		}
		w.shape(s)
	}
	if open {
		w.WriteString("</g>\n")
	}
}

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
