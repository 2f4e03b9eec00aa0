package shapefile

import (
	"bufio"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"

	"gyrolith/core/advice"
	"gyrolith/core/format"
	"gyrolith/core/format/layer"
	"gyrolith/core/geodesy/crs"
	"gyrolith/core/nav"
	"gyrolith/core/safefile"
)

// read reads a .shp with what lies beside it.
func read(s *format.Source, opt *format.ReadOptions) (*nav.Dataset, error) {
	if path := s.File(); path != "" {
		if err := safefile.CheckSet(path); err != nil {
			return nil, err
		}
	}
	in := bufio.NewReaderSize(s.Reader(), 64<<10)
	var head [headerSize]byte
	if _, err := io.ReadFull(in, head[:]); err != nil || binary.BigEndian.Uint32(head[:]) != fileCode {
		return nil, s.Fault("is not a shapefile")
	}
	d := &nav.Dataset{}
	system, err := systemBeside(s, opt, d, head[:])
	if err != nil {
		return nil, err
	}
	b, err := s.Beside(".dbf", opt.Unpacked())
	if err != nil {
		return nil, err
	}
	cpg, err := s.Beside(".cpg", 1<<10)
	if err != nil {
		return nil, err
	}
	table := &dbf{}
	if b == nil {
		d.Note(nav.ProblemPlaces, "has no .dbf beside it, which contains the names and fields: copy it too", 0, 0)
	} else if table, err = readDBF(b, cpg, d); err != nil {
		return nil, s.Fault("the .dbf beside it " + err.Error())
	}
	r := &reader{in: in, d: d, table: table, hasTable: b != nil, limit: opt.Unpacked(), box: layer.NewBounds()}
	titles, numbers := make([]string, len(table.columns)), make([]bool, len(table.columns))
	for i, c := range table.columns {
		titles[i] = c.name
		numbers[i] = c.kind == 'N' || c.kind == 'F' || c.kind == 'I' || c.kind == 'O' || c.kind == 'B' || c.kind == 'L'
		if c.kind == 'M' {
			d.Note(nav.ProblemLeftOut, fmt.Sprintf("the column %s keeps its texts in a memo file, which can't be read",
				c.name), 0, 0)
		}
	}
	if shape := binary.LittleEndian.Uint32(head[32:]) % withHeights; r.hasTable && shape > 0 {
		g := map[uint32]layer.Geometry{shapeLine: layer.Lines, shapePolygon: layer.Areas}[shape]
		d.Meta.Kept = append(d.Meta.Kept, table.keep(g))
	}
	r.builder = layer.NewBuilder(d, opt, system, titles, numbers)
	r.builder.Winding = layer.WithClock
	r.values = make([]string, len(titles))
	// The head counts 16-bit words; what lies behind them is not the file's.
	r.left = int64(binary.BigEndian.Uint32(head[24:]))*2 - headerSize
	err = r.records()
	if err == nil {
		r.contradictions(s, head[:])
	}
	r.builder.Finish()
	if fault, ok := errors.AsType[*cut](err); ok {
		return d, &format.Error{Path: s.Path, Msg: fault.why, Cut: true}
	}
	if err != nil {
		return nil, s.FaultOf(err)
	}
	return d, nil
}

// contradictions compares what the head, the index and the table say with what was read.
func (r *reader) contradictions(s *format.Source, head []byte) {
	if size := int64(binary.BigEndian.Uint32(head[24:])) * 2; s.Size >= 0 && s.Size != size {
		r.d.Contradict("its header says that it has %d bytes, and it has %d", size, s.Size)
	}
	if r.hasTable && r.table.records != r.count {
		r.d.Contradict("has %d shapes, and the .dbf beside it %d records", r.count, r.table.records)
	}
	if index, err := s.Beside(".shx", r.limit); err == nil && index != nil {
		if n := (len(index) - headerSize) / 8; n != r.count {
			r.d.Contradict("has %d shapes, and the .shx beside it lists %d", r.count, n)
		}
	}
	if r.box.Beyond(float(head[36:]), float(head[44:]), float(head[52:]), float(head[60:])) {
		r.d.Contradict("has coordinates outside of the box that its header gives")
	}
}

