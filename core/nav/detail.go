package nav

import (
	"cmp"
	"iter"
	"slices"
)

// Detail holds what points of a line have besides position, height and time.
type Detail struct {
	Values []Field // speed (m/s), course (degrees true) and sensor values, by their usual names
	Kept   []Kept
	Item   *Item // a name, description, symbol or link of that one point
	Exact  string
}

// Empty says whether nothing stands in it.
func (d *Detail) Empty() bool {
	return len(d.Values) == 0 && len(d.Kept) == 0 && d.Item == nil && d.Exact == ""
}

// Loose gives the point as it is outside of its segment, whose details it no longer refers to.
func (p Point) Loose() Point {
	p.detail = 0
	return p
}

// DetailIndex is the place of a point's detail among those of its segment; -1 is none.
func (p *Point) DetailIndex() int { return int(p.detail) - 1 }

// HasDetail says whether a point of this segment has a detail.
func (s *Segment) HasDetail(p *Point) bool { return p.detail > 0 && int(p.detail) <= s.details.len() }

// Detail finds what else a point of this segment has; nil if nothing. It is not to be changed: points may share it.
func (s *Segment) Detail(p *Point) *Detail {
	if !s.HasDetail(p) {
		return nil
	}
	return s.details.at(p.DetailIndex())
}

// Values appends the values of a point, which takes no memory where there is room for them.
func (s *Segment) Values(dst []Field, p *Point) []Field {
	if !s.HasDetail(p) {
		return dst
	}
	return s.details.values(p.DetailIndex(), dst)
}

// Item is what is said of a point like of a waypoint; nil is nothing.
func (s *Segment) Item(p *Point) *Item {
	if d := s.unformed(p); d != nil {
		return d.Item
	}
	return nil
}

// Says says whether a point has values, or an item of its own.
func (s *Segment) Says(p *Point) bool {
	if !s.HasDetail(p) {
		return false
	}
	d := s.unformed(p)
	return d == nil || len(d.Values) > 0 || d.Item != nil
}

// Exact is the position of a point where float64 can't repeat all of its digits, else "".
func (s *Segment) Exact(p *Point) string {
	if d := s.unformed(p); d != nil {
		return d.Exact
	}
	return ""
}

// unformed finds the detail of a point that is of no form.
func (s *Segment) unformed(p *Point) *Detail {
	if !s.HasDetail(p) {
		return nil
	}
	if r := s.details.rows.At(p.DetailIndex()); r.form == 0 {
		return &s.details.whole[r.at]
	}
	return nil
}

// Forms are those of the details.
func (s *Segment) Forms() []*Form {
	if s.details == nil {
		return nil
	}
	return s.details.forms
}

// HasForm says whether the detail of a point has a form.
func (s *Segment) HasForm(p *Point) bool { return s.HasDetail(p) && s.unformed(p) == nil }

// FormAt finds the form of a detail by its index, and appends its texts; nil is a detail without a form.
func (s *Segment) FormAt(dst []string, index int) (*Form, []string) {
	f, texts := s.details.formed(index)
	if f == nil {
		return nil, dst
	}
	return f, f.split(dst, texts)
}

// Attach gives a point of this segment a detail.
func (s *Segment) Attach(p *Point, d Detail) {
	if d.Empty() {
		p.detail = 0
		return
	}
	s.attach(p).add(d)
}

// AttachForm gives a point of this segment a detail of a form.
func (s *Segment) AttachForm(p *Point, f *Form, texts [][]byte) {
	if len(f.Values) == 0 && len(f.Kept) == 0 {
		p.detail = 0
		return
	}
	s.attach(p).addForm(f, texts)
}

// attach makes the detail that is added next that of a point.
func (s *Segment) attach(p *Point) *details {
	if s.details == nil {
		s.details = &details{}
	}
	p.detail = uint32(s.details.len() + 1)
	return s.details
}

// Share gives a point of this segment a detail that another has.
func (s *Segment) Share(p *Point, index int) { p.detail = uint32(index + 1) }

// Shares says whether points share details so often that it is worth to remember what was made of each.
func (s *Segment) Shares() bool { return s.Details() > 0 && 2*s.Details() <= len(s.Points) }

// Details counts the details, which points may share.
func (s *Segment) Details() int { return s.details.len() }

// DetailAt gives a detail by its index.
func (s *Segment) DetailAt(index int) *Detail { return s.details.at(index) }

// DropDetails takes all details away, and says how many points had any.
func (s *Segment) DropDetails() int {
	n := s.Detailed()
	s.details = nil
	return n
}

// Detailed counts the points that have a detail.
func (s *Segment) Detailed() (n int) {
	if s.details.len() == 0 {
		return 0
	}
	for i := range s.Points {
		if s.HasDetail(&s.Points[i]) {
			n++
		}
	}
	return n
}

