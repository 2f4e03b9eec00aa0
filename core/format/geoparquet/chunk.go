package geoparquet

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"time"

	"gyrolith/core/format/layer"
	"gyrolith/core/format/wkb"
	"gyrolith/core/nav"
)

// chunk holds rows by columns until they are sorted and written.
type chunk struct {
	attributes []attribute
	geometry   []byte       // of all rows, one behind the other
	ends       []int        // of each row's
	sides      [4][]float32 // of the boxes, in the order of their names: xmax, xmin, ymax, ymin
	orders     []int64
	all        layer.Bounds
	types      map[string]bool // of geometries
	flat       bool            // the last point had no height

	spans     []span // rows that are still to be made
	left      int    // how many
	positions int    // and positions
	rows      []uint64
	encoder   encoder
	group     *rowGroup     // of the rows where they are one group
	ready     chan struct{} // closed when the rows are made and sorted along the curve, and one group is encoded
	fault     error
}

// span is what becomes rows where there is a processor for it: track points, or a feature.
type span struct {
	run      *layer.Run
	from, to int

	feature *layer.Feature
	kind    uint32

	order int64 // of the first
}

// leave notes what becomes rows later.
func (c *chunk) leave(s span, rows, positions int) {
	c.spans = append(c.spans, s)
	c.left += rows
	c.positions += positions
}

// begin makes a chunk ready for rows of columns.
func (c *chunk) begin(columns []layer.Column, rows int) {
	if c.attributes == nil {
		c.attributes = make([]attribute, len(columns))
		for i := range columns {
			c.attributes[i].Column = columns[i]
		}
	}
	for i := range c.attributes {
		a := &c.attributes[i]
		a.present, a.texts = slices.Grow(a.present[:0], rows), a.texts[:0]
		if a.Type == layer.Decimal {
			a.decimal = slices.Grow(a.decimal[:0], rows)
		} else {
			a.whole = slices.Grow(a.whole[:0], rows)
		}
	}
	for i := range c.sides {
		c.sides[i] = slices.Grow(c.sides[i][:0], rows)
	}
	const point = 29 // bytes of a point with its height
	c.geometry, c.ends = slices.Grow(c.geometry[:0], point*rows), slices.Grow(c.ends[:0], rows)
	c.orders, c.rows = slices.Grow(c.orders[:0], rows), c.rows[:0]
	c.all, c.types = layer.NewBounds(), map[string]bool{}
	c.spans, c.left, c.positions = c.spans[:0], 0, 0
	c.group, c.ready, c.fault = nil, make(chan struct{}), nil
}

// position is the bytes of a position with its height.
const position = 24

// size is about how many bytes of geometry there are, made or not.
func (c *chunk) size() int { return len(c.geometry) + position*c.positions }

// len is how many rows there are, made or not.
func (c *chunk) len() int { return len(c.ends) + c.left }

// end ends a row whose attributes and geometry are there.
func (c *chunk) end(box *layer.Bounds, order int64) {
	c.ends = append(c.ends, len(c.geometry))
	c.all.Join(box)
	for i, v := range [...]float32{layer.Above(box.MaxX), layer.Below(box.MinX), layer.Above(box.MaxY),
		layer.Below(box.MinY)} {
		c.sides[i] = append(c.sides[i], v)
	}
	c.orders = append(c.orders, order)
}

// seen notes a type of geometries.
func (c *chunk) seen(kind uint32, hasZ bool) {
	name := geometryNames[kind]
	if hasZ {
		name += " Z"
	}
	c.types[name] = true
}

// sort makes the rows that are still to be made, and sorts all along the curve.
func (c *chunk) sort() error {
	c.geometry = slices.Grow(c.geometry, position*c.positions+5*c.left)
	for i := range c.spans {
		rows := c.points
		if c.spans[i].feature != nil {
			rows = c.feature
		}
		if err := rows(&c.spans[i]); err != nil {
			return err
		}
	}
	clear(c.spans)
	c.rows = layer.Along(c.rows, len(c.ends), &c.all, func(i int) layer.Bounds {
		return layer.Bounds{MaxX: float64(c.sides[0][i]), MinX: float64(c.sides[1][i]), MaxY: float64(c.sides[2][i]),
			MinY: float64(c.sides[3][i])}
	})
	return nil
}

// feature makes the row of a feature.
func (c *chunk) feature(s *span) error {
	f := s.feature
	c.seen(s.kind, f.HasZ())
	for i, v := range f.Values {
		if err := c.attributes[i].text(v); err != nil {
			return err
		}
	}
	c.geometry = wkb.Append(c.geometry, f, s.kind)
	box := layer.NewBounds()
	box.AddAll(f.Parts)
	c.end(&box, s.order)
	return nil
}

// points makes rows of track points. Those out of the system's reach have none.
func (c *chunk) points(s *span) error {
	for from := s.from; from < s.to; from++ {
		to := from
		for ; to < s.to; to++ {
			at, ok := s.run.Position(to)
			if !ok {
				break
			}
			c.geometry = wkb.AppendPoint(c.geometry, at)
			box := layer.NewBounds()
			box.Add(at)
			c.end(&box, s.order+int64(to-s.from))
			if to == from || (box.MinZ > box.MaxZ) != c.flat {
				c.flat = box.MinZ > box.MaxZ
				c.seen(wkb.Point, !c.flat)
			}
		}
		if err := c.values(s.run, from, to); err != nil {
			return err
		}
		from = to
	}
	return nil
}

