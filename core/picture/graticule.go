package picture

import (
	"fmt"
	"math"
	"strings"
)

// graticuleSteps are the distances between lines of latitude and longitude, in degrees: whole parts of degrees and
// minutes.
var graticuleSteps = []float64{30, 20, 10, 5, 2, 1, 0.5, 1. / 3, 1. / 6, 1. / 12, 1. / 30, 1. / 60, 1. / 120,
	1. / 180, 1. / 360, 1. / 720, 1. / 1800, 1. / 3600}

// extent is what the frame shows, in degrees; west and east are counted from the meridian in its middle.
type extent struct {
	south, north, west, east, middle float64
	pole                             bool
}

// extentOfFrame looks up positions all over the frame.
func (d *drawing) extentOfFrame() extent {
	const n = 12
	f, inf := d.view.frame, math.Inf(1)
	e := extent{south: inf, north: -inf, west: inf, east: -inf}
	_, e.middle = d.view.position(XY{f.X + f.W/2, f.Y + f.H/2})
	for i := 0; i <= n; i++ {
		for j := 0; j <= n; j++ {
			lat, lon := d.view.position(XY{f.X + f.W*float64(i)/n, f.Y + f.H*float64(j)/n})
			if math.IsNaN(lat + lon) {
				continue
			}
			off := math.Remainder(lon-e.middle, 360)
			e.south, e.north = min(e.south, lat), max(e.north, lat)
			e.west, e.east = min(e.west, off), max(e.east, off)
		}
	}
	for _, lat := range []float64{90, -90} {
		if p := d.view.place(lat, 0); !d.view.world && f.Has(p) {
			e.pole = true
			e.west, e.east = -180, 180
			if lat > 0 {
				e.north = 90
			} else {
				e.south = -90
			}
		}
	}
	// A little further, so that the lines cross the frame though they are bent.
	dLat, dLon := (e.north-e.south)*0.03, (e.east-e.west)*0.03
	e.south, e.north = max(e.south-dLat, -90), min(e.north+dLat, 90)
	e.west, e.east = max(e.west-dLon, -180), min(e.east+dLon, 180)
	return e
}

// graticuleStep is the widest step that gives a span at least three lines.
func graticuleStep(span float64) float64 {
	for _, s := range graticuleSteps {
		if span/s >= 3 {
			return s
		}
	}
	return graticuleSteps[len(graticuleSteps)-1]
}

// graticule draws lines of latitude and longitude with their degrees.
func (d *drawing) graticule() {
	e := d.extentOfFrame()
	latStep := graticuleStep(e.north - e.south)
	lonStep := max(graticuleStep(e.east-e.west), latStep/4)
	if e.pole {
		lonStep = 30
	}
	for lat := math.Ceil(e.south/latStep) * latStep; lat <= e.north+1e-9 && lat < 90; lat += latStep {
		if lat <= -90 {
			continue
		}
		d.graticuleLine(func(t float64) (float64, float64) { return lat, e.middle + e.west + t*(e.east-e.west) },
			degreeLabel(lat, latStep, "N", "S"), false)
	}
	south, north := max(e.south, -89.9), min(e.north, 89.9)
	for lon := math.Ceil((e.middle+e.west)/lonStep) * lonStep; lon <= e.middle+e.east+1e-9; lon += lonStep {
		d.graticuleLine(func(t float64) (float64, float64) { return south + t*(north-south), lon },
			degreeLabel(math.Remainder(lon, 360), lonStep, "E", "W"), true)
	}
}

// graticuleLine draws the line that at gives for 0 to 1, with its degrees where it enters the frame.
func (d *drawing) graticuleLine(at func(t float64) (lat, lon float64), label string, meridian bool) {
	const pieces = 96
	f := d.view.frame
	var ops []Op
	var edge, last XY
	drawn, labelled := false, false // whether the piece before was drawn
	for i := 0; i <= pieces; i++ {
		p := d.view.place(at(float64(i) / pieces))
		if math.IsNaN(p.X+p.Y) || math.Abs(p.X) > 20*d.scene.Width || math.Abs(p.Y) > 20*d.scene.Height {
			drawn = false
			continue
		}
		if !drawn || math.Abs(p.X-last.X) > d.scene.Width {
			ops = append(ops, moveTo(p.X, p.Y))
		} else {
			ops = append(ops, lineTo(p.X, p.Y))
			if q, ok := crossing(last, p, f, meridian); ok && !labelled {
				edge, labelled = q, true
			}
		}
		drawn, last = true, p
	}
	d.scene.add(Shape{Layer: "graticule", Path: ops, Stroke: faded(d.Theme.Grid, 200), Width: 0.8, Clip: &f})
	if !labelled {
		return
	}
	s := Shape{Layer: "graticule", Text: label, At: XY{f.X + 5, edge.Y - 4}, Size: 10.5, Fill: d.Theme.Faint,
		Halo: d.Theme.Paper}
	if meridian {
		s.At = XY{edge.X + 3, f.Y + f.H - 6}
	}
	if r := (Rect{s.At.X, s.At.Y - 10, 66, 13}); d.labels.free(r) {
		d.scene.add(s)
		d.labels.take(r)
	}
}

// crossing finds where a stretch enters the frame over its left edge, or of a meridian over its lower edge.
func crossing(a, b XY, f Rect, vertical bool) (XY, bool) {
	if vertical {
		y := f.Y + f.H
		if (a.Y > y) != (b.Y > y) {
			t := (y - a.Y) / (b.Y - a.Y)
			if x := a.X + t*(b.X-a.X); x >= f.X && x <= f.X+f.W {
				return XY{x, y}, true
			}
		}
		return XY{}, false
	}
	if (a.X > f.X) != (b.X > f.X) {
		t := (f.X - a.X) / (b.X - a.X)
		if y := a.Y + t*(b.Y-a.Y); y >= f.Y && y <= f.Y+f.H {
			return XY{f.X, y}, true
		}
	}
	return XY{}, false
}

// degreeLabel writes a line's degrees as finely as its distance to the next: 47°36′ S.
func degreeLabel(v, step float64, plus, minus string) string {
	letter := plus
	if v < 0 {
		letter = minus
	}
	s := int(math.Round(math.Abs(v) * 3600))
	deg, min, sec := s/3600, s/60%60, s%60
	if s == 0 || s == 180*3600 {
		letter = ""
	}
	switch {
	case step >= 1:
		return strings.TrimSpace(fmt.Sprintf("%d° %s", deg, letter))
	case step >= 1./60-1e-12:
		return strings.TrimSpace(fmt.Sprintf("%d°%02d′ %s", deg, min, letter))
	}
	return strings.TrimSpace(fmt.Sprintf("%d°%02d′%02d″ %s", deg, min, sec, letter))
}
