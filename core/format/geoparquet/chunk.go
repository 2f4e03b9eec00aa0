package geoparquet

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"time"

	"github.com/parquet-go/parquet-go"

	"gyrolith/core/format/layer"
	"gyrolith/core/nav"
)

// chunk holds rows by columns until they are sorted and written.
type chunk struct {
	attributes []attribute
	geometry   []byte // of all rows, one behind the other
	ends       []int  // of each row's
	boxes      []layer.Bounds
	orders     []int64
}

// attribute is a column of attributes, any of which may be absent.
type attribute struct {
	layer.Column
	present []bool
	whole   []int64   // integers, days, microseconds, truth values, places of texts
	decimal []float64 // decimals
	texts   [][]byte  // each only where it differs from the one before
}

func newChunk(columns []layer.Column, rows int) *chunk {
	const point = 29 // bytes of a point with its height
	c := &chunk{attributes: make([]attribute, len(columns)), geometry: make([]byte, 0, point*rows), ends: make([]int, 0,
		rows),
		boxes: make([]layer.Bounds, 0, rows), orders: make([]int64, 0, rows)}
	for i := range columns {
		a := &c.attributes[i]
		a.Column, a.present = columns[i], make([]bool, 0, rows)
		if a.Type == layer.Decimal {
			a.decimal = make([]float64, 0, rows)
		} else {
			a.whole = make([]int64, 0, rows)
		}
	}
	return c
}

func (c *chunk) len() int { return len(c.ends) }

func (c *chunk) reset() {
	c.geometry, c.ends, c.boxes, c.orders = c.geometry[:0], c.ends[:0], c.boxes[:0], c.orders[:0]
	for i := range c.attributes {
		a := &c.attributes[i]
		a.present, a.whole, a.decimal, a.texts = a.present[:0], a.whole[:0], a.decimal[:0], a.texts[:0]
	}
}

// end ends a row whose attributes and geometry are there.
func (c *chunk) end(box *layer.Bounds, order int64) {
	c.ends = append(c.ends, len(c.geometry))
	c.boxes = append(c.boxes, *box)
	c.orders = append(c.orders, order)
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

// again adds the value before once more.
func (a *attribute) again() {
	n := len(a.present) - 1
	if a.Type == layer.Decimal {
		a.put(0, a.decimal[n], a.present[n])
	} else {
		a.put(a.whole[n], 0, a.present[n])
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

// gather gives the values of rows; column is the place of the attribute among the columns of the file.
func (a *attribute) gather(to []parquet.Value, rows []uint64, column int) []parquet.Value {
	for _, row := range rows {
		var v parquet.Value
		k := int(uint32(row))
		if !a.present[k] {
			to = append(to, v.Level(0, 0, column))
			continue
		}
		switch a.Type {
		case layer.Integer, layer.Time:
			v = parquet.Int64Value(a.whole[k])
		case layer.Decimal:
			v = parquet.DoubleValue(a.decimal[k])
		case layer.Boolean:
			v = parquet.BooleanValue(a.whole[k] != 0)
		case layer.Date:
			v = parquet.Int32Value(int32(a.whole[k]))
		default:
			v = parquet.ByteArrayValue(a.texts[a.whole[k]])
		}
		to = append(to, v.Level(0, 1, column))
	}
	return to
}

// write sorts the rows along the curve and writes them in groups.
func (c *chunk) write(file *assembly) error {
	all := layer.NewBounds()
	for i := range c.boxes {
		all.Join(&c.boxes[i])
	}
	place := layer.PlaceAlong(&all)
	sorted := make([]uint64, c.len())
	for i := range c.boxes {
		sorted[i] = uint64(place(&c.boxes[i]))<<32 | uint64(i)
	}
	slices.Sort(sorted)
	return file.add(slices.Collect(slices.Chunk(sorted, rowsInGroup)), c.encode)
}

// encode makes a row group of rows.
func (c *chunk) encode(p *part, rows []uint64) error {
	const batch = 1024
	for column, out := range p.file.ColumnWriters() {
		for some := range slices.Chunk(rows, batch) {
			if column < len(c.attributes) {
				p.values = c.attributes[column].gather(p.values[:0], some, column)
			} else {
				p.values = c.gather(p.values[:0], some, column-len(c.attributes))
			}
			if _, err := out.WriteRowValues(p.values); err != nil {
				return err
			}
		}
	}
	return nil
}

// gather gives the values of rows in the columns behind the attributes: the geometry, the sides of its box in the order
// of their names, and the order.
func (c *chunk) gather(to []parquet.Value, rows []uint64, which int) []parquet.Value {
	for _, row := range rows {
		k := int(uint32(row))
		var v parquet.Value
		switch box := &c.boxes[k]; which {
		case 0:
			begin := 0
			if k > 0 {
				begin = c.ends[k-1]
			}
			v = parquet.ByteArrayValue(c.geometry[begin:c.ends[k]])
		case 1:
			v = parquet.FloatValue(layer.Above(box.MaxX))
		case 2:
			v = parquet.FloatValue(layer.Below(box.MinX))
		case 3:
			v = parquet.FloatValue(layer.Above(box.MaxY))
		case 4:
			v = parquet.FloatValue(layer.Below(box.MinY))
		default:
			v = parquet.Int64Value(c.orders[k])
		}
		to = append(to, v)
	}
	return to
}