// systemBeside reads the .prj. Without one, coordinates are WGS 84 if they can be degrees.
func systemBeside(s *format.Source, opt *format.ReadOptions, d *nav.Dataset, head []byte) (*crs.System, error) {
	text, err := s.Beside(".prj", 1<<20)
	if err != nil {
		return nil, err
	}
	var own *crs.System
	if text != nil {
		own, err = crs.ParseWKT(string(text))
		switch {
		case opt.System != nil:
			own, err = nil, nil
		case errors.Is(err, crs.ErrNoShift):
			err = nil
			if opt.Shift == nil {
				return nil, s.FaultOf(advice.Errorf(advice.NameShiftIn,
					"the .prj beside it (%s) matches no known system and gives no datum shift from its datum (%s) to WGS 84",
					own.Name, own.Geographic.Datum))
			}
		case err != nil:
			return nil, s.FaultOf(advice.Errorf(advice.NameSystemIn, "the .prj beside it %v", err))
		}
	}
	system, err := layer.SystemOf(d, opt, own, "its .prj")
	if err != nil {
		return nil, s.FaultOf(err)
	}
	if system == nil {
		for i := range 4 {
			limit := 181.0
			if i%2 == 1 {
				limit = 91
			}
			if v := float(head[36+8*i:]); math.Abs(v) > limit {
				return nil, s.FaultOf(advice.Errorf(advice.NameSystemIn,
					"has no .prj beside it with its coordinate system, and its coordinates are not degrees"))
			}
		}
		if text == nil {
			d.Tell(nav.ProblemSystem, "has no .prj beside it; its degrees were read as WGS 84").Advise(advice.NameSystemIn)
		}
	}
	return system, nil
}

// cut is the end of a file that comes too early.
type cut struct{ why string }

func (c *cut) Error() string { return c.why }

type reader struct {
	in        *bufio.Reader
	d         *nav.Dataset
	table     *dbf
	hasTable  bool
	builder   *layer.Builder
	values    []string
	left      int64 // bytes of the file by its head
	count     int   // records that were read
	misplaced bool
	box       layer.Bounds // of what was read
	limit     int64
	buffer    []byte
}

func (r *reader) records() error {
	for n := 0; r.left >= 8; n++ {
		var head [8]byte
		if _, err := io.ReadFull(r.in, head[:]); err != nil {
			return &cut{fmt.Sprintf("ends after %d records, but its header says there are more: it is incomplete", n)}
		}
		size := int64(binary.BigEndian.Uint32(head[4:])) * 2
		if r.left -= 8; size > r.left || size > r.limit {
			return &cut{fmt.Sprintf("has a record %d that is longer than the file", n+1)}
		}
		if int64(cap(r.buffer)) < size {
			// No more room than there are bytes: a length may be anything.
			part, err := io.ReadAll(io.LimitReader(r.in, size))
			if err != nil || int64(len(part)) < size {
				return &cut{fmt.Sprintf("ends inside record %d: it is incomplete", n+1)}
			}
			r.buffer = part
		} else if _, err := io.ReadFull(r.in, r.buffer[:size]); err != nil {
			return &cut{fmt.Sprintf("ends inside record %d: it is incomplete", n+1)}
		}
		r.left -= size
		if r.count++; int(binary.BigEndian.Uint32(head[:])) != r.count && !r.misplaced {
			r.misplaced = true
			r.d.Contradict("the record %d is numbered %d", r.count, binary.BigEndian.Uint32(head[:]))
		}
		clear(r.values)
		if r.hasTable {
			deleted, ok := r.table.record(n, r.values)
			if !ok {
				return &cut{fmt.Sprintf("has more shapes than the .dbf beside it has records (%d): they don't belong together, or "+
					"the .dbf is incomplete", n)}
			}
			if deleted {
				r.d.Note(nav.ProblemLeftOut, "a record marked as deleted was left out", n+1, 0)
				continue
			}
		}
		if err := r.shape(r.buffer[:size], n+1); err != nil {
			return err
		}
	}
	return nil
}

