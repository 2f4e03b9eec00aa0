package picture

import (
	"math"
	"strings"

	"gyrolith/core/nav"
)

// dots are a small raster for a terminal: each letter of the Braille block (U+2800) has two by four of them.
type dots struct {
	w, h  int // in letters
	cells []byte
	marks map[int]rune // letters that stand for themselves
}

// brailleBits are the bits of the dots of a letter, by row and column (The Unicode Standard, block Braille Patterns).
var brailleBits = [4][2]byte{{0x01, 0x08}, {0x02, 0x10}, {0x04, 0x20}, {0x40, 0x80}}

func newDots(w, h int) *dots { return &dots{w, h, make([]byte, w*h), map[int]rune{}} }

func (d *dots) set(x, y int) {
	if x < 0 || y < 0 || x >= 2*d.w || y >= 4*d.h {
		return
	}
	d.cells[y/4*d.w+x/2] |= brailleBits[y%4][x%2]
}

func (d *dots) line(a, b XY) {
	n := int(max(math.Abs(b.X-a.X), math.Abs(b.Y-a.Y)))
	if n > 4*(2*d.w+4*d.h) {
		return
	}
	for i := 0; i <= n; i++ {
		k := 0.0
		if n > 0 {
			k = float64(i) / float64(n)
		}
		d.set(int(math.Round(a.X+k*(b.X-a.X))), int(math.Round(a.Y+k*(b.Y-a.Y))))
	}
}

func (d *dots) mark(p XY, r rune) {
	x, y := int(math.Round(p.X))/2, int(math.Round(p.Y))/4
	if x >= 0 && y >= 0 && x < d.w && y < d.h {
		d.marks[y*d.w+x] = r
	}
}

// write puts a text where no mark is in its way.
func (d *dots) write(x, y int, text string) {
	runes := []rune(text)
	if y < 0 || y >= d.h || x < 0 || x+len(runes) > d.w {
		return
	}
	for i := range runes {
		if _, taken := d.marks[y*d.w+x+i]; taken {
			return
		}
	}
	for i, r := range runes {
		d.marks[y*d.w+x+i] = r
	}
}

func (d *dots) lines() []string {
	out := make([]string, d.h)
	for y := range d.h {
		var b strings.Builder
		for x := range d.w {
			if r, ok := d.marks[y*d.w+x]; ok {
				b.WriteRune(r)
			} else if c := d.cells[y*d.w+x]; c != 0 {
				b.WriteRune(0x2800 + rune(c))
			} else {
				b.WriteByte(' ')
			}
		}
		out[y] = strings.TrimRight(b.String(), " ")
	}
	return out
}

// TextMap draws a small map of letters: lines in Braille dots, waypoints as •, with names where there is room.
func TextMap(d *nav.Dataset, width, height int) []string {
	c := newDots(width, height)
	frame := Rect{0, 0, float64(2*width - 1), float64(4*height - 1)}
	v := fit(frame, 0, func(visit func(lat, lon float64)) {
		reach(d, visit)
	})
	draw := func(points []nav.Point, close bool) {
		var last XY
		for i := range points {
			p := v.place(points[i].Lat, points[i].Lon)
			if i > 0 && !(v.world && math.Abs(p.X-last.X) > float64(width)) {
				c.line(last, p)
			}
			last = p
		}
		if close && len(points) > 2 {
			c.line(last, v.place(points[0].Lat, points[0].Lon))
		}
	}
	for i := range d.Areas {
		for _, ring := range v.rings(&d.Areas[i]) {
			draw(ring, true)
		}
	}
	for i := range d.Tracks {
		for j := range d.Tracks[i].Segments {
			draw(d.Tracks[i].Segments[j].Points, false)
		}
	}
	for i := range d.Routes {
		draw(d.Routes[i].Line(), false)
	}
	for i := range d.Waypoints {
		c.mark(v.place(d.Waypoints[i].Lat, d.Waypoints[i].Lon), '•')
	}
	for i := range d.Waypoints {
		w := &d.Waypoints[i]
		p := v.place(w.Lat, w.Lon)
		c.write(int(math.Round(p.X))/2+2, int(math.Round(p.Y))/4, visible(w.Name))
	}
	lat, lon := v.position(XY{0, frame.H / 2})
	lat2, lon2 := v.position(XY{frame.W, frame.H / 2})
	lines := c.lines()
	for len(lines) > 1 && lines[0] == "" {
		lines = lines[1:]
	}
	for len(lines) > 1 && lines[len(lines)-1] == "" {
		lines = lines[:len(lines)-1]
	}
	return append(lines, "north is up; the window is "+lengthAcross(distance(lat, lon, lat2, lon2))+" wide")
}

// visible takes control characters out of a name.
func visible(name string) string {
	name = strings.Map(func(r rune) rune {
		if r < 0x20 || r == 0x7f || r >= 0x80 && r < 0xa0 || r >= 0x2028 && r <= 0x202e || r >= 0x2066 && r <= 0x2069 {
			return -1
		}
		return r
	}, name)
	if r := []rune(name); len(r) > 24 {
		return string(r[:23]) + "…"
	}
	return name
}

func lengthAcross(metres float64) string {
	if metres < 2000 {
		return trimmed(roundTo(metres, 2)) + " m"
	}
	return trimmed(roundTo(metres/1000, 2)) + " km"
}

// blocks are the eighths of a letter, from the bottom.
var blocks = []rune(" ▁▂▃▄▅▆▇█")

// TextProfile draws the heights along the longest line in block letters, with the lowest and the highest beside; nil
// where there are none.
func TextProfile(d *nav.Dataset, width, height int) []string {
	name, points := (&Map{Data: d}).profileLine()
	if len(points) == 0 {
		return nil
	}
	p := newProfile(name, points)
	low, high := math.Inf(1), math.Inf(-1)
	for i := range p.Samples {
		if h := p.Samples[i].Height; !math.IsNaN(h) {
			low, high = min(low, h), max(high, h)
		}
	}
	const beside = 9
	if low > high || width <= beside+10 {
		return nil
	}
	span := p.Samples[len(p.Samples)-1].Distance
	plot := Rect{0, 0, float64(width - beside), 1}
	for i := range p.Samples {
		p.Samples[i].X = plot.W * p.Samples[i].Distance / max(span, 1)
	}
	columns := columnsOf(p, plot)
	out := []string{"heights along " + visible(orLine(name)) + ", " + lengthAcross(span)}
	for row := range height {
		var b strings.Builder
		label := ""
		switch row {
		case 0:
			label = trimmed(math.Round(high)) + " m"
		case height - 1:
			label = trimmed(math.Round(low)) + " m"
		}
		b.WriteString(strings.Repeat(" ", max(beside-2-len(label), 0)) + label + " ")
		for _, c := range columns {
			if math.IsNaN(c.height) {
				b.WriteByte(' ')
				continue
			}
			full := (c.height - low) / max(high-low, 1) * float64(8*height-1)
			eighths := int(full) + 1 - 8*(height-1-row)
			b.WriteRune(blocks[min(max(eighths, 0), 8)])
		}
		out = append(out, strings.TrimRight(b.String(), " "))
	}
	return out
}