// Waypoint is a point of this segment as it stands alone, with all that is said of it.
func (s *Segment) Waypoint(p *Point) Waypoint {
	out := Waypoint{Point: p.Loose()}
	if d := s.Detail(p); d != nil {
		if d.Item != nil {
			out.Item = *d.Item
		}
		out.Exact = d.Exact
		out.Fields = slices.Concat(out.Fields, d.Values)
		out.Kept = slices.Concat(out.Kept, d.Kept)
	}
	return out
}

// Waypoints are the points of this segment as a route has them.
func (s *Segment) Waypoints() []Waypoint {
	out := make([]Waypoint, len(s.Points))
	for i := range s.Points {
		out[i] = s.Waypoint(&s.Points[i])
	}
	return out
}

// Add adds a waypoint as a point, with all that is said of it but its group, which is that of the line.
func (s *Segment) Add(w *Waypoint) {
	p, d := w.Point, Detail{Values: w.Fields, Exact: w.Exact}
	it := w.Item
	it.Fields, it.Group, it.Titles = nil, "", nil
	if it.ID+it.Name+it.Desc+it.Comment+it.Source+it.Type+it.Number != "" || it.Style != (Style{}) || it.Whole != nil ||
		len(it.Links)+len(it.Kept) > 0 {
		d.Item = &it
	}
	s.Attach(&p, d)
	s.Points = append(s.Points, p)
}

// Order brings the points into the order of their numbers; those of one number stay as they are.
func (s *Segment) Order(numbers []float64) {
	if len(numbers) != len(s.Points) || slices.IsSorted(numbers) {
		return
	}
	at := make([]int, len(numbers))
	for i := range at {
		at[i] = i
	}
	slices.SortStableFunc(at, func(i, j int) int { return cmp.Compare(numbers[i], numbers[j]) })
	points := slices.Clone(s.Points)
	for i, from := range at {
		s.Points[i] = points[from]
	}
}

// Own makes the segment safe for adding points and details to it where others share its memory.
func (s *Segment) Own() { s.Points, s.details = clonePoints(s.Points), s.details.clone() }

// Samples visits, for points of this segment, one detail of each form and all others, and says how many of the points
// have it or one of its form: all keys, types and kept pieces that there are, but not all texts. They are in the order
// in which they first stand.
func (s *Segment) Samples(points []Point) iter.Seq2[*Detail, int] {
	return func(yield func(*Detail, int) bool) {
		if s.details.len() == 0 {
			return
		}
		type sample struct{ index, points int }
		var samples []sample
		forms, wholes := make([]int, len(s.details.forms)), map[uint32]int{}
		for i := range points {
			p := &points[i]
			if !s.HasDetail(p) {
				continue
			}
			r := s.details.rows.At(p.DetailIndex())
			at := 0
			if r.form > 0 {
				at = forms[r.form-1]
			} else {
				at = wholes[r.at]
			}
			if at == 0 {
				samples = append(samples, sample{index: p.DetailIndex()})
				at = len(samples)
				if r.form > 0 {
					forms[r.form-1] = at
				} else {
					wholes[r.at] = at
				}
			}
			samples[at-1].points++
		}
		for _, x := range samples {
			if !yield(s.details.at(x.index), x.points) {
				return
			}
		}
	}
}

// Carry takes points from one segment to another, with the details that they have. What points share there they share
// here.
type Carry struct {
	From, To *Segment
	known    map[uint32]uint32
}

// Point gives a point as it is to stand in the other segment.
func (c *Carry) Point(p Point) Point {
	if !c.From.HasDetail(&p) {
		return p.Loose()
	}
	shared := c.From.Shares()
	if at, ok := c.known[p.detail]; ok && shared {
		p.detail = at
		return p
	}
	from := p.detail
	c.To.attach(&p).copy(c.From.details, int(from)-1)
	if shared {
		if c.known == nil {
			c.known = map[uint32]uint32{}
		}
		c.known[from] = p.detail
	}
	return p
}

// Piece gives the points from one index up to another as a segment of its own, with the details that they have. It may
// share memory with the whole segment, which is not to be changed then.
func (s *Segment) Piece(from, to int) Segment {
	out := Segment{Points: s.Points[from:to:to], Kept: s.Kept}
	if s.details.len() == 0 {
		return out
	}
	carry, shared := Carry{From: s, To: &out}, true
	for i := from; i < to; i++ {
		if s.Points[i].detail == 0 {
			continue
		}
		if shared {
			out.Points, shared = slices.Clone(out.Points), false
		}
		out.Points[i-from] = carry.Point(s.Points[i])
	}
	return out
}

// Pick gives the points of some indices as a segment of its own, with the details that they have.
func (s *Segment) Pick(indices []int) Segment {
	out := Segment{Points: make([]Point, 0, len(indices)), Kept: s.Kept}
	carry := Carry{From: s, To: &out}
	for _, i := range indices {
		out.Points = append(out.Points, carry.Point(s.Points[i]))
	}
	return out
}
