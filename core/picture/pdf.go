package picture

import (
	"bytes"
	"fmt"
	"image/png"
	"io"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"gyrolith/core/nav"
)

// pixelPoints is a pixel in points of a document: a pixel is 1/96 inch and a point 1/72, so that the scale of a map is
// that of the paper.
const pixelPoints = 72.0 / 96

// fixedDay stands in documents as their day, so that the same data give the same bytes.
var fixedDay = time.Unix(0, 0).UTC()

// WritePDF writes scenes as the sheets of a document (ISO 32000), as vectors with their fonts.
func WritePDF(w io.Writer, title string, sheets []*Scene) error {
	doc := fpdf.NewCustom(&fpdf.InitType{UnitStr: "pt"})
	doc.SetCreationDate(fixedDay)
	doc.SetModificationDate(fixedDay)
	doc.SetCatalogSort(true)
	doc.SetProducer("Gyrolith", true)
	doc.SetTitle(title, true)
	doc.SetMargins(0, 0, 0)
	doc.SetAutoPageBreak(false, 0)
	doc.AddUTF8FontFromBytes("go", "", goregular.TTF)
	doc.AddUTF8FontFromBytes("go", "B", gobold.TTF)
	p := &pdf{doc: doc, fonts: faces{}}
	for _, s := range sheets {
		doc.AddPageFormat("P", fpdf.SizeType{Wd: s.Width * pixelPoints, Ht: s.Height * pixelPoints})
		doc.SetLineCapStyle("round")
		doc.SetLineJoinStyle("round")
		p.sheet(s)
	}
	return doc.Output(w)
}

// pdf draws shapes into a document.
type pdf struct {
	doc    *fpdf.Fpdf
	fonts  faces
	images int
}

func (p *pdf) sheet(s *Scene) {
	if s.Paper.Set && s.Paper != nav.RGB(255, 255, 255) {
		p.fill(s.Paper)
		p.doc.Rect(0, 0, s.Width*pixelPoints, s.Height*pixelPoints, "F")
	}
	for i := range s.Shapes {
		x := &s.Shapes[i]
		clipped := x.Clip != nil && !x.within(*x.Clip, p.fonts)
		if clipped {
			c := x.Clip
			p.doc.ClipRect(c.X*pixelPoints, c.Y*pixelPoints, c.W*pixelPoints, c.H*pixelPoints, false)
		}
		p.shape(x)
		if clipped {
			p.doc.ClipEnd()
		}
	}
	p.doc.SetAlpha(1, "Normal")
}

func (p *pdf) fill(c nav.Colour) {
	p.doc.SetFillColor(int(c.R), int(c.G), int(c.B))
	p.doc.SetAlpha(float64(c.A)/255, "Normal")
}

func (p *pdf) stroke(c nav.Colour, width float64, dash []float64) {
	p.doc.SetDrawColor(int(c.R), int(c.G), int(c.B))
	p.doc.SetAlpha(float64(c.A)/255, "Normal")
	p.doc.SetLineWidth(width * pixelPoints)
	scaled := make([]float64, len(dash))
	for i := range dash {
		scaled[i] = dash[i] * pixelPoints
	}
	p.doc.SetDashPattern(scaled, 0)
}

func (p *pdf) shape(x *Shape) {
	if x.Image != nil {
		var content bytes.Buffer
		if png.Encode(&content, x.Image) != nil {
			return
		}
		p.images++
		name := fmt.Sprintf("image %d", p.images)
		p.doc.SetAlpha(1, "Normal")
		p.doc.RegisterImageOptionsReader(name, fpdf.ImageOptions{ImageType: "PNG"}, &content)
		p.doc.ImageOptions(name, x.Box.X*pixelPoints, x.Box.Y*pixelPoints, x.Box.W*pixelPoints, x.Box.H*pixelPoints, false,
			fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
		return
	}
	if len(x.Path) > 0 {
		if x.Fill.Set {
			p.path(x.Path)
			p.fill(x.Fill)
			p.doc.DrawPath("f*")
		}
		if x.Stroke.Set && x.Width > 0 {
			p.path(x.Path)
			p.stroke(x.Stroke, x.Width, x.Dash)
			p.doc.DrawPath("D")
			p.doc.SetDashPattern(nil, 0)
		}
	}
	if x.Text != "" {
		p.text(x)
	}
}

// path draws a path; a circle is four curves (the usual approximation, off by less than a thousandth of its radius).
func (p *pdf) path(ops []Op) {
	const k, s = 0.5522847498, pixelPoints
	for _, op := range ops {
		x, y, r := op.X*s, op.Y*s, op.R*s
		switch op.Kind {
		case 'M':
			p.doc.MoveTo(x, y)
		case 'L':
			p.doc.LineTo(x, y)
		case 'Z':
			p.doc.ClosePath()
		case 'O':
			p.doc.MoveTo(x+r, y)
			p.doc.CurveBezierCubicTo(x+r, y+k*r, x+k*r, y+r, x, y+r)
			p.doc.CurveBezierCubicTo(x-k*r, y+r, x-r, y+k*r, x-r, y)
			p.doc.CurveBezierCubicTo(x-r, y-k*r, x-k*r, y-r, x, y-r)
			p.doc.CurveBezierCubicTo(x+k*r, y-r, x+r, y-k*r, x+r, y)
			p.doc.ClosePath()
		}
	}
}

func (p *pdf) text(x *Shape) {
	style := ""
	if x.Bold {
		style = "B"
	}
	text := strings.Map(func(r rune) rune {
		if missing(r) {
			return '?' // the notes say which letters those are
		}
		return r
	}, x.Text)
	p.doc.SetFont("go", style, x.Size*pixelPoints)
	at := XY{x.At.X*pixelPoints - x.Anchor*p.doc.GetStringWidth(text), x.At.Y * pixelPoints}
	if x.Halo.Set {
		p.doc.SetTextRenderingMode(1)
		p.stroke(x.Halo, 3, nil)
		p.doc.Text(at.X, at.Y, text)
		p.doc.SetTextRenderingMode(0)
	}
	c := x.Fill
	if !c.Set {
		c = nav.RGB(0, 0, 0)
	}
	p.doc.SetTextColor(int(c.R), int(c.G), int(c.B))
	p.doc.SetAlpha(float64(c.A)/255, "Normal")
	p.doc.Text(at.X, at.Y, text)
}
