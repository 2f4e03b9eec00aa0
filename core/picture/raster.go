package picture

import (
	"image"
	"image/color"
	"image/png"
	"io"
	"sync"

	"git.sr.ht/~sbinet/gg"
	"golang.org/x/image/draw"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"

	"gyrolith/core/nav"
)

// The Go fonts (Bigelow & Holmes, under an open licence) are part of the program.
var parsedFonts = sync.OnceValue(func() [2]*opentype.Font {
	var out [2]*opentype.Font
	for i, ttf := range [][]byte{goregular.TTF, gobold.TTF} {
		f, err := opentype.Parse(ttf)
		if err != nil {
			panic(err)
		}
		out[i] = f
	}
	return out
})

// faces are the sizes in use; they are not safe for use by several at a time, so that each drawing has its own.
type faces map[[2]int]font.Face

func (f faces) get(size float64, bold bool) font.Face {
	key := [2]int{int(size * 4), 0}
	if bold {
		key[1] = 1
	}
	if face, ok := f[key]; ok {
		return face
	}
	face, err := opentype.NewFace(parsedFonts()[key[1]], &opentype.FaceOptions{Size: size, DPI: 72,
		Hinting: font.HintingFull})
	if err != nil {
		panic(err)
	}
	f[key] = face
	return face
}

// width is how wide a text is, in pixels.
func (f faces) width(text string, size float64, bold bool) float64 {
	return float64(font.MeasureString(f.get(size, bold), text)) / 64
}

func rgba(c nav.Colour) color.NRGBA { return color.NRGBA{c.R, c.G, c.B, c.A} }

// Image draws the scene in pixels.
func (s *Scene) Image() image.Image {
	dc := gg.NewContext(int(s.Width), int(s.Height))
	if s.Paper.Set {
		dc.SetColor(rgba(s.Paper))
		dc.Clear()
	}
	dc.SetLineCapRound()
	dc.SetLineJoinRound()
	dc.SetFillRuleEvenOdd()
	fonts := faces{}
	var clip *Rect // that is set now
	for i := range s.Shapes {
		x := &s.Shapes[i]
		want := x.Clip
		if want != nil && x.within(*want, fonts) { // a mask costs a look at every pixel
			want = nil
		}
		if want != clip {
			dc.ResetClip()
			if clip = want; clip != nil {
				dc.DrawRectangle(clip.X, clip.Y, clip.W, clip.H)
				dc.Clip()
			}
		}
		x.draw(dc, clip, fonts)
	}
	return dc.Image()
}

// within says whether nothing of a shape reaches out of a part of the drawing.
func (x *Shape) within(r Rect, fonts faces) bool {
	has := func(p XY, margin float64) bool {
		return p.X-margin >= r.X && p.X+margin <= r.X+r.W && p.Y-margin >= r.Y && p.Y+margin <= r.Y+r.H
	}
	for _, op := range x.Path {
		if op.Kind != 'Z' && !has(op.XY, op.R+x.Width+1) {
			return false
		}
	}
	if x.Text == "" {
		return true
	}
	w := fonts.width(x.Text, x.Size, x.Bold)
	left := x.At.X - x.Anchor*w
	return has(XY{left, x.At.Y}, x.Size) && has(XY{left + w, x.At.Y}, x.Size)
}

func (x *Shape) draw(dc *gg.Context, clip *Rect, fonts faces) {
	if x.Image != nil {
		to := image.Rect(int(x.Box.X), int(x.Box.Y), int(x.Box.X+x.Box.W), int(x.Box.Y+x.Box.H))
		draw.ApproxBiLinear.Scale(dc.Image().(*image.RGBA), to, x.Image, x.Image.Bounds(), draw.Over, nil)
		return
	}
	if len(x.Path) > 0 {
		dc.ClearPath()
		for _, op := range x.Path {
			switch op.Kind {
			case 'M':
				dc.MoveTo(op.X, op.Y)
			case 'L':
				dc.LineTo(op.X, op.Y)
			case 'O':
				dc.NewSubPath()
				dc.DrawCircle(op.X, op.Y, op.R)
				dc.ClosePath()
			case 'Z':
				dc.ClosePath()
			}
		}
		if x.Fill.Set {
			dc.SetColor(rgba(x.Fill))
			dc.FillPreserve()
		}
		switch {
		case !x.Stroke.Set || x.Width <= 0:
		case long(x.Path):
			x.strokeLong(dc.Image().(draw.Image), clip)
		default:
			dc.SetColor(rgba(x.Stroke))
			dc.SetLineWidth(x.Width)
			dc.SetDash(x.Dash...)
			dc.StrokePreserve()
			dc.SetDash()
		}
		dc.ClearPath()
	}
	if x.Text == "" {
		return
	}
	dc.SetFontFace(fonts.get(x.Size, x.Bold))
	if x.Halo.Set {
		dc.SetColor(rgba(x.Halo))
		for _, d := range [...]XY{{-1.5, 0}, {1.5, 0}, {0, -1.5}, {0, 1.5}, {-1, -1}, {1, 1}, {-1, 1}, {1, -1}} {
			dc.DrawStringAnchored(x.Text, x.At.X+d.X, x.At.Y+d.Y, x.Anchor, 0)
		}
	}
	c := x.Fill
	if !c.Set {
		c = nav.RGB(0, 0, 0)
	}
	dc.SetColor(rgba(c))
	dc.DrawStringAnchored(x.Text, x.At.X, x.At.Y, x.Anchor, 0)
}

// WritePNG draws the scene and writes it.
func (s *Scene) WritePNG(w io.Writer) error {
	enc := png.Encoder{CompressionLevel: png.DefaultCompression}
	return enc.Encode(w, s.Image())
}