// shape reads the content of a record.
func (r *reader) shape(b []byte, record int) error {
	bad := fmt.Errorf("has a record %d that is not a shape", record)
	if len(b) < 4 {
		return bad
	}
	shape := binary.LittleEndian.Uint32(b)
	kind, hasZ := shape, false
	switch {
	case shape > withMeasures && shape < withMeasures+10:
		kind -= withMeasures
	case shape > withHeights && shape < withHeights+10:
		kind, hasZ = kind-withHeights, true
	}
	r.builder.HasZ, r.builder.HasM = hasZ, shape > withMeasures && shape != shapeMultiPatch || hasZ
	b = b[4:]
	if far := 16; len(b) >= 32 || kind == shapePoint && len(b) >= 16 {
		if kind == shapePoint {
			far = 0
		}
		r.box.Join(&layer.Bounds{MinX: float(b), MinY: float(b[8:]), MaxX: float(b[far:]), MaxY: float(b[far+8:])})
	}
	defer func() { r.builder.HasM = false }()
	switch kind {
	case shapeNull:
		r.builder.Nothing(nav.Waypoints, r.values, record)
		return nil
	case shapePoint:
		if len(b) < 16 || hasZ && len(b) < 24 {
			return bad
		}
		p := layer.Position{X: float(b), Y: float(b[8:]), Z: math.NaN(), M: math.NaN()}
		at := 16
		if hasZ {
			p.Z = float(b[16:])
			at += 8
		}
		if r.builder.HasM && len(b) >= at+8 {
			p.M = measureOf(float(b[at:]))
		}
		r.builder.HasM = r.builder.HasM && says(shape, []layer.Position{p})
		r.builder.Points([]layer.Position{p}, r.values, record)
		return nil
	case shapeMultiPoint:
		if len(b) < 36 {
			return bad
		}
		points, _, ok := positions(b[36:], int64(binary.LittleEndian.Uint32(b[32:])), hasZ)
		if !ok {
			return bad
		}
		r.builder.HasM = r.builder.HasM && says(shape, points)
		r.builder.Points(points, r.values, record)
		return nil
	case shapeLine, shapePolygon:
	default:
		r.d.Note(nav.ProblemLeftOut,
			fmt.Sprintf("a shape of the type %d, which is not a point, line or area, was left out", shape), record, 0)
		return nil
	}
	parts, ok := shapeParts(b, hasZ)
	r.builder.HasM = r.builder.HasM && says(shape, slices.Concat(parts...))
	switch {
	case !ok:
		return bad
	case len(parts) == 0:
		r.builder.Nothing(map[bool]nav.Kind{true: nav.Areas, false: nav.Tracks}[kind == shapePolygon], r.values, record)
	case kind == shapeLine:
		r.builder.Line(parts, r.values, record)
	default:
		r.builder.Area(polygons(parts), r.values, record)
	}
	return nil
}

// shapeParts reads the parts of a line or polygon behind its type, without empty ones.
func shapeParts(b []byte, hasZ bool) (parts [][]layer.Position, ok bool) {
	if len(b) < 40 {
		return nil, false
	}
	count, total := int64(binary.LittleEndian.Uint32(b[32:])), int64(binary.LittleEndian.Uint32(b[36:]))
	if b = b[40:]; int64(len(b)) < 4*count {
		return nil, false
	}
	starts := b[:4*count]
	points, _, ok := positions(b[4*count:], total, hasZ)
	if !ok {
		return nil, false
	}
	for i := range count {
		from, to := int64(binary.LittleEndian.Uint32(starts[4*i:])), total
		if i+1 < count {
			to = int64(binary.LittleEndian.Uint32(starts[4*i+4:]))
		}
		if from > to || to > total {
			return nil, false
		}
		if to > from {
			parts = append(parts, points[from:to])
		}
	}
	return parts, true
}

