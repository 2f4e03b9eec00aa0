package picture

import "image"

// Backdrop is a picture that lies under the map.
type Backdrop struct {
	Image image.Image
	Files []string // beside the picture, such as its world file
	// Pixel gives the place in the picture of a position; not ok where it has none.
	Pixel func(lat, lon float64) (x, y float64, ok bool)
}

// backdrop warps the picture into the map's projection, pixel by pixel.
func (d *drawing) backdrop() image.Image {
	f := d.covered()
	out := image.NewNRGBA(image.Rect(0, 0, int(f.W), int(f.H)))
	b := d.Backdrop.Image.Bounds()
	hits := 0
	for y := range int(f.H) {
		for x := range int(f.W) {
			lat, lon := d.view.position(XY{f.X + float64(x) + 0.5, f.Y + float64(y) + 0.5})
			px, py, ok := d.Backdrop.Pixel(lat, lon)
			if !ok || px < 0 || py < 0 || px >= float64(b.Dx()) || py >= float64(b.Dy()) {
				continue
			}
			hits++
			out.Set(x, y, d.Backdrop.Image.At(b.Min.X+int(px), b.Min.Y+int(py)))
		}
	}
	if hits == 0 {
		d.note("the backdrop does not overlap the map")
	}
	return out
}
