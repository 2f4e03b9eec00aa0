package picture

import (
	"image"
	"image/draw"
	"math"

	"github.com/golang/freetype/raster"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"
)

// manyLegs are so many parts of a path that it is stroked into a buffer of coverage: the rasterizer of the drawing
// package looks through all pixels that a path has touched in a row for each that it touches next.
const manyLegs = 128

// long says whether a path is of many straight parts and of nothing else.
func long(path []Op) bool {
	if len(path) < manyLegs {
		return false
	}
	for i := range path {
		if path[i].Kind == 'O' {
			return false
		}
	}
	return true
}

// strokeLong strokes a long path with round ends and joins.
func (x *Shape) strokeLong(dst draw.Image, clip *Rect) {
	to := dst.Bounds()
	if clip != nil {
		to = to.Intersect(image.Rect(int(clip.X), int(clip.Y), int(math.Ceil(clip.X+clip.W)), int(math.Ceil(clip.Y+clip.H))))
	}
	if to = to.Intersect(x.touched()); to.Empty() {
		return
	}
	out := &outline{Rasterizer: vector.NewRasterizer(to.Dx(), to.Dy()), left: to.Min.X, top: to.Min.Y}
	width := fixed.Int26_6(x.Width * 64)
	for _, line := range dashes(polylines(x.Path), x.Dash) {
		var path raster.Path
		path.Start(fixedAt(line[0]))
		for _, at := range line[1:] {
			path.Add1(fixedAt(at))
		}
		raster.Stroke(out, path, width, raster.RoundCapper, raster.RoundJoiner)
		out.ClosePath()
	}
	out.Draw(dst, to, image.NewUniform(rgba(x.Stroke)), image.Point{})
}

// touched is where a stroke may leave colour.
func (x *Shape) touched() image.Rectangle {
	low, high := XY{math.Inf(1), math.Inf(1)}, XY{math.Inf(-1), math.Inf(-1)}
	for _, op := range x.Path {
		if op.Kind != 'Z' {
			low = XY{min(low.X, op.X), min(low.Y, op.Y)}
			high = XY{max(high.X, op.X), max(high.Y, op.Y)}
		}
	}
	const most = 1 << 20 // pixels: no picture is as large
	at := func(v, off float64) int { return int(min(max(v+off, -most), most)) }
	margin := x.Width + 1
	return image.Rect(at(low.X, -margin), at(low.Y, -margin), at(high.X, margin), at(high.Y, margin))
}

func fixedAt(at XY) fixed.Point26_6 {
	return fixed.Point26_6{X: fixed.Int26_6(at.X * 64), Y: fixed.Int26_6(at.Y * 64)}
}

// outline takes the outline of a stroke.
type outline struct {
	*vector.Rasterizer
	left, top int
}

func (o *outline) at(p fixed.Point26_6) (x, y float32) {
	return float32(p.X)/64 - float32(o.left), float32(p.Y)/64 - float32(o.top)
}

// Start begins a part of the outline.
func (o *outline) Start(a fixed.Point26_6) {
	o.ClosePath()
	x, y := o.at(a)
	o.MoveTo(x, y)
}

// Add1 adds a straight line.
func (o *outline) Add1(b fixed.Point26_6) {
	x, y := o.at(b)
	o.LineTo(x, y)
}

// Add2 adds a quadratic curve.
func (o *outline) Add2(b, c fixed.Point26_6) {
	bx, by := o.at(b)
	cx, cy := o.at(c)
	o.QuadTo(bx, by, cx, cy)
}

// Add3 adds a cubic curve.
func (o *outline) Add3(b, c, d fixed.Point26_6) {
	bx, by := o.at(b)
	cx, cy := o.at(c)
	dx, dy := o.at(d)
	o.CubeTo(bx, by, cx, cy, dx, dy)
}

// polylines are the lines of a path of straight parts, closed where it is.
func polylines(path []Op) (out [][]XY) {
	var line []XY
	end := func() {
		if len(line) > 1 {
			out = append(out, line)
		}
		line = nil
	}
	for _, op := range path {
		switch op.Kind {
		case 'M':
			end()
			line = []XY{op.XY}
		case 'L':
			line = append(line, op.XY)
		case 'Z':
			if len(line) > 1 {
				line = append(line, line[0])
			}
			end()
		}
	}
	end()
	return
}

// dashes cuts lines into strokes and gaps of the lengths that a pattern has in turn; without one they stay as they are.
func dashes(lines [][]XY, pattern []float64) (out [][]XY) {
	if len(pattern) == 0 {
		return lines
	}
	for _, line := range lines {
		turn, left := 0, pattern[0]
		dash := []XY{line[0]}
		for i := 1; i < len(line); i++ {
			a, b := line[i-1], line[i]
			leg := math.Hypot(b.X-a.X, b.Y-a.Y)
			for leg > left {
				part := left / leg
				a = XY{a.X + (b.X-a.X)*part, a.Y + (b.Y-a.Y)*part}
				if turn%2 == 0 {
					out = append(out, append(dash, a))
				}
				dash = []XY{a}
				turn++
				leg, left = leg-left, pattern[turn%len(pattern)]
			}
			left -= leg
			if turn%2 == 0 {
				dash = append(dash, b)
			}
		}
		if turn%2 == 0 && len(dash) > 1 {
			out = append(out, dash)
		}
	}
	return
}
