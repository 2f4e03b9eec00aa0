package choose

import (
	"slices"

	"gyrolith/core/nav"
	"gyrolith/core/region"
)

// piece is what stays of a segment: some of its points, perhaps with one on the edge in front and behind.
type piece struct {
	from, to      int
	before, after []nav.Point // of one point, or of none
}

func (p *piece) of(seg *nav.Segment) nav.Segment {
	out := seg.Piece(p.from, p.to)
	if len(p.before)+len(p.after) > 0 {
		out.Points = slices.Concat(p.before, out.Points, p.after)
	}
	return out
}

// cut parts segments where they leave what is asked for.
func (s *Selection) cut(segments []nav.Segment) (out []nav.Segment) {
	for i := range segments {
		c := cutter{selection: s, seg: &segments[i]}
		for k := range c.seg.Points {
			c.point(k)
		}
		c.leave()
		out = append(out, c.out...)
	}
	return out
}

// cutter follows a segment.
type cutter struct {
	selection *Selection
	seg       *nav.Segment
	open      bool
	at        piece // that has begun
	out       []nav.Segment
	parts     []float64 // where the leg crosses an edge
}

func (c *cutter) enter(k int, before []nav.Point) {
	c.open, c.at = true, piece{from: k, to: k, before: before}
}

func (c *cutter) leave() {
	if c.open {
		c.out = append(c.out, c.at.of(c.seg))
	}
	c.open = false
}

// point follows the leg to a point, and the point.
func (c *cutter) point(k int) {
	s, p := c.selection, &c.seg.Points[k]
	timely := s.timely(p)
	if k > 0 && timely && s.timely(&c.seg.Points[k-1]) {
		c.leg(k)
	}
	switch in := timely && s.place(p); {
	case in && !c.open:
		c.enter(k, nil)
		fallthrough
	case in:
		c.at.to = k + 1
	default:
		c.leave()
	}
}

// leg follows the leg to a point from edge to edge.
func (c *cutter) leg(k int) {
	s, p, q := c.selection, &c.seg.Points[k-1], &c.seg.Points[k]
	c.parts = c.parts[:0]
	if s.Inside != nil && !(s.Inside.Contains(p.Lat, p.Lon) && s.Inside.Contains(q.Lat, q.Lon)) {
		nav.AlongLeg(p, q, func(a, b *nav.Point, from, to float64) {
			c.parts = region.Scaled(s.Inside.Crossings(a, b, c.parts), len(c.parts), from, to)
		})
	}
	if s.Within != nil {
		c.parts = s.Within.regions.AllCrossings(p, q, c.parts)
	}
	if len(c.parts) == 0 {
		return
	}
	slices.Sort(c.parts)
	last := 0.0
	for _, part := range append(c.parts, 1) {
		if part <= last {
			continue
		}
		middle := nav.Between(p, q, (last+part)/2)
		switch in := s.place(&middle); {
		case in && !c.open:
			c.enter(k, []nav.Point{nav.Between(p, q, last)})
		case !in && c.open:
			if last > 0 {
				c.at.after = []nav.Point{nav.Between(p, q, last)}
			}
			c.leave()
		}
		last = part
	}
}