// values fills the attributes of points of a run, a column after the other.
func (c *chunk) values(r *layer.Run, from, to int) error {
	if from == to {
		return nil
	}
	moment, height := r.Column(layer.Moment), r.Column(layer.Height)
	speed, course := r.Column(layer.Speed), r.Column(layer.Course)
	var fields []int // columns
	for i := range c.attributes {
		a := &c.attributes[i]
		switch i {
		case moment:
			for k := from; k < to; k++ {
				if err := a.moment(r.Point(k)); err != nil {
					return err
				}
			}
		case height:
			for k := from; k < to; k++ {
				if err := a.number(r.Height(k)); err != nil {
					return err
				}
			}
		case speed, course: // both below
		default:
			if a.Field {
				fields = append(fields, i)
				continue
			}
			if err := a.text(r.Values[i]); err != nil {
				return err
			}
			a.again(to - from - 1)
		}
	}
	if speed < 0 && course < 0 && len(fields) == 0 {
		return nil
	}
	reader := r.Fields()
	given := make([]*nav.Field, len(c.attributes)) // of a point, by column
	for k := from; k < to; k++ {
		columns, own := reader.Of(k)
		for i, at := range columns {
			given[at] = &own[i]
		}
		v, direction := r.Motion(k)
		err := errors.Join(c.worked(speed, v, given), c.worked(course, direction, given))
		for _, at := range fields {
			text := ""
			if f := given[at]; f != nil {
				text = layer.InColumn(f)
			}
			if err == nil {
				err = c.attributes[at].text(text)
			}
		}
		if err != nil {
			return err
		}
		for _, at := range columns {
			given[at] = nil
		}
	}
	return nil
}

// worked adds a value that was worked out, unless the point has a field in that column.
func (c *chunk) worked(at int, v float64, given []*nav.Field) error {
	switch {
	case at < 0:
		return nil
	case given[at] != nil:
		return c.attributes[at].text(layer.InColumn(given[at]))
	}
	return c.attributes[at].number(v)
}

// shape is the geometry of a row.
func (c *chunk) shape(i int) []byte {
	begin := 0
	if i > 0 {
		begin = c.ends[i-1]
	}
	return c.geometry[begin:c.ends[i]]
}

// attribute is a column of attributes, any of which may be absent.
type attribute struct {
	layer.Column
	present []bool
	whole   []int64   // integers, days, microseconds, truth values, places of texts
	decimal []float64 // decimals
	texts   [][]byte  // each only where it differs from the one before
}

// put adds a value, as its type has it.
func (a *attribute) put(whole int64, decimal float64, ok bool) {
	a.present = append(a.present, ok)
	if a.Type == layer.Decimal {
		a.decimal = append(a.decimal, decimal)
	} else {
		a.whole = append(a.whole, whole)
	}
}

// text adds a value of which there is the text.
func (a *attribute) text(text string) error {
	if text == "" {
		a.put(0, 0, false)
		return nil
	}
	var whole int64
	var decimal float64
	var at time.Time
	var err error
	switch a.Type {
	case layer.Integer:
		whole, err = strconv.ParseInt(text, 10, 64)
	case layer.Decimal:
		decimal, err = strconv.ParseFloat(text, 64)
	case layer.Boolean:
		if text == "true" {
			whole = 1
		}
	case layer.Date:
		at, err = time.Parse(time.DateOnly, text)
		whole = int64(math.Floor(float64(at.Unix()) / 86400))
	case layer.Time:
		at, err = time.Parse(time.RFC3339Nano, text)
		whole = at.UnixMicro()
	default:
		if n := len(a.texts); n == 0 || string(a.texts[n-1]) != text {
			a.texts = append(a.texts, []byte(text))
		}
		whole = int64(len(a.texts) - 1)
	}
	if err != nil {
		return fmt.Errorf("the value %q in column %s doesn't fit the column's type", text, a.Name)
	}
	a.put(whole, decimal, true)
	return nil
}

// again adds the value before so many times more.
func (a *attribute) again(times int) {
	n := len(a.present) - 1
	for range times {
		if a.Type == layer.Decimal {
			a.put(0, a.decimal[n], a.present[n])
		} else {
			a.put(a.whole[n], 0, a.present[n])
		}
	}
}

// number adds a value that was worked out; NaN is absent.
func (a *attribute) number(v float64) error {
	switch {
	case math.IsNaN(v):
		a.put(0, 0, false)
	case a.Type == layer.Decimal:
		a.put(0, v, true)
	default: // another kind of features has texts in this column
		return a.text(strconv.FormatFloat(v, 'f', -1, 64))
	}
	return nil
}

// moment adds the time of a point.
func (a *attribute) moment(p *nav.Point) error {
	if a.Type != layer.Time || !p.HasTime() {
		return a.text(string(p.AppendTime(nil)))
	}
	a.put(time.Unix(0, p.UnixNano()).UnixMicro(), 0, true)
	return nil
}
