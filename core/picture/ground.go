package picture

import (
	"image"
	"image/color"
	"math"
	"slices"

	"gyrolith/core/terrain"
)

// groundStep is the side of the squares in which the ground is sampled, in pixels.
const groundStep = 2

// bleed is how far the ground of a page reaches beyond its frame on each side, as a part of the frame: a window may be
// wider or higher than that.
const bleed = 0.35

// covered is the part of the drawing that has a ground.
func (d *drawing) covered() Rect {
	f := d.view.frame
	if d.page {
		f = Rect{f.X - bleed*f.W, f.Y - bleed*f.H, f.W * (1 + 2*bleed), f.H * (1 + 2*bleed)}
	}
	return f
}

// ground lays the backdrop and the relief under the map.
func (d *drawing) ground() {
	if d.Backdrop != nil {
		d.scene.add(Shape{Layer: "backdrop", Image: d.backdrop(), Box: d.covered()})
	}
	if d.Terrain == nil {
		if d.Backdrop == nil {
			d.scene.add(Shape{Layer: "ground", Path: box(d.covered()), Fill: d.Theme.Paper})
		}
		return
	}
	f := d.covered()
	w, h := int(f.W)/groundStep+1, int(f.H)/groundStep+1
	heights := make([]float64, w*h) // NaN is not known; the sea is at zero and below
	known, highest := 0, 0.0
	for y := range h {
		for x := range w {
			lat, lon := d.view.position(XY{f.X + float64(x*groundStep), f.Y + float64(y*groundStep)})
			v, out := d.Terrain.Height(lat, lon)
			if out != terrain.Given && out != terrain.Filled {
				v = math.NaN()
			} else {
				known++
				highest = max(highest, v)
			}
			heights[y*w+x] = v
		}
	}
	if known == 0 {
		d.note("the terrain has no heights here")
		return
	}
	d.shore(heights, w, h)
	d.scene.add(Shape{Layer: "ground", Image: d.relief(heights, w, h, highest),
		Box: Rect{f.X, f.Y, float64(w * groundStep), float64(h * groundStep)}, Clip: &f})
	d.contours(heights, w, h, highest)
}

// shore lets the sea end between its last sample and the first one of the land. Where the sea is at zero the height
// says only that the shore is somewhere there, and a line at zero would follow the samples' cells; so land and sea are
// each counted within the spacing of the samples, and the shore is where they are as many.
func (d *drawing) shore(heights []float64, w, h int) {
	lat, lon := d.view.position(XY{d.view.frame.X + d.view.frame.W/2, d.view.frame.Y + d.view.frame.H/2})
	const most = 60
	radius := min(int(d.Terrain.Spacing(lat, lon)/(d.view.perPx*groundStep)), most)
	if radius < 1 {
		return
	}
	land := make([]float64, w*h)
	for i, v := range heights {
		if v > 0.01 {
			land[i] = 1
		}
	}
	for range 2 { // twice the mean is nearly round
		land = mean(land, w, h, radius, 1, w)
		land = mean(land, h, w, radius, w, 1)
	}
	before := slices.Clone(heights)
	for i, v := range before {
		switch {
		case math.IsNaN(v):
		case land[i] < 0.5 && v > 0.01 && top(before, w, h, i, radius): // a rock of a sample or two is not washed away
		case land[i] < 0.5:
			heights[i] = min(v, (land[i]-0.5)*2) // below the sea, from nothing at the shore
		case v < 0.02:
			heights[i] = 0.02 + (land[i] - 0.5)
		}
	}
}

// top says whether a value is among the highest within a radius.
func top(values []float64, w, h, at, radius int) bool {
	const share = 0.6
	x0, y0 := at%w, at/w
	for y := max(y0-radius, 0); y <= min(y0+radius, h-1); y++ {
		for x := max(x0-radius, 0); x <= min(x0+radius, w-1); x++ {
			if v := values[y*w+x]; v*share > values[at] {
				return false
			}
		}
	}
	return true
}

// mean is the running mean of values along lines of n, of which there are so many, with a step from one value to the
// next and from one line to the next.
func mean(values []float64, n, lines, radius, step, next int) []float64 {
	out := make([]float64, len(values))
	for line := range lines {
		first := line * next
		sum, count := 0.0, 0
		for i := range min(radius, n) {
			sum += values[first+i*step]
			count++
		}
		for i := range n {
			if k := i + radius; k < n {
				sum += values[first+k*step]
				count++
			}
			if k := i - radius - 1; k >= 0 {
				sum -= values[first+k*step]
				count--
			}
			out[first+i*step] = sum / float64(count)
		}
	}
	return out
}