// positions reads pairs of coordinates, and the heights and measures behind them.
func positions(b []byte, n int64, hasZ bool) (out []layer.Position, rest []byte, ok bool) {
	if n > int64(len(b))/16 {
		return nil, nil, false
	}
	out = make([]layer.Position, n)
	for i := range out {
		out[i] = layer.Position{X: float(b[16*i:]), Y: float(b[16*i+8:]), Z: math.NaN(), M: math.NaN()}
	}
	b = b[16*n:]
	if hasZ {
		if int64(len(b)) < 16+8*n {
			return nil, nil, false
		}
		for i := range out {
			out[i].Z = float(b[16+8*i:])
		}
		b = b[16+8*n:]
	}
	if int64(len(b)) >= 16+8*n { // measures, which may stand behind any shape
		for i := range out {
			out[i].M = measureOf(float(b[16+8*i:]))
		}
	}
	return out, b, true
}

// says says whether the measures of a shape say something: in one with heights all may be zero, where nobody meant any.
func says(shape uint32, points []layer.Position) bool {
	return slices.ContainsFunc(points, func(p layer.Position) bool {
		return !math.IsNaN(p.M) && (p.M != 0 || shape > withMeasures)
	})
}

// measureOf is a measure; one below -10³⁸ is none.
func measureOf(m float64) float64 {
	if m < -1e38 {
		return math.NaN()
	}
	return m
}

// polygons puts the rings of a shape together: those that go clockwise are outlines, the others holes of the smallest
// outline around them. Where none goes clockwise, one that lies in another is its hole.
func polygons(rings [][]layer.Position) [][][]layer.Position {
	var outer, inner []int
	for i := range rings {
		if layer.SignedArea(rings[i]) < 0 {
			outer = append(outer, i)
		} else {
			inner = append(inner, i)
		}
	}
	if len(outer) == 0 {
		for _, i := range inner {
			if smallestAround(rings, inner, i) < 0 {
				outer = append(outer, i)
			}
		}
		keep := inner[:0]
		for _, i := range inner {
			if smallestAround(rings, outer, i) >= 0 {
				keep = append(keep, i)
			}
		}
		inner = keep
	}
	out := make([][][]layer.Position, len(outer))
	index := map[int]int{}
	for k, i := range outer {
		out[k], index[i] = [][]layer.Position{rings[i]}, k
	}
	for _, i := range inner {
		if around := smallestAround(rings, outer, i); around >= 0 {
			out[index[around]] = append(out[index[around]], rings[i])
		} else { // a hole in nothing is an outline that turns the wrong way
			out = append(out, [][]layer.Position{rings[i]})
		}
	}
	return out
}

// smallestAround finds the smallest of some rings that has the first position of another in it; -1 if none has.
func smallestAround(rings [][]layer.Position, among []int, i int) int {
	best := -1
	for _, k := range among {
		if k != i && inside(rings[i][0], rings[k]) &&
			(best < 0 || math.Abs(layer.SignedArea(rings[k])) < math.Abs(layer.SignedArea(rings[best]))) {
			best = k
		}
	}
	return best
}

// inside counts the edges of a ring that a ray to the east crosses.
func inside(p layer.Position, ring []layer.Position) (in bool) {
	for i := range ring {
		a, b := ring[i], ring[(i+1)%len(ring)]
		if (a.Y > p.Y) != (b.Y > p.Y) && p.X < a.X+(p.Y-a.Y)/(b.Y-a.Y)*(b.X-a.X) {
			in = !in
		}
	}
	return
}
