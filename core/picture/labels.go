package picture

import "gyrolith/core/nav"

// Label is a text that wants a place beside the first of its spots that has room for it.
type Label struct {
	Item, Text string
	Spots      []XY
	Gap, Size  float64
	Bold       bool
	Ink        nav.Colour
}

// label places a label, or counts it as hidden; on a page its program places it.
func (d *drawing) label(l Label) {
	if d.page {
		d.out.labels = append(d.out.labels, l)
		return
	}
	for _, spot := range l.Spots {
		if at, anchor, ok := d.labels.beside(l.Text, spot, l.Gap, l.Size, l.Bold); ok {
			d.scene.add(Shape{Layer: "names", Item: l.Item, Text: l.Text, At: at, Anchor: anchor, Size: l.Size, Bold: l.Bold,
				Fill: l.Ink, Halo: d.Theme.Paper})
			return
		}
	}
	d.hidden = append(d.hidden, l.Text)
}

// placer puts labels where they cover neither one another nor what is drawn.
type placer struct {
	fonts faces
	frame Rect
	cells map[[2]int][]Rect
	taken []Rect
}

const cellSize = 64

// full is how many things leave no room for a label in a cell: they cover it, or nearly.
const full = 60

func newPlacer(frame Rect) *placer {
	return &placer{fonts: faces{}, frame: frame, cells: map[[2]int][]Rect{}}
}

func (p *placer) cellsOf(r Rect, visit func([2]int)) {
	for y := int(r.Y) / cellSize; y <= int(r.Y+r.H)/cellSize; y++ {
		for x := int(r.X) / cellSize; x <= int(r.X+r.W)/cellSize; x++ {
			visit([2]int{x, y})
		}
	}
}

// take keeps a part of the drawing free of labels.
func (p *placer) take(r Rect) {
	p.cellsOf(r, func(c [2]int) { p.cells[c] = append(p.cells[c], r) })
}

func (p *placer) free(r Rect) bool {
	if r.X < p.frame.X+2 || r.Y < p.frame.Y+2 || r.X+r.W > p.frame.X+p.frame.W-2 || r.Y+r.H > p.frame.Y+p.frame.H-2 {
		return false
	}
	ok := true
	p.cellsOf(r, func(c [2]int) {
		if len(p.cells[c]) > full {
			ok = false
		}
		for _, o := range p.cells[c] {
			if !ok {
				return
			}
			ok = !o.meets(r)
		}
	})
	return ok
}

// beside finds a place for a text beside a point, with the gap between them; around it first to the right, then left,
// above and below. ok is false where there is none.
func (p *placer) beside(text string, at XY, gap, size float64, bold bool) (where XY, anchor float64, ok bool) {
	w := p.fonts.width(text, size, bold)
	h := size
	type side struct{ x, y, anchor float64 }
	var sides []side
	if gap == 0 { // over the place itself
		sides = []side{{0, h * 0.36, 0.5}, {0, -h * 0.8, 0.5}, {0, h * 1.5, 0.5}}
	}
	for _, c := range append(sides, []side{
		{gap, h * 0.36, 0}, {-gap, h * 0.36, 1}, {0, -gap - h*0.15, 0.5}, {0, gap + h*0.85, 0.5},
		{gap * 0.8, -gap * 0.7, 0}, {gap * 0.8, gap*0.7 + h*0.7, 0}, {-gap * 0.8, -gap * 0.7, 1},
		{-gap * 0.8, gap*0.7 + h*0.7, 1},
		{gap * 2.2, h * 0.36, 0}, {-gap * 2.2, h * 0.36, 1}, {0, -gap*2.2 - h*0.15, 0.5}, {0, gap*2.2 + h*0.85, 0.5},
	}...) {
		q := XY{at.X + c.x, at.Y + c.y}
		r := Rect{q.X - w*c.anchor - 2, q.Y - h*0.8, w + 4, h * 1.05}
		if p.free(r) {
			p.take(r)
			p.taken = append(p.taken, r)
			return q, c.anchor, true
		}
	}
	return XY{}, 0, false
}