// relief shades the ground with the light from the north-west, as maps have it by custom; the sea is flat.
func (d *drawing) relief(heights []float64, w, h int, highest float64) image.Image {
	out := image.NewNRGBA(image.Rect(0, 0, w, h))
	metres := d.view.perPx * groundStep
	at := func(x, y int) float64 {
		return heights[min(max(y, 0), h-1)*w+min(max(x, 0), w-1)]
	}
	alpha := uint8(255)
	if d.Backdrop != nil {
		alpha = 90
	}
	ground, sea := d.Theme.Ground, d.Theme.Sea
	for y := range h {
		for x := range w {
			v := at(x, y)
			if math.IsNaN(v) {
				continue
			}
			if v <= 0 {
				if d.Backdrop == nil {
					out.SetNRGBA(x, y, color.NRGBA{sea.R, sea.G, sea.B, alpha})
				}
				continue
			}
			dx, dy := (at(x+1, y)-at(x-1, y))/(2*metres), (at(x, y+1)-at(x, y-1))/(2*metres)
			if math.IsNaN(dx + dy) {
				dx, dy = 0, 0
			}
			// Steepened a little, so that gentle ground shows as well.
			dx, dy = 1.6*dx, 1.6*dy
			length := math.Sqrt(dx*dx + dy*dy + 1)
			light := (dx*0.5 + dy*0.5 + 0.7071) / length // from the north-west, 45 degrees high
			shade := 0.58 + 0.6*max(light, 0)
			tint := 1 - 0.12*v/max(highest, 1)
			mix := func(c uint8) uint8 { return uint8(max(min(float64(c)*shade*tint, 255), 0)) }
			out.SetNRGBA(x, y, color.NRGBA{mix(ground.R), mix(ground.G), mix(ground.B), alpha})
		}
	}
	return out
}

// contourSteps are the distances between contour lines that maps have, in metres.
var contourSteps = []float64{5, 10, 20, 25, 50, 100, 200, 250, 500, 1000}

// contours draws lines of equal height by marching squares, every fifth one stronger.
func (d *drawing) contours(heights []float64, w, h int, highest float64) {
	step := contourSteps[len(contourSteps)-1]
	for _, s := range contourSteps {
		if highest/s <= 14 {
			step = s
			break
		}
	}
	f := d.covered()
	for n := 0; float64(n)*step < highest; n++ {
		level := float64(n) * step
		if n == 0 {
			level = 0.01 // the shore
		}
		var ops []Op
		for y := range h - 1 {
			for x := range w - 1 {
				a, b, c, e := heights[y*w+x], heights[y*w+x+1], heights[(y+1)*w+x+1], heights[(y+1)*w+x]
				if math.IsNaN(a + b + c + e) {
					continue
				}
				ops = square(ops, f.X+float64(x*groundStep), f.Y+float64(y*groundStep), level, a, b, c, e)
			}
		}
		if len(ops) == 0 {
			continue
		}
		s := Shape{Layer: "ground", Path: ops, Stroke: faded(d.Theme.Contour, 150), Width: 0.7, Clip: &f}
		if n%5 == 0 && n > 0 {
			s.Stroke, s.Width = d.Theme.Contour, 1.1
		}
		if n == 0 {
			s.Stroke, s.Width = faded(d.Theme.Faint, 190), 1
		}
		d.scene.add(s)
	}
	d.note("contour lines every %s m", trimmed(step))
}

// square adds the pieces of a contour line in one square with the heights of its corners, clockwise from the top left.
func square(ops []Op, x, y, level, a, b, c, e float64) []Op {
	var cuts [4]XY
	n := 0
	cut := func(p, q float64, x1, y1, x2, y2 float64) {
		if (p < level) != (q < level) {
			t := (level - p) / (q - p)
			cuts[n] = XY{x1 + t*(x2-x1), y1 + t*(y2-y1)}
			n++
		}
	}
	const s = groundStep
	cut(a, b, x, y, x+s, y)
	cut(b, c, x+s, y, x+s, y+s)
	cut(c, e, x+s, y+s, x, y+s)
	cut(e, a, x, y+s, x, y)
	for i := 0; i+1 < n; i += 2 {
		ops = append(ops, moveTo(cuts[i].X, cuts[i].Y), lineTo(cuts[i+1].X, cuts[i+1].Y))
	}
	return ops
}

func box(r Rect) []Op {
	return []Op{moveTo(r.X, r.Y), lineTo(r.X+r.W, r.Y), lineTo(r.X+r.W, r.Y+r.H), lineTo(r.X, r.Y+r.H), closed}
}
