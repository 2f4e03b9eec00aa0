// Package terrain reads grids of heights, and asks them for the height at a position.
package terrain

import (
	"io"
	"math"

	"gyrolith/core/geodesy"
)

// raster is one grid of heights, read block by block. Column 0 is the western one, row 0 the northern one.
type raster struct {
	name          string
	width, height int
	geo           georef
	blockW        int
	blockH        int
	path          string // of the file that read wants open; "" where it opens its own
	// read gives a block of blockW × blockH values, void ones NaN.
	read   func(f io.ReaderAt, bx, by int) ([]float32, error)
	tile   string // the word for a degree tile, as in its name; "" for others
	global bool   // goes around the earth
	first  bool   // no finer grid lies over any part of it
}

// georef is where the samples are: the position of the centre of sample 0/0 and the steps from one to the next, in
// degrees or in metres of a UTM zone.
type georef struct {
	x0, y0, dx, dy float64 // dy is negative, since rows go south
	utm            *geodesy.UTM
}

// pixel gives the column and row of a position, whole numbers at the centres of samples.
func (r *raster) pixel(lat, lon float64) (col, row float64) {
	x, y := lon, lat
	if r.geo.utm != nil {
		x, y = r.geo.utm.Forward(lat, lon)
	} else {
		// The longitude nearest to the middle of the raster.
		middle := r.geo.x0 + r.geo.dx*float64(r.width-1)/2
		if d := x - middle; d > 180 || d < -180 {
			x = middle + math.Remainder(d, 360)
		}
	}
	return (x - r.geo.x0) / r.geo.dx, (y - r.geo.y0) / r.geo.dy
}

// position is the inverse of pixel.
func (r *raster) position(col, row float64) (lat, lon float64) {
	x, y := r.geo.x0+col*r.geo.dx, r.geo.y0+row*r.geo.dy
	if r.geo.utm != nil {
		return r.geo.utm.Inverse(x, y)
	}
	return y, math.Remainder(x, 360)
}

// edge is how far beyond the centres of its outer samples a raster reaches, in samples, with a little for rounding.
const edge = 0.5 + 1e-6

func (r *raster) covers(col, row float64) bool {
	return row >= -edge && row <= float64(r.height-1)+edge && (r.global || col >= -edge && col <= float64(r.width-1)+edge)
}

// step is the size of a sample in metres, about.
func (r *raster) step() float64 {
	if r.geo.utm != nil {
		return math.Abs(r.geo.dy)
	}
	return math.Abs(r.geo.dy) * geodesy.EquatorDegree
}

// bounds gives the box of the raster in degrees, west possibly below -180 or east above 180.
func (r *raster) bounds() (west, south, east, north float64) {
	west, south, east, north = math.Inf(1), math.Inf(1), math.Inf(-1), math.Inf(-1)
	const along = 8
	for i := 0; i <= along; i++ {
		for j := 0; j <= along; j++ {
			lat, lon := r.position(-0.5+float64(r.width)*float64(i)/along, -0.5+float64(r.height)*float64(j)/along)
			if r.geo.utm == nil {
				lon = r.geo.x0 + (-0.5+float64(r.width)*float64(i)/along)*r.geo.dx
			}
			west, east = math.Min(west, lon), math.Max(east, lon)
			south, north = math.Min(south, lat), math.Max(north, lat)
		}
	}
	return
}

// checkSize refuses sizes that no grid has, before anything is allocated.
func checkSize(width, height int) bool {
	return width >= 2 && height >= 2 && width <= 1<<22 && height <= 1<<22 && int64(width)*int64(height) <= 1<<40
}

// onEarth says whether a grid in degrees goes round the earth no more than once and over no pole, which a damaged file
// may not keep to.
func (r *raster) onEarth() bool {
	g := &r.geo
	return g.utm != nil || math.Abs(g.x0) <= 541 && float64(r.width-1)*g.dx <= 361 && math.Abs(g.y0) <= 91 &&
		math.Abs(g.y0+float64(r.height-1)*g.dy) <= 91
}

func (r *raster) setGlobal() {
	r.global = r.geo.utm == nil && math.Abs(float64(r.width)*r.geo.dx-360) < math.Abs(r.geo.dx)/2
}

var void = float32(math.NaN())
