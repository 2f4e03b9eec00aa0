package flatgeobuf

import (
	"encoding/binary"
	"fmt"
	"math"
	"strconv"
	"strings"

	"gyrolith/core/format/layer"
	"gyrolith/core/nav"
)

// columns are those of a file, or of a feature that has its own.
type columns struct {
	names   []string
	types   []byte
	titles  []string
	numbers []bool
	builder *layer.Builder
	ordered int   // the column of the order, which is the last; -1 is none
	order   int64 // of the feature that was read last
	values  []string
}

func columnsOf(t *table, slot int) *columns {
	c := &columns{ordered: -1}
	for _, column := range t.tables(slot) {
		name, typ := column.string(columnName), column.byte(columnType)
		c.names, c.types = append(c.names, name), append(c.types, typ)
		c.titles = append(c.titles, name)
		c.numbers = append(c.numbers, typ <= typeDouble)
	}
	return c
}

// takeOrder makes the last column the one of the order, if that is its name and it holds numbers.
func (c *columns) takeOrder(name string) {
	if i := len(c.names) - 1; i >= 0 && c.names[i] == name && c.types[i] == typeLong {
		c.ordered, c.titles, c.numbers = i, c.titles[:i], c.numbers[:i]
	}
}

// parse reads the values of a feature as texts; "" is absent.
func (c *columns) parse(b []byte, d *nav.Dataset, record int) ([]string, error) {
	if c.values == nil {
		c.values = make([]string, len(c.titles))
	}
	clear(c.values)
	for len(b) > 0 {
		i := int(binary.LittleEndian.Uint16(b))
		if i >= len(c.types) {
			return nil, errDamaged
		}
		b = b[2:]
		text, size := valueOf(b, c.types[i])
		b = b[size:]
		switch {
		case i == c.ordered:
			c.order, _ = strconv.ParseInt(text, 10, 64)
		case c.types[i] == typeBinary:
			d.Note(nav.ProblemLeftOut, fmt.Sprintf("binary data in the column %s were left out", c.names[i]), record, 0)
		default:
			c.values[i] = text
		}
	}
	return c.values, nil
}

// valueOf reads a value of a type and says how many bytes it takes. It panics where there are too few.
func valueOf(b []byte, typ byte) (string, int) {
	le := binary.LittleEndian
	switch typ {
	case typeByte:
		return strconv.Itoa(int(int8(b[0]))), 1
	case typeUByte:
		return strconv.Itoa(int(b[0])), 1
	case typeBool:
		return strconv.FormatBool(b[0] != 0), 1
	case typeShort:
		return strconv.Itoa(int(int16(le.Uint16(b)))), 2
	case typeUShort:
		return strconv.Itoa(int(le.Uint16(b))), 2
	case typeInt:
		return strconv.Itoa(int(int32(le.Uint32(b)))), 4
	case typeUInt:
		return strconv.FormatUint(uint64(le.Uint32(b)), 10), 4
	case typeLong:
		return strconv.FormatInt(int64(le.Uint64(b)), 10), 8
	case typeULong:
		return strconv.FormatUint(le.Uint64(b), 10), 8
	case typeFloat:
		return number(float64(math.Float32frombits(le.Uint32(b))), 32), 4
	case typeDouble:
		return number(float(b), 64), 8
	case typeString, typeJSON, typeDateTime, typeBinary:
		n := int(le.Uint32(b))
		return strings.ToValidUTF8(string(b[4:4+n]), "\uFFFD"), 4 + n
	}
	panic(errDamaged)
}

func number(v float64, bits int) string {
	if math.IsNaN(v) || math.IsInf(v, 0) {
		return ""
	}
	return strconv.FormatFloat(v, 'f', -1, bits)
}

// shape is what the geometry of a feature holds.
type shape struct {
	layer.Shape
	budget int // the geometries and positions that its bytes can hold
}

const mostNesting = 32

// add reads a geometry.
func (g *shape) add(t *table, typ byte, depth int) error {
	if g.budget--; depth > mostNesting || g.budget < 0 {
		return errDamaged
	}
	switch typ {
	case typePoint, typeMultiPoint:
		list, err := g.positions(t)
		for _, p := range list {
			if !math.IsNaN(p.X) || !math.IsNaN(p.Y) { // an empty point
				g.Points = append(g.Points, p)
			}
		}
		return err
	case typeLine, typeMultiLine:
		parts, err := g.parts(t)
		g.Lines = append(g.Lines, parts...)
		return err
	case typePolygon:
		rings, err := g.parts(t)
		if len(rings) > 0 {
			g.Polygons = append(g.Polygons, rings)
		}
		return err
	case typeMultiPolygon, typeCollection:
		for _, part := range t.tables(geometryParts) {
			of := part.byte(geometryType)
			if typ == typeMultiPolygon {
				of = typePolygon
			}
			if err := g.add(&part, of, depth+1); err != nil {
				return err
			}
		}
		return nil
	}
	g.Other = layer.Curve
	return nil
}

func (g *shape) positions(t *table) ([]layer.Position, error) {
	xy := t.vector(geometryXY, 8)
	var z []byte
	if g.HasZ {
		z = t.vector(geometryZ, 8)
	}
	m := t.vector(geometryM, 8)
	n := len(xy) / 16
	if len(m) < 8*n {
		m = nil
	}
	g.HasM = g.HasM || m != nil && n > 0
	if g.budget -= n; g.budget < 0 || len(xy)%16 != 0 || z != nil && len(z) < 8*n {
		return nil, errDamaged
	}
	out := make([]layer.Position, n)
	for i := range out {
		out[i] = layer.Position{X: float(xy[16*i:]), Y: float(xy[16*i+8:]), Z: math.NaN(), M: math.NaN()}
		if m != nil {
			out[i].M = float(m[8*i:])
		}
		if z != nil {
			out[i].Z = float(z[8*i:])
		}
	}
	return out, nil
}

// parts reads positions that ends divide.
func (g *shape) parts(t *table) (out [][]layer.Position, err error) {
	list, err := g.positions(t)
	if err != nil || len(list) == 0 {
		return nil, err
	}
	ends, begin := t.vector(geometryEnds, 4), 0
	for ; len(ends) > 0; ends = ends[4:] {
		end := int(binary.LittleEndian.Uint32(ends))
		if end < begin || end > len(list) {
			return nil, errDamaged
		}
		if end > begin {
			out = append(out, list[begin:end:end])
		}
		begin = end
	}
	if begin == 0 {
		out = [][]layer.Position{list}
	}
	return out, nil
}
